using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.Query;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// Judges what arrives by the watches that are on. For each watch and each value that the new events touch, the whole
/// history at hand is judged anew, so that a late event raises what it would have raised in time. Alerts and the place up
/// to which a watch has judged are one change: a kill leaves both or neither.
/// </summary>
public sealed class WatchEvaluator(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    OrganisationCalendar calendar,
    IClock clock,
    Troubles troubles,
    ILogger<WatchEvaluator> log
) : BackgroundService
{
    private const string TroubleKey = "watches";

    private static readonly int Portion = Portions.Or(5_000);
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(1);
    private readonly SemaphoreSlim turn = new(1, 1);

    /// <summary>The hour at which each watch with whole hours was last judged.</summary>
    private readonly Dictionary<long, long> hours = [];

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Look);
        do
        {
            try
            {
                await JudgeAsync(stoppingToken);
                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "Watches could not be judged");
                troubles.Report(TroubleKey, "Watches are not judged", e.Message, "/activity/watches");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Judges all that arrived and was not judged yet.</summary>
    public async Task JudgeAsync(CancellationToken cancel)
    {
        await turn.WaitAsync(cancel);
        try
        {
            await using var db = await databases.CreateDbContextAsync(cancel);
            var watches = await db.Watches.AsNoTracking().Where(w => w.On).OrderBy(w => w.Id).ToListAsync(cancel);
            if (watches.Count == 0)
            {
                return;
            }

            var last = await db.Events.MaxAsync(e => (long?)e.Id, cancel) ?? 0;
            var read = watches.Select(w => (Row: w, Watch: WatchFile.ReadOne(w.Definition, calendar.Today))).ToList();
            read.RemoveAll(w => w.Watch.Refused || (!w.Row.JudgeWhole && !IsDue(w.Row, w.Watch.Value, last)));
            if (read.Count == 0)
            {
                return;
            }

            var ground = await WatchGround.LoadAsync(db, calendar, cancel);
            foreach (var (row, watch) in read)
            {
                await JudgeOneAsync(
                    await WatchEvents.OfAsync(db, watch.Value, cancel),
                    ground,
                    row,
                    watch.Value,
                    last,
                    cancel
                );
            }
        }
        finally
        {
            turn.Release();
        }
    }

    /// <summary>Whether judging can find something that it did not find before.</summary>
    private bool IsDue(WatchRow row, Watch watch, long last)
    {
        if (!watch.ByWholeHours)
        {
            return row.JudgedTo != last || watch.TakesTime;
        }

        return !hours.TryGetValue(row.Id, out var judged) || judged != HourOfWeek.Of(clock.GetCurrentInstant());
    }

    private async Task JudgeOneAsync(
        WatchEvents events,
        WatchGround ground,
        WatchRow row,
        Watch watch,
        long last,
        CancellationToken cancel
    )
    {
        var now = clock.GetCurrentInstant();
        if (watch is Watch.Rhythm rhythm)
        {
            await WriteAsync(row.Id, ground, Judged.Rhythm(events, ground, rhythm, row.JudgeWhole, now), last, cancel);
            hours[row.Id] = HourOfWeek.Of(now);
            return;
        }

        var whole = row.JudgeWhole || last - row.JudgedTo > Portion * 4L;
        var from = row.JudgedTo;
        while (whole || from < last || watch.TakesTime)
        {
            var to = whole ? last : Math.Min(last, from + Portion);
            var judged = whole
                ? Judged.Whole(events, ground, watch, now)
                : Judged.After(events, ground, watch, (from, to), now);
            await WriteAsync(row.Id, ground, judged, to, cancel);
            from = to;
            if (whole || from >= last)
            {
                return;
            }
        }
    }

    private async Task WriteAsync(long watchId, WatchGround ground, Judged? judged, long to, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var before = await db.Watches.AsNoTracking().SingleAsync(w => w.Id == watchId, cancel);
        if (judged is null && before.JudgedTo == to && !before.JudgeWhole)
        {
            return;
        }

        if (judged is not null && before.JudgedTo == to && !before.JudgeWhole)
        {
            // A silence that was looked at again: most often it is raised already, and nothing need be written.
            var known = await db.Alerts.AsNoTracking().Where(a => a.WatchId == watchId).ToListAsync(cancel);
            if (judged.Alerts.All(a => a.At < before.Since || known.Any(k => Same(k, a))))
            {
                return;
            }
        }

        await writer.RunAsync(
            LedgerActor.Job("watch", null),
            async session =>
            {
                var row = await session.Db.Watches.SingleAsync(w => w.Id == watchId, cancel);
                if (!row.On)
                {
                    return;
                }

                (row.JudgedTo, row.JudgeWhole) = (to, false);
                if (judged is not null)
                {
                    await new AlertBook(session, row, ground).ReconcileAsync(judged, cancel);
                }
            },
            cancel
        );
    }

    /// <summary>Whether a stored alert is the one that was computed.</summary>
    internal static bool Same(AlertRow stored, WatchAlert computed) =>
        stored.Key == computed.Key && stored.At == computed.At && stored.EventId == computed.Event;
}
