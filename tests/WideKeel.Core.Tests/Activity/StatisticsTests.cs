using System.Text.Json;
using WideKeel.Core.Activity;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Activity;

/// <summary>Tails, limits and chances against scipy 1.10 (Fixtures/make-statistics.py).</summary>
public class StatisticsTests
{
    private static readonly JsonElement Scipy = JsonDocument
        .Parse(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Fixtures", "statistics.json")))
        .RootElement;

    private static JsonElement.ArrayEnumerator Cases(string name) => Scipy.GetProperty(name).EnumerateArray();

    private static double Real(JsonElement of, string name) => of.GetProperty(name).GetDouble();

    private static long Whole(JsonElement of, string name) => of.GetProperty(name).GetInt64();

    [Fact]
    public void Tails_of_Poisson_and_negative_binomial_agree_with_scipy()
    {
        foreach (var c in Cases("tails"))
        {
            Tail.Surprise(Whole(c, "x"), Real(c, "mean"), Real(c, "variance"))
                .ShouldBe(Real(c, "surprise"), 1e-7 * Math.Max(1, Real(c, "surprise")), c.ToString());
        }
    }

    [Fact]
    public void The_tail_of_nine_at_a_mean_of_three_is_the_one_that_scipy_prints() =>
        // scipy.stats.poisson.sf(9, 3) is the chance of ten or more.
        Math.Pow(10, -Tail.Surprise(10, 3, 3)).ShouldBe(0.0011024881301154815, 1e-15);

    [Fact]
    public void Upper_limits_agree_with_the_beta_quantiles_of_scipy()
    {
        foreach (var c in Cases("limits"))
        {
            AttributeSample
                .UpperLimit(Whole(c, "found"), Whole(c, "size"), c.GetProperty("confidence").GetDecimal())
                .ShouldBe(Real(c, "limit"), 1e-9, c.ToString());
        }
    }

    [Fact]
    public void Binomial_chances_agree_with_scipy()
    {
        foreach (var c in Cases("binomial"))
        {
            AttributeSample
                .BinomialAtMost(Whole(c, "atMost"), Whole(c, "size"), Real(c, "rate"))
                .ShouldBe(Real(c, "chance"), 1e-10, c.ToString());
        }
    }

    [Fact]
    public void Hypergeometric_chances_agree_with_scipy()
    {
        foreach (var c in Cases("hypergeometric"))
        {
            AttributeSample
                .HypergeometricAtMost(
                    Whole(c, "atMost"),
                    Whole(c, "population"),
                    Whole(c, "deviations"),
                    Whole(c, "size")
                )
                .ShouldBe(Real(c, "chance"), 1e-9, c.ToString());
        }
    }

    /// <summary>The familiar cells of published tables for attribute sampling at 95 %, written down from memory.</summary>
    [Theory]
    [InlineData(0.05, 0, 59)]
    [InlineData(0.05, 0.01, 93)]
    [InlineData(0.05, 0.02, 181)]
    [InlineData(0.1, 0, 29)]
    public void Sample_sizes_are_those_of_the_published_tables(double tolerable, double expected, long size) =>
        AttributeSample
            .Plan(100_000, 0.95m, (decimal)tolerable, (decimal)expected, finite: false)
            .Value.Size.ShouldBe(size);

    [Fact]
    public void A_small_population_needs_a_smaller_sample() =>
        AttributeSample.Plan(100, 0.95m, 0.05m, 0, finite: true).Value.Size.ShouldBe(45);

    [Fact]
    public void An_expected_rate_as_high_as_the_tolerable_one_cannot_be_shown() =>
        AttributeSample.Plan(100, 0.95m, 0.05m, 0.05m, finite: true).Refusal!.Code.ShouldBe("sample-unreachable");

    [Fact]
    public void A_quarter_of_a_great_circle_is_a_quarter_of_the_circumference() =>
        Sphere.DistanceKm(0, 0, 90, 123).ShouldBe(Math.PI * Sphere.RadiusKm / 2, 1e-9);

    [Fact]
    public void Two_plans_cost_the_same_at_the_volume_that_is_said()
    {
        CostPlan[] plans = [new("a", 100, 0.5, 0.02, 0), new("b", 0, 2, 0.05, 3)];
        var even = CostComparison.Of(1000, 90, 24, plans).EvenEventsADay!.Value;
        var last = CostComparison.Of(even, 90, 24, plans).Months[^1];
        last.Costs[0].ShouldBe(last.Costs[1], 1e-9);
    }
}
