using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Core.Time;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <param name="Likeness">0 to 1: the share of runs of three words in common.</param>
public sealed record AlikeItem(long Id, string Title, string Container, string Path, double Likeness);

/// <param name="Copies">Other items with the very same content, within one's remit.</param>
public sealed record Alike(long Copies, string Hash, IReadOnlyList<AlikeItem> Similar);

/// <summary>Items that are the same as one, or nearly.</summary>
public static class AlikeEndpoints
{
    private const int RareWords = 16;
    private const int Candidates = 60;
    private const int Most = 10;
    private const double Least = 0.3;
    private const int MostCharacters = 100_000;

    public static void MapAlike(this IEndpointRouteBuilder api) =>
        api.MapGet("/items/{id:long}/alike", Find).Requires(Right.ReadContent);

    private static async Task<Reply<Alike>> Find(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var item = await ItemEndpoints.VisibleAsync(id, caller, db);
        if (item is null)
        {
            return Problems.NotFound("item");
        }

        await db.Database.OpenConnectionAsync(cancel);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var copies = CopiesOf(item, connection, caller, calendar);
        var text = await db
            .ItemTexts.Where(t => t.ItemId == id)
            .Select(t => t.Text.Substring(0, MostCharacters))
            .SingleOrDefaultAsync(cancel);
        if (string.IsNullOrWhiteSpace(text) || RarestOf(connection, text) is not { Length: > 0 } match)
        {
            return new Alike(copies, item.Hash, []);
        }

        var own = Likeness.Shingles(text);
        var found = Read(
            connection,
            caller.Items(),
            calendar,
            $"SELECT i.Id, i.Title, c.Name, i.Path, substr((SELECT t.Text FROM item_text t WHERE t.ItemId = i.Id), 1, {MostCharacters})",
            $"AND i.Id <> $self AND i.Hash <> $own AND i.Id IN (SELECT rowid FROM item_fts WHERE item_fts MATCH "
                + $"$match ORDER BY rank LIMIT {Candidates})",
            r =>
                (
                    Item: new AlikeItem(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3), 0),
                    Text: r.IsDBNull(4) ? "" : r.GetString(4)
                ),
            ("$self", id),
            ("$own", item.Hash),
            ("$match", match)
        );
        return new Alike(
            copies,
            item.Hash,
            [
                .. found
                    .Select(f => f.Item with { Likeness = Likeness.Of(own, Likeness.Shingles(f.Text)) })
                    .Where(f => f.Likeness >= Least)
                    .OrderByDescending(f => f.Likeness)
                    .ThenBy(f => f.Id)
                    .Take(Most),
            ]
        );
    }

    /// <summary>How many other items that the caller sees have the same content.</summary>
    private static long CopiesOf(Item item, SqliteConnection connection, Caller caller, OrganisationCalendar calendar)
    {
        var same = caller.Items() with { Hash = item.Hash };
        return item.DestroyedAt is null && item.Bytes > 0
            ? Read(connection, same, calendar, "SELECT COUNT(*) - 1", "", r => r.GetInt64(0)).Single()
            : 0;
    }

    /// <summary>The words of the text that fewest others share: what is alike has them, and few else do.</summary>
    private static string RarestOf(SqliteConnection connection, string text)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT doc FROM item_words WHERE term = $word";
        var word = command.Parameters.Add("$word", SqliteType.Text);
        List<(string Word, long Items)> words = [];
        foreach (var candidate in Words.Of(text).Select(w => w.Text).Where(w => w.Length > 2).Distinct().Take(500))
        {
            word.Value = candidate;
            if (command.ExecuteScalar() is long items and > 1)
            {
                words.Add((candidate, items));
            }
        }

        return string.Join(" OR ", words.OrderBy(w => w.Items).Take(RareWords).Select(w => $"text : \"{w.Word}\""));
    }

    private static List<T> Read<T>(
        SqliteConnection connection,
        ItemFilter filter,
        OrganisationCalendar calendar,
        string select,
        string and,
        Func<SqliteDataReader, T> row,
        params (string Name, object Value)[] values
    )
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            $"{select} FROM item i JOIN container c ON c.Id = i.ContainerId WHERE {filter.Where()} {and}";
        filter.Bind(command, calendar.Today.ToDayNumber());
        foreach (var (name, value) in values)
        {
            command.Parameters.AddWithValue(name, value);
        }

        using var reader = command.ExecuteReader();
        List<T> rows = [];
        while (reader.Read())
        {
            rows.Add(row(reader));
        }

        return rows;
    }
}
