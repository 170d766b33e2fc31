using System.Globalization;
using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>An hour in which a key did something.</summary>
/// <param name="Hour">As <see cref="HourOfWeek"/> counts them.</param>
/// <param name="Actors">How many acted; 1 where nobody is named.</param>
/// <param name="First">Moment of its first event.</param>
public readonly record struct BusyHour(string? Key, long Hour, int Actors, Instant First, Instant Last);

/// <summary>A quiet that its key's hours make unlikely.</summary>
/// <param name="At">The end of the hour by which it was.</param>
/// <param name="Last">The moment of the event before it.</param>
/// <param name="Seconds">How long it lasted, or has lasted.</param>
public readonly record struct UnlikelyQuiet(string? Key, Instant At, Instant Last, decimal Seconds, string Why)
{
    /// <param name="last">Id of the event before it.</param>
    public WatchAlert Alert(Watch.Rhythm watch, string last) => new(watch, Key, At, null, Seconds, last, Why);
}

/// <summary>
/// Keys that are quiet for longer than their own hours of the week make likely. Each silent clock hour is worth −log10
/// of the chance that this hour of the week is silent, and after a silent one at most of the chance that one more follows,
/// as the eight weeks before the quiet say it; a silence raises an alert when the sum of its hours reaches
/// the sensitivity and clearly exceeds the key's former silences. Hours that are not over
/// say nothing, so that an alert once raised stays where it was raised.
/// </summary>
public sealed class LearntRhythm
{
    private const long MostHistory = 8 * HourOfWeek.Week;
    private const long LeastHistory = 2 * HourOfWeek.Week;

    /// <summary>How much a quiet must exceed the key's former ones.</summary>
    private const double Beyond = 1.25;

    /// <summary>The former quiet that counts: the longest few may have been faults themselves.</summary>
    private const int FormerRank = 3;

    /// <summary>One long fault says no more of how quiet hours follow each other than its first hours do.</summary>
    private const int HoursOfOneQuiet = 3;

    /// <summary>Of an hour that is silent less than half of the time.</summary>
    private static readonly double BusyWorth = Math.Log10(2);

    /// <summary>With fewer others about, their quiet explains nothing.</summary>
    private const double LeastOthers = 3;

    private readonly Watch.Rhythm watch;
    private readonly DateTimeZone zone;
    private readonly long end;
    private readonly List<Key> keys;
    private readonly Dictionary<long, int> allActors = [];
    private readonly Dictionary<long, int> cells = [];

    public LearntRhythm(Watch.Rhythm watch, DateTimeZone zone, Instant until, IEnumerable<BusyHour> hours)
    {
        (this.watch, this.zone) = (watch, zone);
        end = HourOfWeek.Of(until);
        keys =
        [
            .. hours
                .GroupBy(h => h.Key ?? "", StringComparer.Ordinal)
                .Select(g => new Key([.. g.OrderBy(h => h.Hour)])),
        ];
        foreach (var hour in keys.SelectMany(k => k.Hours))
        {
            allActors[hour.Hour] = allActors.GetValueOrDefault(hour.Hour) + hour.Actors;
        }
    }

    public IEnumerable<UnlikelyQuiet> Quiets() => keys.SelectMany(UnlikelyOf);

    private IEnumerable<UnlikelyQuiet> UnlikelyOf(Key key)
    {
        foreach (var (from, to) in QuietsOf(key, key.Start + LeastHistory, end))
        {
            var profile = new Profile(this, key, from);
            // No hour is worth more than its whole class, so that a short quiet need not be weighed.
            if ((to - from) * profile.MostAnHour < watch.Sensitivity)
            {
                continue;
            }

            var needed = Math.Max(watch.Sensitivity, Beyond * FormerOf(key, profile, from));
            var surprise = 0.0;
            for (var hour = from; hour < to; hour++)
            {
                surprise += profile.WorthOf(hour, isFirst: hour == from);
                if (surprise >= needed)
                {
                    yield return Found(key, from, to, hour + 1, surprise);
                    break;
                }
            }
        }
    }

    /// <summary>What the key's former quiets came to, the longest two left out.</summary>
    private double FormerOf(Key key, Profile profile, long before) =>
        QuietsOf(key, Math.Max(key.Start, before - MostHistory), before)
            .Select(q =>
            {
                var worth = 0.0;
                for (var hour = q.From; hour < q.To; hour++)
                {
                    worth += profile.WorthOf(hour, isFirst: hour == q.From);
                }

                return worth;
            })
            .OrderDescending()
            .Skip(FormerRank - 1)
            .FirstOrDefault();

    /// <summary>The spans of whole hours in which the key did nothing.</summary>
    private static IEnumerable<(long From, long To)> QuietsOf(Key key, long from, long to)
    {
        for (var i = key.PlaceFrom(from) - 1; i < key.Hours.Count; i++)
        {
            var begins = i < 0 ? from : key.Hours[i].Hour + 1;
            var ends = i + 1 < key.Hours.Count ? Math.Min(key.Hours[i + 1].Hour, to) : to;
            if (begins >= from && begins < ends)
            {
                yield return (begins, ends);
            }

            if (ends >= to)
            {
                yield break;
            }
        }
    }

    private UnlikelyQuiet Found(Key key, long from, long to, long at, double surprise)
    {
        var next = key.PlaceFrom(to);
        var last = key.Hours[key.PlaceFrom(from) - 1].Last;
        var until = next < key.Hours.Count ? key.Hours[next].First : HourOfWeek.Begins(end);
        var chance = Math.Pow(10, Math.Min(surprise, 12));
        return new(
            key.Name,
            HourOfWeek.Begins(at),
            last,
            (decimal)(until - last).TotalMilliseconds / 1000,
            string.Create(
                CultureInfo.InvariantCulture,
                $"Nothing since {last.InZone(zone).LocalDateTime:d MMM uuuu HH:mm}. By its own hours of the week "
                    + $"{at - from} such hours without an event have a chance of 1 in {chance:N0}."
            )
        );
    }

    /// <summary>The hour of the week, 0 to 167, in the organisation's zone.</summary>
    private int CellOf(long hour)
    {
        if (!cells.TryGetValue(hour, out var cell))
        {
            var local = HourOfWeek.Local(hour, zone);
            cells[hour] = cell = (((int)local.DayOfWeek - 1) * 24) + local.Hour;
        }

        return cell;
    }

    /// <summary>How often the key's hours of the week are silent, by what came before a moment.</summary>
    private sealed class Profile
    {
        private readonly LearntRhythm of;
        private readonly Key key;
        private readonly double[] worth = new double[HourOfWeek.Week];
        private readonly double[] others = new double[HourOfWeek.Week];
        private readonly double worthOfOneMore;

        public Profile(LearntRhythm of, Key key, long before)
        {
            (this.of, this.key) = (of, key);
            var (silent, all) = (new int[HourOfWeek.Week], new int[HourOfWeek.Week]);
            for (var hour = Math.Max(key.Start, before - MostHistory); hour < before; hour++)
            {
                var cell = of.CellOf(hour);
                all[cell]++;
                silent[cell] += key.IsActive(hour) ? 0 : 1;
                others[cell] += of.OthersIn(key, hour);
            }

            for (var cell = 0; cell < worth.Length; cell++)
            {
                others[cell] /= Math.Max(1, all[cell]);
                worth[cell] = WorthOf(cell, silent, all);
            }

            worthOfOneMore = OneMore(Math.Max(key.Start, before - MostHistory), before);
        }

        /// <summary>
        /// −log10 of the chance that a silent hour is followed by one more, where hours are mostly busy: few people come and
        /// go together, so that their quiet hours do not stand each for itself.
        /// </summary>
        private double OneMore(long from, long before)
        {
            var (quiet, followed, inThisQuiet) = (0, 0, 0);
            for (var hour = from; hour < before - 1; hour++)
            {
                inThisQuiet = key.IsActive(hour) ? 0 : inThisQuiet + 1;
                if (inThisQuiet is > 0 and <= HoursOfOneQuiet && IsBusy(hour) && IsBusy(hour + 1))
                {
                    quiet++;
                    followed += key.IsActive(hour + 1) ? 0 : 1;
                }
            }

            return -Math.Log10((followed + 0.5) / (quiet + 2));

            bool IsBusy(long hour) => worth[of.CellOf(hour)] > BusyWorth;
        }

        public double MostAnHour => worth.Max();

        /// <summary>−log10 of the chance that the hour is silent, less where the others are quieter than usual too: a
        /// holiday is no fault of a log.</summary>
        public double WorthOf(long hour, bool isFirst)
        {
            var cell = of.CellOf(hour);
            var usual = others[cell];
            return (isFirst ? worth[cell] : Math.Min(worth[cell], worthOfOneMore))
                * (usual < LeastOthers ? 1 : Math.Min(1, of.OthersIn(key, hour) / usual));
        }

        private static double WorthOf(int cell, int[] silent, int[] all)
        {
            var (silentAlike, allAlike) = (0, 0);
            for (var alike = cell % 24; alike < all.Length; alike += 24)
            {
                if (ClassOf(alike) == ClassOf(cell))
                {
                    silentAlike += silent[alike];
                    allAlike += all[alike];
                }
            }

            // The hour's own weeks, with one week more as all such days are; never surer than all of these together.
            var such = (silentAlike + 0.5) / (allAlike + 1);
            var own = (silent[cell] + such) / (all[cell] + 1);
            return -Math.Log10(Math.Max(own, 0.5 / (allAlike + 1)));
        }

        /// <summary>Working days are alike; Saturday and Sunday stand each for itself.</summary>
        private static int ClassOf(int cell) => Math.Max(4, cell / 24);
    }

    private int OthersIn(Key key, long hour) => allActors.GetValueOrDefault(hour) - key.ActorsIn(hour);

    /// <param name="hours">In order; at least one.</param>
    private sealed class Key(IReadOnlyList<BusyHour> hours)
    {
        private readonly Dictionary<long, int> actors = hours.ToDictionary(h => h.Hour, h => h.Actors);

        public string? Name => hours[0].Key;

        /// <summary>The hours in which it did something, in order.</summary>
        public IReadOnlyList<BusyHour> Hours => hours;

        public long Start => hours[0].Hour;

        public bool IsActive(long hour) => actors.ContainsKey(hour);

        public int ActorsIn(long hour) => actors.GetValueOrDefault(hour);

        /// <summary>The place in <see cref="Hours"/> of the first that is not before an hour.</summary>
        public int PlaceFrom(long hour)
        {
            var (low, high) = (0, hours.Count);
            while (low < high)
            {
                var middle = (low + high) / 2;
                (low, high) = hours[middle].Hour < hour ? (middle + 1, high) : (low, middle);
            }

            return low;
        }
    }
}
