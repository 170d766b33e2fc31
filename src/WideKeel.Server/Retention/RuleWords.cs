using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Server.Retention;

/// <summary>A rule in a few words, for lists.</summary>
public static class RuleWords
{
    public static string Short(SeriesDefinition definition)
    {
        if (definition.Check() is not { Refused: false, Value: var rule })
        {
            return "not complete";
        }

        return rule switch
        {
            Rule.Permanent => "permanent",
            Rule.Timed timed => $"{timed.Period.InWords()} · {Start(timed)}",
            _ => throw new InvalidOperationException($"No such rule: {rule.GetType().Name}."),
        };
    }

    private static string Start(Rule.Timed rule)
    {
        var trigger = rule.Trigger is Trigger.DateField field ? field.Name.Replace('-', ' ') : rule.Trigger.Code;
        return rule.Cutoff switch
        {
            Cutoff.None => trigger,
            Cutoff.Fiscal => $"{trigger}, fiscal year",
            _ => $"{trigger}, {rule.Cutoff.ToString().ToLowerInvariant()} end",
        };
    }
}
