using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Ledger;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Content;

/// <summary>
/// One at a time for whoever puts copies in or takes them out: between "nobody needs it" and the removal nobody may
/// come to need it.
/// </summary>
public sealed class SafekeepingGate : IDisposable
{
    private readonly SemaphoreSlim gate = new(1, 1);

    public async Task<T> RunAsync<T>(Func<Task<T>> work, CancellationToken cancel)
    {
        await gate.WaitAsync(cancel);
        try
        {
            return await work();
        }
        finally
        {
            gate.Release();
        }
    }

    public void Dispose() => gate.Dispose();
}

/// <summary>
/// Copies what is kept into safekeeping, so that a later change or deletion on the share loses nothing.
/// </summary>
public abstract class CopyJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    SafekeepingGate gate,
    OrganisationCalendar calendar
) : IJob
{
    private static readonly int Portion = Portions.Or(200);

    public abstract JobKind Kind { get; }

    protected NodaTime.LocalDate Today => calendar.Today;

    /// <summary>What the job is to copy; of these, what is at its source and has no copy of its content yet.</summary>
    protected abstract IQueryable<Item> Kept(WideKeelDb db, Job job);

    /// <summary>Where the ledger files the copies: whoever may read this subject learns of them.</summary>
    protected abstract LedgerSubject SubjectOf(Job job);

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        safekeeping.Tidy();
        long copied = 0,
            failed = 0,
            last = 0,
            total;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            total = await Wanted(db, run.Job, 0).LongCountAsync(cancel);
        }

        while (true)
        {
            List<WantedCopy> portion;
            await using (var db = await databases.CreateDbContextAsync(cancel))
            {
                await using var moment = await db.AtOneMomentAsync(cancel);
                var rows = await Wanted(db, run.Job, last).Take(Portion).ToListAsync(cancel);
                var facts = await VersionFacts.OfAsync(db, rows.ConvertAll(r => r.Item), cancel);
                portion = rows.ConvertAll(r => new WantedCopy(r.Item, facts[r.Item.Id], r.Kind, r.Root));
            }

            if (portion.Count == 0)
            {
                return string.Create(
                    CultureInfo.InvariantCulture,
                    $"{copied:N0} copied into "
                        + $"safekeeping{(failed == 0 ? "" : $", {failed:N0} could not be read; the next scan lists them")}."
                );
            }

            last = portion[^1].Item.Id;
            var done = await gate.RunAsync(() => CopyAsync(run, portion, cancel), cancel);
            copied += done;
            failed += portion.Count - done;
            await run.ReportAsync(copied + failed, total, null, cancel);
        }
    }

    private IQueryable<WantedRow> Wanted(WideKeelDb db, Job job, long after) =>
        from item in Kept(db, job)
        join container in db.Containers on item.ContainerId equals container.Id
        join source in db.Sources on container.SourceId equals source.Id
        where
            item.Id > after
            && item.DestroyedAt == null
            && item.MissingSince == null
            && !db.ItemCopies.Any(c => c.ItemId == item.Id && c.Hash == item.Hash)
        orderby item.Id
        select new WantedRow(item, source.Kind, source.Root);

    private async Task<int> CopyAsync(JobRun run, List<WantedCopy> portion, CancellationToken cancel)
    {
        List<TakenCopy> copies = [];
        foreach (var wanted in portion)
        {
            try
            {
                if (await TakeAsync(wanted, cancel) is { } taken)
                {
                    copies.Add(taken);
                }
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // Gone or locked since the scan; the next scan says so and asks for the copy again.
            }
        }

        await writer.RunAsync(run.Actor, session => NoteAsync(session, run.Job, copies, cancel), cancel);
        return copies.Count;
    }

    /// <summary>
    /// Copies what the file holds now. Where that is no longer what the scan found, it is read here: its facts are its own.
    /// </summary>
    private async Task<TakenCopy?> TakeAsync(WantedCopy wanted, CancellationToken cancel)
    {
        await using var content = ContentSources.Of(wanted.Kind, wanted.Root).Open(wanted.Item.Path);
        if (content is null)
        {
            return null;
        }

        var hash = await safekeeping.PutAsync(content, cancel);
        if (hash == wanted.Item.Hash)
        {
            return new(wanted.Item.Id, hash, wanted.Item.Bytes, wanted.Facts, IsOther: false);
        }

        await using var copy = safekeeping.Open(hash) ?? throw new IOException("The copy is not in safekeeping.");
        var read = await TextExtraction.ExtractAsync(copy, wanted.Item.Type, cancel);
        await using var db = await databases.CreateDbContextAsync(cancel);
        var finds = (await KindSet.ScanAsync(db)).FindIn(read.Text);
        return new(
            wanted.Item.Id,
            hash,
            copy.Length,
            VersionFacts.Of(wanted.Item, read, copy.Length, finds, Today),
            IsOther: true
        );
    }

    private async Task NoteAsync(WriteSession session, Job job, List<TakenCopy> copies, CancellationToken cancel)
    {
        var ids = copies.ConvertAll(c => c.ItemId);
        var had = (
            await session
                .Db.ItemCopies.Where(c => ids.Contains(c.ItemId))
                .Select(c => new { c.ItemId, c.Hash })
                .ToListAsync(cancel)
        )
            .Select(c => (c.ItemId, c.Hash))
            .ToHashSet();
        var fresh = copies.FindAll(c => !had.Contains((c.ItemId, c.Hash)));
        if (fresh.Count == 0)
        {
            return;
        }

        session.Db.ItemCopies.AddRange(
            fresh.Select(c => new ItemCopy
            {
                ItemId = c.ItemId,
                Hash = c.Hash,
                Bytes = c.Bytes,
                At = session.Now,
                Facts = c.Facts,
            })
        );
        // What was copied of another content than the row speaks of is searched as a former one until the next scan.
        var others = fresh.Where(c => c.IsOther).Select(c => c.ItemId).ToList();
        await session
            .Db.Items.Where(i => others.Contains(i.Id))
            .ExecuteUpdateAsync(set => set.SetProperty(i => i.HasFormer, true), cancel);
        session.Record(
            "copied-to-safekeeping",
            SubjectOf(job),
            after: new JsonObject { ["items"] = new JsonArray([.. fresh.Select(c => (JsonNode)c.ItemId)]) }
        );
    }

    private sealed record WantedRow(Item Item, Core.Content.SourceKind Kind, string Root);

    /// <param name="Facts">Of the content that the row speaks of.</param>
    private sealed record WantedCopy(Item Item, CopyFacts Facts, Core.Content.SourceKind Kind, string Root);

    /// <param name="IsOther">Not of the content that the item's row speaks of.</param>
    private sealed record TakenCopy(long ItemId, string Hash, long Bytes, CopyFacts Facts, bool IsOther);
}

/// <summary>Copies what a rule keeps. Its subject is a series, or 0 for whatever any rule keeps.</summary>
public sealed class CaptureJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    SafekeepingGate gate,
    OrganisationCalendar calendar
) : CopyJob(databases, writer, safekeeping, gate, calendar)
{
    public static readonly JobKind JobKind = new("capture", MayQueueBehindItself: true, Changes: "copies");

    public override JobKind Kind => JobKind;

    protected override IQueryable<Item> Kept(WideKeelDb db, Job job)
    {
        var kept = db.Items.AsNoTracking().Where(i => i.KeepUntil != null);
        return job.SubjectId == 0 ? kept : kept.Where(i => i.SeriesId == job.SubjectId);
    }

    protected override LedgerSubject SubjectOf(Job job) =>
        job.SubjectId == 0 ? new("organisation", "1", job.Unit) : LedgerSubject.Of("series", job.SubjectId, job.Unit);
}
