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
public sealed partial class EffectiveAccess
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

    /// <summary>What is granted to a person or group itself on one resource.</summary>
    public IEnumerable<Grant> Granted(string principal, string resource) =>
        (grantsTo.Of(principal) ?? []).Where(g => g.Resource == resource);

    /// <summary>Whether the model has a group of this id.</summary>
    public bool IsGroup(string id) => membersOf.Of(id) is not null;

    /// <summary>Whether the model has a resource of this id.</summary>
    public bool Knows(string resource) => resources.Of(resource) is not null;

    /// <summary>A resource of the model.</summary>
    public Resource ResourceOf(string id) => At(id);

    /// <summary>A person alone, or all whom a group contains through any chain of groups.</summary>
    public IReadOnlyCollection<string> PeopleIn(string principal) => [.. Beneath(principal).Where(people.ContainsKey)];

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
