using System.Text;
using System.Text.Json.Nodes;
using System.Xml.Linq;

namespace WideKeel.Core.Query;

/// <summary>The tree in its other forms: XCQL (the XML of CQL 1.2), JSON, and text again.</summary>
public static class CqlForms
{
    /// <summary>XCQL. Elements are in no namespace, as the reference converter writes them.</summary>
    public static XElement ToXcql(this CqlQuery query)
    {
        var root = Xml(query.Root);
        if (query.SortBy.Count > 0)
        {
            root.Add(
                new XElement(
                    "sortKeys",
                    query.SortBy.Select(k => new XElement("key", new XElement("index", k.Index), Xml(k.Modifiers)))
                )
            );
        }

        return root;
    }

    public static JsonObject ToJson(this CqlQuery query)
    {
        var root = Json(query.Root);
        if (query.SortBy.Count > 0)
        {
            root["sortBy"] = new JsonArray([
                .. query.SortBy.Select(k => new JsonObject { ["index"] = k.Index, ["modifiers"] = Json(k.Modifiers) }),
            ]);
        }

        return root;
    }

    /// <summary>
    /// The query as text that parses to the same tree, with no more quotes and parentheses than it needs.
    /// </summary>
    public static string ToText(this CqlQuery query)
    {
        var text = Text(query.Root);
        return query.SortBy.Count == 0
            ? text.ToString()
            : text.Append(" sortby ").Append(ToText(query.SortBy)).ToString();
    }

    /// <summary>Sort keys as they stand after <c>sortby</c>.</summary>
    public static string ToText(IReadOnlyList<CqlSortKey> keys) =>
        string.Join(
            ' ',
            keys.Select(k =>
            {
                var text = new StringBuilder(Quoted(k.Index));
                Write(text, k.Modifiers);
                return text.ToString();
            })
        );

    /// <summary>
    /// The term in quotes where it needs them. What stands in it is not changed: escapes are part of a term.
    /// </summary>
    public static string Quoted(string term)
    {
        var bare =
            term.Length > 0
            && !term.Any(c => char.IsWhiteSpace(c) || "()/=<>\"".Contains(c, StringComparison.Ordinal))
            && term.ToUpperInvariant() is not ("AND" or "OR" or "NOT" or "PROX" or "SORTBY");
        return bare ? term : $"\"{term}\"";
    }

    private static XElement Xml(CqlNode node)
    {
        var (first, chain) = node.Unchain();
        var element = first is CqlClause clause
            ? new XElement(
                "searchClause",
                Xml(clause.Prefixes),
                new XElement("index", clause.Index),
                new XElement("relation", new XElement("value", clause.Relation.Value), Xml(clause.Relation.Modifiers)),
                new XElement("term", clause.Term)
            )
            : Xml(first);
        foreach (var b in chain)
        {
            element = new XElement(
                "triple",
                Xml(b.Prefixes),
                new XElement("boolean", new XElement("value", Word(b.Operator)), Xml(b.Modifiers)),
                new XElement("leftOperand", element),
                new XElement("rightOperand", Xml(b.Right))
            );
        }

        return element;
    }

    private static XElement? Xml(IReadOnlyList<CqlPrefix> prefixes) =>
        prefixes.Count == 0
            ? null
            : new XElement(
                "prefixes",
                prefixes.Select(p => new XElement(
                    "prefix",
                    p.Name is null ? null : new XElement("name", p.Name),
                    new XElement("identifier", p.Identifier)
                ))
            );

    private static XElement? Xml(IReadOnlyList<CqlModifier> modifiers) =>
        modifiers.Count == 0
            ? null
            : new XElement(
                "modifiers",
                modifiers.Select(m => new XElement(
                    "modifier",
                    new XElement("type", m.Name),
                    m.Comparison is null ? null : new XElement("comparison", m.Comparison),
                    m.Value is null ? null : new XElement("value", m.Value)
                ))
            );

    private static JsonObject Json(CqlNode node)
    {
        var (first, chain) = node.Unchain();
        var json = first is CqlClause clause
            ? Prefixed(
                clause,
                new()
                {
                    ["index"] = clause.Index,
                    ["relation"] = new JsonObject
                    {
                        ["value"] = clause.Relation.Value,
                        ["modifiers"] = Json(clause.Relation.Modifiers),
                    },
                    ["term"] = clause.Term,
                }
            )
            : Json(first);
        foreach (var b in chain)
        {
            json = Prefixed(
                b,
                new()
                {
                    ["boolean"] = Word(b.Operator),
                    ["modifiers"] = Json(b.Modifiers),
                    ["left"] = json,
                    ["right"] = Json(b.Right),
                }
            );
        }

        return json;

        static JsonObject Prefixed(CqlNode node, JsonObject json)
        {
            if (node.Prefixes.Count > 0)
            {
                json["prefixes"] = new JsonArray([
                    .. node.Prefixes.Select(p => new JsonObject { ["name"] = p.Name, ["identifier"] = p.Identifier }),
                ]);
            }

            return json;
        }
    }

    private static JsonArray Json(IReadOnlyList<CqlModifier> modifiers) =>
        new([
            .. modifiers.Select(m => new JsonObject
            {
                ["name"] = m.Name,
                ["comparison"] = m.Comparison,
                ["value"] = m.Value,
            }),
        ]);

    private static StringBuilder Text(CqlNode node)
    {
        var (first, chain) = node.Unchain();
        var text = first is CqlClause clause ? Text(clause) : Text(first);
        Scope(text, first, enclose: chain.Count > 0);
        foreach (var b in chain)
        {
            text.Append(' ').Append(Word(b.Operator));
            Write(text, b.Modifiers);
            text.Append(' ');
            var right = Text(b.Right);
            text.Append(b.Right is CqlBoolean || b.Right.Prefixes.Count > 0 ? right.Insert(0, '(').Append(')') : right);
            Scope(text, b, enclose: !ReferenceEquals(b, chain[^1]));
        }

        return text;

        // A prefix reaches over all that follows it, so what it must not reach is kept out by parentheses.
        static void Scope(StringBuilder text, CqlNode node, bool enclose)
        {
            if (node.Prefixes.Count > 0)
            {
                text.Insert(
                    0,
                    string.Concat(
                        node.Prefixes.Select(p =>
                            $"> {(p.Name is null ? "" : $"{Quoted(p.Name)} = ")}{Quoted(p.Identifier)} "
                        )
                    )
                );
                if (enclose)
                {
                    text.Insert(0, '(').Append(')');
                }
            }
        }
    }

    private static StringBuilder Text(CqlClause clause)
    {
        var text = new StringBuilder();
        if (clause.IndexSpan.Length > 0 || clause.Index != CqlClause.ServerChoice)
        {
            text.Append(Quoted(clause.Index)).Append(' ').Append(clause.Relation.Value);
            Write(text, clause.Relation.Modifiers);
            text.Append(' ');
        }

        return text.Append(Quoted(clause.Term));
    }

    private static void Write(StringBuilder text, IReadOnlyList<CqlModifier> modifiers)
    {
        foreach (var m in modifiers)
        {
            text.Append('/').Append(Quoted(m.Name)).Append(m.Comparison).Append(m.Value is null ? "" : Quoted(m.Value));
        }
    }

    internal static string Word(CqlOperator op) =>
        op switch
        {
            CqlOperator.And => "and",
            CqlOperator.Or => "or",
            CqlOperator.Not => "not",
            CqlOperator.Prox => "prox",
            _ => throw new ArgumentOutOfRangeException(nameof(op)),
        };
}
