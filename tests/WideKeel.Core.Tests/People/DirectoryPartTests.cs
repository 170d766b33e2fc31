using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

/// <summary>A state of the directory of which a few things were read again.</summary>
public sealed class DirectoryPartTests
{
    private static readonly DirectoryState Nothing = DirectoryState.Empty;

    private static readonly DirectoryState State = new(
        [new("ann@tarn.example", "Ann"), new("eva@tarn.example", "Eva")],
        [new("Crew", "Crew", null, ["ann@tarn.example"]), new("crew", "Another", null, [])],
        [Place("lib"), Place("yard")],
        [
            new("Crew", "lib", "reader"),
            new("ann@tarn.example", "yard", "reader"),
            new("eva@tarn.example", "lib", "reader"),
        ],
        [new("Notes", "Notes", "Papirus", [])]
    );

    private static OutsideResource Place(string id, bool sensitive = false) =>
        new(id, id, "library", null, true, null, false, sensitive, null, []);

    [Fact]
    public void Each_thing_that_was_read_again_stands_where_it_stood() =>
        State
            .With(Nothing with { People = [new("ann@tarn.example", "Ann Holm")] })!
            .People.Select(p => p.Name)
            .ShouldBe(["Ann Holm", "Eva"]);

    [Fact]
    public void Groups_that_differ_in_case_are_two() =>
        State
            .With(Nothing with { Groups = [new("crew", "A third", null, [])] })!
            .Groups.Select(g => g.Name)
            .ShouldBe(["Crew", "A third"]);

    [Fact]
    public void Grants_of_a_place_stay_in_their_order_and_new_ones_follow() =>
        State
            .With(
                Nothing with
                {
                    Resources = [Place("lib")],
                    Grants = [new("ann@tarn.example", "lib", "editor"), new("Crew", "lib", "reader")],
                }
            )!
            .Grants.ShouldBe([
                new("Crew", "lib", "reader"),
                new("ann@tarn.example", "yard", "reader"),
                new("ann@tarn.example", "lib", "editor"),
            ]);

    [Fact]
    public void What_was_not_read_again_is_the_same_list() =>
        State.With(Nothing with { Resources = [Place("lib", true)] })!.People.ShouldBeSameAs(State.People);

    [Fact]
    public void A_person_who_was_not_there_needs_the_whole() =>
        State.With(Nothing with { People = [new("new@tarn.example", "New")] }).ShouldBeNull();

    [Fact]
    public void An_application_that_was_not_there_needs_the_whole() =>
        State.With(Nothing with { Applications = [new("Maps", "Maps", "", [])] }).ShouldBeNull();

    [Fact]
    public void What_is_granted_to_nobody_known_is_passed_over() =>
        DirectorySoundness
            .Cleared(
                Nothing with
                {
                    Grants = [new("ANN@tarn.example", "lib", "reader"), new("Nobody", "lib", "reader")],
                },
                State
            )
            .Grants.ShouldBe([new("ANN@tarn.example", "lib", "reader")]);
}
