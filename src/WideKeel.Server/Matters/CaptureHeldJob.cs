using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Ledger;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Matters;

/// <summary>
/// Copies what the orders of a matter keep. Its subject is the matter, and so is the subject of its entries in the
/// ledger: whoever is no member learns neither that copies were made nor of what.
/// </summary>
public sealed class CaptureHeldJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    SafekeepingGate gate,
    OrganisationCalendar calendar
) : CopyJob(databases, writer, safekeeping, gate, calendar)
{
    public static readonly JobKind JobKind = new("capture-held", MayQueueBehindItself: true, Changes: "copies");

    public override JobKind Kind => JobKind;

    /// <summary>Asks for the copies, in the change that makes them necessary.</summary>
    public static Task AskAsync(WriteSession session, long matter, string askedBy) =>
        JobBoard.AddAsync(session, JobKind, matter, "Copies of what is held", null, askedBy, matter);

    /// <summary>What was released and is past its delay is kept no longer.</summary>
    protected override IQueryable<Item> Kept(WideKeelDb db, Job job)
    {
        var holds = db
            .HoldItems.On(Today)
            .Where(h => db.HoldOrders.Any(o => o.Id == h.OrderId && o.MatterId == job.SubjectId));
        return db.Items.AsNoTracking().Where(i => holds.Any(h => h.ItemId == i.Id));
    }

    protected override LedgerSubject SubjectOf(Job job) => MatterDoor.Subject(job.SubjectId);
}
