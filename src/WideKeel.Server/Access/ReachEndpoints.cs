using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Access;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Server.People;
using WideKeel.Store.Activity;
using WideKeel.Store.People;

namespace WideKeel.Server.Access;

/// <summary>Something that stands in the directory.</summary>
/// <param name="Kind">person, guest, service, group, library, share, mailbox or application.</param>
/// <param name="Count">Members of a group, places that a person reaches, people who reach a place.</param>
public sealed record DirectoryEntry(
    string Id,
    string Name,
    string Kind,
    string Detail,
    int Count,
    string? Owner,
    bool Sensitive,
    bool Left,
    bool Suspended
);

/// <param name="Path">Names along the shortest way, the person first.</param>
/// <param name="PathIds">The same by ids.</param>
public sealed record ReachView(
    string Person,
    string PersonName,
    string Resource,
    string ResourceName,
    string Kind,
    bool Sensitive,
    IReadOnlyList<string> Roles,
    IReadOnlyList<string> Path,
    IReadOnlyList<string> PathIds,
    LocalDate? LastUsed
);

/// <param name="About">What was asked about.</param>
/// <param name="Groups">The groups that it is in, directly.</param>
/// <param name="Members">Who is in it directly, for a group.</param>
/// <param name="Alerts">Open alerts of the person, for those who may read activity.</param>
/// <param name="Leaves">The last day, for a person who has one.</param>
public sealed record ReachAnswer(
    DirectoryEntry About,
    IReadOnlyList<ReachView> Reach,
    IReadOnlyList<DirectoryEntry> Groups,
    IReadOnlyList<DirectoryEntry> Members,
    IReadOnlyList<OutsideLink> Links,
    IReadOnlyList<OutsideConsent> Consents,
    int Alerts,
    LocalDate? LastSignIn,
    LocalDate? Leaves
);

/// <param name="Ids">From the person to the place that carries the grant.</param>
public sealed record WayView(IReadOnlyList<string> Ids, IReadOnlyList<string> Names, string Role);

public sealed record Comparison(
    IReadOnlyList<ReachView> OnlyFirst,
    IReadOnlyList<ReachView> OnlySecond,
    IReadOnlyList<ReachView> Both
);

/// <param name="Sensitive">Sensitive places that the group gives besides.</param>
/// <param name="Others">All places that it gives besides.</param>
public sealed record LeastView(string Group, string Name, int Sensitive, int Others);

/// <summary>Who reaches what: asked, drawn, compared.</summary>
public static class ReachEndpoints
{
    public static void MapReach(this IEndpointRouteBuilder api)
    {
        api.MapGet("/access/entries", Entries).Requires(Right.ReadAccess);
        api.MapGet("/access/reach", Reach).Requires(Right.ReadAccess);
        api.MapGet("/access/reach.csv", ReachCsv).Requires(Right.ReadAccess);
        api.MapGet("/access/ways", Ways).Requires(Right.ReadAccess);
        api.MapGet("/access/comparison", Compare).Requires(Right.ReadAccess);
        api.MapGet("/access/least", Least).Requires(Right.ReadAccess);
    }

    /// <summary>What stands in the directory, by kind.</summary>
    /// <param name="kind">people, groups, places or applications; everything where it is missing.</param>
    private static Reply<IReadOnlyList<DirectoryEntry>> Entries(
        string? kind,
        string? words,
        AccessGround ground,
        OrganisationCalendar calendar
    )
    {
        if (kind is not (null or "" or "people" or "groups" or "places" or "applications"))
        {
            return new Refusal("kind-unknown", "kind", "The kinds are people, groups, places and applications.");
        }

        var state = ground.State;
        var all = kind switch
        {
            "people" => state.People.Select(p => Entry(p, ground, calendar.Today)),
            "groups" => state.Groups.Select(Entry),
            "places" => state.Resources.Where(r => r.Kind != "application").Select(r => Entry(r, ground)),
            "applications" => Applications(ground),
            _ => state
                .People.Select(p => Entry(p, ground, calendar.Today))
                .Concat(state.Groups.Select(Entry))
                .Concat(state.Resources.Select(r => Entry(r, ground))),
        };
        return (Outcome<IReadOnlyList<DirectoryEntry>>)
            all.Where(e =>
                    string.IsNullOrWhiteSpace(words)
                    || e.Name.Contains(words, StringComparison.OrdinalIgnoreCase)
                    || e.Id.Contains(words, StringComparison.OrdinalIgnoreCase)
                    || e.Detail.Contains(words, StringComparison.OrdinalIgnoreCase)
                )
                .OrderBy(e => e.Name, StringComparer.OrdinalIgnoreCase)
                .ToList();
    }

    private static IEnumerable<DirectoryEntry> Applications(AccessGround ground) =>
        ground
            .State.Applications.Select(a => new DirectoryEntry(
                a.Id,
                a.Name,
                "consent",
                $"{a.Publisher}: {string.Join(", ", a.Consents.SelectMany(c => c.Scopes).Distinct())}",
                a.Consents.Count,
                null,
                a.Consents.Any(c => c.Scopes.Any(s => s.StartsWith("all-", StringComparison.Ordinal))),
                false,
                false
            ))
            .Concat(ground.State.Resources.Where(r => r.Kind == "application").Select(r => Entry(r, ground)));

    private static DirectoryEntry Entry(OutsidePerson p, AccessGround ground, LocalDate today)
    {
        var account = ground.Access.Accounts[p.Id];
        return new(
            p.Id,
            p.Name,
            p.Kind,
            p.Sponsor is { } sponsor
                ? $"guest of {sponsor}"
                : string.Join(", ", new[] { p.Title, p.Unit }.Where(t => t.Length > 0)),
            ground.Access.OfPerson(account).Count,
            p.Manager.Length > 0 ? p.Manager : p.Sponsor,
            false,
            account.HasLeft(today),
            p.Suspended
        );
    }

    private static DirectoryEntry Entry(OutsideGroup g) =>
        new(g.Id, g.Name, "group", "", g.Members.Count, g.Owner, false, false, false);

    private static DirectoryEntry Entry(OutsideResource r, AccessGround ground) =>
        new(
            r.Id,
            r.Name,
            r.Kind,
            string.Join(
                ", ",
                new[]
                {
                    r.Sensitive ? "sensitive" : "",
                    r.Inherits || r.Parent is null ? "" : "own grants only",
                    r.Region is null ? "" : $"bound to the {r.Region}",
                    ground.Access.ResourceOf(r.Id).Links.Count > 0 ? "shared by link" : "",
                }.Where(t => t.Length > 0)
            ),
            ground.Access.Audience(r.Id).Count,
            r.Owner,
            r.Sensitive,
            false,
            false
        );

    /// <summary>What a person reaches, who reaches a place, or what membership of a group gives.</summary>
    private static async Task<Reply<ReachAnswer>> Reach(
        string? person,
        string? resource,
        string? group,
        AccessGround ground,
        [AsParameters] ApiContext context
    ) => await ReachAsync(person, resource, group, ground, context);

    /// <summary>The same as a table: each access with its way and its last use.</summary>
    private static async Task<IResult> ReachCsv(
        string? person,
        string? resource,
        string? group,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        var answer = await ReachAsync(person, resource, group, ground, context);
        return answer.Refusal is { } refusal
            ? (Reply<Done>)refusal
            : await CsvAnswer.WriteAsync(
                context.Http,
                "reach.csv",
                ["person", "name", "place", "title", "kind", "sensitive", "roles", "way", "last used"],
                answer
                    .Value.Reach.Select(r =>
                        new object?[]
                        {
                            r.Person,
                            r.PersonName,
                            r.Resource,
                            r.ResourceName,
                            r.Kind,
                            r.Sensitive ? "yes" : "no",
                            string.Join(", ", r.Roles),
                            string.Join(" > ", r.Path),
                            r.LastUsed,
                        }
                    )
                    .ToAsyncEnumerable(),
                context.Cancel
            );
    }

    // Long because the three answers fill the same parts in three ways.
    private static async Task<Outcome<ReachAnswer>> ReachAsync(
        string? person,
        string? resource,
        string? group,
        AccessGround ground,
        ApiContext context
    )
    {
        var facts = await ground.ReviewFactsAsync(context.Db, context.Cancel);
        var (state, today) = (ground.State, context.Calendar.Today);
        if (person is not null && state.People.FirstOrDefault(p => Same(p.Id, person)) is { } found)
        {
            var account = ground.Access.Accounts[found.Id];
            var activity = await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel);
            var alerts = await activity
                .Of(context.Db.Alerts)
                .CountAsync(
                    a =>
                        a.Actor == found.Id
                        && a.FoldedInto == null
                        && !a.Withdrawn
                        && (a.State == AlertState.New || a.State == AlertState.LookedAt),
                    context.Cancel
                );
            return new ReachAnswer(
                Entry(found, ground, today),
                [.. ground.Access.OfPerson(account).Select(r => View(r, facts.Directory))],
                [.. state.Groups.Where(g => g.Members.Contains(found.Id)).Select(Entry)],
                [],
                [],
                [
                    .. state.Applications.SelectMany(a =>
                        a.Consents.Where(c => c.By == found.Id).Select(c => c with { By = a.Name })
                    ),
                ],
                alerts,
                facts.LastSignIn.TryGetValue(found.Id, out var last) ? last : null,
                account.Left
            );
        }

        if (resource is not null && state.Resources.FirstOrDefault(r => Same(r.Id, resource)) is { } place)
        {
            var given = state.Grants.Where(g => g.Resource == place.Id).Select(g => g.To).ToHashSet();
            return new ReachAnswer(
                Entry(place, ground),
                [.. ground.Access.OfResource(place.Id).Select(r => View(r, facts.Directory))],
                [.. state.Groups.Where(g => given.Contains(g.Id)).Select(Entry)],
                [],
                [.. place.Links.Where(l => !l.HasEnded(today))],
                [],
                0,
                null,
                null
            );
        }

        if (group is not null && state.Groups.FirstOrDefault(g => Same(g.Id, group)) is { } collected)
        {
            return new ReachAnswer(
                Entry(collected),
                [.. ground.Access.OfGroup(collected.Id).Select(r => View(r, facts.Directory))],
                [.. state.Groups.Where(g => g.Members.Contains(collected.Id)).Select(Entry)],
                [
                    .. state.People.Where(p => collected.Members.Contains(p.Id)).Select(p => Entry(p, ground, today)),
                    .. state.Groups.Where(g => collected.Members.Contains(g.Id)).Select(Entry),
                ],
                [],
                [],
                0,
                null,
                null
            );
        }

        return Problems.NotFound("person, place or group in the directory");
    }

    private static bool Same(string a, string b) => string.Equals(a, b, StringComparison.OrdinalIgnoreCase);

    private static ReachView View(Reach reach, MendingFacts facts)
    {
        var place = facts.Resources[reach.Resource];
        return new(
            reach.Person,
            NameOf(facts, reach.Person),
            reach.Resource,
            place.Name,
            place.Kind,
            place.Sensitive,
            reach.Roles,
            [.. reach.Path.Select(id => NameOf(facts, id))],
            reach.Path,
            facts.LastUse.TryGetValue((reach.Person, place.Name), out var used) ? used : null
        );
    }

    internal static string NameOf(MendingFacts facts, string id) =>
        id == EffectiveAccess.Anyone ? "Anyone"
        : id == EffectiveAccess.Organisation ? "The organisation"
        : facts.People.TryGetValue(id, out var person) ? person.Name
        : facts.Resources.TryGetValue(id, out var resource) ? resource.Name
        : id;

    /// <summary>Every way by which a person reaches a place, the shortest first.</summary>
    private static async Task<Reply<IReadOnlyList<WayView>>> Ways(
        string person,
        string resource,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        if (!facts.People.ContainsKey(person) || !facts.Resources.ContainsKey(resource))
        {
            return Problems.NotFound("person or place in the directory");
        }

        return (Outcome<IReadOnlyList<WayView>>)
            ground
                .Access.Ways(person, resource)
                .Select(w => new WayView(w.Path, [.. w.Path.Select(id => NameOf(facts, id))], w.Role))
                .ToList();
    }

    private static async Task<Reply<Comparison>> Compare(
        string first,
        string second,
        AccessGround ground,
        [AsParameters] ApiContext context
    )
    {
        var facts = await ground.FactsAsync(context.Db, context.Cancel);
        var (a, b) = (
            ground.Model.People.FirstOrDefault(p => Same(p.Id, first)),
            ground.Model.People.FirstOrDefault(p => Same(p.Id, second))
        );
        if (a is null || b is null)
        {
            return Problems.NotFound("person in the directory");
        }

        var (ofA, ofB) = (ground.Access.OfPerson(a), ground.Access.OfPerson(b));
        var (inA, inB) = (ofA.Select(r => r.Resource).ToHashSet(), ofB.Select(r => r.Resource).ToHashSet());
        return new Comparison(
            [.. ofA.Where(r => !inB.Contains(r.Resource)).Select(r => View(r, facts))],
            [.. ofB.Where(r => !inA.Contains(r.Resource)).Select(r => View(r, facts))],
            [.. ofA.Where(r => inB.Contains(r.Resource)).Select(r => View(r, facts))]
        );
    }

    private static Reply<IReadOnlyList<LeastView>> Least(string resource, string role, AccessGround ground) =>
        ground.State.Resources.All(r => r.Id != resource)
            ? Problems.NotFound("place in the directory")
            : (Outcome<IReadOnlyList<LeastView>>)
                AccessChange
                    .LeastEnough(
                        ground.Access,
                        ground.Model.Groups,
                        resource,
                        role,
                        ground.State.Resources.Where(r => r.Sensitive).Select(r => r.Id).ToHashSet()
                    )
                    .Select(g => new LeastView(
                        g.Group,
                        ground.State.Groups.First(x => x.Id == g.Group).Name,
                        g.Sensitive,
                        g.Others
                    ))
                    .ToList();
}
