using System.Globalization;
using System.IO.Compression;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Server.Activity;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Requirement">Its code in the audit's framework; empty for none.</param>
public sealed record NewRequest(string What, string Requirement, string Owner, DateOnly Due);

/// <param name="Remark">Asked for with Returned.</param>
public sealed record RequestAnswer(RequestState State, string Remark = "");

public sealed record RemarkRequest(string Text);

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

/// <summary>What an auditor asks for, what is offered for it, and what both say.</summary>
public static class AuditRequestEndpoints
{
    private const int MostCandidates = 200;

    public static void MapAuditRequests(this IEndpointRouteBuilder api)
    {
        api.MapPost("/audits/{id:long}/requests", Ask).RequiresSignIn();
        api.MapGet("/audits/{id:long}/requests/{number:int}/candidates", Candidates).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/offer", Offer).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/offers/{proof:long}/withdrawal", Withdraw)
            .RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/state", Answer).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/remarks", Remark).RequiresSignIn();
        api.MapGet("/audits/{id:long}/proofs/{proof:long}", Look).RequiresSignIn();
        api.MapGet("/audits/{id:long}/proofs/{proof:long}/file", LookAtFile).RequiresSignIn();
    }

    private static Task<Reply<Done>> Ask(long id, NewRequest request, [AsParameters] ApiContext context) =>
        AuditRoom.WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (string.IsNullOrWhiteSpace(request.What))
                {
                    return new("what-missing", "what", "Say what is asked for.");
                }

                long? requirement = null;
                if (request.Requirement.Length > 0)
                {
                    requirement = await session
                        .Db.Requirements.Where(r => r.FrameworkId == row.FrameworkId && r.Code == request.Requirement)
                        .Select(r => (long?)r.Id)
                        .SingleOrDefaultAsync(context.Cancel);
                    if (requirement is null)
                    {
                        return new(
                            "requirement-unknown",
                            "requirement",
                            $"The audit’s framework has no requirement “{request.Requirement}”."
                        );
                    }
                }

                var number = row.Requests.Select(r => r.Number).DefaultIfEmpty(0).Max() + 1;
                row.Requests.Add(
                    new()
                    {
                        Number = number,
                        What = request.What.Trim(),
                        RequirementId = requirement,
                        Owner = request.Owner.ToLowerInvariant(),
                        Due = LocalDate.FromDateOnly(request.Due),
                    }
                );
                session.Record(
                    "asked",
                    AuditRoom.Subject(id),
                    after: new JsonObject { ["request"] = number, ["what"] = request.What }
                );
                return null;
            },
            AuditRoom.Who.Auditor
        );

    /// <summary>Whether the caller brings evidence for a request: who manages readiness, and who it is asked of.</summary>
    private static bool MayBring(AuditRequest request, ApiContext context) =>
        context.Caller.May(Right.ManageReadiness)
        || (
            request.Owner.Length > 0
            && string.Equals(request.Owner, context.Caller.Mail, StringComparison.OrdinalIgnoreCase)
        );

    /// <summary>Why the caller changes nothing of what is offered for a request, or null.</summary>
    private static Refusal? NotBringing(AuditRequest request, string accepted, ApiContext context) =>
        !MayBring(request, context) ? Refusal.Forbidden("not-allowed", null, "Who is asked for it offers the evidence.")
        : request.State == RequestState.Accepted
            ? Refusal.Conflict("accepted", null, $"The auditor accepted this; {accepted}")
        : null;

    private sealed record Candidate(ControlPartRow Part, PartProof Proof, string Control, string Owner, bool Mapped);

    /// <summary>Proofs that can be offered, the latest first.</summary>
    /// <param name="unseen">
    /// With those that the caller may not see: who manages readiness hands them over by one press, without reading them.
    /// </param>
    private static async Task<IReadOnlyList<Candidate>> CandidatesAsync(
        WideKeelDb db,
        AuditRequest request,
        bool unseen,
        ApiContext context
    )
    {
        var proofs = await (
            from control in db.Controls
            from part in control.Parts
            from proof in part.Proofs
            orderby proof.Id descending
            select new
            {
                Part = part,
                Proof = proof,
                control.Code,
                control.Owner,
                Mapped = request.RequirementId != null
                    && control.Maps.Any(m => m.RequirementId == request.RequirementId),
            }
        )
            .AsNoTracking()
            .ToListAsync(context.Cancel);
        return
        [
            .. proofs
                .Where(p => unseen || ProofReaders.MaySee(p.Part, p.Owner, context.Caller))
                .Select(p => new Candidate(p.Part, p.Proof, p.Code, p.Owner, p.Mapped)),
        ];
    }

    private static CandidateView View(Candidate c, AuditRow audit, AuditRequest request) =>
        new(
            c.Proof.Id,
            c.Control,
            c.Part.Title,
            ControlViews.View(c.Proof),
            c.Mapped,
            AuditOffers.IsOutside(c.Proof.Day, audit),
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
        if (audit?.Requests.Find(r => r.Number == number) is not { } request || !MayBring(request, context))
        {
            return Problems.NotFound("request");
        }

        return (Outcome<IReadOnlyList<CandidateView>>)
            (await CandidatesAsync(context.Db, request, false, context))
                .Where(c => ProofReaders.IsForAuditors(c.Part))
                .Where(c =>
                    string.IsNullOrWhiteSpace(search)
                    || $"{c.Control} {c.Part.Title} {c.Proof.Says} {c.Proof.FileName}".Contains(
                        search.Trim(),
                        StringComparison.OrdinalIgnoreCase
                    )
                )
                .OrderByDescending(c => c.Mapped)
                .Take(MostCandidates)
                .Select(c => View(c, audit, request))
                .ToList();
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

        var unseen = request.Proofs is null && context.Caller.May(Right.ManageReadiness);
        var all = await CandidatesAsync(session.Db, asked, unseen, context);
        var wanted = request.Proofs is { } ids
            ? all.Where(c => ids.Contains(c.Proof.Id)).ToList()
            : [.. Latest(all.Where(c => c.Mapped), row)];
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

        var outside = request.Proofs is null ? open.Where(c => AuditOffers.IsOutside(c.Proof.Day, row)).ToList() : [];
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

    /// <summary>Of each part its latest proof within the period, or where it has none its latest.</summary>
    private static IEnumerable<Candidate> Latest(IEnumerable<Candidate> mapped, AuditRow audit) =>
        mapped
            .GroupBy(c => c.Part.Id)
            .Select(g => g.FirstOrDefault(c => !AuditOffers.IsOutside(c.Proof.Day, audit)) ?? g.First());

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
        AddRemark(
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

    private static Task<Reply<Done>> Answer(
        long id,
        int number,
        RequestAnswer request,
        [AsParameters] ApiContext context
    ) =>
        AuditRoom.RequestAsync(
            id,
            number,
            context,
            (session, row, asked) =>
            {
                if (NotAnswering(row, asked, request, context) is { } refusal)
                {
                    return Task.FromResult<Refusal?>(refusal);
                }

                var before = asked.State;
                asked.State = request.State;
                AddRemark(session, asked, context.Caller.Name, request.Remark);
                session.Record(
                    request.State.ToString().ToLowerInvariant(),
                    AuditRoom.Subject(id),
                    new JsonObject { ["request"] = number, ["state"] = before.ToString().ToLowerInvariant() },
                    new JsonObject
                    {
                        ["request"] = number,
                        ["proofs"] = new JsonArray([.. AuditOffers.In(asked).Select(o => (JsonNode?)o.Hash)]),
                    },
                    request.Remark
                );
                return Task.FromResult<Refusal?>(null);
            },
            AuditRoom.Who.Owner
        );

    /// <summary>Why the caller does not set a request to a state, or null.</summary>
    private static Refusal? NotAnswering(AuditRow row, AuditRequest asked, RequestAnswer request, ApiContext context)
    {
        var auditor = AuditRoom.IsAuditor(row, context.Caller, context.Calendar.Today);
        var allowed = request.State switch
        {
            RequestState.Accepted or RequestState.Returned => auditor,
            // What was accepted is the auditor's to take back, by returning it with a reason.
            _ => asked.State != RequestState.Accepted && MayBring(asked, context),
        };
        if (!allowed)
        {
            return Refusal.Forbidden(
                "not-allowed",
                null,
                auditor ? "Only the organisation says that a request is ready."
                    : asked.State == RequestState.Accepted
                        ? "The auditor accepted this; only the auditor takes that back."
                    : "Only the auditor accepts or returns evidence."
            );
        }

        if (request.State == RequestState.Returned && string.IsNullOrWhiteSpace(request.Remark))
        {
            return new("remark-missing", "remark", "Say what is missing, so that it can be brought.");
        }

        if (request.State == RequestState.Accepted && !AuditOffers.In(asked).Any())
        {
            return Refusal.Conflict("nothing-offered", null, "Nothing is offered that could be accepted.");
        }

        return null;
    }

    private static Task<Reply<Done>> Remark(
        long id,
        int number,
        RemarkRequest request,
        [AsParameters] ApiContext context
    ) =>
        AuditRoom.RequestAsync(
            id,
            number,
            context,
            (session, row, asked) =>
            {
                if (!AuditRoom.MayWork(row, context) && !MayBring(asked, context))
                {
                    return Task.FromResult<Refusal?>(Problems.NotFound("request"));
                }

                if (string.IsNullOrWhiteSpace(request.Text))
                {
                    return Task.FromResult<Refusal?>(new("text-missing", "text", "Write the question or the answer."));
                }

                AddRemark(session, asked, context.Caller.Name, request.Text);
                session.Record("remarked", AuditRoom.Subject(id), after: new JsonObject { ["request"] = number });
                return Task.FromResult<Refusal?>(null);
            },
            AuditRoom.Who.Owner
        );

    private static void AddRemark(WriteSession session, AuditRequest request, string by, string text)
    {
        if (text.Trim().Length > 0)
        {
            request.Remarks.Add(
                new()
                {
                    At = session.Now,
                    By = by,
                    Text = text.Trim(),
                }
            );
        }
    }

    private static async Task<AuditOffer?> OfferedAsync(long id, long proof, ApiContext context)
    {
        var audit = await context
            .Db.Audits.AsNoTracking()
            .Include(a => a.Requests)
                .ThenInclude(r => r.Offers)
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (
            audit is null
            || !AuditRoom.MaySee(audit, context)
            || audit.Requests.SelectMany(AuditOffers.In).FirstOrDefault(o => o.ProofId == proof) is not { } offer
            || (await AuditOffers.HiddenAsync(audit, context)).Contains(proof)
        )
        {
            return null;
        }

        await AuditRoom.NoteLookAsync(audit, string.Create(CultureInfo.InvariantCulture, $"proof {proof}"), context);
        return offer;
    }

    private static async Task<Reply<ProofDetail>> Look(long id, long proof, [AsParameters] ApiContext context)
    {
        if (await OfferedAsync(id, proof, context) is not { } offer)
        {
            return Problems.NotFound("proof in this room");
        }

        var frozen = AuditOffers.Of(offer);
        return new ProofDetail(frozen.Proof, "", frozen.Proof.Says, ProofEndpoints.FactsOf(frozen.Facts));
    }

    private static async Task<IResult> LookAtFile(
        long id,
        long proof,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    ) =>
        await OfferedAsync(id, proof, context) is { } offer
        && AuditOffers.Of(offer).Proof is { FileName.Length: > 0 } found
            ? StoredFiles.Send(found.Hash, found.FileName, options)
            : (Reply<Done>)Problems.NotFound("file in this room");
}
