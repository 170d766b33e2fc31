using System.Globalization;
using System.Text;

namespace WideKeel.Core.Query;

/// <summary>A query as rows that can be filled in: every query has this form, and every form is a query.</summary>
/// <param name="AnyOf">One of the rows is enough; otherwise all of them must fit.</param>
public sealed record QueryForm(bool AnyOf, IReadOnlyList<QueryFormRow> Rows);

/// <summary>
/// One row: a comparison, a group, two words near each other, or, where it is none of these, a part of the text as it
/// stands.
/// </summary>
/// <param name="Not">The row must not fit.</param>
public sealed record QueryFormRow(
    bool Not = false,
    QueryFormTest? Test = null,
    QueryForm? Group = null,
    QueryFormNear? Near = null,
    string? Text = null
);

/// <param name="Term">As between quotes: masks are masks.</param>
public sealed record QueryFormTest(string Index, string Relation, string Term, bool Stem = false);

/// <param name="Distance">At most so many words (sentences, paragraphs) apart.</param>
public sealed record QueryFormNear(string First, string Second, int Distance, ProximityUnit Unit, bool Ordered);

/// <summary>Turns queries into forms and forms into queries.</summary>
public static class QueryForms
{
    public static QueryForm Read(CqlQuery query) =>
        Group(query.Root) is { } group ? group : new(false, [Row(query.Root)]);

    private static QueryForm? Group(CqlNode node)
    {
        var (first, chain) = node.Unchain();
        // What a group cannot say (nearness, modifiers, prefixes) is one row with all that stands left of it.
        var whole = chain.FindLastIndex(b =>
            b.Operator == CqlOperator.Prox || b.Modifiers.Count > 0 || b.Prefixes.Count > 0
        );
        if (whole >= 0)
        {
            first = chain[whole];
            chain.RemoveRange(0, whole + 1);
        }

        if (chain.Count == 0)
        {
            return null;
        }

        // Operators bind from the left: where "and" follows "or", what stands before it is a group of its own.
        QueryForm form = new(chain[0].Operator == CqlOperator.Or, [Row(first)]);
        foreach (var b in chain)
        {
            var any = b.Operator == CqlOperator.Or;
            var row = Row(b.Right) with { Not = b.Operator == CqlOperator.Not };
            form =
                form.AnyOf == any || form.Rows.Count == 1
                    ? new(any, [.. form.Rows, row])
                    : new(any, [new(Group: form), row]);
        }

        return form;
    }

    private static QueryFormRow Row(CqlNode node)
    {
        if (
            node is CqlClause { Prefixes.Count: 0 } clause
            && clause.Relation.Modifiers.All(m =>
                m.Name.Equals("stem", StringComparison.OrdinalIgnoreCase) && m.Comparison is null
            )
        )
        {
            var index =
                clause.Index.Equals(CqlClause.ServerChoice, StringComparison.OrdinalIgnoreCase) ? "text"
                : QueryVocabulary.Items.Knows(clause.Index) ? clause.Index.ToLowerInvariant()
                : clause.Index;
            return new(
                Test: new(
                    index,
                    clause.Relation.Value.ToLowerInvariant(),
                    clause.Term,
                    clause.Relation.Modifiers.Count > 0
                )
            );
        }

        if (
            node
                is CqlBoolean
                {
                    Operator: CqlOperator.Prox,
                    Left: CqlClause left,
                    Right: CqlClause right,
                    Prefixes.Count: 0
                } prox
            && IsPlain(left)
            && IsPlain(right)
            && Near(prox, left.Term, right.Term) is { } near
        )
        {
            return new(Near: near);
        }

        return Group(node) is { } group ? new(Group: group) : new(Text: new CqlQuery(node, []).ToText());

        static bool IsPlain(CqlClause clause) =>
            clause is { Prefixes.Count: 0, Relation: { Value: "=", Modifiers.Count: 0 } }
            && clause.Index.ToUpperInvariant() is "CQL.SERVERCHOICE" or "TEXT";
    }

    private static QueryFormNear? Near(CqlBoolean prox, string first, string second)
    {
        var near = new QueryFormNear(first, second, 1, ProximityUnit.Word, false);
        var said = false;
        foreach (var m in prox.Modifiers)
        {
            switch (m.Name.ToLowerInvariant())
            {
                case "distance"
                    when m.Comparison == "<="
                        && int.TryParse(m.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var distance):
                    (near, said) = (near with { Distance = distance }, true);
                    break;
                case "unit"
                    when m.Comparison == "="
                        && Enum.TryParse<ProximityUnit>(m.Value, ignoreCase: true, out var unit)
                        && char.IsLetter(m.Value![0]):
                    near = near with { Unit = unit };
                    break;
                case "ordered" when m.Comparison is null:
                    near = near with { Ordered = true };
                    break;
                default:
                    return null;
            }
        }

        return said || near.Unit == ProximityUnit.Word ? near : near with { Distance = 0 };
    }

    /// <summary>The query that a form says, as text; empty for a form without rows.</summary>
    public static string Write(QueryForm form)
    {
        // "Not" stands between two parts, so what must not fit follows what must, and alone it follows everything.
        var text = new StringBuilder();
        var wanted = form.AnyOf ? form.Rows : form.Rows.Where(r => !r.Not);
        var parts = 0;
        foreach (var row in wanted)
        {
            var (part, isSingle) = Part(row);
            if (form.AnyOf && row.Not)
            {
                (part, isSingle) = ($"{All} not {Enclosed(part, isSingle)}", false);
            }

            text.Append(
                    parts++ == 0 ? ""
                    : form.AnyOf ? " or "
                    : " and "
                )
                .Append(form.Rows.Count > 1 ? Enclosed(part, isSingle) : part);
        }

        foreach (var row in form.Rows.Where(r => !form.AnyOf && r.Not))
        {
            var (part, isSingle) = Part(row);
            text.Append(parts++ == 0 ? All : "").Append(" not ").Append(Enclosed(part, isSingle));
        }

        return text.ToString();
    }

    private const string All = "cql.allRecords = 1";

    private static string Enclosed(string part, bool single) => single ? part : $"({part})";

    private static (string Text, bool Single) Part(QueryFormRow row)
    {
        if (row.Group is { } group)
        {
            return group.Rows is [var only] && !only.Not ? Part(only)
                : group.Rows.Count == 0 ? (All, true)
                : (Write(group), false);
        }

        if (row.Near is { } near)
        {
            var unit = near.Unit == ProximityUnit.Word ? "" : $"/unit={near.Unit.ToString().ToLowerInvariant()}";
            return (
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{Term(near.First)} prox/distance<={near.Distance}{unit}{(near.Ordered ? "/ordered" : "")} {Term(near.Second)}"
                ),
                false
            );
        }

        if (row.Test is { } test)
        {
            return test is { Index: "text", Relation: "=", Stem: false }
                ? (Term(test.Term), true)
                : (
                    $"{CqlForms.Quoted(test.Index)} {test.Relation}{(test.Stem ? "/stem" : "")} {Term(test.Term)}",
                    true
                );
        }

        return (row.Text is { Length: > 0 } raw ? raw : All, false);
    }

    /// <summary>
    /// The term in quotes where it needs them, whatever was typed: a quote within it is escaped, and a backslash at its
    /// end doubled.
    /// </summary>
    private static string Term(string typed)
    {
        var term = new StringBuilder(typed.Length);
        for (var i = 0; i < typed.Length; i++)
        {
            if (typed[i] == '\\')
            {
                term.Append('\\').Append(i + 1 < typed.Length ? typed[++i] : '\\');
            }
            else
            {
                term.Append(typed[i] == '"' ? "\\\"" : typed[i].ToString());
            }
        }

        return CqlForms.Quoted(term.ToString());
    }
}
