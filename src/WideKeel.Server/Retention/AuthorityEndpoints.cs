using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>A series that rests on an authority, and how it stands to it.</summary>
public sealed record RestingSeries(long Id, string Code, string Title, AuthorityFinding Finding);

/// <param name="Demands">What it demands, in words.</param>
public sealed record AuthorityView(
    long Id,
    string Code,
    AuthorityDefinition Definition,
    string Demands,
    IReadOnlyList<RestingSeries> Series,
    long Revision
) : IRevised;

public sealed record NewAuthority(string Code, AuthorityDefinition Definition);

/// <summary>Laws, regulations and contracts as objects of their own.</summary>
public static class AuthorityEndpoints
{
    public static void MapAuthorities(this IEndpointRouteBuilder api)
    {
        api.MapGet("/authorities", List).Requires(Right.ReadSchedule);
        api.MapPost("/authorities", Create).Requires(Right.WriteSchedule);
        api.MapPut("/authorities/{id:long}", Save).Requires(Right.WriteSchedule);
        api.MapDelete("/authorities/{id:long}", Remove).Requires(Right.WriteSchedule);
        api.MapPost("/authorities/library", AddLibrary).Requires(Right.WriteSchedule);
    }

    /// <summary>How a rule stands to some authorities.</summary>
    internal static async Task<IReadOnlyList<AuthorityFinding>> FindingsAsync(
        WideKeelDb db,
        IReadOnlyList<string> codes,
        SeriesRule rule
    )
    {
        var known = await db
            .Authorities.AsNoTracking()
            .Where(a => codes.Contains(a.Code))
            .ToDictionaryAsync(a => a.Code, a => a.Definition);
        return [.. codes.Where(known.ContainsKey).Select(c => AuthorityCheck.Of(rule, known[c].Check(c).Value))];
    }

    private static async Task<Reply<IReadOnlyList<AuthorityView>>> List(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var authorities = await db.Authorities.AsNoTracking().OrderBy(a => a.Code).ToListAsync(cancel);
        var series = (
            await db
                .Series.AsNoTracking()
                .Where(s => s.State != SeriesState.Retired)
                .OrderBy(s => s.Code)
                .ToListAsync(cancel)
        )
            .Where(s => caller.MaySee(Right.ReadSchedule, s.UnitId))
            .ToList();
        return (Outcome<IReadOnlyList<AuthorityView>>)authorities.Select(a => View(a, series)).ToList();
    }

    private static AuthorityView View(Authority authority, IReadOnlyList<Series> series)
    {
        var demand = authority.Definition.Check(authority.Code).Value;
        var resting = series
            .Select(s => (Series: s, Definition: s.InForce ?? s.Draft!))
            .Where(s => s.Definition.Authorities.Contains(authority.Code))
            .Select(s => new RestingSeries(
                s.Series.Id,
                s.Series.Code,
                s.Series.Title,
                AuthorityCheck.Of(s.Definition.Check(s.Series.Code).Value, demand)
            ));
        return new(
            authority.Id,
            authority.Code,
            authority.Definition,
            Words(authority.Definition),
            [.. resting],
            authority.Revision
        );
    }

    private static string Words(AuthorityDefinition definition)
    {
        List<string> parts = [];
        if (definition.Least.Count > 0)
        {
            var rule = SeriesDefinition.OfClauses(definition.Join, definition.Least);
            parts.Add($"at least {RuleWords.Short(rule)}");
        }

        if (definition.Most is { } most)
        {
            parts.Add($"at most {RuleWords.Short(SeriesDefinition.OfClauses(ClauseJoin.Later, [most]))}");
        }

        return string.Join("; ", parts);
    }

    private static async Task<Reply<AuthorityView>> Create(
        NewAuthority request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    )
    {
        if (request.Definition.Check(request.Code).Refusal is { } wrong)
        {
            return wrong;
        }

        return await writer.RunAsync<AuthorityView>(
            caller.Actor,
            async session =>
            {
                if (NotForAll(caller) is { } refusal)
                {
                    return refusal;
                }

                if (await session.Db.Authorities.AnyAsync(a => a.Code == request.Code, cancel))
                {
                    return Refusal.Conflict("code-taken", "code", $"There is an authority {request.Code} already.");
                }

                return View(await AddAsync(session, request.Code, request.Definition, cancel), []);
            },
            cancel
        );
    }

    private static async Task<Authority> AddAsync(
        WriteSession session,
        string code,
        AuthorityDefinition definition,
        CancellationToken cancel
    )
    {
        var authority = new Authority { Code = code, Definition = definition };
        session.Db.Authorities.Add(authority);
        await session.Db.SaveChangesAsync(cancel);
        session.Record("added", Subject(authority), after: AsJson(definition));
        return authority;
    }

    private static async Task<Reply<AuthorityView>> Save(
        long id,
        AuthorityDefinition definition,
        [AsParameters] ApiContext context
    ) =>
        await ChangeAsync<AuthorityView>(
            id,
            context.Http,
            context.Caller,
            context.Writer,
            async (session, authority) =>
            {
                if (definition.Check(authority.Code).Refusal is { } wrong)
                {
                    return wrong;
                }

                session.Record("changed", Subject(authority), AsJson(authority.Definition), AsJson(definition));
                (authority.Definition, authority.Revision) = (definition, authority.Revision + 1);
                return View(authority, await session.Db.Series.AsNoTracking().ToListAsync(context.Cancel));
            },
            context.Cancel
        );

    private static async Task<Reply<Done>> Remove(
        long id,
        HttpContext http,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await ChangeAsync<Done>(
            id,
            http,
            caller,
            writer,
            async (session, authority) =>
            {
                var citing = (await session.Db.Series.AsNoTracking().ToListAsync(cancel))
                    .Where(s => Cites(s.InForce) || Cites(s.Draft))
                    .Select(s => s.Code)
                    .Order()
                    .ToList();
                if (citing.Count > 0)
                {
                    return Refusal.Conflict(
                        "authority-in-use",
                        null,
                        $"{string.Join(", ", citing.Take(5))}{(citing.Count > 5 ? " and others" : "")} rest on it. Take it off them first."
                    );
                }

                session.Record("removed", Subject(authority), AsJson(authority.Definition));
                session.Db.Authorities.Remove(authority);
                return new Done();

                bool Cites(SeriesDefinition? definition) => definition?.Authorities.Contains(authority.Code) == true;
            },
            cancel
        );

    private static async Task<Outcome<T>> ChangeAsync<T>(
        long id,
        HttpContext http,
        Caller caller,
        Writer writer,
        Func<WriteSession, Authority, Task<Outcome<T>>> change,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<T>(
            caller.Actor,
            async session =>
                await session.Db.Authorities.SingleOrDefaultAsync(a => a.Id == id, cancel) is not { } authority
                    ? Problems.NotFound("authority")
                : (NotForAll(caller) ?? Problems.CheckMatch(http, authority.Revision)) is { } refusal ? refusal
                : await change(session, authority),
            cancel
        );

    private static async Task<Reply<Done>> AddLibrary(Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                if (NotForAll(caller) is { } refusal)
                {
                    return refusal;
                }

                var known = await session.Db.Authorities.Select(a => a.Code).ToListAsync(cancel);
                foreach (var (code, definition) in StarterLibrary.Authorities.Where(a => !known.Contains(a.Code)))
                {
                    await AddAsync(session, code, definition, cancel);
                }

                return new Done();
            },
            cancel
        );

    /// <summary>An authority is the whole organisation's.</summary>
    private static Refusal? NotForAll(Caller caller) =>
        caller.WholeOrganisation(Right.WriteSchedule)
            ? null
            : Refusal.Forbidden(
                "not-allowed",
                null,
                "Authorities belong to the whole organisation; a records manager over all of it changes them."
            );

    private static Core.Ledger.LedgerSubject Subject(Authority authority) =>
        new("authority", authority.Id.ToString(CultureInfo.InvariantCulture));

    private static JsonNode? AsJson(AuthorityDefinition definition) =>
        JsonSerializer.SerializeToNode(definition, Json.Options);
}
