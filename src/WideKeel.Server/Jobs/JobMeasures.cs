using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Store.Jobs;

namespace WideKeel.Server.Jobs;

/// <summary>Whether long work comes to its end.</summary>
internal sealed class JobMeasures(IClock clock) : IMeasureSource
{
    private static readonly Duration Month = Duration.FromDays(30);

    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "jobs-end-well",
                "Jobs that end well",
                "Scans, sealing, verification and other long work of the last 30 days that did not fail.",
                "operations",
                JobsAsync
            ),
        ];

    private async Task<IReadOnlyList<MeasuredSubject>> JobsAsync(MeasureQuestion asked)
    {
        var since = clock.GetCurrentInstant() - Month;
        var jobs = await asked
            .Db.Jobs.AsNoTracking()
            .Where(j => j.EndedAt != null && j.EndedAt > since && j.MatterId == null)
            .OrderByDescending(j => j.Id)
            .ToListAsync(asked.Cancel);
        return
        [
            .. jobs.Select(j => new MeasuredSubject(
                Wording.Id(j.Id),
                j.Title,
                j.Unit ?? "",
                j.State != JobState.Failed,
                j.State == JobState.Failed ? j.Message ?? "It failed." : "It came to its end.",
                ""
            )),
        ];
    }
}
