using System.Globalization;
using Microsoft.Data.Sqlite;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>A span of time, in milliseconds since 1970; open where an end is null.</summary>
/// <param name="Before">The first moment that no longer counts.</param>
public readonly record struct EventSpan(long? From, long? Before)
{
    /// <summary>The span that a condition asks for; null where it asks for anything else.</summary>
    public static EventSpan? Of(Condition condition) =>
        condition switch
        {
            Condition.Everything => new EventSpan(null, null),
            Condition.InstantIn range when range.Index == EventColumn.Time.Index => new(
                range.From?.ToUnixTimeMilliseconds(),
                range.Before?.ToUnixTimeMilliseconds()
            ),
            Condition.All all => all.Of.Aggregate(
                (EventSpan?)new EventSpan(null, null),
                (span, c) => span is { } s && Of(c) is { } other ? s.And(other) : null
            ),
            _ => null,
        };

    private EventSpan And(EventSpan other) => new(Later(From, other.From), Earlier(Before, other.Before));

    private static long? Later(long? a, long? b) => a is null || b > a ? b : a;

    private static long? Earlier(long? a, long? b) => a is null || b < a ? b : a;
}

/// <summary>How the events of a span of time ended.</summary>
public readonly record struct OutcomeCount(long Success, long Failure, long All);

/// <summary>
/// The figures of a question. Where it asks for a span only, whole days and hours come from the counts that are kept
/// beside the events, and only what is left at the span's ends is counted; else each event is looked at, once.
/// </summary>
public sealed class EventTally(EventQuestion question)
{
    /// <summary>How many events there are.</summary>
    public long Total() =>
        question.Span is null
            ? question.Rows("SELECT COUNT(*)", "", r => r.GetInt64(0))[0]
            : ByTime(EventCounts.HourMilliseconds).Values.Sum(c => c.All);

    /// <summary>How they ended, by spans of time; a span is named by its number since 1970.</summary>
    /// <param name="width">In milliseconds.</param>
    public Dictionary<long, OutcomeCount> ByTime(long width)
    {
        Dictionary<long, OutcomeCount> counts = [];
        var whole = width % EventCounts.HourMilliseconds == 0 ? Whole(EventCounts.HourMilliseconds) : null;
        if (whole is var (first, end))
        {
            using var command = Command(
                $"""
                SELECT {EventCounts.Floor($"(c.Hour * {EventCounts.HourMilliseconds})", width)}, {Outcomes("c.Events")}
                FROM activity_hour_count c LEFT JOIN activity_value o ON o.Id = c.Outcome
                WHERE {question.Access.WhereOf("c")} AND c.Hour >= $first AND c.Hour < $end GROUP BY 1
                """,
                first,
                end
            );
            Add(command);
        }

        using var looked = Looked(
            $"SELECT {EventCounts.Floor("e.Time", width)}, {Outcomes("1")}",
            "LEFT JOIN activity_value o ON o.Id = e.Outcome",
            whole,
            EventCounts.HourMilliseconds,
            "GROUP BY 1"
        );
        Add(looked);
        return counts;

        void Add(SqliteCommand command)
        {
            foreach (
                var (at, more) in EventQuestion.Rows(
                    command,
                    r => (r.GetInt64(0), new OutcomeCount(r.GetInt64(1), r.GetInt64(2), r.GetInt64(3)))
                )
            )
            {
                var so = counts.GetValueOrDefault(at);
                counts[at] = new(so.Success + more.Success, so.Failure + more.Failure, so.All + more.All);
            }
        }
    }

    /// <summary>The values of some columns with the numbers of events, the most frequent first.</summary>
    /// <param name="most">Of each column.</param>
    public IReadOnlyList<IReadOnlyList<FacetValue>> Values(IReadOnlyList<EventColumn> columns, int most)
    {
        Dictionary<long, long> counts = [];
        var whole = columns.All(EventCounts.Columns.Contains) ? Whole(EventCounts.DayMilliseconds) : null;
        if (whole is var (first, end))
        {
            using var command = Command(
                $"""
                SELECT c.ValueId, SUM(c.Events) FROM activity_day_count c
                WHERE {question.Access.WhereOf("c")} AND c.Day >= $first AND c.Day < $end GROUP BY 1
                """,
                first,
                end
            );
            foreach (var (value, events) in EventQuestion.Rows(command, r => (r.GetInt64(0), r.GetInt64(1))))
            {
                counts[value] = events;
            }
        }

        using var looked = Looked(
            $"SELECT {string.Join(", ", columns.Select(EventSql.ColumnOf))}",
            "",
            whole,
            EventCounts.DayMilliseconds,
            ""
        );
        using (var reader = looked.ExecuteReader())
        {
            EventCounts.Count(reader, counts);
        }

        counts.Remove(0);
        return Named(counts, columns, most);
    }

    private IReadOnlyList<IReadOnlyList<FacetValue>> Named(
        Dictionary<long, long> counts,
        IReadOnlyList<EventColumn> columns,
        int most
    )
    {
        using var command = question.Connection.CreateCommand();
        command.CommandText = """
            SELECT "Column", Value, Id FROM activity_value
            WHERE Id IN (SELECT value FROM json_each($ids)) AND "Column" IN (SELECT value FROM json_each($columns))
            """;
        command.Parameters.AddWithValue("$ids", System.Text.Json.JsonSerializer.Serialize(counts.Keys));
        command.Parameters.AddWithValue(
            "$columns",
            System.Text.Json.JsonSerializer.Serialize(columns.Select(c => c.Name))
        );
        var named = EventQuestion
            .Rows(command, r => (Column: r.GetString(0), Value: r.GetString(1), Events: counts[r.GetInt64(2)]))
            .ToLookup(v => v.Column);
        return
        [
            .. columns.Select(c =>
                (IReadOnlyList<FacetValue>)
                    [
                        .. named[c.Name]
                            .OrderByDescending(v => v.Events)
                            .ThenBy(v => v.Value, StringComparer.Ordinal)
                            .Take(most)
                            .Select(v => new FacetValue(v.Value, v.Events)),
                    ]
            ),
        ];
    }

    /// <summary>The whole days or hours of the span, from one number to before another; null where none are counted.</summary>
    private (long First, long End)? Whole(long width)
    {
        if (question.Span is not { } span)
        {
            return null;
        }

        var first = span.From is { } from ? EventCounts.Floor(from + width - 1, width) : long.MinValue / width;
        var end = span.Before is { } before ? EventCounts.Floor(before, width) : long.MaxValue / width;
        return first < end ? (first, end) : null;
    }

    /// <summary>A statement over the events that no count answers for.</summary>
    private SqliteCommand Looked(string select, string joined, (long First, long End)? whole, long width, string rest)
    {
        // Two ends, each a short stretch of the index by time.
        var ends = whole is var (first, end)
            ? string.Create(
                CultureInfo.InvariantCulture,
                $"""
                AND e.Id IN (
                    SELECT Id FROM activity_event WHERE Time < {first * width} AND Time >= {question.Span!.Value.From
                    ?? first * width}
                    UNION ALL
                    SELECT Id FROM activity_event WHERE Time >= {end * width} AND Time < {question.Span!.Value.Before
                    ?? end * width})
                """
            )
            : "";
        var command = question.Connection.CreateCommand();
        command.CommandText = $"{select} FROM activity_event e {joined} WHERE {question.Where} {ends} {rest}";
        question.Bind(command);
        return command;
    }

    private SqliteCommand Command(string text, long first, long end)
    {
        var command = question.Connection.CreateCommand();
        command.CommandText = text;
        question.Access.Bind(command);
        command.Parameters.AddWithValue("$first", first);
        command.Parameters.AddWithValue("$end", end);
        return command;
    }

    private static string Outcomes(string events) =>
        string.Join(
            ", ",
            $"COALESCE(SUM(CASE WHEN o.Value = 'success' THEN {events} END), 0)",
            $"COALESCE(SUM(CASE WHEN o.Value = 'failure' THEN {events} END), 0)",
            $"SUM({events})"
        );
}
