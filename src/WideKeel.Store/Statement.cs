using System.Buffers;
using System.Text;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace WideKeel.Store;

/// <summary>
/// A prepared statement without a result that is run many times over, its parameters bound by their places from 1 on.
/// For what is written by the thousand: a command looks each parameter up by its name and makes a reader for each run,
/// which there costs as much as SQLite's own work.
/// </summary>
internal sealed class Statement : IDisposable
{
    private readonly sqlite3 database;
    private readonly sqlite3_stmt statement;
    private byte[] utf8 = ArrayPool<byte>.Shared.Rent(4096);

    /// <param name="connection">Open; within its transaction, if it has one.</param>
    /// <exception cref="SqliteException">SQLite does not take the statement.</exception>
    public Statement(SqliteConnection connection, string sql)
    {
        database = connection.Handle!;
        Check(raw.sqlite3_prepare_v2(database, sql, out statement));
    }

    /// <param name="at">From 1 on.</param>
    public void Bind(int at, long? value) =>
        Check(
            value is { } number ? raw.sqlite3_bind_int64(statement, at, number) : raw.sqlite3_bind_null(statement, at)
        );

    /// <param name="at">From 1 on.</param>
    public void Bind(int at, double? value) =>
        Check(
            value is { } number ? raw.sqlite3_bind_double(statement, at, number) : raw.sqlite3_bind_null(statement, at)
        );

    /// <param name="at">From 1 on.</param>
    public void Bind(int at, byte[]? bytes) =>
        Check(bytes is null ? raw.sqlite3_bind_null(statement, at) : raw.sqlite3_bind_blob(statement, at, bytes));

    /// <param name="at">From 1 on.</param>
    public void Bind(int at, string? text)
    {
        if (text is null)
        {
            Check(raw.sqlite3_bind_null(statement, at));
            return;
        }

        var most = Encoding.UTF8.GetMaxByteCount(text.Length);
        if (most > utf8.Length)
        {
            ArrayPool<byte>.Shared.Return(utf8);
            utf8 = ArrayPool<byte>.Shared.Rent(most);
        }

        BindUtf8(at, utf8.AsSpan(0, Encoding.UTF8.GetBytes(text, utf8)));
    }

    /// <param name="at">From 1 on.</param>
    /// <param name="text">In UTF-8; taken over at once, so its memory may be used again.</param>
    public void BindUtf8(int at, ReadOnlySpan<byte> text) => Check(raw.sqlite3_bind_text(statement, at, text));

    /// <summary>Runs it with what is bound; that stays bound.</summary>
    /// <returns>How many rows it changed; 0 where it passed over one.</returns>
    /// <exception cref="SqliteException">What SQLite refused.</exception>
    public int Run()
    {
        var result = raw.sqlite3_step(statement);
        if (result != raw.SQLITE_DONE)
        {
            // The message is that of the step, so it is asked for before the reset.
            Check(result);
        }

        var changed = raw.sqlite3_changes(database);
        Check(raw.sqlite3_reset(statement));
        return changed;
    }

    /// <summary>The row number of the last row that any statement of the connection inserted.</summary>
    public long LastId => raw.sqlite3_last_insert_rowid(database);

    public void Dispose()
    {
        statement.Dispose();
        ArrayPool<byte>.Shared.Return(utf8);
    }

    private void Check(int result) => SqliteException.ThrowExceptionForRC(result, database);
}
