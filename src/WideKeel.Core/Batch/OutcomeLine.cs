using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Schedules;

namespace WideKeel.Core.Batch;

/// <summary>One item's outcome as a line of JSON.</summary>
public static class OutcomeLine
{
    public static JsonObject Of(string id, ItemOutcome outcome)
    {
        var beneath = outcome.Beneath.Word();
        return new()
        {
            ["id"] = id,
            ["state"] = outcome.Held ? "held" : beneath,
            ["beneath"] = beneath,
            ["keepUntil"] = outcome.KeepUntil.Text,
            ["disposableFrom"] = Text(outcome.DisposableFrom),
            ["atEnd"] = outcome.AtEnd.ToString().ToLowerInvariant(),
            ["grade"] = outcome.Protection.ToString().ToLowerInvariant(),
            ["reasons"] = new JsonArray([.. outcome.Reasons.Select(r => new JsonObject
            {
                ["rule"] = r.Rule,
                ["kind"] = r.Kind,
                ["won"] = r.Won,
                ["keepUntil"] = r.KeepUntil.Text,
                ["clauses"] = new JsonArray([.. r.Clauses.Select(c => new JsonObject { ["base"] = Text(c.Base), ["cutoff"] = Text(c.Cutoff), ["until"] = Text(c.Until) })]),
                ["why"] = r.Why,
            })]),
        };
    }

    private static string? Text(LocalDate? date) => date is { } day ? LocalDatePattern.Iso.Format(day) : null;
}
