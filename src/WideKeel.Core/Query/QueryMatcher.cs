using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Query;

/// <summary>
/// One item as a query sees it. Null means that it has no such value; then no comparison fits, <c>&lt;&gt;</c>
/// included.
/// </summary>
public sealed record QueryItem
{
    /// <summary>Words that were cut already; a copy with other texts begins without them.</summary>
    private Dictionary<QueryIndex, List<Word>> Cut { get; init; } = [];

    public string? Title { get; init; }

    /// <summary>The extracted text.</summary>
    public string? Body { get; init; }

    public string? Author { get; init; }

    public string? Owner { get; init; }

    public string? Path { get; init; }

    public string? Type { get; init; }

    public string? Source { get; init; }

    public string? Container { get; init; }

    public string? Unit { get; init; }

    public string? Series { get; init; }

    public string? Grade { get; init; }

    public string? State { get; init; }

    /// <summary>How much of its content can be found by words, as <see cref="Content.SearchableWords"/> says it.</summary>
    public string? Searchable { get; init; }

    public LocalDate? Created { get; init; }

    public LocalDate? Modified { get; init; }

    /// <summary>Bytes.</summary>
    public decimal? Size { get; init; }

    /// <summary>Names of the sensitive kinds found in it.</summary>
    public IReadOnlyCollection<string> Sensitive { get; init; } = [];

    /// <summary>Other fields, by their name in lower case.</summary>
    public IReadOnlyDictionary<string, string> Fields { get; init; } = new Dictionary<string, string>();

    /// <summary>The same item with another title and body: one document of it by itself.</summary>
    public QueryItem WithText(string? title, string? body) => this with { Title = title, Body = body, Cut = [] };

    /// <summary>The text whose words are looked at; of <see cref="QueryIndex.Text"/> the body alone.</summary>
    internal string? Text(QueryIndex index) => index == QueryIndex.Text ? Body : index.Of(this, null).FirstOrDefault();

    /// <summary>The words of title, body (<see cref="QueryIndex.Text"/>), author or owner; cut once.</summary>
    internal List<Word> WordsOf(QueryIndex element)
    {
        if (!Cut.TryGetValue(element, out var found))
        {
            Cut[element] = found = Query.Words.Of(Text(element) ?? "");
        }

        return found;
    }
}

/// <summary>How values are read out of what fields hold; the same for both evaluations.</summary>
public static class QueryValues
{
    /// <summary>A calendar date: <c>2026-03-14</c>, or the date of an ISO 8601 date and time.</summary>
    public static LocalDate? Date(string value) =>
        LocalDatePattern.Iso.Parse(value is { Length: > 10 } && value[10] == 'T' ? value[..10] : value)
            is { Success: true, Value: var date }
            ? date
            : null;

    /// <summary>A decimal number with a point, perhaps signed, perhaps with an exponent.</summary>
    public static decimal? Number(string value) =>
        decimal.TryParse(value, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? number : null;

    public static bool Fits(Condition.Is condition, string value) =>
        Mask.Fits(condition.Pattern, value, condition.IgnoreCase);

    public static bool Fits(Condition.DateIn condition, LocalDate date) =>
        !(date < condition.From) && !(date > condition.To);

    public static bool Fits(Condition.NumberIn condition, decimal number) =>
        (condition.From is not { } from || number > from || (condition.FromIncluded && number == from))
        && (condition.To is not { } to || number < to || (condition.ToIncluded && number == to));

    public static bool Fits(Condition.NameIn condition, string value) =>
        (
            condition.From is null
            || Compare(value, condition.From) is var a && (a > 0 || (condition.FromIncluded && a == 0))
        )
        && (
            condition.To is null || Compare(value, condition.To) is var b && (b < 0 || (condition.ToIncluded && b == 0))
        );

    private static int Compare(string a, string b) => string.Compare(a, b, StringComparison.OrdinalIgnoreCase);
}

/// <summary>Whether one item in hand is meant.</summary>
public static class QueryMatcher
{
    private static readonly QueryIndex[] TextElements = [QueryIndex.Title, QueryIndex.Text];

    public static bool Matches(Condition condition, QueryItem item) =>
        condition switch
        {
            Condition.Everything => true,
            Condition.All all => all.Of.All(c => Matches(c, item)),
            Condition.Any any => any.Of.Any(c => Matches(c, item)),
            Condition.Not not => !Matches(not.Of, item),
            Condition.HasWords words => HasWords(words, item),
            Condition.Near near => Elements(near).Any(e => Places(near, item, e, atLeastOne: true).Count > 0),
            Condition.Is value => value.Index.Of(item, value.Field).Any(v => QueryValues.Fits(value, v)),
            Condition.Has has => has.Index.Of(item, has.Field).Any(),
            Condition.DateIn dates => Date(dates, item) is { } date && QueryValues.Fits(dates, date),
            Condition.NumberIn numbers => Number(numbers, item) is { } number && QueryValues.Fits(numbers, number),
            Condition.NameIn names => names.Index.Of(item, names.Field).Any(v => QueryValues.Fits(names, v)),
            _ => throw new ArgumentOutOfRangeException(nameof(condition)),
        };

    /// <summary>
    /// The words of an element that the query looks for, to be marked where it is shown; in their order, none twice.
    /// </summary>
    /// <param name="element">Title, author, owner, or <see cref="QueryIndex.Text"/> for the body.</param>
    public static IReadOnlyList<TextSpan> Marks(Condition condition, QueryItem item, QueryIndex element)
    {
        var words = item.WordsOf(element);
        SortedSet<int> marked = [];
        foreach (var part in condition.Wanted())
        {
            Collect(part);
        }

        return [.. marked.Select(i => new TextSpan(words[i].Start, words[i].Length))];

        void Collect(Condition part)
        {
            switch (part)
            {
                case Condition.HasWords { Words: var wanted } when Elements(part).Contains(element):
                    foreach (var (from, to) in Places(part, item, element, atLeastOne: false))
                    {
                        marked.UnionWith(
                            Enumerable.Range(from, to - from + 1).Where(i => wanted.Any(w => w.Fits(words[i].Text)))
                        );
                    }

                    break;
                case Condition.Near near
                    when Elements(part).Contains(element) && Places(part, item, element, atLeastOne: true).Count > 0:
                    // Between near words lies what was not asked for; only they themselves are marked.
                    foreach (var side in near.Left.Wanted().Concat(near.Right.Wanted()))
                    {
                        Collect(side);
                    }

                    break;
            }
        }
    }

    private static LocalDate? Date(Condition.DateIn condition, QueryItem item) =>
        condition.Index.Date is { } date ? date(item)
        : item.Fields.TryGetValue(condition.Field!, out var value) ? QueryValues.Date(value)
        : null;

    private static decimal? Number(Condition.NumberIn condition, QueryItem item) =>
        condition.Index.Kind == IndexKind.Sizes ? item.Size
        : item.Fields.TryGetValue(condition.Field!, out var value) ? QueryValues.Number(value)
        : null;

    private static bool HasWords(Condition.HasWords condition, QueryItem item)
    {
        if (condition.Words.Count == 0)
        {
            return false;
        }

        var elements = Elements(condition);
        return condition.How switch
        {
            WordMatch.Phrase => elements.Any(e => PhraseAt(condition.Words, item.WordsOf(e), 0) >= 0),
            WordMatch.AnyOf => condition.Words.Any(w => elements.Any(e => Find(w, item.WordsOf(e)))),
            WordMatch.AllOf => condition.Words.All(w => elements.Any(e => Find(w, item.WordsOf(e)))),
            _ => throw new ArgumentOutOfRangeException(nameof(condition)),
        };

        static bool Find(WordPattern pattern, List<Word> words)
        {
            for (var i = 0; i < words.Count; i++)
            {
                if (FitsAt(pattern, words, i))
                {
                    return true;
                }
            }

            return false;
        }
    }

    private static bool FitsAt(WordPattern pattern, List<Word> words, int at) =>
        (!pattern.AtStart || at == 0) && (!pattern.AtEnd || at == words.Count - 1) && pattern.Fits(words[at].Text);

    /// <summary>Where the phrase begins, from a place on; -1 when nowhere.</summary>
    private static int PhraseAt(IReadOnlyList<WordPattern> phrase, List<Word> words, int from)
    {
        for (var i = from; i + phrase.Count <= words.Count; i++)
        {
            var fits = true;
            for (var k = 0; fits && k < phrase.Count; k++)
            {
                fits = FitsAt(phrase[k], words, i + k);
            }

            if (fits)
            {
                return i;
            }
        }

        return -1;
    }

    /// <summary>In which elements a condition on words looks.</summary>
    private static IReadOnlyCollection<QueryIndex> Elements(Condition condition) =>
        condition switch
        {
            Condition.HasWords words => words.Index == QueryIndex.Text ? TextElements : [words.Index],
            Condition.Any any => [.. any.Of.SelectMany(Elements).Distinct()],
            Condition.Near near => [.. Elements(near.Left).Intersect(Elements(near.Right))],
            _ => [],
        };

    /// <summary>First and last word of each place that fits, by first word.</summary>
    private static List<(int From, int To)> Places(
        Condition condition,
        QueryItem item,
        QueryIndex element,
        bool atLeastOne
    )
    {
        if (!Elements(condition).Contains(element))
        {
            return [];
        }

        var words = item.WordsOf(element);
        return condition switch
        {
            Condition.HasWords { How: WordMatch.Phrase, Words: { Count: > 0 } phrase } => PlacesOfPhrase(phrase, words),
            Condition.HasWords { How: var how, Words: { Count: > 0 } wanted } => PlacesOfWords(
                wanted,
                words,
                all: how == WordMatch.AllOf
            ),
            Condition.Any any =>
            [
                .. any.Of.SelectMany(c => Places(c, item, element, atLeastOne: false)).Distinct().Order(),
            ],
            Condition.Near near => Proximity.Pairs(
                near,
                Places(near.Left, item, element, false),
                Places(near.Right, item, element, false),
                Proximity.Scale(near.Unit, words, item.Text(element) ?? ""),
                atLeastOne
            ),
            _ => [],
        };
    }

    private static List<(int From, int To)> PlacesOfPhrase(IReadOnlyList<WordPattern> phrase, List<Word> words)
    {
        List<(int, int)> places = [];
        for (var at = PhraseAt(phrase, words, 0); at >= 0; at = PhraseAt(phrase, words, at + 1))
        {
            places.Add((at, at + phrase.Count - 1));
        }

        return places;
    }

    /// <param name="all">There are no places unless each of the words has one.</param>
    private static List<(int From, int To)> PlacesOfWords(IReadOnlyList<WordPattern> wanted, List<Word> words, bool all)
    {
        List<(int, int)> places = [];
        var seen = new bool[wanted.Count];
        for (var i = 0; i < words.Count; i++)
        {
            var fits = false;
            for (var k = 0; k < wanted.Count; k++)
            {
                if (FitsAt(wanted[k], words, i))
                {
                    fits = seen[k] = true;
                }
            }

            if (fits)
            {
                places.Add((i, i));
            }
        }

        return all && seen.Contains(false) ? [] : places;
    }
}
