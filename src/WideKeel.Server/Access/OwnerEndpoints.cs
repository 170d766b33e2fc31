using System.Text.Json;
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

public sealed record OwnerQuestionView(
    string Person,
    string PersonName,
    int Round,
    LocalDate AskedOn,
    OwnerAnswer Answer,
    Instant? AnsweredAt
);

/// <param name="Owner">Who answers for it now; null where nobody does.</param>
/// <param name="Asked">The newest first.</param>
public sealed record OwnerThing(string Id, string Name, string? Owner, IReadOnlyList<OwnerQuestionView> Asked);

/// <param name="Things">What nobody answers for, and whatever somebody was asked about.</param>
/// <param name="MayReview">Owners may start reviews of what they own.</param>
public sealed record OwnersView(OwnerRule Rule, IReadOnlyList<OwnerThing> Things, bool MayReview);

/// <param name="Asked">People.</param>
/// <param name="ToStewards">Groups and places that nobody was left to be asked about.</param>
public sealed record OwnersAsked(int Asked, int ToStewards);

/// <summary>What somebody who is asked sees: the one thing, and nothing else.</summary>
/// <param name="Kind">group, or what kind of place.</param>
/// <param name="People">How many are in it or reach it.</param>
/// <param name="State">open, yours, taken or declined.</param>
public sealed record OwnershipPage(string Name, string Kind, int People, string ToName, string State);

public sealed record OwnershipAnswer(bool Take);

/// <summary>The search for owners, and the page of whoever is asked.</summary>
public static class OwnerEndpoints
{
    public static void MapOwners(this IEndpointRouteBuilder api)
    {
        api.MapGet("/access/owners", Show).Requires(Right.ReadAccess);
        api.MapPut("/access/owners", Put).Requires(Right.ManageAccess);
        api.MapPost("/access/owners/asking", Ask).Requires(Right.ManageAccess);
        api.MapGet("/ownership/{token}", Page).OpenToAll();
        api.MapPost("/ownership/{token}", Answer).OpenToAll();
    }

    private static async Task<Reply<OwnersView>> Show(AccessGround ground, WideKeelDb db, CancellationToken cancel)
    {
        var facts = await ground.FactsAsync(db, cancel);
        var questions = await db.OwnerQuestions.AsNoTracking().OrderByDescending(q => q.Id).ToListAsync(cancel);
        var asked = questions.ToLookup(q => q.Thing);
        var without = OwnerAsking.Things(facts, ground.Access);
        return new OwnersView(
            await OwnerAsking.RuleAsync(db, cancel),
            [
                .. without
                    .Union(asked.Select(a => a.Key))
                    .Select(id => new OwnerThing(
                        id,
                        ReachEndpoints.NameOf(facts, id),
                        // An owner who has left answers for nothing.
                        without.Contains(id)
                            ? null
                            : OwnerOf(facts, id),
                        [
                            .. asked[id]
                                .Select(q => new OwnerQuestionView(
                                    q.Person,
                                    ReachEndpoints.NameOf(facts, q.Person),
                                    q.Round,
                                    q.AskedOn,
                                    q.Answer,
                                    q.AnsweredAt
                                )),
                        ]
                    )),
            ],
            await db.Organisations.Select(o => o.OwnersMayReview).SingleAsync(cancel)
        );
    }

    private static string? OwnerOf(MendingFacts facts, string id) =>
        facts.GroupOwners.GetValueOrDefault(id) ?? facts.Resources.GetValueOrDefault(id)?.Owner;

    private static async Task<Reply<Done>> Put(OwnerRule rule, [AsParameters] ApiContext context) =>
        rule.Check() is { } refusal
            ? refusal
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    var text = JsonSerializer.Serialize(rule, Json.Options);
                    var kept = await session.Db.OwnerSettings.SingleOrDefaultAsync(context.Cancel);
                    if (kept is null)
                    {
                        session.Db.OwnerSettings.Add(new() { Rule = text });
                    }
                    else
                    {
                        kept.Rule = text;
                    }

                    session.Record(
                        "owner-rule-set",
                        new LedgerSubject("access", "owners"),
                        after: JsonNode.Parse(text)
                    );
                    return new Done();
                },
                context.Cancel
            );

    private static async Task<Reply<OwnersAsked>> Ask(AccessGround ground, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<OwnersAsked>(
            context.Caller.Actor,
            async session =>
            {
                var rule = await OwnerAsking.RuleAsync(session.Db, context.Cancel);
                var (asked, given) = await new OwnerAsking(session, ground).RunAsync(rule, context.Cancel);
                return new OwnersAsked(asked, given);
            },
            context.Cancel
        );

    private static async Task<(OpenLink Opened, OwnerQuestion Question)?> FindAsync(
        string token,
        PersonLinks links,
        ApiContext context
    ) =>
        await links.OpenAsync(LinkKind.Ownership, token, context) is { } opened
        && await context
            .Db.OwnerQuestions.AsNoTracking()
            .SingleOrDefaultAsync(q => q.Id == opened.SubjectId, context.Cancel)
            is { } question
        && string.Equals(question.Person, opened.Mail, StringComparison.OrdinalIgnoreCase)
            ? (opened, question)
            : null;

    private static async Task<Reply<OwnershipPage>> Page(
        string token,
        AccessGround ground,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(token, links, context) is not var (_, question))
        {
            return Problems.NotFound("question");
        }

        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        var isGroup = facts.GroupOwners.ContainsKey(question.Thing);
        return new OwnershipPage(
            ReachEndpoints.NameOf(facts, question.Thing),
            isGroup ? "group" : facts.Resources.GetValueOrDefault(question.Thing)?.Kind ?? "place",
            isGroup ? ground.Access.PeopleIn(question.Thing).Count : ground.Access.Audience(question.Thing).Count,
            ReachEndpoints.NameOf(facts, question.Person),
            StateOf(facts, ground.Access, question)
        );
    }

    private static string StateOf(MendingFacts facts, EffectiveAccess access, OwnerQuestion question) =>
        question.Answer == OwnerAnswer.No ? "declined"
        : string.Equals(OwnerOf(facts, question.Thing), question.Person, StringComparison.OrdinalIgnoreCase) ? "yours"
        : OwnerAsking.Things(facts, access).Contains(question.Thing) ? "open"
        : "taken";

    private static async Task<Reply<Done>> Answer(
        string token,
        OwnershipAnswer request,
        AccessGround ground,
        DirectoryCarrier carrier,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        if (await FindAsync(token, links, context) is not var (opened, known))
        {
            return Problems.NotFound("question");
        }

        if (opened.NotProven is { } unproven)
        {
            return unproven;
        }

        DirectoryIntent? asked = null;
        var outcome = await context.Writer.RunAsync<Done>(
            opened.Actor,
            async session =>
            {
                var question = await session.Db.OwnerQuestions.SingleAsync(q => q.Id == known.Id, context.Cancel);
                if (await RefusedAsync(session, question, request.Take, ground, context.Cancel) is { } refusal)
                {
                    return refusal;
                }

                asked = request.Take ? Take(session, question) : null;
                return new Done();
            },
            context.Cancel
        );
        return
            !outcome.Refused
            && asked is not null
            && (await carrier.OutcomeAsync(asked, context.Cancel)).Failure is { } failure
            ? Refusal.Conflict("directory-failed", null, $"{failure} Your answer was not kept; try again.")
            : outcome;
    }

    /// <summary>Asks the directory to make whom the question was put to the owner.</summary>
    private static DirectoryIntent Take(WriteSession session, OwnerQuestion question) =>
        session
            .Services.GetRequiredService<DirectoryCarrier>()
            .Ask(
                session,
                new(DirectoryVerb.SetOwner, question.Person, question.Thing),
                "was asked and takes it over",
                OwnerAnswerFollower.Word,
                question.Id
            );

    private static async Task<Refusal?> RefusedAsync(
        WriteSession session,
        OwnerQuestion question,
        bool take,
        AccessGround ground,
        CancellationToken cancel
    )
    {
        var facts = await ground.FactsAsync(session.Db, cancel);
        var state = StateOf(facts, ground.Access, question);
        if (
            state is not ("open" or "declined")
            || (take && !OwnerAsking.Things(facts, ground.Access).Contains(question.Thing))
        )
        {
            return Refusal.Conflict("answered", null, "Somebody answers for it already. Thank you all the same.");
        }

        (question.Answer, question.AnsweredAt) = (take ? OwnerAnswer.Yes : OwnerAnswer.No, session.Now);
        session.Record(
            "owner-answered",
            new LedgerSubject("access", question.Thing),
            after: new JsonObject { ["answer"] = take ? "yes" : "no" }
        );
        return null;
    }
}

/// <summary>An answer that the directory did not carry out is open again.</summary>
internal sealed class OwnerAnswerFollower : IDirectoryFollower
{
    public const string Word = "owner-answer";

    public string Name => Word;

    public async Task CameOutAsync(WriteSession session, DirectoryIntent intent, CancellationToken cancel)
    {
        if (intent.Failure is null)
        {
            return;
        }

        var question = await session.Db.OwnerQuestions.SingleAsync(q => q.Id == intent.SubjectId, cancel);
        (question.Answer, question.AnsweredAt) = (OwnerAnswer.Open, null);
        session.Record(
            "owner-answer-reopened",
            new LedgerSubject("access", question.Thing),
            after: new JsonObject { ["person"] = question.Person },
            reason: intent.Failure
        );
    }
}
