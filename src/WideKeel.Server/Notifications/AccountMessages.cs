using Microsoft.EntityFrameworkCore;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Notifications;

/// <summary>Notifies a person by mail of what was done to the way into their account.</summary>
internal sealed class AccountMessages : IAccountNews
{
    private const string NotYou = "If this was not you, change your password now and speak to an administrator.";

    public async Task<bool> OnInvitedAsync(
        WriteSession session,
        Person person,
        string secret,
        bool isNew,
        CancellationToken cancel
    )
    {
        var organisation = await session.Db.Organisations.AsNoTracking().SingleOrDefaultAsync(cancel);
        if (organisation is null || !session.Services.GetRequiredService<MailRoom>().CanSend(organisation))
        {
            return false;
        }

        Outbox.Send(
            session,
            new DirectoryPerson { Name = person.DisplayName, Mail = person.Email! },
            null,
            isNew
                ? new(
                    "invitation",
                    $"Your account at Wide Keel, {organisation.Name}",
                    $"{session.Actor.Who} made an account for you. Choose a password within 7 days; nobody else knows it.",
                    "an account was made for your address"
                )
                : new(
                    "password-reset",
                    "Your password was reset",
                    $"{session.Actor.Who} reset your password. You are signed out everywhere; your keys and the address of "
                        + "your calendar no longer work. Choose another password within 7 days. "
                        + "If you did not ask for this, speak to another administrator.",
                    "your password is the way into your account"
                ),
            "/invitation/{secret}",
            secret
        );
        return true;
    }

    public Task OnLinkCodeAsync(WriteSession session, PersonLink link, string code, CancellationToken cancel)
    {
        Outbox.Send(
            session,
            new DirectoryPerson { Name = link.Mail, Mail = link.Mail },
            null,
            new(
                "link-code",
                "Your code for Wide Keel",
                "Your code is {secret}. It is valid for 15 minutes. If you did not ask for it, somebody else has your link: "
                    + "ignore this message and report it.",
                "a decision in your name asks for it"
            ),
            "/",
            code
        );
        return Task.CompletedTask;
    }

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
