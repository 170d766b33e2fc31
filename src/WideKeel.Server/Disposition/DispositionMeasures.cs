using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Disposition;

namespace WideKeel.Server.Disposition;

/// <summary>Whether the docket moves.</summary>
internal sealed class DispositionMeasures(IClock clock) : IMeasureSource
{
    private static readonly Duration Slow = Duration.FromDays(30);

    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "docket-moves",
                "Batches that move",
                "Open batches of the docket whose stage has waited for less than 30 days.",
                "content",
                BatchesAsync
            )
            {
                NothingIsRight = true,
            },
        ];

    private async Task<IReadOnlyList<MeasuredSubject>> BatchesAsync(MeasureQuestion asked)
    {
        var since = clock.GetCurrentInstant() - Slow;
        var batches = await asked
            .Db.Batches.AsNoTracking()
            .Where(b => (b.State == BatchState.Open || b.State == BatchState.Signing))
            .Select(b => new
            {
                b.Id,
                b.StageSince,
                Code = b.Series != null ? b.Series.Code : "a blanket",
            })
            .ToListAsync(asked.Cancel);
        return
        [
            .. batches.Select(b => new MeasuredSubject(
                Wording.Id(b.Id),
                $"Batch of {b.Code}",
                "",
                b.StageSince >= since,
                $"Its stage has waited since {Wording.Day(b.StageSince.InUtc().Date)}.",
                $"/schedule/docket?batch={Wording.Id(b.Id)}"
            )),
        ];
    }
}
