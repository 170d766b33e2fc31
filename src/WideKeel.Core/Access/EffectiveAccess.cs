using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>What one person has on one resource.</summary>
/// <param name="Person">Their id, or <see cref="EffectiveAccess.Anyone"/>.</param>
/// <param name="Roles">Sorted, none twice.</param>
/// <param name="Path">A shortest way: the person, the groups, the resource that carries the grant or link.</param>
public sealed record Reach(string Person, string Resource, IReadOnlyList<string> Roles, IReadOnlyList<string> Path);

/// <summary>
/// Who has which role on what. A grant reaches a person whom it names, or whom a group that it names contains through
/// any chain of groups; it holds on its resource and on every resource beneath it as far as each one inherits. Who left
/// reaches nothing.
/// </summary>
public sealed class EffectiveAccess
{
    public const string Anyone = "anyone";
    public const string Organisation = "organisation";

    private readonly LocalDate asOf;
    private Dictionary<string, DirectoryAccount> people;
    private Index<Resource> resources;

    /// <summary>Those with links, of which there are few; made when they are first asked for.</summary>
    private IReadOnlyList<Resource>? linked;
    private Index<IReadOnlyList<string>> groupsOf;
    private readonly Dictionary<string, List<string>> heirs = new(StringComparer.Ordinal);
    private Index<IReadOnlyList<Grant>> grantsTo;
    private Index<IReadOnlyList<Grant>> grantsOn;
    private Index<IReadOnlyList<string>> membersOf;

    /// <param name="model">Sound: ids are unique and known, parents make no loop. Groups may.</param>
    public EffectiveAccess(AccessModel model, LocalDate asOf)
    {
        this.asOf = asOf;
        people = model.People.ToDictionary(p => p.Id, StringComparer.Ordinal);
        resources = new(model.Resources.ToDictionary(r => r.Id, StringComparer.Ordinal));
        membersOf = new(model.Groups.ToDictionary(g => g.Id, g => g.Members, StringComparer.Ordinal));
        groupsOf = Index<IReadOnlyList<string>>.Of(
            model.Groups.SelectMany(g => g.Members.Distinct().Select(m => (m, g.Id)))
        );
        grantsTo = Index<IReadOnlyList<Grant>>.Of(model.Grants.Select(g => (g.To, g)));
        grantsOn = Index<IReadOnlyList<Grant>>.Of(model.Grants.Select(g => (g.Resource, g)));
        foreach (var resource in model.Resources.Where(r => r is { Inherits: true, Parent: not null }))
        {
            Add(heirs, resource.Parent!, resource.Id);
        }
    }

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

    /// <summary>Values by an id; a change is laid over what does not change.</summary>
    private sealed class Index<T>(Dictionary<string, T> below, Dictionary<string, T>? over = null)
        where T : class
    {
        public T? Of(string id) =>
            over is not null && over.TryGetValue(id, out var changed) ? changed : below.GetValueOrDefault(id);

        public IEnumerable<T> All => over is null ? below.Values : below.Keys.Union(over.Keys).Select(k => Of(k)!);

        public Index<T> With(string id, T value)
        {
            Dictionary<string, T> changed = new(over ?? new Dictionary<string, T>(), StringComparer.Ordinal)
            {
                [id] = value,
            };
            return new(below, changed);
        }

        public static Index<IReadOnlyList<TOne>> Of<TOne>(IEnumerable<(string Id, TOne One)> all)
        {
            Dictionary<string, IReadOnlyList<TOne>> lists = new(StringComparer.Ordinal);
            foreach (var (id, one) in all)
            {
                if (!lists.TryGetValue(id, out var list))
                {
                    lists[id] = list = new List<TOne>(1);
                }

                ((List<TOne>)list).Add(one);
            }

            return new(lists);
        }
    }

    /// <summary>The accounts of a model, by their ids.</summary>
    public IReadOnlyDictionary<string, DirectoryAccount> Accounts => people;

    /// <summary>All that anybody reaches, by person and resource.</summary>
    public IEnumerable<Reach> All() =>
        people
            .Keys.Append(Anyone)
            .Order(StringComparer.Ordinal)
            .SelectMany(p => p == Anyone ? OfAnyone() : OfPerson(people[p]));

    /// <summary>What one person reaches, by resource; nothing once they left.</summary>
    public IReadOnlyList<Reach> OfPerson(DirectoryAccount person)
    {
        if (person.HasLeft(asOf))
        {
            return [];
        }

        var found = new Found(person.Id);
        foreach (var (principal, way) in WaysFrom(person.Id))
        {
            foreach (var grant in grantsTo.Of(principal) ?? [])
            {
                Spread(found, grant.Resource, grant.Role, [.. way, grant.Resource]);
            }
        }

        if (person.Kind == AccountKind.Person)
        {
            AddLinks(found, LinkReach.Organisation, [person.Id, Organisation]);
        }

        return found.Sorted();
    }

    /// <summary>What everybody reaches who has a link.</summary>
    public IReadOnlyList<Reach> OfAnyone()
    {
        var found = new Found(Anyone);
        AddLinks(found, LinkReach.Anyone, [Anyone]);
        return found.Sorted();
    }

    /// <summary>Who reaches one resource, by person; everybody who has a link stands as <see cref="Anyone"/>.</summary>
    public IReadOnlyList<Reach> OfResource(string resource)
    {
        var places = Above(resource).ToHashSet(StringComparer.Ordinal);
        return
        [
            .. Audience(resource)
                .Order(StringComparer.Ordinal)
                .Select(id => id == Anyone ? OfAnyone().First(r => r.Resource == resource) : On(id, resource, places)),
        ];
    }

    /// <summary>
    /// Who reaches one resource, without their ways; everybody who has a link counts as <see cref="Anyone"/>.
    /// </summary>
    public IReadOnlySet<string> Audience(string resource)
    {
        HashSet<string> found = new(StringComparer.Ordinal);
        foreach (var place in Above(resource))
        {
            foreach (var grant in grantsOn.Of(place) ?? [])
            {
                found.UnionWith(PeopleIn(grant.To));
            }

            foreach (var link in At(place).Links)
            {
                if (link.To == LinkReach.Anyone)
                {
                    found.Add(Anyone);
                }
                else
                {
                    found.UnionWith(people.Values.Where(p => p.Kind == AccountKind.Person).Select(p => p.Id));
                }
            }
        }

        found.RemoveWhere(id => people.TryGetValue(id, out var person) && person.HasLeft(asOf));
        return found;
    }

    /// <summary>What a person has on one resource that they reach, by grants and links on these places.</summary>
    private Reach On(string person, string resource, HashSet<string> places)
    {
        var found = new Found(person);
        foreach (var (principal, way) in WaysFrom(person))
        {
            foreach (var grant in grantsTo.Of(principal) ?? [])
            {
                if (places.Contains(grant.Resource))
                {
                    found.Add(resource, grant.Role, [.. way, grant.Resource]);
                }
            }
        }

        if (people[person].Kind == AccountKind.Person)
        {
            foreach (var place in places)
            {
                foreach (var link in At(place).Links.Where(l => l.To == LinkReach.Organisation))
                {
                    found.Add(resource, link.Role, [person, Organisation, place]);
                }
            }
        }

        return found.Sorted()[0];
    }

    private Resource At(string id) =>
        resources.Of(id) ?? throw new KeyNotFoundException($"There is no resource “{id}”.");

    /// <summary>The resource itself and those above it whose grants hold on it, the nearest first.</summary>
    public IEnumerable<string> Above(string resource)
    {
        for (var at = At(resource); ; at = At(at.Parent!))
        {
            yield return at.Id;
            if (!at.Inherits || at.Parent is null)
            {
                yield break;
            }
        }
    }

    /// <summary>A shortest way from a person, or a group, up to a group that contains it; null where none does.</summary>
    public IReadOnlyList<string>? WayTo(string member, string group) =>
        WaysFrom(member).Where(w => w.Principal == group).Select(w => w.Way).FirstOrDefault();

    /// <summary>What the groups of a person give them, each with the shortest way to the group.</summary>
    public IEnumerable<(Grant Grant, IReadOnlyList<string> Way)> GivenByGroups(string person) =>
        WaysFrom(person)
            .Where(w => w.Way.Length > 1)
            .SelectMany(w => (grantsTo.Of(w.Principal) ?? []).Select(g => (g, (IReadOnlyList<string>)w.Way)));

    /// <summary>What is granted to a person or group itself on one resource.</summary>
    public IEnumerable<Grant> Granted(string principal, string resource) =>
        (grantsTo.Of(principal) ?? []).Where(g => g.Resource == resource);

    /// <summary>
    /// Every way from a person, or a group, up into a group, the shortest first: through groups without passing one twice.
    /// </summary>
    /// <param name="most">Search stops after so many.</param>
    public IReadOnlyList<IReadOnlyList<string>> WaysInto(string member, string group, int most)
    {
        var useful = Beneath(group);
        List<IReadOnlyList<string>> ways = [];
        Queue<List<string>> open = new([
            [member],
        ]);
        while (open.TryDequeue(out var path) && ways.Count < most)
        {
            foreach (var next in (groupsOf.Of(path[^1]) ?? []).Where(g => useful.Contains(g) && !path.Contains(g)))
            {
                List<string> way = [.. path, next];
                if (next == group)
                {
                    ways.Add(way);
                }
                else
                {
                    open.Enqueue(way);
                }
            }
        }

        return [.. ways.OrderBy(w => w.Count).ThenBy(w => string.Join('\n', w), StringComparer.Ordinal)];
    }

    /// <summary>
    /// The ways by which somebody is let in: as <see cref="Ways"/>, for who has left without links to the organisation, and
    /// for <see cref="Anyone"/> the links.
    /// </summary>
    public IReadOnlyList<(IReadOnlyList<string> Path, string Role)> WaysOf(string person, string resource, int most) =>
        person is Anyone or Organisation
            ?
            [
                .. Above(resource)
                    .SelectMany(p =>
                        At(p)
                            .Links.Where(l => l.To == (person == Anyone ? LinkReach.Anyone : LinkReach.Organisation))
                            .Select(l => ((IReadOnlyList<string>)[person, p], l.Role))
                    ),
            ]
        : people.TryGetValue(person, out var account) && account.HasLeft(asOf)
            ? [.. Ways(person, resource, most).Where(w => w.Path[1] != Organisation)]
        : Ways(person, resource, most);

    /// <summary>Whether the model has a group of this id.</summary>
    public bool IsGroup(string id) => membersOf.Of(id) is not null;

    /// <summary>Whether the model has a resource of this id.</summary>
    public bool Knows(string resource) => resources.Of(resource) is not null;

    /// <summary>A resource of the model.</summary>
    public Resource ResourceOf(string id) => At(id);

    /// <summary>A person alone, or all whom a group contains through any chain of groups.</summary>
    public IReadOnlyCollection<string> PeopleIn(string principal) => [.. Beneath(principal).Where(people.ContainsKey)];

    /// <summary>Every way from a person to a resource, the shortest first: through groups without passing one twice.</summary>
    /// <param name="most">Search stops after so many.</param>
    /// <returns>Each with the role that it gives; its last step is the resource that carries the grant or link.</returns>
    public IReadOnlyList<(IReadOnlyList<string> Path, string Role)> Ways(string person, string resource, int most = 200)
    {
        var places = Above(resource).ToHashSet(StringComparer.Ordinal);
        List<(IReadOnlyList<string> Path, string Role)> ways = [];
        Queue<List<string>> open = new([
            [person],
        ]);
        // Groups that lead nowhere near the resource are not walked.
        var useful = places
            .SelectMany(p => grantsOn.Of(p) ?? [])
            .SelectMany(g => Beneath(g.To))
            .ToHashSet(StringComparer.Ordinal);
        while (open.TryDequeue(out var path) && ways.Count < most)
        {
            foreach (
                var grant in (grantsTo.Of(path[^1]) ?? [])
                    .Where(g => places.Contains(g.Resource))
                    .OrderBy(g => g.Resource, StringComparer.Ordinal)
            )
            {
                ways.Add(([.. path, grant.Resource], grant.Role));
            }

            foreach (var group in (groupsOf.Of(path[^1]) ?? []).Where(useful.Contains))
            {
                if (!path.Contains(group))
                {
                    open.Enqueue([.. path, group]);
                }
            }
        }

        if (people.TryGetValue(person, out var account) && account.Kind == AccountKind.Person)
        {
            ways.AddRange(
                places.SelectMany(p =>
                    At(p)
                        .Links.Where(l => l.To == LinkReach.Organisation)
                        .Select(l => ((IReadOnlyList<string>)[person, Organisation, p], l.Role))
                )
            );
        }

        return [.. ways.OrderBy(w => w.Path.Count).ThenBy(w => string.Join('\n', w.Path), StringComparer.Ordinal)];
    }

    /// <summary>A group and every group within it.</summary>
    private HashSet<string> Beneath(string principal)
    {
        HashSet<string> seen = new(StringComparer.Ordinal) { principal };
        Queue<string> next = new([principal]);
        while (next.TryDequeue(out var at))
        {
            foreach (var member in membersOf.Of(at) ?? [])
            {
                if (seen.Add(member))
                {
                    next.Enqueue(member);
                }
            }
        }

        return seen;
    }

    /// <summary>The roles that membership of a group gives, directly and through the groups that contain it.</summary>
    public IReadOnlyList<Reach> OfGroup(string group)
    {
        var found = new Found(group);
        foreach (var (principal, way) in WaysFrom(group))
        {
            foreach (var grant in grantsTo.Of(principal) ?? [])
            {
                Spread(found, grant.Resource, grant.Role, [.. way, grant.Resource]);
            }
        }

        return found.Sorted();
    }

    /// <summary>
    /// The principal itself and every group that contains it, each with a shortest way: among those of one length the
    /// smallest by its ids.
    /// </summary>
    private IEnumerable<(string Principal, string[] Way)> WaysFrom(string start)
    {
        Dictionary<string, string[]> ways = new(StringComparer.Ordinal) { [start] = [start] };
        List<string> layer = [start];
        yield return (start, ways[start]);
        while (layer.Count > 0)
        {
            SortedDictionary<string, string[]> next = new(StringComparer.Ordinal);
            foreach (var member in layer)
            {
                foreach (var group in groupsOf.Of(member) ?? [])
                {
                    string[] way = [.. ways[member], group];
                    if (!ways.ContainsKey(group) && (!next.TryGetValue(group, out var other) || Less(way, other)))
                    {
                        next[group] = way;
                    }
                }
            }

            foreach (var (group, way) in next)
            {
                ways[group] = way;
                yield return (group, way);
            }

            layer = [.. next.Keys];
        }
    }

    private void AddLinks(Found found, LinkReach to, string[] beginning)
    {
        linked ??= [.. resources.All.Where(r => r.Links.Count > 0)];
        foreach (var resource in linked)
        {
            foreach (var link in resource.Links.Where(l => l.To == to))
            {
                Spread(found, resource.Id, link.Role, [.. beginning, resource.Id]);
            }
        }
    }

    /// <summary>Gives a role on a resource and on all beneath it that inherit.</summary>
    private void Spread(Found found, string resource, string role, string[] path)
    {
        found.Add(resource, role, path);
        foreach (var heir in heirs.GetValueOrDefault(resource) ?? [])
        {
            Spread(found, heir, role, path);
        }
    }

    private static void Add<T>(Dictionary<string, List<T>> to, string key, T value)
    {
        if (!to.TryGetValue(key, out var list))
        {
            to[key] = list = [];
        }

        list.Add(value);
    }

    /// <summary>Whether a path comes before another: the shorter one, else by its ids.</summary>
    private static bool Less(string[] a, string[] b)
    {
        if (a.Length != b.Length)
        {
            return a.Length < b.Length;
        }

        for (var i = 0; i < a.Length; i++)
        {
            var order = string.CompareOrdinal(a[i], b[i]);
            if (order != 0)
            {
                return order < 0;
            }
        }

        return false;
    }

    private sealed class Found(string person)
    {
        private readonly SortedDictionary<string, (SortedSet<string> Roles, string[] Path)> resources = new(
            StringComparer.Ordinal
        );

        public void Add(string resource, string role, string[] path)
        {
            if (!resources.TryGetValue(resource, out var there))
            {
                resources[resource] = (new(StringComparer.Ordinal) { role }, path);
                return;
            }

            there.Roles.Add(role);
            if (Less(path, there.Path))
            {
                resources[resource] = (there.Roles, path);
            }
        }

        public List<Reach> Sorted() =>
            [.. resources.Select(r => new Reach(person, r.Key, [.. r.Value.Roles], r.Value.Path))];
    }
}
