using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>Whether one event in hand is meant.</summary>
public static class EventMatcher
{
    // Long because each kind of condition is one arm, and the compiler sees them all.
    public static bool Matches(Condition condition, ActivityEvent e) =>
        condition switch
        {
            Condition.Everything => true,
            Condition.All all => all.Of.All(c => Matches(c, e)),
            Condition.Any any => any.Of.Any(c => Matches(c, e)),
            Condition.Not not => !Matches(not.Of, e),
            Condition.HasWords words => HasWords(words, EventColumn.OfText.Select(c => c.ValueOf(e)).OfType<string>()),
            Condition.Near near => QueryMatcher.Matches(near, AsItem(e)),
            Condition.Is { Index: var index } value => Value(index, value.Field, e) is { } v
                && QueryValues.Fits(value, v),
            Condition.Has has => Has(has, e),
            Condition.InstantIn range => Fits(range, e.Time),
            Condition.AddressIn range => e.Address is { } address && Cidr.Holds(range.Network, address),
            Condition.DateIn dates => Value(dates.Index, dates.Field, e) is { } v
                && QueryValues.Date(v) is { } date
                && QueryValues.Fits(dates, date),
            Condition.NumberIn numbers => Number(numbers, e) is { } number && QueryValues.Fits(numbers, number),
            Condition.NameIn names => Value(names.Index, names.Field, e) is { } v && QueryValues.Fits(names, v),
            _ => throw new ArgumentOutOfRangeException(nameof(condition)),
        };

    /// <summary>Whether a moment lies in the range.</summary>
    public static bool Fits(Condition.InstantIn range, NodaTime.Instant time) =>
        !(time < range.From) && !(time >= range.Before);

    /// <summary>
    /// Whether the values hold the words: a phrase within one of them, all words each in one of them, or any.
    /// </summary>
    public static bool HasWords(Condition.HasWords condition, IEnumerable<string> values)
    {
        var items = values.Select(v => new QueryItem { Body = v }).ToList();
        return condition switch
        {
            { Words.Count: 0 } => false,
            { How: WordMatch.AllOf } => condition.Words.All(w => Within(condition with { Words = [w] })),
            _ => Within(condition),
        };

        bool Within(Condition.HasWords words)
        {
            var inBody = words with { Index = QueryIndex.Text };
            return items.Exists(i => QueryMatcher.Matches(inBody, i));
        }
    }

    private static bool Has(Condition.Has has, ActivityEvent e) =>
        has.Index == EventColumn.Text || Value(has.Index, has.Field, e) is not null;

    private static string? Value(QueryIndex index, string? field, ActivityEvent e) =>
        index == QueryIndex.Field ? EventColumn.FieldsOf(e.Details).GetValueOrDefault(field!)
        : index == EventColumn.Text ? string.Join('\n', EventColumn.OfText.Select(c => c.ValueOf(e)).OfType<string>())
        : EventColumn.Of(index).ValueOf(e);

    private static decimal? Number(Condition.NumberIn condition, ActivityEvent e) =>
        condition.Index == EventColumn.Amount.Index ? e.Amount
        : Value(condition.Index, condition.Field, e) is { } value ? QueryValues.Number(value)
        : null;

    /// <summary>Nearness is counted in words of one text, so the values stand in paragraphs of their own.</summary>
    private static QueryItem AsItem(ActivityEvent e) => new() { Body = Value(EventColumn.Text, null, e) };
}
