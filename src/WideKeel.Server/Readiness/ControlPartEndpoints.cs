using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="SeenBy">Roles; empty for everybody who reads readiness.</param>
public sealed record ReadersRequest(IReadOnlyList<Role> SeenBy);

/// <param name="Expected">Percent that must be right for a test to pass.</param>
/// <param name="Period">ISO 8601: for how long a run, or evidence, speaks.</param>
/// <param name="Recurrence">RFC 5545, for a routine.</param>
/// <param name="NeedsReview">Evidence counts when somebody else than its giver has reviewed it.</param>
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
    IReadOnlyList<Role>? SeenBy = null,
    bool NeedsReview = false
);

/// <summary>The parts of a control: added, changed, retired, and who sees their proofs.</summary>
internal static class ControlPartEndpoints
{
    public static void MapControlParts(this IEndpointRouteBuilder api)
    {
        api.MapPost("/controls/{id:long}/parts", AddPart).Requires(Right.ManageReadiness);
        api.MapPut("/controls/{id:long}/parts/{part:long}", ChangePart).Requires(Right.ManageReadiness);
        api.MapDelete("/controls/{id:long}/parts/{part:long}", RemovePart).Requires(Right.ManageReadiness);
        api.MapPut("/controls/{id:long}/parts/{part:long}/readers", SetReaders).Requires(Right.ManageReadiness);
    }

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
                session.Record("proof-readers-changed", ControlEndpoints.Subject(id), before, ReadersOf(there));
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
        ControlEndpoints.WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (Check(request, measures) is { } refusal)
                {
                    return Task.FromResult<Refusal?>(refusal);
                }

                var part = new ControlPartRow { Kind = request.Kind, Title = "" };
                Apply(part, request);
                row.Parts.Add(part);
                session.Record("part-added", ControlEndpoints.Subject(id), after: Described(part));
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static void Apply(ControlPartRow part, PartRequest request)
    {
        part.Title = request.Title.Trim();
        part.Weight = request.Weight;
        part.Measure = request.Kind == PartKind.Test ? request.Measure : "";
        part.Expected = request.Expected;
        part.Period = request.Period;
        part.Recurrence = request.Kind == PartKind.Routine ? request.Recurrence : "";
        part.First = request.First is { } first ? LocalDate.FromDateOnly(first) : null;
        part.Doer = request.Doer.Trim().ToLowerInvariant();
        part.Deputy = request.Deputy.Trim().ToLowerInvariant();
        part.SeenBy = [.. (request.SeenBy ?? []).Distinct()];
        part.NeedsReview = request is { Kind: PartKind.Evidence, NeedsReview: true };
    }

    /// <summary>Changes a part; its kind and what a test looks at stay, because its proofs speak of them.</summary>
    private static Task<Reply<Done>> ChangePart(
        long id,
        long part,
        PartRequest request,
        MeasureBook measures,
        [AsParameters] ApiContext context
    ) =>
        ControlEndpoints.WorkAsync(
            id,
            context,
            (session, row) =>
                Task.FromResult(
                    row.Parts.Find(p => p.Id == part) is { } found
                        ? Change(session, row, found, request, measures, context)
                        : Problems.NotFound("part")
                )
        );

    private static Refusal? Change(
        WriteSession session,
        ControlRow row,
        ControlPartRow found,
        PartRequest request,
        MeasureBook measures,
        ApiContext context
    )
    {
        if ((Problems.CheckMatch(context.Http, row.Version) ?? Check(request, measures)) is { } refusal)
        {
            return refusal;
        }

        if (found.Kind != request.Kind || (found.Kind == PartKind.Test && found.Measure != request.Measure))
        {
            return Refusal.Conflict(
                "part-fixed",
                "kind",
                "The kind of a part and what a test looks at cannot be changed: its proofs are about them. "
                    + "Remove the part and add another."
            );
        }

        var before = Described(found);
        Apply(found, request);
        session.Record("part-changed", ControlEndpoints.Subject(row.Id), before, Described(found));
        return null;
    }

    /// <summary>All that decides whether, and by how much, a part counts.</summary>
    private static JsonObject Described(ControlPartRow part)
    {
        var described = new JsonObject
        {
            ["kind"] = part.Kind.ToString(),
            ["title"] = part.Title,
            ["weight"] = part.Weight,
        };
        var more = part.Kind switch
        {
            PartKind.Test => new Dictionary<string, JsonNode?>
            {
                ["measure"] = part.Measure,
                ["expected"] = part.Expected,
                ["period"] = part.Period,
            },
            PartKind.Routine => new()
            {
                ["recurrence"] = part.Recurrence,
                ["first"] = part.First is { } first ? LocalDatePattern.Iso.Format(first) : null,
                ["doer"] = part.Doer,
                ["deputy"] = part.Deputy,
            },
            _ => new()
            {
                ["period"] = part.Period,
                ["doer"] = part.Doer,
                ["deputy"] = part.Deputy,
                ["needsReview"] = part.NeedsReview,
            },
        };
        foreach (var (name, value) in more)
        {
            described[name] = value;
        }

        described["seenBy"] = string.Join(", ", part.SeenBy);
        return described;
    }

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
                    ControlEndpoints.Subject(id),
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
        ControlEndpoints.WorkAsync(
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
}
