using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

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
    long Revision
) : IRevised;

/// <param name="Why">Kept with the decision; needed to decline.</param>
public sealed record Decision(bool Agree, string Why);

internal sealed record ProposedActivation(long SeriesId, SeriesDefinition Draft);

internal sealed record ProposedBlanket(long BlanketId, BlanketDefinition Draft);

internal sealed record ProposedFiling(long[] Items, long? SeriesId);

/// <summary>
/// What one person asks for and another must agree to. The act is done at the moment of agreement, under the rules of
/// that moment.
/// </summary>
internal static class Proposals
{
    public const string Activation = "activation";
    public const string BlanketActivation = "blanket-activation";
    public const string TakeOff = "take-off";
    public const string EnableWorm = "enable-worm";

    public static void MapProposals(this IEndpointRouteBuilder api)
    {
        api.MapGet("/proposals", List).RequiresSignIn();
        api.MapPost("/proposals/{id:long}/decision", Decide).RequiresSignIn();
    }

    /// <summary>Notes what is asked for. Nothing is done before another person agrees.</summary>
    public static Proposal Ask<T>(
        WriteSession session,
        Caller caller,
        string kind,
        string title,
        T act,
        string unit,
        string why
    )
    {
        var proposal = new Proposal
        {
            Kind = kind,
            Title = title,
            Act = JsonSerializer.Serialize(act, Json.Options),
            Unit = unit,
            AskedById = caller.PersonId,
            AskedBy = caller.Name,
            AskedAt = session.Now,
            Why = why.Trim(),
        };
        session.Db.Proposals.Add(proposal);
        session.Db.SaveChanges();
        Tell(session, caller, proposal);
        session.Record(
            "asked-second-person",
            new("proposal", Text(proposal.Id), unit),
            after: new JsonObject { ["kind"] = kind, ["title"] = title },
            reason: why.Trim()
        );
        return proposal;
    }

    /// <summary>Those who may agree are told that somebody waits for them.</summary>
    private static void Tell(WriteSession session, Caller caller, Proposal proposal)
    {
        var right = proposal.Kind == EnableWorm ? Right.ManageSettings : Right.WriteSchedule;
        foreach (
            var person in session
                .Db.Users.Include(p => p.Remits)
                    .ThenInclude(r => r.Unit)
                .Where(p => p.Active && p.Id != caller.PersonId)
                .ToList()
        )
        {
            if (
                RightsPolicy.Allows(
                    person.Remits.Select(r => new Remit(r.Role, new UnitPath(r.Unit!.Path))),
                    right,
                    caller.Root,
                    new UnitPath(proposal.Unit)
                )
            )
            {
                Outbox.Add(
                    session,
                    person,
                    ScheduleTexts.Proposed(caller.Name, proposal.Title, proposal.Why),
                    "/today"
                );
            }
        }

        Outbox.Tell(session, "proposal", new() { ["title"] = proposal.Title, ["by"] = caller.Name });
    }

    private static async Task<Reply<IReadOnlyList<ProposalView>>> List(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) => (Outcome<IReadOnlyList<ProposalView>>)await VisibleAsync(caller, db, cancel);

    internal static async Task<List<ProposalView>> VisibleAsync(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        [
            .. (await db.Proposals.AsNoTracking().OrderByDescending(p => p.Id).Take(500).ToListAsync(cancel))
                .Where(p => p.AskedById == caller.PersonId || Covers(caller, p))
                .Select(p => new ProposalView(
                    p.Id,
                    p.Kind,
                    p.Title,
                    p.AskedBy,
                    p.AskedAt,
                    p.Why,
                    p.State,
                    p.DecidedBy,
                    p.DecidedAt,
                    p.DecidedWhy,
                    MayNotDecide(caller, p),
                    p.Revision
                )),
        ];

    /// <summary>A proposal that waits and that the caller may decide.</summary>
    private static async Task<Outcome<Proposal>> ToDecideAsync(
        WriteSession session,
        long id,
        bool agree,
        ApiContext context
    )
    {
        var caller = context.Caller;
        var proposal = await session.Db.Proposals.SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
        if (proposal is null || (proposal.AskedById != caller.PersonId && !Covers(caller, proposal)))
        {
            return Problems.NotFound("proposal");
        }

        if (Problems.CheckMatch(context.Http, proposal.Revision) is { } stale)
        {
            return stale;
        }

        // Whoever asked may take it back; to agree takes another person.
        if ((agree || proposal.AskedById != caller.PersonId) && MayNotDecide(caller, proposal) is { } not)
        {
            return Refusal.Forbidden("second-person-needed", null, not);
        }

        return proposal.State == ProposalState.Waiting
            ? proposal
            : Refusal.Conflict("proposal-decided", null, $"{proposal.DecidedBy} has decided this already.");
    }

    private static async Task<Reply<ProposalView>> Decide(long id, Decision request, [AsParameters] ApiContext context)
    {
        if (
            request.Why is null
            || request.Why.Length > 1000
            || (!request.Agree && string.IsNullOrWhiteSpace(request.Why))
        )
        {
            return new Refusal("why-missing", "why", "Say in a sentence why; at most 1,000 characters.");
        }

        var decided = await context.Writer.RunAsync<bool>(
            context.Caller.Actor,
            async session =>
            {
                var found = await ToDecideAsync(session, id, request.Agree, context);
                if (found.Refusal is { } not)
                {
                    return not;
                }

                var proposal = found.Value;
                if (
                    request.Agree
                    && await DoAsync(session, proposal, context.Caller, context.Calendar, context.Cancel) is { } refusal
                )
                {
                    return refusal;
                }

                (proposal.State, proposal.DecidedBy, proposal.DecidedAt, proposal.DecidedWhy) = (
                    request.Agree ? ProposalState.Approved : ProposalState.Declined,
                    context.Caller.Name,
                    session.Now,
                    request.Why.Trim()
                );
                proposal.Revision++;
                session.Record(
                    request.Agree ? "agreed" : "declined",
                    new("proposal", Text(id), proposal.Unit),
                    new JsonObject { ["askedBy"] = proposal.AskedBy, ["title"] = proposal.Title },
                    reason: request.Why.Trim()
                );
                return true;
            },
            context.Cancel
        );
        return decided.Refused
            ? decided.Refusal!
            : (await VisibleAsync(context.Caller, context.Db, context.Cancel)).Single(p => p.Id == id);
    }

    private static async Task<Refusal?> DoAsync(
        WriteSession session,
        Proposal proposal,
        Caller caller,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        switch (proposal.Kind)
        {
            case Activation:
                var activation = Read<ProposedActivation>(proposal);
                var series = await session.Db.Series.SingleAsync(s => s.Id == activation.SeriesId, cancel);
                if (await SeriesGuard.CheckAsync(session, series, activation.Draft, caller) is { } guarded)
                {
                    return guarded;
                }

                var preview = await RuleChange.OfSeriesAsync(
                    session.Db,
                    calendar,
                    series.Id,
                    activation.Draft.Check(series.Code).Value
                );
                var figures = await preview.FiguresAsync(session.Db);
                await SeriesEndpoints.PutIntoEffectAsync(
                    session,
                    series,
                    activation.Draft,
                    preview.After,
                    caller,
                    $"{proposal.Why} (asked by {proposal.AskedBy})",
                    figures.Figures.BecomeDue.Items,
                    cancel,
                    proposal.AskedById
                );
                return null;
            case BlanketActivation:
                var blanket = Read<ProposedBlanket>(proposal);
                return await BlanketEndpoints.AdoptAgreedAsync(session, blanket, proposal, caller, calendar, cancel);
            case TakeOff:
                var filing = Read<ProposedFiling>(proposal);
                return await FilingEndpoints.FileAgreedAsync(session, filing, proposal, caller, calendar, cancel);
            case EnableWorm:
                (await session.Db.Organisations.SingleAsync(cancel)).WormEnabledAt ??= session.Now;
                session.Record("worm-enabled", new("organisation", "1"), reason: proposal.Why);
                return null;
            default:
                throw new InvalidOperationException($"No such proposal: {proposal.Kind}.");
        }
    }

    /// <summary>The filings that wait for a second person.</summary>
    internal static async Task<List<ProposedFiling>> WaitingFilingsAsync(WideKeelDb db, CancellationToken cancel) =>
        [
            .. (
                await db
                    .Proposals.AsNoTracking()
                    .Where(p => p.Kind == TakeOff && p.State == ProposalState.Waiting)
                    .ToListAsync(cancel)
            ).Select(Read<ProposedFiling>),
        ];

    /// <summary>Those who could do the act themselves may agree to it.</summary>
    private static bool Covers(Caller caller, Proposal proposal) =>
        proposal.Kind == EnableWorm
            ? caller.May(Right.ManageSettings)
            : caller.Covers(Right.WriteSchedule, new UnitPath(proposal.Unit));

    private static string? MayNotDecide(Caller caller, Proposal proposal) =>
        proposal.State != ProposalState.Waiting
            ? "It is decided."
            : caller.NotSecondTo(proposal.AskedById, "You asked for this; another person must agree.")
                ?? (Covers(caller, proposal) ? null : "Your role does not include this.");

    private static T Read<T>(Proposal proposal) => JsonSerializer.Deserialize<T>(proposal.Act, Json.Options)!;

    private static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);
}
