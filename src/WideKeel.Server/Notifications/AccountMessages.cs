using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <summary>Notifies a person by mail of what was done to the way into their account.</summary>
internal sealed class AccountMessages : IAccountNews
{
    private const string NotYou = "If this was not you, change your password now and speak to an administrator.";

    public Task OnPasswordResetAsync(WriteSession session, Person person, CancellationToken cancel) =>
        Send(
            session,
            person,
            "password-reset",
            "Your password was reset",
            $"{session.Actor.Who} set a new password for your account. "
                + "You are signed out everywhere; your keys and the address of your calendar no longer work. "
                + "If you did not ask for this, speak to another administrator."
        );

    public Task OnCodesTurnedOffAsync(WriteSession session, Person person, CancellationToken cancel) =>
        Send(
            session,
            person,
            "one-time-codes-off",
            "Your one-time codes were turned off",
            $"{session.Actor.Who} turned the one-time codes of your account off. "
                + $"From now on your password alone signs you in. {NotYou}"
        );

    public Task OnRecoveryCodeUsedAsync(WriteSession session, Person person, int left, CancellationToken cancel) =>
        Send(
            session,
            person,
            "recovery-code-used",
            "A recovery code signed you in",
            "Somebody signed in to your account with your password and a recovery code. "
                + $"{(left == 1 ? "1 recovery code is" : $"{left} recovery codes are")} left. {NotYou}"
        );

    private static Task Send(WriteSession session, Person person, string kind, string subject, string body)
    {
        Outbox.Add(session, person, new(kind, subject, body, "your password is the way into your account"), "/profile");
        return Task.CompletedTask;
    }
}
