using MathNet.Numerics;

namespace WideKeel.Core.Readiness;

/// <summary>A size of a sample with the deviations that it may show.</summary>
public sealed record SampleSize(long Size, long Allowed);

/// <summary>
/// Attribute sampling: how many to look at, and what the findings say. Binomial, or hypergeometric where the population
/// is small enough to matter.
/// </summary>
public static class AttributeSample
{
    /// <summary>Samples beyond this are not looked for: the expected rate lies too near to the tolerable one.</summary>
    public const long MostSize = 200_000;

    /// <summary>Rounding of the chances themselves must not decide a case of equality.</summary>
    private const double Tolerance = 1 + 1e-11;

    /// <summary>
    /// The smallest n for which the chance of at most ⌈n·expected⌉ deviations, if the tolerable rate were true, is at
    /// most 1 − confidence.
    /// </summary>
    /// <param name="finite">Hypergeometric with ⌈tolerable·population⌉ deviations in the population.</param>
    public static Outcome<SampleSize> Plan(
        long population,
        decimal confidence,
        decimal tolerable,
        decimal expected,
        bool finite
    )
    {
        var risk = (double)(1 - confidence) * Tolerance;
        var deviations = (long)Math.Ceiling(tolerable * population);
        for (long n = 1; n <= (finite ? Math.Min(population, MostSize) : MostSize); n++)
        {
            var allowed = (long)Math.Ceiling(n * expected);
            var chance = finite
                ? HypergeometricAtMost(allowed, population, deviations, n)
                : BinomialAtMost(allowed, n, (double)tolerable);
            if (chance <= risk)
            {
                return new SampleSize(n, allowed);
            }
        }

        return new Refusal(
            "sample-unreachable",
            "expected",
            finite
                ? "No sample of this population can show it: the expected rate lies too near to the tolerable one."
                : "No sample up to 200,000 can show it: the expected rate lies too near to the tolerable one."
        );
    }

    /// <summary>
    /// The one-sided upper limit of the rate after so many deviations were found: Clopper and Pearson, Biometrika 26
    /// (1934).
    /// </summary>
    public static double UpperLimit(long found, long size, decimal confidence)
    {
        if (found >= size)
        {
            return 1;
        }

        var risk = (double)(1 - confidence);
        double low = 0,
            high = 1;
        for (var i = 0; i < 200; i++)
        {
            var middle = (low + high) / 2;
            (low, high) = BinomialAtMost(found, size, middle) > risk ? (middle, high) : (low, middle);
        }

        return (low + high) / 2;
    }

    /// <summary>
    /// Its counterpart for a population: the most deviations in it that the findings do not exclude, as a rate.
    /// </summary>
    public static double UpperLimit(long found, long size, decimal confidence, long population)
    {
        var risk = (double)(1 - confidence) * Tolerance;
        long low = found,
            high = population - (size - found);
        while (low < high)
        {
            var middle = low + ((high - low + 1) / 2);
            (low, high) =
                HypergeometricAtMost(found, population, middle, size) > risk ? (middle, high) : (low, middle - 1);
        }

        return (double)low / population;
    }

    /// <summary>
    /// Draws from a population, by a seed that anybody can use again. Random: a Fisher–Yates shuffle by splitmix64.
    /// Systematic: every k-th from a random start.
    /// </summary>
    /// <param name="size">1 to <paramref name="population"/>.</param>
    /// <returns>Places in the population, from 0, in their order.</returns>
    public static IReadOnlyList<int> Draw(int population, int size, bool systematic, int seed)
    {
        var state = unchecked((ulong)seed);
        if (systematic)
        {
            var step = (double)population / size;
            var start = Next() / (double)ulong.MaxValue * step;
            return [.. Enumerable.Range(0, size).Select(i => Math.Min(population - 1, (int)(start + (i * step))))];
        }

        var all = Enumerable.Range(0, population).ToArray();
        for (var i = 0; i < size; i++)
        {
            var j = i + (int)(Next() % (ulong)(population - i));
            (all[i], all[j]) = (all[j], all[i]);
        }

        return [.. all.Take(size).Order()];

        // Steele, Lea and Flood, “Fast splittable pseudorandom number generators”, OOPSLA 2014.
        ulong Next()
        {
            state = unchecked(state + 0x9E3779B97F4A7C15);
            var z = state;
            z = unchecked((z ^ (z >> 30)) * 0xBF58476D1CE4E5B9);
            z = unchecked((z ^ (z >> 27)) * 0x94D049BB133111EB);
            return z ^ (z >> 31);
        }
    }

    /// <summary>
    /// Shares a sample out over strata in proportion to their sizes, by largest remainders; each stratum that has anything
    /// gives at least one where the sample is large enough for that, and none gives more than it has.
    /// </summary>
    /// <param name="strata">Sizes; their sum is at least <paramref name="size"/>.</param>
    /// <returns>For each stratum how many to draw, in the same order.</returns>
    public static IReadOnlyList<int> Allot(IReadOnlyList<int> strata, int size)
    {
        long whole = strata.Sum();
        var there = strata.Count(s => s > 0);
        // One of each first, then the rest by proportion.
        var least = size >= there ? 1 : 0;
        var given = strata
            .Select(s => s == 0 ? 0 : Math.Min(s, Math.Max(least, (int)((long)size * s / whole))))
            .ToArray();

        // What a stratum is owed in parts of the whole: in whole numbers, so that equal strata compare as equal.
        long Owed(int i) => ((long)size * strata[i]) - (given[i] * whole);
        IEnumerable<int> Where(Func<int, bool> eligible) => Enumerable.Range(0, strata.Count).Where(eligible);
        while (given.Sum() < size)
        {
            given[Where(i => given[i] < strata[i]).OrderByDescending(Owed).ThenBy(i => i).First()]++;
        }

        // Of equal strata the later one gives up first, as the earlier one received first.
        while (given.Sum() > size)
        {
            given[Where(i => given[i] > least).OrderBy(Owed).ThenByDescending(i => i).First()]--;
        }

        return given;
    }

    /// <summary>
    /// Draws at random within each stratum, as many as <see cref="Allot"/> says, each by a seed of its own: the given one
    /// plus the number of the stratum.
    /// </summary>
    /// <param name="stratumOf">For each place in the population its stratum, from 0.</param>
    /// <returns>Places in the population, from 0, in their order.</returns>
    public static IReadOnlyList<int> DrawStratified(IReadOnlyList<int> stratumOf, int size, int seed)
    {
        var members = stratumOf
            .Select((stratum, place) => (stratum, place))
            .GroupBy(m => m.stratum)
            .OrderBy(g => g.Key)
            .Select(g => g.Select(m => m.place).ToList())
            .ToList();
        var given = Allot([.. members.Select(m => m.Count)], size);
        return
        [
            .. members
                .SelectMany(
                    (m, i) =>
                        given[i] == 0
                            ? []
                            : Draw(m.Count, given[i], systematic: false, unchecked(seed + i)).Select(at => m[at])
                )
                .Order(),
        ];
    }

    /// <summary>P(X ≤ most) for X ~ Binomial(n, rate).</summary>
    public static double BinomialAtMost(long most, long n, double rate)
    {
        if (most >= n || rate <= 0)
        {
            return 1;
        }

        if (rate >= 1)
        {
            return 0;
        }

        double sum = 0;
        for (long k = 0; k <= most; k++)
        {
            sum += Math.Exp(LogChoose(n, k) + (k * Math.Log(rate)) + ((n - k) * Math.Log(1 - rate)));
        }

        return Math.Min(1, sum);
    }

    /// <summary>P(X ≤ most) where n are drawn from a population with so many deviations, none twice.</summary>
    public static double HypergeometricAtMost(long most, long population, long deviations, long n)
    {
        var whole = LogChoose(population, n);
        double sum = 0;
        for (var k = Math.Max(0, n - (population - deviations)); k <= Math.Min(most, Math.Min(n, deviations)); k++)
        {
            sum += Math.Exp(LogChoose(deviations, k) + LogChoose(population - deviations, n - k) - whole);
        }

        return Math.Min(1, sum);
    }

    private static double LogChoose(long n, long k) =>
        SpecialFunctions.GammaLn(n + 1.0) - SpecialFunctions.GammaLn(k + 1.0) - SpecialFunctions.GammaLn(n - k + 1.0);
}
