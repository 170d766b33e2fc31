using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Whether content is under rules, and the rules rest on something.</summary>
internal sealed class ScheduleMeasures : IMeasureSource
{
    public IReadOnlyList<Measure> Measures { get; } =
    [
        new(
            "containers-under-a-rule",
            "Containers under a rule",
            "Containers in which every item has a rule.",
            "content",
            ContainersAsync
        ),
        new(
            "series-with-authority",
            "Series that rest on an authority",
            "Series in force that name a law, regulation or contract.",
            "content",
            SeriesAsync
        ),
    ];

    private static async Task<IReadOnlyList<MeasuredSubject>> ContainersAsync(MeasureQuestion asked)
    {
        var units = await asked.Db.Units.AsNoTracking().ToDictionaryAsync(u => u.Id, u => u.Name, asked.Cancel);
        var containers = await asked
            .Db.Containers.AsNoTracking()
            .Select(c => new
            {
                c.Id,
                c.Name,
                c.UnitId,
                Bare = asked.Db.Items.Count(i =>
                    i.ContainerId == c.Id && i.DestroyedAt == null && i.SeriesId == null && i.KeepUntil == null
                ),
            })
            .OrderBy(c => c.Name)
            .ToListAsync(asked.Cancel);
        return
        [
            .. containers.Select(c => new MeasuredSubject(
                Wording.Id(c.Id),
                c.Name,
                units.GetValueOrDefault(c.UnitId, ""),
                c.Bare == 0,
                c.Bare == 0 ? "Every item has a rule." : $"{Wording.Plural(c.Bare, "item")} without a rule.",
                $"/content?container={Wording.Id(c.Id)}&state=noRule"
            )),
        ];
    }

    private static async Task<IReadOnlyList<MeasuredSubject>> SeriesAsync(MeasureQuestion asked)
    {
        var series = await asked
            .Db.Series.AsNoTracking()
            .Include(s => s.Unit)
            .Where(s => s.InForce != null)
            .OrderBy(s => s.Code)
            .ToListAsync(asked.Cancel);
        return
        [
            .. series.Select(s => new MeasuredSubject(
                s.Code,
                $"{s.Code} {s.Title}",
                s.Unit?.Name ?? "",
                s.InForce!.Authorities.Count > 0,
                s.InForce.Authorities.Count > 0
                    ? $"Rests on {string.Join(", ", s.InForce.Authorities)}."
                    : "Names no authority.",
                $"/schedule/{Wording.Id(s.Id)}"
            )),
        ];
    }
}
