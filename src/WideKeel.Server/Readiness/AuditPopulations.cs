using System.Text.Json;
using System.Text.Json.Nodes;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Measure">Whose subjects; null where a list is given.</param>
public sealed record NewPopulation(string Title, string? Measure = null, IReadOnlyList<string>? Population = null);

/// <summary>What an audit samples: populations that the organisation opened to it, and lists.</summary>
internal static class AuditPopulations
{
    public static void MapAuditPopulations(this IEndpointRouteBuilder api) =>
        api.MapPost("/audits/{id:long}/populations", Open).Requires(Right.ManageReadiness);

    /// <summary>
    /// What is sampled: a population that was opened to the audit, a list, or, for those who manage readiness, the subjects
    /// of a measure. An auditor does not ask for measures: who and what they name is the organisation's to open.
    /// </summary>
    public static async Task<Outcome<List<(string Stratum, string Name)>>> OfAsync(
        AuditRow audit,
        SampleRequest request,
        MeasureBook measures,
        IServiceProvider services,
        ApiContext context
    )
    {
        if (request.Opened is { } opened)
        {
            return audit.Populations.Find(p => p.Id == opened) is { } there
                ? JsonSerializer.Deserialize<List<string>>(there.Lines)!.ConvertAll(Line)
                : Problems.NotFound("population in this room");
        }

        return request.Measure is not { Length: > 0 } ? Lines(request.Population)
            : !context.Caller.May(Right.ManageReadiness)
                ? Refusal.Forbidden(
                    "not-opened",
                    "measure",
                    "An auditor samples what the organisation opened to the audit; ask for it in a request."
                )
            : await SubjectsAsync(request.Measure, measures, services, context);
    }

    private static List<(string Stratum, string Name)> Lines(IReadOnlyList<string>? list) =>
        [.. (list ?? []).Select(p => p.Trim()).Where(p => p.Length > 0).Select(Line)];

    private static async Task<Outcome<List<(string Stratum, string Name)>>> SubjectsAsync(
        string name,
        MeasureBook measures,
        IServiceProvider services,
        ApiContext context
    ) =>
        measures.Find(name) is { } measure
            ? (await measures.AskAsync(measure.Name, new(context.Db, services, context.Calendar, context.Cancel)))
                .Select(s => (s.Unit, s.Name))
                .ToList()
            : new Refusal("measure-unknown", "measure", $"There is no measure “{name}”.");

    /// <summary>Freezes the subjects of a measure, or a list, for the auditor to sample from.</summary>
    private static async Task<Reply<Done>> Open(
        long id,
        NewPopulation request,
        MeasureBook measures,
        IServiceProvider services,
        [AsParameters] ApiContext context
    )
    {
        if (string.IsNullOrWhiteSpace(request.Title))
        {
            return new Refusal("title-missing", "title", "Say what the population is.");
        }

        var subjects = request.Measure is { Length: > 0 } name
            ? await SubjectsAsync(name, measures, services, context)
            : Lines(request.Population);
        if (subjects.Refusal is { } refusal)
        {
            return refusal;
        }

        if (subjects.Value.Count == 0)
        {
            return new Refusal(
                "population-empty",
                "population",
                "The population is empty; there is nothing to draw from."
            );
        }

        return await OpenAsync(id, request, subjects.Value, context);
    }

    private static Task<Reply<Done>> OpenAsync(
        long id,
        NewPopulation request,
        List<(string Stratum, string Name)> subjects,
        ApiContext context
    ) =>
        AuditRoom.WorkAsync(
            id,
            context,
            (session, row) =>
            {
                var lines = Frozen(subjects);
                row.Populations.Add(
                    new()
                    {
                        Title = request.Title.Trim(),
                        Lines = lines,
                        Hash = ContentHash.Of(lines),
                        Size = subjects.Count,
                        OpenedAt = session.Now,
                        OpenedBy = context.Caller.Name,
                    }
                );
                session.Record(
                    "population-opened",
                    AuditRoom.Subject(id),
                    after: new JsonObject
                    {
                        ["title"] = request.Title.Trim(),
                        ["measure"] = request.Measure,
                        ["size"] = subjects.Count,
                        ["sha256"] = ContentHash.Of(lines),
                    }
                );
                return Task.FromResult<Refusal?>(null);
            }
        );

    /// <summary>A population as it is kept and hashed: each line with its stratum where it has one.</summary>
    public static string Frozen(IEnumerable<(string Stratum, string Name)> population) =>
        CanonicalJson.Text(
            new JsonArray([
                .. population.Select(p => (JsonNode?)(p.Stratum.Length == 0 ? p.Name : $"{p.Stratum} | {p.Name}")),
            ])
        );

    /// <summary>A line of a list: its stratum before the first |, or none.</summary>
    private static (string Stratum, string Name) Line(string text) =>
        text.IndexOf('|', StringComparison.Ordinal) is > 0 and var at
            ? (text[..at].Trim(), text[(at + 1)..].Trim())
            : ("", text);
}
