using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>
/// Takes jobs from the queue, in each lane one at a time, oldest first; what was running when the process stopped comes
/// first.
/// </summary>
public sealed class JobRunner(
    IDbContextFactory<WideKeelDb> databases,
    IEnumerable<IJob> jobs,
    Writer writer,
    JobBoard queue,
    JobFeed feed,
    Troubles troubles,
    IClock clock,
    ILogger<JobRunner> log
) : BackgroundService
{
    private readonly Dictionary<string, IJob> byKind = jobs.ToDictionary(j => j.Kind.Name);

    private static readonly TimeSpan Soon = TimeSpan.FromSeconds(1);

    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Task.WhenAll(
            byKind
                .Values.GroupBy(j => j.Kind.Lane)
                .Select(lane => RunLaneAsync(lane.Key, [.. lane.Select(j => j.Kind.Name)], stoppingToken))
        );

    private async Task RunLaneAsync(string lane, List<string> own, CancellationToken stoppingToken)
    {
        var (pause, trouble) = (Soon, $"lane-{lane}");
        queue.Open(lane);
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                Job? next;
                await using (var db = await databases.CreateDbContextAsync(stoppingToken))
                {
                    next = await db
                        .Jobs.AsNoTracking()
                        .Where(j => (j.State == JobState.Running || j.State == JobState.Queued) && own.Contains(j.Kind))
                        .OrderBy(j => j.State == JobState.Running ? 0 : 1)
                        .ThenBy(j => j.Id)
                        .FirstOrDefaultAsync(stoppingToken);
                }

                if (next is null)
                {
                    troubles.Clear(trouble);
                    await queue.WaitAsync(lane, stoppingToken);
                }
                else
                {
                    await RunAsync(next, stoppingToken);
                }
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception e)
            {
                // The database is locked, or the disk full: the lane waits and goes on, and its job with it.
                log.LogError(
                    e,
                    "The lane {Lane} cannot read or write its jobs; it tries again in {Pause}",
                    lane,
                    pause
                );
                troubles.Report(trouble, $"Jobs of the lane “{lane}” wait", Shortage.Of(e) ?? e.Message);
                await Task.Delay(pause, stoppingToken).ContinueWith(_ => { }, TaskScheduler.Default);
                pause = TimeSpan.FromSeconds(Math.Min(2 * pause.TotalSeconds, 60));
                continue;
            }

            troubles.Clear(trouble);
            pause = Soon;
        }
    }

    private async Task RunAsync(Job job, CancellationToken stopping)
    {
        (job.State, job.StartedAt) = (JobState.Running, job.StartedAt ?? clock.GetCurrentInstant());
        await SaveAsync(job, stopping);
        try
        {
            job.Message = await byKind[job.Kind].RunAsync(new JobRun(job, writer, feed, clock), stopping);
            job.State = JobState.Done;
        }
        catch (OperationCanceledException) when (stopping.IsCancellationRequested)
        {
            // Left as running: the next start goes on with it.
            throw;
        }
        catch (JobCancelledException)
        {
            (job.State, job.Message) = (JobState.Cancelled, "Stopped on request. What was done so far stays done.");
        }
        catch (Exception e) when (e is OutOfServiceException || Shortage.Of(e) is not null)
        {
            // Left as running: the lane waits, and then the job goes on where it was.
            job.Message = $"It waits. {Shortage.Of(e) ?? e.Message}";
            feed.Publish(JobView.Of(job));
            throw;
        }
        catch (Exception e)
        {
            log.LogError(e, "Job {Id} ({Kind}) failed", job.Id, job.Kind);
            (job.State, job.Message) = (
                JobState.Failed,
                $"It stopped with an error: {e.Message} What was done so far stays done; it can be started again."
            );
        }

        job.EndedAt = clock.GetCurrentInstant();
        await SaveAsync(job, CancellationToken.None);
    }

    private async Task SaveAsync(Job job, CancellationToken cancel)
    {
        await writer.RunAsync(
            LedgerActor.Job(job.Kind, job.AskedBy),
            async session =>
                await session
                    .Db.Jobs.Where(j => j.Id == job.Id)
                    .ExecuteUpdateAsync(
                        set =>
                            set.SetProperty(j => j.State, job.State)
                                .SetProperty(j => j.Message, job.Message)
                                .SetProperty(j => j.StartedAt, job.StartedAt)
                                .SetProperty(j => j.EndedAt, job.EndedAt)
                                .SetProperty(j => j.Done, job.Done)
                                .SetProperty(j => j.Total, job.Total),
                        cancel
                    ),
            cancel
        );
        feed.Publish(JobView.Of(job));
    }
}
