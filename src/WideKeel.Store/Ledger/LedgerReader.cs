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

    /// <summary>
    /// Verifies the ledger in a data folder. Heads are read first, so that a writer at work cannot look like a missing
    /// tail.
    /// </summary>
    public static VerificationReport Verify(string databaseFile)
    {
        var folder = Path.GetDirectoryName(Path.GetFullPath(databaseFile))!;
        var heads = Heads.ReadLines(folder);
        using var key = Heads.ReadPublicKey(folder);
        using var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder
            {
                DataSource = databaseFile,
                Mode = SqliteOpenMode.ReadOnly,
                Pooling = false,
            }.ToString()
        );
        try
        {
            connection.Open();
            return LedgerVerifier.Verify(Entries(connection), heads, key);
        }
        catch (SqliteException e)
        {
            return new(0, 0, MerkleTree.EmptyRoot, null, $"The database cannot be read: {e.Message}");
        }
    }
}
