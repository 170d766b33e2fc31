using System.Collections.Concurrent;
using System.Runtime.CompilerServices;
using System.Threading.Channels;
using NodaTime;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>A job as the API shows it.</summary>
/// <param name="Total">0 while unknown.</param>
public sealed record JobView(
    long Id,
    string Kind,
    long SubjectId,
    string Title,
    JobState State,
    long Done,
    long Total,
    string? Message,
    string AskedBy,
    Instant AskedAt,
    Instant? StartedAt,
    Instant? EndedAt
)
{
    /// <summary>Decides who may see it; not part of what is shown.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string? Unit { get; init; }

    /// <summary>Only members of this matter may see it; not part of what is shown.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public long? MatterId { get; init; }

    /// <summary>Decides whether it may be stopped; not part of what is shown.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool RunsToItsEnd { get; init; }

    /// <summary>What it changes, in the words by which the interface reads anew what a change made stale.</summary>
    public required IReadOnlyList<string> Changes { get; init; }

    /// <summary>False for what was signed for or ordered, and for what is at its end.</summary>
    public bool MayBeStopped => !RunsToItsEnd && State is (JobState.Queued or JobState.Running);

    public static JobView Of(Job job) =>
        new(
            job.Id,
            job.Kind,
            job.SubjectId,
            job.Title,
            job.State,
            job.Done,
            job.Total,
            job.Message,
            job.AskedBy,
            job.AskedAt,
            job.StartedAt,
            job.EndedAt
        )
        {
            Unit = job.Unit,
            MatterId = job.MatterId,
            RunsToItsEnd = job.RunsToItsEnd,
            Changes = job.Changes.Split(' ', StringSplitOptions.RemoveEmptyEntries),
        };
}

/// <summary>
/// Passes what changes in jobs to whoever listens; a slow listener misses states in between, never the last.
/// </summary>
public sealed class JobFeed
{
    private readonly ConcurrentDictionary<Channel<JobView>, bool> listeners = new();

    public void Publish(JobView job)
    {
        foreach (var listener in listeners.Keys)
        {
            listener.Writer.TryWrite(job);
        }
    }

    public async IAsyncEnumerable<JobView> Listen([EnumeratorCancellation] CancellationToken cancel)
    {
        var channel = Channel.CreateBounded<JobView>(
            new BoundedChannelOptions(200) { FullMode = BoundedChannelFullMode.DropOldest }
        );
        listeners[channel] = true;
        try
        {
            await foreach (var job in channel.Reader.ReadAllAsync(cancel))
            {
                yield return job;
            }
        }
        finally
        {
            listeners.TryRemove(channel, out _);
        }
    }
}
