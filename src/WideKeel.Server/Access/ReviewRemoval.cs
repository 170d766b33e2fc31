using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Store.Access;

namespace WideKeel.Server.Access;

/// <param name="Change">To be sent back with the answer that chooses it.</param>
/// <param name="Says">What it does, as a sentence without its subject.</param>
/// <param name="Way">A shortest of the ways that it takes, by names.</param>
/// <param name="Ways">How many ways it takes.</param>
/// <param name="Others">How many other people lose something by it.</param>
/// <param name="OtherNames">Names of the first of them.</param>
/// <param name="Usual">Chosen where nobody chooses: it concerns the person alone.</param>
public sealed record RemovalStepView(
    DirectoryChange Change,
    string Says,
    IReadOnlyList<string> Way,
    int Ways,
    int Others,
    IReadOnlyList<string> OtherNames,
    bool Usual
);

/// <summary>What a removal of a line takes, computed now.</summary>
/// <param name="Ways">By how many ways the person reaches it; <see cref="Removals.MostWays"/> stands for that or more.</param>
/// <param name="Costs">
/// Names of the other places on which the person loses a role by what concerns them alone; the sensitive ones first.
/// </param>
/// <param name="LastUse">The last day on which they used it, or for a group anything that it gives; null for none known.</param>
/// <param name="UseIsSeen">Whether events of it are collected, so that a use would have been seen.</param>
public sealed record RemovalView(
    int Ways,
    IReadOnlyList<RemovalStepView> Steps,
    IReadOnlyList<string> Costs,
    LocalDate? LastUse,
    bool UseIsSeen
);

/// <summary>What a removal takes before it is decided, and which changes a decision chooses.</summary>
internal static class ReviewRemoval
{
    private const int MostNames = 100;

    public static RemovalView Of(ReviewLine line, MendingFacts facts, AccessGround ground)
    {
        var roles = line.Roles.Split(' ');
        var (removals, access) = (ground.Removals, ground.Access);
        var steps = removals.Of(line.Person, line.What, roles);
        var usual = Removals.Usual(line.Person, steps).ToHashSet();
        var places = (
            access.IsGroup(line.What) ? access.OfGroup(line.What).Select(r => r.Resource).Distinct() : [line.What]
        )
            .Where(facts.Resources.ContainsKey)
            .Select(id => facts.Resources[id].Name)
            .ToList();
        return new(
            removals.Ways(line.Person, line.What, roles).Count,
            [
                .. steps.Select(s => new RemovalStepView(
                    s.Change,
                    InWords(s.Change, facts),
                    [.. s.Way.Select(id => ReachEndpoints.NameOf(facts, id))],
                    s.Ways,
                    s.Others.Count,
                    [.. s.Others.Take(MostNames).Select(id => ReachEndpoints.NameOf(facts, id))],
                    usual.Contains(s.Change)
                )),
            ],
            [
                .. removals
                    .Costs(line.Person, line.What, usual)
                    .OrderByDescending(id => facts.Resources[id].Sensitive)
                    .Select(id => ReachEndpoints.NameOf(facts, id)),
            ],
            places.Select(p => facts.LastUse.TryGetValue((line.Person, p), out var day) ? day : (LocalDate?)null).Max(),
            places.Any(facts.CollectedSince.ContainsKey)
        );
    }

    private static string InWords(DirectoryChange change, MendingFacts facts)
    {
        var what = ReachEndpoints.NameOf(facts, change.What!);
        return change.Verb switch
        {
            DirectoryVerb.RemoveMember => $"leaves the group {what}",
            DirectoryVerb.RemoveGrant => $"is no longer {change.Role} of {what}",
            DirectoryVerb.RemoveConsent => $"the consent to {what} is revoked",
            _ => $"the link to {what} ends for everybody",
        };
    }

    /// <summary>
    /// Notes with each line the changes of a removal, as they are now; a choice is one of one line, among its own changes.
    /// </summary>
    public static Refusal? Choose(IReadOnlyList<ReviewLine> lines, LineAnswer answer, Removals removals)
    {
        if (answer.Changes is not null && lines.Count != 1)
        {
            return new("changes-of-many", "changes", "Choose among the ways of one line at a time.");
        }

        if (answer is { Decision: LineDecision.Remove, Changes.Count: 0 })
        {
            return new(
                "changes-missing",
                "changes",
                "A removal takes at least one way; choose one, or keep the access."
            );
        }

        foreach (var line in lines)
        {
            if (answer.Decision != LineDecision.Remove)
            {
                ReviewRounds.Choose(line, []);
                continue;
            }

            var steps = removals.Of(line.Person, line.What, line.Roles.Split(' '));
            if (answer.Changes?.FirstOrDefault(c => steps.All(s => s.Change != c)) is not null)
            {
                return Refusal.Conflict(
                    "ways-changed",
                    "changes",
                    "The ways to it have changed since you looked; look again before you decide."
                );
            }

            ReviewRounds.Choose(line, answer.Changes ?? Removals.Usual(line.Person, steps));
        }

        return null;
    }
}
