using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>What a change of the directory gives to or takes from one person.</summary>
public sealed record AccessDifference(
    string Person,
    string Resource,
    IReadOnlyList<string> Gained,
    IReadOnlyList<string> Lost
);

/// <summary>The consequences of a change before it is made.</summary>
public static class AccessChange
{
    /// <summary>Who gains and who loses what, by person and resource.</summary>
    public static IReadOnlyList<AccessDifference> Differences(
        AccessModel model,
        DirectoryChange change,
        LocalDate asOf
    ) => Differences(new EffectiveAccess(model, asOf), change);

    /// <summary>The same over what is computed already: only what the change touches is computed anew.</summary>
    public static IReadOnlyList<AccessDifference> Differences(EffectiveAccess before, DirectoryChange change)
    {
        var after = before.With(change);
        var isLink = change.Verb is DirectoryVerb.AddLink or DirectoryVerb.RemoveLink;
        // Only whom the change names, and whom they contain, can gain or lose.
        var touched = isLink
            ? before.Accounts.Keys
            : before.PeopleIn(change.Who).Union(after.PeopleIn(change.Who), StringComparer.Ordinal);
        List<AccessDifference> all = [];
        foreach (var id in touched.Order(StringComparer.Ordinal))
        {
            var person = before.Accounts[id];
            Compare(id, before.OfPerson(person), after.OfPerson(person), all);
        }

        if (isLink)
        {
            Compare(EffectiveAccess.Anyone, before.OfAnyone(), after.OfAnyone(), all);
        }

        return all;
    }

    /// <summary>What one person loses from one state of access to another, by resource.</summary>
    public static IReadOnlyList<AccessDifference> Lost(EffectiveAccess before, EffectiveAccess after, string person)
    {
        List<AccessDifference> all = [];
        if (before.Accounts.TryGetValue(person, out var account))
        {
            Compare(person, before.OfPerson(account), after.OfPerson(account), all);
        }

        return [.. all.Where(d => d.Lost.Count > 0)];
    }

    private static void Compare(
        string person,
        IReadOnlyList<Reach> before,
        IReadOnlyList<Reach> after,
        List<AccessDifference> into
    )
    {
        var was = before.ToDictionary(r => r.Resource, r => r.Roles);
        var will = after.ToDictionary(r => r.Resource, r => r.Roles);
        foreach (var resource in was.Keys.Union(will.Keys).Order(StringComparer.Ordinal))
        {
            var (old, now) = (was.GetValueOrDefault(resource) ?? [], will.GetValueOrDefault(resource) ?? []);
            List<string> gained = [.. now.Except(old)],
                lost = [.. old.Except(now)];
            if (gained.Count + lost.Count > 0)
            {
                into.Add(new(person, resource, gained, lost));
            }
        }
    }

    /// <summary>
    /// The groups that give a role on a place, ordered by how little else they give: sensitive places first, then all.
    /// </summary>
    public static IReadOnlyList<(string Group, int Sensitive, int Others)> LeastEnough(
        EffectiveAccess access,
        IReadOnlyList<DirectoryGroup> groups,
        string resource,
        string role,
        IReadOnlySet<string> sensitive
    ) =>
        [
            .. groups
                .Select(g => (g.Id, Gives: access.OfGroup(g.Id)))
                .Where(g => g.Gives.Any(r => r.Resource == resource && r.Roles.Contains(role)))
                .Select(g =>
                    (
                        g.Id,
                        g.Gives.Count(r => r.Resource != resource && sensitive.Contains(r.Resource)),
                        g.Gives.Count(r => r.Resource != resource)
                    )
                )
                .OrderBy(g => g.Item2)
                .ThenBy(g => g.Item3)
                .ThenBy(g => g.Id, StringComparer.Ordinal),
        ];
}
