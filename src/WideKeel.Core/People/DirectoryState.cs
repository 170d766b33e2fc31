namespace WideKeel.Core.People;

/// <param name="Id">Mail address.</param>
/// <param name="Kind">person, guest or service.</param>
/// <param name="Left">The day from which they have left, as ISO 8601; null while they are there.</param>
/// <param name="Sponsor">Who answers for a guest.</param>
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
    bool SecondFactor = true
);

/// <param name="Members">Ids of people and of other groups.</param>
public sealed record OutsideGroup(string Id, string Name, string? Owner, IReadOnlyList<string> Members);

/// <param name="To">anyone or organisation.</param>
/// <param name="By">Who made it.</param>
/// <param name="Ends">The last day on which it opens; null where it has no end.</param>
public sealed record OutsideLink(string To, string Role, string By, string? Ends = null);

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
