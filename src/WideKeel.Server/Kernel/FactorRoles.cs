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
        await db.Organisations.Select(o => o.FactorRoles).SingleOrDefaultAsync(cancel) is { Length: > 0 } text
        && Read(text) is var roles
        && remits.Any(r => roles.Contains(r.Role));
}
