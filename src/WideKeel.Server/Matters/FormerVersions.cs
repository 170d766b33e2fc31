using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Query;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>That a content of an item fits.</summary>
/// <param name="Hash">Of a former content; empty for what the item holds now.</param>
/// <param name="Term">Of the query, by its place; <see cref="SweepVersionHit.Whole"/> for all of it.</param>
internal readonly record struct FormerMatch(long ItemId, string Hash, int Term);

/// <summary>
/// Searches what items held before: the copies in safekeeping, each asked as the item itself is, with its text of then.
/// </summary>
internal sealed class FormerVersions(Safekeeping safekeeping, Writer writer, JobRun run)
{
    private static readonly int Portion = Portions.Or(200);

    /// <summary>
    /// Which former contents in the reach of a query fit it, and by which terms; for the items of those also whether and
    /// by which terms the present content fits.
    /// </summary>
    /// <param name="terms">Of the query, in their order.</param>
    public async Task<IReadOnlyList<FormerMatch>> SearchAsync(
        WideKeelDb db,
        HoldQuery query,
        IReadOnlyList<Condition> terms,
        CancellationToken cancel
    )
    {
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        List<FormerMatch> found = [];
        var copies = query
            .Rows(
                connection,
                "SELECT c.ItemId, c.Hash FROM item_copy c JOIN item i ON i.Id = c.ItemId "
                    + "WHERE {reach} AND c.Hash <> i.Hash ORDER BY c.ItemId, c.At"
            )
            .Select(r => (Item: r.GetInt64(0), Hash: r.GetString(1)))
            .ToList();
        for (var at = 0; at < copies.Count; at += Portion)
        {
            await run.ReportAsync(at, copies.Count, "Searching former versions", cancel);
            var portion = copies.GetRange(at, Math.Min(Portion, copies.Count - at)).ToLookup(c => c.Item, c => c.Hash);
            var ids = portion.Select(p => p.Key).ToList();
            var items = await db.Items.AsNoTracking().Where(i => ids.Contains(i.Id)).ToListAsync(cancel);
            foreach (var (item, arrival) in await StandingHolds.ArrivalsAsync(db, items, cancel))
            {
                found.AddRange(
                    await MatchesAsync(db, item, arrival.Item, portion[item.Id], query.Condition, terms, cancel)
                );
            }
        }

        // An item whose copies fall into two portions has its present content twice.
        return [.. found.Distinct()];
    }

    private async Task<List<FormerMatch>> MatchesAsync(
        WideKeelDb db,
        Item item,
        QueryItem now,
        IEnumerable<string> hashes,
        Condition? whole,
        IReadOnlyList<Condition> terms,
        CancellationToken cancel
    )
    {
        List<FormerMatch> found = [];
        foreach (var hash in hashes)
        {
            var then = now.WithText(item.Title, await TextAsync(db, hash, item.Type, cancel));
            if (whole is null || QueryMatcher.Matches(whole, then))
            {
                found.Add(new(item.Id, hash, SweepVersionHit.Whole));
                found.AddRange(Terms(then, hash));
            }
        }

        if (found.Count > 0)
        {
            found.AddRange(Terms(now, ""));
            if (whole is null || QueryMatcher.Matches(whole, now))
            {
                found.Add(new(item.Id, "", SweepVersionHit.Whole));
            }
        }

        return found;

        IEnumerable<FormerMatch> Terms(QueryItem content, string hash) =>
            terms
                .Select((t, i) => (Term: t, At: i))
                .Where(t => QueryMatcher.Matches(t.Term, content))
                .Select(t => new FormerMatch(item.Id, hash, t.At));
    }

    /// <summary>The text of a copy: read out of safekeeping the first time, kept from then on.</summary>
    private async Task<string> TextAsync(WideKeelDb db, string hash, string type, CancellationToken cancel)
    {
        if (await KeptAsync(db, hash, type, cancel) is { } kept)
        {
            return kept;
        }

        await using var content = safekeeping.Open(hash);
        var text = content is null ? "" : (await TextExtraction.ExtractAsync(content, type, cancel)).Text;
        if (content is not null)
        {
            await writer.RunAsync(
                run.Actor,
                async session =>
                {
                    // Only while the copy is there: a text outlives no content.
                    if (await session.Db.ItemCopies.AnyAsync(c => c.Hash == hash, cancel))
                    {
                        session.Db.CopyTexts.Add(
                            new()
                            {
                                Hash = hash,
                                Type = type,
                                Text = text,
                            }
                        );
                    }
                },
                cancel
            );
        }

        return text;
    }

    public static async Task<string?> KeptAsync(WideKeelDb db, string hash, string type, CancellationToken cancel) =>
        await db
            .CopyTexts.AsNoTracking()
            .Where(t => t.Hash == hash && t.Type == type)
            .Select(t => t.Text)
            .FirstOrDefaultAsync(cancel);
}
