using System.Globalization;
using System.IO.Compression;
using System.Text.Json.Nodes;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

/// <param name="Hash">SHA-256 of the bag's tag manifest.</param>
/// <param name="ReceivedAt">Since then only the archive has it.</param>
public sealed record BundleView(
    long Id,
    int Items,
    long Bytes,
    string Hash,
    Instant MadeAt,
    Instant? ReceivedAt,
    string? ReceivedBy,
    string? Receipt,
    long Revision
);

/// <param name="Receipt">What the archive calls what it took.</param>
public sealed record Receiving(string Receipt);

/// <summary>
/// Bundles for an archive: taken as one file, and removed here once somebody notes that the archive has it.
/// </summary>
public static class BundleEndpoints
{
    public static void MapBundles(this IEndpointRouteBuilder api)
    {
        api.MapGet("/bundles/{id:long}.zip", Zip).Requires(Right.SignDisposition);
        api.MapPost("/bundles/{id:long}/receipt", Receive).Requires(Right.SignDisposition);
    }

    internal static BundleView View(Bundle bundle) =>
        new(
            bundle.Id,
            bundle.Items,
            bundle.Bytes,
            bundle.Hash,
            bundle.MadeAt,
            bundle.ReceivedAt,
            bundle.ReceivedBy,
            bundle.Receipt,
            bundle.Revision
        );

    /// <summary>The bundle that a batch filled last: the one that is here, or that an archive took last.</summary>
    internal static Task<Bundle?> LatestAsync(WideKeelDb db, long batch, CancellationToken cancel) =>
        db.Bundles.AsNoTracking().OrderByDescending(b => b.Id).FirstOrDefaultAsync(b => b.BatchId == batch, cancel);

    /// <summary>Where the bag of a batch lies.</summary>
    internal static Bag BagOf(WideKeelOptions options, long batch) =>
        new(Path.Combine(options.DataFolder, "bundles", $"batch-{batch.ToString(CultureInfo.InvariantCulture)}"));

    private static async Task<IResult> Zip(long id, WideKeelOptions options, [AsParameters] ApiContext context)
    {
        var bundle = await context.Db.Bundles.AsNoTracking().SingleOrDefaultAsync(b => b.Id == id, context.Cancel);
        if (bundle is null || !await MayAsync(bundle, context.Caller, context.Db, context.Cancel))
        {
            return (Reply<Done>)Problems.NotFound("bundle");
        }

        if (bundle.ReceivedAt is not null)
        {
            return (Reply<Done>)
                Refusal.Conflict(
                    "bundle-handed-over",
                    null,
                    "The archive has it; the copy here was removed when its receipt was noted."
                );
        }

        return ZipOf(
            BagOf(options, bundle.BatchId),
            $"widekeel-batch-{bundle.BatchId.ToString(CultureInfo.InvariantCulture)}",
            context.Http,
            context.Cancel
        );
    }

    /// <summary>A bag as one file.</summary>
    internal static IResult ZipOf(Bag bag, string name, HttpContext http, CancellationToken cancel)
    {
        var folder = bag.Folder;
        // The archive writer flushes its last bytes synchronously.
        http.Features.GetRequiredFeature<IHttpBodyControlFeature>().AllowSynchronousIO = true;
        return Results.Stream(
            async stream =>
            {
                // Written as it is read: a bundle may be larger than memory.
                await using var zip = await ZipArchive.CreateAsync(
                    stream,
                    ZipArchiveMode.Create,
                    leaveOpen: true,
                    entryNameEncoding: null,
                    cancel
                );
                foreach (
                    var file in Directory
                        .EnumerateFiles(folder, "*", SearchOption.AllDirectories)
                        .Order(StringComparer.Ordinal)
                )
                {
                    await zip.CreateEntryFromFileAsync(
                        file,
                        $"{name}/{Path.GetRelativePath(folder, file).Replace('\\', '/')}",
                        CompressionLevel.Fastest,
                        cancel
                    );
                }
            },
            "application/zip",
            $"{name}.zip"
        );
    }

    private static Refusal? Check(Bundle bundle, Receiving request) =>
        bundle.ReceivedAt is not null
            ? Refusal.Conflict("bundle-handed-over", null, "Its receipt has been noted already.")
        : string.IsNullOrWhiteSpace(request.Receipt) || request.Receipt.Length > 200
            ? new("receipt-missing", "receipt", "Note what the archive calls it, in at most 200 characters.")
        : null;

    private static async Task<Reply<Done>> Receive(
        long id,
        Receiving request,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        var received = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                var bundle = await session.Db.Bundles.SingleOrDefaultAsync(b => b.Id == id, context.Cancel);
                if (bundle is null || !await MayAsync(bundle, context.Caller, session.Db, context.Cancel))
                {
                    return Problems.NotFound("bundle");
                }

                if ((Problems.CheckMatch(context.Http, bundle.Revision) ?? Check(bundle, request)) is { } refused)
                {
                    return refused;
                }

                (bundle.ReceivedAt, bundle.ReceivedBy, bundle.Receipt) = (
                    session.Now,
                    context.Caller.Name,
                    request.Receipt.Trim()
                );
                bundle.Revision++;
                session.Record(
                    "bundle-received",
                    new("batch", bundle.BatchId.ToString(CultureInfo.InvariantCulture)),
                    after: new JsonObject
                    {
                        ["receipt"] = bundle.Receipt,
                        ["sha256"] = bundle.Hash,
                        ["items"] = bundle.Items,
                    }
                );
                return bundle.BatchId;
            },
            context.Cancel
        );
        if (received.Refusal is { } refusal)
        {
            return refusal;
        }

        // After the commit: cut off here, the bag stays and the execution's next tidying removes it.
        BagOf(options, received.Value).Delete();
        return new Done();
    }

    private static async Task<bool> MayAsync(Bundle bundle, Caller caller, WideKeelDb db, CancellationToken cancel) =>
        caller.May(
            Right.SignDisposition,
            (await db.Batches.AsNoTracking().WithRuler().SingleAsync(b => b.Id == bundle.BatchId, cancel)).Ruler.UnitId
        );
}
