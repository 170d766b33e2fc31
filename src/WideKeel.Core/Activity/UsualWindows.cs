using System.Globalization;
using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>
/// Windows in which a key did far more than in its own windows of that length before. A window is compared with
/// the complete windows of the eight weeks before it, on a grid that begins in 1970; a window shorter than a day is
/// compared with windows at about the same time on the same kind of day. Without two weeks of history it is not judged.
/// </summary>
internal sealed class UsualWindows(Watch.CountBeyondUsual watch, DateTimeZone zone)
{
    private const int LeastWindows = 5;
    private static readonly Duration MostHistory = Duration.FromDays(56);
    private static readonly Duration LeastHistory = Duration.FromDays(14);
    private static readonly Duration Day = Duration.FromDays(1);

    /// <summary>Longer windows would be too few in the history for anything to be usual.</summary>
    public static Duration Longest { get; } = Duration.FromDays(7);

    private readonly long length = (long)watch.Within.TotalMilliseconds;

    public IEnumerable<WatchAlert> AlertsOf(string? key, IReadOnlyList<ActivityEvent> events)
    {
        var grid = GridOf(events);
        var window = new MeasuredWindow(watch.Of);
        var start = 0;
        var alerting = false;
        (long Cell, Baseline? Baseline) known = (long.MinValue, null);
        foreach (var e in events)
        {
            window.Add(e);
            for (; events[start].Time <= e.Time - watch.Within; start++)
            {
                window.Remove(events[start]);
            }

            var measure = window.Measure;
            if (measure < watch.Least || e.Time < events[0].Time + LeastHistory)
            {
                alerting = false;
                continue;
            }

            var cell = CellOf(e.Time);
            if (known.Cell != cell || known.Baseline is null)
            {
                known = (
                    cell,
                    HistoryOf(grid, events[0].Time, e.Time) is { } history ? Baseline.Of("", history, 0) : null
                );
            }

            if (known.Baseline is not { } usual)
            {
                continue;
            }

            var surprise = Tail.Surprise((long)Math.Ceiling(measure), usual.Mean, usual.Variance);
            var alerts = surprise >= watch.Sensitivity && (double)measure > usual.Median + (3 * usual.Band);
            if (alerts && !alerting)
            {
                yield return Alert(key, e, measure, events[start], usual, surprise);
            }

            alerting = alerts;
        }
    }

    private WatchAlert Alert(
        string? key,
        ActivityEvent e,
        decimal measure,
        ActivityEvent first,
        Baseline usual,
        double surprise
    ) =>
        new(
            watch,
            key,
            e.Time,
            e.Id,
            (decimal)Math.Round(surprise, 2),
            first.Id,
            string.Create(
                CultureInfo.InvariantCulture,
                $"{watch.Of.InWords(measure)} within {Durations.Words(watch.Within)}; usual are {usual.Median:0.##} "
                    + $"(median of {usual.History.Count}), band {usual.Band:0.##}."
            )
        );

    private long CellOf(Instant time) => (long)Math.Floor((double)time.ToUnixTimeMilliseconds() / length);

    private Dictionary<long, double> GridOf(IReadOnlyList<ActivityEvent> events)
    {
        Dictionary<long, double> grid = [];
        foreach (var cell in events.GroupBy(e => CellOf(e.Time)))
        {
            var window = new MeasuredWindow(watch.Of);
            foreach (var e in cell)
            {
                window.Add(e);
            }

            grid[cell.Key] = (double)window.Measure;
        }

        return grid;
    }

    /// <summary>The whole windows before the one that ends at a moment, zeros included; null where they are too
    /// few.</summary>
    private List<double>? HistoryOf(Dictionary<long, double> grid, Instant start, Instant at)
    {
        var earliest = CellOf(start > at - MostHistory ? start : at - MostHistory) + 1;
        var before = CellOf(at - watch.Within);
        var (all, alike) = (new List<double>(), new List<double>());
        for (var cell = earliest; cell < before; cell++)
        {
            var measure = grid.GetValueOrDefault(cell);
            all.Add(measure);
            if (IsAlike(cell, at))
            {
                alike.Add(measure);
            }
        }

        return alike.Count >= LeastWindows ? alike
            : all.Count >= LeastWindows ? all
            : null;
    }

    /// <summary>A window of about that time, on a working day or a weekend as this one; any where it takes a day or
    /// more.</summary>
    private bool IsAlike(long cell, Instant at)
    {
        if (watch.Within >= Day)
        {
            return true;
        }

        var there = Instant.FromUnixTimeMilliseconds((cell * length) + (length / 2)).InZone(zone).LocalDateTime;
        var here = (at - (watch.Within / 2)).InZone(zone).LocalDateTime;
        var apart = Math.Abs((there.TimeOfDay - here.TimeOfDay).ToDuration().TotalHours);
        return HourOfWeek.IsWeekend(there) == HourOfWeek.IsWeekend(here)
            && Math.Min(apart, 24 - apart) <= Math.Max(1, watch.Within.TotalHours / 2);
    }
}
