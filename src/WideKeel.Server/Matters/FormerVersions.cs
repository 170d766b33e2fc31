using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Matters;

/// <summary>That a content of an item fits.</summary>
/// <param name="Hash">Of a former content; empty for what the item holds now.</param>
/// <param name="Term">Of the query, by its place; <see cref="SweepVersionHit.Whole"/> for all of it.</param>
internal readonly record struct FormerMatch(long ItemId, string Hash, int Term);

/// <summary>
/// Searches what items held before: the copies in safekeeping, each asked as an item of its own, with the text, author,
/// dates, fields and place of then.
/// </summary>
/// <param name="keep">Who keeps the texts that are read for the first time; null only reads, as within a change.</param>
/// <param name="report">Is told how many of how many are searched.</param>
internal sealed class FormerVersions(
    Safekeeping safekeeping,
    (Writer Writer, LedgerActor Actor)? keep = null,
    Func<int, int, Task>? report = null
)
{
    /// <summary>As a condition over <c>i</c>: a query of which also a former content fits, whose ids are <c>$former</c>.</summary>
    public const string Fits = "({where} OR i.Id IN (SELECT value FROM json_each($former)))";

    private static readonly int Portion = Portions.Or(200);

    public static FormerVersions In(JobRun run, Safekeeping safekeeping, Writer writer, CancellationToken cancel) =>
        new(
            safekeeping,
            (writer, run.Actor),
            (at, all) => run.ReportAsync(at, all, "Searching former versions", cancel)
        );

    /// <summary>For a request: what it reads is kept, but for within its own change.</summary>
    public static FormerVersions In(ApiContext context, WideKeelDb db) =>
        new(
            context.Http.RequestServices.GetRequiredService<Safekeeping>(),
            ReferenceEquals(db, context.Db) ? (context.Writer, context.Caller.Actor) : null
        );

    /// <summary>
    /// Which former contents fit a query in its places and dates, and by which terms; for the items of those also whether
    /// and by which terms the present content fits.
    /// </summary>
    /// <param name="terms">Of the query, in their order.</param>
    /// <param name="heldBy">Only items that this order holds; null: all.</param>
    public async Task<IReadOnlyList<FormerMatch>> SearchAsync(
        WideKeelDb db,
        HoldQuery query,
        IReadOnlyList<Condition> terms,
        CancellationToken cancel,
        long? heldBy = null
    )
    {
        List<FormerMatch> found = [];
        var copies = await InReachAsync(db, query, heldBy, cancel);
        var places = (await Ruling.ContainersAsync(db)).ToDictionary(c => c.Id);
        for (var at = 0; at < copies.Count; at += Portion)
        {
            await (report?.Invoke(at, copies.Count) ?? Task.CompletedTask);
            var portion = copies.GetRange(at, Math.Min(Portion, copies.Count - at)).ToLookup(c => c.ItemId);
            var ids = portion.Select(p => p.Key).ToList();
            var items = await db.Items.AsNoTracking().Where(i => ids.Contains(i.Id)).ToListAsync(cancel);
            foreach (var (item, arrival) in await StandingHolds.ArrivalsAsync(db, items, cancel))
            {
                List<(ItemCopy, QueryItem)> versions = [];
                foreach (var copy in portion[item.Id])
                {
                    var text = await TextAsync(db, copy.Hash, copy.Facts.Type, cancel);
                    versions.Add((copy, Then(arrival.Item, copy, places[copy.Facts.ContainerId], text)));
                }

                found.AddRange(Matches(arrival, versions, query, terms));
            }
        }

        // An item whose copies fall into two portions has its present content twice.
        return [.. found.Distinct()];
    }

    /// <summary>Ids of the items of which a former content fits, as JSON for <see cref="Fits"/>.</summary>
    public async Task<string> IdsAsync(WideKeelDb db, HoldQuery query, CancellationToken cancel, long? heldBy = null) =>
        JsonSerializer.Serialize(
            (await SearchAsync(db, query, [], cancel, heldBy))
                .Where(m => m.Hash.Length > 0)
                .Select(m => m.ItemId)
                .Distinct()
        );

    /// <summary>Former contents in the places and dates of a query of which not every word can be found.</summary>
    public static async Task<IReadOnlyList<ItemCopy>> UnsearchedAsync(
        WideKeelDb db,
        HoldQuery query,
        CancellationToken cancel
    ) =>
        (await InReachAsync(db, query, null, cancel)).FindAll(c =>
            c.Bytes > 0 && c.Facts.Searchable != Searchable.Whole
        );

    /// <summary>
    /// Ids of the items that a run found by a former content in the places and dates of another query, as JSON for
    /// <see cref="Fits"/>.
    /// </summary>
    public static async Task<string> OfRunAsync(WideKeelDb db, long run, HoldQuery query, CancellationToken cancel)
    {
        var found = (
            await db
                .SweepVersionHits.AsNoTracking()
                .Where(h => h.RunId == run && h.Term == SweepVersionHit.Whole)
                .Select(h => new { h.ItemId, h.Hash })
                .ToListAsync(cancel)
        )
            .Select(h => (h.ItemId, h.Hash))
            .ToHashSet();
        return JsonSerializer.Serialize(
            (found.Count == 0 ? [] : await InReachAsync(db, query, null, cancel))
                .Where(c => found.Contains((c.ItemId, c.Hash)))
                .Select(c => c.ItemId)
                .Distinct()
        );
    }

    private static async Task<List<ItemCopy>> InReachAsync(
        WideKeelDb db,
        HoldQuery query,
        long? heldBy,
        CancellationToken cancel
    )
    {
        var reach = query.Standing with { Condition = null };
        return (await FormerOf(db, heldBy).ToListAsync(cancel)).FindAll(c =>
            query.Lists(c.ItemId) && StandingOrders.Keeps(reach, Place(c.Facts))
        );
    }

    private static IQueryable<ItemCopy> FormerOf(WideKeelDb db, long? heldBy) =>
        from copy in db.ItemCopies.AsNoTracking()
        join item in db.Items on copy.ItemId equals item.Id
        where
            item.HasFormer
            && item.DestroyedAt == null
            && copy.Hash != item.Hash
            && (
                heldBy == null
                || db.HoldItems.Any(h => h.OrderId == heldBy && h.ItemId == copy.ItemId && h.Until == null)
            )
        orderby copy.ItemId, copy.At
        select copy;

    /// <summary>What says whether a version lies in the places and dates of a query.</summary>
    private static Arrival Place(CopyFacts facts) =>
        new(facts.ContainerId, facts.Created, facts.Modified, new() { Author = facts.Author, Owner = facts.Owner });

    private static List<FormerMatch> Matches(
        Arrival now,
        List<(ItemCopy Copy, QueryItem Then)> versions,
        HoldQuery query,
        IReadOnlyList<Condition> terms
    )
    {
        List<FormerMatch> found = [];
        var item = versions[0].Copy.ItemId;
        foreach (var (copy, then) in versions)
        {
            if (query.Condition is null || QueryMatcher.Matches(query.Condition, then))
            {
                found.Add(new(item, copy.Hash, SweepVersionHit.Whole));
                found.AddRange(Terms(then, copy.Hash));
            }
        }

        if (found.Count > 0 && StandingOrders.Keeps(query.Standing with { Condition = null }, now))
        {
            found.AddRange(Terms(now.Item, ""));
            if (query.Condition is null || QueryMatcher.Matches(query.Condition, now.Item))
            {
                found.Add(new(item, "", SweepVersionHit.Whole));
            }
        }

        return found;

        IEnumerable<FormerMatch> Terms(QueryItem content, string hash) =>
            terms
                .Select((t, i) => (Term: t, At: i))
                .Where(t => QueryMatcher.Matches(t.Term, content))
                .Select(t => new FormerMatch(item, hash, t.At));
    }

    /// <summary>The item as it was, where it was; names of places are those of today.</summary>
    private static QueryItem Then(QueryItem now, ItemCopy copy, CoveredContainer place, string text) =>
        now.WithText(copy.Facts.Title, text) with
        {
            Source = place.Source,
            Container = $"{place.Source}/{place.Name}",
            Unit = place.Unit,
            Author = copy.Facts.Author,
            Owner = copy.Facts.Owner,
            Path = copy.Facts.Path,
            Type = copy.Facts.Type,
            Created = copy.Facts.Created,
            Modified = copy.Facts.Modified,
            Size = copy.Bytes,
            Searchable = copy.Facts.Searchable.Word(),
            Sensitive = copy.Facts.Kinds,
            Fields = copy.Facts.Fields,
        };

    /// <summary>The text of a copy: read out of safekeeping the first time, and kept from then on.</summary>
    private async Task<string> TextAsync(WideKeelDb db, string hash, string type, CancellationToken cancel)
    {
        if (await KeptAsync(db, hash, type, cancel) is { } kept)
        {
            return kept;
        }

        await using var content = safekeeping.Open(hash);
        if (content is null)
        {
            return "";
        }

        var text = (await TextExtraction.ExtractAsync(content, type, cancel)).Text;
        if (keep is { } keeper)
        {
            await keeper.Writer.RunAsync(
                keeper.Actor,
                async session =>
                {
                    // Only while the copy is there: a text outlives no content. Another request may have been sooner.
                    if (
                        await session.Db.ItemCopies.AnyAsync(c => c.Hash == hash, cancel)
                        && await KeptAsync(session.Db, hash, type, cancel) is null
                    )
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
