using System.Globalization;
using System.Runtime.CompilerServices;
using Microsoft.AspNetCore.SignalR;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

public static class JobEndpoints
{
    public static void MapJobs(this IEndpointRouteBuilder api)
    {
        api.MapGet("/jobs", List).Requires(Right.ReadJobs);
        api.MapGet("/jobs/{id:long}", Show).Requires(Right.ReadJobs);
        api.MapPost("/jobs/{id:long}/cancellation", Cancel).Requires(Right.ReadJobs);
        api.MapHub<JobHub>("/jobs/stream").Requires(Right.ReadJobs);
    }

    private static async Task<Reply<IReadOnlyList<JobView>>> List(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var recent = await db.Jobs.AsNoTracking().OrderByDescending(j => j.Id).Take(200).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<JobView>>)
            recent.Select(JobView.Of).Where(j => MaySee(caller, j)).Take(50).ToList();
    }

    private static async Task<Reply<JobView>> Show(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var job = await db.Jobs.AsNoTracking().SingleOrDefaultAsync(j => j.Id == id, cancel);
        return job is not null && MaySee(caller, JobView.Of(job)) ? JobView.Of(job) : Problems.NotFound("job");
    }

    /// <summary>Stops what may be stopped: a scan, a copy.</summary>
    private static async Task<Reply<Done>> Cancel(long id, Caller caller, Writer writer, CancellationToken cancel) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var job = await session.Db.Jobs.SingleOrDefaultAsync(j => j.Id == id, cancel);
                if (job is null || !MaySee(caller, JobView.Of(job)))
                {
                    return Problems.NotFound("job");
                }

                if (job.RunsToItsEnd)
                {
                    return Refusal.Conflict(
                        "job-not-stoppable",
                        null,
                        "What was signed for or ordered goes on to its end; half of it helps nobody."
                    );
                }

                job.CancelAsked = true;
                session.Record(
                    "job-stopped",
                    job.MatterId is { } matter
                        ? LedgerSubject.Of("matter", matter)
                        : LedgerSubject.Of("job", id, job.Unit)
                );
                return new Done();
            },
            cancel
        );

    internal static bool MaySee(Caller caller, JobView job)
    {
        if (job.MatterId is { } matter)
        {
            return caller.Matters.ContainsKey(matter);
        }

        var reach = RightsPolicy.UnitsOf(caller.Remits, Right.ReadJobs);
        return reach.Any(r => r == caller.Root || (job.Unit is { } unit && r.Covers(new UnitPath(unit))));
    }
}

/// <summary>
/// Pushes what changes in jobs to a page, over one WebSocket; server-sent events would hold one of the six connections
/// that a browser gives a host.
/// </summary>
public sealed class JobHub(JobFeed feed, IServiceScopeFactory scopes, OrganisationCalendar calendar) : Hub
{
    /// <summary>The jobs that the person of this connection may see, as they change.</summary>
    public async IAsyncEnumerable<JobView> Jobs([EnumeratorCancellation] CancellationToken cancel)
    {
        var http = Context.GetHttpContext()!;
        await foreach (var job in feed.Listen(cancel))
        {
            if (await MaySeeAsync(http, job, cancel))
            {
                yield return job;
            }
        }
    }

    /// <summary>Asked for each: whoever lost a right, left a matter or signed out hears no more.</summary>
    private async Task<bool> MaySeeAsync(HttpContext http, JobView job, CancellationToken cancel)
    {
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var caller = new Caller();
            await caller.LoadAsync(http, scope.ServiceProvider.GetRequiredService<WideKeelDb>(), calendar.Today);
            return JobEndpoints.MaySee(caller, job);
        }
        catch (ObjectDisposedException) when (cancel.IsCancellationRequested)
        {
            // The page was closed meanwhile.
            return false;
        }
    }
}
