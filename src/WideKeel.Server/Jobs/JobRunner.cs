using System.Threading.Channels;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>A kind of long work. Running it again from the start after a stop in the middle must give what one run would have given.</summary>
public interface IJobKind
{
    string Kind { get; }

    /// <summary>Kinds of one lane run one after the other; lanes run beside each other, so that a hold does not wait for a scan.</summary>
    string Lane => Lanes.Content;

    /// <summary>Does the work and returns one sentence on what was done.</summary>
    Task<string> RunAsync(JobRun run, CancellationToken cancel);
}

public static class Lanes
{
    public const string Content = "content";
    public const string Matters = "matters";
}

/// <summary>One run of a job: what it is about, and where it reports.</summary>
public sealed class JobRun(Job job, Writer writer, JobFeed feed, IClock clock)
{
    private static readonly Duration Pace = Duration.FromMilliseconds(400);
    private Instant lastReport = clock.GetCurrentInstant();

    public Job Job { get; } = job;

    public LedgerActor Actor => LedgerActor.Job(Job.Kind, Job.AskedBy);

    /// <summary>Tells how far the work has come; written and pushed a few times a second at most.</summary>
    public async Task ReportAsync(long done, long total, string? message, CancellationToken cancel)
    {
        (Job.Done, Job.Total, Job.Message) = (done, total, message);
        var now = clock.GetCurrentInstant();
        if (now - lastReport < Pace && done != total)
        {
            return;
        }

        lastReport = now;
        await writer.RunAsync(Actor, session => NoteAsync(session, done, total, message), cancel);
        Publish();
        StopIfAsked();
    }

    /// <summary>Notes within a change of the job itself how far it has come with it; <see cref="Publish"/> and <see cref="StopIfAsked"/> after the commit.</summary>
    public async Task NoteAsync(WriteSession session, long done, long total, string? message)
    {
        (Job.Done, Job.Total, Job.Message) = (done, total, message);
        Job.CancelAsked = await JobBoard.SaveProgressAsync(session, Job);
    }

    /// <summary>Ends the run if somebody asked for that; not for jobs that run to their end.</summary>
    /// <exception cref="JobCancelledException">Somebody did.</exception>
    public void StopIfAsked()
    {
        if (Job.CancelAsked)
        {
            throw new JobCancelledException();
        }
    }

    /// <summary>Pushes how far the work has come to those who watch it.</summary>
    public void Publish() => feed.Publish(JobView.Of(Job));
}

/// <summary>How many items one transaction of a job covers.</summary>
public static class Portions
{
    /// <summary>The usual number, or what WIDEKEEL_PORTION says: small portions lengthen the work and shorten the waits of others.</summary>
    public static int Or(int usual) => Asked ?? usual;

    /// <summary>Nobody asked for a size, so a job may choose larger ones where they are quick.</summary>
    public static bool MayGrow => Asked is null;

    private static int? Asked { get; } =
        int.TryParse(Environment.GetEnvironmentVariable("WIDEKEEL_PORTION"), out var asked) && asked > 0 ? asked : null;
}

/// <summary>Ends a run whose person asked for it.</summary>
public sealed class JobCancelledException : Exception;

/// <summary>Putting jobs into the queue, inside the change that calls for them.</summary>
public sealed class JobBoard
{
    private readonly Dictionary<string, Channel<bool>> signals = new[] { Lanes.Content, Lanes.Matters }.ToDictionary(
        l => l,
        _ => Channel.CreateBounded<bool>(new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropWrite })
    );

    /// <summary>Adds a job unless the same one waits or runs already; that one is returned then.</summary>
    public static async Task<Job> AddAsync(
        WriteSession session,
        string kind,
        long subjectId,
        string title,
        string? unit,
        string askedBy
    )
    {
        var behind = MayQueueBehindItself.Contains(kind);
        var same = await session.Db.Jobs.FirstOrDefaultAsync(j =>
            j.Kind == kind
            && j.SubjectId == subjectId
            && (j.State == JobState.Queued || (j.State == JobState.Running && !behind))
        );
        if (same is not null)
        {
            return same;
        }

        var job = new Job
        {
            Kind = kind,
            SubjectId = subjectId,
            Title = title,
            Unit = unit,
            AskedBy = askedBy,
            AskedAt = session.Now,
        };
        session.Db.Jobs.Add(job);
        return job;
    }

    public const string CaptureKind = "capture";

    /// <summary>One of these that runs may have passed what is new since, so another may queue up behind it.</summary>
    private static readonly HashSet<string> MayQueueBehindItself = [CaptureKind, Content.LookJob.KindName];

    /// <summary>What was signed for or ordered: half of it helps nobody.</summary>
    private static readonly HashSet<string> ToTheEnd =
    [
        Disposition.ExecuteJob.KindName,
        Disposition.ClearWordsJob.KindName,
        Matters.HoldJob.KindName,
        Matters.DeleteMatterJob.KindName,
    ];

    /// <summary>Whether nobody may stop a kind of job.</summary>
    public static bool RunsToItsEnd(string kind) => ToTheEnd.Contains(kind);

    /// <summary>Says that there may be something to do; after the commit.</summary>
    public void Wake()
    {
        foreach (var signal in signals.Values)
        {
            signal.Writer.TryWrite(true);
        }
    }

    internal async Task WaitAsync(string lane, CancellationToken cancel)
    {
        // A look every few seconds costs nothing and makes a lost signal harmless.
        using var timeout = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        timeout.CancelAfter(TimeSpan.FromSeconds(5));
        try
        {
            await signals[lane].Reader.ReadAsync(timeout.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested) { }
    }

    internal static async Task<bool> SaveProgressAsync(WriteSession session, Job job)
    {
        await session
            .Db.Jobs.Where(j => j.Id == job.Id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(j => j.Done, job.Done)
                    .SetProperty(j => j.Total, job.Total)
                    .SetProperty(j => j.Message, job.Message)
                    .SetProperty(j => j.Cursor, job.Cursor)
            );
        return await session.Db.Jobs.Where(j => j.Id == job.Id).Select(j => j.CancelAsked).SingleAsync();
    }
}

/// <summary>Takes jobs from the queue, in each lane one at a time, oldest first; what was running when the process stopped comes first.</summary>
public sealed class JobRunner(
    IDbContextFactory<WideKeelDb> databases,
    IEnumerable<IJobKind> kinds,
    Writer writer,
    JobBoard queue,
    JobFeed feed,
    IClock clock,
    ILogger<JobRunner> log
) : BackgroundService
{
    private readonly Dictionary<string, IJobKind> byKind = kinds.ToDictionary(k => k.Kind);

    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Task.WhenAll(
            byKind
                .Values.GroupBy(k => k.Lane)
                .Select(lane => RunLaneAsync(lane.Key, [.. lane.Select(k => k.Kind)], stoppingToken))
        );

    private async Task RunLaneAsync(string lane, List<string> own, CancellationToken stoppingToken)
    {
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
