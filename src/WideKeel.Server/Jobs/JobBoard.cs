using System.Collections.Concurrent;
using System.Threading.Channels;
using Microsoft.EntityFrameworkCore;
using WideKeel.Store;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>Puts jobs into the queue, inside the change that calls for them.</summary>
public sealed class JobBoard
{
    private readonly ConcurrentDictionary<string, Channel<bool>> signals = new();

    /// <summary>Adds a job unless the same one waits or runs already; that one is returned then.</summary>
    /// <param name="subjectId">Of the source, series, batch … that it works on; 0 where it works on everything.</param>
    /// <param name="unit">Path of the unit whose people may see it; null when only those over the whole organisation
    /// may.</param>
    /// <param name="matter">It belongs to a matter, and only members may see it.</param>
    public static async Task<Job> AddAsync(
        WriteSession session,
        JobKind kind,
        long subjectId,
        string title,
        string? unit,
        string askedBy,
        long? matter = null
    )
    {
        var same = await session.Db.Jobs.FirstOrDefaultAsync(j =>
            j.Kind == kind.Name
            && j.SubjectId == subjectId
            && (j.State == JobState.Queued || (j.State == JobState.Running && !kind.MayQueueBehindItself))
        );
        if (same is not null)
        {
            return same;
        }

        var job = new Job
        {
            Kind = kind.Name,
            SubjectId = subjectId,
            Title = title,
            Unit = unit,
            MatterId = matter,
            RunsToItsEnd = kind.RunsToItsEnd,
            Changes = kind.Changes,
            AskedBy = askedBy,
            AskedAt = session.Now,
        };
        session.Db.Jobs.Add(job);
        session.AfterCommit(session.Services.GetRequiredService<JobBoard>().Wake);
        return job;
    }

    /// <summary>Says that there may be something to do. What was committed is there to be seen.</summary>
    private void Wake()
    {
        foreach (var signal in signals.Values)
        {
            signal.Writer.TryWrite(true);
        }
    }

    /// <summary>From here on the lane is given signals: before it looks for a job first, so that it misses none.</summary>
    internal void Open(string lane) => SignalOf(lane);

    private Channel<bool> SignalOf(string lane) =>
        signals.GetOrAdd(
            lane,
            _ =>
                Channel.CreateBounded<bool>(
                    new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropWrite }
                )
        );

    /// <summary>Waits until there may be something to do in a lane, for a few seconds at most.</summary>
    /// <returns>Whether somebody said so.</returns>
    internal async Task<bool> WaitAsync(string lane, CancellationToken cancel)
    {
        var signal = SignalOf(lane);
        // A look every few seconds costs nothing and makes a lost signal harmless.
        using var timeout = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        timeout.CancelAfter(TimeSpan.FromSeconds(5));
        try
        {
            return await signal.Reader.ReadAsync(timeout.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return false;
        }
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
