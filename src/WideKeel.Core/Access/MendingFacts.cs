using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <param name="Sponsor">Who answers for a guest.</param>
public sealed record PersonFacts(
    string Id,
    string Name,
    AccountKind Kind,
    string Unit,
    string Title,
    LocalDate? Left,
    string? Sponsor
);

/// <param name="Outside">Sharing outside the organisation is allowed.</param>
/// <param name="Sensitive">It holds sensitive material.</param>
/// <param name="Region">Where its material must stay; null where it may be anywhere.</param>
public sealed record ResourceFacts(
    string Id,
    string Name,
    string Kind,
    string? Owner,
    bool Outside,
    bool Sensitive,
    string? Region
);

/// <param name="By">A person, or <see cref="EffectiveAccess.Organisation"/> for everybody.</param>
public sealed record ConsentFacts(
    string Application,
    string Publisher,
    string By,
    IReadOnlyList<string> Scopes,
    LocalDate? LastUsed
);

/// <summary>Two roles that nobody should have together.</summary>
public sealed record ToxicPair(string Name, string First, string FirstRole, string Second, string SecondRole);

/// <summary>All that lists to mend are made from.</summary>
/// <param name="Regions">The region of each unit that lies in one.</param>
/// <param name="LastUse">
/// When a person used a place last, by person and name of the place; an attempt that was refused is no use.
/// </param>
/// <param name="Since">From when on events are known; nobody is called inactive before.</param>
public sealed record MendingFacts(
    LocalDate Today,
    AccessModel Model,
    IReadOnlyDictionary<string, PersonFacts> People,
    IReadOnlyDictionary<string, ResourceFacts> Resources,
    IReadOnlyDictionary<string, string?> GroupOwners,
    IReadOnlyList<ConsentFacts> Consents,
    IReadOnlyList<ToxicPair> Toxic,
    IReadOnlyDictionary<string, string> Regions,
    IReadOnlyDictionary<(string Person, string Place), LocalDate> LastUse,
    LocalDate Since
)
{
    private Dictionary<string, string?>? parents;

    /// <summary>
    /// The first day of which events of a place are known, by its name. A place that is missing is collected from nowhere:
    /// whether it is used cannot be seen.
    /// </summary>
    public IReadOnlyDictionary<string, LocalDate> CollectedSince { get; init; } = new Dictionary<string, LocalDate>();

    /// <summary>
    /// Whether a person did not use a place for <see cref="Mending.UnusedDays"/>; false where that could not have been seen.
    /// </summary>
    /// <param name="place">Its name.</param>
    public bool IsUnused(string person, string place)
    {
        var from = Today.PlusDays(-Mending.UnusedDays);
        return CollectedSince.TryGetValue(place, out var since)
            && since <= from
            && !(LastUse.TryGetValue((person, place), out var used) && used >= from);
    }

    /// <summary>How often a person used a place, as far as events are at hand.</summary>
    public IReadOnlyDictionary<(string Person, string Place), int> Uses { get; init; } =
        new Dictionary<(string, string), int>();

    /// <summary>What each place lies in.</summary>
    public IReadOnlyDictionary<string, string?> Parents =>
        parents ??= Model.Resources.ToDictionary(r => r.Id, r => r.Parent, StringComparer.Ordinal);
}
