using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="MatterId">The matter that it is attached to, where the caller is a member.</param>
/// <param name="Mine">The caller opened it; nobody else changes it.</param>
public sealed record InvestigationView(
    long Id,
    string Name,
    string Summary,
    string By,
    Instant OpenedAt,
    Instant? FrozenAt,
    long? MatterId,
    bool Mine,
    IReadOnlyList<PinnedEvent> Events,
    long Revision
) : IRevised;

/// <param name="Event">As it was when it was pinned.</param>
public sealed record PinnedEvent(long EventId, Instant Time, string Note, System.Text.Json.JsonElement Event);

public sealed record InvestigationRequest(string Name, string Summary);

public sealed record PinRequest(long EventId, string Note);

public sealed record MatterAttachment(long MatterId);

/// <summary>
/// A thread: from one event along its person, address, device and object to others; and what is kept of it as an
/// investigation, whose evidence can be frozen and handed over.
/// </summary>
public static class InvestigationEndpoints
{
    private const int MostHours = 31 * 24;
    private const int MostEvents = 500;
    private static readonly EventColumn[] Ways =
    [
        EventColumn.Actor,
        EventColumn.Address,
        EventColumn.Device,
        EventColumn.Object,
    ];

    public static void MapInvestigations(this IEndpointRouteBuilder api)
    {
        api.MapGet("/events/{id:long}/thread", Thread).Requires(Right.ReadActivity);
        api.MapGet("/investigations", List).Requires(Right.ReadActivity);
        api.MapPost("/investigations", Open).Requires(Right.ReadActivity);
        api.MapPut("/investigations/{id:long}", Change).Requires(Right.ReadActivity);
        api.MapPost("/investigations/{id:long}/events", Pin).Requires(Right.ReadActivity);
        api.MapDelete("/investigations/{id:long}/events/{eventId:long}", Unpin).Requires(Right.ReadActivity);
        api.MapPost("/investigations/{id:long}/freezing", Freeze).Requires(Right.ReadActivity);
        api.MapPost("/investigations/{id:long}/matter", Attach).Requires(Right.ReadActivity);
        api.MapGet("/investigations/{id:long}/file", Export).Requires(Right.ReadActivity);
    }

    /// <summary>The events along the chosen ways, within so many hours, in their order.</summary>
    /// <param name="along">Which of actor, address, device and object are followed, with commas between.</param>
    private static async Task<Reply<IReadOnlyList<EventView>>> Thread(
        long id,
        string along,
        int hours,
        [AsParameters] ApiContext context
    )
    {
        if (await EventEndpoints.FindAsync(id, context) is not { Event: var e })
        {
            return Problems.NotFound("event");
        }

        if (hours is < 1 or > MostHours)
        {
            return new Refusal("hours-malformed", "hours", $"Hours are 1 to {MostHours}.");
        }

        var named = along.Split(',', StringSplitOptions.RemoveEmptyEntries);
        if (named.FirstOrDefault(a => !Ways.Any(w => w.Name == a)) is { } unknown)
        {
            return new Refusal(
                "way-unknown",
                "along",
                $"There is no way “{unknown}”; the ways are {string.Join(", ", Ways.Select(w => w.Name))}."
            );
        }

        var asked = named
            .Select(a => Array.Find(Ways, w => w.Name == a)!)
            .Where(c => c.ValueOf(e) is not null)
            .Select(c => $"{c.Name} == {EventEndpoints.Quoted(c.ValueOf(e)!)}")
            .ToList();
        if (asked.Count == 0)
        {
            return new Refusal("way-missing", "along", "Follow at least one of actor, address, device and object.");
        }

        var span = Duration.FromHours(hours);
        var question = (
            await EventQuestion.ReadAsync(
                string.Join(" or ", asked),
                (e.Time - span).ToDateTimeOffset(),
                (e.Time + span).ToDateTimeOffset(),
                context
            )
        ).Value;
        return (Outcome<IReadOnlyList<EventView>>)
            EventStore
                .Read(
                    question.Connection,
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"{question.Where} ORDER BY ABS(e.Time - {e.Time.ToUnixTimeMilliseconds()}), e.Id LIMIT {MostEvents}"
                    ),
                    question.Bind
                )
                .OrderBy(x => x.Event.Time)
                .Select(EventEndpoints.View)
                .ToList();
    }

    /// <summary>
    /// Those that the caller opened, those attached to matters of which the caller is a member, and those attached to
    /// alerts, where the caller reads every channel that they have events of.
    /// </summary>
    /// <param name="among">Of which of all; the newest come first.</param>
    internal static async Task<List<Investigation>> VisibleAsync(IQueryable<Investigation> among, ApiContext context)
    {
        var matters = context.Caller.Matters.Keys.ToList();
        var found = await among
            .AsNoTracking()
            .Include(i => i.Events)
            .Where(i =>
                i.PersonId == context.Caller.PersonId
                || (i.MatterId != null && matters.Contains(i.MatterId.Value))
                || context.Db.InvestigationLinks.Any(l => l.InvestigationId == i.Id && l.AlertId != null)
            )
            .OrderByDescending(i => i.Id)
            .ToListAsync(context.Cancel);
        var access = await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel);
        var channels = access.Channels.Select(c => c.Name).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. found.Where(i =>
                i.PersonId == context.Caller.PersonId
                || (i.MatterId is { } matter && matters.Contains(matter))
                || (access.Units is null && i.Events.All(e => channels.Contains(ChannelOf(e))))
            ),
        ];
    }

    private static string ChannelOf(InvestigationEvent pinned) => (string)JsonNode.Parse(pinned.Body)!["channel"]!;

    private static async Task<Reply<IReadOnlyList<InvestigationView>>> List([AsParameters] ApiContext context)
    {
        var found = await VisibleAsync(context.Db.Investigations, context);
        var names = await context
            .Db.Users.AsNoTracking()
            .ToDictionaryAsync(p => p.Id, p => p.DisplayName, context.Cancel);
        return (Outcome<IReadOnlyList<InvestigationView>>)
            found
                .Select(i => new InvestigationView(
                    i.Id,
                    i.Name,
                    i.Summary,
                    names.GetValueOrDefault(i.PersonId, ""),
                    i.OpenedAt,
                    i.FrozenAt,
                    i.MatterId is { } m && context.Caller.Matters.ContainsKey(m) ? m : null,
                    i.PersonId == context.Caller.PersonId,
                    [
                        .. i
                            .Events.OrderBy(e => e.Time)
                            .Select(e => new PinnedEvent(
                                e.EventId,
                                e.Time,
                                e.Note,
                                System.Text.Json.JsonSerializer.Deserialize<System.Text.Json.JsonElement>(e.Body)
                            )),
                    ],
                    i.Version
                ))
                .ToList();
    }

    private static Refusal? Check(InvestigationRequest request) =>
        string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200 || request.Summary.Length > 10_000
            ? new("name-missing", "name", "An investigation needs a name of at most 200 characters.")
            : null;

    private static async Task<Reply<Done>> Open(InvestigationRequest request, [AsParameters] ApiContext context) =>
        Check(request) is { } refusal
            ? refusal
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    await OpenAsync(session, request, [], context);
                    return new Done();
                },
                context.Cancel
            );

    /// <summary>Opens one of the caller's own with some events pinned. Returns its id.</summary>
    internal static async Task<long> OpenAsync(
        WriteSession session,
        InvestigationRequest request,
        IReadOnlyList<StoredEvent> events,
        ApiContext context
    )
    {
        var opened = new Investigation
        {
            Name = request.Name.Trim(),
            Summary = request.Summary,
            PersonId = context.Caller.PersonId,
            OpenedAt = session.Now,
        };
        opened.Events.AddRange(events.Select(Pinned));
        session.Db.Investigations.Add(opened);
        await session.Db.SaveChangesAsync(context.Cancel);
        session.Record("opened", Subject(opened), after: new JsonObject { ["name"] = opened.Name });
        return opened.Id;
    }

    /// <summary>Opens one of a matter with events pinned, and freezes it at once.</summary>
    internal static async Task KeepAsync(
        WriteSession session,
        long matter,
        InvestigationRequest request,
        IReadOnlyList<StoredEvent> events,
        ApiContext context
    )
    {
        var id = await OpenAsync(session, request, events, context);
        var kept = await session.Db.Investigations.Include(i => i.Events).SingleAsync(i => i.Id == id, context.Cancel);
        (kept.MatterId, kept.FrozenAt) = (matter, session.Now);
        session.Record(
            "frozen",
            Subject(kept),
            after: new JsonObject { ["events"] = kept.Events.Count, ["sha256"] = HashOf(kept) }
        );
        session.Record(
            "investigation-attached",
            LedgerSubject.Of("matter", matter),
            after: new JsonObject { ["investigation"] = kept.Id, ["name"] = kept.Name }
        );
    }

    private static InvestigationEvent Pinned(StoredEvent found) =>
        new()
        {
            EventId = found.Id,
            Time = found.Event.Time,
            Body = CanonicalJson.Text(EventLine.Write(found.Event)),
        };

    private static Task<Reply<Done>> Change(long id, InvestigationRequest request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, there) =>
            {
                if (Check(request) is { } refusal)
                {
                    return Task.FromResult<Refusal?>(refusal);
                }

                session.Record(
                    "changed",
                    Subject(there),
                    new JsonObject { ["name"] = there.Name, ["summary"] = there.Summary },
                    new JsonObject { ["name"] = request.Name, ["summary"] = request.Summary }
                );
                (there.Name, there.Summary) = (request.Name.Trim(), request.Summary);
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Pin(long id, PinRequest request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, there) =>
            {
                if (await EventEndpoints.FindAsync(request.EventId, context) is not { } found)
                {
                    return Problems.NotFound("event");
                }

                var pinned = there.Events.Find(e => e.EventId == request.EventId);
                if (pinned is null)
                {
                    there.Events.Add(pinned = Pinned(found));
                }

                pinned.Note = request.Note;
                session.Record(
                    "pinned",
                    Subject(there),
                    after: new JsonObject { ["event"] = found.Event.Id, ["note"] = request.Note }
                );
                return null;
            }
        );

    private static Task<Reply<Done>> Unpin(long id, long eventId, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, there) =>
            {
                if (there.Events.RemoveAll(e => e.EventId == eventId) == 0)
                {
                    return Task.FromResult<Refusal?>(Problems.NotFound("pinned event"));
                }

                session.Record("unpinned", Subject(there), new JsonObject { ["event"] = eventId });
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Freeze(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, there) =>
            {
                if (there.Events.Count == 0)
                {
                    return Task.FromResult<Refusal?>(
                        Refusal.Conflict("nothing-pinned", null, "Pin at least one event; there is nothing to freeze.")
                    );
                }

                there.FrozenAt = session.Now;
                session.Record(
                    "frozen",
                    Subject(there),
                    after: new JsonObject { ["events"] = there.Events.Count, ["sha256"] = HashOf(there) }
                );
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static async Task<Reply<Done>> Attach(
        long id,
        MatterAttachment request,
        [AsParameters] ApiContext context
    ) =>
        !context.Caller.Matters.ContainsKey(request.MatterId)
            ? Problems.NotFound("matter")
            : await WorkAsync(
                id,
                context,
                (session, there) =>
                {
                    there.MatterId = request.MatterId;
                    session.Record(
                        "investigation-attached",
                        LedgerSubject.Of("matter", request.MatterId),
                        after: new JsonObject { ["investigation"] = there.Id, ["name"] = there.Name }
                    );
                    return Task.FromResult<Refusal?>(null);
                },
                whenFrozen: true
            );

    /// <summary>Changes an investigation of the caller's own that is not frozen.</summary>
    private static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, Investigation, Task<Refusal?>> work,
        bool whenFrozen = false
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var there = await session
                    .Db.Investigations.Include(i => i.Events)
                    .SingleOrDefaultAsync(i => i.Id == id && i.PersonId == context.Caller.PersonId, context.Cancel);
                if (there is null)
                {
                    return Problems.NotFound("investigation of yours");
                }

                if (there.FrozenAt is not null && !whenFrozen)
                {
                    return Refusal.Conflict("frozen", null, "It is frozen; nothing in it changes any more.");
                }

                if (await work(session, there) is { } refusal)
                {
                    return refusal;
                }

                there.Version++;
                return new Done();
            },
            context.Cancel
        );

    /// <summary>The file: what was pinned, with proofs of what is sealed by now.</summary>
    private static async Task<IResult> Export(long id, ArchiveFiles archive, [AsParameters] ApiContext context)
    {
        var found = await VisibleAsync(context.Db.Investigations.Where(i => i.Id == id), context);
        return found.Count == 0
            ? (Reply<Done>)Problems.NotFound("investigation")
            : await FileAsync(found[0], archive, context);
    }

    /// <summary>An investigation as a file, for whoever was found to be allowed to read it.</summary>
    internal static async Task<IResult> FileAsync(Investigation there, ArchiveFiles archive, ApiContext context)
    {
        var events = new JsonArray();
        var proofs = new SegmentProofs(archive, context);
        foreach (var pinned in there.Events.OrderBy(e => e.Time))
        {
            var leaf = Convert.ToHexStringLower(MerkleTree.LeafHash(Encoding.UTF8.GetBytes(pinned.Body)));
            var body = JsonNode.Parse(pinned.Body)!;
            events.Add(
                new JsonObject
                {
                    ["note"] = pinned.Note,
                    ["event"] = body,
                    ["leaf"] = leaf,
                    ["proof"] = await proofs.OfAsync((string)body["channel"]!, pinned.Time, leaf),
                }
            );
        }

        var file = new JsonObject
        {
            ["format"] = "widekeel-investigation/1",
            ["name"] = there.Name,
            ["summary"] = there.Summary,
            ["frozenAt"] = there.FrozenAt is { } at ? EventLine.Text(at) : null,
            ["sha256"] = HashOf(there),
            ["events"] = events,
        };
        return Results.File(
            Encoding.UTF8.GetBytes(file.ToJsonString()),
            "application/json",
            string.Create(CultureInfo.InvariantCulture, $"investigation-{there.Id}.json")
        );
    }

    /// <summary>SHA-256 over the pinned events in their order, each with its note.</summary>
    internal static string HashOf(Investigation of) =>
        EventLine.IdOf(
            string.Join('\n', of.Events.OrderBy(e => e.Time).ThenBy(e => e.EventId).Select(e => $"{e.Body} {e.Note}"))
        );

    private static LedgerSubject Subject(Investigation of) => LedgerSubject.Of("investigation", of.Id);
}
