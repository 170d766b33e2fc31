using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Covered">Containers of the caller's remit that the definition in force covers today; those of the draft
/// before there is one.</param>
/// <param name="KeptCopies">Copies in safekeeping of items that users deleted, and their bytes: storage kept though
/// nobody sees it.</param>
public sealed record BlanketView(
    long Id,
    string Name,
    long UnitId,
    string Unit,
    BlanketState State,
    BlanketDefinition? InForce,
    BlanketDefinition? Draft,
    string? DraftBy,
    Instant? DraftAt,
    int Version,
    string Rule,
    IReadOnlyList<ContainerName> Covered,
    long Items,
    long Bytes,
    long Due,
    Tally KeptCopies,
    bool MayWrite,
    long Revision
) : IRevised;

public sealed record NewBlanket(string Name, long UnitId, BlanketDefinition Draft);

/// <summary>The consequences of a blanket's draft, with the containers that it would cover.</summary>
/// <param name="SecondPerson">Why another person must agree, or null.</param>
public sealed record BlanketConsequences(
    ConsequencesView Consequences,
    IReadOnlyList<ContainerName> Covered,
    string? SecondPerson
);

public static class BlanketEndpoints
{
    public static void MapBlankets(this IEndpointRouteBuilder api)
    {
        api.MapGet("/blankets", List).Requires(Right.ReadSchedule);
        api.MapPost("/blankets", Create).Requires(Right.WriteSchedule);
        api.MapGet("/blankets/{id:long}", Show).Requires(Right.ReadSchedule);
        api.MapPut("/blankets/{id:long}/draft", SaveDraft).Requires(Right.WriteSchedule);
        api.MapDelete("/blankets/{id:long}/draft", DropDraft).Requires(Right.WriteSchedule);
        api.MapDelete("/blankets/{id:long}", DropBlanket).Requires(Right.WriteSchedule);
        api.MapPost("/blankets/{id:long}/consequences", Consequences).Requires(Right.WriteSchedule);
        api.MapPost("/blankets/{id:long}/consequences/{group}", ConsequencesGroup).Requires(Right.WriteSchedule);
        api.MapPost("/blankets/{id:long}/activation", Activate).Requires(Right.WriteSchedule);
        api.MapPost("/blankets/{id:long}/retirement/consequences", RetirementConsequences)
            .Requires(Right.WriteSchedule);
        api.MapPost("/blankets/{id:long}/retirement/consequences/{group}", RetirementGroup)
            .Requires(Right.WriteSchedule);
        api.MapPost("/blankets/{id:long}/retirement", Retire).Requires(Right.WriteSchedule);
    }

    private static async Task<Reply<IReadOnlyList<BlanketView>>> List(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var ids = (await db.Blankets.AsNoTracking().OrderBy(b => b.Name).ToListAsync(cancel))
            .Where(b => caller.MaySee(Right.ReadSchedule, b.UnitId))
            .Select(b => b.Id)
            .ToList();
        return (Outcome<IReadOnlyList<BlanketView>>)await ViewsAsync(ids, caller, db, calendar, cancel);
    }

    private static async Task<Reply<BlanketView>> Show(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) => await ViewAsync(id, caller, db, calendar, cancel);

    private static async Task<Outcome<BlanketView>> ViewAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await db.Blankets.AsNoTracking().SingleOrDefaultAsync(b => b.Id == id, cancel) is { } blanket
        && caller.MaySee(Right.ReadSchedule, blanket.UnitId)
            ? (await ViewsAsync([id], caller, db, calendar, cancel))[0]
            : Problems.NotFound("blanket");

    private static async Task<List<BlanketView>> ViewsAsync(
        IReadOnlyCollection<long> ids,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var blankets = await db
            .Blankets.AsNoTracking()
            .Include(b => b.Unit)
            .Where(b => ids.Contains(b.Id))
            .OrderBy(b => b.Name)
            .ToListAsync(cancel);
        var containers = await Ruling.ContainersAsync(db);
        var today = calendar.Today;
        var visible = caller.Units(Right.ReadContent);
        var units = await db.Containers.AsNoTracking().ToDictionaryAsync(c => c.Id, c => c.UnitId, cancel);
        List<BlanketView> views = [];
        foreach (var blanket in blankets)
        {
            var definition = (blanket.InForce ?? blanket.Draft)!;
            var covered = Covered(definition.Reach, blanket, containers, today)
                .Where(c => visible is null || visible.Contains(units[c.Id]))
                .ToList();
            var coveredIds = covered.Select(c => c.Id).ToList();
            // Where a container may be seen, so may what lies in it.
            var items = db.Items.AsNoTracking().Where(i => coveredIds.Contains(i.ContainerId) && i.DestroyedAt == null);
            var copies = items
                .Where(i => i.MissingSince != null)
                .SelectMany(i => db.ItemCopies.Where(c => c.ItemId == i.Id));
            views.Add(
                new(
                    blanket.Id,
                    blanket.Name,
                    blanket.UnitId,
                    blanket.Unit!.Name,
                    blanket.State,
                    blanket.InForce,
                    blanket.Draft,
                    blanket.DraftBy,
                    blanket.DraftAt,
                    blanket.VersionInForce,
                    RuleWords.Short(definition),
                    covered,
                    await items.LongCountAsync(cancel),
                    await items.SumAsync(i => i.Bytes, cancel),
                    await items
                        .Where(i => i.SeriesId == null && i.DisposableFrom <= today)
                        .NotHeld(db, today)
                        .LongCountAsync(cancel),
                    new(await copies.LongCountAsync(cancel), await copies.SumAsync(c => c.Bytes, cancel)),
                    caller.May(Right.WriteSchedule, blanket.UnitId),
                    blanket.Revision
                )
            );
        }

        return views;
    }

    private static List<ContainerName> Covered(
        ReachDefinition reach,
        Blanket blanket,
        IReadOnlyList<CoveredContainer> containers,
        LocalDate today
    )
    {
        var ids = Ruling.Reached(reach, blanket.Unit!.Path, containers, today);
        return [.. containers.Where(c => ids.Contains(c.Id)).Select(c => new ContainerName(c.Id, c.Name))];
    }

    private static async Task<Reply<BlanketView>> Create(NewBlanket request, [AsParameters] ApiContext context)
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Trim().Length > BlanketDefinition.MaxName)
        {
            return new Refusal("name-missing", "name", "A blanket needs a name of at most 100 characters.");
        }

        if (
            (
                context.Caller.Check(Right.WriteSchedule, request.UnitId, "unit")
                ?? Check(request.Draft, context.Calendar.Today)
            ) is
            { } refusal
        )
        {
            return refusal;
        }

        var created = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                var name = request.Name.Trim();
                if (await session.Db.Blankets.AnyAsync(b => b.Name == name, context.Cancel))
                {
                    return Refusal.Conflict("code-taken", "name", $"There is a blanket “{name}” already.");
                }

                var blanket = new Blanket
                {
                    Name = name,
                    UnitId = request.UnitId,
                    Draft = request.Draft,
                    DraftBy = context.Caller.Name,
                    DraftAt = session.Now,
                };
                session.Db.Blankets.Add(blanket);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record("drafted", Subject(blanket, context.Caller), after: AsJson(request.Draft));
                return blanket.Id;
            },
            context.Cancel
        );
        return created.Refused
            ? created.Refusal!
            : await ViewAsync(created.Value, context.Caller, context.Db, context.Calendar, context.Cancel);
    }

    private static async Task<Reply<BlanketView>> SaveDraft(
        long id,
        BlanketDefinition draft,
        [AsParameters] ApiContext context
    ) =>
        await ChangeAsync(
            id,
            context.Http,
            context.Caller,
            context.Writer,
            context.Db,
            context.Calendar,
            (session, blanket) =>
            {
                if (Check(draft, context.Calendar.Today) is { } wrong)
                {
                    return Task.FromResult<Refusal?>(wrong);
                }

                session.Record(
                    "drafted",
                    Subject(blanket, context.Caller),
                    AsJson(blanket.Draft ?? blanket.InForce),
                    AsJson(draft)
                );
                (blanket.Draft, blanket.DraftBy, blanket.DraftAt) = (draft, context.Caller.Name, session.Now);
                return Task.FromResult<Refusal?>(null);
            },
            context.Cancel
        );

    private static async Task<Reply<BlanketView>> DropDraft(long id, [AsParameters] ApiContext context) =>
        await ChangeAsync(
            id,
            context.Http,
            context.Caller,
            context.Writer,
            context.Db,
            context.Calendar,
            (session, blanket) =>
            {
                if (blanket.InForce is null)
                {
                    return Task.FromResult<Refusal?>(
                        new(
                            "draft-is-all",
                            null,
                            "This blanket has nothing but its draft; drop the blanket as a whole."
                        )
                    );
                }

                session.Record("draft-dropped", Subject(blanket, context.Caller), AsJson(blanket.Draft));
                (blanket.Draft, blanket.DraftBy, blanket.DraftAt) = (null, null, null);
                return Task.FromResult<Refusal?>(null);
            },
            context.Cancel
        );

    /// <summary>Drops a blanket that was never in force.</summary>
    private static async Task<Reply<Done>> DropBlanket(
        long id,
        HttpContext http,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var blanket = await session.Db.Blankets.SingleOrDefaultAsync(b => b.Id == id, cancel);
                if (blanket is null || !caller.May(Right.WriteSchedule, blanket.UnitId))
                {
                    return Problems.NotFound("blanket");
                }

                if (blanket.InForce is not null || blanket.State == BlanketState.Retired)
                {
                    return Refusal.Conflict(
                        "blanket-was-in-force",
                        null,
                        $"“{blanket.Name}” was in force: it can be retired, and its history stays."
                    );
                }

                if (Problems.CheckMatch(http, blanket.Revision) is { } stale)
                {
                    return stale;
                }

                session.Record("blanket-dropped", Subject(blanket, caller), AsJson(blanket.Draft));
                session.Db.Blankets.Remove(blanket);
                return new Done();
            },
            cancel
        );

    private static async Task<Reply<BlanketConsequences>> Consequences(
        long id,
        BlanketDefinition draft,
        [AsParameters] ApiContext context
    )
    {
        var planned = await PlanAsync(id, draft, context.Caller, context.Db, context.Calendar, context.Cancel);
        return planned.Refusal is { } refusal ? refusal : await ConsequencesAsync(planned.Value, draft, context);
    }

    private static async Task<BlanketConsequences> ConsequencesAsync(
        Plan plan,
        BlanketDefinition draft,
        ApiContext context
    )
    {
        var figures = await plan.Change.FiguresAsync(context.Db, context.Caller);
        var condition = SeriesGuard.SecondPerson(plan.Blanket, draft) ?? figures.SecondPerson;
        return new(figures with { SecondPerson = condition }, plan.Covered, condition);
    }

    private static async Task<Reply<ItemPage>> ConsequencesGroup(
        long id,
        string group,
        BlanketDefinition draft,
        string? cursor,
        [AsParameters] ApiContext context
    )
    {
        var planned = await PlanAsync(id, draft, context.Caller, context.Db, context.Calendar, context.Cancel);
        return planned.Refusal is { } refusal
            ? refusal
            : await planned.Value.Change.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);
    }

    private static Task<Reply<BlanketView>> Activate(long id, Activation request, [AsParameters] ApiContext context) =>
        PutIntoEffectAsync(id, request, retires: false, context);

    private static async Task<Reply<BlanketView>> PutIntoEffectAsync(
        long id,
        Activation request,
        bool retires,
        ApiContext context
    )
    {
        var unmatched = Problems.ReadMatch(context.Http, out var revision);
        if ((Problems.CheckWhy(request.Why) ?? unmatched) is { } wrong)
        {
            return wrong;
        }

        var done = await ActRunner.RunAsync(
            PutBlanketIntoEffectHandler.Instance,
            new(id, revision, retires, request.Why.Trim()),
            context,
            request.Why,
            request.Fingerprint ?? ""
        );
        return done.Refusal is { } refusal
            ? refusal
            : await ViewAsync(id, context.Caller, context.Db, context.Calendar, context.Cancel);
    }

    /// <summary>Makes a draft what is in force; the standings are written by whoever calls.</summary>
    /// <param name="askedById">Who asked the caller to agree; null where the caller wants it.</param>
    internal static void Adopt(
        WriteSession session,
        Blanket blanket,
        BlanketDefinition draft,
        Caller caller,
        string why,
        long? askedById = null
    )
    {
        session.Record("put-into-effect", Subject(blanket, caller), AsJson(blanket.InForce), AsJson(draft), why);
        if (blanket.InForce is null || !blanket.InForce.RulesAs(draft))
        {
            blanket.EffectById = askedById ?? caller.PersonId;
            blanket.EffectWithId = askedById is null ? null : caller.PersonId;
        }

        (blanket.InForce, blanket.Draft, blanket.DraftBy, blanket.DraftAt) = (draft, null, null, null);
        (blanket.State, blanket.VersionInForce, blanket.Revision) = (
            BlanketState.Active,
            blanket.VersionInForce + 1,
            blanket.Revision + 1
        );
    }

    private static async Task<Reply<ConsequencesView>> RetirementConsequences(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        await PlanAsync(id, null, caller, db, calendar, cancel) is var plan && plan.Refusal is { } refusal
            ? refusal
            : (Outcome<ConsequencesView>)await plan.Value.Change.FiguresAsync(db, caller);

    private static async Task<Reply<ItemPage>> RetirementGroup(
        long id,
        string group,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await PlanAsync(id, null, context.Caller, context.Db, context.Calendar, context.Cancel) is var plan
        && plan.Refusal is { } refusal
            ? refusal
            : await plan.Value.Change.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    private static Task<Reply<BlanketView>> Retire(long id, Activation request, [AsParameters] ApiContext context) =>
        PutIntoEffectAsync(id, request, retires: true, context);

    /// <summary>What a draft, or with a null draft retirement, comes to.</summary>
    private static async Task<Outcome<Plan>> PlanAsync(
        long id,
        BlanketDefinition? draft,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var blanket = await db
            .Blankets.AsNoTracking()
            .Include(b => b.Unit)
            .SingleOrDefaultAsync(b => b.Id == id, cancel);
        return blanket is null || !caller.May(Right.WriteSchedule, blanket.UnitId) ? Problems.NotFound("blanket")
            : draft is not null && Check(draft, calendar.Today) is { } wrong ? wrong
            : await OfAsync(blanket, draft, db, calendar);
    }

    /// <summary>
    /// A draft against what is in force, for the containers that either covers; a null draft takes the blanket away.
    /// </summary>
    internal static async Task<Plan> OfAsync(
        Blanket blanket,
        BlanketDefinition? draft,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        var containers = await Ruling.ContainersAsync(db);
        var unit = blanket.Unit ?? await db.Units.AsNoTracking().SingleAsync(u => u.Id == blanket.UnitId);
        var before = await Ruling.LoadAsync(db, calendar.Evaluator);
        var after = draft is null ? [] : Ruling.Reached(draft.Reach, unit.Path, containers, calendar.Today);
        var was =
            blanket.State == BlanketState.Active
                ? Ruling.Reached(blanket.InForce!.Reach, unit.Path, containers, calendar.Today)
                : [];
        var reach = JsonSerializer.Serialize(was.Union(after));
        return new(
            blanket,
            new(
                before,
                before.WithBlanket(blanket.Name, draft?.Check(blanket.Name).Value, after),
                "i.ContainerId IN (SELECT value FROM json_each($reach))",
                c => c.Parameters.AddWithValue("$reach", reach)
            ),
            [.. containers.Where(c => after.Contains(c.Id)).Select(c => new ContainerName(c.Id, c.Name))]
        );
    }

    private static Refusal? Check(BlanketDefinition draft, LocalDate today) =>
        draft.Reach is null
            ? new("reach-missing", "reach", "A blanket covers containers: list them, or write a query that finds them.")
            : draft.Check("").Refusal ?? draft.Reach.Check(today).Refusal;

    private static async Task<Reply<BlanketView>> ChangeAsync(
        long id,
        HttpContext http,
        Caller caller,
        Writer writer,
        WideKeelDb db,
        OrganisationCalendar calendar,
        Func<WriteSession, Blanket, Task<Refusal?>> change,
        CancellationToken cancel
    )
    {
        var done = await writer.RunAsync<bool>(
            caller.Actor,
            async session =>
            {
                var blanket = await session
                    .Db.Blankets.Include(b => b.Unit)
                    .SingleOrDefaultAsync(b => b.Id == id, cancel);
                if (blanket is null || !caller.MaySee(Right.ReadSchedule, blanket.UnitId))
                {
                    return Problems.NotFound("blanket");
                }

                if (!caller.May(Right.WriteSchedule, blanket.UnitId))
                {
                    return Refusal.Forbidden(
                        "not-allowed",
                        null,
                        "This blanket belongs to a part of the organisation above yours; it rules you, but you do not write it."
                    );
                }

                if (blanket.State == BlanketState.Retired)
                {
                    return Refusal.Conflict("blanket-retired", null, $"“{blanket.Name}” is retired. Lay another one.");
                }

                var revision = blanket.Revision;
                if ((Problems.CheckMatch(http, revision) ?? await change(session, blanket)) is { } refusal)
                {
                    return refusal;
                }

                blanket.Revision = revision + 1;
                await session.Db.SaveChangesAsync(cancel);
                await ProposalBook.CloseOvertakenAsync(session, caller, calendar, cancel);
                return true;
            },
            cancel
        );
        return done.Refused ? done.Refusal! : await ViewAsync(id, caller, db, calendar, cancel);
    }

    internal static LedgerSubject Subject(Blanket blanket, Caller caller) =>
        new("blanket", blanket.Id.ToString(CultureInfo.InvariantCulture), caller.PathOf(blanket.UnitId).Value);

    internal static JsonNode? AsJson(BlanketDefinition? definition) =>
        JsonSerializer.SerializeToNode(definition, Json.Options);

    internal sealed record Plan(Blanket Blanket, RuleChange Change, IReadOnlyList<ContainerName> Covered);
}
