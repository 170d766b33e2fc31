using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

public sealed record UnitView(long Id, long? ParentId, string Name, int Depth);

/// <param name="Invited">An invitation waits for its person: they have no password.</param>
/// <param name="OneTimeCodes">A sign-in asks for a one-time code.</param>
public sealed record PersonView(
    long Id,
    string Name,
    string Mail,
    bool Active,
    IReadOnlyList<RemitView> Remits,
    bool Invited,
    bool OneTimeCodes,
    long Revision
) : IRevised;

/// <param name="Link">Where the product sends no mail: the link to hand over. Who sees it is no second person beside them.</param>
public sealed record InvitedPerson(PersonView Person, string? Link);

public sealed record RemitRequest(Role Role, long UnitId);

public sealed record NewPerson(string Name, string Mail, RemitRequest[] Remits);

public sealed record PersonChange(string Name, bool Active, RemitRequest[] Remits);

public sealed record NewUnit(string Name, long ParentId);

public sealed record ApiKeyView(
    long Id,
    string Name,
    string Prefix,
    string Person,
    IReadOnlyList<Right> Scopes,
    Instant CreatedAt,
    Instant ExpiresAt,
    Instant? RevokedAt
);

/// <param name="Days">Until it expires, 1 to 365.</param>
public sealed record NewApiKey(string Name, Right[] Scopes, int Days);

/// <param name="Key">Shown this once; only its hash is kept.</param>
public sealed record IssuedApiKey(string Key, ApiKeyView View);

/// <summary>Hears, within the change, what weakens an account or lets somebody else in.</summary>
public interface IAccountNews : IContribution
{
    /// <summary>The person is to choose a password by a link.</summary>
    /// <param name="secret">Of the link; for the message to its person only.</param>
    /// <param name="isNew">The account is new; else its password was reset.</param>
    /// <returns>Whether the link is on its way to the person.</returns>
    Task<bool> OnInvitedAsync(
        WriteSession session,
        Person person,
        string secret,
        bool isNew,
        CancellationToken cancel
    ) => Task.FromResult(false);

    /// <summary>Somebody else ended the person's password; whoever has their link chooses the next one.</summary>
    Task OnPasswordResetAsync(WriteSession session, Person person, CancellationToken cancel) => Task.CompletedTask;

    /// <summary>Somebody who holds a link asks for the code that proves that it is theirs.</summary>
    Task OnLinkCodeAsync(WriteSession session, PersonLink link, string code, CancellationToken cancel) =>
        Task.CompletedTask;

    /// <summary>The password alone opens the account again, whoever turned the codes off.</summary>
    Task OnCodesTurnedOffAsync(WriteSession session, Person person, CancellationToken cancel) => Task.CompletedTask;

    /// <summary>A recovery code let somebody in.</summary>
    /// <param name="left">How many recovery codes the person has yet.</param>
    Task OnRecoveryCodeUsedAsync(WriteSession session, Person person, int left, CancellationToken cancel) =>
        Task.CompletedTask;
}

public static class PeopleEndpoints
{
    public static void MapPeople(this IEndpointRouteBuilder api)
    {
        api.MapGet("/units", Units).RequiresSignIn();
        api.MapPost("/units", AddUnit).RequiresInSession(Right.ManagePeople);
        api.MapGet("/people", List).Requires(Right.ManagePeople);
        api.MapPost("/people", Add).RequiresInSession(Right.ManagePeople);
        api.MapPut("/people/{id:long}", Change).RequiresInSession(Right.ManagePeople);
        api.MapGet("/api-keys", Keys).RequiresSignIn();
        api.MapPost("/api-keys", AddKey).RequiresSession();
        api.MapDelete("/api-keys/{id:long}", RevokeKey).RequiresSession();
    }

    /// <summary>The units that the caller may know of: those of the remits and what lies above them.</summary>
    private static async Task<Reply<IReadOnlyList<UnitView>>> Units(Caller caller, WideKeelDb db)
    {
        var units = await db.Units.AsNoTracking().ToListAsync();
        var reach = caller.Remits.Select(r => r.Unit).ToList();
        return (Outcome<IReadOnlyList<UnitView>>)
            units
                .Where(u => new UnitPath(u.Path) is var path && reach.Any(r => r.Covers(path) || path.Covers(r)))
                .OrderBy(u => SortKey(u, units), StringComparer.Ordinal)
                .Select(u => new UnitView(u.Id, u.ParentId, u.Name, u.Path.Count(c => c == '/') - 2))
                .ToList();
    }

    private static string SortKey(Unit unit, List<Unit> all) =>
        (unit.ParentId is { } parent ? SortKey(all.Single(u => u.Id == parent), all) : "") + "\u0001" + unit.Name;

    private static async Task<Reply<UnitView>> AddUnit(
        NewUnit request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<UnitView>(
            caller.Actor,
            async session =>
            {
                if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200)
                {
                    return new Refusal("name-missing", "name", "A unit needs a name of at most 200 characters.");
                }

                var parent = await session.Db.Units.SingleOrDefaultAsync(u => u.Id == request.ParentId, cancel);
                if (parent is null)
                {
                    return Problems.NotFound("unit");
                }

                // The path needs the id, which the database gives; a stand-in holds the unique place until then.
                var unit = new Unit
                {
                    Name = request.Name.Trim(),
                    ParentId = parent.Id,
                    Path = $"/{Guid.NewGuid():N}/",
                };
                session.Db.Units.Add(unit);
                await session.Db.SaveChangesAsync(cancel);
                unit.Path = new UnitPath(parent.Path).Child(unit.Id).Value;
                session.Record(
                    "unit-added",
                    new("unit", Text(unit.Id), unit.Path),
                    after: new JsonObject { ["name"] = unit.Name }
                );
                return new UnitView(unit.Id, parent.Id, unit.Name, unit.Path.Count(c => c == '/') - 2);
            },
            cancel
        );

    private static async Task<Reply<IReadOnlyList<PersonView>>> List(WideKeelDb db)
    {
        var withCodes = await db
            .Authenticators.Where(a => a.ConfirmedAt != null)
            .Select(a => a.PersonId)
            .ToHashSetAsync();
        var people = await db
            .Users.AsNoTracking()
            .Include(p => p.Remits)
                .ThenInclude(r => r.Unit)
            .OrderBy(p => p.DisplayName)
            .ToListAsync();
        return (Outcome<IReadOnlyList<PersonView>>)people.Select(p => View(p, withCodes.Contains(p.Id))).ToList();
    }

    private static async Task<Reply<InvitedPerson>> Add(NewPerson request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<InvitedPerson>(
            context.Caller.Actor,
            session =>
                Entrances.WatchedAsync<InvitedPerson>(
                    session,
                    async () =>
                    {
                        var remits = await RemitsAsync(session, request.Remits, context.Cancel);
                        if (remits.Refused)
                        {
                            return remits.Refusal!;
                        }

                        var added = await AddAsync(session, request.Name, request.Mail, null, remits.Value);
                        if (added.Refused)
                        {
                            return added.Refusal!;
                        }

                        added.Value.PasswordSetById = context.Caller.PersonId;
                        var link = await Invitations.SendAsync(session, added.Value, isNew: true, context.Cancel);
                        return new InvitedPerson(View(added.Value, false), link);
                    },
                    context.Cancel
                ),
            context.Cancel
        );

    /// <summary>Adds a person with remits, inside a change.</summary>
    /// <param name="password">Chosen by the person themselves; null where an invitation follows.</param>
    internal static async Task<Outcome<Person>> AddAsync(
        WriteSession session,
        string name,
        string mail,
        string? password,
        IReadOnlyList<(Role Role, Unit Unit)> remits
    )
    {
        if (await PersonNames.CheckAsync(session, null, name) is { } unusable)
        {
            return unusable;
        }

        if (mail is null || !MailAddress.IsOne(mail.Trim()))
        {
            return new Refusal("mail-malformed", "mail", "This is not a mail address.");
        }

        var people = session.Services.GetRequiredService<UserManager<Person>>();
        if (await people.FindByNameAsync(mail.Trim()) is not null)
        {
            return Refusal.Conflict("mail-taken", "mail", $"There is a person with the address {mail} already.");
        }

        var person = new Person
        {
            DisplayName = name.Trim(),
            UserName = mail.Trim(),
            Email = mail.Trim(),
            LockoutEnabled = true,
        };
        person.Remits.AddRange(
            remits.Select(r => new PersonRemit
            {
                Role = r.Role,
                UnitId = r.Unit.Id,
                Unit = r.Unit,
            })
        );
        var created = await (password is null ? people.CreateAsync(person) : people.CreateAsync(person, password));
        if (!created.Succeeded)
        {
            return Weak(created);
        }

        session.Record("person-added", new("person", Text(person.Id)), after: Describe(person));
        return person;
    }

    internal static Refusal Weak(IdentityResult refused) =>
        new("password-weak", "password", string.Join(" ", refused.Errors.Select(e => e.Description)));

    private static async Task<Reply<PersonView>> Change(
        long id,
        PersonChange request,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<PersonView>(
            context.Caller.Actor,
            session =>
                Entrances.WatchedAsync<PersonView>(
                    session,
                    () => ChangeAsync(session, id, request, context),
                    context.Cancel
                ),
            context.Cancel
        );

    private static Refusal? CheckChange(
        long id,
        PersonChange request,
        IReadOnlyList<(Role Role, Unit Unit)> remits,
        Caller caller
    ) =>
        id == caller.PersonId
        && (!request.Active || !remits.Any(r => r.Role == Role.Administrator && r.Unit.ParentId is null))
            ? new Refusal(
                "locks-oneself-out",
                "active",
                "You cannot take away your own administration; another administrator can."
            )
            : null;

    private static async Task GiveRemitsAsync(
        WriteSession session,
        Person person,
        IReadOnlyList<(Role Role, Unit Unit)> remits,
        CancellationToken cancel
    )
    {
        session.Db.Remits.RemoveRange(person.Remits);
        await session.Db.SaveChangesAsync(cancel);
        person.Remits.Clear();
        person.Remits.AddRange(
            remits.Select(r => new PersonRemit
            {
                PersonId = person.Id,
                Role = r.Role,
                UnitId = r.Unit.Id,
                Unit = r.Unit,
            })
        );
    }

    private static async Task<Outcome<PersonView>> ChangeAsync(
        WriteSession session,
        long id,
        PersonChange request,
        ApiContext context
    )
    {
        var person = await session
            .Db.Users.Include(p => p.Remits)
                .ThenInclude(r => r.Unit)
            .SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
        if (person is null)
        {
            return Problems.NotFound("person");
        }

        if (Problems.CheckMatch(context.Http, person.Version) is { } stale)
        {
            return stale;
        }

        var remits = await RemitsAsync(session, request.Remits, context.Cancel);
        if (remits.Refused)
        {
            return remits.Refusal!;
        }

        var wrong =
            CheckChange(id, request, remits.Value, context.Caller)
            ?? await PersonNames.CheckAsync(session, id, request.Name, context.Cancel);
        if (wrong is not null)
        {
            return wrong;
        }

        var before = Describe(person);
        (person.DisplayName, person.Active) = (request.Name.Trim(), request.Active);
        await GiveRemitsAsync(session, person, remits.Value, context.Cancel);
        person.Version++;
        var people = session.Services.GetRequiredService<UserManager<Person>>();
        if (!request.Active)
        {
            await people.UpdateSecurityStampAsync(person);
            await PersonLinks.EndAsync(session, LinkKind.Invitation, id, context.Cancel);
        }

        session.Record("person-changed", new("person", Text(id)), before, Describe(person));
        var withCodes = await OneTimeCodes.ConfirmedAsync(session.Db, id, context.Cancel) is not null;
        return View(person, withCodes);
    }

    /// <summary>One's own keys; those who manage people see everybody's.</summary>
    private static async Task<Reply<IReadOnlyList<ApiKeyView>>> Keys(Caller caller, WideKeelDb db)
    {
        var all = caller.May(Right.ManagePeople);
        var keys = await (
            from k in db.ApiKeys.AsNoTracking()
            join p in db.Users on k.PersonId equals p.Id
            where all || k.PersonId == caller.PersonId
            orderby k.Id descending
            select new { k, p.DisplayName }
        ).ToListAsync();
        return (Outcome<IReadOnlyList<ApiKeyView>>)keys.Select(x => KeyView(x.k, x.DisplayName)).ToList();
    }

    private static async Task<Reply<IssuedApiKey>> AddKey(
        NewApiKey request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 100 || request.Days is < 1 or > 365)
        {
            return new Refusal(
                "key-malformed",
                "days",
                "A key has a name of at most 100 characters and lives 1 to 365 days."
            );
        }

        var scopes = request.Scopes.Distinct().ToArray();
        if (scopes.Length == 0 || scopes.Any(s => !caller.May(s)))
        {
            return Refusal.Forbidden(
                "not-allowed",
                "scopes",
                "A key can do at least one thing, and nothing that its person cannot."
            );
        }

        return await writer.RunAsync<IssuedApiKey>(
            caller.Actor,
            async session =>
            {
                var key = ApiKeyAuthentication.NewKey();
                var row = new ApiKey
                {
                    PersonId = caller.PersonId,
                    Name = request.Name.Trim(),
                    Prefix = key[..9],
                    Hash = ApiKeyAuthentication.HashOf(key),
                    Scopes = string.Join(',', scopes),
                    CreatedAt = session.Now,
                    ExpiresAt = session.Now + Duration.FromDays(request.Days),
                };
                session.Db.ApiKeys.Add(row);
                await session.Db.SaveChangesAsync(cancel);
                session.Record(
                    "key-issued",
                    new("api-key", Text(row.Id)),
                    after: new JsonObject
                    {
                        ["name"] = row.Name,
                        ["prefix"] = row.Prefix,
                        ["scopes"] = row.Scopes,
                    }
                );
                return new IssuedApiKey(key, KeyView(row, caller.Name));
            },
            cancel
        );
    }

    private static async Task<Reply<Done>> RevokeKey(long id, Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var key = await session.Db.ApiKeys.SingleOrDefaultAsync(k => k.Id == id, cancel);
                if (key is null || (key.PersonId != caller.PersonId && !caller.May(Right.ManagePeople)))
                {
                    return Problems.NotFound("key");
                }

                key.RevokedAt ??= session.Now;
                session.Record(
                    "key-revoked",
                    new("api-key", Text(id)),
                    before: new JsonObject { ["prefix"] = key.Prefix }
                );
                return new Done();
            },
            cancel
        );

    private static async Task<Outcome<IReadOnlyList<(Role Role, Unit Unit)>>> RemitsAsync(
        WriteSession session,
        RemitRequest[] requested,
        CancellationToken cancel
    )
    {
        var units = await session.Db.Units.ToDictionaryAsync(u => u.Id, cancel);
        return requested.Any(r => !units.ContainsKey(r.UnitId))
            ? new Refusal("unit-unknown", "remits", "One of the remits names a unit that does not exist.")
            : requested.Distinct().Select(r => (r.Role, units[r.UnitId])).ToList();
    }

    internal static PersonView View(Person person, bool withCodes) =>
        new(
            person.Id,
            person.DisplayName,
            person.Email!,
            person.Active,
            [.. person.Remits.Select(r => new RemitView(r.Role, r.UnitId, r.Unit!.Name))],
            person.PasswordHash is null,
            withCodes,
            person.Version
        );

    private static ApiKeyView KeyView(ApiKey key, string person) =>
        new(
            key.Id,
            key.Name,
            key.Prefix,
            person,
            [.. RightsPolicy.Read(key.Scopes)],
            key.CreatedAt,
            key.ExpiresAt,
            key.RevokedAt
        );

    private static JsonObject Describe(Person person) =>
        new()
        {
            ["name"] = person.DisplayName,
            ["mail"] = person.Email,
            ["active"] = person.Active,
            ["remits"] = new JsonArray([.. person.Remits.Select(r => (JsonNode)$"{r.Role} over {r.Unit?.Name}")]),
        };

    private static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);
}
