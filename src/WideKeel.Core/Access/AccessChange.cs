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
    /// <summary>The model as it would be.</summary>
    public static AccessModel Applied(AccessModel model, DirectoryChange change) =>
        change.Verb switch
        {
            DirectoryVerb.AddMember => WithMembers(
                model,
                change.What!,
                m => m.Contains(change.Who) ? m : [.. m, change.Who]
            ),
            DirectoryVerb.RemoveMember => WithMembers(model, change.What!, m => [.. m.Where(x => x != change.Who)]),
            DirectoryVerb.AddGrant => model with
            {
                Grants = [.. model.Grants, new Grant(change.Who, change.What!, change.Role!)],
            },
            DirectoryVerb.RemoveGrant => model with
            {
                Grants = [.. model.Grants.Where(g => g != new Grant(change.Who, change.What!, change.Role!))],
            },
            DirectoryVerb.AddLink => WithLinks(
                model,
                change.What!,
                l => [.. l, new ResourceLink(ReachOf(change), change.Role!)]
            ),
            DirectoryVerb.RemoveLink => WithLinks(
                model,
                change.What!,
                l => [.. l.Where(x => x != new ResourceLink(ReachOf(change), change.Role!))]
            ),
            _ => model,
        };

    /// <summary>Who gains and who loses what, by person and resource.</summary>
    public static IReadOnlyList<AccessDifference> Differences(AccessModel model, DirectoryChange change, LocalDate asOf)
    {
        var changed = Applied(model, change);
        var (before, after) = (new EffectiveAccess(model, asOf), new EffectiveAccess(changed, asOf));
        // Only whom the change names, and whom they contain, can gain or lose.
        var touched = change.Verb is DirectoryVerb.AddLink or DirectoryVerb.RemoveLink
            ? null
            : before.PeopleIn(change.Who).Union(after.PeopleIn(change.Who)).ToHashSet(StringComparer.Ordinal);
        List<AccessDifference> all = [];
        foreach (var person in model.People.Where(p => touched is null || touched.Contains(p.Id)))
        {
            Compare(person.Id, before.OfPerson(person), after.OfPerson(person), all);
        }

        if (touched is null)
        {
            Compare(EffectiveAccess.Anyone, before.OfAnyone(), after.OfAnyone(), all);
        }

        return all;
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
        AccessModel model,
        LocalDate asOf,
        string resource,
        string role,
        IReadOnlySet<string> sensitive
    )
    {
        var access = new EffectiveAccess(model, asOf);
        return
        [
            .. model
                .Groups.Select(g => (g.Id, Gives: access.OfGroup(g.Id)))
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

    private static LinkReach ReachOf(DirectoryChange change) =>
        change.Who == EffectiveAccess.Anyone ? LinkReach.Anyone : LinkReach.Organisation;

    private static AccessModel WithMembers(
        AccessModel model,
        string group,
        Func<IReadOnlyList<string>, IReadOnlyList<string>> with
    ) =>
        model with
        {
            Groups = [.. model.Groups.Select(g => g.Id == group ? g with { Members = with(g.Members) } : g)],
        };

    private static AccessModel WithLinks(
        AccessModel model,
        string resource,
        Func<IReadOnlyList<ResourceLink>, IReadOnlyList<ResourceLink>> with
    ) =>
        model with
        {
            Resources = [.. model.Resources.Select(r => r.Id == resource ? r with { Links = with(r.Links) } : r)],
        };
}
