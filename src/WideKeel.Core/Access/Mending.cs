using System.Globalization;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>One line of a list to mend.</summary>
/// <param name="Who">The person, group, application or link.</param>
/// <param name="What">The resource, where there is one.</param>
/// <param name="Words">What is wrong, as a sentence.</param>
/// <param name="Fix">What mends it; null where somebody must decide first.</param>
public sealed record MendingLine(string Who, string? What, string Words, DirectoryChange? Fix);

/// <summary>A list of what should not be as it is.</summary>
public sealed record MendingList(string Name, string Title, string Says, IReadOnlyList<MendingLine> Lines);

/// <summary>The lists to mend, computed from the directory and from what was used.</summary>
public static class Mending
{
    /// <summary>A grant that nobody used for so long is called unused.</summary>
    public const int UnusedDays = 90;

    /// <summary>The name of the list of what nobody answers for.</summary>
    public const string WithoutOwner = "ownerless";

    /// <summary>The name of the list of toxic pairs.</summary>
    public const string Toxic = "toxic";

    private static readonly string[] WideScopes = ["all-files", "all-mail", "directory.write"];

    private sealed record Definition(
        string Name,
        string Title,
        string Says,
        Func<MendingFacts, EffectiveAccess, IEnumerable<MendingLine>> Lines
    );

    private static readonly Definition[] Definitions =
    [
        new("open-to-anyone", "Open to anyone", "Links that open without a sign-in.", (f, _) => OpenToAnyone(f)),
        new("outsiders", "Outsiders in sensitive places", "Guests who reach what holds sensitive material.", Outsiders),
        new(
            "regions",
            "Outside the region",
            "People of other regions who reach material that is bound to one.",
            Regions
        ),
        new(
            "unused",
            "Unused",
            $"Grants to a person that were not used for {UnusedDays} days, on places whose events are collected.",
            (f, _) => Unused(f)
        ),
        new(
            "direct",
            "Given past the groups",
            "Grants to a person where a group of theirs gives the same role already.",
            Direct
        ),
        new("left", "Left and still granted", "People who have left, in groups or with grants.", (f, _) => Left(f)),
        new(
            "services",
            "Services with people’s rights",
            "Service accounts that own a place or are in groups of people.",
            (f, _) => Services(f)
        ),
        new(Toxic, "Toxic pairs", "People with two roles that nobody should have together.", ToxicPairs),
        new("consents", "Consents", "Applications that reach too much, or that nobody uses.", (f, _) => Consents(f)),
        new(WithoutOwner, "Without an owner", "Places and groups that nobody answers for.", (f, _) => Ownerless(f)),
    ];

    /// <summary>The names of all lists.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. Definitions.Select(d => d.Name)];

    /// <summary>All lists.</summary>
    /// <param name="access">Of the facts' model on their day.</param>
    public static IReadOnlyList<MendingList> Lists(MendingFacts facts, EffectiveAccess access) =>
        [.. Definitions.Select(d => new MendingList(d.Name, d.Title, d.Says, [.. d.Lines(facts, access)]))];

    /// <summary>One list; null where there is none of the name.</summary>
    public static MendingList? List(string name, MendingFacts facts, EffectiveAccess access) =>
        Array.Find(Definitions, d => d.Name == name) is { } d
            ? new(d.Name, d.Title, d.Says, [.. d.Lines(facts, access)])
            : null;

    private static IEnumerable<MendingLine> OpenToAnyone(MendingFacts facts) =>
        from resource in facts.Model.Resources
        from link in resource.Links
        where link.To == LinkReach.Anyone
        select new MendingLine(
            EffectiveAccess.Anyone,
            resource.Id,
            $"Anyone with the link is {link.Role} of {facts.Resources[resource.Id].Name}.",
            new(DirectoryVerb.RemoveLink, EffectiveAccess.Anyone, resource.Id, link.Role)
        );

    private static IEnumerable<MendingLine> Outsiders(MendingFacts facts, EffectiveAccess access) =>
        from person in facts.Model.People
        where person.Kind == AccountKind.Guest
        from reach in access.OfPerson(person)
        where facts.Resources[reach.Resource].Sensitive
        select new MendingLine(
            person.Id,
            reach.Resource,
            $"{facts.People[person.Id].Name}, a guest, is {string.Join(" and ", reach.Roles)} of {facts.Resources[reach.Resource].Name}.",
            FixOf(facts, access, reach)
        );

    private static IEnumerable<MendingLine> Regions(MendingFacts facts, EffectiveAccess access) =>
        from resource in facts.Resources.Values
        where resource.Region is not null
        from reach in access.OfResource(resource.Id)
        where
            facts.People.TryGetValue(reach.Person, out var person)
            && facts.Regions.GetValueOrDefault(person.Unit) != resource.Region
        select new MendingLine(
            reach.Person,
            resource.Id,
            $"{facts.People[reach.Person].Name} of {facts.People[reach.Person].Unit} reaches {resource.Name}, "
                + $"which is bound to the {resource.Region}.",
            FixOf(facts, access, reach)
        );

    private static IEnumerable<MendingLine> Unused(MendingFacts facts) =>
        from grant in facts.Model.Grants
        let person = facts.People.GetValueOrDefault(grant.To)
        where person is { Kind: AccountKind.Person } && facts.IsUnused(grant.To, facts.Resources[grant.Resource].Name)
        where person.Left is null || person.Left > facts.Today
        select new MendingLine(
            grant.To,
            grant.Resource,
            string.Create(
                CultureInfo.InvariantCulture,
                $"{person.Name} is {grant.Role} of {facts.Resources[grant.Resource].Name} and did not use it for {UnusedDays} days."
            ),
            new(DirectoryVerb.RemoveGrant, grant.To, grant.Resource, grant.Role)
        );

    private static IEnumerable<MendingLine> Direct(MendingFacts facts, EffectiveAccess access)
    {
        var groups = facts.Model.Groups.Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
        var ofGroups = facts
            .Model.Grants.Where(g => groups.Contains(g.To))
            .ToLookup(g => (g.Resource, g.Role), g => g.To);
        Dictionary<string, IReadOnlyCollection<string>> people = new(StringComparer.Ordinal);
        foreach (var grant in facts.Model.Grants.Where(g => facts.People.ContainsKey(g.To)))
        {
            // Few grants of a person stand beside one of a group of theirs, so the ways to groups are looked for only then.
            var place = access
                .Above(grant.Resource)
                .FirstOrDefault(p => ofGroups[(p, grant.Role)].Any(g => PeopleIn(g).Contains(grant.To)));
            if (place is not null)
            {
                // Ways come the shortest first.
                var group = access
                    .GivenByGroups(grant.To)
                    .First(g => g.Grant.Resource == place && g.Grant.Role == grant.Role)
                    .Way[1];
                yield return new(
                    grant.To,
                    grant.Resource,
                    $"{facts.People[grant.To].Name} is {grant.Role} of {facts.Resources[grant.Resource].Name} by {group} already.",
                    new(DirectoryVerb.RemoveGrant, grant.To, grant.Resource, grant.Role)
                );
            }
        }

        IReadOnlyCollection<string> PeopleIn(string group) =>
            people.TryGetValue(group, out var known)
                ? known
                : people[group] = access.PeopleIn(group).ToHashSet(StringComparer.Ordinal);
    }

    private static IEnumerable<MendingLine> Left(MendingFacts facts)
    {
        var left = facts.Model.People.Where(p => p.HasLeft(facts.Today)).Select(p => p.Id).ToHashSet();
        foreach (var group in facts.Model.Groups)
        {
            foreach (var member in group.Members.Where(left.Contains))
            {
                yield return new(
                    member,
                    null,
                    $"{facts.People[member].Name} has left and is in {group.Id}.",
                    new(DirectoryVerb.RemoveMember, member, group.Id)
                );
            }
        }

        foreach (var grant in facts.Model.Grants.Where(g => left.Contains(g.To)))
        {
            yield return new(
                grant.To,
                grant.Resource,
                $"{facts.People[grant.To].Name} has left and is {grant.Role} of {facts.Resources[grant.Resource].Name}.",
                new(DirectoryVerb.RemoveGrant, grant.To, grant.Resource, grant.Role)
            );
        }
    }

    private static IEnumerable<MendingLine> Services(MendingFacts facts)
    {
        var services = facts.Model.People.Where(p => p.Kind == AccountKind.Service).Select(p => p.Id).ToHashSet();
        foreach (var grant in facts.Model.Grants.Where(g => services.Contains(g.To) && g.Role is "owner" or "editor"))
        {
            yield return new(
                grant.To,
                grant.Resource,
                $"{facts.People[grant.To].Name} is {grant.Role} of {facts.Resources[grant.Resource].Name}.",
                new(DirectoryVerb.RemoveGrant, grant.To, grant.Resource, grant.Role)
            );
        }

        foreach (var group in facts.Model.Groups)
        {
            foreach (var member in group.Members.Where(services.Contains))
            {
                yield return new(
                    member,
                    null,
                    $"{facts.People[member].Name} is in {group.Id}, a group of people.",
                    new(DirectoryVerb.RemoveMember, member, group.Id)
                );
            }
        }
    }

    private static IEnumerable<MendingLine> ToxicPairs(MendingFacts facts, EffectiveAccess access) =>
        from pair in facts.Toxic
        where facts.Resources.ContainsKey(pair.First) && facts.Resources.ContainsKey(pair.Second)
        let having = access
            .OfResource(pair.First)
            .Where(r => r.Roles.Contains(pair.FirstRole))
            .ToDictionary(r => r.Person)
        from second in access.OfResource(pair.Second)
        where second.Roles.Contains(pair.SecondRole) && facts.People.ContainsKey(second.Person)
        let first = having.GetValueOrDefault(second.Person)
        where first is not null
        select new MendingLine(
            first.Person,
            second.Resource,
            $"{facts.People[first.Person].Name} {pair.FirstRole} in {facts.Resources[pair.First].Name} "
                + $"and {pair.SecondRole} in {facts.Resources[pair.Second].Name}.",
            FixOf(facts, access, second with { Roles = [pair.SecondRole] })
        );

    private static IEnumerable<MendingLine> Consents(MendingFacts facts) =>
        from consent in facts.Consents
        let faults = ConsentFaults(facts, consent)
        where faults.Count > 0
        select new MendingLine(
            consent.By,
            consent.Application,
            faults[0],
            new(DirectoryVerb.RemoveConsent, consent.By, consent.Application, string.Join(' ', consent.Scopes))
        );

    /// <summary>What is wrong with a consent: it reaches too much, or it is not used.</summary>
    internal static IReadOnlyList<string> ConsentFaults(MendingFacts facts, ConsentFacts consent)
    {
        var who = consent.By == EffectiveAccess.Organisation ? "everybody" : consent.By;
        List<string> faults = [];
        if (consent.Scopes.Any(s => WideScopes.Any(w => s.StartsWith(w, StringComparison.Ordinal))))
        {
            faults.Add($"{consent.Application} may {string.Join(" and ", consent.Scopes)}, by consent of {who}.");
        }

        if (consent.LastUsed is null || consent.LastUsed < facts.Today.PlusDays(-UnusedDays))
        {
            faults.Add($"{consent.Application} was not used for {UnusedDays} days by consent of {who}.");
        }

        return faults;
    }

    private static IEnumerable<MendingLine> Ownerless(MendingFacts facts)
    {
        foreach (var resource in facts.Model.Resources.Where(r => r.Parent is null))
        {
            if (!Answers(facts, facts.Resources[resource.Id].Owner))
            {
                yield return new("", resource.Id, $"Nobody answers for {facts.Resources[resource.Id].Name}.", null);
            }
        }

        foreach (var (group, owner) in facts.GroupOwners)
        {
            if (!Answers(facts, owner))
            {
                yield return new(group, null, $"Nobody answers for the group {group}.", null);
            }
        }
    }

    /// <summary>Whether an owner is named and still there.</summary>
    private static bool Answers(MendingFacts facts, string? owner) =>
        owner is not null
        && facts.People.TryGetValue(owner, out var person)
        && (person.Left is null || person.Left > facts.Today);

    /// <summary>What takes a reach away: its own grant, or the first membership of its way.</summary>
    public static DirectoryChange? FixOf(MendingFacts facts, EffectiveAccess access, Reach reach)
    {
        var carrier = reach.Path[^1];
        return reach.Path switch
        {
            [_, _]
                when access.Granted(reach.Person, carrier).FirstOrDefault(g => reach.Roles.Contains(g.Role))
                    is { } grant => new(DirectoryVerb.RemoveGrant, grant.To, grant.Resource, grant.Role),
            [_, EffectiveAccess.Organisation, _] => access
                .ResourceOf(carrier)
                .Links.Where(l => l.To == LinkReach.Organisation)
                .Select(l => new DirectoryChange(
                    DirectoryVerb.RemoveLink,
                    EffectiveAccess.Organisation,
                    carrier,
                    l.Role
                ))
                .FirstOrDefault(),
            [_, var group, ..] when facts.GroupOwners.ContainsKey(group) => new(
                DirectoryVerb.RemoveMember,
                reach.Person,
                group
            ),
            _ => null,
        };
    }
}
