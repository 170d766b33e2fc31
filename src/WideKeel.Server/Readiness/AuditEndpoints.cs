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

/// <param name="Framework">Its code.</param>
/// <param name="Auditor">Mail address of the auditor's account; empty where none is invited.</param>
public sealed record AuditSettings(
    string Name,
    string Framework,
    string Auditor,
    DateOnly PeriodFrom,
    DateOnly PeriodThrough,
    DateOnly StartsOn,
    DateOnly EndsOn
);

public sealed record RemarkView(Instant At, string By, string Text);

public sealed record RequestView(
    long Id,
    int Number,
    string What,
    string? Requirement,
    string Owner,
    LocalDate Due,
    RequestState State,
    IReadOnlyList<ProofDetailLine> Offered,
    IReadOnlyList<RemarkView> Remarks
);

/// <summary>A proof that is offered.</summary>
public sealed record ProofDetailLine(long Id, string Control, string Title, ProofView Proof);

/// <param name="Picked">The subjects that were drawn.</param>
public sealed record SampleView(
    long Id,
    string Title,
    int Population,
    string Hash,
    int Seed,
    string Method,
    double Confidence,
    double Tolerable,
    double Expected,
    IReadOnlyList<string> Picked,
    IReadOnlyList<StratumView> Strata,
    int? Found,
    double? UpperLimit
);

/// <param name="Drawn">Of its members.</param>
public sealed record StratumView(string Name, int Members, int Drawn);

public sealed record FindingView(
    long Id,
    string Title,
    string Severity,
    string Control,
    string Action,
    string Owner,
    LocalDate? Due,
    LocalDate? DoneOn,
    IReadOnlyList<AttachedInvestigation> Investigations
);

/// <param name="Mine">The caller is this audit's auditor.</param>
public sealed record AuditView(
    long Id,
    AuditSettings Settings,
    string FrameworkTitle,
    Instant? ClosedAt,
    bool Mine,
    IReadOnlyList<RequestView> Requests,
    IReadOnlyList<SampleView> Samples,
    IReadOnlyList<FindingView> Findings,
    long Revision
) : IRevised;

/// <param name="Requirement">Its code in the audit's framework; empty for none.</param>
public sealed record NewRequest(string What, string Requirement, string Owner, DateOnly Due);

/// <param name="Remark">Asked for with Returned.</param>
public sealed record RequestAnswer(RequestState State, string Remark = "");

public sealed record RemarkRequest(string Text);

/// <param name="Measure">Whose subjects are the population; null where a list is given.</param>
/// <param name="Method">
/// random, systematic, or stratified: over the units of a measure's subjects, or over what stands before the first | of each
/// line of a list.
/// </param>
public sealed record SampleRequest(
    string Title,
    string? Measure,
    IReadOnlyList<string>? Population,
    string Method,
    int Seed,
    decimal Confidence,
    decimal Tolerable,
    decimal Expected,
    bool Finite
);

public sealed record SampleResult(int Found);

public sealed record FindingRequest(
    string Title,
    string Severity,
    string Control,
    string Action,
    string Owner,
    DateOnly? Due,
    bool Done = false
);

/// <summary>
/// The audit room: requests, evidence, samples, findings. The auditor's account sees the audits that it is invited to,
/// while they last, and every look of theirs is an entry of the ledger.
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
        api.MapPost("/audits/{id:long}/requests", Ask).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/offer", Offer).Requires(Right.ManageReadiness);
        api.MapPost("/audits/{id:long}/requests/{number:int}/state", Answer).RequiresSignIn();
        api.MapPost("/audits/{id:long}/requests/{number:int}/remarks", Remark).RequiresSignIn();
        api.MapGet("/audits/{id:long}/proofs/{proof:long}", Look).RequiresSignIn();
        api.MapGet("/audits/{id:long}/proofs/{proof:long}/file", LookAtFile).RequiresSignIn();
        api.MapPost("/audits/{id:long}/samples", Sample).RequiresSignIn();
        api.MapPost("/audits/{id:long}/samples/{sample:long}/result", Result).RequiresSignIn();
        api.MapPost("/audits/{id:long}/findings", Find).RequiresSignIn();
        api.MapPut("/audits/{id:long}/findings/{finding:long}", ChangeFinding).Requires(Right.ManageReadiness);
        api.MapGet("/audits/{id:long}/room.zip", Export).RequiresSignIn();
    }

    internal static IQueryable<AuditRow> Whole(WideKeelDb db) =>
        db
            .Audits.Include(a => a.Requests)
                .ThenInclude(r => r.Remarks)
            .Include(a => a.Samples)
            .Include(a => a.Findings)
            .AsSplitQuery();

    private static bool IsAuditor(AuditRow audit, Caller caller, LocalDate today) =>
        audit.Auditor.Length > 0
        && string.Equals(audit.Auditor, caller.Mail, StringComparison.OrdinalIgnoreCase)
        && audit.ClosedAt is null
        && today >= audit.StartsOn
        && today <= audit.EndsOn;

    /// <summary>Whether the caller may see an audit: as one of its organisation, or as its auditor while it lasts.</summary>
    internal static bool MaySee(AuditRow audit, ApiContext context) =>
        context.Caller.May(Right.ReadReadiness) || IsAuditor(audit, context.Caller, context.Calendar.Today);

    /// <summary>Whether the caller may ask, sample and find in an audit: who runs it, and its auditor while it lasts.</summary>
    private static bool MayWork(AuditRow audit, ApiContext context) =>
        context.Caller.May(Right.ManageReadiness) || IsAuditor(audit, context.Caller, context.Calendar.Today);

    private static async Task<Reply<IReadOnlyList<AuditView>>> List([AsParameters] ApiContext context)
    {
        var audits = await Whole(context.Db).AsNoTracking().OrderBy(a => a.StartsOn).ToListAsync(context.Cancel);
        List<AuditView> views = [];
        foreach (var audit in audits.Where(a => MaySee(a, context)))
        {
            views.Add(await ViewAsync(audit, context));
        }

        return (Outcome<IReadOnlyList<AuditView>>)views;
    }

    private static async Task<Reply<AuditView>> One(long id, [AsParameters] ApiContext context)
    {
        var audit = await Whole(context.Db).AsNoTracking().SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (audit is null || !MaySee(audit, context))
        {
            return Problems.NotFound("audit");
        }

        await NoteLookAsync(audit, "the room", context);
        return await ViewAsync(audit, context);
    }

    /// <summary>Writes down what an auditor looked at.</summary>
    internal static async Task NoteLookAsync(AuditRow audit, string what, ApiContext context)
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

    private static async Task<AuditView> ViewAsync(AuditRow audit, ApiContext context)
    {
        var framework = await context
            .Db.Frameworks.AsNoTracking()
            .Include(f => f.Requirements)
            .SingleAsync(f => f.Id == audit.FrameworkId, context.Cancel);
        var requirements = framework.Requirements.ToDictionary(r => r.Id, r => $"{r.Code} {r.Title}");
        var proofs = await ProofsAsync(audit, context);
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
                        [.. OfferedIn(r).Where(proofs.ContainsKey).Select(p => proofs[p])],
                        [.. r.Remarks.OrderBy(m => m.Id).Select(m => new RemarkView(m.At, m.By, m.Text))]
                    )),
            ],
            [.. audit.Samples.OrderBy(s => s.Id).Select(View)],
            [
                .. audit
                    .Findings.OrderBy(f => f.Id)
                    .Select(f => new FindingView(
                        f.Id,
                        f.Title,
                        f.Severity,
                        f.Control,
                        f.Action,
                        f.Owner,
                        f.Due,
                        f.DoneOn,
                        [.. investigations[f.Id]]
                    )),
            ],
            audit.Version
        );
    }

    /// <summary>The proofs that the requests of an audit are offered, by their ids.</summary>
    private static async Task<Dictionary<long, ProofDetailLine>> ProofsAsync(AuditRow audit, ApiContext context)
    {
        var ids = audit.Requests.SelectMany(OfferedIn).ToList();
        var auditor = IsAuditor(audit, context.Caller, context.Calendar.Today);
        var offered = await (
            from proof in context.Db.PartProofs
            join part in context.Db.ControlParts.IgnoreQueryFilters() on proof.PartId equals part.Id
            join control in context.Db.Controls.IgnoreQueryFilters() on part.ControlId equals control.Id
            where ids.Contains(proof.Id)
            select new
            {
                Proof = proof,
                Part = part,
                control.Code,
                control.Owner,
            }
        )
            .AsNoTracking()
            .ToListAsync(context.Cancel);
        var seen = offered.Where(p =>
            auditor ? ProofReaders.IsForAuditors(p.Part) : ProofReaders.MaySee(p.Part, p.Owner, context.Caller)
        );
        return seen.ToDictionary(
            p => p.Proof.Id,
            p => new ProofDetailLine(p.Proof.Id, p.Code, p.Part.Title, ControlViews.View(p.Proof))
        );
    }

    private static IEnumerable<long> OfferedIn(AuditRequest request) =>
        request
            .Offered.Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select(i => long.Parse(i, CultureInfo.InvariantCulture));

    private static SampleView View(AuditSampleRow s)
    {
        var population = JsonSerializer.Deserialize<List<string>>(s.Population)!;
        return new(
            s.Id,
            s.Title,
            population.Count,
            s.Hash,
            s.Seed,
            s.Method,
            s.Confidence,
            s.Tolerable,
            s.Expected,
            [.. JsonSerializer.Deserialize<List<int>>(s.Picks)!.Select(i => population[i])],
            s.Strata.Length == 0 ? [] : JsonSerializer.Deserialize<List<StratumView>>(s.Strata)!,
            s.Found,
            s.UpperLimit
        );
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
                session.Record("planned", Subject(row.Id), after: new JsonObject { ["name"] = row.Name });
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> Change(long id, AuditSettings request, [AsParameters] ApiContext context) =>
        WorkAsync(
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
                session.Record("changed", Subject(id), before, Plan(row));
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
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                row.ClosedAt = session.Now;
                session.Record("closed", Subject(id));
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Ask(long id, NewRequest request, [AsParameters] ApiContext context) =>
        WorkAsync(
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
                    Subject(id),
                    after: new JsonObject { ["request"] = number, ["what"] = request.What }
                );
                return null;
            },
            byAuditor: true
        );

    /// <summary>Offers, by one press, the latest proof of every part of the controls that answer the requirement.</summary>
    private static Task<Reply<Done>> Offer(long id, int number, [AsParameters] ApiContext context) =>
        RequestAsync(
            id,
            number,
            context,
            async (session, row, request) =>
            {
                var latest = await session
                    .Db.Controls.Where(c => c.Maps.Any(m => m.RequirementId == request.RequirementId))
                    .SelectMany(c => c.Parts)
                    .Select(p => new
                    {
                        Part = p,
                        Proof = p.Proofs.OrderByDescending(x => x.Id).Select(x => (long?)x.Id).FirstOrDefault(),
                    })
                    .ToListAsync(context.Cancel);
                var offered = latest
                    .Where(p => ProofReaders.IsForAuditors(p.Part))
                    .Select(p => p.Proof)
                    .OfType<long>()
                    .Order()
                    .ToList();
                if (offered.Count == 0 && latest.Exists(p => p.Proof is not null))
                {
                    return Refusal.Conflict(
                        "kept-from-auditors",
                        null,
                        "External auditors may not see the proofs that answer this requirement. Change who sees them under Controls."
                    );
                }

                if (offered.Count == 0)
                {
                    return Refusal.Conflict(
                        "nothing-mapped",
                        null,
                        "No control that answers this requirement has a proof yet."
                    );
                }

                request.Offered = string.Join(' ', OfferedIn(request).Union(offered).Select(Wording.Id));
                session.Record(
                    "offered",
                    Subject(id),
                    after: new JsonObject { ["request"] = number, ["proofs"] = offered.Count }
                );
                return null;
            }
        );

    private static Task<Reply<Done>> Answer(
        long id,
        int number,
        RequestAnswer request,
        [AsParameters] ApiContext context
    ) =>
        RequestAsync(
            id,
            number,
            context,
            (session, row, asked) =>
            {
                var auditor = IsAuditor(row, context.Caller, context.Calendar.Today);
                var allowed = request.State switch
                {
                    RequestState.Accepted or RequestState.Returned => auditor,
                    _ => context.Caller.May(Right.ManageReadiness),
                };
                if (!allowed)
                {
                    return Task.FromResult<Refusal?>(
                        Refusal.Forbidden(
                            "not-allowed",
                            null,
                            auditor
                                ? "Only the organisation says that a request is ready."
                                : "Only the auditor accepts or returns evidence."
                        )
                    );
                }

                if (request.State == RequestState.Returned && string.IsNullOrWhiteSpace(request.Remark))
                {
                    return Task.FromResult<Refusal?>(
                        new("remark-missing", "remark", "Say what is missing, so that it can be brought.")
                    );
                }

                asked.State = request.State;
                AddRemark(session, asked, context.Caller.Name, request.Remark);
                session.Record(
                    request.State.ToString().ToLowerInvariant(),
                    Subject(id),
                    after: new JsonObject { ["request"] = number },
                    reason: request.Remark
                );
                return Task.FromResult<Refusal?>(null);
            },
            byAuditor: true
        );

    private static Task<Reply<Done>> Remark(
        long id,
        int number,
        RemarkRequest request,
        [AsParameters] ApiContext context
    ) =>
        RequestAsync(
            id,
            number,
            context,
            (session, _, asked) =>
            {
                if (string.IsNullOrWhiteSpace(request.Text))
                {
                    return Task.FromResult<Refusal?>(new("text-missing", "text", "Write the question or the answer."));
                }

                AddRemark(session, asked, context.Caller.Name, request.Text);
                session.Record("remarked", Subject(id), after: new JsonObject { ["request"] = number });
                return Task.FromResult<Refusal?>(null);
            },
            byAuditor: true
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

    private static async Task<(AuditRow Audit, PartProof Proof)?> OfferedAsync(long id, long proof, ApiContext context)
    {
        var audit = await context
            .Db.Audits.AsNoTracking()
            .Include(a => a.Requests)
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (
            audit is null
            || !MaySee(audit, context)
            || !audit.Requests.SelectMany(OfferedIn).Contains(proof)
            || !(await ProofsAsync(audit, context)).ContainsKey(proof)
        )
        {
            return null;
        }

        await NoteLookAsync(audit, string.Create(CultureInfo.InvariantCulture, $"proof {proof}"), context);
        return (
            audit,
            await context
                .Db.PartProofs.AsNoTracking()
                .Include(p => p.Frozen)
                .SingleAsync(p => p.Id == proof, context.Cancel)
        );
    }

    private static async Task<Reply<ProofDetail>> Look(long id, long proof, [AsParameters] ApiContext context) =>
        await OfferedAsync(id, proof, context) is not var (_, found)
            ? Problems.NotFound("proof in this room")
            : new ProofDetail(ControlViews.View(found), "", found.Says, ProofEndpoints.FactsOf(found.Frozen?.Text));

    private static async Task<IResult> LookAtFile(
        long id,
        long proof,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    ) =>
        await OfferedAsync(id, proof, context) is { Proof: { FileName.Length: > 0 } found }
            ? StoredFiles.Send(found.Hash, found.FileName, options)
            : (Reply<Done>)Problems.NotFound("file in this room");

    /// <summary>Freezes a population and draws from it.</summary>
    private static async Task<Reply<Done>> Sample(
        long id,
        SampleRequest request,
        MeasureBook measures,
        IServiceProvider services,
        [AsParameters] ApiContext context
    )
    {
        var audit = await context.Db.Audits.AsNoTracking().SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (audit is null || !MayWork(audit, context))
        {
            return Problems.NotFound("audit");
        }

        var population = await PopulationAsync(request, measures, services, context);
        if (population.Refusal is { } unknown)
        {
            return unknown;
        }

        if (Check(request, population.Value) is { } refusal)
        {
            return refusal;
        }

        var plan = AttributeSample.Plan(
            population.Value.Count,
            request.Confidence,
            request.Tolerable,
            request.Expected,
            request.Finite
        );
        return plan.Refusal is { } unreachable
            ? unreachable
            : await DrawAsync(id, request, population.Value, plan.Value, context);
    }

    private static Task<Reply<Done>> DrawAsync(
        long id,
        SampleRequest request,
        List<(string Stratum, string Name)> population,
        SampleSize plan,
        ApiContext context
    )
    {
        var size = (int)Math.Min(plan.Size, population.Count);
        var (picks, strata) = Drawn(request, population, size);
        return WorkAsync(
            id,
            context,
            (session, row) =>
            {
                var text = CanonicalJson.Text(
                    new JsonArray([
                        .. population.Select(p => (JsonNode?)(strata.Count == 0 ? p.Name : $"{p.Stratum} | {p.Name}")),
                    ])
                );
                var sample = new AuditSampleRow
                {
                    Title = request.Title.Trim(),
                    Population = text,
                    Hash = ContentHash.Of(text),
                    Seed = request.Seed,
                    Method = request.Method,
                    Confidence = (double)request.Confidence,
                    Tolerable = (double)request.Tolerable,
                    Expected = (double)request.Expected,
                    Finite = request.Finite,
                    Picks = JsonSerializer.Serialize(picks),
                    Strata = strata.Count == 0 ? "" : JsonSerializer.Serialize(strata),
                };
                row.Samples.Add(sample);
                session.Record(
                    "sampled",
                    Subject(id),
                    after: new JsonObject
                    {
                        ["population"] = population.Count,
                        ["sha256"] = sample.Hash,
                        ["size"] = size,
                        ["seed"] = request.Seed,
                    }
                );
                return Task.FromResult<Refusal?>(null);
            },
            byAuditor: true
        );
    }

    private static (IReadOnlyList<int> Picks, IReadOnlyList<StratumView> Strata) Drawn(
        SampleRequest request,
        List<(string Stratum, string Name)> population,
        int size
    )
    {
        if (request.Method != "stratified")
        {
            return (AttributeSample.Draw(population.Count, size, request.Method == "systematic", request.Seed), []);
        }

        var names = population.Select(p => p.Stratum).Distinct().Order(StringComparer.Ordinal).ToList();
        var picks = AttributeSample.DrawStratified(
            [.. population.Select(p => names.IndexOf(p.Stratum))],
            size,
            request.Seed
        );
        return (
            picks,
            [
                .. names.Select(n => new StratumView(
                    n,
                    population.Count(p => p.Stratum == n),
                    picks.Count(at => population[at].Stratum == n)
                )),
            ]
        );
    }

    /// <summary>The subjects of a measure, or the lines of a list.</summary>
    private static async Task<Outcome<List<(string Stratum, string Name)>>> PopulationAsync(
        SampleRequest request,
        MeasureBook measures,
        IServiceProvider services,
        ApiContext context
    )
    {
        if (request.Measure is not { Length: > 0 } name)
        {
            return (request.Population ?? []).Select(p => p.Trim()).Where(p => p.Length > 0).Select(Line).ToList();
        }

        return measures.Find(name) is { } measure
            ? (await measures.AskAsync(measure.Name, new(context.Db, services, context.Calendar, context.Cancel)))
                .Select(s => (s.Unit, s.Name))
                .ToList()
            : new Refusal("measure-unknown", "measure", $"There is no measure “{name}”.");
    }

    /// <summary>A line of a list: its stratum before the first |, or none.</summary>
    private static (string Stratum, string Name) Line(string text) =>
        text.IndexOf('|', StringComparison.Ordinal) is > 0 and var at
            ? (text[..at].Trim(), text[(at + 1)..].Trim())
            : ("", text);

    private static Refusal? Check(SampleRequest request, List<(string Stratum, string Name)> population)
    {
        if (string.IsNullOrWhiteSpace(request.Title))
        {
            return new("title-missing", "title", "Say what is sampled.");
        }

        if (request.Method is not ("random" or "systematic" or "stratified"))
        {
            return new("method-unknown", "method", $"“{request.Method}” is none of random, systematic, stratified.");
        }

        if (population.Count == 0)
        {
            return new("population-empty", "population", "The population is empty; there is nothing to draw from.");
        }

        if (
            request.Confidence is <= 0 or >= 1
            || request.Tolerable is <= 0 or >= 1
            || request.Expected < 0
            || request.Expected >= request.Tolerable
        )
        {
            return new(
                "rate-malformed",
                "tolerable",
                "Confidence and the tolerable rate lie between 0 and 1; the expected rate lies below the tolerable one."
            );
        }

        return null;
    }

    private static Task<Reply<Done>> Result(
        long id,
        long sample,
        SampleResult request,
        [AsParameters] ApiContext context
    ) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (row.Samples.Find(s => s.Id == sample) is not { } found)
                {
                    return Task.FromResult<Refusal?>(Problems.NotFound("sample"));
                }

                var size = JsonSerializer.Deserialize<List<int>>(found.Picks)!.Count;
                if (request.Found < 0 || request.Found > size)
                {
                    return Task.FromResult<Refusal?>(
                        new("found-malformed", "found", $"Of {size} at most {size} can deviate.")
                    );
                }

                found.Found = request.Found;
                found.UpperLimit = Math.Round(UpperLimit(found, request.Found, size), 6);
                session.Record(
                    "sample-result",
                    Subject(id),
                    after: new JsonObject { ["found"] = request.Found, ["upperLimit"] = found.UpperLimit }
                );
                return Task.FromResult<Refusal?>(null);
            },
            byAuditor: true
        );

    /// <summary>By the plan of the sample; of a population that was looked at whole, nothing is left to chance.</summary>
    private static double UpperLimit(AuditSampleRow sample, int found, int size)
    {
        var population = JsonSerializer.Deserialize<List<string>>(sample.Population)!.Count;
        return sample.Finite || size == population
            ? AttributeSample.UpperLimit(found, size, (decimal)sample.Confidence, population)
            : AttributeSample.UpperLimit(found, size, (decimal)sample.Confidence);
    }

    private static async Task<Refusal?> CheckAsync(FindingRequest request, WideKeelDb db, CancellationToken cancel) =>
        string.IsNullOrWhiteSpace(request.Title) ? new("title-missing", "title", "A finding needs a title.")
        : request.Severity is not ("minor" or "major" or "observation")
            ? new("severity-malformed", "severity", "A finding is an observation, minor or major.")
        : request.Control.Length > 0 && !await db.Controls.AnyAsync(c => c.Code == request.Control, cancel)
            ? new("control-unknown", "control", $"There is no control “{request.Control}”.")
        : null;

    private static void Apply(AuditFinding finding, FindingRequest request, LocalDate today)
    {
        (finding.Title, finding.Severity) = (request.Title.Trim(), request.Severity);
        (finding.Control, finding.Action, finding.Owner) = (
            request.Control,
            request.Action,
            request.Owner.ToLowerInvariant()
        );
        finding.Due = request.Due is { } due ? LocalDate.FromDateOnly(due) : null;
        finding.DoneOn = request.Done ? finding.DoneOn ?? today : null;
    }

    private static Task<Reply<Done>> Find(long id, FindingRequest request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (await CheckAsync(request, session.Db, context.Cancel) is { } refusal)
                {
                    return refusal;
                }

                var finding = new AuditFinding { Title = request.Title, Severity = request.Severity };
                Apply(finding, request, context.Calendar.Today);
                row.Findings.Add(finding);
                session.Record("found", Subject(id), after: new JsonObject { ["finding"] = finding.Title });
                return null;
            },
            byAuditor: true
        );

    private static Task<Reply<Done>> ChangeFinding(
        long id,
        long finding,
        FindingRequest request,
        [AsParameters] ApiContext context
    ) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (row.Findings.Find(f => f.Id == finding) is not { } found)
                {
                    return Problems.NotFound("finding");
                }

                if (await CheckAsync(request, session.Db, context.Cancel) is { } refusal)
                {
                    return refusal;
                }

                Apply(found, request, context.Calendar.Today);
                session.Record("finding-changed", Subject(id), after: new JsonObject { ["finding"] = found.Title });
                return null;
            }
        );

    /// <summary>The whole room as a ZIP: the plan and requests, each proof, files, and OSCAL assessment results.</summary>
    private static async Task<IResult> Export(long id, WideKeelOptions options, [AsParameters] ApiContext context)
    {
        var audit = await Whole(context.Db).AsNoTracking().SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (audit is null || !MaySee(audit, context))
        {
            return (Reply<Done>)Problems.NotFound("audit");
        }

        await NoteLookAsync(audit, "the whole room as a file", context);
        var view = await ViewAsync(audit, context);
        var ids = view.Requests.SelectMany(r => r.Offered.Select(o => o.Id)).Distinct().ToList();
        var proofs = await context
            .Db.PartProofs.AsNoTracking()
            .Include(p => p.Frozen)
            .Where(p => ids.Contains(p.Id))
            .ToListAsync(context.Cancel);
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
            foreach (var proof in proofs)
            {
                room.Write(proof, options);
            }

            room.Close();
        }

        whole.Position = 0;
        return Results.File(whole, "application/zip", string.Create(CultureInfo.InvariantCulture, $"audit-{id}.zip"));
    }

    /// <summary>Changes an audit: by those who manage readiness, or by its auditor where that is said.</summary>
    internal static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, AuditRow, Task<Refusal?>> work,
        bool byAuditor = false
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var row = await Whole(session.Db).SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
                if (row is null || !(byAuditor ? MayWork(row, context) : context.Caller.May(Right.ManageReadiness)))
                {
                    return Problems.NotFound("audit");
                }

                if (row.ClosedAt is not null)
                {
                    return Refusal.Conflict("audit-closed", null, "The audit is closed; nothing in its room changes.");
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

    private static Task<Reply<Done>> RequestAsync(
        long id,
        int number,
        ApiContext context,
        Func<WriteSession, AuditRow, AuditRequest, Task<Refusal?>> work,
        bool byAuditor = false
    ) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
                row.Requests.Find(r => r.Number == number) is { } request
                    ? await work(session, row, request)
                    : Problems.NotFound("request"),
            byAuditor
        );

    internal static LedgerSubject Subject(long id) => LedgerSubject.Of("audit", id);
}
