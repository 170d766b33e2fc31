using CsCheck;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

/// <summary>Samples that are shared out over strata in proportion; common practice, by largest remainders.</summary>
public sealed class StratifiedSampleTests
{
    [Theory]
    [InlineData(new[] { 50, 30, 20 }, 10, new[] { 5, 3, 2 })]
    [InlineData(new[] { 50, 50, 1 }, 10, new[] { 5, 4, 1 })]
    [InlineData(new[] { 10, 10, 10 }, 2, new[] { 1, 1, 0 })]
    [InlineData(new[] { 0, 10 }, 4, new[] { 0, 4 })]
    [InlineData(new[] { 3, 2 }, 5, new[] { 3, 2 })]
    [InlineData(new[] { 40, 40, 1, 1, 1 }, 6, new[] { 2, 1, 1, 1, 1 })]
    public void A_sample_is_shared_out_in_proportion(int[] strata, int size, int[] given) =>
        AttributeSample.Allot(strata, size).ShouldBe(given);

    private static readonly Gen<(int[] Strata, int Size)> Any = Gen.Int[0, 40]
        .Array[1, 7]
        .Where(s => s.Sum() > 0)
        .SelectMany(s => Gen.Int[1, s.Sum()].Select(n => (s, n)));

    [Fact]
    public void Every_stratum_together_gives_the_whole_sample() =>
        Any.Sample(x => AttributeSample.Allot(x.Strata, x.Size).Sum() == x.Size);

    [Fact]
    public void No_stratum_gives_more_than_it_has() =>
        Any.Sample(x => AttributeSample.Allot(x.Strata, x.Size).Zip(x.Strata).All(g => g.First <= g.Second));

    [Fact]
    public void Every_stratum_with_anything_gives_one_where_the_sample_is_large_enough() =>
        Any.Sample(x =>
            x.Size < x.Strata.Count(s => s > 0)
            || AttributeSample.Allot(x.Strata, x.Size).Zip(x.Strata).All(g => g.Second == 0 || g.First >= 1)
        );

    [Fact]
    public void A_larger_stratum_never_gives_less_than_a_smaller_one_before_it() =>
        Any.Sample(x =>
        {
            var given = AttributeSample.Allot([.. x.Strata.OrderDescending()], x.Size);
            return given.Zip(given.Skip(1)).All(g => g.First >= g.Second);
        });

    private static readonly Gen<(int[] StratumOf, int Size, int Seed)> AnyPopulation = Gen.Int[0, 4]
        .Array[1, 60]
        .SelectMany(p => Gen.Select(Gen.Int[1, p.Length], Gen.Int, (n, seed) => (p, n, seed)));

    [Fact]
    public void A_stratified_sample_has_its_size_and_nobody_twice() =>
        AnyPopulation.Sample(x =>
            AttributeSample.DrawStratified(x.StratumOf, x.Size, x.Seed).Distinct().Count() == x.Size
        );

    [Fact]
    public void A_stratified_sample_draws_from_each_stratum_what_was_allotted() =>
        AnyPopulation.Sample(x =>
        {
            var strata = x.StratumOf.GroupBy(s => s).OrderBy(g => g.Key).ToList();
            var given = AttributeSample.Allot([.. strata.Select(g => g.Count())], x.Size);
            var drawn = AttributeSample.DrawStratified(x.StratumOf, x.Size, x.Seed).ToLookup(at => x.StratumOf[at]);
            return strata.Select((g, i) => drawn[g.Key].Count() == given[i]).All(same => same);
        });

    [Fact]
    public void The_same_seed_draws_the_same() =>
        AttributeSample
            .DrawStratified([0, 0, 1, 1, 1, 0, 1, 0], 4, 7)
            .ShouldBe(AttributeSample.DrawStratified([0, 0, 1, 1, 1, 0, 1, 0], 4, 7));
}
