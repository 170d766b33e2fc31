using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>One change of the directory that takes some of the ways by which a person reaches something.</summary>
/// <param name="Way">A shortest of those ways, by ids.</param>
/// <param name="Ways">How many of them it takes, as far as <see cref="Removals.MostWays"/> are looked at.</param>
/// <param name="Others">Ids of the other people who lose something by it; none where it concerns the person alone.</param>
public sealed record RemovalStep(
    DirectoryChange Change,
    IReadOnlyList<string> Way,
    int Ways,
    IReadOnlyList<string> Others
);

/// <summary>
/// What takes somebody's access to one group, place or application away: each way begins with a membership or grant of the
/// person, with a link, or with a consent, and ends when that is removed. A membership or a grant of the person concerns
/// nobody else; a link concerns everybody whom it lets in.
/// </summary>
/// <param name="consents">What applications may do, and by whose consent.</param>
public sealed class Removals(EffectiveAccess access, IReadOnlyList<ConsentFacts>? consents = null)
{
    /// <summary>So many ways are looked at at once.</summary>
    public const int MostWays = 200;

    private readonly Dictionary<DirectoryChange, IReadOnlyList<string>> byLink = [];

    /// <summary>Every way by which a person has one of the roles on a group or place, the shortest first.</summary>
    /// <param name="roles">The roles in question; of a group they say nothing.</param>
    public IReadOnlyList<(IReadOnlyList<string> Path, string Role)> Ways(
        string person,
        string what,
        IReadOnlyCollection<string> roles
    ) => Ways(access, person, what, roles);

    private IReadOnlyList<(IReadOnlyList<string> Path, string Role)> Ways(
        EffectiveAccess at,
        string person,
        string what,
        IReadOnlyCollection<string> roles
    ) =>
        at.IsGroup(what) ? [.. at.WaysInto(person, what, MostWays).Select(p => (p, "member"))]
        : at.Knows(what) ? [.. at.WaysOf(person, what, MostWays).Where(w => roles.Contains(w.Role))]
        : Consent(person, what) is { } consent ? [([person, what], string.Join(' ', consent.Scopes))]
        : [];

    private ConsentFacts? Consent(string by, string application) =>
        consents?.FirstOrDefault(c => c.By == by && c.Application == application);

    /// <summary>
    /// The changes that together take every way: those of the person alone first, then the one that takes the most.
    /// </summary>
    public IReadOnlyList<RemovalStep> Of(string person, string what, IReadOnlyCollection<string> roles)
    {
        Dictionary<DirectoryChange, (IReadOnlyList<string> Way, int Ways)> found = [];
        var at = access;
        // With more ways than are looked at, those behind them are found once the first are gone.
        for (var isNew = true; isNew; )
        {
            isNew = false;
            foreach (var ways in Ways(at, person, what, roles).GroupBy(w => Change(person, what, w.Path, w.Role)))
            {
                if (found.TryAdd(ways.Key, (ways.First().Path, ways.Count())))
                {
                    (at, isNew) = (at.With(ways.Key), true);
                }
            }
        }

        return
        [
            .. found
                .Select(f => new RemovalStep(
                    f.Key,
                    f.Value.Way,
                    f.Value.Ways,
                    [.. Losers(f.Key).Where(p => p != person)]
                ))
                .OrderBy(s => s.Others.Count > 0)
                .ThenByDescending(s => s.Ways)
                .ThenBy(s => s.Way.Count)
                .ThenBy(s => string.Join('\n', s.Way), StringComparer.Ordinal),
        ];
    }

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
