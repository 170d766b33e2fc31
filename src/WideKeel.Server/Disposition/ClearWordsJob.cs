using Microsoft.EntityFrameworkCore;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Disposition;

/// <summary>
/// Rewrites the index of words without those of what was destroyed: the index itself only marks them as gone. In steps, so that nobody waits for
/// it; cut off, it begins again and finds less to do.
/// </summary>
public sealed class ClearWordsJob(IDbContextFactory<WideKeelDb> databases, Writer writer) : IJobKind
{
    public const string KindName = "clear-words";
    public const string Title = "Clearing the index of what was destroyed";

    /// <summary>Pages of the index that one step writes: some tens of milliseconds.</summary>
    private static readonly int Portion = Portions.Or(500);

    public string Kind => KindName;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        long steps = 0;
        var more = true;
        while (more)
        {
            await writer.RunAsync(run.Actor, session =>
            {
                more = FullText.Clear(session.Connection, Portion, begin: steps == 0);
                return Task.CompletedTask;
            }, cancel);
            steps++;
            await run.ReportAsync(steps, 0, null, cancel);
        }

        // The log of changes still holds the pages as they were; it is taken into the database and cut to nothing.
        await using var db = await databases.CreateDbContextAsync(cancel);
        await db.Database.ExecuteSqlRawAsync("PRAGMA wal_checkpoint(TRUNCATE)", cancel);
        return "No word of what was destroyed is left in the index.";
    }
}
