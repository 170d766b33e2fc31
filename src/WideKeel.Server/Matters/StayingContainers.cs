using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Matters;
using WideKeel.Server.Content;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// A container that is given to another unit leaves no order in force: who gives it may know nothing of the matter. Its
/// members read in the history that it stays.
/// </summary>
internal sealed class StayingContainers : IContainerMove
{
    public async Task MovedAsync(
        WriteSession session,
        Container container,
        (string From, string To) unit,
        CancellationToken cancel
    )
    {
        var matters = await session
            .Db.Matters.Include(m => m.Unit)
            .Where(m =>
                m.State == MatterState.Open
                && session.Db.HoldOrders.Any(o => o.MatterId == m.Id && o.State == OrderState.InForce)
            )
            .ToListAsync(cancel);
        foreach (var matter in matters.Where(m => Holds(m, unit.From) && !Holds(m, unit.To)))
        {
            matter.Stays = [.. matter.Stays.Append(container.Id).Distinct().Order()];
            session.Record(
                "container-stays",
                MatterDoor.Subject(matter.Id),
                after: new JsonObject { ["container"] = container.Name },
                reason: "It was given to a unit outside the matter’s; the orders in force reach it all the same."
            );
        }
    }

    private static bool Holds(Matter matter, string unit) =>
        unit.StartsWith(matter.Unit!.Path, StringComparison.Ordinal);
}
