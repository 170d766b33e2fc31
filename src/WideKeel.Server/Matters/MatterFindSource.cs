using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Matters;

/// <summary>Finds the caller's matters by number and name.</summary>
internal sealed class MatterFindSource : IFindSource
{
    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked)
    {
        var own = asked.Caller.Matters.Keys.ToList();
        var matters = await asked
            .Db.Matters.AsNoTracking()
            .Where(m => own.Contains(m.Id))
            .OrderByDescending(m => m.Id)
            .ToListAsync(asked.Cancel);
        return
        [
            .. matters
                .Where(m => asked.Fits($"{m.Number} {m.Name}"))
                .Take(5)
                .Select(m => new FindHit("matter", $"{m.Number} {m.Name}", "Matter", $"/matters/{m.Id}")),
        ];
    }
}
