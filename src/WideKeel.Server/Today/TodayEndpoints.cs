using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Disposition;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.Disposition;
using WideKeel.Server.Matters;
using WideKeel.Server.SignIn;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Today;

/// <summary>One thing that waits for the caller.</summary>
/// <param name="Kind"><c>sign</c>, <c>open-batch</c>, <c>failed</c>, <c>broken</c>, <c>undelivered</c>, <c>release</c>, <c>notice</c>, <c>custodian</c>, <c>order</c>, <c>draft</c>, <c>unreadable</c>, <c>unfiled</c>, <c>scan</c>.</param>
/// <param name="By">The day by which it should be done; null when there is none.</param>
/// <param name="Link">Path of the screen that its button opens.</param>
public sealed record Waiting(
    string Kind,
    string Title,
    string Why,
    LocalDate? By,
    string ByWords,
    string Action,
    string Link,
    bool Pressing
);

/// <param name="Trend">Twelve months, oldest first, the last being today; computed from the dates of the items by the rules of today.</param>
/// <param name="Link">The rows behind the number.</param>
public sealed record Figure(
    string Name,
    string Value,
    string Label,
    string Note,
    IReadOnlyList<double> Trend,
    string Colour,
    string Link
);

public sealed record TodayView(LocalDate Date, IReadOnlyList<Waiting> Waiting, IReadOnlyList<Figure> Figures);

public static class TodayEndpoints
{
    private const int Months = 12;

    public static void MapToday(this IEndpointRouteBuilder api) => api.MapGet("/today", Show).RequiresSignIn();

    private static async Task<Reply<TodayView>> Show(
        Caller caller,
        WideKeelDb db,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        var today = calendar.Today;
        List<Waiting> waiting = [];
        if (caller.May(Right.SignDisposition))
        {
            await AddDispositionAsync(waiting, caller, db, calendar, cancel);
        }

        if (caller.May(Right.WriteSchedule))
        {
            await AddDraftsAsync(waiting, caller, db, cancel);
        }

        if (caller.May(Right.ReadSources))
        {
            await AddSourcesAsync(waiting, db, calendar, cancel);
            await AddOperationAsync(waiting, db, cancel);
        }

        if (caller.Matters.Count > 0)
        {
            waiting.AddRange(await MatterToday.OfAsync(caller, db, calendar, cancel));
        }

        waiting.AddRange(await MatterToday.NoticesOfAsync(caller, db, calendar, cancel));
        var figures = caller.May(Right.ReadContent) ? await FiguresAsync(caller, db, calendar, cancel) : [];
        if (caller.May(Right.FileContent) && figures.Count > 0 && figures[3] is { Value: not "0" } unfiled)
        {
            waiting.Add(
                new(
                    "unfiled",
                    $"{unfiled.Value} items are filed under no series",
                    "Nothing keeps them and nothing removes them",
                    null,
                    "no date",
                    "File them",
                    "/content?unfiled=true",
                    false
                )
            );
        }

        return new TodayView(today, [.. waiting.OrderBy(w => w.By ?? new LocalDate(9999, 12, 31))], figures);
    }

    private static async Task AddDispositionAsync(
        List<Waiting> waiting,
        Caller caller,
        WideKeelDb db,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        var today = calendar.Today;
        var batches = await db
            .Batches.AsNoTracking()
            .WithRuler()
            .Include(b => b.SignOffs)
            .Where(b => b.State == BatchState.Open || b.State == BatchState.Signing)
            .ToListAsync(cancel);
        foreach (var batch in batches.Where(b => caller.May(Right.SignDisposition, b.Ruler.UnitId)))
        {
            var stages = batch.Ruler.Stages;
            var signatures = batch.SignOffs.Select(s => new Signature(s.Stage, s.PersonId)).ToList();
            if (
                SignOffRules.MaySign(
                    batch.State,
                    stages,
                    signatures,
                    caller.Signer,
                    caller.PathOf(batch.Ruler.UnitId),
                    BatchEndpoints.IsOverdue(batch, signatures.Count, calendar)
                )
                is not null
            )
            {
                continue;
            }

            var lines = await db.BatchLines.CountAsync(l => l.BatchId == batch.Id, cancel);
            var oldest =
                await db.BatchLines.Where(l => l.BatchId == batch.Id).MinAsync(l => l.Item!.DisposableFrom, cancel)
                ?? today;
            var by = oldest.PlusDays(batch.Ruler.GraceDays);
            var former = batch.SignOffs.OrderBy(s => s.Stage).LastOrDefault();
            waiting.Add(
                new(
                    "sign",
                    $"Sign off {Plural(lines, "item")}: {batch.Ruler.Title}",
                    $"{batch.Ruler.Code} · you are stage {signatures.Count + 1} of {stages.Count}{(former is null ? "" : $", {former.PersonName} signed")}",
                    by,
                    Grace(by, today),
                    $"Look through {lines.ToString("N0", CultureInfo.InvariantCulture)}",
                    $"/schedule/docket?batch={batch.Id}",
                    true
                )
            );
        }

        foreach (
            var group in (await BatchEndpoints.DueAsync(caller, db, calendar, cancel)).Where(g =>
                caller.May(Right.SignDisposition)
            )
        )
        {
            waiting.Add(
                new(
                    "open-batch",
                    $"{Plural(group.Items, "item")} due: {group.Series.Title}",
                    $"{group.Series.Code} · {group.Unit} · the oldest since {Day(group.Oldest)}",
                    group.GraceEnds,
                    Grace(group.GraceEnds, today),
                    $"See {group.Items.ToString("N0", CultureInfo.InvariantCulture)}",
                    group.BlanketId is { } blanket
                        ? $"/schedule/docket?blanket={blanket}"
                        : $"/schedule/docket?due={group.Series.Id}",
                    group.GraceEnds < today
                )
            );
        }
    }

    private static async Task AddDraftsAsync(
        List<Waiting> waiting,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var drafts = await db
            .Series.AsNoTracking()
            .Where(s => s.Draft != null)
            .OrderBy(s => s.Code)
            .ToListAsync(cancel);
        waiting.AddRange(
            drafts
                .Where(s => caller.May(Right.WriteSchedule, s.UnitId))
                .Select(s => new Waiting(
                    "draft",
                    $"Draft not yet in force: {s.Draft!.Title}",
                    s.State == SeriesState.Draft
                        ? $"{s.Code} · items filed under it are not kept yet"
                        : $"{s.Code} · version {s.VersionInForce} rules meanwhile",
                    null,
                    s.DraftBy is null ? "no date" : $"by {s.DraftBy}",
                    "See what it does",
                    $"/schedule/{s.Id}",
                    false
                ))
        );
    }

    private static async Task AddSourcesAsync(
        List<Waiting> waiting,
        WideKeelDb db,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        var sources = await db.Sources.AsNoTracking().ToListAsync(cancel);
        if (sources.Count == 0)
        {
            waiting.Add(
                new(
                    "scan",
                    "No source is connected yet",
                    "Content is known once a source has been scanned",
                    null,
                    "no date",
                    "Connect a source",
                    "/administration/sources",
                    false
                )
            );
        }

        foreach (var source in sources)
        {
            var unreadable = await db.Unreadables.CountAsync(u => u.SourceId == source.Id, cancel);
            if (unreadable > 0)
            {
                waiting.Add(
                    new(
                        "unreadable",
                        $"{Plural(unreadable, "file")} could not be read on {source.Name}",
                        "They are under no rule until they can be",
                        null,
                        $"scan of {Day(calendar.DateOf(source.LastScan!.Value))}",
                        "See the reasons",
                        $"/administration/sources?exceptions={source.Id}",
                        false
                    )
                );
            }

            if (!source.Connected)
            {
                waiting.Add(
                    new(
                        "scan",
                        $"{source.Name} is disconnected",
                        "Nothing new of it is known",
                        null,
                        "no date",
                        "Open sources",
                        "/administration/sources",
                        false
                    )
                );
            }
            else if (source.LastScan is null)
            {
                waiting.Add(
                    new(
                        "scan",
                        $"{source.Name} has not been scanned yet",
                        "Nothing of it is known",
                        null,
                        "no date",
                        "Open sources",
                        "/administration/sources",
                        false
                    )
                );
            }
        }
    }

    /// <summary>What whoever runs the product must look after: work that failed, copies that rotted, messages that cannot be delivered.</summary>
    private static async Task AddOperationAsync(List<Waiting> waiting, WideKeelDb db, CancellationToken cancel)
    {
        var failed = await db
            .Jobs.AsNoTracking()
            .Where(j =>
                j.MatterId == null
                && j.State == Store.Jobs.JobState.Failed
                && !db.Jobs.Any(x =>
                    x.Kind == j.Kind && x.SubjectId == j.SubjectId && x.Id > j.Id && x.State == Store.Jobs.JobState.Done
                )
            )
            .OrderByDescending(j => j.Id)
            .Take(5)
            .ToListAsync(cancel);
        waiting.AddRange(
            failed.Select(j => new Waiting(
                "failed",
                $"Failed: {j.Title}",
                j.Message ?? "",
                null,
                "no date",
                "Open sources",
                "/administration/sources",
                true
            ))
        );
        if (await db.BrokenCopies.CountAsync(cancel) is var broken and > 0)
        {
            waiting.Add(
                new(
                    "broken",
                    $"{Plural(broken, "copy", "copies")} in safekeeping {(broken == 1 ? "is" : "are")} no longer what {(broken == 1 ? "it was" : "they were")}",
                    "Put back what the source still has, or restore from a backup",
                    null,
                    "no date",
                    "See which",
                    "/administration/sources",
                    true
                )
            );
        }

        if (
            await db.Messages.CountAsync(m => m.MatterId == null && m.SentAt == null && m.Failure != null, cancel)
                + await db.Deliveries.CountAsync(d => d.SentAt == null && d.Failure != null, cancel)
            is var stuck
                and > 0
        )
        {
            waiting.Add(
                new(
                    "undelivered",
                    $"{Plural(stuck, "message")} could not be delivered",
                    "They are tried again, later each time",
                    null,
                    "no date",
                    "See why",
                    "/administration/messages",
                    false
                )
            );
        }
    }

    private static async Task<List<Figure>> FiguresAsync(
        Caller caller,
        WideKeelDb db,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        await db.Database.OpenConnectionAsync(cancel);
        var today = calendar.Today;
        var days = Enumerable
            .Range(0, Months)
            .Select(back => today.PlusMonths(-back))
            .Reverse()
            .Select(d => d.ToDayNumber())
            .ToList();
        var filter = caller.Items();
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT d.value,
                SUM(alive), SUM(alive AND i.KeepUntil IS NOT NULL), SUM(alive AND i.DisposableFrom <= d.value AND NOT i.Held),
                SUM(i.DestroyedAt IS NOT NULL AND i.DestroyedAt / 86400000 <= d.value), SUM(alive AND i.SeriesId IS NULL),
                SUM(alive AND past), SUM(CASE WHEN alive THEN i.Bytes ELSE 0 END)
            FROM json_each($days) d
            JOIN (SELECT i.*, COALESCE(json_extract(s.InForce, '$.graceDays'), 0) AS Grace, $holds AS Held FROM item i LEFT JOIN series s ON s.Id = i.SeriesId) i
            JOIN container c ON c.Id = i.ContainerId
            WHERE i.Created <= d.value AND {filter.Where()} GROUP BY d.value ORDER BY d.value
            """.Replace(
            "alive",
            "(i.DestroyedAt IS NULL OR i.DestroyedAt / 86400000 > d.value)",
            StringComparison.Ordinal
        ).Replace("past", "i.DisposableFrom + i.Grace < d.value AND NOT i.Held", StringComparison.Ordinal).Replace(
            "$holds",
            Holds.HeldSql,
            StringComparison.Ordinal
        );
        filter.Bind(command, today.ToDayNumber());
        command.Parameters.AddWithValue("$days", System.Text.Json.JsonSerializer.Serialize(days));
        Dictionary<int, long[]> byDay = [];
        using (var reader = await command.ExecuteReaderAsync(cancel))
        {
            while (reader.Read())
            {
                byDay[reader.GetInt32(0)] =
                [
                    .. Enumerable.Range(1, 7).Select(i => reader.IsDBNull(i) ? 0 : reader.GetInt64(i)),
                ];
            }
        }

        var rows = days.Select(d => byDay.GetValueOrDefault(d, new long[7])).ToList();
        var now = rows[^1];
        return
        [
            new(
                "covered",
                now[0] == 0 ? "–" : $"{(100.0 * now[1] / now[0]).ToString("0.0", CultureInfo.InvariantCulture)} %",
                "of content under a rule",
                $"{(now[0] - now[1]).ToString("N0", CultureInfo.InvariantCulture)} items under none",
                [.. rows.Select(r => r[0] == 0 ? 0 : 100.0 * r[1] / r[0])],
                "sea",
                "/content?state=noRule"
            ),
            new(
                "due",
                now[2].ToString("N0", CultureInfo.InvariantCulture),
                "items due",
                $"{now[5].ToString("N0", CultureInfo.InvariantCulture)} past grace",
                [.. rows.Select(r => (double)r[2])],
                "copper",
                "/content?state=due&state=onDocket"
            ),
            new(
                "destroyed",
                now[3].ToString("N0", CultureInfo.InvariantCulture),
                "items destroyed",
                "each with a certificate",
                [.. rows.Select(r => (double)r[3])],
                "sea",
                "/content?state=destroyed"
            ),
            new(
                "unfiled",
                now[4].ToString("N0", CultureInfo.InvariantCulture),
                "items under no series",
                $"{now[0].ToString("N0", CultureInfo.InvariantCulture)} items in all",
                [.. rows.Select(r => (double)r[4])],
                "copper",
                "/content?unfiled=true"
            ),
        ];
    }

    private static string Grace(LocalDate by, LocalDate today) =>
        NodaTime.Period.DaysBetween(today, by) switch
        {
            < -730 and var past => $"past grace by {-past / 365} years",
            < 0 and var past => $"past grace by {Plural(-past, "day")}",
            0 => "grace ends today",
            var left => $"grace ends in {Plural(left, "day")}",
        };

    private static string Plural(long count, string word, string? many = null) =>
        count == 1 || many is null
            ? Plural(count, word)
            : $"{count.ToString("N0", CultureInfo.InvariantCulture)} {many}";

    private static string Plural(long count, string word) =>
        $"{count.ToString("N0", CultureInfo.InvariantCulture)} {word}{(count == 1 ? "" : "s")}";

    private static string Day(LocalDate date) =>
        NodaTime.Text.LocalDatePattern.Create("d MMM uuuu", CultureInfo.InvariantCulture).Format(date);
}
