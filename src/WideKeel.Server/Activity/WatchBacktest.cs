using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Which watch is tried, over which events.</summary>
public sealed record BacktestRequest(WatchRule Rule, DateTimeOffset? From = null, DateTimeOffset? Before = null);

/// <param name="Day">ISO 8601, UTC.</param>
public sealed record BacktestDay(string Day, int Alerts);

public sealed record BacktestAlert(Instant At, string? Key, double? Measure, string Why, long? EventRow);

/// <summary>What a watch would raise a week at another threshold.</summary>
public sealed record BacktestPoint(double Threshold, double PerWeek);

/// <param name="Counted">Events that count for the watch.</param>
/// <param name="Alerts">The latest 200.</param>
/// <param name="Curve">Empty for kinds that have no threshold.</param>
/// <param name="Mark">Where the watch stands on the curve.</param>
public sealed record BacktestView(
    long Counted,
    int Raised,
    double PerWeek,
    IReadOnlyList<BacktestDay> Days,
    IReadOnlyList<BacktestAlert> Alerts,
    IReadOnlyList<BacktestPoint> Curve,
    double? Mark
);

/// <summary>What a watch would have raised over the events in the database.</summary>
internal static class WatchBacktest
{
    private const int MostShown = 200;

    // Long because the answer has as many parts as the screen.
    public static async Task<Reply<BacktestView>> Run(
        BacktestRequest request,
        IClock clock,
        [AsParameters] ApiContext context
    )
    {
        var read = WatchFile.ReadOne(WatchEndpoints.Text(request.Rule, "watch"), context.Calendar.Today);
        if (read.Refusal is { } malformed)
        {
            return malformed;
        }

        var watch = read.Value;
        var ground = await WatchGround.LoadAsync(context.Db, context.Calendar, context.Cancel);
        var access = await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel);
        var events = (await WatchEvents.OfAsync(context.Db, watch, context.Cancel)).All().Where(access.Covers).ToList();
        // They count already; asking each threshold whether they do would be the most of the work.
        var bare = watch with
        {
            Where = null,
            Except = null,
        };
        var now = clock.GetCurrentInstant();
        var from =
            request.From is { } f ? Instant.FromDateTimeOffset(f)
            : events.Count > 0 ? events.Min(e => e.Event.Time)
            : now;
        var before = request.Before is { } b ? Instant.FromDateTimeOffset(b) : now;
        var run = ground.Run(events.Select(e => e.Event), before);
        var alerts = run.Alerts([bare]).Where(Within).ToList();
        var weeks = Math.Max((before - from).TotalDays / 7, 1.0 / 7);
        var rows = events.DistinctBy(e => e.Event.Id).ToDictionary(e => e.Event.Id, e => e.Id);
        return new BacktestView(
            events.Count,
            alerts.Count,
            Math.Round(alerts.Count / weeks, 2),
            [
                .. alerts
                    .GroupBy(a => a.At.InUtc().Date)
                    .OrderBy(g => g.Key)
                    .Select(g => new BacktestDay(NodaTime.Text.LocalDatePattern.Iso.Format(g.Key), g.Count())),
            ],
            [
                .. alerts
                    .OrderByDescending(a => a.At)
                    .Take(MostShown)
                    .Select(a => new BacktestAlert(
                        a.At,
                        a.Key,
                        (double?)a.Measure,
                        a.Why,
                        (a.Event ?? a.First) is { } id && rows.TryGetValue(id, out var row) ? row : null
                    )),
            ],
            [
                .. bare.OtherMarks.Select(mark => new BacktestPoint(
                    mark,
                    Math.Round(run.Alerts([bare.At(mark)]).Count(Within) / weeks, 2)
                )),
            ],
            bare.Mark
        );

        bool Within(WatchAlert a) => a.At >= from && a.At < before;
    }
}
