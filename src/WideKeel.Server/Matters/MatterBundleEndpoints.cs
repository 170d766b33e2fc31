using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Server.Disposition;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

public sealed record MatterBundleView(
    long Id,
    string Name,
    BundleOptions Options,
    string ControlPrefix,
    long FirstControl,
    RunState State,
    string AskedBy,
    Instant At,
    Instant? MadeAt,
    long Items,
    long Documents,
    long Duplicates,
    long Bytes,
    long Left,
    long Withheld,
    string? Hash,
    LocalDate KeepThrough,
    Instant? DeletedAt,
    string? Failure
);

public sealed record NewMatterBundle(string Name, BundleOptions Options);

/// <summary>Exports of a matter as bags (RFC 8493), each kept for the matter's own time.</summary>
public static class MatterBundleEndpoints
{
    public static void MapMatterBundles(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/bundles", Make).RequiresSignIn();
        api.MapGet("/matters/{id:long}/bundles/{bundle:long}.zip", Zip).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/bundles/{bundle:long}", Delete).RequiresSignIn();
    }

    internal static Bag BagOf(WideKeelOptions options, long bundle) =>
        new(Path.Combine(options.DataFolder, "bundles", $"matter-{MatterDoor.Text(bundle)}"));

    internal static async Task<List<MatterBundleView>> ViewsAsync(
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        [
            .. (
                await db
                    .MatterBundles.AsNoTracking()
                    .Where(b => b.MatterId == matter)
                    .OrderByDescending(b => b.Id)
                    .ToListAsync(cancel)
            ).Select(b => new MatterBundleView(
                b.Id,
                b.Name,
                b.Options,
                b.ControlPrefix,
                b.FirstControl,
                b.State,
                b.AskedBy,
                b.At,
                b.MadeAt,
                b.Items,
                b.Documents,
                b.Duplicates,
                b.Bytes,
                b.Left,
                b.Withheld,
                b.Hash,
                b.KeepThrough,
                b.DeletedAt,
                b.Failure
            )),
        ];

    private static async Task<Reply<MatterView>> Make(
        long id,
        NewMatterBundle request,
        [AsParameters] ApiContext context
    ) =>
        await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Reviewer,
            context,
            async (session, matter) =>
            {
                if (await CheckAsync(id, request, session.Db, context.Cancel) is { } wrong)
                {
                    return wrong;
                }

                var items = await ItemsAsync(request.Options, session.Db, context.Cancel);
                if (items.Count == 0)
                {
                    return new Refusal("nothing-found", "options", "There is nothing to export.");
                }

                await AskAsync(session, matter, request, items, context);
                return null;
            }
        );

    private static async Task<Refusal?> CheckAsync(
        long matter,
        NewMatterBundle request,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var options = request.Options;
        if (SweepEndpoints.CheckName(request.Name) is { } wrong)
        {
            return wrong;
        }

        if (options.RunId is null == options.OrderId is null)
        {
            return new(
                "source-missing",
                "options",
                "Export what a run of a sweep found, or what an order keeps; one of the two."
            );
        }

        var known = options.RunId is { } run
            ? await db.SweepRuns.AnyAsync(
                r =>
                    r.Id == run
                    && r.State == RunState.Done
                    && db.Sweeps.Any(s => s.Id == r.SweepId && s.MatterId == matter),
                cancel
            )
            : await db.HoldOrders.AnyAsync(o => o.Id == options.OrderId && o.MatterId == matter, cancel);
        return !known ? Problems.NotFound(options.RunId is null ? "order" : "run")
            : options.TagId is { } tag
            && !await db.MatterTags.AnyAsync(t => t.Id == tag && t.MatterId == matter, cancel)
                ? Problems.NotFound("tag")
            : null;
    }

    /// <summary>What goes into a bundle, and how many documents each item is: itself and its attachments.</summary>
    private static async Task<List<(long Id, int Documents)>> ItemsAsync(
        BundleOptions options,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var ids = options.RunId is { } hits
            ? db.SweepHits.Where(h => h.RunId == hits).Select(h => h.ItemId)
            : db.HoldItems.Where(h => h.OrderId == options.OrderId && h.Until == null).Select(h => h.ItemId);
        var items = await db
            .Items.AsNoTracking()
            .Where(i => ids.Contains(i.Id) && i.DestroyedAt == null)
            .Where(i => options.TagId == null || db.ItemTags.Any(t => t.ItemId == i.Id && t.TagId == options.TagId))
            .OrderBy(i => i.Id)
            .Select(i => new { i.Id, i.Attachments })
            .ToListAsync(cancel);
        return items.ConvertAll(i =>
            (i.Id, 1 + (options.Attachments && i.Attachments is { } names ? names.Split('\n').Length : 0))
        );
    }

    private static async Task AskAsync(
        WriteSession session,
        Matter matter,
        NewMatterBundle request,
        List<(long Id, int Documents)> items,
        ApiContext context
    )
    {
        var bundle = new MatterBundle
        {
            MatterId = matter.Id,
            Name = request.Name.Trim(),
            Options = request.Options,
            ControlPrefix = matter.ControlPrefix,
            FirstControl = matter.NextControl,
            AskedBy = context.Caller.Name,
            At = session.Now,
            Items = items.Count,
            KeepThrough = context.Calendar.Today.PlusDays(matter.BundleDays),
        };
        session.Db.MatterBundles.Add(bundle);
        await session.Db.SaveChangesAsync(context.Cancel);
        // Numbers are given out here, once: whatever happens to the run, a document keeps its number, and no other ever
        // has it.
        foreach (var (item, documents) in items)
        {
            session.Db.BundleItems.Add(
                new()
                {
                    BundleId = bundle.Id,
                    ItemId = item,
                    FirstControl = matter.NextControl,
                }
            );
            matter.NextControl += documents;
        }

        session.Record(
            "bundle-asked",
            MatterDoor.Subject(matter.Id),
            after: new JsonObject
            {
                ["name"] = bundle.Name,
                ["items"] = items.Count,
                ["firstControl"] = new ControlNumber(bundle.ControlPrefix, bundle.FirstControl).ToString(),
            }
        );
        await JobBoard.AddAsync(
            session,
            MatterBundleJob.JobKind,
            bundle.Id,
            $"Bundle “{bundle.Name}” of {matter.Number}",
            null,
            context.Caller.Name,
            matter.Id
        );
    }

    private static async Task<IResult> Zip(
        long id,
        long bundle,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        var found = await MatterDoor.FindAsync(id, context.Caller, context.Db, MemberPart.Reviewer, context.Cancel);
        if (found.Refusal is { } refusal)
        {
            return (Reply<Done>)refusal;
        }

        var known = await context
            .Db.MatterBundles.AsNoTracking()
            .SingleOrDefaultAsync(b => b.Id == bundle && b.MatterId == id, context.Cancel);
        if (known is null || known.State != RunState.Done || known.DeletedAt is not null)
        {
            return (Reply<Done>)Problems.NotFound("bundle");
        }

        // Who took it out belongs to the chain of custody.
        await context.Writer.RunAsync(
            context.Caller.Actor,
            session =>
            {
                session.Record(
                    "bundle-taken",
                    MatterDoor.Subject(id),
                    after: new JsonObject { ["bundle"] = known.Name, ["sha256"] = known.Hash }
                );
                return Task.CompletedTask;
            },
            context.Cancel
        );
        return BundleEndpoints.ZipOf(
            BagOf(options, bundle),
            $"{found.Value.Number}-bundle-{MatterDoor.Text(bundle)}",
            context.Http,
            context.Cancel
        );
    }

    private static async Task<Reply<MatterView>> Delete(
        long id,
        long bundle,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    ) =>
        await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, _) =>
            {
                var known = await session.Db.MatterBundles.SingleOrDefaultAsync(
                    b => b.Id == bundle && b.MatterId == id,
                    context.Cancel
                );
                if (known is null || known.DeletedAt is not null)
                {
                    return Problems.NotFound("bundle");
                }

                if (known.State is RunState.Waiting or RunState.Running)
                {
                    return Refusal.Conflict("bundle-being-made", null, "It is being made; wait until it is done.");
                }

                LetGo(session, known, options);
                return null;
            }
        );

    /// <summary>Removes the bag; the line of it, with its hash and figures, stays with the matter.</summary>
    internal static void LetGo(WriteSession session, MatterBundle bundle, WideKeelOptions options)
    {
        BagOf(options, bundle.Id).Delete();
        bundle.DeletedAt = session.Now;
        session.Record(
            "bundle-removed",
            MatterDoor.Subject(bundle.MatterId),
            new JsonObject { ["name"] = bundle.Name, ["sha256"] = bundle.Hash }
        );
    }
}
