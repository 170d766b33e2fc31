using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>A part of a control with the control that it is of.</summary>
public sealed record MyPart(long ControlId, string Control, string ControlTitle, long Revision, PartView Part);

public sealed record MyRequest(
    long AuditId,
    string Audit,
    int Number,
    string What,
    LocalDate Due,
    RequestState State,
    IReadOnlyList<RemarkView> Remarks
);

public sealed record MyAction(
    long AuditId,
    long FindingId,
    string Audit,
    string Finding,
    string Severity,
    string Response,
    string Action,
    string Owner,
    LocalDate? Due
);

/// <param name="Parts">Evidence and routines that the caller brings, and what is kept for a role of theirs.</param>
/// <param name="Requests">Of audits that are not closed, for which the caller is named.</param>
/// <param name="Actions">On findings that are not settled, for which the caller is named.</param>
public sealed record MyEvidenceView(
    IReadOnlyList<MyPart> Parts,
    IReadOnlyList<MyRequest> Requests,
    IReadOnlyList<MyAction> Actions
);

/// <summary>What the readiness of the organisation has to do with one person, whatever else they may read.</summary>
public static class MyEvidence
{
    public static void MapMyEvidence(this IEndpointRouteBuilder api) =>
        api.MapGet("/evidence/mine", Show).RequiresSignIn();

    private static async Task<Reply<MyEvidenceView>> Show([AsParameters] ApiContext context)
    {
        var mail = context.Caller.Mail.ToLowerInvariant();
        var today = context.Calendar.Today;
        var parts = await (
            from part in context.Db.ControlParts.Include(p => p.Proofs)
            join control in context.Db.Controls on part.ControlId equals control.Id
            where
                part.Kind != PartKind.Test
                && (part.Doer == mail || part.Deputy == mail || control.Owner == mail || part.SeenBy.Count > 0)
            orderby control.Code, part.Id
            select new { Part = part, Control = control }
        )
            .AsNoTracking()
            .ToListAsync(context.Cancel);
        return new MyEvidenceView(
            [
                .. parts
                    .Where(p => ProofReaders.MaySee(p.Part, p.Control.Owner, context.Caller))
                    .Select(p => new MyPart(
                        p.Control.Id,
                        p.Control.Code,
                        p.Control.Title,
                        p.Control.Version,
                        ControlViews.View(p.Part, p.Control.Owner, today, context.Caller)
                    )),
            ],
            await RequestsAsync(mail, context),
            await ActionsAsync(mail, context)
        );
    }

    private static async Task<IReadOnlyList<MyRequest>> RequestsAsync(string mail, ApiContext context)
    {
        var found = await (
            from request in context.Db.AuditRequests.Include(r => r.Remarks)
            join audit in context.Db.Audits on request.AuditId equals audit.Id
            where audit.ClosedAt == null && request.State != RequestState.Accepted && request.Owner == mail
            orderby request.Due
            select new { Request = request, audit.Name }
        )
            .AsNoTracking()
            .ToListAsync(context.Cancel);
        return found.ConvertAll(r => new MyRequest(
            r.Request.AuditId,
            r.Name,
            r.Request.Number,
            r.Request.What,
            r.Request.Due,
            r.Request.State,
            [.. r.Request.Remarks.OrderBy(m => m.Id).Select(m => new RemarkView(m.At, m.By, m.Text))]
        ));
    }

    private static async Task<IReadOnlyList<MyAction>> ActionsAsync(string mail, ApiContext context) =>
        await (
            from finding in context.Db.Set<AuditFinding>()
            join audit in context.Db.Audits on finding.AuditId equals audit.Id
            where finding.DoneOn == null && audit.ClosedAt == null && finding.Owner == mail
            orderby finding.Due
            select new MyAction(
                audit.Id,
                finding.Id,
                audit.Name,
                finding.Title,
                finding.Severity,
                finding.Response,
                finding.Action,
                finding.Owner,
                finding.Due
            )
        ).ToListAsync(context.Cancel);
}
