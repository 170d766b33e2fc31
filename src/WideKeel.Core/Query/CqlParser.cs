using System.Globalization;

namespace WideKeel.Core.Query;

/// <summary>
/// Reads CQL 1.2, the grammar of OASIS searchRetrieve 1.0 part 5, appendix A. Syntax only: whether an index exists, and
/// what a term means to it, is decided by <see cref="QueryCompiler"/>. Recursion follows parentheses alone and is
/// bounded by <see cref="CqlLimits.Nesting"/>.
/// </summary>
public sealed class CqlParser
{
    private static readonly HashSet<string> NamedRelations = new(StringComparer.OrdinalIgnoreCase)
    {
        "any",
        "all",
        "within",
        "adj",
        "scr",
        "encloses",
    };

    private readonly CqlLexer lexer;
    private CqlToken token;
    private int depth;
    private int clauses;

    private CqlParser(string text)
    {
        lexer = new CqlLexer(text);
        token = lexer.Next();
    }

    /// <summary>The tree, or where the text stops being a query and what was expected there.</summary>
    public static Outcome<CqlQuery> Parse(string? text)
    {
        if (text is { Length: > CqlLimits.Length })
        {
            return new Refusal(
                "query-too-long",
                "query",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"The query has {text.Length:N0} characters; the limit for its length is {CqlLimits.Length:N0}."
                )
            );
        }

        try
        {
            return new CqlParser(text ?? "").Sorted();
        }
        catch (CqlMistake mistake)
        {
            return mistake.Refusal;
        }
    }

    private CqlQuery Sorted()
    {
        var root = Scoped();
        List<CqlSortKey> keys = [];
        if (token.IsWord("sortby"))
        {
            Advance();
            do
            {
                var index = TakeTerm("an index to sort by");
                keys.Add(new(index.Text, Modifiers(), index.Span));
            } while (token.IsTerm);
        }

        return token.Kind == CqlTokenKind.End
            ? new(root, keys)
            : throw Mistake(
                token.Kind == CqlTokenKind.Close
                    ? "the end of the query; no parenthesis is open here"
                    : "and, or, not, prox, sortby or the end of the query"
            );
    }

    private CqlNode Scoped()
    {
        var prefixes = Prefixes();
        var node = Clause();
        while (Operator() is { } op)
        {
            var span = token.Span;
            Advance();
            var modifiers = Modifiers();
            node = new CqlBoolean(op, modifiers, node, Clause(), span);
        }

        return prefixes.Count == 0 ? node : node with { Prefixes = [.. prefixes, .. node.Prefixes] };
    }

    private List<CqlPrefix> Prefixes()
    {
        List<CqlPrefix> prefixes = [];
        while (token is { Kind: CqlTokenKind.Comparison, Text: ">" })
        {
            Advance();
            var first = TakeTerm("a prefix or the identifier of a context set");
            if (token is { Kind: CqlTokenKind.Comparison, Text: "=" })
            {
                Advance();
                prefixes.Add(new(first.Text, TakeTerm("the identifier of a context set").Text));
            }
            else
            {
                prefixes.Add(new(null, first.Text));
            }
        }

        return prefixes;
    }

    private CqlNode Clause() => token.Kind == CqlTokenKind.Open ? Enclosed() : Single();

    private CqlNode Enclosed()
    {
        var open = token.Span;
        if (++depth > CqlLimits.Nesting)
        {
            throw new CqlMistake(
                new(
                    "query-too-deep",
                    "query",
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"At character {open.Start + 1}: more than {CqlLimits.Nesting} parentheses are open; that is the limit for nesting."
                    )
                )
                {
                    Span = open,
                }
            );
        }

        Advance();
        var inner = Scoped();
        if (token.Kind != CqlTokenKind.Close)
        {
            throw Mistake(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"and, or, not, prox or the ) for the parenthesis opened at character {open.Start + 1}"
                )
            );
        }

        depth--;
        var span = new TextSpan(open.Start, token.Span.End - open.Start);
        Advance();
        return inner with { Span = span };
    }

    private CqlClause Single()
    {
        if (++clauses > CqlLimits.Clauses)
        {
            throw new CqlMistake(
                new(
                    "query-too-many-clauses",
                    "query",
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"At character {token.Span.Start + 1}: the query has more than {CqlLimits.Clauses:N0} "
                            + $"clauses; that is the limit for their number."
                    )
                )
                {
                    Span = token.Span,
                }
            );
        }

        var first = TakeTerm("a term, an index or (");
        if (Relation() is not { } relation)
        {
            return new CqlClause(
                CqlClause.ServerChoice,
                new("=", [], new(first.Span.Start, 0)),
                first.Text,
                new(first.Span.Start, 0),
                first.Span,
                first.Span
            );
        }

        if (!token.IsTerm && char.IsLetter(relation.Value[0]) && !NamedRelations.Contains(relation.Value))
        {
            // Two words side by side: the second could be a relation, but what its writer forgot is an operator.
            throw CqlMistake.At(
                relation.Span,
                "and, or, not, prox, a relation such as = or the end of the query",
                $"there is “{relation.Value}”"
            );
        }

        var term = TakeTerm($"a term after {relation.Value}");
        return new CqlClause(
            first.Text,
            relation,
            term.Text,
            first.Span,
            term.Span,
            new(first.Span.Start, term.Span.End - first.Span.Start)
        );
    }

    /// <summary>A comparison symbol or a named relation; a word that is no operator can be nothing else here.</summary>
    private CqlRelation? Relation()
    {
        var isNamed = token.Kind == CqlTokenKind.Word && Operator() is null && !token.IsWord("sortby");
        if (!isNamed && token.Kind != CqlTokenKind.Comparison)
        {
            return null;
        }

        var (value, span) = (token.Text, token.Span);
        Advance();
        return new(value, Modifiers(), span);
    }

    private List<CqlModifier> Modifiers()
    {
        List<CqlModifier> modifiers = [];
        while (token.Kind == CqlTokenKind.Slash)
        {
            var start = token.Span.Start;
            Advance();
            var name = TakeTerm("the name of a modifier");
            if (token.Kind == CqlTokenKind.Comparison)
            {
                var comparison = token.Text;
                Advance();
                var value = TakeTerm("the value of the modifier");
                modifiers.Add(new(name.Text, comparison, value.Text, new(start, value.Span.End - start)));
            }
            else
            {
                modifiers.Add(new(name.Text, null, null, new(start, name.Span.End - start)));
            }
        }

        return modifiers;
    }

    private CqlOperator? Operator() =>
        token.IsWord("and") ? CqlOperator.And
        : token.IsWord("or") ? CqlOperator.Or
        : token.IsWord("not") ? CqlOperator.Not
        : token.IsWord("prox") ? CqlOperator.Prox
        : null;

    private CqlToken TakeTerm(string expected)
    {
        if (!token.IsTerm)
        {
            throw Mistake(expected);
        }

        var taken = token;
        Advance();
        return taken;
    }

    private void Advance() => token = lexer.Next();

    private CqlMistake Mistake(string expected) =>
        CqlMistake.At(
            token.Span,
            expected,
            token.Kind == CqlTokenKind.End ? "the query ends" : $"there is {Shown(token)}"
        );

    private static string Shown(CqlToken token) =>
        token.Text.Length > 40 ? $"“{token.Text[..40]}…”" : $"“{token.Text}”";
}

internal enum CqlTokenKind
{
    Word,
    Quoted,
    Comparison,
    Slash,
    Open,
    Close,
    End,
}

internal readonly record struct CqlToken(CqlTokenKind Kind, string Text, TextSpan Span)
{
    public bool IsTerm => Kind is CqlTokenKind.Word or CqlTokenKind.Quoted;

    /// <summary>Whether it is this reserved word; words in quotes never are.</summary>
    public bool IsWord(string word) =>
        Kind == CqlTokenKind.Word && Text.Equals(word, StringComparison.OrdinalIgnoreCase);
}

/// <summary>Cuts a text into the terminals of the grammar, one at a time.</summary>
internal sealed class CqlLexer(string text)
{
    private int at;

    /// <summary>Where the next token is looked for; after a mistake, where the unfinished one begins.</summary>
    public int Position => at;

    public CqlToken Next()
    {
        while (at < text.Length && char.IsWhiteSpace(text[at]))
        {
            at++;
        }

        if (at == text.Length)
        {
            return new(CqlTokenKind.End, "", new(at, 0));
        }

        return text[at] switch
        {
            '(' => Take(CqlTokenKind.Open, 1),
            ')' => Take(CqlTokenKind.Close, 1),
            '/' => Take(CqlTokenKind.Slash, 1),
            '=' => Take(CqlTokenKind.Comparison, Follows('=') ? 2 : 1),
            '<' => Take(CqlTokenKind.Comparison, Follows('=') || Follows('>') ? 2 : 1),
            '>' => Take(CqlTokenKind.Comparison, Follows('=') ? 2 : 1),
            '"' => Quoted(),
            _ => Word(),
        };
    }

    private bool Follows(char c) => at + 1 < text.Length && text[at + 1] == c;

    private CqlToken Take(CqlTokenKind kind, int length)
    {
        var token = new CqlToken(kind, text.Substring(at, length), new(at, length));
        at += length;
        return token;
    }

    private CqlToken Word()
    {
        var end = at;
        while (
            end < text.Length
            && !char.IsWhiteSpace(text[end])
            && !"()/=<>\"".Contains(text[end], StringComparison.Ordinal)
        )
        {
            end++;
        }

        return Take(CqlTokenKind.Word, end - at);
    }

    private CqlToken Quoted()
    {
        var start = at;
        for (var end = at + 1; end < text.Length; end++)
        {
            if (text[end] == '\\')
            {
                end++;
            }
            else if (text[end] == '"')
            {
                at = end + 1;
                return new(CqlTokenKind.Quoted, text[(start + 1)..end], new(start, at - start));
            }
        }

        throw CqlMistake.At(
            new(text.Length, 0),
            string.Create(CultureInfo.InvariantCulture, $"a closing \" for the quote opened at character {start + 1}"),
            "the query ends"
        );
    }
}

/// <summary>Leaves the parser at the first mistake; never leaves <see cref="CqlParser.Parse"/>.</summary>
[System.Diagnostics.CodeAnalysis.SuppressMessage(
    "Design",
    "CA1032",
    Justification = "Made in two places of this file only."
)]
[System.Diagnostics.CodeAnalysis.SuppressMessage("Design", "CA1064", Justification = "Caught within the assembly.")]
internal sealed class CqlMistake(Refusal refusal) : Exception(refusal.Sentence)
{
    public Refusal Refusal { get; } = refusal;

    /// <param name="found">What stands there instead, as the end of a sentence.</param>
    public static CqlMistake At(TextSpan span, string expected, string found) =>
        new(
            new(
                "query-malformed",
                "query",
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"At character {span.Start + 1}: expected {expected}, but {found}."
                )
            )
            {
                Span = span,
            }
        );
}
