using Microsoft.Data.Sqlite;
using WideKeel.Core.Ledger;

namespace WideKeel.Store.Ledger;

/// <summary>Reads the ledger without the object layer: verification and proofs stream over every entry.</summary>
public static class LedgerReader
{
    /// <summary>All entries from one sequence on, in order.</summary>
    public static IEnumerable<StoredEntry> Entries(SqliteConnection connection, long from = 1, long to = long.MaxValue)
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            "SELECT Sequence, Body, LeafHash FROM ledger WHERE Sequence BETWEEN $from AND $to ORDER BY Sequence";
        command.Parameters.AddWithValue("$from", from);
        command.Parameters.AddWithValue("$to", to);
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            yield return new(reader.GetInt64(0), reader.GetString(1), reader.GetFieldValue<byte[]>(2));
        }
    }

    /// <summary>The time of the last entry of a database; null where there is none.</summary>
    public static NodaTime.Instant? LatestTimeIn(string databaseFile)
    {
        if (!HasEntries(databaseFile))
        {
            return null;
        }

        using var connection = Open(databaseFile);
        return LatestTime(connection);
    }

    /// <summary>The time of the last entry; null where there is none.</summary>
    public static NodaTime.Instant? LatestTime(SqliteConnection connection)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT Body FROM ledger ORDER BY Sequence DESC LIMIT 1";
        return command.ExecuteScalar() is string body ? ClockWalk.TimeOf(body) : null;
    }

    /// <summary>The leaf hashes of the first <paramref name="size"/> entries.</summary>
    public static byte[][] LeafHashes(SqliteConnection connection, long size = long.MaxValue)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT LeafHash FROM ledger WHERE Sequence <= $size ORDER BY Sequence";
        command.Parameters.AddWithValue("$size", size);
        using var reader = command.ExecuteReader();
        List<byte[]> hashes = [];
        while (reader.Read())
        {
            hashes.Add(reader.GetFieldValue<byte[]>(0));
        }

        return [.. hashes];
    }

    /// <summary>Whether a database has a ledger with entries; false where there is no database yet.</summary>
    public static bool HasEntries(string databaseFile)
    {
        if (!File.Exists(databaseFile))
        {
            return false;
        }

        using var connection = Open(databaseFile);
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT EXISTS (SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'ledger')";
        if ((long)command.ExecuteScalar()! == 0)
        {
            return false;
        }

        command.CommandText = "SELECT EXISTS (SELECT 1 FROM ledger)";
        return (long)command.ExecuteScalar()! == 1;
    }

    /// <summary>
    /// Verifies the ledger in a data folder. Heads are read first, so that a writer at work cannot look like a missing
    /// tail.
    /// </summary>
    /// <param name="copy">Lines of a second place's copy of the heads, which must agree too; null without one.</param>
    public static VerificationReport Verify(string databaseFile, IReadOnlyList<string>? copy = null)
    {
        var report = VerifyEntries(databaseFile, copy);
        if (!report.Sound)
        {
            return report;
        }

        using var connection = Open(databaseFile);
        return StateDigest.Check(connection) is { } changed ? report with { Finding = changed } : report;
    }

    /// <summary>
    /// As <see cref="Verify"/>, without the digest of other tables: what a start demands. A table that another program
    /// changed is told of, and does not keep the product from starting.
    /// </summary>
    public static VerificationReport VerifyEntries(string databaseFile, IReadOnlyList<string>? copy = null)
    {
        var folder = Path.GetDirectoryName(Path.GetFullPath(databaseFile))!;
        var heads = Heads.ReadLines(folder);
        using var key = Heads.ReadPublicKey(folder);
        try
        {
            using var connection = Open(databaseFile);
            var report = LedgerVerifier.Verify(Entries(connection), heads, key);
            if (report.Sound && copy is not null && key is not null)
            {
                var other = LedgerVerifier.VerifyAgainst(Entries(connection), copy, key);
                report = other.Sound ? report : other with { Finding = $"Against the copy: {other.Finding}" };
            }

            return report;
        }
        catch (SqliteException e)
        {
            return new(0, 0, MerkleTree.EmptyRoot, null, $"The database cannot be read: {e.Message}");
        }
    }

    /// <summary>A connection of its own, of no pool, that cannot write.</summary>
    private static SqliteConnection Open(string databaseFile)
    {
        var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = databaseFile,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
            }.ToString()
        );
        connection.Open();
        return connection;
    }
}
