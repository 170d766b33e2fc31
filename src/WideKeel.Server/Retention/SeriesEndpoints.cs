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
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>A series with its definition and the figures of its items.</summary>
/// <param name="Earliest">Among its items: the earliest date on which a clock starts, for the tideline.</param>
/// <param name="Latest">Among its items: the latest keep-until date.</param>
public sealed record SeriesRow(
    long Id,
    string Code,
    string Title,
    long UnitId,
    string Unit,
    string Function,
    SeriesState State,
    bool HasDraft,
    SeriesDefinition Definition,
    long Items,
    long Bytes,
    long Due,
    long Waiting,
    LocalDate? Earliest,
    LocalDate? Latest,
    string Rule
);

public sealed record SeriesDetail(
    SeriesRow Row,
    SeriesDefinition? InForce,
    SeriesDefinition? Draft,
    string? DraftBy,
    Instant? DraftAt,
    int Version,
    bool MayWrite,
    long Revision
) : IRevised;

public sealed record SeriesVersionView(
    int Number,
    SeriesDefinition Definition,
    string By,
    Instant At,
    string Why,
    IReadOnlyList<string> Changed
);

public sealed record NewSeries(string Code, long UnitId, SeriesDefinition Draft);

/// <param name="Fingerprint">Of the consequences that were on screen.</param>
/// <param name="Why">Kept with the version.</param>
/// <param name="Confirmed">Needed where items come under WORM, which nobody can undo.</param>
public sealed record Activation(string Fingerprint, string Why, bool? Confirmed = null);

/// <summary>Nothing new is filed under a retired series.</summary>
/// <param name="SuccessorId">Where its items go; null leaves them under its last version until they are disposed
/// of.</param>
/// <param name="Fingerprint">Of the consequences that were on screen; not needed to ask for them.</param>
public sealed record Retirement(long? SuccessorId, string? Fingerprint = null, string? Why = null);

public static class SeriesEndpoints
{
    public static void MapSeries(this IEndpointRouteBuilder api)
    {
        api.MapSeriesList();
        api.MapPost("/series", Create).Requires(Right.WriteSchedule);
        api.MapGet("/series/{id:long}", Show).Requires(Right.ReadSchedule);
        api.MapPut("/series/{id:long}/draft", SaveDraft).Requires(Right.WriteSchedule);
        api.MapDelete("/series/{id:long}/draft", DropDraft).Requires(Right.WriteSchedule);
        api.MapDelete("/series/{id:long}", DropSeries).Requires(Right.WriteSchedule);
        api.MapGet("/series/{id:long}/versions", Versions).Requires(Right.ReadSchedule);
        api.MapGet("/series/{id:long}/history", History).Requires(Right.ReadSchedule);
        api.MapPost("/series/{id:long}/consequences", Consequences).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/consequences/{group}", ConsequencesGroup).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/activation", Activate).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/retirement/consequences", RetirementConsequences).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/retirement/consequences/{group}", RetirementGroup).Requires(Right.WriteSchedule);
        api.MapPost("/series/{id:long}/retirement", Retire).Requires(Right.WriteSchedule);
    }

    internal static async Task<List<SeriesRow>> RowsAsync(
        long? only,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var all = await db
            .Series.AsNoTracking()
            .Include(s => s.Unit)
            .Where(s => only == null || s.Id == only)
            .OrderBy(s => s.Code)
            .ToListAsync();
        var visible = caller.Units(Right.ReadSchedule);
        var coverage = await CoverageAsync(db, visible, calendar.Today.ToDayNumber(), only);
        return
        [
            .. all.Where(s => caller.MaySee(Right.ReadSchedule, s.UnitId))
                .Select(s =>
                {
                    var definition = s.InForce ?? s.Draft!;
                    var figures = coverage.GetValueOrDefault(s.Id, new Coverage(0, 0, 0, 0, null, null));
                    return new SeriesRow(
                        s.Id,
                        s.Code,
                        definition.Title,
                        s.UnitId,
                        s.Unit!.Name,
                        definition.Descriptors.Function,
                        s.State,
                        s.Draft is not null,
                        definition,
                        figures.Items,
                        figures.Bytes,
                        figures.Due,
                        figures.Waiting,
                        figures.Earliest,
                        figures.Latest,
                        RuleWords.Short(definition)
                    );
                }),
        ];
    }

    private static async Task<Reply<SeriesDetail>> Show(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) => await DetailAsync(id, caller, db, calendar);

    private static async Task<Outcome<SeriesDetail>> DetailAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var rows = await RowsAsync(id, caller, db, calendar);
        if (rows.Count == 0)
        {
            return Problems.NotFound("series");
        }

        var series = await db.Series.AsNoTracking().SingleAsync(s => s.Id == id);
        return new SeriesDetail(
            rows[0],
            series.InForce,
            series.Draft,
            series.DraftBy,
            series.DraftAt,
            series.VersionInForce,
            caller.May(Right.WriteSchedule, series.UnitId),
            series.Revision
        );
    }

    private static async Task<Reply<SeriesDetail>> Create(NewSeries request, [AsParameters] ApiContext context)
    {
        var code = SeriesCode.Parse(request.Code);
        if (code.Refused)
        {
            return code.Refusal!;
        }

        if (context.Caller.Check(Right.WriteSchedule, request.UnitId, "unit") is { } outside)
        {
            return outside;
        }

        var rule = request.Draft.Check(request.Code ?? "");
        if (rule.Refused)
        {
            return rule.Refusal!;
        }

        var created = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                if (await session.Db.Series.AnyAsync(s => s.Code == request.Code, context.Cancel))
                {
                    // Codes are unique over the whole organisation, and a code tells nothing.
                    return Refusal.Conflict("code-taken", "code", $"The code {request.Code} is taken.");
                }

                if (
                    await SeriesGuard.CheckAsync(
                        session,
                        new Series { Code = request.Code!, Title = request.Draft.Title },
                        request.Draft,
                        context.Caller
                    ) is
                    { } guarded
                )
                {
                    return guarded;
                }

                return (
                    await WriteDraftAsync(
                        session,
                        null,
                        code.Value.Value,
                        request.UnitId,
                        request.Draft,
                        context.Caller,
                        context.Cancel
                    )
                ).Id;
            },
            context.Cancel
        );
        return created.Refused
            ? created.Refusal!
            : await DetailAsync(created.Value, context.Caller, context.Db, context.Calendar);
    }

    private static async Task<Reply<SeriesDetail>> SaveDraft(
        long id,
        SeriesDefinition draft,
        [AsParameters] ApiContext context
    )
    {
        var rule = draft.Check("");
        if (rule.Refused)
        {
            return rule.Refusal!;
        }

        return await ChangeAsync(
            id,
            context,
            async (session, series) =>
            {
                if (await SeriesGuard.CheckAsync(session, series, draft, context.Caller) is { } guarded)
                {
                    return guarded;
                }

                await WriteDraftAsync(
                    session,
                    series,
                    series.Code,
                    series.UnitId,
                    draft,
                    context.Caller,
                    context.Cancel
                );
                return null;
            }
        );
    }

    /// <summary>Notes a draft of a series, or of a new one where there is none yet. Nothing rules by it.</summary>
    private static async Task<Series> WriteDraftAsync(
        WriteSession session,
        Series? series,
        string code,
        long unitId,
        SeriesDefinition draft,
        Caller caller,
        CancellationToken cancel
    ) => (await WriteDraftsAsync(session, [(series, code, unitId, draft)], caller, cancel))[0];

    /// <summary>
    /// The same for many at once: written together, because each writing looks through all that is loaded.
    /// </summary>
    internal static async Task<IReadOnlyList<Series>> WriteDraftsAsync(
        WriteSession session,
        IEnumerable<(Series? Series, string Code, long UnitId, SeriesDefinition Draft)> drafts,
        Caller caller,
        CancellationToken cancel
    )
    {
        List<(Series Series, SeriesDefinition? Before)> written = [];
        foreach (var (known, code, unitId, draft) in drafts)
        {
            var series =
                known
                ?? session
                    .Db.Series.Add(
                        new()
                        {
                            Code = code,
                            UnitId = unitId,
                            Title = draft.Title,
                        }
                    )
                    .Entity;
            written.Add((series, series.Draft ?? series.InForce));
            (series.Draft, series.DraftBy, series.DraftAt) = (draft, caller.Name, session.Now);
            series.Title = series.InForce?.Title ?? draft.Title;
            if (known is not null)
            {
                series.Revision++;
            }
        }

        await session.Db.SaveChangesAsync(cancel);
        foreach (var (series, before) in written)
        {
            session.Record("drafted", Subject(series, caller), AsJson(before), AsJson(series.Draft));
        }

        return [.. written.Select(w => w.Series)];
    }

    private static async Task<Reply<SeriesDetail>> DropDraft(long id, [AsParameters] ApiContext context) =>
        await ChangeAsync(
            id,
            context,
            (session, series) =>
            {
                if (series.InForce is null)
                {
                    return Task.FromResult<Refusal?>(
                        new("draft-is-all", null, "This series has nothing but its draft; drop the series as a whole.")
                    );
                }

                session.Record("draft-dropped", Subject(series, context.Caller), AsJson(series.Draft));
                (series.Draft, series.DraftBy, series.DraftAt) = (null, null, null);
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static async Task<Reply<SeriesDetail>> Activate(
        long id,
        Activation request,
        [AsParameters] ApiContext context
    ) =>
        Problems.CheckWhy(request.Why) is { } unsaid ? unsaid
        : Problems.ReadMatch(context.Http, out var revision) is { } unmatched ? unmatched
        : await DetailAsync(
            id,
            await ActRunner.RunAsync(
                PutSeriesIntoEffectHandler.Instance,
                new(id, revision, request.Confirmed == true, request.Why.Trim()),
                context,
                request.Why,
                request.Fingerprint ?? ""
            ),
            context
        );

    /// <summary>The series as an act left it.</summary>
    private static async Task<Reply<SeriesDetail>> DetailAsync(
        long id,
        Outcome<ActDone<Done>> done,
        ApiContext context
    ) => done.Refusal is { } refusal ? refusal : await DetailAsync(id, context.Caller, context.Db, context.Calendar);

    /// <summary>A series that the caller writes, where it is at this revision.</summary>
    internal static async Task<Outcome<Series>> WritableAsync(ActContext context, long id, long revision)
    {
        var series = await context.Db.Series.SingleOrDefaultAsync(s => s.Id == id, context.Cancel);
        return Writable(series, context.Caller) is { } refusal ? refusal
            : series!.Revision != revision ? Problems.Stale
            : series;
    }

    private static Refusal? Writable(Series? series, Caller caller) =>
        series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId) ? Problems.NotFound("series")
        : caller.May(Right.WriteSchedule, series.UnitId) ? null
        : Refusal.Forbidden(
            "not-allowed",
            null,
            "This series belongs to a part of the organisation above yours; it rules you, but you do not write it."
        );

    /// <summary>Makes a draft the version in force; the standings are written by whoever calls.</summary>
    /// <param name="becameDue">Where it was counted for this series alone.</param>
    /// <param name="askedById">Who asked the caller to agree; null where the caller wants it.</param>
    internal static void Adopt(
        WriteSession session,
        Series series,
        SeriesDefinition draft,
        Caller caller,
        string why,
        long? becameDue = null,
        long? askedById = null
    )
    {
        var was = series.InForce;
        if (was is null || !was.RulesAs(draft))
        {
            series.EffectById = askedById ?? caller.PersonId;
            series.EffectWithId = askedById is null ? null : caller.PersonId;
        }

        (series.InForce, series.Draft, series.DraftBy, series.DraftAt) = (draft, null, null, null);
        (series.Title, series.State, series.VersionInForce) = (
            draft.Title,
            SeriesState.Active,
            series.VersionInForce + 1
        );
        session.Db.SeriesVersions.Add(
            new()
            {
                SeriesId = series.Id,
                Number = series.VersionInForce,
                Definition = draft,
                By = caller.Name,
                At = session.Now,
                Why = why,
            }
        );
        series.Revision++;
        var entry = AsJson(draft)!.AsObject();
        entry["version"] = series.VersionInForce;
        entry["becameDue"] = becameDue;
        session.Record("put-into-effect", Subject(series, caller), AsJson(was), entry, why);
    }

    /// <summary>
    /// Drops a series that was never in force, with all that only it was for. What was filed under it is under no
    /// series again.
    /// </summary>
    private static async Task<Reply<Done>> DropSeries(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var db = session.Db;
                var series = await db.Series.SingleOrDefaultAsync(s => s.Id == id, context.Cancel);
                if (series is null || !context.Caller.May(Right.WriteSchedule, series.UnitId))
                {
                    return Problems.NotFound("series");
                }

                if (series.InForce is not null || series.State == SeriesState.Retired)
                {
                    return Refusal.Conflict(
                        "series-was-in-force",
                        null,
                        $"{series.Code} was in force: it can be retired, and its history stays."
                    );
                }

                if (Problems.CheckMatch(context.Http, series.Revision) is { } stale)
                {
                    return stale;
                }

                if (await CheckUnusedAsync(db, series, context.Cancel) is { } used)
                {
                    return used;
                }

                await UnfileAsync(session, id, context.Calendar, context.Cancel);
                await db.FilingDefaults.Where(d => d.SeriesId == id).ExecuteDeleteAsync(context.Cancel);
                await db.FilingSuggestions.Where(g => g.SeriesId == id).ExecuteDeleteAsync(context.Cancel);
                session.Record("series-dropped", Subject(series, context.Caller), AsJson(series.Draft));
                db.Series.Remove(series);
                await db.SaveChangesAsync(context.Cancel);
                await ProposalBook.CloseOvertakenAsync(session, context.Caller, context.Calendar, context.Cancel);
                return new Done();
            },
            context.Cancel
        );

    /// <summary>
    /// What would point to nothing if the series were dropped: filing rules, and marks of a batch. A proposal to file under
    /// it closes itself.
    /// </summary>
    private static async Task<Refusal?> CheckUnusedAsync(WideKeelDb db, Series series, CancellationToken cancel)
    {
        var rules = await db
            .FilingRules.Where(r => r.SeriesId == series.Id)
            .OrderBy(r => r.Id)
            .Select(r => r.Name)
            .ToListAsync(cancel);
        if (rules.Count > 0)
        {
            return InUse(
                $"Filing rules file under {series.Code}: {string.Join(", ", rules)}. Let them file under another series first."
            );
        }

        if (await db.BatchLines.Where(l => l.RefileTo == series.Id).AnyAsync(cancel))
        {
            return InUse($"A batch files items under {series.Code}. Put it into effect and retire it instead.");
        }

        return null;

        static Refusal InUse(string sentence) => Refusal.Conflict("series-in-use", null, sentence);
    }

    private static async Task UnfileAsync(
        WriteSession session,
        long series,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var filed = await session
            .Db.Items.Where(i => i.SeriesId == series)
            .Join(session.Db.Containers, i => i.ContainerId, c => c.Id, (i, c) => new { i.Id, c.UnitId })
            .Join(session.Db.Units, i => i.UnitId, u => u.Id, (i, u) => new { i.Id, u.Path })
            .ToListAsync(cancel);
        if (filed.Count > 0)
        {
            await FilingEndpoints.ApplyAsync(
                session,
                [.. filed.Select(i => new FilingEndpoints.FiledItem(i.Id, series, i.Path, Grade.None))],
                null,
                new("", FiledHow.Hand, null),
                await Ruling.LoadAsync(session.Db, calendar.Evaluator),
                cancel
            );
        }
    }

    /// <summary>One guarded change of a series: in the remit, not stale, in one transaction.</summary>
    private static async Task<Reply<SeriesDetail>> ChangeAsync(
        long id,
        ApiContext context,
        Func<WriteSession, Series, Task<Refusal?>> change
    )
    {
        var (caller, cancel) = (context.Caller, context.Cancel);
        var done = await context.Writer.RunAsync<bool>(
            caller.Actor,
            async session =>
            {
                var series = await session.Db.Series.SingleOrDefaultAsync(s => s.Id == id, cancel);
                if ((Writable(series, caller) ?? Problems.CheckMatch(context.Http, series!.Revision)) is { } unwritable)
                {
                    return unwritable;
                }

                var revision = series!.Revision;
                if (await change(session, series!) is { } refusal)
                {
                    return refusal;
                }

                series.Revision = revision + 1;
                await session.Db.SaveChangesAsync(cancel);
                await ProposalBook.CloseOvertakenAsync(session, caller, context.Calendar, cancel);
                return true;
            },
            cancel
        );
        return done.Refused ? done.Refusal! : await DetailAsync(id, caller, context.Db, context.Calendar);
    }

    private static async Task<Reply<IReadOnlyList<SeriesVersionView>>> Versions(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel);
        if (series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId))
        {
            return Problems.NotFound("series");
        }

        var versions = await db
            .SeriesVersions.AsNoTracking()
            .Where(v => v.SeriesId == id)
            .OrderBy(v => v.Number)
            .ToListAsync(cancel);
        return (Outcome<IReadOnlyList<SeriesVersionView>>)
            versions
                .Select(
                    (v, i) =>
                        new SeriesVersionView(
                            v.Number,
                            v.Definition,
                            v.By,
                            v.At,
                            v.Why,
                            i == 0 ? [] : v.Definition.DifferencesFrom(versions[i - 1].Definition)
                        )
                )
                .Reverse()
                .ToList();
    }

    private static async Task<Reply<IReadOnlyList<LedgerView>>> History(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel);
        return series is null || !caller.MaySee(Right.ReadSchedule, series.UnitId)
            ? Problems.NotFound("series")
            : (Outcome<IReadOnlyList<LedgerView>>)await LedgerEndpoints.HistoryAsync(db, "series", id, cancel);
    }

    private static async Task<Reply<ConsequencesView>> Consequences(
        long id,
        SeriesDefinition draft,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) =>
        await WithDraftAsync<ConsequencesView>(
            id,
            draft,
            caller,
            db,
            calendar,
            async (series, rule, preview) =>
            {
                var figures = await preview.FiguresAsync(db, caller);
                return figures with
                {
                    Authorities = await AuthorityEndpoints.FindingsAsync(db, draft.Authorities, rule),
                    SecondPerson = SeriesGuard.SecondPerson(series, draft) ?? figures.SecondPerson,
                };
            }
        );

    private static async Task<Reply<ItemPage>> ConsequencesGroup(
        long id,
        string group,
        SeriesDefinition draft,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await WithDraftAsync<ItemPage>(
            id,
            draft,
            context.Caller,
            context.Db,
            context.Calendar,
            async (_, _, preview) =>
                await preview.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar)
        );

    private static async Task<Outcome<T>> WithDraftAsync<T>(
        long id,
        SeriesDefinition draft,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        Func<Series, SeriesRule, RuleChange, Task<Outcome<T>>> work
    )
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id);
        if (series is null || caller.Check(Right.WriteSchedule, series.UnitId, "series") is not null)
        {
            return Problems.NotFound("series");
        }

        var rule = draft.Check(series.Code);
        return rule.Refused
            ? rule.Refusal!
            : await work(series, rule.Value, await RuleChange.OfSeriesAsync(db, calendar, id, rule.Value));
    }

    private static async Task<Reply<ConsequencesView>> RetirementConsequences(
        long id,
        Retirement request,
        [AsParameters] ApiContext context
    ) =>
        await RetiringAsync(id, request, context.Caller, context.Db, context.Calendar, context.Cancel) is var plan
        && plan.Refusal is { } refusal
            ? refusal
            : (Outcome<ConsequencesView>)await plan.Value.FiguresAsync(context.Db, context.Caller);

    private static async Task<Reply<ItemPage>> RetirementGroup(
        long id,
        string group,
        Retirement request,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await RetiringAsync(id, request, context.Caller, context.Db, context.Calendar, context.Cancel) is var plan
        && plan.Refusal is { } refusal
            ? refusal
            : await plan.Value.Change.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    private static async Task<Outcome<FilingEndpoints.Plan>> RetiringAsync(
        long id,
        Retirement request,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var series = await db.Series.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel);
        return series is null || caller.Check(Right.WriteSchedule, series.UnitId, "series") is not null
            ? Problems.NotFound("series")
            : await FilingEndpoints.PlanRetirementAsync(series, request.SuccessorId, caller, db, calendar);
    }

    private static async Task<Reply<SeriesDetail>> Retire(
        long id,
        Retirement request,
        [AsParameters] ApiContext context
    ) =>
        Problems.CheckWhy(request.Why) is { } unsaid ? unsaid
        : Problems.ReadMatch(context.Http, out var revision) is { } unmatched ? unmatched
        : await DetailAsync(
            id,
            await ActRunner.RunAsync(
                RetireSeriesHandler.Instance,
                new(id, revision, request.SuccessorId, request.Why!.Trim()),
                context,
                request.Why,
                request.Fingerprint ?? ""
            ),
            context
        );

    internal static LedgerSubject Subject(Series series, Caller caller) =>
        new("series", series.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(series.UnitId).Value);

    internal static JsonNode? AsJson(SeriesDefinition? definition) =>
        System.Text.Json.JsonSerializer.SerializeToNode(definition, Json.Options);

    private sealed record Coverage(
        long Items,
        long Bytes,
        long Due,
        long Waiting,
        LocalDate? Earliest,
        LocalDate? Latest
    );

    private static async Task<Dictionary<long, Coverage>> CoverageAsync(
        WideKeelDb db,
        IReadOnlyCollection<long>? units,
        int today,
        long? only
    )
    {
        await db.Database.OpenConnectionAsync();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        var filter = new ItemFilter(units) { Series = only is { } id ? [id] : [] };
        command.CommandText = $"""
            SELECT i.SeriesId, COUNT(*), SUM(i.Bytes),
                SUM(i.DisposableFrom <= $today AND i.BatchId IS NULL AND NOT {Holds.HeldSql}),
                SUM(i.KeepUntil = {KeepUntil.AwaitingEvent.Code}),
                MIN(i.Created), MAX(CASE WHEN i.KeepUntil < {KeepUntil.AwaitingEvent.Code} THEN i.KeepUntil END)
            FROM item i JOIN container c ON c.Id = i.ContainerId
            WHERE i.SeriesId IS NOT NULL AND i.DestroyedAt IS NULL AND {filter.Where()} GROUP BY i.SeriesId
            """;
        filter.Bind(command, today);
        using var reader = await command.ExecuteReaderAsync();
        Dictionary<long, Coverage> coverage = [];
        while (reader.Read())
        {
            coverage[reader.GetInt64(0)] = new(
                reader.GetInt64(1),
                reader.GetInt64(2),
                Number(3),
                Number(4),
                Date(5),
                Date(6)
            );
        }

        return coverage;

        long Number(int column) => reader.IsDBNull(column) ? 0 : reader.GetInt64(column);

        LocalDate? Date(int column) => reader.IsDBNull(column) ? null : DayNumber.ToDate(reader.GetInt32(column));
    }
}
