using System.Diagnostics;
using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// Writes what an order in force keeps into the index of holds, in portions by id. Each portion is one transaction and
/// may be done twice, so wherever it is cut off, running it again ends with the same items held. What arrives meanwhile
/// is matched on arrival.
/// </summary>
public sealed class HoldJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    OrganisationCalendar calendar
) : IJob
{
    public static readonly JobKind JobKind = new(
        "hold",
        JobKind.Matters,
        RunsToItsEnd: true,
        MayQueueBehindItself: true,
        Changes: "items matters"
    );
    private static readonly int Portion = Portions.Or(250_000);
    private static readonly TimeSpan Brief = TimeSpan.FromMilliseconds(250);

    public JobKind Kind => JobKind;

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

        long held = 0;
        var at = long.TryParse(run.Job.Cursor, CultureInfo.InvariantCulture, out var cursor) ? cursor : 0;
        long size = Portion;
        bool done;
        do
        {
            var after = at;
            at += size;
            done = at >= last;
            var began = Stopwatch.GetTimestamp();
            var former = done ? await FormerAsync(run, order, cancel) : "[]";
            await writer.RunAsync(
                run.Actor,
                async session =>
                {
                    var query = await QueryAsync(order, session.Db, cancel);
                    HoldIndex.Apply(session, order.Id, query.Ids, query.Bind, after, at);
                    run.Job.Cursor = at.ToString(CultureInfo.InvariantCulture);
                    await run.NoteAsync(session, Math.Min(at, last), last, "Going through what exists");
                    if (done)
                    {
                        ApplyFormer(session, order.Id, former);
                        held = await FinishAsync(session, order, run.Job.AskedBy, cancel);
                    }
                },
                cancel
            );
            run.Publish();
            // Each commit waits for the disk, so there are few where little is found; where others would wait for it,
            // it goes back to the usual size.
            size = Portions.MayGrow && Stopwatch.GetElapsedTime(began) < Brief ? size * 4 : Portion;
        } while (!done);

        return string.Create(CultureInfo.InvariantCulture, $"{held:N0} items are held.");
    }

    private const string OfFormer =
        "SELECT value AS Id FROM json_each($former) WHERE value > $after AND value <= $through";

    /// <summary>What fits by a content that it had, of those that are kept.</summary>
    private async Task<string> FormerAsync(JobRun run, HoldOrder order, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var query = await QueryAsync(order, db, cancel);
        return await FormerVersions.In(run, safekeeping, writer, cancel).IdsAsync(db, query, cancel);
    }

    private static void ApplyFormer(WriteSession session, long order, string former) =>
        HoldIndex.Apply(
            session,
            order,
            OfFormer,
            c => c.Parameters.AddWithValue("$former", former),
            after: 0,
            through: long.MaxValue
        );

    /// <summary>What the order asks, in the places that were settled when it was put in force.</summary>
    private async Task<HoldQuery> QueryAsync(HoldOrder order, WideKeelDb db, CancellationToken cancel) =>
        (
            await HoldQuery.OfAsync(
                order.InForce!,
                order.MatterId,
                db,
                calendar,
                cancel,
                (order.Containers, order.Names)
            )
        ).Value;

    /// <summary>Says that the order is applied, and returns how many items it holds.</summary>
    private static async Task<long> FinishAsync(
        WriteSession session,
        HoldOrder order,
        string askedBy,
        CancellationToken cancel
    )
    {
        var held = await session.Db.HoldItems.LongCountAsync(h => h.OrderId == order.Id && h.Until == null, cancel);
        var now = await session.Db.HoldOrders.SingleAsync(o => o.Id == order.Id, cancel);
        // Put in force again meanwhile, with another definition, it is the next job's to say that it is done.
        now.AppliedAt =
            now.State == OrderState.InForce
            && OrderEndpoints.FingerprintOf(now.InForce) == OrderEndpoints.FingerprintOf(order.InForce)
                ? session.Now
                : now.AppliedAt;
        session.Record(
            "order-applied",
            MatterDoor.Subject(order.MatterId),
            after: new JsonObject { ["order"] = order.Number, ["items"] = held }
        );
        await CaptureHeldJob.AskAsync(session, order.MatterId, askedBy);
        return held;
    }
}
