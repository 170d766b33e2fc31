using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace WideKeel.Server.Content;

/// <summary>Whether sources are read, and copies are whole.</summary>
internal sealed class ContentMeasures(IClock clock) : IMeasureSource
{
    private static readonly Duration Week = Duration.FromDays(7);

    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "sources-scanned",
                "Sources that are read",
                "Connected sources that were scanned within a week.",
                "operations",
                SourcesAsync
            ),
            new(
                "copies-whole",
                "Copies in safekeeping are whole",
                "Copies whose hash was right when they were verified last.",
                "operations",
                CopiesAsync
            )
            {
                NothingIsRight = true,
            },
        ];

    private async Task<IReadOnlyList<MeasuredSubject>> SourcesAsync(MeasureQuestion asked)
    {
        var since = clock.GetCurrentInstant() - Week;
        var sources = await asked.Db.Sources.AsNoTracking().Where(s => s.Connected).ToListAsync(asked.Cancel);
        return
        [
            .. sources.Select(s => new MeasuredSubject(
                Wording.Id(s.Id),
                s.Name,
                "",
                s.LastScan > since,
                s.LastScan is { } at ? $"Scanned on {Wording.Day(at.InUtc().Date)}." : "Never scanned.",
                "/set-up/sources"
            )),
        ];
    }

    private static async Task<IReadOnlyList<MeasuredSubject>> CopiesAsync(MeasureQuestion asked)
    {
        var broken = await asked.Db.BrokenCopies.CountAsync(asked.Cancel);
        var copies = await asked.Db.ItemCopies.CountAsync(asked.Cancel);
        return copies == 0
            ? []
            :
            [
                new(
                    "safekeeping",
                    "Safekeeping",
                    "",
                    broken == 0,
                    broken == 0
                        ? $"{Wording.Plural(copies, "copy", "copies")}, none of them broken."
                        : $"{Wording.Plural(broken, "copy", "copies")} of {Wording.Number(copies)} broken.",
                    "/set-up/sources"
                ),
            ];
    }
}
