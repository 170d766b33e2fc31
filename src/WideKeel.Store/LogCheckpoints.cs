using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace WideKeel.Store;

/// <summary>
/// Takes the write-ahead log into the database file on a thread of its own, beside the next change. SQLite's own
/// checkpoint runs within the commit that filled the log, and whoever made that change waits for it. SQLite's
/// documentation, "Write-Ahead Logging", sections 2.2 and 6.
/// </summary>
internal sealed class LogCheckpoints : IDisposable
{
    /// <summary>Pages written to the log before they are taken over, as SQLite itself would do.</summary>
    private const int Pages = 1_000;

    /// <summary>
    /// The log is begun anew only when all of it has been taken over before a change begins, and that of a busy day
    /// never is. So after as many pages a change does wait: the log stays within these 64 MB and one change, as long as
    /// nobody reads on and on.
    /// </summary>
    private const int MostPages = 16_000;

    private Task running = Task.CompletedTask;
    private long written;
    private long grown;

    /// <summary>
    /// Says that a change was committed on this connection, which is one of the product's own. One at a time.
    /// </summary>
    public void AfterCommit(SqliteConnection connection)
    {
        // SQLITE_DBSTATUS_CACHE_WRITE: pages written to the log since it was asked last.
        if (raw.sqlite3_db_status(connection.Handle!, 9, out var pages, out _, 1) == raw.SQLITE_OK)
        {
            (written, grown) = (written + pages, grown + pages);
        }

        if (written < Pages)
        {
            return;
        }

        if (grown >= MostPages)
        {
            running.Wait();
            if (TakeOver(connection))
            {
                grown = 0;
            }
        }
        else if (running.IsCompleted)
        {
            var database = connection.ConnectionString;
            running = Task.Run(() => TakeOver(database));
        }
        else
        {
            return;
        }

        written = 0;
    }

    public void Dispose() => running.Wait();

    private static void TakeOver(string database)
    {
        try
        {
            using var own = new SqliteConnection(database);
            own.Open();
            TakeOver(own);
        }
        catch (SqliteException)
        {
            // The change was committed and must not seem to have failed.
        }
    }

    /// <summary>
    /// Whether nothing is left in the log that is not in the database. Waits for nobody; what a reader or an error
    /// left, the next makes good, and in the log it is as safe.
    /// </summary>
    private static bool TakeOver(SqliteConnection connection) =>
        raw.sqlite3_wal_checkpoint_v2(
            connection.Handle!,
            "main",
            raw.SQLITE_CHECKPOINT_PASSIVE,
            out var log,
            out var taken
        ) == raw.SQLITE_OK
        && taken == log;
}
