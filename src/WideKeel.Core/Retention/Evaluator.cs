using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// The engine: one item's facts and the rules over it in, its standing out. No state, no side effects, nothing
/// allocated: a million items are one pass.
/// </summary>
/// <param name="today">The day of the organisation's calendar on which the question is asked.</param>
public sealed class Evaluator(LocalDate today, FiscalYearEnd fiscalYearEnd)
{
    public LocalDate Today { get; } = today;

    /// <summary>
    /// Keeping beats destroying; of several keeps the longest wins. At the end the series' choice goes before a
    /// blanket's, of several blankets the earliest destroys, and nothing before the winning keep-until has passed.
    /// </summary>
    /// <param name="series">Null: filed under none, or its rule is not in force yet.</param>
    /// <param name="blankets">Those that cover the item's container.</param>
    public Standing Evaluate(SeriesRule? series, ReadOnlySpan<BlanketRule> blankets, in ItemFacts item)
    {
        var seen = item.Under(series);
        var own = KeepUntil.Latest(item.Floor, series is null ? KeepUntil.Nothing : Until(series, seen));
        var keep = own;
        LocalDate? destroys = null;
        var anyDestroys = false;
        foreach (var blanket in blankets)
        {
            var (until, firstDay) = TermOf(blanket, seen);
            keep = KeepUntil.Latest(keep, until);
            anyDestroys |= blanket.Destroys;
            destroys =
                blanket.Destroys && firstDay is { } day && (destroys is not { } earliest || day < earliest)
                    ? day
                    : destroys;
        }

        if (item.ExtendedUntil is { } extended)
        {
            keep = KeepUntil.Latest(keep, KeepUntil.On(extended));
        }

        var atEnd = series?.AtEnd ?? (anyDestroys ? EndAction.Destroy : EndAction.Nothing);
        var from = FirstDay(atEnd, series is null ? destroys : own.Date?.PlusDays(1), keep);
        var gradeUntil =
            series is null ? KeepUntil.Nothing
            : atEnd == EndAction.Nothing ? own
            : KeepUntil.Permanent;
        return new(StateOf(keep, atEnd, from), keep, from, atEnd, series?.Grade ?? Grade.None, gradeUntil);
    }

    /// <summary>
    /// C = last day of the cutoff period that contains the base date B, K = C + P; kept through K, disposable from K +
    /// 1. A clause without a date that can be counted from waits.
    /// </summary>
    public ClauseDates Dates(Clause clause, in ItemFacts item)
    {
        if (BaseOf(clause.Trigger, item) is not { } start)
        {
            return default;
        }

        var cutoff = clause.Cutoff.LastDay(start, fiscalYearEnd);
        return new(start, cutoff, clause.Period.AddTo(cutoff));
    }

    /// <summary>The dates of a blanket's one term.</summary>
    public ClauseDates Dates(BlanketRule blanket, in ItemFacts item) =>
        Dates(new Clause(new(blanket.From), Cutoff.None, blanket.Keep ?? blanket.DestroyAfter!.Value), item);

    /// <summary>
    /// The floor of an item from now on: what it has been kept until so far, and what a rule that only grows keeps it
    /// until today. Waiting for an event is no date and makes no floor.
    /// </summary>
    public KeepUntil FloorOf(SeriesRule? series, in ItemFacts item) =>
        series is { OnlyGrows: true } && Until(series, item.Under(series)) is { IsAwaiting: false } until
            ? KeepUntil.Latest(item.Floor, until)
            : item.Floor;

    /// <summary>K of a series' rule: permanent, waiting, or the date that its join picks.</summary>
    public KeepUntil Until(SeriesRule rule, in ItemFacts item)
    {
        if (rule.Permanent)
        {
            return KeepUntil.Permanent;
        }

        var picked = KeepUntil.Nothing;
        for (var i = 0; i < rule.Clauses.Count; i++)
        {
            var until = Dates(rule.Clauses[i], item).Until is { } date ? KeepUntil.On(date) : KeepUntil.AwaitingEvent;
            // Waiting is later than any date, so that both joins come out by comparing.
            picked =
                picked.IsNothing || (rule.Join == ClauseJoin.Later ? until > picked : until < picked) ? until : picked;
        }

        return picked;
    }

    /// <summary>Until when a blanket keeps, and from which day it would destroy, were it alone.</summary>
    public (KeepUntil Until, LocalDate? FirstDay) TermOf(BlanketRule rule, in ItemFacts item)
    {
        var start = BaseOf(new(rule.From), item);
        if (rule.Keep is { } keep)
        {
            var until = start is { } from ? KeepUntil.On(keep.AddTo(from)) : KeepUntil.AwaitingEvent;
            return (until, rule.Destroys ? until.Date?.PlusDays(1) : null);
        }

        return (KeepUntil.Nothing, start is { } begun ? rule.DestroyAfter!.Value.AddTo(begun).PlusDays(1) : null);
    }

    private LocalDate? BaseOf(Trigger trigger, in ItemFacts item) =>
        item.DateOf(trigger) is { } found && PlausibleDate.Holds(found, Today) ? found : null;

    private static LocalDate? FirstDay(EndAction atEnd, LocalDate? first, KeepUntil keep)
    {
        if (atEnd == EndAction.Nothing || keep.IsPermanent || keep.IsAwaiting || first is not { } day)
        {
            return null;
        }

        return keep.Date?.PlusDays(1) is { } free && free > day ? free : day;
    }

    private ItemState StateOf(KeepUntil keep, EndAction atEnd, LocalDate? from)
    {
        if (keep.IsPermanent)
        {
            return ItemState.Permanent;
        }

        if (keep.IsAwaiting)
        {
            return ItemState.AwaitingEvent;
        }

        if (from is { } day)
        {
            return day <= Today ? ItemState.Due : ItemState.InTerm;
        }

        if (keep.Date is { } last)
        {
            // A term that has run out with nothing to follow keeps nothing: the item is free, and says so.
            return last >= Today ? ItemState.InTerm : ItemState.NoRule;
        }

        // Only a rule that would destroy covers it, and it lacks the date to count from.
        return atEnd == EndAction.Nothing ? ItemState.NoRule : ItemState.AwaitingEvent;
    }
}
