using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>What was found: the auditor's words.</summary>
public sealed record FindingRequest(string Title, string Severity, string Control);

/// <summary>What the organisation does about it.</summary>
/// <param name="Done">The organisation says that it is done; the auditor verifies it.</param>
public sealed record FindingResponse(string Response, string Action, string Owner, DateOnly? Due, bool Done = false);

/// <param name="Verified">False returns it to the organisation, with a remark.</param>
public sealed record FindingVerification(bool Verified, string Remark = "");

/// <summary>
/// Findings: the auditor writes and verifies them, the organisation answers them, and every word keeps its history.
/// </summary>
public static class AuditFindingEndpoints
{
    public static void MapAuditFindings(this IEndpointRouteBuilder api)
    {
        api.MapPost("/audits/{id:long}/findings", Find).RequiresSignIn();
        api.MapPut("/audits/{id:long}/findings/{finding:long}", Word).RequiresSignIn();
        api.MapPut("/audits/{id:long}/findings/{finding:long}/response", Respond).RequiresSignIn();
        api.MapPost("/audits/{id:long}/findings/{finding:long}/verification", Verify).RequiresSignIn();
    }

    internal static FindingView View(
        AuditFinding f,
        AuditRow audit,
        IReadOnlyList<AttachedInvestigation> investigations,
        ApiContext context
    ) =>
        new(
            f.Id,
            f.Title,
            f.Severity,
            f.Control,
            f.FoundBy,
            f.Response,
            f.Action,
            f.Owner,
            f.Due,
            f.DoneOn,
            f.VerifiedAt,
            f.VerifiedBy,
            MayWord(f, audit, context),
            f.DoneOn is not null && f.VerifiedAt is null && NotVerifier(f, audit, context) is null,
            investigations,
            [.. f.Changes.OrderBy(c => c.Id).Select(c => new FindingChangeView(c.At, c.By, c.Field, c.Before, c.After))]
        );

    /// <summary>Whether the words of a finding are the caller's: they found it, and it is not closed.</summary>
    private static bool MayWord(AuditFinding finding, AuditRow audit, ApiContext context) =>
        finding.VerifiedAt is null
        && audit.ClosedAt is null
        && finding.FoundById == context.Caller.PersonId
        && AuditRoom.MayWork(audit, context);

    /// <summary>
    /// Why the caller does not verify a finding, or null: the audit's auditor does; in an audit without one somebody who
    /// manages readiness, who neither did it nor answers for it.
    /// </summary>
    private static Refusal? NotVerifier(AuditFinding finding, AuditRow audit, ApiContext context)
    {
        if (audit.Auditor.Length > 0)
        {
            return AuditRoom.IsAuditor(audit, context.Caller, context.Calendar.Today)
                ? null
                : Refusal.Forbidden("not-auditor", null, "The auditor verifies a finding and closes it.");
        }

        if (!context.Caller.May(Right.ManageReadiness))
        {
            return Refusal.Forbidden("not-allowed", null, "Who manages readiness verifies a finding.");
        }

        return context.Caller.NotSecondTo(finding.DoneById, "You said that it is done; somebody else verifies it.")
                is { } own
                ? Refusal.Forbidden("own-finding", null, own)
            : string.Equals(finding.Owner, context.Caller.Mail, StringComparison.OrdinalIgnoreCase)
                ? Refusal.Forbidden("own-finding", null, "You answer for it; somebody else verifies it.")
            : null;
    }

    private static async Task<Refusal?> CheckAsync(FindingRequest request, WideKeelDb db, CancellationToken cancel) =>
        string.IsNullOrWhiteSpace(request.Title) ? new("title-missing", "title", "A finding needs a title.")
        : request.Severity is not ("minor" or "major" or "observation")
            ? new("severity-malformed", "severity", "A finding is an observation, minor or major.")
        : request.Control.Length > 0 && !await db.Controls.AnyAsync(c => c.Code == request.Control, cancel)
            ? new("control-unknown", "control", $"There is no control “{request.Control}”.")
        : null;

    /// <summary>Sets one word of a finding, with its history; nothing where it stays.</summary>
    private static void Set(
        AuditFinding finding,
        string field,
        string before,
        string after,
        WriteSession session,
        JsonObject changed
    )
    {
        if (before == after)
        {
            return;
        }

        finding.Changes.Add(
            new()
            {
                At = session.Now,
                By = session.Actor.Who,
                Field = field,
                Before = before,
                After = after,
            }
        );
        changed[field] = new JsonObject { ["before"] = before, ["after"] = after };
    }

    private static string Iso(LocalDate? day) => day is { } on ? LocalDatePattern.Iso.Format(on) : "";

    private static Task<Reply<Done>> Find(long id, FindingRequest request, [AsParameters] ApiContext context) =>
        AuditRoom.WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (await CheckAsync(request, session.Db, context.Cancel) is { } refusal)
                {
                    return refusal;
                }

                var finding = new AuditFinding
                {
                    Title = request.Title.Trim(),
                    Severity = request.Severity,
                    Control = request.Control,
                    FoundBy = context.Caller.Name,
                    FoundById = context.Caller.PersonId,
                };
                row.Findings.Add(finding);
                session.Record(
                    "found",
                    AuditRoom.Subject(id),
                    after: new JsonObject
                    {
                        ["finding"] = finding.Title,
                        ["severity"] = finding.Severity,
                        ["control"] = finding.Control,
                    }
                );
                return null;
            },
            AuditRoom.Who.Auditor
        );

    private static Task<Reply<Done>> FindingAsync(
        long id,
        long finding,
        ApiContext context,
        Func<WriteSession, AuditRow, AuditFinding, Task<Refusal?>> work
    ) =>
        AuditRoom.WorkAsync(
            id,
            context,
            async (session, row) =>
                row.Findings.Find(f => f.Id == finding) is not { } found ? Problems.NotFound("finding")
                : found.VerifiedAt is not null
                    ? Refusal.Conflict("finding-closed", null, "The finding is verified and closed.")
                : await work(session, row, found),
            AuditRoom.Who.Owner
        );

    private static Task<Reply<Done>> Word(
        long id,
        long finding,
        FindingRequest request,
        [AsParameters] ApiContext context
    ) =>
        FindingAsync(
            id,
            finding,
            context,
            async (session, row, found) =>
            {
                if (!MayWord(found, row, context))
                {
                    return Refusal.Forbidden(
                        "not-yours",
                        null,
                        $"The words of a finding are {found.FoundBy}’s, who found it; answer it with a response."
                    );
                }

                if (await CheckAsync(request, session.Db, context.Cancel) is { } refusal)
                {
                    return refusal;
                }

                JsonObject changed = new() { ["finding"] = found.Title };
                Set(found, "title", found.Title, request.Title.Trim(), session, changed);
                Set(found, "severity", found.Severity, request.Severity, session, changed);
                Set(found, "control", found.Control, request.Control, session, changed);
                (found.Title, found.Severity, found.Control) = (
                    request.Title.Trim(),
                    request.Severity,
                    request.Control
                );
                session.Record("finding-changed", AuditRoom.Subject(id), after: changed);
                return null;
            }
        );

    private static Task<Reply<Done>> Respond(
        long id,
        long finding,
        FindingResponse request,
        [AsParameters] ApiContext context
    ) =>
        FindingAsync(
            id,
            finding,
            context,
            (session, _, found) =>
            {
                var isOwner =
                    found.Owner.Length > 0
                    && string.Equals(found.Owner, context.Caller.Mail, StringComparison.OrdinalIgnoreCase);
                if (!context.Caller.May(Right.ManageReadiness) && !isOwner)
                {
                    return Task.FromResult<Refusal?>(
                        Refusal.Forbidden("not-allowed", null, "The organisation answers a finding.")
                    );
                }

                JsonObject changed = new() { ["finding"] = found.Title };
                var owner = request.Owner.Trim().ToLowerInvariant();
                LocalDate? due = request.Due is { } day ? LocalDate.FromDateOnly(day) : null;
                LocalDate? done = request.Done ? found.DoneOn ?? context.Calendar.Today : null;
                Set(found, "response", found.Response, request.Response.Trim(), session, changed);
                Set(found, "action", found.Action, request.Action.Trim(), session, changed);
                Set(found, "owner", found.Owner, owner, session, changed);
                Set(found, "due", Iso(found.Due), Iso(due), session, changed);
                Set(found, "done", Iso(found.DoneOn), Iso(done), session, changed);
                found.DoneById =
                    done is null ? null
                    : found.DoneOn is null ? context.Caller.PersonId
                    : found.DoneById;
                (found.Response, found.Action, found.Owner, found.Due, found.DoneOn) = (
                    request.Response.Trim(),
                    request.Action.Trim(),
                    owner,
                    due,
                    done
                );
                session.Record("finding-answered", AuditRoom.Subject(id), after: changed);
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Verify(
        long id,
        long finding,
        FindingVerification request,
        [AsParameters] ApiContext context
    ) =>
        FindingAsync(
            id,
            finding,
            context,
            (session, row, found) =>
            {
                if (NotVerifier(found, row, context) is { } other)
                {
                    return Task.FromResult<Refusal?>(other);
                }

                if (found.DoneOn is null)
                {
                    return Task.FromResult<Refusal?>(
                        Refusal.Conflict("not-done", null, "The organisation has not said yet that it is done.")
                    );
                }

                if (!request.Verified && string.IsNullOrWhiteSpace(request.Remark))
                {
                    return Task.FromResult<Refusal?>(
                        new("remark-missing", "remark", "Say what is missing, so that it can be done.")
                    );
                }

                JsonObject changed = new() { ["finding"] = found.Title };
                if (request.Verified)
                {
                    (found.VerifiedAt, found.VerifiedBy) = (session.Now, context.Caller.Name);
                    Set(found, "verified", "", $"verified {request.Remark.Trim()}".TrimEnd(), session, changed);
                }
                else
                {
                    Set(found, "returned", $"done {Iso(found.DoneOn)}", request.Remark.Trim(), session, changed);
                    (found.DoneOn, found.DoneById) = (null, null);
                }

                session.Record(
                    request.Verified ? "finding-verified" : "finding-returned",
                    AuditRoom.Subject(id),
                    after: changed,
                    reason: request.Remark
                );
                return Task.FromResult<Refusal?>(null);
            }
        );
}
