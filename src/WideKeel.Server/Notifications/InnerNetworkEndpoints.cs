using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;

namespace WideKeel.Server.Notifications;

/// <param name="Networks">CIDR blocks with a comma between; empty for none.</param>
public sealed record InnerNetworks(string Networks);

/// <summary>Which addresses inside the organisation webhooks and connections may reach.</summary>
public static class InnerNetworkEndpoints
{
    private const int MostCharacters = 2_000;

    public static void MapInnerNetworks(this IEndpointRouteBuilder api)
    {
        api.MapGet("/inner-networks", Show).Requires(Right.ManagePeople);
        api.MapPut("/inner-networks", Put).RequiresInSession(Right.ManagePeople);
    }

    private static async Task<Reply<InnerNetworks>> Show(WideKeelDb db, CancellationToken cancel) =>
        new InnerNetworks(await db.Organisations.Select(o => o.InnerNetworks).SingleAsync(cancel));

    private static async Task<Reply<Done>> Put(InnerNetworks request, [AsParameters] ApiContext context)
    {
        var text = request.Networks?.Trim() ?? "";
        if (text.Length > MostCharacters)
        {
            return new Refusal("networks-too-long", "networks", "List at most 2,000 characters.");
        }

        if (PublicAddress.ReadNetworks(text, "networks").Refusal is { } malformed)
        {
            return malformed;
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var organisation = await session.Db.Organisations.SingleAsync(context.Cancel);
                session.Record(
                    "inner-networks-set",
                    new("organisation", "1"),
                    new JsonObject { ["networks"] = organisation.InnerNetworks },
                    new JsonObject { ["networks"] = text }
                );
                organisation.InnerNetworks = text;
                return new Done();
            },
            context.Cancel
        );
    }
}
