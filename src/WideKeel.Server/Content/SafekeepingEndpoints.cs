using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>A copy of one state of an item's content.</summary>
/// <param name="IsNow">It is what the source held at the last scan.</param>
/// <param name="Fault">What the last verification found wrong with it; null when it was as it should be.</param>
public sealed record CopyView(string Hash, long Bytes, Instant At, bool IsNow, string? Fault);

/// <param name="Copies">Items' states that are kept.</param>
/// <param name="Contents">Different contents among them: each is stored once.</param>
/// <param name="Bytes">What the contents take.</param>
/// <param name="Saved">What they would take more if each copy were stored by itself.</param>
/// <param name="OfDeleted">Copies of items that are gone from their source.</param>
public sealed record StorageFigures(
    long Copies,
    long Contents,
    long Bytes,
    long Saved,
    long OfDeleted,
    long OfDeletedBytes,
    Instant? VerifiedAt,
    string? Verified,
    IReadOnlyList<BrokenCopyView> Broken
);

public sealed record BrokenCopyView(string Hash, string Fault, Instant FoundAt, IReadOnlyList<BrokenItem> Items);

public sealed record BrokenItem(long Id, string Title);

/// <param name="Why">Goes to the ledger.</param>
public sealed record Restoring(string Hash, string Why);

/// <summary>What lies in safekeeping: figures, verification, and the way back to the source.</summary>
public static class SafekeepingEndpoints
{
    public static void MapSafekeeping(this IEndpointRouteBuilder api)
    {
        api.MapGet("/safekeeping", Figures).Requires(Right.ReadSources);
        api.MapPost("/safekeeping/verification", Verify).Requires(Right.ScanSources);
        api.MapGet("/items/{id:long}/copies", Copies).Requires(Right.ReadContent);
        api.MapPost("/items/{id:long}/restoration", Restore).Requires(Right.WriteSchedule);
    }

    private static async Task<Reply<StorageFigures>> Figures(WideKeelDb db, CancellationToken cancel)
    {
        var contents = db
            .ItemCopies.GroupBy(c => c.Hash)
            .Select(g => new
            {
                g.Key,
                Bytes = g.Max(c => c.Bytes),
                Copies = g.Count(),
            });
        var all = await contents
            .GroupBy(_ => 1)
            .Select(g => new
            {
                Contents = g.LongCount(),
                Bytes = g.Sum(c => c.Bytes),
                Copies = g.Sum(c => (long)c.Copies),
                Full = g.Sum(c => c.Bytes * c.Copies),
            })
            .SingleOrDefaultAsync(cancel);
        var deleted = await (
            from c in db.ItemCopies
            join i in db.Items on c.ItemId equals i.Id
            where i.MissingSince != null && i.DestroyedAt == null
            group c by 1 into g
            select new { Count = g.LongCount(), Bytes = g.Sum(c => c.Bytes) }
        ).SingleOrDefaultAsync(cancel);
        var last = await db
            .Jobs.AsNoTracking()
            .Where(j => j.Kind == VerifyCopiesJob.JobKind.Name && j.EndedAt != null)
            .OrderByDescending(j => j.Id)
            .FirstOrDefaultAsync(cancel);
        var broken = await db.BrokenCopies.AsNoTracking().OrderBy(b => b.Hash).Take(100).ToListAsync(cancel);
        var hashes = broken.Select(b => b.Hash).ToList();
        var items = (
            await (
                from c in db.ItemCopies
                join i in db.Items on c.ItemId equals i.Id
                where hashes.Contains(c.Hash)
                select new
                {
                    c.Hash,
                    i.Id,
                    i.Title,
                }
            ).ToListAsync(cancel)
        ).ToLookup(i => i.Hash, i => new BrokenItem(i.Id, i.Title));
        return new StorageFigures(
            all?.Copies ?? 0,
            all?.Contents ?? 0,
            all?.Bytes ?? 0,
            (all?.Full ?? 0) - (all?.Bytes ?? 0),
            deleted?.Count ?? 0,
            deleted?.Bytes ?? 0,
            last?.EndedAt,
            last?.Message,
            [.. broken.Select(b => new BrokenCopyView(b.Hash, b.Fault, b.FoundAt, [.. items[b.Hash]]))]
        );
    }

    private static async Task<Reply<Done>> Verify(Caller caller, Writer writer, CancellationToken cancel)
    {
        await writer.RunAsync(
            caller.Actor,
            async session =>
                await JobBoard.AddAsync(
                    session,
                    VerifyCopiesJob.JobKind,
                    0,
                    "Verifying the copies in safekeeping",
                    null,
                    caller.Name
                ),
            cancel
        );
        return new Done();
    }

    private static async Task<Reply<IReadOnlyList<CopyView>>> Copies(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var item = await ItemEndpoints.VisibleAsync(id, caller, db);
        return item is null
            ? Problems.NotFound("item")
            : (Outcome<IReadOnlyList<CopyView>>)
                await (
                    from c in db.ItemCopies.AsNoTracking()
                    where c.ItemId == id
                    orderby c.At descending
                    select new CopyView(
                        c.Hash,
                        c.Bytes,
                        c.At,
                        c.Hash == item.Hash,
                        db.BrokenCopies.Where(b => b.Hash == c.Hash).Select(b => b.Fault).FirstOrDefault()
                    )
                ).ToListAsync(cancel);
    }

    /// <summary>Puts a copy back on its source, beside whatever lies there now: nothing is overwritten.</summary>
    private static async Task<Reply<RestoredView>> Restore(
        long id,
        Restoring request,
        Safekeeping safekeeping,
        SafekeepingGate gate,
        [AsParameters] ApiContext context
    )
    {
        var item = await ItemEndpoints.VisibleAsync(id, context.Caller, context.Db);
        if (
            item is null
            || !context.Caller.May(Right.WriteSchedule, item.Container!.UnitId)
            || !await context.Db.ItemCopies.AnyAsync(c => c.ItemId == id && c.Hash == request.Hash, context.Cancel)
        )
        {
            return Problems.NotFound("copy");
        }

        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        var source = await context
            .Db.Sources.AsNoTracking()
            .SingleAsync(s => s.Id == item.Container!.SourceId, context.Cancel);
        return await gate.RunAsync(
            async () =>
            {
                if (await safekeeping.FaultAsync(request.Hash, context.Cancel) is { } fault)
                {
                    return (Reply<RestoredView>)
                        new Refusal("copy-broken", "hash", $"This copy cannot be put back: {fault}");
                }

                var placed = await PlaceAsync(source, item, () => safekeeping.Open(request.Hash)!, context.Cancel);
                if (placed.Refusal is { } refused)
                {
                    return refused;
                }

                await RecordAsync(item, source, placed.Value, request, context);
                return new RestoredView(placed.Value);
            },
            context.Cancel
        );
    }

    private static Task RecordAsync(Item item, Source source, string path, Restoring request, ApiContext context) =>
        context.Writer.RunAsync(
            context.Caller.Actor,
            async session =>
            {
                session.Record(
                    "restored",
                    new(
                        "item",
                        item.Id.ToString(CultureInfo.InvariantCulture),
                        context.Caller.PathOf(item.Container!.UnitId).Value
                    ),
                    after: new JsonObject { ["path"] = path, ["hash"] = request.Hash },
                    reason: request.Why.Trim()
                );
                await ScanJob.AskAsync(session, source, context.Caller.Name);
            },
            context.Cancel
        );

    /// <returns>The path at which the source put it.</returns>
    private static async Task<Outcome<string>> PlaceAsync(
        Source source,
        Item item,
        Func<Stream> open,
        CancellationToken cancel
    )
    {
        try
        {
            return await ContentSources.Of(source.Kind, source.Root).PlaceAsync(item.Path, open, cancel);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return new Refusal("source-refused", null, $"The source did not take it: {DirectoryShare.Words(e)}");
        }
    }
}

/// <param name="Path">Where it lies now: its own place, or beside it where something else lies there.</param>
public sealed record RestoredView(string Path);
