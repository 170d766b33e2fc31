using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Retention;

/// <summary>What a change takes from the custody of one item, told from what is said of it before and after.</summary>
public class CustodyTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static Standing Of(
        LocalDate? keep,
        LocalDate? from,
        EndAction end,
        Grade grade = Grade.Kept,
        LocalDate? gradeUntil = null
    ) =>
        new(
            default,
            keep is { } day ? KeepUntil.On(day) : default,
            from,
            end,
            grade,
            gradeUntil is { } until ? KeepUntil.On(until) : default
        );

    private static Standing Signed(int year) => Of(new(year, 1, 1), new(year, 1, 2), EndAction.SignOff);

    private static Standing Unsigned(int year) => Of(new(year, 1, 1), new(year, 1, 2), EndAction.Destroy);

    private static Standing Nothing { get; } = Of(null, null, EndAction.Nothing, Grade.None);

    private static CustodyEffects Effects(Standing before, Standing after) => Custody.Of(before, after, Today);

    [Fact]
    public void Losing_the_sign_off_is_sooner_without_sign_off_whatever_the_day() =>
        Effects(Signed(2030), Unsigned(2050)).ShouldBe(CustodyEffects.MadeDue | CustodyEffects.SoonerUnsigned);

    [Fact]
    public void An_earlier_day_without_sign_off_is_sooner() =>
        Effects(Unsigned(2040), Unsigned(2030)).ShouldBe(CustodyEffects.MadeDue | CustodyEffects.SoonerUnsigned);

    [Fact]
    public void A_later_day_without_sign_off_takes_nothing() =>
        Effects(Unsigned(2030), Unsigned(2040)).ShouldBe(CustodyEffects.None);

    [Fact]
    public void What_is_due_without_sign_off_does_not_become_so_again() =>
        Effects(Unsigned(2025), Unsigned(2020)).ShouldBe(CustodyEffects.None);

    [Fact]
    public void An_earlier_day_that_is_signed_for_takes_nothing() =>
        Effects(Signed(2040), Signed(2030)).ShouldBe(CustodyEffects.None);

    [Fact]
    public void Putting_what_nothing_ruled_under_a_rule_that_destroys_makes_it_due_and_no_more() =>
        Effects(Nothing, Unsigned(2020)).ShouldBe(CustodyEffects.MadeDue);

    [Fact]
    public void A_clock_that_starts_makes_due_what_waited_without_sign_off() =>
        Effects(Of(null, null, EndAction.Destroy), Unsigned(2020))
            .ShouldBe(CustodyEffects.MadeDue | CustodyEffects.SoonerUnsigned);

    [Fact]
    public void A_declared_record_that_is_kept_for_a_shorter_time_is_shortened() =>
        Effects(
                Of(new(2040, 1, 1), new(2040, 1, 2), EndAction.SignOff, Grade.Declared, new(2040, 1, 1)),
                Of(new(2030, 1, 1), new(2030, 1, 2), EndAction.SignOff, Grade.Declared, new(2030, 1, 1))
            )
            .ShouldBe(CustodyEffects.RecordShortened);

    [Fact]
    public void What_is_no_record_any_more_is_not_shortened_as_one() =>
        Effects(
                Of(new(2040, 1, 1), new(2040, 1, 2), EndAction.SignOff, Grade.Declared, new(2020, 1, 1)),
                Of(new(2030, 1, 1), new(2030, 1, 2), EndAction.SignOff)
            )
            .ShouldBe(CustodyEffects.None);

    [Fact]
    public void What_is_kept_by_nothing_any_more_and_signed_for_by_nobody_has_lost_its_protection() =>
        Effects(Signed(2040), Nothing).ShouldBe(CustodyEffects.ProtectionEnded);

    [Fact]
    public void What_was_kept_no_longer_loses_no_protection() =>
        Effects(Signed(2020), Nothing).ShouldBe(CustodyEffects.None);

    [Fact]
    public void What_is_due_for_sign_off_has_not_lost_its_protection() =>
        Effects(Signed(2040), Signed(2020)).ShouldBe(CustodyEffects.None);

    [Fact]
    public void A_tally_counts_an_item_once_for_each_effect() =>
        default(CustodyLoss)
            .Plus(CustodyEffects.SoonerUnsigned | CustodyEffects.RecordShortened, 10)
            .Plus(CustodyEffects.SoonerUnsigned, 5)
            .ShouldBe(new(new(2, 15), new(1, 10), default));
}
