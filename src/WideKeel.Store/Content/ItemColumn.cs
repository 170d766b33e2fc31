using WideKeel.Core.Content;
using WideKeel.Core.Query;

namespace WideKeel.Store.Content;

/// <summary>
/// A column of items, described once: its SQL over <c>i</c> (item), the index of the query language that asks for it,
/// and how lists sort, count and choose by it. Queries, orders, facets, filters and sheets go by these entries; a new
/// column is a new entry.
/// </summary>
public sealed record ItemColumn
{
    /// <summary>In addresses, sheets and orders.</summary>
    public required string Name { get; init; }

    public required string Sql { get; init; }

    /// <summary>The index that asks for it; null where the query language does not.</summary>
    public QueryIndex? Index { get; init; }

    /// <summary>Lists can be put in its order; what has no value stands as this stand-in.</summary>
    public bool Sorts { get; init; }

    public string? WithoutValue { get; init; }

    /// <summary>What an order compares, where it is not the column itself.</summary>
    public string? SortSql { get; init; }

    /// <summary>Texts are compared without case.</summary>
    public bool IsText { get; init; }

    /// <summary>
    /// Selects the values of the column as pairs of what is stored and its name, for a small table that holds the
    /// names.
    /// </summary>
    public string? Names { get; init; }

    /// <summary>The values that it can have, as pairs of what is stored and its name.</summary>
    public IReadOnlyList<(string Stored, string Name)>? Values { get; init; }

    /// <summary>What an order compares; null values stand last.</summary>
    public string OrderSql => (SortSql ?? Sql) + (IsText ? " COLLATE NOCASE" : "");

    private const string SourceOf =
        "(SELECT s.Name FROM container k JOIN source s ON s.Id = k.SourceId WHERE k.Id = i.ContainerId)";

    public static IReadOnlyList<ItemColumn> All { get; } =
    [
        new()
        {
            Name = "title",
            Sql = "i.Title",
            Index = QueryIndex.Title,
            IsText = true,
            Sorts = true,
        },
        new()
        {
            Name = "path",
            Sql = "i.Path",
            Index = QueryIndex.Path,
            IsText = true,
            Sorts = true,
        },
        new()
        {
            Name = "type",
            Sql = "i.Type",
            Index = QueryIndex.Type,
            IsText = true,
        },
        new()
        {
            Name = "author",
            Sql = "i.Author",
            Index = QueryIndex.Author,
            IsText = true,
        },
        new()
        {
            Name = "owner",
            Sql = "i.Owner",
            Index = QueryIndex.Owner,
            IsText = true,
        },
        new()
        {
            Name = "source",
            Sql = "i.ContainerId",
            Index = QueryIndex.Source,
            SortSql = SourceOf,
            IsText = true,
            Names = "SELECT k.Id, s.Name FROM container k JOIN source s ON s.Id = k.SourceId",
        },
        new()
        {
            Name = "container",
            Sql = "i.ContainerId",
            Index = QueryIndex.Container,
            SortSql = $"({SourceOf} || '/' || (SELECT k.Name FROM container k WHERE k.Id = i.ContainerId))",
            IsText = true,
            Names = "SELECT k.Id, s.Name || '/' || k.Name FROM container k JOIN source s ON s.Id = k.SourceId",
        },
        new()
        {
            Name = "unit",
            Sql = "i.ContainerId",
            Index = QueryIndex.Unit,
            SortSql = "(SELECT u.Name FROM container k JOIN unit u ON u.Id = k.UnitId WHERE k.Id = i.ContainerId)",
            IsText = true,
            Names = "SELECT k.Id, u.Name FROM container k JOIN unit u ON u.Id = k.UnitId",
        },
        new()
        {
            Name = "series",
            Sql = "i.SeriesId",
            Index = QueryIndex.Series,
            SortSql = "(SELECT s.Code FROM series s WHERE s.Id = i.SeriesId)",
            IsText = true,
            Names = "SELECT s.Id, s.Code FROM series s",
        },
        new()
        {
            Name = "state",
            Sql = $"({ItemFilter.StateSql})",
            Index = QueryIndex.State,
            Values = [.. Enum.GetValues<ItemState>().Select(s => (s.ToString(), s.Word()))],
        },
        new()
        {
            Name = "grade",
            Sql = $"({ItemFilter.GradeSql})",
            Index = QueryIndex.Grade,
            Values = [.. Enum.GetValues<Grade>().Select(g => (g.ToString(), g.ToString().ToLowerInvariant()))],
        },
        new()
        {
            Name = "searchable",
            Sql = "i.Searchable",
            Index = QueryIndex.Searchable,
            Values = [.. SearchableWords.All.Select(w => (w, w))],
        },
        new()
        {
            Name = "created",
            Sql = "i.Created",
            Index = QueryIndex.Created,
            Sorts = true,
        },
        new()
        {
            Name = "modified",
            Sql = "i.Modified",
            Index = QueryIndex.Modified,
            Sorts = true,
        },
        new()
        {
            Name = "bytes",
            Sql = "i.Bytes",
            Index = QueryIndex.Size,
            Sorts = true,
        },
        new()
        {
            Name = "due",
            Sql = "i.DisposableFrom",
            Sorts = true,
            // Null dates stand last on the first page in both directions.
            WithoutValue = "9999999",
        },
    ];

    private static readonly Dictionary<QueryIndex, ItemColumn> ByIndex = All.Where(c => c.Index is not null)
        .ToDictionary(c => c.Index!);

    /// <summary>
    /// The column that an index asks for; null for what lies in tables of its own: text, sensitive kinds, other fields.
    /// </summary>
    public static ItemColumn? Of(QueryIndex index) => ByIndex.GetValueOrDefault(index);
}
