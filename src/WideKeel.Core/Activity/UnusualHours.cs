using System.Globalization;
using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>What one clock hour is held against, and how far it is from it.</summary>
/// <param name="History">The measures of the cell's hours, zeros included.</param>
/// <param name="Band">1.4826 × the median absolute deviation: a robust estimate of the standard deviation.</param>
/// <param name="Surprise">−log10 of the tail beyond the measure.</param>
public sealed record Baseline(
    string Cell,
    IReadOnlyList<double> History,
    double Median,
    double Band,
    double Mean,
    double Variance,
    double Surprise
)
{
    /// <param name="history">At least one measure.</param>
    public static Baseline Of(string cell, IReadOnlyList<double> history, decimal measure)
    {
        var n = history.Count;
        var median = Tail.Median(history);
        var plain = history.Average();
        var variance = n < 2 ? 0 : history.Sum(x => (x - plain) * (x - plain)) / (n - 1);
        var mean = (history.Sum() + 0.5) / (n + 1);
        return new(
            cell,
            history,
            median,
            1.4826 * Tail.Median(history.Select(x => Math.Abs(x - median))),
            mean,
            variance,
            Tail.Surprise((long)Math.Ceiling(measure), mean, variance)
        );
    }

    public bool Alerts(decimal measure, double sensitivity, decimal least) =>
        Surprise >= sensitivity && measure >= least && (double)measure > Median + (3 * Band);
}

/// <summary>
/// Clock hours (UTC) in which a key did far more than is usual for it. The hour is held against the same hours of its
/// week, of its kind of day, or of its peers, whichever has history enough; without history it is not judged.
/// </summary>
internal sealed class UnusualHours
{
    private const long MostHistory = 8 * HourOfWeek.Week;
    private const long ForHourOfWeek = 4 * HourOfWeek.Week;
    private const long ForDayClass = 2 * HourOfWeek.Week;

    private readonly Watch.Unusual watch;
    private readonly Dictionary<string, WatchPerson> people;
    private readonly DateTimeZone zone;
    private readonly Dictionary<string, Series> series = new(StringComparer.Ordinal);

    public UnusualHours(
        Watch.Unusual watch,
        Dictionary<string, WatchPerson> people,
        DateTimeZone zone,
        IEnumerable<(string? Key, IReadOnlyList<ActivityEvent> Events)> keys
    )
    {
        (this.watch, this.people, this.zone) = (watch, people, zone);
        foreach (var (key, events) in keys.Where(k => k.Events.Count > 0))
        {
            series[key ?? ""] = new(key, watch.Of, events);
        }
    }

    public IEnumerable<WatchAlert> Alerts() => series.Values.SelectMany(AlertsOf);

    /// <summary>What a key did in the hour of a moment, and what that is held against; null where it did nothing, or
    /// where there is too little history.</summary>
    public (decimal Measure, Baseline? Baseline)? At(string? key, Instant at)
    {
        var hour = HourOfWeek.Of(at);
        if (series.GetValueOrDefault(key ?? "") is not { } own || !own.Hours.TryGetValue(hour, out var there))
        {
            return null;
        }

        return CellOf(own, hour) is var (cell, history)
            ? (there.Measure, Baseline.Of(cell, history, there.Measure))
            : (there.Measure, null);
    }

    private IEnumerable<WatchAlert> AlertsOf(Series own)
    {
        foreach (var (hour, (measure, first)) in own.Hours)
        {
            if (measure < watch.Least || CellOf(own, hour) is not var (cell, history))
            {
                continue;
            }

            var baseline = Baseline.Of(cell, history, measure);
            if (baseline.Alerts(measure, watch.Sensitivity, watch.Least))
            {
                yield return new(
                    watch,
                    own.Key,
                    first.Time,
                    first.Id,
                    (decimal)Math.Round(baseline.Surprise, 2),
                    null,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{measure} in this hour; {cell}: median {baseline.Median:0.##}, band {baseline.Band:0.##}, "
                            + $"{history.Count} hours."
                    )
                );
            }
        }
    }

    /// <summary>The hours that this one is held against; null where there is too little history.</summary>
    private (string Cell, IReadOnlyList<double> History)? CellOf(Series own, long hour)
    {
        if (OwnCellOf(own, hour) is { } cell)
        {
            return cell;
        }

        if (watch.Per != EventColumn.Actor || !people.TryGetValue(own.Key ?? "", out var person))
        {
            return null;
        }

        List<double> peers =
        [
            .. people
                .Values.Where(p => p.Id != person.Id && p.Unit == person.Unit && p.Title == person.Title)
                .Select(p => series.GetValueOrDefault(p.Id))
                .OfType<Series>()
                .Select(p => OwnCellOf(p, hour)?.History)
                .OfType<IReadOnlyList<double>>()
                .SelectMany(h => h),
        ];
        return peers.Count == 0 ? null : ("this hour among people of the same unit and title", peers);
    }

    private (string Cell, IReadOnlyList<double> History)? OwnCellOf(Series own, long hour)
    {
        var length = hour - own.Start;
        var local = LocalOf(hour);
        if (length >= ForHourOfWeek)
        {
            return (
                "the same hour of the week",
                own.Before(hour, h => LocalOf(h) is var l && l.DayOfWeek == local.DayOfWeek && l.Hour == local.Hour)
            );
        }

        return length < ForDayClass
            ? null
            : (
                "the same hour of such days",
                own.Before(
                    hour,
                    h =>
                        LocalOf(h) is var l
                        && HourOfWeek.IsWeekend(l) == HourOfWeek.IsWeekend(local)
                        && l.Hour == local.Hour
                )
            );
    }

    private LocalDateTime LocalOf(long hour) => HourOfWeek.Local(hour, zone);

    /// <summary>What one key did, hour by hour; hours count from 1970 in UTC.</summary>
    private sealed class Series
    {
        public Series(string? key, WatchMeasure of, IReadOnlyList<ActivityEvent> events)
        {
            Key = key;
            foreach (var hour in events.GroupBy(e => HourOfWeek.Of(e.Time)))
            {
                var window = new MeasuredWindow(of);
                foreach (var e in hour)
                {
                    window.Add(e);
                }

                Hours[hour.Key] = (window.Measure, hour.First());
            }

            Start = HourOfWeek.Of(events[0].Time);
        }

        public string? Key { get; }

        /// <summary>The hour of its first event.</summary>
        public long Start { get; }

        public SortedDictionary<long, (decimal Measure, ActivityEvent First)> Hours { get; } = [];

        /// <summary>The measures of the hours before one that fit, zeros included, within the longest history.</summary>
        public List<double> Before(long hour, Func<long, bool> fits)
        {
            List<double> measures = [];
            for (var h = Math.Max(Start, hour - MostHistory); h < hour; h++)
            {
                if (fits(h))
                {
                    measures.Add(Hours.TryGetValue(h, out var there) ? (double)there.Measure : 0);
                }
            }

            return measures;
        }
    }
}
