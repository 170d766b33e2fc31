using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Requirement">Its code in the audit's framework; empty for none.</param>
public sealed record NewRequest(string What, string Requirement, string Owner, DateOnly Due);

/// <param name="Remark">Asked for with Returned.</param>
public sealed record RequestAnswer(RequestState State, string Remark = "");

public sealed record RemarkRequest(string Text);

/// <summary>What an auditor asks for, what is offered for it, and what both say.</summary>
public static class AuditRequestEndpoints
{
    public static void MapAuditRequests(this IEndpointRouteBuilder api)
    {
        api.MapPost("/audits/{id:long}/requests", Ask).RequiresSignIn();
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
    internal static bool MayBring(AuditRequest request, ApiContext context) =>
        context.Caller.May(Right.ManageReadiness)
        || (
            request.Owner.Length > 0
            && string.Equals(request.Owner, context.Caller.Mail, StringComparison.OrdinalIgnoreCase)
        );

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

    internal static void AddRemark(WriteSession session, AuditRequest request, string by, string text)
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
