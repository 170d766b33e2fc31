using NodaTime;

namespace WideKeel.Core.Query;

/// <summary>The order that sort keys ask for. Items without a value stand last, whichever way.</summary>
public static class QuerySort
{
    /// <summary>Stable: items that the keys do not tell apart keep their order.</summary>
    public static IEnumerable<T> Sorted<T>(IEnumerable<T> items, Func<T, QueryItem> of, IReadOnlyList<SortKey> keys)
    {
        if (keys.Count == 0)
        {
            return items;
        }

        IOrderedEnumerable<T>? ordered = null;
        foreach (var key in keys)
        {
            var (byPresence, byValue) = (
                Comparer<object?>.Create((a, b) => (a is null).CompareTo(b is null)),
                Comparer<object?>.Create((a, b) => Compare(a, b) * (key.Descending ? -1 : 1))
            );
            ordered = ordered is null
                ? items.OrderBy(i => Value(of(i), key), byPresence)
                : ordered.ThenBy(i => Value(of(i), key), byPresence);
            ordered = ordered.ThenBy(i => Value(of(i), key), byValue);
        }

        return ordered!;
    }

    private static object? Value(QueryItem item, SortKey key) =>
        key.Index.Date is { } day ? day(item)
        : key.Index.Kind == IndexKind.Sizes ? item.Size
        : key.Index.Of(item, key.Field).FirstOrDefault() is not { } text ? null
        : key.Index.Kind != IndexKind.Any ? text
        : QueryValues.Number(text) is { } number ? number
        : QueryValues.Date(text) is { } date ? date
        : text;

    /// <summary>Numbers before dates before names where a field holds all three.</summary>
    private static int Compare(object? a, object? b) =>
        (a, b) switch
        {
            (decimal x, decimal y) => x.CompareTo(y),
            (LocalDate x, LocalDate y) => x.CompareTo(y),
            (string x, string y) => string.Compare(x, y, StringComparison.OrdinalIgnoreCase),
            _ => Rank(a).CompareTo(Rank(b)),
        };

    private static int Rank(object? value) =>
        value switch
        {
            decimal => 0,
            LocalDate => 1,
            _ => 2,
        };
}
