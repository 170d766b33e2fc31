using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Retention;

/// <summary>Finds series by code and title.</summary>
internal sealed class SeriesFindSource : IFindSource
{
    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked) =>
        !asked.Caller.May(Right.ReadSchedule)
            ? []
            :
            [
                .. (await asked.Db.Series.AsNoTracking().OrderBy(s => s.Code).ToListAsync(asked.Cancel))
                    .Where(s => asked.Caller.MaySee(Right.ReadSchedule, s.UnitId) && asked.Fits($"{s.Code} {s.Title}"))
                    .Take(5)
                    .Select(s => new FindHit("series", $"{s.Code} {s.Title}", "Record series", $"/schedule/{s.Id}")),
            ];
}
