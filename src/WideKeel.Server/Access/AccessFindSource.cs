using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;

namespace WideKeel.Server.Access;

/// <summary>Finds people, groups, places and applications of the directory, and reviews.</summary>
internal sealed class AccessFindSource(AccessGround ground) : IFindSource
{
    private const int Most = 4;

    public async Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked)
    {
        if (!asked.Caller.May(Right.ReadAccess))
        {
            return [];
        }

        var state = ground.State;
        var reviews = await asked.Db.Reviews.AsNoTracking().OrderByDescending(r => r.Id).ToListAsync(asked.Cancel);
        return
        [
            .. state
                .People.Where(p => asked.Fits(p.Name) || asked.Fits(p.Id))
                .Take(Most)
                .Select(p => Hit("person", p.Name, $"{p.Id} · what they reach", p.Id)),
            .. state
                .Groups.Where(g => asked.Fits(g.Name))
                .Take(Most)
                .Select(g => Hit("group", g.Name, "Group · what membership gives", g.Id)),
            .. state
                .Resources.Where(r => asked.Fits(r.Name))
                .Take(Most)
                .Select(r => Hit("resource", r.Name, $"Place ({r.Kind}) · who reaches it", r.Id)),
            .. state
                .Applications.Where(a => asked.Fits(a.Name))
                .Take(Most)
                .Select(a => new FindHit(
                    "application",
                    a.Name,
                    $"Application of {a.Publisher}",
                    "/access/applications"
                )),
            .. reviews
                .Select(r => (r.Id, Name: ReviewRounds.DefinitionOf(r).Name))
                .Where(r => asked.Fits(r.Name))
                .Take(Most)
                .Select(r => new FindHit(
                    "review",
                    r.Name,
                    "Access review",
                    $"/access/reviews?review={Wording.Id(r.Id)}"
                )),
        ];
    }

    private static FindHit Hit(string kind, string title, string note, string id) =>
        new(kind, title, note, $"/access?{kind}={Uri.EscapeDataString(id)}");
}
