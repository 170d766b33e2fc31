using CsCheck;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

/// <summary>Nothing that grows may shrink: the floor of an item, and the dates that declaring fixes.</summary>
public class FloorTests
{
    private static readonly Evaluator Engine = new(Any.Today, new FiscalYearEnd(4, 5));

    private static SeriesRule Kept(Grade grade = Grade.Kept, bool ratchet = false, params Clause[] clauses) =>
        new(
            "S",
            grade,
            EndAction.SignOff,
            false,
            ClauseJoin.Later,
            clauses is [] ? [new(Trigger.Created, Cutoff.None, Period.OfYears(5))] : clauses
        )
        {
            Ratchet = ratchet,
        };

    private static readonly ItemFacts Made2024 = Any.On(new(2024, 3, 1));

    [Fact]
    public void A_rule_that_only_grows_makes_what_it_keeps_until_a_floor() =>
        Engine.FloorOf(Kept(ratchet: true), Made2024).ShouldBe(KeepUntil.On(new(2029, 3, 1)));

    [Fact]
    public void Another_rule_makes_none() => Engine.FloorOf(Kept(), Made2024).ShouldBe(KeepUntil.Nothing);

    [Fact]
    public void Waiting_for_an_event_makes_none() =>
        Engine
            .FloorOf(Kept(Grade.Worm, clauses: new Clause(Trigger.Event("left"), Cutoff.None, default)), Made2024)
            .ShouldBe(KeepUntil.Nothing);

    [Fact]
    public void An_item_under_no_rule_is_kept_through_its_floor() =>
        Engine
            .Evaluate(null, [], Made2024 with { Floor = KeepUntil.On(new(2031, 1, 1)) })
            .KeepUntil.ShouldBe(KeepUntil.On(new(2031, 1, 1)));

    [Fact]
    public void It_is_disposable_only_after_its_floor() =>
        Engine
            .Evaluate(Kept(), [], Made2024 with { Floor = KeepUntil.On(new(2031, 1, 1)) })
            .DisposableFrom.ShouldBe(new LocalDate(2031, 1, 2));

    [Fact]
    public void A_rule_that_keeps_longer_than_the_floor_decides() =>
        Engine
            .Evaluate(Kept(), [], Made2024 with { Floor = KeepUntil.On(new(2026, 1, 1)) })
            .KeepUntil.ShouldBe(KeepUntil.On(new(2029, 3, 1)));

    [Fact]
    public void The_reasons_name_the_floor_where_it_decides() =>
        Reasons
            .Explain(
                Engine,
                new("S", "Series", Kept()),
                [],
                Made2024 with
                {
                    Floor = KeepUntil.On(new(2031, 1, 1)),
                },
                null
            )
            .Single(r => r.Won)
            .Kind.ShouldBe("floor");

    [Fact]
    public void A_declared_date_starts_the_clock_whatever_the_file_says_now()
    {
        var rule = Kept(Grade.Declared);
        var declared = DeclaredDates.None.With(rule, Made2024, Any.Today);
        Engine
            .Evaluate(rule, [], Any.On(new(1999, 1, 1)) with { Declared = declared })
            .KeepUntil.ShouldBe(KeepUntil.On(new(2029, 3, 1)));
    }

    [Fact]
    public void Under_a_rule_that_fixes_none_the_own_dates_count_again()
    {
        var declared = DeclaredDates.None.With(Kept(Grade.Declared), Made2024, Any.Today);
        Engine
            .Evaluate(Kept(), [], Any.On(new(2025, 1, 1)) with { Declared = declared })
            .KeepUntil.ShouldBe(KeepUntil.On(new(2030, 1, 1)));
    }

    [Fact]
    public void An_absurd_date_is_not_declared() =>
        DeclaredDates.None.With(Kept(Grade.Declared), Any.On(new(1601, 1, 1)), Any.Today).All.ShouldBeEmpty();

    [Fact]
    public void A_trigger_event_is_not_declared() =>
        DeclaredDates
            .None.With(
                Kept(Grade.Worm, clauses: new Clause(Trigger.Event("left"), Cutoff.None, default)),
                Made2024 with
                {
                    Clocks = new Any.Clocks(null, new(2020, 1, 1)),
                },
                Any.Today
            )
            .All.ShouldBeEmpty();

    [Fact]
    public void Declared_dates_come_back_as_they_were_written() =>
        Gen.Select(Any.Rule, Any.Item)
            .Sample(
                (rule, item) =>
                {
                    var dates = DeclaredDates.None.With(rule, item, Any.Today);
                    (DeclaredDates.Read(dates.ToString())?.All ?? []).ShouldBe(dates.All);
                },
                iter: 500
            );

    [Fact]
    public void No_history_of_dates_events_and_rules_brings_keep_until_below_what_only_grows_has_set() =>
        Gen.Select(Any.Item, Any.Rule, Gen.Enum<Grade>(), Gen.Bool)
            .Array[2, 8]
            .Sample(
                history =>
                {
                    var floor = KeepUntil.Nothing;
                    foreach (var (facts, rule, grade, ratchet) in history)
                    {
                        var now = facts with { Floor = floor };
                        var under = rule with { Grade = grade, Ratchet = ratchet };
                        floor = Engine.FloorOf(under, now);
                        var standing = Engine.Evaluate(under, [], now with { Floor = floor });
                        standing.KeepUntil.ShouldBeGreaterThanOrEqualTo(floor);
                        if (floor.Date is { } kept && standing.DisposableFrom is { } from)
                        {
                            from.ShouldBeGreaterThan(kept);
                        }
                    }
                },
                iter: 2_000
            );
}
