using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>The engine: one item's facts and the rule of its series in, its standing out. No state, no side effects.</summary>
/// <param name="today">The day of the organisation's calendar on which the question is asked.</param>
public sealed class Evaluator(LocalDate today, FiscalYearEnd fiscalYearEnd)
{
    public LocalDate Today { get; } = today;

    /// <summary>
    /// C = last day of the cutoff period that contains the base date B, K = C + P; kept through K, disposable from K + 1.
    /// Without a date that can be counted from, the clock waits and the item is kept without end.
    /// </summary>
    public ClauseDates Dates(Rule.Timed rule, in ItemFacts item)
    {
        if (rule.Trigger.DateOf(item, Today) is not { } start)
        {
            return default;
        }

        var cutoff = rule.Cutoff.LastDay(start, fiscalYearEnd);
        return new(start, cutoff, rule.Period.AddTo(cutoff));
    }

    /// <summary>The standing under a rule; a null rule is no series, or a series whose rule is not in force yet.</summary>
    public Standing Evaluate(Rule? rule, in ItemFacts item)
    {
        var extension = item.ExtendedUntil is { } until ? KeepUntil.On(until) : KeepUntil.Nothing;
        switch (rule)
        {
            case null:
                return Keep(extension, EndAction.Nothing);
            case Rule.Permanent:
                return new(ItemState.Permanent, KeepUntil.Permanent, null, Grade.Kept);
            case Rule.Timed timed:
                var own = Dates(timed, item).Until is { } date ? KeepUntil.On(date) : KeepUntil.AwaitingEvent;
                return Keep(KeepUntil.Latest(own, extension), timed.AtEnd);
            default:
                throw new InvalidOperationException($"No such rule: {rule.GetType().Name}.");
        }
    }

    private Standing Keep(KeepUntil keepUntil, EndAction atEnd)
    {
        if (keepUntil.IsNothing)
        {
            return new(ItemState.NoRule, keepUntil, null, Grade.None);
        }

        if (keepUntil.IsAwaiting)
        {
            return new(ItemState.AwaitingEvent, keepUntil, null, Grade.Kept);
        }

        var last = keepUntil.Date!.Value;
        if (atEnd == EndAction.Nothing)
        {
            // A term that has run out with nothing to follow keeps nothing: the item is free, and says so.
            return last >= Today
                ? new(ItemState.InTerm, keepUntil, null, Grade.Kept)
                : new(ItemState.NoRule, keepUntil, null, Grade.None);
        }

        var from = last.PlusDays(1);
        return new(from <= Today ? ItemState.Due : ItemState.InTerm, keepUntil, from, Grade.Kept);
    }
}
