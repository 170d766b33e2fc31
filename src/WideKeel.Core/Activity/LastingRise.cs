using System.Globalization;
using NodaTime;
using WideKeel.Core.Time;

namespace WideKeel.Core.Activity;

/// <summary>The cumulative sum of E. S. Page, Continuous inspection schemes, Biometrika 41 (1954), cited from
/// memory.</summary>
public static class Cusum
{
    /// <summary>The sum after one more observation: what exceeds the allowance is kept, and it never falls below
    /// nothing.</summary>
    /// <param name="sum">Before it; 0 at first.</param>
    /// <param name="deviation">Of the observation from what is usual.</param>
    /// <param name="allowance">What each observation may deviate by, in the same unit.</param>
    public static double Next(double sum, double deviation, double allowance) =>
        Math.Max(0, sum + deviation - allowance);
}

/// <summary>
/// Keys that do more day after day than they used to, or than their peers do. A day's measure is taken by its square
/// root (F. J. Anscombe, Biometrika 35 (1948), from memory: it makes the spread of counts even), as deviation from
/// what was usual in the days before the rise in robust standard deviations, so bounded that no single day decides; the days
/// are added up by <see cref="Cusum"/>.
/// </summary>
internal sealed class LastingRise
{
    private const int MostHistory = 56;
    private const int LeastHistory = 14;

    /// <summary>A slow rise is compared with days at most this many days before it.</summary>
    private const int LongestRise = 28;
    private const int LeastWorkingDays = 15;
    private const int LeastWeekendDays = 4;
    private const int LeastPeers = 3;
    private const double Allowance = 0.75;
    private const double MostADay = 4;
    private const double LeastADay = -1.5;

    /// <summary>The sum is capped this far above the threshold, so that a new rise can be found after one has ended.</summary>
    private const double Ceiling = 4;

    private readonly Watch.Drift watch;
    private readonly Dictionary<string, WatchPerson> people;
    private readonly DateTimeZone zone;
    private readonly Dictionary<string, Days> days = new(StringComparer.Ordinal);

    public LastingRise(
        Watch.Drift watch,
        Dictionary<string, WatchPerson> people,
        DateTimeZone zone,
        IEnumerable<(string? Key, IReadOnlyList<ActivityEvent> Events)> keys
    )
    {
        (this.watch, this.people, this.zone) = (watch, people, zone);
        foreach (var (key, events) in keys.Where(k => k.Events.Count > 0))
        {
            days[key ?? ""] = new(key, watch.Of, zone, events);
        }
    }

    public IEnumerable<WatchAlert> Alerts() => days.Values.SelectMany(AlertsOf);

    private IEnumerable<WatchAlert> AlertsOf(Days own)
    {
        var peers = PeersOf(own);
        if (watch.Against == DriftAgainst.Peers && peers.Count < LeastPeers)
        {
            yield break;
        }

        var sum = 0.0;
        var begun = own.First;
        var alerting = false;
        for (var day = own.First + LeastHistory; day <= own.Last; day++)
        {
            begun = sum == 0 ? day : begun;
            alerting &= sum > 0;
            if (UsualOn(own, peers, day, begun) is not { } usual || IsFree(own, day, usual))
            {
                continue;
            }

            if (!alerting && CrossingOf(own, peers, day, usual, sum) is var (e, reached))
            {
                alerting = true;
                yield return Alert(own, e, begun, day, usual, reached);
            }

            var deviation = usual.DeviationOf((double)own.On(day)) - CommonRise(peers, day);
            sum = Math.Min(Cusum.Next(sum, deviation, Allowance), watch.Sensitivity + Ceiling);
        }
    }

    /// <summary>A weekend day without usual and without actual events does not lower the sum.</summary>
    private static bool IsFree(Days own, int day, Usual usual) =>
        Days.IsWeekend(day) && usual.Median == 0 && own.On(day) == 0;

    /// <summary>The event of a day at which the sum reaches the threshold; null where it does not.</summary>
    private (ActivityEvent Event, double Sum)? CrossingOf(
        Days own,
        List<Days> peers,
        int day,
        Usual usual,
        double before
    )
    {
        if (before + MostADay - Allowance < watch.Sensitivity)
        {
            return null;
        }

        // The peers' current day is incomplete while this event is judged, so their last complete day is used.
        var common = CommonRise(peers, Days.FormerSuch(day));
        var window = new MeasuredWindow(watch.Of);
        foreach (var e in own.EventsOn(day))
        {
            window.Add(e);
            var reached = Cusum.Next(before, usual.DeviationOf((double)window.Measure) - common, Allowance);
            if (reached >= watch.Sensitivity && IsBeyondPeers(own, peers, day, window.Measure))
            {
                return (e, reached);
            }
        }

        return null;
    }

    /// <summary>
    /// What half of the peers rose by on a day, against themselves a week before: what all of them do at a quarter's end
    /// is no rise of one.
    /// </summary>
    private double CommonRise(List<Days> peers, int day)
    {
        if (watch.Against != DriftAgainst.Both || peers.Count < LeastPeers)
        {
            return 0;
        }

        var rises = peers.Select(p => p.RiseOn(day, watch.Of.Amount)).OfType<double>().ToList();
        return rises.Count < LeastPeers ? 0 : Math.Max(0, Tail.Median(rises));
    }

    /// <summary>
    /// Whether the week until this moment exceeds the peers' same week. The peers' current day is left out because it is not complete.
    /// </summary>
    private bool IsBeyondPeers(Days own, List<Days> peers, int day, decimal today)
    {
        if (watch.Against == DriftAgainst.Self || peers.Count < LeastPeers)
        {
            return true;
        }

        var theirs = peers.ConvertAll(p => Math.Sqrt((double)p.Between(day - 7, day)));
        var median = Tail.Median(theirs);
        var band = 1.4826 * Tail.Median(theirs.Select(x => Math.Abs(x - median)));
        return Math.Sqrt((double)(own.Between(day - 6, day) + today))
            > median + (2 * Math.Max(band, Usual.SpreadOfCounts));
    }

    private Usual? UsualOn(Days own, List<Days> peers, int day, int begun)
    {
        var weekend = Days.IsWeekend(day);
        var history =
            watch.Against == DriftAgainst.Peers
                ? peers.SelectMany(p => p.Before(day, MostHistory / 2, weekend)).ToList()
                : own.Before(Math.Max(begun, day - LongestRise), MostHistory, weekend);
        return Usual.Of(history, weekend, watch.Of.Amount);
    }

    private List<Days> PeersOf(Days own) =>
        watch.LooksAtPeers && watch.Per == EventColumn.Actor && people.TryGetValue(own.Key ?? "", out var person)
            ?
            [
                .. people
                    .Values.Where(p => p.Id != person.Id && p.Unit == person.Unit && p.Title == person.Title)
                    .Select(p => days.GetValueOrDefault(p.Id))
                    .OfType<Days>(),
            ]
            : [];

    private WatchAlert Alert(Days own, ActivityEvent e, int begun, int day, Usual usual, double sum)
    {
        var done = own.Between(begun, day + 1);
        var since = DayNumber.ToDate(begun);
        return new(
            watch,
            own.Key,
            e.Time,
            e.Id,
            (decimal)Math.Round(sum, 2),
            own.FirstFrom(begun).Id,
            string.Create(
                CultureInfo.InvariantCulture,
                $"{watch.Of.InWords(done)} since {since:d MMM uuuu}, in {day - begun + 1} days; usual on such a day are "
                    + $"{usual.Median:0.##} (median of {usual.Days} days). The cumulative sum is {sum:0.#}; the threshold "
                    + $"is {watch.Sensitivity:0.#}."
            )
        );
    }

    /// <summary>What is usual on such days, in square roots.</summary>
    private sealed class Usual
    {
        /// <summary>Of the square root of a Poisson count.</summary>
        public const double SpreadOfCounts = 0.5;

        private readonly double shift;
        private readonly double centre;
        private readonly double spread;

        private Usual(List<double> history, bool amounts)
        {
            shift = amounts ? 0 : 0.375;
            var roots = history.ConvertAll(RootOf);
            var median = Tail.Median(roots);
            var mean = roots.Average();
            // If most days have no events, the median is 0 and every active day would count as a rise.
            centre = Math.Max(median, mean);
            var deviation = Math.Sqrt(roots.Sum(r => (r - mean) * (r - mean)) / Math.Max(1, roots.Count - 1));
            spread = Math.Max(
                Math.Max(1.4826 * Tail.Median(roots.Select(r => Math.Abs(r - median))), 0.7 * deviation),
                amounts ? Math.Max(0.2 * roots.Max(), 1) : SpreadOfCounts
            );
            (Median, Days) = (Tail.Median(history), history.Count);
        }

        /// <summary>Null where there are too few such days.</summary>
        /// <param name="history">Measures of days.</param>
        /// <param name="amounts">They are amounts, whose unit is unknown, not counts.</param>
        public static Usual? Of(List<double> history, bool weekend, bool amounts) =>
            history.Count < (weekend ? LeastWeekendDays : LeastWorkingDays) ? null : new(history, amounts);

        public double Median { get; }

        public int Days { get; }

        public double DeviationOf(double measure) =>
            Math.Clamp((RootOf(measure) - centre) / spread, LeastADay, MostADay);

        private double RootOf(double measure) => Math.Sqrt(measure + shift);
    }

    /// <summary>What one key did, day by day; days count from 1970 in the organisation's zone.</summary>
    private sealed class Days
    {
        /// <summary>This many working days in a row without an event are an absence and are left out of the history.</summary>
        private const int Absence = 3;

        private readonly SortedDictionary<int, (decimal Measure, List<ActivityEvent> Events)> measured = [];

        private readonly Dictionary<int, double?> rises = [];

        public Days(string? key, WatchMeasure of, DateTimeZone zone, IReadOnlyList<ActivityEvent> events)
        {
            Key = key;
            foreach (var day in events.GroupBy(e => e.Time.InZone(zone).Date.ToDayNumber()))
            {
                var window = new MeasuredWindow(of);
                foreach (var e in day)
                {
                    window.Add(e);
                }

                measured[day.Key] = (window.Measure, [.. day]);
            }

            (First, Last) = (measured.Keys.First(), measured.Keys.Last());
        }

        public string? Key { get; }

        /// <summary>The day of its first event.</summary>
        public int First { get; }

        /// <summary>The day of its last event.</summary>
        public int Last { get; }

        public decimal On(int day) => measured.TryGetValue(day, out var there) ? there.Measure : 0;

        public List<ActivityEvent> EventsOn(int day) => measured.TryGetValue(day, out var there) ? there.Events : [];

        public ActivityEvent FirstFrom(int day) => measured.First(d => d.Key >= day).Value.Events[0];

        /// <summary>What it did from one day until the day before another.</summary>
        public decimal Between(int from, int to)
        {
            var sum = 0m;
            for (var day = from; day < to; day++)
            {
                sum += On(day);
            }

            return sum;
        }

        /// <summary>How far a day deviates from what was usual a week before it; null without history.</summary>
        public double? RiseOn(int day, bool amounts)
        {
            if (!rises.TryGetValue(day, out var rise))
            {
                var weekend = IsWeekend(day);
                rises[day] = rise = Usual
                    .Of(Before(day - 7, MostHistory, weekend), weekend, amounts)
                    ?.DeviationOf((double)On(day));
            }

            return rise;
        }

        /// <summary>The last working day or weekend day before one, as that is one itself.</summary>
        public static int FormerSuch(int day)
        {
            var former = day - 1;
            while (IsWeekend(former) != IsWeekend(day))
            {
                former--;
            }

            return former;
        }

        /// <summary>The measures of such days before one, zeros included, absences left out.</summary>
        public List<double> Before(int day, int most, bool weekend)
        {
            List<double> measures = [];
            var empty = 0;
            for (var d = Math.Max(First, day - most); d < day; d++)
            {
                if (IsWeekend(d) != weekend)
                {
                    continue;
                }

                var measure = (double)On(d);
                empty = measure == 0 ? empty + 1 : 0;
                measures.Add(measure);
                if (empty >= Absence && !weekend)
                {
                    measures.RemoveRange(
                        measures.Count - (empty == Absence ? Absence : 1),
                        empty == Absence ? Absence : 1
                    );
                }
            }

            // For rare actions a day without events is normal, so all days count.
            return measures.Count >= LeastHistory || weekend ? measures : AllBefore(day, most, weekend);
        }

        private List<double> AllBefore(int day, int most, bool weekend)
        {
            var from = Math.Max(First, day - most);
            return
            [
                .. Enumerable
                    .Range(from, Math.Max(0, day - from))
                    .Where(d => IsWeekend(d) == weekend)
                    .Select(d => (double)On(d)),
            ];
        }

        public static bool IsWeekend(int day) => HourOfWeek.IsWeekend(DayNumber.ToDate(day).DayOfWeek);
    }
}
