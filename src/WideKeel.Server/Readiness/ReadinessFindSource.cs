using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Readiness;

/// <summary>Finds frameworks, requirements by their identifiers, controls, gauges, audits, policies and connections.</summary>
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
        var policies = await db.Policies.AsNoTracking().OrderBy(p => p.Title).ToListAsync(asked.Cancel);
        var connections = await db.Connections.AsNoTracking().OrderBy(c => c.Name).ToListAsync(asked.Cancel);
        return
        [
            .. Fitting(
                frameworks.Select(f =>
                    (f.Title, f.Code, new FindHit("framework", f.Title, "Framework", Page("?framework=", f.Code)))
                )
            ),
            .. from r in requirements
            let of = frameworks.Single(f => f.Id == r.FrameworkId)
            select new FindHit("requirement", r.Code, $"Requirement of {of.Title}", Page("?framework=", of.Code)),
            .. Fitting(
                controls.Select(c =>
                    (
                        c.Title,
                        c.Code,
                        Hit("control", $"{c.Code} {c.Title}", $"Control · {c.Area}", "/controls?control=", c.Id)
                    )
                )
            ),
            .. Fitting(gauges.Select(g => (g.Name, "", Hit("gauge", g.Name, "Gauge", "/gauges?gauge=", g.Id)))),
            .. Fitting(audits.Select(a => (a.Name, "", Hit("audit", a.Name, "Audit", "/audits?audit=", a.Id)))),
            .. Fitting(
                policies.Select(p =>
                    (p.Title, p.Code, Hit("policy", $"{p.Code} {p.Title}", "Policy", "/policies?policy=", p.Id))
                )
            ),
            .. Fitting(
                connections.Select(c =>
                    (c.Name, "", Hit("connection", c.Name, "Connection", "/connections?connection=", c.Id))
                )
            ),
        ];

        IEnumerable<FindHit> Fitting(IEnumerable<(string Title, string Code, FindHit Hit)> things) =>
            things
                .Where(t => asked.Fits(t.Title) || (t.Code.Length > 0 && asked.Fits(t.Code)))
                .Take(Most)
                .Select(t => t.Hit);
    }

    private static FindHit Hit(string kind, string title, string note, string rest, long id) =>
        new(kind, title, note, Page(rest, Wording.Id(id)));

    private static string Page(string rest, string id) => $"/readiness{rest}{Uri.EscapeDataString(id)}";
}
