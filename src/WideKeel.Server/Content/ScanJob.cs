using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.Sensitive;
using WideKeel.Server.Jobs;
using WideKeel.Server.Retention;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <summary>
/// Takes stock of a source. The listing is compared with what is known; only what is new or changed is read. Each portion is one
/// transaction, written while the next is read; what is known already is passed over, so a run that was cut off is simply run again.
/// </summary>
public sealed class ScanJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    JobBoard queue,
    OrganisationCalendar calendar
) : IJob
{
    public static readonly JobKind JobKind = new("scan", Changes: "items sources copies");
    private static readonly int Portion = Portions.Or(2_000);

    /// <summary>Bytes of text in one transaction, so that a portion of large files does not pile up in memory.</summary>
    private const long PortionCharacters = 8_000_000;

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        Source source;
        Dictionary<string, Known> known;
        Dictionary<string, long> containers;
        SensitiveScan scan;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            scan = await KindSet.ScanAsync(db);
            source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == run.Job.SubjectId, cancel);
            containers = await db
                .Containers.AsNoTracking()
                .Where(c => c.SourceId == source.Id)
                .ToDictionaryAsync(c => c.Name, c => c.Id, cancel);
            known = await db
                .Items.AsNoTracking()
                .Where(i => i.Container!.SourceId == source.Id && i.DestroyedAt == null)
                .Select(i => new Known(i.Id, i.Path, i.Bytes, i.ModifiedTicks, i.Hash, i.MissingSince != null))
                .ToDictionaryAsync(i => i.Path, cancel);
        }

        if (DirectoryShare.CheckRoot(source.Root) is { } unusable)
        {
            // A share that is not mounted must not look like a share that was emptied.
            throw new IOException(unusable.Sentence);
        }

        var share = ContentSources.Of(source.Kind, source.Root);
        List<Found.File> files = [];
        List<Found.Unreadable> unreadable = [];
        foreach (var found in share.Walk())
        {
            cancel.ThrowIfCancellationRequested();
            switch (found)
            {
                case Found.File file:
                    files.Add(file);
                    break;
                case Found.Unreadable exception:
                    unreadable.Add(exception);
                    break;
            }

            if ((files.Count & 1023) == 0)
            {
                await run.ReportAsync(
                    0,
                    0,
                    $"Listing: {files.Count.ToString("N0", CultureInfo.InvariantCulture)} files so far",
                    cancel
                );
            }
        }

        await AddContainersAsync(run, source, files, containers, cancel);

        var listed = files.Select(f => f.Path).ToHashSet();
        var gone = known
            .Values.Where(k => !listed.Contains(k.Path) && !unreadable.Any(u => Covers(u.Path, k.Path)))
            .ToList();
        var goneByHash = gone.ToLookup(k => k.Hash);
        HashSet<long> moved = [];
        Counts counts = new();
        List<ReadFile> portion = [];
        long characters = 0;
        var writing = Task.CompletedTask;
        try
        {
            for (var i = 0; i < files.Count; i++)
            {
                var file = files[i];
                if (
                    !known.TryGetValue(file.Path, out var before)
                    || before.Bytes != file.Bytes
                    || before.ModifiedTicks != file.Modified.ToUnixTimeTicks()
                    || before.Missing
                )
                {
                    try
                    {
                        if ((file.Hash ?? await share.HashAsync(file.Path, cancel)) is not { } hash)
                        {
                            unreadable.Add(new(file.Path, DirectoryShare.Words(new FileNotFoundException())));
                            continue;
                        }

                        var text = await share.ExtractAsync(file.Path, ItemIntake.TypeOf(file.Path), cancel);
                        portion.Add(new(file, hash, Reading.Of(text, scan)));
                        characters += text.Text.Length;
                    }
                    catch (Exception e) when (e is IOException or UnauthorizedAccessException)
                    {
                        unreadable.Add(new(file.Path, DirectoryShare.Words(e)));
                    }
                }

                if (portion.Count >= Portion || characters > PortionCharacters)
                {
                    await writing;
                    run.StopIfAsked();
                    writing = Begin(portion, i + 1);
                    (portion, characters) = ([], 0);
                }

                // A report waits until what is being written is done, and the reading would wait with it; the portion itself says then how far the work has come.
                if (writing.IsCompleted)
                {
                    await run.ReportAsync(i + 1, files.Count, Words(counts), cancel);
                }
            }
        }
        finally
        {
            // Whatever ended the reading, the portion that is being written is not left alone.
            await writing;
        }

        if (portion.Count > 0)
        {
            await WriteAsync(portion, files.Count);
        }

        await FinishAsync(run, source, gone.Where(k => !moved.Contains(k.Id)).ToList(), unreadable, counts, cancel);
        queue.Wake();
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{files.Count:N0} files: {counts.New:N0} new, {counts.Changed:N0} changed, {counts.Moved:N0} moved, {counts.Gone:N0} gone, {unreadable.Count:N0} could not be read."
        );

        Task Begin(List<ReadFile> read, int done) => Task.Run(() => WriteAsync(read, done), cancel);

        async Task WriteAsync(List<ReadFile> read, int done)
        {
            await writer.RunAsync(
                run.Actor,
                async session =>
                {
                    await WritePortionAsync(session, read, known, containers, goneByHash, moved, counts, cancel);
                    await run.NoteAsync(session, done, files.Count, Words(counts));
                },
                cancel
            );
            run.Publish();
        }
    }

    internal static string ContainerOf(string path) =>
        path.IndexOf('/', StringComparison.Ordinal) is var slash and > 0 ? path[..slash] : ".";

    private static string Words(Counts counts) =>
        string.Create(CultureInfo.InvariantCulture, $"Reading: {counts.New:N0} new, {counts.Changed:N0} changed");

    private static bool Covers(string folder, string path) =>
        folder == "." || path == folder || path.StartsWith(folder + "/", StringComparison.Ordinal);

    private async Task AddContainersAsync(
        JobRun run,
        Source source,
        List<Found.File> files,
        Dictionary<string, long> containers,
        CancellationToken cancel
    )
    {
        var missing = files
            .Select(f => ContainerOf(f.Path))
            .Distinct()
            .Where(name => !containers.ContainsKey(name))
            .ToList();
        if (missing.Count == 0)
        {
            return;
        }

        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var root = await session.Db.Units.OrderBy(u => u.Path.Length).FirstAsync(cancel);
                foreach (var name in missing)
                {
                    var container = new Container
                    {
                        SourceId = source.Id,
                        Name = name,
                        UnitId = root.Id,
                    };
                    session.Db.Containers.Add(container);
                    await session.Db.SaveChangesAsync(cancel);
                    containers[name] = container.Id;
                    session.Record(
                        "found",
                        new("container", Text(container.Id), root.Path),
                        after: new JsonObject { ["name"] = name, ["source"] = source.Name }
                    );
                }
            },
            cancel
        );
    }

    private async Task WritePortionAsync(
        WriteSession session,
        List<ReadFile> portion,
        Dictionary<string, Known> known,
        Dictionary<string, long> containers,
        ILookup<string, Known> goneByHash,
        HashSet<long> moved,
        Counts counts,
        CancellationToken cancel
    )
    {
        var unitPaths = await session
            .Db.Containers.Where(c => containers.Values.Contains(c.Id))
            .Join(session.Db.Units, c => c.UnitId, u => u.Id, (c, u) => new { c.Id, u.Path })
            .ToDictionaryAsync(c => c.Id, c => c.Path, cancel);
        List<(Item Item, Reading Read)> changed = [],
            fresh = [];
        List<Item> relocated = [];
        var next = BulkInsert.NextId<Item>(session);
        foreach (var (file, hash, read) in portion)
        {
            var container = containers[ContainerOf(file.Path)];
            var unit = unitPaths[container];
            if (known.TryGetValue(file.Path, out var before))
            {
                var item = await session.Db.Items.SingleAsync(i => i.Id == before.Id, cancel);
                var subject = new LedgerSubject("item", Text(item.Id), unit);
                if (before.Missing)
                {
                    item.MissingSince = null;
                    session.Record("came-back", subject, after: new JsonObject { ["path"] = file.Path });
                }

                if (item.Hash != hash)
                {
                    session.Record(
                        "content-changed",
                        subject,
                        new JsonObject { ["hash"] = item.Hash, ["bytes"] = item.Bytes },
                        new JsonObject { ["hash"] = hash, ["bytes"] = file.Bytes }
                    );
                    counts.Changed++;
                }

                ItemIntake.Fill(item, file, hash, read.Text, calendar);
                changed.Add((item, read));
                continue;
            }

            var match = goneByHash[hash]
                .FirstOrDefault(k => !moved.Contains(k.Id) && k.Bytes == file.Bytes && k.Bytes > 0);
            if (match is not null)
            {
                moved.Add(match.Id);
                await session
                    .Db.Items.Where(i => i.Id == match.Id)
                    .ExecuteUpdateAsync(
                        set =>
                            set.SetProperty(i => i.Path, file.Path)
                                .SetProperty(i => i.ContainerId, container)
                                .SetProperty(i => i.MissingSince, (Instant?)null)
                                .SetProperty(i => i.ModifiedTicks, file.Modified.ToUnixTimeTicks()),
                        cancel
                    );
                var movedItem = await session.Db.Items.SingleAsync(i => i.Id == match.Id, cancel);
                FullText.Put(session, [(movedItem, read.Folded)]);
                relocated.Add(movedItem);
                session.Record(
                    "moved",
                    new("item", Text(match.Id), unit),
                    new JsonObject { ["path"] = match.Path },
                    new JsonObject { ["path"] = file.Path }
                );
                counts.Moved++;
                continue;
            }

            var found = new Item
            {
                Id = next++,
                ContainerId = container,
                Path = file.Path,
                Title = "",
                Type = "",
                Hash = hash,
            };
            ItemIntake.Fill(found, file, hash, read.Text, calendar);
            fresh.Add((found, read));
            session.Record(
                "found",
                new("item", Text(found.Id), unit),
                after: new JsonObject
                {
                    ["path"] = found.Path,
                    ["hash"] = found.Hash,
                    ["bytes"] = found.Bytes,
                }
            );
            counts.New++;
        }

        await session.Db.SaveChangesAsync(cancel);
        BulkInsert.Insert(session, fresh.Select(f => f.Item));
        await ItemIntake.WriteTextsAsync(session, fresh, areNew: true, cancel);
        await ItemIntake.WriteTextsAsync(session, changed, areNew: false, cancel);
        await ItemIntake.SettleAsync(
            session,
            [.. fresh.Concat(changed).Select(c => c.Item), .. relocated],
            calendar,
            cancel
        );
    }

    private async Task FinishAsync(
        JobRun run,
        Source source,
        List<Known> gone,
        List<Found.Unreadable> unreadable,
        Counts counts,
        CancellationToken cancel
    )
    {
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                foreach (var item in gone.Where(g => !g.Missing))
                {
                    var row = await session
                        .Db.Items.Include(i => i.Container)
                        .SingleAsync(i => i.Id == item.Id, cancel);
                    if (row.DestroyedAt is null && !File.Exists(Path.Combine(source.Root, row.Path)))
                    {
                        row.MissingSince = session.Now;
                        var unit = await session.Db.Units.SingleAsync(u => u.Id == row.Container!.UnitId, cancel);
                        session.Record(
                            "gone-from-source",
                            new("item", Text(item.Id), unit.Path),
                            before: new JsonObject { ["path"] = item.Path }
                        );
                        counts.Gone++;
                    }
                }

                await session.Db.Unreadables.Where(u => u.SourceId == source.Id).ExecuteDeleteAsync(cancel);
                session.Db.Unreadables.AddRange(
                    unreadable
                        .GroupBy(u => u.Path)
                        .Select(u => new Unreadable
                        {
                            SourceId = source.Id,
                            Path = u.Key,
                            Reason = u.First().Reason,
                            SeenByScan = run.Job.Id,
                        })
                );
                var scanned = await session.Db.Sources.SingleAsync(s => s.Id == source.Id, cancel);
                scanned.LastScan = session.Now;
                session.Record(
                    "scanned",
                    new("source", Text(source.Id)),
                    after: new JsonObject
                    {
                        ["new"] = counts.New,
                        ["changed"] = counts.Changed,
                        ["moved"] = counts.Moved,
                        ["gone"] = counts.Gone,
                        ["unreadable"] = unreadable.Count,
                    }
                );
            },
            cancel
        );
    }

    private static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);

    private sealed record ReadFile(Found.File File, string Hash, Reading Read);

    private sealed record Known(long Id, string Path, long Bytes, long ModifiedTicks, string Hash, bool Missing);

    private sealed class Counts
    {
        public int New { get; set; }

        public int Changed { get; set; }

        public int Moved { get; set; }

        public int Gone { get; set; }
    }
}
