using CsCheck;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class ConsequencesTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);
    private static readonly Evaluator Engine = new(Today, FiscalYearEnd.CalendarYear);

    private static readonly Gen<SeriesRule?> MaybeRule = Gen.Frequency(
        (1, Gen.Const((SeriesRule?)null)),
        (1, Gen.Const((SeriesRule?)Permanent)),
        (8, Any.Rule.Select(r => (SeriesRule?)r))
    );

    private static readonly Gen<(ItemFacts Facts, int Bytes)[]> Items = Gen.Select(Any.Item, Gen.Int[0, 1000]).Array[
        0,
        60
    ];

    private static SeriesRule Permanent => new("S", Grade.Kept, EndAction.Nothing, true, ClauseJoin.Later, []);

    [Fact]
    public void The_figures_are_what_evaluating_twice_and_counting_gives() =>
        Gen.Select(MaybeRule, MaybeRule, Items)
            .Sample(
                (before, after, items) =>
                {
                    var consequences = new Consequences(Today);
                    var pairs = items
                        .Select(
                            (item, i) =>
                                (
                                    Id: i,
                                    item.Bytes,
                                    Before: Engine.Evaluate(before, [], item.Facts),
                                    After: Engine.Evaluate(after, [], item.Facts)
                                )
                        )
                        .ToList();
                    pairs.ForEach(p => consequences.Add(p.Id % 3, p.Bytes, p.Before, p.After));
                    var figures = consequences.Figures();
                    figures.InReach.Items.ShouldBe(items.Length);
                    figures.BecomeDue.Items.ShouldBe(
                        pairs.Count(p => p.After.State == ItemState.Due && p.Before.State != ItemState.Due)
                    );
                    figures.NoLongerDue.Items.ShouldBe(
                        pairs.Count(p => p.After.State != ItemState.Due && p.Before.State == ItemState.Due)
                    );
                    (figures.DueBefore.Items + figures.BecomeDue.Items - figures.NoLongerDue.Items).ShouldBe(
                        figures.DueAfter.Items
                    );
                    figures.Sooner.Items.ShouldBe(
                        pairs.Count(p =>
                            !p.Before.KeepUntil.IsNothing
                            && !p.After.KeepUntil.IsNothing
                            && p.After.KeepUntil < p.Before.KeepUntil
                        )
                    );
                    figures.NewlyUnderRule.Items.ShouldBe(
                        pairs.Count(p => p.Before.KeepUntil.IsNothing && !p.After.KeepUntil.IsNothing)
                    );
                    figures.BecomeDue.Bytes.ShouldBe(
                        pairs
                            .Where(p => p.After.State == ItemState.Due && p.Before.State != ItemState.Due)
                            .Sum(p => (long)p.Bytes)
                    );
                    figures.ByMonth.Sum(m => m.After).ShouldBe(pairs.Count(p => p.After.DisposableFrom is not null));
                    figures.ByMonth.Sum(m => m.Before).ShouldBe(pairs.Count(p => p.Before.DisposableFrom is not null));
                    figures.ByContainer.Sum(c => c.Items).ShouldBe(items.Length);
                    figures.ByContainer.Sum(c => c.BecomeDue).ShouldBe(figures.BecomeDue.Items);
                }
            );

    [Fact]
    public void Counting_in_parts_and_adding_up_gives_the_figures_of_one_pass() =>
        Gen.Select(MaybeRule, MaybeRule, Items, Gen.Int[1, 5])
            .Sample(
                (before, after, items, count) =>
                {
                    var whole = new Consequences(Today);
                    var parts = Enumerable.Range(0, count).Select(_ => new Consequences(Today)).ToList();
                    foreach (var (item, i) in items.Select((item, i) => (item, i)))
                    {
                        foreach (var counting in new[] { whole, parts[i * count / items.Length] })
                        {
                            counting.Add(
                                i % 3,
                                item.Bytes,
                                Engine.Evaluate(before, [], item.Facts),
                                Engine.Evaluate(after, [], item.Facts),
                                held: i % 4 == 0
                            );
                        }
                    }

                    var sum = new Consequences(Today);
                    parts.ForEach(sum.Add);
                    System
                        .Text.Json.JsonSerializer.Serialize(sum.Figures())
                        .ShouldBe(System.Text.Json.JsonSerializer.Serialize(whole.Figures()));
                }
            );

    [Fact]
    public void A_change_that_changes_nothing_has_no_effects() =>
        Gen.Select(MaybeRule, Items)
            .Sample(
                (rule, items) =>
                {
                    var consequences = new Consequences(Today);
                    foreach (var item in items)
                    {
                        consequences.Add(
                            1,
                            item.Bytes,
                            Engine.Evaluate(rule, [], item.Facts),
                            Engine.Evaluate(rule, [], item.Facts)
                        );
                    }

                    return consequences.Figures().Unchanged.Items == items.Length;
                }
            );

    [Fact]
    public void What_was_kept_and_is_kept_no_longer_loses_protection()
    {
        var kept = Engine.Evaluate(Permanent, [], default);
        var free = Engine.Evaluate(null, [], default);
        Consequences.EffectsOf(kept, free, Today).ShouldBe(Effects.LosesProtection);
    }

    [Fact]
    public void What_is_due_already_is_counted_in_the_month_of_today()
    {
        var consequences = new Consequences(Today);
        var due = Engine.Evaluate(
            new SeriesRule(
                "S",
                Grade.Kept,
                EndAction.SignOff,
                false,
                ClauseJoin.Later,
                [new(Trigger.Created, Cutoff.None, Period.OfYears(1))]
            ),
            [],
            Any.On(new(2001, 1, 1))
        );
        consequences.Add(1, 5, Engine.Evaluate(null, [], default), due);
        consequences.Figures().ByMonth.ShouldHaveSingleItem().ShouldBe(new MonthOfDue(new LocalDate(2026, 6, 1), 0, 1));
    }

    private static SeriesRule Years(int years, EndAction atEnd = EndAction.SignOff) =>
        new(
            "S",
            Grade.Kept,
            atEnd,
            false,
            ClauseJoin.Later,
            [new(Trigger.Created, Cutoff.None, Period.OfYears(years))]
        );

    private static BlanketRule DestroyAfter(int years) =>
        new("B", TriggerKind.Created, null, true, Period.OfYears(years));

    [Fact]
    public void A_blanket_that_only_destroys_changes_the_first_day_of_disposal()
    {
        var before = Engine.Evaluate(null, [], Any.On(new(2025, 1, 1)));
        var after = Engine.Evaluate(null, [DestroyAfter(3)], Any.On(new(2025, 1, 1)));
        Consequences.EffectsOf(before, after, Today).ShouldBe(Effects.DisposableSooner | Effects.EndsOtherwise);
    }

    [Fact]
    public void Its_shorter_period_brings_disposal_forward()
    {
        var before = Engine.Evaluate(null, [DestroyAfter(30)], Any.On(new(2025, 1, 1)));
        var after = Engine.Evaluate(null, [DestroyAfter(20)], Any.On(new(2025, 1, 1)));
        Consequences.EffectsOf(before, after, Today).ShouldBe(Effects.DisposableSooner);
    }

    [Fact]
    public void Another_end_is_a_change_although_everything_is_kept_as_long()
    {
        var before = Engine.Evaluate(Years(9), [], Any.On(new(2025, 1, 1)));
        var after = Engine.Evaluate(Years(9, EndAction.Transfer), [], Any.On(new(2025, 1, 1)));
        Consequences.EffectsOf(before, after, Today).ShouldBe(Effects.EndsOtherwise);
    }

    [Fact]
    public void A_longer_term_is_not_said_twice()
    {
        var before = Engine.Evaluate(Years(9), [], Any.On(new(2025, 1, 1)));
        var after = Engine.Evaluate(Years(10), [], Any.On(new(2025, 1, 1)));
        Consequences.EffectsOf(before, after, Today).ShouldBe(Effects.Later);
    }

    [Fact]
    public void What_is_unchanged_has_the_same_day_and_the_same_end() =>
        Gen.Select(Any.Rule, Any.Rule, Any.Item)
            .Sample(
                (one, other, item) =>
                {
                    var (before, after) = (Engine.Evaluate(one, [], item), Engine.Evaluate(other, [], item));
                    if (Consequences.EffectsOf(before, after, Today) == Effects.None)
                    {
                        (after.KeepUntil, after.DisposableFrom, after.AtEnd).ShouldBe(
                            (before.KeepUntil, before.DisposableFrom, before.AtEnd)
                        );
                    }
                },
                iter: 3_000
            );

    [Fact]
    public void Held_items_fall_due_in_no_month_as_they_are_due_in_no_figure()
    {
        var consequences = new Consequences(Today);
        var due = Engine.Evaluate(Years(1), [], Any.On(new(2001, 1, 1)));
        consequences.Add(1, 5, due, due, held: true);
        consequences.Figures().ByMonth.ShouldBeEmpty();
    }
}
