using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Readiness;

/// <summary>
/// The investigations that the findings of an audit rest on. Whoever attaches one hands its frozen events to everybody
/// who may see the audit, its auditor too.
/// </summary>
public static class FindingInvestigations
{
    public static void MapFindingInvestigations(this IEndpointRouteBuilder api)
    {
        api.MapPost("/audits/{id:long}/findings/{finding:long}/investigations", Attach).Requires(Right.ReadActivity);
        api.MapGet("/audits/{id:long}/findings/{finding:long}/investigations/{investigation:long}/file", File)
            .RequiresSignIn();
    }

    private static Task<Reply<Done>> Attach(
        long id,
        long finding,
        InvestigationChoice request,
        [AsParameters] ApiContext context
    ) =>
        AuditRoom.WorkAsync(
            id,
            context,
            async (session, row) =>
                row.Findings.Exists(f => f.Id == finding)
                    ? await AlertInvestigations.AttachAsync(
                        session,
                        new() { InvestigationId = request.InvestigationId, FindingId = finding },
                        AuditRoom.Subject(id),
                        context
                    )
                    : Problems.NotFound("finding")
        );

    /// <summary>Those of some findings, by the finding.</summary>
    internal static async Task<ILookup<long, AttachedInvestigation>> OfAsync(
        IReadOnlyList<long> findings,
        ApiContext context
    )
    {
        var links = await context
            .Db.InvestigationLinks.AsNoTracking()
            .Where(l => l.FindingId != null && findings.Contains(l.FindingId.Value))
            .OrderBy(l => l.Id)
            .ToListAsync(context.Cancel);
        var ids = links.Select(l => l.InvestigationId).ToList();
        var attached = await AlertInvestigations.ViewsAsync(
            await context
                .Db.Investigations.AsNoTracking()
                .Include(i => i.Events)
                .Where(i => ids.Contains(i.Id))
                .ToListAsync(context.Cancel),
            context
        );
        return links.ToLookup(l => l.FindingId!.Value, l => attached.Single(a => a.Id == l.InvestigationId));
    }

    private static async Task<IResult> File(
        long id,
        long finding,
        long investigation,
        ArchiveFiles archive,
        [AsParameters] ApiContext context
    )
    {
        var audit = await AuditRoom
            .Whole(context.Db)
            .AsNoTracking()
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        var attached =
            audit is not null && AuditRoom.MaySee(audit, context) && audit.Findings.Exists(f => f.Id == finding)
                ? await context
                    .Db.Investigations.AsNoTracking()
                    .Include(i => i.Events)
                    .SingleOrDefaultAsync(
                        i =>
                            i.Id == investigation
                            && context.Db.InvestigationLinks.Any(l =>
                                l.InvestigationId == i.Id && l.FindingId == finding
                            ),
                        context.Cancel
                    )
                : null;
        if (attached is null)
        {
            return (Reply<Done>)Problems.NotFound("investigation");
        }

        await AuditRoom.NoteLookAsync(audit!, $"the investigation “{attached.Name}”", context);
        return await InvestigationEndpoints.FileAsync(attached, archive, context);
    }
}
