using System.Globalization;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>A series as far as one item's explanation needs it. <paramref name="Rule"/> is null while no rule is in force.</summary>
public sealed record RuleInForce(SeriesCode Code, string Title, int Version, Rule? Rule);

/// <summary>Who extended an item, until when and why.</summary>
public sealed record Extension(LocalDate Until, string By, string Why);

/// <summary>One rule that was looked at: won or lost, with its dates and one sentence.</summary>
/// <param name="Kind"><c>series</c>, <c>extension</c> or <c>none</c>.</param>
public sealed record Reason(string Rule, string Kind, bool Won, KeepUntil KeepUntil, ClauseDates Dates, string Why);

/// <summary>Explains a standing rule by rule, winner first.</summary>
public static class Reasons
{
    private static readonly LocalDatePattern Day = LocalDatePattern.Create("d MMM uuuu", CultureInfo.InvariantCulture);

    public static IReadOnlyList<Reason> Explain(Evaluator evaluator, RuleInForce? series, in ItemFacts item, Extension? extension)
    {
        List<Reason> looked = [];
        if (series is { Rule: null })
        {
            looked.Add(new(series.Code.Value, "series", false, KeepUntil.Nothing, default,
                $"Filed under {series.Code}, {series.Title}, whose rule is not in force yet: it is filed, not yet kept."));
        }

        if (series is { Rule: Rule.Permanent })
        {
            looked.Add(new(series.Code.Value, "series", false, KeepUntil.Permanent, default, $"{series.Code} keeps it permanently."));
        }

        if (series is { Rule: Rule.Timed timed })
        {
            var dates = evaluator.Dates(timed, item);
            looked.Add(new(series.Code.Value, "series", false,
                dates.Until is { } until ? KeepUntil.On(until) : KeepUntil.AwaitingEvent, dates, Sentence(series.Code, timed, dates, evaluator.Today)));
        }

        if (extension is not null)
        {
            looked.Add(new("Extension", "extension", false, KeepUntil.On(extension.Until), default,
                $"{extension.By} extended it until {Day.Format(extension.Until)}: {extension.Why}"));
        }

        if (looked.Count == 0)
        {
            looked.Add(new("No rule", "none", false, KeepUntil.Nothing, default, "It is filed under no series, so nothing keeps it and nothing removes it."));
        }

        var ordered = looked.OrderByDescending(r => r.KeepUntil).ToList();
        var winner = ordered[0];
        var rest = ordered.Skip(1).Select(r => r with { Why = $"{r.Why} Shorter; the longest keeps." });
        return [winner with { Won = !winner.KeepUntil.IsNothing }, .. rest];
    }

    private static string Sentence(SeriesCode code, Rule.Timed rule, ClauseDates dates, LocalDate today)
    {
        var trigger = rule.Trigger switch
        {
            Trigger.Created => "Created",
            Trigger.Modified => "Last modified",
            Trigger.DateField field => Capital(field.Name.Replace('-', ' ')),
            _ => throw new InvalidOperationException($"No such trigger: {rule.Trigger.Code}."),
        };
        if (dates is not { Base: { } start, Cutoff: { } cutoff, Until: { } until })
        {
            return $"{trigger}: no date that can be counted from. {code} keeps it until there is one; mend the date.";
        }

        var end = rule.Cutoff switch
        {
            Cutoff.None => "",
            Cutoff.Month => $", month ends {Day.Format(cutoff)}",
            Cutoff.Quarter => $", quarter ends {Day.Format(cutoff)}",
            Cutoff.Year => $", year ends {Day.Format(cutoff)}",
            Cutoff.Fiscal => $", fiscal year ends {Day.Format(cutoff)}",
            _ => throw new InvalidOperationException($"No such cutoff: {rule.Cutoff}."),
        };
        var after = (until < today, rule.AtEnd) switch
        {
            (true, EndAction.SignOff) => " The term is over; it may be destroyed after sign-off.",
            (true, EndAction.Nothing) => " The term is over; nothing keeps it and nothing removes it.",
            (false, EndAction.SignOff) => " Then it may be destroyed after sign-off.",
            _ => " Then nothing happens to it.",
        };
        return $"{trigger} {Day.Format(start)}{end}, plus {rule.Period.InWords()}: kept through {Day.Format(until)}.{after}";
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];
}
