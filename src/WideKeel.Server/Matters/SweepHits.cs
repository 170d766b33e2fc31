using Microsoft.EntityFrameworkCore;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>What runs found, row by row.</summary>
internal static class SweepHits
{
    private const string OfVersions = "SELECT ItemId FROM sweep_version_hit WHERE RunId = $run AND Term";

    /// <summary>
    /// The items with a term, <c>$term</c>, as a condition over <c>i</c>: as they are now, but for those of which a former
    /// content fits, which the run noted.
    /// </summary>
    /// <param name="now">What the term asks of the present content.</param>
    /// <param name="only">Those with no other term.</param>
    public static string OfTerm(string now, bool only) =>
        $"(({now} AND i.Id NOT IN ({OfVersions} = {SweepVersionHit.Whole})) OR (i.Id IN ({OfVersions} = $term)"
        + (only ? $" AND i.Id NOT IN ({OfVersions} NOT IN ($term, {SweepVersionHit.Whole}))))" : "))");

    /// <summary>The items of which a former content fits, as a condition over <c>i</c>.</summary>
    /// <param name="only">Those whose present content does not.</param>
    public static string OfFormer(bool only) =>
        $"(i.Id IN ({OfVersions} = {SweepVersionHit.Whole})"
        + (only ? $" AND i.Id NOT IN ({OfVersions} = {SweepVersionHit.Whole} AND Hash = ''))" : ")");

    /// <summary>Forgets what runs found.</summary>
    public static async Task RemoveAsync(WideKeelDb db, IQueryable<SweepRun> runs, CancellationToken cancel)
    {
        await db.SweepHits.Where(h => runs.Any(r => r.Id == h.RunId)).ExecuteDeleteAsync(cancel);
        await db.SweepVersionHits.Where(h => runs.Any(r => r.Id == h.RunId)).ExecuteDeleteAsync(cancel);
    }
}
