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
    /// <summary>So often a removal is asked for before it is left to a person.</summary>
    public const int MostAttempts = 3;

    /// <summary>So long a link goes on to show what was decided.</summary>
    private const int DaysAfterTheEnd = 14;

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
                    Fix = q.Fix is null ? null : JsonSerializer.Serialize(q.Fix, Json.Options),
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
                FormerOf(line).Append(new(line.Reviewer, line.Decision, line.Reason)),
                Json.Options
            );
            // Whoever is gone from the directory meanwhile is decided on by those who were asked before.
            line.Reviewer = facts.Directory.People.TryGetValue(line.Person, out var person)
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
        foreach (var line in round.Lines)
        {
            var former = FormerOf(line);
            var decision = Reviews.AtEnd(line.Decision, definition.Silence, line.AdviseRemoval, former);
            if (line.Decision is LineDecision.Open or LineDecision.CannotSay)
            {
                // The last stage that said something decides.
                var said = former.LastOrDefault(f => f.Decision is LineDecision.Keep or LineDecision.Remove);
                line.BySilence = said is null;
                (line.DecidedBy, line.Reason) = said is null
                    ? (line.DecidedBy, line.Reason)
                    : (said.Reviewer, said.Reason);
            }

            line.Decision = decision;
        }

        round.EndedAt = session.Now;
        round.Version++;
        if (definition.ApplyItself)
        {
            await CarryOutAsync(review, round);
            return;
        }

        Finish(review, round);
    }

    /// <summary>Freezes the report, and at the first time says how the round ended.</summary>
    private void Finish(AccessReview review, ReviewRound round)
    {
        var first = round.ReportHash.Length == 0;
        Freeze(review, round);
        if (first)
        {
            Inform(review, round, DefinitionOf(review));
        }
    }

    /// <summary>Says how a round ended to those who are to know.</summary>
    private void Inform(AccessReview review, ReviewRound round, ReviewDefinition definition)
    {
        var removed = round.Lines.Count(l => l.Decision == LineDecision.Remove);
        var stamped = StampedBy(round);
        foreach (var mail in definition.Informed)
        {
            Outbox.Send(
                session,
                new DirectoryPerson { Name = NameOf(mail), Mail = mail },
                null,
                new(
                    "review-ended",
                    $"{definition.Name}: round {Wording.Number(round.Number)} has ended",
                    $"{Wording.Plural(round.Lines.Count, "line")}: "
                        + $"{Wording.Number(round.Lines.Count(l => l.Decision == LineDecision.Keep))} kept, "
                        + $"{Wording.Number(removed)} removed, of which "
                        + $"{Wording.Number(round.Lines.Count(l => l.Applied))} are carried out. "
                        + $"{Wording.Number(round.Lines.Count(l => l.BySilence))} were decided by silence."
                        + (
                            stamped.Count == 0 ? "" : $" Kept everything without looking: {string.Join(", ", stamped)}."
                        ),
                    "the review informs you of its end"
                ),
                $"/access/reviews?review={Wording.Id(review.Id)}"
            );
        }
    }

    private string NameOf(string mail) => ground.State.People.FirstOrDefault(p => p.Id == mail)?.Name ?? mail;

    /// <summary>Deals the open lines of what is running out anew, and asks whoever got one that they did not have.</summary>
    public async Task AskOthersAsync(AccessReview review, CancellationToken cancel)
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
                    || !facts.Directory.People.TryGetValue(line.Person, out var person)
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

    /// <summary>
    /// Asks the directory for every removal that is not carried out yet; the report is frozen when the last one has its
    /// outcome.
    /// </summary>
    public async Task CarryOutAsync(AccessReview review, ReviewRound round)
    {
        var carrier = session.Services.GetRequiredService<DirectoryCarrier>();
        var asked = 0;
        foreach (var line in round.Lines.Where(l => l.Decision == LineDecision.Remove && !l.Applied))
        {
            if (line.Fix is null)
            {
                line.Failure = "No single change removes it; it must be taken away by hand.";
                continue;
            }

            if (await IsAskedAsync(session.Db, [line.Id]))
            {
                asked++;
                continue;
            }

            carrier.Ask(
                session,
                JsonSerializer.Deserialize<DirectoryChange>(line.Fix, Json.Options)!,
                $"review {review.Id}, round {round.Number}",
                ReviewLineFollower.Word,
                line.Id
            );
            line.Failure = "The directory has not answered yet.";
            asked++;
        }

        if (asked == 0)
        {
            Finish(review, round);
        }
    }

    /// <summary>Whether a removal of one of these lines waits for the directory's answer.</summary>
    private static Task<bool> IsAskedAsync(WideKeelDb db, IReadOnlyCollection<long> lines) =>
        db.DirectoryIntents.AnyAsync(i =>
            i.CameOutAt == null && i.Follower == ReviewLineFollower.Word && lines.Contains(i.SubjectId)
        );

    /// <summary>
    /// Writes down what the directory said to one removal. With the last one of the round, access is computed anew: a line
    /// is applied only where its person has no way left.
    /// </summary>
    public async Task CameOutAsync(DirectoryIntent intent, CancellationToken cancel)
    {
        var round = await session
            .Db.ReviewRounds.Include(r => r.Lines)
            .SingleAsync(r => r.Lines.Any(l => l.Id == intent.SubjectId), cancel);
        var line = round.Lines.Single(l => l.Id == intent.SubjectId);
        (line.Applied, line.Failure, line.Attempts) = (intent.Verified, intent.Failure, line.Attempts + 1);
        await session.Db.SaveChangesAsync(cancel);
        if (await IsAskedAsync(session.Db, [.. round.Lines.Select(l => l.Id)]))
        {
            return;
        }

        var access = AccessGround.AccessOf(await DirectoryRows.StateAsync(session.Db, null, cancel), calendar.Today);
        foreach (var removed in round.Lines.Where(l => l.Applied))
        {
            if (Reviews.WayLeft(access, removed.Person, removed.What, removed.Roles.Split(' ')) is { } left)
            {
                (removed.Applied, removed.Attempts) = (false, MostAttempts);
                removed.Failure =
                    "This way was removed, and another is left: "
                    + string.Join(" → ", left.Select(NameOf))
                    + ". Take that one away too.";
            }
        }

        Finish(await session.Db.Reviews.SingleAsync(r => r.Id == round.ReviewId, cancel), round);
        round.Version++;
    }

    /// <summary>Writes the report as it is now, with its hash.</summary>
    private void Freeze(AccessReview review, ReviewRound round)
    {
        round.Report = CanonicalJson.Text(Report(review, round));
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

    private static JsonObject Report(AccessReview review, ReviewRound round)
    {
        var definition = DefinitionOf(review);
        var lines = new JsonArray();
        foreach (
            var line in round
                .Lines.OrderBy(l => l.What, StringComparer.Ordinal)
                .ThenBy(l => l.Person, StringComparer.Ordinal)
        )
        {
            lines.Add(
                new JsonObject
                {
                    ["person"] = line.Person,
                    ["what"] = line.What,
                    ["roles"] = line.Roles,
                    ["reviewer"] = line.Reviewer,
                    ["advice"] = line.AdviseRemoval ? "remove" : "keep",
                    ["decision"] = line.Decision.ToString().ToLowerInvariant(),
                    ["by"] = line.BySilence ? "silence" : line.DecidedBy,
                    ["at"] = line.DecidedAt is { } at ? InstantPattern.ExtendedIso.Format(at) : null,
                    ["reason"] = line.Reason,
                    ["former"] = JsonNode.Parse(line.Former),
                    ["applied"] = line.Applied,
                    ["failure"] = line.Failure,
                }
            );
        }

        return new JsonObject
        {
            ["format"] = "widekeel-review/1",
            ["review"] = definition.Name,
            ["round"] = round.Number,
            ["started"] = LocalDatePattern.Iso.Format(round.StartedOn),
            ["ended"] = round.EndedAt is { } end ? InstantPattern.ExtendedIso.Format(end) : null,
            ["stamped"] = new JsonArray([.. StampedBy(round).Select(m => (JsonNode?)m)]),
            ["lines"] = lines,
        };
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

        await RetryAsync(cancel);
    }

    /// <summary>Removals that the directory did not carry out are asked for again, a few times.</summary>
    private async Task RetryAsync(CancellationToken cancel)
    {
        var rounds = await session
            .Db.ReviewRounds.Include(r => r.Lines)
            .Where(r =>
                r.EndedAt != null
                && r.Lines.Any(l => l.Failure != null && l.Attempts > 0 && l.Attempts < MostAttempts && !l.Applied)
            )
            .ToListAsync(cancel);
        foreach (var round in rounds)
        {
            var review = await session.Db.Reviews.SingleAsync(r => r.Id == round.ReviewId, cancel);
            await CarryOutAsync(review, round);
        }
    }
}

/// <summary>Writes down with a line of a review what the directory said to its removal.</summary>
internal sealed class ReviewLineFollower(AccessGround ground, OrganisationCalendar calendar) : IDirectoryFollower
{
    public const string Word = "review-line";

    public string Name => Word;

    public Task CameOutAsync(WriteSession session, DirectoryIntent intent, CancellationToken cancel) =>
        new ReviewRounds(session, ground, calendar).CameOutAsync(intent, cancel);
}

/// <summary>The morning of the reviews.</summary>
internal sealed class ReviewMorning(AccessGround ground) : IDailyTask
{
    public Task RunAsync(DailyQuestion asked) =>
        new ReviewRounds(asked.Session, ground, asked.Calendar).MorningAsync(asked.Cancel);
}
