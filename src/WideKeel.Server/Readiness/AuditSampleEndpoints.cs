using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.Readiness;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Opened">A population that the organisation opened to the audit; null where another one is given.</param>
/// <param name="Measure">Whose subjects are the population: of those who manage readiness alone.</param>
/// <param name="Population">A list of the auditor's own.</param>
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
    bool Finite,
    long? Opened = null
);

/// <param name="Place">Among the subjects drawn, from 1.</param>
/// <param name="Note">Asked for with a deviation.</param>
public sealed record ItemResult(int Place, bool Deviates, string Note);

/// <param name="Items">Results; a subject without one was examined without a deviation.</param>
public sealed record SampleResult(IReadOnlyList<ItemResult> Items);

/// <summary>Samples of an audit, and their results.</summary>
public static class AuditSampleEndpoints
{
    public static void MapAuditSamples(this IEndpointRouteBuilder api)
    {
        api.MapPost("/audits/{id:long}/samples", Sample).RequiresSignIn();
        api.MapPost("/audits/{id:long}/samples/{sample:long}/result", Result).RequiresSignIn();
    }

    /// <summary>Whether the results are the caller's to set: they drew the sample.</summary>
    private static bool MaySet(AuditSampleRow sample, AuditRow audit, ApiContext context) =>
        audit.ClosedAt is null && sample.DrawnById == context.Caller.PersonId && AuditRoom.MayWork(audit, context);

    internal static SampleView View(AuditSampleRow s, AuditRow audit, ApiContext context)
    {
        var population = JsonSerializer.Deserialize<List<string>>(s.Population)!;
        var results =
            s.Results.Length == 0 ? [] : JsonSerializer.Deserialize<List<ItemResult>>(s.Results, Json.Options)!;
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
            s.Finite,
            [
                .. JsonSerializer
                    .Deserialize<List<int>>(s.Picks)!
                    .Select(
                        (at, i) =>
                            results.Count == 0
                                ? new PickView(population[at], null, "")
                                : new PickView(population[at], results[i].Deviates, results[i].Note)
                    ),
            ],
            s.Strata.Length == 0 ? [] : JsonSerializer.Deserialize<List<StratumView>>(s.Strata)!,
            s.Found,
            s.UpperLimit,
            s.DrawnBy,
            MaySet(s, audit, context)
        );
    }

    /// <summary>Freezes a population and draws from it.</summary>
    private static async Task<Reply<Done>> Sample(
        long id,
        SampleRequest request,
        MeasureBook measures,
        IServiceProvider services,
        [AsParameters] ApiContext context
    )
    {
        var audit = await context
            .Db.Audits.AsNoTracking()
            .Include(a => a.Populations)
            .SingleOrDefaultAsync(a => a.Id == id, context.Cancel);
        if (audit is null || !AuditRoom.MayWork(audit, context))
        {
            return Problems.NotFound("audit");
        }

        var population = await AuditPopulations.OfAsync(audit, request, measures, services, context);
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
        return AuditRoom.WorkAsync(
            id,
            context,
            (session, row) =>
            {
                var text = AuditPopulations.Frozen(population);
                var sample = new AuditSampleRow
                {
                    Title = request.Title.Trim(),
                    DrawnBy = context.Caller.Name,
                    DrawnById = context.Caller.PersonId,
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
                    AuditRoom.Subject(id),
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
            AuditRoom.Who.Auditor
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
        AuditRoom.WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (row.Samples.Find(s => s.Id == sample) is not { } found)
                {
                    return Task.FromResult<Refusal?>(Problems.NotFound("sample"));
                }

                var size = JsonSerializer.Deserialize<List<int>>(found.Picks)!.Count;
                if (NotSetting(found, row, request, size, context) is { } refusal)
                {
                    return Task.FromResult<Refusal?>(refusal);
                }

                // What has no result of its own was examined without a deviation.
                var results = Enumerable
                    .Range(1, size)
                    .Select(p => request.Items.FirstOrDefault(r => r.Place == p) ?? new(p, false, ""))
                    .Select(r => r with { Note = r.Note.Trim() })
                    .ToList();
                var before = found.Results;
                found.Results = JsonSerializer.Serialize(results, Json.Options);
                found.Found = results.Count(r => r.Deviates);
                found.UpperLimit = Math.Round(UpperLimit(found, found.Found.Value, size), 6);
                session.Record(
                    "sample-result",
                    AuditRoom.Subject(id),
                    before.Length == 0 ? null : new JsonObject { ["items"] = JsonNode.Parse(before) },
                    new JsonObject
                    {
                        ["sample"] = sample,
                        ["found"] = found.Found,
                        ["upperLimit"] = found.UpperLimit,
                        ["items"] = JsonNode.Parse(found.Results),
                    }
                );
                return Task.FromResult<Refusal?>(null);
            },
            AuditRoom.Who.Auditor
        );

    /// <summary>Why the caller does not set these results, or null.</summary>
    private static Refusal? NotSetting(
        AuditSampleRow found,
        AuditRow row,
        SampleResult request,
        int size,
        ApiContext context
    )
    {
        if (!MaySet(found, row, context))
        {
            return Refusal.Forbidden("not-yours", null, $"{found.DrawnBy} drew the sample, and sets its results.");
        }

        var places = request.Items.Select(r => r.Place).Distinct().ToList();
        if (places.Count != request.Items.Count || places.Exists(p => p < 1 || p > size))
        {
            return new("item-malformed", "items", $"Each of the {size} subjects drawn has one result.");
        }

        if (request.Items.FirstOrDefault(r => r.Deviates && string.IsNullOrWhiteSpace(r.Note)) is { } bare)
        {
            return new("note-missing", "items", $"Say how subject {bare.Place} deviates.");
        }

        return null;
    }

    /// <summary>By the plan of the sample; of a population that was looked at whole, nothing is left to chance.</summary>
    private static double UpperLimit(AuditSampleRow sample, int found, int size)
    {
        var population = JsonSerializer.Deserialize<List<string>>(sample.Population)!.Count;
        return sample.Finite || size == population
            ? AttributeSample.UpperLimit(found, size, (decimal)sample.Confidence, population)
            : AttributeSample.UpperLimit(found, size, (decimal)sample.Confidence);
    }
}
