using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Store.People;

/// <summary>
/// What changes of the directory touched. Whoever knows a state of it and its revision reads what was touched since, and
/// not a million grants for one membership.
/// </summary>
public static class DirectoryTouches
{
    /// <summary>Of one change; one that touches more is read whole.</summary>
    private const int Most = 200;

    /// <summary>So many revisions back.</summary>
    private const int Kept = 1000;

    /// <summary>Counts a change of the directory, so that what was computed from it is computed anew.</summary>
    /// <param name="touched">
    /// All that it touched: things that were there before it and are after it. Empty where it may have touched more.
    /// </param>
    public static async Task ChangedAsync(
        WideKeelDb db,
        IReadOnlyCollection<(DirectoryThing Thing, string Key)> touched,
        CancellationToken cancel = default
    )
    {
        await db.Organisations.ExecuteUpdateAsync(
            o => o.SetProperty(x => x.DirectoryRevision, x => x.DirectoryRevision + 1),
            cancel
        );
        var revision = await db.Organisations.Select(o => o.DirectoryRevision).SingleOrDefaultAsync(cancel);
        await db.DirectoryTouches.Where(t => t.Revision <= revision - Kept).ExecuteDeleteAsync(cancel);
        if (touched.Count <= Most)
        {
            db.DirectoryTouches.AddRange(
                touched.Select(t => new DirectoryTouch
                {
                    Revision = revision,
                    Thing = t.Thing,
                    Key = t.Key,
                })
            );
            await db.SaveChangesAsync(cancel);
        }
    }

    /// <summary>What was touched between two revisions, as it is now.</summary>
    /// <param name="known">The revision that is known; its changes are not in the answer.</param>
    /// <returns>Null where a change between them may have touched anything.</returns>
    public static async Task<DirectoryState?> SinceAsync(
        WideKeelDb db,
        long known,
        long now,
        CancellationToken cancel = default
    )
    {
        var touched = await db
            .DirectoryTouches.AsNoTracking()
            .Where(t => t.Revision > known && t.Revision <= now)
            .ToListAsync(cancel);
        if (
            now <= known
            || touched.DistinctBy(t => t.Revision).Count() != now - known
            || touched.DistinctBy(t => (t.Thing, t.Key)).Count() > Most
        )
        {
            return null;
        }

        return await DirectoryRows.PartAsync(
            db,
            touched.ToLookup(t => t.Thing == DirectoryThing.Grant ? DirectoryThing.Place : t.Thing, t => t.Key),
            cancel
        );
    }
}
