using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Core.Time;
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

/// <param name="Counts">It counts today.</param>
/// <param name="EndsOn">The last day on which it counts if nobody does anything.</param>
/// <param name="Due">A routine’s latest due day.</param>
/// <param name="SeenBy">The roles that see its proofs; empty for everybody who reads readiness.</param>
/// <param name="Kept">There may be proofs, and the caller does not see them.</param>
/// <param name="MayBring">The caller may bring a proof.</param>
public sealed record PartView(
    long Id,
    PartKind Kind,
    string Title,
    decimal Weight,
    string Measure,
    double Expected,
    string Period,
    string Recurrence,
    string Doer,
    string Deputy,
    bool Counts,
    LocalDate? EndsOn,
    LocalDate? Due,
    IReadOnlyList<Role> SeenBy,
    bool Kept,
    bool MayBring,
    IReadOnlyList<ProofView> Proofs
);

/// <summary>A finding of an audit that names a control and is not settled.</summary>
public sealed record OpenFinding(
    long AuditId,
    string Audit,
    string Title,
    string Severity,
    string Action,
    string Owner,
    LocalDate? Due
);

/// <param name="SeenBy">Roles; empty for everybody who reads readiness.</param>
public sealed record ReadersRequest(IReadOnlyList<Role> SeenBy);

/// <param name="Hash">SHA-256 of what was frozen.</param>
public sealed record ProofView(
    long Id,
    Instant At,
    LocalDate Day,
    bool Passed,
    string Says,
    string By,
    string FileName,
    long Bytes,
    string Hash
);

/// <param name="Formula">How its figure is made, with its numbers.</param>
/// <param name="AskedBy">Who asked for it to be not applicable and waits for another's approval.</param>
public sealed record ControlView(
    long Id,
    ControlSettings Settings,
    decimal? Readiness,
    ControlState State,
    string Formula,
    string NotApplicable,
    bool AwaitsApproval,
    bool MayApprove,
    string ApprovedBy,
    IReadOnlyList<PartView> Parts,
    IReadOnlyList<OpenFinding> Findings,
    long Revision
) : IRevised;

/// <param name="Measure">For a test.</param>
/// <param name="Expected">Percent that must be right for a test to pass.</param>
/// <param name="Period">ISO 8601: for how long a run, or evidence, speaks.</param>
/// <param name="Recurrence">RFC 5545, for a routine.</param>
public sealed record PartRequest(
    PartKind Kind,
    string Title,
    decimal Weight = 1,
    string Measure = "",
    double Expected = 100,
    string Period = "P30D",
    string Recurrence = "",
    DateOnly? First = null,
    string Doer = "",
    string Deputy = "",
    IReadOnlyList<Role>? SeenBy = null
);

/// <param name="Reason">Empty: it is applicable again.</param>
public sealed record NotApplicableRequest(string Reason);

/// <summary>Controls with their parts: made, mapped, declared not applicable with another's approval.</summary>
public static class ControlEndpoints
{
    private const int MostProofs = 20;

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
        api.MapGet("/controls", List).Requires(Right.ReadReadiness);
        api.MapPost("/controls", Make).Requires(Right.ManageReadiness);
        api.MapPut("/controls/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapDelete("/controls/{id:long}", Remove).Requires(Right.ManageReadiness);
        api.MapPost("/controls/{id:long}/not-applicable", NotApplicable).Requires(Right.ManageReadiness);
        api.MapPost("/controls/{id:long}/approval", Approve).Requires(Right.ManageReadiness);
        api.MapPost("/controls/{id:long}/parts", AddPart).Requires(Right.ManageReadiness);
        api.MapDelete("/controls/{id:long}/parts/{part:long}", RemovePart).Requires(Right.ManageReadiness);
        api.MapPut("/controls/{id:long}/parts/{part:long}/readers", SetReaders).Requires(Right.ManageReadiness);
    }

    private static async Task<Reply<IReadOnlyList<ControlView>>> List([AsParameters] ApiContext context)
    {
        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        var figures = ReadinessComputation.On(book.Today, book.Model).Controls.ToDictionary(c => c.Id);
        var codes = book
            .Frameworks.SelectMany(f => f.Requirements.Select(r => (r.Id, Code: $"{f.Code}/{r.Code}")))
            .ToDictionary(r => r.Id, r => r.Code);
        var findings = (
            await (
                from finding in context.Db.Set<AuditFinding>()
                join audit in context.Db.Audits on finding.AuditId equals audit.Id
                where finding.DoneOn == null && finding.Control != ""
                orderby finding.Id
                select new
                {
                    finding.Control,
                    View = new OpenFinding(
                        audit.Id,
                        audit.Name,
                        finding.Title,
                        finding.Severity,
                        finding.Action,
                        finding.Owner,
                        finding.Due
                    ),
                }
            ).ToListAsync(context.Cancel)
        ).ToLookup(f => f.Control, f => f.View);
        return (Outcome<IReadOnlyList<ControlView>>)
            book
                .Controls.Select(c =>
                    View(c, book.Today, figures[c.Code], codes, context.Caller) with
                    {
                        Findings = [.. findings[c.Code]],
                    }
                )
                .ToList();
    }

    private const string AskedForIt = "You asked for it; another person must approve.";

    private static ControlView View(
        ControlRow row,
        LocalDate today,
        ControlFigure figure,
        Dictionary<long, string> codes,
        Caller caller
    )
    {
        var parts = row.Parts.OrderBy(p => p.Id).Select(p => View(p, row.Owner, today, caller)).ToList();
        return new(
            row.Id,
            new(
                row.Code,
                row.Title,
                row.Says,
                row.Area,
                row.Owner,
                [.. row.Units.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(long.Parse)],
                [.. row.Maps.Select(m => codes[m.RequirementId]).Order(StringComparer.Ordinal)],
                row.Weight,
                row.Effort
            ),
            figure.Readiness,
            figure.State,
            parts.Count == 0
                ? "No test, routine or evidence is set up: 0."
                : $"({string.Join(" + ", parts.Select(p => p.Counts ? $"{p.Weight:0.##}" : "0"))}) ÷ "
                    + $"{parts.Sum(p => p.Weight):0.##} = {figure.Readiness:P0}",
            row.NotApplicable,
            row.NotApplicable.Length > 0 && row.ApprovedBy.Length == 0,
            caller.NotSecondTo(row.AskedById, AskedForIt) is null,
            row.ApprovedBy,
            parts,
            [],
            row.Version
        );
    }

    internal static PartView View(ControlPartRow p, string controlOwner, LocalDate today, Caller caller)
    {
        var maySee = ProofReaders.MaySee(p, controlOwner, caller);
        return new(
            p.Id,
            p.Kind,
            p.Title,
            p.Weight,
            p.Measure,
            p.Expected,
            p.Period,
            p.Recurrence,
            p.Doer,
            p.Deputy,
            ReadinessBook.PartOf(p, today).CountsOn(today),
            ReadinessBook.EndsOn(p, today),
            p.Kind == PartKind.Routine && p.First is { } first ? Recurrence.Latest(first, p.Recurrence, today) : null,
            p.SeenBy,
            !maySee,
            ProofReaders.MayBring(p, controlOwner, caller),
            maySee ? [.. p.Proofs.OrderByDescending(x => x.Id).Take(MostProofs).Select(View)] : []
        );
    }

    internal static ProofView View(PartProof x) =>
        new(x.Id, x.At, x.Day, x.Passed, x.Says, x.By, x.FileName, x.Bytes, x.Hash);

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

    /// <summary>Says which roles see the proofs of a part.</summary>
    private static Task<Reply<Done>> SetReaders(
        long id,
        long part,
        ReadersRequest request,
        [AsParameters] ApiContext context
    ) =>
        PartAsync(
            id,
            part,
            context,
            (session, _, there) =>
            {
                var before = ReadersOf(there);
                there.SeenBy = [.. request.SeenBy.Distinct()];
                session.Record("proof-readers-changed", Subject(id), before, ReadersOf(there));
                return Task.CompletedTask;
            }
        );

    private static JsonObject ReadersOf(ControlPartRow part) =>
        new()
        {
            ["part"] = part.Title,
            ["seenBy"] = part.SeenBy.Count == 0 ? "everybody who reads readiness" : string.Join(", ", part.SeenBy),
        };

    private static Task<Reply<Done>> AddPart(
        long id,
        PartRequest request,
        MeasureBook measures,
        [AsParameters] ApiContext context
    ) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (Check(request, measures) is { } refusal)
                {
                    return Task.FromResult<Refusal?>(refusal);
                }

                row.Parts.Add(
                    new()
                    {
                        Kind = request.Kind,
                        Title = request.Title.Trim(),
                        Weight = request.Weight,
                        Measure = request.Kind == PartKind.Test ? request.Measure : "",
                        Expected = request.Expected,
                        Period = request.Period,
                        Recurrence = request.Kind == PartKind.Routine ? request.Recurrence : "",
                        First = request.First is { } first ? LocalDate.FromDateOnly(first) : null,
                        Doer = request.Doer.ToLowerInvariant(),
                        Deputy = request.Deputy.ToLowerInvariant(),
                        SeenBy = [.. (request.SeenBy ?? []).Distinct()],
                    }
                );
                session.Record(
                    "part-added",
                    Subject(id),
                    after: new JsonObject { ["kind"] = request.Kind.ToString(), ["title"] = request.Title }
                );
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Refusal? Check(PartRequest request, MeasureBook measures)
    {
        if (string.IsNullOrWhiteSpace(request.Title) || request.Title.Length > 300)
        {
            return new("title-missing", "title", "It needs a title of at most 300 characters.");
        }

        if (request.Weight < 0 || request.Expected is < 0 or > 100)
        {
            return new("weight-malformed", "weight", "A weight is zero or more; what is expected is percent.");
        }

        if (Core.Time.Period.Parse(request.Period, "period").Refusal is { } malformed)
        {
            return malformed;
        }

        return request.Kind switch
        {
            PartKind.Test when measures.Find(request.Measure) is null => new(
                "measure-unknown",
                "measure",
                $"There is no measure “{request.Measure}”."
            ),
            PartKind.Routine when request.First is null || request.Recurrence.Length == 0 => new(
                "recurrence-missing",
                "recurrence",
                "A routine needs its first due day and a rule such as FREQ=MONTHLY."
            ),
            PartKind.Routine => Recurrence.Check(request.Recurrence, "recurrence"),
            _ => null,
        };
    }

    private static Task<Reply<Done>> RemovePart(long id, long part, [AsParameters] ApiContext context) =>
        PartAsync(
            id,
            part,
            context,
            async (session, row, found) =>
            {
                var isShown = await session.Db.PartProofs.AnyAsync(p => p.PartId == part, context.Cancel);
                if (isShown)
                {
                    found.RetiredOn = context.Calendar.Today;
                }
                else
                {
                    row.Parts.Remove(found);
                }

                session.Record(
                    isShown ? "part-retired" : "part-removed",
                    Subject(id),
                    new JsonObject { ["title"] = found.Title }
                );
            }
        );

    private static Task<Reply<Done>> PartAsync(
        long id,
        long part,
        ApiContext context,
        Func<WriteSession, ControlRow, ControlPartRow, Task> work
    ) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (row.Parts.Find(p => p.Id == part) is not { } found)
                {
                    return Problems.NotFound("part");
                }

                await work(session, row, found);
                return null;
            }
        );

    private static async Task<Reply<Done>> WorkAsync(
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
        };

    internal static LedgerSubject Subject(long id) => LedgerSubject.Of("control", id);
}
