using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>Whether custodians answered. Which matter a notice belongs to stays with its members.</summary>
internal sealed class MatterMeasures(IClock clock) : IMeasureSource
{
    private static readonly Duration Late = Duration.FromDays(14);

    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "holds-acknowledged",
                "Hold notices acknowledged",
                "Hold notices that were acknowledged, or were sent less than two weeks ago.",
                "content",
                NoticesAsync
            )
            {
                NothingIsRight = true,
            },
        ];

    private async Task<IReadOnlyList<MeasuredSubject>> NoticesAsync(MeasureQuestion asked)
    {
        var since = clock.GetCurrentInstant() - Late;
        var copies = await asked
            .Db.NoticeCopies.AsNoTracking()
            .Where(c => c.Notice!.Kind == NoticeKind.Hold)
            .Select(c => new
            {
                c.Id,
                c.SentAt,
                c.AcknowledgedAt,
            })
            .ToListAsync(asked.Cancel);
        return
        [
            .. copies.Select(c => new MeasuredSubject(
                Wording.Id(c.Id),
                $"A notice of {Wording.Day(c.SentAt.InUtc().Date)}",
                "",
                c.AcknowledgedAt is not null || c.SentAt > since,
                c.AcknowledgedAt is { } at
                    ? $"Acknowledged on {Wording.Day(at.InUtc().Date)}."
                    : "Not acknowledged yet.",
                "/matters"
            )),
        ];
    }
}
