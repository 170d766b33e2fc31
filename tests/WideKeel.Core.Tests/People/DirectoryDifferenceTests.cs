using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.People;

/// <summary>What an import changes, before it changes it.</summary>
public sealed class DirectoryDifferenceTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static readonly DirectoryState Before = new(
        [new("ann@x.example", "Ann", Title: "Mate"), new("bo@x.example", "Bo")],
        [new("Crew", "Crew", null, ["ann@x.example", "bo@x.example"])],
        [new("lib", "Library", "library", null, true, null, false, false, null, [])],
        [new("Crew", "lib", "reader"), new("ann@x.example", "lib", "owner")],
        [new("app", "App", "Maker", [new("ann@x.example", ["mail.read"], null)])]
    );

    private static IReadOnlyList<string> Told(DirectoryPortion portion) =>
        [
            .. DirectoryDifferences
                .Between(Before, portion.Over(Before, Today), Today)
                .Select(d => $"{d.Thing} {d.Id} {d.How}: {string.Join("; ", d.Says)}"),
        ];

    [Fact]
    public void The_same_again_is_no_difference() =>
        Told(new(Before.People, Before.Groups, Before.Resources, Before.Grants, Before.Applications, true))
            .ShouldBeEmpty();

    [Fact]
    public void What_is_not_named_stays_where_the_list_is_not_whole() =>
        Told(new([new("cy@x.example", "Cy")])).ShouldBe(["Person cy@x.example Appears: "]);

    [Fact]
    public void Who_is_missing_from_a_whole_list_has_left() =>
        Told(new([Before.People[0]], Whole: true))
            .ShouldBe(["Person bo@x.example Disappears: has left from: 2026-06-15"]);

    [Fact]
    public void Who_had_left_already_keeps_the_day()
    {
        var before = Before with { People = [new("bo@x.example", "Bo", Left: "2026-01-31")] };
        new DirectoryPortion([], Whole: true).Over(before, Today).People[0].Left.ShouldBe("2026-01-31");
    }

    [Fact]
    public void A_person_s_change_says_what_was_and_what_is() =>
        Told(new([new("ANN@x.example", "Ann", Title: "Master", SecondFactor: false)]))
            .ShouldBe(["Person ANN@x.example Changes: title: Mate → Master; second factor: yes → no"]);

    [Fact]
    public void A_group_says_who_comes_and_goes() =>
        Told(new(Groups: [new("Crew", "Crew", "ann@x.example", ["ann@x.example", "cy@x.example"])]))
            .ShouldBe(["Group Crew Changes: owner: ann@x.example; in: cy@x.example; out: bo@x.example"]);

    [Fact]
    public void A_group_that_a_whole_list_does_not_name_is_gone_with_what_it_was_given() =>
        Told(new(Groups: [], Whole: true))
            .ShouldBe(["Group Crew Disappears: ", "Grant Crew · lib · reader Disappears: "]);

    [Fact]
    public void A_place_that_a_whole_list_does_not_name_is_gone_with_what_was_given_on_it() =>
        Told(new(Resources: [], Whole: true))
            .ShouldBe([
                "Place lib Disappears: ",
                "Grant ann@x.example · lib · owner Disappears: ",
                "Grant Crew · lib · reader Disappears: ",
            ]);

    [Fact]
    public void A_group_that_stands_in_another_one_stays_without_a_line_of_its_own() =>
        Told(new(Groups: [new("Fleet", "Fleet", null, ["Crew"])], Whole: true)).ShouldBe(["Group Fleet Appears: "]);

    [Fact]
    public void Grants_on_a_named_place_are_those_of_the_portion() =>
        Told(new(Grants: [new("Crew", "lib", "editor")]))
            .ShouldBe([
                "Grant ann@x.example · lib · owner Disappears: ",
                "Grant Crew · lib · editor Appears: ",
                "Grant Crew · lib · reader Disappears: ",
            ]);

    [Fact]
    public void A_place_says_which_links_it_has_now() =>
        Told(new(Resources: [Before.Resources[0] with { Inherits = false, Links = [new("anyone", "reader", "")] }]))
            .ShouldBe(["Place lib Changes: inherits: yes → no; new link for: anyone as reader"]);

    [Fact]
    public void An_application_says_which_consents_are_gone() =>
        Told(new(Applications: [new("app", "App", "Maker", [])]))
            .ShouldBe(["Application app Changes: consents gone: ann@x.example to mail.read"]);

    [Fact]
    public void An_application_says_by_whom_it_was_used_since() =>
        Told(new(Applications: [new("app", "App", "Maker", [new("ann@x.example", ["mail.read"], "2026-06-14")])]))
            .ShouldBe(["Application app Changes: used by: ann@x.example on 2026-06-14"]);

    [Fact]
    public void Many_members_are_counted_after_the_tenth() =>
        Told(
                new(
                    Groups:
                    [
                        new("Many", "Many", null, []),
                        new("Crew", "Crew", null, [.. Enumerable.Range(1, 14).Select(i => $"m{i:00}")]),
                    ]
                )
            )
            .Single(t => t.StartsWith("Group Crew", StringComparison.Ordinal))
            .ShouldContain("m10 and 4 more");
}
