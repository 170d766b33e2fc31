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

/// <param name="Versions">What the items held before, of those that are kept.</param>
/// <param name="Codes">The matter's tags on them.</param>
/// <param name="Families">Of the messages among them that have attachments.</param>
public sealed record RunPage(
    IReadOnlyList<ItemRow> Items,
    string? Next,
    long Total,
    long Bytes,
    IReadOnlyList<KeptVersion> Versions,
    IReadOnlyList<CodeView> Codes,
    IReadOnlyList<FamilyView> Families
);

/// <summary>A file of which not every word is known.</summary>
/// <param name="ItemId">Null where a scan met it and could not take it in.</param>
public sealed record UnreadableFile(string Source, string Path, string Reason, long? ItemId);

/// <summary>How much a definition finds, counted now.</summary>
/// <param name="Remark">What is odd about its days; null where nothing is.</param>
public sealed record CountView(Tally Found, IReadOnlyList<string> Terms, string? Remark);

/// <summary>Saved searches of a matter: run as jobs, their figures kept run by run.</summary>
public static class SweepEndpoints
{
    private const int MostRows = 200;
    private const int MostUnreadable = 1_000;

    public static void MapSweeps(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/count", Count).RequiresSignIn();
        api.MapPost("/matters/{id:long}/sweeps", Add).RequiresSignIn();
        api.MapPut("/matters/{id:long}/sweeps/{sweep:long}", Change).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/sweeps/{sweep:long}", Remove).RequiresSignIn();
        api.MapPost("/matters/{id:long}/sweeps/{sweep:long}/runs", Run).RequiresSignIn();
        api.MapGet("/matters/{id:long}/sweeps/{sweep:long}/runs", Runs).RequiresSignIn();
        api.MapGet("/matters/{id:long}/runs/{run:long}/items", Items).RequiresSignIn();
        api.MapGet("/matters/{id:long}/runs/{run:long}/items.csv", Csv).RequiresSignIn();
        api.MapGet("/matters/{id:long}/runs/{run:long}/unreadable", Unreadable).RequiresSignIn();
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

    /// <summary>What a run found: all of it, or what one of its figures counts.</summary>
    private static async Task<Reply<RunPage>> Items(
        long id,
        long run,
        [AsParameters] HitChoice choice,
        string? cursor,
        int? limit,
        [AsParameters] ApiContext context
    )
    {
        var chosen = await ChoiceAsync(id, run, choice, context);
        if (chosen.Refusal is { } refusal)
        {
            return refusal;
        }

        var (where, bind, query) = chosen.Value;
        var connection = (SqliteConnection)context.Db.Database.GetDbConnection();
        var most = Math.Clamp(limit ?? MostRows, 1, MostRows);
        var after = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        using var command = connection.CreateCommand();
        command.CommandText =
            $"SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0) FROM item i WHERE {where}; SELECT i.Id FROM item i "
            + $"WHERE i.Id > $after AND {where} ORDER BY i.Id LIMIT $limit";
        bind(command);
        command.Parameters.AddWithValue("$after", after);
        command.Parameters.AddWithValue("$limit", most + 1);
        using var reader = await command.ExecuteReaderAsync(context.Cancel);
        reader.Read();
        var (total, bytes) = (reader.GetInt64(0), reader.GetInt64(1));
        reader.NextResult();
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        var rows = await ItemEndpoints.RowsAsync([.. ids.Take(most)], context.Db, context.Calendar, query);
        return new RunPage(
            [.. ids.Take(most).Select(i => rows[i])],
            ids.Count > most ? Cursor.Write(0L, ids[most - 1]) : null,
            total,
            bytes,
            await VersionEndpoints.OfRunAsync(
                [.. ids.Take(most)],
                run,
                choice.Term ?? SweepVersionHit.Whole,
                query?.Query.Condition,
                context
            ),
            await CodingEndpoints.OfItemsAsync(id, [.. ids.Take(most)], context.Db, context.Cancel),
            await CodingEndpoints.FamiliesAsync([.. ids.Take(most)], context.Db, context.Cancel)
        );
    }

    /// <summary>What could not be read in the places of a run, as the last scans of their sources left it.</summary>
    private static async Task<Reply<IReadOnlyList<UnreadableFile>>> Unreadable(
        long id,
        long run,
        [AsParameters] ApiContext context
    )
    {
        if (await RunAsync(id, run, context.Caller, context.Db, context.Cancel) is not { } known)
        {
            return Problems.NotFound("run");
        }

        var query = await HoldQuery.OfAsync(
            known.Definition with
            {
                Query = null,
            },
            id,
            context.Db,
            context.Calendar,
            context.Cancel
        );
        if (query.Refusal is { } mistake)
        {
            return mistake;
        }

        var files = await UnreadableIn(context.Db, query.Value)
            .Join(
                context.Db.Sources,
                u => u.SourceId,
                s => s.Id,
                (u, s) =>
                    new
                    {
                        Source = s.Name,
                        u.Path,
                        u.Reason,
                    }
            )
            .OrderBy(u => u.Source)
            .ThenBy(u => u.Path)
            .Take(MostUnreadable)
            .Select(u => new UnreadableFile(u.Source, u.Path, u.Reason, null))
            .ToListAsync(context.Cancel);
        var items = query
            .Value.Rows(
                (SqliteConnection)context.Db.Database.GetDbConnection(),
                "SELECT s.Name, i.Path, (SELECT l.\"Limit\" FROM item_text l WHERE l.ItemId = i.Id), i.Type, i.Id "
                    + $"{Unsearched} ORDER BY s.Name, i.Path LIMIT $most",
                command => command.Parameters.AddWithValue("$most", MostUnreadable - files.Count)
            )
            .Select(r => new UnreadableFile(
                r.GetString(0),
                r.GetString(1),
                r.IsDBNull(2) ? TextlessWords(r.GetString(3)) : r.GetString(2),
                r.GetInt64(4)
            ));
        return (Outcome<IReadOnlyList<UnreadableFile>>)
            files.Concat(items).Concat(await FormerUnreadAsync(query.Value, context)).Take(MostUnreadable).ToList();
    }

    private static async Task<IEnumerable<UnreadableFile>> FormerUnreadAsync(HoldQuery query, ApiContext context)
    {
        var places = await CustodianEndpoints.ContainerNamesAsync(context.Db, context.Cancel);
        return (await FormerVersions.UnsearchedAsync(context.Db, query, context.Cancel)).Select(c => new UnreadableFile(
            places[c.Facts.ContainerId].Source,
            c.Facts.Path,
            FormerWords(c.Facts.Searchable),
            c.ItemId
        ));
    }

    private static string FormerWords(Searchable searchable) =>
        searchable switch
        {
            Searchable.Password => "An earlier content of it is protected with a password.",
            Searchable.Scan => "An earlier content of it has no text, as in a scan.",
            Searchable.Part => "Of an earlier content of it not all text was read.",
            _ => "Of an earlier content of it no text was read.",
        };

    internal static string TextlessWords(string type) =>
        Sources.TextExtraction.Reads(type)
            ? "There is no text in it, as in a picture of pages; its words cannot be searched."
            : $"No text is drawn from {(type.Length == 0 ? "a file without a type" : $"files of the type {type}")}.";

    /// <summary>
    /// Items in the places and dates that are asked of which not every word is known: what is damaged, cut or too large to
    /// be read whole, and what has no text.
    /// </summary>
    internal const string Unsearched =
        "FROM item i JOIN container c ON c.Id = i.ContainerId JOIN source s ON s.Id = c.SourceId WHERE {reach} AND i.Bytes > "
        + "0 AND (i.Id IN (SELECT t.ItemId FROM item_text t WHERE t.\"Limit\" IS NOT NULL OR t.Text = '') OR NOT EXISTS "
        + "(SELECT 1 FROM item_text a WHERE a.ItemId = i.Id))";

    /// <summary>What lies in the places that are asked and could not be read.</summary>
    internal static IQueryable<Store.Content.Unreadable> UnreadableIn(WideKeelDb db, HoldQuery query) =>
        from u in db.Unreadables.AsNoTracking()
        where
            query.Containers == null
            || db.Containers.Any(c =>
                c.SourceId == u.SourceId
                && query.Containers.Contains(c.Id)
                && (u.Path == c.Name || u.Path.StartsWith(c.Name + "/"))
            )
        select u;

    private static async Task<SweepRun?> RunAsync(
        long id,
        long run,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        caller.Matters.ContainsKey(id)
            ? await db
                .SweepRuns.AsNoTracking()
                .SingleOrDefaultAsync(
                    r => r.Id == run && db.Sweeps.Any(s => s.Id == r.SweepId && s.MatterId == id),
                    cancel
                )
            : null;

    /// <summary>The list of ids, with what tells the items apart.</summary>
    private static async Task<IResult> Csv(
        long id,
        long run,
        [AsParameters] HitChoice choice,
        [AsParameters] ApiContext context
    )
    {
        var chosen = await ChoiceAsync(id, run, choice, context);
        return chosen.Refusal is { } refusal
            ? (Reply<Done>)refusal
            : await CsvAnswer.WriteAsync(
                context.Http,
                $"run-{MatterDoor.Text(run)}.csv",
                ["id", "source", "container", "path", "title", "bytes", "created", "modified", "author", "sha256"],
                RowsAsync(),
                context.Cancel
            );

        async IAsyncEnumerable<object?[]> RowsAsync()
        {
            using var command = ((SqliteConnection)context.Db.Database.GetDbConnection()).CreateCommand();
            command.CommandText =
                $"SELECT i.Id, s.Name, c.Name, i.Path, i.Title, i.Bytes, i.Created, i.Modified, i.Author, "
                + $"i.Hash FROM item i JOIN container c ON c.Id = i.ContainerId JOIN source s ON s.Id = "
                + $"c.SourceId WHERE {chosen.Value.Where} ORDER BY i.Id";
            chosen.Value.Bind(command);
            using var reader = await command.ExecuteReaderAsync(context.Cancel);
            while (await reader.ReadAsync(context.Cancel))
            {
                yield return
                [
                    reader.GetInt64(0),
                    reader.GetString(1),
                    reader.GetString(2),
                    reader.GetString(3),
                    reader.GetString(4),
                    reader.GetInt64(5),
                    Core.Time.DayNumber.ToDate(reader.GetInt32(6)),
                    Core.Time.DayNumber.ToDate(reader.GetInt32(7)),
                    reader.IsDBNull(8) ? null : reader.GetString(8),
                    reader.GetString(9),
                ];
            }
        }
    }

    /// <summary>Which of a run's hits are meant.</summary>
    internal sealed record HitChoice
    {
        /// <summary>An id.</summary>
        public long? Container { get; init; }

        /// <summary>An id.</summary>
        public long? Custodian { get; init; }

        /// <summary>By its place among the figures, from 0.</summary>
        public int? Term { get; init; }

        /// <summary>Of the term: <c>found</c>, as the run found them; <c>only</c>, those what no other term fits;
        /// <c>alone</c>, in the same places and dates whatever the other terms say, as it is now.</summary>
        public string? Scope { get; init; }

        /// <summary><c>added</c> or <c>gone</c>, against the run before.</summary>
        public string? Change { get; init; }

        /// <summary><c>fits</c> for the items of which a former content fits, <c>only</c> for those of them whose
        /// present content does not.</summary>
        public string? Former { get; init; }

        /// <summary>The id of a tag that they bear.</summary>
        public long? Tag { get; init; }

        /// <summary><c>no</c> for those that bear no tag, <c>yes</c> for the others.</summary>
        public string? Coded { get; init; }

        /// <summary>CQL, or plain words, that fits them too as they are now; not together with a term.</summary>
        public string? Query { get; init; }

        /// <summary>What is wrong with it, among so many terms; null when nothing is.</summary>
        public Refusal? Check(int terms) =>
            CheckTerm(terms)
            ?? Known("change", Change, "Against the run before, “added” or “gone” can be asked.", "added", "gone")
            ?? Known("coded", Coded, "Coded is asked for with “yes” or “no”.", "yes", "no")
            ?? Known("former", Former, "Of former contents, “fits” or “only” can be asked.", "fits", "only");

        private Refusal? CheckTerm(int terms) =>
            Term is { } at && (at < 0 || at >= terms) ? Problems.NotFound("term")
            : Scope is not null && Term is null ? ScopeUnknown
            : Known("scope", Scope, ScopeUnknown.Sentence, "found", "only", "alone") is { } unknown ? unknown
            : Query is not null && Term is not null
                ? new("query-or-term", "query", "Ask for a term or by a query of your own, not both.")
            : Scope == "alone" && this with { Term = null, Scope = null } != new HitChoice()
                ? new(
                    "scope-alone",
                    "scope",
                    "A term alone is asked for in all places of the sweep, whatever a run found; leave out everything else."
                )
            : null;

        private static Refusal ScopeUnknown { get; } =
            new("scope-unknown", "scope", "The scope is found, only or alone, of a term.");

        private static Refusal? Known(string field, string? said, string sentence, params string[] known) =>
            said is null || known.Contains(said) ? null : new($"{field}-unknown", field, sentence);

        /// <summary>The words to be marked: of the one term, or of the whole query.</summary>
        public string? Words(string? query, IReadOnlyList<string> terms)
        {
            var one = Term is { } at ? terms[at] : null;
            var others = terms.Where(t => t != one).ToList();
            return one is null ? query
                : Scope == "only" && others.Count > 0
                    ? $"({one}) not ({string.Join(" or ", others.Select(o => $"({o})"))})"
                : one;
        }
    }

    /// <summary>A custodian of another matter is as unknown here as one that does not exist.</summary>
    private static async Task<Refusal?> CheckCustodianAsync(long id, HitChoice choice, ApiContext context) =>
        choice.Custodian is { } custodian
        && !await context.Db.Custodians.AnyAsync(c => c.Id == custodian && c.MatterId == id, context.Cancel)
            ? Problems.NotFound("custodian")
            : null;

    internal static async Task<
        Outcome<(string Where, Action<SqliteCommand> Bind, Store.Content.QuerySql? Query)>
    > ChoiceAsync(long id, long run, HitChoice choice, ApiContext context)
    {
        if (await RunAsync(id, run, context.Caller, context.Db, context.Cancel) is not { } known)
        {
            return Problems.NotFound("run");
        }

        var terms = QueryTerms.Of(known.Definition.Query);
        if ((choice.Check(terms.Count) ?? await CheckCustodianAsync(id, choice, context)) is { } wrong)
        {
            return wrong;
        }

        await context.Db.Database.OpenConnectionAsync(context.Cancel);
        var (where, bind) = await InRunAsync(id, run, known.SweepId, choice, context);
        var query = await HoldQuery.OfAsync(
            (choice.Scope == "alone" ? known.Definition : HoldDefinition.Everything) with
            {
                Query = choice.Query ?? choice.Words(known.Definition.Query, terms),
            },
            id,
            context.Db,
            context.Calendar,
            context.Cancel
        );
        if (query.Refusal is { } mistake)
        {
            // Where the words cannot be marked, the items that the run found are shown all the same.
            return choice.Query is null && choice.Term is null ? (where, bind, null) : mistake;
        }

        if (choice.Scope == "alone")
        {
            return (query.Value.Where, query.Value.Bind, query.Value.Query);
        }

        if (query.Value.Query is not { } asked || (choice.Query is null && choice.Term is null))
        {
            return (where, bind, query.Value.Query);
        }

        var condition = choice.Query is null ? SweepHits.OfTerm(asked.Where, choice.Scope == "only") : asked.Where;
        return (
            $"{where} AND {condition}",
            command =>
            {
                bind(command);
                asked.Bind(command);
                command.Parameters.AddWithValue("$term", choice.Term ?? (object)DBNull.Value);
            },
            asked
        );
    }

    /// <summary>The conditions of a choice but for that of a custodian.</summary>
    private static List<string> PartsOf(HitChoice choice)
    {
        const string hits = "SELECT ItemId FROM sweep_hit WHERE RunId = ";
        const string coded = "SELECT ItemId FROM matter_item_tag WHERE TagId IN " + CodingEndpoints.Own;
        List<string> parts =
        [
            choice.Change switch
            {
                "gone" => $"i.Id IN ({hits}$before EXCEPT {hits}$run)",
                "added" => $"i.Id IN ({hits}$run EXCEPT {hits}$before)",
                _ => $"i.Id IN ({hits}$run)",
            },
        ];
        if (choice.Container is not null)
        {
            parts.Add("i.ContainerId = $place");
        }

        if (choice.Tag is not null)
        {
            parts.Add($"i.Id IN ({coded} AND TagId = $tag)");
        }

        if (choice.Coded is { } said)
        {
            parts.Add($"i.Id {(said == "no" ? "NOT " : "")}IN ({coded})");
        }

        if (choice.Former is { } former)
        {
            parts.Add(SweepHits.OfFormer(former == "only"));
        }

        return parts;
    }

    /// <summary>
    /// The items of a run, in the places and of the custodian that are chosen, as a condition over <c>i</c>.
    /// </summary>
    private static async Task<(string Where, Action<SqliteCommand> Bind)> InRunAsync(
        long matter,
        long run,
        long sweep,
        HitChoice choice,
        ApiContext context
    )
    {
        var before = choice.Change is null
            ? 0
            : await context
                .Db.SweepRuns.Where(r => r.SweepId == sweep && r.Id < run && r.State == RunState.Done)
                .MaxAsync(r => (long?)r.Id, context.Cancel)
                ?? 0;
        var parts = PartsOf(choice);
        HoldQuery? theirs = null;
        var former = "[]";
        if (choice.Custodian is { } person)
        {
            theirs = await HoldQuery.OfCustodianAsync(person, matter, context.Db, context.Calendar, context.Cancel);
            former = await FormerVersions.OfRunAsync(context.Db, run, theirs, context.Cancel);
            parts.Add(FormerVersions.Fits.Replace("{where}", theirs.Where, StringComparison.Ordinal));
        }

        return (
            string.Join(" AND ", parts),
            command =>
            {
                command.Parameters.AddWithValue("$run", run);
                command.Parameters.AddWithValue("$before", before);
                command.Parameters.AddWithValue("$place", (object?)choice.Container ?? DBNull.Value);
                command.Parameters.AddWithValue("$tag", (object?)choice.Tag ?? DBNull.Value);
                command.Parameters.AddWithValue("$matter", matter);
                command.Parameters.AddWithValue("$former", former);
                if (theirs is null)
                {
                    command.Parameters.AddWithValue("$today", context.Calendar.Today.ToDayNumber());
                }

                theirs?.Bind(command);
            }
        );
    }
}
