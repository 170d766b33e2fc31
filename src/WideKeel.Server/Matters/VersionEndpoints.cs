using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Server.Content;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>A content that an item had, kept in safekeeping.</summary>
/// <param name="At">When it was copied.</param>
/// <param name="Until">When the next content was copied; null for the last.</param>
/// <param name="IsNow">The item holds it now.</param>
/// <param name="Fits">What was asked for stands in it.</param>
/// <param name="Found">Some of its text around the first words found.</param>
public sealed record KeptVersion(
    long ItemId,
    string Hash,
    long Bytes,
    Instant At,
    Instant? Until,
    bool IsNow,
    bool Fits,
    FoundWords? Found
);

/// <summary>
/// What items held before, for the members of a matter: of the items that its orders keep and its sweeps found.
/// </summary>
internal static class VersionEndpoints
{
    public static void MapVersions(this IEndpointRouteBuilder api)
    {
        const string versions = "/matters/{id:long}/items/{item:long}/versions";
        api.MapGet(versions, List).RequiresSignIn();
        api.MapGet(versions + "/{hash}", Show).RequiresSignIn();
        api.MapGet(versions + "/{hash}/file", File).RequiresSignIn();
    }

    /// <summary>The item, where the caller is a member and the matter has to do with it; else null.</summary>
    private static async Task<Item?> FindAsync(long matter, long item, ApiContext context) =>
        context.Caller.Matters.ContainsKey(matter)
        && (
            await context.Db.HoldItems.AnyAsync(
                h => h.ItemId == item && context.Db.HoldOrders.Any(o => o.Id == h.OrderId && o.MatterId == matter),
                context.Cancel
            )
            || await context.Db.SweepHits.AnyAsync(
                h =>
                    h.ItemId == item
                    && context.Db.SweepRuns.Any(r =>
                        r.Id == h.RunId && context.Db.Sweeps.Any(s => s.Id == r.SweepId && s.MatterId == matter)
                    ),
                context.Cancel
            )
        )
            ? await context.Db.Items.AsNoTracking().SingleOrDefaultAsync(i => i.Id == item, context.Cancel)
            : null;

    private static async Task<Reply<IReadOnlyList<KeptVersion>>> List(
        long id,
        long item,
        [AsParameters] ApiContext context
    ) =>
        await FindAsync(id, item, context) is not { } known
            ? Problems.NotFound("item")
            : (Outcome<IReadOnlyList<KeptVersion>>)
                (await CopiesAsync([known.Id], context))
                    .Select(c => View(c.Copy, c.Until, c.Copy.Hash == known.Hash, false, null))
                    .Reverse()
                    .ToList();

    /// <summary>The text of a version, with what must not be seen by the way masked.</summary>
    /// <param name="cql">Words to be marked.</param>
    private static async Task<Reply<Preview>> Show(
        long id,
        long item,
        string hash,
        string? cql,
        Safekeeping safekeeping,
        [AsParameters] ApiContext context
    )
    {
        if (
            await FindAsync(id, item, context) is null
            || await context
                .Db.ItemCopies.AsNoTracking()
                .FirstOrDefaultAsync(c => c.ItemId == item && c.Hash == hash, context.Cancel)
                is not { } copy
        )
        {
            return Problems.NotFound("version");
        }

        var type = copy.Facts.Type;
        var text = await FormerVersions.KeptAsync(context.Db, hash, type, context.Cancel);
        if (text is null)
        {
            await using var content = safekeeping.Open(hash);
            if (content is null)
            {
                return new Preview("none", null, "The copy is not in safekeeping now; its verification says why.");
            }

            text = (await TextExtraction.ExtractAsync(content, type, context.Cancel)).Text;
        }

        if (text.Length == 0)
        {
            return new Preview("none", null, "There is no text in it that can be shown; its file can be opened.");
        }

        var condition = FoundText.Asked(cql, context.Calendar.Today);
        var finds = (await KindSet.ScanAsync(context.Db)).FindIn(text);
        return new Preview("text", FoundText.Mask(text, finds), null)
        {
            Marks = condition is null ? [] : QueryMatcher.Marks(condition, new() { Body = text }, QueryIndex.Text),
        };
    }

    private static async Task<IResult> File(
        long id,
        long item,
        string hash,
        Safekeeping safekeeping,
        [AsParameters] ApiContext context
    ) =>
        await FindAsync(id, item, context) is { } known
        && await context.Db.ItemCopies.AnyAsync(c => c.ItemId == item && c.Hash == hash, context.Cancel)
        && safekeeping.Open(hash) is { } content
            ? Results.File(content, "application/octet-stream", Path.GetFileName(known.Path))
            : (Reply<Done>)Problems.NotFound("version");

    /// <summary>The former contents of the items of a page, with what was found in them.</summary>
    /// <param name="term">By which they were to fit.</param>
    /// <param name="condition">Whose words are shown; null shows none.</param>
    public static async Task<IReadOnlyList<KeptVersion>> OfRunAsync(
        IReadOnlyList<long> ids,
        long run,
        int term,
        Condition? condition,
        ApiContext context
    )
    {
        var items = await context
            .Db.Items.AsNoTracking()
            .Where(i => ids.Contains(i.Id))
            .ToDictionaryAsync(i => i.Id, context.Cancel);
        var fits = (
            await context
                .Db.SweepVersionHits.AsNoTracking()
                .Where(h => h.RunId == run && h.Term == term && ids.Contains(h.ItemId))
                .ToListAsync(context.Cancel)
        )
            .Select(h => (h.ItemId, h.Hash))
            .ToHashSet();
        List<KeptVersion> versions = [];
        foreach (var (copy, until) in await CopiesAsync(ids, context))
        {
            var item = items[copy.ItemId];
            if (copy.Hash == item.Hash)
            {
                continue;
            }

            var fit = fits.Contains((copy.ItemId, copy.Hash));
            var text =
                fit && condition is not null
                    ? await FormerVersions.KeptAsync(context.Db, copy.Hash, copy.Facts.Type, context.Cancel)
                    : null;
            versions.Add(
                View(
                    copy,
                    until,
                    false,
                    fit,
                    text is null
                        ? null
                        : FoundText.In(condition!, copy.Facts.Title, text, await KindSet.ScanAsync(context.Db))
                )
            );
        }

        return versions;
    }

    private static KeptVersion View(ItemCopy copy, Instant? until, bool isNow, bool fits, FoundWords? found) =>
        new(copy.ItemId, copy.Hash, copy.Bytes, copy.At, until, isNow, fits, found);

    /// <summary>The copies of some items, the oldest first, each with the time of the next.</summary>
    private static async Task<IEnumerable<(ItemCopy Copy, Instant? Until)>> CopiesAsync(
        IReadOnlyList<long> ids,
        ApiContext context
    ) =>
        (
            await context
                .Db.ItemCopies.AsNoTracking()
                .Where(c => ids.Contains(c.ItemId))
                .OrderBy(c => c.At)
                .ToListAsync(context.Cancel)
        )
            .GroupBy(c => c.ItemId)
            .SelectMany(g => g.Zip(g.Skip(1).Select(n => (Instant?)n.At).Append(null)));
}
