using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>The same access after a change, without computing it anew.</summary>
public sealed partial class EffectiveAccess
{
    /// <summary>The same after one change; only what it touches is made anew, and the rest is shared.</summary>
    /// <param name="change">Of a membership, grant or link; others change nothing here.</param>
    public EffectiveAccess With(DirectoryChange change)
    {
        var after = (EffectiveAccess)MemberwiseClone();
        switch (change.Verb)
        {
            case DirectoryVerb.AddMember:
                after.SetMember(change.What!, change.Who, true);
                break;
            case DirectoryVerb.RemoveMember:
                after.SetMember(change.What!, change.Who, false);
                break;
            case DirectoryVerb.AddGrant or DirectoryVerb.RemoveGrant:
                after.SetGrant(new(change.Who, change.What!, change.Role!), change.Verb == DirectoryVerb.AddGrant);
                break;
            case DirectoryVerb.AddLink or DirectoryVerb.RemoveLink:
                if (resources.Of(change.What!) is { } place)
                {
                    var to = change.Who == Anyone ? LinkReach.Anyone : LinkReach.Organisation;
                    var links = Changed(
                        place.Links,
                        new ResourceLink(to, change.Role!),
                        change.Verb == DirectoryVerb.AddLink
                    );
                    (after.resources, after.linked) = (resources.With(place.Id, place with { Links = links }), null);
                }

                break;
            default:
                break;
        }

        return after;
    }

    /// <summary>
    /// The same with some accounts, groups and places as they are now; only what they touch is made anew, and the rest is
    /// shared.
    /// </summary>
    /// <param name="part">Those things, and all grants on the places among them.</param>
    /// <returns>Null where one of them is not known here, or a place inherits from another one than before.</returns>
    public EffectiveAccess? With(AccessModel part)
    {
        if (
            !part.People.All(p => people.ContainsKey(p.Id))
            || !part.Groups.All(g => membersOf.Of(g.Id) is not null)
            || !part.Resources.All(r =>
                resources.Of(r.Id) is { } was && (was.Parent, was.Inherits) == (r.Parent, r.Inherits)
            )
        )
        {
            return null;
        }

        var after = (EffectiveAccess)MemberwiseClone();
        if (part.People.Any(p => people[p.Id] != p))
        {
            after.people = new(people, StringComparer.Ordinal);
            foreach (var person in part.People)
            {
                after.people[person.Id] = person;
            }
        }

        foreach (var group in part.Groups)
        {
            after.SetMembers(group);
        }

        foreach (var place in part.Resources)
        {
            (after.resources, after.linked) = (after.resources.With(place.Id, place), null);
            after.SetGrants(place.Id, [.. part.Grants.Where(g => g.Resource == place.Id)]);
        }

        return after;
    }

    private void SetMembers(DirectoryGroup group)
    {
        var (was, now) = (membersOf.Of(group.Id)!, group.Members);
        foreach (var member in was.Except(now).ToList())
        {
            groupsOf = groupsOf.With(member, Changed(groupsOf.Of(member) ?? [], group.Id, false));
        }

        foreach (var member in now.Except(was).ToList())
        {
            groupsOf = groupsOf.With(member, Changed(groupsOf.Of(member) ?? [], group.Id, true));
        }

        membersOf = membersOf.With(group.Id, now);
    }

    private void SetGrants(string place, IReadOnlyList<Grant> now)
    {
        var was = grantsOn.Of(place) ?? [];
        foreach (var grant in was.Except(now).ToList())
        {
            SetGrant(grant, false);
        }

        foreach (var grant in now.Except(was).ToList())
        {
            SetGrant(grant, true);
        }
    }

    private void SetGrant(Grant grant, bool given)
    {
        grantsTo = grantsTo.With(grant.To, Changed(grantsTo.Of(grant.To) ?? [], grant, given));
        grantsOn = grantsOn.With(grant.Resource, Changed(grantsOn.Of(grant.Resource) ?? [], grant, given));
    }

    private void SetMember(string group, string member, bool isIn)
    {
        if (membersOf.Of(group) is { } members)
        {
            membersOf = membersOf.With(group, Changed(members, member, isIn));
            groupsOf = groupsOf.With(member, Changed(groupsOf.Of(member) ?? [], group, isIn));
        }
    }

    private static IReadOnlyList<T> Changed<T>(IReadOnlyList<T> list, T one, bool isIn) =>
        isIn ? [.. list.Where(x => !Equals(x, one)), one] : [.. list.Where(x => !Equals(x, one))];
}
