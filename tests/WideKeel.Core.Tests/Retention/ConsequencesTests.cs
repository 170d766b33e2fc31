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

    private static readonly Gen<Rule?> MaybeRule = Gen.Frequency(
        (1, Gen.Const((Rule?)null)),
        (1, Gen.Const((Rule?)new Rule.Permanent())),
        (8, Gen.Select(Gen.Int[1, 15], Gen.Enum<Cutoff>(), Gen.Enum<EndAction>()).Select((y, c, e) => (Rule?)new Rule.Timed(new Trigger.Created(), c, Period.OfYears(y), e))));

    private static readonly Gen<ItemFacts[]> Items = Gen.Int[-8_000, 0].Select(back => new ItemFacts(1, Today.PlusDays(back), Today.PlusDays(back), null, null, 100)).Array[0, 60];

    [Fact]
    public void The_figures_are_what_evaluating_twice_and_counting_gives() =>
        Gen.Select(MaybeRule, MaybeRule, Items).Sample((before, after, items) =>
        {
            var consequences = new Consequences(Today);
            var pairs = items.Select(i => (Item: i, Before: Engine.Evaluate(before, i), After: Engine.Evaluate(after, i))).ToList();
            pairs.ForEach(p => consequences.Add(p.Item.Id % 3, p.Item.Bytes, p.Before, p.After));
            var figures = consequences.Figures();
            figures.InReach.Items.ShouldBe(items.Length);
            figures.BecomeDue.Items.ShouldBe(pairs.Count(p => p.After.State == ItemState.Due && p.Before.State != ItemState.Due));
            figures.NoLongerDue.Items.ShouldBe(pairs.Count(p => p.After.State != ItemState.Due && p.Before.State == ItemState.Due));
            (figures.DueBefore.Items + figures.BecomeDue.Items - figures.NoLongerDue.Items).ShouldBe(figures.DueAfter.Items);
            figures.Sooner.Items.ShouldBe(pairs.Count(p => !p.Before.KeepUntil.IsNothing && !p.After.KeepUntil.IsNothing && p.After.KeepUntil < p.Before.KeepUntil));
            figures.NewlyUnderRule.Items.ShouldBe(before is null && after is not null ? items.Length : 0);
            figures.ByMonth.Sum(m => m.After).ShouldBe(pairs.Count(p => p.After.DisposableFrom is not null));
            figures.ByMonth.Sum(m => m.Before).ShouldBe(pairs.Count(p => p.Before.DisposableFrom is not null));
            figures.ByContainer.Sum(c => c.Items).ShouldBe(items.Length);
            figures.ByContainer.Sum(c => c.BecomeDue).ShouldBe(figures.BecomeDue.Items);
        });

    [Fact]
    public void A_change_that_changes_nothing_has_no_effects() =>
        Gen.Select(MaybeRule, Items).Sample((rule, items) =>
        {
            var consequences = new Consequences(Today);
            foreach (var item in items)
            {
                consequences.Add(1, item.Bytes, Engine.Evaluate(rule, item), Engine.Evaluate(rule, item));
            }

            return consequences.Figures().Unchanged.Items == items.Length;
        });

    [Fact]
    public void What_was_kept_and_is_kept_no_longer_loses_protection()
    {
        var kept = Engine.Evaluate(new Rule.Permanent(), default);
        var free = Engine.Evaluate(null, default);
        Consequences.EffectsOf(kept, free, Today).ShouldBe(Effects.LosesProtection);
    }

    [Fact]
    public void What_is_due_already_is_counted_in_the_month_of_today()
    {
        var consequences = new Consequences(Today);
        var due = Engine.Evaluate(new Rule.Timed(new Trigger.Created(), Cutoff.None, Period.OfYears(1), EndAction.SignOff), new ItemFacts(1, new LocalDate(2001, 1, 1), Today, null, null, 5));
        consequences.Add(1, 5, Engine.Evaluate(null, default), due);
        consequences.Figures().ByMonth.ShouldHaveSingleItem().ShouldBe(new MonthOfDue(new LocalDate(2026, 6, 1), 0, 1));
    }
}
