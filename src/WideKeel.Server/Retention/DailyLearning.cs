using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Content;
using WideKeel.Server.Jobs;

namespace WideKeel.Server.Retention;

/// <summary>Learns, day by day, from what was filed by hand.</summary>
internal sealed class DailyLearning : IDailyTask
{
    public async Task RunAsync(DailyQuestion asked)
    {
        if (
            await asked.Session.Db.Items.AnyAsync(
                i => i.FiledHow == FiledHow.Hand && i.DestroyedAt == null,
                asked.Cancel
            )
        )
        {
            await JobBoard.AddAsync(
                asked.Session,
                LearnJob.JobKind,
                0,
                "Learning from what was filed by hand",
                null,
                DailyRun.Asker
            );
        }
    }
}
