using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Server.Jobs;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>
/// Reads every copy in safekeeping and holds it against its name, which is its hash. A copy that has rotted, or is
/// gone, is named; where the file still stands on its source as it was, the copy is made anew.
/// </summary>
public sealed class VerifyCopiesJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    Safekeeping safekeeping,
    SafekeepingGate gate
) : IJob
{
    public static readonly JobKind JobKind = new("verify-copies", Changes: "copies");

    private static readonly int Portion = Portions.Or(200);

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var total = await db.ItemCopies.Select(c => c.Hash).Distinct().LongCountAsync(cancel);
        long done = 0,
            broken = 0,
            mended = 0;
        var last = run.Job.Cursor ?? "";
        while (
            await db
                .ItemCopies.AsNoTracking()
                .Select(c => c.Hash)
                .Distinct()
                .Where(h => h.CompareTo(last) > 0)
                .OrderBy(h => h)
                .Take(Portion)
                .ToListAsync(cancel)
                is { Count: > 0 } portion
        )
        {
            var (b, m) = await gate.RunAsync(() => VerifyAsync(run, portion, cancel), cancel);
            (broken, mended, last, done) = (broken + b, mended + m, portion[^1], done + portion.Count);
            run.Job.Cursor = last;
            await run.ReportAsync(done, total, null, cancel);
        }

        var found =
            broken == 0
                ? "all are what they were"
                : string.Create(
                    CultureInfo.InvariantCulture,
                    $"{broken:N0} are not what they were, {mended:N0} of them made anew from the source"
                );
        return string.Create(CultureInfo.InvariantCulture, $"{done:N0} copies read; {found}.");
    }

    private async Task<(int Broken, int Mended)> VerifyAsync(JobRun run, List<string> hashes, CancellationToken cancel)
    {
        List<(string Hash, string Fault)> found = [];
        foreach (var hash in hashes)
        {
            if (await safekeeping.FaultAsync(hash, cancel) is { } fault)
            {
                found.Add((hash, fault));
            }
        }

        var mended = 0;
        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                await session.Db.BrokenCopies.Where(c => hashes.Contains(c.Hash)).ExecuteDeleteAsync(cancel);
                foreach (var (hash, fault) in found)
                {
                    var again = await MakeAnewAsync(session, hash, cancel);
                    mended += again ? 1 : 0;
                    if (!again)
                    {
                        session.Db.BrokenCopies.Add(
                            new()
                            {
                                Hash = hash,
                                Fault = fault,
                                FoundAt = session.Now,
                            }
                        );
                    }

                    session.Record(
                        "copy-broken",
                        new("copy", hash),
                        after: new JsonObject { ["fault"] = fault, ["madeAnew"] = again }
                    );
                }
            },
            cancel
        );
        return (found.Count, mended);
    }

    private async Task<bool> MakeAnewAsync(WriteSession session, string hash, CancellationToken cancel)
    {
        var places = await (
            from c in session.Db.ItemCopies
            join i in session.Db.Items on c.ItemId equals i.Id
            join k in session.Db.Containers on i.ContainerId equals k.Id
            join s in session.Db.Sources on k.SourceId equals s.Id
            where c.Hash == hash && i.Hash == hash && i.DestroyedAt == null
            select new
            {
                s.Kind,
                s.Root,
                i.Path,
            }
        ).ToListAsync(cancel);
        foreach (var place in places)
        {
            try
            {
                var source = ContentSources.Of(place.Kind, place.Root);
                if (await source.HashAsync(place.Path, cancel) == hash)
                {
                    await using var content = source.Open(place.Path);
                    return content is not null && await safekeeping.PutAsync(content, cancel) == hash;
                }
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // Not there either; the next place may have it.
            }
        }

        return false;
    }
}
