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
);
