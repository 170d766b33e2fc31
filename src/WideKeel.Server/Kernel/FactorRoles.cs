using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>The roles whose holders must have one-time codes, as the organisation set them.</summary>
internal static class FactorRoles
{
    public static IReadOnlyList<Role> Read(string text) =>
        [.. text.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(Enum.Parse<Role>)];

    public static string Write(IEnumerable<Role> roles) => string.Join(',', roles.Distinct().Order());

    /// <summary>Whether one of these remits is in such a role.</summary>
    public static async Task<bool> IsNeededAsync(
        WideKeelDb db,
        IReadOnlyList<Remit> remits,
        CancellationToken cancel = default
    ) =>
        await db.Organisations.Select(o => o.FactorRoles).SingleOrDefaultAsync(cancel) is { } text
        && AreAmong(text, remits);

    /// <param name="text">As the organisation stores them.</param>
    public static bool AreAmong(string text, IReadOnlyList<Remit> remits) =>
        Read(text) is { Count: > 0 } roles && remits.Any(r => roles.Contains(r.Role));
}
