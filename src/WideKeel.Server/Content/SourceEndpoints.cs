using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <param name="Reachable">The root can be opened now.</param>
public sealed record SourceView(
    long Id,
    string Name,
    SourceKind Kind,
    string Root,
    bool Reachable,
    Instant? LastScan,
    long Items,
    long Bytes,
    long Unreadable,
    IReadOnlyList<ContainerView> Containers,
    bool Connected,
    long Revision
) : IRevised;

public sealed record ContainerView(
    long Id,
    string Name,
    long UnitId,
    string Unit,
    long Items,
    long Bytes,
    long Revision
) : IRevised;

public sealed record UnreadableView(string Path, string Reason);

public sealed record NewSource(string Name, string Root, SourceKind Kind = SourceKind.Share);

/// <param name="Why">Needed where a second person must agree.</param>
public sealed record ContainerChange(long UnitId, string? Why = null);

/// <param name="Connected">False stops scans and, of a workspace, all work in it; what is known of it stays.</param>
public sealed record SourceChange(string Name, bool Connected);

/// <summary>What a test of the connection found.</summary>
/// <param name="Found">Files or messages that a first look came upon, up to a thousand.</param>
public sealed record SourceTest(bool Good, string Says, int Found, int Unreadable, double Seconds);

public static class SourceEndpoints
{
    public static void MapSources(this IEndpointRouteBuilder api)
    {
        api.MapGet("/sources", List).Requires(Right.ReadSources);
        api.MapPost("/sources", Add).Requires(Right.ManageSources);
        api.MapPut("/sources/{id:long}", Change).Requires(Right.ManageSources);
        api.MapPost("/sources/{id:long}/test", Test).Requires(Right.ScanSources);
        api.MapGet("/sources/{id:long}/exceptions", Exceptions).Requires(Right.ReadSources);
        api.MapPost("/sources/{id:long}/scans", Scan).Requires(Right.ScanSources);
        api.MapGet("/containers", Containers).Requires(Right.ReadSchedule);
        api.MapPut("/containers/{id:long}", Assign).Requires(Right.ManageSources);
    }

    private static async Task<Reply<IReadOnlyList<SourceView>>> List(WideKeelDb db, CancellationToken cancel)
    {
        var sources = await db.Sources.AsNoTracking().OrderBy(s => s.Name).ToListAsync(cancel);
        var counts = await db
            .Items.AsNoTracking()
            .Where(i => i.DestroyedAt == null)
            .GroupBy(i => i.ContainerId)
            .Select(g => new
            {
                g.Key,
                Items = g.LongCount(),
                Bytes = g.Sum(i => i.Bytes),
            })
            .ToDictionaryAsync(g => g.Key, cancel);
        var containers = await (
            from c in db.Containers.AsNoTracking()
            join u in db.Units on c.UnitId equals u.Id
            orderby c.Name
            select new { c, u.Name }
        ).ToListAsync(cancel);
        var unreadable = await db
            .Unreadables.GroupBy(u => u.SourceId)
            .Select(g => new { g.Key, Count = g.LongCount() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        return (Outcome<IReadOnlyList<SourceView>>)
            sources
                .Select(s =>
                {
                    var own = containers
                        .Where(c => c.c.SourceId == s.Id)
                        .Select(c => new ContainerView(
                            c.c.Id,
                            c.c.Name,
                            c.c.UnitId,
                            c.Name,
                            counts.GetValueOrDefault(c.c.Id)?.Items ?? 0,
                            counts.GetValueOrDefault(c.c.Id)?.Bytes ?? 0,
                            c.c.Version
                        ))
                        .ToList();
                    return new SourceView(
                        s.Id,
                        s.Name,
                        s.Kind,
                        s.Root,
                        DirectoryShare.CheckRoot(s.Root) is null,
                        s.LastScan,
                        own.Sum(c => c.Items),
                        own.Sum(c => c.Bytes),
                        unreadable.GetValueOrDefault(s.Id),
                        own,
                        s.Connected,
                        s.Version
                    );
                })
                .ToList();
    }

    private static async Task<Reply<Done>> Add(
        NewSource request,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200)
        {
            return new Refusal("name-missing", "name", "A source needs a name of at most 200 characters.");
        }

        if (DirectoryShare.CheckRoot(request.Root) is { } unusable)
        {
            return unusable;
        }

        var root = new DirectoryShare(request.Root).Root;
        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var roots = await session.Db.Sources.Select(s => s.Root).ToListAsync(context.Cancel);
                if (DirectoryShare.CheckPlace(root, options.RootPlaces, roots) is { } overlaps)
                {
                    return overlaps;
                }

                var source = new Source
                {
                    Name = request.Name.Trim(),
                    Kind = request.Kind,
                    Root = root,
                };
                session.Db.Sources.Add(source);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "connected",
                    new("source", source.Id.ToString(CultureInfo.InvariantCulture)),
                    after: new JsonObject
                    {
                        ["name"] = source.Name,
                        ["kind"] = source.Kind.ToString(),
                        ["root"] = root,
                    }
                );
                await ScanJob.AskAsync(session, source, context.Caller.Name);
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<IReadOnlyList<UnreadableView>>> Exceptions(
        long id,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        (Outcome<IReadOnlyList<UnreadableView>>)
            await db
                .Unreadables.AsNoTracking()
                .Where(u => u.SourceId == id)
                .OrderBy(u => u.Path)
                .Select(u => new UnreadableView(u.Path, u.Reason))
                .ToListAsync(cancel);

    private static async Task<Reply<JobView>> Scan(long id, Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<JobView>(
            caller.Actor,
            async session =>
            {
                var source = await session.Db.Sources.SingleOrDefaultAsync(s => s.Id == id, cancel);
                if (source is null)
                {
                    return Problems.NotFound("source");
                }

                if (!source.Connected)
                {
                    return Refusal.Conflict(
                        "source-disconnected",
                        null,
                        $"{source.Name} is disconnected. Connect it again first."
                    );
                }

                var job = await ScanJob.AskAsync(session, source, caller.Name);
                if (job.Id == 0)
                {
                    session.Record("scan-asked", new("source", id.ToString(CultureInfo.InvariantCulture)));
                    await session.Db.SaveChangesAsync(cancel);
                }

                return JobView.Of(job);
            },
            cancel
        );

    private static async Task<Reply<Done>> Change(long id, SourceChange request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var source = await session.Db.Sources.SingleOrDefaultAsync(s => s.Id == id, context.Cancel);
                if (source is null)
                {
                    return Problems.NotFound("source");
                }

                if (
                    (
                        Problems.CheckMatch(context.Http, source.Version)
                        ?? (
                            string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200
                                ? new("name-missing", "name", "A source needs a name of at most 200 characters.")
                                : null
                        )
                    ) is
                    { } wrong
                )
                {
                    return wrong;
                }

                session.Record(
                    source.Connected == request.Connected ? "changed"
                        : request.Connected ? "connected"
                        : "disconnected",
                    new("source", id.ToString(CultureInfo.InvariantCulture)),
                    new JsonObject { ["name"] = source.Name },
                    new JsonObject { ["name"] = request.Name.Trim() }
                );
                (source.Name, source.Connected, source.Version) = (
                    request.Name.Trim(),
                    request.Connected,
                    source.Version + 1
                );
                return new Done();
            },
            context.Cancel
        );

    /// <summary>
    /// Looks at a source without taking anything in: can it be opened, listed, and something of it read.
    /// </summary>
    private static async Task<Reply<SourceTest>> Test(long id, WideKeelDb db, CancellationToken cancel)
    {
        const int most = 1_000;
        var source = await db.Sources.AsNoTracking().SingleOrDefaultAsync(s => s.Id == id, cancel);
        if (source is null)
        {
            return Problems.NotFound("source");
        }

        if (DirectoryShare.CheckRoot(source.Root) is { } unusable)
        {
            return new SourceTest(false, unusable.Sentence, 0, 0, 0);
        }

        var watch = System.Diagnostics.Stopwatch.StartNew();
        try
        {
            var connection = ContentSources.Of(source.Kind, source.Root);
            var found = await Task.Run(() => connection.Walk().Take(most).ToList(), cancel);
            var files = found.OfType<Found.File>().ToList();
            if (files.Count > 0)
            {
                _ = await connection.HashAsync(files[0].Path, cancel);
            }

            return new SourceTest(
                true,
                files.Count == 0 ? "It can be opened, and holds nothing yet."
                    : found.Count == most
                        ? $"It can be opened; its first {most.ToString("N0", CultureInfo.InvariantCulture)} "
                            + $"entries were listed and one was read."
                    : "It can be opened; everything in it was listed and one was read.",
                files.Count,
                found.Count - files.Count,
                watch.Elapsed.TotalSeconds
            );
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return new SourceTest(false, DirectoryShare.Words(e), 0, 0, watch.Elapsed.TotalSeconds);
        }
    }

    private static async Task<Reply<IReadOnlyList<CoveredContainer>>> Containers(Caller caller, WideKeelDb db)
    {
        var visible = caller.Units(Right.ReadSchedule);
        var own = visible is null ? null : visible.Select(u => caller.PathOf(u).Value).ToHashSet();
        return (Outcome<IReadOnlyList<CoveredContainer>>)
            (await Ruling.ContainersAsync(db))
                .Where(c => own is null || own.Contains(c.UnitPath))
                .OrderBy(c => c.Name, StringComparer.OrdinalIgnoreCase)
                .ToList();
    }

    private static async Task<Reply<Done>> Assign(long id, ContainerChange request, [AsParameters] ApiContext context)
    {
        if (Problems.ReadMatch(context.Http, out var version) is { } unmatched)
        {
            return unmatched;
        }

        var done = await ActRunner.RunAsync(
            AssignContainerHandler.Instance,
            new(id, version, request.UnitId),
            context,
            request.Why,
            null
        );
        return done.Refusal is { } refusal ? refusal
            : done.Value.ProposalId is not null ? done.Value.Waits
            : new Done();
    }
}
