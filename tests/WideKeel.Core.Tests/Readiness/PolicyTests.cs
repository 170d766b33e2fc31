using CsCheck;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

/// <summary>Which version of a policy binds, and who is to say that they know it.</summary>
public sealed class PolicyTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static PolicyVersion Version(int number, int daysAgo, bool approved = true, bool anew = true) =>
        new(number, approved, Today.PlusDays(-daysAgo), anew);

    [Fact]
    public void Nothing_is_in_force_before_its_first_day() => Policies.InForce([Version(1, -1)], Today).ShouldBeNull();

    [Fact]
    public void A_version_is_in_force_from_its_first_day() =>
        Policies.InForce([Version(1, 0)], Today)!.Number.ShouldBe(1);

    [Fact]
    public void A_version_that_nobody_approved_is_never_in_force() =>
        Policies.InForce([Version(1, 100), Version(2, 1, approved: false)], Today)!.Number.ShouldBe(1);

    [Fact]
    public void A_later_version_that_begins_later_leaves_the_earlier_one_in_force() =>
        Policies.InForce([Version(1, 100), Version(2, -30)], Today)!.Number.ShouldBe(1);

    [Fact]
    public void The_higher_number_binds_whichever_began_first() =>
        Policies.InForce([Version(2, 9), Version(1, 5)], Today)!.Number.ShouldBe(2);

    [Fact]
    public void A_version_that_asks_anew_makes_earlier_acknowledgements_worthless() =>
        Policies.MustKnow([Version(1, 100), Version(2, 1)], Today).ShouldBe(2);

    [Fact]
    public void A_version_that_does_not_ask_anew_leaves_them_as_they_are() =>
        Policies.MustKnow([Version(1, 100), Version(2, 1, anew: false)], Today).ShouldBe(1);

    [Fact]
    public void The_first_version_is_to_be_known_even_where_it_does_not_ask() =>
        Policies.MustKnow([Version(1, 1, anew: false)], Today).ShouldBe(1);

    [Fact]
    public void A_version_to_come_asks_nobody_yet() =>
        Policies.MustKnow([Version(1, 100), Version(2, -3)], Today).ShouldBe(1);

    [Fact]
    public void Nobody_must_know_what_is_not_in_force() => Policies.MustKnow([Version(1, -1)], Today).ShouldBeNull();

    [Theory]
    [InlineData(14, Acknowledgement.Asked)]
    [InlineData(15, Acknowledgement.Overdue)]
    public void The_last_day_is_still_in_time(int daysAgo, Acknowledgement state) =>
        Policies.StateOf(1, [new(1, Today.PlusDays(-daysAgo), false)], 14, Today).ShouldBe(state);

    [Fact]
    public void Time_runs_from_the_first_asking_and_not_from_another() =>
        Policies
            .StateOf(1, [new(1, Today.PlusDays(-30), false), new(2, Today, false)], 14, Today)
            .ShouldBe(Acknowledgement.Overdue);

    [Fact]
    public void Who_was_asked_about_an_earlier_text_only_was_not_asked() =>
        Policies.StateOf(2, [new(1, Today.PlusDays(-30), true)], 14, Today).ShouldBe(Acknowledgement.NotAsked);

    [Fact]
    public void Whoever_knows_a_later_version_knows_enough() =>
        Policies.StateOf(1, [new(2, Today, true)], 14, Today).ShouldBe(Acknowledgement.Given);

    private static readonly Gen<PolicyVersion[]> AnyVersions = Gen.Select(
            Gen.Int[-60, 60],
            Gen.Bool,
            Gen.Bool,
            (daysAgo, approved, anew) => (daysAgo, approved, anew)
        )
        .Array[1, 6]
        // None begins before the one before it: the product refuses that.
        .Select(all =>
            all.Zip(all.Select(v => v.daysAgo).OrderDescending(), (v, daysAgo) => (v.approved, v.anew, daysAgo))
                .Select((v, i) => Version(i + 1, v.daysAgo, v.approved, v.anew))
                .ToArray()
        );

    [Fact]
    public void Nobody_is_ever_to_know_a_text_that_does_not_bind() =>
        AnyVersions.Sample(versions =>
            Policies.MustKnow(versions, Today) is not { } must
            || (must <= Policies.InForce(versions, Today)!.Number && versions[must - 1].Approved)
        );

    [Fact]
    public void An_acknowledgement_is_never_lost_by_a_version_that_does_not_ask_anew() =>
        AnyVersions.Sample(versions =>
        {
            var before = Policies.MustKnow(versions, Today);
            var next = new PolicyVersion(
                versions.Length + 1,
                true,
                LocalDate.Max(versions[^1].InForceFrom, Today),
                false
            );
            var after = Policies.MustKnow([.. versions, next], Today);
            return before is null || after == before;
        });

    [Fact]
    public void An_approved_version_that_asks_anew_is_to_be_known_from_its_day() =>
        AnyVersions.Sample(versions =>
            Policies.MustKnow([.. versions, Version(versions.Length + 1, 0)], Today) == versions.Length + 1
        );

    private static readonly DirectoryState Directory = DirectoryState.Empty with
    {
        People =
        [
            new("ann@x.example", "Ann", Unit: "North"),
            new("bo@x.example", "Bo", Unit: "South"),
            new("cy@x.example", "Cy", Unit: "North", Left: "2026-06-15"),
            new("di@x.example", "Di", Unit: "North", Suspended: true),
            new("gus@y.example", "Gus", "guest", Unit: "North"),
        ],
        Groups = [new("Fleet", "Fleet", null, ["Crew"]), new("Crew", "Crew", null, ["BO@x.example", "Fleet"])],
    };

    private static string Scope(string[] units, string[] groups) =>
        string.Join(' ', Policies.InScope(Directory, units, groups, Today).Select(p => p.Name));

    [Fact]
    public void A_policy_that_names_nobody_binds_everybody_who_is_there() => Scope([], []).ShouldBe("Ann Bo");

    [Fact]
    public void A_policy_of_a_unit_binds_its_people() => Scope(["north"], []).ShouldBe("Ann");

    [Fact]
    public void A_policy_of_a_group_binds_those_of_the_groups_within_it() => Scope([], ["Fleet"]).ShouldBe("Bo");

    [Fact]
    public void Units_and_groups_add_up() => Scope(["North"], ["Crew"]).ShouldBe("Ann Bo");

    [Fact]
    public void Who_leaves_is_bound_to_the_last_day() =>
        Policies.InScope(Directory, ["North"], [], Today.PlusDays(-1)).Select(p => p.Name).ShouldBe(["Ann", "Cy"]);

    [Fact]
    public void A_group_that_nobody_knows_binds_nobody() => Scope([], ["Nowhere"]).ShouldBe("");
}
