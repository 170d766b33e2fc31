using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Server.Content;
using WideKeel.Server.SignIn;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server;

/// <summary>One thing found by the search field in the masthead.</summary>
public sealed record FindHit(string Kind, string Title, string Note, string Link);

public static class FindEndpoints
{
    public static void MapFind(this IEndpointRouteBuilder api) => api.MapGet("/find", Find).RequiresSignIn();

    private static async Task<Reply<IReadOnlyList<FindHit>>> Find(
        string? q,
        Caller caller,
        WideKeelDb db,
        Calendar calendar,
        CancellationToken cancel
    )
    {
        var words = (q ?? "").Trim();
        List<FindHit> hits = [];
        if (words.Length is 0 or > 200)
        {
            return (Outcome<IReadOnlyList<FindHit>>)hits;
        }

        if (caller.May(Right.ReadSchedule))
        {
            var series = await db.Series.AsNoTracking().OrderBy(s => s.Code).ToListAsync(cancel);
            hits.AddRange(
                series
                    .Where(s =>
                        caller.MaySee(Right.ReadSchedule, s.UnitId)
                        && $"{s.Code} {s.Title}".Contains(words, StringComparison.OrdinalIgnoreCase)
                    )
                    .Take(5)
                    .Select(s => new FindHit("series", $"{s.Code} {s.Title}", "Record series", $"/schedule/{s.Id}"))
            );
        }

        var matters = caller.Matters.Keys.ToList();
        hits.AddRange(
            (
                await db
                    .Matters.AsNoTracking()
                    .Where(m => matters.Contains(m.Id))
                    .OrderByDescending(m => m.Id)
                    .ToListAsync(cancel)
            )
                .Where(m => $"{m.Number} {m.Name}".Contains(words, StringComparison.OrdinalIgnoreCase))
                .Take(5)
                .Select(m => new FindHit("matter", $"{m.Number} {m.Name}", "Matter", $"/matters/{m.Id}"))
        );

        if (caller.May(Right.ReadContent))
        {
            var page = await ItemEndpoints.PageAsync(
                await WordsAsync(words, caller, db),
                "-modified",
                null,
                8,
                db,
                calendar
            );
            hits.AddRange(
                page.Value.Items.Select(i => new FindHit(
                    "item",
                    i.Title,
                    $"{i.Container} · {i.Path}",
                    $"/content?item={i.Id}&cql={Uri.EscapeDataString(words)}"
                ))
            );
            if (page.Value.Total > 8)
            {
                hits.Add(
                    new(
                        "more",
                        $"All {page.Value.Total:N0} items with “{words}”",
                        "Content",
                        $"/content?cql={Uri.EscapeDataString(words)}"
                    )
                );
            }
        }

        if (caller.May(Right.ReadDocket))
        {
            var certificates = await db
                .Certificates.Where(c => c.Number.Contains(words))
                .OrderBy(c => c.Id)
                .Take(50)
                .Select(c => new
                {
                    c.Id,
                    c.Number,
                    c.Title,
                    c.UnitId,
                })
                .ToListAsync(cancel);
            hits.AddRange(
                certificates
                    .Where(c => caller.May(Right.ReadDocket, c.UnitId))
                    .Take(5)
                    .Select(c => new FindHit(
                        "certificate",
                        $"Certificate {c.Number}",
                        c.Title,
                        $"/schedule/certificates?certificate={c.Id}"
                    ))
            );
        }

        return (Outcome<IReadOnlyList<FindHit>>)hits;
    }

    /// <summary>All of the words, the last perhaps not typed to its end yet. What is typed here is never syntax.</summary>
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
