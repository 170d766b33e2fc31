using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;

namespace WideKeel.Server.People;

/// <param name="Roles">Whoever holds one of them must have one-time codes.</param>
/// <param name="Without">People who hold one and have none yet; they set them up at their next sign-in.</param>
public sealed record FactorRolesView(IReadOnlyList<Role> Roles, int Without);

public sealed record FactorRolesChange(IReadOnlyList<Role> Roles);

/// <summary>Which roles require a second factor.</summary>
public static class FactorRoleEndpoints
{
    public static void MapFactorRoles(this IEndpointRouteBuilder api)
    {
        api.MapGet("/factor-roles", Show).Requires(Right.ManagePeople);
        api.MapPut("/factor-roles", Put).RequiresInSession(Right.ManagePeople);
    }

    private static async Task<Reply<FactorRolesView>> Show(WideKeelDb db, CancellationToken cancel)
    {
        var roles = FactorRoles.Read(await db.Organisations.Select(o => o.FactorRoles).SingleAsync(cancel));
        return new FactorRolesView(
            roles,
            await db.Users.CountAsync(
                p =>
                    p.Active
                    && p.Remits.Any(r => roles.Contains(r.Role))
                    && !db.Authenticators.Any(a => a.PersonId == p.Id && a.ConfirmedAt != null),
                cancel
            )
        );
    }

    private static async Task<Reply<Done>> Put(FactorRolesChange request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (request.Roles is null || request.Roles.Any(r => !Enum.IsDefined(r)))
                {
                    return new Refusal("role-unknown", "roles", "Name the roles that require one-time codes.");
                }

                var organisation = await session.Db.Organisations.SingleAsync(context.Cancel);
                var after = FactorRoles.Write(request.Roles);
                session.Record(
                    "factor-roles-set",
                    new("organisation", "1"),
                    new JsonObject { ["roles"] = organisation.FactorRoles },
                    new JsonObject { ["roles"] = after }
                );
                organisation.FactorRoles = after;
                return new Done();
            },
            context.Cancel
        );
}
