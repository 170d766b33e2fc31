using System.Globalization;
using CsCheck;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Time;

public class PeriodTests
{
    private static readonly Gen<LocalDate> AnyDate = Gen.Int[-25_000, 40_000].Select(DayNumber.ToDate);
    private static readonly Gen<Period> AnyPeriod = Gen.Select(
            Gen.Int[0, 40],
            Gen.Int[0, 30],
            Gen.Int[0, 60],
            Gen.Int[0, 400]
        )
        .Select((y, m, w, d) => new Period(y, m, w, d + (y + m + w + d == 0 ? 1 : 0)));

    [Theory]
    // 600 sums by python3-dateutil 2.8.2; Fixtures/make-dates.py made them.
    [InlineData("dates.csv")]
    // 600 sums by temporal-polyfill 1.0.8; Fixtures/make-temporal.mjs made them.
    [InlineData("temporal.csv")]
    public void Adding_a_period_gives_what_independent_libraries_give(string file)
    {
        var lines = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", file)).Skip(1).ToList();
        lines.Count.ShouldBe(600);
        foreach (var line in lines)
        {
            var parts = line.Split(',');
            var numbers = parts[1..5].Select(p => int.Parse(p, CultureInfo.InvariantCulture)).ToArray();
            var sum = new Period(numbers[0], numbers[1], numbers[2], numbers[3]).AddTo(
                LocalDatePattern.Iso.Parse(parts[0]).Value
            );
            LocalDatePattern.Iso.Format(sum).ShouldBe(parts[5], line);
        }
    }

    [Theory]
    [InlineData("P7Y", 7, 0, 0, 0)]
    [InlineData("P1Y6M", 1, 6, 0, 0)]
    [InlineData("P2W", 0, 0, 2, 0)]
    [InlineData("P1Y2M3W4D", 1, 2, 3, 4)]
    [InlineData("P90D", 0, 0, 0, 90)]
    public void An_ISO_8601_duration_is_read_and_written_back(string text, int years, int months, int weeks, int days)
    {
        Period.Parse(text).Value.ShouldBe(new Period(years, months, weeks, days));
        Period.Parse(text).Value.ToString().ShouldBe(text);
    }

    [Theory]
    [InlineData("P-1Y", "period-negative")]
    [InlineData("-P1Y", "period-negative")]
    [InlineData("P0D", "period-zero")]
    [InlineData("", "period-missing")]
    [InlineData(null, "period-missing")]
    [InlineData("7Y", "period-malformed")]
    [InlineData("P", "period-malformed")]
    [InlineData("P7", "period-malformed")]
    [InlineData("PY", "period-malformed")]
    [InlineData("P1D1Y", "period-malformed")]
    [InlineData("P1Y1Y", "period-malformed")]
    [InlineData("PT5H", "period-malformed")]
    [InlineData("P1000Y", "period-too-long")]
    [InlineData("P99999999999Y", "period-too-long")]
    public void A_period_that_is_none_is_refused_with_its_reason_and_field(string? text, string code)
    {
        var refusal = Period.Parse(text, "rule.period").Refusal.ShouldNotBeNull();
        refusal.Code.ShouldBe(code);
        refusal.Field.ShouldBe("rule.period");
    }

    [Fact]
    public void Every_period_survives_being_written_and_read() =>
        AnyPeriod.Sample(p => Period.Parse(p.ToString()).Value == p);

    [Fact]
    public void A_longer_period_never_ends_earlier() =>
        Gen.Select(AnyDate, AnyPeriod, Gen.Int[0, 3])
            .Sample(
                (date, period, which) =>
                {
                    var longer = which switch
                    {
                        0 => period with { Years = period.Years + 1 },
                        1 => period with { Months = period.Months + 1 },
                        2 => period with { Weeks = period.Weeks + 1 },
                        _ => period with { Days = period.Days + 1 },
                    };
                    return longer.AddTo(date) >= period.AddTo(date);
                }
            );

    [Theory]
    [InlineData("P1Y", "1 year")]
    [InlineData("P7Y", "7 years")]
    [InlineData("P1Y1M", "1 year and 1 month")]
    [InlineData("P1Y2M3D", "1 year, 2 months and 3 days")]
    public void A_period_reads_as_right_English_for_one_and_many(string text, string words) =>
        Period.Parse(text).Value.InWords().ShouldBe(words);
}
