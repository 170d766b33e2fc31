using WideKeel.Server.Retention;

namespace WideKeel.Server.Disposition;

/// <summary>What is due beyond grace, as a line of the schedule's health.</summary>
internal sealed class DocketHealth : IHealthSource
{
    public async Task<IReadOnlyList<HealthLine>> OfAsync(DutyQuestion asked)
    {
        var late = (await BatchEndpoints.DueAsync(asked.Caller, asked.Db, asked.Calendar, asked.Cancel))
            .Where(g => g.GraceEnds < asked.Today)
            .ToList();
        var items = late.Sum(g => g.Items);
        return
        [
            new(
                "beyond-grace",
                "Due beyond grace",
                items,
                items == 1 ? "item" : "items",
                "They should have been disposed of.",
                "Open a batch.",
                [
                    .. late.Take(HealthEndpoints.MostRows)
                        .Select(g => new HealthRow(
                            $"{g.Series.Code} {g.Series.Title}",
                            $"{Wording.Plural(g.Items, "item")}, grace ended on {Wording.Day(g.GraceEnds)}",
                            g.BlanketId is { } blanket
                                ? $"/schedule/docket?blanket={blanket}"
                                : $"/schedule/docket?due={g.Series.Id}"
                        )),
                ],
                "/schedule/docket"
            ),
        ];
    }
}
