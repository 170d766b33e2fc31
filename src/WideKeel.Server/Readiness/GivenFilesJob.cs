using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// Reads every uploaded file (evidence, documents of registers, policies, documents of the assurance page) and compares it
/// with its SHA-256. A missing or changed file does not count, and is a duty, until it is restored.
/// </summary>
internal sealed class GivenFilesJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    WideKeelOptions options,
    OrganisationCalendar calendar
) : IJob
{
    public static readonly JobKind JobKind = new("given-files", ControlTestsJob.JobKind.Lane, Changes: "readiness");

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var hashes = await HashesAsync(cancel);
        HashSet<string> broken = [];
        foreach (var (hash, index) in hashes.Select((h, i) => (h, i)))
        {
            run.StopIfAsked();
            if (StoredFiles.Broken(hash, options) is not null)
            {
                broken.Add(hash);
            }

            await run.ReportAsync(index + 1, hashes.Count, null, cancel);
        }

        await writer.RunAsync(run.Actor, session => NoteAsync(session, broken, cancel), cancel);
        return broken.Count == 0
            ? $"{Wording.Plural(hashes.Count, "file")} read; all are what was given."
            : $"{Wording.Plural(hashes.Count, "file")} read; {broken.Count} missing or changed.";
    }

    private async Task<IReadOnlyList<string>> HashesAsync(CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        return
        [
            .. (await db.PartProofs.Where(p => p.FileName != "").Select(p => p.Hash).ToListAsync(cancel))
                .Concat(await db.RegisterDocuments.Select(d => d.Hash).ToListAsync(cancel))
                .Concat(
                    await db.PolicyVersions.Where(v => v.FileName != "").Select(v => v.FileHash).ToListAsync(cancel)
                )
                .Concat(await db.AssuranceDocuments.Select(d => d.Hash).ToListAsync(cancel))
                .Distinct()
                .Order(StringComparer.Ordinal),
        ];
    }

    private async Task NoteAsync(WriteSession session, HashSet<string> broken, CancellationToken cancel)
    {
        var hashes = broken.ToList();
        foreach (var file in await AffectedAsync(session.Db, hashes, cancel))
        {
            var isBroken = broken.Contains(file.FileHash);
            if (isBroken != file.BrokenSince is not null)
            {
                file.BrokenSince = isBroken ? session.Now : null;
                session.Record(
                    isBroken ? "file-broken" : "file-whole-again",
                    new("file", file.FileHash),
                    after: new JsonObject { ["file"] = file.FileName }
                );
            }
        }

        await ReadinessNotes.TakeAsync(session, calendar, cancel);
    }

    /// <summary>The files that are broken now or were at the last run.</summary>
    private static async Task<IReadOnlyList<IGivenFile>> AffectedAsync(
        WideKeelDb db,
        IReadOnlyList<string> hashes,
        CancellationToken cancel
    ) =>
        [
            .. await db
                .PartProofs.Where(p => p.FileName != "" && (p.BrokenSince != null || hashes.Contains(p.Hash)))
                .ToListAsync(cancel),
            .. await db
                .RegisterDocuments.Where(d => d.BrokenSince != null || hashes.Contains(d.Hash))
                .ToListAsync(cancel),
            .. await db
                .PolicyVersions.Where(v => v.FileName != "" && (v.BrokenSince != null || hashes.Contains(v.FileHash)))
                .ToListAsync(cancel),
            .. await db
                .AssuranceDocuments.Where(d => d.BrokenSince != null || hashes.Contains(d.Hash))
                .ToListAsync(cancel),
        ];

    /// <summary>Names of the files that were broken at the last run.</summary>
    public static async Task<IReadOnlyList<string>> BrokenAsync(WideKeelDb db, CancellationToken cancel) =>
        [.. (await AffectedAsync(db, [], cancel)).Select(f => f.FileName).Distinct().Order(StringComparer.Ordinal)];
}
