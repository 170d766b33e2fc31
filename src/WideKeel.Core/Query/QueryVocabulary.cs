namespace WideKeel.Core.Query;

/// <summary>What queries can ask of one kind of thing: the indexes by their names.</summary>
public sealed class QueryVocabulary
{
    private readonly Dictionary<string, QueryIndex> indexes;

    /// <param name="anything">The index that a term without an index looks at.</param>
    internal QueryVocabulary(IEnumerable<QueryIndex> indexes, QueryIndex anything, bool hasDocdate)
    {
        this.indexes = indexes
            .Where(i => i != QueryIndex.Field)
            .ToDictionary(i => i.Name, StringComparer.OrdinalIgnoreCase);
        (Anything, HasDocdate) = (anything, hasDocdate);
        Names = [.. this.indexes.Keys, .. hasDocdate ? ["docdate"] : Array.Empty<string>()];
    }

    /// <summary>Items of content.</summary>
    public static QueryVocabulary Items { get; } = new(QueryIndex.All, QueryIndex.Text, hasDocdate: true);

    /// <summary>Names of the indexes as a person writes them; <c>field.NAME</c> besides.</summary>
    public IReadOnlyList<string> Names { get; }

    /// <summary>What a term without an index looks at.</summary>
    public QueryIndex Anything { get; }

    /// <summary>Whether <c>docdate</c> and the names of Dublin Core mean something.</summary>
    internal bool HasDocdate { get; }

    /// <summary>The index of this name, however it is written; null where there is none.</summary>
    public QueryIndex? Find(string name) => indexes.GetValueOrDefault(name);

    /// <summary>Whether there is such an index, a field by its name included.</summary>
    public bool Knows(string name) =>
        indexes.ContainsKey(name)
        || (HasDocdate && name.Equals("docdate", StringComparison.OrdinalIgnoreCase))
        || name.StartsWith("field.", StringComparison.OrdinalIgnoreCase);
}
