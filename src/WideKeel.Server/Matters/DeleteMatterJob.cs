using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Server.Jobs;
using WideKeel.Store;

namespace WideKeel.Server.Matters;

/// <summary>
/// Takes away what a deleted matter held of its own: sweeps, notices, custodians, orders, bundles. Its ledger stays,
/// and its number is never given again.
/// </summary>
public sealed class DeleteMatterJob(Writer writer, WideKeelOptions options) : IJob
{
    public static readonly JobKind JobKind = new(
        "delete-matter",
        JobKind.Matters,
        RunsToItsEnd: true,
        Changes: "items matters files"
    );

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var id = run.Job.SubjectId;
        (string What, Func<WriteSession, long, CancellationToken, Task> Remove)[] steps =
        [
            ("bundles", RemoveBundlesAsync),
            ("sweeps and coding", RemoveSweepsAsync),
            ("notices", RemoveNoticesAsync),
            ("orders", RemoveOrdersAsync),
            ("custodians", RemoveCustodiansAsync),
        ];
        for (var i = 0; i < steps.Length; i++)
        {
            await writer.RunAsync(run.Actor, session => steps[i].Remove(session, id, cancel), cancel);
            await run.ReportAsync(i + 1, steps.Length, $"Removed {steps[i].What}", cancel);
        }

        return "What the matter held of its own is gone; its ledger remains.";
    }

    private async Task RemoveBundlesAsync(WriteSession session, long id, CancellationToken cancel)
    {
        foreach (var bundle in await session.Db.MatterBundles.Where(b => b.MatterId == id).ToListAsync(cancel))
        {
            MatterBundleEndpoints.BagOf(options, bundle.Id).Delete();
            await session.Db.BundleItems.Where(i => i.BundleId == bundle.Id).ExecuteDeleteAsync(cancel);
            session.Db.MatterBundles.Remove(bundle);
        }
    }

    private static async Task RemoveSweepsAsync(WriteSession session, long id, CancellationToken cancel)
    {
        var tags = session.Db.MatterTags.Where(t => t.MatterId == id);
        await session.Db.ItemTags.Where(t => tags.Any(k => k.Id == t.TagId)).ExecuteDeleteAsync(cancel);
        await tags.ExecuteDeleteAsync(cancel);
        var sweeps = session.Db.Sweeps.Where(s => s.MatterId == id);
        var runs = session.Db.SweepRuns.Where(r => sweeps.Any(s => s.Id == r.SweepId));
        await SweepHits.RemoveAsync(session.Db, runs, cancel);
        await runs.ExecuteDeleteAsync(cancel);
        await sweeps.ExecuteDeleteAsync(cancel);
    }

    private static async Task RemoveNoticesAsync(WriteSession session, long id, CancellationToken cancel)
    {
        var notices = session.Db.Notices.Where(n => n.MatterId == id);
        await session.Db.NoticeCopies.Where(c => notices.Any(n => n.Id == c.NoticeId)).ExecuteDeleteAsync(cancel);
        await notices.ExecuteDeleteAsync(cancel);
        await session.Db.Messages.Where(m => m.MatterId == id).ExecuteDeleteAsync(cancel);
    }

    private static async Task RemoveOrdersAsync(WriteSession session, long id, CancellationToken cancel)
    {
        var orders = session.Db.HoldOrders.Where(o => o.MatterId == id);
        await session.Db.HoldItems.Where(h => orders.Any(o => o.Id == h.OrderId)).ExecuteDeleteAsync(cancel);
        await session.Db.HoldReleases.Where(r => r.MatterId == id).ExecuteDeleteAsync(cancel);
        await orders.ExecuteDeleteAsync(cancel);
    }

    private static async Task RemoveCustodiansAsync(WriteSession session, long id, CancellationToken cancel)
    {
        await session.Db.FoundPlaces.Where(p => p.Custodian!.MatterId == id).ExecuteDeleteAsync(cancel);
        await session.Db.Custodians.Where(c => c.MatterId == id).ExecuteDeleteAsync(cancel);
        var matter = await session.Db.Matters.SingleAsync(m => m.Id == id, cancel);
        (matter.Name, matter.Description) = ("Deleted", "");
        session.Record(
            "matter-content-removed",
            MatterDoor.Subject(id),
            after: new JsonObject { ["state"] = nameof(MatterState.Deleted) }
        );
    }
}
