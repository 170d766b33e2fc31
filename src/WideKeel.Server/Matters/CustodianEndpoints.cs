using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.Matters;

/// <param name="FoundPlaces">Carry their name, were found since, and count as theirs until somebody decides.</param>
/// <param name="Authored">What they wrote or answer for outside their places counts too.</param>
/// <param name="NoticeSentAt">The version that stands; null where they have not been told.</param>
/// <param name="DaysOutstanding">Days since it was sent, while it is not acknowledged.</param>
/// <param name="OrdersInForce">That reach something of theirs.</param>
public sealed record CustodianView(
    long Id,
    long PersonId,
    string Name,
    string Mail,
    string Unit,
    string Title,
    string? Manager,
    LocalDate? LeavesOn,
    IReadOnlyList<ContainerRef> Containers,
    IReadOnlyList<ContainerRef> FoundPlaces,
    bool Authored,
    int OrdersInForce,
    int? NoticeVersion,
    Instant? NoticeSentAt,
    Instant? OpenedAt,
    Instant? AcknowledgedAt,
    int? DaysOutstanding,
    int Reminders,
    Instant? EscalatedAt
);

public sealed record ContainerRef(long Id, string Name, string Source);

/// <summary>A person of the directory with the places that seem to be theirs.</summary>
/// <param name="AuthoredItems">Items anywhere that they wrote or answer for.</param>
public sealed record CustodianOffer(
    long PersonId,
    string Name,
    string Mail,
    string Unit,
    string Title,
    LocalDate? LeavesOn,
    bool IsCustodian,
    IReadOnlyList<PlaceOffer> Places,
    long AuthoredItems
);

/// <param name="Why">In which respect it seems to be theirs.</param>
/// <param name="Sure">It carries their name or address.</param>
public sealed record PlaceOffer(long Id, string Name, string Source, long Items, string Why, bool Sure);

/// <param name="Declined">Places with their name that were offered and not chosen. One that is neither chosen nor declined
/// counts as found: it may have appeared since the offer.</param>
public sealed record NewCustodian(
    long PersonId,
    IReadOnlyList<long> Containers,
    bool Authored,
    IReadOnlyList<long>? Declined = null
);

public sealed record CustodianChange(IReadOnlyList<long> Containers, bool Authored);

/// <summary>Whose information a matter needs, and where it lies.</summary>
public static class CustodianEndpoints
{
    private const int MostOffers = 20;

    public static void MapCustodians(this IEndpointRouteBuilder api)
    {
        api.MapGet("/matters/{id:long}/custodians/offers", Offers).RequiresSignIn();
        api.MapPost("/matters/{id:long}/custodians", Add).RequiresSignIn();
        api.MapPut("/matters/{id:long}/custodians/{custodian:long}", Change).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/custodians/{custodian:long}", Remove).RequiresSignIn();
        api.MapPut("/matters/{id:long}/custodians/{custodian:long}/found/{place:long}", FoundPlaces.Decide)
            .RequiresSignIn();
    }

    internal static async Task<List<CustodianView>> ViewsAsync(
        long matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var custodians = await db
            .Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c => c.MatterId == matter)
            .ToListAsync(cancel);
        var names = await ContainerNamesAsync(db, cancel);
        var orders = await db
            .HoldOrders.AsNoTracking()
            .Where(o => o.MatterId == matter && o.State == OrderState.InForce)
            .ToListAsync(cancel);
        var found = await FoundPlaces.UndecidedAsync(db, cancel, matter);
        var copies = (await NoticeEndpoints.LatestCopiesAsync(db, [matter], cancel)).ToDictionary(c => c.CustodianId);
        var managers = await db
            .DirectoryPeople.AsNoTracking()
            .ToDictionaryAsync(p => p.Mail.ToUpperInvariant(), p => p.Name, cancel);
        return
        [
            .. custodians
                .OrderBy(c => c.Person!.Name, StringComparer.OrdinalIgnoreCase)
                .Select(c =>
                    View(
                        c,
                        managers.GetValueOrDefault(c.Person!.Manager.ToUpperInvariant()),
                        [.. c.Containers.Select(id => names.GetValueOrDefault(id)).OfType<ContainerRef>()],
                        [.. found[c.Id].Select(id => names.GetValueOrDefault(id)).OfType<ContainerRef>()],
                        orders.Count(o => Reaches(o.InForce!, c, found[c.Id])),
                        copies.GetValueOrDefault(c.Id),
                        calendar
                    )
                ),
        ];
    }

    private static bool Reaches(HoldDefinition order, Custodian custodian, IEnumerable<long> found) =>
        order.Custodians.Contains(custodian.Id)
        || order.ReachesTheUnit
        || order.Containers.Intersect(custodian.Containers.Concat(found)).Any();

    private static CustodianView View(
        Custodian custodian,
        string? manager,
        IReadOnlyList<ContainerRef> places,
        IReadOnlyList<ContainerRef> found,
        int orders,
        NoticeCopy? copy,
        OrganisationCalendar calendar
    )
    {
        var person = custodian.Person!;
        return new(
            custodian.Id,
            person.Id,
            person.Name,
            person.Mail,
            person.Unit,
            person.Title,
            manager,
            person.LeavesOn,
            places,
            found,
            custodian.Authored,
            orders,
            copy?.Notice!.Version,
            copy?.SentAt,
            copy?.OpenedAt,
            copy?.AcknowledgedAt,
            copy is { AcknowledgedAt: null, Notice.Kind: NoticeKind.Hold }
                ? NoticeRules.Outstanding(calendar.DateOf(copy.SentAt), calendar.Today)
                : null,
            copy?.Reminders ?? 0,
            copy?.EscalatedAt
        );
    }

    internal static async Task<Dictionary<long, ContainerRef>> ContainerNamesAsync(
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await (
            from c in db.Containers.AsNoTracking()
            join s in db.Sources on c.SourceId equals s.Id
            select new ContainerRef(c.Id, c.Name, s.Name)
        ).ToDictionaryAsync(c => c.Id, cancel);

    private static async Task<Reply<IReadOnlyList<CustodianOffer>>> Offers(
        long id,
        string? words,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var found = await MatterDoor.FindAsync(id, caller, db, MemberPart.Reviewer, cancel);
        if (found.Refusal is { } refusal)
        {
            return refusal;
        }

        var people = await db
            .DirectoryPeople.AsNoTracking()
            .Found(words)
            .OrderBy(p => p.Name)
            .Take(MostOffers)
            .ToListAsync(cancel);
        var known = await db
            .Custodians.AsNoTracking()
            .Where(c => c.MatterId == id)
            .Select(c => c.PersonId)
            .ToListAsync(cancel);
        var reach = (await HoldReach.LoadAsync(db, cancel)).OfUnit(id).ToHashSet();
        var containers = (await ContainerNamesAsync(db, cancel)).Values.Where(c => reach.Contains(c.Id)).ToList();
        var totals = await db
            .Items.AsNoTracking()
            .Where(i => i.DestroyedAt == null)
            .GroupBy(i => i.ContainerId)
            .Select(g => new { g.Key, Items = g.LongCount() })
            .ToDictionaryAsync(g => g.Key, g => g.Items, cancel);
        var written = await WrittenAsync(people, db, cancel);
        return (Outcome<IReadOnlyList<CustodianOffer>>)
            people
                .Select(p =>
                    Offer(
                        p,
                        containers,
                        totals,
                        written
                            .Where(w => w.IsBy(p.Name) || w.IsBy(p.Mail))
                            .GroupBy(w => w.Container)
                            .ToDictionary(g => g.Key, g => g.Sum(w => w.Items)),
                        known.Contains(p.Id)
                    )
                )
                .ToList();
    }

    /// <summary>How many items of a container have one author and one owner.</summary>
    private sealed record Written(long Container, string? Author, string? Owner, long Items)
    {
        public bool IsBy(string name) => Author == name || Owner == name;
    }

    /// <summary>What any of these people wrote or own, read in one pass for all of them.</summary>
    private static async Task<List<Written>> WrittenAsync(
        List<DirectoryPerson> people,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var names = people.SelectMany(p => new[] { p.Name, p.Mail }).Distinct().ToList();
        // Two lists of ids, because an index leads to each.
        var theirs = db
            .Items.Where(i => names.Contains(i.Author!))
            .Select(i => i.Id)
            .Union(db.Items.Where(i => names.Contains(i.Owner!)).Select(i => i.Id));
        return await db
            .Items.AsNoTracking()
            .Where(i => i.DestroyedAt == null && theirs.Contains(i.Id))
            .GroupBy(i => new
            {
                i.ContainerId,
                i.Author,
                i.Owner,
            })
            .Select(g => new Written(g.Key.ContainerId, g.Key.Author, g.Key.Owner, g.LongCount()))
            .ToListAsync(cancel);
    }

    /// <summary>
    /// A place seems to be a person's where it carries their name or address, and where they wrote something in it.
    /// </summary>
    private static CustodianOffer Offer(
        DirectoryPerson person,
        List<ContainerRef> containers,
        Dictionary<long, long> totals,
        Dictionary<long, long> wrote,
        bool isCustodian
    )
    {
        List<PlaceOffer> places = [];
        foreach (var container in containers)
        {
            var theirs = CustodianPlaces.IsNamedAfter(container.Name, person.Name, person.Mail);
            if (theirs || wrote.ContainsKey(container.Id))
            {
                places.Add(
                    new(
                        container.Id,
                        container.Name,
                        container.Source,
                        totals.GetValueOrDefault(container.Id),
                        theirs ? "carries their name" : $"they wrote {HoldQuery.Number(wrote[container.Id])} of it",
                        theirs
                    )
                );
            }
        }

        return new(
            person.Id,
            person.Name,
            person.Mail,
            person.Unit,
            person.Title,
            person.LeavesOn,
            isCustodian,
            [.. places.OrderByDescending(p => p.Sure).ThenByDescending(p => p.Items)],
            wrote.Where(w => containers.Any(c => c.Id == w.Key)).Sum(w => w.Value)
        );
    }

    private static async Task<Reply<MatterView>> Add(long id, NewCustodian request, [AsParameters] ApiContext context)
    {
        return await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Reviewer,
            context,
            async (session, matter) =>
            {
                var person = await session.Db.DirectoryPeople.SingleOrDefaultAsync(
                    p => p.Id == request.PersonId,
                    context.Cancel
                );
                if (person is null)
                {
                    return Problems.NotFound("person");
                }

                if (
                    await session.Db.Custodians.AnyAsync(
                        c => c.MatterId == id && c.PersonId == person.Id,
                        context.Cancel
                    )
                )
                {
                    return Refusal.Conflict(
                        "custodian-known",
                        "personId",
                        $"{person.Name} is a custodian of this matter already."
                    );
                }

                if (await CheckAsync(id, request.Containers, session.Db, context.Cancel) is { } wrong)
                {
                    return wrong;
                }

                var custodian = new Custodian
                {
                    MatterId = id,
                    PersonId = person.Id,
                    Containers = request.Containers,
                    Authored = request.Authored,
                    AddedBy = context.Caller.Name,
                    AddedAt = session.Now,
                };
                session.Db.Custodians.Add(custodian);
                await session.Db.SaveChangesAsync(context.Cancel);
                await FoundPlaces.OfferUnseenAsync(session, custodian, person, request, context);
                session.Record(
                    "custodian-added",
                    MatterDoor.Subject(id),
                    after: Json(request.Containers, request.Authored, person.Name)
                );
                return null;
            },
            changes: true
        );
    }

    private static Task<Reply<MatterView>> Change(
        long id,
        long custodian,
        CustodianChange request,
        [AsParameters] ApiContext context
    ) =>
        OnAsync(
            id,
            custodian,
            MemberPart.Reviewer,
            context,
            changes: true,
            async (session, known) =>
            {
                List<long> added = [.. request.Containers.Except(known.Containers)];
                if (await CheckAsync(id, added, session.Db, context.Cancel) is { } wrong)
                {
                    return wrong;
                }

                session.Record(
                    "custodian-changed",
                    MatterDoor.Subject(id),
                    Json(known.Containers, known.Authored, known.Person!.Name),
                    Json(request.Containers, request.Authored)
                );
                (known.Containers, known.Authored) = (request.Containers, request.Authored);
                await FoundPlaces.TakeAsync(session, custodian, request.Containers, context.Cancel);
                return null;
            }
        );

    private static JsonObject Json(IEnumerable<long> containers, bool authored, string? person = null)
    {
        var said = new JsonObject
        {
            ["containers"] = new JsonArray([.. containers.Select(c => (JsonNode)c)]),
            ["authored"] = authored,
        };
        if (person is not null)
        {
            said["person"] = person;
        }

        return said;
    }

    /// <summary>A change of one custodian, who is found with their person.</summary>
    /// <param name="changes">Something new is begun, which only an open matter allows.</param>
    /// <param name="act">What is wrong with it, or null.</param>
    internal static Task<Reply<MatterView>> OnAsync(
        long id,
        long custodian,
        MemberPart part,
        ApiContext context,
        bool changes,
        Func<WriteSession, Custodian, Task<Refusal?>> act
    ) =>
        MatterDoor.ShowChangedAsync(
            id,
            part,
            context,
            async (session, _) =>
                await session
                    .Db.Custodians.Include(c => c.Person)
                    .SingleOrDefaultAsync(c => c.MatterId == id && c.Id == custodian, context.Cancel)
                    is { } known
                    ? await act(session, known)
                    : Problems.NotFound("custodian"),
            changes
        );

    private static Task<Reply<MatterView>> Remove(long id, long custodian, [AsParameters] ApiContext context) =>
        OnAsync(
            id,
            custodian,
            MemberPart.Lead,
            context,
            changes: false,
            async (session, known) =>
            {
                if (await InUseAsync(known, session.Db, context.Cancel) is { } use)
                {
                    return Refusal.Conflict("custodian-in-use", null, use);
                }

                session.Db.FoundPlaces.RemoveRange(session.Db.FoundPlaces.Where(p => p.CustodianId == custodian));
                session.Db.Custodians.Remove(known);
                session.Record(
                    "custodian-removed",
                    MatterDoor.Subject(id),
                    new JsonObject { ["person"] = known.Person!.Name }
                );
                return null;
            }
        );

    /// <summary>Why a custodian stays with the matter; null where they may leave it.</summary>
    private static async Task<string?> InUseAsync(Custodian custodian, WideKeelDb db, CancellationToken cancel)
    {
        var uses = (
            await db
                .HoldOrders.Where(o => o.MatterId == custodian.MatterId && o.State != OrderState.Released)
                .ToListAsync(cancel)
        )
            .Where(o =>
                (o.InForce?.Custodians.Contains(custodian.Id) ?? false)
                || (o.Draft?.Custodians.Contains(custodian.Id) ?? false)
            )
            .Select(o => o.Number)
            .ToList();
        var name = custodian.Person!.Name;
        return uses.Count > 0 ? $"Order {string.Join(", ", uses)} names {name}; narrow or release it first."
            : await db.NoticeCopies.AnyAsync(c => c.CustodianId == custodian.Id, cancel)
                ? $"{name} was sent a notice; the record of it stays with the matter."
            : null;
    }

    /// <summary>Places lie within the matter's unit.</summary>
    internal static async Task<Refusal?> CheckAsync(
        long matter,
        IReadOnlyList<long> containers,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var reach = (await HoldReach.LoadAsync(db, cancel)).OfUnit(matter);
        return containers.Any(c => !reach.Contains(c)) ? Problems.NotFound("container") : null;
    }
}
