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

/// <summary>What a review asks, as <see cref="ReviewDefinition"/> says.</summary>
public sealed record ReviewSettings(
    string Name,
    IReadOnlyList<string> Groups,
    IReadOnlyList<string> Resources,
    ReviewPeople People,
    int InactiveDays,
    ReviewerKind Reviewer,
    IReadOnlyList<string> Named,
    string Deputy,
    int Days,
    DateOnly Start,
    string Recurrence,
    bool ReasonsRequired,
    SilenceRule Silence,
    bool ApplyItself,
    string Words,
    IReadOnlyList<ReviewStage>? Later = null,
    IReadOnlyList<int>? Reminders = null,
    string ReminderWords = "",
    IReadOnlyList<string>? Informed = null
);

/// <param name="Stamped">Reviewers who kept everything without looking.</param>
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
    string ReportHash
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
public sealed record ReviewConsequences(
    int Lines,
    int AdviseRemoval,
    int SilenceRemoves,
    IReadOnlyList<ReviewerLoad> Reviewers
);

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

/// <summary>Reviews of access: drafted with their consequences, run, watched, ended, reported.</summary>
public static class ReviewEndpoints
{
    private const double SecondsALine = 10;
    private const int MostStages = 5;
    private const int MostReminders = 10;
    private const int UsualReminder = 3;

    public static void MapReviews(this IEndpointRouteBuilder api)
    {
        api.MapGet("/reviews", List).Requires(Right.ReadAccess);
        api.MapPost("/reviews/consequences", Consequences).Requires(Right.ManageAccess);
        api.MapPost("/reviews", Make).Requires(Right.ManageAccess);
        api.MapPut("/reviews/{id:long}", Change).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds", Start).Requires(Right.ManageAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}", One).Requires(Right.ReadAccess);
        api.MapPut("/reviews/{id:long}/rounds/{number:int}", ChangeRound).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/reminders", Remind).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/hand-over", Hand).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/next-stage", NextStage).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/end", End).Requires(Right.ManageAccess);
        api.MapPost("/reviews/{id:long}/rounds/{number:int}/carrying-out", CarryOut).Requires(Right.ManageAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/report.csv", Csv).Requires(Right.ReadAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/report.json", Report).Requires(Right.ReadAccess);
        api.MapGet("/reviews/{id:long}/rounds/{number:int}/report.pdf", Pdf).Requires(Right.ReadAccess);
    }

    private static IQueryable<AccessReview> Whole(WideKeelDb db) =>
        db.Reviews.Include(r => r.Rounds).ThenInclude(r => r.Lines).AsSplitQuery();

    private static ReviewDefinition Definition(ReviewSettings s) =>
        new(
            s.Name.Trim(),
            s.Groups,
            s.Resources,
            s.People,
            s.InactiveDays,
            s.Reviewer,
            [.. s.Named.Select(m => m.ToLowerInvariant())],
            s.Deputy.ToLowerInvariant(),
            s.Days,
            LocalDate.FromDateOnly(s.Start),
            s.Recurrence,
            s.ReasonsRequired,
            s.Silence,
            s.ApplyItself,
            s.Words
        )
        {
            Later = [.. (s.Later ?? []).Select(l => l with { Named = [.. l.Named.Select(m => m.ToLowerInvariant())] })],
            Reminders = [.. (s.Reminders ?? [UsualReminder]).Distinct().OrderDescending()],
            ReminderWords = s.ReminderWords,
            Informed = [.. (s.Informed ?? []).Select(m => m.ToLowerInvariant()).Distinct()],
        };

    private static ReviewSettings Settings(ReviewDefinition d) =>
        new(
            d.Name,
            d.Groups,
            d.Resources,
            d.People,
            d.InactiveDays,
            d.Reviewer,
            d.Named,
            d.Deputy,
            d.Days,
            d.Start.ToDateOnly(),
            d.Recurrence,
            d.ReasonsRequired,
            d.Silence,
            d.ApplyItself,
            d.Words,
            d.Later,
            d.Reminders,
            d.ReminderWords,
            d.Informed
        );

    private static Refusal? Check(ReviewSettings s, AccessGround ground)
    {
        if (string.IsNullOrWhiteSpace(s.Name) || s.Name.Length > 200)
        {
            return new("name-missing", "name", "A review needs a name of at most 200 characters.");
        }

        if (s.Groups.Count + s.Resources.Count == 0)
        {
            return new("reach-missing", "groups", "Choose at least one group or place to ask about.");
        }

        if (s.Groups.FirstOrDefault(g => ground.State.Groups.All(x => x.Id != g)) is { } group)
        {
            return new("group-unknown", "groups", $"The directory does not know the group “{group}”.");
        }

        if (s.Resources.FirstOrDefault(r => ground.State.Resources.All(x => x.Id != r)) is { } place)
        {
            return new("resource-unknown", "resources", $"The directory does not know the place “{place}”.");
        }

        if (s.Days is < 1 or > 365 || s.InactiveDays is < 0 or > 3650)
        {
            return new("days-malformed", "days", "A round lasts 1 to 365 days.");
        }

        return CheckReviewers(s) ?? Recurrence.Check(s.Recurrence, "recurrence");
    }

    private static Refusal? CheckReviewers(ReviewSettings s)
    {
        if (s.Reviewer == ReviewerKind.Named && s.Named.Count == 0)
        {
            return new("reviewer-missing", "named", "Name at least one reviewer.");
        }

        var later = s.Later ?? [];
        if (later.Count > MostStages - 1 || later.Any(l => l.Days is < 1 or > 365))
        {
            return new("stages-malformed", "later", $"A round has at most {MostStages} stages of 1 to 365 days.");
        }

        if (later.Any(l => l.Reviewer == ReviewerKind.Named && l.Named.Count == 0))
        {
            return new("reviewer-missing", "later", "Name at least one reviewer of each stage.");
        }

        if (s.Reminders is { } days && (days.Count > MostReminders || days.Any(d => d is < 0 or > 365)))
        {
            return new(
                "reminders-malformed",
                "reminders",
                $"At most {MostReminders} reminders, 0 to 365 days before the end."
            );
        }

        foreach (
            var mail in s
                .Named.Concat(later.SelectMany(l => l.Named))
                .Concat(s.Informed ?? [])
                .Append(s.Deputy)
                .Where(m => m.Length > 0)
        )
        {
            if (!MailAddress.IsOne(mail))
            {
                return new("reviewer-malformed", "named", $"“{mail}” is no mail address.");
            }
        }

        return null;
    }

    private static RoundView View(ReviewRound r) =>
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
            r.ReportHash
        );

    private static async Task<Reply<IReadOnlyList<ReviewView>>> List(WideKeelDb db, CancellationToken cancel)
    {
        var people = await db.Users.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.DisplayName, cancel);
        return (Outcome<IReadOnlyList<ReviewView>>)
            (await Whole(db).AsNoTracking().OrderByDescending(r => r.Id).ToListAsync(cancel))
                .Select(r => new ReviewView(
                    r.Id,
                    Settings(ReviewRounds.DefinitionOf(r)),
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
        if (Check(request, ground) is { } refusal)
        {
            return refusal;
        }

        var definition = Definition(request);
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
            ]
        );

        string ReviewerIn(int stage, ReviewQuestion question, int dealt) =>
            stage == 1
                ? question.Reviewer
                : Reviews.ReviewerOf(
                    definition,
                    stage,
                    facts,
                    facts.Directory.People[question.Person],
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
        Check(request, ground) is { } refusal
            ? refusal
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    await AddAsync(session, Definition(request), context);
                    return new Done();
                },
                context.Cancel
            );

    /// <summary>The review that somebody asks for, or why there can be none.</summary>
    internal static Outcome<ReviewDefinition> Read(ReviewSettings request, AccessGround ground) =>
        Check(request, ground) is { } refusal ? refusal : Definition(request);

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
        session.Record("made", Subject(review.Id), after: JsonNode.Parse(review.Definition));
        return review;
    }

    private static Task<Reply<Done>> Change(
        long id,
        ReviewSettings request,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) =>
        WorkAsync(
            id,
            context,
            async (session, review) =>
            {
                if ((Problems.CheckMatch(context.Http, review.Version) ?? Check(request, ground)) is { } refusal)
                {
                    return refusal;
                }

                var former = ReviewRounds.DefinitionOf(review);
                var now = Definition(request);
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
                session.Record("changed", Subject(id), before, JsonNode.Parse(review.Definition));
                if (!now.AsksTheSameAs(former))
                {
                    await new ReviewRounds(session, ground, context.Calendar).AskOthersAsync(review, context.Cancel);
                }

                return null;
            }
        );

    /// <summary>Starts the first round, now or on the day that the review names.</summary>
    private static Task<Reply<Done>> Start(long id, AccessGround ground, [AsParameters] ApiContext context) =>
        WorkAsync(
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
                    session.Record("planned", Subject(id));
                    return null;
                }

                await new ReviewRounds(session, ground, context.Calendar).StartAsync(review, context.Cancel);
                return null;
            }
        );

    private static async Task<Reply<RoundDetail>> One(
        long id,
        int number,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(id, number, context.Db, context.Cancel) is not { } round)
        {
            return Problems.NotFound("round");
        }

        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        var links = await context
            .Db.ReviewerLinks.AsNoTracking()
            .Where(l => l.RoundId == round.Id)
            .ToDictionaryAsync(l => l.Mail, context.Cancel);
        return new RoundDetail(
            View(round),
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
            [.. round.Lines.OrderBy(l => l.Id).Select(l => LineView(l, facts, ground))]
        );
    }

    internal static ReviewLineView LineView(ReviewLine line, MendingFacts facts, AccessGround ground) =>
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
            Meanwhile(line, facts, ground),
            ReviewRounds.FormerOf(line)
        );

    /// <summary>What happened to a line's access since the round began; null where nothing did.</summary>
    private static string? Meanwhile(ReviewLine line, MendingFacts facts, AccessGround ground)
    {
        if (line.Applied)
        {
            return null;
        }

        if (!facts.People.TryGetValue(line.Person, out var person))
        {
            return "The account is no longer in the directory.";
        }

        if (person.Left <= facts.Today)
        {
            return "This person has left.";
        }

        var there = facts.GroupOwners.ContainsKey(line.What)
            ? ground.Access.PeopleIn(line.What).Contains(line.Person)
            : facts.Resources.ContainsKey(line.What) && ground.Access.Audience(line.What).Contains(line.Person);
        return there ? null : "The access is gone already.";
    }

    private static Task<Reply<Done>> ChangeRound(
        long id,
        int number,
        RoundChange request,
        [AsParameters] ApiContext context
    ) =>
        RoundAsync(
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
                    Subject(id),
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
        RoundAsync(
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

                session.Record("reminded", Subject(id), after: new JsonObject { ["reviewers"] = silent.Count });
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
        RoundAsync(
            id,
            number,
            context,
            async (session, review, round) =>
            {
                if (!MailAddress.IsOne(request.To))
                {
                    return new("reviewer-malformed", "to", $"“{request.To}” is no mail address.");
                }

                var to = request.To.ToLowerInvariant();
                var lines = round
                    .Lines.Where(l => l.Reviewer == request.From && l.Decision == LineDecision.Open)
                    .ToList();
                if (lines.Count == 0)
                {
                    return Refusal.Conflict("nothing-open", "from", "This reviewer has no open line.");
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
                    Subject(id),
                    after: new JsonObject
                    {
                        ["from"] = request.From,
                        ["to"] = to,
                        ["lines"] = lines.Count,
                    }
                );
                return null;
            }
        );

    private static Task<Reply<Done>> End(long id, int number, AccessGround ground, [AsParameters] ApiContext context) =>
        RunAsync(
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
        RunAsync(
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
        RunAsync(
            id,
            number,
            ground,
            context,
            async (rounds, review, round) =>
            {
                await rounds.CarryOutAsync(review, round);
                return null;
            },
            ended: true
        );

    /// <summary>What a line of a report says, column by column.</summary>
    internal static readonly string[] Columns =
    [
        "person",
        "what",
        "roles",
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
        await FindAsync(id, number, context.Db, context.Cancel) is { } round
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
        await FindAsync(id, number, context.Db, context.Cancel) is { Report.Length: > 0 } round
            ? Results.File(
                Encoding.UTF8.GetBytes(round.Report),
                "application/json",
                string.Create(CultureInfo.InvariantCulture, $"review-{id}-{number}.json")
            )
            : (Reply<Done>)Problems.NotFound("round that has ended");

    private static async Task<IResult> Pdf(long id, int number, [AsParameters] ApiContext context) =>
        await FindAsync(id, number, context.Db, context.Cancel) is { Report.Length: > 0 } round
            ? Results.File(
                ReviewPdf.Draw(JsonNode.Parse(round.Report)!.AsObject(), round.ReportHash),
                "application/pdf",
                string.Create(CultureInfo.InvariantCulture, $"review-{id}-{number}.pdf")
            )
            : (Reply<Done>)Problems.NotFound("round that has ended");

    private static Task<ReviewRound?> FindAsync(long id, int number, WideKeelDb db, CancellationToken cancel) =>
        db
            .ReviewRounds.AsNoTracking()
            .Include(r => r.Lines)
            .SingleOrDefaultAsync(r => r.ReviewId == id && r.Number == number, cancel);

    private static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, AccessReview, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await Whole(session.Db).SingleOrDefaultAsync(r => r.Id == id, context.Cancel) is not { } review)
                {
                    return Problems.NotFound("review");
                }

                if (await work(session, review) is { } refusal)
                {
                    return refusal;
                }

                review.Version++;
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> RoundAsync(
        long id,
        int number,
        ApiContext context,
        Func<WriteSession, AccessReview, ReviewRound, Task<Refusal?>> work,
        bool ended = false
    ) =>
        WorkAsync(
            id,
            context,
            async (session, review) =>
            {
                if (review.Rounds.Find(r => r.Number == number) is not { } round)
                {
                    return Problems.NotFound("round");
                }

                if (round.EndedAt is not null != ended)
                {
                    return Refusal.Conflict(
                        ended ? "round-running" : "round-ended",
                        null,
                        ended ? "The round is still running." : "The round has ended."
                    );
                }

                round.Version++;
                return await work(session, review, round);
            }
        );

    /// <summary>The same with what runs rounds.</summary>
    private static Task<Reply<Done>> RunAsync(
        long id,
        int number,
        AccessGround ground,
        ApiContext context,
        Func<ReviewRounds, AccessReview, ReviewRound, Task<Refusal?>> work,
        bool ended = false
    ) =>
        RoundAsync(
            id,
            number,
            context,
            (session, review, round) => work(new ReviewRounds(session, ground, context.Calendar), review, round),
            ended
        );

    private static LedgerSubject Subject(long id) => LedgerSubject.Of("review", id);
}
