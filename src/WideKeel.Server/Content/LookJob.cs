using System.Globalization;
using Microsoft.EntityFrameworkCore;
using WideKeel.Server.Jobs;
using WideKeel.Store;

namespace WideKeel.Server.Content;

/// <summary>
/// Looks for all kinds of sensitive data in every text anew, after a kind was added, changed or taken away. A portion
/// that is done twice gives the same rows.
/// </summary>
public sealed class LookJob(IDbContextFactory<WideKeelDb> databases, Writer writer) : IJob
{
    public static readonly JobKind JobKind = new("look", MayQueueBehindItself: true, Changes: "items kinds");

    private static readonly int Portion = Portions.Or(200);

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var scan = await KindSet.ScanAsync(db);
        long last = 0,
            done = 0,
            finds = 0;
        var total = await db.ItemTexts.LongCountAsync(cancel);
        while (
            await db
                .ItemTexts.AsNoTracking()
                .Where(t => t.ItemId > last)
                .OrderBy(t => t.ItemId)
                .Take(Portion)
                .ToListAsync(cancel)
                is { Count: > 0 } portion
        )
        {
            last = portion[^1].ItemId;
            var counts = portion.SelectMany(t => KindSet.CountsOf(t.ItemId, scan.FindIn(t.Text))).ToList();
            var ids = portion.Select(t => t.ItemId).ToList();
            await writer.RunAsync(
                run.Actor,
                async session =>
                {
                    // Whatever was destroyed since the texts were read must not come back.
                    var living = await session
                        .Db.ItemTexts.Where(t => ids.Contains(t.ItemId))
                        .Select(t => t.ItemId)
                        .ToHashSetAsync(cancel);
                    await session.Db.ItemSensitives.Where(s => ids.Contains(s.ItemId)).ExecuteDeleteAsync(cancel);
                    session.Db.ItemSensitives.AddRange(counts.Where(c => living.Contains(c.ItemId)));
                },
                cancel
            );
            done += portion.Count;
            finds += counts.Sum(c => c.Possible + c.Likely + c.Certain);
            await run.ReportAsync(done, total, null, cancel);
        }

        return string.Create(CultureInfo.InvariantCulture, $"{done:N0} texts looked through, {finds:N0} finds.");
    }
}
