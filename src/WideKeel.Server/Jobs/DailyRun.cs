using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Jobs;

/// <summary>
/// What the parts ask for once a day, in the organisation's morning. A day that was missed is made up for at the next
/// start, once.
/// </summary>
public sealed class DailyRun(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    OrganisationCalendar calendar,
    IEnumerable<IDailyTask> tasks,
    Troubles troubles,
    ILogger<DailyRun> log
) : BackgroundService
{
    private const string TroubleKey = "daily-run";

    /// <summary>Who asks for the jobs of the daily run.</summary>
    public const string Asker = "daily-run";

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(2);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                await RunIfDueAsync(stoppingToken);
                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The daily run did not end");
                troubles.Report(TroubleKey, "The daily run does not end", e.Message);
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
        db.Organisations.Where(o => o.DailyRunOn == null || o.DailyRunOn < today);

    private async Task RunAsync(LocalDate today, CancellationToken cancel)
    {
        await writer.RunAsync(
            LedgerActor.Job(Asker, null),
            async session =>
            {
                if (await Due(session.Db, today).SingleOrDefaultAsync(cancel) is not { } organisation)
                {
                    return;
                }

                organisation.DailyRunOn = today;
                foreach (var task in tasks.OrderBy(t => t.IsLast))
                {
                    await task.RunAsync(new(session, organisation, calendar, cancel));
                    // The next one sees what this one left.
                    await session.Db.SaveChangesAsync(cancel);
                }
            },
            cancel
        );
    }
}
