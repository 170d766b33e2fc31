using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

/// <summary>What a reviewer asked somebody about an item.</summary>
public sealed record QuestionView(
    long Id,
    long BatchId,
    long ItemId,
    string Item,
    string AskedOf,
    string AskedBy,
    string Text,
    Instant At,
    string? Answer,
    Instant? AnsweredAt
);

public sealed record Answering(string Answer);

/// <summary>Somebody who can be named where a person is chosen.</summary>
/// <param name="Signs">Roles that sign dispositions, which they hold somewhere.</param>
public sealed record Colleague(long Id, string Name, string Mail, IReadOnlyList<Role> Signs);

/// <summary>
/// "Ask another": a question about an item of a batch, answered by the one who was asked, wherever in the organisation.
/// </summary>
public static class QuestionEndpoints
{
    public static void MapQuestions(this IEndpointRouteBuilder api)
    {
        api.MapGet("/colleagues", Colleagues).Requires(Right.ReadSchedule);
        api.MapGet("/questions", Mine).RequiresSignIn();
        api.MapPost("/questions/{id:long}/answer", Answer).RequiresSignIn();
    }

    /// <summary>The last question of each item of a batch.</summary>
    internal static async Task<Dictionary<long, QuestionView>> OfBatchAsync(
        long batch,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        (await ViewsAsync(db.Questions.Where(q => q.BatchId == batch), db, cancel))
            .GroupBy(q => q.ItemId)
            .ToDictionary(g => g.Key, g => g.MaxBy(q => q.Id)!);

    /// <summary>Notes the questions; a refusal where the person cannot see the items.</summary>
    internal static async Task<Refusal?> AskAsync(
        WriteSession session,
        long batch,
        Marking request,
        Caller caller,
        CancellationToken cancel
    )
    {
        var person = await session
            .Db.Users.Include(p => p.Remits)
                .ThenInclude(r => r.Unit)
            .SingleOrDefaultAsync(p => p.Id == request.AskedOf && p.Active, cancel);
        if (person is null || person.Id == caller.PersonId)
        {
            return new("asked-of-unknown", "askedOf", "Choose somebody else who has an account here.");
        }

        var items = await session
            .Db.Items.Include(i => i.Container)
            .Where(i => request.Items.Contains(i.Id))
            .ToListAsync(cancel);
        Remit[] remits = [.. person.Remits.Select(r => new Remit(r.Role, new UnitPath(r.Unit!.Path)))];
        if (
            items.Any(i =>
                !RightsPolicy.Allows(remits, Right.ReadContent, caller.Root, caller.PathOf(i.Container!.UnitId))
            )
        )
        {
            return new(
                "asked-of-outside",
                "askedOf",
                $"{person.DisplayName} may not see all of these items, so cannot answer for them."
            );
        }

        session.Db.Questions.AddRange(
            request
                .Items.Distinct()
                .Select(i => new Question
                {
                    BatchId = batch,
                    ItemId = i,
                    AskedOfId = person.Id,
                    AskedOf = person.DisplayName,
                    AskedById = caller.PersonId,
                    AskedBy = caller.Name,
                    Text = request.Why!.Trim(),
                    At = session.Now,
                })
        );
        Outbox.Add(
            session,
            person,
            DispositionTexts.Asked(caller.Name, items.Count, items[0].Title, request.Why!.Trim()),
            "/today"
        );
        return null;
    }

    private static async Task<Reply<IReadOnlyList<Colleague>>> Colleagues(WideKeelDb db, CancellationToken cancel) =>
        (Outcome<IReadOnlyList<Colleague>>)
            (
                await db
                    .Users.AsNoTracking()
                    .Include(p => p.Remits)
                    .Where(p => p.Active)
                    .OrderBy(p => p.DisplayName)
                    .ToListAsync(cancel)
            )
                .Select(p => new Colleague(
                    p.Id,
                    p.DisplayName,
                    p.Email ?? "",
                    [
                        .. p
                            .Remits.Select(r => r.Role)
                            .Where(r => RightsPolicy.Grant(r, Right.SignDisposition))
                            .Distinct()
                            .Order(),
                    ]
                ))
                .ToList();

    private static async Task<Reply<IReadOnlyList<QuestionView>>> Mine(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) => (Outcome<IReadOnlyList<QuestionView>>)await WaitingForAsync(caller, db, cancel);

    /// <summary>Those that wait for the caller's answer.</summary>
    internal static async Task<List<QuestionView>> WaitingForAsync(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await ViewsAsync(
            db.Questions.Where(q =>
                q.AskedOfId == caller.PersonId
                && q.AnsweredAt == null
                && db.BatchLines.Any(l =>
                    l.BatchId == q.BatchId && l.ItemId == q.ItemId && l.Mark == Core.Disposition.Mark.Ask
                )
                && db.Batches.Any(b =>
                    b.Id == q.BatchId
                    && (b.State == Core.Disposition.BatchState.Open || b.State == Core.Disposition.BatchState.Signing)
                )
            ),
            db,
            cancel
        );

    private static async Task<Reply<Done>> Answer(
        long id,
        Answering request,
        Caller caller,
        Writer writer,
        CancellationToken cancel
    ) =>
        await writer.RunAsync<Done>(
            caller.Actor,
            async session =>
            {
                var question = await session.Db.Questions.SingleOrDefaultAsync(
                    q => q.Id == id && q.AskedOfId == caller.PersonId,
                    cancel
                );
                if (question is null)
                {
                    return Problems.NotFound("question");
                }

                if (question.AnsweredAt is not null)
                {
                    return Refusal.Conflict("question-answered", null, "This has been answered already.");
                }

                if (string.IsNullOrWhiteSpace(request.Answer) || request.Answer.Length > 1000)
                {
                    return new Refusal("answer-missing", "answer", "An answer has 1 to 1,000 characters.");
                }

                (question.Answer, question.AnsweredAt) = (request.Answer.Trim(), session.Now);
                session.Record(
                    "answered",
                    new("item", question.ItemId.ToString(CultureInfo.InvariantCulture)),
                    after: new JsonObject
                    {
                        ["question"] = question.Text,
                        ["answer"] = question.Answer,
                        ["batch"] = question.BatchId,
                    }
                );
                var asker = await session.Db.Users.SingleAsync(p => p.Id == question.AskedById, cancel);
                var title = await session
                    .Db.Items.Where(i => i.Id == question.ItemId)
                    .Select(i => i.Title)
                    .SingleAsync(cancel);
                Outbox.Add(
                    session,
                    asker,
                    DispositionTexts.Answered(caller.Name, title, question.Answer),
                    $"/schedule/docket?batch={question.BatchId}&line={question.ItemId}"
                );
                return new Done();
            },
            cancel
        );

    private static async Task<List<QuestionView>> ViewsAsync(
        IQueryable<Question> questions,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await (
            from q in questions.AsNoTracking()
            join i in db.Items on q.ItemId equals i.Id
            orderby q.Id
            select new QuestionView(
                q.Id,
                q.BatchId,
                q.ItemId,
                i.Title,
                q.AskedOf,
                q.AskedBy,
                q.Text,
                q.At,
                q.Answer,
                q.AnsweredAt
            )
        ).ToListAsync(cancel);
}
