using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Server.Notifications;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <param name="Theirs">Whether the place is the custodian's.</param>
public sealed record PlaceDecision(bool Theirs);

/// <summary>
/// Mailboxes and folders that appear after their owner has become a custodian. Orders in force that name the custodian
/// reach them from the first item on; a member decides whether they are theirs. A *no* lets nothing go: what an order
/// in force reaches leaves it by a release only.
/// </summary>
internal static class FoundPlaces
{
    /// <summary>Custodian → the places that nobody has decided about.</summary>
    /// <param name="matter">Whose custodians; null for all.</param>
    public static async Task<ILookup<long, long>> UndecidedAsync(
        WideKeelDb db,
        CancellationToken cancel,
        long? matter = null
    ) =>
        (
            await db
                .FoundPlaces.AsNoTracking()
                .Where(p => p.IsTheirs == null && (matter == null || p.Custodian!.MatterId == matter))
                .Select(p => new { p.CustodianId, p.ContainerId })
                .ToListAsync(cancel)
        ).ToLookup(p => p.CustodianId, p => p.ContainerId);

    /// <summary>Places with the name of a new custodian that whoever added them had not seen.</summary>
    public static async Task OfferUnseenAsync(
        WriteSession session,
        Custodian custodian,
        Store.People.DirectoryPerson person,
        NewCustodian request,
        ApiContext context
    )
    {
        var reach = (await HoldReach.LoadAsync(session.Db, context.Cancel)).OfUnit(custodian.MatterId).ToHashSet();
        var seen = request.Containers.Concat(request.Declined ?? []).ToHashSet();
        foreach (var container in await session.Db.Containers.AsNoTracking().ToListAsync(context.Cancel))
        {
            if (
                reach.Contains(container.Id)
                && !seen.Contains(container.Id)
                && CustodianPlaces.IsNamedAfter(container.Name, person.Name, person.Mail)
            )
            {
                session.Db.FoundPlaces.Add(
                    new()
                    {
                        CustodianId = custodian.Id,
                        ContainerId = container.Id,
                        FoundOn = context.Calendar.Today,
                    }
                );
            }
        }
    }

    /// <summary>Offers a container to the matters whose custodians' name it carries.</summary>
    public static async Task OfferAsync(
        WriteSession session,
        Container container,
        LocalDate today,
        CancellationToken cancel
    )
    {
        var custodians = await session
            .Db.Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c =>
                session.Db.Matters.Any(m =>
                    m.Id == c.MatterId && (m.State == MatterState.Open || m.State == MatterState.Closing)
                )
            )
            .ToListAsync(cancel);
        foreach (
            var custodian in custodians.Where(c =>
                CustodianPlaces.IsNamedAfter(container.Name, c.Person!.Name, c.Person.Mail)
            )
        )
        {
            session.Db.FoundPlaces.Add(
                new()
                {
                    CustodianId = custodian.Id,
                    ContainerId = container.Id,
                    FoundOn = today,
                }
            );
            await ReachAsync(session, custodian, container.Id, cancel);
            session.Record(
                "custodian-place-found",
                MatterDoor.Subject(custodian.MatterId),
                after: new JsonObject { ["person"] = custodian.Person!.Name, ["place"] = container.Name }
            );
            await TellLeadsAsync(session, custodian, container, cancel);
        }
    }

    /// <summary>Orders in force that name the custodian keep what arrives in the place.</summary>
    private static async Task ReachAsync(
        WriteSession session,
        Custodian custodian,
        long container,
        CancellationToken cancel
    )
    {
        var orders = await session
            .Db.HoldOrders.Where(o => o.MatterId == custodian.MatterId && o.State == OrderState.InForce)
            .ToListAsync(cancel);
        foreach (var order in orders.Where(o => o.InForce!.Custodians.Contains(custodian.Id)))
        {
            order.Containers = order.Containers is { } known ? [.. known.Append(container).Distinct().Order()] : null;
        }
    }

    private static async Task TellLeadsAsync(
        WriteSession session,
        Custodian custodian,
        Container container,
        CancellationToken cancel
    )
    {
        var number = await session
            .Db.Matters.Where(m => m.Id == custodian.MatterId)
            .Select(m => m.Number)
            .SingleAsync(cancel);
        foreach (
            var lead in await ReleaseEndpoints.MembersAsync(session.Db, custodian.MatterId, MemberPart.Lead, cancel)
        )
        {
            Outbox.Add(
                session,
                lead,
                MatterTexts.PlaceFound(number, custodian.Person!.Name, container.Name),
                $"/matters/{MatterDoor.Text(custodian.MatterId)}?tab=custodians",
                custodian.MatterId
            );
        }
    }

    /// <summary>Undecided places among these are the custodian's from now on.</summary>
    public static async Task TakeAsync(
        WriteSession session,
        long custodian,
        IReadOnlyList<long> places,
        CancellationToken cancel
    )
    {
        foreach (
            var found in await session
                .Db.FoundPlaces.Where(p =>
                    p.CustodianId == custodian && p.IsTheirs == null && places.Contains(p.ContainerId)
                )
                .ToListAsync(cancel)
        )
        {
            found.IsTheirs = true;
        }
    }

    public static Task<Reply<MatterView>> Decide(
        long id,
        long custodian,
        long place,
        PlaceDecision request,
        [AsParameters] ApiContext context
    ) =>
        CustodianEndpoints.OnAsync(
            id,
            custodian,
            MemberPart.Reviewer,
            context,
            changes: false,
            async (session, owner) =>
            {
                var found = await session.Db.FoundPlaces.SingleOrDefaultAsync(
                    p => p.CustodianId == custodian && p.ContainerId == place,
                    context.Cancel
                );
                if (found is null)
                {
                    return Problems.NotFound("place");
                }

                if (found.IsTheirs is { } decided)
                {
                    return Refusal.Conflict(
                        "place-decided",
                        null,
                        $"Somebody has decided: the place is {(decided ? "" : "not ")}theirs."
                    );
                }

                found.IsTheirs = request.Theirs;
                if (request.Theirs)
                {
                    owner.Containers = [.. owner.Containers.Append(place).Distinct()];
                }

                var name = await session
                    .Db.Containers.Where(c => c.Id == place)
                    .Select(c => c.Name)
                    .SingleAsync(context.Cancel);
                session.Record(
                    request.Theirs ? "custodian-place-taken" : "custodian-place-left",
                    MatterDoor.Subject(id),
                    after: new JsonObject { ["person"] = owner.Person!.Name, ["place"] = name }
                );
                return null;
            }
        );
}
