using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Disposition;
using WideKeel.Core.Ledger;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Server.Retention;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Ledger;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Disposition;

/// <summary>
/// Carries out a batch that everybody signed. Portion by portion: re-check each item and note "about to be destroyed"
/// (committed), remove the file and its copies, then write the stub and its ledger entry (committed). While the files
/// of one portion are removed, the stubs of the one before are written. What is handed over is copied into a bag first,
/// all of it; only when the bag is closed and verified from disk is anything of it removed. Wherever it is cut off,
/// running it again ends the same.
/// </summary>
public sealed class ExecuteJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    SafekeepingGate gate,
    Heads heads,
    OrganisationCalendar calendar,
    IUnappliedHolds unapplied,
    WideKeelOptions options
) : IJob
{
    public static readonly JobKind JobKind = new("execute", RunsToItsEnd: true, Changes: "items batches copies");
    private static readonly int Portion = Portions.Or(1_000);

    /// <summary>
    /// Bytes of one portion, but for its first file: between a file's reading and its removal others are read, and that
    /// is to take seconds.
    /// </summary>
    private const long PortionBytes = 256 << 20;

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var batchId = run.Job.SubjectId;
        await using var db = await databases.CreateDbContextAsync(cancel);
        var total = await db.BatchLines.LongCountAsync(l => l.BatchId == batchId, cancel);
        var step = new Step(new([], []), await gate.RunAsync(() => ReadAsync(batchId, 0, cancel), cancel));
        while (!step.IsLast)
        {
            step = await gate.RunAsync(() => StepAsync(run, batchId, step, cancel), cancel);
            await ReportAsync();
        }

        if (await db.BatchLines.AnyAsync(l => l.BatchId == batchId && l.State == LineState.Bundled, cancel))
        {
            await CloseBundleAsync(run, batchId, cancel);
            while (await gate.RunAsync(() => RemoveBundledAsync(run, batchId, cancel), cancel))
            {
                await ReportAsync();
            }
        }

        return await FinishAsync(run, batchId, cancel);

        async Task ReportAsync()
        {
            var left = await db.BatchLines.LongCountAsync(
                l =>
                    l.BatchId == batchId
                    && (
                        l.State == LineState.Waiting || l.State == LineState.Destroying || l.State == LineState.Bundled
                    ),
                cancel
            );
            await run.ReportAsync(total - left, total, null, cancel);
        }
    }

    /// <summary>
    /// Decides on a portion; then removes what is to go of it and reads the next, while the stubs of the one before are
    /// written.
    /// </summary>
    private async Task<Step> StepAsync(JobRun run, long batchId, Step step, CancellationToken cancel)
    {
        var portion = step.Next.Works;
        var destroy = portion.Count > 0 ? await DecideAsync(run, batchId, step.Next, cancel) : [];
        // One after the other: a source need not bear both at once.
        var onward = Task.Run(
            async () =>
                new Step(
                    Remove(destroy),
                    portion.Count > 0 ? await ReadAsync(batchId, portion[^1].Item.Id, cancel) : step.Next
                ),
            CancellationToken.None
        );
        try
        {
            await WriteRemovedAsync(run, batchId, step.Removed, LineState.Destroyed, cancel);
        }
        finally
        {
            await onward;
        }

        return await onward;
    }

    /// <summary>The next portion of a batch and what lies at its sources.</summary>
    private async Task<Portioned> ReadAsync(long batchId, long after, CancellationToken cancel)
    {
        List<Work> portion;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            portion = await WorkOf(
                    db,
                    db.BatchLines.Where(l =>
                        l.BatchId == batchId
                        && l.ItemId > after
                        && (l.State == LineState.Waiting || l.State == LineState.Destroying)
                    )
                )
                .Take(Portion)
                .ToListAsync(cancel);
            var bytes = 0L;
            portion = [.. portion.TakeWhile((w, i) => (bytes += w.Item.Bytes) <= PortionBytes || i == 0)];
        }

        var hashes = new Dictionary<long, string?>();
        HashSet<long> unreadable = [];
        foreach (var work in portion)
        {
            try
            {
                hashes[work.Line.ItemId] = await work.Connection.HashAsync(work.Item.Path, cancel);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                unreadable.Add(work.Item.Id);
            }
        }

        return new(portion, hashes, unreadable, await FillBagAsync(batchId, portion, hashes, cancel));
    }

    /// <summary>
    /// Checks a portion once more and writes the outcome of each line. Returns what is now noted as about to be
    /// destroyed.
    /// </summary>
    private async Task<List<Work>> DecideAsync(JobRun run, long batchId, Portioned portion, CancellationToken cancel)
    {
        List<Work> destroy = [];
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                // Asked within the change: a hold, another rule or another filing may have come in until now.
                var outcomes = await OutcomesAsync(session.Db, batchId, portion, cancel);
                destroy.AddRange(outcomes.Works.Where(o => o.Outcome is null).Select(o => o.Work));
                await WriteOutcomesAsync(session, batchId, outcomes, cancel);
                var destroying = destroy.Select(w => w.Item.Id).ToList();
                await session
                    .Db.BatchLines.Where(l => l.BatchId == batchId && destroying.Contains(l.ItemId))
                    .ExecuteUpdateAsync(set => set.SetProperty(l => l.State, LineState.Destroying), cancel);
            },
            cancel
        );
        return destroy;
    }

    /// <param name="Works">Each with its outcome; null where it is to be destroyed.</param>
    private sealed record Outcomes(
        IReadOnlyList<(Work Work, (LineState State, string Sentence)? Outcome)> Works,
        Ruling Ruling
    );

    /// <summary>What each line of a portion comes to, by everything that rules and holds it at this moment.</summary>
    private async Task<Outcomes> OutcomesAsync(WideKeelDb db, long batchId, Portioned portion, CancellationToken cancel)
    {
        var ids = portion.Works.Select(w => w.Item.Id).ToList();
        var series = await db.Batches.Where(b => b.Id == batchId).Select(b => b.SeriesId).SingleAsync(cancel);
        var now = await WorkOf(db, db.BatchLines.Where(l => l.BatchId == batchId && ids.Contains(l.ItemId)))
            .ToListAsync(cancel);
        var ruling = await Ruling.LoadForAsync(db, calendar.Evaluator, now.Select(w => w.Item));
        var dates = (await db.ItemDates.AsNoTracking().Where(d => ids.Contains(d.ItemId)).ToListAsync(cancel)).ToLookup(
            d => d.ItemId
        );
        var held = await HeldAsync(db, [.. now.Select(w => w.Item)], cancel);
        var readAt = portion.Works.ToDictionary(w => w.Item.Id, w => (w.Root, w.Item.Path));
        return new([.. now.Select(work => (work, OutcomeOf(work)))], ruling);

        (LineState State, string Sentence)? OutcomeOf(Work work)
        {
            var (line, item) = (work.Line, work.Item);
            return line.Mark == Mark.Extend ? (LineState.Extended, "")
                : portion.Unreadable.Contains(item.Id) || readAt[item.Id] != (work.Root, item.Path)
                    ? (
                        LineState.Failed,
                        "The file could not be read to make sure that it is the one that was signed for."
                    )
                : Recheck.DropReason(
                    new(item.Id, series, line.Hash),
                    Now(line, item, ruling, dates[item.Id], portion.Hashes[item.Id], held.Contains(item.Id))
                )
                    is { } reason
                    ? (LineState.DroppedOut, reason)
                : line.Mark == Mark.Refile ? (LineState.Refiled, "Filed under another series.")
                : line.Mark != Mark.Transfer ? null
                : portion.Bagged.TryGetValue(item.Id, out var inBag) && inBag == line.Hash ? (LineState.Bundled, "")
                : (LineState.Failed, "It could not be copied into the bundle as it was signed for.");
        }
    }

    /// <summary>Writes, line by line, what is not destroyed.</summary>
    private async Task WriteOutcomesAsync(
        WriteSession session,
        long batchId,
        Outcomes outcomes,
        CancellationToken cancel
    )
    {
        var other = outcomes.Works.Where(o => o.Outcome is not null).Select(o => o.Work.Item.Id).ToList();
        var lines =
            other.Count == 0
                ? []
                : await session
                    .Db.BatchLines.Include(l => l.Item)
                    .Where(l => l.BatchId == batchId && other.Contains(l.ItemId))
                    .ToDictionaryAsync(l => l.ItemId, cancel);
        List<(Work Work, long Series)> refile = [];
        foreach (var (work, outcome) in outcomes.Works)
        {
            if (outcome is not var (state, sentence))
            {
                continue;
            }

            var line = lines[work.Item.Id];
            var item = line.Item!;
            switch (state)
            {
                case LineState.Extended:
                    Extend(session, line, item, Subject(work), outcomes.Ruling);
                    break;
                case LineState.Failed:
                    Fail(session, line, item, Subject(work), sentence);
                    break;
                case LineState.DroppedOut:
                    (line.State, line.Outcome, item.BatchId) = (state, sentence, null);
                    session.Record(
                        "dropped-out",
                        Subject(work),
                        after: new JsonObject { ["batch"] = batchId },
                        reason: sentence
                    );
                    break;
                case LineState.Refiled:
                    (line.State, line.Outcome, item.BatchId) = (state, sentence, null);
                    refile.Add((work, line.RefileTo!.Value));
                    break;
                default:
                    line.State = state;
                    break;
            }
        }

        await session.Db.SaveChangesAsync(cancel);
        await RefileAsync(session, batchId, refile, cancel);
    }

    /// <summary>Files what reviewers put under another series, in the name of those who signed.</summary>
    private async Task RefileAsync(
        WriteSession session,
        long batchId,
        List<(Work Work, long Series)> refile,
        CancellationToken cancel
    )
    {
        if (refile.Count == 0)
        {
            return;
        }

        var signed = await session
            .Db.SignOffs.Where(s => s.BatchId == batchId)
            .OrderBy(s => s.Stage)
            .ToListAsync(cancel);
        var by = new FilingEndpoints.Filer(
            string.Join(" and ", signed.Select(s => s.PersonName)),
            FiledHow.Hand,
            signed is [var alone] ? alone.PersonId : null
        );
        foreach (var group in refile.GroupBy(r => r.Series))
        {
            var target = await session.Db.Series.SingleAsync(s => s.Id == group.Key, cancel);
            await FilingEndpoints.ApplyAsync(
                session,
                [
                    .. group.Select(r => new FilingEndpoints.FiledItem(
                        r.Work.Item.Id,
                        r.Work.Item.SeriesId,
                        r.Work.Unit,
                        Grade.None
                    )),
                ],
                target,
                by,
                await Ruling.LoadAsync(session.Db, calendar.Evaluator),
                cancel
            );
        }
    }

    private static IQueryable<Work> WorkOf(WideKeelDb db, IQueryable<BatchLine> lines) =>
        from line in lines.AsNoTracking()
        join item in db.Items on line.ItemId equals item.Id
        join container in db.Containers on item.ContainerId equals container.Id
        join source in db.Sources on container.SourceId equals source.Id
        join unit in db.Units on container.UnitId equals unit.Id
        orderby line.ItemId
        select new Work(line, item, source.Kind, source.Root, source.Name, unit.Path);

    /// <summary>
    /// Deletes the files. A stop before the stubs are written is harmless: the lines say what was about to happen.
    /// </summary>
    private static Removed Remove(List<Work> works)
    {
        Dictionary<(string Root, string Path), string> failures = [];
        foreach (var source in works.GroupBy(w => (w.Kind, w.Root)))
        {
            foreach (
                var (path, failure) in source
                    .First()
                    .Connection.Delete([.. source.Select(w => new Removal(w.Item.Path, w.Line.Hash))])
            )
            {
                failures[(source.Key.Root, path)] = failure;
            }
        }

        return new(works, failures);
    }

    /// <summary>Writes the stubs of what was deleted; what the source could not delete stays listed.</summary>
    private async Task WriteRemovedAsync(
        JobRun run,
        long batchId,
        Removed removed,
        LineState state,
        CancellationToken cancel
    )
    {
        var (works, failures) = removed;
        if (works.Count == 0)
        {
            return;
        }

        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                foreach (var work in works)
                {
                    if (failures.TryGetValue((work.Root, work.Item.Path), out var failure))
                    {
                        var line = await session
                            .Db.BatchLines.Include(l => l.Item)
                            .SingleAsync(l => l.BatchId == batchId && l.ItemId == work.Line.ItemId, cancel);
                        Fail(session, line, line.Item!, Subject(work), failure);
                    }
                }

                await MakeStubsAsync(
                    session,
                    batchId,
                    [.. works.Where(w => !failures.ContainsKey((w.Root, w.Item.Path)))],
                    state,
                    cancel
                );
            },
            cancel
        );
    }

    /// <summary>
    /// Copies what is to be handed over into the batch's bag, and says what lies there: item id → hash.
    /// </summary>
    private async Task<Dictionary<long, string>> FillBagAsync(
        long batchId,
        List<Work> portion,
        Dictionary<long, string?> hashes,
        CancellationToken cancel
    )
    {
        var bag = BundleEndpoints.BagOf(options, batchId);
        Dictionary<long, string> bagged = [];
        foreach (
            var work in portion.Where(w =>
                w.Line.Mark == Mark.Transfer && hashes.GetValueOrDefault(w.Item.Id) == w.Line.Hash
            )
        )
        {
            try
            {
                await using var content = work.Connection.Open(work.Item.Path);
                if (content is not null)
                {
                    bagged[work.Item.Id] = await bag.PutAsync(NameInBag(work), content, cancel);
                }
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // Not in the bag: its line fails, with the rest going on.
            }
        }

        return bagged;
    }

    /// <summary>
    /// Writes manifests and the list of items, then reads the whole bag back from disk. Throws where it is not what it
    /// says: nothing is removed then.
    /// </summary>
    private async Task CloseBundleAsync(JobRun run, long batchId, CancellationToken cancel)
    {
        // A further try adds to the bag that is still here; what an archive has taken already is closed for good.
        var bag = BundleEndpoints.BagOf(options, batchId);
        var payload = new Dictionary<string, string>(await bag.PayloadAsync(cancel));
        List<Work> works;
        Batch batch;
        string organisation;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            var all = await WorkOf(db, db.BatchLines.Where(l => l.BatchId == batchId)).ToListAsync(cancel);
            var added = all.Where(w => w.Line.State == LineState.Bundled)
                .Count(w => payload.TryAdd(NameInBag(w), w.Line.Hash));
            if (added == 0 && await db.Bundles.AnyAsync(b => b.BatchId == batchId && b.ReceivedAt == null, cancel))
            {
                return;
            }

            works = all.FindAll(w => payload.GetValueOrDefault(NameInBag(w)) == w.Line.Hash);
            batch = await db.Batches.AsNoTracking().WithRuler().SingleAsync(b => b.Id == batchId, cancel);
            organisation = await db.Organisations.Select(o => o.Name).SingleAsync(cancel);
        }

        await run.ReportAsync(0, 0, "Closing and verifying the bundle", cancel);
        var hash = bag.Close(
            [.. payload.Select(p => (p.Key, p.Value))],
            [
                ("Source-Organization", organisation),
                ("External-Identifier", $"widekeel-batch-{Text(batchId)}"),
                ("External-Description", $"{batch.Ruler.Code} {batch.Ruler.Title}"),
                ("Bagging-Date", batch.StageSince.InUtc().Date.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture)),
                ("Bag-Software-Agent", "Wide Keel"),
            ],
            new Dictionary<string, string>
            {
                ["metadata/items.csv"] = BundleList.Write(works.Select(w => (NameInBag(w), w.Item)), batch.Ruler.Code),
            }
        );
        if (await bag.VerifyAsync(cancel) is { } wrong)
        {
            throw new IOException($"The bundle is not whole: {wrong} Nothing of it was removed from its source.");
        }

        await NoteBundleAsync(run, batchId, works, hash, cancel);
    }

    private Task NoteBundleAsync(JobRun run, long batchId, List<Work> works, string hash, CancellationToken cancel) =>
        writer.RunAsync(
            run.Actor,
            async session =>
            {
                var bundle = await session.Db.Bundles.SingleOrDefaultAsync(
                    b => b.BatchId == batchId && b.ReceivedAt == null,
                    cancel
                );
                if (bundle is null)
                {
                    session.Db.Bundles.Add(bundle = new() { BatchId = batchId, Hash = hash });
                }
                else
                {
                    bundle.Revision++;
                }

                (bundle.Items, bundle.Bytes, bundle.Hash, bundle.MadeAt) = (
                    works.Count,
                    works.Sum(w => w.Item.Bytes),
                    hash,
                    session.Now
                );
                session.Record(
                    "bundle-made",
                    new("batch", Text(batchId), works[0].Unit),
                    after: new JsonObject { ["items"] = works.Count, ["sha256"] = hash }
                );
            },
            cancel
        );

    /// <summary>
    /// One portion of what lies in the closed bag is removed from its source; false when none is left. What changed
    /// since stays.
    /// </summary>
    private async Task<bool> RemoveBundledAsync(JobRun run, long batchId, CancellationToken cancel)
    {
        List<Work> portion;
        HashSet<long> kept;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            portion = await WorkOf(db, db.BatchLines.Where(l => l.BatchId == batchId && l.State == LineState.Bundled))
                .Take(Portion)
                .ToListAsync(cancel);
            kept = await HeldAsync(db, [.. portion.Select(w => w.Item)], cancel);
        }

        // Whoever changed a file after it was copied keeps what they wrote; the bundle holds what was signed for.
        List<Work> same = [],
            changed = [],
            held = [];
        foreach (var work in portion)
        {
            var to =
                kept.Contains(work.Item.Id) ? held
                : await IsAsSignedAsync(work, cancel) ? same
                : changed;
            to.Add(work);
        }

        await WriteRemovedAsync(run, batchId, Remove(same), LineState.Transferred, cancel);
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                foreach (var work in changed.Concat(held))
                {
                    var line = await session
                        .Db.BatchLines.Include(l => l.Item)
                        .SingleAsync(l => l.BatchId == batchId && l.ItemId == work.Line.ItemId, cancel);
                    Fail(
                        session,
                        line,
                        line.Item!,
                        Subject(work),
                        held.Contains(work)
                            ? "It is kept for another reason since it was copied into the bundle. The bundle holds a copy; the file stays."
                            : "It changed, or could not be read, after it was copied into the bundle. The bundle "
                                + "holds what was signed for; the file stays."
                    );
                }
            },
            cancel
        );
        return portion.Count > 0;
    }

    /// <summary>Its file has the content that was signed for, or is gone.</summary>
    private static async Task<bool> IsAsSignedAsync(Work work, CancellationToken cancel)
    {
        try
        {
            return await work.Connection.HashAsync(work.Item.Path, cancel) is var now
                && (now is null || now == work.Line.Hash);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // Cannot be read, so cannot be known to be the same.
            return false;
        }
    }

    private static string NameInBag(Work work) =>
        $"{string.Concat(work.Source.Select(c => c is '/' or '\\' ? '-' : c))}/{work.Item.Path}";

    /// <summary>
    /// Held by the index of holds, or by an order that is in force and has not been applied to all that exists yet.
    /// </summary>
    private async Task<HashSet<long>> HeldAsync(WideKeelDb db, List<Item> items, CancellationToken cancel)
    {
        var held = await Holds.HeldAsync(db, [.. items.Select(i => i.Id)], calendar.Today);
        held.UnionWith(await unapplied.OverAsync(db, items, calendar.Today, cancel));
        return held;
    }

    private static ItemNow Now(
        BatchLine line,
        Item item,
        Ruling ruling,
        IEnumerable<ItemDate> dates,
        string? hash,
        bool held
    )
    {
        var standing = ruling.Evaluator.Evaluate(
            ruling.RuleOf(item.SeriesId),
            ruling.BlanketsOf(item.ContainerId),
            ItemEndpoints.FactsOf(item, ruling, dates)
        );
        // A line already marked was deleted by the run that was cut off: its absence is our own doing.
        return new(
            item.SeriesId,
            standing,
            hash,
            item.MissingSince is not null || line.State == LineState.Destroying,
            held && (line.State != LineState.Destroying || hash is not null)
        );
    }

    private static void Extend(WriteSession session, BatchLine line, Item item, LedgerSubject subject, Ruling ruling)
    {
        var until = line.ExtendUntil!.Value;
        session.Record(
            "extended",
            subject,
            new JsonObject
            {
                ["extendedUntil"] = item.ExtendedUntil?.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
            },
            new JsonObject
            {
                ["extendedUntil"] = until.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture),
                ["batch"] = line.BatchId,
            },
            line.ExtendWhy
        );
        (item.ExtendedUntil, item.ExtendedBy, item.ExtendedWhy, item.BatchId) = (
            until,
            line.MarkedBy,
            line.ExtendWhy,
            null
        );
        (line.State, line.Outcome) = (LineState.Extended, $"Kept until {until:uuuu-MM-dd}.");
        session.Db.SaveChanges();
        var filter = new ItemFilter(Units: null) { Ids = [item.Id] };
        ItemScan.WriteStandings(session, ruling, filter.Where(), c => filter.Bind(c, 0));
        session.Db.Entry(item).Reload();
    }

    private static void Fail(WriteSession session, BatchLine line, Item item, LedgerSubject subject, string why)
    {
        (line.State, line.Outcome, item.BatchId) = (LineState.Failed, why, null);
        session.Record("destruction-failed", subject, after: new JsonObject { ["batch"] = line.BatchId }, reason: why);
    }

    /// <summary>Takes the copies of items out of safekeeping, but for contents that other items need.</summary>
    /// <returns>The copies that were, by item.</returns>
    private async Task<ILookup<long, ItemCopy>> ForgetCopiesAsync(
        WriteSession session,
        List<long> ids,
        CancellationToken cancel
    )
    {
        var copies = await session.Db.ItemCopies.AsNoTracking().Where(c => ids.Contains(c.ItemId)).ToListAsync(cancel);
        var hashes = copies.Select(c => c.Hash).Distinct().ToList();
        var needed = await session
            .Db.ItemCopies.Where(c => hashes.Contains(c.Hash) && !ids.Contains(c.ItemId))
            .Select(c => c.Hash)
            .Distinct()
            .ToListAsync(cancel);
        var gone = hashes.Except(needed).ToList();
        foreach (var hash in gone)
        {
            // Before the commit: if it is cut off here, the row still stands and the removal is done again.
            safekeeping.Remove(hash);
        }

        await session.Db.ItemCopies.Where(c => ids.Contains(c.ItemId)).ExecuteDeleteAsync(cancel);
        await session.Db.CopyTexts.Where(t => gone.Contains(t.Hash)).ExecuteDeleteAsync(cancel);
        return copies.ToLookup(c => c.ItemId);
    }

    /// <summary>
    /// Of each item whose file is gone there stays a stub: its title and figures, and its entry in the ledger. Its
    /// copies, text, fields and finds go.
    /// </summary>
    /// <param name="state">What became of them: destroyed, or transferred.</param>
    private async Task MakeStubsAsync(
        WriteSession session,
        long batchId,
        List<Work> works,
        LineState state,
        CancellationToken cancel
    )
    {
        var ids = works.Select(w => w.Item.Id).ToList();
        var copied = await ForgetCopiesAsync(session, ids, cancel);
        await session.Db.ItemTexts.Where(t => ids.Contains(t.ItemId)).ExecuteDeleteAsync(cancel);
        await session.Db.ItemFields.Where(f => ids.Contains(f.ItemId)).ExecuteDeleteAsync(cancel);
        await session.Db.WorkspaceVersions.Where(v => ids.Contains(v.ItemId)).ExecuteDeleteAsync(cancel);
        await session.Db.ItemSensitives.Where(s => ids.Contains(s.ItemId)).ExecuteDeleteAsync(cancel);
        // A suggestion quotes words of the text.
        await session.Db.FilingSuggestions.Where(s => ids.Contains(s.ItemId)).ExecuteDeleteAsync(cancel);
        var handedOver = state == LineState.Transferred;
        await session
            .Db.Items.Where(i => ids.Contains(i.Id))
            .ExecuteUpdateAsync(
                set =>
                    set.SetProperty(i => i.DestroyedAt, session.Now)
                        .SetProperty(i => i.BatchId, (long?)null)
                        .SetProperty(i => i.HandedOver, handedOver),
                cancel
            );
        await session
            .Db.BatchLines.Where(l => l.BatchId == batchId && ids.Contains(l.ItemId))
            .ExecuteUpdateAsync(set => set.SetProperty(l => l.State, state), cancel);
        // The stub keeps its title and is found by it; the text is gone.
        FullText.Put(session, works.Select(w => (w.Item, "")));
        foreach (var work in works)
        {
            var item = work.Item;
            session.Record(
                handedOver ? "handed-over" : "destroyed",
                Subject(work),
                new JsonObject
                {
                    ["path"] = item.Path,
                    ["hash"] = item.Hash,
                    ["bytes"] = item.Bytes,
                },
                new JsonObject { ["batch"] = batchId, ["copiesRemoved"] = copied[item.Id].Count() }
            );
        }
    }

    private async Task<string> FinishAsync(JobRun run, long batchId, CancellationToken cancel)
    {
        var sentence = "";
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                var batch = await session
                    .Db.Batches.WithRuler()
                    .Include(b => b.SignOffs)
                    .SingleAsync(b => b.Id == batchId, cancel);
                var lines = await CertifiedLine
                    .Of(session.Db, session.Db.BatchLines.Where(l => l.BatchId == batchId))
                    .ToListAsync(cancel);
                var gone = lines.Count(l => l.IsGone);
                var handedOver = lines.Count(l => l.State == LineState.Transferred);
                var unit = session.Db.Units.Single(u => u.Id == batch.Ruler.UnitId).Path;
                if (batch.State != BatchState.Done)
                {
                    (batch.State, batch.DoneAt) = (BatchState.Done, session.Now);
                    batch.Revision++;
                    await CertifyAsync(session, batch, lines, unit, cancel);
                    session.Record(
                        "batch-done",
                        new("batch", Text(batchId), unit),
                        after: new JsonObject
                        {
                            ["destroyed"] = gone - handedOver,
                            ["handedOver"] = handedOver,
                            ["refiled"] = lines.Count(l => l.State == LineState.Refiled),
                            ["extended"] = lines.Count(l => l.State == LineState.Extended),
                            ["droppedOut"] = lines.Count(l => l.State == LineState.DroppedOut),
                            ["failed"] = lines.Count(l => l.State == LineState.Failed),
                        }
                    );
                    sentence = Result(lines);
                    await TellAsync(session, batch, sentence, cancel);
                    if (gone > 0)
                    {
                        await JobBoard.AddAsync(
                            session,
                            ClearWordsJob.JobKind,
                            0,
                            ClearWordsJob.Title,
                            null,
                            run.Job.AskedBy
                        );
                    }
                }

                sentence = Result(lines);
            },
            cancel
        );
        return sentence;
    }

    private async Task CertifyAsync(
        WriteSession session,
        Batch batch,
        List<CertifiedLine> lines,
        string unit,
        CancellationToken cancel
    )
    {
        // What an earlier try destroyed stands in its certificate already.
        var uncertified = lines.FindAll(l => l.CertificateId is null);
        if (uncertified.Exists(l => l.IsGone))
        {
            var (certificate, document) = await CertificateAsync(session, batch, uncertified, cancel);
            session.Db.Certificates.Add(certificate);
            await session.Db.SaveChangesAsync(cancel);
            batch.CertificateId ??= certificate.Id;
            await session
                .Db.Items.Where(i =>
                    i.CertificateId == null
                    && session.Db.BatchLines.Any(l =>
                        l.BatchId == batch.Id
                        && l.ItemId == i.Id
                        && (l.State == LineState.Destroyed || l.State == LineState.Transferred)
                    )
                )
                .ExecuteUpdateAsync(set => set.SetProperty(i => i.CertificateId, certificate.Id), cancel);
            session.Record(
                "certificate-issued",
                new("certificate", Text(certificate.Id), unit),
                after: new JsonObject
                {
                    ["number"] = certificate.Number,
                    ["items"] = certificate.Items,
                    ["sha256"] = Convert.ToHexStringLower(SHA256.HashData(document)),
                }
            );
        }
    }

    private async Task<(Certificate Certificate, byte[] Document)> CertificateAsync(
        WriteSession session,
        Batch batch,
        List<CertifiedLine> lines,
        CancellationToken cancel
    )
    {
        var earlier = await session
            .Db.Certificates.Where(c => c.BatchId == batch.Id)
            .OrderBy(c => c.Id)
            .Select(c => c.Number)
            .ToListAsync(cancel);
        var number =
            earlier.Count == 0
                ? await NextNumberAsync(session, cancel)
                : string.Create(CultureInfo.InvariantCulture, $"{earlier[0]}/{earlier.Count + 1}");
        var organisation = await session.Db.Organisations.SingleAsync(cancel);
        var bundle = await BundleEndpoints.LatestAsync(session.Db, batch.Id, cancel);
        var prover = new MerkleProver(LedgerReader.LeafHashes(session.Connection));
        var head = heads.Sign(prover.Size, prover.Root(), session.Now);
        var document = new CertificateDocument(
            number,
            earlier.FirstOrDefault(),
            organisation.Name,
            batch,
            lines,
            bundle,
            session.Now
        ).Write(DestroyedEntries(session, batch.Id), prover, head, heads.PublicKeyPem);
        var gone = lines.Where(l => l.IsGone).ToList();
        return (
            new()
            {
                Number = number,
                BatchId = batch.Id,
                Code = batch.Ruler.Code,
                Title = batch.Ruler.Title,
                UnitId = batch.Ruler.UnitId,
                IssuedAt = session.Now,
                Items = gone.Count,
                Bytes = gone.Sum(l => l.Bytes),
                Document = Encoding.UTF8.GetString(document),
            },
            document
        );
    }

    /// <summary>The next number of the year; supplements bear the number of what they add to.</summary>
    private async Task<string> NextNumberAsync(WriteSession session, CancellationToken cancel)
    {
        var year = string.Create(CultureInfo.InvariantCulture, $"{calendar.Today.Year}-");
        var issued = await session.Db.Certificates.CountAsync(
            c => c.Number.StartsWith(year) && !c.Number.Contains('/'),
            cancel
        );
        return string.Create(CultureInfo.InvariantCulture, $"{year}{issued + 1:0000}");
    }

    /// <summary>The ledger's entries "destroyed" of a batch: item id → sequence.</summary>
    private static Dictionary<long, long> DestroyedEntries(WriteSession session, long batchId)
    {
        using var command = session.Command(
            """
            SELECT CAST(SubjectId AS INTEGER), Sequence FROM ledger
            WHERE Verb IN ('destroyed', 'handed-over') AND SubjectKind = 'item' AND json_extract(Body, '$.after.batch') = $batch
            """
        );
        command.Parameters.AddWithValue("$batch", batchId);
        using var reader = command.ExecuteReader();
        Dictionary<long, long> entries = [];
        while (reader.Read())
        {
            entries[reader.GetInt64(0)] = reader.GetInt64(1);
        }

        return entries;
    }

    /// <summary>What became of the lines, leaving out what nothing became of.</summary>
    private static string Result(List<CertifiedLine> lines) =>
        string.Join(
            ", ",
            new[]
            {
                (LineState.Destroyed, "destroyed"),
                (LineState.Transferred, "handed over"),
                (LineState.Refiled, "re-filed"),
                (LineState.Extended, "extended"),
                (LineState.DroppedOut, "dropped out"),
                (LineState.Failed, "failed"),
            }
                .Select(s => (Count: lines.Count(l => l.State == s.Item1), s.Item2))
                .Where(s => s.Count > 0 || s.Item2 == "destroyed")
                .Select(s => string.Create(CultureInfo.InvariantCulture, $"{s.Count:N0} {s.Item2}"))
        ) + ".";

    private static async Task TellAsync(WriteSession session, Batch batch, string result, CancellationToken cancel)
    {
        var number = batch.CertificateId is { } id
            ? await session.Db.Certificates.Where(c => c.Id == id).Select(c => c.Number).SingleAsync(cancel)
            : null;
        var signers = batch.SignOffs.Select(s => s.PersonId).ToList();
        foreach (
            var person in await session
                .Db.Users.Where(p => signers.Contains(p.Id) || p.DisplayName == batch.OpenedBy)
                .ToListAsync(cancel)
        )
        {
            Outbox.Add(
                session,
                person,
                DispositionTexts.BatchDone(batch.Ruler.Code, batch.Ruler.Title, result, number),
                $"/schedule/docket?batch={batch.Id}"
            );
        }

        Outbox.Tell(
            session,
            "batch-done",
            new()
            {
                ["batch"] = batch.Id,
                ["series"] = batch.Ruler.Code,
                ["result"] = result,
                ["certificate"] = number,
            }
        );
    }

    private static LedgerSubject Subject(Work work) => new("item", Text(work.Item.Id), work.Unit);

    private static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);

    /// <param name="Removed">Their files are gone; their stubs are still to be written.</param>
    /// <param name="Next">Read, and to be decided on.</param>
    private sealed record Step(Removed Removed, Portioned Next)
    {
        public bool IsLast => Removed.Works.Count == 0 && Next.Works.Count == 0;
    }

    /// <param name="Failures">Why something could not be deleted, by where it lies.</param>
    private sealed record Removed(List<Work> Works, Dictionary<(string Root, string Path), string> Failures);

    /// <param name="Hashes">What lies at the source now; null where nothing does.</param>
    /// <param name="Bagged">What of it was copied into the bundle: item id → hash.</param>
    private sealed record Portioned(
        List<Work> Works,
        Dictionary<long, string?> Hashes,
        HashSet<long> Unreadable,
        Dictionary<long, string> Bagged
    );

    private sealed record Work(BatchLine Line, Item Item, SourceKind Kind, string Root, string Source, string Unit)
    {
        public IContentSource Connection => ContentSources.Of(Kind, Root);
    }
}
