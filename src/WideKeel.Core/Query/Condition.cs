using System.Net;
using NodaTime;

namespace WideKeel.Core.Query;

/// <summary>How the words of a term are meant.</summary>
public enum WordMatch
{
    /// <summary>In their order, one directly after the other.</summary>
    Phrase,
    AllOf,
    AnyOf,
}

public enum ProximityUnit
{
    Word,
    Sentence,
    Paragraph,

    /// <summary>The same title, or the same body.</summary>
    Element,
}

/// <summary>
/// What a query asks, after every name and value in it is understood. Both evaluations start here:
/// <see cref="QueryMatcher"/> and the SQL.
/// </summary>
public abstract record Condition
{
    /// <summary>How deep it is: 1 for a part without parts.</summary>
    public int Levels { get; }

    private Condition(int levels) => Levels = levels;

    private static int Deepest(IReadOnlyList<Condition> of) => 1 + of.Select(c => c.Levels).DefaultIfEmpty().Max();

    /// <summary>The parts that are wanted, out of their joints; what must not fit is left out.</summary>
    public IEnumerable<Condition> Wanted() =>
        this switch
        {
            All all => all.Of.SelectMany(c => c.Wanted()),
            Any any => any.Of.SelectMany(c => c.Wanted()),
            Not => [],
            _ => [this],
        };

    /// <summary>Whether it looks at this index anywhere, wanted or not.</summary>
    public bool LooksAt(QueryIndex index) =>
        this switch
        {
            All all => all.Of.Any(c => c.LooksAt(index)),
            Any any => any.Of.Any(c => c.LooksAt(index)),
            Not not => not.Of.LooksAt(index),
            HasWords words => words.Index == index,
            Near near => near.Left.LooksAt(index) || near.Right.LooksAt(index),
            Is value => value.Index == index,
            Has has => has.Index == index,
            DateIn range => range.Index == index,
            NumberIn range => range.Index == index,
            NameIn range => range.Index == index,
            InstantIn range => range.Index == index,
            AddressIn range => range.Index == index,
            _ => false,
        };

    public sealed record Everything() : Condition(1);

    public sealed record All(IReadOnlyList<Condition> Of) : Condition(Deepest(Of));

    public sealed record Any(IReadOnlyList<Condition> Of) : Condition(Deepest(Of));

    public sealed record Not(Condition Of) : Condition(1 + Of.Levels);

    /// <param name="Index">One of the four indexes of words: text, title, author, owner.</param>
    /// <param name="Words">Empty where the term holds no word: then nothing fits.</param>
    public sealed record HasWords(QueryIndex Index, WordMatch How, IReadOnlyList<WordPattern> Words) : Condition(1);

    /// <summary>
    /// Two sets of places in one element of the item, so far apart. The operands are <see cref="HasWords"/>,
    /// <see cref="Any"/> of them, or <see cref="Near"/>.
    /// </summary>
    /// <param name="Distances">Ranges of distances that fit, each inclusive; neighbouring words are 1 apart, places in
    /// one sentence 0.</param>
    public sealed record Near(
        Condition Left,
        Condition Right,
        IReadOnlyList<(int From, int To)> Distances,
        ProximityUnit Unit,
        bool Ordered
    ) : Condition(1 + Math.Max(Left.Levels, Right.Levels));

    /// <summary>The value as a whole; of several values, any.</summary>
    /// <param name="Field">Name of the field in lower case where the index is <see cref="QueryIndex.Field"/>.</param>
    /// <param name="Pattern">As <see cref="Mask.Read"/> gives it.</param>
    public sealed record Is(QueryIndex Index, string? Field, string Pattern, bool IgnoreCase) : Condition(1);

    /// <summary>There is a value at all.</summary>
    public sealed record Has(QueryIndex Index, string? Field) : Condition(1);

    /// <summary>The value is a date of this range; null is open, ends included.</summary>
    public sealed record DateIn(QueryIndex Index, string? Field, LocalDate? From, LocalDate? To) : Condition(1);

    /// <summary>The value is a moment of this range; null is open, the end is not included.</summary>
    public sealed record InstantIn(QueryIndex Index, Instant? From, Instant? Before) : Condition(1);

    /// <summary>The value is an address of this network.</summary>
    public sealed record AddressIn(QueryIndex Index, IPNetwork Network) : Condition(1);

    /// <summary>The value is a number of this range; null is open.</summary>
    public sealed record NumberIn(
        QueryIndex Index,
        string? Field,
        decimal? From,
        bool FromIncluded,
        decimal? To,
        bool ToIncluded
    ) : Condition(1);

    /// <summary>The value stands in this range of the alphabet, without case; null is open.</summary>
    public sealed record NameIn(
        QueryIndex Index,
        string? Field,
        string? From,
        bool FromIncluded,
        string? To,
        bool ToIncluded
    ) : Condition(1);
}

/// <param name="Field">Name of the field where the index is <see cref="QueryIndex.Field"/>.</param>
public sealed record SortKey(QueryIndex Index, string? Field, bool Descending);

/// <summary>A query that is understood.</summary>
/// <param name="ByRelevance">Somewhere <c>/relevant</c> was asked: the best first, unless sort keys say
/// otherwise.</param>
public sealed record CompiledQuery(Condition Condition, IReadOnlyList<SortKey> SortBy, bool ByRelevance);
