using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

public sealed class DirectorySoundnessTests
{
    private static readonly DirectoryState Sound = DirectoryState.Empty with
    {
        People = [new("ann@x.example", "Ann")],
        Groups = [new("Crew", "Crew", null, ["ann@x.example"]), new("Fleet", "Fleet", null, ["Crew"])],
        Resources = [Place("lib"), Place("plans", "lib")],
        Grants = [new("Fleet", "plans", "reader")],
    };

    private static OutsideResource Place(string id, string? parent = null) =>
        new(id, id, "library", parent, true, null, false, false, null, []);

    private static string? Fault(DirectoryState own) => DirectorySoundness.Fault(own, own);

    [Fact]
    public void What_names_what_is_there_has_no_fault() => Fault(Sound).ShouldBeNull();

    [Fact]
    public void An_address_twice_is_a_fault_whatever_its_case() =>
        Fault(Sound with { People = [.. Sound.People, new("ANN@x.example", "Other")] })
            .ShouldBe("“ANN@x.example” stands twice.");

    [Fact]
    public void A_group_that_is_called_as_a_person_is_a_fault() =>
        Fault(Sound with { Groups = [new("ann@x.example", "Ann", null, [])], Grants = [] })
            .ShouldBe("“ann@x.example” is a person and a group.");

    [Fact]
    public void A_member_whom_nobody_knows_is_a_fault() =>
        Fault(Sound with { Groups = [.. Sound.Groups, new("Deck", "Deck", null, ["bo@x.example"])] })!
            .ShouldStartWith("“bo@x.example” in the group “Deck”");

    [Fact]
    public void A_grant_on_no_place_is_a_fault() =>
        Fault(Sound with { Grants = [new("Crew", "nowhere", "reader")] })!.ShouldContain("which is no place");

    [Fact]
    public void A_grant_to_nobody_is_a_fault() =>
        Fault(Sound with { Grants = [new("nobody", "lib", "reader")] })!.ShouldContain("neither a person nor a group");

    [Fact]
    public void A_place_in_no_place_is_a_fault() =>
        Fault(Sound with { Resources = [Place("plans", "lib")], Grants = [] })
            .ShouldBe("“plans” lies in “lib”, which is no place.");

    [Fact]
    public void A_loop_of_places_is_a_fault() =>
        Fault(Sound with { Resources = [Place("a", "b"), Place("b", "a")], Grants = [] })!
            .ShouldContain("a loop of places");

    [Fact]
    public void A_loop_of_groups_is_none() =>
        Fault(Sound with { Groups = [new("Crew", "Crew", null, ["Fleet"]), new("Fleet", "Fleet", null, ["Crew"])] })
            .ShouldBeNull();

    [Fact]
    public void What_another_source_names_that_is_gone_is_no_fault_of_this_one() =>
        DirectorySoundness
            .Fault(
                Sound with
                {
                    Groups = [.. Sound.Groups, new("Theirs", "Theirs", null, ["gone"])],
                    Resources = [.. Sound.Resources, Place("theirs", "gone")],
                },
                Sound
            )
            .ShouldBeNull();

    [Fact]
    public void Clearing_what_is_sound_changes_nothing() =>
        DirectorySoundness.Fault(DirectorySoundness.Cleared(Sound), DirectorySoundness.Cleared(Sound)).ShouldBeNull();

    [Fact]
    public void What_is_cleared_names_only_what_is_there()
    {
        var cleared = DirectorySoundness.Cleared(
            Sound with
            {
                Groups = [.. Sound.Groups, new("Deck", "Deck", null, ["gone", "ann@x.example"])],
                Resources = [.. Sound.Resources, Place("quay", "gone")],
                Grants = [.. Sound.Grants, new("gone", "lib", "reader"), new("Crew", "gone", "reader")],
            }
        );
        (
            cleared.Groups[^1].Members.Single(),
            cleared.Resources[^1].Parent,
            cleared.Grants.Count,
            Fault(cleared)
        ).ShouldBe(("ann@x.example", null, 1, null));
    }

    [Fact]
    public void A_change_of_one_source_leaves_the_others_as_they_are()
    {
        var mine = DirectoryState.Empty with { People = [new("bo@x.example", "Bo")] };
        var whole = Sound with { People = [.. Sound.People, .. mine.People] };
        whole.With(mine, DirectoryState.Empty).People.ShouldBe(Sound.People);
    }

    [Fact]
    public void What_a_source_takes_over_stands_once()
    {
        var after = DirectoryState.Empty with { People = [new("Ann@x.example", "Ann Two")] };
        Sound.With(DirectoryState.Empty, after).People.Single().Name.ShouldBe("Ann Two");
    }
}
