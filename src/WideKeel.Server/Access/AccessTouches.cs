using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Access;

/// <summary>Reviewers who have not answered yet, and owners of groups and places.</summary>
internal sealed class AccessTouches(AccessGround ground) : IDirectoryTouches
{
    public async Task<IReadOnlyList<DirectoryTouch>> OfAsync(
        IReadOnlySet<string> ids,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if (!caller.May(Right.ReadAccess) && !caller.May(Right.ManagePeople))
        {
            return [];
        }

        var open = await (
            from round in db.ReviewRounds
            where round.EndedAt == null
            from line in round.Lines
            where line.Decision == LineDecision.Open
            group line by new { round.ReviewId, line.Reviewer } into lines
            select new
            {
                lines.Key.ReviewId,
                lines.Key.Reviewer,
                Count = lines.Count(),
            }
        ).ToListAsync(cancel);
        var owned = ground
            .State.Groups.Select(g => (g.Owner, g.Name))
            .Concat(ground.State.Resources.Select(r => (r.Owner, r.Name)))
            .Where(o => o.Owner is not null && ids.Contains(o.Owner))
            .ToLookup(o => o.Owner!, o => o.Name);
        return
        [
            .. open.Where(o => ids.Contains(o.Reviewer))
                .Select(o => new DirectoryTouch(
                    o.Reviewer,
                    $"{o.Reviewer} has {Wording.Plural(o.Count, "line")} of a running review to decide on",
                    $"/access/reviews?review={o.ReviewId}"
                )),
            .. owned.Select(o => new DirectoryTouch(
                o.Key,
                $"{o.Key} owns {string.Join(", ", o.Take(3))}{(o.Count() > 3 ? $" and {o.Count() - 3} more" : "")}",
                $"/access?person={Uri.EscapeDataString(o.Key)}"
            )),
        ];
    }
}
