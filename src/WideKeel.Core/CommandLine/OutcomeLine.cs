using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;

namespace WideKeel.Core.CommandLine;

/// <summary>One item's outcome as a line of JSON.</summary>
public static class OutcomeLine
{
    public static JsonObject Of(string id, BatchOutcome outcome)
    {
        var beneath = outcome.Standing.State.Word();
        return new()
        {
            ["id"] = id,
            ["state"] = outcome.Held ? "held" : beneath,
            ["beneath"] = beneath,
            ["keepUntil"] = outcome.Standing.KeepUntil.Text,
            ["disposableFrom"] = Text(outcome.Standing.DisposableFrom),
            ["atEnd"] = outcome.Standing.AtEnd.ToString().ToLowerInvariant(),
            ["grade"] = outcome.Grade.ToString().ToLowerInvariant(),
            ["reasons"] = new JsonArray([
                .. outcome.Reasons.Select(r => new JsonObject
                {
                    ["rule"] = r.Rule,
                    ["kind"] = r.Kind,
                    ["won"] = r.Won,
                    ["keepUntil"] = r.KeepUntil.Text,
                    ["clauses"] = new JsonArray([
                        .. r.Clauses.Select(c => new JsonObject
                        {
                            ["base"] = Text(c.Base),
                            ["cutoff"] = Text(c.Cutoff),
                            ["until"] = Text(c.Until),
                        }),
                    ]),
                    ["why"] = r.Why,
                }),
            ]),
        };
    }

    private static string? Text(LocalDate? date) => date is { } day ? LocalDatePattern.Iso.Format(day) : null;
}
