using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Access;
using WideKeel.Store.People;

namespace WideKeel.Server.Access;

/// <summary>Looks for owners of what nobody answers for: asks the most active, waits, and at last gives it to the steward.</summary>
internal sealed class OwnerAsking(WriteSession session, AccessGround ground)
{
    /// <summary>How owners are looked for.</summary>
    public static async Task<OwnerRule> RuleAsync(WideKeelDb db, CancellationToken cancel) =>
        await db.OwnerSettings.AsNoTracking().Select(s => s.Rule).SingleOrDefaultAsync(cancel) is { } rule
            ? JsonSerializer.Deserialize<OwnerRule>(rule, Json.Options)!
            : OwnerRule.Standard;

    /// <summary>Ids of the groups and places that nobody answers for.</summary>
    public static IReadOnlyList<string> Things(MendingFacts facts, EffectiveAccess access) =>
        [.. Mending.List(Mending.WithoutOwner, facts, access)!.Lines.Select(l => l.What ?? l.Who)];

    /// <summary>Takes every step that is due.</summary>
    /// <returns>How many people were asked, and how many things went to a steward.</returns>
    public async Task<(int Asked, int ToStewards)> RunAsync(OwnerRule rule, CancellationToken cancel)
    {
        var facts = await ground.ReviewFactsAsync(session.Db, cancel);
        var steps = Owners.Due(
            rule,
            facts.Directory,
            ground.Access,
            Things(facts.Directory, ground.Access),
            [
                .. (await session.Db.OwnerQuestions.AsNoTracking().OrderBy(q => q.Id).ToListAsync(cancel)).Select(
                    q => new OwnerAsked(q.Thing, q.Person, q.AskedOn, q.Round, q.Answer)
                ),
            ],
            facts.Stewards
        );
        var (asked, given) = (0, 0);
        foreach (var step in steps)
        {
            foreach (var person in step.Ask)
            {
                await AskAsync(rule, facts.Directory, step, person, cancel);
                asked++;
            }

            if (step.Steward is { } steward)
            {
                session
                    .Services.GetRequiredService<DirectoryCarrier>()
                    .Ask(
                        session,
                        new(DirectoryVerb.SetOwner, steward, step.Thing),
                        "nobody who was asked takes it over; the unit’s steward answers for it"
                    );
                given++;
            }
        }

        return (asked, given);
    }

    private async Task AskAsync(
        OwnerRule rule,
        MendingFacts facts,
        OwnerStep step,
        string person,
        CancellationToken cancel
    )
    {
        var question = new OwnerQuestion
        {
            Thing = step.Thing,
            Person = person,
            Round = step.Round,
            AskedOn = facts.Today,
        };
        session.Db.OwnerQuestions.Add(question);
        await session.Db.SaveChangesAsync(cancel);
        var secret = PersonLinks.Issue(
            session,
            (LinkKind.Ownership, question.Id),
            person,
            Duration.FromDays((rule.Weeks + 4) * 7)
        );
        var name = ReachEndpoints.NameOf(facts, step.Thing);
        Outbox.Send(
            session,
            new DirectoryPerson { Name = ReachEndpoints.NameOf(facts, person), Mail = person },
            null,
            new(
                "ownership",
                $"Will you answer for {name}?",
                string.Join(
                    "\n\n",
                    new[]
                    {
                        $"Nobody answers for {name} any more. You are one of those who use it most. Whoever answers for it "
                            + "says who may be in it, and is asked when access is reviewed.",
                        rule.Words,
                        $"Please say yes or no within {Wording.Plural(rule.Weeks, "week")}.",
                    }.Where(t => t.Length > 0)
                ),
                "you use it and nobody answers for it"
            ),
            "/owner/{secret}",
            secret
        );
        session.Record(
            "owner-asked",
            new LedgerSubject("access", step.Thing),
            after: new JsonObject { ["person"] = person, ["round"] = step.Round }
        );
    }
}

/// <summary>The morning's look for owners.</summary>
internal sealed class OwnerMorning(AccessGround ground) : IDailyTask
{
    public async Task RunAsync(DailyQuestion asked)
    {
        var rule = await OwnerAsking.RuleAsync(asked.Session.Db, asked.Cancel);
        if (rule.On)
        {
            await new OwnerAsking(asked.Session, ground).RunAsync(rule, asked.Cancel);
        }
    }
}
