using NodaTime;
using WideKeel.Core.Query;

namespace WideKeel.Core.Matters;

/// <summary>A hold order in force, ready to be matched.</summary>
/// <param name="Containers">Ids of all containers in its reach; null where it reaches everywhere.</param>
/// <param name="Names">Of custodians, as author or owner; without case.</param>
/// <param name="Condition">Null finds everything.</param>
public sealed record StandingOrder(
    long Id,
    IReadOnlySet<long>? Containers,
    IReadOnlySet<string> Names,
    Condition? Condition,
    HoldDefinition Definition
);

/// <summary>An item that has just arrived or changed.</summary>
public sealed record Arrival(long ContainerId, LocalDate Created, LocalDate Modified, QueryItem Item);

/// <summary>
/// The hold orders in force, indexed by what an item must have to be matched at all: for an order whose query cannot
/// fit without one of some words, those words. An arriving item is looked up by its own words and only the orders that
/// remain are asked; hundreds of orders cost little more than one.
/// </summary>
public sealed class StandingOrders
{
    private readonly Dictionary<string, List<StandingOrder>> byWord = [];
    private readonly List<StandingOrder> always = [];

    public StandingOrders(IEnumerable<StandingOrder> orders)
    {
        foreach (var order in orders)
        {
            if (order.Condition is { } condition && NeededWords(condition) is { } words)
            {
                foreach (var word in words)
                {
                    if (!byWord.TryGetValue(word, out var list))
                    {
                        byWord[word] = list = [];
                    }

                    list.Add(order);
                }
            }
            else
            {
                always.Add(order);
            }
        }
    }

    public bool IsEmpty => always.Count == 0 && byWord.Count == 0;

    /// <summary>Whether any order's query looks at this index.</summary>
    public bool LooksAt(QueryIndex index) =>
        always.Concat(byWord.Values.SelectMany(o => o)).Any(o => o.Condition?.LooksAt(index) == true);

    /// <summary>Ids of the orders that keep the item, each once, ascending.</summary>
    public IReadOnlyList<long> Matching(Arrival arrival)
    {
        SortedSet<long> found = [];
        foreach (var order in always)
        {
            Ask(order);
        }

        if (byWord.Count > 0)
        {
            HashSet<long> asked = [];
            foreach (var word in WordsOf(arrival.Item))
            {
                if (byWord.TryGetValue(word, out var orders))
                {
                    foreach (var order in orders)
                    {
                        if (asked.Add(order.Id))
                        {
                            Ask(order);
                        }
                    }
                }
            }
        }

        return [.. found];

        void Ask(StandingOrder order)
        {
            if (Keeps(order, arrival))
            {
                found.Add(order.Id);
            }
        }
    }

    /// <summary>Whether one order keeps an item; the meaning that the index above only speeds up.</summary>
    public static bool Keeps(StandingOrder order, Arrival arrival) =>
        (
            order.Containers is null
            || order.Containers.Contains(arrival.ContainerId)
            || IsTheirs(order.Names, arrival.Item.Author)
            || IsTheirs(order.Names, arrival.Item.Owner)
        )
        && order.Definition.Touches(arrival.Created, arrival.Modified)
        && (order.Condition is null || QueryMatcher.Matches(order.Condition, arrival.Item));

    /// <summary>Words one of which every item that fits must hold; null where there are none to name.</summary>
    public static IReadOnlyCollection<string>? NeededWords(Condition condition)
    {
        switch (condition)
        {
            case Condition.HasWords { Words.Count: 0 }:
                return [];
            case Condition.HasWords { How: WordMatch.AnyOf } any:
                return any.Words.All(IsLiteral) ? [.. any.Words.Select(w => w.Text)] : null;
            case Condition.HasWords all:
                // The longest is most likely the rarest.
                return all.Words.Where(IsLiteral).Select(w => w.Text).MaxBy(w => w.Length) is { } rarest
                    ? [rarest]
                    : null;
            case Condition.Near near:
                return Fewest([NeededWords(near.Left), NeededWords(near.Right)]);
            case Condition.All all:
                return Fewest(all.Of.Select(NeededWords));
            case Condition.Any any:
                HashSet<string> together = [];
                foreach (var part in any.Of.Select(NeededWords))
                {
                    if (part is null)
                    {
                        return null;
                    }

                    together.UnionWith(part);
                }

                return together;
            default:
                return null;
        }
    }

    private static IReadOnlyCollection<string>? Fewest(IEnumerable<IReadOnlyCollection<string>?> ways) =>
        ways.Where(w => w is not null).MinBy(w => (w!.Count, -w.Select(x => x.Length).DefaultIfEmpty().Min()));

    private static bool IsLiteral(WordPattern word) => word is { HasMask: false, Stemmed: false, IsAnyWord: false };

    private static bool IsTheirs(IReadOnlySet<string> names, string? name) =>
        name is not null && names.Count > 0 && names.Contains(name.ToUpperInvariant());

    private static IEnumerable<string> WordsOf(QueryItem item) =>
        new[] { QueryIndex.Title, QueryIndex.Text, QueryIndex.Author, QueryIndex.Owner }
            .SelectMany(item.WordsOf)
            .Select(w => w.Text)
            .Distinct();
}
