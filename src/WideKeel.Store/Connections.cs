using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace WideKeel.Store;

/// <summary>How every connection to the database file is opened.</summary>
public static class Connections
{
    public static string StringFor(string databaseFile) =>
        new SqliteConnectionStringBuilder { DataSource = databaseFile, Pooling = true }.ToString();

    public static DbContextOptionsBuilder UseWideKeel(this DbContextOptionsBuilder options, string databaseFile) =>
        options
            .UseSqlite(
                StringFor(databaseFile),
                sqlite => sqlite.UseParameterizedCollectionMode(ParameterTranslationMode.Parameter)
            )
            .AddInterceptors(Pragmas.Instance);

    /// <summary>
    /// What is read until it is disposed of is of one moment. Begun deferred, it takes no lock of the writer: without that
    /// word every transaction of this driver begins by taking it.
    /// </summary>
    public static async Task<DbTransaction> AtOneMomentAsync(this WideKeelDb db, CancellationToken cancel)
    {
        await db.Database.OpenConnectionAsync(cancel);
        var moment = ((SqliteConnection)db.Database.GetDbConnection()).BeginTransaction(deferred: true);
        await db.Database.UseTransactionAsync(moment, cancel);
        return moment;
    }

    /// <summary>
    /// WAL so that readers never wait for the writer; FULL so that a committed entry survives a power cut, because the
    /// signed heads beside the database would otherwise run ahead of it. Deleted content is overwritten, because
    /// destroyed must mean gone. The log is taken into the database by <see cref="LogCheckpoints"/>.
    /// </summary>
    private sealed class Pragmas : DbConnectionInterceptor
    {
        public static Pragmas Instance { get; } = new();

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            SearchDeadline.Lift((SqliteConnection)connection);
            using var command = connection.CreateCommand();
            command.CommandText =
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON; PRAGMA "
                + "secure_delete=ON; PRAGMA busy_timeout=15000; PRAGMA cache_size=-65536; PRAGMA "
                + "temp_store=MEMORY; PRAGMA wal_autocheckpoint=0;";
            command.ExecuteNonQuery();
            SearchDeadline.Apply((SqliteConnection)connection);
        }

        public override Task ConnectionOpenedAsync(
            DbConnection connection,
            ConnectionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            ConnectionOpened(connection, eventData);
            return Task.CompletedTask;
        }
    }
}
