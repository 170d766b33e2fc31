using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <summary>The report of a round, as files.</summary>
public static class ReviewReports
{
    public static void MapReviewReports(this IEndpointRouteBuilder api)
    {
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/report.csv", Csv).Requires(Right.ReadAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/report.json", Report).Requires(Right.ReadAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/report.pdf", Pdf).Requires(Right.ReadAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/addenda.json", Addenda).Requires(Right.ReadAccess);
    }

    /// <summary>What a line of a report says, column by column.</summary>
    internal static readonly string[] Columns =
    [
        "person",
        "what",
        "roles",
        "path",
        "reviewer",
        "advice",
        "decision",
        "by",
        "at",
        "reason",
        "applied",
        "failure",
        "stages before",
    ];

    internal static async Task<IResult> Csv(long id, int number, [AsParameters] ApiContext context) =>
        await ReviewWork.FindAsync(id, number, context.Db, context.Cancel) is { } round
            ? await CsvAnswer.WriteAsync(
                context.Http,
                string.Create(CultureInfo.InvariantCulture, $"review-{id}-{number}.csv"),
                Columns,
                round
                    .Lines.OrderBy(l => l.What, StringComparer.Ordinal)
                    .ThenBy(l => l.Person, StringComparer.Ordinal)
                    .Select(Cells)
                    .ToAsyncEnumerable(),
                context.Cancel
            )
            : (Reply<Done>)Problems.NotFound("round");

    internal static object?[] Cells(ReviewLine l) =>
        [
            l.Person,
            l.What,
            l.Roles,
            string.Join(" → ", JsonSerializer.Deserialize<List<string>>(l.Path)!),
            l.Reviewer,
            l.AdviseRemoval ? "remove" : "keep",
            l.Decision.ToString(),
            l.BySilence ? "silence" : l.DecidedBy,
            l.DecidedAt is { } at ? NodaTime.Text.InstantPattern.ExtendedIso.Format(at) : "",
            l.Reason,
            l.Applied ? "yes" : "no",
            l.Failure,
            string.Join("; ", ReviewRounds.FormerOf(l).Select(f => $"{f.Reviewer}: {f.Decision} {f.Reason}".TrimEnd())),
        ];

    private static async Task<IResult> Report(long id, int number, [AsParameters] ApiContext context) =>
        await ReviewWork.FindAsync(id, number, context.Db, context.Cancel) is { Report.Length: > 0 } round
            ? Results.File(
                Encoding.UTF8.GetBytes(round.Report),
                "application/json",
                string.Create(CultureInfo.InvariantCulture, $"review-{id}-{number}.json")
            )
            : (Reply<Done>)Problems.NotFound("round that has ended");

    /// <summary>What was added to the report since it was frozen.</summary>
    private static async Task<IResult> Addenda(long id, int number, [AsParameters] ApiContext context) =>
        await ReviewWork.FindAsync(id, number, context.Db, context.Cancel) is { Report.Length: > 0 } round
            ? Results.File(
                Encoding.UTF8.GetBytes(round.Addenda),
                "application/json",
                string.Create(CultureInfo.InvariantCulture, $"review-{id}-{number}-addenda.json")
            )
            : (Reply<Done>)Problems.NotFound("round that has ended");

    private static async Task<IResult> Pdf(long id, int number, [AsParameters] ApiContext context) =>
        await ReviewWork.FindAsync(id, number, context.Db, context.Cancel) is { Report.Length: > 0 } round
            ? Results.File(
                ReviewPdf.Draw(
                    JsonNode.Parse(round.Report)!.AsObject(),
                    round.ReportHash,
                    ReviewReport.AddendaOf(round)
                ),
                "application/pdf",
                string.Create(CultureInfo.InvariantCulture, $"review-{id}-{number}.pdf")
            )
            : (Reply<Done>)Problems.NotFound("round that has ended");
}
