using System.Text.Json;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <summary>What came of a removal after the report of its round was frozen.</summary>
public sealed record AddedOutcome(string Person, string What, bool Applied, string? Failure);

/// <summary>Outcomes that were added to a frozen report.</summary>
/// <param name="After">SHA-256 of the report, or of the addendum before this one.</param>
/// <param name="Hash">SHA-256 of this addendum: its canonical JSON (RFC 8785) without the hash.</param>
public sealed record Addendum(Instant At, string After, IReadOnlyList<AddedOutcome> Lines, string Hash);

/// <summary>
/// The report of a round: frozen and hashed at its end, and never written again. What the directory does later is added in
/// addenda, each of which names what stands before it by its hash.
/// </summary>
internal static class ReviewReport
{
    /// <summary>Writes the report as the round is now, with its hash.</summary>
    public static void Freeze(WriteSession session, AccessReview review, ReviewRound round)
    {
        round.Report = CanonicalJson.Text(Of(review, round));
        round.ReportHash = ContentHash.Of(round.Report);
        session.Record(
            "round-ended",
            LedgerSubject.Of("review", review.Id),
            after: new JsonObject
            {
                ["round"] = round.Number,
                ["kept"] = round.Lines.Count(l => l.Decision == LineDecision.Keep),
                ["removed"] = round.Lines.Count(l => l.Decision == LineDecision.Remove),
                ["applied"] = round.Lines.Count(l => l.Applied),
                ["sha256"] = round.ReportHash,
            }
        );
    }

    public static IReadOnlyList<Addendum> AddendaOf(ReviewRound round) =>
        JsonSerializer.Deserialize<List<Addendum>>(round.Addenda, Json.Options)!;

    /// <summary>Adds what is different from what the report and its addenda say; nothing where that is nothing.</summary>
    public static void Add(WriteSession session, ReviewRound round)
    {
        var addenda = AddendaOf(round);
        var known = Frozen(round)
            .Concat(addenda.SelectMany(a => a.Lines))
            .GroupBy(l => (l.Person, l.What))
            .ToDictionary(g => g.Key, g => g.Last());
        List<AddedOutcome> changed =
        [
            .. round
                .Lines.Where(l => l.Decision == LineDecision.Remove)
                .OrderBy(l => l.What, StringComparer.Ordinal)
                .ThenBy(l => l.Person, StringComparer.Ordinal)
                .Select(l => new AddedOutcome(l.Person, l.What, l.Applied, l.Failure))
                .Where(l => !known.TryGetValue((l.Person, l.What), out var old) || old != l),
        ];
        if (changed.Count == 0)
        {
            return;
        }

        var next = new Addendum(session.Now, addenda.Count == 0 ? round.ReportHash : addenda[^1].Hash, changed, "");
        next = next with { Hash = HashOf(next) };
        round.Addenda = JsonSerializer.Serialize(addenda.Append(next), Json.Options);
        session.Record(
            "outcomes-added",
            LedgerSubject.Of("review", round.ReviewId),
            after: new JsonObject
            {
                ["round"] = round.Number,
                ["lines"] = changed.Count,
                ["applied"] = changed.Count(l => l.Applied),
                ["after"] = next.After,
                ["sha256"] = next.Hash,
            }
        );
    }

    private static string HashOf(Addendum addendum)
    {
        var json = JsonSerializer.SerializeToNode(addendum, Json.Options)!.AsObject();
        json.Remove("hash");
        return ContentHash.Of(CanonicalJson.Text(json));
    }

    private static IEnumerable<AddedOutcome> Frozen(ReviewRound round) =>
        JsonNode.Parse(round.Report)!["lines"]!
            .AsArray()
            .Select(l => new AddedOutcome(
                (string)l!["person"]!,
                (string)l["what"]!,
                (bool)l["applied"]!,
                (string?)l["failure"]
            ));

    private static JsonObject Of(AccessReview review, ReviewRound round)
    {
        var lines = round
            .Lines.OrderBy(l => l.What, StringComparer.Ordinal)
            .ThenBy(l => l.Person, StringComparer.Ordinal)
            .Select(JsonNode? (line) => LineOf(line));
        return new JsonObject
        {
            ["format"] = "widekeel-review/1",
            ["review"] = ReviewRounds.DefinitionOf(review).Name,
            ["round"] = round.Number,
            ["started"] = LocalDatePattern.Iso.Format(round.StartedOn),
            ["ended"] = round.EndedAt is { } end ? InstantPattern.ExtendedIso.Format(end) : null,
            ["stamped"] = new JsonArray([.. ReviewRounds.StampedBy(round).Select(m => (JsonNode?)m)]),
            ["lines"] = new JsonArray([.. lines]),
        };
    }

    private static JsonObject LineOf(ReviewLine line) =>
        new()
        {
            ["person"] = line.Person,
            ["what"] = line.What,
            ["roles"] = line.Roles,
            ["path"] = JsonNode.Parse(line.Path),
            ["reviewer"] = line.Reviewer,
            ["advice"] = line.AdviseRemoval ? "remove" : "keep",
            ["decision"] = line.Decision.ToString().ToLowerInvariant(),
            ["by"] = line.BySilence ? "silence" : line.DecidedBy,
            ["at"] = line.DecidedAt is { } at ? InstantPattern.ExtendedIso.Format(at) : null,
            ["reason"] = line.Reason,
            ["former"] = JsonNode.Parse(line.Former),
            ["changes"] = new JsonArray([.. ReviewRounds.ChosenOf(line).Select(c => (JsonNode?)c.InWords())]),
            ["applied"] = line.Applied,
            ["failure"] = line.Failure,
        };
}
