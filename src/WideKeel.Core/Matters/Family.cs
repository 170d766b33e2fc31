using WideKeel.Core.Query;

namespace WideKeel.Core.Matters;

/// <summary>One document of a family: the message itself, or one of its attachments.</summary>
/// <param name="Name">Null for the message itself.</param>
public readonly record struct FamilyDocument(string? Name, string Text);

/// <summary>
/// A message and its attachments. They are one item, because they arrive, are kept and are destroyed together; where
/// documents are counted or numbered, each of them is one.
/// </summary>
public static class Family
{
    /// <summary>What stands before the text of an attachment, in the text drawn from a message.</summary>
    public static string Heading(string attachment) => $"\n\nAttachment: {attachment}\n";

    /// <summary>
    /// The documents within the text of a message: itself first, then its attachments in their order.
    /// </summary>
    public static IReadOnlyList<FamilyDocument> Split(string text, IReadOnlyList<string> attachments)
    {
        List<FamilyDocument> documents = [];
        var (from, name) = (0, (string?)null);
        foreach (var attachment in attachments)
        {
            var heading = Heading(attachment);
            // What was cut off at the limit of a text has no heading any more; it is a document without text.
            var at = text.IndexOf(heading, from, StringComparison.Ordinal);
            documents.Add(new(name, text[from..(at < 0 ? text.Length : at)]));
            (from, name) = (at < 0 ? text.Length : at + heading.Length, attachment);
        }

        documents.Add(new(name, text[from..]));
        return documents;
    }

    /// <summary>How many documents of the family fit by themselves.</summary>
    public static int Fitting(Condition condition, QueryItem item, IReadOnlyList<string> attachments) =>
        Split(item.Body ?? "", attachments)
            .Count(d => QueryMatcher.Matches(condition, item.WithText(d.Name ?? item.Title, d.Text)));
}

/// <summary>The terms of a query: the parts that look for words and are wanted, each as a query of its own.</summary>
public static class QueryTerms
{
    public const int Most = 60;

    /// <summary>In the order written, none twice; empty where the query looks for no words.</summary>
    public static IReadOnlyList<string> Of(string? query)
    {
        if (
            string.IsNullOrWhiteSpace(query)
            || CqlParser.Parse(PlainWords.ToQuery(query)) is not { Refused: false, Value: var parsed }
        )
        {
            return [];
        }

        List<string> terms = [];
        Collect(parsed.Root);
        return [.. terms.Distinct().Take(Most)];

        void Collect(CqlNode node)
        {
            var (first, chain) = node.Unchain();
            // Words that stand near each other are one term.
            if (chain.Any(b => b.Operator == CqlOperator.Prox))
            {
                terms.Add(new CqlQuery(node, []).ToText());
                return;
            }

            if (first is CqlClause clause)
            {
                if (clause.Index is CqlClause.ServerChoice or "text" or "title")
                {
                    terms.Add(new CqlQuery(clause, []).ToText());
                }
            }
            else
            {
                Collect(first);
            }

            foreach (var joined in chain.Where(b => b.Operator != CqlOperator.Not))
            {
                Collect(joined.Right);
            }
        }
    }
}
