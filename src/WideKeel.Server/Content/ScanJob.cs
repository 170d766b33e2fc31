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
using WideKeel.Store.Jobs;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Content;

/// <summary>
/// Takes stock of a source. The listing is compared with what is known; only what is new or changed is read. Each
/// portion is one transaction, written while the next is read; what is known already is passed over, so a run that was
/// cut off is simply run again.
/// </summary>
public sealed class ScanJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    OrganisationCalendar calendar,
    WideKeelOptions options
) : IJob
{
    public static readonly JobKind JobKind = new("scan", Changes: "items sources copies");
    private static readonly int Portion = Portions.Or(2_000);

    /// <summary>
    /// Bytes of text in one transaction, so that a portion of large files does not pile up in memory.
    /// </summary>
    private const long PortionCharacters = 8_000_000;

    public JobKind Kind => JobKind;

    /// <summary>Puts a scan of a source in the queue; one that waits there already is enough.</summary>
    public static Task<Job> AskAsync(WriteSession session, Source source, string askedBy) =>
        JobBoard.AddAsync(session, JobKind, source.Id, $"Scanning {source.Name}", null, askedBy);

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var state = await LoadAsync(run, cancel);
        if (DirectoryShare.CheckRoot(state.Source.Root) is { } unusable)
        {
            // A share that is not mounted must not look like a share that was emptied.
            throw new IOException(unusable.Sentence);
        }

        if (DirectoryShare.CheckPlace(state.Source.Root, options.RootPlaces, state.OtherRoots) is { } misplaced)
        {
            // Something was mounted, or moved, since it was connected.
            throw new IOException(misplaced.Sentence);
        }

        await ListAsync(run, state, cancel);
        await AddContainersAsync(run, state.Source, state.Files, state.Containers, cancel);
        state.Compare();
        await ReadAsync(run, state, cancel);
        await FinishAsync(
            run,
            state.Source,
            state.Gone.Where(k => !state.Moved.Contains(k.Id)).ToList(),
            state.Unreadable,
            state.Counts,
            cancel
        );
        var counts = state.Counts;
        return string.Create(
            CultureInfo.InvariantCulture,
            $"{state.Files.Count:N0} files: {counts.New:N0} new, {counts.Changed:N0} changed, {counts.Moved:N0} "
                + $"moved, {counts.Gone:N0} gone, {state.Unreadable.Count:N0} could not be read."
        );
    }

    /// <summary>What is known of the source before it is looked at.</summary>
    private async Task<State> LoadAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var scan = await KindSet.ScanAsync(db);
        var source = await db.Sources.AsNoTracking().SingleAsync(s => s.Id == run.Job.SubjectId, cancel);
        var containers = await db
            .Containers.AsNoTracking()
            .Where(c => c.SourceId == source.Id)
            .ToDictionaryAsync(c => c.Name, c => c.Id, cancel);
        var known = await db
            .Items.AsNoTracking()
            .Where(i => i.Container!.SourceId == source.Id && i.DestroyedAt == null)
            .OrderBy(i => i.Id)
            .Select(i => new Known(i.Id, i.Path, i.Bytes, i.ModifiedTicks, i.Hash, i.MissingSince != null))
            .ToListAsync(cancel);
        var others = await db.Sources.Where(s => s.Id != source.Id).Select(s => s.Root).ToListAsync(cancel);
        return new(source, ContentSources.Of(source.Kind, source.Root), scan, containers, Latest(known))
        {
            OtherRoots = others,
        };
    }

    /// <summary>By path: what is there, or else what was there last.</summary>
    private static Dictionary<string, Known> Latest(List<Known> items)
    {
        Dictionary<string, Known> latest = new(items.Count);
        foreach (var item in items)
        {
            if (!item.Missing || !latest.TryGetValue(item.Path, out var other) || other.Missing)
            {
                latest[item.Path] = item;
            }
        }

        return latest;
    }

    /// <summary>Lists what is there, without reading it.</summary>
    private static async Task ListAsync(JobRun run, State state, CancellationToken cancel)
    {
        foreach (var found in state.Share.Walk())
        {
            cancel.ThrowIfCancellationRequested();
            switch (found)
            {
                case Found.File file:
                    state.Files.Add(file);
                    break;
                case Found.Unreadable exception:
                    state.Unreadable.Add(exception);
                    break;
            }

            if ((state.Files.Count & 1023) == 0)
            {
                await run.ReportAsync(0, 0, $"Listing: {Wording.Number(state.Files.Count)} files so far", cancel);
            }
        }
    }

    /// <summary>
    /// Reads what is new or changed, and writes it in portions: the next is read while one is written.
    /// </summary>
    private async Task ReadAsync(JobRun run, State state, CancellationToken cancel)
    {
        List<ReadFile> portion = [];
        long characters = 0;
        var writing = Task.CompletedTask;
        try
        {
            for (var i = 0; i < state.Files.Count; i++)
            {
                if (state.IsNewOrChanged(state.Files[i]) && await ReadAsync(state, state.Files[i], cancel) is { } read)
                {
                    portion.Add(read);
                    characters += read.Read.Text.Text.Length;
                }

                if (portion.Count >= Portion || characters > PortionCharacters)
                {
                    await writing;
                    run.StopIfAsked();
                    var (full, done) = (portion, i + 1);
                    writing = Task.Run(() => WriteAsync(run, state, full, done, cancel), cancel);
                    (portion, characters) = ([], 0);
                }

                // A report waits until what is being written is done, and the reading would wait with it; the portion
                // itself says then how far the work has come.
                if (writing.IsCompleted)
                {
                    await run.ReportAsync(i + 1, state.Files.Count, Words(state.Counts), cancel);
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
            await WriteAsync(run, state, portion, state.Files.Count, cancel);
        }
    }

    /// <summary>Reads one file; null where it cannot be read, which is noted.</summary>
    private static async Task<ReadFile?> ReadAsync(State state, Found.File file, CancellationToken cancel)
    {
        try
        {
            if ((file.Hash ?? await state.Share.HashAsync(file.Path, cancel)) is { } hash)
            {
                var text = await state.Share.ExtractAsync(file.Path, ItemIntake.TypeOf(file.Path), cancel);
                return new(file, hash, Reading.Of(text, state.Scan));
            }

            state.Unreadable.Add(new(file.Path, DirectoryShare.Words(new FileNotFoundException())));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            state.Unreadable.Add(new(file.Path, DirectoryShare.Words(e)));
        }

        return null;
    }

    private async Task WriteAsync(JobRun run, State state, List<ReadFile> read, int done, CancellationToken cancel)
    {
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                await HoldBeforeAsync(session, read, state.Known, cancel);
                await WritePortionAsync(session, read, state, cancel);
                await run.NoteAsync(session, done, state.Files.Count, Words(state.Counts));
            },
            cancel
        );
        run.Publish();
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
                    foreach (var part in session.Services.GetServices<IItemArrival>())
                    {
                        await part.FoundAsync(session, container, calendar.Today, cancel);
                    }
                }
            },
            cancel
        );
    }

    private async Task WritePortionAsync(
        WriteSession session,
        List<ReadFile> portion,
        State state,
        CancellationToken cancel
    )
    {
        var (known, containers, counts, moved) = (state.Known, state.Containers, state.Counts, state.Moved);
        var unitPaths = await UnitPathsAsync(session, containers.Values, cancel);
        List<(Item Item, Reading Read)> changed = [],
            fresh = [];
        List<Item> relocated = [];
        var next = BulkInsert.NextId<Item>(session);
        foreach (var (file, hash, read) in portion)
        {
            var container = containers[ContainerOf(file.Path)];
            var unit = unitPaths[container];
            // Another content where a file was gone is another file; the one before stays known, with its holds.
            if (known.TryGetValue(file.Path, out var before) && (!before.Missing || before.Hash == hash))
            {
                var item = await session.Db.Items.SingleAsync(i => i.Id == before.Id, cancel);
                counts.Changed += Change(session, item, unit, before.Missing, file, hash) ? 1 : 0;
                ItemIntake.Fill(item, file, hash, read.Text, calendar);
                changed.Add((item, read));
                continue;
            }

            if (await FreeToMoveAsync(session, state.GoneLike(hash, file.Bytes), cancel) is { } match)
            {
                moved.Add(match.Id);
                relocated.Add(await RelocateAsync(session, match, (file, read), (container, unit), cancel));
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
            RecordFound(session, found, unit);
            counts.New++;
        }

        await session.Db.SaveChangesAsync(cancel);
        BulkInsert.Insert(session, fresh.Select(f => f.Item));
        await ItemIntake.WriteTextsAsync(session, fresh, areNew: true, cancel);
        await ItemIntake.WriteTextsAsync(session, changed, areNew: false, cancel);
        relocated.AddRange(fresh.Concat(changed).Select(c => c.Item));
        await ItemIntake.SettleAsync(session, relocated, calendar, cancel);
    }

    /// <summary>The path of the unit of each container.</summary>
    private static Task<Dictionary<long, string>> UnitPathsAsync(
        WriteSession session,
        IReadOnlyCollection<long> containers,
        CancellationToken cancel
    ) =>
        session
            .Db.Containers.Where(c => containers.Contains(c.Id))
            .Join(session.Db.Units, c => c.UnitId, u => u.Id, (c, u) => new { c.Id, u.Path })
            .ToDictionaryAsync(c => c.Id, c => c.Path, cancel);

    /// <summary>What the items of these files were found to say until now stays held, whatever they say next.</summary>
    private async Task HoldBeforeAsync(
        WriteSession session,
        List<ReadFile> portion,
        Dictionary<string, Known> known,
        CancellationToken cancel
    )
    {
        var ids = portion.Select(f => f.File.Path).Where(known.ContainsKey).Select(p => known[p].Id).ToList();
        if (ids.Count > 0)
        {
            await ItemIntake.HoldBeforeChangeAsync(
                session,
                await session.Db.Items.AsNoTracking().Where(i => ids.Contains(i.Id)).ToListAsync(cancel),
                calendar.Today,
                cancel
            );
        }
    }

    private static void RecordFound(WriteSession session, Item item, string unit) =>
        session.Record(
            "found",
            new("item", Text(item.Id), unit),
            after: new JsonObject
            {
                ["path"] = item.Path,
                ["hash"] = item.Hash,
                ["bytes"] = item.Bytes,
            }
        );

    /// <summary>Records what happened to a file that was known at its path.</summary>
    /// <param name="missing">It had been gone.</param>
    /// <returns>Whether its content is another.</returns>
    private bool Change(WriteSession session, Item item, string unit, bool missing, Found.File file, string hash)
    {
        var subject = new LedgerSubject("item", Text(item.Id), unit);
        if (missing)
        {
            item.MissingSince = null;
            session.Record("came-back", subject, after: new JsonObject { ["path"] = file.Path });
        }

        if (item.Hash == hash)
        {
            return false;
        }

        session.Record(
            "content-changed",
            subject,
            new JsonObject { ["hash"] = item.Hash, ["bytes"] = item.Bytes },
            new JsonObject { ["hash"] = hash, ["bytes"] = file.Bytes }
        );
        Alter(item, Grade.Declared, "Its content was changed on the source.");
        return true;
    }

    /// <summary>
    /// Notes for the list of what was altered what nobody may do to an item of this grade, and a source that only
    /// observes cannot forbid.
    /// </summary>
    private void Alter(Item item, Grade from, string how)
    {
        if (item.OwnGrade >= from && KeepUntil.FromCode(item.OwnGradeUntil) >= KeepUntil.On(calendar.Today))
        {
            (item.AlteredOn, item.AlteredHow) = (calendar.Today, how);
        }
    }

    /// <summary>
    /// The first that nothing holds at this moment. What is held stays known at its place: a like content elsewhere would
    /// take that away.
    /// </summary>
    private async Task<Known?> FreeToMoveAsync(
        WriteSession session,
        IEnumerable<Known> candidates,
        CancellationToken cancel
    )
    {
        foreach (var candidate in candidates)
        {
            var item = await session.Db.Items.AsNoTracking().SingleAsync(i => i.Id == candidate.Id, cancel);
            if (!await ItemIntake.IsHeldAsync(session, item, calendar.Today, cancel))
            {
                return candidate;
            }
        }

        return null;
    }

    private async Task<Item> RelocateAsync(
        WriteSession session,
        Known match,
        (Found.File File, Reading Read) found,
        (long Container, string Unit) to,
        CancellationToken cancel
    )
    {
        var (file, read) = found;
        var item = await ItemIntake.MoveAsync(session, match.Id, file.Path, to.Container, calendar.Today, cancel);
        item.MissingSince = null;
        item.ModifiedTicks = file.Modified.ToUnixTimeTicks();
        Alter(item, Grade.Worm, $"It was moved on the source, from {match.Path}.");
        FullText.Put(session, [(item, read.Folded)]);
        session.Record(
            "moved",
            new("item", Text(match.Id), to.Unit),
            new JsonObject { ["path"] = match.Path },
            new JsonObject { ["path"] = file.Path }
        );
        return item;
    }

    private async Task MarkGoneAsync(
        WriteSession session,
        Source source,
        List<Known> gone,
        Counts counts,
        CancellationToken cancel
    )
    {
        foreach (var item in gone.Where(g => !g.Missing))
        {
            var row = await session.Db.Items.Include(i => i.Container).SingleAsync(i => i.Id == item.Id, cancel);
            if (row.DestroyedAt is null && !File.Exists(Path.Combine(source.Root, row.Path)))
            {
                row.MissingSince = session.Now;
                Alter(row, Grade.Declared, "It is gone from the source.");
                var unit = await session.Db.Units.SingleAsync(u => u.Id == row.Container!.UnitId, cancel);
                session.Record(
                    "gone-from-source",
                    new("item", Text(item.Id), unit.Path),
                    before: new JsonObject { ["path"] = item.Path }
                );
                counts.Gone++;
            }
        }
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
                await MarkGoneAsync(session, source, gone, counts, cancel);
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

    /// <summary>What one scan knows and finds.</summary>
    private sealed class State(
        Source source,
        IContentSource share,
        SensitiveScan scan,
        Dictionary<string, long> containers,
        Dictionary<string, Known> known
    )
    {
        public Source Source { get; } = source;

        /// <summary>Roots of the other sources.</summary>
        public required IReadOnlyList<string> OtherRoots { get; init; }

        public IContentSource Share { get; } = share;

        public SensitiveScan Scan { get; } = scan;

        public Dictionary<string, long> Containers { get; } = containers;

        public Dictionary<string, Known> Known { get; } = known;

        /// <summary>What is gone from elsewhere with the same content, and was not found again yet.</summary>
        public IEnumerable<Known> GoneLike(string hash, long bytes) =>
            GoneByHash[hash].Where(k => !Moved.Contains(k.Id) && k.Bytes == bytes && k.Bytes > 0);

        public List<Found.File> Files { get; } = [];

        public List<Found.Unreadable> Unreadable { get; } = [];

        /// <summary>Known, and no longer there.</summary>
        public List<Known> Gone { get; private set; } = [];

        public ILookup<string, Known> GoneByHash { get; private set; } = Array.Empty<Known>().ToLookup(k => k.Hash);

        /// <summary>Ids of those that turned up at another place.</summary>
        public HashSet<long> Moved { get; } = [];

        public Counts Counts { get; } = new();

        /// <summary>Finds what is gone; what lies where nothing could be read is not.</summary>
        public void Compare()
        {
            var listed = Files.Select(f => f.Path).ToHashSet();
            Gone =
            [
                .. Known.Values.Where(k => !listed.Contains(k.Path) && !Unreadable.Any(u => Covers(u.Path, k.Path))),
            ];
            GoneByHash = Gone.ToLookup(k => k.Hash);
        }

        public bool IsNewOrChanged(Found.File file) =>
            !Known.TryGetValue(file.Path, out var before)
            || before.Bytes != file.Bytes
            || before.ModifiedTicks != file.Modified.ToUnixTimeTicks()
            || before.Missing;
    }

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
