using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Server.Retention;

/// <summary>A rule in a few words, for lists.</summary>
public static class RuleWords
{
    public static string Short(SeriesDefinition definition) =>
        definition.Check("") is not { Refused: false, Value: var rule } ? "not complete"
        : rule.Permanent ? "permanent"
        : rule.Clauses.Count == 1 ? Short(rule.Clauses[0])
        : $"{(rule.Join == ClauseJoin.Later ? "later" : "earlier")} of {string.Join(", ", rule.Clauses.Select(Short))}";

    public static string Short(BlanketDefinition definition) =>
        definition switch
        {
            { Keep: { } keep, Destroys: var destroys } =>
                $"keep {Words(keep)} · {definition.From}{(destroys ? ", then destroy" : "")}",
            { DestroyAfter: { } after } => $"destroy {Words(after)} after {definition.From}",
            _ => "not complete",
        };

    private static string Short(Clause clause)
    {
        var trigger = clause.Trigger.Name?.Replace('-', ' ') ?? clause.Trigger.Code;
        var start = clause.Cutoff switch
        {
            Cutoff.None => trigger,
            Cutoff.Fiscal => $"{trigger}, fiscal year",
            _ => $"{trigger}, {clause.Cutoff.ToString().ToLowerInvariant()} end",
        };
        return $"{clause.Period.InWords()} · {start}";
    }

    private static string Words(string period) =>
        Period.Parse(period) is { Refused: false, Value: var read } ? read.InWords() : period;
}
