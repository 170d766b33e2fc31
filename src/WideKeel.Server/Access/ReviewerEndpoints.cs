using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Access;
using WideKeel.Store.People;

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
/// <param name="Changes">
/// Which of the changes that <see cref="RemovalView"/> lists carry a removal of one line out; null for those that concern
/// the person alone.
/// </param>
public sealed record LineAnswer(
    IReadOnlyList<long> Lines,
    LineDecision Decision,
    string Reason = "",
    IReadOnlyList<DirectoryChange>? Changes = null
);

/// <summary>The reviewer's page, by the link of the message: it needs no account.</summary>
public static class ReviewerEndpoints
{
    public static void MapReviewers(this IEndpointRouteBuilder api)
    {
        api.MapGet("/review/{token}", Page).OpenToAll();
        api.MapPost("/review/{token}/answers", Answer).OpenToAll();
        api.MapPost("/review/{token}/lines/{line:long}/opening", Open).OpenToAll();
        api.MapGet("/review/{token}/lines/{line:long}/removal", Removal).OpenToAll();
        api.MapGet("/review-lines", Own).RequiresSignIn();
    }

    /// <summary>Where the caller has lines to decide on: the numbers of their own pages.</summary>
    private static async Task<Reply<IReadOnlyList<string>>> Own(Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var mail = caller.Mail.ToLowerInvariant();
        return (Outcome<IReadOnlyList<string>>)
            await (
                from link in db.ReviewerLinks
                join round in db.ReviewRounds on link.RoundId equals round.Id
                where link.Mail == mail && round.EndedAt == null
                select Wording.Id(link.Id)
            ).ToListAsync(cancel);
    }

    private static async Task<(OpenLink Opened, ReviewRound Round, AccessReview Review)?> FindAsync(
        string token,
        PersonLinks links,
        ApiContext context
    )
    {
        var (db, cancel) = (context.Db, context.Cancel);
        var opened = await links.OpenAsync(LinkKind.Review, token, context);
        var link = opened is null
            ? null
            : await db.ReviewerLinks.AsNoTracking().SingleOrDefaultAsync(l => l.Id == opened.SubjectId, cancel);
        if (link is null || !string.Equals(link.Mail, opened!.Mail, StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        var round = await db
            .ReviewRounds.AsNoTracking()
            .Include(r => r.Lines.Where(l => l.Reviewer == link.Mail))
            .SingleAsync(r => r.Id == link.RoundId, cancel);
        return (
            opened with
            {
                Mail = link.Mail,
            },
            round,
            await db.Reviews.AsNoTracking().SingleAsync(r => r.Id == round.ReviewId, cancel)
        );
    }

    private static async Task<Reply<ReviewerPage>> Page(
        string token,
        AccessGround ground,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(token, links, context) is not var (link, round, review))
        {
            return Problems.NotFound("review");
        }

        var definition = ReviewRounds.DefinitionOf(review);
        var (facts, removals) = (await ground.FactsAsync(context.Db, context.Cancel), ground.Removals);
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
                    .Select(l => RoundEndpoints.LineView(l, facts, removals))
                    .Select(v => sees ? v : v with { Former = [] }),
            ]
        );
    }

    // Long because each way in which an answer comes too late is refused in its own words.
    private static async Task<Reply<Done>> Answer(
        string token,
        LineAnswer request,
        AccessGround ground,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(token, links, context) is not var (link, round, review))
        {
            return Problems.NotFound("review");
        }

        if (link.NotProven is { } unproven)
        {
            return unproven;
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

        var asksThemselves =
            (round.Stage == 1 ? definition.Reviewer : definition.Later[round.Stage - 2].Reviewer) == ReviewerKind.Self;
        return await context.Writer.RunAsync<Done>(
            link.Actor,
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

                if (!asksThemselves && lines.Any(l => ReviewRounds.IsOwn(l, link.Mail)))
                {
                    return Refusal.Conflict("own-line", "lines", "Nobody decides on their own access.");
                }

                var removals = ground.Removals;
                if (ReviewRemoval.Choose(lines, request, removals) is { } refusal)
                {
                    return refusal;
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
                        ["changes"] = request.Changes is { } chosen
                            ? new JsonArray([.. chosen.Select(c => (JsonNode?)c.InWords())])
                            : null,
                    },
                    reason: request.Reason
                );
                return new Done();
            },
            context.Cancel
        );
    }

    /// <summary>What a removal of a line would take, and when the access was used.</summary>
    private static async Task<Reply<RemovalView>> Removal(
        string token,
        long line,
        AccessGround ground,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await FindAsync(token, links, context) is var (_, round, _) && round.Lines.Find(l => l.Id == line) is { } found
            ? ReviewRemoval.Of(found, await ground.FactsAsync(context.Db, context.Cancel), ground)
            : Problems.NotFound("line of yours");

    /// <summary>Notes that the grounds of a line were looked at.</summary>
    private static async Task<Reply<Done>> Open(
        string token,
        long line,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(token, links, context) is not var (_, round, _))
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
                Link = link.Id,
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
                    $"/review/{Wording.Id(w.Link)}",
                    w.EndsOn <= asked.Today.PlusDays(3)
                )),
        ];
    }
}
