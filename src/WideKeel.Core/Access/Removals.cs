using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>One change of the directory that takes some of the ways by which a person reaches something.</summary>
/// <param name="Way">A shortest of those ways, by ids.</param>
/// <param name="Ways">How many of them it takes.</param>
/// <param name="Others">How many other people lose something by it; 0 where it concerns the person alone.</param>
public sealed record RemovalStep(DirectoryChange Change, IReadOnlyList<string> Way, int Ways, int Others);

/// <summary>
/// What takes somebody's access to one group, place or application away: each way begins with a membership or grant of the
/// person, with a link, or with a consent, and ends when that is removed. A membership or a grant of the person concerns
/// nobody else; a link concerns everybody whom it lets in.
/// </summary>
/// <param name="consents">What applications may do, and by whose consent.</param>
public sealed class Removals(EffectiveAccess access, IReadOnlyList<ConsentFacts>? consents = null)
{
    /// <summary>So many ways are looked at; with more, the rest is counted as none.</summary>
    public const int MostWays = 200;

    private readonly Dictionary<DirectoryChange, IReadOnlyList<string>> byLink = [];

    /// <summary>Every way by which a person has one of the roles on a group or place, the shortest first.</summary>
    /// <param name="roles">The roles in question; of a group they say nothing.</param>
    public IReadOnlyList<(IReadOnlyList<string> Path, string Role)> Ways(
        string person,
        string what,
        IReadOnlyCollection<string> roles
    ) =>
        access.IsGroup(what) ? [.. access.WaysInto(person, what, MostWays).Select(p => (p, "member"))]
        : access.Knows(what) ? [.. access.WaysOf(person, what, MostWays).Where(w => roles.Contains(w.Role))]
        : Consent(person, what) is { } consent ? [([person, what], string.Join(' ', consent.Scopes))]
        : [];

    private ConsentFacts? Consent(string by, string application) =>
        consents?.FirstOrDefault(c => c.By == by && c.Application == application);

    /// <summary>The changes that together take every way, the one that takes the most first.</summary>
    public IReadOnlyList<RemovalStep> Of(string person, string what, IReadOnlyCollection<string> roles) =>
        [
            .. Ways(person, what, roles)
                .GroupBy(w => Change(person, what, w.Path, w.Role))
                .Select(g =>
                {
                    var others = Losers(g.Key).Count(p => p != person);
                    return new RemovalStep(g.Key, g.First().Path, g.Count(), others);
                })
                .OrderBy(s => s.Others > 0)
                .ThenByDescending(s => s.Ways)
                .ThenBy(s => s.Way.Count)
                .ThenBy(s => string.Join('\n', s.Way), StringComparer.Ordinal),
        ];

    /// <summary>
    /// What a removal takes where nobody chose among the changes: those that concern the person alone, and on a line about a
    /// link or consent of everybody that link or consent. What would take the access of others besides is never chosen by
    /// itself.
    /// </summary>
    /// <param name="person">Whom the line is about.</param>
    public static IReadOnlyList<DirectoryChange> Usual(string person, IEnumerable<RemovalStep> steps) =>
        [.. steps.Where(s => IsEverybody(person) || !IsLink(s.Change)).Select(s => s.Change)];

    /// <summary>Whether a line is about a link or consent of everybody, and not about a person.</summary>
    public static bool IsEverybody(string person) => person is EffectiveAccess.Anyone or EffectiveAccess.Organisation;

    /// <summary>Ids of the other places on which a person loses a role by several changes together, in order.</summary>
    public IReadOnlyList<string> Costs(string person, string what, IEnumerable<DirectoryChange> changes)
    {
        var after = changes.Aggregate(access, (at, change) => at.With(change));
        return [.. AccessChange.Lost(access, after, person).Where(d => d.Resource != what).Select(d => d.Resource)];
    }

    private static bool IsLink(DirectoryChange change) => change.Verb == DirectoryVerb.RemoveLink;

    private DirectoryChange Change(string person, string what, IReadOnlyList<string> path, string role) =>
        access.IsGroup(what) || (path.Count > 2 && path[1] != EffectiveAccess.Organisation)
            ? new(DirectoryVerb.RemoveMember, person, path[1])
        : !access.Knows(what) ? new(DirectoryVerb.RemoveConsent, person, what, role)
        : IsEverybody(path[0]) || IsEverybody(path[1])
            ? new(DirectoryVerb.RemoveLink, IsEverybody(path[0]) ? path[0] : path[1], path[^1], role)
        : new(DirectoryVerb.RemoveGrant, person, path[1], role);

    /// <summary>Who loses something by a change.</summary>
    private IReadOnlyList<string> Losers(DirectoryChange change) =>
        !IsLink(change) ? [change.Who]
        // A link is asked about on the line of each person whom it lets in, and comes to the same each time.
        : byLink.TryGetValue(change, out var known) ? known
        : byLink[change] = [
            .. AccessChange.Differences(access, change).Where(d => d.Lost.Count > 0).Select(d => d.Person).Distinct(),
        ];
}
