using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>Finds items by their words.</summary>
internal sealed class ItemFindSource : IFindSource
{
    private const int MostHits = 8;

    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked)
    {
        if (!asked.Caller.May(Right.ReadContent))
        {
            return [];
        }

        var (filter, link) = (
            await WordsAsync(asked.Words, asked.Caller, asked.Db),
            $"/content?cql={Uri.EscapeDataString(asked.Words)}"
        );
        var page = (await ItemEndpoints.PageAsync(filter, "-modified", null, MostHits, asked.Db, asked.Calendar)).Value;
        List<FindHit> hits =
        [
            .. page.Items.Select(i => new FindHit(
                "item",
                i.Title,
                $"{i.Container} · {i.Path}",
                $"/content?item={i.Id}&cql={Uri.EscapeDataString(asked.Words)}"
            )),
        ];
        if (page.Total > MostHits)
        {
            hits.Add(new("more", $"All {Wording.Number(page.Total)} items with “{asked.Words}”", "Content", link));
        }

        return hits;
    }

    /// <summary>
    /// All of the words, the last perhaps not typed to its end yet. What is typed here is never syntax.
    /// </summary>
    private static async Task<ItemFilter> WordsAsync(string typed, Caller caller, WideKeelDb db)
    {
        var words = Words.Of(typed).Select(w => new WordPattern(w.Text, false, false, false)).ToList();
        if (words.Count > 0)
        {
            words[^1] = WordPattern.BeginningWith(words[^1].Text);
        }

        await db.Database.OpenConnectionAsync();
        var query = QuerySql
            .Translate(
                (SqliteConnection)db.Database.GetDbConnection(),
                new(new Condition.HasWords(QueryIndex.Text, WordMatch.AllOf, words), [], false)
            )
            .Value;
        return caller.Items() with { Query = query };
    }
}
