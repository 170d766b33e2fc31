using System.Globalization;
using System.Text.RegularExpressions;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Query;

/// <summary>
/// Gives every index, relation and term of a parsed query its meaning for items, or says at which place it has none.
/// </summary>
public sealed partial class QueryCompiler
{
    /// <summary>
    /// Levels of and, or, not and prox within one another, after those of one kind are taken together.
    /// </summary>
    public const int MostLevels = 250;

    /// <summary>How many <c>prox</c> may lie within one another.</summary>
    public const int MostProximities = 5;

    private const string DublinCore = "dc";
    private const string Standard = "cql";

    /// <summary>Indexes of Dublin Core that have one meaning here.</summary>
    private static readonly Dictionary<string, string> FromDublinCore = new(StringComparer.OrdinalIgnoreCase)
    {
        ["title"] = "title",
        ["creator"] = "author",
        ["date"] = "docdate",
        ["source"] = "source",
    };

    private readonly LocalDate today;
    private readonly QueryVocabulary vocabulary;
    private bool byRelevance;

    private QueryCompiler(LocalDate today, QueryVocabulary vocabulary) =>
        (this.today, this.vocabulary) = (today, vocabulary);

    /// <param name="today">What <c>today</c> in a term means.</param>
    /// <param name="vocabulary">What can be asked of; items where it is left out.</param>
    public static Outcome<CompiledQuery> Compile(CqlQuery query, LocalDate today, QueryVocabulary? vocabulary = null)
    {
        try
        {
            var compiler = new QueryCompiler(today, vocabulary ?? QueryVocabulary.Items);
            var condition = compiler.Node(query.Root, []);
            if (condition.Levels > MostLevels)
            {
                return new Refusal(
                    "query-too-deep",
                    "query",
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"In this query and, or and not lie {MostLevels} times within one another; that is the limit for their nesting."
                    )
                );
            }

            return new CompiledQuery(condition, [.. query.SortBy.Select(compiler.Sort)], compiler.byRelevance);
        }
        catch (CqlMistake mistake)
        {
            return mistake.Refusal;
        }
    }

    /// <summary>Parses and compiles.</summary>
    public static Outcome<CompiledQuery> Compile(string? text, LocalDate today, QueryVocabulary? vocabulary = null) =>
        CqlParser.Parse(text) is var parsed && parsed.Refusal is { } refusal
            ? refusal
            : Compile(parsed.Value, today, vocabulary);

    private Condition Node(CqlNode node, IReadOnlyList<CqlPrefix> scope)
    {
        var (first, chain) = node.Unchain();

        // A prefix of any node of the chain scopes all that lies left of it, and what is right of it up to its own
        // operator.
        var outer = scope;
        var scopes = new IReadOnlyList<CqlPrefix>[chain.Count];
        for (var i = chain.Count - 1; i >= 0; i--)
        {
            outer = chain[i].Prefixes.Count == 0 ? outer : [.. outer, .. chain[i].Prefixes];
            scopes[i] = outer;
        }

        var condition = first is CqlClause clause
            ? Clause(clause, clause.Prefixes.Count == 0 ? outer : [.. outer, .. clause.Prefixes])
            : Node(first, outer);
        for (var i = 0; i < chain.Count; i++)
        {
            condition = Join(condition, chain[i], Node(chain[i].Right, scopes[i]));
        }

        return condition;
    }

    private static Condition Join(Condition left, CqlBoolean at, Condition right)
    {
        if (at.Operator != CqlOperator.Prox && at.Modifiers is [var modifier, ..])
        {
            throw CqlMistake.At(
                modifier.Span,
                $"no modifier; {CqlForms.Word(at.Operator)} takes none here",
                $"there is /{modifier.Name}"
            );
        }

        return at.Operator switch
        {
            CqlOperator.And => new Condition.All([
                .. Parts<Condition.All>(left, c => c.Of),
                .. Parts<Condition.All>(right, c => c.Of),
            ]),
            CqlOperator.Or => new Condition.Any([
                .. Parts<Condition.Any>(left, c => c.Of),
                .. Parts<Condition.Any>(right, c => c.Of),
            ]),
            CqlOperator.Not => new Condition.All([.. Parts<Condition.All>(left, c => c.Of), new Condition.Not(right)]),
            CqlOperator.Prox => Proximity(left, at, right),
            _ => throw new ArgumentOutOfRangeException(nameof(at)),
        };

        static IReadOnlyList<Condition> Parts<T>(Condition condition, Func<T, IReadOnlyList<Condition>> of)
            where T : Condition => condition is T same ? of(same) : [condition];
    }

    private static void CheckDepth(Condition left, CqlBoolean at, Condition right)
    {
        if (1 + Math.Max(Depth(left), Depth(right)) is var depth and > MostProximities)
        {
            throw CqlMistake.At(
                at.Right.Span,
                $"at most {MostProximities} prox within one another",
                $"this is the {depth}th"
            );
        }
    }

    /// <summary>How many <c>prox</c> lie within one another: each multiplies the places that the next must compare.</summary>
    private static int Depth(Condition condition) =>
        condition switch
        {
            Condition.Near near => 1 + Math.Max(Depth(near.Left), Depth(near.Right)),
            Condition.Any any => any.Of.Max(Depth),
            _ => 0,
        };

    private static Condition.Near Proximity(Condition left, CqlBoolean at, Condition right)
    {
        if (!HasPlaces(left) || !HasPlaces(right))
        {
            var side = HasPlaces(left) ? at.Right : at.Left;
            throw CqlMistake.At(
                side.Span,
                "words of text, title, author or owner beside prox, perhaps joined by or",
                "this has no place in a text"
            );
        }

        CheckDepth(left, at, right);
        var (unit, ordered, comparison, distance) = (ProximityUnit.Word, false, "<=", (int?)null);
        foreach (var m in at.Modifiers)
        {
            switch (m.Name.ToLowerInvariant())
            {
                case "unit"
                    when m.Comparison == "="
                        && Enum.TryParse<ProximityUnit>(m.Value, ignoreCase: true, out var named)
                        && char.IsLetter(m.Value![0]):
                    unit = named;
                    break;
                case "distance"
                    when m.Comparison is not null
                        && int.TryParse(m.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var number):
                    (comparison, distance) = (m.Comparison, number);
                    break;
                case "ordered" when m.Comparison is null:
                    ordered = true;
                    break;
                case "unordered" when m.Comparison is null:
                    ordered = false;
                    break;
                default:
                    throw CqlMistake.At(
                        m.Span,
                        "distance with a whole number, unit=word, unit=sentence, unit=paragraph, unit=element, ordered or unordered",
                        $"there is /{m.Name}{m.Comparison}{m.Value}"
                    );
            }
        }

        // The standard's default: 1 for words, 0 for every other unit.
        return new(left, right, Distances(comparison, distance ?? (unit == ProximityUnit.Word ? 1 : 0)), unit, ordered);
    }

    private static IReadOnlyList<(int, int)> Distances(string comparison, int n) =>
        comparison switch
        {
            "<=" => [(0, n)],
            "<" => [(0, n - 1)],
            ">=" => [(n, int.MaxValue)],
            ">" => n == int.MaxValue ? [] : [(n + 1, int.MaxValue)],
            "<>" => n == int.MaxValue ? [(0, n - 1)] : [(0, n - 1), (n + 1, int.MaxValue)],
            _ => [(n, n)],
        };

    private static bool HasPlaces(Condition condition) =>
        condition switch
        {
            Condition.HasWords or Condition.Near => true,
            Condition.Any any => any.Of.All(HasPlaces),
            _ => false,
        };

    // Long because each kind of index is one arm.
    private Condition Clause(CqlClause clause, IReadOnlyList<CqlPrefix> scope)
    {
        var (index, field, all) = Index(clause.Index, clause.IndexSpan, scope);
        var relation = clause.Relation.Value.ToLowerInvariant();
        relation = relation.StartsWith("cql.", StringComparison.Ordinal) ? relation[4..] : relation;
        if (
            relation
            is not ("=" or "==" or "<>" or "<" or "<=" or ">" or ">=" or "any" or "all" or "within" or "adj" or "scr")
        )
        {
            throw CqlMistake.At(
                clause.Relation.Span,
                "a relation (=, ==, <>, <, <=, >, >=, any, all, within, adj)",
                $"there is “{clause.Relation.Value}”"
            );
        }

        relation = relation == "scr" ? "=" : relation;
        var stemmed = Stemmed(clause, index);
        if (all)
        {
            return relation == "=" && clause.Term == "1"
                ? new Condition.Everything()
                : throw CqlMistake.At(clause.Span, "cql.allRecords = 1", "it says something else");
        }

        if (relation == "adj" && index.Kind != IndexKind.Words)
        {
            throw CqlMistake.At(
                clause.Relation.Span,
                "=, ==, <>, <, <=, >, >=, any, all or within",
                "there is adj, which is for words"
            );
        }

        return index.Kind switch
        {
            IndexKind.Words => OfWords(clause, index, relation, stemmed),
            IndexKind.Dates => OfDates(clause, index, null, relation),
            IndexKind.Sizes => OfSizes(clause, index, relation),
            IndexKind.Instants => OfInstants(clause, index, relation),
            IndexKind.Addresses => OfAddresses(clause, index, relation),
            IndexKind.Any when field == "docdate" => OfDates(clause, index, field, relation),
            IndexKind.Any => OfField(clause, index, field, relation),
            IndexKind.Names => OfNames(clause, index, relation),
            _ => throw new ArgumentOutOfRangeException(nameof(clause)),
        };
    }

    private bool Stemmed(CqlClause clause, QueryIndex index)
    {
        var stemmed = false;
        foreach (var m in clause.Relation.Modifiers)
        {
            var name = m.Name.ToLowerInvariant();
            name =
                name.StartsWith("cql.", StringComparison.Ordinal) || name.StartsWith("rel.", StringComparison.Ordinal)
                    ? name[4..]
                    : name;
            switch (name)
            {
                case "stem" when m.Comparison is null && index.Kind == IndexKind.Words:
                    stemmed = true;
                    break;
                case "relevant" when m.Comparison is null:
                    byRelevance = true;
                    break;
                default:
                    throw CqlMistake.At(
                        m.Span,
                        "the modifier /relevant, or on text, title, author and owner /stem",
                        $"there is /{m.Name}"
                    );
            }
        }

        return stemmed;
    }

    private static Condition OfWords(CqlClause clause, QueryIndex index, string relation, bool stemmed)
    {
        if (relation == "==")
        {
            return new Condition.Is(index, null, Mask.Read(clause.Term), IgnoreCase: false);
        }

        var words = WordPattern.Of(clause.Term, stemmed);
        // A name is written in either order; a sentence is not.
        var plain = index.IsSentence ? WordMatch.Phrase : WordMatch.AllOf;
        return relation switch
        {
            "=" => new Condition.HasWords(index, plain, words),
            "adj" => new Condition.HasWords(index, WordMatch.Phrase, words),
            "any" => new Condition.HasWords(index, WordMatch.AnyOf, words),
            "all" => new Condition.HasWords(index, WordMatch.AllOf, words),
            "<>" => new Condition.All([
                new Condition.Has(index, null),
                new Condition.Not(new Condition.HasWords(index, plain, words)),
            ]),
            _ => throw CqlMistake.At(
                clause.Relation.Span,
                $"=, ==, <>, any, all or adj; {index.Name} holds words, which have no order",
                $"there is {clause.Relation.Value}"
            ),
        };
    }

    private Condition OfDates(CqlClause clause, QueryIndex index, string? field, string relation)
    {
        switch (relation)
        {
            case "any":
                return new Condition.Any([.. Split(clause).Select(t => Equal(Date(t, clause)))]);
            case "all":
                return new Condition.All([.. Split(clause).Select(t => Equal(Date(t, clause)))]);
            case "within":
                var (from, to) = Two(clause, "two dates with a space between, the earlier first");
                return new Condition.DateIn(index, field, Date(from, clause).From, Date(to, clause).To);
        }

        if (Everything(clause.Term))
        {
            return relation is "=" or "==" ? new Condition.Has(index, field) : throw ADate(clause);
        }

        var date = Date(clause.Term, clause);
        return relation switch
        {
            "<" => date.From == LocalDate.MinIsoValue
                ? Never
                : new Condition.DateIn(index, field, null, date.From.PlusDays(-1)),
            "<=" => new Condition.DateIn(index, field, null, date.To),
            ">" => date.To == LocalDate.MaxIsoValue
                ? Never
                : new Condition.DateIn(index, field, date.To.PlusDays(1), null),
            ">=" => new Condition.DateIn(index, field, date.From, null),
            "<>" => new Condition.All([new Condition.Has(index, field), new Condition.Not(Equal(date))]),
            _ => Equal(date),
        };

        Condition.DateIn Equal((LocalDate From, LocalDate To) day) => new(index, field, day.From, day.To);
    }

    private Condition OfInstants(CqlClause clause, QueryIndex index, string relation)
    {
        switch (relation)
        {
            case "any":
                return new Condition.Any([.. Split(clause).Select(t => Equal(Moments(t, clause)))]);
            case "all":
                return new Condition.All([.. Split(clause).Select(t => Equal(Moments(t, clause)))]);
            case "within":
                var (from, to) = Two(clause, "two moments or dates with a space between, the earlier first");
                return new Condition.InstantIn(index, Moments(from, clause).From, Moments(to, clause).Before);
        }

        if (Everything(clause.Term) && relation is "=" or "==")
        {
            return new Condition.Has(index, null);
        }

        var asked = Moments(clause.Term, clause);
        return relation switch
        {
            "<" => new Condition.InstantIn(index, null, asked.From),
            "<=" => new Condition.InstantIn(index, null, asked.Before),
            ">" => new Condition.InstantIn(index, asked.Before, null),
            ">=" => new Condition.InstantIn(index, asked.From, null),
            "<>" => new Condition.All([new Condition.Has(index, null), new Condition.Not(Equal(asked))]),
            _ => Equal(asked),
        };

        Condition.InstantIn Equal((Instant From, Instant Before) moments) => new(index, moments.From, moments.Before);
    }

    /// <summary>
    /// A moment to the millisecond, or all moments of a day, a month or a year of UTC; the end is not included.
    /// </summary>
    private (Instant From, Instant Before) Moments(string term, CqlClause clause)
    {
        if (InstantPattern.ExtendedIso.Parse(term.ToUpperInvariant()) is { Success: true, Value: var moment })
        {
            return (moment, moment + Duration.FromMilliseconds(1));
        }

        return DateOf(term) is { } days && days.To < LocalDate.MaxIsoValue
            ? (Start(days.From), Start(days.To.PlusDays(1)))
            : throw CqlMistake.At(
                clause.TermSpan,
                "a moment in UTC (2026-06-01T08:04:59Z) or a date (2026-06-01, 2026-06, 2026, today-P7D)",
                $"there is “{clause.Term}”"
            );

        static Instant Start(LocalDate day) => day.AtStartOfDayInZone(DateTimeZone.Utc).ToInstant();
    }

    private static Condition OfAddresses(CqlClause clause, QueryIndex index, string relation)
    {
        return relation switch
        {
            "=" or "==" => One(clause.Term),
            "<>" => new Condition.All([new Condition.Has(index, null), new Condition.Not(One(clause.Term))]),
            "any" => new Condition.Any([.. Split(clause).Select(One)]),
            "all" => new Condition.All([.. Split(clause).Select(One)]),
            "within" => One(clause.Term),
            _ => throw CqlMistake.At(
                clause.Relation.Span,
                "=, ==, <>, any, all or within; addresses have no order",
                $"there is {clause.Relation.Value}"
            ),
        };

        Condition One(string term) =>
            term.Contains('/', StringComparison.Ordinal)
                ? Cidr.Read(term) is { } network
                    ? new Condition.AddressIn(index, network)
                    : throw CqlMistake.At(clause.TermSpan, "a network such as 192.0.2.0/24", $"there is “{term}”")
                : new Condition.Is(index, null, Mask.Read(term), IgnoreCase: true);
    }

    private static Condition OfSizes(CqlClause clause, QueryIndex index, string relation)
    {
        switch (relation)
        {
            case "any":
                return new Condition.Any([.. Split(clause).Select(t => Equal(Size(t, clause)))]);
            case "all":
                return new Condition.All([.. Split(clause).Select(t => Equal(Size(t, clause)))]);
            case "within":
                var (from, to) = Two(clause, "two sizes with a space between, the smaller first");
                return new Condition.NumberIn(index, null, Size(from, clause), true, Size(to, clause), true);
        }

        if (Everything(clause.Term) && relation is "=" or "==")
        {
            return new Condition.Has(index, null);
        }

        var size = Size(clause.Term, clause);
        return relation switch
        {
            "<>" => new Condition.All([new Condition.Has(index, null), new Condition.Not(Equal(size))]),
            "=" or "==" => Equal(size),
            _ => Ordered(index, null, relation, size),
        };

        Condition.NumberIn Equal(decimal size) => new(index, null, size, true, size, true);
    }

    /// <summary>What compares values as a whole, whatever they are; null for a relation of order.</summary>
    private static Condition? Whole(CqlClause clause, QueryIndex index, string? field, string relation)
    {
        return relation switch
        {
            "=" => Is(clause.Term, ignoreCase: true),
            "==" => Is(clause.Term, ignoreCase: false),
            "<>" => new Condition.All([
                new Condition.Has(index, field),
                new Condition.Not(Is(clause.Term, ignoreCase: true)),
            ]),
            "any" => new Condition.Any([.. Split(clause).Select(t => Is(t, ignoreCase: true))]),
            "all" => new Condition.All([.. Split(clause).Select(t => Is(t, ignoreCase: true))]),
            _ => null,
        };

        Condition.Is Is(string term, bool ignoreCase) => new(index, field, Mask.Read(term), ignoreCase);
    }

    private static Condition OfNames(CqlClause clause, QueryIndex index, string relation)
    {
        if (Whole(clause, index, null, relation) is { } whole)
        {
            return whole;
        }

        if (relation != "within")
        {
            return Alphabetical(index, null, relation, clause.Term);
        }

        var (from, to) = Two(clause, "two values with a space between, the first in the alphabet first");
        return new Condition.NameIn(index, null, from, true, to, true);
    }

    /// <summary>
    /// What a field holds is known only by its values: a date is compared with dates, a number with numbers, other
    /// terms by the alphabet.
    /// </summary>
    private Condition OfField(CqlClause clause, QueryIndex index, string? field, string relation)
    {
        if (Whole(clause, index, field, relation) is { } whole)
        {
            return whole;
        }

        List<Condition> ways = [];
        if (relation == "within")
        {
            var (from, to) = Two(clause, "two dates or two numbers with a space between");
            if (DateOf(from) is { } first && DateOf(to) is { } last)
            {
                ways.Add(new Condition.DateIn(index, field, first.From, last.To));
            }

            if (NumberOf(from) is { } low && NumberOf(to) is { } high)
            {
                ways.Add(new Condition.NumberIn(index, field, low, true, high, true));
            }

            return OneOf(ways, new Condition.NameIn(index, field, from, true, to, true));
        }

        if (DateOf(clause.Term) is not null)
        {
            ways.Add(OfDates(clause, index, field, relation));
        }

        if (NumberOf(clause.Term) is { } number)
        {
            ways.Add(Ordered(index, field, relation, number));
        }

        return OneOf(ways, Alphabetical(index, field, relation, clause.Term));
    }

    private static Condition OneOf(List<Condition> ways, Condition otherwise) =>
        ways switch
        {
            [] => otherwise,
            [var only] => only,
            _ => new Condition.Any(ways),
        };

    private static Condition.NameIn Alphabetical(QueryIndex index, string? field, string relation, string term)
    {
        var name = Mask.Literal(term);
        return relation switch
        {
            "<" => new(index, field, null, false, name, false),
            "<=" => new(index, field, null, false, name, true),
            ">" => new(index, field, name, false, null, false),
            _ => new(index, field, name, true, null, false),
        };
    }

    private static Condition.NumberIn Ordered(QueryIndex index, string? field, string relation, decimal number) =>
        relation switch
        {
            "<" => new(index, field, null, false, number, false),
            "<=" => new(index, field, null, false, number, true),
            ">" => new(index, field, number, false, null, false),
            _ => new(index, field, number, true, null, false),
        };

    private static Condition Never { get; } = new Condition.Any([]);

    private static bool Everything(string term) => term == "*";

    private static string[] Split(CqlClause clause) =>
        clause.Term.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);

    private static (string From, string To) Two(CqlClause clause, string expected) =>
        Split(clause) is [var from, var to]
            ? (from, to)
            : throw CqlMistake.At(clause.TermSpan, expected, $"there is “{clause.Term}”");

    private (LocalDate From, LocalDate To) Date(string term, CqlClause clause) => DateOf(term) ?? throw ADate(clause);

    private static CqlMistake ADate(CqlClause clause) =>
        CqlMistake.At(
            clause.TermSpan,
            "a date (2026-03-14, a month 2026-03, a year 2026, today or today-P30D)",
            $"there is “{clause.Term}”"
        );

    /// <summary>
    /// A day, a month or a year of ISO 8601, as the days it covers; <c>today</c> with a period before or after it.
    /// </summary>
    private (LocalDate From, LocalDate To)? DateOf(string term)
    {
        if (LocalDatePattern.Iso.Parse(term) is { Success: true, Value: var day })
        {
            return (day, day);
        }

        if (BasicDate.Parse(term) is { Success: true, Value: var basic })
        {
            return (basic, basic);
        }

        if (term.StartsWith("today", StringComparison.OrdinalIgnoreCase))
        {
            return Relative(term) is { } at ? (at, at) : null;
        }

        if (YearMonthPattern.Iso.Parse(term) is { Success: true, Value: var month })
        {
            var first = month.OnDayOfMonth(1);
            return (first, first.With(DateAdjusters.EndOfMonth));
        }

        return AYear().IsMatch(term) && int.Parse(term, CultureInfo.InvariantCulture) is > 0 and var year
            ? (new(year, 1, 1), new(year, 12, 31))
            : null;
    }

    private LocalDate? Relative(string term)
    {
        if (term.Length == 5)
        {
            return today;
        }

        if (term[5] is not ('+' or '-') || Time.Period.Parse(term[6..]) is not { Refused: false, Value: var period })
        {
            return null;
        }

        try
        {
            return term[5] == '+' ? period.AddTo(today) : period.SubtractFrom(today);
        }
        catch (ArgumentOutOfRangeException)
        {
            return null;
        }
        catch (OverflowException)
        {
            return null;
        }
    }

    private static decimal? NumberOf(string term) => QueryValues.Number(term);

    /// <summary>
    /// A size in bytes. kB, MB, GB and TB are powers of 1000 (SI), KiB, MiB, GiB and TiB of 1024 (IEC 80000-13).
    /// </summary>
    private static decimal Size(string term, CqlClause clause)
    {
        var match = ASize().Match(term);
        if (
            !match.Success
            || !decimal.TryParse(
                match.Groups[1].ValueSpan,
                NumberStyles.AllowDecimalPoint,
                CultureInfo.InvariantCulture,
                out var number
            )
            || number > 1_000_000_000_000_000_000m
        )
        {
            throw CqlMistake.At(clause.TermSpan, "a size (1200, 20 kB, 5 MB, 1.5 GiB)", $"there is “{clause.Term}”");
        }

        var unit = match.Groups[2].Value.ToUpperInvariant();
        var power = unit.Length == 0 ? 0 : "BKMGT".IndexOf(unit[0], StringComparison.Ordinal);
        for (; power > 0; power--)
        {
            number *= unit.Contains('I', StringComparison.Ordinal) ? 1024 : 1000;
        }

        return number;
    }

    // Long because each set of names that the standard knows is one arm.
    private (QueryIndex Index, string? Field, bool AllRecords) Index(
        string name,
        TextSpan span,
        IReadOnlyList<CqlPrefix> scope
    )
    {
        var dot = name.IndexOf('.', StringComparison.Ordinal);
        var prefix = dot < 0 ? null : name[..dot];
        var bare = dot < 0 ? name : name[(dot + 1)..];
        var set = scope.LastOrDefault(p => string.Equals(p.Name, prefix, StringComparison.OrdinalIgnoreCase))
            is { } assigned
            ? Set(assigned.Identifier)
            : prefix?.ToLowerInvariant();
        switch (set)
        {
            case null when vocabulary.Find(bare) is { } own:
                return (own, null, false);
            case null when vocabulary.HasDocdate && bare.Equals("docdate", StringComparison.OrdinalIgnoreCase):
                return (QueryIndex.Field, "docdate", false);
            case "field" when bare.Length > 0:
                return (QueryIndex.Field, bare.ToLowerInvariant(), false);
            case DublinCore when vocabulary.HasDocdate && FromDublinCore.TryGetValue(bare, out var same):
                return same == "docdate" ? (QueryIndex.Field, same, false) : (vocabulary.Find(same)!, null, false);
            case Standard
                when bare.ToUpperInvariant()
                    is "SERVERCHOICE"
                        or "ANYWHERE"
                        or "ALLINDEXES"
                        or "ANYINDEXES"
                        or "KEYWORDS":
                return (vocabulary.Anything, null, false);
            case Standard when bare.Equals("allRecords", StringComparison.OrdinalIgnoreCase):
                return (vocabulary.Anything, null, true);
            default:
                throw CqlMistake.At(
                    span,
                    $"an index ({string.Join(", ", vocabulary.Names)} or field.NAME)",
                    $"there is no index “{name}”"
                );
        }

        static string Set(string identifier) =>
            identifier.Contains("/dc-v1", StringComparison.Ordinal)
            || identifier.Contains("purl.org/dc/", StringComparison.Ordinal)
                ? DublinCore
            : identifier.Contains("/cql-v1", StringComparison.Ordinal) ? Standard
            : "?";
    }

    private SortKey Sort(CqlSortKey key)
    {
        var (index, field, _) = Index(key.Index, key.Span, []);
        if (!index.HasOneValue)
        {
            throw CqlMistake.At(key.Span, "an index with one value to sort by", $"there is {key.Index}");
        }

        var descending = false;
        foreach (var m in key.Modifiers)
        {
            descending = m.Name.ToLowerInvariant() switch
            {
                "sort.descending" or "descending" => true,
                "sort.ascending" or "ascending" => false,
                _ => throw CqlMistake.At(m.Span, "/sort.ascending or /sort.descending", $"there is /{m.Name}"),
            };
        }

        return new(index, field, descending);
    }

    private static readonly LocalDatePattern BasicDate = LocalDatePattern.CreateWithInvariantCulture("uuuuMMdd");

    [GeneratedRegex("^[0-9]{4}$")]
    private static partial Regex AYear();

    [GeneratedRegex("^([0-9]+(?:\\.[0-9]+)?) ?(B|[kKMGT]i?B)?$", RegexOptions.IgnoreCase)]
    private static partial Regex ASize();
}
