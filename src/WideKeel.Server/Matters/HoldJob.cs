using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// Writes what an order in force keeps into the index of holds, in portions by id. Each portion is one transaction and may be done twice, so wherever
/// it is cut off, running it again ends with the same items held. What arrives meanwhile is matched on arrival.
/// </summary>
public sealed class HoldJob(IDbContextFactory<WideKeelDb> databases, Writer writer, Calendar calendar, JobBoard queue) : IJobKind
{
    public const string KindName = "hold";
    private static readonly int Portion = Portions.Or(250_000);

    public string Kind => KindName;

    public string Lane => Lanes.Matters;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        HoldOrder order;
        long last;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            order = await db.HoldOrders.AsNoTracking().SingleAsync(o => o.Id == run.Job.SubjectId, cancel);
            last = await db.Items.MaxAsync(i => (long?)i.Id, cancel) ?? 0;
        }

        if (order.State != OrderState.InForce || order.AppliedAt is not null)
        {
            return "It had been applied already.";
        }

        var at = long.TryParse(run.Job.Cursor, CultureInfo.InvariantCulture, out var cursor) ? cursor : 0;
        while (at < last)
        {
            var after = at;
            at += Portion;
            await writer.RunAsync(run.Actor, async session =>
            {
                var query = (await HoldQuery.OfAsync(order.InForce!, order.MatterId, session.Db, calendar, cancel, (order.Containers, order.Names))).Value;
                Holds.Apply(session, order.Id, query.Where, query.Bind, after, at);
                run.Job.Cursor = at.ToString(CultureInfo.InvariantCulture);
                await session.Db.Jobs.Where(j => j.Id == run.Job.Id).ExecuteUpdateAsync(set => set.SetProperty(j => j.Cursor, run.Job.Cursor), cancel);
            }, cancel);
            await run.ReportAsync(Math.Min(at, last), last, "Going through what exists", cancel);
        }

        long held = 0;
        await writer.RunAsync(run.Actor, async session =>
        {
            held = await session.Db.HoldItems.LongCountAsync(h => h.OrderId == order.Id && h.Until == null, cancel);
            var now = await session.Db.HoldOrders.SingleAsync(o => o.Id == order.Id, cancel);
            // Put in force again meanwhile, with another definition, it is the next job's to say that it is done.
            now.AppliedAt = now.State == OrderState.InForce && OrderEndpoints.FingerprintOf(now.InForce) == OrderEndpoints.FingerprintOf(order.InForce) ? session.Now : now.AppliedAt;
            session.Record("order-applied", MatterAccess.Subject(order.MatterId), after: new JsonObject { ["order"] = order.Number, ["items"] = held });
            await JobBoard.AddAsync(session, JobBoard.CaptureKind, 0, "Copies into safekeeping", null, "holds");
        }, cancel);
        queue.Wake();
        return string.Create(CultureInfo.InvariantCulture, $"{held:N0} items are held.");
    }
}
