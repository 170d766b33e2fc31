using CsCheck;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.Access;

public sealed class AccessChangeTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    /// <summary>Ann is in crew, crew in fleet; fleet reads the library, whose restricted folder does not inherit.</summary>
    private static readonly AccessModel Model = new(
        [
            new("ann", AccountKind.Person, null),
            new("bo", AccountKind.Guest, null),
            new("gone", AccountKind.Person, new(2026, 1, 1)),
        ],
        [new("crew", ["ann", "gone"]), new("fleet", ["crew"]), new("board", [])],
        [new("lib", null, true, []), new("lib/plans", "lib", true, []), new("lib/restricted", "lib", false, [])],
        [new("fleet", "lib", "reader"), new("board", "lib/restricted", "owner"), new("ann", "lib/plans", "editor")]
    );

    private static IReadOnlyList<AccessDifference> Of(
        DirectoryVerb verb,
        string who,
        string what,
        string? role = null
    ) => AccessChange.Differences(Model, new(verb, who, what, role), Today);

    [Fact]
    public void Adding_to_a_group_gives_what_the_groups_above_it_give() =>
        Of(DirectoryVerb.AddMember, "bo", "crew").Select(d => d.Resource).ShouldBe(["lib", "lib/plans"]);

    [Fact]
    public void Adding_who_is_there_already_gives_nothing() =>
        Of(DirectoryVerb.AddMember, "ann", "fleet").ShouldBeEmpty();

    [Fact]
    public void Removing_keeps_what_another_way_gives() =>
        Of(DirectoryVerb.RemoveMember, "ann", "crew").Single(d => d.Resource == "lib/plans").Lost.ShouldBe(["reader"]);

    [Fact]
    public void Removing_a_group_touches_everybody_within_it() =>
        Of(DirectoryVerb.RemoveMember, "crew", "fleet").Select(d => d.Person).Distinct().ShouldBe(["ann"]);

    [Fact]
    public void Who_left_gains_nothing() => Of(DirectoryVerb.AddGrant, "gone", "lib", "owner").ShouldBeEmpty();

    [Fact]
    public void A_link_to_anyone_touches_nobody_by_name() =>
        Of(DirectoryVerb.AddLink, EffectiveAccess.Anyone, "lib", "reader")
            .Select(d => d.Person)
            .Distinct()
            .ShouldBe([EffectiveAccess.Anyone]);

    [Fact]
    public void A_link_passes_down_to_what_inherits_and_no_further() =>
        Of(DirectoryVerb.AddLink, EffectiveAccess.Anyone, "lib", "reader")
            .Select(d => d.Resource)
            .ShouldBe(["lib", "lib/plans"]);

    [Fact]
    public void The_least_that_is_enough_comes_first() =>
        AccessChange
            .LeastEnough(new(Model, Today), Model.Groups, "lib", "reader", new HashSet<string>())
            .Select(g => g.Group)
            .ShouldBe(["crew", "fleet"]);

    [Fact]
    public void All_ways_are_listed_the_shortest_first() =>
        new EffectiveAccess(Model, Today)
            .Ways("ann", "lib/plans")
            .Select(w => string.Join('>', w.Path))
            .ShouldBe(["ann>lib/plans", "ann>crew>fleet>lib"]);

    [Fact]
    public void A_group_within_itself_does_not_keep_the_ways_from_ending() =>
        new EffectiveAccess(
            Model with
            {
                Groups = [new("crew", ["ann", "fleet"]), new("fleet", ["crew"]), new("board", [])],
            },
            Today
        )
            .Ways("ann", "lib")
            .Count.ShouldBe(1);

    /// <summary>Small models with groups in groups and in themselves, places that do not inherit, links and leavers.</summary>
    internal static readonly Gen<AccessModel> Any = Gen.Int[0, 1_000_000].Select(AnyModel);

    private static AccessModel AnyModel(int seed)
    {
        var random = new Random(seed);
        var people = Enumerable.Range(0, 6).Select(i => $"p{i}").ToList();
        var groups = Enumerable.Range(0, 5).Select(i => $"g{i}").ToList();
        var resources = Enumerable.Range(0, 6).Select(i => $"r{i}").ToList();
        return new(
            [
                .. people.Select(p => new DirectoryAccount(
                    p,
                    random.Next(4) == 0 ? AccountKind.Guest : AccountKind.Person,
                    random.Next(5) == 0 ? Today.PlusDays(-1) : null
                )),
            ],
            [.. groups.Select(g => new DirectoryGroup(g, [.. people.Concat(groups).Where(_ => random.Next(4) == 0)]))],
            [
                .. resources.Select(
                    (r, i) =>
                        new Resource(
                            r,
                            i == 0 ? null : resources[random.Next(i)],
                            random.Next(3) > 0,
                            random.Next(4) == 0
                                ? [new(random.Next(2) == 0 ? LinkReach.Anyone : LinkReach.Organisation, "reader")]
                                : []
                        )
                ),
            ],
            [
                .. Enumerable
                    .Range(0, 8)
                    .Select(_ => new Grant(
                        people.Concat(groups).ElementAt(random.Next(11)),
                        resources[random.Next(6)],
                        random.Next(2) == 0 ? "reader" : "editor"
                    ))
                    .Distinct(),
            ]
        );
    }

    [Fact]
    public void Who_reaches_a_resource_is_the_same_as_asked_of_each_person() =>
        Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            var all = access.All().ToList();
            return model.Resources.All(r =>
                access
                    .OfResource(r.Id)
                    .Select(Text)
                    .Order(StringComparer.Ordinal)
                    .SequenceEqual(all.Where(x => x.Resource == r.Id).Select(Text).Order(StringComparer.Ordinal))
            );
        });

    [Fact]
    public void The_shortest_of_all_ways_is_the_way_of_the_answer() =>
        Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            return access
                .All()
                .Where(r => r.Person != EffectiveAccess.Anyone)
                .All(r => access.Ways(r.Person, r.Resource)[0].Path.SequenceEqual(r.Path));
        });

    [Fact]
    public void Removing_never_gives_anybody_anything() =>
        Any.Sample(model =>
            model.Groups.All(g =>
                g.Members.All(m =>
                    AccessChange
                        .Differences(model, new(DirectoryVerb.RemoveMember, m, g.Id), Today)
                        .All(d => d.Gained.Count == 0)
                )
            )
        );

    [Fact]
    public void A_change_and_its_undoing_leave_the_model_as_it_was() =>
        Any.Sample(model =>
            model.Grants.All(g =>
            {
                var change = new DirectoryChange(DirectoryVerb.RemoveGrant, g.To, g.Resource, g.Role);
                var back = Applied(Applied(model, change), change.Undo()!);
                return back.Grants.ToHashSet().SetEquals(model.Grants);
            })
        );

    [Fact]
    public void A_change_laid_over_what_is_computed_is_the_same_as_computing_anew() =>
        Any.Sample(model =>
        {
            var before = new EffectiveAccess(model, Today);
            return Changes(model)
                .All(change =>
                    before
                        .With(change)
                        .All()
                        .Select(r => $"{Text(r)} {r.Resource}")
                        .SequenceEqual(
                            new EffectiveAccess(Applied(model, change), Today)
                                .All()
                                .Select(r => $"{Text(r)} {r.Resource}")
                        )
                );
        });

    [Fact]
    public void A_change_laid_over_leaves_what_is_beneath_as_it_was() =>
        Any.Sample(model =>
        {
            var access = new EffectiveAccess(model, Today);
            var was = access.All().Select(r => $"{Text(r)} {r.Resource}").ToList();
            foreach (var change in Changes(model))
            {
                access.With(change);
            }

            return access.All().Select(r => $"{Text(r)} {r.Resource}").SequenceEqual(was);
        });

    private static IEnumerable<DirectoryChange> Changes(AccessModel model) =>
        model
            .Groups.SelectMany(g =>
                model
                    .People.Select(p => p.Id)
                    .Concat(model.Groups.Select(x => x.Id))
                    .SelectMany(who =>
                        new[] { DirectoryVerb.AddMember, DirectoryVerb.RemoveMember }.Select(v => new DirectoryChange(
                            v,
                            who,
                            g.Id
                        ))
                    )
            )
            .Concat(model.Grants.Select(g => new DirectoryChange(DirectoryVerb.RemoveGrant, g.To, g.Resource, g.Role)))
            .Concat(
                model.Resources.SelectMany(r =>
                    new[]
                    {
                        new DirectoryChange(DirectoryVerb.AddGrant, model.People[0].Id, r.Id, "new"),
                        new DirectoryChange(DirectoryVerb.AddLink, EffectiveAccess.Anyone, r.Id, "new"),
                        new DirectoryChange(DirectoryVerb.AddLink, EffectiveAccess.Organisation, r.Id, "new"),
                    }
                )
            );

    /// <summary>The model as it would be.</summary>
    private static AccessModel Applied(AccessModel model, DirectoryChange change) =>
        change.Verb switch
        {
            DirectoryVerb.AddMember => WithMembers(
                model,
                change.What!,
                m => m.Contains(change.Who) ? m : [.. m, change.Who]
            ),
            DirectoryVerb.RemoveMember => WithMembers(model, change.What!, m => [.. m.Where(x => x != change.Who)]),
            DirectoryVerb.AddGrant => model with
            {
                Grants = [.. model.Grants, new Grant(change.Who, change.What!, change.Role!)],
            },
            DirectoryVerb.RemoveGrant => model with
            {
                Grants = [.. model.Grants.Where(g => g != new Grant(change.Who, change.What!, change.Role!))],
            },
            DirectoryVerb.AddLink => WithLinks(
                model,
                change.What!,
                l => [.. l, new ResourceLink(ReachOf(change), change.Role!)]
            ),
            DirectoryVerb.RemoveLink => WithLinks(
                model,
                change.What!,
                l => [.. l.Where(x => x != new ResourceLink(ReachOf(change), change.Role!))]
            ),
            _ => model,
        };

    private static LinkReach ReachOf(DirectoryChange change) =>
        change.Who == EffectiveAccess.Anyone ? LinkReach.Anyone : LinkReach.Organisation;

    private static AccessModel WithMembers(
        AccessModel model,
        string group,
        Func<IReadOnlyList<string>, IReadOnlyList<string>> with
    ) =>
        model with
        {
            Groups = [.. model.Groups.Select(g => g.Id == group ? g with { Members = with(g.Members) } : g)],
        };

    private static AccessModel WithLinks(
        AccessModel model,
        string resource,
        Func<IReadOnlyList<ResourceLink>, IReadOnlyList<ResourceLink>> with
    ) =>
        model with
        {
            Resources = [.. model.Resources.Select(r => r.Id == resource ? r with { Links = with(r.Links) } : r)],
        };

    private static string Text(Reach r) => $"{r.Person} {string.Join(',', r.Roles)} {string.Join('>', r.Path)}";
}
