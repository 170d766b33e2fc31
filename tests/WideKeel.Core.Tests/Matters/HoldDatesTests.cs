using NodaTime;
using WideKeel.Core.Matters;

namespace WideKeel.Core.Tests.Matters;

/// <summary>The days of sweeps and orders that were hardly meant are remarked on, and taken.</summary>
public sealed class HoldDatesTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static string? Remark(int? from, int? to) =>
        new HoldDefinition([], [], null, First(from), First(to)).RemarkOnDates(Today);

    private static LocalDate? First(int? year) => year is { } y ? new LocalDate(y, 1, 1) : null;

    [Fact]
    public void Usual_days_get_no_remark() => Remark(2014, 2019).ShouldBeNull();

    [Fact]
    public void No_days_get_no_remark() => Remark(null, null).ShouldBeNull();

    [Fact]
    public void An_end_some_years_ahead_gets_no_remark() => Remark(2014, 2030).ShouldBeNull();

    [Fact]
    public void A_beginning_in_1601_is_remarked_on() => Remark(1601, 2019)!.ShouldContain("1601");

    [Fact]
    public void An_end_in_2099_is_remarked_on() => Remark(2014, 2099)!.ShouldContain("leave it out for no end");

    [Fact]
    public void A_beginning_after_today_finds_nothing() => Remark(2099, null)!.ShouldContain("finds nothing");

    [Fact]
    public void An_end_before_anything_finds_nothing() => Remark(null, 1601)!.ShouldContain("finds nothing");

    [Fact]
    public void Both_ends_are_remarked_on() => Remark(1601, 2099)!.Split('.').Length.ShouldBe(3);

    [Fact]
    public void Odd_days_are_taken() =>
        new HoldDefinition([], [], null, First(1601), First(2099)).Check(Today).Refused.ShouldBeFalse();
}
