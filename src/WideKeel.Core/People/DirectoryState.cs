using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.People;

/// <param name="Id">Mail address.</param>
/// <param name="Kind">person, guest or service.</param>
/// <param name="Left">The day from which they have left, as ISO 8601; null while they are there.</param>
/// <param name="Sponsor">Who answers for a guest.</param>
/// <param name="Joined">The first day with the organisation, as ISO 8601; null where it is not known.</param>
public sealed record OutsidePerson(
    string Id,
    string Name,
    string Kind = "person",
    string Unit = "",
    string Title = "",
    string Manager = "",
    string? Left = null,
    string? Sponsor = null,
    bool Suspended = false,
    bool SecondFactor = true,
    string? Joined = null
);

/// <param name="Members">Ids of people and of other groups.</param>
public sealed record OutsideGroup(string Id, string Name, string? Owner, IReadOnlyList<string> Members);

/// <param name="To">anyone or organisation.</param>
/// <param name="By">Who made it.</param>
/// <param name="Ends">The last day on which it opens; null where it has no end.</param>
public sealed record OutsideLink(string To, string Role, string By, string? Ends = null)
{
    /// <summary>Whether its last day is over, so that it gives nothing any more.</summary>
    public bool HasEnded(LocalDate today) =>
        Ends is not null && LocalDatePattern.Iso.Parse(Ends) is { Success: true, Value: var last } && last < today;
}

/// <param name="Kind">library, share, mailbox or application.</param>
/// <param name="Region">Where its material must stay; null where it may be anywhere.</param>
public sealed record OutsideResource(
    string Id,
    string Name,
    string Kind,
    string? Parent,
    bool Inherits,
    string? Owner,
    bool OutsideAllowed,
    bool Sensitive,
    string? Region,
    IReadOnlyList<OutsideLink> Links
);

/// <param name="To">A person or a group.</param>
public sealed record OutsideGrant(string To, string Resource, string Role);

/// <param name="By">A person, or organisation for everybody.</param>
/// <param name="LastUsed">ISO 8601; null where it was never used.</param>
public sealed record OutsideConsent(string By, IReadOnlyList<string> Scopes, string? LastUsed);

public sealed record OutsideApplication(
    string Id,
    string Name,
    string Publisher,
    IReadOnlyList<OutsideConsent> Consents
);

/// <summary>All that a directory holds.</summary>
public sealed record DirectoryState(
    IReadOnlyList<OutsidePerson> People,
    IReadOnlyList<OutsideGroup> Groups,
    IReadOnlyList<OutsideResource> Resources,
    IReadOnlyList<OutsideGrant> Grants,
    IReadOnlyList<OutsideApplication> Applications
)
{
    public static DirectoryState Empty { get; } = new([], [], [], [], []);

    /// <summary>The same with one source's part as it would be after a change.</summary>
    /// <param name="before">What the source holds of it now.</param>
    public DirectoryState With(DirectoryState before, DirectoryState after) =>
        new(
            Replaced(People, before.People, after.People, p => p.Id),
            Replaced(Groups, before.Groups, after.Groups, g => g.Id),
            Replaced(Resources, before.Resources, after.Resources, r => r.Id),
            [.. Grants.Except(before.Grants), .. after.Grants],
            Replaced(Applications, before.Applications, after.Applications, a => a.Id)
        );

    /// <summary>The same with some of its things as they are now.</summary>
    /// <param name="part">Those things, and all that is granted on the places among them.</param>
    /// <returns>
    /// Null where the part names an account, group, place, or application that is not in this state: whatever named it
    /// before it was there may name it now, and the whole is to be read again.
    /// </returns>
    public DirectoryState? With(DirectoryState part)
    {
        var people = Overlay.Laid(People, part.People, p => p.Id, StringComparer.OrdinalIgnoreCase);
        var groups = Overlay.Laid(Groups, part.Groups, g => g.Id, StringComparer.Ordinal);
        var resources = Overlay.Laid(Resources, part.Resources, r => r.Id, StringComparer.Ordinal);
        var applications = Overlay.Laid(Applications, part.Applications, a => a.Id, StringComparer.Ordinal);
        return people is null || groups is null || resources is null || applications is null
            ? null
            : new(people, groups, resources, WithGrants(part), applications);
    }

    private IReadOnlyList<OutsideGrant> WithGrants(DirectoryState part)
    {
        if (part.Resources.Count == 0)
        {
            return Grants;
        }

        var places = part.Resources.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        var now = part.Grants.ToHashSet();
        List<OutsideGrant> kept = [.. Grants.Where(g => !places.Contains(g.Resource) || now.Remove(g))];
        kept.AddRange(part.Grants.Where(now.Contains));
        return kept;
    }

    /// <summary>What a disconnected source held goes over to the one that names it.</summary>
    private static List<T> Replaced<T>(
        IReadOnlyList<T> all,
        IReadOnlyList<T> before,
        IReadOnlyList<T> after,
        Func<T, string> id
    )
    {
        var own = before.Concat(after).Select(id).ToHashSet(StringComparer.OrdinalIgnoreCase);
        return [.. all.Where(x => !own.Contains(id(x))), .. after];
    }
}

/// <summary>Lists of which a few things changed.</summary>
internal static class Overlay
{
    /// <summary>All of a list in its order, those that are given anew in the place of what they were.</summary>
    /// <returns>Null where one is given that the list does not have.</returns>
    public static IReadOnlyList<T>? Laid<T>(
        IReadOnlyList<T> all,
        IReadOnlyList<T> now,
        Func<T, string> id,
        StringComparer by
    )
    {
        if (now.Count == 0)
        {
            return all;
        }

        var over = now.ToDictionary(id, by);
        var after = new T[all.Count];
        var met = 0;
        for (var i = 0; i < after.Length; i++)
        {
            var isGiven = over.TryGetValue(id(all[i]), out var one);
            (after[i], met) = isGiven ? (one!, met + 1) : (all[i], met);
        }

        return met == over.Count ? after : null;
    }
}
