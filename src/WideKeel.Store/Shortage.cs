using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace WideKeel.Store;

/// <summary>
/// What passes by itself, or when somebody makes room: the disk is full, or another program keeps the database. A change is
/// rolled back whole, and can be made again; a job waits and goes on.
/// </summary>
public static class Shortage
{
    /// <summary>errno of Linux: no space left on the device, and the quota of the account used up.</summary>
    private static readonly int[] NoSpace = [28, 122];

    /// <summary>What is short, as a sentence; null where an exception says something else.</summary>
    public static string? Of(Exception? exception) =>
        exception switch
        {
            null => null,
            SqliteException { SqliteErrorCode: raw.SQLITE_FULL } => DiskFull,
            SqliteException { SqliteErrorCode: raw.SQLITE_IOERR } e =>
                $"The server's disk does not take or give what the database needs (error {e.SqliteExtendedErrorCode}); it may be full.",
            SqliteException { SqliteErrorCode: raw.SQLITE_BUSY or raw.SQLITE_LOCKED } =>
                "Another program keeps the database.",
            IOException e when NoSpace.Contains(e.HResult & 0xFFFF) => DiskFull,
            _ => Of(exception.InnerException),
        };

    private const string DiskFull = "The server's disk is full.";
}
