using System.Globalization;
using Microsoft.Data.Sqlite;
using NodaTime;
using SQLitePCL;
using WideKeel.Core.Activity;

namespace WideKeel.Store.Activity;

/// <summary>An event at hand, with where it stands.</summary>
/// <param name="UnitId">The unit whose people may read it.</param>
public sealed record StoredEvent(long Id, long ChannelId, long UnitId, long? SegmentId, ActivityEvent Event);

/// <summary>
/// Writes and reads events by statements of their own: there are millions of them, and each repeats values that are
/// kept once.
/// </summary>
public static class EventStore
{
    /// <summary>The coded columns in the order of the statements below.</summary>
    private static readonly EventColumn[] Coded = [.. EventColumn.All.Where(c => c.IsCoded)];

    private static readonly Dictionary<EventColumn, int> Places = Coded
        .Select((c, i) => (c, i))
        .ToDictionary(p => p.c, p => p.i);

    private static readonly string Names = string.Join(", ", Coded.Select(c => EventSql.ColumnOf(c)[2..]));

    private const string Line = "(SELECT o.Line FROM activity_original o WHERE o.EventId = e.Id)";

    private static readonly string Numbers = string.Join(", ", Coded.Select(EventSql.ColumnOf));

    /// <summary>
    /// Adds events; those whose id the channel has already are passed over.
    /// </summary>
    /// <returns>For each, whether it was added.</returns>
    public static IReadOnlyList<bool> Add(
        WriteSession session,
        long channelId,
        IReadOnlyList<(ActivityEvent Event, long UnitId)> events
    )
    {
        var codes = new ValueCodes(session);
        using var insert = new Statement(
            session.Connection,
            $"""
            INSERT OR IGNORE INTO activity_event
                (ChannelId, SourceId, Time, Received, UnitId, Latitude, Longitude, Amount, Details, {Names})
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, {string.Join(", ", Coded.Select(_ => "?"))})
            """
        );
        using var line = new Statement(
            session.Connection,
            "INSERT INTO activity_original (EventId, Line) VALUES (?, ?)"
        );
        List<bool> added = new(events.Count);
        EventCounts counts = new(channelId);
        var ids = new long?[Coded.Length];
        foreach (var (e, unit) in events)
        {
            insert.Bind(1, channelId);
            insert.Bind(2, e.Id);
            insert.Bind(3, e.Time.ToUnixTimeMilliseconds());
            insert.Bind(4, (e.Received ?? session.Now).ToUnixTimeMilliseconds());
            insert.Bind(5, unit);
            insert.Bind(6, e.Place?.Latitude);
            insert.Bind(7, e.Place?.Longitude);
            insert.Bind(8, (double?)e.Amount);
            insert.Bind(9, e.Details);
            for (var i = 0; i < Coded.Length; i++)
            {
                insert.Bind(10 + i, ids[i] = codes.Of(Coded[i], Coded[i].ValueOf(e)));
            }

            added.Add(insert.Run() == 1);
            if (added[^1])
            {
                if (e.Original is not null)
                {
                    line.Bind(1, insert.LastId);
                    line.Bind(2, e.Original);
                    line.Run();
                }

                counts.Add(e.Time, unit, column => ids[Places[column]]);
            }
        }

        counts.Write(session);
        return added;
    }

    /// <summary>The hours in which each key did something, among the events that a condition finds.</summary>
    /// <param name="per">The column of the keys; null for all together.</param>
    public static IReadOnlyList<BusyHour> BusyHours(
        SqliteConnection connection,
        string where,
        Action<SqliteCommand> bind,
        EventColumn? per
    )
    {
        using var command = connection.CreateCommand();
        var key = per is null ? "NULL" : EventSql.ColumnOf(per);
        command.CommandText = $"""
            SELECT {key}, (e.Time - ((e.Time % $hour) + $hour) % $hour) / $hour, COUNT(DISTINCT e.Actor), MIN(e.Time), MAX(e.Time)
            FROM activity_event e WHERE {where}{(per is null ? "" : $" AND {key} IS NOT NULL")} GROUP BY 1, 2
            """;
        command.Parameters.AddWithValue("$hour", EventCounts.HourMilliseconds);
        bind(command);
        using var values = new ValueTexts(connection);
        using var reader = command.ExecuteReader();
        List<BusyHour> hours = [];
        while (reader.Read())
        {
            hours.Add(
                new(
                    reader.IsDBNull(0) ? null : values.Of(reader.GetInt64(0)),
                    reader.GetInt64(1),
                    Math.Max(1, reader.GetInt32(2)),
                    Instant.FromUnixTimeMilliseconds(reader.GetInt64(3)),
                    Instant.FromUnixTimeMilliseconds(reader.GetInt64(4))
                )
            );
        }

        return hours;
    }

    /// <summary>Events that a condition over <c>e</c> fits.</summary>
    /// <param name="rest">What follows WHERE, with order and limit.</param>
    /// <param name="original">False leaves out the lines as they came.</param>
    public static IEnumerable<StoredEvent> Read(
        SqliteConnection connection,
        string rest,
        Action<SqliteCommand> bind,
        bool original = true
    )
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT e.Id, e.ChannelId, e.UnitId, e.SegmentId, e.SourceId, e.Time, e.Received, e.Latitude, e.Longitude,
                e.Amount, e.Details, {(original ? Line : "NULL")}, {Numbers}
            FROM activity_event e WHERE {rest}
            """;
        bind(command);
        using var values = new ValueTexts(connection);
        using var reader = command.ExecuteReader();
        var row = new RawRow(reader.Handle!);
        var texts = new string?[Coded.Length];
        var numbers = new long[Coded.Length];
        while (reader.Read())
        {
            for (var i = 0; i < Coded.Length; i++)
            {
                // No value has the number 0, and neighbours often share one.
                var number = row.Whole(12 + i);
                if (number != numbers[i])
                {
                    (numbers[i], texts[i]) = (number, number == 0 ? null : values.Of(number));
                }
            }

            yield return new(
                row.Whole(0),
                row.Whole(1),
                row.Whole(2),
                row.Whole(3) is var segment and not 0 ? segment : null,
                EventOf(row, texts)
            );
        }
    }

    /// <param name="texts">The values of the coded columns.</param>
    private static ActivityEvent EventOf(RawRow row, string?[] texts)
    {
        var country = Value(EventColumn.Country);
        var place = Value(EventColumn.Place);
        return new()
        {
            Id = row.Text(4)!,
            Time = Instant.FromUnixTimeMilliseconds(row.Whole(5)),
            Received = Instant.FromUnixTimeMilliseconds(row.Whole(6)),
            Place =
                country is null && place is null && row.Number(7) is null
                    ? null
                    : new(country, place, row.Number(7), row.Number(8)),
            Amount = row.Number(9) is { } amount ? (decimal)amount : null,
            Details = row.Text(10),
            Original = row.Text(11),
            Channel = Value(EventColumn.Channel),
            Actor = Value(EventColumn.Actor),
            ActorKind = Enum.Parse<ActorKind>(Value(EventColumn.ActorKind)!, ignoreCase: true),
            Category = Value(EventColumn.Category),
            Action = Value(EventColumn.Action),
            Object = Value(EventColumn.Object),
            Container = Value(EventColumn.Container),
            Target = Value(EventColumn.Target),
            Address = Value(EventColumn.Address),
            Network = Value(EventColumn.Network),
            Device = Value(EventColumn.Device),
            Application = Value(EventColumn.Application),
            Outcome = Value(EventColumn.Outcome) is { } outcome
                ? Enum.Parse<EventOutcome>(outcome, ignoreCase: true)
                : null,
            Code = Value(EventColumn.Code),
            Unit = Value(EventColumn.Unit),
            Title = Value(EventColumn.Title),
        };

        string? Value(EventColumn column) => texts[Places[column]];
    }

    /// <summary>
    /// The row at which a reader stands, without the reader's checks of each value: for what is read by the million those
    /// cost more than all else.
    /// </summary>
    private readonly struct RawRow(sqlite3_stmt statement)
    {
        /// <summary>0 where there is none.</summary>
        public long Whole(int at) => raw.sqlite3_column_int64(statement, at);

        public double? Number(int at) => IsNull(at) ? null : raw.sqlite3_column_double(statement, at);

        public string? Text(int at) => IsNull(at) ? null : raw.sqlite3_column_text(statement, at).utf8_to_string();

        private bool IsNull(int at) => raw.sqlite3_column_type(statement, at) == raw.SQLITE_NULL;
    }

    /// <summary>The values of numbers, each looked up once while rows are read.</summary>
    private sealed class ValueTexts : IDisposable
    {
        private readonly Dictionary<long, string> known = [];
        private readonly sqlite3 database;
        private readonly sqlite3_stmt find;

        public ValueTexts(SqliteConnection connection)
        {
            database = connection.Handle!;
            Check(raw.sqlite3_prepare_v2(database, "SELECT Value FROM activity_value WHERE Id = ?", out var statement));
            find = statement;
        }

        /// <exception cref="SqliteException">There is no such value, or it cannot be read.</exception>
        public string Of(long number)
        {
            if (!known.TryGetValue(number, out var value))
            {
                Check(raw.sqlite3_bind_int64(find, 1, number));
                var result = raw.sqlite3_step(find);
                if (result != raw.SQLITE_ROW)
                {
                    Check(result == raw.SQLITE_DONE ? raw.SQLITE_CORRUPT : result);
                }

                known[number] = value = raw.sqlite3_column_text(find, 0).utf8_to_string();
                Check(raw.sqlite3_reset(find));
            }

            return value;
        }

        public void Dispose() => find.Dispose();

        private void Check(int result) => SqliteException.ThrowExceptionForRC(result, database);
    }

    /// <summary>The numbers of values, made as they are met.</summary>
    private sealed class ValueCodes(WriteSession session)
    {
        private readonly Dictionary<(string, string), long> known = [];

        public long? Of(EventColumn column, string? value)
        {
            if (value is null)
            {
                return null;
            }

            if (known.TryGetValue((column.Name, value), out var id))
            {
                return id;
            }

            using var command = session.Command(
                """
                INSERT OR IGNORE INTO activity_value ("Column", Value) VALUES ($column, $value);
                SELECT Id FROM activity_value WHERE "Column" = $column AND Value = $value;
                """
            );
            command.Parameters.AddWithValue("$column", column.Name);
            command.Parameters.AddWithValue("$value", value);
            return known[(column.Name, value)] = Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
        }
    }
}
