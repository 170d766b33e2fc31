using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Proofs">Ids of proofs; null for the latest of every part of the controls that answer the requirement.</param>
public sealed record OfferRequest(IReadOnlyList<long>? Proofs = null);

/// <param name="Offered">How many are new in the room.</param>
/// <param name="Outside">Proofs that speak for no day of the audit's period, and were not offered for that.</param>
public sealed record OfferResult(int Offered, IReadOnlyList<CandidateView> Outside);

/// <summary>A proof that can be offered for a request.</summary>
/// <param name="Mapped">Its control answers the requirement.</param>
public sealed record CandidateView(
    long Id,
    string Control,
    string Title,
    ProofView Proof,
    bool Mapped,
    bool Outside,
    bool Offered
);

/// <param name="Reason">Stands among the remarks, where both sides read it.</param>
public sealed record Withdrawal(string Reason);

/// <summary>What is offered for a request, and taken back.</summary>
public static class AuditOfferEndpoints
{
    private const int MostCandidates = 200;

    public static void MapAuditOffers(this IEndpointRouteBuilder api)
    {
        api.MapGet("/audits/{id:long}/requests/{number:int}/candidates", Candidates).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/offer", Offer).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/offers/{proof:long}/withdrawal", Withdraw)
            .RequiresSignIn();
    }

    /// <summary>Why the caller changes nothing of what is offered for a request, or null.</summary>
    private static Refusal? NotBringing(AuditRequest request, string accepted, ApiContext context) =>
        !AuditRequestEndpoints.MayBring(request, context)
            ? Refusal.Forbidden("not-allowed", null, "Who is asked for it offers the evidence.")
        : request.State == RequestState.Accepted
            ? Refusal.Conflict("accepted", null, $"The auditor accepted this; {accepted}")
        : null;

    // Set by name, so that questions of a proof or a control reach the database.
    private sealed class Candidate
    {
        public required ControlPartRow Part { get; init; }

        public required PartProof Proof { get; init; }

        public required string Control { get; init; }

        public required string Owner { get; init; }

        public required bool Mapped { get; init; }
    }

    /// <summary>
    /// Valid proofs that can be offered for a request: those of the controls that answer it first, then the latest.
    /// </summary>
    private static IQueryable<Candidate> Proofs(WideKeelDb db, AuditRequest request) =>
        from control in db.Controls
        from part in control.Parts
        from proof in part.Proofs
        where proof.WithdrawnAt == null && proof.BrokenSince == null
        where !part.NeedsReview || part.Kind != PartKind.Evidence || proof.ReviewedAt != null
        let mapped = request.RequirementId != null && control.Maps.Any(m => m.RequirementId == request.RequirementId)
        orderby mapped descending, proof.Id descending
        select new Candidate
        {
            Part = part,
            Proof = proof,
            Control = control.Code,
            Owner = control.Owner,
            Mapped = mapped,
        };

    /// <summary>The chosen proofs, as far as the caller may see them.</summary>
    private static async Task<List<Candidate>> ChosenAsync(
        WideKeelDb db,
        AuditRequest request,
        IReadOnlyList<long> ids,
        ApiContext context
    )
    {
        var found = await Proofs(db, request)
            .AsNoTracking()
            .Where(c => ids.Contains(c.Proof.Id))
            .ToListAsync(context.Cancel);
        return found.FindAll(c => ProofReaders.MaySee(c.Part, c.Owner, context.Caller));
    }

    /// <summary>
    /// Of each part of the controls that answer the requirement the latest proof within the audit's period, or where it has
    /// none there its latest. Who manages readiness hands over what they may not read themselves.
    /// </summary>
    private static async Task<List<Candidate>> LatestAsync(
        WideKeelDb db,
        AuditRow audit,
        AuditRequest request,
        ApiContext context
    )
    {
        var ids = await Proofs(db, request)
            .Where(c => c.Mapped)
            .GroupBy(c => c.Part.Id)
            .Select(g => new
            {
                Within = g.Max(c =>
                    (c.Proof.CoversThrough ?? c.Proof.Day) >= audit.PeriodFrom
                    && (c.Proof.CoversFrom ?? c.Proof.Day) <= audit.PeriodThrough
                        ? (long?)c.Proof.Id
                        : null
                ),
                Last = g.Max(c => (long?)c.Proof.Id),
            })
            .ToListAsync(context.Cancel);
        var latest = ids.Select(i => i.Within ?? i.Last).OfType<long>().ToList();
        var found = await Proofs(db, request)
            .AsNoTracking()
            .Where(c => latest.Contains(c.Proof.Id))
            .ToListAsync(context.Cancel);
        return context.Caller.May(Right.ManageReadiness)
            ? found
            : found.FindAll(c => ProofReaders.MaySee(c.Part, c.Owner, context.Caller));
    }

    private static CandidateView View(Candidate c, AuditRow audit, AuditRequest request) =>
        new(
            c.Proof.Id,
            c.Control,
            c.Part.Title,
            ControlViews.View(c.Proof),
            c.Mapped,
            AuditOffers.IsOutside(ControlViews.View(c.Proof), audit),
            AuditOffers.In(request).Any(o => o.ProofId == c.Proof.Id)
        );

    /// <summary>What can be offered for a request, of the controls that answer it first.</summary>
    private static async Task<Reply<IReadOnlyList<CandidateView>>> Candidates(
        long id,
        int number,
        string? search,
        [AsParameters] ApiContext context
    )
    {
        var audit = await AuditRoom
            .Whole(context.Db)
            .AsNoTracking()
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (
            audit?.Requests.Find(r => r.Number == number) is not { } request
            || !AuditRequestEndpoints.MayBring(request, context)
        )
        {
            return Problems.NotFound("request");
        }

        var pattern = Like.Containing(search);
        var found = Proofs(context.Db, request)
            .AsNoTracking()
            .Where(c =>
                EF.Functions.Like(c.Control, pattern, Like.Escape)
                || EF.Functions.Like(c.Part.Title, pattern, Like.Escape)
                || EF.Functions.Like(c.Proof.Says, pattern, Like.Escape)
                || EF.Functions.Like(c.Proof.FileName, pattern, Like.Escape)
            );
        List<CandidateView> views = [];
        await foreach (var candidate in found.AsAsyncEnumerable().WithCancellation(context.Cancel))
        {
            if (
                ProofReaders.IsForAuditors(candidate.Part)
                && ProofReaders.MaySee(candidate.Part, candidate.Owner, context.Caller)
            )
            {
                views.Add(View(candidate, audit, request));
            }

            if (views.Count == MostCandidates)
            {
                break;
            }
        }

        return (Outcome<IReadOnlyList<CandidateView>>)views;
    }

    /// <summary>
    /// Copies proofs into the room: the chosen ones, or by one press the latest within the audit's period of every part of
    /// the controls that answer the requirement.
    /// </summary>
    private static Task<Reply<OfferResult>> Offer(
        long id,
        int number,
        OfferRequest request,
        [AsParameters] ApiContext context
    ) =>
        AuditRoom.RequestAsync<OfferResult>(
            id,
            number,
            context,
            (session, row, asked) => OfferAsync(session, row, asked, request, context),
            AuditRoom.Who.Owner
        );

    private static async Task<Outcome<OfferResult>> OfferAsync(
        WriteSession session,
        AuditRow row,
        AuditRequest asked,
        OfferRequest request,
        ApiContext context
    )
    {
        if (NotBringing(asked, "nothing is added unless the auditor returns it.", context) is { } refusal)
        {
            return refusal;
        }

        var wanted = request.Proofs is { } ids
            ? await ChosenAsync(session.Db, asked, ids, context)
            : await LatestAsync(session.Db, row, asked, context);
        if (request.Proofs is { } chosen && chosen.Any(p => wanted.TrueForAll(c => c.Proof.Id != p)))
        {
            return Problems.NotFound("proof");
        }

        var open = wanted.Where(c => ProofReaders.IsForAuditors(c.Part)).ToList();
        if (open.Count < wanted.Count && (request.Proofs is not null || open.Count == 0))
        {
            return Refusal.Conflict(
                "kept-from-auditors",
                null,
                "External auditors may not see these proofs. Change who sees them under Controls."
            );
        }

        if (open.Count == 0)
        {
            return Refusal.Conflict(
                "nothing-mapped",
                null,
                "No control that answers this requirement has a proof yet. Choose one, or add one under Controls."
            );
        }

        var outside = request.Proofs is null
            ? open.Where(c => AuditOffers.IsOutside(ControlViews.View(c.Proof), row)).ToList()
            : [];
        var added = await AddAsync(session, asked, open.Except(outside), context);
        session.Record(
            "offered",
            AuditRoom.Subject(row.Id),
            after: new JsonObject
            {
                ["request"] = asked.Number,
                ["proofs"] = new JsonArray([.. added.Select(c => (JsonNode?)c.Proof.Id)]),
                ["outside"] = outside.Count,
            }
        );
        return new OfferResult(added.Count, [.. outside.Select(c => View(c, row, asked))]);
    }

    /// <summary>Copies what is not in the room yet.</summary>
    private static async Task<IReadOnlyList<Candidate>> AddAsync(
        WriteSession session,
        AuditRequest asked,
        IEnumerable<Candidate> offered,
        ApiContext context
    )
    {
        var there = AuditOffers.In(asked).Select(o => o.ProofId).ToHashSet();
        var added = offered.Where(c => !there.Contains(c.Proof.Id)).ToList();
        foreach (var candidate in added)
        {
            var proof = await session
                .Db.PartProofs.AsNoTracking()
                .Include(p => p.Frozen)
                .SingleAsync(p => p.Id == candidate.Proof.Id, context.Cancel);
            asked.Offers.Add(AuditOffers.Freeze(proof, candidate.Control, candidate.Part.Title, session));
        }

        return added;
    }

    /// <summary>Takes an offered proof back, with a reason that both sides read.</summary>
    private static Task<Reply<Done>> Withdraw(
        long id,
        int number,
        long proof,
        Withdrawal request,
        [AsParameters] ApiContext context
    ) =>
        AuditRoom.RequestAsync(
            id,
            number,
            context,
            (session, _, asked) => Task.FromResult(WithdrawIn(session, asked, proof, request, context)),
            AuditRoom.Who.Owner
        );

    private static Refusal? WithdrawIn(
        WriteSession session,
        AuditRequest asked,
        long proof,
        Withdrawal request,
        ApiContext context
    )
    {
        if (NotBringing(asked, "what was accepted stays.", context) is { } refusal)
        {
            return refusal;
        }

        if (string.IsNullOrWhiteSpace(request.Reason))
        {
            return new("reason-missing", "reason", "Say why it is withdrawn; the auditor reads it.");
        }

        if (AuditOffers.In(asked).FirstOrDefault(o => o.ProofId == proof) is not { } offer)
        {
            return Problems.NotFound("proof in this request");
        }

        offer.WithdrawnAt = session.Now;
        var frozen = AuditOffers.Of(offer);
        AuditRequestEndpoints.AddRemark(
            session,
            asked,
            context.Caller.Name,
            $"Withdrew {frozen.Control} {frozen.Title}, SHA-256 {offer.Hash}: {request.Reason.Trim()}"
        );
        session.Record(
            "offer-withdrawn",
            AuditRoom.Subject(asked.AuditId),
            new JsonObject
            {
                ["request"] = asked.Number,
                ["proof"] = proof,
                ["sha256"] = offer.Hash,
            },
            reason: request.Reason
        );
        return null;
    }
}
