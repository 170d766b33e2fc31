using System.Globalization;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>What somebody has that a review asks about.</summary>
/// <param name="Person">A person, or everybody whom a link or consent is of.</param>
/// <param name="What">The group, place or application.</param>
/// <param name="Roles">Of a consent its scopes.</param>
internal sealed record HeldAccess(
    string Person,
    string What,
    IReadOnlyList<string> Roles,
    IReadOnlyList<string> Path,
    bool IsConsent = false
);

/// <summary>What a review asks about, with its standing sets as they are now, and what it leaves out.</summary>
internal sealed class ReviewScope
{
    private readonly ReviewDefinition review;
    private readonly MendingFacts facts;
    private readonly EffectiveAccess access;

    private ReviewScope(ReviewDefinition review, MendingFacts facts, EffectiveAccess access)
    {
        (this.review, this.facts, this.access) = (review, facts, access);
        var guests = facts.People.Values.Where(p => p.Kind == AccountKind.Guest).Select(p => p.Id).ToHashSet();
        Groups =
        [
            .. review
                .Groups.Concat(
                    Has(ReviewSet.GroupsWithGuests)
                        ? facts
                            .GroupOwners.Keys.Where(g => access.PeopleIn(g).Any(guests.Contains))
                            .Order(StringComparer.Ordinal)
                        : []
                )
                .Distinct(),
        ];
        Places =
        [
            .. review
                .Resources.Concat(
                    facts
                        .Resources.Values.Where(r =>
                            (Has(ReviewSet.SensitivePlaces) && r.Sensitive)
                            || (Has(ReviewSet.PlacesWithLinks) && access.ResourceOf(r.Id).Links.Count > 0)
                        )
                        .Select(r => r.Id)
                        .Order(StringComparer.Ordinal)
                )
                .Distinct(),
        ];
        Applications =
        [
            .. review
                .Applications.Concat(
                    Has(ReviewSet.AllApplications)
                        ? facts.Consents.Select(c => c.Application).Order(StringComparer.Ordinal)
                        : []
                )
                .Distinct(),
        ];
    }

    public static ReviewScope Of(ReviewDefinition review, MendingFacts facts, EffectiveAccess access) =>
        new(review, facts, access);

    public IReadOnlyList<string> Groups { get; }

    public IReadOnlyList<string> Places { get; }

    public IReadOnlyList<string> Applications { get; }

    private bool Has(ReviewSet set) => review.Sets.Contains(set);

    /// <summary>What is known of whom a line is about; null where the directory does not have them.</summary>
    public static PersonFacts? PersonOf(MendingFacts facts, string person) =>
        Removals.IsEverybody(person)
            ? new(
                person,
                person == EffectiveAccess.Anyone ? "Anyone" : "The organisation",
                AccountKind.Person,
                "",
                "",
                null,
                null
            )
            : facts.People.GetValueOrDefault(person);

    /// <summary>Everything asked about, before people are chosen.</summary>
    public IEnumerable<HeldAccess> Held()
    {
        foreach (var group in Groups)
        {
            foreach (var person in access.PeopleIn(group).Order(StringComparer.Ordinal))
            {
                yield return new(person, group, ["member"], access.WayTo(person, group)!);
            }
        }

        foreach (var held in Places.SelectMany(OnPlace))
        {
            yield return held;
        }

        foreach (var consent in facts.Consents.Where(c => Applications.Contains(c.Application)))
        {
            yield return new(
                consent.By,
                consent.Application,
                consent.Scopes,
                [consent.By, consent.Application],
                IsConsent: true
            );
        }
    }

    private IEnumerable<HeldAccess> OnPlace(string place)
    {
        foreach (var reach in access.OfResource(place).Where(r => r.Person != EffectiveAccess.Anyone))
        {
            IReadOnlyList<string> roles = [.. reach.Roles.Where(IsAsked)];
            if (roles.Count > 0 && !(review.Links && IsByLinkAlone(reach)))
            {
                yield return new(reach.Person, place, roles, reach.Path);
            }
        }

        foreach (
            var everybody in review.Links
                ? [EffectiveAccess.Organisation, EffectiveAccess.Anyone]
                : Array.Empty<string>()
        )
        {
            var ways = access.WaysOf(everybody, place, Removals.MostWays).Where(w => IsAsked(w.Role)).ToList();
            if (ways.Count > 0)
            {
                yield return new(everybody, place, [.. ways.Select(w => w.Role).Distinct().Order()], ways[0].Path);
            }
        }
    }

    private bool IsAsked(string role) => review.Roles.Count == 0 || review.Roles.Contains(role);

    private bool IsByLinkAlone(Reach reach) =>
        access
            .WaysOf(reach.Person, reach.Resource, Removals.MostWays)
            .All(w => w.Path[1] == EffectiveAccess.Organisation || !IsAsked(w.Role));

    /// <summary>What the review does not ask about though one might think so, as sentences.</summary>
    public IReadOnlyList<string> LeftOut()
    {
        var linked = Places.Count(p => access.Above(p).Any(a => access.ResourceOf(a).Links.Count > 0));
        var chosen = Places.ToHashSet(StringComparer.Ordinal);
        var apart = facts.Model.Resources.Count(r =>
            !chosen.Contains(r.Id) && !r.Inherits && AncestorsOf(r.Id).Any(chosen.Contains)
        );
        var consents = facts.Consents.Count(c => !Applications.Contains(c.Application));
        return
        [
            .. Sentence(
                !review.Links && linked > 0,
                $"{Count(linked, "place is", "places are")} open by a link; the links themselves are not asked about."
            ),
            .. Sentence(
                apart > 0,
                $"{Count(apart, "place", "places")} within the chosen ones with grants of their own only."
            ),
            .. Sentence(consents > 0, $"{Count(consents, "consent", "consents")} of other applications."),
            .. Sentence(
                review.Roles.Count > 0 && Places.Count > 0,
                $"Roles on places other than {string.Join(", ", review.Roles)}."
            ),
        ];
    }

    private IEnumerable<string> AncestorsOf(string place)
    {
        for (var at = facts.Parents.GetValueOrDefault(place); at is not null; at = facts.Parents.GetValueOrDefault(at))
        {
            yield return at;
        }
    }

    private static string[] Sentence(bool holds, string words) => holds ? [words] : [];

    private static string Count(int many, string one, string several) =>
        string.Create(CultureInfo.InvariantCulture, $"{many:N0} {(many == 1 ? one : several)}");
}
