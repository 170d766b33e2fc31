using CsCheck;
using NodaTime;
using WideKeel.Core.Activity;

namespace WideKeel.Core.Tests.Activity;

public sealed class AlertRiskTests
{
    private static readonly AlertFacts Plain = new(AlertSeverity.Low);
    private static readonly Dictionary<string, double> Own = [];

    /// <summary>1 / (1 + e²) = 0.1192, by hand.</summary>
    [Fact]
    public void An_alert_without_any_factor_has_a_risk_of_12() => AlertRisk.Of([]).ShouldBe(12);

    /// <summary>z = −2 + 2 · 0.9 + 1 · 2 = 1.8; 1 / (1 + e^−1.8) = 0.8581, by hand.</summary>
    [Fact]
    public void The_risk_is_the_logistic_of_the_sum_of_its_factors() =>
        AlertRisk.Of(AlertRisk.Factors(new(AlertSeverity.High, Left: true), Own)).ShouldBe(86);

    [Fact]
    public void A_factor_that_does_not_hold_is_not_listed() => AlertRisk.Factors(Plain, Own).ShouldBeEmpty();

    [Fact]
    public void The_heaviest_factor_stands_first() =>
        AlertRisk.Factors(Plain with { Left = true, NewDevice = true }, Own)[0].Name.ShouldBe("left");

    [Fact]
    public void A_country_of_every_sign_in_adds_nothing() =>
        AlertRisk.Factors(Plain with { CountryShare = 1 }, Own).ShouldBeEmpty();

    [Fact]
    public void A_country_in_one_of_a_thousand_sign_ins_counts_three_times_its_weight() =>
        AlertRisk
            .Factors(Plain with { CountryShare = 0.001 }, Own)
            .Single()
            .Part.ShouldBe(3 * AlertRisk.Weights["country"], 1e-9);

    [Theory]
    [InlineData(2026, 6, 15, 12, false)]
    [InlineData(2026, 6, 15, 5, true)]
    [InlineData(2026, 6, 15, 20, true)]
    [InlineData(2026, 6, 14, 12, true)]
    public void Nights_and_weekends_are_odd_hours(int year, int month, int day, int hour, bool odd) =>
        AlertRisk
            .Factors(Plain with { LocalTime = new LocalDateTime(year, month, day, hour, 0) }, Own)
            .Any(f => f.Name == "hour")
            .ShouldBe(odd);

    [Fact]
    public void An_own_weight_takes_the_place_of_the_one_at_first() =>
        AlertRisk
            .Factors(Plain with { Left = true }, new Dictionary<string, double> { ["left"] = 0.25 })
            .Single()
            .Part.ShouldBe(0.25);

    private static readonly Gen<AlertFacts> AnyFacts = Gen.Select(
        Gen.Int[0, 2],
        Gen.Double[0.001, 1],
        Gen.Bool,
        Gen.Double[0, 30],
        Gen.Int[0, 20],
        (s, share, left, surprise, failures) =>
            new AlertFacts((AlertSeverity)s, share, false, null, surprise, true, null, failures, null, true, left)
    );

    [Fact]
    public void A_risk_lies_between_0_and_100() =>
        AnyFacts.Sample(f => AlertRisk.Of(AlertRisk.Factors(f, Own)) is >= 0 and <= 100);

    [Fact]
    public void Noise_never_raises_the_risk_of_the_same_alert() =>
        AnyFacts.Sample(f =>
        {
            var before = AlertRisk.Factors(f, Own);
            var after = AlertRisk.Factors(f, AlertRisk.Learn(before, useful: false));
            return AlertRisk.Of(after) <= AlertRisk.Of(before);
        });

    [Fact]
    public void Useful_never_lowers_the_risk_of_the_same_alert() =>
        AnyFacts.Sample(f =>
        {
            var before = AlertRisk.Factors(f, Own);
            var after = AlertRisk.Factors(f, AlertRisk.Learn(before, useful: true));
            return AlertRisk.Of(after) >= AlertRisk.Of(before);
        });

    /// <summary>z = −2 + 2 = 0, p = ½; w = 2 + 0.25 · (1 − ½) · 1 = 2.125, by hand.</summary>
    [Fact]
    public void Learning_is_one_step_of_the_logistic_gradient() =>
        AlertRisk.Learn(AlertRisk.Factors(Plain with { Left = true }, Own), useful: true)["left"].ShouldBe(2.125, 1e-9);

    [Theory]
    [InlineData(39, AlertSeverity.Low)]
    [InlineData(40, AlertSeverity.Medium)]
    [InlineData(69, AlertSeverity.Medium)]
    [InlineData(70, AlertSeverity.High)]
    public void The_bands_begin_at_40_and_70(int risk, AlertSeverity band) => AlertRisk.BandOf(risk).ShouldBe(band);
}
