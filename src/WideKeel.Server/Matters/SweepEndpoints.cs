using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

public sealed record RunView(
    long Id,
    Instant At,
    string AskedBy,
    RunState State,
    long Items,
    long Bytes,
    HoldDefinition Definition,
    SweepFigures? Figures,
    string? Failure
);

/// <param name="Last">The newest run; null where it never ran.</param>
public sealed record SweepView(long Id, string Name, HoldDefinition Definition, RunView? Last, int Runs, long Revision)
    : IRevised;

public sealed record SweepText(string Name, HoldDefinition Definition);

/// <summary>How much a definition finds, counted now.</summary>
/// <param name="Remark">What is odd about its days; null where nothing is.</param>
public sealed record CountView(Tally Found, IReadOnlyList<string> Terms, string? Remark);

/// <summary>Saved searches of a matter: run as jobs, their figures kept run by run.</summary>
public static class SweepEndpoints
{
    public static void MapSweeps(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/count", Count).RequiresSignIn();
        api.MapPost("/matters/{id:long}/sweeps", Add).RequiresSignIn();
        api.MapPut("/matters/{id:long}/sweeps/{sweep:long}", Change).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/sweeps/{sweep:long}", Remove).RequiresSignIn();
        api.MapPost("/matters/{id:long}/sweeps/{sweep:long}/runs", Run).RequiresSignIn();
        api.MapGet("/matters/{id:long}/sweeps/{sweep:long}/runs", Runs).RequiresSignIn();
        api.MapRuns();
        api.MapVersions();
    }

    internal static async Task<List<SweepView>> ViewsAsync(long matter, WideKeelDb db, CancellationToken cancel)
    {
        var sweeps = await db
            .Sweeps.AsNoTracking()
            .Where(s => s.MatterId == matter)
            .OrderBy(s => s.Id)
            .ToListAsync(cancel);
        var ids = sweeps.Select(s => s.Id).ToList();
        var runs = (await db.SweepRuns.AsNoTracking().Where(r => ids.Contains(r.SweepId)).ToListAsync(cancel)).ToLookup(
            r => r.SweepId
        );
        return
        [
            .. sweeps.Select(s => new SweepView(
                s.Id,
                s.Name,
                s.Definition,
                runs[s.Id].MaxBy(r => r.Id) is { } last ? View(last) : null,
                runs[s.Id].Count(),
                s.Revision
            )),
        ];
    }

    private static RunView View(SweepRun run) =>
        new(run.Id, run.At, run.AskedBy, run.State, run.Items, run.Bytes, run.Definition, run.Figures, run.Failure);

    private static async Task<Reply<CountView>> Count(
        long id,
        HoldDefinition definition,
        [AsParameters] ApiContext context
    )
    {
        var found = await MatterDoor.FindAsync(id, context.Caller, context.Db, MemberPart.Reader, context.Cancel);
        if (found.Refusal is { } refusal)
        {
            return refusal;
        }

        if (await CheckSweepAsync(id, definition, context.Db, context.Calendar, context.Cancel) is { } wrong)
        {
            return wrong;
        }

        var query = await HoldQuery.OfAsync(definition, id, context.Db, context.Calendar, context.Cancel);
        if (query.Refusal is { } mistake)
        {
            return mistake;
        }

        var former = await FormerVersions.In(context, context.Db).IdsAsync(context.Db, query.Value, context.Cancel);
        return new CountView(
            TallyOf(query.Value, (SqliteConnection)context.Db.Database.GetDbConnection(), former),
            QueryTerms.Of(definition.Query),
            definition.RemarkOnDates(context.Calendar.Today)
        );
    }

    /// <param name="former">Ids of those of which a former content fits, as JSON.</param>
    private static Tally TallyOf(HoldQuery query, SqliteConnection connection, string former) =>
        query
            .Rows(
                connection,
                $"SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0) FROM item i WHERE {FormerVersions.Fits}",
                c => c.Parameters.AddWithValue("$former", former)
            )
            .Select(r => new Tally(r.GetInt64(0), r.GetInt64(1)))
            .Single();

    /// <summary>Null when a sweep can look for it within the matter.</summary>
    private static async Task<Refusal?> CheckSweepAsync(
        long matter,
        HoldDefinition definition,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await CheckAsync(matter, definition with { Items = null }, db, calendar, cancel)
        ?? definition.Check(calendar.Today).Refusal
        ?? (definition.Items is { } listed ? await CheckListAsync(matter, listed, db, cancel) : null);

    /// <summary>An item outside the matter's unit is as unknown here as one that does not exist.</summary>
    private static async Task<Refusal?> CheckListAsync(
        long matter,
        IReadOnlyList<long> listed,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        const int named = 5;
        var reach = (await HoldReach.LoadAsync(db, cancel)).OfUnit(matter);
        HashSet<long> unknown = [.. listed];
        foreach (var portion in listed.Chunk(10_000))
        {
            unknown.ExceptWith(
                await db
                    .Items.Where(i => portion.Contains(i.Id) && reach.Contains(i.ContainerId) && i.DestroyedAt == null)
                    .Select(i => i.Id)
                    .ToListAsync(cancel)
            );
        }

        return unknown.Count == 0
            ? null
            : new(
                "items-unknown",
                "items",
                $"There is no item {string.Join(", ", unknown.Order().Take(named).Select(MatterDoor.Text))}"
                    + (unknown.Count > named ? $" and {Wording.Number(unknown.Count - named)} more of the list." : ".")
            );
    }

    /// <summary>Null when a definition can be asked within the matter.</summary>
    internal static async Task<Refusal?> CheckAsync(
        long matter,
        HoldDefinition definition,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        if (definition.Items is not null)
        {
            return new("items-of-order", "definition", "An order takes no list of ids; pin the items to it instead.");
        }

        if (definition.Check(calendar.Today).Refusal is { } mistake)
        {
            return mistake;
        }

        var known = await db.Custodians.Where(c => c.MatterId == matter).Select(c => c.Id).ToListAsync(cancel);
        return definition.Custodians.Any(c => !known.Contains(c))
            ? Problems.NotFound("custodian")
            : await CustodianEndpoints.CheckAsync(matter, definition.Containers, db, cancel);
    }

    private static async Task<Reply<MatterView>> Add(long id, SweepText request, [AsParameters] ApiContext context) =>
        await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Reviewer,
            context,
            async (session, _) =>
            {
                if (
                    (
                        CheckName(request.Name)
                        ?? await CheckSweepAsync(id, request.Definition, session.Db, context.Calendar, context.Cancel)
                    ) is
                    { } wrong
                )
                {
                    return wrong;
                }

                session.Db.Sweeps.Add(
                    new()
                    {
                        MatterId = id,
                        Name = request.Name.Trim(),
                        Definition = request.Definition,
                    }
                );
                session.Record("sweep-added", MatterDoor.Subject(id), after: Json(request.Name, request.Definition));
                return null;
            },
            changes: true
        );

    internal static Refusal? CheckName(string? name) =>
        string.IsNullOrWhiteSpace(name) || name.Length > 200
            ? new("name-missing", "name", "Give it a name of at most 200 characters.")
            : null;

    internal static JsonObject Json(string name, HoldDefinition definition)
    {
        var said = new JsonObject
        {
            ["name"] = name.Trim(),
            ["containers"] = new JsonArray([.. definition.Containers.Select(c => (JsonNode)c)]),
            ["custodians"] = new JsonArray([.. definition.Custodians.Select(c => (JsonNode)c)]),
            ["query"] = definition.Query,
            ["from"] = definition.From?.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
            ["to"] = definition.To?.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
        };
        if (definition.Items is { } listed)
        {
            said["listedItems"] = listed.Count;
        }

        return said;
    }

    private static async Task<Reply<MatterView>> Change(
        long id,
        long sweep,
        SweepText request,
        [AsParameters] ApiContext context
    ) =>
        await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Reviewer,
            context,
            async (session, _) =>
            {
                var known = await session.Db.Sweeps.SingleOrDefaultAsync(
                    s => s.Id == sweep && s.MatterId == id,
                    context.Cancel
                );
                if (known is null)
                {
                    return Problems.NotFound("sweep");
                }

                if (
                    (
                        Problems.CheckMatch(context.Http, known.Revision)
                        ?? CheckName(request.Name)
                        ?? await CheckSweepAsync(id, request.Definition, session.Db, context.Calendar, context.Cancel)
                    ) is
                    { } wrong
                )
                {
                    return wrong;
                }

                session.Record(
                    "sweep-changed",
                    MatterDoor.Subject(id),
                    Json(known.Name, known.Definition),
                    Json(request.Name, request.Definition)
                );
                (known.Name, known.Definition) = (request.Name.Trim(), request.Definition);
                known.Revision++;
                return null;
            },
            changes: true
        );

    private static async Task<Reply<Done>> Remove(
        long id,
        long sweep,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await MatterDoor.ChangeAsync<Done>(
            id,
            MemberPart.Reviewer,
            caller,
            writer,
            async (session, _) =>
            {
                var known = await session.Db.Sweeps.SingleOrDefaultAsync(
                    s => s.Id == sweep && s.MatterId == id,
                    cancel
                );
                if (known is null)
                {
                    return Problems.NotFound("sweep");
                }

                var runs = session.Db.SweepRuns.Where(r => r.SweepId == sweep);
                await SweepHits.RemoveAsync(session.Db, runs, cancel);
                await runs.ExecuteDeleteAsync(cancel);
                session.Db.Sweeps.Remove(known);
                session.Record("sweep-removed", MatterDoor.Subject(id), Json(known.Name, known.Definition));
                return new Done();
            },
            cancel
        );

    private static async Task<Reply<RunView>> Run(long id, long sweep, [AsParameters] ApiContext context) =>
        await MatterDoor.ChangeAsync<RunView>(
            id,
            MemberPart.Reviewer,
            context.Caller,
            context.Writer,
            async (session, matter) =>
            {
                var known = await session.Db.Sweeps.SingleOrDefaultAsync(
                    s => s.Id == sweep && s.MatterId == id,
                    context.Cancel
                );
                if (known is null)
                {
                    return Problems.NotFound("sweep");
                }

                if (
                    await session.Db.SweepRuns.FirstOrDefaultAsync(
                        r => r.SweepId == sweep && (r.State == RunState.Waiting || r.State == RunState.Running),
                        context.Cancel
                    ) is
                    { } waiting
                )
                {
                    return View(waiting);
                }

                var made = new SweepRun
                {
                    SweepId = sweep,
                    Definition = known.Definition,
                    AskedBy = context.Caller.Name,
                    At = session.Now,
                };
                session.Db.SweepRuns.Add(made);
                await session.Db.SaveChangesAsync(context.Cancel);
                await JobBoard.AddAsync(
                    session,
                    SweepJob.JobKind,
                    made.Id,
                    $"Sweep “{known.Name}” of {matter.Number}",
                    null,
                    context.Caller.Name,
                    id
                );
                return View(made);
            },
            context.Cancel
        );

    private static async Task<Reply<IReadOnlyList<RunView>>> Runs(
        long id,
        long sweep,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        !caller.Matters.ContainsKey(id) || !await db.Sweeps.AnyAsync(s => s.Id == sweep && s.MatterId == id, cancel)
            ? Problems.NotFound("sweep")
            : (Outcome<IReadOnlyList<RunView>>)
                (
                    await db
                        .SweepRuns.AsNoTracking()
                        .Where(r => r.SweepId == sweep)
                        .OrderByDescending(r => r.Id)
                        .Take(100)
                        .ToListAsync(cancel)
                )
                    .Select(View)
                    .ToList();
}
