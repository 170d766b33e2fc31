using System.Globalization;
using System.Text.RegularExpressions;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// What a law, a regulation or a contract demands. Plain values; <see cref="Check"/> makes sure of them.
/// </summary>
/// <param name="Citation">As lawyers cite it: <c>29 CFR 516.5</c>.</param>
/// <param name="Least">How long at least; empty where it demands nothing of the kind.</param>
/// <param name="Join">Of several clauses of <paramref name="Least"/>.</param>
/// <param name="Most">How long at most, where privacy law sets an end; null otherwise.</param>
/// <param name="Origin">Where the value comes from: a published source, or "from memory, to be verified".</param>
public sealed partial record AuthorityDefinition(
    string Citation,
    string Issuer,
    string Jurisdiction,
    string Subject,
    ClauseJoin Join,
    IReadOnlyList<ClauseText> Least,
    ClauseText? Most,
    string Note,
    string Origin
)
{
    /// <summary>Least and most as rules, or the first thing that is wrong.</summary>
    public Outcome<AuthorityDemand> Check(string code)
    {
        if (code is null || !CodeShape().IsMatch(code))
        {
            return new Refusal(
                "code-malformed",
                "code",
                "A code has 2 to 40 letters, digits, dots, hyphens and spaces: 29 CFR 516.5."
            );
        }

        foreach (
            var (field, text, needed) in new[]
            {
                ("citation", Citation, true),
                ("issuer", Issuer, false),
                ("jurisdiction", Jurisdiction, false),
                ("subject", Subject, true),
                ("note", Note, false),
                ("origin", Origin, true),
            }
        )
        {
            if (text is null || (needed && string.IsNullOrWhiteSpace(text)) || text.Length > SeriesDefinition.MaxText)
            {
                return new Refusal(
                    "text-missing",
                    field,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"An authority needs its {field}, of at most {SeriesDefinition.MaxText:N0} characters."
                    )
                );
            }
        }

        if (Least is null || (Least.Count == 0 && Most is null))
        {
            return new Refusal("clauses-missing", "least", "An authority demands a least period, a most, or both.");
        }

        Outcome<SeriesRule>? least = Least.Count == 0 ? (Outcome<SeriesRule>?)null : RuleOf(code, Join, Least);
        Outcome<SeriesRule>? most = Most is null ? (Outcome<SeriesRule>?)null : RuleOf(code, ClauseJoin.Later, [Most]);
        if (least?.Refusal is { } wrong)
        {
            return wrong with { Field = wrong.Field?.Replace("clauses", "least", StringComparison.Ordinal) };
        }

        return most?.Refusal is { } wrongMost
            ? wrongMost with
            {
                Field = wrongMost.Field?.Replace("clauses[0]", "most", StringComparison.Ordinal),
            }
            : new AuthorityDemand(code, Citation, least?.Value, most?.Value.Clauses[0]);
    }

    private static Outcome<SeriesRule> RuleOf(string code, ClauseJoin join, IReadOnlyList<ClauseText> clauses) =>
        SeriesDefinition.OfClauses(join, clauses).Check(code);

    [GeneratedRegex(@"\A[A-Za-z0-9][A-Za-z0-9 .\-()/]{0,38}[A-Za-z0-9)]\z")]
    private static partial Regex CodeShape();
}

/// <param name="Least">As a rule; null where there is no least.</param>
public sealed record AuthorityDemand(string Code, string Citation, SeriesRule? Least, Clause? Most);

public enum AuthorityVerdict
{
    Meets,
    Short,
    ExceedsMost,

    /// <summary>The clocks start elsewhere: only a person can judge.</summary>
    DifferentTrigger,
}

/// <param name="Sentence">Such as <c>short by 2 years</c>.</param>
public sealed record AuthorityFinding(string Authority, AuthorityVerdict Verdict, string Sentence);

/// <summary>Holds the rule of a series against what an authority demands.</summary>
public static class AuthorityCheck
{
    public static AuthorityFinding Of(SeriesRule rule, AuthorityDemand demand)
    {
        if (demand.Most is { } most && Exceeds(rule, most) is { } exceeds)
        {
            return new(demand.Code, exceeds.Verdict, exceeds.Sentence);
        }

        if (demand.Least is not { } least || rule.Permanent || Ratchet.KeepsAtLeastAsLong(least, rule))
        {
            return new(demand.Code, AuthorityVerdict.Meets, "meets it");
        }

        // Which clause falls short is told where the clocks start alike; elsewhere a person must judge.
        string? shortfall = null;
        foreach (var wanted in least.Clauses)
        {
            var own = rule.Clauses.Where(c => c.Trigger == wanted.Trigger).ToList();
            if (own.Count == 0)
            {
                return new(demand.Code, AuthorityVerdict.DifferentTrigger, "different trigger, judge yourself");
            }

            shortfall ??= own.Select(c => Shortfall(c, wanted)).OfType<string>().FirstOrDefault();
        }

        return shortfall is null
            ? new(demand.Code, AuthorityVerdict.DifferentTrigger, "joined differently, judge yourself")
            : new(demand.Code, AuthorityVerdict.Short, shortfall);
    }

    private static (AuthorityVerdict Verdict, string Sentence)? Exceeds(SeriesRule rule, Clause most)
    {
        if (rule.Permanent)
        {
            return (
                AuthorityVerdict.ExceedsMost,
                $"exceeds the most: permanent, where {most.Period.InWords()} is the most"
            );
        }

        var own = rule.Clauses.FirstOrDefault(c => c.Trigger == most.Trigger);
        if (own is null)
        {
            return (AuthorityVerdict.DifferentTrigger, "different trigger, judge yourself");
        }

        if (
            Ratchet.AtLeast(most.Period, own.Period)
            && Ratchet.AtLeast(most.Cutoff, own.Cutoff)
            && rule.Clauses.Count == 1
        )
        {
            return null;
        }

        return Difference(own.Period, most.Period) is { } by
                ? (AuthorityVerdict.ExceedsMost, $"exceeds the most by {by}")
            : rule.Clauses.Count == 1 && !Ratchet.AtLeast(most.Cutoff, own.Cutoff)
                ? (AuthorityVerdict.ExceedsMost, $"exceeds the most: it counts from the end of the {Name(own.Cutoff)}")
            : null;
    }

    private static string? Shortfall(Clause own, Clause wanted) =>
        Difference(wanted.Period, own.Period) is { } by ? $"short by {by}"
        : !Ratchet.AtLeast(own.Cutoff, wanted.Cutoff)
            ? $"short: the authority counts from the end of the {Name(wanted.Cutoff)}"
        : null;

    /// <summary>How much longer the first is, in words; null where it is not.</summary>
    private static string? Difference(Period longer, Period shorter)
    {
        var months = (12 * (longer.Years - shorter.Years)) + longer.Months - shorter.Months;
        var days = (7 * (longer.Weeks - shorter.Weeks)) + longer.Days - shorter.Days;
        return (months, days) switch
        {
            (>= 0, >= 0) and not (0, 0) => new Period(months / 12, months % 12, 0, days).InWords(),
            (<= 0, <= 0) => null,
            _ => (months * 30.436875) + days is > 0 and var mean
                ? string.Create(CultureInfo.InvariantCulture, $"about {Math.Ceiling(mean):N0} days")
                : null,
        };
    }

    private static string Name(Cutoff cutoff) =>
        cutoff switch
        {
            Cutoff.Year => "calendar year",
            Cutoff.Fiscal => "fiscal year",
            _ => cutoff.ToString().ToLowerInvariant(),
        };
}
