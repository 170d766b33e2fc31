using CsCheck;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.Access;

/// <summary>What takes somebody's access away, and whom else it touches.</summary>
public sealed class RemovalTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    /// <summary>Ann is in the library by a grant, by the crew and by a link to everybody; Bo by the link alone.</summary>
    private static readonly AccessModel Model = new(
        [
            new("ann", AccountKind.Person, null),
            new("bo", AccountKind.Person, null),
            new("cy", AccountKind.Person, null),
        ],
        [new("crew", ["ann", "cy"]), new("fleet", ["crew"])],
        [
            new("lib", null, true, [new(LinkReach.Organisation, "reader")]),
            new("plans", "lib", true, []),
            new("pay", null, true, []),
        ],
        [new("ann", "lib", "reader"), new("fleet", "lib", "reader"), new("crew", "pay", "editor")]
    );

    private static IReadOnlyList<RemovalStep> Steps(string person, string what, params string[] roles) =>
        new Removals(new EffectiveAccess(Model, Today)).Of(person, what, roles);

    [Fact]
    public void Each_way_begins_with_a_membership_a_grant_or_a_link() =>
        Steps("ann", "plans", "reader")
            .Select(s => s.Change)
            .ShouldBe([
                new(DirectoryVerb.RemoveGrant, "ann", "lib", "reader"),
                new(DirectoryVerb.RemoveMember, "ann", "crew"),
                new(DirectoryVerb.RemoveLink, EffectiveAccess.Organisation, "lib", "reader"),
            ]);

    [Fact]
    public void The_end_of_a_link_says_how_many_others_lose_by_it() =>
        Steps("ann", "plans", "reader").Single(s => s.Change.Verb == DirectoryVerb.RemoveLink).Others.ShouldBe(["bo"]);

    [Fact]
    public void Several_changes_together_say_what_else_the_person_loses() =>
        new Removals(new EffectiveAccess(Model, Today))
            .Costs("ann", "plans", [new(DirectoryVerb.RemoveMember, "ann", "crew")])
            .ShouldBe(["pay"]);

    /// <summary>343 ways through three layers of seven groups begin with one membership; a longer one with another.</summary>
    [Fact]
    public void A_way_behind_more_ways_than_are_looked_at_is_found_too()
    {
        static IEnumerable<string> Layer(string name) => Enumerable.Range(0, 7).Select(i => $"{name}{i}");
        var model = new AccessModel(
            [new("ann", AccountKind.Person, null)],
            [
                new("first", ["ann"]),
                .. Layer("a").Select(g => new DirectoryGroup(g, ["first"])),
                .. Layer("b").Select(g => new DirectoryGroup(g, [.. Layer("a")])),
                .. Layer("c").Select(g => new DirectoryGroup(g, [.. Layer("b"), "long4"])),
                new("long1", ["ann"]),
                new("long2", ["long1"]),
                new("long3", ["long2"]),
                new("long4", ["long3"]),
                new("top", [.. Layer("c")]),
            ],
            [],
            []
        );
        new Removals(new EffectiveAccess(model, Today))
            .Of("ann", "top", [])
            .Select(s => s.Change.What)
            .ShouldBe(["first", "long1"]);
    }

    [Fact]
    public void What_takes_the_access_of_others_is_not_chosen_by_itself() =>
        Removals.Usual("bo", Steps("bo", "plans", "reader")).ShouldBeEmpty();

    [Fact]
    public void Of_a_group_every_chain_into_it_is_a_way() =>
        Steps("ann", "fleet", "member")
            .Select(s => s.Change)
            .ShouldBe([new(DirectoryVerb.RemoveMember, "ann", "crew")]);

    [Fact]
    public void On_a_line_about_a_link_the_removal_is_that_link() =>
        Removals
            .Usual(EffectiveAccess.Organisation, Steps(EffectiveAccess.Organisation, "plans", "reader"))
            .ShouldBe([new(DirectoryVerb.RemoveLink, EffectiveAccess.Organisation, "lib", "reader")]);

    [Fact]
    public void A_consent_is_taken_back_whole() =>
        new Removals(
            new EffectiveAccess(Model, Today),
            [new("notes", "Papirus", "ann", ["files.read", "mail.read"], null)]
        )
            .Of("ann", "notes", [])
            .Select(s => s.Change)
            .ShouldBe([new(DirectoryVerb.RemoveConsent, "ann", "notes", "files.read mail.read")]);

    [Fact]
    public void A_role_that_is_not_in_question_is_no_way() => Steps("ann", "plans", "owner").ShouldBeEmpty();

    [Fact]
    public void What_is_gone_from_the_directory_has_no_way() => Steps("ann", "nowhere", "reader").ShouldBeEmpty();

    private static readonly Gen<(AccessModel Model, string Person, string What)> Asked =
        from model in AccessChangeTests.Any
        from person in Gen.Int[0, model.People.Count - 1]
        from what in Gen.Int[0, model.Resources.Count + model.Groups.Count - 1]
        select (
            model,
            model.People[person].Id,
            what < model.Resources.Count ? model.Resources[what].Id : model.Groups[what - model.Resources.Count].Id
        );

    private static readonly string[] Roles = ["reader", "editor", "member"];

    [Fact]
    public void All_changes_together_leave_no_way() =>
        Asked.Sample(x =>
        {
            var access = new EffectiveAccess(x.Model, Today);
            var after = new Removals(access)
                .Of(x.Person, x.What, Roles)
                .Aggregate(access, (at, step) => at.With(step.Change));
            return !Reaches(after, x.Person, x.What);
        });

    [Fact]
    public void One_change_left_out_leaves_a_way() =>
        Asked.Sample(x =>
        {
            var access = new EffectiveAccess(x.Model, Today);
            var steps = new Removals(access).Of(x.Person, x.What, Roles);
            return steps.All(left =>
                new Removals(steps.Where(s => s != left).Aggregate(access, (at, s) => at.With(s.Change)))
                    .Ways(x.Person, x.What, Roles)
                    .Count > 0
            );
        });

    [Fact]
    public void What_is_chosen_by_itself_takes_nothing_from_anybody_else() =>
        Asked.Sample(x =>
        {
            var access = new EffectiveAccess(x.Model, Today);
            var usual = Removals.Usual(x.Person, new Removals(access).Of(x.Person, x.What, Roles));
            return usual.All(c => AccessChange.Differences(access, c).All(d => d.Person == x.Person));
        });

    private static bool Reaches(EffectiveAccess access, string person, string what) =>
        access.IsGroup(what) ? access.PeopleIn(what).Contains(person) : access.Audience(what).Contains(person);
}
