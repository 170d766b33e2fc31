using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>A kind of job: its word in rows and in the API, and what the queue and the runner go by.</summary>
/// <param name="Name">Lower case with hyphens.</param>
/// <param name="Lane">Kinds of one lane run one after the other; lanes run beside each other, so that a hold does not
/// wait for a scan.</param>
/// <param name="RunsToItsEnd">It was signed for or ordered, so nobody may stop it: half of it helps nobody.</param>
/// <param name="MayQueueBehindItself">One that runs may have passed what is new since, so another may queue up behind
/// it.</param>
/// <param name="Changes">What it changes, in the words by which the interface reads anew what a change made stale; with
/// spaces between.</param>
public sealed record JobKind(
    string Name,
    string Lane = JobKind.Content,
    bool RunsToItsEnd = false,
    bool MayQueueBehindItself = false,
    string Changes = ""
)
{
    public const string Content = "content";
    public const string Matters = "matters";
}

/// <summary>
/// Long work of one kind. Running it again from the start after a stop in the middle must give what one run would have
/// given.
/// </summary>
public interface IJob : IContribution
{
    JobKind Kind { get; }

    /// <summary>Does the work and returns one sentence on what was done.</summary>
    Task<string> RunAsync(JobRun run, CancellationToken cancel);
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

    /// <summary>
    /// Notes within a change of the job itself how far it has come with it; <see cref="Publish"/> and
    /// <see cref="StopIfAsked"/> after the commit.
    /// </summary>
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
    /// <summary>
    /// The usual number, or what WIDEKEEL_PORTION says: small portions lengthen the work and shorten the waits of
    /// others.
    /// </summary>
    public static int Or(int usual) => Asked ?? usual;

    /// <summary>Nobody asked for a size, so a job may choose larger ones where they are quick.</summary>
    public static bool MayGrow => Asked is null;

    private static int? Asked { get; } =
        int.TryParse(Environment.GetEnvironmentVariable("WIDEKEEL_PORTION"), out var asked) && asked > 0 ? asked : null;
}

/// <summary>Ends a run whose person asked for it.</summary>
public sealed class JobCancelledException : Exception;
