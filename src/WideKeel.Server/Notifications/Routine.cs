using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Disposition;
using WideKeel.Core.Ledger;
using WideKeel.Server.Content;
using WideKeel.Server.Disposition;
using WideKeel.Server.Jobs;
using WideKeel.Server.Matters;
using WideKeel.Server.Retention;
using WideKeel.Store;
using WideKeel.Store.Disposition;
using WideKeel.Store.People;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Notifications;

/// <summary>
/// What is done once a day, in the organisation's morning: reminders, the digest, copies verified, certificates past their own term, learning
/// from what was filed. A day that was missed is made up for at the next start, once.
/// </summary>
public sealed class Routine(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    MailRoom room,
    Calendar calendar,
    JobBoard queue,
    ILogger<Routine> log
) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await RunIfDueAsync(stoppingToken);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The morning's routine did not end");
            }
        }
    }

    /// <summary>Does what the day asks for, unless that was done already.</summary>
    internal async Task RunIfDueAsync(CancellationToken cancel)
    {
        var today = calendar.Today;
        await using var db = await databases.CreateDbContextAsync(cancel);
        if (await Due(db, today).AnyAsync(cancel))
        {
            await RunAsync(today, cancel);
        }
    }

    private static IQueryable<Organisation> Due(WideKeelDb db, LocalDate today) =>
        db.Organisations.Where(o => o.RoutineOn == null || o.RoutineOn < today);

    private async Task RunAsync(LocalDate today, CancellationToken cancel)
    {
        await writer.RunAsync(
            LedgerActor.Job("routine", null),
            async session =>
            {
                if (await Due(session.Db, today).SingleOrDefaultAsync(cancel) is not { } organisation)
                {
                    return;
                }

                organisation.RoutineOn = today;
                await RemindAsync(session, today, cancel);
                await session.Db.SaveChangesAsync(cancel);
                await DigestAsync(session, organisation, cancel);
                await MatterRoutine.RunAsync(session, today, calendar, cancel);
                await CertificateEndpoints.LetGoAsync(session, today, organisation.CertificateYears, calendar, cancel);
                await JobBoard.AddAsync(
                    session,
                    VerifyCopiesJob.KindName,
                    0,
                    "Verifying the copies in safekeeping",
                    null,
                    "routine"
                );
                if (await session.Db.Items.AnyAsync(i => i.FiledHow == FiledHow.Hand && i.DestroyedAt == null, cancel))
                {
                    await JobBoard.AddAsync(
                        session,
                        LearnJob.KindName,
                        0,
                        "Learning from what was filed by hand",
                        null,
                        "routine"
                    );
                }
            },
            cancel
        );
        queue.Wake();
    }

    /// <summary>Half-way through a stage's days, on its last day, and each week that it is overdue; the deputy from then on.</summary>
    private async Task RemindAsync(WriteSession session, LocalDate today, CancellationToken cancel)
    {
        foreach (
            var batch in await session
                .Db.Batches.WithRuler()
                .Include(b => b.SignOffs)
                .Where(b => b.State == BatchState.Open || b.State == BatchState.Signing)
                .ToListAsync(cancel)
        )
        {
            var signed = batch.SignOffs.Count;
            if (signed >= batch.Ruler.Stages.Count)
            {
                continue;
            }

            var stage = batch.Ruler.Stages[signed];
            var since = calendar.DateOf(batch.StageSince);
            var from = SignOffRules.OverdueFrom(stage, since);
            var late = NodaTime.Period.DaysBetween(from, today);
            if (!SignOffRules.Reminds(stage, since, today))
            {
                continue;
            }

            var lines = await session.Db.BatchLines.CountAsync(l => l.BatchId == batch.Id, cancel);
            foreach (var deputy in late >= 0 ? new[] { false, true } : [false])
            {
                foreach (var person in await Outbox.SignersAsync(session.Db, batch, deputy, cancel))
                {
                    Outbox.Add(
                        session,
                        person,
                        Texts.StageReminder(
                            batch.Ruler.Code,
                            batch.Ruler.Title,
                            lines,
                            signed + 1,
                            from.PlusDays(-1),
                            late >= 0,
                            deputy
                        ),
                        $"/schedule/docket?batch={batch.Id}"
                    );
                }
            }
        }
    }

    /// <summary>One mail for all that waited.</summary>
    private async Task DigestAsync(
        WriteSession session,
        Store.People.Organisation organisation,
        CancellationToken cancel
    )
    {
        var address = room.AddressOf(organisation);
        foreach (
            var own in (
                await session
                    .Db.Messages.Where(m => m.Digest && m.SentAt == null && m.PersonId != null)
                    .OrderBy(m => m.Id)
                    .ToListAsync(cancel)
            ).GroupBy(m => m.PersonId)
        )
        {
            var text = Texts.Digest([.. own.Select(m => (m.Subject, m.Body, address + m.Link))]);
            session.Db.Messages.Add(
                new()
                {
                    PersonId = own.Key,
                    Kind = text.Kind,
                    Subject = text.Subject,
                    Body = text.Body,
                    Because = text.Because,
                    Link = "/today",
                    At = session.Now,
                    NextTryAt = session.Now,
                }
            );
            foreach (var message in own)
            {
                message.SentAt = session.Now;
            }
        }
    }
}
