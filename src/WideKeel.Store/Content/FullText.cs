namespace WideKeel.Store.Content;

/// <summary>The full-text index over title, path and text. Contentless: the text itself stands once, in <c>item_text</c>.</summary>
public static class FullText
{
    public const string Create = """
        CREATE VIRTUAL TABLE item_fts USING fts5(title, path, text, content='', contentless_delete=1, tokenize="unicode61 remove_diacritics 2");
        """;

    public static void Put(WriteSession session, long itemId, string title, string path, string text)
    {
        using var command = session.Command("INSERT OR REPLACE INTO item_fts(rowid, title, path, text) VALUES ($id, $title, $path, $text)");
        command.Parameters.AddWithValue("$id", itemId);
        command.Parameters.AddWithValue("$title", title);
        command.Parameters.AddWithValue("$path", path);
        command.Parameters.AddWithValue("$text", text);
        command.ExecuteNonQuery();
    }

    public static void Remove(WriteSession session, long itemId)
    {
        using var command = session.Command("DELETE FROM item_fts WHERE rowid = $id");
        command.Parameters.AddWithValue("$id", itemId);
        command.ExecuteNonQuery();
    }

    /// <summary>
    /// A query of whole words, all of which must occur, the last as a beginning; null when there is no word in it. Everything is quoted, so
    /// nothing that a person types can be read as syntax.
    /// </summary>
    public static string? WordsQuery(string? typed)
    {
        var words = (typed ?? "")
            .Split([' ', '\t', '\n', '\r', '"'], StringSplitOptions.RemoveEmptyEntries)
            .Where(w => w.Any(char.IsLetterOrDigit))
            .Take(20)
            .Select(w => $"\"{w}\"")
            .ToList();
        return words.Count == 0 ? null : string.Join(' ', words) + "*";
    }
}
