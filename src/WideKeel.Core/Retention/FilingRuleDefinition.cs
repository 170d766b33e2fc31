using System.Globalization;
using NodaTime;
using WideKeel.Core.Query;
using WideKeel.Core.Sensitive;

namespace WideKeel.Core.Retention;

/// <summary>A sensitive kind that must be found in an item.</summary>
/// <param name="Least">Finds that are less sure do not count.</param>
/// <param name="Count">At least so many, 1 to 10,000.</param>
public sealed record WantedKind(string Kind, Confidence Least, int Count);

/// <summary>What a filing rule looks for: a query, sensitive kinds, or both.</summary>
/// <param name="Query">CQL; null asks nothing.</param>
public sealed record FilingRuleDefinition(string? Query, IReadOnlyList<WantedKind> Kinds)
{
    public const int MaxKinds = 10;

    /// <summary>Whether it asks what is sensitive in an item, by a kind or in its query.</summary>
    public bool LooksForSensitive(LocalDate today) =>
        Kinds.Count > 0
        || (Check(today) is { Refused: false, Value: { } query } && query.Condition.LooksAt(QueryIndex.Sensitive));

    /// <summary>The compiled query (null where there is none), or the first thing that is wrong.</summary>
    public Outcome<CompiledQuery?> Check(LocalDate today)
    {
        if (
            Kinds is null
            || Kinds.Count > MaxKinds
            || Kinds.Any(k =>
                string.IsNullOrWhiteSpace(k.Kind) || k.Count is < 1 or > 10_000 || !Enum.IsDefined(k.Least)
            )
        )
        {
            return new Refusal(
                "kinds-malformed",
                "kinds",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"At most {MaxKinds} kinds, each with a count of 1 to 10,000."
                )
            );
        }

        if (string.IsNullOrWhiteSpace(Query))
        {
            return Kinds.Count == 0
                ? new Refusal(
                    "rule-empty",
                    "query",
                    "A filing rule looks for something: write a query or choose a sensitive kind."
                )
                : (CompiledQuery?)null;
        }

        var compiled = QueryCompiler.Compile(Query, today);
        return compiled.Refusal is { } mistake ? mistake with { Field = "query" }
            // What a rule files would change what the rule finds.
            : compiled.Value.Condition.LooksAt(QueryIndex.Series)
            || compiled.Value.Condition.LooksAt(QueryIndex.State)
            || compiled.Value.Condition.LooksAt(QueryIndex.Grade)
                ? new Refusal(
                    "rule-circular",
                    "query",
                    "A filing rule cannot look at series, state or grade: filing changes them."
                )
            : compiled.Value;
    }
}
