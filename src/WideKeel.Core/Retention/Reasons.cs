using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// A series as far as one item's explanation needs it. <paramref name="Rule"/> is null while no rule is in force.
/// </summary>
public sealed record RuleInForce(string Code, string Title, SeriesRule? Rule);

/// <summary>Who extended an item, until when and why.</summary>
public sealed record Extension(LocalDate Until, string By, string Why);

/// <summary>One rule that was looked at: won or lost, with its dates and one sentence.</summary>
/// <param name="Kind"><c>series</c>, <c>blanket</c>, <c>extension</c>, <c>floor</c> or <c>none</c>.</param>
/// <param name="Won">It decides until when the item is kept.</param>
public sealed record Reason(
    string Rule,
    string Kind,
    bool Won,
    KeepUntil KeepUntil,
    IReadOnlyList<ClauseDates> Clauses,
    string Why
);

/// <summary>
/// Explains a standing rule by rule, in the order in which they are looked at: the series, the blankets, the extension, the floor.
/// </summary>
public static class Reasons
{
    private static readonly LocalDatePattern Day = LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu");

    public static IReadOnlyList<Reason> Explain(
        Evaluator evaluator,
        RuleInForce? series,
        ReadOnlySpan<BlanketRule> blankets,
        in ItemFacts facts,
        Extension? extension
    )
    {
        var item = facts.Under(series?.Rule);
        List<Reason> looked = [];
        if (series is { Rule: null })
        {
            looked.Add(Undecided(series));
        }

        if (series is { Rule: { } rule })
        {
            looked.Add(OfSeries(evaluator, rule, item));
        }

        foreach (var blanket in blankets)
        {
            looked.Add(OfBlanket(evaluator, blanket, item, decidesEnd: series?.Rule is null));
        }

        if (extension is not null)
        {
            looked.Add(OfExtension(extension));
        }

        if (FloorOf(item, looked) is { } floor)
        {
            looked.Add(floor);
        }

        if (looked.Count == 0)
        {
            return [NoRule];
        }

        var winner = looked.Where(l => !l.KeepUntil.IsNothing).MaxBy(l => l.KeepUntil);
        return
        [
            .. looked.Select(l =>
                ReferenceEquals(l, winner) ? l with { Won = true } : l with { Why = l.Why + Rank(l, winner) }
            ),
        ];
    }

    private static Reason NoRule { get; } =
        new(
            "No rule",
            "none",
            false,
            KeepUntil.Nothing,
            [],
            "It is filed under no series and no blanket covers it, so no rule keeps it and none removes it."
        );

    private static Reason OfExtension(Extension extension) =>
        new(
            "Extension",
            "extension",
            false,
            KeepUntil.On(extension.Until),
            [],
            $"{extension.By} extended it until {Day.Format(extension.Until)}: {extension.Why}"
        );

    private static Reason Undecided(RuleInForce series) =>
        new(
            series.Code,
            "series",
            false,
            KeepUntil.Nothing,
            [],
            $"Filed under {series.Code}, {series.Title}, whose rule is not in force yet: it is filed, not yet kept."
        );

    /// <summary>Said only where it decides: else the rules say as much, or more.</summary>
    private static Reason? FloorOf(in ItemFacts item, List<Reason> looked)
    {
        var floor = item.Floor;
        return floor.IsNothing || looked.Any(l => l.KeepUntil >= floor)
            ? null
            : new(
                "Floor",
                "floor",
                false,
                floor,
                [],
                $"It has been kept {(floor.Date is { } date ? $"through {Day.Format(date)}" : "permanently")} "
                    + "by a rule that can only be tightened, or at a place that it was moved from. "
                    + "Nothing brings that forward before its disposal."
            );
    }

    /// <summary>Winner first, as a person reads them.</summary>
    public static IReadOnlyList<Reason> WinnerFirst(IReadOnlyList<Reason> reasons) =>
        [.. reasons.OrderByDescending(r => r.Won)];

    private static string Rank(Reason loser, Reason? winner) =>
        winner is null || loser.KeepUntil.IsNothing ? ""
        : loser.KeepUntil == winner.KeepUntil ? $" {winner.Rule} keeps as long and stands before it."
        : $" {winner.Rule} keeps longer.";

    private static Reason OfSeries(Evaluator evaluator, SeriesRule rule, in ItemFacts item)
    {
        var until = evaluator.Until(rule, item);
        if (rule.Permanent)
        {
            return new(rule.Code, "series", false, until, [], $"{rule.Code} keeps it permanently.");
        }

        List<ClauseDates> dates = [];
        List<string> told = [];
        foreach (var clause in rule.Clauses)
        {
            dates.Add(evaluator.Dates(clause, item));
            told.Add(Told(clause, dates[^1]));
        }

        var counted =
            told.Count == 1
                ? told[0]
                : $"The {(rule.Join == ClauseJoin.Later ? "later" : "earlier")} of: {string.Join("; ", told.Select(Small))}";
        var ending = until.Date is { } last
            ? $": {(last < evaluator.Today ? "it was kept" : "kept")} through "
                + $"{Day.Format(last)}.{After(rule.AtEnd, last < evaluator.Today)}"
            : $". {rule.Code} keeps it until there is {(told.Count == 1 ? "one" : "each of them")}.";
        return new(rule.Code, "series", false, until, dates, counted + ending);
    }

    private static Reason OfBlanket(Evaluator evaluator, BlanketRule blanket, in ItemFacts item, bool decidesEnd)
    {
        var (until, firstDay) = evaluator.TermOf(blanket, item);
        var dates = evaluator.Dates(blanket, item);
        var start = blanket.From.Title!;
        if (dates is not { Base: { } begun, Until: { } last })
        {
            return new(
                blanket.Name,
                "blanket",
                false,
                until,
                [dates],
                $"{start}: {blanket.From.Missing}. "
                    + $"{(blanket.Keep is null ? "It is not destroyed" : "The blanket keeps it")} until there is one."
            );
        }

        var counted = $"{start} {Day.Format(begun)}, plus {(blanket.Keep ?? blanket.DestroyAfter!.Value).InWords()}";
        var destroys =
            !blanket.Destroys ? ""
            : decidesEnd ? $" From {Day.Format(firstDay!.Value)} it may be destroyed without sign-off."
            : " What happens then is for its series to say.";
        return new(
            blanket.Name,
            "blanket",
            false,
            until,
            [dates],
            blanket.Keep is null
                ? $"{counted}: the blanket keeps nothing.{destroys}"
                : $"{counted}: {(last < evaluator.Today ? "it was kept" : "kept")} through {Day.Format(last)}.{destroys}"
        );
    }

    private static string Told(Clause clause, ClauseDates dates)
    {
        var trigger = clause.Trigger.Title;
        if (dates is not { Base: { } start, Cutoff: { } cutoff })
        {
            return $"{trigger}: {clause.Trigger.Kind.Missing}";
        }

        var end = clause.Cutoff switch
        {
            Cutoff.None => "",
            Cutoff.Month => $", month ends {Day.Format(cutoff)}",
            Cutoff.Quarter => $", quarter ends {Day.Format(cutoff)}",
            Cutoff.Year => $", year ends {Day.Format(cutoff)}",
            Cutoff.Fiscal => $", fiscal year ends {Day.Format(cutoff)}",
            _ => throw new InvalidOperationException($"No such cutoff: {clause.Cutoff}."),
        };
        return $"{trigger} {Day.Format(start)}{end}, plus {clause.Period.InWords()}";
    }

    private static string After(EndAction atEnd, bool over) =>
        (over, atEnd) switch
        {
            (true, EndAction.SignOff) => " The term is over; it may be destroyed after sign-off.",
            (true, EndAction.Destroy) => " The term is over; it may be destroyed.",
            (true, EndAction.Transfer) => " The term is over; it may be handed over.",
            (true, _) => " The term is over; the series neither keeps nor removes it.",
            (false, EndAction.SignOff) => " Then it may be destroyed after sign-off.",
            (false, EndAction.Destroy) => " Then it may be destroyed without sign-off.",
            (false, EndAction.Transfer) => " Then it may be handed over.",
            (false, _) => " Then nothing happens to it.",
        };

    private static string Small(string text) => char.ToLowerInvariant(text[0]) + text[1..];
}
