using System.Globalization;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Time;

namespace WideKeel.Store.Content;

/// <summary>
/// A query as one condition of SQL over <c>i</c> (item), with the same meaning as <see cref="QueryMatcher"/>. Words go
/// to the full-text index; names of small tables are compared here and become lists of ids; what neither can say
/// exactly is found by the index as far as it goes and then decided by the matcher itself, called from within SQL.
/// </summary>
public sealed class QuerySql
{
    private readonly SqliteConnection connection;
    private readonly List<(string Name, object Value)> parameters = [];
    private readonly List<Condition> decided = [];
    private readonly Dictionary<Condition, string?> inWords = new(ReferenceEqualityComparer.Instance);
    private readonly Dictionary<WordPattern, string> written = [];

    /// <summary>Words of the index that one mask or stem may stand for.</summary>
    private const int MostWords = 5_000;

    /// <summary>
    /// Parts joined side by side before they are put into groups: SQLite bounds how deep an expression may be, and a
    /// chain is as deep as it is long.
    /// </summary>
    private const int MostSideBySide = 100;

    /// <summary>Levels of an expression that the full-text index is given; its parser bounds them.</summary>
    private const int MostLevelsInIndex = 20;

    /// <summary>
    /// Stands in <see cref="Where"/> wherever the full-text index is read, and says nothing there. Whoever goes through
    /// items in portions puts bounds of <c>rowid</c> in its place, beginning with AND: the index is then not read from
    /// end to end for each portion.
    /// </summary>
    public const string Rowids = "/* rowids */";

    private QuerySql(SqliteConnection connection, CompiledQuery query)
    {
        this.connection = connection;
        Query = query;
        Match =
            query.Condition is not Condition.Everything && Words(query.Condition) is { Length: > 0 } match
                ? Parameter(match)
                : null;
        Where = Match is null ? Sql(query.Condition) : Among(Match);
        Relevance = RelevanceOf(query.Condition);
    }

    public CompiledQuery Query { get; }

    /// <summary>The condition; its parameters and functions are bound by <see cref="Bind"/>.</summary>
    public string Where { get; }

    /// <summary>
    /// A full-text query that says all that <see cref="Where"/> does, as a parameter; null where the index alone cannot
    /// say it.
    /// </summary>
    public string? Match { get; }

    /// <summary>
    /// A full-text query for all the words that are looked for, to rank by; null where there is none. Bound as
    /// <c>$relevance</c>.
    /// </summary>
    public string? Relevance { get; }

    /// <summary>
    /// Translates; reads the small tables whose names the query speaks of. Refused where a mask stands for too many
    /// words.
    /// </summary>
    public static Outcome<QuerySql> Translate(SqliteConnection connection, CompiledQuery query)
    {
        try
        {
            return new QuerySql(connection, query);
        }
        catch (TooWideException e)
        {
            return new Refusal("query-mask-too-wide", "query", e.Message);
        }
    }

    public void Bind(SqliteCommand command)
    {
        foreach (var (name, value) in parameters)
        {
            command.Parameters.AddWithValue(name, value);
        }

        if (Relevance is not null)
        {
            command.Parameters.AddWithValue("$relevance", Relevance);
        }

        if (decided.Count == 0)
        {
            return;
        }

        var on = command.Connection!;
        on.CreateFunction(
            "wk_words",
            (int at, string? title, string? body, string? author, string? owner) =>
                QueryMatcher.Matches(
                    decided[at],
                    new()
                    {
                        Title = title,
                        Body = body,
                        Author = author,
                        Owner = owner,
                    }
                )
        );
        on.CreateFunction("wk_value", (int at, string? value) => value is not null && Fits(at, value));
        on.CreateFunction(
            "wk_field",
            (int at, string name, string value) =>
                QueryMatcher.Matches(decided[at], new() { Fields = new Dictionary<string, string> { [name] = value } })
        );
        on.CreateFunction("wk_day", (int at, int day) => Fits(at, LocalDatePattern.Iso.Format(DayNumber.ToDate(day))));

        bool Fits(int at, string value) =>
            decided[at] switch
            {
                Condition.Is exact => QueryValues.Fits(exact, value),
                Condition.NameIn range => QueryValues.Fits(range, value),
                _ => throw new InvalidOperationException("Only names are decided by their value."),
            };
    }

    private string Sql(Condition condition) =>
        condition switch
        {
            Condition.Everything => "1",
            Condition.Any { Of.Count: 0 } => "0",
            _ when Words(condition) is { } match => InIndex(match),
            Condition.All all => Group(all.Of, " AND ", parts => new Condition.All(parts)),
            Condition.Any any => Group(any.Of, " OR ", parts => new Condition.Any(parts)),
            Condition.Not not => $"NOT ({Sql(not.Of)})",
            Condition.HasWords or Condition.Near => Decided(condition),
            Condition.Is exact => Named(exact, exact.Index, v => QueryValues.Fits(exact, v)),
            Condition.NameIn range => Named(range, range.Index, v => QueryValues.Fits(range, v)),
            Condition.Has has => Named(has, has.Index, _ => true),
            Condition.DateIn dates => Dates(dates),
            Condition.NumberIn numbers => Numbers(numbers),
            _ => throw new ArgumentOutOfRangeException(nameof(condition)),
        };

    /// <summary>
    /// Takes what the index can answer of a list together, so that it is asked once, and puts it first.
    /// </summary>
    private string Group(IReadOnlyList<Condition> of, string joint, Func<IReadOnlyList<Condition>, Condition> make)
    {
        var indexed = of.Where(c => Words(c) is not null).ToList();
        var together = indexed.Count > 1 && indexed.Count < of.Count && Words(make(indexed)) is not null;
        List<string> parts = together ? [Sql(make(indexed))] : [];
        parts.AddRange(of.Where(c => !together || !indexed.Contains(c)).Select(Sql));
        return Grouped(parts, joint);
    }

    private static string Grouped(List<string> parts, string joint) =>
        parts.Count <= MostSideBySide
            ? $"({string.Join(joint, parts)})"
            : Grouped([.. parts.Chunk(MostSideBySide).Select(c => Grouped([.. c], joint))], joint);

    private string InIndex(string match) => match.Length == 0 ? "0" : Among(Parameter(match));

    private static string Among(string parameter) =>
        $"i.Id IN (SELECT rowid FROM item_fts WHERE item_fts MATCH {parameter} {Rowids})";

    /// <summary>
    /// A full-text query that means exactly this; empty where nothing can fit; null where the index cannot say it.
    /// </summary>
    private string? Words(Condition condition)
    {
        if (!inWords.TryGetValue(condition, out var match))
        {
            inWords[condition] = match = condition.Levels > MostLevelsInIndex ? null : WordsOf(condition);
        }

        return match;
    }

    private string? WordsOf(Condition condition)
    {
        switch (condition)
        {
            case Condition.HasWords { Words.Count: 0 }:
                return "";
            case Condition.HasWords words when words.Words.Any(w => w.Anchored || w.IsAnyWord):
                return null;
            case Condition.HasWords { How: WordMatch.Phrase, Words.Count: > 1 } phrase:
                return WordsOfPhrase(phrase);
            case Condition.HasWords words:
                var each = words
                    .Words.Select(w => Word(w) is { Length: > 0 } any ? $"{Columns(words.Index)} : ({any})" : "")
                    .ToList();
                return words.How == WordMatch.AnyOf ? Joined(each.Where(e => e.Length > 0).ToList(), " OR ")
                    : each.Contains("") ? ""
                    : Joined(each, " AND ");
            case Condition.Any any:
                var ways = any.Of.Select(Words).ToList();
                return ways.Contains(null) ? null : Joined(ways.Where(w => w!.Length > 0).ToList()!, " OR ");
            case Condition.All all:
                return WordsOfAll(all);
            default:
                return null;
        }
    }

    private string? WordsOfPhrase(Condition.HasWords phrase)
    {
        var last = phrase.Words[^1];
        if (
            phrase.Words.SkipLast(1).Any(w => w.HasMask || w.Stemmed)
            || last.Stemmed
            || (last.HasMask && !last.IsPrefix)
        )
        {
            return null;
        }

        var words = string.Join(' ', phrase.Words.Select(w => w.IsPrefix ? w.Beginning : w.Text));
        return $"{Columns(phrase.Index)} : \"{words}\"{(last.IsPrefix ? " *" : "")}";
    }

    private string? WordsOfAll(Condition.All all)
    {
        var wanted = all.Of.Where(c => c is not Condition.Not).Select(Words).ToList();
        var unwanted = all.Of.OfType<Condition.Not>().Select(n => Words(n.Of)).ToList();
        if (wanted.Count == 0 || wanted.Contains(null) || unwanted.Contains(null))
        {
            return null;
        }

        if (wanted.Contains(""))
        {
            return "";
        }

        unwanted.RemoveAll(u => u!.Length == 0);
        return unwanted.Count == 0
            ? Joined(wanted!, " AND ")
            : $"({Joined(wanted!, " AND ")}) NOT ({Joined(unwanted!, " OR ")})";
    }

    private static string Joined(List<string> parts, string joint) =>
        parts.Count == 1 ? parts[0] : string.Join(joint, parts.Select(p => $"({p})"));

    private static string Columns(QueryIndex index) => index == QueryIndex.Text ? "{title text}" : $"{{{index.Name}}}";

    /// <summary>
    /// One word in the index' own language; masks and stems become all the words of the index that fit.
    /// </summary>
    private string Word(WordPattern pattern)
    {
        if (pattern is { HasMask: false, Stemmed: false })
        {
            return $"\"{pattern.Text}\"";
        }

        if (pattern.IsPrefix)
        {
            return $"\"{pattern.Beginning}\" *";
        }

        if (!written.TryGetValue(pattern, out var words))
        {
            written[pattern] = words = Expanded(pattern);
        }

        return words;
    }

    private string Expanded(WordPattern pattern)
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            pattern.Beginning.Length == 0
                ? "SELECT term FROM item_words"
                : "SELECT term FROM item_words WHERE term >= $from AND term < $to";
        command.Parameters.AddWithValue("$from", pattern.Beginning);
        command.Parameters.AddWithValue("$to", pattern.Beginning + "\U0010FFFF");
        using var reader = command.ExecuteReader();
        List<string> words = [];
        while (reader.Read())
        {
            if (reader.GetString(0) is var word && pattern.Fits(word))
            {
                words.Add($"\"{word}\"");
                if (words.Count > MostWords)
                {
                    throw new TooWideException(
                        string.Create(
                            CultureInfo.InvariantCulture,
                            $"“{pattern.Shown}” stands for more than {MostWords:N0} words; write more of the word."
                        )
                    );
                }
            }
        }

        return string.Join(" OR ", words);
    }

    /// <summary>Found by the index as far as it can tell, then decided by the matcher.</summary>
    private string Decided(Condition condition)
    {
        decided.Add(condition);
        var at = (decided.Count - 1).ToString(CultureInfo.InvariantCulture);
        var candidates = Candidates(condition);
        if (candidates is { Length: 0 })
        {
            return "0";
        }

        const string body = "(SELECT x.Text FROM item_text x WHERE x.ItemId = i.Id)";
        // The body is read only where it matters: not for the other indexes, and not where the title suffices.
        var decides = condition switch
        {
            Condition.HasWords words when words.Index != QueryIndex.Text =>
                $"wk_words({at}, i.Title, NULL, i.Author, i.Owner)",
            Condition.HasWords { How: var how, Words.Count: var count } when how != WordMatch.AllOf || count == 1 =>
                $"(wk_words({at}, i.Title, NULL, NULL, NULL) OR wk_words({at}, NULL, {body}, NULL, NULL))",
            _ => $"wk_words({at}, i.Title, {body}, i.Author, i.Owner)",
        };
        return candidates is null ? decides : $"({InIndex(candidates)} AND {decides})";
    }

    /// <summary>A full-text query that finds all that could fit, and more; null where that is everything.</summary>
    private string? Candidates(Condition condition)
    {
        switch (condition)
        {
            case Condition.HasWords words:
                var known = words
                    .Words.Where(w => !w.IsAnyWord)
                    .Select(w => w with { AtStart = false, AtEnd = false })
                    .ToList();
                return words.How == WordMatch.AnyOf
                    ? known.Count < words.Words.Count
                        ? null
                        : Words(words with { Words = known })
                    : known.Count == 0 && words.Words.Count > 0
                        ? null
                        : Words(words with { How = WordMatch.AllOf, Words = known });
            case Condition.Any any:
                var ways = any.Of.Select(Candidates).ToList();
                return ways.Contains(null) ? null : Joined([.. ways.OfType<string>().Where(c => c.Length > 0)], " OR ");
            case Condition.Near near:
                string?[] both = [Candidates(near.Left), Candidates(near.Right)];
                return both.Contains("") ? ""
                    : both.All(c => c is null) ? null
                    : Joined([.. both.OfType<string>()], " AND ");
            default:
                throw new ArgumentOutOfRangeException(nameof(condition));
        }
    }

    private string Named(Condition condition, QueryIndex index, Func<string, bool> fits)
    {
        if (
            index.Kind is IndexKind.Dates or IndexKind.Sizes
            || (index == QueryIndex.Text && condition is Condition.Has)
        )
        {
            return "1";
        }

        if (index == QueryIndex.Text)
        {
            var at = Decide(condition);
            return $"(wk_value({at}, i.Title) OR wk_value({at}, (SELECT x.Text FROM item_text x WHERE x.ItemId = i.Id)))";
        }

        if (index == QueryIndex.Sensitive)
        {
            return $"EXISTS (SELECT 1 FROM item_sensitive f WHERE f.ItemId = i.Id AND f.Kind IN "
                + $"({Texts("SELECT DISTINCT Kind, Kind FROM item_sensitive", fits)}))";
        }

        return ItemColumn.Of(index) is { } column ? InColumn(condition, column, fits) : InField(condition);
    }

    private string InColumn(Condition condition, ItemColumn column, Func<string, bool> fits) =>
        column switch
        {
            { Names: { } names } => $"({column.Sql} IS NOT NULL AND {column.Sql} IN ({Ids(names, fits)}))",
            { Values: { } values } => $"{column.Sql} IN (SELECT value FROM "
                + $"json_each({Parameter(JsonSerializer.Serialize(values.Where(v => fits(v.Name)).Select(v => v.Stored)))}))",
            _ when condition is Condition.Has => $"{column.Sql} IS NOT NULL",
            _ => $"({column.Sql} IS NOT NULL AND wk_value({Decide(condition)}, {column.Sql}))",
        };

    private string InField(Condition condition)
    {
        if (condition is Condition.Has { Field: var present })
        {
            var wanted = Parameter(present!);
            return $"(EXISTS (SELECT 1 FROM item_date d WHERE d.ItemId = i.Id AND d.Name = {wanted}) OR EXISTS (SELECT "
                + $"1 FROM item_field f WHERE f.ItemId = i.Id AND f.Name = {wanted}))";
        }

        var field = condition is Condition.Is exact ? exact.Field : ((Condition.NameIn)condition).Field;
        var (name, value) = (Parameter(field!), Decide(condition));
        return $"(EXISTS (SELECT 1 FROM item_date d WHERE d.ItemId = i.Id AND d.Name = {name} AND wk_day({value}, "
            + $"d.Date)) OR {OtherField(name, value)})";
    }

    private string Dates(Condition.DateIn condition) =>
        ItemColumn.Of(condition.Index) is { } column
            ? Between(column.Sql, condition)
            : DateField(condition, Parameter(condition.Field!));

    /// <summary>A date stands in a column of its own; a moment, of which only the date counts, is a text.</summary>
    private string DateField(Condition.DateIn condition, string name) =>
        $"(EXISTS (SELECT 1 FROM item_date d WHERE d.ItemId = i.Id AND d.Name = {name} AND "
        + $"{Between("d.Date", condition)}) OR {OtherField(name, Decide(condition))})";

    private static string OtherField(string name, int at) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"EXISTS (SELECT 1 FROM item_field f WHERE f.ItemId = i.Id AND f.Name = {name} AND wk_field({at}, f.Name, f.Value))"
        );

    private static string Between(string column, Condition.DateIn condition)
    {
        var from = condition.From is { } first ? Day(first) : null;
        var to = condition.To is { } last ? Day(last) : null;
        return (from, to) switch
        {
            (null, null) => $"{column} IS NOT NULL",
            (null, _) => $"{column} <= {to}",
            (_, null) => $"{column} >= {from}",
            _ => $"{column} BETWEEN {from} AND {to}",
        };

        static string Day(LocalDate date) => date.ToDayNumber().ToString(CultureInfo.InvariantCulture);
    }

    private string Numbers(Condition.NumberIn condition)
    {
        if (ItemColumn.Of(condition.Index) is not { } column)
        {
            return OtherField(Parameter(condition.Field!), Decide(condition));
        }

        List<string> parts = [];
        if (condition.From is { } from)
        {
            parts.Add($"{column.Sql} {(condition.FromIncluded ? ">=" : ">")} {Number(from)}");
        }

        if (condition.To is { } to)
        {
            parts.Add($"{column.Sql} {(condition.ToIncluded ? "<=" : "<")} {Number(to)}");
        }

        return $"({string.Join(" AND ", parts)})";

        // A fraction of a byte is written as a real number; what is beyond all sizes is cut to the largest.
        static string Number(decimal number) =>
            number > long.MaxValue
                ? long.MaxValue.ToString(CultureInfo.InvariantCulture)
                : number.ToString("0.###", CultureInfo.InvariantCulture);
    }

    private string Ids(string select, Func<string, bool> fits) =>
        string.Join(',', Rows(select, fits).Select(r => Convert.ToString(r, CultureInfo.InvariantCulture)));

    private string Texts(string select, Func<string, bool> fits) =>
        string.Join(',', Rows(select, fits).Select(r => Parameter(r)));

    private List<object> Rows(string select, Func<string, bool> fits)
    {
        using var command = connection.CreateCommand();
        command.CommandText = select;
        using var reader = command.ExecuteReader();
        List<object> keys = [];
        while (reader.Read())
        {
            if (fits(reader.GetString(1)))
            {
                keys.Add(reader.GetValue(0));
            }
        }

        return keys;
    }

    private int Decide(Condition condition)
    {
        decided.Add(condition);
        return decided.Count - 1;
    }

    private string Parameter(object value)
    {
        var name = string.Create(CultureInfo.InvariantCulture, $"$q{parameters.Count}");
        parameters.Add((name, value));
        return name;
    }

    private string? RelevanceOf(Condition condition)
    {
        var words = condition
            .Wanted()
            .Where(c => c is Condition.HasWords or Condition.Near)
            .Select(Candidates)
            .OfType<string>()
            .Where(c => c.Length > 0)
            .ToList();
        return words.Count == 0 ? null : Joined(words, " OR ");
    }

    /// <summary>Leaves the translation; never leaves <see cref="Translate"/>.</summary>
    private sealed class TooWideException(string message) : Exception(message);
}
