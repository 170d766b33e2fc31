using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>Whom a link lets in.</summary>
public enum LinkReach
{
    /// <summary>Every person of the organisation who has not left.</summary>
    Organisation,

    /// <summary>Everybody who has the link.</summary>
    Anyone,
}

/// <param name="Left">The day on which they left; null while they are there.</param>
public sealed record DirectoryAccount(string Id, AccountKind Kind, LocalDate? Left)
{
    /// <summary>Whether they have left by a day.</summary>
    public bool HasLeft(LocalDate day) => Left <= day;
}

/// <param name="Members">People and other groups, by their ids.</param>
public sealed record DirectoryGroup(string Id, IReadOnlyList<string> Members);

public sealed record ResourceLink(LinkReach To, string Role);

/// <param name="Inherits">What is granted on its parent holds here too.</param>
public sealed record Resource(string Id, string? Parent, bool Inherits, IReadOnlyList<ResourceLink> Links);

/// <param name="To">A person or a group.</param>
public sealed record Grant(string To, string Resource, string Role);

/// <summary>People, groups, resources and grants: all that effective access is computed from.</summary>
public sealed record AccessModel(
    IReadOnlyList<DirectoryAccount> People,
    IReadOnlyList<DirectoryGroup> Groups,
    IReadOnlyList<Resource> Resources,
    IReadOnlyList<Grant> Grants
)
{
    /// <summary>The same with some of its things as they are now; null where one of them is not in it.</summary>
    /// <param name="part">Those things, and all grants on the places among them.</param>
    public AccessModel? With(AccessModel part)
    {
        var people = Overlay.Laid(People, part.People, p => p.Id, StringComparer.Ordinal);
        var groups = Overlay.Laid(Groups, part.Groups, g => g.Id, StringComparer.Ordinal);
        var resources = Overlay.Laid(Resources, part.Resources, r => r.Id, StringComparer.Ordinal);
        var places = part.Resources.Select(r => r.Id).ToHashSet(StringComparer.Ordinal);
        return people is null || groups is null || resources is null
            ? null
            : new(
                people,
                groups,
                resources,
                places.Count == 0 ? Grants : [.. Grants.Where(g => !places.Contains(g.Resource)), .. part.Grants]
            );
    }
}
