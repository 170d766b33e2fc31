using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace WideKeel.Store;

/// <summary>
/// A time by which the reading of one request must be done: SQLite asks in between, and gives up when it is past. It goes
/// with the request through everything that it awaits.
/// </summary>
public static class SearchDeadline
{
    /// <summary>Steps of SQLite's machine between two questions: some ten microseconds.</summary>
    private const int Steps = 2_000;

    private static readonly AsyncLocal<DateTime?> Until = new();

    /// <summary>What the connections that are opened from here on, within this flow, must be done by.</summary>
    public static void Begin(TimeSpan time) => Until.Value = DateTime.UtcNow + time;

    /// <summary>From here on, within this flow, nothing must be done by a time: a change is never given up half-way.</summary>
    internal static void End() => Until.Value = null;

    /// <summary>Whether an exception says that the time was up.</summary>
    public static bool WasMissed(Exception exception) =>
        exception is SqliteException { SqliteErrorCode: raw.SQLITE_INTERRUPT };

    /// <summary>A connection comes from a pool and may have the deadline of the request before.</summary>
    internal static void Lift(SqliteConnection connection) =>
        raw.sqlite3_progress_handler(connection.Handle, 0, null, null);

    internal static void Apply(SqliteConnection connection)
    {
        if (Until.Value is { } until)
        {
            raw.sqlite3_progress_handler(connection.Handle, Steps, _ => DateTime.UtcNow > until ? 1 : 0, null);
        }
    }
}
