using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.People;

/// <summary>What a directory holds.</summary>
public enum DirectoryThing
{
    Person,
    Group,
    Place,
    Grant,
    Application,
}

/// <summary>How one state of a directory differs from another in one thing.</summary>
public enum DifferenceKind
{
    Appears,
    Changes,

    /// <summary>It is not there any more; of a person: they have left.</summary>
    Disappears,
}

/// <param name="Id">The mail address of a person; of a grant whom it names, its place and its role.</param>
/// <param name="Says">What is different, a sentence each; empty for what appears or disappears whole.</param>
public sealed record DirectoryDifference(
    DirectoryThing Thing,
    DifferenceKind How,
    string Id,
    string Name,
    IReadOnlyList<string> Says
);

/// <summary>What one import brings of each kind; a list that is null leaves its kind as it is.</summary>
/// <param name="Whole">What its source held and does not name any more is gone.</param>
public sealed record DirectoryPortion(
    IReadOnlyList<OutsidePerson>? People = null,
    IReadOnlyList<OutsideGroup>? Groups = null,
    IReadOnlyList<OutsideResource>? Resources = null,
    IReadOnlyList<OutsideGrant>? Grants = null,
    IReadOnlyList<OutsideApplication>? Applications = null,
    bool Whole = false
)
{
    /// <summary>What a file says and the directory cannot hold, a sentence each.</summary>
    public IReadOnlyList<string> PassedOver { get; init; } = [];

    /// <summary>
    /// What the source holds after the import. People never vanish: who is missing from a whole list has left from today on.
    /// A group, place or application that is named takes what the portion says of it; so does a place of what is granted
    /// on it.
    /// </summary>
    public DirectoryState Over(DirectoryState before, LocalDate today)
    {
        // A group without a line of its own that another one contains is named too.
        var members = (Groups ?? []).SelectMany(g => g.Members).ToHashSet(StringComparer.Ordinal);
        var groups = Merged(before.Groups, Groups, g => g.Id, g => members.Contains(g.Id));
        var places = Merged(before.Resources, Resources, r => r.Id);
        // What is gone takes what was given to it, and on it, along.
        var gone = before
            .Groups.Select(g => g.Id)
            .Except(groups.Select(g => g.Id))
            .Concat(before.Resources.Select(r => r.Id).Except(places.Select(r => r.Id)))
            .ToHashSet(StringComparer.Ordinal);
        return new(
            MergedPeople(before.People, today),
            groups,
            places,
            [.. MergedGrants(before.Grants).Where(g => !gone.Contains(g.To) && !gone.Contains(g.Resource))],
            Merged(before.Applications, Applications, a => a.Id)
        );
    }

    private IReadOnlyList<OutsidePerson> MergedPeople(IReadOnlyList<OutsidePerson> before, LocalDate today)
    {
        if (People is null)
        {
            return before;
        }

        var named = People.Select(p => p.Id).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var since = LocalDatePattern.Iso.Format(today);
        return
        [
            .. before
                .Where(p => !named.Contains(p.Id))
                .Select(p =>
                    Whole && (p.Left is null || string.CompareOrdinal(p.Left, since) > 0) ? p with { Left = since } : p
                ),
            .. People,
        ];
    }

    private IReadOnlyList<OutsideGrant> MergedGrants(IReadOnlyList<OutsideGrant> before)
    {
        if (Grants is null)
        {
            return before;
        }

        var places = Grants.Select(g => g.Resource).ToHashSet(StringComparer.Ordinal);
        return [.. before.Where(g => !Whole && !places.Contains(g.Resource)), .. Grants.Distinct()];
    }

    private IReadOnlyList<T> Merged<T>(
        IReadOnlyList<T> before,
        IReadOnlyList<T>? named,
        Func<T, string> id,
        Func<T, bool>? stays = null
    )
    {
        if (named is null)
        {
            return before;
        }

        var ids = named.Select(id).ToHashSet(StringComparer.Ordinal);
        return [.. before.Where(x => !ids.Contains(id(x)) && (!Whole || stays?.Invoke(x) == true)), .. named];
    }
}

/// <summary>Tells what is different between two states of a directory.</summary>
public static class DirectoryDifferences
{
    /// <summary>All differences: people first, then groups, places, grants and applications, each by name.</summary>
    /// <param name="today">Who has left by this day is gone.</param>
    public static IReadOnlyList<DirectoryDifference> Between(
        DirectoryState before,
        DirectoryState after,
        LocalDate today
    ) =>
        [
            .. People(before.People, after.People, LocalDatePattern.Iso.Format(today)),
            .. Of(DirectoryThing.Group, before.Groups, after.Groups, g => g.Id, g => g.Name, GroupSays),
            .. Of(DirectoryThing.Place, before.Resources, after.Resources, r => r.Id, r => r.Name, PlaceSays),
            .. Of(DirectoryThing.Grant, before.Grants, after.Grants, IdOf, IdOf, (_, _) => []),
            .. Of(
                DirectoryThing.Application,
                before.Applications,
                after.Applications,
                a => a.Id,
                a => a.Name,
                ApplicationSays
            ),
        ];

    /// <summary>What is different about one person; nothing where they are new.</summary>
    public static IReadOnlyList<string> Of(OutsidePerson? before, OutsidePerson after) =>
        before is null ? [] : PersonSays(before, after);

    /// <summary>What a grant is called: whom it names, its place and its role.</summary>
    public static string IdOf(OutsideGrant grant) => $"{grant.To} · {grant.Resource} · {grant.Role}";

    private static IEnumerable<DirectoryDifference> People(
        IReadOnlyList<OutsidePerson> before,
        IReadOnlyList<OutsidePerson> after,
        string today
    )
    {
        var was = before.ToDictionary(p => p.Id, StringComparer.OrdinalIgnoreCase);
        foreach (var person in after.OrderBy(p => p.Name, StringComparer.OrdinalIgnoreCase))
        {
            if (!was.TryGetValue(person.Id, out var old))
            {
                yield return new(DirectoryThing.Person, DifferenceKind.Appears, person.Id, person.Name, []);
            }
            else if (PersonSays(old, person) is { Count: > 0 } says)
            {
                var leaves = Gone(person) && !Gone(old);
                yield return new(
                    DirectoryThing.Person,
                    leaves ? DifferenceKind.Disappears : DifferenceKind.Changes,
                    person.Id,
                    person.Name,
                    says
                );
            }
        }

        bool Gone(OutsidePerson p) => p.Left is { } left && string.CompareOrdinal(left, today) <= 0;
    }

    private static IEnumerable<DirectoryDifference> Of<T>(
        DirectoryThing thing,
        IReadOnlyList<T> before,
        IReadOnlyList<T> after,
        Func<T, string> id,
        Func<T, string> name,
        Func<T, T, IReadOnlyList<string>> says
    )
        where T : class
    {
        var was = before.ToDictionary(id, StringComparer.Ordinal);
        var will = after.ToDictionary(id, StringComparer.Ordinal);
        foreach (var one in before.Concat(after).DistinctBy(id).OrderBy(name, StringComparer.OrdinalIgnoreCase))
        {
            var (old, now) = (was.GetValueOrDefault(id(one)), will.GetValueOrDefault(id(one)));
            if (old is null || now is null)
            {
                yield return new(
                    thing,
                    old is null ? DifferenceKind.Appears : DifferenceKind.Disappears,
                    id(one),
                    name(one),
                    []
                );
            }
            else if (says(old, now) is { Count: > 0 } different)
            {
                yield return new(thing, DifferenceKind.Changes, id(now), name(now), different);
            }
        }
    }

    private static List<string> PersonSays(OutsidePerson old, OutsidePerson now) =>
        Says(
            ("name", old.Name, now.Name),
            ("kind", old.Kind, now.Kind),
            ("unit", old.Unit, now.Unit),
            ("title", old.Title, now.Title),
            ("manager", old.Manager, now.Manager),
            ("joined on", old.Joined, now.Joined),
            ("has left from", old.Left, now.Left),
            ("sponsor", old.Sponsor, now.Sponsor),
            ("suspended", YesNo(old.Suspended), YesNo(now.Suspended)),
            ("second factor", YesNo(old.SecondFactor), YesNo(now.SecondFactor))
        );

    private static List<string> GroupSays(OutsideGroup old, OutsideGroup now) =>
        [
            .. Says(("name", old.Name, now.Name), ("owner", old.Owner, now.Owner)),
            .. Lists("in", now.Members.Except(old.Members)),
            .. Lists("out", old.Members.Except(now.Members)),
        ];

    private static List<string> PlaceSays(OutsideResource old, OutsideResource now) =>
        [
            .. Says(
                ("name", old.Name, now.Name),
                ("kind", old.Kind, now.Kind),
                ("lies in", old.Parent, now.Parent),
                ("inherits", YesNo(old.Inherits), YesNo(now.Inherits)),
                ("owner", old.Owner, now.Owner),
                ("outsiders allowed", YesNo(old.OutsideAllowed), YesNo(now.OutsideAllowed)),
                ("sensitive", YesNo(old.Sensitive), YesNo(now.Sensitive)),
                ("region", old.Region, now.Region)
            ),
            .. Lists("new link for", now.Links.Except(old.Links).Select(l => $"{l.To} as {l.Role}")),
            .. Lists("link gone for", old.Links.Except(now.Links).Select(l => $"{l.To} as {l.Role}")),
        ];

    private static List<string> ApplicationSays(OutsideApplication old, OutsideApplication now) =>
        [
            .. Says(("name", old.Name, now.Name), ("publisher", old.Publisher, now.Publisher)),
            .. Lists("consents", Consents(now).Except(Consents(old))),
            .. Lists("consents gone", Consents(old).Except(Consents(now))),
            .. Lists("used by", Used(now).Except(Used(old))),
        ];

    private static IEnumerable<string> Used(OutsideApplication application) =>
        application.Consents.Where(c => c.LastUsed is not null).Select(c => $"{c.By} on {c.LastUsed}");

    private static IEnumerable<string> Consents(OutsideApplication application) =>
        application.Consents.Select(c => $"{c.By} to {string.Join(' ', c.Scopes)}");

    private static string YesNo(bool value) => value ? "yes" : "no";

    private static List<string> Says(params (string What, string? Was, string? Is)[] fields) =>
        [
            .. fields
                .Where(f => (f.Was ?? "") != (f.Is ?? ""))
                .Select(f =>
                    (f.Was ?? "").Length == 0 ? $"{f.What}: {f.Is}"
                    : (f.Is ?? "").Length == 0 ? $"{f.What}: {f.Was} → none"
                    : $"{f.What}: {f.Was} → {f.Is}"
                ),
        ];

    private static IEnumerable<string> Lists(string what, IEnumerable<string> names)
    {
        const int most = 10;
        var all = names.ToList();
        if (all.Count > 0)
        {
            yield return string.Create(
                CultureInfo.InvariantCulture,
                $"{what}: {string.Join(", ", all.Take(most))}{(all.Count > most ? $" and {all.Count - most} more" : "")}"
            );
        }
    }
}
