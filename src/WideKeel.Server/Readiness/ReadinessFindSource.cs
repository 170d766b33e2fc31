using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Readiness;

/// <summary>Finds frameworks, requirements by their identifiers, controls, gauges and audits.</summary>
internal sealed class ReadinessFindSource : IFindSource
{
    private const int Most = 4;

    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked)
    {
        if (!asked.Caller.May(Right.ReadReadiness))
        {
            return [];
        }

        var db = asked.Db;
        var frameworks = await db.Frameworks.AsNoTracking().ToListAsync(asked.Cancel);
        var requirements = await db
            .Requirements.AsNoTracking()
            .Where(r => r.Code.Contains(asked.Words))
            .OrderBy(r => r.Code)
            .Take(Most)
            .ToListAsync(asked.Cancel);
        var controls = await db.Controls.AsNoTracking().OrderBy(c => c.Code).ToListAsync(asked.Cancel);
        var gauges = await db.Gauges.AsNoTracking().OrderBy(g => g.Name).ToListAsync(asked.Cancel);
        var audits = await db.Audits.AsNoTracking().OrderByDescending(a => a.Id).ToListAsync(asked.Cancel);
        return
        [
            .. frameworks
                .Where(f => asked.Fits(f.Title) || asked.Fits(f.Code))
                .Take(Most)
                .Select(f => new FindHit("framework", f.Title, "Framework", Page("?framework=", f.Code))),
            .. requirements.Select(r => new FindHit(
                "requirement",
                r.Code,
                $"Requirement of {frameworks.Single(f => f.Id == r.FrameworkId).Title}",
                Page("?framework=", frameworks.Single(f => f.Id == r.FrameworkId).Code)
            )),
            .. controls
                .Where(c => asked.Fits(c.Title) || asked.Fits(c.Code))
                .Take(Most)
                .Select(c => new FindHit(
                    "control",
                    $"{c.Code} {c.Title}",
                    $"Control · {c.Area}",
                    Page("/controls?control=", Wording.Id(c.Id))
                )),
            .. gauges
                .Where(g => asked.Fits(g.Name))
                .Take(Most)
                .Select(g => new FindHit("gauge", g.Name, "Gauge", Page("/gauges?gauge=", Wording.Id(g.Id)))),
            .. audits
                .Where(a => asked.Fits(a.Name))
                .Take(Most)
                .Select(a => new FindHit("audit", a.Name, "Audit", Page("/audits?audit=", Wording.Id(a.Id)))),
        ];
    }

    private static string Page(string rest, string id) => $"/readiness{rest}{Uri.EscapeDataString(id)}";
}
