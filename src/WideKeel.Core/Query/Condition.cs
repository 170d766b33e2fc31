using NodaTime;

namespace WideKeel.Core.Query;

/// <summary>What can be asked of an item. The words are the index names of the query language, in lower case.</summary>
public enum QueryIndex
{
    /// <summary>Title and body together.</summary>
    Text,
    Title,
    Author,
    Owner,
    Path,
    Type,
    Source,
    Container,
    Unit,
    Series,
    Grade,
    State,
    Sensitive,
    Created,
    Modified,
    Size,
    Field,
}

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

/// <summary>What a query asks, after every name and value in it is understood. Both evaluations start here: <see cref="QueryMatcher"/> and the SQL.</summary>
public abstract record Condition
{
    /// <summary>The parts that are wanted, out of their joints; what must not fit is left out.</summary>
    public IEnumerable<Condition> Wanted() => this switch
    {
        All all => all.Of.SelectMany(c => c.Wanted()),
        Any any => any.Of.SelectMany(c => c.Wanted()),
        Not => [],
        _ => [this],
    };

    public sealed record Everything : Condition;

    public sealed record All(IReadOnlyList<Condition> Of) : Condition;

    public sealed record Any(IReadOnlyList<Condition> Of) : Condition;

    public sealed record Not(Condition Of) : Condition;

    /// <param name="Index">One of the four indexes of words: text, title, author, owner.</param>
    /// <param name="Words">Empty where the term holds no word: then nothing fits.</param>
    public sealed record HasWords(QueryIndex Index, WordMatch How, IReadOnlyList<WordPattern> Words) : Condition;

    /// <summary>Two sets of places in one element of the item, so far apart. The operands are <see cref="HasWords"/>, <see cref="Any"/> of them, or <see cref="Near"/>.</summary>
    /// <param name="Distances">Ranges of distances that fit, each inclusive; neighbouring words are 1 apart, places in one sentence 0.</param>
    public sealed record Near(Condition Left, Condition Right, IReadOnlyList<(int From, int To)> Distances, ProximityUnit Unit, bool Ordered) : Condition;

    /// <summary>The value as a whole; of several values, any.</summary>
    /// <param name="Field">Name of the field in lower case where the index is <see cref="QueryIndex.Field"/>.</param>
    /// <param name="Pattern">As <see cref="Mask.Read"/> gives it.</param>
    public sealed record Is(QueryIndex Index, string? Field, string Pattern, bool IgnoreCase) : Condition;

    /// <summary>There is a value at all.</summary>
    public sealed record Has(QueryIndex Index, string? Field) : Condition;

    /// <summary>The value is a date of this range; null is open, ends included.</summary>
    public sealed record DateIn(QueryIndex Index, string? Field, LocalDate? From, LocalDate? To) : Condition;

    /// <summary>The value is a number of this range; null is open.</summary>
    public sealed record NumberIn(QueryIndex Index, string? Field, decimal? From, bool FromIncluded, decimal? To, bool ToIncluded) : Condition;

    /// <summary>The value stands in this range of the alphabet, without case; null is open.</summary>
    public sealed record NameIn(QueryIndex Index, string? Field, string? From, bool FromIncluded, string? To, bool ToIncluded) : Condition;
}

/// <param name="Field">Name of the field where the index is <see cref="QueryIndex.Field"/>.</param>
public sealed record SortKey(QueryIndex Index, string? Field, bool Descending);

/// <summary>A query that is understood.</summary>
/// <param name="ByRelevance">Somewhere <c>/relevant</c> was asked: the best first, unless sort keys say otherwise.</param>
public sealed record CompiledQuery(Condition Condition, IReadOnlyList<SortKey> SortBy, bool ByRelevance);
