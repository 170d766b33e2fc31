using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <param name="Stamped">Reviewers who kept everything without looking.</param>
/// <param name="Addenda">What was added to the report after it was frozen.</param>
public sealed record RoundView(
    long Id,
    int Number,
    int Stage,
    LocalDate StartedOn,
    LocalDate EndsOn,
    Instant? EndedAt,
    int Lines,
    int Open,
    int Kept,
    int Removed,
    int Applied,
    int Failed,
    IReadOnlyList<string> Stamped,
    string ReportHash,
    IReadOnlyList<Addendum> Addenda
);

/// <param name="State">draft, planned, running or ended.</param>
public sealed record ReviewView(
    long Id,
    ReviewSettings Settings,
    string State,
    string Owner,
    LocalDate? NextOn,
    IReadOnlyList<RoundView> Rounds,
    long Revision
) : IRevised;

/// <param name="Stage">In which stage, from 1.</param>
/// <param name="Reviewer">Who is asked.</param>
/// <param name="Hours">How long it would take at ten seconds a line.</param>
public sealed record ReviewerLoad(int Stage, string Reviewer, string Name, int Lines, double Hours, bool HasAccount);

/// <summary>What a draft would ask.</summary>
/// <param name="SilenceRemoves">Lines that the rule for silence would remove.</param>
/// <param name="LeftOut">What is not asked about though one might think so.</param>
public sealed record ReviewConsequences(
    int Lines,
    int AdviseRemoval,
    int SilenceRemoves,
    IReadOnlyList<ReviewerLoad> Reviewers,
    IReadOnlyList<string> LeftOut
);

/// <summary>Reviews of access: drafted with their consequences, run, watched, ended, reported.</summary>
public static class ReviewEndpoints
{
    private const double SecondsALine = 10;

    public static void MapReviews(this IEndpointRouteBuilder api)
    {
        api.MapGet("/reviews", List).Requires(Right.ReadAccess);
        api.MapPost("/reviews/consequences", Consequences).Requires(Right.ManageAccess);
        api.MapPost("/reviews", Make).Requires(Right.ManageAccess);
        api.MapPut("/reviews/{id:long}", Change).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds", Start).Requires(Right.ManageAccess);
    }

    internal static RoundView View(ReviewRound r) =>
        new(
            r.Id,
            r.Number,
            r.Stage,
            r.StartedOn,
            r.EndsOn,
            r.EndedAt,
            r.Lines.Count,
            r.Lines.Count(l => l.Decision is LineDecision.Open or LineDecision.CannotSay),
            r.Lines.Count(l => l.Decision == LineDecision.Keep),
            r.Lines.Count(l => l.Decision == LineDecision.Remove),
            r.Lines.Count(l => l.Applied),
            r.Lines.Count(l => l.Failure is not null && !l.Applied),
            ReviewRounds.StampedBy(r),
            r.ReportHash,
            ReviewReport.AddendaOf(r)
        );

    private static async Task<Reply<IReadOnlyList<ReviewView>>> List(WideKeelDb db, CancellationToken cancel)
    {
        var people = await db.Users.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.DisplayName, cancel);
        return (Outcome<IReadOnlyList<ReviewView>>)
            (await ReviewWork.Whole(db).AsNoTracking().OrderByDescending(r => r.Id).ToListAsync(cancel))
                .Select(r => new ReviewView(
                    r.Id,
                    ReviewForm.Of(ReviewRounds.DefinitionOf(r)),
                    r.Rounds.Any(x => x.EndedAt is null) ? "running"
                        : r.Rounds.Count > 0 && r.NextOn is null ? "ended"
                        : r.NextOn is not null ? "planned"
                        : "draft",
                    people.GetValueOrDefault(r.PersonId, ""),
                    r.NextOn,
                    [.. r.Rounds.OrderByDescending(x => x.Number).Select(View)],
                    r.Version
                ))
                .ToList();
    }

    private static async Task<Reply<ReviewConsequences>> Consequences(
        ReviewSettings request,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        if (ReviewForm.Check(request, ground) is { } refusal)
        {
            return refusal;
        }

        var definition = ReviewForm.Definition(request);
        var facts = await ground.ReviewFactsAsync(context.Db, context.Cancel);
        var questions = Reviews.Questions(definition, facts, context.Caller.Mail);
        var accounts = (
            await context.Db.Users.Where(u => u.Active).Select(u => u.Email!).ToListAsync(context.Cancel)
        ).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return new ReviewConsequences(
            questions.Count,
            questions.Count(q => q.AdviseRemoval),
            questions.Count(q =>
                Reviews.AtEnd(LineDecision.Open, request.Silence, q.AdviseRemoval) == LineDecision.Remove
            ),
            [
                .. Enumerable
                    .Range(1, 1 + definition.Later.Count)
                    .SelectMany(stage =>
                        questions
                            .Select((q, dealt) => ReviewerIn(stage, q, dealt))
                            .GroupBy(r => r)
                            .OrderByDescending(g => g.Count())
                            .Select(g => new ReviewerLoad(
                                stage,
                                g.Key,
                                ReachEndpoints.NameOf(facts.Directory, g.Key),
                                g.Count(),
                                Math.Round(g.Count() * SecondsALine / 3600, 2),
                                accounts.Contains(g.Key)
                            ))
                    ),
            ],
            Reviews.LeftOut(definition, facts.Directory, ground.Access)
        );

        string ReviewerIn(int stage, ReviewQuestion question, int dealt) =>
            stage == 1
                ? question.Reviewer
                : Reviews.ReviewerOf(
                    definition,
                    stage,
                    facts,
                    Reviews.PersonOf(facts.Directory, question.Person)!,
                    question.What,
                    context.Caller.Mail,
                    dealt
                );
    }

    private static async Task<Reply<Done>> Make(
        ReviewSettings request,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        ReviewForm.Check(request, ground) is { } refusal
            ? refusal
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    await AddAsync(session, ReviewForm.Definition(request), context);
                    return new Done();
                },
                context.Cancel
            );

    internal static async Task<AccessReview> AddAsync(
        WriteSession session,
        ReviewDefinition definition,
        ApiContext context
    )
    {
        var review = new AccessReview
        {
            Definition = JsonSerializer.Serialize(definition, Json.Options),
            PersonId = context.Caller.PersonId,
            MadeAt = session.Now,
        };
        session.Db.Reviews.Add(review);
        await session.Db.SaveChangesAsync(context.Cancel);
        session.Record("made", ReviewWork.Subject(review.Id), after: JsonNode.Parse(review.Definition));
        return review;
    }

    private static Task<Reply<Done>> Change(
        long id,
        ReviewSettings request,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        ReviewWork.ChangeAsync(
            id,
            context,
            async (session, review) =>
            {
                if (
                    (Problems.CheckMatch(context.Http, review.Version) ?? ReviewForm.Check(request, ground)) is
                    { } refusal
                )
                {
                    return refusal;
                }

                var former = ReviewRounds.DefinitionOf(review);
                var now = ReviewForm.Definition(request);
                if (review.Rounds.Any(r => r.EndedAt is null && r.Stage > 1 + now.Later.Count))
                {
                    return Refusal.Conflict(
                        "stage-running",
                        "later",
                        "The stage that is running cannot be taken away."
                    );
                }

                var before = JsonNode.Parse(review.Definition);
                review.Definition = JsonSerializer.Serialize(now, Json.Options);
                session.Record("changed", ReviewWork.Subject(id), before, JsonNode.Parse(review.Definition));
                if (!now.AsksTheSameAs(former))
                {
                    await new ReviewRounds(session, ground, context.Calendar).AskOthersAsync(review, context.Cancel);
                }

                return null;
            }
        );

    /// <summary>Starts the first round, now or on the day that the review names.</summary>
    private static Task<Reply<Done>> Start(long id, AccessGround ground, [AsParameters] ApiContext context) =>
        ReviewWork.ChangeAsync(
            id,
            context,
            async (session, review) =>
            {
                if (review.Rounds.Any(r => r.EndedAt is null))
                {
                    return Refusal.Conflict("round-running", null, "A round is running; end it first.");
                }

                var definition = ReviewRounds.DefinitionOf(review);
                if (definition.Start > context.Calendar.Today)
                {
                    review.NextOn = definition.Start;
                    session.Record("planned", ReviewWork.Subject(id));
                    return null;
                }

                await new ReviewRounds(session, ground, context.Calendar).StartAsync(review, context.Cancel);
                return null;
            }
        );
}
