using System.Globalization;
using System.Runtime.InteropServices;
using Microsoft.Data.Sqlite;
using NodaTime;
using SQLitePCL;
using WideKeel.Core.Activity;

namespace WideKeel.Store.Activity;

/// <summary>
/// How many events at hand have which values, by UTC day, and ended how, by UTC hour: written beside the events, in
/// their transaction, so that figures over long spans need not look at each event.
/// </summary>
public sealed class EventCounts(long channelId)
{
    public const long DayMilliseconds = 86_400_000;
    public const long HourMilliseconds = 3_600_000;

    /// <summary>The columns whose values are counted.</summary>
    public static IReadOnlyList<EventColumn> Columns { get; } =
    [
        EventColumn.Actor,
        EventColumn.Action,
        EventColumn.Container,
        EventColumn.Outcome,
        EventColumn.Channel,
        EventColumn.Network,
        EventColumn.Place,
        EventColumn.Application,
        EventColumn.Unit,
    ];

    private readonly Dictionary<(long Day, long Unit, long Value), long> days = [];
    private readonly Dictionary<(long Hour, long Unit, long Outcome), long> hours = [];

    /// <param name="valueOf">The number of the event's value in a column; null where it has none.</param>
    internal void Add(Instant time, long unit, Func<EventColumn, long?> valueOf)
    {
        var milliseconds = time.ToUnixTimeMilliseconds();
        var day = Floor(milliseconds, DayMilliseconds);
        foreach (var column in Columns)
        {
            if (valueOf(column) is { } value)
            {
                days[(day, unit, value)] = days.GetValueOrDefault((day, unit, value)) + 1;
            }
        }

        var hour = (Floor(milliseconds, HourMilliseconds), unit, valueOf(EventColumn.Outcome) ?? 0);
        hours[hour] = hours.GetValueOrDefault(hour) + 1;
    }

    internal void Write(WriteSession session)
    {
        Write(session, "activity_day_count", "Day, UnitId, ValueId", days);
        Write(session, "activity_hour_count", "Hour, UnitId, Outcome", hours);
    }

    private void Write(
        WriteSession session,
        string table,
        string columns,
        Dictionary<(long At, long Unit, long Value), long> counts
    )
    {
        using var add = new Statement(
            session.Connection,
            $"INSERT INTO {table} (ChannelId, {columns}, Events) VALUES (?, ?, ?, ?, ?) "
                + "ON CONFLICT DO UPDATE SET Events = Events + excluded.Events"
        );
        foreach (var ((at, unit, value), events) in counts)
        {
            add.Bind(1, channelId);
            add.Bind(2, at);
            add.Bind(3, unit);
            add.Bind(4, value);
            add.Bind(5, events);
            add.Run();
        }
    }

    /// <summary>Values met early have low numbers, and the most frequent ones are met early: those are counted by place.</summary>
    private const int Dense = 1 << 16;

    /// <summary>
    /// Adds how often each number stands in the rows of a reader, whose columns are all numbers of values. There are millions
    /// of rows, so it reads them without the checks of the reader.
    /// </summary>
    /// <param name="counts">By the number of the value; 0 counts where there is none.</param>
    public static void Count(SqliteDataReader reader, Dictionary<long, long> counts)
    {
        var (statement, columns) = (reader.Handle, reader.FieldCount);
        var dense = new long[Dense];
        while (reader.Read())
        {
            for (var i = 0; i < columns; i++)
            {
                var value = raw.sqlite3_column_int64(statement, i);
                if (value < Dense)
                {
                    dense[value]++;
                }
                else
                {
                    CollectionsMarshal.GetValueRefOrAddDefault(counts, value, out _)++;
                }
            }
        }

        for (var value = 0; value < Dense; value++)
        {
            if (dense[value] > 0)
            {
                CollectionsMarshal.GetValueRefOrAddDefault(counts, value, out _) += dense[value];
            }
        }
    }

    /// <summary>The days of a channel of which events are at hand, before one of them; days since 1970-01-01.</summary>
    public static IReadOnlyList<long> DaysBefore(WriteSession session, long channelId, long end)
    {
        using var command = session.Command(
            "SELECT DISTINCT Day FROM activity_day_count WHERE ChannelId = $channel AND Day < $end ORDER BY Day"
        );
        command.Parameters.AddWithValue("$channel", channelId);
        command.Parameters.AddWithValue("$end", end);
        using var reader = command.ExecuteReader();
        List<long> days = [];
        while (reader.Read())
        {
            days.Add(reader.GetInt64(0));
        }

        return days;
    }

    /// <summary>Counts a day of a channel anew, from the rows that are left after others went.</summary>
    /// <param name="day">Days since 1970-01-01.</param>
    public static void Recount(WriteSession session, long channelId, long day)
    {
        const string rows =
            $"activity_event e INDEXED BY {EventSql.ByTime} WHERE e.ChannelId = $channel AND e.Time >= $from AND e.Time < $before";
        var values = Columns.Select(c =>
            $"""
                INSERT INTO activity_day_count (ChannelId, Day, UnitId, ValueId, Events)
                SELECT e.ChannelId, $day, e.UnitId, {EventSql.ColumnOf(c)}, COUNT(*) FROM {rows}
                AND {EventSql.ColumnOf(c)} IS NOT NULL GROUP BY 3, 4;
                """
        );
        using var command = session.Command(
            $"""
            DELETE FROM activity_day_count WHERE ChannelId = $channel AND Day = $day;
            DELETE FROM activity_hour_count WHERE ChannelId = $channel AND Hour >= $day * 24 AND Hour < ($day + 1) * 24;
            {string.Join('\n', values)}
            INSERT INTO activity_hour_count (ChannelId, Hour, UnitId, Outcome, Events)
            SELECT e.ChannelId, {Floor(
                "e.Time",
                HourMilliseconds
            )}, e.UnitId, COALESCE(e.Outcome, 0), COUNT(*) FROM {rows}
            GROUP BY 2, 3, 4;
            """
        );
        command.Parameters.AddWithValue("$channel", channelId);
        command.Parameters.AddWithValue("$day", day);
        command.Parameters.AddWithValue("$from", day * DayMilliseconds);
        command.Parameters.AddWithValue("$before", (day + 1) * DayMilliseconds);
        command.ExecuteNonQuery();
    }

    /// <summary>In which span of a width a moment lies, counted from 1970 on.</summary>
    public static long Floor(long milliseconds, long width) => (milliseconds - Rest(milliseconds, width)) / width;

    /// <summary>The same in SQL, which divides towards zero.</summary>
    /// <param name="time">A column with milliseconds.</param>
    public static string Floor(string time, long width) =>
        string.Create(CultureInfo.InvariantCulture, $"(({time} - (({time} % {width}) + {width}) % {width}) / {width})");

    private static long Rest(long milliseconds, long width) => ((milliseconds % width) + width) % width;
}
