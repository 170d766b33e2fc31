using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;

namespace WideKeel.Store.Content;

/// <summary>
/// A pass over many items, shared between the processors: each reads a range of ids on a connection of its own, and all
/// see the same state.
/// </summary>
public static class SharedPass
{
    /// <summary>With fewer items than this one processor is done before others have begun.</summary>
    private const long Worthwhile = 50_000;

    private const int Tries = 5;

    /// <summary>
    /// Runs a pass in parts that together are all items, and returns what each part came to, in the order of their ids.
    /// Within a transaction it is one part: only the transaction's own connection sees what it has changed.
    /// </summary>
    /// <param name="part">Reads the items of one part, by a condition over the alias <c>i</c>; several run at
    /// once.</param>
    /// <param name="processors">How many parts at most; null for as many as there are processors, up to four.</param>
    public static async Task<IReadOnlyList<T>> RunAsync<T>(
        WideKeelDb db,
        Func<SqliteConnection, string, T> part,
        int? processors = null
    )
    {
        await db.Database.OpenConnectionAsync();
        var own = (SqliteConnection)db.Database.GetDbConnection();
        var last = db.Database.CurrentTransaction is null ? Number(own, "SELECT COALESCE(MAX(Id), 0) FROM item") : 0;
        var parts = processors ?? (last < Worthwhile ? 1 : Math.Min(Environment.ProcessorCount, 4));
        if (last == 0 || parts < 2)
        {
            return [part(own, "1")];
        }

        List<WideKeelDb> readers = [];
        try
        {
            if (!await OpenAsync(db, parts, readers))
            {
                return [part(own, "1")];
            }

            // The last part is open upwards: an item may have come in after the greatest id was asked for, and before
            // the state was taken.
            return await Task.WhenAll(
                readers.Select(
                    (reader, n) =>
                        Task.Run(() =>
                            part(
                                (SqliteConnection)reader.Database.GetDbConnection(),
                                string.Create(
                                    CultureInfo.InvariantCulture,
                                    $"i.Id > {last * n / parts}{(n < parts - 1 ? $" AND i.Id <= {last * (n + 1) / parts}" : "")}"
                                )
                            )
                        )
                )
            );
        }
        finally
        {
            await CloseAsync(readers);
        }
    }

    /// <summary>
    /// Opens connections that see the same state: between the first's beginning to read and the last's nobody has
    /// committed anything, which SQLite tells by <c>data_version</c>. False where changes come in too fast for that.
    /// </summary>
    private static async Task<bool> OpenAsync(WideKeelDb db, int count, List<WideKeelDb> readers)
    {
        var own = (SqliteConnection)db.Database.GetDbConnection();
        var options = (DbContextOptions<WideKeelDb>)db.GetService<IDbContextOptions>();
        for (var tried = 0; tried < Tries; tried++)
        {
            var state = Number(own, "PRAGMA data_version");
            while (readers.Count < count)
            {
                var reader = new WideKeelDb(options);
                readers.Add(reader);
                await reader.Database.OpenConnectionAsync();
                var connection = (SqliteConnection)reader.Database.GetDbConnection();
                // Deferred: it never waits for the writer, and sees the state of its first reading.
                connection.BeginTransaction(deferred: true);
                Number(connection, "SELECT COUNT(*) FROM organisation");
            }

            if (Number(own, "PRAGMA data_version") == state)
            {
                return true;
            }

            await CloseAsync(readers);
        }

        return false;
    }

    private static async Task CloseAsync(List<WideKeelDb> readers)
    {
        foreach (var reader in readers)
        {
            await reader.DisposeAsync();
        }

        readers.Clear();
    }

    private static long Number(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return (long)command.ExecuteScalar()!;
    }
}
