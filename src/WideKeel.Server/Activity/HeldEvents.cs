using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Matters;
using WideKeel.Store;

namespace WideKeel.Server.Activity;

/// <summary>
/// Which events hold orders keep: those of orders in force, and those of releases whose delay has not passed.
/// </summary>
internal sealed class HeldEvents
{
    private readonly List<HoldDefinition> definitions;

    private HeldEvents(List<HoldDefinition> definitions) => this.definitions = definitions;

    /// <param name="day">On which they are kept.</param>
    /// <param name="except">An order that is left out with its releases; 0 for none.</param>
    public static async Task<HeldEvents> LoadAsync(
        WideKeelDb db,
        LocalDate day,
        CancellationToken cancel,
        long except = 0
    )
    {
        var orders = await db
            .HoldOrders.AsNoTracking()
            .Where(o => o.State == OrderState.InForce && o.Id != except)
            .Select(o => o.InForce)
            .ToListAsync(cancel);
        var releases = await db
            .HoldReleases.AsNoTracking()
            .Where(r => r.State == ReleaseState.Agreed && r.Through >= day && r.OrderId != except)
            .Select(r => r.Former)
            .ToListAsync(cancel);
        return new([.. orders.Concat(releases).OfType<HoldDefinition>()]);
    }

    /// <summary>Whether an order keeps the events that a channel has of a day.</summary>
    public bool Keep(string channel, LocalDate day) => definitions.Exists(d => d.KeepsEvents(channel, day));
}
