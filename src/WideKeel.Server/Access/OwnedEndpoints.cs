using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <param name="Kind">group, or what kind of place.</param>
/// <param name="People">How many are in it or reach it; of those, guests.</param>
/// <param name="ReviewedOn">When a review of it last ended.</param>
public sealed record OwnedThing(string Id, string Name, string Kind, int People, int Guests, LocalDate? ReviewedOn);

/// <param name="Kind">person, guest or service.</param>
public sealed record OwnedPerson(string Id, string Name, AccountKind Kind, string Unit);

/// <param name="MayReview">The organisation lets owners ask about what they own.</param>
/// <param name="Reviews">Those that the caller started.</param>
public sealed record OwnedView(bool MayReview, IReadOnlyList<OwnedThing> Things, IReadOnlyList<OwnedReview> Reviews);

/// <param name="Link">Where the caller decides on their own open lines; null where none is open.</param>
public sealed record OwnedReview(
    long Id,
    int Round,
    string Name,
    LocalDate StartedOn,
    LocalDate EndsOn,
    Instant? EndedAt,
    int Lines,
    int Open,
    int Removed,
    string? Link
);

/// <param name="Things">Ids of groups and places that the caller owns.</param>
public sealed record OwnedReviewRequest(
    string Name,
    IReadOnlyList<string> Things,
    ReviewPeople People,
    int InactiveDays,
    int Days,
    SilenceRule Silence
);

public sealed record OwnersMayReview(bool May);

/// <summary>What somebody owns, and the reviews that they start of it, where the organisation allows it.</summary>
public static class OwnedEndpoints
{
    public static void MapOwned(this IEndpointRouteBuilder api)
    {
        api.MapGet("/owned", Show).RequiresSignIn();
        api.MapGet("/owned/people", People).RequiresSignIn();
        api.MapPost("/owned/reviews", Start).RequiresSignIn();
        api.MapGet("/owned/reviews/{id:long}/rounds/{number:int}/report.csv", Csv).RequiresSignIn();
        api.MapPut("/access/owners/reviews", Allow).Requires(Right.ManageAccess);
    }

    private static HashSet<string> OwnedBy(string mail, MendingFacts facts) =>
        [
            .. facts.GroupOwners.Where(o => Same(o.Value, mail)).Select(o => o.Key),
            .. facts.Resources.Values.Where(r => Same(r.Owner, mail)).Select(r => r.Id),
        ];

    private static bool Same(string? owner, string mail) =>
        string.Equals(owner, mail, StringComparison.OrdinalIgnoreCase);

    private static async Task<Reply<OwnedView>> Show(AccessGround ground, [AsParameters] ApiContext context)
    {
        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        var owned = OwnedBy(context.Caller.Mail, facts);
        var reviewed = (
            await (
                from r in context.Db.ReviewRounds
                join l in context.Db.ReviewLines on r.Id equals l.RoundId
                where r.EndedAt != null && owned.Contains(l.What)
                select new { l.What, r.EndedAt }
            )
                .Distinct()
                .ToListAsync(context.Cancel)
        ).GroupBy(r => r.What).ToDictionary(g => g.Key, g => g.Max(r => context.Calendar.DateOf(r.EndedAt!.Value)));
        return new OwnedView(
            await MayAsync(context),
            [
                .. owned
                    .Select(id => Thing(id, facts, ground, reviewed))
                    .OrderBy(t => t.Name, StringComparer.OrdinalIgnoreCase),
            ],
            await ReviewsAsync(context)
        );
    }

    private static OwnedThing Thing(
        string id,
        MendingFacts facts,
        AccessGround ground,
        Dictionary<string, LocalDate> reviewed
    )
    {
        var people = PeopleOf(id, facts, ground);
        return new(
            id,
            ReachEndpoints.NameOf(facts, id),
            facts.GroupOwners.ContainsKey(id) ? "group" : facts.Resources[id].Kind,
            people.Count,
            people.Count(p => p.Kind == AccountKind.Guest),
            reviewed.TryGetValue(id, out var on) ? on : null
        );
    }

    /// <summary>Who is in a group or reaches a place, outsiders first.</summary>
    private static IReadOnlyList<OwnedPerson> PeopleOf(string id, MendingFacts facts, AccessGround ground) =>
        [
            .. (facts.GroupOwners.ContainsKey(id) ? ground.Access.PeopleIn(id) : ground.Access.Audience(id))
                .Select(p => facts.People.GetValueOrDefault(p))
                .OfType<PersonFacts>()
                .Select(p => new OwnedPerson(p.Id, p.Name, p.Kind, p.Unit))
                .OrderByDescending(p => p.Kind == AccountKind.Guest)
                .ThenBy(p => p.Name, StringComparer.OrdinalIgnoreCase),
        ];

    /// <param name="thing">A group or place that the caller owns.</param>
    private static async Task<Reply<IReadOnlyList<OwnedPerson>>> People(
        string thing,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        return OwnedBy(context.Caller.Mail, facts).Contains(thing)
            ? (Outcome<IReadOnlyList<OwnedPerson>>)PeopleOf(thing, facts, ground).ToList()
            : Problems.NotFound("group or place of yours");
    }

    /// <summary>What was decided in a review that the caller started.</summary>
    private static async Task<IResult> Csv(long id, int number, [AsParameters] ApiContext context) =>
        await context.Db.Reviews.AnyAsync(r => r.Id == id && r.PersonId == context.Caller.PersonId, context.Cancel)
            ? await ReviewReports.Csv(id, number, context)
            : (Reply<Done>)Problems.NotFound("review of yours");

    private static async Task<IReadOnlyList<OwnedReview>> ReviewsAsync(ApiContext context)
    {
        var reviews = await context
            .Db.Reviews.AsNoTracking()
            .Include(r => r.Rounds)
                .ThenInclude(r => r.Lines)
            .AsSplitQuery()
            .Where(r => r.PersonId == context.Caller.PersonId)
            .OrderByDescending(r => r.Id)
            .ToListAsync(context.Cancel);
        var mail = context.Caller.Mail.ToLowerInvariant();
        var links = await context
            .Db.ReviewerLinks.AsNoTracking()
            .Where(l => l.Mail == mail)
            .ToDictionaryAsync(l => l.RoundId, l => l.Id, context.Cancel);
        return
        [
            .. reviews.SelectMany(r =>
                r.Rounds.OrderByDescending(x => x.Number)
                    .Select(x => new OwnedReview(
                        r.Id,
                        x.Number,
                        ReviewRounds.DefinitionOf(r).Name,
                        x.StartedOn,
                        x.EndsOn,
                        x.EndedAt,
                        x.Lines.Count,
                        x.Lines.Count(l => l.Decision == LineDecision.Open),
                        x.Lines.Count(l => l.Decision == LineDecision.Remove),
                        x.EndedAt is null
                        && x.Lines.Any(l => l.Reviewer == mail && l.Decision == LineDecision.Open)
                        && links.TryGetValue(x.Id, out var link)
                            ? $"/review/{Wording.Id(link)}"
                            : null
                    ))
            ),
        ];
    }

    /// <summary>Starts a round at once: the owner is asked about others, the steward of their unit about the owner.</summary>
    private static async Task<Reply<Done>> Start(
        OwnedReviewRequest request,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        if (!await MayAsync(context))
        {
            return Refusal.Forbidden(
                "owners-may-not-review",
                null,
                "The organisation does not let owners start reviews. Ask whoever manages access."
            );
        }

        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        var owned = OwnedBy(context.Caller.Mail, facts);
        if (request.Things.FirstOrDefault(t => !owned.Contains(t)) is { } other)
        {
            return new Refusal("not-yours", "things", $"“{ReachEndpoints.NameOf(facts, other)}” is not yours.");
        }

        var definition = ReviewForm.Read(SettingsOf(request, facts, context), ground);
        if (definition.Refusal is { } refusal)
        {
            return refusal;
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var review = await ReviewEndpoints.AddAsync(session, definition.Value, context);
                var round = await new ReviewRounds(session, ground, context.Calendar).StartAsync(
                    review,
                    context.Cancel
                );
                return round.Lines.Count == 0
                    ? Refusal.Conflict("nothing-to-ask", "things", "There is nobody to ask about in what you chose.")
                    : new Done();
            },
            context.Cancel
        );
    }

    private static ReviewSettings SettingsOf(OwnedReviewRequest request, MendingFacts facts, ApiContext context) =>
        new(
            request.Name,
            [.. request.Things.Where(facts.GroupOwners.ContainsKey)],
            [.. request.Things.Where(t => !facts.GroupOwners.ContainsKey(t))],
            request.People,
            request.InactiveDays,
            ReviewerKind.Named,
            [context.Caller.Mail],
            "",
            request.Days,
            context.Calendar.Today.ToDateOnly(),
            "",
            ReasonsRequired: false,
            request.Silence,
            ApplyItself: true,
            ""
        );

    private static Task<bool> MayAsync(ApiContext context) =>
        context.Db.Organisations.Select(o => o.OwnersMayReview).SingleAsync(context.Cancel);

    private static async Task<Reply<Done>> Allow(OwnersMayReview request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var organisation = await session.Db.Organisations.SingleAsync(context.Cancel);
                if (organisation.OwnersMayReview == request.May)
                {
                    return new Done();
                }

                session.Record(
                    "owners-may-review",
                    new("organisation", "1"),
                    new JsonObject { ["may"] = organisation.OwnersMayReview },
                    new JsonObject { ["may"] = request.May }
                );
                organisation.OwnersMayReview = request.May;
                return new Done();
            },
            context.Cancel
        );
}
