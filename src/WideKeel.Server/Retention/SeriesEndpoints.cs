using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Ledger;
using WideKeel.Server.SignIn;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>A series in the list.</summary>
/// <param name="Earliest">Among its items: the earliest date on which a clock starts, for the tideline.</param>
/// <param name="Latest">Among its items: the latest keep-until date.</param>
public sealed record SeriesRow(
    long Id, string Code, string Title, long UnitId, string Unit, string Function, SeriesState State, bool HasDraft, SeriesDefinition Definition,
    long Items, long Bytes, long Due, long Waiting, LocalDate? Earliest, LocalDate? Latest, string Rule);

public sealed record SeriesDetail(SeriesRow Row, SeriesDefinition? InForce, SeriesDefinition? Draft, string? DraftBy, Instant? DraftAt, int Version, bool MayWrite, long Revision) : IRevised;

public sealed record SeriesVersionView(int Number, SeriesDefinition Definition, string By, Instant At, string Why, IReadOnlyList<string> Changed);

public sealed record NewSeries(string Code, long UnitId, SeriesDefinition Draft);

/// <param name="Fingerprint">Of the consequences that were on screen.</param>
/// <param name="Why">Kept with the version.</param>
public sealed record Activation(string Fingerprint, string Why);

public static class SeriesEndpoints
{
    public static void MapSeries(this IEndpointRouteBuilder api)
    {
        api.MapGet("/series", List).Requires(Right.ReadSchedule);
        api.MapPost("/series", Create).Requires(Right.WriteSchedule);
        api.MapGet("/series/{id:long}", Show).Requires(Right.ReadSchedule);
        api.MapPut("/series/{id:long}/draft", SaveDraft).Requires(Right.WriteSchedule);
        api.MapDelete("/series/{id:long}/draft", DropDraft).Requires(Right.WriteSchedule);
        api.MapGet("/series/{id:long}/versions", Versions).Requires(Right.ReadSchedule);
        api.MapGet("/series/{id:long}/history", History).Requires(Right.ReadSchedule);
        api.MapPost("/series/{id:long}/consequences", Preview).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/consequences/{group}", PreviewGroup).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/activation", Activate).Requires(Right.WriteSchedule);
    }

    private static async Task<Reply<IReadOnlyList<SeriesRow>>> List(Caller caller, WideKeelDb db, Calendar calendar) =>
        (Outcome<IReadOnlyList<SeriesRow>>)await RowsAsync(null, caller, db, calendar);

    internal static async Task<List<SeriesRow>> RowsAsync(long? only, Caller caller, WideKeelDb db, Calendar calendar)
    {
        var all = await db.Series.AsNoTracking().Include(s => s.Unit).Where(s => only == null || s.Id == only).OrderBy(s => s.Code).ToListAsync();
        var visible = caller.Units(Right.ReadSchedule);
        var coverage = await CoverageAsync(db, visible, calendar.Today.ToDayNumber(), only);
        return [.. all.Where(s => caller.MaySee(Right.ReadSchedule, s.UnitId)).Select(s =>
        {
            var definition = s.InForce ?? s.Draft!;
            var figures = coverage.GetValueOrDefault(s.Id, new Coverage(0, 0, 0, 0, null, null));
            return new SeriesRow(s.Id, s.Code, definition.Title, s.UnitId, s.Unit!.Name, definition.Function, s.State, s.Draft is not null, definition,
                figures.Items, figures.Bytes, figures.Due, figures.Waiting, figures.Earliest, figures.Latest, RuleWords.Short(definition));
        })];
    }

    private static async Task<Reply<SeriesDetail>> Show(long id, Caller caller, WideKeelDb db, Calendar calendar) => await DetailAsync(id, caller, db, calendar);

    private static async Task<Outcome<SeriesDetail>> DetailAsync(long id, Caller caller, WideKeelDb db, Calendar calendar)
    {
        var rows = await RowsAsync(id, caller, db, calendar);
        if (rows.Count == 0)
        {
            return Problems.NotFound("series");
        }

        var series = await db.Series.AsNoTracking().SingleAsync(s => s.Id == id);
        return new SeriesDetail(rows[0], series.InForce, series.Draft, series.DraftBy, series.DraftAt, series.VersionInForce, caller.May(Right.WriteSchedule, series.UnitId), series.Revision);
    }

    private static async Task<Reply<SeriesDetail>> Create(NewSeries request, Caller caller, Writer writer, WideKeelDb db, Calendar calendar, CancellationToken cancel)
    {
        var code = SeriesCode.Parse(request.Code);
        if (code.Refused)
        {
            return code.Refusal!;
        }

        if (caller.Check(Right.WriteSchedule, request.UnitId, "unit") is { } outside)
        {
            return outside;
        }

        var rule = request.Draft.Check();
        if (rule.Refused)
        {
            return rule.Refusal!;
        }

        var created = await writer.RunAsync<long>(caller.Actor, async session =>
        {
            if (await session.Db.Series.AnyAsync(s => s.Code == request.Code, cancel))
            {
                // Codes are unique over the whole organisation, and a code tells nothing.
                return new Refusal("code-taken", "code", $"The code {request.Code} is taken.");
            }

            var series = new Series
            {
                Code = code.Value.Value,
                UnitId = request.UnitId,
                Title = request.Draft.Title,
                State = SeriesState.Draft,
                Draft = request.Draft,
                DraftBy = caller.Name,
                DraftAt = session.Now,
            };
            session.Db.Series.Add(series);
            await session.Db.SaveChangesAsync(cancel);
            session.Record("drafted", Subject(series, caller), after: AsJson(request.Draft));
            return series.Id;
        }, cancel);
        return created.Refused ? created.Refusal! : await DetailAsync(created.Value, caller, db, calendar);
    }

    private static async Task<Reply<SeriesDetail>> SaveDraft(long id, SeriesDefinition draft, HttpContext http, Caller caller, Writer writer, WideKeelDb db, Calendar calendar, CancellationToken cancel)
    {
        var rule = draft.Check();
        if (rule.Refused)
        {
            return rule.Refusal!;
        }

        return await ChangeAtOnceAsync(id, http, caller, writer, db, calendar, (session, series) =>
        {
            session.Record("drafted", Subject(series, caller), AsJson(series.Draft ?? series.InForce), AsJson(draft));
            (series.Draft, series.DraftBy, series.DraftAt) = (draft, caller.Name, session.Now);
            if (series.InForce is null)
            {
                series.Title = draft.Title;
            }

            return null;
        }, cancel);
    }

    private static async Task<Reply<SeriesDetail>> DropDraft(long id, HttpContext http, Caller caller, Writer writer, WideKeelDb db, Calendar calendar, CancellationToken cancel) =>
        await ChangeAtOnceAsync(id, http, caller, writer, db, calendar, (session, series) =>
        {
            if (series.InForce is null)
            {
                return new Refusal("draft-is-all", null, "This series has nothing but its draft; it cannot be dropped.");
            }

            session.Record("draft-dropped", Subject(series, caller), AsJson(series.Draft));
            (series.Draft, series.DraftBy, series.DraftAt) = (null, null, null);
            return null;
        }, cancel);

    private static async Task<Reply<SeriesDetail>> Activate(long id, Activation request, HttpContext http, Caller caller, Writer writer, WideKeelDb db, Calendar calendar, JobBoard queue, CancellationToken cancel)
    {
        if (string.IsNullOrWhiteSpace(request.Why) || request.Why.Length > 1000)
        {
            return new Refusal("why-missing", "why", "Say in a sentence why; it stays with the version. At most 1,000 characters.");
        }

        var result = await ChangeAsync(id, http, caller, writer, db, calendar, async (session, series) =>
        {
            if (series.Draft is not { } draft)
            {
                return new Refusal("no-draft", null, "There is no draft to put into effect.");
            }

            var rule = draft.Check();
            if (rule.Refused)
            {
                return rule.Refusal;
            }

            var evaluator = calendar.Evaluator;
            var before = series.InForce?.Check().Value;
            var now = await Previews.SummariseAsync(session.Db, evaluator, Previews.OfDraft(session.Connection, evaluator, id, before, rule.Value), 0);
            if (now.Fingerprint != request.Fingerprint)
            {
                return new Refusal("consequences-changed", "fingerprint",
                    string.Create(CultureInfo.InvariantCulture, $"The consequences have changed since you looked: {now.Figures.BecomeDue.Items:N0} items would become due today. Nothing was done; look again."));
            }

            var was = series.InForce;
            (series.InForce, series.Draft, series.DraftBy, series.DraftAt) = (draft, null, null, null);
            (series.Title, series.State, series.VersionInForce) = (draft.Title, SeriesState.Active, series.VersionInForce + 1);
            session.Db.SeriesVersions.Add(new() { SeriesId = id, Number = series.VersionInForce, Definition = draft, By = caller.Name, At = session.Now, Why = request.Why.Trim() });
            await session.Db.SaveChangesAsync(cancel);
            ItemScan.WriteStandings(session, evaluator, rule.Value, "i.SeriesId = $seriesId", c => c.Parameters.AddWithValue("$seriesId", id));
            await JobBoard.AddAsync(session, JobBoard.CaptureKind, id, $"Copies for {series.Code}", caller.PathOf(series.UnitId).Value, caller.Name);
            var after = AsJson(draft)!.AsObject();
            after["version"] = series.VersionInForce;
            after["becameDue"] = now.Figures.BecomeDue.Items;
            session.Record("put-into-effect", Subject(series, caller), AsJson(was), after, request.Why.Trim());
            return null;
        }, cancel);
        queue.Wake();
        return result;
    }

    private static Task<Reply<SeriesDetail>> ChangeAtOnceAsync(long id, HttpContext http, Caller caller, Writer writer, WideKeelDb db, Calendar calendar, Func<WriteSession, Series, Refusal?> change, CancellationToken cancel) =>
        ChangeAsync(id, http, caller, writer, db, calendar, (session, series) => Task.FromResult(change(session, series)), cancel);

    /// <summary>One guarded change of a series: in the remit, not stale, in one transaction.</summary>
    private static async Task<Reply<SeriesDetail>> ChangeAsync(long id, HttpContext http, Caller caller, Writer writer, WideKeelDb db, Calendar calendar, Func<WriteSession, Series, Task<Refusal?>> change, CancellationToken cancel)
    {
        var done = await writer.RunAsync<bool>(caller.Actor, async session =>
        {
            var series = await session.Db.Series.SingleOrDefaultAsync(s => s.Id == id, cancel);
            if (series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId))
            {
                return Problems.NotFound("series");
            }

            if (!caller.May(Right.WriteSchedule, series.UnitId))
            {
                return new Refusal("not-allowed", null, "This series belongs to a part of the organisation above yours; it rules you, but you do not write it.");
            }

            if (Problems.CheckMatch(http, series.Revision) is { } stale)
            {
                return stale;
            }

            if (await change(session, series) is { } refusal)
            {
                return refusal;
            }

            series.Revision++;
            return true;
        }, cancel);
        return done.Refused ? done.Refusal! : await DetailAsync(id, caller, db, calendar);
    }

    private static async Task<Reply<IReadOnlyList<SeriesVersionView>>> Versions(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel);
        if (series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId))
        {
            return Problems.NotFound("series");
        }

        var versions = await db.SeriesVersions.AsNoTracking().Where(v => v.SeriesId == id).OrderBy(v => v.Number).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<SeriesVersionView>>)versions
            .Select((v, i) => new SeriesVersionView(v.Number, v.Definition, v.By, v.At, v.Why, i == 0 ? [] : v.Definition.DifferencesFrom(versions[i - 1].Definition)))
            .Reverse().ToList();
    }

    private static async Task<Reply<IReadOnlyList<LedgerView>>> History(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel);
        return series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId)
            ? Problems.NotFound("series")
            : (Outcome<IReadOnlyList<LedgerView>>)await LedgerEndpoints.HistoryAsync(db, "series", id, cancel);
    }

    private static async Task<Reply<ConsequencesView>> Preview(long id, SeriesDefinition draft, Caller caller, WideKeelDb db, Calendar calendar) =>
        await WithDraftAsync<ConsequencesView>(id, draft, caller, db, async (connection, before, after) =>
        {
            var evaluator = calendar.Evaluator;
            var untouchable = Previews.CountUntouchable(connection, "i.SeriesId = $seriesId", c => c.Parameters.AddWithValue("$seriesId", id));
            return await Previews.SummariseAsync(db, evaluator, Previews.OfDraft(connection, evaluator, id, before, after), untouchable);
        });

    private static async Task<Reply<ItemPage>> PreviewGroup(long id, string group, SeriesDefinition draft, string? cursor, Caller caller, WideKeelDb db, Calendar calendar) =>
        await WithDraftAsync<ItemPage>(id, draft, caller, db, async (connection, before, after) =>
        {
            if (!Enum.TryParse<Effects>(group, ignoreCase: true, out var effects))
            {
                return Problems.NotFound("group");
            }

            var evaluator = calendar.Evaluator;
            return await GroupPageAsync(evaluator, Previews.OfDraft(connection, evaluator, id, before, after), effects, cursor, db, calendar);
        });

    internal static async Task<Outcome<ItemPage>> GroupPageAsync(Evaluator evaluator, IEnumerable<(FactsRow Row, Standing Before, Standing After)> pass, Effects group, string? cursor, WideKeelDb db, Calendar calendar)
    {
        const int limit = 100;
        var from = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        var all = Previews.Members(evaluator, pass, group, 0, int.MaxValue);
        var ids = all.Where(i => i > from).Take(limit + 1).ToList();
        var rows = await ItemEndpoints.RowsAsync([.. ids.Take(limit)], db, calendar);
        return new ItemPage([.. ids.Take(limit).Select(i => rows[i])], ids.Count > limit ? Cursor.Write(0L, ids[limit - 1]) : null, all.Count, 0);
    }

    private static async Task<Outcome<T>> WithDraftAsync<T>(long id, SeriesDefinition draft, Caller caller, WideKeelDb db, Func<SqliteConnection, Rule?, Rule, Task<Outcome<T>>> work)
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id);
        if (series is null || caller.Check(Right.WriteSchedule, series.UnitId, "series") is not null)
        {
            return Problems.NotFound("series");
        }

        var rule = draft.Check();
        if (rule.Refused)
        {
            return rule.Refusal!;
        }

        await db.Database.OpenConnectionAsync();
        return await work((SqliteConnection)db.Database.GetDbConnection(), series.InForce?.Check().Value, rule.Value);
    }

    private static LedgerSubject Subject(Series series, Caller caller) =>
        new("series", series.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(series.UnitId).Value);

    private static JsonNode? AsJson(SeriesDefinition? definition) => System.Text.Json.JsonSerializer.SerializeToNode(definition, Json.Options);

    private sealed record Coverage(long Items, long Bytes, long Due, long Waiting, LocalDate? Earliest, LocalDate? Latest);

    private static async Task<Dictionary<long, Coverage>> CoverageAsync(WideKeelDb db, IReadOnlyCollection<long>? units, int today, long? only)
    {
        await db.Database.OpenConnectionAsync();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        var filter = new ItemFilter(units) { Series = only is { } id ? [id] : [] };
        command.CommandText = $"""
            SELECT i.SeriesId, COUNT(*), SUM(i.Bytes), SUM(i.DisposableFrom <= $today AND i.BatchId IS NULL), SUM(i.KeepUntil = {KeepUntil.AwaitingEvent.Code}),
                MIN(i.Created), MAX(CASE WHEN i.KeepUntil < {KeepUntil.AwaitingEvent.Code} THEN i.KeepUntil END)
            FROM item i JOIN container c ON c.Id = i.ContainerId
            WHERE i.SeriesId IS NOT NULL AND i.DestroyedAt IS NULL AND {filter.Where()} GROUP BY i.SeriesId
            """;
        filter.Bind(command, today);
        using var reader = await command.ExecuteReaderAsync();
        Dictionary<long, Coverage> coverage = [];
        while (reader.Read())
        {
            coverage[reader.GetInt64(0)] = new(reader.GetInt64(1), reader.GetInt64(2), Number(3), Number(4), Date(5), Date(6));
        }

        return coverage;

        long Number(int column) => reader.IsDBNull(column) ? 0 : reader.GetInt64(column);

        LocalDate? Date(int column) => reader.IsDBNull(column) ? null : DayNumber.ToDate(reader.GetInt32(column));
    }
}
