namespace WideKeel.Core.People;

/// <summary>Whether everything that a directory names is there, as effective access needs it.</summary>
public static class DirectorySoundness
{
    /// <summary>The first fault as a sentence: an id that stands twice, a name that stands for nothing, a loop of places.</summary>
    /// <param name="own">
    /// The part of the state whose names are to stand for something; what others name that is gone is passed over.
    /// </param>
    public static string? Fault(DirectoryState state, DirectoryState own)
    {
        var people = state.People.Select(p => p.Id).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var groups = state.Groups.Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
        var places = state.Resources.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        return Twice(state.People.Select(p => p.Id), StringComparer.OrdinalIgnoreCase)
            ?? Twice(state.Groups.Select(g => g.Id), StringComparer.Ordinal)
            ?? Twice(state.Resources.Select(r => r.Id), StringComparer.Ordinal)
            ?? Twice(state.Applications.Select(a => a.Id), StringComparer.Ordinal)
            ?? state
                .Groups.Where(g => people.Contains(g.Id))
                .Select(g => $"“{g.Id}” is a person and a group.")
                .FirstOrDefault()
            ?? own.Groups.SelectMany(g => g.Members.Where(m => !Known(m)).Select(m => (g.Id, Member: m)))
                .Select(m => $"“{m.Member}” in the group “{m.Id}” is neither a person nor a group.")
                .FirstOrDefault()
            ?? own.Grants.Where(g => !Known(g.To) || !places.Contains(g.Resource))
                .Select(g =>
                    Known(g.To)
                        ? $"“{g.To}” is {g.Role} of “{g.Resource}”, which is no place."
                        : $"“{g.To}”, who is {g.Role} of “{g.Resource}”, is neither a person nor a group."
                )
                .FirstOrDefault()
            ?? ParentAtFault(state.Resources, own.Resources);

        bool Known(string id) => people.Contains(id) || groups.Contains(id);
    }

    /// <summary>The same without what names nothing, so that effective access can be computed from it.</summary>
    public static DirectoryState Cleared(DirectoryState state)
    {
        var people = state.People.Select(p => p.Id).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var groups = state.Groups.Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
        var places = state.Resources.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        return state with
        {
            Groups =
            [
                .. state.Groups.Select(g =>
                    g.Members.All(Known) ? g : g with { Members = [.. g.Members.Where(Known)] }
                ),
            ],
            Grants = [.. state.Grants.Where(g => Known(g.To) && places.Contains(g.Resource))],
            Resources =
            [
                .. state.Resources.Select(r =>
                    r.Parent is null || places.Contains(r.Parent) ? r : r with { Parent = null }
                ),
            ],
        };

        bool Known(string id) => people.Contains(id) || groups.Contains(id);
    }

    /// <summary>Some things of a directory without what is granted to nobody whom the whole knows.</summary>
    public static DirectoryState Cleared(DirectoryState part, DirectoryState whole)
    {
        if (part.Grants.Count == 0)
        {
            return part;
        }

        var people = whole.People.Select(p => p.Id).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var groups = whole.Groups.Select(g => g.Id).ToHashSet(StringComparer.Ordinal);
        return part with { Grants = [.. part.Grants.Where(g => people.Contains(g.To) || groups.Contains(g.To))] };
    }

    private static string? Twice(IEnumerable<string> ids, StringComparer by)
    {
        HashSet<string> seen = new(by);
        return ids.FirstOrDefault(id => !seen.Add(id)) is { } twice ? $"“{twice}” stands twice." : null;
    }

    private static string? ParentAtFault(IReadOnlyList<OutsideResource> all, IReadOnlyList<OutsideResource> own)
    {
        var parents = all.ToDictionary(r => r.Id, r => r.Parent, StringComparer.Ordinal);
        HashSet<string> sound = new(StringComparer.Ordinal);
        foreach (var place in own)
        {
            if (place.Parent is { } parent && !parents.ContainsKey(parent))
            {
                return $"“{place.Id}” lies in “{parent}”, which is no place.";
            }

            HashSet<string> above = new(StringComparer.Ordinal);
            for (var at = place.Id; at is not null && !sound.Contains(at); at = parents.GetValueOrDefault(at))
            {
                if (!above.Add(at))
                {
                    return $"“{place.Id}” lies in a loop of places, by “{at}”.";
                }
            }

            sound.UnionWith(above);
        }

        return null;
    }
}
