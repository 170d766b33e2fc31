using System.Globalization;
using System.Linq.Expressions;
using System.Security.Claims;
using System.Security.Cryptography;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Who is signed in and what the front end needs to begin.</summary>
/// <param name="Token">To be sent back as <c>X-XSRF-TOKEN</c> with every change.</param>
public sealed record SessionView(
    string? Organisation,
    LocalDate Today,
    string FiscalYearEnd,
    SessionPerson? Person,
    string Token,
    IReadOnlyList<DemoAccount> Accounts,
    bool NeedsSetUp
);

/// <param name="FactorIsMissing">A role of theirs needs one-time codes, and they have none: they set them up first.</param>
public sealed record SessionPerson(
    long Id,
    string Name,
    string Mail,
    IReadOnlyList<RemitView> Remits,
    IReadOnlyList<Right> Rights,
    bool FactorIsMissing
);

public sealed record RemitView(Role Role, long UnitId, string Unit);

/// <param name="Code">
/// A one-time code or a recovery code, of whoever has turned one-time codes on; the refusal
/// <c>one-time-code-needed</c> asks for it.
/// </param>
public sealed record SignInRequest(string Mail, string Password, string? Code = null);

public sealed record NewPassword(string Current, string Password);

/// <summary>The first start without the demo: what the organisation is and who begins.</summary>
/// <param name="Zone">IANA time zone.</param>
public sealed record SetUpRequest(
    string Organisation,
    string Zone,
    string FiscalYearEnd,
    string AdministratorName,
    string AdministratorMail,
    string Password,
    string Code
);

/// <summary>A browser in which a person is signed in.</summary>
/// <param name="Here">The one that asks.</param>
public sealed record SignInSessionView(long Id, Instant BegunAt, string? Address, string Browser, bool Here);

public static class SessionEndpoints
{
    private const int MostSessions = 100;

    /// <summary>No session is longer.</summary>
    internal static readonly Duration Longest = Duration.FromHours(12);

    public static void MapSession(this IEndpointRouteBuilder api)
    {
        api.MapGet("/session", Show).OpenToAll();
        api.MapPost("/session", SignIn).OpenToAll().LimitsAttempts();
        api.MapDelete("/session", SignOut).OpenToAll();
        api.MapPost("/session/password", ChoosePassword).RequiresSession().LimitsAttempts();
        api.MapGet("/sessions", Sessions).RequiresSignIn();
        api.MapDelete("/sessions", EndOthers).RequiresSession();
        api.MapDelete("/sessions/{id:long}", End).RequiresSession();
        api.MapPost("/set-up", SetUp).OpenToAll().LimitsAttempts();
    }

    private static async Task<Reply<SessionView>> Show(
        IAntiforgery antiforgery,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    ) => await ViewAsync(context.Http, context.Caller, context.Db, context.Calendar, antiforgery, options);

    private static async Task<Reply<SessionView>> SignIn(
        SignInRequest request,
        IAntiforgery antiforgery,
        WideKeelOptions options,
        SignInGuard guard,
        [AsParameters] ApiContext context
    )
    {
        var address = NetworkAddress.Of(context.Http);
        var mail = (request.Mail ?? "").Trim();
        var word = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        var outcome = await context.Writer.RunAsync<Person>(
            new LedgerActor(Clip(mail), null, address),
            session => EnterAsync(session, mail, request, word, context),
            context.Cancel
        );
        if (outcome.Refusal is { } refusal)
        {
            if (refusal.Code is "sign-in-failed" or OneTimeCodes.Wrong)
            {
                guard.Failed(mail, address);
            }

            return refusal;
        }

        guard.Succeeded(mail, address);

        context.Http.User = CookieOf(outcome.Value, word);
        await context.Http.SignInAsync(IdentityConstants.ApplicationScheme, context.Http.User);
        await context.Caller.LoadAsync(context.Http, context.Db, context.Calendar.Today);
        return await ViewAsync(context.Http, context.Caller, context.Db, context.Calendar, antiforgery, options);
    }

    private static async Task<Outcome<Person>> EnterAsync(
        WriteSession session,
        string mail,
        SignInRequest request,
        string word,
        ApiContext context
    )
    {
        var cancel = context.Cancel;
        // Before anything is looked up: whether the account exists makes no difference to the answer.
        if (session.Services.GetRequiredService<SignInGuard>().Check(mail, session.Actor.Address) is { } tooMany)
        {
            session.RecordAttempt("sign-in-refused", new("account", Clip(mail)), "too many failures from this address");
            return tooMany;
        }

        var known = await KnownAsync(session, mail, request, context);
        if (known.Refused)
        {
            return known.Refusal!;
        }

        var (person, hash, factor) = known.Value;
        session.Actor = new LedgerActor(person.DisplayName, null, session.Actor.Address, person.Id);
        if (person.PasswordHash != hash)
        {
            // The framework hashes a password anew where its former hash was of fewer rounds.
            session.Record("password-hashed-anew", Subject(person.Id));
        }

        if (factor == SecondFactor.RecoveryCode)
        {
            await OnRecoveryCodeAsync(session, person, cancel);
        }

        BeginSession(session, person, word, context.Http);
        return person;
    }

    /// <summary>The person whom the mail, the password and the code belong to.</summary>
    private static async Task<Outcome<(Person Person, string? Hash, SecondFactor Factor)>> KnownAsync(
        WriteSession session,
        string mail,
        SignInRequest request,
        ApiContext context
    )
    {
        var cancel = context.Cancel;
        var people = session.Services.GetRequiredService<UserManager<Person>>();
        var person = mail.Length is > 0 and <= 256 ? await people.FindByNameAsync(mail) : null;
        if (person is not { Active: true, PasswordHash: not null })
        {
            // The same work as for a real account, so that the time taken does not tell which accounts exist.
            new PasswordHasher<Person>().HashPassword(new Person { DisplayName = "" }, request.Password ?? "");
            return Failed(session, mail, "there is no such account");
        }

        var hash = person.PasswordHash;
        if (!await people.CheckPasswordAsync(person, request.Password ?? ""))
        {
            return Failed(session, mail, "wrong password");
        }

        if (await HasLeftAsync(session.Db, person.Email!, context.Calendar.Today, cancel))
        {
            return Failed(session, mail, "has left, or is suspended, in the directory");
        }

        var codes = session.Services.GetRequiredService<OneTimeCodes>();
        var factor = await codes.UseAsync(session, person.Id, request.Code, cancel);
        if (factor.Refused)
        {
            if (factor.Refusal!.Code == OneTimeCodes.Wrong)
            {
                session.RecordAttempt("sign-in-refused", Subject(person.Id), "wrong one-time code");
            }

            return factor.Refusal!;
        }

        return (person, hash, factor.Value);
    }

    /// <summary>Whether the directory says that somebody may not act any more. Whoever it does not list is not of it.</summary>
    internal static async Task<bool> HasLeftAsync(
        WideKeelDb db,
        string mail,
        LocalDate today,
        CancellationToken cancel = default
    ) =>
        await db.DirectoryPeople.AsNoTracking().SingleOrDefaultAsync(p => p.Mail == mail, cancel) is { } listed
        && listed.HasLeft(today);

    private static async Task OnRecoveryCodeAsync(WriteSession session, Person person, CancellationToken cancel)
    {
        var left = await session.Db.RecoveryCodes.CountAsync(c => c.PersonId == person.Id, cancel);
        session.Record(
            "recovery-code-used",
            Subject(person.Id),
            after: new JsonObject { ["recoveryCodesLeft"] = left }
        );
        foreach (var news in session.Services.GetServices<IAccountNews>())
        {
            await news.OnRecoveryCodeUsedAsync(session, person, left, cancel);
        }
    }

    private static void BeginSession(WriteSession session, Person person, string word, HttpContext http)
    {
        session.Record("signed-in", Subject(person.Id));
        session.Db.SignInSessions.Add(
            new()
            {
                PersonId = person.Id,
                Hash = ContentHash.Of(word),
                Address = session.Actor.Address,
                Browser = Begin(http.Request.Headers.UserAgent.ToString(), 200),
                BegunAt = session.Now,
            }
        );
    }

    /// <summary>What the cookie says: whose it is, of which password and which session.</summary>
    private static ClaimsPrincipal CookieOf(Person person, string word) =>
        new(
            new ClaimsIdentity(
                [
                    new(ClaimTypes.NameIdentifier, person.Id.ToString(CultureInfo.InvariantCulture)),
                    new("stamp", person.SecurityStamp ?? ""),
                    new("session", word),
                ],
                IdentityConstants.ApplicationScheme
            )
        );

    private static async Task<Reply<Done>> SignOut(
        HttpContext http,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    )
    {
        if (caller.SignedIn)
        {
            await writer.RunAsync(
                caller.Actor,
                async session =>
                {
                    session.Record("signed-out", Subject(caller.PersonId));
                    await EndAsync(session, s => s.Id == caller.SessionId, cancel);
                },
                cancel
            );
        }

        await http.SignOutAsync(IdentityConstants.ApplicationScheme);
        return new Done();
    }

    /// <summary>The browsers in which the caller is signed in, the latest first.</summary>
    private static async Task<Reply<IReadOnlyList<SignInSessionView>>> Sessions(
        IClock clock,
        [AsParameters] ApiContext context
    )
    {
        // Those before are over, whether or not somebody signed out.
        var since = clock.GetCurrentInstant() - Longest;
        return (Outcome<IReadOnlyList<SignInSessionView>>)
            await context
                .Db.SignInSessions.AsNoTracking()
                .Where(s => s.PersonId == context.Caller.PersonId && s.EndedAt == null && s.BegunAt > since)
                .OrderByDescending(s => s.Id)
                .Take(MostSessions)
                .Select(s => new SignInSessionView(
                    s.Id,
                    s.BegunAt,
                    s.Address,
                    s.Browser,
                    s.Id == context.Caller.SessionId
                ))
                .ToListAsync(context.Cancel);
    }

    /// <summary>
    /// Another password of one's own. It ends the other sessions, and this one goes on with a cookie of its own.
    /// </summary>
    private static async Task<Reply<SessionView>> ChoosePassword(
        NewPassword request,
        IAntiforgery antiforgery,
        WideKeelOptions options,
        SignInGuard guard,
        [AsParameters] ApiContext context
    )
    {
        if (guard.CheckOwn(context.Caller) is { } tooMany)
        {
            return tooMany;
        }

        var word = context.Http.User.FindFirstValue("session") ?? "";
        var chosen = await context.Writer.RunAsync<Person>(
            context.Caller.Actor,
            session => ChangePasswordAsync(session, request, guard, context),
            context.Cancel
        );
        if (chosen.Refused)
        {
            return chosen.Refusal!;
        }

        context.Http.User = CookieOf(chosen.Value, word);
        await context.Http.SignInAsync(IdentityConstants.ApplicationScheme, context.Http.User);
        await context.Caller.LoadAsync(context.Http, context.Db, context.Calendar.Today);
        return await ViewAsync(context.Http, context.Caller, context.Db, context.Calendar, antiforgery, options);
    }

    private static async Task<Outcome<Person>> ChangePasswordAsync(
        WriteSession session,
        NewPassword request,
        SignInGuard guard,
        ApiContext context
    )
    {
        var people = session.Services.GetRequiredService<UserManager<Person>>();
        var person = await session.Db.Users.SingleAsync(p => p.Id == context.Caller.PersonId, context.Cancel);
        if (!await people.CheckPasswordAsync(person, request.Current ?? ""))
        {
            session.RecordAttempt("password-refused", Subject(person.Id), "the current password was wrong");
            guard.FailedOwn(context.Caller);
            return new Refusal("password-wrong", "current", "This is not your current password.");
        }

        if (request.Current == request.Password)
        {
            return new Refusal("password-same", "password", "Choose a password that is not the current one.");
        }

        var changed = await people.ChangePasswordAsync(person, request.Current!, request.Password ?? "");
        if (!changed.Succeeded)
        {
            return PeopleEndpoints.Weak(changed);
        }

        var ended = await EndAsync(
            session,
            s => s.PersonId == person.Id && s.Id != context.Caller.SessionId,
            context.Cancel
        );
        session.Record("password-chosen", Subject(person.Id), after: new JsonObject { ["sessionsEnded"] = ended });
        return person;
    }

    private static string Begin(string text, int most) => text[..Math.Min(text.Length, most)];

    /// <summary>Signs the caller out everywhere but here.</summary>
    private static async Task<Reply<Done>> EndOthers([AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var ended = await EndAsync(
                    session,
                    s => s.PersonId == context.Caller.PersonId && s.Id != context.Caller.SessionId,
                    context.Cancel
                );
                session.Record(
                    "sessions-ended",
                    Subject(context.Caller.PersonId),
                    after: new JsonObject { ["sessions"] = ended }
                );
                return new Done();
            },
            context.Cancel
        );

    private static async Task<Reply<Done>> End(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var ended = await EndAsync(
                    session,
                    s => s.Id == id && s.PersonId == context.Caller.PersonId,
                    context.Cancel
                );
                if (ended == 0)
                {
                    return Problems.NotFound("session");
                }

                session.Record(
                    "sessions-ended",
                    Subject(context.Caller.PersonId),
                    after: new JsonObject { ["sessions"] = 1 }
                );
                return new Done();
            },
            context.Cancel
        );

    internal static Task<int> EndAsync(
        WriteSession session,
        Expression<Func<SignInSession, bool>> which,
        CancellationToken cancel
    ) =>
        session
            .Db.SignInSessions.Where(which)
            .Where(s => s.EndedAt == null)
            .ExecuteUpdateAsync(set => set.SetProperty(s => s.EndedAt, session.Now), cancel);

    private static Refusal? CheckSetUp(SetUpRequest request, SetUpCode code) =>
        !code.Is(request.Code)
            ? Refusal.Forbidden("code-wrong", "code", "This is not the code that the server's console shows.")
        : string.IsNullOrWhiteSpace(request.Organisation) || request.Organisation.Length > 200
            ? new("name-missing", "organisation", "The organisation needs a name of at most 200 characters.")
        : DateTimeZoneProviders.Tzdb.GetZoneOrNull(request.Zone ?? "") is null
            ? new("zone-unknown", "zone", "The zone is an IANA name such as Europe/Lisbon or Etc/UTC.")
        : Core.Time.FiscalYearEnd.Parse(request.FiscalYearEnd).Refusal;

    private static async Task<Reply<Done>> SetUp(
        SetUpRequest request,
        HttpContext http,
        Writer writer,
        OrganisationCalendar calendar,
        SetUpCode code,
        CancellationToken cancel
    )
    {
        var outcome = await writer.RunAsync<Done>(
            new LedgerActor("set-up", null, NetworkAddress.Of(http)),
            async session =>
            {
                if (await session.Db.Organisations.AnyAsync(cancel))
                {
                    return Refusal.Forbidden("not-allowed", null, "This installation is set up already.");
                }

                if (CheckSetUp(request, code) is { } wrong)
                {
                    return wrong;
                }

                var root = new Unit { Name = request.Organisation.Trim(), Path = "/" };
                session.Db.Units.Add(root);
                session.Db.Organisations.Add(
                    new()
                    {
                        Name = root.Name,
                        Zone = request.Zone!,
                        FiscalYearEnd = request.FiscalYearEnd,
                        DailyRunOn = session.Now.InZone(DateTimeZoneProviders.Tzdb[request.Zone!]).Date,
                    }
                );
                await session.Db.SaveChangesAsync(cancel);
                root.Path = $"/{root.Id}/";
                session.Record(
                    "set-up",
                    new("organisation", "1"),
                    after: new System.Text.Json.Nodes.JsonObject
                    {
                        ["name"] = root.Name,
                        ["zone"] = request.Zone,
                        ["fiscalYearEnd"] = request.FiscalYearEnd,
                    }
                );
                var added = await People.PeopleEndpoints.AddAsync(
                    session,
                    request.AdministratorName,
                    request.AdministratorMail,
                    request.Password,
                    [(Role.Administrator, root), (Role.RecordsManager, root)]
                );
                return added.Refused ? added.Refusal! : new Done();
            },
            cancel
        );
        calendar.Forget();
        return outcome;
    }

    private static async Task<SessionView> ViewAsync(
        HttpContext http,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        IAntiforgery antiforgery,
        WideKeelOptions options
    )
    {
        var organisation = await db.Organisations.AsNoTracking().SingleOrDefaultAsync();
        SessionPerson? me = null;
        if (caller.SignedIn)
        {
            var person = await db
                .Users.AsNoTracking()
                .Include(p => p.Remits)
                    .ThenInclude(r => r.Unit)
                .SingleAsync(p => p.Id == caller.PersonId);
            me = new(
                person.Id,
                person.DisplayName,
                person.Email!,
                [.. person.Remits.Select(r => new RemitView(r.Role, r.UnitId, r.Unit!.Name))],
                [.. Enum.GetValues<Right>().Where(r => caller.May(r))],
                caller.FactorIsMissing
            );
        }

        return new(
            organisation?.Name,
            organisation is null ? default : calendar.Today,
            organisation?.FiscalYearEnd ?? "12-31",
            me,
            antiforgery.GetAndStoreTokens(http).RequestToken!,
            caller.SignedIn ? [] : options.DemoAccounts,
            organisation is null
        );
    }

    private static Refusal Failed(WriteSession session, string mail, string why)
    {
        session.RecordAttempt("sign-in-refused", new("account", Clip(mail)), why);
        return Refusal.NotSignedIn("sign-in-failed", null, "The mail address and the password do not belong together.");
    }

    internal static LedgerSubject Subject(long personId) =>
        new("person", personId.ToString(CultureInfo.InvariantCulture));

    private static string Clip(string mail) =>
        mail.Length == 0 ? "nobody"
        : mail.Length <= 100 ? mail
        : mail[..100];
}
