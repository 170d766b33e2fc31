using CsCheck;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Retention;

/// <summary>The months to come, against a reading of each month's last day item by item.</summary>
public class AheadTests
{
    private const long Gibibyte = 1L << 30;
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static ItemAhead Item(LocalDate? keep, LocalDate? due, long bytes = 0) =>
        new(bytes, keep is { } day ? KeepUntil.On(day) : KeepUntil.Nothing, due, due is null ? null : "S");

    private static IReadOnlyList<MonthAhead> Months(params ItemAhead[] items) => Ahead.Months(items, Today, 3, 0.1m);

    private static readonly LocalDate LastOfJuly = new(2026, 7, 31);

    [Fact]
    public void What_falls_due_in_a_month_is_no_longer_kept_at_its_end() =>
        Months(Item(LastOfJuly, LastOfJuly.PlusDays(1)))
            .Select(m => (m.FallsDue, m.Kept))
            .ShouldBe([(0, 1), (0, 1), (1, 0)]);

    [Fact]
    public void What_was_due_long_ago_falls_due_in_the_first_month() =>
        Months(Item(new(2019, 1, 1), new(2019, 1, 2)))[0].FallsDue.ShouldBe(1);

    [Fact]
    public void An_item_is_within_its_term_on_the_last_day_that_it_is_kept() =>
        Months(Item(LastOfJuly, null)).Select(m => m.BeyondTerm).ShouldBe([0, 0, 1]);

    [Fact]
    public void What_no_rule_keeps_is_beyond_its_term_from_the_beginning() =>
        Months(Item(null, null))[0].BeyondTerm.ShouldBe(1);

    [Fact]
    public void What_waits_for_an_event_is_never_beyond_its_term() =>
        Months(new ItemAhead(0, KeepUntil.AwaitingEvent, null, null)).ShouldAllBe(m => m.BeyondTerm == 0);

    [Fact]
    public void A_half_of_a_hundredth_is_rounded_to_the_even_one() =>
        // 0.25 GiB and 0.75 GiB at 0.1: 0.025 and 0.075.
        (Months(Item(null, null, Gibibyte / 4))[0].Cost, Months(Item(null, null, Gibibyte / 4 * 3))[0].Cost).ShouldBe(
            (0.02m, 0.08m)
        );

    [Fact]
    public void Each_month_names_how_many_fall_due_by_each_rule() =>
        Ahead
            .Months([Item(Today, Today) with { Rule = "B" }, Item(Today, Today) with { Rule = "A" }], Today, 1)[0]
            .ByRule.ShouldBe([new("A", 1), new("B", 1)]);

    private static readonly Gen<ItemAhead> AnyItem = Gen.Select(
            Gen.Int[-60, 500],
            Gen.Int[0, 3],
            Gen.Int[0, 400],
            Gen.Bool,
            Gen.Long[0, 5_000_000_000]
        )
        .Select(
            (keep, kind, later, ends, bytes) =>
                kind switch
                {
                    0 => new ItemAhead(bytes, KeepUntil.AwaitingEvent, null, null),
                    1 => new ItemAhead(bytes, KeepUntil.Nothing, ends ? Today.PlusDays(keep) : null, "scratch"),
                    _ => new ItemAhead(
                        bytes,
                        KeepUntil.On(Today.PlusDays(keep)),
                        ends ? Today.PlusDays(keep + 1 + later) : null,
                        "S"
                    ),
                }
        );

    [Fact]
    public void The_months_are_what_a_reading_of_every_item_on_each_last_day_finds() =>
        Gen.Select(AnyItem.Array[0, 40], Gen.Int[1, 20])
            .Sample(
                (items, count) =>
                {
                    var months = Ahead.Months(items, Today, count);
                    for (var i = 0; i < count; i++)
                    {
                        var end = months[i].Month.ToDateInterval().End;
                        var there = items.Where(x => x.FallsDue is not { } due || due > end).ToList();
                        var beyond = there.Count(x => x.KeepUntil.IsNothing || x.KeepUntil.Date < end);
                        (months[i].Kept, months[i].KeptBytes, months[i].BeyondTerm).ShouldBe(
                            (there.Count, there.Sum(x => x.Bytes), beyond)
                        );
                    }
                }
            );

    [Fact]
    public void What_is_there_and_what_fell_due_are_always_all_items() =>
        Gen.Select(AnyItem.Array[0, 40], Gen.Int[1, 20])
            .Sample(
                (items, count) =>
                {
                    var months = Ahead.Months(items, Today, count);
                    (months.Sum(m => m.FallsDue) + months[^1].Kept).ShouldBe(items.Length);
                    months.Sum(m => m.ByRule.Values.Sum()).ShouldBe(months.Sum(m => m.FallsDue));
                }
            );

    [Theory]
    [InlineData(0)]
    [InlineData(601)]
    public void More_months_than_dates_are_believed_for_are_refused(int months) =>
        Should.Throw<ArgumentOutOfRangeException>(() => Ahead.Months([], Today, months));
}
