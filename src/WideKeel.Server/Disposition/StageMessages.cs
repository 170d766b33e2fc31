using Microsoft.EntityFrameworkCore;
using WideKeel.Server.Notifications;
using WideKeel.Store;

namespace WideKeel.Server.Disposition;

/// <summary>Messages about the stage that waits.</summary>
internal static class StageMessages
{
    /// <summary>Writes to those who may sign the stage that waits now.</summary>
    /// <param name="actor">Whoever brought it there needs no message.</param>
    public static async Task StageWaitsAsync(
        WriteSession session,
        SigningDuty duty,
        string? signedBefore,
        long actor,
        CancellationToken cancel
    )
    {
        var ruler = duty.Batch.Ruler;
        var lines = await LinesAsync(session, duty, cancel);
        foreach (var person in await duty.SignersAsync(session.Db, deputies: false, cancel))
        {
            if (person.Id != actor)
            {
                Outbox.Add(session, person, DispositionTexts.StageWaits(duty, lines, signedBefore), duty.Link);
            }
        }

        Outbox.Tell(
            session,
            signedBefore is null ? "batch-opened" : "batch-signed",
            new()
            {
                ["batch"] = duty.Batch.Id,
                ["series"] = ruler.Code,
                ["title"] = ruler.Title,
                ["items"] = lines,
                ["stage"] = duty.Number + 1,
                ["of"] = duty.Stages,
            }
        );
    }

    /// <summary>Those in the database, and those that this change adds.</summary>
    private static async Task<int> LinesAsync(WriteSession session, SigningDuty duty, CancellationToken cancel) =>
        await session.Db.BatchLines.CountAsync(l => l.BatchId == duty.Batch.Id, cancel)
        + session.Db.BatchLines.Local.Count(l =>
            l.BatchId == duty.Batch.Id && session.Db.Entry(l).State == EntityState.Added
        );
}

/// <summary>
/// Reminds half-way through a stage's days, on its last day, and each week that it is overdue; the deputy from then on.
/// </summary>
internal sealed class StageReminders : IDailyTask
{
    public async Task RunAsync(DailyQuestion asked)
    {
        var (db, today, cancel) = (asked.Session.Db, asked.Today, asked.Cancel);
        foreach (var duty in await SigningDuty.AllAsync(db, asked.Calendar, cancel))
        {
            if (!duty.Reminds(today))
            {
                continue;
            }

            var lines = await db.BatchLines.CountAsync(l => l.BatchId == duty.Batch.Id, cancel);
            foreach (var deputies in duty.IsOverdue(today) ? new[] { false, true } : [false])
            {
                foreach (var person in await duty.SignersAsync(db, deputies, cancel))
                {
                    Outbox.Add(
                        asked.Session,
                        person,
                        DispositionTexts.StageReminder(duty, lines, duty.IsOverdue(today), deputies),
                        duty.Link
                    );
                }
            }
        }
    }
}
