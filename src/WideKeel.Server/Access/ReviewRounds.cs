using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Access;
using WideKeel.Store.People;

namespace WideKeel.Server.Access;

/// <summary>Starts rounds, reminds reviewers, ends rounds and carries decisions out.</summary>
internal sealed class ReviewRounds(WriteSession session, AccessGround ground, OrganisationCalendar calendar)
{
    /// <summary>So long a link goes on to show what was decided.</summary>
    private const int DaysAfterTheEnd = 14;

    private ReviewOutcomes Outcomes { get; } = new(session, ground, calendar);

    public static ReviewDefinition DefinitionOf(AccessReview review) =>
        JsonSerializer.Deserialize<ReviewDefinition>(review.Definition, Json.Options)!;

    /// <summary>Freezes the lines of a new round and asks the reviewers.</summary>
    public async Task<ReviewRound> StartAsync(AccessReview review, CancellationToken cancel)
    {
        var definition = DefinitionOf(review);
        var owner = await session.Db.Users.SingleAsync(u => u.Id == review.PersonId, cancel);
        var facts = await ground.ReviewFactsAsync(session.Db, cancel);
        var round = new ReviewRound
        {
            ReviewId = review.Id,
            Number = review.Rounds.Count + 1,
            StartedOn = calendar.Today,
            EndsOn = calendar.Today.PlusDays(definition.Days),
        };
        round.Lines.AddRange(
            Reviews
                .Questions(definition, facts, owner.Email!)
                .Select(q => new ReviewLine
                {
                    Person = q.Person,
                    What = q.What,
                    Roles = string.Join(' ', q.Roles),
                    Path = JsonSerializer.Serialize(q.Path),
                    Reviewer = q.Reviewer.ToLowerInvariant(),
                    AdviseRemoval = q.AdviseRemoval,
                    Grounds = JsonSerializer.Serialize(q.Grounds),
                })
        );
        review.Rounds.Add(round);
        review.NextOn = Recurrence.Next(definition.Start, definition.Recurrence, calendar.Today);
        await session.Db.SaveChangesAsync(cancel);
        foreach (var reviewer in round.Lines.Select(l => l.Reviewer).Distinct())
        {
            await AskAsync(round, definition, reviewer, cancel);
        }

        session.Record(
            "round-started",
            LedgerSubject.Of("review", review.Id),
            after: new JsonObject
            {
                ["round"] = round.Number,
                ["lines"] = round.Lines.Count,
                ["ends"] = LocalDatePattern.Iso.Format(round.EndsOn),
            }
        );
        return round;
    }

    /// <summary>Sends a reviewer the link by which they answer.</summary>
    public async Task AskAsync(
        ReviewRound round,
        ReviewDefinition definition,
        string reviewer,
        CancellationToken cancel,
        bool reminds = false
    )
    {
        var link = await session.Db.ReviewerLinks.SingleOrDefaultAsync(
            l => l.RoundId == round.Id && l.Mail == reviewer,
            cancel
        );
        if (link is null)
        {
            session.Db.ReviewerLinks.Add(
                link = new()
                {
                    RoundId = round.Id,
                    Mail = reviewer,
                    SentAt = session.Now,
                }
            );
        }

        await session.Db.SaveChangesAsync(cancel);
        link.RemindedAt = reminds ? session.Now : link.RemindedAt;
        var secret = PersonLinks.Issue(
            session,
            (LinkKind.Review, link.Id),
            reviewer,
            Duration.FromDays((round.EndsOn - calendar.Today).Days + DaysAfterTheEnd)
        );
        var open = round.Lines.Count(l => l.Reviewer == reviewer && l.Decision == LineDecision.Open);
        Outbox.Send(
            session,
            new DirectoryPerson { Name = NameOf(reviewer), Mail = reviewer },
            null,
            new(
                "review",
                $"{(reminds ? "Reminder: " : "")}{definition.Name}: {Wording.Plural(open, "line")} to decide on",
                string.Join(
                    "\n\n",
                    new[]
                    {
                        reminds && definition.ReminderWords.Length > 0 ? definition.ReminderWords : definition.Words,
                        $"Please say for each whether the access is still needed, by {Wording.Day(round.EndsOn)}. "
                            + SilenceWords(definition.Silence),
                    }.Where(t => t.Length > 0)
                ),
                "you are asked to review access"
            ),
            "/review/{secret}",
            secret
        );
    }

    private static string SilenceWords(SilenceRule rule) =>
        rule switch
        {
            SilenceRule.Keep => "What nobody answers stays as it is.",
            SilenceRule.Remove => "What nobody answers is removed.",
            _ => "What nobody answers follows the advice beside it.",
        };

    /// <summary>What the stages before said of a line.</summary>
    public static IReadOnlyList<FormerAnswer> FormerOf(ReviewLine line) =>
        JsonSerializer.Deserialize<List<FormerAnswer>>(line.Former, Json.Options)!;

    /// <summary>Goes on to the next stage, or ends the round where the last one is over.</summary>
    public async Task GoOnAsync(AccessReview review, ReviewRound round, CancellationToken cancel)
    {
        var definition = DefinitionOf(review);
        if (round.Stage > definition.Later.Count)
        {
            await EndAsync(review, round);
            return;
        }

        var owner = await session.Db.Users.SingleAsync(u => u.Id == review.PersonId, cancel);
        var facts = await ground.ReviewFactsAsync(session.Db, cancel);
        // The next stage asks anew, and its lines say nothing of how these were answered.
        round.Stamped = string.Join(' ', StampedBy(round));
        round.Stage++;
        round.EndsOn = calendar.Today.PlusDays(definition.Later[round.Stage - 2].Days);
        round.Version++;
        foreach (var (line, dealt) in round.Lines.OrderBy(l => l.Id).Select((l, i) => (l, i)))
        {
            line.Former = JsonSerializer.Serialize(
                FormerOf(line).Append(new(line.Reviewer, line.Decision, line.Reason) { Changes = ChosenOf(line) }),
                Json.Options
            );
            // A person who is gone from the directory meanwhile is decided on by those who were asked before.
            line.Reviewer = Reviews.PersonOf(facts.Directory, line.Person) is { } person
                ? Reviews
                    .ReviewerOf(definition, round.Stage, facts, person, line.What, owner.Email!, dealt)
                    .ToLowerInvariant()
                : line.Reviewer;
            (line.Decision, line.Reason, line.DecidedBy, line.DecidedAt, line.Opened) = (
                LineDecision.Open,
                "",
                "",
                null,
                false
            );
            Choose(line, []);
            line.Version++;
        }

        foreach (var reviewer in round.Lines.Select(l => l.Reviewer).Distinct())
        {
            await AskAsync(round, definition, reviewer, cancel);
        }

        session.Record(
            "stage-begun",
            LedgerSubject.Of("review", review.Id),
            after: new JsonObject
            {
                ["round"] = round.Number,
                ["stage"] = round.Stage,
                ["ends"] = LocalDatePattern.Iso.Format(round.EndsOn),
            }
        );
    }

    /// <summary>Closes a round: silence is given its meaning, decisions are carried out, the report is frozen.</summary>
    public async Task EndAsync(AccessReview review, ReviewRound round)
    {
        var definition = DefinitionOf(review);
        var removals = await Outcomes.RemovalsNowAsync(CancellationToken.None);
        foreach (var line in round.Lines)
        {
            Decide(line, definition.Silence, removals);
        }

        round.EndedAt = session.Now;
        round.Version++;
        if (definition.ApplyItself)
        {
            await Outcomes.CarryOutAsync(review, round);
            return;
        }

        Outcomes.Finish(review, round);
    }

    /// <summary>What a line comes to; a removal that nobody chose takes only what concerns the person alone.</summary>
    private static void Decide(ReviewLine line, SilenceRule silence, Removals removals)
    {
        // What people keep of their own is a statement, and decides nothing.
        var former = FormerOf(line).Where(f => f.Decision != LineDecision.Keep || !IsOwn(line, f.Reviewer)).ToList();
        var last =
            line.Decision == LineDecision.Keep && IsOwn(line, line.DecidedBy) ? LineDecision.Open : line.Decision;
        if (last is LineDecision.Open or LineDecision.CannotSay)
        {
            // The last stage that said something decides.
            var said = former.LastOrDefault(f => f.Decision is LineDecision.Keep or LineDecision.Remove);
            line.BySilence = said is null;
            (line.DecidedBy, line.Reason) = said is null ? ("", line.Reason) : (said.Reviewer, said.Reason);
            Choose(line, said?.Changes ?? []);
        }

        line.Decision = Reviews.AtEnd(last, silence, line.AdviseRemoval, former);
        if (line.Decision == LineDecision.Remove && ChosenOf(line).Count == 0)
        {
            Choose(line, Removals.Usual(line.Person, removals.Of(line.Person, line.What, line.Roles.Split(' '))));
        }
    }

    /// <summary>Whether somebody is the person whom a line is about.</summary>
    public static bool IsOwn(ReviewLine line, string mail) =>
        string.Equals(line.Person, mail, StringComparison.OrdinalIgnoreCase);

    /// <summary>The changes by which a removal is carried out.</summary>
    public static IReadOnlyList<DirectoryChange> ChosenOf(ReviewLine line) =>
        JsonSerializer.Deserialize<List<DirectoryChange>>(line.Chosen, Json.Options)!;

    public static void Choose(ReviewLine line, IReadOnlyList<DirectoryChange> changes) =>
        line.Chosen = JsonSerializer.Serialize(changes, Json.Options);

    private string NameOf(string mail) => ground.State.People.FirstOrDefault(p => p.Id == mail)?.Name ?? mail;

    /// <summary>Deals the open lines of what is running out anew, and asks each who got one that they did not have.</summary>
    public Task AskOthersAsync(AccessReview review, CancellationToken cancel) =>
        DealAnewAsync(review, (_, _) => true, cancel);

    /// <summary>The open lines of reviewers who have left go to those who are asked in their place.</summary>
    private Task ReplaceLeaversAsync(AccessReview review, CancellationToken cancel) =>
        DealAnewAsync(review, (facts, line) => Reviews.HasLeft(facts, line.Reviewer), cancel);

    private async Task DealAnewAsync(
        AccessReview review,
        Func<ReviewFacts, ReviewLine, bool> wanted,
        CancellationToken cancel
    )
    {
        var definition = DefinitionOf(review);
        var owner = await session.Db.Users.SingleAsync(u => u.Id == review.PersonId, cancel);
        var facts = await ground.ReviewFactsAsync(session.Db, cancel);
        foreach (var round in review.Rounds.Where(r => r.EndedAt is null))
        {
            HashSet<string> asked = [];
            var lines = 0;
            foreach (var (line, dealt) in round.Lines.OrderBy(l => l.Id).Select((l, i) => (l, i)))
            {
                if (
                    line.Decision != LineDecision.Open
                    || !wanted(facts, line)
                    || Reviews.PersonOf(facts.Directory, line.Person) is not { } person
                    || Reviews
                        .ReviewerOf(definition, round.Stage, facts, person, line.What, owner.Email!, dealt)
                        .ToLowerInvariant()
                        is not { } reviewer
                    || reviewer == line.Reviewer
                )
                {
                    continue;
                }

                line.Reviewer = reviewer;
                line.Version++;
                lines++;
                asked.Add(reviewer);
            }

            if (lines == 0)
            {
                continue;
            }

            round.Version++;
            await session.Db.SaveChangesAsync(cancel);
            foreach (var reviewer in asked)
            {
                await AskAsync(round, definition, reviewer, cancel);
            }

            session.Record(
                "reviewers-changed",
                LedgerSubject.Of("review", review.Id),
                after: new JsonObject
                {
                    ["round"] = round.Number,
                    ["lines"] = lines,
                    ["reviewers"] = string.Join(' ', asked.Order(StringComparer.Ordinal)),
                }
            );
        }
    }

    /// <summary>Who kept everything without looking.</summary>
    public static IReadOnlyList<string> StampedBy(ReviewRound round) =>
        [
            .. round
                .Stamped.Split(' ', StringSplitOptions.RemoveEmptyEntries)
                .Union(StampedNow(round), StringComparer.Ordinal),
        ];

    private static IEnumerable<string> StampedNow(ReviewRound round) =>
        round
            .Lines.GroupBy(l => l.Reviewer)
            .Where(g =>
                Reviews.IsRubberStamp([
                    .. g.Where(l => l.DecidedAt is not null && !l.BySilence)
                        .Select(l => (l.Decision, l.DecidedAt!.Value, l.Opened)),
                ])
            )
            .Select(g => g.Key);

    /// <summary>What a morning asks: rounds that are over end, rounds that are due start, the silent are reminded.</summary>
    public async Task MorningAsync(CancellationToken cancel)
    {
        var today = calendar.Today;
        var reviews = await session
            .Db.Reviews.Include(r => r.Rounds)
                .ThenInclude(r => r.Lines)
            .AsSplitQuery()
            .Where(r => r.NextOn <= today || r.Rounds.Any(x => x.EndedAt == null))
            .ToListAsync(cancel);
        foreach (var review in reviews)
        {
            var definition = DefinitionOf(review);
            await ReplaceLeaversAsync(review, cancel);
            foreach (var round in review.Rounds.Where(r => r.EndedAt is null).ToList())
            {
                if (round.EndsOn < today)
                {
                    await GoOnAsync(review, round, cancel);
                }
                else if (definition.Reminders.Contains(NodaTime.Period.DaysBetween(today, round.EndsOn)))
                {
                    foreach (
                        var silent in round
                            .Lines.Where(l => l.Decision == LineDecision.Open)
                            .Select(l => l.Reviewer)
                            .Distinct()
                    )
                    {
                        await AskAsync(round, definition, silent, cancel, reminds: true);
                    }
                }
            }

            if (review.NextOn <= today && review.Rounds.All(r => r.EndedAt is not null))
            {
                await StartAsync(review, cancel);
            }
        }

        await Outcomes.RetryAsync(cancel);
    }
}

/// <summary>The morning of the reviews.</summary>
internal sealed class ReviewMorning(AccessGround ground) : IDailyTask
{
    public Task RunAsync(DailyQuestion asked) =>
        new ReviewRounds(asked.Session, ground, asked.Calendar).MorningAsync(asked.Cancel);
}
