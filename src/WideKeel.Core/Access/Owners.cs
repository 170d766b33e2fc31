using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>What somebody said who was asked to answer for a group or place.</summary>
public enum OwnerAnswer
{
    Open,
    Yes,
    No,
}

/// <summary>How owners are looked for.</summary>
/// <param name="On">Whether anybody is asked by itself, in the morning.</param>
/// <param name="Many">How many are asked at once, 1 to 5; the first who says yes has it.</param>
/// <param name="Weeks">How long an answer is waited for, 1 to 26.</param>
/// <param name="Times">How often others are asked before the steward gets it, 1 to 12.</param>
/// <param name="Allow">Mail addresses, or units; empty where everybody may be asked.</param>
/// <param name="Block">Mail addresses, or units, of whom nobody is asked.</param>
/// <param name="Words">What the message says besides.</param>
public sealed record OwnerRule(
    bool On,
    int Many,
    int Weeks,
    int Times,
    IReadOnlyList<string> Allow,
    IReadOnlyList<string> Block,
    string Words
)
{
    public static OwnerRule Standard { get; } = new(false, 2, 2, 3, [], [], "");

    /// <summary>Why the rule cannot be kept, or null.</summary>
    public Refusal? Check() =>
        Many is < 1 or > 5 ? new("many-malformed", "many", "1 to 5 people are asked at once.")
        : Weeks is < 1 or > 26 ? new("weeks-malformed", "weeks", "An answer is waited for 1 to 26 weeks.")
        : Times is < 1 or > 12 ? new("times-malformed", "times", "People are asked 1 to 12 times.")
        : Words.Length > 2_000 ? new("words-long", "words", "The message has at most 2,000 characters of your own.")
        : null;

    /// <summary>Whether somebody may be asked; who is blocked is not, even if allowed.</summary>
    public bool MayAsk(PersonFacts person) =>
        !Block.Any(b => Names(b, person)) && (Allow.Count == 0 || Allow.Any(a => Names(a, person)));

    private static bool Names(string entry, PersonFacts person) =>
        string.Equals(entry, person.Id, StringComparison.OrdinalIgnoreCase)
        || string.Equals(entry, person.Unit, StringComparison.OrdinalIgnoreCase);
}

/// <summary>Somebody who was asked about a group or place.</summary>
/// <param name="Round">The how-manieth time, from 1.</param>
public sealed record OwnerAsked(string Thing, string Person, LocalDate On, int Round, OwnerAnswer Answer);

/// <summary>What comes next for a group or place without an owner.</summary>
/// <param name="Ask">Whom to ask, the most active first; empty where the steward gets it.</param>
/// <param name="Steward">Who gets it, where there was nobody left to ask.</param>
public sealed record OwnerStep(string Thing, int Round, IReadOnlyList<string> Ask, string? Steward);

/// <summary>Who could answer for what nobody answers for.</summary>
public static class Owners
{
    /// <summary>The steps that are due on the facts' day; a thing whose people still have time to answer has none.</summary>
    /// <param name="things">Ids of the groups and places without an owner.</param>
    /// <param name="history">All who were asked, of any thing.</param>
    /// <param name="stewards">The steward of each unit, by its name.</param>
    public static IReadOnlyList<OwnerStep> Due(
        OwnerRule rule,
        MendingFacts facts,
        EffectiveAccess access,
        IReadOnlyList<string> things,
        IReadOnlyList<OwnerAsked> history,
        IReadOnlyDictionary<string, string> stewards
    )
    {
        var asked = history.ToLookup(h => h.Thing, StringComparer.Ordinal);
        List<OwnerStep> steps = [];
        foreach (var thing in things)
        {
            // Whoever said yes once has left since: the search begins anew.
            var own = asked[thing].Reverse().TakeWhile(a => a.Answer != OwnerAnswer.Yes).ToList();
            var round = own.Select(a => a.Round).DefaultIfEmpty(0).Max();
            var waits =
                own.Count > 0
                && own.Any(a => a.Round == round && a.Answer == OwnerAnswer.Open)
                && facts.Today < own.Max(a => a.On).PlusDays(7 * rule.Weeks);
            if (waits)
            {
                continue;
            }

            var members = Members(facts, access, thing);
            var refused = own.Where(a => a.Answer == OwnerAnswer.No).Select(a => a.Person).ToHashSet();
            List<string> ask =
                round >= rule.Times
                    ? []
                    :
                    [
                        .. members
                            .Where(m => rule.MayAsk(m.Person) && !refused.Contains(m.Person.Id))
                            // Who let an invitation pass is asked after those who were not asked yet.
                            .OrderBy(m => own.Count(a => a.Person == m.Person.Id))
                            .ThenByDescending(m => m.Uses)
                            .ThenBy(m => m.Person.Id, StringComparer.Ordinal)
                            .Take(rule.Many)
                            .Select(m => m.Person.Id),
                    ];
            var steward = ask.Count > 0 ? null : StewardOf(members, stewards);
            if (ask.Count > 0 || steward is not null)
            {
                steps.Add(new(thing, round + 1, ask, steward));
            }
        }

        return steps;
    }

    /// <summary>Who is in a group or reaches a place, with how often they used what it gives.</summary>
    private static List<(PersonFacts Person, int Uses)> Members(
        MendingFacts facts,
        EffectiveAccess access,
        string thing
    )
    {
        var isGroup = facts.GroupOwners.ContainsKey(thing);
        var people = isGroup ? access.PeopleIn(thing) : access.Audience(thing);
        var places = isGroup
            ? access.OfGroup(thing).Select(r => r.Resource)
            : facts.Model.Resources.Select(r => r.Id).Where(r => LiesIn(facts, r, thing));
        var names = places
            .Where(facts.Resources.ContainsKey)
            .Select(p => facts.Resources[p].Name)
            .ToHashSet(StringComparer.Ordinal);
        var uses = facts
            .Uses.Where(u => names.Contains(u.Key.Place))
            .GroupBy(u => u.Key.Person)
            .ToDictionary(g => g.Key, g => g.Sum(u => u.Value));
        return
        [
            .. people
                .Select(p => facts.People.GetValueOrDefault(p))
                .OfType<PersonFacts>()
                .Where(p => p.Kind == AccountKind.Person && !(p.Left <= facts.Today))
                .Select(p => (p, uses.GetValueOrDefault(p.Id))),
        ];
    }

    private static bool LiesIn(MendingFacts facts, string place, string top)
    {
        var parents = facts.Parents;
        for (var at = place; at is not null; at = parents.GetValueOrDefault(at))
        {
            if (at == top)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>The steward of the unit that most of the members are of.</summary>
    private static string? StewardOf(
        IEnumerable<(PersonFacts Person, int Uses)> members,
        IReadOnlyDictionary<string, string> stewards
    ) =>
        members
            .GroupBy(m => m.Person.Unit)
            .OrderByDescending(g => g.Count())
            .ThenBy(g => g.Key, StringComparer.Ordinal)
            .Select(g => stewards.GetValueOrDefault(g.Key))
            .FirstOrDefault(s => s is not null);
}
