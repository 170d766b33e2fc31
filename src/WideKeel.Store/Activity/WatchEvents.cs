using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

namespace WideKeel.Store.Activity;

/// <summary>The events in the database that count for a watch.</summary>
/// <param name="connection">An open connection.</param>
public sealed class WatchEvents(SqliteConnection connection, Watch watch)
{
    private const string LatestFirst = "ORDER BY e.Time DESC, e.SourceId DESC";

    /// <summary>Opens the connection of the context if it is closed.</summary>
    public static async Task<WatchEvents> OfAsync(WideKeelDb db, Watch watch, CancellationToken cancel)
    {
        await db.Database.OpenConnectionAsync(cancel);
        return new((SqliteConnection)db.Database.GetDbConnection(), watch);
    }

    /// <summary>All of them, in no particular order.</summary>
    /// <param name="keys">Only the events of these values of <see cref="Watch.HistoryOf"/>; null for all.</param>
    public IReadOnlyList<StoredEvent> All(IReadOnlySet<string>? keys = null) => Read(null, null, keys);

    /// <summary>The events of a span of rows.</summary>
    /// <param name="after">The row before the first one.</param>
    /// <param name="to">The last row.</param>
    public IReadOnlyList<StoredEvent> Arrived(long after, long to) =>
        after >= to
            ? []
            : Read(
                null,
                null,
                null,
                "AND e.Id > $after AND e.Id <= $to",
                command =>
                {
                    command.Parameters.AddWithValue("$after", after);
                    command.Parameters.AddWithValue("$to", to);
                }
            );

    public IReadOnlyList<StoredEvent> Since(Instant from) => Read(from, null, null);

    /// <summary>The latest events of a span of time, the last first.</summary>
    /// <param name="through">Inclusive.</param>
    public IReadOnlyList<StoredEvent> Latest(Instant from, Instant through, int most) =>
        Read(
            from,
            through + Duration.FromMilliseconds(1),
            null,
            $"{LatestFirst} LIMIT $most",
            command => command.Parameters.AddWithValue("$most", most)
        );

    /// <summary>The last event before a moment; null if there is none.</summary>
    /// <param name="key">Of this value of <see cref="Watch.HistoryOf"/>; null for any.</param>
    public StoredEvent? LastBefore(Instant before, string? key = null) =>
        Read(null, before, key is null ? null : new HashSet<string> { key }, $"{LatestFirst} LIMIT 1")
            .SingleOrDefault();

    /// <summary>The hours in which each value of <see cref="Watch.Per"/> was active.</summary>
    /// <param name="from">Null for all hours.</param>
    public IReadOnlyList<BusyHour> BusyHours(Instant? from)
    {
        var (where, bind) = Where(from, null, null);
        return EventStore.BusyHours(connection, where, bind, watch.Per);
    }

    private List<StoredEvent> Read(
        Instant? from,
        Instant? before,
        IReadOnlySet<string>? keys,
        string rest = "",
        Action<SqliteCommand>? more = null
    )
    {
        var (where, bind) = Where(from, before, keys);
        return
        [
            .. EventStore.Read(
                connection,
                $"{where} {rest}",
                command =>
                {
                    bind(command);
                    more?.Invoke(command);
                },
                original: false
            ),
        ];
    }

    private (string Where, Action<SqliteCommand> Bind) Where(Instant? from, Instant? before, IReadOnlySet<string>? keys)
    {
        var counted = watch.Counted;
        var sql = EventSql
            .Translate(
                connection,
                from is null && before is null
                    ? counted
                    : new Condition.All([new Condition.InstantIn(EventColumn.Time.Index, from, before), counted])
            )
            .Value;
        var where = $"({sql.Where})";
        if (watch.NeedsPlace)
        {
            where += " AND e.Latitude IS NOT NULL";
        }

        if (keys is not null)
        {
            where +=
                $" AND {EventSql.ColumnOf(watch.HistoryOf!)} IN (SELECT Id FROM activity_value WHERE \"Column\" = $keyColumn "
                + "AND Value IN (SELECT value FROM json_each($keys)))";
        }

        return (
            where,
            command =>
            {
                sql.Bind(command);
                if (keys is not null)
                {
                    command.Parameters.AddWithValue("$keyColumn", watch.HistoryOf!.Name);
                    command.Parameters.AddWithValue("$keys", JsonSerializer.Serialize(keys));
                }
            }
        );
    }
}
