using System.Globalization;
using Microsoft.Data.Sqlite;
using WideKeel.Core;
using WideKeel.Core.Query;
using WideKeel.Core.Time;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>
/// The order of a list. By one column a page goes on after the last row's value, so that what changes in between is
/// neither shown twice nor left out; by the sort keys of a query, or by relevance, it goes on after so many rows.
/// </summary>
/// <param name="Expression">What the last row's place is remembered by.</param>
/// <param name="Join">What the order needs besides the item.</param>
internal sealed record ItemOrder(string Expression, string Join, string OrderBy, bool Descending, bool ByCount)
{
    private static readonly Dictionary<string, string> Columns = ItemColumn
        .All.Where(c => c.Sorts)
        .ToDictionary(c => c.Name, c => c.WithoutValue is { } standIn ? $"COALESCE({c.Sql}, {standIn})" : c.OrderSql);

    private const string Relevance = "relevance";

    /// <param name="sort">As the caller names it; null leaves the order to the query, and without one to the
    /// date.</param>
    public static Outcome<ItemOrder> Of(string? sort, QuerySql? query)
    {
        if (sort is null && query is { Query.SortBy: { Count: > 0 } keys })
        {
            return new ItemOrder("0", "", string.Join(", ", keys.Select(Key)) + ", i.Id", false, ByCount: true);
        }

        if ((sort == Relevance || (sort is null && query?.Query.ByRelevance == true)) && query?.Relevance is not null)
        {
            return new ItemOrder(
                "0",
                "LEFT JOIN (SELECT rowid AS Id, bm25(item_fts, 4.0, 1.0, 1.0, 1.0) AS Rank FROM item_fts WHERE "
                    + "item_fts MATCH $relevance) r ON r.Id = i.Id",
                "COALESCE(r.Rank, 0), i.Id",
                false,
                ByCount: true
            );
        }

        sort = sort is null or Relevance ? "-modified" : sort;
        var way = sort.StartsWith('-') ? "DESC" : "ASC";
        return Columns.TryGetValue(sort.TrimStart('-'), out var column)
            ? new ItemOrder(column, "", $"{column} {way}, i.Id {way}", way == "DESC", ByCount: false)
            : new Refusal(
                "sort-unknown",
                "sort",
                $"Sort by {string.Join(", ", Columns.Keys)} or {Relevance}, with - before it for the other way round."
            );
    }

    public bool Accepts((object Value, long Id) at) => !ByCount || at.Value is long;

    /// <summary>The condition that leaves out what was shown.</summary>
    public string Beyond((object Value, long Id)? at, SqliteCommand command)
    {
        if (ByCount || at is not { } last)
        {
            return "";
        }

        command.Parameters.AddWithValue("$at", last.Value);
        command.Parameters.AddWithValue("$atId", last.Id);
        return $"AND ({Expression}, i.Id) {(Descending ? "<" : ">")} ($at, $atId)";
    }

    public string Offset((object Value, long Id)? at) =>
        ByCount && at is { } last
            ? string.Create(CultureInfo.InvariantCulture, $"OFFSET {Math.Max(0, (long)last.Value)}")
            : "";

    public string Next((object Value, long Id)? at, object value, long id, int shown) =>
        ByCount ? Cursor.Write((at is { } last ? (long)last.Value : 0) + shown, 0) : Cursor.Write(value, id);

    private static string Key(Core.Query.SortKey key)
    {
        var value =
            ItemColumn.Of(key.Index)?.OrderSql ?? FieldKey(key.Field!.Replace("'", "''", StringComparison.Ordinal));
        return $"{value} IS NULL, {value} {(key.Descending ? "DESC" : "ASC")}";
    }

    /// <summary>
    /// Numbers stand before dates, and these before names. The compiler took the name from a query: it is a value here,
    /// never a part of the SQL.
    /// </summary>
    private static string FieldKey(string name) =>
        $"""
            COALESCE(
                (SELECT strftime('%Y-%m-%d', d.Date * 86400, 'unixepoch')
                    FROM item_date d WHERE d.ItemId = i.Id AND d.Name = '{name}'),
                (SELECT CASE WHEN f.Value GLOB '*[0-9]*' AND f.Value NOT GLOB '*[^-+.0-9]*'
                        THEN CAST(f.Value AS REAL) ELSE f.Value END
                    FROM item_field f WHERE f.ItemId = i.Id AND f.Name = '{name}')) COLLATE NOCASE
            """;
}
