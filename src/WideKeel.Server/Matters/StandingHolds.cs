using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Matters;

/// <summary>The hold orders in force, as arriving items are matched against them.</summary>
internal static class StandingHolds
{
    /// <param name="unapplied">Only those that have not gone yet through what existed when they were put in
    /// force.</param>
    public static async Task<StandingOrders> LoadAsync(
        WideKeelDb db,
        LocalDate today,
        CancellationToken cancel,
        bool unapplied = false
    )
    {
        var orders = await db
            .HoldOrders.AsNoTracking()
            .Where(o => o.State == OrderState.InForce && (!unapplied || o.AppliedAt == null))
            .ToListAsync(cancel);
        if (orders.Count == 0)
        {
            return new([]);
        }

        var reach = await HoldReach.LoadAsync(db, cancel);
        return new([
            .. orders.Select(o =>
            {
                var condition = o.InForce!.Check(today) is { Refused: false, Value: { } compiled }
                    ? compiled.Condition
                    : null;
                return new StandingOrder(
                    o.Id,
                    reach.ContainersOf(o).ToHashSet(),
                    o.Names.ToHashSet(),
                    condition,
                    o.InForce!
                );
            }),
        ]);
    }

    /// <summary>Items as orders ask of them; everything that a query can look at is loaded.</summary>
    public static async Task<List<(Item Item, Arrival Arrival)>> ArrivalsAsync(
        WideKeelDb db,
        IReadOnlyCollection<Item> items,
        CancellationToken cancel
    )
    {
        var ids = items.Select(i => i.Id).ToList();
        var texts = await db
            .ItemTexts.AsNoTracking()
            .Where(t => ids.Contains(t.ItemId))
            .ToDictionaryAsync(t => t.ItemId, t => t.Text, cancel);
        var dates = (await db.ItemDates.AsNoTracking().Where(d => ids.Contains(d.ItemId)).ToListAsync(cancel)).ToLookup(
            d => d.ItemId
        );
        var fields = (
            await db.ItemFields.AsNoTracking().Where(f => ids.Contains(f.ItemId)).ToListAsync(cancel)
        ).ToLookup(f => f.ItemId);
        var kinds = (
            await db.ItemSensitives.AsNoTracking().Where(s => ids.Contains(s.ItemId)).ToListAsync(cancel)
        ).ToLookup(s => s.ItemId, s => s.Kind);
        var filed = await db
            .Items.AsNoTracking()
            .Where(i => ids.Contains(i.Id))
            .ToDictionaryAsync(i => i.Id, i => i.SeriesId, cancel);
        var containers = (await Store.Retention.Ruling.ContainersAsync(db)).ToDictionary(c => c.Id);
        var series = await db.Series.AsNoTracking().ToDictionaryAsync(s => s.Id, s => s.Code, cancel);
        return
        [
            .. items.Select(i =>
                (
                    i,
                    ArrivalOf(
                        i,
                        containers[i.ContainerId],
                        texts.GetValueOrDefault(i.Id),
                        filed[i.Id] is { } id ? series[id] : null,
                        [.. kinds[i.Id]],
                        [
                            .. fields[i.Id].Select(f => KeyValuePair.Create(f.Name, f.Value)),
                            .. dates[i.Id]
                                .Select(d => KeyValuePair.Create(d.Name, LocalDatePattern.Iso.Format(d.Date))),
                        ]
                    )
                )
            ),
        ];
    }

    /// <param name="series">Code of the series that it is filed under.</param>
    /// <param name="fields">Where two have one name, the later is taken.</param>
    private static Arrival ArrivalOf(
        Item item,
        CoveredContainer place,
        string? text,
        string? series,
        List<string> kinds,
        List<KeyValuePair<string, string>> fields
    ) =>
        new(
            item.ContainerId,
            item.Created,
            item.Modified,
            new QueryItem
            {
                Title = item.Title,
                Body = text,
                Author = item.Author,
                Owner = item.Owner,
                Path = item.Path,
                Type = item.Type,
                Source = place.Source,
                Container = $"{place.Source}/{place.Name}",
                Unit = place.Unit,
                Series = series,
                Created = item.Created,
                Modified = item.Modified,
                Size = item.Bytes,
                Searchable = item.Searchable.Word(),
                Sensitive = kinds,
                Fields = fields.GroupBy(f => f.Key).ToDictionary(g => g.Key, g => g.Last().Value),
            }
        );
}

/// <summary>
/// Which containers orders and sweeps reach today: those named, those of their custodians, or all of the matter's unit,
/// with those that left it while an order was in force.
/// </summary>
internal sealed class HoldReach
{
    private readonly Dictionary<long, (string UnitPath, IReadOnlyList<long> Stays)> matters;
    private readonly List<(long Id, string UnitPath)> containers;

    private HoldReach(
        Dictionary<long, (string UnitPath, IReadOnlyList<long> Stays)> matters,
        List<(long, string)> containers
    ) => (this.matters, this.containers) = (matters, containers);

    public static async Task<HoldReach> LoadAsync(WideKeelDb db, CancellationToken cancel) =>
        new(
            await db
                .Matters.AsNoTracking()
                .Select(m => new
                {
                    m.Id,
                    m.Unit!.Path,
                    m.Stays,
                })
                .ToDictionaryAsync(m => m.Id, m => (m.Path, m.Stays), cancel),
            [.. (await Store.Retention.Ruling.ContainersAsync(db)).Select(c => (c.Id, c.UnitPath))]
        );

    public IReadOnlyList<long> ContainersOf(HoldOrder order) => order.Containers ?? OfUnit(order.MatterId);

    /// <summary>All containers of the matter's unit.</summary>
    public IReadOnlyList<long> OfUnit(long matter) =>
        [
            .. containers
                .Where(c =>
                    c.UnitPath.StartsWith(matters[matter].UnitPath, StringComparison.Ordinal)
                    || matters[matter].Stays.Contains(c.Id)
                )
                .Select(c => c.Id),
        ];

    /// <summary>Whether these are all containers that there are.</summary>
    public bool IsEverywhere(IReadOnlyCollection<long> some) =>
        containers.Select(c => c.Id).ToHashSet().IsSubsetOf(some);

    /// <summary>
    /// The containers and names of a definition; one that reaches the whole unit has neither, and one of events alone has
    /// none.
    /// </summary>
    public static async Task<(IReadOnlyList<long>? Containers, IReadOnlyList<string> Names)> OfAsync(
        HoldDefinition definition,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if (definition.ReachesTheUnit)
        {
            return (null, []);
        }

        var custodians = await db
            .Custodians.AsNoTracking()
            .Include(c => c.Person)
            .Where(c => definition.Custodians.Contains(c.Id))
            .ToListAsync(cancel);
        var found = await FoundPlaces.UndecidedAsync(db, cancel);
        return (
            [
                .. definition
                    .Containers.Concat(custodians.SelectMany(c => c.Containers.Concat(found[c.Id])))
                    .Distinct()
                    .Order(),
            ],
            NamesOf(custodians)
        );
    }

    public static IReadOnlyList<string> NamesOf(IEnumerable<Custodian> custodians) =>
        [
            .. custodians
                .Where(c => c.Authored)
                .SelectMany(c => new[] { c.Person!.Name, c.Person.Mail })
                .Select(n => n.ToUpperInvariant())
                .Distinct(),
        ];
}
