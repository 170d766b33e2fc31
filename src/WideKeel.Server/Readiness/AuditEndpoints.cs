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

/// <summary>
/// Audits: planned, changed, closed, and exported. The auditor's account sees the audits that it is invited to, while they
/// last, and every look of theirs is an entry of the ledger.
/// </summary>
public static class AuditEndpoints
{
    public static void MapAudits(this IEndpointRouteBuilder api)
    {
        api.MapGet("/audits", List).RequiresSignIn();
        api.MapPost("/audits", Make).Requires(Right.ManageReadiness);
        api.MapGet("/audits/{id:long}", One).RequiresSignIn();
        api.MapPut("/audits/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapPost("/audits/{id:long}/closing", Close).Requires(Right.ManageReadiness);
        api.MapGet("/audits/{id:long}/room.zip", Export).RequiresSignIn();
    }

    private static async Task<Reply<IReadOnlyList<AuditView>>> List([AsParameters] ApiContext context)
    {
        var audits = await AuditRoom
            .Whole(context.Db)
            .AsNoTracking()
            .OrderBy(a => a.StartsOn)
            .ToListAsync(context.Cancel);
        List<AuditView> views = [];
        foreach (var audit in audits.Where(a => AuditRoom.MaySee(a, context)))
        {
            views.Add(await AuditRoom.ViewAsync(audit, context));
        }

        return (Outcome<IReadOnlyList<AuditView>>)views;
    }

    private static async Task<Reply<AuditView>> One(long id, [AsParameters] ApiContext context)
    {
        var audit = await AuditRoom
            .Whole(context.Db)
            .AsNoTracking()
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (audit is null || !AuditRoom.MaySee(audit, context))
        {
            return Problems.NotFound("audit");
        }

        await AuditRoom.NoteLookAsync(audit, "the room", context);
        return await AuditRoom.ViewAsync(audit, context);
    }

    private static async Task<Outcome<FrameworkRow>> CheckAsync(
        AuditSettings s,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrWhiteSpace(s.Name) || s.Name.Length > 200)
        {
            return new Refusal("name-missing", "name", "An audit needs a name of at most 200 characters.");
        }

        if (s.PeriodThrough < s.PeriodFrom || s.EndsOn < s.StartsOn)
        {
            return new Refusal("period-malformed", "endsOn", "A period ends on or after the day on which it begins.");
        }

        if (s.Auditor.Length > 0 && !MailAddress.IsOne(s.Auditor))
        {
            return new Refusal("auditor-malformed", "auditor", $"“{s.Auditor}” is no mail address.");
        }

        return await db.Frameworks.SingleOrDefaultAsync(f => f.Code == s.Framework, cancel) is { } framework
            ? framework
            : new Refusal("framework-unknown", "framework", $"The framework “{s.Framework}” is not adopted.");
    }

    private static void Apply(AuditRow row, AuditSettings s)
    {
        (row.Name, row.Auditor) = (s.Name.Trim(), s.Auditor.Trim().ToLowerInvariant());
        (row.PeriodFrom, row.PeriodThrough) = (
            LocalDate.FromDateOnly(s.PeriodFrom),
            LocalDate.FromDateOnly(s.PeriodThrough)
        );
        (row.StartsOn, row.EndsOn) = (LocalDate.FromDateOnly(s.StartsOn), LocalDate.FromDateOnly(s.EndsOn));
    }

    private static async Task<Reply<Done>> Make(AuditSettings request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var framework = await CheckAsync(request, session.Db, context.Cancel);
                if (framework.Refusal is { } refusal)
                {
                    return refusal;
                }

                var row = new AuditRow { Name = request.Name, FrameworkId = framework.Value.Id };
                Apply(row, request);
                session.Db.Audits.Add(row);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record("planned", AuditRoom.Subject(row.Id), after: new JsonObject { ["name"] = row.Name });
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> Change(long id, AuditSettings request, [AsParameters] ApiContext context) =>
        AuditRoom.WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (Problems.CheckMatch(context.Http, row.Version) is { } stale)
                {
                    return stale;
                }

                var framework = await CheckAsync(request, session.Db, context.Cancel);
                if (framework.Refusal is { } refusal)
                {
                    return refusal;
                }

                if (framework.Value.Id != row.FrameworkId)
                {
                    return new Refusal(
                        "framework-fixed",
                        "framework",
                        "The framework of an audit stays; plan another one."
                    );
                }

                var before = Plan(row);
                Apply(row, request);
                session.Record("changed", AuditRoom.Subject(id), before, Plan(row));
                return null;
            }
        );

    /// <summary>The plan as the ledger keeps it: who may see the room, and when.</summary>
    private static JsonObject Plan(AuditRow row) =>
        new()
        {
            ["name"] = row.Name,
            ["auditor"] = row.Auditor,
            ["period"] =
                $"{LocalDatePattern.Iso.Format(row.PeriodFrom)}/{LocalDatePattern.Iso.Format(row.PeriodThrough)}",
            ["open"] = $"{LocalDatePattern.Iso.Format(row.StartsOn)}/{LocalDatePattern.Iso.Format(row.EndsOn)}",
        };

    private static Task<Reply<Done>> Close(long id, [AsParameters] ApiContext context) =>
        AuditRoom.WorkAsync(
            id,
            context,
            (session, row) =>
            {
                row.ClosedAt = session.Now;
                session.Record("closed", AuditRoom.Subject(id));
                return Task.FromResult<Refusal?>(null);
            }
        );

    /// <summary>The whole room as a ZIP: the plan and requests, each proof, files, and OSCAL assessment results.</summary>
    private static async Task<IResult> Export(long id, WideKeelOptions options, [AsParameters] ApiContext context)
    {
        var audit = await AuditRoom
            .Whole(context.Db)
            .AsNoTracking()
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (audit is null || !AuditRoom.MaySee(audit, context))
        {
            return (Reply<Done>)Problems.NotFound("audit");
        }

        await AuditRoom.NoteLookAsync(audit, "the whole room as a file", context);
        var view = await AuditRoom.ViewAsync(audit, context);
        var shown = view.Requests.SelectMany(r => r.Offered.Select(o => o.Id)).ToHashSet();
        var offers = audit
            .Requests.SelectMany(AuditOffers.In)
            .Where(o => shown.Contains(o.ProofId))
            .DistinctBy(o => o.ProofId)
            .ToList();
        // Files of the room may be hundreds of megabytes: it is gathered on the disk, and gone once it is sent.
        var whole = new FileStream(
            Path.GetTempFileName(),
            FileMode.Create,
            FileAccess.ReadWrite,
            FileShare.None,
            81_920,
            FileOptions.DeleteOnClose
        );
        using (var zip = new ZipArchive(whole, ZipArchiveMode.Create, leaveOpen: true))
        {
            var room = new RoomArchive(zip);
            room.Write("room.json", JsonSerializer.Serialize(view, Json.Options));
            room.Write(
                "assessment-results.oscal.json",
                AssessmentResults.Of(view, context.Calendar.Today).ToJsonString()
            );
            foreach (var offer in offers)
            {
                room.Write(offer, options);
            }

            room.Close();
        }

        whole.Position = 0;
        return Results.File(whole, "application/zip", string.Create(CultureInfo.InvariantCulture, $"audit-{id}.zip"));
    }
}
