using CsCheck;
using NodaTime;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Time;

public class CutoffTests
{
    private static readonly Gen<LocalDate> AnyDate = Gen.Int[-25_000, 40_000].Select(DayNumber.ToDate);
    private static readonly Gen<Cutoff> AnyCutoff = Gen.Enum<Cutoff>();
    private static readonly Gen<FiscalYearEnd> AnyFiscalEnd = Gen.Select(Gen.Int[1, 12], Gen.Int[1, 29])
        .Select((m, d) => new FiscalYearEnd(m, d));

    [Theory]
    [InlineData(Cutoff.None, "2019-05-04", "2019-05-04")]
    [InlineData(Cutoff.Month, "2020-02-03", "2020-02-29")]
    [InlineData(Cutoff.Quarter, "2019-05-04", "2019-06-30")]
    [InlineData(Cutoff.Quarter, "2019-12-31", "2019-12-31")]
    [InlineData(Cutoff.Year, "2019-01-01", "2019-12-31")]
    [InlineData(Cutoff.Fiscal, "2019-09-30", "2019-09-30")]
    [InlineData(Cutoff.Fiscal, "2019-10-01", "2020-09-30")]
    public void The_cutoff_is_the_last_day_of_the_period_that_contains_the_date(
        Cutoff cutoff,
        string date,
        string last
    ) => cutoff.LastDay(Day(date), new FiscalYearEnd(9, 30)).ShouldBe(Day(last));

    [Theory]
    [InlineData("2026-04-05", "2026-04-05")]
    [InlineData("2026-04-06", "2027-04-05")]
    public void The_British_tax_year_ends_on_5_April(string date, string end) =>
        // Income Tax Act 2007 s. 4: the tax year begins on 6 April (from memory).
        new FiscalYearEnd(4, 5)
            .EndOfYearContaining(Day(date))
            .ShouldBe(Day(end));

    [Theory]
    [InlineData("2023-06-01", "2024-02-29")]
    [InlineData("2024-06-01", "2025-02-28")]
    public void A_fiscal_year_that_ends_on_29_February_ends_on_the_last_day_of_February(string date, string end) =>
        new FiscalYearEnd(2, 29).EndOfYearContaining(Day(date)).ShouldBe(Day(end));

    [Fact]
    public void A_cutoff_never_moves_a_date_back_and_at_most_a_year_ahead() =>
        Gen.Select(AnyDate, AnyCutoff, AnyFiscalEnd)
            .Sample(
                (date, cutoff, end) =>
                {
                    var last = cutoff.LastDay(date, end);
                    return last >= date && last <= date.PlusYears(1).PlusDays(1);
                }
            );

    [Fact]
    public void Cutting_off_twice_is_cutting_off_once() =>
        Gen.Select(AnyDate, AnyCutoff, AnyFiscalEnd)
            .Sample((date, cutoff, end) => cutoff.LastDay(cutoff.LastDay(date, end), end) == cutoff.LastDay(date, end));

    [Theory]
    [InlineData("13-01")]
    [InlineData("02-30")]
    [InlineData("9-30")]
    [InlineData("")]
    public void A_fiscal_year_end_that_is_no_day_is_refused(string text) =>
        FiscalYearEnd.Parse(text).Refusal.ShouldNotBeNull().Field.ShouldBe("fiscalYearEnd");

    private static LocalDate Day(string iso) => NodaTime.Text.LocalDatePattern.Iso.Parse(iso).Value;
}
