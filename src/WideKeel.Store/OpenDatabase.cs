using Microsoft.Data.Sqlite;

namespace WideKeel.Store;

/// <summary>
/// One connection that stays open as long as the process runs. SQLite makes the index of its log of changes when the first
/// connection opens and removes it with the last; on a full disk it could not be made, and nobody could read.
/// </summary>
public sealed class OpenDatabase : IDisposable
{
    private SqliteConnection? kept;

    /// <summary>Opens a database, and reads of it, so that the index is there.</summary>
    public void Keep(string databaseFile)
    {
        if (kept is not null)
        {
            return;
        }

        kept = new(
            new SqliteConnectionStringBuilder
            {
                DataSource = databaseFile,
                Mode = SqliteOpenMode.ReadWrite,
                Pooling = false,
            }.ToString()
        );
        kept.Open();
        using var command = kept.CreateCommand();
        command.CommandText = "SELECT COUNT(*) FROM sqlite_master";
        command.ExecuteScalar();
    }

    public void Dispose() => kept?.Dispose();
}
