using System.Globalization;
using System.Text.Json.Serialization;
using NodaTime;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Query;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// Which containers a rule covers: those listed, or those that a query finds whenever it is asked again; less the
/// exceptions.
/// </summary>
/// <param name="Query">CQL over <c>source</c>, <c>container</c> and <c>unit</c>; null where the containers are
/// listed.</param>
/// <param name="Containers">Ids; empty where a query finds them.</param>
/// <param name="Except">Ids that are never covered.</param>
public sealed record ReachDefinition(string? Query, IReadOnlyList<long> Containers, IReadOnlyList<long> Except)
{
    private static readonly QueryIndex[] Known = [QueryIndex.Source, QueryIndex.Container, QueryIndex.Unit];

    /// <summary>Compiles a standing reach, or tells what is wrong with it; null for a listed one.</summary>
    public Outcome<CompiledQuery?> Check(LocalDate today)
    {
        if (Containers is null || Except is null)
        {
            return new Refusal(
                "reach-missing",
                "reach",
                "The containers or the exceptions are missing; leave the list empty instead."
            );
        }

        if (Query is null)
        {
            return Containers.Count == 0
                ? new Refusal(
                    "reach-empty",
                    "containers",
                    "Nothing is covered: choose a container, or write a query that finds them."
                )
                : (CompiledQuery?)null;
        }

        var compiled = QueryCompiler.Compile(Query, today);
        if (compiled.Refusal is { } mistake)
        {
            return mistake with { Field = "query" };
        }

        return QueryIndex.All.Except(Known).Any(compiled.Value.Condition.LooksAt)
            ? new Refusal(
                "reach-index",
                "query",
                "A standing reach asks of containers only: source, container and unit."
            )
            : compiled.Value;
    }

    /// <param name="query">As <see cref="Check"/> gave it.</param>
    /// <param name="asked">The container as a query sees it.</param>
    public bool Covers(CompiledQuery? query, long container, QueryItem asked) =>
        !Except.Contains(container)
        && (query is null ? Containers.Contains(container) : QueryMatcher.Matches(query.Condition, asked));
}

/// <summary>
/// Everything about a blanket that is versioned. Plain values; <see cref="Check"/> makes sure of them.
/// </summary>
/// <param name="From"><c>created</c> or <c>modified</c>.</param>
/// <param name="Keep">ISO 8601; null keeps nothing.</param>
/// <param name="Destroys">What follows at the end of <paramref name="Keep"/>.</param>
/// <param name="DestroyAfter">ISO 8601, where it keeps nothing.</param>
public sealed record BlanketDefinition(
    string Description,
    ReachDefinition Reach,
    string From,
    string? Keep,
    bool Destroys,
    string? DestroyAfter
)
{
    public const int MaxName = 100;

    /// <summary>What it makes due is destroyed, and nobody signs for it.</summary>
    [JsonIgnore]
    public bool DestroysUnsigned => Destroys || Keep is null;

    /// <summary>Whether another definition rules the same: they differ in the description at most.</summary>
    public bool RulesAs(BlanketDefinition other) =>
        (From, Keep, Destroys, DestroyAfter, Reach.Query)
            == (other.From, other.Keep, other.Destroys, other.DestroyAfter, other.Reach.Query)
        && Reach.Containers.ToHashSet().SetEquals(other.Reach.Containers)
        && Reach.Except.ToHashSet().SetEquals(other.Reach.Except);

    /// <summary>The rule, or the first thing that is wrong with it.</summary>
    public Outcome<BlanketRule> Check(string name)
    {
        if (Description is null || Description.Length > SeriesDefinition.MaxText)
        {
            return new Refusal(
                "text-too-long",
                "description",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"A description has at most {SeriesDefinition.MaxText:N0} characters."
                )
            );
        }

        if (Trigger.Read(From) is not { Kind: { ForBlankets: true } from })
        {
            return new Refusal(
                "trigger-unknown",
                "from",
                "A blanket counts from when an item was created or last modified."
            );
        }

        if (Keep is null == DestroyAfter is null)
        {
            return new Refusal(
                "period-missing",
                Keep is null ? "keep" : "destroyAfter",
                "A blanket either keeps for a period, or keeps nothing and destroys after one."
            );
        }

        var period = Period.Parse(Keep ?? DestroyAfter, Keep is null ? "destroyAfter" : "keep");
        return period.Refusal is { } wrong
            ? wrong
            : new BlanketRule(
                name,
                from,
                Keep is null ? null : period.Value,
                Keep is null || Destroys,
                Keep is null ? period.Value : null
            );
    }
}
