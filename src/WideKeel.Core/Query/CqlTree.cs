namespace WideKeel.Core.Query;

/// <summary>
/// A parsed query with its sort keys: <c>sortedQuery</c> of CQL 1.2 (OASIS searchRetrieve 1.0, part 5).
/// </summary>
public sealed record CqlQuery(CqlNode Root, IReadOnlyList<CqlSortKey> SortBy);

/// <summary>A node of the tree.</summary>
/// <param name="Span">Where it stands in the text.</param>
public abstract record CqlNode(TextSpan Span)
{
    /// <summary>Prefix assignments that scope this node, in the order written.</summary>
    public IReadOnlyList<CqlPrefix> Prefixes { get; init; } = [];

    /// <summary>
    /// What stands at the far left, and the booleans above it from the innermost out. A chain is as deep to the left as
    /// it has clauses, so whoever walks a tree walks chains in a loop and recurses only into parentheses, whose depth
    /// is bounded.
    /// </summary>
    internal (CqlNode First, List<CqlBoolean> Chain) Unchain()
    {
        List<CqlBoolean> chain = [];
        var node = this;
        while (node is CqlBoolean b)
        {
            chain.Add(b);
            node = b.Left;
        }

        chain.Reverse();
        return (node, chain);
    }
}

/// <summary><c>index relation term</c>, or a term alone, which stands for <c>cql.serverChoice = term</c>.</summary>
/// <param name="Term">As written between its quotes: masking and escapes are still in it, because only the index knows
/// what they mean.</param>
public sealed record CqlClause(
    string Index,
    CqlRelation Relation,
    string Term,
    TextSpan IndexSpan,
    TextSpan TermSpan,
    TextSpan Span
) : CqlNode(Span)
{
    public const string ServerChoice = "cql.serverChoice";
}

public sealed record CqlRelation(string Value, IReadOnlyList<CqlModifier> Modifiers, TextSpan Span);

public enum CqlOperator
{
    And,
    Or,
    Not,
    Prox,
}

/// <summary>Two nodes joined. All four operators bind alike, from the left.</summary>
public sealed record CqlBoolean(
    CqlOperator Operator,
    IReadOnlyList<CqlModifier> Modifiers,
    CqlNode Left,
    CqlNode Right,
    TextSpan OperatorSpan
) : CqlNode(new TextSpan(Left.Span.Start, Right.Span.End - Left.Span.Start));

/// <summary><c>/name</c> or <c>/name comparison value</c>.</summary>
public sealed record CqlModifier(string Name, string? Comparison, string? Value, TextSpan Span);

/// <param name="Name">Null where the default is set.</param>
public sealed record CqlPrefix(string? Name, string Identifier);

public sealed record CqlSortKey(string Index, IReadOnlyList<CqlModifier> Modifiers, TextSpan Span);

/// <summary>
/// Bounds on what is parsed at all, so that a hostile text costs nothing. Each is named in the refusal that it leads
/// to.
/// </summary>
public static class CqlLimits
{
    /// <summary>Characters of a query.</summary>
    public const int Length = 200_000;

    /// <summary>Parentheses open at one place.</summary>
    public const int Nesting = 200;

    /// <summary>Clauses of a query; long lists of words belong into one clause with <c>any</c>.</summary>
    public const int Clauses = 2_000;
}
