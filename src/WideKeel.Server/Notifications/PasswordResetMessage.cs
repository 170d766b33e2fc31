using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <summary>Tells a person by mail that somebody else set their password.</summary>
internal sealed class PasswordResetMessage : IPasswordResetNews
{
    public Task TellAsync(WriteSession session, Person person, CancellationToken cancel)
    {
        Outbox.Add(
            session,
            person,
            new(
                "password-reset",
                "Your password was reset",
                $"{session.Actor.Who} set a new password for your account. "
                    + "You are signed out everywhere; your keys and the address of your calendar no longer work. "
                    + "If you did not ask for this, speak to another administrator.",
                "your password is the way into your account"
            ),
            "/"
        );
        return Task.CompletedTask;
    }
}
