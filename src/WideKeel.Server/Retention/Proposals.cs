using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Server.Content;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Overtaken">Why nobody can agree to it any more, although it is not closed yet; null where somebody can.</param>
public sealed record ProposalView(
    long Id,
    string Kind,
    string Title,
    string AskedBy,
    Instant AskedAt,
    string Why,
    ProposalState State,
    string? DecidedBy,
    Instant? DecidedAt,
    string? DecidedWhy,
    string? MayNotDecide,
    string? Overtaken,
    long Revision
) : IRevised;

/// <summary>What the second person looks at.</summary>
/// <param name="Parts">All that would change.</param>
/// <param name="Consequences">As they are now; null for an act that has none.</param>
/// <param name="Difference">What is different from what was asked for, in words; null where nothing is.</param>
public sealed record ProposalDetail(
    ProposalView Proposal,
    IReadOnlyList<ActPart> Parts,
    ConsequencesView? Consequences,
    string? Difference
);

/// <param name="Before">The last id of the page before; null for the newest.</param>
public sealed record ProposalPage(IReadOnlyList<ProposalView> Proposals, long? Before);

/// <param name="Why">Kept with the decision; needed to decline.</param>
public sealed record Decision(bool Agree, string Why);

/// <summary>
/// What one person asks for and another must agree to. The act is run anew at the moment of agreement; what it rests on,
/// and its consequences, must be those that were asked for.
/// </summary>
internal static class Proposals
{
    private const int MostRows = 200;

    public static void MapProposals(this IEndpointRouteBuilder api)
    {
        api.MapGet("/proposals", Waiting).RequiresSignIn();
        api.MapGet("/proposals/all", All).RequiresSignIn();
        api.MapGet("/proposals/{id:long}", Show).RequiresSignIn();
        api.MapGet("/proposals/{id:long}/consequences/{group}", Group).RequiresSignIn();
        api.MapPost("/proposals/{id:long}/decision", Decide).RequiresSignIn();
    }

    private static async Task<Reply<IReadOnlyList<ProposalView>>> Waiting(
        IEnumerable<IActHandler> handlers,
        [AsParameters] ApiContext context
    ) => (Outcome<IReadOnlyList<ProposalView>>)await WaitingAsync(handlers, Ground(context), context.Caller);

    /// <summary>Every proposal that waits and that the caller may know of, the newest first.</summary>
    internal static async Task<List<ProposalView>> WaitingAsync(
        IEnumerable<IActHandler> handlers,
        ActGround ground,
        Caller caller
    )
    {
        var book = new Reading(handlers, ground, caller);
        return await book.ViewsAsync(
            await ground
                .Db.Proposals.AsNoTracking()
                .Where(p => p.State == ProposalState.Waiting)
                .OrderByDescending(p => p.Id)
                .ToListAsync(ground.Cancel)
        );
    }

    private static async Task<Reply<ProposalPage>> All(
        long? before,
        IEnumerable<IActHandler> handlers,
        [AsParameters] ApiContext context
    )
    {
        var rows = await context
            .Db.Proposals.AsNoTracking()
            .Where(p => before == null || p.Id < before)
            .OrderByDescending(p => p.Id)
            .Take(MostRows + 1)
            .ToListAsync(context.Cancel);
        return new ProposalPage(
            await new Reading(handlers, Ground(context), context.Caller).ViewsAsync(rows.Take(MostRows)),
            rows.Count > MostRows ? rows[MostRows - 1].Id : null
        );
    }

    private static async Task<Reply<ProposalDetail>> Show(
        long id,
        IEnumerable<IActHandler> handlers,
        [AsParameters] ApiContext context
    )
    {
        var book = new Reading(handlers, Ground(context), context.Caller);
        var proposal = await context.Db.Proposals.AsNoTracking().SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
        if (proposal is null || !book.Knows(proposal))
        {
            return Problems.NotFound("proposal");
        }

        var view = await book.ViewAsync(proposal);
        if (view.State != ProposalState.Waiting || view.Overtaken is not null)
        {
            return new ProposalDetail(view, [], null, null);
        }

        var detail = await book.HandlerOf(proposal).DescribeAsync(Ground(context), proposal.Act);
        return new ProposalDetail(
            view,
            detail.Parts,
            detail.Figures as ConsequencesView,
            detail.Figures is { } figures && figures.Fingerprint != proposal.Digest
                ? figures.DifferenceFrom(proposal.Consequences)
                : null
        );
    }

    /// <summary>The items behind a figure, for the second person.</summary>
    private static async Task<Reply<ItemPage>> Group(
        long id,
        string group,
        string? cursor,
        IEnumerable<IActHandler> handlers,
        [AsParameters] ApiContext context
    )
    {
        var book = new Reading(handlers, Ground(context), context.Caller);
        var proposal = await context.Db.Proposals.AsNoTracking().SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
        return
            proposal is not { State: ProposalState.Waiting }
            || !book.Knows(proposal)
            || book.HandlerOf(proposal) is not IItemAct act
            || await book.OvertakenAsync(proposal) is not null
            ? Problems.NotFound("proposal")
            : await (await act.ChangeAsync(Ground(context), proposal.Act)).GroupAsync(
                group,
                cursor,
                context.Caller,
                context.Db,
                context.Calendar
            );
    }

    private static ActGround Ground(ApiContext context) => new(context.Db, context.Calendar, context.Cancel);

    private static async Task<Reply<ProposalView>> Decide(
        long id,
        Decision request,
        IEnumerable<IActHandler> handlers,
        [AsParameters] ApiContext context
    )
    {
        if (
            request.Why is null
            || request.Why.Length > 1000
            || (!request.Agree && string.IsNullOrWhiteSpace(request.Why))
        )
        {
            return new Refusal("why-missing", "why", "Say in a sentence why; at most 1,000 characters.");
        }

        string? overtaken = null;
        var decided = await context.Writer.RunAsync<bool>(
            context.Caller.Actor,
            async session =>
            {
                var act = new ActContext(session, context.Caller, context.Calendar, context.Cancel);
                var book = new Reading(handlers, act, context.Caller);
                var found = await ToDecideAsync(act, book, id, request.Agree, context.Http);
                if (found.Refusal is { } not)
                {
                    return not;
                }

                var proposal = found.Value;
                if (request.Agree && await book.OvertakenAsync(proposal) is { } reason)
                {
                    overtaken = reason;
                    await CloseAsync(act, proposal, reason);
                    return true;
                }

                if (request.Agree && await AgreeAsync(act, book.HandlerOf(proposal), proposal) is { } refusal)
                {
                    return refusal;
                }

                await SettleAsync(act, id, request);
                return true;
            },
            context.Cancel
        );
        if (decided.Refusal is { } refused)
        {
            return refused;
        }

        return overtaken is not null
            ? Refusal.Conflict("proposal-overtaken", null, $"{overtaken} Nothing was done, and the proposal is closed.")
            : await new Reading(handlers, Ground(context), context.Caller).ViewAsync(
                await context.Db.Proposals.AsNoTracking().SingleAsync(p => p.Id == id, context.Cancel)
            );
    }

    /// <summary>A proposal that waits and that the caller may decide.</summary>
    private static async Task<Outcome<Proposal>> ToDecideAsync(
        ActContext context,
        Reading book,
        long id,
        bool agree,
        HttpContext http
    )
    {
        var proposal = await context.Db.Proposals.SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
        if (proposal is null || !book.Knows(proposal))
        {
            return Problems.NotFound("proposal");
        }

        if (Problems.CheckMatch(http, proposal.Revision) is { } stale)
        {
            return stale;
        }

        // Whoever asked may take it back; to agree takes another person.
        if ((agree || proposal.AskedById != context.Caller.PersonId) && book.MayNotDecide(proposal) is { } not)
        {
            return proposal.State == ProposalState.Waiting
                ? Refusal.Forbidden("second-person-needed", null, not)
                : Refusal.Conflict("proposal-decided", null, not);
        }

        return proposal.State == ProposalState.Waiting
            ? proposal
            : Refusal.Conflict("proposal-decided", null, book.MayNotDecide(proposal) ?? "It is decided.");
    }

    /// <summary>Runs the act as the one who asked and the caller together.</summary>
    private static async Task<Refusal?> AgreeAsync(ActContext context, IActHandler handler, Proposal proposal)
    {
        var asker = new Caller();
        await asker.LoadAsync(proposal.AskedById, context.Db, context.Calendar.Today);
        context.Session.Custody.Persons.Add(proposal.AskedById);
        return await handler.AgreeAsync(
            context with
            {
                Asker = new(proposal.AskedById, proposal.AskedBy, proposal.Why),
            },
            proposal,
            asker
        );
    }

    private static async Task SettleAsync(ActContext context, long id, Decision request)
    {
        var proposal = await context.Db.Proposals.SingleAsync(p => p.Id == id, context.Cancel);
        (proposal.State, proposal.DecidedBy, proposal.DecidedAt, proposal.DecidedWhy) = (
            request.Agree ? ProposalState.Approved : ProposalState.Declined,
            context.Caller.Name,
            context.Session.Now,
            request.Why.Trim()
        );
        proposal.Revision++;
        context.Session.Record(
            request.Agree ? "agreed" : "declined",
            new("proposal", Wording.Id(id), proposal.Unit),
            new JsonObject { ["askedBy"] = proposal.AskedBy, ["title"] = proposal.Title },
            reason: request.Why.Trim()
        );
        await context.Db.SaveChangesAsync(context.Cancel);
        if (request.Agree)
        {
            await context.Session.Services.GetRequiredService<IProposalBook>().CloseOvertakenAsync(context);
        }
    }

    /// <summary>Closes what cannot be approved any more, and informs the person who asked.</summary>
    internal static async Task CloseAsync(ActContext context, Proposal proposal, string reason)
    {
        (proposal.State, proposal.DecidedAt, proposal.DecidedWhy) = (ProposalState.Closed, context.Session.Now, reason);
        proposal.Revision++;
        context.Session.Record(
            "closed",
            new("proposal", Wording.Id(proposal.Id), proposal.Unit),
            new JsonObject { ["askedBy"] = proposal.AskedBy, ["title"] = proposal.Title },
            reason: reason
        );
        if (
            proposal.AskedById != context.Caller.PersonId
            && await context.Db.Users.SingleOrDefaultAsync(p => p.Id == proposal.AskedById && p.Active, context.Cancel)
                is { } asker
        )
        {
            Outbox.Add(context.Session, asker, ScheduleTexts.Closed(proposal.Title, reason), "/today");
        }
    }

    /// <summary>Proposals as one person may know of them.</summary>
    internal sealed class Reading(IEnumerable<IActHandler> handlers, ActGround ground, Caller caller)
    {
        private readonly Dictionary<string, IActHandler> byName = handlers.ToDictionary(h => h.Name);

        public IActHandler HandlerOf(Proposal proposal) => byName[proposal.Kind];

        /// <summary>Those who could do the act themselves may agree to it, and know of it.</summary>
        public bool Knows(Proposal proposal) => proposal.AskedById == caller.PersonId || Covers(proposal);

        private bool Covers(Proposal proposal) => HandlerOf(proposal).MayAgree(caller, proposal.Unit);

        public string? MayNotDecide(Proposal proposal) =>
            proposal.State switch
            {
                ProposalState.Waiting => caller.NotSecondTo(
                    proposal.AskedById,
                    "You asked for this; another person must approve it."
                ) ?? (Covers(proposal) ? null : "Your role does not include this."),
                ProposalState.Closed => $"It is closed: {proposal.DecidedWhy}",
                _ => $"{proposal.DecidedBy} has decided this already.",
            };

        /// <summary>Why nobody can agree to it any more, or null.</summary>
        public async Task<string?> OvertakenAsync(Proposal proposal)
        {
            var now = await HandlerOf(proposal).RestsOnAsync(ground, proposal.Act);
            foreach (
                var (name, revision) in JsonSerializer.Deserialize<Dictionary<string, string>>(
                    proposal.RestsOn,
                    Json.Options
                )!
            )
            {
                if (!now.TryGetValue(name, out var current))
                {
                    return $"{name} is gone.";
                }

                if (current != revision)
                {
                    return $"{name} was changed since {proposal.AskedBy} asked.";
                }
            }

            return null;
        }

        public async Task<List<ProposalView>> ViewsAsync(IEnumerable<Proposal> proposals)
        {
            List<ProposalView> views = [];
            foreach (var proposal in proposals.Where(Knows))
            {
                views.Add(await ViewAsync(proposal));
            }

            return views;
        }

        public async Task<ProposalView> ViewAsync(Proposal proposal)
        {
            var overtaken = proposal.State == ProposalState.Waiting ? await OvertakenAsync(proposal) : null;
            return new(
                proposal.Id,
                proposal.Kind,
                proposal.Title,
                proposal.AskedBy,
                proposal.AskedAt,
                proposal.Why,
                proposal.State,
                proposal.DecidedBy,
                proposal.DecidedAt,
                proposal.DecidedWhy,
                MayNotDecide(proposal) ?? overtaken,
                overtaken,
                proposal.Revision
            );
        }
    }
}

/// <summary>Keeps the acts that wait, and informs those who may agree.</summary>
internal sealed class ProposalBook(IEnumerable<IActHandler> handlers) : IProposalBook
{
    public async Task<long> AddAsync(ActContext context, IActHandler handler, Proposal proposal)
    {
        // Asked twice, it waits once; asked anew over other figures, the new one stands for it.
        var same = await context
            .Db.Proposals.Where(p =>
                p.State == ProposalState.Waiting
                && p.Kind == proposal.Kind
                && p.Act == proposal.Act
                && p.AskedById == proposal.AskedById
            )
            .FirstOrDefaultAsync(context.Cancel);
        if (same is not null && same.Digest == proposal.Digest && same.RestsOn == proposal.RestsOn)
        {
            return same.Id;
        }

        if (same is not null)
        {
            await Proposals.CloseAsync(context, same, "It was asked anew, with the figures of that moment.");
        }

        context.Db.Proposals.Add(proposal);
        await context.Db.SaveChangesAsync(context.Cancel);
        await InformAsync(context, handler, proposal);
        context.Session.Record(
            "asked-second-person",
            new("proposal", Wording.Id(proposal.Id), proposal.Unit),
            after: new JsonObject
            {
                ["kind"] = proposal.Kind,
                ["title"] = proposal.Title,
                ["restsOn"] = JsonNode.Parse(proposal.RestsOn),
                ["digest"] = proposal.Digest,
            },
            reason: proposal.Why
        );
        return proposal.Id;
    }

    public async Task CloseOvertakenAsync(ActContext context)
    {
        var book = new Proposals.Reading(handlers, context, context.Caller);
        foreach (
            var proposal in await context
                .Db.Proposals.Where(p => p.State == ProposalState.Waiting)
                .ToListAsync(context.Cancel)
        )
        {
            if (await book.OvertakenAsync(proposal) is { } reason)
            {
                await Proposals.CloseAsync(context, proposal, reason);
            }
        }
    }

    /// <summary>Closes what a change that is no act has overtaken; the change must be saved.</summary>
    public static Task CloseOvertakenAsync(
        WriteSession session,
        Caller caller,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        session
            .Services.GetRequiredService<IProposalBook>()
            .CloseOvertakenAsync(new(session, caller, calendar, cancel));

    /// <summary>Notifies those who may approve.</summary>
    private static async Task InformAsync(ActContext context, IActHandler handler, Proposal proposal)
    {
        var (session, today) = (context.Session, context.Calendar.Today);
        foreach (
            var person in await session
                .Db.Users.Where(p => p.Active && p.Id != proposal.AskedById)
                .ToListAsync(context.Cancel)
        )
        {
            var other = new Caller();
            await other.LoadAsync(person.Id, session.Db, today);
            if (other.SignedIn && handler.MayAgree(other, proposal.Unit))
            {
                Outbox.Add(
                    session,
                    person,
                    ScheduleTexts.Proposed(proposal.AskedBy, proposal.Title, proposal.Why),
                    "/today"
                );
            }
        }

        Outbox.Tell(session, "proposal", new() { ["title"] = proposal.Title, ["by"] = proposal.AskedBy });
    }
}

/// <summary>Every day, what was overtaken by another way than an act is closed.</summary>
internal sealed class ProposalMorning(IProposalBook book) : IDailyTask
{
    public Task RunAsync(DailyQuestion asked) =>
        book.CloseOvertakenAsync(new(asked.Session, new Caller(), asked.Calendar, asked.Cancel));
}
