using Microsoft.EntityFrameworkCore;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Disposition;

/// <summary>
/// Rewrites the index of words without those of what was destroyed: the index itself only marks them as gone. In steps,
/// so that nobody waits for it; cut off, it begins again and finds less to do.
/// </summary>
public sealed class ClearWordsJob(IDbContextFactory<WideKeelDb> databases, Writer writer) : IJob
{
    public static readonly JobKind JobKind = new("clear-words", RunsToItsEnd: true);
    public const string Title = "Clearing the index of what was destroyed";

    /// <summary>Pages of the index that one step writes: some tens of milliseconds.</summary>
    private static readonly int Portion = Portions.Or(500);

    /// <summary>
    /// How often the log of changes is tried, a second apart, while somebody reads what stood before.
    /// </summary>
    private const int Tries = 60;

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        long steps = 0;
        var more = true;
        while (more)
        {
            await writer.RunAsync(
                run.Actor,
                session =>
                {
                    more = FullText.Clear(session.Connection, Portion, begin: steps == 0);
                    return Task.CompletedTask;
                },
                cancel
            );
            steps++;
            await run.ReportAsync(steps, 0, "Writing the index anew", cancel);
        }

        return await CutLogAsync(cancel)
            ? "No word of what was destroyed is left in the index."
            : "No word of what was destroyed is left in the index; the log of changes beside the database still holds "
                + "some until it is written over, because it was read all the time.";
    }

    /// <summary>
    /// The log of changes still holds the pages as they were; it is taken into the database and cut to nothing. False
    /// where somebody read on and on.
    /// </summary>
    private async Task<bool> CutLogAsync(CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        await db.Database.OpenConnectionAsync(cancel);
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.CommandText = "PRAGMA wal_checkpoint(TRUNCATE)";
        for (var tried = 1; ; tried++)
        {
            // SQLite's documentation, "PRAGMA wal_checkpoint": the first column is 0 when nothing kept it from ending.
            if (await command.ExecuteScalarAsync(cancel) is 0L)
            {
                return true;
            }

            if (tried == Tries)
            {
                return false;
            }

            await Task.Delay(TimeSpan.FromSeconds(1), cancel);
        }
    }
}
