using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>The ways by which somebody reaches something.</summary>
public sealed partial class EffectiveAccess
{
    /// <summary>A shortest way from a person, or a group, up to a group that contains it; null where none does.</summary>
    public IReadOnlyList<string>? WayTo(string member, string group) =>
        WaysFrom(member).Where(w => w.Principal == group).Select(w => w.Way).FirstOrDefault();

    /// <summary>What the groups of a person give them, each with the shortest way to the group.</summary>
    public IEnumerable<(Grant Grant, IReadOnlyList<string> Way)> GivenByGroups(string person) =>
        WaysFrom(person)
            .Where(w => w.Way.Length > 1)
            .SelectMany(w => (grantsTo.Of(w.Principal) ?? []).Select(g => (g, (IReadOnlyList<string>)w.Way)));

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
}
