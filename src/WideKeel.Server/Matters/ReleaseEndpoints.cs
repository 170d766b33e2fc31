using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Server.Retention;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <param name="Day">The first day on which what is released is no longer protected, were it agreed today.</param>
/// <param name="Containers">Names of the containers among the figures.</param>
public sealed record ReleasePreview(
    ReleaseFigures Figures,
    LocalDate Day,
    IReadOnlyList<ContainerName> Containers,
    string Fingerprint
);

/// <param name="MayDecide">The caller may agree or decline.</param>
/// <param name="MayUndo">The delay still runs, and the caller may take it back.</param>
public sealed record ReleaseView(
    long Id,
    long OrderId,
    int Order,
    HoldDefinition? Narrowed,
    string Why,
    int DelayDays,
    string AskedBy,
    Instant AskedAt,
    ReleaseState State,
    string? DecidedBy,
    Instant? DecidedAt,
    string? DecidedWhy,
    LocalDate? Through,
    long Items,
    bool MayDecide,
    bool MayUndo
);

/// <param name="Narrowed">What stays in force; null releases the whole order.</param>
public sealed record Releasing(HoldDefinition? Narrowed);

/// <param name="DelayDays">At least the matter's own.</param>
public sealed record NewRelease(HoldDefinition? Narrowed, string Why, int DelayDays, string Fingerprint);

/// <param name="Fingerprint">Of the figures that whoever agrees has seen.</param>
public sealed record ReleaseDecision(bool Agree, string Why, string? Fingerprint);

/// <summary>
/// The end of a hold: previewed to the item, asked for, agreed to by a second person, delayed, undoable while the delay
/// runs.
/// </summary>
public static class ReleaseEndpoints
{
    private const string AskedForRelease = "You asked for this release; another member must agree.";

    private const int MostRows = 200;

    public static void MapReleases(this IEndpointRouteBuilder api)
    {
        api.MapPost("/matters/{id:long}/orders/{order:long}/releases/consequences", Preview).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/releases/consequences/{group}", Group).RequiresSignIn();
        api.MapPost("/matters/{id:long}/orders/{order:long}/releases", Ask).RequiresSignIn();
        api.MapPost("/matters/{id:long}/releases/{release:long}/decision", Decide).RequiresSignIn();
        api.MapPost("/matters/{id:long}/releases/{release:long}/undoing", Undo).RequiresSignIn();
    }

    internal static async Task<List<ReleaseView>> ViewsAsync(
        long matter,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var part = caller.Matters.GetValueOrDefault(matter);
        var today = calendar.Today;
        var numbers = await db
            .HoldOrders.AsNoTracking()
            .Where(o => o.MatterId == matter)
            .ToDictionaryAsync(o => o.Id, o => o.Number, cancel);
        return
        [
            .. (
                await db
                    .HoldReleases.AsNoTracking()
                    .Where(r => r.MatterId == matter)
                    .OrderByDescending(r => r.Id)
                    .ToListAsync(cancel)
            ).Select(r => new ReleaseView(
                r.Id,
                r.OrderId,
                numbers[r.OrderId],
                r.Narrowed,
                r.Why,
                r.DelayDays,
                r.AskedBy,
                r.AskedAt,
                r.State,
                r.DecidedBy,
                r.DecidedAt,
                r.DecidedWhy,
                r.Through,
                r.Items,
                r.State == ReleaseState.Waiting
                    && part >= MemberPart.Reviewer
                    && caller.NotSecondTo(r.AskedById, AskedForRelease) is null,
                r.State == ReleaseState.Agreed && r.Through >= today && part == MemberPart.Lead
            )),
        ];
    }

    /// <summary>What would leave the order, as a condition over <c>h</c> (hold) and <c>i</c> (item).</summary>
    private sealed record Leaving(string Where, Action<SqliteCommand> Bind);

    private static async Task<Outcome<Leaving>> LeavingAsync(
        long matter,
        long order,
        HoldDefinition? narrowed,
        WideKeelDb db,
        ApiContext context
    )
    {
        var (calendar, cancel) = (context.Calendar, context.Cancel);
        await db.Database.OpenConnectionAsync(cancel);
        if (narrowed is null)
        {
            return new Leaving(
                "h.OrderId = $order AND h.Until IS NULL",
                c =>
                {
                    c.Parameters.AddWithValue("$order", order);
                    c.Parameters.AddWithValue("$today", calendar.Today.ToDayNumber());
                }
            );
        }

        if (await SweepEndpoints.CheckAsync(matter, narrowed, db, calendar, cancel) is { } wrong)
        {
            return wrong;
        }

        var query = await HoldQuery.OfAsync(narrowed, matter, db, calendar, cancel);
        if (query.Refusal is { } mistake)
        {
            return mistake;
        }

        // What fits by any content that it had while it was held stays.
        var former = await FormerVersions.In(context, db).IdsAsync(db, query.Value, cancel, order);
        var fits = FormerVersions.Fits.Replace("{where}", query.Value.Where, StringComparison.Ordinal);
        return new Leaving(
            $"h.OrderId = $order AND h.Until IS NULL AND NOT h.Pinned AND NOT {fits}",
            c =>
            {
                c.Parameters.AddWithValue("$order", order);
                c.Parameters.AddWithValue("$former", former);
                query.Value.Bind(c);
            }
        );
    }

    private static IEnumerable<(
        long Id,
        Released Becomes,
        long Container,
        long Bytes,
        bool Held,
        KeepUntil Keep,
        LocalDate? From
    )> Rows(SqliteConnection connection, Leaving leaving, LocalDate day)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"""
            SELECT i.Id, i.ContainerId, i.Bytes, i.KeepUntil, i.DisposableFrom,
                EXISTS (SELECT 1 FROM hold_item x WHERE x.ItemId = i.Id AND x.OrderId <> $order AND (x.Until IS NULL OR x.Until >= $day))
            FROM hold_item h JOIN item i ON i.Id = h.ItemId WHERE {leaving.Where}
            """;
        leaving.Bind(command);
        command.Parameters.AddWithValue("$day", day.ToDayNumber());
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            var keep = KeepUntil.FromCode(reader.IsDBNull(3) ? null : reader.GetInt32(3));
            LocalDate? from = reader.IsDBNull(4) ? null : DayNumber.ToDate(reader.GetInt32(4));
            var held = reader.GetBoolean(5);
            yield return (
                reader.GetInt64(0),
                ReleaseCount.Of(held, keep, from, day),
                reader.GetInt64(1),
                reader.GetInt64(2),
                held,
                keep,
                from
            );
        }
    }

    internal static async Task<Outcome<ReleasePreview>> PreviewAsync(
        long matter,
        long order,
        HoldDefinition? narrowed,
        int delay,
        WideKeelDb db,
        ApiContext context
    )
    {
        var leaving = await LeavingAsync(matter, order, narrowed, db, context);
        if (leaving.Refusal is { } refusal)
        {
            return refusal;
        }

        var day = context.Calendar.Today.PlusDays(delay + 1);
        var count = new ReleaseCount(day);
        foreach (var row in Rows((SqliteConnection)db.Database.GetDbConnection(), leaving.Value, day))
        {
            count.Add(row.Container, row.Bytes, row.Held, row.Keep, row.From);
        }

        var figures = count.Figures();
        var names = await CustodianEndpoints.ContainerNamesAsync(db, context.Cancel);
        return new ReleasePreview(
            figures,
            day,
            [.. figures.ByContainer.Select(c => new ContainerName(c.ContainerId, names[c.ContainerId].Name))],
            OrderEndpoints.FingerprintOf(figures)
        );
    }

    private static async Task<Outcome<HoldOrder>> OrderAsync(
        long id,
        long order,
        MemberPart part,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var found = await MatterDoor.FindAsync(id, caller, db, part, cancel);
        return found.Refusal is { } refusal ? refusal
            : await db.HoldOrders.SingleOrDefaultAsync(o => o.Id == order && o.MatterId == id, cancel) is { } known
                ? known
            : Problems.NotFound("order");
    }

    /// <summary>A refusal where a definition keeps all that is kept now and whatever would arrive: no release at all.</summary>
    private static async Task<Refusal?> NothingLeavesAsync(
        HoldOrder order,
        HoldDefinition? narrowed,
        ReleasePreview preview,
        ApiContext context
    ) =>
        narrowed is null
        || preview.Figures.All.Items > 0
        || await OrderEndpoints.KeepsLessAsync(order, narrowed, context.Db, context.Calendar.Today, context.Cancel)
            ? null
            : Refusal.Conflict(
                "nothing-leaves",
                "narrowed",
                "Nothing would leave the order; put the draft in force instead."
            );

    private static async Task<Reply<ReleasePreview>> Preview(
        long id,
        long order,
        Releasing request,
        int? delay,
        [AsParameters] ApiContext context
    )
    {
        var known = await OrderAsync(id, order, MemberPart.Reader, context.Caller, context.Db, context.Cancel);
        return known.Refusal is { } refusal
            ? refusal
            : await PreviewAsync(
                id,
                order,
                request.Narrowed,
                Math.Clamp(
                    delay
                        ?? await context
                            .Db.Matters.Where(m => m.Id == id)
                            .Select(m => m.DelayDays)
                            .SingleAsync(context.Cancel),
                    0,
                    3650
                ),
                context.Db,
                context
            );
    }

    /// <param name="group">One of <see cref="Released"/>, or <c>all</c>.</param>
    private static async Task<Reply<ItemPage>> Group(
        long id,
        long order,
        string group,
        Releasing request,
        int? delay,
        long? container,
        string? cursor,
        [AsParameters] ApiContext context
    )
    {
        var known = await OrderAsync(id, order, MemberPart.Reader, context.Caller, context.Db, context.Cancel);
        if (known.Refusal is { } refusal)
        {
            return refusal;
        }

        var becomes = Released.Free;
        if (group != "all" && !(Enum.TryParse(group, ignoreCase: true, out becomes) && Enum.IsDefined(becomes)))
        {
            return Problems.NotFound("group");
        }

        var leaving = await LeavingAsync(id, order, request.Narrowed, context.Db, context);
        if (leaving.Refusal is { } mistake)
        {
            return mistake;
        }

        var day = context.Calendar.Today.PlusDays(
            Math.Clamp(
                delay
                    ?? await context
                        .Db.Matters.Where(m => m.Id == id)
                        .Select(m => m.DelayDays)
                        .SingleAsync(context.Cancel),
                0,
                3650
            ) + 1
        );
        var after = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        var all = Rows((SqliteConnection)context.Db.Database.GetDbConnection(), leaving.Value, day)
            .Where(r => (group == "all" || r.Becomes == becomes) && (container is null || r.Container == container))
            .Select(r => (r.Id, r.Bytes))
            .OrderBy(r => r.Id)
            .ToList();
        var ids = all.Select(r => r.Id).Where(i => i > after).Take(MostRows + 1).ToList();
        return await OrderEndpoints.PageAsync(ids, new(all.Count, all.Sum(r => r.Bytes)), context.Db, context.Calendar);
    }

    /// <summary>What a release would do; refused where it is no longer what the caller has looked at.</summary>
    private static async Task<Outcome<ReleasePreview>> SeenAsync(
        WriteSession session,
        HoldRelease release,
        string? fingerprint,
        ApiContext context
    )
    {
        var preview = await PreviewAsync(
            release.MatterId,
            release.OrderId,
            release.Narrowed,
            release.DelayDays,
            session.Db,
            context
        );
        return preview.Refused || preview.Value.Fingerprint == fingerprint ? preview : Changed(preview.Value);
    }

    private static HoldRelease AskedFor(HoldOrder order, NewRelease request, Caller caller, Instant now) =>
        new()
        {
            MatterId = order.MatterId,
            OrderId = order.Id,
            Narrowed = request.Narrowed,
            Why = request.Why.Trim(),
            DelayDays = request.DelayDays,
            AskedById = caller.PersonId,
            AskedBy = caller.Name,
            AskedAt = now,
            Fingerprint = request.Fingerprint,
        };

    /// <summary>Whether a release of an order may be asked for now.</summary>
    private static async Task<Refusal?> CheckAsync(
        WriteSession session,
        Matter matter,
        HoldOrder order,
        int delayDays,
        CancellationToken cancel
    )
    {
        if (order.State != OrderState.InForce)
        {
            return Refusal.Conflict("order-not-in-force", null, "Only an order that is in force can be released.");
        }

        if (order.AppliedAt is null)
        {
            return Refusal.Conflict(
                "order-applying",
                null,
                "The order is still being applied to what exists; wait until it is done."
            );
        }

        if (delayDays < matter.DelayDays || delayDays > 3650)
        {
            return new(
                "days-out-of-range",
                "delayDays",
                $"The delay of this matter is at least {matter.DelayDays} days, and at most 3,650."
            );
        }

        return await session.Db.HoldReleases.AnyAsync(
            r => r.OrderId == order.Id && r.State == ReleaseState.Waiting,
            cancel
        )
            ? Refusal.Conflict("release-waits", null, "A release of this order waits for its second person already.")
            : null;
    }

    /// <param name="becomeDue">Items that fall due once they are released.</param>
    private static async Task AskReviewersAsync(
        WriteSession session,
        Matter matter,
        HoldRelease release,
        long becomeDue,
        ApiContext context
    )
    {
        foreach (var person in await MembersAsync(session.Db, matter.Id, MemberPart.Reviewer, context.Cancel))
        {
            if (person.Id != context.Caller.PersonId)
            {
                Outbox.Add(
                    session,
                    person,
                    MatterTexts.ReleaseAsked(matter.Number, context.Caller.Name, release.Items, becomeDue, release.Why),
                    $"/matters/{matter.Id}?tab=orders",
                    matter.Id
                );
            }
        }
    }

    private static async Task<Reply<MatterView>> Ask(
        long id,
        long order,
        NewRelease request,
        [AsParameters] ApiContext context
    )
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        return await OrderEndpoints.ChangeAsync(
            id,
            order,
            MemberPart.Lead,
            context,
            async (session, known) =>
            {
                var matter = await session.Db.Matters.SingleAsync(m => m.Id == id, context.Cancel);
                if (await CheckAsync(session, matter, known, request.DelayDays, context.Cancel) is { } not)
                {
                    return not;
                }

                var release = AskedFor(known, request, context.Caller, session.Now);
                var preview = await SeenAsync(session, release, request.Fingerprint, context);
                if (preview.Refusal is { } mistake)
                {
                    return mistake;
                }

                if (await NothingLeavesAsync(known, request.Narrowed, preview.Value, context) is { } none)
                {
                    return none;
                }

                release.Items = preview.Value.Figures.All.Items;
                session.Db.HoldReleases.Add(release);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "release-asked",
                    MatterDoor.Subject(id),
                    after: Json(known, release, preview.Value.Figures),
                    reason: release.Why
                );
                await AskReviewersAsync(session, matter, release, preview.Value.Figures.BecomeDue.Items, context);
                return null;
            }
        );
    }

    /// <summary>People of a matter with at least this part, those of its groups included.</summary>
    internal static async Task<List<Store.People.Person>> MembersAsync(
        WideKeelDb db,
        long matter,
        MemberPart part,
        CancellationToken cancel
    )
    {
        List<Store.People.Person> members = [];
        foreach (var person in await db.Users.Where(p => p.Active).ToListAsync(cancel))
        {
            if (
                (await MembershipOf.MattersAsync(db, person.Id, person.Email ?? "")).TryGetValue(matter, out var own)
                && own >= part
            )
            {
                members.Add(person);
            }
        }

        return members;
    }

    private static Refusal Changed(ReleasePreview now) =>
        Refusal.Conflict(
            "consequences-changed",
            "fingerprint",
            $"The consequences have changed since you looked: {HoldQuery.Number(now.Figures.All.Items)} items "
                + $"would be released, {HoldQuery.Number(now.Figures.BecomeDue.Items)} become due. Nothing was done; "
                + $"look again."
        );

    private static JsonObject Json(HoldOrder order, HoldRelease release, ReleaseFigures figures) =>
        new()
        {
            ["order"] = order.Number,
            ["items"] = figures.All.Items,
            ["stayHeld"] = figures.StayHeld.Items,
            ["stayKept"] = figures.StayKept.Items,
            ["becomeDue"] = figures.BecomeDue.Items,
            ["free"] = figures.Free.Items,
            ["delayDays"] = release.DelayDays,
            ["narrowed"] = release.Narrowed is null ? null : SweepEndpoints.Json(order.Name, release.Narrowed),
        };

    private static void Decline(WriteSession session, HoldOrder order, HoldRelease release)
    {
        release.State = ReleaseState.Declined;
        session.Record(
            "release-declined",
            MatterDoor.Subject(release.MatterId),
            after: new JsonObject { ["order"] = order.Number, ["askedBy"] = release.AskedBy },
            reason: release.DecidedWhy
        );
    }

    /// <summary>A release that waits for the caller's word.</summary>
    private static async Task<Outcome<HoldRelease>> WaitingAsync(
        WriteSession session,
        long id,
        long release,
        bool agree,
        ApiContext context
    )
    {
        var known = await FindAsync(session, id, release, context.Cancel);
        if (known is null)
        {
            return Problems.NotFound("release");
        }

        if (known.State != ReleaseState.Waiting)
        {
            return Refusal.Conflict("proposal-decided", null, "This release has been decided already.");
        }

        if (agree && context.Caller.NotSecondTo(known.AskedById, AskedForRelease) is { } not)
        {
            session.RecordAttempt(
                "refused-release",
                MatterDoor.Subject(id),
                "Nobody agrees to a release that they asked for."
            );
            return Refusal.Forbidden("second-person-needed", null, not);
        }

        return known;
    }

    /// <summary>Gives what leaves its last day, and the order what it asks for from now on.</summary>
    private static async Task LetGoAsync(
        WriteSession session,
        Matter matter,
        HoldOrder order,
        HoldRelease release,
        ApiContext context
    )
    {
        var leaving = (await LeavingAsync(matter.Id, order.Id, release.Narrowed, session.Db, context)).Value;
        var through = context.Calendar.Today.PlusDays(release.DelayDays);
        using (
            var update = session.Command(
                $"UPDATE hold_item SET Until = $through, ReleaseId = $release WHERE OrderId = $order AND ItemId IN "
                    + $"(SELECT h.ItemId FROM hold_item h JOIN item i ON i.Id = h.ItemId WHERE {leaving.Where})"
            )
        )
        {
            leaving.Bind(update);
            update.Parameters.AddWithValue("$through", through.ToDayNumber());
            update.Parameters.AddWithValue("$release", release.Id);
            release.Items = update.ExecuteNonQuery();
        }

        (release.State, release.Through, release.Former) = (ReleaseState.Agreed, through, order.InForce);
        order.Revision++;
        if (release.Narrowed is null)
        {
            (order.State, order.ReleasedAt, order.Draft) = (OrderState.Released, session.Now, null);
            return;
        }

        await OrderEndpoints.PutInForceAsync(
            session,
            matter,
            order,
            release.Narrowed,
            context.Caller.Name,
            context.Cancel
        );
    }

    private static async Task<Reply<MatterView>> Decide(
        long id,
        long release,
        ReleaseDecision request,
        [AsParameters] ApiContext context
    )
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        return await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Reviewer,
            context,
            async (session, matter) =>
            {
                var found = await WaitingAsync(session, id, release, request.Agree, context);
                if (found.Refusal is { } refused)
                {
                    return refused;
                }

                var known = found.Value;
                var order = await session.Db.HoldOrders.SingleAsync(o => o.Id == known.OrderId, context.Cancel);
                (known.DecidedBy, known.DecidedAt, known.DecidedWhy) = (
                    context.Caller.Name,
                    session.Now,
                    request.Why.Trim()
                );
                if (!request.Agree)
                {
                    Decline(session, order, known);
                    return null;
                }

                var preview = await SeenAsync(session, known, request.Fingerprint, context);
                if (preview.Refusal is { } mistake)
                {
                    return mistake;
                }

                await LetGoAsync(session, matter, order, known, context);
                session.Record(
                    "released",
                    MatterDoor.Subject(id),
                    after: Json(order, known, preview.Value.Figures),
                    reason: $"{known.Why} (asked by {known.AskedBy}; agreed: {request.Why.Trim()})"
                );
                return null;
            }
        );
    }

    /// <summary>Undoing puts the former definition in force; it must not take out what was added since.</summary>
    private static async Task<Refusal?> MayNotUndoAsync(
        WriteSession session,
        HoldOrder order,
        HoldRelease release,
        LocalDate today,
        CancellationToken cancel
    ) =>
        await session.Db.HoldReleases.AnyAsync(
            r => r.OrderId == order.Id && r.Id > release.Id && r.State == ReleaseState.Agreed,
            cancel
        )
            ? Refusal.Conflict("released-since", null, "The order was released further since; undo that release first.")
        : release.Narrowed is not null
        && await OrderEndpoints.KeepsLessAsync(order, release.Former!, session.Db, today, cancel)
            ? Refusal.Conflict(
                "widened-since",
                null,
                "What is in force now keeps more in some way; undoing would take that out with nobody's agreement. Put a "
                    + "definition in force that keeps both."
            )
        : null;

    private static Task<HoldRelease?> FindAsync(
        WriteSession session,
        long id,
        long release,
        CancellationToken cancel
    ) => session.Db.HoldReleases.SingleOrDefaultAsync(r => r.Id == release && r.MatterId == id, cancel);

    /// <summary>Whether a release was agreed to and its delay runs.</summary>
    private static Refusal? CheckRunning(HoldRelease? release, LocalDate today) =>
        release is null ? Problems.NotFound("release")
        : release.State == ReleaseState.Agreed && release.Through >= today ? null
        : Refusal.Conflict(
            "delay-passed",
            null,
            "The delay has passed, or the release was not agreed to; there is nothing to undo."
        );

    /// <returns>How many items are held again.</returns>
    private static Task<int> HoldAgainAsync(WriteSession session, long release, CancellationToken cancel) =>
        session
            .Db.HoldItems.Where(h => h.ReleaseId == release)
            .ExecuteUpdateAsync(
                set => set.SetProperty(h => h.Until, (LocalDate?)null).SetProperty(h => h.ReleaseId, (long?)null),
                cancel
            );

    /// <summary>
    /// While the delay runs, a release is taken back whole: everything it let go is held again, and what arrived
    /// meanwhile is looked through.
    /// </summary>
    private static async Task<Reply<MatterView>> Undo(
        long id,
        long release,
        Joining request,
        [AsParameters] ApiContext context
    )
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        return await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, matter) =>
            {
                var known = await FindAsync(session, id, release, context.Cancel);
                if (CheckRunning(known, context.Calendar.Today) is { } over)
                {
                    return over;
                }

                var order = await session.Db.HoldOrders.SingleAsync(o => o.Id == known!.OrderId, context.Cancel);
                if (await MayNotUndoAsync(session, order, known!, context.Calendar.Today, context.Cancel) is { } not)
                {
                    return not;
                }

                var back = await HoldAgainAsync(session, release, context.Cancel);
                known!.State = ReleaseState.Undone;
                order.Revision++;
                await OrderEndpoints.PutInForceAsync(
                    session,
                    matter,
                    order,
                    known.Former!,
                    context.Caller.Name,
                    context.Cancel
                );
                session.Record(
                    "release-undone",
                    MatterDoor.Subject(id),
                    after: new JsonObject { ["order"] = order.Number, ["items"] = back },
                    reason: request.Why.Trim()
                );
                return null;
            }
        );
    }
}
