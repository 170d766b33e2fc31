using System.Globalization;
using Microsoft.Data.Sqlite;
using NodaTime;
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

    private static readonly string Names = string.Join(", ", Coded.Select(c => EventSql.ColumnOf(c)[2..]));

    private static readonly string Values = string.Join(
        ", ",
        Coded.Select(c => $"(SELECT Value FROM activity_value WHERE Id = {EventSql.ColumnOf(c)})")
    );

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
                (ChannelId, SourceId, Time, Received, UnitId, Latitude, Longitude, Amount, Details, Original, {Names})
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, {string.Join(", ", Coded.Select(_ => "?"))})
            """
        );
        List<bool> added = new(events.Count);
        using var changes = session.Command("SELECT changes()");
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
            insert.Bind(10, e.Original);
            for (var i = 0; i < Coded.Length; i++)
            {
                insert.Bind(11 + i, codes.Of(Coded[i], Coded[i].ValueOf(e)));
            }

            insert.Run();
            added.Add((long)changes.ExecuteScalar()! == 1);
        }

        return added;
    }

    /// <summary>Events that a condition over <c>e</c> fits.</summary>
    /// <param name="rest">What follows WHERE, with order and limit.</param>
    public static IEnumerable<StoredEvent> Read(SqliteConnection connection, string rest, Action<SqliteCommand> bind)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT e.Id, e.ChannelId, e.UnitId, e.SegmentId, e.SourceId, e.Time, e.Received, e.Latitude, e.Longitude,
                e.Amount, e.Details, e.Original, {Values}
            FROM activity_event e WHERE {rest}
            """;
        bind(command);
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            yield return new(
                reader.GetInt64(0),
                reader.GetInt64(1),
                reader.GetInt64(2),
                reader.IsDBNull(3) ? null : reader.GetInt64(3),
                EventOf(reader)
            );
        }
    }

    private static ActivityEvent EventOf(SqliteDataReader reader)
    {
        Dictionary<EventColumn, string?> value = new(Coded.Length);
        for (var i = 0; i < Coded.Length; i++)
        {
            value[Coded[i]] = Text(12 + i);
        }

        var country = value[EventColumn.Country];
        var place = value[EventColumn.Place];
        return new()
        {
            Id = reader.GetString(4),
            Time = Instant.FromUnixTimeMilliseconds(reader.GetInt64(5)),
            Received = Instant.FromUnixTimeMilliseconds(reader.GetInt64(6)),
            Place =
                country is null && place is null && Number(7) is null
                    ? null
                    : new(country, place, Number(7), Number(8)),
            Amount = Number(9) is { } amount ? (decimal)amount : null,
            Details = Text(10),
            Original = Text(11),
            Channel = value[EventColumn.Channel],
            Actor = value[EventColumn.Actor],
            ActorKind = Enum.Parse<ActorKind>(value[EventColumn.ActorKind]!, ignoreCase: true),
            Category = value[EventColumn.Category],
            Action = value[EventColumn.Action],
            Object = value[EventColumn.Object],
            Container = value[EventColumn.Container],
            Target = value[EventColumn.Target],
            Address = value[EventColumn.Address],
            Network = value[EventColumn.Network],
            Device = value[EventColumn.Device],
            Application = value[EventColumn.Application],
            Outcome = value[EventColumn.Outcome] is { } outcome
                ? Enum.Parse<EventOutcome>(outcome, ignoreCase: true)
                : null,
            Code = value[EventColumn.Code],
            Unit = value[EventColumn.Unit],
            Title = value[EventColumn.Title],
        };

        string? Text(int at) => reader.IsDBNull(at) ? null : reader.GetString(at);

        double? Number(int at) => reader.IsDBNull(at) ? null : reader.GetDouble(at);
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
