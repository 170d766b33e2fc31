using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Server.Readiness;

/// <summary>
/// OSCAL 1.1 assessment results of an audit (the structure is from memory of the published model): each request is an
/// observation, each finding a finding.
/// </summary>
internal static class AssessmentResults
{
    /// <param name="today">The day on which the document is made.</param>
    public static JsonObject Of(AuditView audit, LocalDate today) =>
        new()
        {
            ["assessment-results"] = new JsonObject
            {
                ["uuid"] = NewId(),
                ["metadata"] = new JsonObject
                {
                    ["title"] = audit.Settings.Name,
                    ["last-modified"] = $"{LocalDatePattern.Iso.Format(today)}T00:00:00Z",
                    ["version"] = "1",
                    ["oscal-version"] = "1.1.2",
                },
                ["results"] = All([Result(audit)]),
            },
        };

    private static JsonObject Result(AuditView audit) =>
        new()
        {
            ["uuid"] = NewId(),
            ["title"] = audit.FrameworkTitle,
            ["start"] = $"{audit.Settings.PeriodFrom:yyyy-MM-dd}T00:00:00Z",
            ["end"] = $"{audit.Settings.PeriodThrough:yyyy-MM-dd}T23:59:59Z",
            ["observations"] = All(audit.Requests.Select(Observation)),
            ["findings"] = All(audit.Findings.Select(Finding)),
        };

    private static JsonObject Observation(RequestView request) =>
        new()
        {
            ["uuid"] = NewId(),
            ["title"] = request.Requirement ?? request.What,
            ["description"] = request.What,
            ["methods"] = new JsonArray("EXAMINE"),
            ["relevant-evidence"] = All(request.Offered.Select(Evidence)),
        };

    private static JsonObject Evidence(ProofDetailLine offered) =>
        new()
        {
            ["description"] = $"{offered.Control} {offered.Title}: {offered.Proof.Says}",
            ["props"] = All([new JsonObject { ["name"] = "sha256", ["value"] = offered.Proof.Hash }]),
        };

    private static JsonObject Finding(FindingView finding) =>
        new()
        {
            ["uuid"] = NewId(),
            ["title"] = finding.Title,
            ["description"] = finding.Action.Length > 0 ? finding.Action : finding.Title,
            ["target"] = new JsonObject
            {
                ["type"] = "objective-id",
                ["target-id"] = finding.Control.Length > 0 ? finding.Control : "organisation",
                ["status"] = new JsonObject { ["state"] = "not-satisfied" },
            },
        };

    private static string NewId() => Guid.NewGuid().ToString();

    private static JsonArray All(IEnumerable<JsonObject> nodes)
    {
        JsonNode?[] all = [.. nodes];
        return new JsonArray(all);
    }
}
