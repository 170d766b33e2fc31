using System.Globalization;
using Microsoft.Data.Sqlite;
using WideKeel.Core.Query;

namespace WideKeel.Store.Content;

/// <summary>
/// The full-text index. It holds the folded words of <see cref="Words"/>, so what a word is, is decided in one place
/// for the index and for queries; the tokenizer only cuts at blanks. Contentless: the text itself stands once, in
/// <c>item_text</c>.
/// </summary>
public static class FullText
{
    public const string Create = """
        CREATE VIRTUAL TABLE item_fts USING fts5(title, text, author, owner, content='', contentless_delete=1, tokenize="ascii");
        CREATE VIRTUAL TABLE item_words USING fts5vocab('item_fts', 'row');
        """;

    public const string Drop = "DROP TABLE IF EXISTS item_words; DROP TABLE IF EXISTS item_fts;";

    /// <summary>
    /// Raised whenever the words that one text gives change; the index is then made anew at the start.
    /// </summary>
    private const int Version = 1;

    /// <summary>
    /// FTS5's settings where its own do not fit. What is taken out is cleared away once a batch is done, so the index
    /// need not write itself anew for every tenth item of one; and a whole portion of a scan is to become one segment,
    /// not several that are then merged.
    /// </summary>
    private static readonly (string Name, long Value)[] Settings =
    [
        ("deletemerge", 50),
        ("automerge", 8),
        ("hashsize", 16 << 20),
    ];

    private const string Columns = "INTO item_fts(rowid, title, text, author, owner) VALUES (?, ?, ?, ?, ?)";

    public static void Put(WriteSession session, Item item, string text) => Put(session, [(item, Words.Folded(text))]);

    /// <param name="items">Each with the folded words of its text.</param>
    /// <param name="areNew">Nothing stands in the index for any of them; what does need not be looked for then.</param>
    public static void Put(WriteSession session, IEnumerable<(Item Item, string Folded)> items, bool areNew = false)
    {
        using var insert = new Statement(session.Connection, (areNew ? "INSERT " : "INSERT OR REPLACE ") + Columns);
        foreach (var (item, folded) in items)
        {
            Put(insert, item.Id, item.Title, folded, item.Author, item.Owner);
        }
    }

    /// <summary>Takes items out of the index.</summary>
    public static void Remove(WriteSession session, IEnumerable<long> ids)
    {
        using var command = session.Command("DELETE FROM item_fts WHERE rowid IN (SELECT value FROM json_each($ids))");
        command.Parameters.AddWithValue("$ids", System.Text.Json.JsonSerializer.Serialize(ids));
        command.ExecuteNonQuery();
    }

    /// <summary>
    /// One step of writing the index anew without what was taken out of it; until then it only marks that as gone.
    /// False when nothing was left to do. FTS5's documentation, "The 'merge' command": a negative number begins it for
    /// the whole index, a positive one goes on with it, and one that changes fewer than two rows had nothing to do.
    /// </summary>
    /// <param name="pages">Pages of the index to write, about.</param>
    public static bool Clear(SqliteConnection connection, int pages, bool begin)
    {
        var before = Changes(connection);
        using var merge = connection.CreateCommand();
        merge.CommandText = "INSERT INTO item_fts(item_fts, rank) VALUES ('merge', $pages)";
        merge.Parameters.AddWithValue("$pages", begin ? -pages : pages);
        merge.ExecuteNonQuery();
        return Changes(connection) - before >= 2;
    }

    /// <summary>
    /// Sets the index as it is wanted, and makes it anew when it was made by another version of the words. In one
    /// transaction: a kill leaves the old one.
    /// </summary>
    public static void Prepare(SqliteConnection connection)
    {
        Set(connection);
        using (var version = connection.CreateCommand())
        {
            version.CommandText = "PRAGMA user_version";
            if (Convert.ToInt32(version.ExecuteScalar(), CultureInfo.InvariantCulture) == Version)
            {
                return;
            }
        }

        using var transaction = connection.BeginTransaction();
        using var empty = connection.CreateCommand();
        empty.CommandText = Drop + Create;
        empty.ExecuteNonQuery();
        Set(connection);
        using var insert = new Statement(connection, "INSERT " + Columns);
        using var read = connection.CreateCommand();
        read.CommandText =
            "SELECT i.Id, i.Title, t.Text, i.Author, i.Owner FROM item i LEFT JOIN item_text t ON t.ItemId = i.Id";
        using (var reader = read.ExecuteReader())
        {
            while (reader.Read())
            {
                Put(
                    insert,
                    reader.GetInt64(0),
                    reader.GetString(1),
                    reader.IsDBNull(2) ? "" : Words.Folded(reader.GetString(2)),
                    reader.IsDBNull(3) ? null : reader.GetString(3),
                    reader.IsDBNull(4) ? null : reader.GetString(4)
                );
            }
        }

        using var renewed = connection.CreateCommand();
        renewed.CommandText = string.Create(CultureInfo.InvariantCulture, $"PRAGMA user_version = {Version}");
        renewed.ExecuteNonQuery();
        transaction.Commit();
    }

    private static void Set(SqliteConnection connection)
    {
        foreach (var (name, value) in Settings)
        {
            using var set = connection.CreateCommand();
            set.CommandText =
                "INSERT INTO item_fts(item_fts, rank) SELECT $name, $value WHERE $value NOT IN (SELECT v FROM "
                + "item_fts_config WHERE k = $name)";
            set.Parameters.AddWithValue("$name", name);
            set.Parameters.AddWithValue("$value", value);
            set.ExecuteNonQuery();
        }
    }

    private static long Changes(SqliteConnection connection)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT total_changes()";
        return (long)command.ExecuteScalar()!;
    }

    private static void Put(Statement insert, long id, string title, string folded, string? author, string? owner)
    {
        insert.Bind(1, id);
        insert.Bind(2, Words.Folded(title));
        insert.Bind(3, folded);
        insert.Bind(4, Words.Folded(author ?? ""));
        insert.Bind(5, Words.Folded(owner ?? ""));
        insert.Run();
    }
}
