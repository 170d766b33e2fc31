using WideKeel.Server.Jobs;

namespace WideKeel.Server.Content;

/// <summary>Verifies, day by day, the copies in safekeeping.</summary>
internal sealed class DailyVerification : IDailyTask
{
    public Task RunAsync(DailyQuestion asked) =>
        JobBoard.AddAsync(
            asked.Session,
            VerifyCopiesJob.JobKind,
            0,
            "Verifying the copies in safekeeping",
            null,
            DailyRun.Asker
        );
}
