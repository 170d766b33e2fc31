using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Core.Time;
using WideKeel.Server.Ledger;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Units">Ids of units; empty for everywhere.</param>
/// <param name="Requirements">What it answers, each as framework/requirement by their codes.</param>
/// <param name="Effort">Hours to mend it.</param>
public sealed record ControlSettings(
    string Code,
    string Title,
    string Says,
    string Area,
    string Owner,
    IReadOnlyList<long> Units,
    IReadOnlyList<string> Requirements,
    decimal Weight = 1,
    decimal Effort = 4
);

/// <param name="Reason">Empty: it is applicable again.</param>
public sealed record NotApplicableRequest(string Reason);

/// <summary>Controls with their parts: made, mapped, declared not applicable with another's approval.</summary>
public static class ControlEndpoints
{
    internal const string AskedForIt = "You asked for it; another person must approve.";

    public static readonly string[] Areas =
    [
        "access",
        "people",
        "content",
        "operations",
        "suppliers",
        "change",
        "training",
        "risk",
    ];

    public static void MapControls(this IEndpointRouteBuilder api)
    {
        api.MapGet("/controls", ControlViews.List).Requires(Right.ReadReadiness);
        api.MapGet("/controls/{id:long}/history", History).Requires(Right.ReadReadiness);
        api.MapPost("/controls", Make).Requires(Right.ManageReadiness);
        api.MapPut("/controls/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapDelete("/controls/{id:long}", Remove).Requires(Right.ManageReadiness);
        api.MapPost("/controls/{id:long}/not-applicable", NotApplicable).Requires(Right.ManageReadiness);
        api.MapPost("/controls/{id:long}/approval", Approve).Requires(Right.ManageReadiness);
        api.MapControlParts();
    }

    // Long because each field is refused in its own words.
    private static async Task<Outcome<List<long>>> CheckAsync(
        ControlSettings request,
        long? id,
        WriteSession session,
        CancellationToken cancel
    )
    {
        var code = request.Code.Trim();
        if (code.Length is 0 or > 40 || string.IsNullOrWhiteSpace(request.Title) || request.Title.Length > 300)
        {
            return new Refusal(
                "title-missing",
                "title",
                "A control needs a code of at most 40 characters and a title."
            );
        }

        if (await session.Db.Controls.IgnoreQueryFilters().AnyAsync(c => c.Code == code && c.Id != id, cancel))
        {
            return Refusal.Conflict("code-taken", "code", $"There is, or was, a control {code}.");
        }

        if (!Areas.Contains(request.Area))
        {
            return new Refusal("area-unknown", "area", $"“{request.Area}” is none of {string.Join(", ", Areas)}.");
        }

        if (request.Weight < 0 || request.Effort < 0)
        {
            return new Refusal("weight-malformed", "weight", "Weight and effort are zero or more.");
        }

        var units = await session.Db.Units.Select(u => u.Id).ToListAsync(cancel);
        if (request.Units.Any(u => !units.Contains(u)))
        {
            return new Refusal("unit-unknown", "units", "One of the units does not exist.");
        }

        List<long> requirements = [];
        foreach (var named in request.Requirements.Distinct())
        {
            var parts = named.Split('/', 2);
            var found =
                parts.Length < 2
                    ? null
                    : await (
                        from f in session.Db.Frameworks
                        join r in session.Db.Requirements on f.Id equals r.FrameworkId
                        where f.Code == parts[0] && r.Code == parts[1]
                        select (long?)r.Id
                    ).SingleOrDefaultAsync(cancel);
            if (found is null)
            {
                return new Refusal(
                    "requirement-unknown",
                    "requirements",
                    $"There is no requirement “{named}”; name it as framework/requirement."
                );
            }

            requirements.Add(found.Value);
        }

        return requirements;
    }

    private static void Apply(ControlRow row, ControlSettings request, List<long> requirements)
    {
        row.Title = request.Title.Trim();
        row.Says = request.Says;
        row.Area = request.Area;
        row.Owner = request.Owner.Trim().ToLowerInvariant();
        row.Units = string.Join(',', request.Units.Distinct().Order().Select(Wording.Id));
        row.Weight = request.Weight;
        row.Effort = request.Effort;
        row.Maps.RemoveAll(m => !requirements.Contains(m.RequirementId));
        row.Maps.AddRange(
            requirements
                .Where(r => row.Maps.TrueForAll(m => m.RequirementId != r))
                .Select(r => new ControlMapping { RequirementId = r })
        );
    }

    /// <summary>What was done to a control, its parts and its proofs, the latest first.</summary>
    private static async Task<Reply<IReadOnlyList<LedgerView>>> History(long id, [AsParameters] ApiContext context) =>
        await context.Db.Controls.AnyAsync(c => c.Id == id, context.Cancel)
            ? (Outcome<IReadOnlyList<LedgerView>>)
                await LedgerEndpoints.HistoryAsync(context.Db, "control", id, context.Cancel)
            : Problems.NotFound("control");

    private static async Task<Reply<Done>> Make(ControlSettings request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var requirements = await CheckAsync(request, null, session, context.Cancel);
                if (requirements.Refusal is { } refusal)
                {
                    return refusal;
                }

                var row = new ControlRow
                {
                    Code = request.Code.Trim(),
                    Title = request.Title,
                    Area = request.Area,
                };
                Apply(row, request, requirements.Value);
                session.Db.Controls.Add(row);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record("made", Subject(row.Id), after: Described(row));
                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> Change(long id, ControlSettings request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (Problems.CheckMatch(context.Http, row.Version) is { } stale)
                {
                    return stale;
                }

                var requirements = await CheckAsync(request with { Code = row.Code }, id, session, context.Cancel);
                if (requirements.Refusal is { } refusal)
                {
                    return refusal;
                }

                var before = Described(row);
                Apply(row, request, requirements.Value);
                session.Record("changed", Subject(id), before, Described(row));
                return null;
            }
        );

    private static Task<Reply<Done>> Remove(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                // A control that was shown to somebody stays behind its proofs; one that never was is gone.
                var isShown = await session
                    .Db.ControlParts.IgnoreQueryFilters()
                    .AnyAsync(p => p.ControlId == id && p.Proofs.Any(), context.Cancel);
                if (isShown)
                {
                    row.RetiredOn = context.Calendar.Today;
                    row.Parts.ForEach(p => p.RetiredOn = context.Calendar.Today);
                    row.Maps.Clear();
                }
                else
                {
                    session.Db.Controls.Remove(row);
                }

                session.Record(isShown ? "retired" : "removed", Subject(id), Described(row));
                return null;
            }
        );

    /// <summary>Asks for a control to leave every denominator; another person must approve.</summary>
    private static Task<Reply<Done>> NotApplicable(
        long id,
        NotApplicableRequest request,
        [AsParameters] ApiContext context
    ) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                (row.NotApplicable, row.ApprovedBy) = (request.Reason.Trim(), "");
                row.AskedById = row.NotApplicable.Length > 0 ? context.Caller.PersonId : null;
                session.Record(
                    row.NotApplicable.Length > 0 ? "not-applicable-asked" : "applicable-again",
                    Subject(id),
                    reason: row.NotApplicable
                );
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Approve(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (row.NotApplicable.Length == 0 || row.ApprovedBy.Length > 0)
                {
                    return Task.FromResult<Refusal?>(
                        Refusal.Conflict("nothing-asked", null, "Nobody asked for this control to be not applicable.")
                    );
                }

                if (context.Caller.NotSecondTo(row.AskedById, AskedForIt) is { } not)
                {
                    return Task.FromResult<Refusal?>(Refusal.Forbidden("second-person-needed", null, not));
                }

                row.ApprovedBy = context.Caller.Name;
                session.Record("not-applicable-approved", Subject(id), reason: row.NotApplicable);
                return Task.FromResult<Refusal?>(null);
            }
        );

    internal static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, ControlRow, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session
                        .Db.Controls.Include(c => c.Maps)
                        .Include(c => c.Parts)
                        .AsSplitQuery()
                        .SingleOrDefaultAsync(c => c.Id == id, context.Cancel)
                    is not { } row
                )
                {
                    return Problems.NotFound("control");
                }

                if (await work(session, row) is { } refusal)
                {
                    return refusal;
                }

                row.Version++;
                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                return new Done();
            },
            context.Cancel
        );

    private static JsonObject Described(ControlRow row) =>
        new()
        {
            ["code"] = row.Code,
            ["title"] = row.Title,
            ["area"] = row.Area,
            ["owner"] = row.Owner,
            ["maps"] = row.Maps.Count,
            ["weight"] = row.Weight,
            ["units"] = row.Units,
        };

    internal static LedgerSubject Subject(long id) => LedgerSubject.Of("control", id);
}
