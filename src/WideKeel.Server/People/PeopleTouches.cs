using Microsoft.EntityFrameworkCore;
using WideKeel.Store;

namespace WideKeel.Server.People;

/// <summary>Accounts here whose people the directory changes: they keep their roles until somebody takes them.</summary>
internal sealed class PeopleTouches : IDirectoryTouches
{
    public async Task<IReadOnlyList<DirectoryTouch>> OfAsync(
        IReadOnlySet<string> ids,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        [
            .. (await db.Users.AsNoTracking().Include(p => p.Remits).Where(p => p.Active).ToListAsync(cancel))
                .Where(p => p.Email is not null && ids.Contains(p.Email))
                .OrderBy(p => p.DisplayName, StringComparer.OrdinalIgnoreCase)
                .Select(p => new DirectoryTouch(
                    p.Email!,
                    $"{p.DisplayName} signs in here, with {Wording.Plural(p.Remits.Count, "role")}",
                    "/set-up/people"
                )),
        ];
}
