using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>One alert with its events, its baseline, its case and what can be done.</summary>
internal static class AlertDetails
{
    private const int MostEvents = 100;
    private const int MostHistory = 2_000;

    // Long because the answer has as many parts as the screen.
    public static async Task<Outcome<AlertDetail>> FindAsync(
        long id,
        OrganisationDirectory directory,
        ApiContext context
    )
    {
        var db = context.Db;
        var access = await ChannelAccess.OfAsync(context.Caller, db, context.Cancel);
        var visible = access.Of(db.Alerts.AsNoTracking());
        if (await visible.SingleOrDefaultAsync(a => a.Id == id, context.Cancel) is not { } row)
        {
            return Problems.NotFound("alert");
        }

        var watchRow = await db.Watches.AsNoTracking().SingleAsync(w => w.Id == row.WatchId, context.Cancel);
        var watch = WatchFile.ReadOne(watchRow.Definition, context.Calendar.Today).Value;
        var counted = await WatchEvents.OfAsync(db, watch, context.Cancel);
        var history = HistoryOf(counted, watch, row).Where(access.Covers).ToList();
        var span = watch.SpanOf(row.At, history.Find(e => e.Event.Id == row.First)?.Event.Time);
        var ground = await WatchGround.LoadAsync(db, context.Calendar, context.Cancel);
        var acts = await db
            .AlertActs.AsNoTracking()
            .Where(a => a.AlertId == id)
            .OrderBy(a => a.Id)
            .ToListAsync(context.Cancel);
        return new AlertDetail(
            (await AlertEndpoints.ViewsAsync([row], access, context))[0],
            new(
                watchRow.Id,
                WatchEndpoints.SettingsOf(watchRow),
                watchRow.On,
                watchRow.Since,
                null,
                0,
                0,
                watchRow.Version
            ),
            JsonSerializer.Deserialize<List<RiskFactor>>(row.Factors, Json.Options)!,
            [
                .. history
                    .Where(e => IsGround(span, row, e.Event))
                    .OrderByDescending(e => e.Event.Time)
                    .Take(MostEvents)
                    .Select(EventEndpoints.View),
            ],
            BaselineOf(ground, watch, row, history),
            await AlertEndpoints.ViewsAsync(
                await visible
                    .Where(a => a.CaseId == row.CaseId && a.FoldedInto == null && !a.Withdrawn && a.Id != id)
                    .OrderBy(a => a.At)
                    .ToListAsync(context.Cancel),
                access,
                context
            ),
            [.. acts.Select(a => AlertActEndpoints.View(a, context.Caller))],
            [
                .. AlertActs
                    .Known.Select(k => (k.Key, Words: k.Value, Change: AlertActs.ChangeOf(k.Key, row, directory.State)))
                    .Where(k => k.Change is not null)
                    .Select(k => new PossibleAct(k.Key, k.Words, k.Change!.InWords())),
            ]
        );
    }

    /// <summary>What the alert's key did, as far as it counts for the watch.</summary>
    private static IReadOnlyList<StoredEvent> HistoryOf(WatchEvents counted, Watch watch, AlertRow row) =>
        watch.TakesTime ? []
        : watch.HistoryOf is null || row.Key is null ? counted.Latest(ReachOf(watch, row.At), row.At, MostHistory)
        : counted.All(new HashSet<string> { row.Key });

    /// <summary>A day, or as far back as the watch looks.</summary>
    private static Instant ReachOf(Watch watch, Instant at) =>
        Instant.Min(at - Duration.FromDays(1), watch.SpanOf(at, null)?.After ?? at);

    /// <summary>Whether the alert is based on an event.</summary>
    private static bool IsGround((Instant After, Instant Through)? span, AlertRow row, ActivityEvent e) =>
        e.Id == row.EventId
        || e.Id == row.First
        || (span is var (after, through) && e.Time > after && e.Time <= through);

    /// <summary>The hour on the key's own hours, by events where the watch measures nothing else.</summary>
    private static AlertBaseline? BaselineOf(WatchGround ground, Watch watch, AlertRow row, List<StoredEvent> history)
    {
        WatchMeasure? measured = watch switch
        {
            Watch.Unusual unusual => unusual.Of,
            Watch.Count count => count.Of,
            Watch.CountBeyondUsual usual => usual.Of,
            _ => null,
        };
        if (row.Key is null || measured is not { } measure)
        {
            return null;
        }

        var hours = new Watch.Unusual(watch.Name, null, null, watch.Per, measure, 4, 5);
        return ground.Run(history.Select(e => e.Event), row.At).HourOf(hours, row.Key, row.At) is not var (x, baseline)
            ? null
            : new(
                (double)x,
                baseline?.Cell,
                baseline?.History ?? [],
                baseline?.Median ?? 0,
                baseline?.Band ?? 0,
                baseline?.Mean ?? 0,
                baseline?.Variance ?? 0,
                baseline?.Surprise ?? 0
            );
    }
}
