using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <param name="Attempts">How often the directory was asked to carry the removal out.</param>
public sealed record ReviewLineView(
    long Id,
    string Person,
    string PersonName,
    string What,
    string WhatName,
    string Roles,
    IReadOnlyList<string> Path,
    string Reviewer,
    bool AdviseRemoval,
    IReadOnlyList<string> Grounds,
    LineDecision Decision,
    string Reason,
    string DecidedBy,
    bool BySilence,
    bool Applied,
    string? Failure,
    int Attempts,
    string? Meanwhile,
    IReadOnlyList<FormerAnswer> Former
);

public sealed record ReviewerProgress(string Mail, string Name, int Lines, int Open, Instant? RemindedAt);

public sealed record RoundDetail(
    RoundView Round,
    IReadOnlyList<ReviewerProgress> Reviewers,
    IReadOnlyList<ReviewLineView> Lines
);

/// <param name="From">Whose open lines.</param>
/// <param name="To">Who is asked instead.</param>
public sealed record HandOver(string From, string To);

public sealed record RoundChange(DateOnly EndsOn);

/// <summary>One round: looked at, handed over, reminded, ended, carried out.</summary>
public static class RoundEndpoints
{
    public static void MapRounds(this IEndpointRouteBuilder api)
    {
        api.MapGet("/reviews/{id:long}/rounds/{number:int}", One).Requires(Right.ReadAccess);
        api.MapPut("/reviews/{id:long}/rounds/{number:int}", ChangeRound).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/reminders", Remind).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/hand-over", Hand).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/next-stage", NextStage).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/end", End).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/carrying-out", CarryOut).Requires(Right.ManageAccess);
    }

    private static async Task<Reply<RoundDetail>> One(
        long id,
        int number,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        if (await ReviewWork.FindAsync(id, number, context.Db, context.Cancel) is not { } round)
        {
            return Problems.NotFound("round");
        }

        var (facts, removals) = (await ground.FactsAsync(context.Db, context.Cancel), ground.Removals);
        var links = await context
            .Db.ReviewerLinks.AsNoTracking()
            .Where(l => l.RoundId == round.Id)
            .ToDictionaryAsync(l => l.Mail, context.Cancel);
        return new RoundDetail(
            ReviewEndpoints.View(round),
            [
                .. round
                    .Lines.GroupBy(l => l.Reviewer)
                    .OrderByDescending(g => g.Count(l => l.Decision == LineDecision.Open))
                    .Select(g => new ReviewerProgress(
                        g.Key,
                        ReachEndpoints.NameOf(facts, g.Key),
                        g.Count(),
                        g.Count(l => l.Decision == LineDecision.Open),
                        links.GetValueOrDefault(g.Key)?.RemindedAt
                    )),
            ],
            [.. round.Lines.OrderBy(l => l.Id).Select(l => LineView(l, facts, removals))]
        );
    }

    internal static ReviewLineView LineView(ReviewLine line, MendingFacts facts, Removals removals) =>
        new(
            line.Id,
            line.Person,
            ReachEndpoints.NameOf(facts, line.Person),
            line.What,
            ReachEndpoints.NameOf(facts, line.What),
            line.Roles,
            [.. JsonSerializer.Deserialize<List<string>>(line.Path)!.Select(id => ReachEndpoints.NameOf(facts, id))],
            line.Reviewer,
            line.AdviseRemoval,
            JsonSerializer.Deserialize<List<string>>(line.Grounds)!,
            line.Decision,
            line.Reason,
            line.DecidedBy,
            line.BySilence,
            line.Applied,
            line.Failure,
            line.Attempts,
            Meanwhile(line, facts, removals),
            ReviewRounds.FormerOf(line)
        );

    /// <summary>What happened to a line's access since the round began; null where nothing did.</summary>
    private static string? Meanwhile(ReviewLine line, MendingFacts facts, Removals removals)
    {
        if (line.Applied)
        {
            return null;
        }

        if (Reviews.PersonOf(facts, line.Person) is not { } person)
        {
            return "The account is no longer in the directory.";
        }

        if (person.Left <= facts.Today)
        {
            return "This person has left.";
        }

        var there = removals.Ways(line.Person, line.What, line.Roles.Split(' ')).Count > 0;
        return there ? null : "The access is gone already.";
    }

    private static Task<Reply<Done>> ChangeRound(
        long id,
        int number,
        RoundChange request,
        [AsParameters] ApiContext context
    ) =>
        ReviewWork.RoundAsync(
            id,
            number,
            context,
            (session, _, round) =>
            {
                var ends = LocalDate.FromDateOnly(request.EndsOn);
                if (ends < context.Calendar.Today)
                {
                    return Task.FromResult<Refusal?>(
                        new("end-past", "endsOn", "The last day for answers cannot lie in the past.")
                    );
                }

                session.Record(
                    "round-changed",
                    ReviewWork.Subject(id),
                    new JsonObject { ["ends"] = round.EndsOn.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture) },
                    new JsonObject { ["ends"] = ends.ToString("uuuu-MM-dd", CultureInfo.InvariantCulture) }
                );
                round.EndsOn = ends;
                return Task.FromResult<Refusal?>(null);
            }
        );

    /// <summary>Reminds everybody with open lines.</summary>
    private static Task<Reply<Done>> Remind(
        long id,
        int number,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        ReviewWork.RoundAsync(
            id,
            number,
            context,
            async (session, review, round) =>
            {
                var silent = round
                    .Lines.Where(l => l.Decision == LineDecision.Open)
                    .Select(l => l.Reviewer)
                    .Distinct()
                    .ToList();
                foreach (var mail in silent)
                {
                    await new ReviewRounds(session, ground, context.Calendar).AskAsync(
                        round,
                        ReviewRounds.DefinitionOf(review),
                        mail,
                        context.Cancel,
                        reminds: true
                    );
                }

                session.Record(
                    "reminded",
                    ReviewWork.Subject(id),
                    after: new JsonObject { ["reviewers"] = silent.Count }
                );
                return null;
            }
        );

    private static Task<Reply<Done>> Hand(
        long id,
        int number,
        HandOver request,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        ReviewWork.RoundAsync(
            id,
            number,
            context,
            (session, review, round) => HandAsync(session, review, round, request, ground, context)
        );

    private static async Task<Refusal?> HandAsync(
        WriteSession session,
        AccessReview review,
        ReviewRound round,
        HandOver request,
        AccessGround ground,
        ApiContext context
    )
    {
        if (!MailAddress.IsOne(request.To))
        {
            return new("reviewer-malformed", "to", $"“{request.To}” is no mail address.");
        }

        var to = request.To.ToLowerInvariant();
        if (!await ReviewWork.IsThereAsync(session.Db, ground, to, context))
        {
            return new("reviewer-unknown", "to", $"{to} is not in the directory, or has left.");
        }

        var open = round.Lines.Where(l => l.Reviewer == request.From && l.Decision == LineDecision.Open).ToList();
        if (open.Count == 0)
        {
            return Refusal.Conflict("nothing-open", "from", "This reviewer has no open line.");
        }

        // Nobody decides on their own access: such lines stay where they are.
        var lines = open.Where(l => !ReviewRounds.IsOwn(l, to)).ToList();
        if (lines.Count == 0)
        {
            return Refusal.Conflict("own-line", "to", $"The open lines are about {to}; choose somebody else.");
        }

        foreach (var line in lines)
        {
            line.Reviewer = to;
            line.Version++;
        }

        await session.Db.SaveChangesAsync(context.Cancel);
        await new ReviewRounds(session, ground, context.Calendar).AskAsync(
            round,
            ReviewRounds.DefinitionOf(review),
            to,
            context.Cancel
        );
        session.Record(
            "handed-over",
            ReviewWork.Subject(review.Id),
            after: new JsonObject
            {
                ["from"] = request.From,
                ["to"] = to,
                ["lines"] = lines.Count,
                ["own"] = open.Count - lines.Count,
            }
        );
        return null;
    }

    private static Task<Reply<Done>> End(long id, int number, AccessGround ground, [AsParameters] ApiContext context) =>
        ReviewWork.RunAsync(
            id,
            number,
            ground,
            context,
            async (rounds, review, round) =>
            {
                await rounds.EndAsync(review, round);
                return null;
            }
        );

    /// <summary>Goes on to the next stage before its day.</summary>
    private static Task<Reply<Done>> NextStage(
        long id,
        int number,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        ReviewWork.RunAsync(
            id,
            number,
            ground,
            context,
            async (rounds, review, round) =>
            {
                if (round.Stage > ReviewRounds.DefinitionOf(review).Later.Count)
                {
                    return Refusal.Conflict("last-stage", null, "This is the last stage; end the round instead.");
                }

                await rounds.GoOnAsync(review, round, context.Cancel);
                return null;
            }
        );

    private static Task<Reply<Done>> CarryOut(
        long id,
        int number,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        ReviewWork.RoundAsync(
            id,
            number,
            context,
            async (session, review, round) =>
            {
                await new ReviewOutcomes(session, ground, context.Calendar).CarryOutAsync(review, round);
                return null;
            },
            ended: true
        );
}
