using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace WideKeel.Store.Activity;

/// <summary>Who used which place, and who signed in, by the events in the database; days in UTC.</summary>
/// <param name="LastUse">By actor and container. An attempt that was refused is no use.</param>
/// <param name="Times">How often each used each.</param>
/// <param name="CollectedSince">The day of the first event of each container, whatever came of it.</param>
/// <param name="LastSignIn">The last sign-in of each actor that succeeded.</param>
/// <param name="Since">The day of the first event of all; null where there is none.</param>
public sealed record PlaceUses(
    IReadOnlyDictionary<(string Actor, string Container), LocalDate> LastUse,
    IReadOnlyDictionary<(string Actor, string Container), int> Times,
    IReadOnlyDictionary<string, LocalDate> CollectedSince,
    IReadOnlyDictionary<string, LocalDate> LastSignIn,
    LocalDate? Since
)
{
    /// <summary>Reads all events.</summary>
    public static async Task<PlaceUses> ReadAsync(WideKeelDb db, CancellationToken cancel)
    {
        await db.Database.OpenConnectionAsync(cancel);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        Dictionary<(string, string), LocalDate> last = [];
        Dictionary<(string, string), int> times = [];
        Dictionary<string, LocalDate> since = [];
        Read(
            connection,
            """
            SELECT (SELECT Value FROM activity_value WHERE Id = Actor), (SELECT Value FROM activity_value WHERE Id = Container),
                First, Last, Times
            FROM (SELECT Actor, Container, MIN(Time) AS First,
                    MAX(CASE WHEN Outcome IS $refused THEN NULL ELSE Time END) AS Last,
                    SUM(Outcome IS NOT $refused) AS Times
                FROM activity_event WHERE Container IS NOT NULL GROUP BY Actor, Container)
            """,
            r =>
            {
                var (place, first) = (r.GetString(1), Day(r.GetInt64(2)));
                since[place] = since.TryGetValue(place, out var known) && known < first ? known : first;
                if (!r.IsDBNull(0) && !r.IsDBNull(3))
                {
                    var use = (r.GetString(0), place);
                    (last[use], times[use]) = (Day(r.GetInt64(3)), r.GetInt32(4));
                }
            },
            ("$refused", ValueId(connection, "outcome", "failure"))
        );
        Dictionary<string, LocalDate> signIns = [];
        Read(
            connection,
            """
            SELECT (SELECT Value FROM activity_value WHERE Id = Actor), MAX(Time) FROM activity_event
            WHERE Actor IS NOT NULL AND Action = $signIn AND Outcome = $success GROUP BY Actor
            """,
            r => signIns[r.GetString(0)] = Day(r.GetInt64(1)),
            ("$signIn", ValueId(connection, "action", "sign-in")),
            ("$success", ValueId(connection, "outcome", "success"))
        );
        LocalDate? begun = null;
        Read(
            connection,
            "SELECT MIN(Time) FROM activity_event",
            r => begun = r.IsDBNull(0) ? null : Day(r.GetInt64(0))
        );
        return new(last, times, since, signIns, begun);
    }

    /// <returns>−1 where no event has the value.</returns>
    private static long ValueId(SqliteConnection connection, string column, string value)
    {
        var id = -1L;
        Read(
            connection,
            """SELECT Id FROM activity_value WHERE "Column" = $column AND Value = $value""",
            r => id = r.GetInt64(0),
            ("$column", column),
            ("$value", value)
        );
        return id;
    }

    private static LocalDate Day(long milliseconds) => Instant.FromUnixTimeMilliseconds(milliseconds).InUtc().Date;

    private static void Read(
        SqliteConnection connection,
        string sql,
        Action<SqliteDataReader> row,
        params (string Name, object Value)[] values
    )
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        foreach (var (name, value) in values)
        {
            command.Parameters.AddWithValue(name, value);
        }

        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            row(reader);
        }
    }
}
