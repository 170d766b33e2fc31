using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Whose account an invitation opens.</summary>
public sealed record InvitationView(string Organisation, string Name, string Mail);

public sealed record ChosenPassword(string Password);

/// <summary>
/// Accounts are opened by their persons: a link goes to their address, and they choose the password. Nobody else knows it,
/// not even for a moment.
/// </summary>
public static class Invitations
{
    private static readonly Duration Lasts = Duration.FromDays(7);

    public static void MapInvitations(this IEndpointRouteBuilder api)
    {
        api.MapPost("/people/{id:long}/invitation", Reset).RequiresInSession(Right.ManagePeople);
        api.MapGet("/invitations/{token}", Show).OpenToAll();
        api.MapPost("/invitations/{token}", Accept).OpenToAll().LimitsAttempts();
    }

    /// <summary>Sends a person the link by which they choose a password; links before it end.</summary>
    /// <returns>The link's path where it could not be sent and has to be handed over; else null.</returns>
    internal static async Task<string?> SendAsync(
        WriteSession session,
        Person person,
        bool isNew,
        CancellationToken cancel
    )
    {
        await PersonLinks.EndAsync(session, LinkKind.Invitation, person.Id, cancel);
        var secret = PersonLinks.Issue(session, (LinkKind.Invitation, person.Id), person.Email!, Lasts);
        var isSent = false;
        foreach (var news in session.Services.GetServices<IAccountNews>())
        {
            isSent |= await news.OnInvitedAsync(session, person, secret, isNew, cancel);
        }

        if (isSent)
        {
            return null;
        }

        session
            .Db.PersonLinks.Local.Single(l => l.Kind == LinkKind.Invitation && l.SubjectId == person.Id && l.Id == 0)
            .WasMailed = false;
        return $"/invitation/{secret}";
    }

    /// <summary>
    /// Ends what was begun with the former password (sessions, keys and the address of the calendar) and lets its person
    /// choose another.
    /// </summary>
    private static async Task<Reply<InvitedPerson>> Reset(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<InvitedPerson>(
            context.Caller.Actor,
            async session =>
            {
                if (id == context.Caller.PersonId)
                {
                    return Refusal.Forbidden(
                        "password-own",
                        null,
                        "Change your own password on your profile, with the current one."
                    );
                }

                var person = await session
                    .Db.Users.Include(p => p.Remits)
                        .ThenInclude(r => r.Unit)
                    .SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
                return person is null ? Problems.NotFound("person")
                    : !person.Active
                        ? Refusal.Conflict("person-off", null, "This account is turned off. Turn it on first.")
                    : await ResetAsync(session, person, context);
            },
            context.Cancel
        );

    private static async Task<Outcome<InvitedPerson>> ResetAsync(
        WriteSession session,
        Person person,
        ApiContext context
    )
    {
        var (id, cancel) = (person.Id, context.Cancel);
        var people = session.Services.GetRequiredService<UserManager<Person>>();
        await SessionEndpoints.EndAsync(session, s => s.PersonId == id, cancel);
        var keys = await session
            .Db.ApiKeys.Where(k => k.PersonId == id && k.RevokedAt == null)
            .ExecuteUpdateAsync(set => set.SetProperty(k => k.RevokedAt, session.Now), cancel);
        (person.CalendarKey, person.PasswordHash, person.PasswordSetById) = (null, null, context.Caller.PersonId);
        person.Version++;
        await people.UpdateSecurityStampAsync(person);
        session.Record(
            "password-reset",
            SessionEndpoints.Subject(id),
            after: new JsonObject { ["name"] = person.DisplayName, ["keysRevoked"] = keys }
        );
        foreach (var news in session.Services.GetServices<IAccountNews>())
        {
            await news.OnPasswordResetAsync(session, person, cancel);
        }

        var link = await SendAsync(session, person, isNew: false, cancel);
        var withCodes = await OneTimeCodes.ConfirmedAsync(session.Db, id, cancel) is not null;
        return new InvitedPerson(PeopleEndpoints.View(person, withCodes), link);
    }

    private static async Task<Reply<InvitationView>> Show(
        string token,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await FindAsync(token, links, context.Db, context.Cancel) is var (_, person)
            ? new InvitationView(
                await context.Db.Organisations.Select(o => o.Name).SingleAsync(context.Cancel),
                person.DisplayName,
                person.Email!
            )
            : NotThere;

    private static Refusal NotThere { get; } =
        Refusal.NotFound(
            "invitation-ended",
            null,
            "This link has expired or was used. Ask an administrator for another one."
        );

    private static async Task<Reply<Done>> Accept(
        string token,
        ChosenPassword request,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await FindAsync(token, links, session.Db, context.Cancel) is not var (link, person))
                {
                    return NotThere;
                }

                var people = session.Services.GetRequiredService<UserManager<Person>>();
                var chosen = await people.AddPasswordAsync(person, request.Password ?? "");
                if (!chosen.Succeeded)
                {
                    return PeopleEndpoints.Weak(chosen);
                }

                if (link.WasMailed)
                {
                    person.PasswordSetById = null;
                }

                await PersonLinks.EndAsync(session, LinkKind.Invitation, person.Id, context.Cancel);
                session.Actor = new(person.DisplayName, null, context.Caller.Address, person.Id) { Via = "invitation" };
                session.Record("password-chosen", SessionEndpoints.Subject(person.Id));
                return new Done();
            },
            context.Cancel
        );

    private static async Task<(PersonLink Link, Person Person)?> FindAsync(
        string token,
        PersonLinks links,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await links.FindAsync(db, token, cancel) is { Kind: LinkKind.Invitation } link
        && await db.Users.SingleOrDefaultAsync(p => p.Id == link.SubjectId && p.Active, cancel) is { } person
            ? (link, person)
            : null;
}
