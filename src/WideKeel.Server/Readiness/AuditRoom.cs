using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>Who may see and change the room of an audit, and what is in it.</summary>
internal static class AuditRoom
{
    public static IQueryable<AuditRow> Whole(WideKeelDb db) =>
        db
            .Audits.Include(a => a.Requests)
                .ThenInclude(r => r.Remarks)
            .Include(a => a.Requests)
                .ThenInclude(r => r.Offers)
            .Include(a => a.Samples)
            .Include(a => a.Findings)
                .ThenInclude(f => f.Changes)
            .Include(a => a.Populations)
            .AsSplitQuery();

    /// <summary>Whether the caller is the audit's auditor, while its room is open to them.</summary>
    public static bool IsAuditor(AuditRow audit, Caller caller, LocalDate today) =>
        audit.Auditor.Length > 0
        && string.Equals(audit.Auditor, caller.Mail, StringComparison.OrdinalIgnoreCase)
        && audit.ClosedAt is null
        && today >= audit.StartsOn
        && today <= audit.EndsOn;

    /// <summary>Whether the caller may see an audit: as one of its organisation, or as its auditor while it lasts.</summary>
    public static bool MaySee(AuditRow audit, ApiContext context) =>
        context.Caller.May(Right.ReadReadiness) || IsAuditor(audit, context.Caller, context.Calendar.Today);

    /// <summary>Whether the caller may ask, sample and find in an audit: who runs it, and its auditor while it lasts.</summary>
    public static bool MayWork(AuditRow audit, ApiContext context) =>
        context.Caller.May(Right.ManageReadiness) || IsAuditor(audit, context.Caller, context.Calendar.Today);

    /// <summary>Writes down what an auditor looked at.</summary>
    public static async Task NoteLookAsync(AuditRow audit, string what, ApiContext context)
    {
        if (!IsAuditor(audit, context.Caller, context.Calendar.Today))
        {
            return;
        }

        await context.Writer.RunAsync(
            context.Caller.Actor,
            session =>
            {
                session.Record("looked", Subject(audit.Id), after: new JsonObject { ["at"] = what });
                return Task.CompletedTask;
            },
            context.Cancel
        );
    }

    public static async Task<AuditView> ViewAsync(AuditRow audit, ApiContext context)
    {
        var framework = await context
            .Db.Frameworks.AsNoTracking()
            .Include(f => f.Requirements)
            .SingleAsync(f => f.Id == audit.FrameworkId, context.Cancel);
        var requirements = framework.Requirements.ToDictionary(r => r.Id, r => $"{r.Code} {r.Title}");
        var hidden = await AuditOffers.HiddenAsync(audit, context);
        var investigations = await FindingInvestigations.OfAsync([.. audit.Findings.Select(f => f.Id)], context);
        return new(
            audit.Id,
            new(
                audit.Name,
                framework.Code,
                audit.Auditor,
                audit.PeriodFrom.ToDateOnly(),
                audit.PeriodThrough.ToDateOnly(),
                audit.StartsOn.ToDateOnly(),
                audit.EndsOn.ToDateOnly()
            ),
            framework.Title,
            audit.ClosedAt,
            IsAuditor(audit, context.Caller, context.Calendar.Today),
            [
                .. audit
                    .Requests.OrderBy(r => r.Number)
                    .Select(r => new RequestView(
                        r.Id,
                        r.Number,
                        r.What,
                        r.RequirementId is { } requirement ? requirements.GetValueOrDefault(requirement) : null,
                        r.Owner,
                        r.Due,
                        r.State,
                        [
                            .. AuditOffers
                                .In(r)
                                .Where(o => !hidden.Contains(o.ProofId))
                                .Select(o => AuditOffers.View(o, audit)),
                        ],
                        [.. r.Remarks.OrderBy(m => m.Id).Select(m => new RemarkView(m.At, m.By, m.Text))]
                    )),
            ],
            [.. audit.Samples.OrderBy(s => s.Id).Select(s => AuditSampleEndpoints.View(s, audit, context))],
            [
                .. audit
                    .Findings.OrderBy(f => f.Id)
                    .Select(f => AuditFindingEndpoints.View(f, audit, [.. investigations[f.Id]], context)),
            ],
            [
                .. audit
                    .Populations.OrderBy(p => p.Id)
                    .Select(p => new PopulationView(p.Id, p.Title, p.Size, p.Hash, p.OpenedAt, p.OpenedBy)),
            ],
            audit.Version
        );
    }

    /// <summary>Who may do something in a room.</summary>
    public enum Who
    {
        /// <summary>Who manages readiness.</summary>
        Manager,

        /// <summary>They and the audit's auditor.</summary>
        Auditor,

        /// <summary>
        /// Everybody who sees the room, and who answers for a request or finding in it; what each may do is asked of that.
        /// </summary>
        Owner,
    }

    /// <summary>Changes an audit that is not closed.</summary>
    public static async Task<Reply<T>> WorkAsync<T>(
        long id,
        ApiContext context,
        Func<WriteSession, AuditRow, Task<Outcome<T>>> work,
        Who who = Who.Manager
    ) =>
        await context.Writer.RunAsync<T>(
            context.Caller.Actor,
            async session =>
            {
                var row = await Whole(session.Db).SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
                if (row is null || !May(row, who, context))
                {
                    return Problems.NotFound("audit");
                }

                if (row.ClosedAt is not null)
                {
                    return Refusal.Conflict("audit-closed", null, "The audit is closed; nothing in its room changes.");
                }

                var outcome = await work(session, row);
                row.Version += outcome.Refused ? 0 : 1;
                return outcome;
            },
            context.Cancel
        );

    private static bool May(AuditRow row, Who who, ApiContext context) =>
        who switch
        {
            Who.Manager => context.Caller.May(Right.ManageReadiness),
            Who.Auditor => MayWork(row, context),
            _ => MaySee(row, context)
                || row.Requests.Select(r => r.Owner)
                    .Concat(row.Findings.Select(f => f.Owner))
                    .Contains(context.Caller.Mail, StringComparer.OrdinalIgnoreCase),
        };

    /// <summary>The same for a change that answers nothing.</summary>
    public static Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, AuditRow, Task<Refusal?>> work,
        Who who = Who.Manager
    ) =>
        WorkAsync<Done>(
            id,
            context,
            async (session, row) => await work(session, row) is { } refusal ? refusal : new Done(),
            who
        );

    /// <summary>Changes one request of an audit.</summary>
    public static Task<Reply<T>> RequestAsync<T>(
        long id,
        int number,
        ApiContext context,
        Func<WriteSession, AuditRow, AuditRequest, Task<Outcome<T>>> work,
        Who who
    ) =>
        WorkAsync<T>(
            id,
            context,
            async (session, row) =>
                row.Requests.Find(r => r.Number == number) is { } request
                    ? await work(session, row, request)
                    : Problems.NotFound("request"),
            who
        );

    /// <summary>The same for a change that answers nothing.</summary>
    public static Task<Reply<Done>> RequestAsync(
        long id,
        int number,
        ApiContext context,
        Func<WriteSession, AuditRow, AuditRequest, Task<Refusal?>> work,
        Who who
    ) =>
        RequestAsync<Done>(
            id,
            number,
            context,
            async (session, row, request) => await work(session, row, request) is { } refusal ? refusal : new Done(),
            who
        );

    public static LedgerSubject Subject(long id) => LedgerSubject.Of("audit", id);
}
