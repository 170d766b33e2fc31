using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Jobs;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <param name="AlsoHeld">Of its items: those that another order keeps too.</param>
/// <param name="DueButFor">Of its items: those that would be due today but for holds.</param>
/// <param name="Releasing">Released, with the delay still running.</param>
/// <param name="PlacesChanged">Its custodians' places are others now than when it came into force.</param>
public sealed record OrderView(
    long Id,
    int Number,
    string Name,
    OrderState State,
    HoldDefinition? InForce,
    HoldDefinition? Draft,
    Instant? InForceAt,
    string? InForceBy,
    bool Applying,
    Instant? ReleasedAt,
    Tally Held,
    long Containers,
    long AlsoHeld,
    long DueButFor,
    long Pinned,
    long Releasing,
    bool PlacesChanged,
    long Revision
) : IRevised;

public sealed record NewOrder(string Name, HoldDefinition Definition);

public sealed record OrderDraft(string Name, HoldDefinition Definition);

/// <summary>What putting a draft into force would do.</summary>
/// <param name="Newly">Found, and not kept by this order yet.</param>
/// <param name="Leaving">Kept by this order now and not found by the draft: they leave only by a release.</param>
/// <param name="OnDocket">Of those found: lying in a batch, which drop out when it is carried out.</param>
public sealed record OrderConsequences(
    Tally Found,
    Tally Newly,
    long AlsoHeld,
    long DueToday,
    long OnDocket,
    Tally Leaving,
    IReadOnlyList<PlaceFigures> ByContainer,
    string Fingerprint
)
{
    /// <summary>What is odd about the days of the draft; null where nothing is.</summary>
    public string? Remark { get; init; }
}

public sealed record PuttingInForce(string Fingerprint, string Why);

/// <summary>Items by their ids, or by the same selection as any list of content.</summary>
public sealed record Pinning(IReadOnlyList<long>? Items, ItemQuery? Selection, string Why);

/// <summary>An order to which the caller may pin items.</summary>
public sealed record OpenOrder(
    long MatterId,
    string Matter,
    string MatterName,
    long OrderId,
    int Number,
    string Name,
    long Revision
);

/// <summary>Hold orders: written as drafts, counted, put in force, pinned to.</summary>
public static class OrderEndpoints
{
    private const int MostRows = 200;
    private const int MostPinned = 5_000;
    private const string Own =
        "EXISTS (SELECT 1 FROM hold_item h WHERE h.ItemId = i.Id AND h.OrderId = $order AND h.Until IS NULL)";
    private const string Other =
        $"EXISTS (SELECT 1 FROM hold_item h WHERE h.ItemId = i.Id AND h.OrderId <> $order AND {Holds.OnSql})";

    /// <summary>The items behind each figure of the consequences, over <c>i</c>.</summary>
    private static readonly Dictionary<string, string> Groups = new()
    {
        ["found"] = FormerVersions.Fits,
        ["newly"] = $"{FormerVersions.Fits} AND NOT {Own}",
        ["alsoHeld"] = $"{FormerVersions.Fits} AND {Other}",
        ["dueToday"] = FormerVersions.Fits + " AND i.DisposableFrom <= $today",
        ["onDocket"] = FormerVersions.Fits + " AND i.BatchId IS NOT NULL",
        ["leaving"] =
            "i.Id IN (SELECT ItemId FROM hold_item WHERE OrderId = $order AND Until IS NULL AND NOT Pinned) AND NOT "
            + FormerVersions.Fits,
    };

    public static void MapHoldOrders(this IEndpointRouteBuilder api)
    {
        api.MapGet("/hold-orders", Open).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders", Add).RequiresSignIn();
        api.MapPut("/matters/{id:long}/orders/{order:long}/draft", SaveDraft).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/orders/{order:long}/draft", DropDraft).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/consequences", Consequences).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/consequences/{group}", Group).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/activation", Activate).RequiresSignIn();
        api.MapGet("/matters/{id:long}/orders/{order:long}/items", Items).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/pins", Pin).RequiresSignIn();
    }

    /// <param name="Also">Items that another order holds too.</param>
    /// <param name="Leaving">Items that were released and whose delay runs.</param>
    private sealed record OrderFigures(Tally Held, long Containers, long Due, long Pinned, long Also, long Leaving);

    /// <param name="today">By its number.</param>
    private static async Task<OrderFigures> FiguresAsync(
        SqliteConnection connection,
        long order,
        int today,
        CancellationToken cancel
    )
    {
        using var command = connection.CreateCommand();
        command.CommandText = """
            SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0), COUNT(DISTINCT i.ContainerId),
                COALESCE(SUM(i.DisposableFrom <= $today), 0), COALESCE(SUM(h.Pinned), 0),
                COALESCE(SUM(EXISTS (SELECT 1 FROM hold_item x WHERE x.ItemId = h.ItemId
                    AND x.OrderId <> h.OrderId AND (x.Until IS NULL OR x.Until >= $today))), 0),
                (SELECT COUNT(*) FROM hold_item l WHERE l.OrderId = $order AND l.Until >= $today)
            FROM hold_item h JOIN item i ON i.Id = h.ItemId WHERE h.OrderId = $order AND h.Until IS NULL
            """;
        command.Parameters.AddWithValue("$order", order);
        command.Parameters.AddWithValue("$today", today);
        using var reader = await command.ExecuteReaderAsync(cancel);
        reader.Read();
        return new(
            new(reader.GetInt64(0), reader.GetInt64(1)),
            reader.GetInt64(2),
            reader.GetInt64(3),
            reader.GetInt64(4),
            reader.GetInt64(5),
            reader.GetInt64(6)
        );
    }

    internal static async Task<List<OrderView>> ViewsAsync(
        long matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var orders = await db
            .HoldOrders.AsNoTracking()
            .Where(o => o.MatterId == matter)
            .OrderBy(o => o.Number)
            .ToListAsync(cancel);
        await db.Database.OpenConnectionAsync(cancel);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        List<OrderView> views = [];
        foreach (var order in orders)
        {
            var figures = await FiguresAsync(connection, order.Id, calendar.Today.ToDayNumber(), cancel);
            views.Add(
                new(
                    order.Id,
                    order.Number,
                    order.Name,
                    order.State,
                    order.InForce,
                    order.Draft,
                    order.InForceAt,
                    order.InForceBy,
                    order is { State: OrderState.InForce, AppliedAt: null },
                    order.ReleasedAt,
                    figures.Held,
                    figures.Containers,
                    figures.Also,
                    figures.Due,
                    figures.Pinned,
                    figures.Leaving,
                    order.State == OrderState.InForce && await PlacesChangedAsync(order, db, cancel),
                    order.Revision
                )
            );
        }

        return views;
    }

    private static async Task<bool> PlacesChangedAsync(HoldOrder order, WideKeelDb db, CancellationToken cancel)
    {
        var (containers, names) = await HoldReach.OfAsync(order.InForce!, db, cancel);
        return !(containers ?? []).SequenceEqual(order.Containers ?? [])
            || !names.Order(StringComparer.Ordinal).SequenceEqual(order.Names.Order(StringComparer.Ordinal));
    }

    /// <summary>All that the matter keeps; an item that several of its orders keep counts once.</summary>
    internal static async Task<Tally> HeldAsync(
        long matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var today = calendar.Today;
        var held = db
            .Items.AsNoTracking()
            .Where(i =>
                db.HoldItems.Any(h =>
                    h.ItemId == i.Id
                    && (h.Until == null || h.Until >= today)
                    && db.HoldOrders.Any(o => o.Id == h.OrderId && o.MatterId == matter)
                )
            );
        return new(await held.LongCountAsync(cancel), await held.SumAsync(i => i.Bytes, cancel));
    }

    private static async Task<Reply<MatterView>> Add(long id, NewOrder request, [AsParameters] ApiContext context) =>
        await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Reviewer,
            context,
            async (session, _) =>
            {
                if (
                    (
                        SweepEndpoints.CheckName(request.Name)
                        ?? await SweepEndpoints.CheckAsync(
                            id,
                            request.Definition,
                            session.Db,
                            context.Calendar,
                            context.Cancel
                        )
                    ) is
                    { } wrong
                )
                {
                    return wrong;
                }

                var number =
                    (
                        await session
                            .Db.HoldOrders.Where(o => o.MatterId == id)
                            .MaxAsync(o => (int?)o.Number, context.Cancel)
                        ?? 0
                    ) + 1;
                session.Db.HoldOrders.Add(
                    new()
                    {
                        MatterId = id,
                        Number = number,
                        Name = request.Name.Trim(),
                        Draft = request.Definition,
                    }
                );
                session.Record(
                    "order-drafted",
                    MatterDoor.Subject(id),
                    after: SweepEndpoints.Json(request.Name, request.Definition)
                );
                return null;
            },
            changes: true
        );

    private static Task<Reply<MatterView>> SaveDraft(
        long id,
        long order,
        OrderDraft request,
        [AsParameters] ApiContext context
    ) =>
        ChangeAsync(
            id,
            order,
            MemberPart.Reviewer,
            context,
            async (session, known) =>
            {
                if (
                    (
                        SweepEndpoints.CheckName(request.Name)
                        ?? await SweepEndpoints.CheckAsync(
                            id,
                            request.Definition,
                            session.Db,
                            context.Calendar,
                            context.Cancel
                        )
                    ) is
                    { } wrong
                )
                {
                    return wrong;
                }

                if (known.State == OrderState.Released)
                {
                    return Refusal.Conflict(
                        "order-released",
                        null,
                        "This order was released. Undo the release, or write another order."
                    );
                }

                session.Record(
                    "order-drafted",
                    MatterDoor.Subject(id),
                    SweepEndpoints.Json(known.Name, (known.Draft ?? known.InForce)!),
                    SweepEndpoints.Json(request.Name, request.Definition)
                );
                (known.Name, known.Draft) = (request.Name.Trim(), request.Definition);
                return null;
            },
            changes: true
        );

    private static Task<Reply<MatterView>> DropDraft(long id, long order, [AsParameters] ApiContext context) =>
        ChangeAsync(
            id,
            order,
            MemberPart.Reviewer,
            context,
            (session, known) =>
            {
                session.Record(
                    "order-draft-dropped",
                    MatterDoor.Subject(id),
                    known.Draft is null ? null : SweepEndpoints.Json(known.Name, known.Draft)
                );
                if (known.InForce is null)
                {
                    session.Db.HoldOrders.Remove(known);
                }

                known.Draft = null;
                return Task.FromResult<Refusal?>(null);
            }
        );

    internal static Task<Reply<MatterView>> ChangeAsync(
        long id,
        long order,
        MemberPart part,
        ApiContext context,
        Func<WriteSession, HoldOrder, Task<Refusal?>> act,
        bool changes = false
    ) =>
        MatterDoor.ShowChangedAsync(
            id,
            part,
            context,
            async (session, _) =>
            {
                var known = await session.Db.HoldOrders.SingleOrDefaultAsync(
                    o => o.Id == order && o.MatterId == id,
                    context.Cancel
                );
                if (known is null)
                {
                    return Problems.NotFound("order");
                }

                if (Problems.CheckMatch(context.Http, known.Revision) is { } stale)
                {
                    return stale;
                }

                known.Revision++;
                return await act(session, known);
            },
            changes
        );

    private static async Task<Reply<OrderConsequences>> Consequences(
        long id,
        long order,
        HoldDefinition definition,
        [AsParameters] ApiContext context
    )
    {
        return await CheckDraftAsync(id, order, definition, context) is { } refusal
            ? refusal
            : await ConsequencesAsync(id, order, definition, context.Db, context);
    }

    private static async Task<Refusal?> CheckDraftAsync(
        long id,
        long order,
        HoldDefinition definition,
        ApiContext context
    ) =>
        (await MatterDoor.FindAsync(id, context.Caller, context.Db, MemberPart.Reader, context.Cancel)).Refusal
        ?? (
            await context.Db.HoldOrders.AnyAsync(o => o.Id == order && o.MatterId == id, context.Cancel)
                ? await SweepEndpoints.CheckAsync(id, definition, context.Db, context.Calendar, context.Cancel)
                : Problems.NotFound("order")
        );

    private static Tally TallyOf(
        HoldQuery query,
        SqliteConnection connection,
        string condition,
        Action<SqliteCommand> bind
    ) =>
        query
            .Rows(connection, $"SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0) FROM item i WHERE {condition}", bind)
            .Select(r => new Tally(r.GetInt64(0), r.GetInt64(1)))
            .Single();

    /// <summary>The items behind one figure of the consequences.</summary>
    /// <param name="container">Only those that lie in it.</param>
    private static async Task<Reply<ItemPage>> Group(
        long id,
        long order,
        string group,
        HoldDefinition definition,
        long? container,
        string? cursor,
        [AsParameters] ApiContext context
    )
    {
        if (await CheckDraftAsync(id, order, definition, context) is { } refusal)
        {
            return refusal;
        }

        if (!Groups.TryGetValue(group, out var condition))
        {
            return Problems.NotFound("group");
        }

        var asked = await HoldQuery.OfAsync(definition, id, context.Db, context.Calendar, context.Cancel);
        if (asked.Refusal is { } mistake)
        {
            return mistake;
        }

        var former = await FormerVersions.In(context, context.Db).IdsAsync(context.Db, asked.Value, context.Cancel);
        var connection = (SqliteConnection)context.Db.Database.GetDbConnection();
        var within = container is null ? "" : " AND i.ContainerId = $container";
        var all = TallyOf(asked.Value, connection, condition + within, Bind);
        var ids = asked
            .Value.Rows(
                connection,
                $"SELECT i.Id FROM item i WHERE i.Id > $after AND {condition}{within} ORDER BY i.Id LIMIT $limit",
                Bind
            )
            .Select(r => r.GetInt64(0))
            .ToList();
        return await PageAsync(ids, all, context.Db, context.Calendar);

        void Bind(SqliteCommand command)
        {
            command.Parameters.AddWithValue("$order", order);
            command.Parameters.AddWithValue("$former", former);
            command.Parameters.AddWithValue("$container", container ?? 0);
            command.Parameters.AddWithValue("$after", cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0);
            command.Parameters.AddWithValue("$limit", MostRows + 1);
        }
    }

    /// <param name="ids">In their order, up to one more than a page takes.</param>
    internal static async Task<ItemPage> PageAsync(
        IReadOnlyList<long> ids,
        Tally all,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var rows = await ItemEndpoints.RowsAsync([.. ids.Take(MostRows)], db, calendar);
        return new(
            [.. ids.Take(MostRows).Select(i => rows[i])],
            ids.Count > MostRows ? Cursor.Write(0L, ids[MostRows - 1]) : null,
            all.Items,
            all.Bytes
        );
    }

    internal static async Task<Outcome<OrderConsequences>> ConsequencesAsync(
        long matter,
        long order,
        HoldDefinition definition,
        WideKeelDb db,
        ApiContext context
    )
    {
        var (calendar, cancel) = (context.Calendar, context.Cancel);
        var asked = await HoldQuery.OfAsync(definition, matter, db, calendar, cancel);
        if (asked.Refusal is { } mistake)
        {
            return mistake;
        }

        var query = asked.Value;
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var former = await FormerVersions.In(context, db).IdsAsync(db, query, cancel);
        void Bind(SqliteCommand command)
        {
            command.Parameters.AddWithValue("$order", order);
            command.Parameters.AddWithValue("$former", former);
        }

        var figures = CountOf(query, connection, Bind, await CustodianEndpoints.ContainerNamesAsync(db, cancel));
        return figures with { Remark = definition.RemarkOnDates(calendar.Today), Fingerprint = FingerprintOf(figures) };
    }

    /// <summary>What a query finds, container by container, and what of it an order holds.</summary>
    private static OrderConsequences CountOf(
        HoldQuery query,
        SqliteConnection connection,
        Action<SqliteCommand> bind,
        Dictionary<long, ContainerRef> names
    )
    {
        Dictionary<long, (long Items, long Bytes)> places = [];
        Tally all = default,
            newly = default;
        long also = 0,
            due = 0,
            docket = 0;
        const string columns = $$"""
            SELECT i.ContainerId, COUNT(*), SUM(i.Bytes), SUM(NOT own), SUM(CASE WHEN own THEN 0 ELSE i.Bytes END),
                SUM(other), SUM(i.DisposableFrom <= $today), SUM(i.BatchId IS NOT NULL) FROM (
                SELECT i.ContainerId, i.Bytes, i.DisposableFrom, i.BatchId,
                    {{Own}} AS own,
                    {{Other}} AS other
                FROM item i WHERE {{FormerVersions.Fits}}) i GROUP BY 1
            """;
        foreach (var row in query.Rows(connection, columns, bind))
        {
            places[row.GetInt64(0)] = (row.GetInt64(1), row.GetInt64(2));
            all = new(all.Items + row.GetInt64(1), all.Bytes + row.GetInt64(2));
            newly = new(newly.Items + row.GetInt64(3), newly.Bytes + row.GetInt64(4));
            also += row.GetInt64(5);
            due += row.IsDBNull(6) ? 0 : row.GetInt64(6);
            docket += row.GetInt64(7);
        }

        return new(
            all,
            newly,
            also,
            due,
            docket,
            TallyOf(query, connection, Groups["leaving"], bind),
            [
                .. places
                    .OrderByDescending(p => p.Value.Items)
                    .Select(p => new PlaceFigures(p.Key, names[p.Key].Name, p.Value.Items, p.Value.Bytes)),
            ],
            ""
        );
    }

    internal static string FingerprintOf<T>(T figures) =>
        Convert.ToHexStringLower(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(figures, Json.Options)))[..16];

    /// <summary>What an order keeps leaves it by a release only; null where nothing would leave.</summary>
    private static async Task<Refusal?> NarrowerAsync(
        HoldOrder known,
        HoldDefinition definition,
        long leaving,
        ApiContext context
    ) =>
        known.State != OrderState.InForce ? null
        : known.InForce?.KeepsEventsBeyond(definition) == true
            ? Narrower("Events of a channel that this order keeps would no longer be kept.")
        // What was edited since stays held: a definition that is as wide is not stopped by what somebody wrote meanwhile.
        : !await KeepsLessAsync(known, definition, context.Db, context.Calendar.Today, context.Cancel) ? null
        : leaving > 0 ? Narrower($"{HoldQuery.Number(leaving)} items that this order keeps would no longer be found.")
        : Narrower(
            "In words, places or dates this is not as wide as what is in force: what arrives tomorrow might no longer "
                + "be kept."
        );

    private static Refusal Narrower(string why) =>
        Refusal.Conflict(
            "order-narrower",
            "definition",
            $"{why} Leaving it out is a release, with its delay and its second person."
        );

    /// <summary>
    /// Whether a definition, put in force now, would keep less than what is in force: by its form, or because places are no
    /// longer those of its custodians.
    /// </summary>
    internal static async Task<bool> KeepsLessAsync(
        HoldOrder order,
        HoldDefinition definition,
        WideKeelDb db,
        LocalDate today,
        CancellationToken cancel
    )
    {
        if (order.InForce is not { } inForce)
        {
            return false;
        }

        if (!definition.Covers(inForce, today))
        {
            return true;
        }

        var (containers, names) = await HoldReach.OfAsync(definition, db, cancel);
        if (order.Names.Except(names).Any())
        {
            // Names are looked for everywhere, also outside the unit: a whole unit does not stand for them.
            return true;
        }

        // What reaches the whole unit also reaches what is put into it tomorrow; a list of containers does not.
        return order.Containers is null
            ? containers is not null
            : order
                .Containers.Except(containers ?? (await HoldReach.LoadAsync(db, cancel)).OfUnit(order.MatterId))
                .Any();
    }

    /// <param name="fingerprint">Of the figures that the caller has looked at.</param>
    private static async Task<Refusal?> MayPutInForceAsync(
        WriteSession session,
        HoldOrder order,
        HoldDefinition definition,
        string fingerprint,
        ApiContext context
    )
    {
        var figures = await ConsequencesAsync(order.MatterId, order.Id, definition, session.Db, context);
        if (figures.Refusal is { } mistake)
        {
            return mistake;
        }

        return figures.Value.Fingerprint == fingerprint
            ? await NarrowerAsync(order, definition, figures.Value.Leaving.Items, context)
            : Refusal.Conflict(
                "consequences-changed",
                "fingerprint",
                $"The figures have changed since you looked: {HoldQuery.Number(figures.Value.Found.Items)} items "
                    + "would be held. Nothing was done; look again."
            );
    }

    private static async Task<Reply<MatterView>> Activate(
        long id,
        long order,
        PuttingInForce request,
        [AsParameters] ApiContext context
    )
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        return await ChangeAsync(
            id,
            order,
            MemberPart.Lead,
            context,
            async (session, known) =>
            {
                if (known.State == OrderState.Released || (known.Draft ?? known.InForce) is not { } definition)
                {
                    return Refusal.Conflict("no-draft", null, "There is nothing to put in force.");
                }

                if (await MayPutInForceAsync(session, known, definition, request.Fingerprint, context) is { } not)
                {
                    return not;
                }

                await PutInForceAsync(
                    session,
                    await session.Db.Matters.SingleAsync(m => m.Id == id, context.Cancel),
                    known,
                    definition,
                    context.Caller.Name,
                    context.Cancel
                );
                session.Record(
                    "order-in-force",
                    MatterDoor.Subject(id),
                    after: SweepEndpoints.Json(known.Name, definition),
                    reason: request.Why.Trim()
                );
                return null;
            },
            changes: true
        );
    }

    /// <summary>
    /// From this commit on the definition protects; the job then writes down item by item what it keeps.
    /// </summary>
    internal static async Task PutInForceAsync(
        WriteSession session,
        Matter matter,
        HoldOrder order,
        HoldDefinition definition,
        string by,
        CancellationToken cancel
    )
    {
        (order.Containers, order.Names) = await HoldReach.OfAsync(definition, session.Db, cancel);
        (order.State, order.InForce, order.Draft, order.AppliedAt, order.ReleasedAt) = (
            OrderState.InForce,
            definition,
            null,
            null,
            null
        );
        order.InForceAt ??= session.Now;
        order.InForceBy ??= by;
        await JobBoard.AddAsync(
            session,
            HoldJob.JobKind,
            order.Id,
            $"Applying order {order.Number.ToString(CultureInfo.InvariantCulture)} of {matter.Number}",
            null,
            by,
            matter.Id
        );
    }

    private static async Task<Reply<ItemPage>> Items(
        long id,
        long order,
        string? cursor,
        bool? due,
        bool? also,
        bool? pinned,
        bool? releasing,
        [AsParameters] ApiContext context
    )
    {
        if (
            !context.Caller.Matters.ContainsKey(id)
            || !await context.Db.HoldOrders.AnyAsync(o => o.Id == order && o.MatterId == id, context.Cancel)
        )
        {
            return Problems.NotFound("order");
        }

        var today = context.Calendar.Today;
        var held = context
            .Db.HoldItems.AsNoTracking()
            .Where(h => h.OrderId == order && (releasing == true ? h.Until >= today : h.Until == null));
        held = pinned == true ? held.Where(h => h.Pinned) : held;
        var items = context.Db.Items.AsNoTracking().Where(i => held.Any(h => h.ItemId == i.Id));
        items = due == true ? items.Where(i => i.DisposableFrom <= today) : items;
        items =
            also == true
                ? items.Where(i =>
                    context.Db.HoldItems.Any(h =>
                        h.ItemId == i.Id && h.OrderId != order && (h.Until == null || h.Until >= today)
                    )
                )
                : items;
        return await PageAsync(items, cursor, context);
    }

    /// <summary>One page of items by their ids, after a cursor, with the tally of all.</summary>
    internal static async Task<ItemPage> PageAsync(
        IQueryable<Store.Content.Item> items,
        string? cursor,
        ApiContext context
    )
    {
        var after = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        var ids = await items
            .Where(i => i.Id > after)
            .OrderBy(i => i.Id)
            .Select(i => i.Id)
            .Take(MostRows + 1)
            .ToListAsync(context.Cancel);
        return await PageAsync(
            ids,
            new(await items.LongCountAsync(context.Cancel), await items.SumAsync(i => i.Bytes, context.Cancel)),
            context.Db,
            context.Calendar
        );
    }

    private static async Task<Reply<IReadOnlyList<OpenOrder>>> Open(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var own = caller.Matters.Where(m => m.Value >= MemberPart.Reviewer).Select(m => m.Key).ToList();
        return (Outcome<IReadOnlyList<OpenOrder>>)
            await db
                .HoldOrders.AsNoTracking()
                .Where(o =>
                    own.Contains(o.MatterId) && o.Matter!.State == MatterState.Open && o.State == OrderState.InForce
                )
                .OrderByDescending(o => o.MatterId)
                .ThenBy(o => o.Number)
                .Select(o => new OpenOrder(
                    o.MatterId,
                    o.Matter!.Number,
                    o.Matter.Name,
                    o.Id,
                    o.Number,
                    o.Name,
                    o.Revision
                ))
                .ToListAsync(cancel);
    }

    private static async Task<List<long>> IdsOfAsync(
        Store.Content.ItemFilter filter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        await db.Database.OpenConnectionAsync(cancel);
        using var command = ((SqliteConnection)db.Database.GetDbConnection()).CreateCommand();
        command.CommandText =
            $"SELECT i.Id FROM item i WHERE i.DestroyedAt IS NULL AND {filter.Where()} ORDER BY i.Id LIMIT "
            + $"{(MostPinned + 1).ToString(CultureInfo.InvariantCulture)}";
        filter.Bind(command, calendar.Today.ToDayNumber());
        using var reader = await command.ExecuteReaderAsync(cancel);
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        return ids;
    }

    /// <summary>The items of a pinning, by id, each once.</summary>
    private static async Task<Outcome<List<long>>> ChosenAsync(Pinning request, ApiContext context)
    {
        var chosen = request.Items?.Distinct().ToList() ?? [];
        if (request.Selection is { } selection)
        {
            var filter = await selection.ToFilterAsync(context.Caller, context.Db, context.Calendar);
            if (filter.Refusal is { } mistake)
            {
                return mistake;
            }

            chosen = await IdsOfAsync(filter.Value, context.Db, context.Calendar, context.Cancel);
        }

        return chosen.Count is 0 or > MostPinned
            ? new Refusal(
                "items-missing",
                "items",
                $"Pin 1 to {MostPinned.ToString("N0", CultureInfo.InvariantCulture)} items at a time; for more, write an order."
            )
            : chosen;
    }

    /// <returns>The items that are pinned now, in their order.</returns>
    private static async Task<Outcome<List<long>>> PinAsync(
        WriteSession session,
        HoldOrder order,
        List<long> chosen,
        CancellationToken cancel
    )
    {
        if (order.State != OrderState.InForce)
        {
            return Refusal.Conflict("order-not-in-force", null, "Items are pinned to an order that is in force.");
        }

        var reach = (await HoldReach.LoadAsync(session.Db, cancel)).OfUnit(order.MatterId);
        var items = await session
            .Db.Items.AsNoTracking()
            .Where(i => chosen.Contains(i.Id) && i.DestroyedAt == null && reach.Contains(i.ContainerId))
            .Select(i => i.Id)
            .ToListAsync(cancel);
        if (items.Count != chosen.Count)
        {
            return Problems.NotFound("item");
        }

        if (
            await session.Db.BatchLines.AnyAsync(
                l => items.Contains(l.ItemId) && l.State == LineState.Destroying,
                cancel
            )
        )
        {
            return Refusal.Conflict(
                "being-destroyed",
                "items",
                "One of these is being destroyed at this moment; it was signed for before it could be held."
            );
        }

        foreach (var item in items)
        {
            using var pin = session.Command(
                "INSERT INTO hold_item (ItemId, OrderId, Pinned) VALUES ($item, $order, 1) ON CONFLICT "
                    + "(ItemId, OrderId) DO UPDATE SET Pinned = 1, Until = NULL, ReleaseId = NULL"
            );
            pin.Parameters.AddWithValue("$item", item);
            pin.Parameters.AddWithValue("$order", order.Id);
            pin.ExecuteNonQuery();
        }

        return items;
    }

    /// <summary>Holds items by hand; no change of the query takes them off again.</summary>
    private static async Task<Reply<MatterView>> Pin(
        long id,
        long order,
        Pinning request,
        [AsParameters] ApiContext context
    )
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        var chosen = await ChosenAsync(request, context);
        if (chosen.Refusal is { } unclear)
        {
            return unclear;
        }

        return await ChangeAsync(
            id,
            order,
            MemberPart.Reviewer,
            context,
            async (session, known) =>
            {
                var pinned = await PinAsync(session, known, chosen.Value, context.Cancel);
                if (pinned.Refusal is { } refused)
                {
                    return refused;
                }

                session.Record(
                    "pinned",
                    MatterDoor.Subject(id),
                    after: new JsonObject
                    {
                        ["order"] = known.Number,
                        ["items"] = new JsonArray([.. pinned.Value.Select(i => (JsonNode)i)]),
                    },
                    reason: request.Why.Trim()
                );
                await CaptureHeldJob.AskAsync(session, id, context.Caller.Name);
                return null;
            },
            changes: true
        );
    }
}
