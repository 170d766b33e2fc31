using System.Globalization;
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
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Ledger;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Disposition;

/// <summary>
/// Carries out a batch that everybody signed. Portion by portion: re-check each item and note "about to be destroyed" (committed), remove
/// the file and its copies, then write the stub and its ledger entry (committed). Wherever it is cut off, running it again ends the same.
/// </summary>
public sealed class ExecuteJob(IDbContextFactory<WideKeelDb> databases, Writer writer, Safekeeping safekeeping, SafekeepingGate gate, Heads heads, Calendar calendar) : IJobKind
{
    public const string KindName = "execute";
    private static readonly int Portion = Portions.Or(100);

    public string Kind => KindName;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var batchId = run.Job.SubjectId;
        await using var db = await databases.CreateDbContextAsync(cancel);
        var total = await db.BatchLines.LongCountAsync(l => l.BatchId == batchId, cancel);
        while (await gate.RunAsync(() => StepAsync(run, batchId, cancel), cancel))
        {
            var left = await db.BatchLines.LongCountAsync(l => l.BatchId == batchId && (l.State == LineState.Waiting || l.State == LineState.Destroying), cancel);
            await run.ReportAsync(total - left, total, null, cancel);
        }

        return await FinishAsync(run, batchId, cancel);
    }

    /// <summary>One portion; false when none is left.</summary>
    private async Task<bool> StepAsync(JobRun run, long batchId, CancellationToken cancel)
    {
        List<Work> portion;
        Ruling ruling;
        ILookup<long, ItemDate> dates;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            portion = await (
                from line in db.BatchLines.AsNoTracking()
                join item in db.Items on line.ItemId equals item.Id
                join container in db.Containers on item.ContainerId equals container.Id
                join source in db.Sources on container.SourceId equals source.Id
                join unit in db.Units on container.UnitId equals unit.Id
                where line.BatchId == batchId && (line.State == LineState.Waiting || line.State == LineState.Destroying)
                orderby line.ItemId
                select new Work(line, item, source.Root, unit.Path)).Take(Portion).ToListAsync(cancel);
            ruling = await Ruling.LoadForAsync(db, calendar.Evaluator, portion.Select(w => w.Item));
            var ids = portion.Select(w => w.Item.Id).ToList();
            dates = (await db.ItemDates.AsNoTracking().Where(d => ids.Contains(d.ItemId)).ToListAsync(cancel)).ToLookup(d => d.ItemId);
        }

        if (portion.Count == 0)
        {
            return false;
        }

        var hashes = new Dictionary<long, string?>();
        List<Work> unreadable = [];
        foreach (var work in portion)
        {
            try
            {
                hashes[work.Line.ItemId] = await new DirectoryShare(work.Root).HashAsync(work.Item.Path, cancel);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                unreadable.Add(work);
            }
        }

        List<Work> destroy = [];
        await writer.RunAsync(run.Actor, async session =>
        {
            foreach (var work in portion)
            {
                var line = await session.Db.BatchLines.Include(l => l.Item).SingleAsync(l => l.BatchId == batchId && l.ItemId == work.Line.ItemId, cancel);
                var item = line.Item!;
                var subject = Subject(work);
                if (line.Mark == Mark.Extend)
                {
                    Extend(session, line, item, subject, ruling);
                }
                else if (unreadable.Contains(work))
                {
                    Fail(session, line, item, subject, "The file could not be read to make sure that it is the one that was signed for.");
                }
                else if (Recheck.DropReason(new(item.Id, session.Db.Batches.Single(b => b.Id == batchId).SeriesId, line.Hash), Now(line, item, ruling, dates[item.Id], hashes[item.Id])) is { } reason)
                {
                    (line.State, line.Outcome, item.BatchId) = (LineState.DroppedOut, reason, null);
                    session.Record("dropped-out", subject, after: new JsonObject { ["batch"] = batchId }, reason: reason);
                }
                else
                {
                    line.State = LineState.Destroying;
                    destroy.Add(work);
                }
            }
        }, cancel);

        // From here to the next commit a stop is harmless: the lines say what was about to happen.
        var failures = new Dictionary<long, string>();
        foreach (var work in destroy)
        {
            if (new DirectoryShare(work.Root).Delete(work.Item.Path) is { } failure)
            {
                failures[work.Item.Id] = failure;
            }
        }

        await writer.RunAsync(run.Actor, async session =>
        {
            foreach (var work in destroy)
            {
                var line = await session.Db.BatchLines.Include(l => l.Item).SingleAsync(l => l.BatchId == batchId && l.ItemId == work.Line.ItemId, cancel);
                if (failures.TryGetValue(work.Item.Id, out var failure))
                {
                    Fail(session, line, line.Item!, Subject(work), failure);
                }
                else
                {
                    await MakeStubAsync(session, line, line.Item!, Subject(work), cancel);
                }
            }
        }, cancel);
        return true;
    }

    private static ItemNow Now(BatchLine line, Item item, Ruling ruling, IEnumerable<ItemDate> dates, string? hash)
    {
        var standing = ruling.Evaluator.Evaluate(ruling.RuleOf(item.SeriesId), ruling.BlanketsOf(item.ContainerId), ItemEndpoints.FactsOf(item, ruling, dates));
        // A line already marked was deleted by the run that was cut off: its absence is our own doing.
        return new(item.SeriesId, standing, hash, item.MissingSince is not null || line.State == LineState.Destroying);
    }

    private static void Extend(WriteSession session, BatchLine line, Item item, LedgerSubject subject, Ruling ruling)
    {
        var until = line.ExtendUntil!.Value;
        session.Record("extended", subject, new JsonObject { ["extendedUntil"] = item.ExtendedUntil?.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture) },
            new JsonObject { ["extendedUntil"] = until.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture), ["batch"] = line.BatchId }, line.ExtendWhy);
        (item.ExtendedUntil, item.ExtendedBy, item.ExtendedWhy, item.BatchId) = (until, line.MarkedBy, line.ExtendWhy, null);
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

    private async Task MakeStubAsync(WriteSession session, BatchLine line, Item item, LedgerSubject subject, CancellationToken cancel)
    {
        var copies = await session.Db.ItemCopies.Where(c => c.ItemId == item.Id).Select(c => c.Hash).ToListAsync(cancel);
        foreach (var hash in copies)
        {
            if (!await session.Db.ItemCopies.AnyAsync(c => c.Hash == hash && c.ItemId != item.Id, cancel))
            {
                // Before the commit: if it is cut off here, the row still stands and the removal is done again.
                safekeeping.Remove(hash);
            }
        }

        await session.Db.ItemCopies.Where(c => c.ItemId == item.Id).ExecuteDeleteAsync(cancel);
        await session.Db.ItemTexts.Where(t => t.ItemId == item.Id).ExecuteDeleteAsync(cancel);
        await session.Db.ItemSensitives.Where(s => s.ItemId == item.Id).ExecuteDeleteAsync(cancel);
        // The stub keeps its title and is found by it; the text is gone.
        FullText.Put(session, item, "");
        (item.DestroyedAt, item.BatchId, line.State) = (session.Now, null, LineState.Destroyed);
        session.Record("destroyed", subject,
            new JsonObject { ["path"] = item.Path, ["hash"] = item.Hash, ["bytes"] = item.Bytes },
            new JsonObject { ["batch"] = line.BatchId, ["copiesRemoved"] = copies.Count });
    }

    private async Task<string> FinishAsync(JobRun run, long batchId, CancellationToken cancel)
    {
        var sentence = "";
        await writer.RunAsync(run.Actor, async session =>
        {
            var batch = await session.Db.Batches.WithRuler().Include(b => b.SignOffs).SingleAsync(b => b.Id == batchId, cancel);
            var lines = await session.Db.BatchLines.Include(l => l.Item).Where(l => l.BatchId == batchId).OrderBy(l => l.ItemId).ToListAsync(cancel);
            var destroyed = lines.Where(l => l.State == LineState.Destroyed).ToList();
            var unit = session.Db.Units.Single(u => u.Id == batch.Ruler.UnitId).Path;
            if (batch.State != BatchState.Done)
            {
                (batch.State, batch.DoneAt) = (BatchState.Done, session.Now);
                batch.Revision++;
                if (destroyed.Count > 0)
                {
                    var certificate = await CertificateAsync(session, batch, lines, destroyed, cancel);
                    session.Db.Certificates.Add(certificate);
                    await session.Db.SaveChangesAsync(cancel);
                    batch.CertificateId = certificate.Id;
                    destroyed.ForEach(l => l.Item!.CertificateId = certificate.Id);
                    session.Record("certificate-issued", new("certificate", Text(certificate.Id), unit), after: new JsonObject
                    {
                        ["number"] = certificate.Number,
                        ["items"] = certificate.Items,
                        ["sha256"] = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(certificate.Document))),
                    });
                }

                session.Record("batch-done", new("batch", Text(batchId), unit), after: new JsonObject
                {
                    ["destroyed"] = destroyed.Count,
                    ["extended"] = lines.Count(l => l.State == LineState.Extended),
                    ["droppedOut"] = lines.Count(l => l.State == LineState.DroppedOut),
                    ["failed"] = lines.Count(l => l.State == LineState.Failed),
                });
            }

            sentence = string.Create(CultureInfo.InvariantCulture,
                $"{destroyed.Count:N0} destroyed, {lines.Count(l => l.State == LineState.Extended):N0} extended, {lines.Count(l => l.State == LineState.DroppedOut):N0} dropped out, {lines.Count(l => l.State == LineState.Failed):N0} failed.");
        }, cancel);
        return sentence;
    }

    private async Task<Certificate> CertificateAsync(WriteSession session, Batch batch, List<BatchLine> lines, List<BatchLine> destroyed, CancellationToken cancel)
    {
        var year = calendar.Today.Year;
        var count = await session.Db.Certificates.CountAsync(c => c.Number.StartsWith($"{year}-"), cancel);
        var organisation = await session.Db.Organisations.SingleAsync(cancel);
        var entries = DestroyedEntries(session, batch.Id);
        var leaves = LedgerReader.LeafHashes(session.Connection);
        var prover = new MerkleProver(leaves);
        var head = heads.Sign(prover.Size, prover.Root(), session.Now);
        var document = CertificateDocument.Build(
            $"{year}-{count + 1:0000}", organisation.Name, batch, lines, destroyed, id => entries[id], prover, head, heads.PublicKeyPem, session.Now);
        return new()
        {
            Number = $"{year}-{count + 1:0000}",
            BatchId = batch.Id,
            Code = batch.Ruler.Code,
            Title = batch.Ruler.Title,
            UnitId = batch.Ruler.UnitId,
            IssuedAt = session.Now,
            Items = destroyed.Count,
            Bytes = destroyed.Sum(l => l.Item!.Bytes),
            Document = document,
        };
    }

    /// <summary>The ledger's entries "destroyed" of a batch: item id → sequence.</summary>
    private static Dictionary<long, long> DestroyedEntries(WriteSession session, long batchId)
    {
        using var command = session.Command("""
            SELECT CAST(SubjectId AS INTEGER), Sequence FROM ledger
            WHERE Verb = 'destroyed' AND SubjectKind = 'item' AND json_extract(Body, '$.after.batch') = $batch
            """);
        command.Parameters.AddWithValue("$batch", batchId);
        using var reader = command.ExecuteReader();
        Dictionary<long, long> entries = [];
        while (reader.Read())
        {
            entries[reader.GetInt64(0)] = reader.GetInt64(1);
        }

        return entries;
    }

    private static LedgerSubject Subject(Work work) => new("item", Text(work.Item.Id), work.Unit);

    private static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);

    private sealed record Work(BatchLine Line, Item Item, string Root, string Unit);
}
