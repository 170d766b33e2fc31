using NodaTime;
using WideKeel.Core.Content;

namespace WideKeel.Core.Retention;

/// <summary>What an item has before it: until when it is kept, and when and by which rule it is disposed of.</summary>
/// <param name="FallsDue">The first day on which its end action may happen; null where that never comes, because it
/// is held, has no end action, waits for an event or is permanent.</param>
/// <param name="Rule">The rule that disposes of it.</param>
public readonly record struct ItemAhead(long Bytes, KeepUntil KeepUntil, LocalDate? FallsDue, string? Rule);

/// <summary>One calendar month to come.</summary>
/// <param name="Kept">Items that are there on its last day.</param>
/// <param name="BeyondTerm">Of these the ones whose keep-until has passed, or that no rule keeps.</param>
/// <param name="Cost">Of what is kept on its last day, rounded to hundredths, half to even.</param>
/// <param name="ByRule">How many fall due by each rule, in ordinal order of its name.</param>
public sealed record MonthAhead(
    YearMonth Month,
    int FallsDue,
    long BytesDue,
    int Kept,
    long KeptBytes,
    int BeyondTerm,
    decimal Cost,
    IReadOnlyDictionary<string, int> ByRule
);

/// <summary>
/// The months to come over given items, if no event, hold or rule changes and what falls due is disposed of on its
/// first day. One pass over the items, one over the months.
/// </summary>
public static class Ahead
{
    /// <summary>As far as it can look: beyond 50 years dates that are implausible today would begin to count.</summary>
    public const int MostMonths = 600;

    private const decimal BytesInGibibyte = 1L << 30;

    /// <param name="today">Its month is the first; what is due by then falls due in it.</param>
    /// <param name="months">1 to <see cref="MostMonths"/>.</param>
    /// <param name="price">Of one GiB and month, 0 or more.</param>
    public static IReadOnlyList<MonthAhead> Months(
        IEnumerable<ItemAhead> items,
        LocalDate today,
        int months,
        decimal price = 0
    )
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(months, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(months, MostMonths);
        var first = today.ToYearMonth();
        var due = Enumerable.Range(0, months).Select(_ => new DueInMonth()).ToArray();
        // At which month's end an item has come to be beyond its term; taken back when it is disposed of.
        var beyond = new int[months];
        var (kept, keptBytes) = (0, 0L);
        foreach (var item in items)
        {
            kept++;
            keptBytes += item.Bytes;
            var leaves = item.FallsDue is { } day ? Math.Max(0, MonthsBetween(first, day.ToYearMonth())) : months;
            if (leaves < months)
            {
                due[leaves].Add(item);
            }

            if (BeyondFrom(item.KeepUntil, first) is { } from && from < leaves && from < months)
            {
                beyond[from]++;
                if (leaves < months)
                {
                    beyond[leaves]--;
                }
            }
        }

        var beyondTerm = 0;
        List<MonthAhead> ahead = [];
        for (var i = 0; i < months; i++)
        {
            kept -= due[i].Items;
            keptBytes -= due[i].Bytes;
            beyondTerm += beyond[i];
            var month = first.OnDayOfMonth(1).PlusMonths(i).ToYearMonth();
            var cost = Math.Round(keptBytes / BytesInGibibyte * price, 2, MidpointRounding.ToEven);
            ahead.Add(new(month, due[i].Items, due[i].Bytes, kept, keptBytes, beyondTerm, cost, due[i].ByRule));
        }

        return ahead;
    }

    /// <summary>The first month at whose last day nothing keeps the item any more; null where something always
    /// does.</summary>
    private static int? BeyondFrom(KeepUntil keep, YearMonth first) =>
        keep.IsNothing ? 0
        // Kept through the day itself: on the last day of a month it has passed if it lies before that day.
        : keep.Date is { } last ? Math.Max(0, MonthsBetween(first, last.PlusDays(1).ToYearMonth()))
        : null;

    private static int MonthsBetween(YearMonth from, YearMonth to) =>
        ((to.Year - from.Year) * 12) + to.Month - from.Month;

    private sealed class DueInMonth
    {
        public int Items { get; private set; }

        public long Bytes { get; private set; }

        public SortedDictionary<string, int> ByRule { get; } = new(StringComparer.Ordinal);

        public void Add(ItemAhead item)
        {
            Items++;
            Bytes += item.Bytes;
            if (item.Rule is { } rule)
            {
                ByRule[rule] = ByRule.GetValueOrDefault(rule) + 1;
            }
        }
    }
}
