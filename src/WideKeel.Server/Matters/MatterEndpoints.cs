using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Matters;
using WideKeel.Core.People;
using WideKeel.Server.Jobs;
using WideKeel.Server.Ledger;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;
using WideKeel.Store.People;

namespace WideKeel.Server.Matters;

public sealed record MatterRow(
    long Id,
    string Number,
    string Name,
    MatterKind Kind,
    MatterState State,
    string Unit,
    MemberPart Part,
    int Custodians,
    int Unacknowledged,
    int OrdersInForce,
    long Held,
    Instant OpenedAt,
    string OpenedBy
);

/// <summary>A matter that the caller is not a member of, as far as somebody who may join is told.</summary>
public sealed record OtherMatter(long Id, string Number, string Unit, MatterState State, IReadOnlyList<string> Leads);

public sealed record NewMatter(string Name, string Description, MatterKind Kind, long UnitId);

public sealed record MatterChange(
    string Name,
    string Description,
    MatterKind Kind,
    int DelayDays,
    string ControlPrefix,
    int BundleDays
);

public sealed record MemberView(long Id, string Name, bool IsGroup, MemberPart Part, bool IsYou);

/// <summary>A person, or a group of the directory; one of the two.</summary>
public sealed record NewMember(long? PersonId, long? GroupId, MemberPart Part);

/// <param name="Word">The matter's number, typed to confirm; only where it is deleted.</param>
public sealed record Stepping(MatterState State, string Why, string? Word = null);

public sealed record Joining(string Why);

/// <summary>Something of the matter with a date, for its tideline.</summary>
/// <param name="Kind"><c>opened</c>, <c>order</c>, <c>notice</c>, <c>sweep</c>, <c>bundle</c>, <c>release</c>,
/// <c>closed</c>.</param>
/// <param name="Until">Where it lasts: the day it ended; null while it lasts, or where it is a moment.</param>
public sealed record MatterMark(string Kind, Instant At, Instant? Until, string Label, long? Id);

public sealed record DeletionView(string AskedBy, string Why, bool MayAgree);

public sealed record MatterView(
    long Id,
    string Number,
    string Name,
    string Description,
    MatterKind Kind,
    MatterState State,
    long UnitId,
    string Unit,
    MemberPart Part,
    string OpenedBy,
    Instant OpenedAt,
    Instant? ClosedAt,
    int DelayDays,
    string ControlPrefix,
    long NextControl,
    int BundleDays,
    IReadOnlyList<MemberView> Members,
    IReadOnlyList<CustodianView> Custodians,
    IReadOnlyList<OrderView> Orders,
    IReadOnlyList<SweepView> Sweeps,
    IReadOnlyList<TagView> Tags,
    IReadOnlyList<NoticeView> Notices,
    IReadOnlyList<MatterBundleView> Bundles,
    IReadOnlyList<ReleaseView> Releases,
    IReadOnlyList<MatterMark> Marks,
    IReadOnlyList<string> Warnings,
    string? MayNotClose,
    DeletionView? Deletion,
    long Held,
    long HeldBytes,
    long Revision
) : IRevised;

/// <summary>Matters: opening them, who is in, from state to state.</summary>
public static class MatterEndpoints
{
    public static void MapMatters(this IEndpointRouteBuilder api)
    {
        api.MapGet("/matters", List).RequiresSignIn();
        api.MapPost("/matters", Open).Requires(Right.OpenMatters);
        api.MapGet("/matters/others", Others).Requires(Right.JoinMatters);
        api.MapPost("/matters/{id:long}/joining", Join).Requires(Right.JoinMatters);
        api.MapGet("/matters/{id:long}", Show).RequiresSignIn();
        api.MapPut("/matters/{id:long}", Change).RequiresSignIn();
        api.MapGet("/matters/{id:long}/history", History).RequiresSignIn();
        api.MapGet("/matters/{id:long}/candidates", Candidates).RequiresSignIn();
        api.MapPost("/matters/{id:long}/members", AddMember).RequiresSignIn();
        api.MapDelete("/matters/{id:long}/members/{member:long}", RemoveMember).RequiresSignIn();
        api.MapPost("/matters/{id:long}/state", Step).RequiresSignIn();
        api.MapPost("/matters/{id:long}/deletion", AgreeToDeletion).RequiresSignIn();
    }

    private static async Task<Reply<IReadOnlyList<MatterRow>>> List(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) => (Outcome<IReadOnlyList<MatterRow>>)await RowsAsync(caller, db, calendar, cancel);

    internal static async Task<List<MatterRow>> RowsAsync(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var ids = caller.Matters.Keys.ToList();
        var today = calendar.Today;
        var rows = await db
            .Matters.AsNoTracking()
            .Where(m => ids.Contains(m.Id))
            .OrderByDescending(m => m.Id)
            .Select(m => new
            {
                Matter = m,
                Unit = m.Unit!.Name,
                Custodians = db.Custodians.Count(c => c.MatterId == m.Id),
                Orders = db.HoldOrders.Count(o => o.MatterId == m.Id && o.State == OrderState.InForce),
                Held = db
                    .HoldItems.Where(h =>
                        (h.Until == null || h.Until >= today)
                        && db.HoldOrders.Any(o => o.Id == h.OrderId && o.MatterId == m.Id)
                    )
                    .Select(h => h.ItemId)
                    .Distinct()
                    .LongCount(),
            })
            .ToListAsync(cancel);
        var outstanding = (await NoticeEndpoints.LatestCopiesAsync(db, ids, cancel))
            .Where(c => c.Notice!.Kind == NoticeKind.Hold && c.AcknowledgedAt is null)
            .GroupBy(c => c.Notice!.MatterId)
            .ToDictionary(g => g.Key, g => g.Count());
        return
        [
            .. rows.Select(r => new MatterRow(
                r.Matter.Id,
                r.Matter.Number,
                r.Matter.Name,
                r.Matter.Kind,
                r.Matter.State,
                r.Unit,
                caller.Matters[r.Matter.Id],
                r.Custodians,
                outstanding.GetValueOrDefault(r.Matter.Id),
                r.Orders,
                r.Held,
                r.Matter.OpenedAt,
                r.Matter.OpenedBy
            )),
        ];
    }

    private static async Task<Reply<IReadOnlyList<OtherMatter>>> Others(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var own = caller.Matters.Keys.ToList();
        var others = await db
            .Matters.AsNoTracking()
            .Include(m => m.Unit)
            .Include(m => m.Members)
            .Where(m => !own.Contains(m.Id) && m.State != MatterState.Deleted)
            .OrderByDescending(m => m.Id)
            .ToListAsync(cancel);
        var names = await db.Users.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.DisplayName, cancel);
        return (Outcome<IReadOnlyList<OtherMatter>>)
            others
                .Where(m => caller.May(Right.JoinMatters, m.UnitId))
                .Select(m => new OtherMatter(
                    m.Id,
                    m.Number,
                    m.Unit!.Name,
                    m.State,
                    [
                        .. m
                            .Members.Where(x => x is { Part: MemberPart.Lead, PersonId: not null })
                            .Select(x => names[x.PersonId!.Value]),
                    ]
                ))
                .ToList();
    }

    private static async Task<string> NumberAsync(WideKeelDb db, int year, CancellationToken cancel)
    {
        string number;
        do
        {
            number = MatterNumber.Draw(year);
        } while (await db.Matters.AnyAsync(m => m.Number == number, cancel));

        return number;
    }

    private static async Task<Reply<MatterView>> Open(NewMatter request, [AsParameters] ApiContext context)
    {
        if (
            (
                CheckText(request.Name, request.Description)
                ?? context.Caller.Check(Right.OpenMatters, request.UnitId, "unit")
            ) is
            { } wrong
        )
        {
            return wrong;
        }

        var opened = await context.Writer.RunAsync<long>(
            context.Caller.Actor,
            async session =>
            {
                var matter = new Matter
                {
                    Id = MatterNumber.IdAfter(await session.Db.Matters.MaxAsync(m => (long?)m.Id, context.Cancel) ?? 0),
                    Number = await NumberAsync(session.Db, context.Calendar.Today.Year, context.Cancel),
                    Name = request.Name.Trim(),
                    Description = request.Description.Trim(),
                    Kind = request.Kind,
                    UnitId = request.UnitId,
                    OpenedBy = context.Caller.Name,
                    OpenedAt = session.Now,
                };
                matter.Members.Add(new() { PersonId = context.Caller.PersonId, Part = MemberPart.Lead });
                session.Db.Matters.Add(matter);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "matter-opened",
                    MatterDoor.Subject(matter.Id),
                    after: new JsonObject
                    {
                        ["number"] = matter.Number,
                        ["name"] = matter.Name,
                        ["kind"] = matter.Kind.ToString(),
                        ["unit"] = request.UnitId,
                    }
                );
                return matter.Id;
            },
            context.Cancel
        );
        if (opened.Refused)
        {
            return opened.Refusal!;
        }

        await context.Caller.RenewMattersAsync(context.Db);
        return await Show(opened.Value, context.Caller, context.Db, context.Calendar, context.Cancel);
    }

    /// <summary>Somebody who may adds themselves; everybody in the matter can read that they did.</summary>
    private static async Task<Reply<MatterView>> Join(long id, Joining request, [AsParameters] ApiContext context)
    {
        if (Problems.CheckWhy(request.Why) is { } unsaid)
        {
            return unsaid;
        }

        var joined = await context.Writer.RunAsync<bool>(
            context.Caller.Actor,
            async session =>
            {
                var matter = await session
                    .Db.Matters.Include(m => m.Members)
                    .SingleOrDefaultAsync(m => m.Id == id, context.Cancel);
                if (
                    matter is null
                    || matter.State == MatterState.Deleted
                    || !context.Caller.May(Right.JoinMatters, matter.UnitId)
                )
                {
                    return Problems.NotFound("matter");
                }

                if (matter.Members.All(m => m.PersonId != context.Caller.PersonId))
                {
                    matter.Members.Add(new() { PersonId = context.Caller.PersonId, Part = MemberPart.Lead });
                    session.Record(
                        "joined",
                        MatterDoor.Subject(id),
                        after: new JsonObject { ["person"] = context.Caller.Name, ["part"] = nameof(MemberPart.Lead) },
                        reason: request.Why.Trim()
                    );
                }

                return true;
            },
            context.Cancel
        );
        if (joined.Refused)
        {
            return joined.Refusal!;
        }

        await context.Caller.RenewMattersAsync(context.Db);
        return await Show(id, context.Caller, context.Db, context.Calendar, context.Cancel);
    }

    private static DeletionView? AskedDeletion(Matter matter, MemberPart part, Caller caller) =>
        matter.DeletionAskedBy is { } asker && matter.State == MatterState.Closed
            ? new(
                asker,
                matter.DeletionWhy ?? "",
                part == MemberPart.Lead && caller.NotSecondTo(matter.DeletionAskedById, AskedForDeletion) is null
            )
            : null;

    /// <summary>Why a matter that is being closed cannot be closed yet.</summary>
    private static async Task<string?> MayNotCloseAsync(
        Matter matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        matter.State == MatterState.Closing
            ? await MayNotAsync(matter, MatterState.Closed, db, calendar, cancel)
            : null;

    internal static async Task<Reply<MatterView>> Show(
        long id,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        if (!caller.Matters.TryGetValue(id, out var part))
        {
            return Problems.NotFound("matter");
        }

        var matter = await db
            .Matters.AsNoTracking()
            .Include(m => m.Unit)
            .Include(m => m.Members)
            .SingleAsync(m => m.Id == id, cancel);
        var custodians = await CustodianEndpoints.ViewsAsync(id, db, calendar, cancel);
        var orders = await OrderEndpoints.ViewsAsync(id, db, calendar, cancel);
        var sweeps = await SweepEndpoints.ViewsAsync(id, db, cancel);
        var notices = await NoticeEndpoints.ViewsAsync(id, db, calendar, cancel);
        var bundles = await MatterBundleEndpoints.ViewsAsync(id, db, cancel);
        var releases = await ReleaseEndpoints.ViewsAsync(id, caller, db, calendar, cancel);
        var held = await OrderEndpoints.HeldAsync(id, db, calendar, cancel);
        return new MatterView(
            id,
            matter.Number,
            matter.Name,
            matter.Description,
            matter.Kind,
            matter.State,
            matter.UnitId,
            matter.Unit!.Name,
            part,
            matter.OpenedBy,
            matter.OpenedAt,
            matter.ClosedAt,
            matter.DelayDays,
            matter.ControlPrefix,
            matter.NextControl,
            matter.BundleDays,
            await MembersOfAsync(matter, caller, db, cancel),
            custodians,
            orders,
            sweeps,
            await CodingEndpoints.TagsAsync(id, db, cancel),
            notices,
            bundles,
            releases,
            MarksOf(matter, orders, sweeps, notices, bundles, releases),
            WarningsOf(custodians, orders, calendar.Today),
            await MayNotCloseAsync(matter, db, calendar, cancel),
            AskedDeletion(matter, part, caller),
            held.Items,
            held.Bytes,
            matter.Revision
        );
    }

    private static async Task<IReadOnlyList<MemberView>> MembersOfAsync(
        Matter matter,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var people = await db.Users.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.DisplayName, cancel);
        var groups = await db.DirectoryGroups.AsNoTracking().ToDictionaryAsync(g => g.Id, g => g.Name, cancel);
        return
        [
            .. matter
                .Members.Select(m => new MemberView(
                    m.Id,
                    m.PersonId is { } person ? people[person] : groups[m.GroupId!.Value],
                    m.GroupId is not null,
                    m.Part,
                    m.PersonId == caller.PersonId
                ))
                .OrderByDescending(m => m.Part)
                .ThenBy(m => m.Name, StringComparer.OrdinalIgnoreCase),
        ];
    }

    private static string TitleOf(ReleaseView release) =>
        string.Create(
            System.Globalization.CultureInfo.InvariantCulture,
            $"Release of {release.Items:N0}{(release.State == ReleaseState.Undone ? ", undone" : "")}"
        );

    private static List<MatterMark> MarksOf(
        Matter matter,
        IReadOnlyList<OrderView> orders,
        IReadOnlyList<SweepView> sweeps,
        IReadOnlyList<NoticeView> notices,
        IReadOnlyList<MatterBundleView> bundles,
        IReadOnlyList<ReleaseView> releases
    )
    {
        List<MatterMark> marks = [new("opened", matter.OpenedAt, null, $"Opened by {matter.OpenedBy}", null)];
        marks.AddRange(
            orders
                .Where(o => o.InForceAt is not null)
                .Select(o => new MatterMark(
                    "order",
                    o.InForceAt!.Value,
                    o.ReleasedAt,
                    $"Order {o.Number}: {o.Name}",
                    o.Id
                ))
        );
        marks.AddRange(
            notices.Select(n => new MatterMark(
                "notice",
                n.IssuedAt,
                null,
                $"{(n.Kind == NoticeKind.Hold ? "Notice" : "Release notice")}, version {n.Version}",
                n.Id
            ))
        );
        marks.AddRange(
            sweeps
                .Where(s => s.Last is { State: RunState.Done })
                .Select(s => new MatterMark("sweep", s.Last!.At, null, $"Sweep “{s.Name}”", s.Id))
        );
        marks.AddRange(
            bundles
                .Where(b => b.MadeAt is not null)
                .Select(b => new MatterMark("bundle", b.MadeAt!.Value, null, $"Bundle “{b.Name}”", b.Id))
        );
        marks.AddRange(
            releases
                .Where(r => r.State is ReleaseState.Agreed or ReleaseState.Undone)
                .Select(r => new MatterMark("release", r.DecidedAt!.Value, null, TitleOf(r), r.Id))
        );
        if (matter.ClosedAt is { } closed)
        {
            marks.Add(new("closed", closed, null, "Closed", null));
        }

        return [.. marks.OrderBy(m => m.At)];
    }

    private static List<string> WarningsOf(
        IReadOnlyList<CustodianView> custodians,
        IReadOnlyList<OrderView> orders,
        LocalDate today
    ) =>
        [
            .. custodians
                .Where(c => c.LeavesOn is not null)
                .Select(c =>
                    c.LeavesOn < today
                        ? $"{c.Name} left on {Day(c.LeavesOn!.Value)}. Make sure that an order keeps their content before the account goes."
                        : $"{c.Name} leaves on {Day(c.LeavesOn!.Value)}. Their content is safe only as far as an order keeps it."
                ),
            .. custodians
                .Where(c => c.OrdersInForce == 0)
                .Select(c => $"No order in force keeps anything of {c.Name}."),
            .. custodians
                .Where(c => c.NoticeSentAt is null && c.OrdersInForce > 0)
                .Select(c => $"{c.Name} has not been notified."),
            .. orders
                .Where(o => o.PlacesChanged)
                .Select(o =>
                    $"Order {o.Number} goes by places of its custodians that have changed since; put it in force again to follow them."
                ),
        ];

    private static string Day(LocalDate date) =>
        NodaTime.Text.LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu").Format(date);

    private static JsonObject Entry(string name, MatterKind kind, int delayDays, string prefix, int bundleDays) =>
        new()
        {
            ["name"] = name,
            ["kind"] = kind.ToString(),
            ["delayDays"] = delayDays,
            ["controlPrefix"] = prefix,
            ["bundleDays"] = bundleDays,
        };

    private static async Task<Reply<MatterView>> Change(
        long id,
        MatterChange request,
        [AsParameters] ApiContext context
    )
    {
        if (CheckChange(request) is { } wrong)
        {
            return wrong;
        }

        return await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, matter) =>
            {
                if (Problems.CheckMatch(context.Http, matter.Revision) is { } stale)
                {
                    return stale;
                }

                if (await ShortensAsync(session, matter, request.DelayDays, context.Cancel) is { } shorter)
                {
                    return shorter;
                }

                session.Record(
                    "changed",
                    MatterDoor.Subject(id),
                    Entry(matter.Name, matter.Kind, matter.DelayDays, matter.ControlPrefix, matter.BundleDays),
                    Entry(request.Name, request.Kind, request.DelayDays, request.ControlPrefix, request.BundleDays)
                );
                (
                    matter.Name,
                    matter.Description,
                    matter.Kind,
                    matter.DelayDays,
                    matter.ControlPrefix,
                    matter.BundleDays
                ) = (
                    request.Name.Trim(),
                    request.Description.Trim(),
                    request.Kind,
                    request.DelayDays,
                    request.ControlPrefix,
                    request.BundleDays
                );
                matter.Revision++;
                return null;
            }
        );
    }

    private static Refusal? CheckChange(MatterChange request) =>
        CheckText(request.Name, request.Description)
        ?? (
            request.DelayDays is < 0 or > 3650 ? new("days-out-of-range", "delayDays", "The delay is 0 to 3,650 days.")
            : request.BundleDays is < 1 or > 36_500
                ? new("days-out-of-range", "bundleDays", "Bundles stay for 1 to 36,500 days.")
            : ControlNumber.CheckPrefix(request.ControlPrefix)
        );

    /// <summary>The delay protects what orders keep: while one is in force it only grows.</summary>
    private static async Task<Refusal?> ShortensAsync(
        WriteSession session,
        Matter matter,
        int days,
        CancellationToken cancel
    ) =>
        days < matter.DelayDays
        && await session.Db.HoldOrders.AnyAsync(o => o.MatterId == matter.Id && o.State == OrderState.InForce, cancel)
            ? Refusal.Conflict(
                "delay-shortened",
                "delayDays",
                $"An order of this matter is in force, and its delay is {Wording.Plural(matter.DelayDays, "day")}; it can "
                    + "be lengthened, not shortened. Release the orders first."
            )
            : null;

    private static Refusal? CheckText(string? name, string? description) =>
        string.IsNullOrWhiteSpace(name) || name.Length > 200
            ? new("name-missing", "name", "A matter needs a name of at most 200 characters.")
        : description is null || description.Length > 4_000
            ? new("description-too-long", "description", "A description has at most 4,000 characters.")
        : null;

    private static async Task<Reply<IReadOnlyList<LedgerView>>> History(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        caller.Matters.ContainsKey(id)
            ? (Outcome<IReadOnlyList<LedgerView>>)await LedgerEndpoints.HistoryAsync(db, "matter", id, cancel)
            : Problems.NotFound("matter");

    /// <summary>Who could be made a member: people who can sign in, and groups of the directory.</summary>
    private static async Task<Reply<IReadOnlyList<MemberCandidate>>> Candidates(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if ((await MatterDoor.FindAsync(id, caller, db, MemberPart.Lead, cancel)).Refusal is { } refusal)
        {
            return refusal;
        }

        var people = await db
            .Users.AsNoTracking()
            .Where(p => p.Active)
            .OrderBy(p => p.DisplayName)
            .Select(p => new MemberCandidate(p.Id, null, p.DisplayName, p.Email ?? ""))
            .ToListAsync(cancel);
        var groups = await db
            .DirectoryGroups.AsNoTracking()
            .OrderBy(g => g.Name)
            .Select(g => new MemberCandidate(null, g.Id, g.Name, "group"))
            .ToListAsync(cancel);
        return (Outcome<IReadOnlyList<MemberCandidate>>)people.Concat(groups).ToList();
    }

    private static void Put(WriteSession session, long id, NewMember request, MatterMember? known, string name)
    {
        session.Record(
            known is null ? "member-added" : "member-changed",
            MatterDoor.Subject(id),
            known is null ? null : new JsonObject { ["part"] = known.Part.ToString() },
            new JsonObject { ["member"] = name, ["part"] = request.Part.ToString() }
        );
        if (known is null)
        {
            known = new()
            {
                MatterId = id,
                PersonId = request.PersonId,
                GroupId = request.GroupId,
            };
            session.Db.MatterMembers.Add(known);
        }

        known.Part = request.Part;
    }

    private static async Task<Reply<MatterView>> AddMember(
        long id,
        NewMember request,
        [AsParameters] ApiContext context
    )
    {
        if (request.PersonId is null == request.GroupId is null)
        {
            return new Refusal("member-missing", "personId", "A member is a person or a group; one of the two.");
        }

        return await MatterDoor.ShowChangedAsync(
            id,
            MemberPart.Lead,
            context,
            async (session, matter) =>
            {
                var person = request.PersonId is { } p
                    ? await session.Db.Users.SingleOrDefaultAsync(x => x.Id == p && x.Active, context.Cancel)
                    : null;
                var group = request.GroupId is { } g
                    ? await session.Db.DirectoryGroups.SingleOrDefaultAsync(x => x.Id == g, context.Cancel)
                    : null;
                if (person is null && group is null)
                {
                    return Problems.NotFound("person or group");
                }

                var known = await session.Db.MatterMembers.SingleOrDefaultAsync(
                    m => m.MatterId == id && m.PersonId == request.PersonId && m.GroupId == request.GroupId,
                    context.Cancel
                );
                if (
                    known is { Part: MemberPart.Lead }
                    && request.Part != MemberPart.Lead
                    && await IsLastLeadAsync(session.Db, id, known.Id, context.Cancel)
                )
                {
                    return NoLead;
                }

                Put(session, id, request, known, person?.DisplayName ?? group!.Name);
                return null;
            }
        );
    }

    private static async Task<Reply<Done>> RemoveMember(
        long id,
        long member,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await MatterDoor.ChangeAsync<Done>(
            id,
            MemberPart.Lead,
            caller,
            writer,
            async (session, matter) =>
            {
                var known = await session.Db.MatterMembers.SingleOrDefaultAsync(
                    m => m.MatterId == id && m.Id == member,
                    cancel
                );
                if (known is null)
                {
                    return Problems.NotFound("member");
                }

                if (known.Part == MemberPart.Lead && await IsLastLeadAsync(session.Db, id, member, cancel))
                {
                    return NoLead;
                }

                var name = known.PersonId is { } person
                    ? await session.Db.Users.Where(p => p.Id == person).Select(p => p.DisplayName).SingleAsync(cancel)
                    : await session
                        .Db.DirectoryGroups.Where(g => g.Id == known.GroupId)
                        .Select(g => g.Name)
                        .SingleAsync(cancel);
                session.Db.MatterMembers.Remove(known);
                session.Record(
                    "member-removed",
                    MatterDoor.Subject(id),
                    new JsonObject { ["member"] = name, ["part"] = known.Part.ToString() }
                );
                return new Done();
            },
            cancel
        );

    private const string AskedForDeletion = "You asked for this; another lead must agree.";

    private static Refusal NoLead { get; } =
        Refusal.Conflict(
            "last-lead",
            null,
            "A matter keeps at least one person as its lead; otherwise nobody could ever release what it holds."
        );

    private static async Task<bool> IsLastLeadAsync(
        WideKeelDb db,
        long matter,
        long member,
        CancellationToken cancel
    ) =>
        !await db.MatterMembers.AnyAsync(
            m => m.MatterId == matter && m.Id != member && m.Part == MemberPart.Lead && m.PersonId != null,
            cancel
        );

    private static async Task<string?> MayNotAsync(
        Matter matter,
        MatterState to,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var today = calendar.Today;
        var releases = db.HoldReleases.Where(r => r.MatterId == matter.Id);
        return MatterLife.MayNot(
            matter.State,
            to,
            await db.HoldOrders.CountAsync(o => o.MatterId == matter.Id && o.State == OrderState.InForce, cancel),
            await releases.CountAsync(r => r.State == ReleaseState.Agreed && r.Through >= today, cancel),
            await releases.CountAsync(r => r.State == ReleaseState.Waiting, cancel)
        );
    }

    private static async Task<Reply<MatterView>> Step(long id, Stepping request, [AsParameters] ApiContext context)
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
                if (await MayNotAsync(matter, request.State, session.Db, context.Calendar, context.Cancel) is { } not)
                {
                    return Refusal.Conflict("matter-state", "state", not);
                }

                if (request.State == MatterState.Deleted)
                {
                    if (request.Word != matter.Number)
                    {
                        return new Refusal("word-missing", "word", $"Type {matter.Number} to ask for its deletion.");
                    }

                    (matter.DeletionAskedById, matter.DeletionAskedBy, matter.DeletionWhy) = (
                        context.Caller.PersonId,
                        context.Caller.Name,
                        request.Why.Trim()
                    );
                    session.Record("deletion-asked", MatterDoor.Subject(id), reason: request.Why.Trim());
                }
                else
                {
                    session.Record(
                        $"matter-{request.State.ToString().ToLowerInvariant()}",
                        MatterDoor.Subject(id),
                        new JsonObject { ["state"] = matter.State.ToString() },
                        new JsonObject { ["state"] = request.State.ToString() },
                        request.Why.Trim()
                    );
                    (matter.State, matter.ClosedAt) = (
                        request.State,
                        request.State == MatterState.Closed ? session.Now : null
                    );
                    (matter.DeletionAskedById, matter.DeletionAskedBy, matter.DeletionWhy) = (null, null, null);
                }

                matter.Revision++;
                return null;
            }
        );
    }

    private static Refusal? MayNotAgree(Matter matter, string? word, Caller caller) =>
        matter.State != MatterState.Closed || matter.DeletionAskedById is null
            ? Refusal.Conflict("matter-state", "state", "Nobody has asked for the deletion of this matter.")
        : caller.NotSecondTo(matter.DeletionAskedById, AskedForDeletion) is { } not
            ? Refusal.Forbidden("second-person-needed", null, not)
        : word != matter.Number ? new("word-missing", "word", $"Type {matter.Number} to agree.")
        : null;

    /// <summary>
    /// The second person's word, and the number typed again: then everything of the matter's own goes. The ledger and
    /// certificates remain.
    /// </summary>
    private static async Task<Reply<MatterView>> AgreeToDeletion(
        long id,
        Stepping request,
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
                if (MayNotAgree(matter, request.Word, context.Caller) is { } not)
                {
                    return not;
                }

                session.Record(
                    "matter-deleted",
                    MatterDoor.Subject(id),
                    new JsonObject { ["state"] = matter.State.ToString() },
                    new JsonObject { ["askedBy"] = matter.DeletionAskedBy },
                    request.Why.Trim()
                );
                matter.State = MatterState.Deleted;
                matter.Revision++;
                await JobBoard.AddAsync(
                    session,
                    DeleteMatterJob.JobKind,
                    id,
                    $"Deleting {matter.Number}",
                    null,
                    context.Caller.Name,
                    id
                );
                await session.Db.SaveChangesAsync(context.Cancel);
                return null;
            }
        );
    }
}

public sealed record MemberCandidate(long? PersonId, long? GroupId, string Name, string Note);
