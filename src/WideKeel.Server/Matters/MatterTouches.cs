using Microsoft.EntityFrameworkCore;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Matters;

/// <summary>Custodians, and groups that let people into a matter; of the caller's own matters only.</summary>
internal sealed class MatterTouches : IDirectoryTouches
{
    public async Task<IReadOnlyList<DirectoryTouch>> OfAsync(
        IReadOnlySet<string> ids,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var own = caller.Matters.Keys.ToList();
        var matters = await db
            .Matters.AsNoTracking()
            .Where(m => own.Contains(m.Id))
            .ToDictionaryAsync(m => m.Id, m => m.Number, cancel);
        var custodians = await db
            .Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c => own.Contains(c.MatterId))
            .ToListAsync(cancel);
        var groups = await (
            from member in db.MatterMembers
            join g in db.DirectoryGroups on member.GroupId equals g.Id
            where own.Contains(member.MatterId)
            select new { member.MatterId, g.Key }
        ).ToListAsync(cancel);
        return
        [
            .. custodians
                .Where(c => ids.Contains(c.Person!.Mail))
                .Select(c => new DirectoryTouch(
                    c.Person!.Mail,
                    $"{c.Person.Name} is a custodian of matter {matters[c.MatterId]}",
                    $"/matters/{c.MatterId}?tab=custodians"
                )),
            .. groups
                .Where(g => ids.Contains(g.Key))
                .Select(g => new DirectoryTouch(
                    g.Key,
                    $"“{g.Key}” lets its members into matter {matters[g.MatterId]}",
                    $"/matters/{g.MatterId}?tab=members"
                )),
        ];
    }
}
