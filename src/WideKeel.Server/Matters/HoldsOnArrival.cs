using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>Holds what matches an order in force, from its arrival on, whoever deletes it later.</summary>
internal sealed class HoldsOnArrival : IItemArrival
{
    public async Task ArrivedAsync(ArrivingItems arriving)
    {
        var (session, items, calendar, cancel) = arriving;
        var before = await HeldAsync(session, items, calendar.Today, cancel);
        await HoldAsync(session, items, calendar.Today, cancel);
        await AlarmAsync(session, items, before, cancel);
    }

    public Task FoundAsync(WriteSession session, Container container, LocalDate today, CancellationToken cancel) =>
        FoundPlaces.OfferAsync(session, container, today, cancel);

    /// <summary>Only where an order asks for the series.</summary>
    public async Task FiledAsync(WriteSession session, IEnumerable<long> ids, LocalDate today, CancellationToken cancel)
    {
        if (
            !await session.Db.HoldOrders.AnyAsync(o => o.State == OrderState.InForce, cancel)
            || !(await StandingHolds.LoadAsync(session.Db, today, cancel)).LooksAt(QueryIndex.Series)
        )
        {
            return;
        }

        foreach (var portion in ids.Chunk(1_000))
        {
            var items = await session.Db.Items.AsNoTracking().Where(i => portion.Contains(i.Id)).ToListAsync(cancel);
            await HoldAsync(session, items, today, cancel);
        }
    }

    private static async Task HoldAsync(
        WriteSession session,
        IReadOnlyCollection<Item> changed,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var standing = await StandingHolds.LoadAsync(session.Db, today, cancel);
        if (standing.IsEmpty)
        {
            return;
        }

        // What was held keeps being held, whatever it says now: the new content is evidence like the one before.
        HashSet<long> holding = [.. (await HeldAsync(session, changed, today, cancel)).Select(h => h.Order)];
        foreach (var (item, arrival) in await StandingHolds.ArrivalsAsync(session.Db, changed, cancel))
        {
            var orders = standing.Matching(arrival);
            HoldIndex.Hold(session, item.Id, orders);
            holding.UnionWith(orders);
        }

        foreach (
            var matter in await session
                .Db.HoldOrders.Where(o => holding.Contains(o.Id))
                .Select(o => o.MatterId)
                .Distinct()
                .OrderBy(m => m)
                .ToListAsync(cancel)
        )
        {
            await CaptureHeldJob.AskAsync(session, matter, "scan");
        }
    }

    private sealed record HeldItem(long Item, long Order, long Matter);

    private static Task<List<HeldItem>> HeldAsync(
        WriteSession session,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var ids = items.Select(i => i.Id).ToList();
        return session
            .Db.HoldItems.On(today)
            .Where(h => ids.Contains(h.ItemId))
            .Join(session.Db.HoldOrders, h => h.OrderId, o => o.Id, (h, o) => new HeldItem(h.ItemId, o.Id, o.MatterId))
            .ToListAsync(cancel);
    }

    /// <summary>The leads of a matter hear of every change of what its orders held before.</summary>
    private static async Task AlarmAsync(
        WriteSession session,
        IReadOnlyCollection<Item> changed,
        List<HeldItem> before,
        CancellationToken cancel
    )
    {
        foreach (var group in before.GroupBy(b => b.Matter).OrderBy(g => g.Key))
        {
            var items = group.Select(b => b.Item).ToHashSet();
            var matter = await session.Db.Matters.SingleAsync(m => m.Id == group.Key, cancel);
            var first = changed.First(i => items.Contains(i.Id)).Path;
            session.Record(
                "held-items-changed",
                MatterDoor.Subject(matter.Id),
                after: new JsonObject { ["items"] = items.Count, ["first"] = first }
            );
            foreach (var lead in await ReleaseEndpoints.MembersAsync(session.Db, matter.Id, MemberPart.Lead, cancel))
            {
                Outbox.Add(
                    session,
                    lead,
                    MatterTexts.HeldItemsChanged($"{matter.Number} {matter.Name}", items.Count, first),
                    $"/matters/{Wording.Id(matter.Id)}",
                    matter.Id
                );
            }
        }
    }
}

/// <summary>Asks the orders that their job has not applied yet.</summary>
internal sealed class UnappliedOrders : IUnappliedHolds
{
    public async Task<IReadOnlyCollection<long>> OverAsync(
        WideKeelDb db,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    ) => [.. (await MatchingAsync(db, items, today, cancel)).Select(m => m.Item)];

    public async Task<IReadOnlyCollection<long>> HoldAsync(
        WriteSession session,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var matching = await MatchingAsync(session.Db, items, today, cancel);
        matching.ForEach(m => HoldIndex.Hold(session, m.Item, m.Orders));
        return [.. matching.Select(m => m.Item)];
    }

    private static async Task<List<(long Item, IReadOnlyList<long> Orders)>> MatchingAsync(
        WideKeelDb db,
        IReadOnlyCollection<Item> items,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var unapplied = await StandingHolds.LoadAsync(db, today, cancel, unapplied: true);
        return unapplied.IsEmpty
            ? []
            :
            [
                .. (await StandingHolds.ArrivalsAsync(db, items, cancel))
                    .Select(a => (a.Item.Id, Orders: unapplied.Matching(a.Arrival)))
                    .Where(m => m.Orders.Count > 0),
            ];
    }
}
