using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Content;
using WideKeel.Core.Disposition;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Server.Retention;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Jobs;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Disposition;

/// <summary>What is due under one series, or one blanket, and lies in no batch yet.</summary>
/// <param name="Series">Of a blanket the id is 0.</param>
/// <param name="GraceEnds">The day by which the oldest should have been disposed of.</param>
/// <param name="Stages">Empty where it is destroyed without sign-off.</param>
/// <param name="Months">The same by the month in which it fell due, oldest first; empty for a blanket.</param>
/// <param name="MayNotClear">Why the caller may not destroy it without sign-off; null where they may, and where it is
/// signed for.</param>
public sealed record DueGroup(
    SeriesRef Series,
    long? BlanketId,
    string Unit,
    long Items,
    long Bytes,
    LocalDate Oldest,
    LocalDate GraceEnds,
    IReadOnlyList<Stage> Stages,
    IReadOnlyList<DueMonth> Months,
    string? MayNotClear
);

/// <param name="Month">Its first day.</param>
public sealed record DueMonth(LocalDate Month, long Items, long Bytes, LocalDate GraceEnds);

public sealed record SignOffView(int Stage, string By, Instant At, string Comment, int LinesOpened, int Lines);

/// <param name="MaySign">Null when the caller may sign the next stage; otherwise why not.</param>
/// <param name="Month">First day of the month in which all of it fell due; null where it holds what was due of every
/// month.</param>
/// <param name="Transfers">What is not marked otherwise is handed over.</param>
/// <param name="StageDue">The last day on which the next stage is not overdue; null when none waits.</param>
public sealed record BatchView(
    long Id,
    SeriesRef Series,
    string Unit,
    LocalDate? Month,
    bool Transfers,
    BatchState State,
    string OpenedBy,
    Instant OpenedAt,
    Instant? DoneAt,
    IReadOnlyList<Stage> Stages,
    IReadOnlyList<SignOffView> SignOffs,
    int Lines,
    int Opened,
    int ToDestroy,
    int ToExtend,
    int ToRefile,
    int ToTransfer,
    int Asked,
    int Destroyed,
    int Extended,
    int Refiled,
    int Transferred,
    int DroppedOut,
    int Failed,
    long Bytes,
    LocalDate Oldest,
    LocalDate GraceEnds,
    LocalDate? StageDue,
    bool Overdue,
    string? MayNotSign,
    long? CertificateId,
    string? CertificateNumber,
    IReadOnlyList<CertificateRef> Supplements,
    bool Stuck,
    BundleView? Bundle,
    long Revision
) : IRevised;

public sealed record CertificateRef(long Id, string Number);

public sealed record Docket(IReadOnlyList<DueGroup> Due, IReadOnlyList<BatchView> Batches);

/// <param name="Question">The last one asked about it.</param>
public sealed record LineView(
    ItemRow Item,
    Mark Mark,
    LocalDate? ExtendUntil,
    string? ExtendWhy,
    SeriesRef? RefileTo,
    QuestionView? Question,
    LineState State,
    string? Outcome,
    string? OpenedBy
);

public sealed record LinePage(IReadOnlyList<LineView> Lines, string? Next, long Total);

/// <param name="Month">Only what fell due in the month of this day; null for all that is due.</param>
public sealed record NewBatch(long SeriesId, LocalDate? Month = null);

/// <summary>
/// Destruction without sign-off, of what is due under a blanket or under a series that asks for none.
/// </summary>
/// <param name="Items">How many the caller was shown; refused when it is another number now.</param>
public sealed record Clearing(long Items, string Why, long? SeriesId = null, long? BlanketId = null);

/// <param name="Items">Ids of the lines to mark.</param>
/// <param name="Until">To extend until a day: after today, at most 50 years ahead.</param>
/// <param name="By">Or to extend by a period (ISO 8601), counted from today.</param>
/// <param name="SeriesId">To re-file: the series that it belongs under.</param>
/// <param name="AskedOf">To ask another: their person's id. Why is then the question.</param>
public sealed record Marking(
    long[] Items,
    Mark Mark,
    LocalDate? Until = null,
    string? Why = null,
    string? By = null,
    long? SeriesId = null,
    long? AskedOf = null
);

public sealed record Signing(string Comment);

public static class BatchEndpoints
{
    public static void MapDocket(this IEndpointRouteBuilder api)
    {
        api.MapGet("/docket", Show).Requires(Right.ReadDocket);
        api.MapPost("/batches", Open).Requires(Right.SignDisposition);
        api.MapPost("/clearings", Clear).Requires(Right.SignDisposition);
        api.MapGet("/batches/{id:long}", ShowBatch).Requires(Right.ReadDocket);
        api.MapGet("/batches/{id:long}/lines", Lines).Requires(Right.ReadDocket);
        api.MapPost("/batches/{id:long}/lines/{item:long}/opened", Opened).Requires(Right.SignDisposition);
        api.MapPost("/batches/{id:long}/marks", MarkLines).Requires(Right.SignDisposition);
        api.MapPost("/batches/{id:long}/sign-offs", Sign).Requires(Right.SignDisposition);
        api.MapPost("/batches/{id:long}/withdrawal", Withdraw).Requires(Right.SignDisposition);
        api.MapPost("/batches/{id:long}/retry", Retry).Requires(Right.SignDisposition);
    }

    private static async Task<Reply<Docket>> Show(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var batches = await db.Batches.AsNoTracking().WithRuler().OrderByDescending(b => b.Id).ToListAsync(cancel);
        List<BatchView> views = [];
        foreach (var batch in batches.Where(b => caller.May(Right.ReadDocket, b.Ruler.UnitId)))
        {
            views.Add(await ViewAsync(db, batch.Id, caller, calendar, cancel));
        }

        return new Docket(await DueAsync(caller, db, calendar, cancel), views);
    }

    /// <summary>What is due, by series; only whole series of the remit, because a batch is signed as a whole.</summary>
    internal static async Task<List<DueGroup>> DueAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var today = calendar.Today;
        var series = await db
            .Series.AsNoTracking()
            .Include(s => s.Unit)
            .Where(s => s.InForce != null)
            .ToDictionaryAsync(s => s.Id, cancel);
        var months = await MonthsAsync(db, today, cancel);
        var groups = months.Select(g =>
            (Series: g.Key, Items: g.Sum(m => m.Items), Bytes: g.Sum(m => m.Bytes), Oldest: g.Min(m => m.Oldest))
        );
        var mine = await MineAsync(db, series.Values, caller, today, cancel);
        List<DueGroup> due =
        [
            .. groups
                .Where(g => series.TryGetValue(g.Series, out var own) && caller.May(Right.ReadDocket, own.UnitId))
                .Select(g =>
                {
                    var own = series[g.Series];
                    var stages = own.InForce!.AtEnd == EndAction.Destroy ? [] : own.InForce.Stages;
                    var grace = own.InForce.GraceDays;
                    return new DueGroup(
                        new(own.Id, own.Code, own.Title),
                        null,
                        own.Unit!.Name,
                        g.Items,
                        g.Bytes,
                        g.Oldest,
                        g.Oldest.PlusDays(grace),
                        stages,
                        [
                            .. months[own.Id]
                                .Select(m => new DueMonth(
                                    m.Oldest.With(DateAdjusters.StartOfMonth),
                                    m.Items,
                                    m.Bytes,
                                    m.Oldest.PlusDays(grace)
                                )),
                        ],
                        own.InForce.AtEnd == EndAction.Destroy
                            ? MayNotClear((own.EffectById, own.EffectWithId), mine.GetValueOrDefault(own.Id), caller)
                            : null
                    );
                }),
        ];
        due.AddRange(await OfBlanketsAsync(db, caller, today, cancel));
        return [.. due.OrderBy(g => g.GraceEnds).ThenBy(g => g.Series.Code)];
    }

    private static async Task<List<DueGroup>> OfBlanketsAsync(
        WideKeelDb db,
        Caller caller,
        LocalDate today,
        CancellationToken cancel
    )
    {
        List<DueGroup> due = [];
        foreach (var (blanket, items) in await UnderBlanketsAsync(db, today, cancel))
        {
            if (caller.May(Right.ReadDocket, blanket.UnitId))
            {
                var oldest = items.Min(i => i.From);
                var mine = await CausedAsync(db, [.. items.Select(i => i.Id)], caller, cancel);
                due.Add(
                    new(
                        new(0, "Blanket", blanket.Name),
                        blanket.Id,
                        blanket.Unit!.Name,
                        items.Count,
                        items.Sum(i => i.Bytes),
                        oldest,
                        oldest,
                        [],
                        [],
                        MayNotClear((blanket.EffectById, blanket.EffectWithId), mine, caller)
                    )
                );
            }
        }

        return due;
    }

    /// <summary>Of what is due under series that destroy without sign-off: how much the caller put there.</summary>
    private static Task<Dictionary<long, int>> MineAsync(
        WideKeelDb db,
        IEnumerable<Series> series,
        Caller caller,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var unsigned = series.Where(s => s.InForce!.AtEnd == EndAction.Destroy).Select(s => s.Id).ToList();
        return db
            .Items.Where(i =>
                i.SeriesId != null
                && unsigned.Contains(i.SeriesId.Value)
                && i.DisposableFrom <= today
                && i.BatchId == null
                && i.DestroyedAt == null
            )
            .CausedBy(db, caller.Selves)
            .GroupBy(i => i.SeriesId!.Value)
            .ToDictionaryAsync(g => g.Key, g => g.Count(), cancel);
    }

    private static async Task<ILookup<long, (long Items, long Bytes, LocalDate Oldest)>> MonthsAsync(
        WideKeelDb db,
        LocalDate today,
        CancellationToken cancel
    )
    {
        await db.Database.OpenConnectionAsync(cancel);
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT i.SeriesId, COUNT(*), SUM(i.Bytes), MIN(i.DisposableFrom) FROM item i
            WHERE i.DisposableFrom <= $today AND i.BatchId IS NULL AND i.DestroyedAt IS NULL AND i.SeriesId IS NOT NULL
                AND NOT {Holds.HeldSql}
            GROUP BY i.SeriesId, strftime('%Y-%m', i.DisposableFrom * 86400, 'unixepoch') ORDER BY 4
            """;
        command.Parameters.AddWithValue("$today", today.ToDayNumber());
        using var reader = await command.ExecuteReaderAsync(cancel);
        List<(long Series, (long, long, LocalDate) Month)> found = [];
        while (reader.Read())
        {
            found.Add(
                (reader.GetInt64(0), (reader.GetInt64(1), reader.GetInt64(2), DayNumber.ToDate(reader.GetInt32(3))))
            );
        }

        return found.ToLookup(f => f.Series, f => f.Month);
    }

    /// <summary>
    /// What blankets destroy: items under no series that are due. One that several cover is the first one's, by name.
    /// </summary>
    private static async Task<
        List<(Blanket Blanket, List<(long Id, long Bytes, LocalDate From)> Items)>
    > UnderBlanketsAsync(WideKeelDb db, LocalDate today, CancellationToken cancel)
    {
        var blankets = await db
            .Blankets.AsNoTracking()
            .Include(b => b.Unit)
            .Where(b => b.State == BlanketState.Active)
            .OrderBy(b => b.Name)
            .ToListAsync(cancel);
        List<(Blanket, List<(long, long, LocalDate)>)> found = [];
        if (!blankets.Any(b => b.InForce!.DestroysUnsigned))
        {
            return found;
        }

        var containers = await Ruling.ContainersAsync(db);
        HashSet<long> taken = [];
        foreach (var blanket in blankets.Where(b => b.InForce!.DestroysUnsigned))
        {
            var covered = Ruling.Reached(blanket.InForce!.Reach, blanket.Unit!.Path, containers, today);
            var items = (
                await db
                    .Items.AsNoTracking()
                    .Where(i =>
                        covered.Contains(i.ContainerId)
                        && i.SeriesId == null
                        && i.AtEnd == EndAction.Destroy
                        && i.DisposableFrom <= today
                        && i.BatchId == null
                        && i.DestroyedAt == null
                    )
                    .NotHeld(db, today)
                    .Select(i => new
                    {
                        i.Id,
                        i.Bytes,
                        i.DisposableFrom,
                    })
                    .ToListAsync(cancel)
            ).Where(i => taken.Add(i.Id)).Select(i => (i.Id, i.Bytes, i.DisposableFrom!.Value)).ToList();
            if (items.Count > 0)
            {
                found.Add((blanket, items));
            }
        }

        return found;
    }

    /// <summary>Why these items are not cleared by the caller, or null.</summary>
    private static async Task<Refusal?> CheckAsync(
        Clearing request,
        Series? series,
        Blanket? blanket,
        List<long> ids,
        WideKeelDb db,
        ApiContext context
    )
    {
        if (ids.Count == 0)
        {
            return Refusal.Conflict(
                "nothing-due",
                null,
                "Nothing is due under it that does not lie in a batch already."
            );
        }

        var rule = (series?.EffectById ?? blanket?.EffectById, series?.EffectWithId ?? blanket?.EffectWithId);
        var caused = await CausedAsync(db, ids, context.Caller, context.Cancel);
        return MayNotClear(rule, caused, context.Caller) is { } not
                ? Refusal.Forbidden("second-person-needed", null, not)
            : ids.Count == request.Items ? null
            : Refusal.Conflict(
                "consequences-changed",
                "items",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{ids.Count:N0} items are due now, not {request.Items:N0}. Nothing was done; look again."
                )
            );
    }

    /// <summary>How many of these items the caller filed, or made due.</summary>
    private static async Task<int> CausedAsync(
        WideKeelDb db,
        IReadOnlyCollection<long> ids,
        Caller caller,
        CancellationToken cancel
    )
    {
        var caused = 0;
        foreach (var portion in ids.Chunk(5_000))
        {
            caused += await db.Items.Where(i => portion.Contains(i.Id)).CausedBy(db, caller.Selves).CountAsync(cancel);
        }

        return caused;
    }

    /// <summary>
    /// Why the caller may not clear what is destroyed without sign-off, or null: it takes somebody who had no part in
    /// making it due.
    /// </summary>
    /// <param name="rule">Who put the rule into effect, and who agreed to it.</param>
    /// <param name="caused">How many of the items the caller filed, or made due by a change.</param>
    private static string? MayNotClear((long? By, long? With) rule, int caused, Caller caller) =>
        caller.NotSecondTo(rule.By, "You put the rule into effect; somebody else clears what it makes due.")
        ?? caller.NotSecondTo(rule.With, "You agreed to the rule; somebody else clears what it makes due.")
        ?? (
            caused == 0
                ? null
                : $"You{(caller.Selves.Count > 1 ? ", or one who is no second person beside you," : "")} filed "
                    + $"{Wording.Number(caused)} of these items, or made {(caused == 1 ? "it" : "them")} due by an event, a "
                    + "date, a rule or a setting; somebody else clears them."
        );

    /// <summary>
    /// Destroys what is due without sign-off: the same re-check, stubs and certificate as after signatures.
    /// </summary>
    private static async Task<Reply<BatchView>> Clear(Clearing request, [AsParameters] ApiContext context)
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        var opened = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                var under = await RulerAsync(request, session.Db, context);
                if (under.Refusal is { } unruled)
                {
                    return unruled;
                }

                var (series, blanket) = under.Value;
                var ids = await DueUnderAsync(series, blanket, session.Db, context);
                if (await CheckAsync(request, series, blanket, ids, session.Db, context) is { } refusal)
                {
                    return refusal;
                }

                var batch = await FillAsync(session, series, blanket, ids, context);
                session.Record(
                    "cleared",
                    Subject(batch, context.Caller),
                    after: new JsonObject { ["under"] = series?.Code ?? blanket!.Name, ["items"] = ids.Count },
                    reason: request.Why.Trim()
                );
                await JobBoard.AddAsync(
                    session,
                    ExecuteJob.JobKind,
                    batch.Id,
                    $"Destroying batch {batch.Id}, {batch.Ruler.Title}",
                    context.Caller.PathOf(batch.Ruler.UnitId).Value,
                    context.Caller.Name
                );
                return batch.Id;
            },
            context.Cancel
        );
        return opened.Refused
            ? opened.Refusal!
            : await ViewAsync(context.Db, opened.Value, context.Caller, context.Calendar, context.Cancel);
    }

    /// <summary>The one series or blanket that a clearing is under.</summary>
    private static async Task<Outcome<(Series? Series, Blanket? Blanket)>> RulerAsync(
        Clearing request,
        WideKeelDb db,
        ApiContext context
    )
    {
        var series = await db
            .Series.Include(s => s.Unit)
            .SingleOrDefaultAsync(s => s.Id == request.SeriesId, context.Cancel);
        var blanket = await db
            .Blankets.Include(b => b.Unit)
            .SingleOrDefaultAsync(b => b.Id == request.BlanketId, context.Cancel);
        if (
            series is null == blanket is null
            || context.Caller.Check(Right.SignDisposition, series?.UnitId ?? blanket!.UnitId, "series or blanket")
                is not null
        )
        {
            return Problems.NotFound("series or blanket");
        }

        return series is null || series.InForce?.AtEnd == EndAction.Destroy
            ? (series, blanket)
            : new Refusal(
                "sign-off-needed",
                "seriesId",
                $"What is due under {series.Code} is destroyed after sign-off only. Open a batch."
            );
    }

    /// <summary>What is due under a series or a blanket, and lies in no batch, by id.</summary>
    private static async Task<List<long>> DueUnderAsync(
        Series? series,
        Blanket? blanket,
        WideKeelDb db,
        ApiContext context
    )
    {
        var today = context.Calendar.Today;
        return series is not null
            ? await DueUnder(series.Id, month: null, db, today).Select(i => i.Id).ToListAsync(context.Cancel)
            :
            [
                .. (await UnderBlanketsAsync(db, today, context.Cancel))
                    .Where(b => b.Blanket.Id == blanket!.Id)
                    .SelectMany(b => b.Items)
                    .Select(i => i.Id),
            ];
    }

    /// <summary>A batch that nobody signs, of all these items, to be carried out at once.</summary>
    private static async Task<Batch> FillAsync(
        WriteSession session,
        Series? series,
        Blanket? blanket,
        List<long> ids,
        ApiContext context
    )
    {
        var batch = new Batch
        {
            SeriesId = series?.Id,
            Series = series,
            BlanketId = blanket?.Id,
            Blanket = blanket,
            SeriesVersion = series?.VersionInForce ?? blanket!.VersionInForce,
            State = BatchState.Executing,
            OpenedBy = context.Caller.Name,
            OpenedAt = session.Now,
            StageSince = session.Now,
        };
        session.Db.Batches.Add(batch);
        await session.Db.SaveChangesAsync(context.Cancel);
        foreach (var portion in ids.Chunk(5_000))
        {
            var items = await session.Db.Items.Where(i => portion.Contains(i.Id)).ToListAsync(context.Cancel);
            PutIn(session, batch.Id, items, Mark.Destroy);
        }

        return batch;
    }

    private static void PutIn(WriteSession session, long batchId, List<Item> items, Mark mark)
    {
        session.Db.BatchLines.AddRange(
            items.Select(i => new BatchLine
            {
                BatchId = batchId,
                ItemId = i.Id,
                Hash = i.Hash,
                Mark = mark,
            })
        );
        items.ForEach(i => i.BatchId = batchId);
    }

    /// <summary>A series whose items are disposed of after signatures.</summary>
    private static async Task<Outcome<Series>> ToSignAsync(long id, WideKeelDb db, ApiContext context)
    {
        var series = await db.Series.SingleOrDefaultAsync(s => s.Id == id, context.Cancel);
        if (series is null || context.Caller.Check(Right.SignDisposition, series.UnitId, "series") is not null)
        {
            return Problems.NotFound("series");
        }

        return series.InForce?.AtEnd == EndAction.Destroy
            ? Refusal.Conflict(
                "nothing-to-sign",
                null,
                $"{series.Code} destroys without sign-off; clear what is due instead."
            )
            : series;
    }

    private static async Task<Reply<BatchView>> Open(NewBatch request, [AsParameters] ApiContext context)
    {
        var opened = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                var found = await ToSignAsync(request.SeriesId, session.Db, context);
                if (found.Refusal is { } refused)
                {
                    return refused;
                }

                var series = found.Value;
                LocalDate? month = request.Month?.With(DateAdjusters.StartOfMonth);
                var due = await DueUnder(series.Id, month, session.Db, context.Calendar.Today)
                    .ToListAsync(context.Cancel);
                if (due.Count == 0)
                {
                    return Refusal.Conflict(
                        "nothing-due",
                        null,
                        $"Nothing is due under {series.Code}{(month is null ? "" : " of that month")} that does not lie in a batch already."
                    );
                }

                var usual = series.InForce?.AtEnd == EndAction.Transfer ? Mark.Transfer : Mark.Destroy;
                var batch = new Batch
                {
                    SeriesId = series.Id,
                    SeriesVersion = series.VersionInForce,
                    Month = month,
                    State = BatchState.Open,
                    OpenedBy = context.Caller.Name,
                    OpenedAt = session.Now,
                    StageSince = session.Now,
                };
                session.Db.Batches.Add(batch);
                await session.Db.SaveChangesAsync(context.Cancel);
                PutIn(session, batch.Id, due, usual);
                session.Record(
                    "batch-opened",
                    Subject(batch.Id, series.UnitId, context.Caller),
                    after: new JsonObject { ["series"] = series.Code, ["items"] = due.Count }
                );
                var opening = await session.Db.Batches.WithRuler().SingleAsync(b => b.Id == batch.Id, context.Cancel);
                await StageMessages.StageWaitsAsync(
                    session,
                    SigningDuty.Of(opening, context.Calendar)!,
                    null,
                    context.Caller.PersonId,
                    context.Cancel
                );
                return batch.Id;
            },
            context.Cancel
        );
        return opened.Refused
            ? opened.Refusal!
            : await ViewAsync(context.Db, opened.Value, context.Caller, context.Calendar, context.Cancel);
    }

    private static async Task<Reply<BatchView>> ShowBatch(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await VisibleAsync(db, id, caller, Right.ReadDocket, cancel) is null
            ? Problems.NotFound("batch")
            : await ViewAsync(db, id, caller, calendar, cancel);

    private static async Task<Reply<LinePage>> Lines(
        long id,
        string? cursor,
        int? limit,
        [AsParameters] ApiContext context
    )
    {
        if (await VisibleAsync(context.Db, id, context.Caller, Right.ReadDocket, context.Cancel) is null)
        {
            return Problems.NotFound("batch");
        }

        var most = Math.Clamp(limit ?? 200, 1, 500);
        var after = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        var lines = await context
            .Db.BatchLines.AsNoTracking()
            .Where(l => l.BatchId == id && l.ItemId > after)
            .OrderBy(l => l.ItemId)
            .Take(most + 1)
            .ToListAsync(context.Cancel);
        var rows = await ItemEndpoints.RowsAsync(
            [.. lines.Take(most).Select(l => l.ItemId)],
            context.Db,
            context.Calendar
        );
        var questions = await QuestionEndpoints.OfBatchAsync(id, context.Db, context.Cancel);
        var targets = lines.Select(l => l.RefileTo).OfType<long>().Distinct().ToList();
        var series = await context
            .Db.Series.AsNoTracking()
            .Where(s => targets.Contains(s.Id))
            .ToDictionaryAsync(s => s.Id, s => new SeriesRef(s.Id, s.Code, s.Title), context.Cancel);
        return new LinePage(
            [
                .. lines
                    .Take(most)
                    .Select(l => new LineView(
                        rows[l.ItemId],
                        l.Mark,
                        l.ExtendUntil,
                        l.ExtendWhy,
                        l.RefileTo is { } to ? series[to] : null,
                        questions.GetValueOrDefault(l.ItemId),
                        l.State,
                        l.Outcome,
                        l.FirstOpenedBy
                    )),
            ],
            lines.Count > most ? Cursor.Write(0L, lines[most - 1].ItemId) : null,
            await context.Db.BatchLines.LongCountAsync(l => l.BatchId == id, context.Cancel)
        );
    }

    private static async Task<Reply<Done>> Opened(
        long id,
        long item,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await ChangeAsync(
            id,
            null,
            caller,
            writer,
            async (session, batch) =>
            {
                var line = await session.Db.BatchLines.SingleOrDefaultAsync(
                    l => l.BatchId == id && l.ItemId == item,
                    cancel
                );
                if (line is null)
                {
                    return Problems.NotFound("line");
                }

                if (line.FirstOpenedBy is null && batch.State is BatchState.Open or BatchState.Signing)
                {
                    line.FirstOpenedBy ??= caller.Name;
                }

                return null;
            },
            cancel,
            keepsRevision: true
        );

    /// <summary>What is due under a series and lies in no batch.</summary>
    /// <param name="month">By its first day: only what fell due within it; null for all.</param>
    private static IQueryable<Item> DueUnder(long seriesId, LocalDate? month, WideKeelDb db, LocalDate today)
    {
        var from = month ?? today;
        var to = month is { } first ? LocalDate.Min(first.With(DateAdjusters.EndOfMonth), today) : today;
        return db
            .Items.Where(i =>
                i.SeriesId == seriesId
                && i.DisposableFrom <= to
                && (month == null || i.DisposableFrom >= from)
                && i.BatchId == null
                && i.DestroyedAt == null
            )
            .NotHeld(db, today);
    }

    private static async Task<Reply<Done>> MarkLines(long id, Marking request, [AsParameters] ApiContext context) =>
        await ChangeAsync(
            id,
            null,
            context.Caller,
            context.Writer,
            async (session, batch) =>
            {
                var until = Extension(request, context.Calendar);
                if ((CheckOpen(batch) ?? until.Refusal ?? CheckWhy(request)) is { } wrong)
                {
                    return wrong;
                }

                var lines = await session
                    .Db.BatchLines.Where(l => l.BatchId == id && request.Items.Contains(l.ItemId))
                    .ToListAsync(context.Cancel);
                if (lines.Count != request.Items.Distinct().Count())
                {
                    return Problems.NotFound("line");
                }

                if (await FollowMarkAsync(session, batch, lines, request, context) is { } refused)
                {
                    return refused;
                }

                foreach (var line in lines)
                {
                    line.Mark = request.Mark;
                    line.ExtendUntil = until.Value;
                    line.ExtendWhy = request.Mark == Mark.Extend ? request.Why!.Trim() : null;
                    line.RefileTo = request.Mark == Mark.Refile ? request.SeriesId : null;
                    line.MarkedBy = context.Caller.Name;
                }

                RecordMark(session, batch, request, until.Value, context.Caller);
                return null;
            },
            context.Cancel
        );

    private static Refusal? CheckOpen(Batch batch) =>
        batch.State == BatchState.Open
            ? null
            : Refusal.Conflict(
                "batch-closed",
                null,
                "The marks of this batch are settled: somebody has signed for them. Withdraw it to start over."
            );

    private static Refusal? CheckWhy(Marking request) =>
        request.Mark is not (Mark.Extend or Mark.Ask)
        || (!string.IsNullOrWhiteSpace(request.Why) && request.Why.Length <= 1000)
            ? null
            : new(
                "why-missing",
                "why",
                request.Mark == Mark.Ask
                    ? "Say what you want to know, in at most 1,000 characters."
                    : "Say why it is kept longer, in at most 1,000 characters."
            );

    /// <summary>Whether the lines may be filed anew as their mark says; asks what their mark asks.</summary>
    private static async Task<Refusal?> FollowMarkAsync(
        WriteSession session,
        Batch batch,
        List<BatchLine> lines,
        Marking request,
        ApiContext context
    ) =>
        request.Mark switch
        {
            Mark.Refile => await FilingEndpoints.RefilingRefusalAsync(
                session,
                request.SeriesId,
                [.. lines.Select(l => l.ItemId)],
                batch.SeriesId,
                context.Caller,
                context.Cancel
            ),
            Mark.Ask => await QuestionEndpoints.AskAsync(session, batch.Id, request, context.Caller, context.Cancel),
            _ => null,
        };

    private static void RecordMark(WriteSession session, Batch batch, Marking request, LocalDate? until, Caller caller)
    {
        var after = new JsonObject
        {
            ["mark"] = request.Mark.ToString(),
            ["items"] = new JsonArray([.. request.Items.Select(i => (JsonNode)i)]),
        };
        if (until is { } day)
        {
            after["until"] = LocalDatePattern.Iso.Format(day);
        }

        if (request.Mark == Mark.Refile)
        {
            after["seriesId"] = request.SeriesId;
        }

        session.Record("marked", Subject(batch, caller), after: after, reason: request.Why);
    }

    /// <summary>Until when an extension keeps; null for every other mark.</summary>
    private static Outcome<LocalDate?> Extension(Marking request, OrganisationCalendar calendar)
    {
        if (request.Mark != Mark.Extend)
        {
            return (LocalDate?)null;
        }

        var until = request.Until;
        if (request.By is { } by)
        {
            var period = Core.Time.Period.Parse(by, "by");
            if (period.Refusal is { } wrong)
            {
                return wrong;
            }

            until = period.Value.AddTo(calendar.Today);
        }

        return until is { } day && day > calendar.Today && PlausibleDate.Holds(day, calendar.Today)
            ? until
            : new Refusal(
                "until-out-of-range",
                request.By is null ? "until" : "by",
                "An extension ends on a day after today and within 50 years."
            );
    }

    /// <summary>After a signature: the next stage waits, or the batch is carried out.</summary>
    private static async Task GoOnAsync(WriteSession session, Batch batch, ApiContext context)
    {
        (batch.State, batch.StageSince) = (BatchState.Signing, session.Now);
        if (!SignOffRules.Complete(batch.Ruler.Stages, batch.SignOffs.Count))
        {
            await StageMessages.StageWaitsAsync(
                session,
                SigningDuty.Of(batch, context.Calendar)!,
                context.Caller.Name,
                context.Caller.PersonId,
                context.Cancel
            );
            return;
        }

        batch.State = BatchState.Executing;
        await JobBoard.AddAsync(
            session,
            ExecuteJob.JobKind,
            batch.Id,
            $"Carrying out batch {batch.Id}, {batch.Ruler.Code}",
            context.Caller.PathOf(batch.Ruler.UnitId).Value,
            context.Caller.Name
        );
    }

    private static async Task AddSignatureAsync(WriteSession session, Batch batch, string comment, ApiContext context)
    {
        var lines = session.Db.BatchLines.Where(l => l.BatchId == batch.Id);
        var signature = new SignOff
        {
            BatchId = batch.Id,
            Stage = batch.SignOffs.Count,
            PersonId = context.Caller.PersonId,
            PersonName = context.Caller.Name,
            Comment = comment,
            LinesOpened = await lines.CountAsync(l => l.FirstOpenedBy != null, context.Cancel),
            Lines = await lines.CountAsync(context.Cancel),
            At = session.Now,
        };
        batch.SignOffs.Add(signature);
        session.Record(
            "signed-off",
            Subject(batch, context.Caller),
            after: new JsonObject
            {
                ["stage"] = batch.SignOffs.Count,
                ["of"] = batch.Ruler.Stages.Count,
                ["opened"] = signature.LinesOpened,
                ["lines"] = signature.Lines,
            },
            reason: comment
        );
    }

    private static async Task<Reply<BatchView>> Sign(long id, Signing request, [AsParameters] ApiContext context)
    {
        if (string.IsNullOrWhiteSpace(request.Comment) || request.Comment.Length > 1000)
        {
            return new Refusal(
                "comment-missing",
                "comment",
                "A signature needs a comment of at most 1,000 characters."
            );
        }

        var done = await ChangeAsync(
            id,
            context.Http,
            context.Caller,
            context.Writer,
            async (session, batch) =>
            {
                var asked = await session.Db.BatchLines.CountAsync(
                    l => l.BatchId == id && l.Mark == Mark.Ask,
                    context.Cancel
                );
                if (SigningDuty.MayNotSign(batch, context.Caller, context.Calendar, asked) is { } refusal)
                {
                    session.RecordAttempt("sign-off-refused", Subject(batch, context.Caller), refusal.Sentence);
                    return refusal;
                }

                await AddSignatureAsync(session, batch, request.Comment.Trim(), context);
                await GoOnAsync(session, batch, context);
                return null;
            },
            context.Cancel
        );
        return done.Refused
            ? done.Refusal!
            : await ViewAsync(context.Db, id, context.Caller, context.Calendar, context.Cancel);
    }

    private static async Task<Reply<Done>> Withdraw(
        long id,
        Signing request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await ChangeAsync(
            id,
            null,
            caller,
            writer,
            async (session, batch) =>
            {
                if (batch.State is not (BatchState.Open or BatchState.Signing))
                {
                    return Refusal.Conflict("batch-closed", null, "This batch can no longer be taken back.");
                }

                await session
                    .Db.Items.Where(i => i.BatchId == id)
                    .ExecuteUpdateAsync(set => set.SetProperty(i => i.BatchId, (long?)null), cancel);
                batch.State = BatchState.Withdrawn;
                foreach (
                    var person in await session
                        .Db.Users.Where(p =>
                            session.Db.SignOffs.Any(s => s.BatchId == id && s.PersonId == p.Id)
                            && p.Id != caller.PersonId
                        )
                        .ToListAsync(cancel)
                )
                {
                    Outbox.Add(
                        session,
                        person,
                        DispositionTexts.Withdrawn(
                            batch.Ruler.Code,
                            batch.Ruler.Title,
                            caller.Name,
                            request.Comment?.Trim() ?? ""
                        ),
                        "/schedule/docket"
                    );
                }

                Outbox.Tell(session, "batch-withdrawn", new() { ["batch"] = id, ["series"] = batch.Ruler.Code });
                session.Record("batch-withdrawn", Subject(batch, caller), reason: request.Comment);
                return null;
            },
            cancel
        );

    /// <summary>Whether a batch is to be carried out and no job is there that would: its job failed.</summary>
    private static async Task<bool> IsStuckAsync(WideKeelDb db, Batch batch, CancellationToken cancel) =>
        batch.State == BatchState.Executing
        && !await db.Jobs.AnyAsync(
            j =>
                j.Kind == ExecuteJob.JobKind.Name
                && j.SubjectId == batch.Id
                && (j.State == JobState.Queued || j.State == JobState.Running),
            cancel
        );

    /// <summary>
    /// Tries again what the source could not delete, or a batch whose job failed. The signatures stand; every item is
    /// re-checked.
    /// </summary>
    private static async Task<Reply<Done>> Retry(long id, Caller caller, Writer writer, CancellationToken cancel) =>
        await ChangeAsync(
            id,
            null,
            caller,
            writer,
            async (session, batch) =>
            {
                var failed = await session
                    .Db.BatchLines.Include(l => l.Item)
                    .Where(l => l.BatchId == id && l.State == LineState.Failed)
                    .ToListAsync(cancel);
                if (
                    !await IsStuckAsync(session.Db, batch, cancel)
                    && (batch.State != BatchState.Done || failed.Count == 0)
                )
                {
                    return Refusal.Conflict("nothing-due", null, "Nothing in this batch failed.");
                }

                failed.RemoveAll(l => l.Item!.BatchId is not null || l.Item.DestroyedAt is not null);
                failed.ForEach(l => (l.State, l.Outcome, l.Item!.BatchId) = (LineState.Waiting, null, id));
                batch.State = BatchState.Executing;
                await JobBoard.AddAsync(
                    session,
                    ExecuteJob.JobKind,
                    id,
                    $"Trying batch {id} again, {batch.Ruler.Code}",
                    caller.PathOf(batch.Ruler.UnitId).Value,
                    caller.Name
                );
                session.Record(
                    "batch-retried",
                    Subject(batch, caller),
                    after: new JsonObject { ["items"] = failed.Count }
                );
                return null;
            },
            cancel
        );

    private static async Task<Outcome<Done>> ChangeAsync(
        long id,
        HttpContext? guarded,
        Caller caller,
        Writer writer,
        Func<WriteSession, Batch, Task<Refusal?>> change,
        CancellationToken cancel,
        bool keepsRevision = false
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var batch = await session
                    .Db.Batches.WithRuler()
                    .Include(b => b.SignOffs)
                    .SingleOrDefaultAsync(b => b.Id == id, cancel);
                if (batch is null || caller.Check(Right.SignDisposition, batch.Ruler.UnitId, "batch") is not null)
                {
                    return Problems.NotFound("batch");
                }

                if (guarded is not null && Problems.CheckMatch(guarded, batch.Revision) is { } stale)
                {
                    return stale;
                }

                if (await change(session, batch) is { } refusal)
                {
                    return refusal;
                }

                batch.Revision += keepsRevision ? 0 : 1;
                return new Done();
            },
            cancel
        );

    private static async Task<Batch?> VisibleAsync(
        WideKeelDb db,
        long id,
        Caller caller,
        Right right,
        CancellationToken cancel
    )
    {
        var batch = await db.Batches.AsNoTracking().WithRuler().SingleOrDefaultAsync(b => b.Id == id, cancel);
        return batch is not null && caller.May(right, batch.Ruler.UnitId) ? batch : null;
    }

    private sealed record LineCount(LineState State, Mark Mark, bool Opened, int Count, long Bytes, LocalDate? Oldest);

    private static Task<List<LineCount>> LineCountsAsync(WideKeelDb db, long id, CancellationToken cancel) =>
        db
            .BatchLines.AsNoTracking()
            .Where(l => l.BatchId == id)
            .GroupBy(l => new
            {
                l.State,
                l.Mark,
                Opened = l.FirstOpenedBy != null,
            })
            .Select(g => new LineCount(
                g.Key.State,
                g.Key.Mark,
                g.Key.Opened,
                g.Count(),
                g.Sum(l => l.Item!.Bytes),
                g.Min(l => l.Item!.DisposableFrom)
            ))
            .ToListAsync(cancel);

    private static List<SignOffView> SignOffsOf(Batch batch) =>
        [
            .. batch
                .SignOffs.OrderBy(s => s.Stage)
                .Select(s => new SignOffView(s.Stage, s.PersonName, s.At, s.Comment, s.LinesOpened, s.Lines)),
        ];

    private static async Task<BatchView> ViewAsync(
        WideKeelDb db,
        long id,
        Caller caller,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var batch = await db
            .Batches.AsNoTracking()
            .WithRuler()
            .Include(b => b.SignOffs)
            .SingleAsync(b => b.Id == id, cancel);
        var ruler = batch.Ruler;
        var counts = await LineCountsAsync(db, id, cancel);
        var oldest = counts.Count == 0 ? calendar.DateOf(batch.OpenedAt) : counts.Min(c => c.Oldest) ?? default;
        var duty = SigningDuty.Of(batch, calendar);
        int Count(Func<LineCount, bool> which) => counts.Where(which).Sum(c => c.Count);
        var asked = Count(c => c.Mark == Mark.Ask);
        return new(
            batch.Id,
            new(batch.SeriesId ?? 0, ruler.Code, ruler.Title),
            ruler.Unit,
            batch.Month,
            ruler.Transfers,
            batch.State,
            batch.OpenedBy,
            batch.OpenedAt,
            batch.DoneAt,
            ruler.Stages,
            SignOffsOf(batch),
            Count(_ => true),
            Count(c => c.Opened),
            Count(c => c.Mark == Mark.Destroy),
            Count(c => c.Mark == Mark.Extend),
            Count(c => c.Mark == Mark.Refile),
            Count(c => c.Mark == Mark.Transfer),
            asked,
            // Once a certificate's list is gone, its number remains.
            Count(c => c.State == LineState.Destroyed)
                + await db.Certificates.Where(c => c.BatchId == id && c.Document == "").SumAsync(c => c.Items, cancel),
            Count(c => c.State == LineState.Extended),
            Count(c => c.State == LineState.Refiled),
            Count(c => c.State == LineState.Transferred),
            Count(c => c.State == LineState.DroppedOut),
            Count(c => c.State == LineState.Failed),
            counts.Sum(c => c.Bytes),
            oldest,
            oldest.PlusDays(ruler.GraceDays),
            duty?.By,
            duty?.IsOverdue(calendar.Today) ?? false,
            SigningDuty.MayNotSign(batch, caller, calendar, asked)?.Sentence,
            batch.CertificateId,
            await NumberAsync(db, batch, cancel),
            await SupplementsAsync(db, batch, cancel),
            await IsStuckAsync(db, batch, cancel),
            await BundleEndpoints.LatestAsync(db, id, cancel) is { } bundle ? BundleEndpoints.View(bundle) : null,
            batch.Revision
        );
    }

    private static Task<string?> NumberAsync(WideKeelDb db, Batch batch, CancellationToken cancel) =>
        db.Certificates.Where(c => c.Id == batch.CertificateId).Select(c => c.Number).SingleOrDefaultAsync(cancel);

    private static Task<List<CertificateRef>> SupplementsAsync(WideKeelDb db, Batch batch, CancellationToken cancel) =>
        db
            .Certificates.Where(c => c.BatchId == batch.Id && c.Id != batch.CertificateId)
            .OrderBy(c => c.Id)
            .Select(c => new CertificateRef(c.Id, c.Number))
            .ToListAsync(cancel);

    private static LedgerSubject Subject(Batch batch, Caller caller) => Subject(batch.Id, batch.Ruler.UnitId, caller);

    private static LedgerSubject Subject(long id, long unit, Caller caller) =>
        new("batch", id.ToString(CultureInfo.InvariantCulture), caller.PathOf(unit).Value);
}
