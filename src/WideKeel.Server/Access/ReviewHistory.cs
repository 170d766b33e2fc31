using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <summary>What a decision was about.</summary>
public enum ReviewedKind
{
    Group,
    Place,
    Application,
}

/// <summary>Decisions of all reviews, over as many rounds as lie within some days.</summary>
public static class ReviewHistory
{
    public static void MapReviewHistory(this IEndpointRouteBuilder api) =>
        api.MapGet("/reviews/history.csv", Csv).Requires(Right.ReadAccess);

    /// <param name="from">The first day of decisions; null for the beginning.</param>
    /// <param name="to">The last day; null for today.</param>
    /// <param name="decision">keep, remove or cannotSay; null for all that were decided, by somebody or by silence.</param>
    /// <param name="kind">group, place or application.</param>
    private static async Task<IResult> Csv(
        DateOnly? from,
        DateOnly? to,
        string? decision,
        string? kind,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        if (QueryWord.Read<LineDecision>(decision, "decision", out var decided) is { } unknown)
        {
            return (Reply<Done>)unknown;
        }

        if (QueryWord.Read<ReviewedKind>(kind, "kind", out var wanted) is { } none)
        {
            return (Reply<Done>)none;
        }

        var kinds = ground.State.Resources.ToDictionary(
            r => r.Id,
            r => r.Kind == "application" ? ReviewedKind.Application : ReviewedKind.Place,
            StringComparer.Ordinal
        );
        return await CsvAnswer.WriteAsync(
            context.Http,
            "reviews.csv",
            ["review", "round", .. ReviewReports.Columns],
            RowsAsync(
                context,
                decided,
                (line, day) =>
                    !(from is { } first && !(day >= LocalDate.FromDateOnly(first)))
                    && !(to is { } last && !(day <= LocalDate.FromDateOnly(last)))
                    && (wanted is null || kinds.GetValueOrDefault(line.What, ReviewedKind.Group) == wanted)
            ),
            context.Cancel
        );
    }

    private static async IAsyncEnumerable<object?[]> RowsAsync(
        ApiContext context,
        LineDecision? decision,
        Func<ReviewLine, LocalDate?, bool> fits
    )
    {
        var names = await context
            .Db.Reviews.AsNoTracking()
            .ToDictionaryAsync(r => r.Id, r => ReviewRounds.DefinitionOf(r).Name, context.Cancel);
        var lines =
            from line in context.Db.ReviewLines.AsNoTracking()
            join round in context.Db.ReviewRounds on line.RoundId equals round.Id
            where line.Decision != LineDecision.Open && (decision == null || line.Decision == decision)
            orderby line.Id
            select new
            {
                Line = line,
                round.ReviewId,
                round.Number,
                round.EndedAt,
            };
        await foreach (var found in lines.AsAsyncEnumerable().WithCancellation(context.Cancel))
        {
            // What silence decided was decided at the end of its round.
            var at = found.Line.DecidedAt ?? found.EndedAt;
            if (fits(found.Line, at is { } moment ? context.Calendar.DateOf(moment) : null))
            {
                yield return
                [
                    names.GetValueOrDefault(found.ReviewId, ""),
                    found.Number,
                    .. ReviewReports.Cells(found.Line),
                ];
            }
        }
    }
}
