using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Store;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <summary>What a reviewer sees: their lines of one round, and nothing else.</summary>
public sealed record ReviewerPage(
    string Review,
    string Words,
    string Name,
    LocalDate EndsOn,
    bool Ended,
    bool ReasonsRequired,
    IReadOnlyList<ReviewLineView> Lines
);

/// <param name="Lines">One, or several that are decided alike.</param>
public sealed record LineAnswer(IReadOnlyList<long> Lines, LineDecision Decision, string Reason = "");

/// <summary>The reviewer's page, by the link of the message: it needs no account.</summary>
public static class ReviewerEndpoints
{
    public static void MapReviewers(this IEndpointRouteBuilder api)
    {
        api.MapGet("/review/{token}", Page).OpenToAll();
        api.MapPost("/review/{token}/answers", Answer).OpenToAll();
        api.MapPost("/review/{token}/lines/{line:long}/opening", Open).OpenToAll();
        api.MapGet("/review-lines", Own).RequiresSignIn();
    }

    /// <summary>Where the caller has lines to decide on: the tokens of their own pages.</summary>
    private static async Task<Reply<IReadOnlyList<string>>> Own(Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var mail = caller.Mail.ToLowerInvariant();
        return (Outcome<IReadOnlyList<string>>)
            await (
                from link in db.ReviewerLinks
                join round in db.ReviewRounds on link.RoundId equals round.Id
                where link.Mail == mail && round.EndedAt == null
                select link.Token
            ).ToListAsync(cancel);
    }

    private static async Task<(ReviewerLink Link, ReviewRound Round, AccessReview Review)?> FindAsync(
        string token,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if (token.Length < 32)
        {
            return null;
        }

        var link = await db.ReviewerLinks.AsNoTracking().SingleOrDefaultAsync(l => l.Token == token, cancel);
        if (link is null)
        {
            return null;
        }

        var round = await db
            .ReviewRounds.AsNoTracking()
            .Include(r => r.Lines.Where(l => l.Reviewer == link.Mail))
            .SingleAsync(r => r.Id == link.RoundId, cancel);
        return (link, round, await db.Reviews.AsNoTracking().SingleAsync(r => r.Id == round.ReviewId, cancel));
    }

    private static async Task<Reply<ReviewerPage>> Page(
        string token,
        AccessGround ground,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        if (await FindAsync(token, db, cancel) is not var (link, round, review))
        {
            return Problems.NotFound("review");
        }

        var definition = ReviewRounds.DefinitionOf(review);
        var facts = await ground.FactsAsync(db, cancel);
        var sees = round.Stage > 1 && definition.Later[round.Stage - 2].SeesFormer;
        return new ReviewerPage(
            definition.Name,
            definition.Words,
            ReachEndpoints.NameOf(facts, link.Mail),
            round.EndsOn,
            round.EndedAt is not null,
            definition.ReasonsRequired,
            [
                .. round
                    .Lines.OrderBy(l => l.Id)
                    .Select(l => ReviewEndpoints.LineView(l, facts, ground))
                    .Select(v => sees ? v : v with { Former = [] }),
            ]
        );
    }

    // Long because each way in which an answer comes too late is refused in its own words.
    private static async Task<Reply<Done>> Answer(
        string token,
        LineAnswer request,
        Writer writer,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(token, context.Db, context.Cancel) is not var (link, round, review))
        {
            return Problems.NotFound("review");
        }

        var definition = ReviewRounds.DefinitionOf(review);
        if (
            definition.ReasonsRequired
            && request.Decision != LineDecision.Open
            && string.IsNullOrWhiteSpace(request.Reason)
        )
        {
            return new Refusal("reason-missing", "reason", "This review asks for a reason with each answer.");
        }

        return await writer.RunAsync<Done>(
            new LedgerActor(link.Mail, null, context.Caller.Address),
            async session =>
            {
                if (await session.Db.ReviewRounds.AnyAsync(r => r.Id == round.Id && r.EndedAt != null, context.Cancel))
                {
                    return Refusal.Conflict("round-ended", null, "The review has ended; your answer came too late.");
                }

                var lines = await session
                    .Db.ReviewLines.Where(l =>
                        l.RoundId == round.Id && l.Reviewer == link.Mail && request.Lines.Contains(l.Id)
                    )
                    .ToListAsync(context.Cancel);
                if (lines.Count != request.Lines.Distinct().Count())
                {
                    return Problems.NotFound("line of yours; it may have been handed to somebody else");
                }

                foreach (var line in lines)
                {
                    line.Decision = request.Decision;
                    line.Reason = request.Reason.Trim();
                    line.DecidedBy = request.Decision == LineDecision.Open ? "" : link.Mail;
                    line.DecidedAt = request.Decision == LineDecision.Open ? null : session.Now;
                    line.Version++;
                }

                session.Record(
                    "reviewed",
                    LedgerSubject.Of("review", review.Id),
                    after: new JsonObject
                    {
                        ["round"] = round.Number,
                        ["lines"] = lines.Count,
                        ["decision"] = request.Decision.ToString(),
                    },
                    reason: request.Reason
                );
                return new Done();
            },
            context.Cancel
        );
    }

    /// <summary>Notes that the grounds of a line were looked at.</summary>
    private static async Task<Reply<Done>> Open(string token, long line, [AsParameters] ApiContext context)
    {
        if (await FindAsync(token, context.Db, context.Cancel) is not var (_, round, _))
        {
            return Problems.NotFound("review");
        }

        return round.Lines.All(l => l.Id != line)
            ? Problems.NotFound("line of yours")
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    await session
                        .Db.ReviewLines.Where(l => l.Id == line)
                        .ExecuteUpdateAsync(l => l.SetProperty(x => x.Opened, true), context.Cancel);
                    return new Done();
                },
                context.Cancel
            );
    }
}

/// <summary>Lines of reviews that wait for the caller, and rounds of one's own that are late.</summary>
internal sealed class ReviewDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked)
    {
        var mail = asked.Caller.Mail.ToLowerInvariant();
        var waiting = await (
            from link in asked.Db.ReviewerLinks
            join round in asked.Db.ReviewRounds on link.RoundId equals round.Id
            join review in asked.Db.Reviews on round.ReviewId equals review.Id
            where link.Mail == mail && round.EndedAt == null
            select new
            {
                link.Token,
                round.Id,
                round.EndsOn,
                Review = review,
                Open = asked.Db.ReviewLines.Count(l =>
                    l.RoundId == round.Id && l.Reviewer == mail && l.Decision == LineDecision.Open
                ),
            }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        return
        [
            .. waiting
                .Where(w => w.Open > 0)
                .Select(w => new Duty(
                    "review",
                    $"review-{Wording.Id(w.Id)}",
                    ReviewRounds.DefinitionOf(w.Review).Name,
                    $"{Wording.Plural(w.Open, "line")} of access wait for your decision.",
                    w.EndsOn,
                    Wording.Left(asked.Today, w.EndsOn),
                    "Decide",
                    $"/review/{w.Token}",
                    w.EndsOn <= asked.Today.PlusDays(3)
                )),
        ];
    }
}
