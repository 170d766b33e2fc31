using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.Access;

/// <summary>Whom the search for owners asks, when, and when the steward gets a thing.</summary>
public sealed class OwnerTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);
    private static readonly OwnerRule Rule = OwnerRule.Standard with { Many = 1, Weeks = 2, Times = 2 };
    private static readonly Dictionary<string, string> Stewards = new() { ["Yard"] = "steward@x.example" };

    private static readonly AccessModel Model = new(
        [
            new("ann@x.example", AccountKind.Person, null),
            new("bo@x.example", AccountKind.Person, null),
            new("cy@x.example", AccountKind.Person, null),
            new("gone@x.example", AccountKind.Person, new LocalDate(2026, 1, 1)),
            new("guest@x.example", AccountKind.Guest, null),
            new("svc", AccountKind.Service, null),
        ],
        [new("Crew", ["ann@x.example", "bo@x.example", "cy@x.example", "gone@x.example", "guest@x.example", "svc"])],
        [new("lib", null, true, []), new("lib/a", "lib", true, []), new("other", null, true, [])],
        [new("Crew", "lib", "reader")]
    );

    private static readonly MendingFacts Facts = new(
        Today,
        Model,
        Model.People.ToDictionary(
            p => p.Id,
            p => new PersonFacts(p.Id, p.Id, p.Kind, p.Id == "cy@x.example" ? "Office" : "Yard", "", p.Left, null)
        ),
        Model.Resources.ToDictionary(
            r => r.Id,
            r => new ResourceFacts(r.Id, r.Id, "library", null, false, false, null)
        ),
        new Dictionary<string, string?> { ["Crew"] = null },
        [],
        [],
        new Dictionary<string, string>(),
        new Dictionary<(string, string), LocalDate>(),
        Today.PlusDays(-100)
    )
    {
        Uses = new Dictionary<(string, string), int>
        {
            [("bo@x.example", "lib/a")] = 40,
            [("ann@x.example", "lib")] = 30,
            [("cy@x.example", "other")] = 900,
            [("gone@x.example", "lib")] = 500,
            [("guest@x.example", "lib")] = 500,
            [("svc", "lib")] = 500,
        },
    };

    private static IReadOnlyList<OwnerStep> Due(OwnerRule rule, params OwnerAsked[] history) =>
        Owners.Due(rule, Facts, new EffectiveAccess(Model, Today), ["Crew"], history, Stewards);

    private static OwnerAsked Asked(string who, int weeksAgo, int round, OwnerAnswer answer = OwnerAnswer.Open) =>
        new("Crew", $"{who}@x.example", Today.PlusWeeks(-weeksAgo), round, answer);

    [Fact]
    public void The_most_active_in_what_the_group_gives_is_asked_first() =>
        Due(Rule).Single().Ask.ShouldBe(["bo@x.example"]);

    [Fact]
    public void Guests_services_and_leavers_are_not_asked() =>
        Due(Rule with { Many = 5 }).Single().Ask.ShouldBe(["bo@x.example", "ann@x.example", "cy@x.example"]);

    [Fact]
    public void Whoever_is_blocked_is_not_asked_even_if_allowed() =>
        Due(Rule with { Allow = ["Yard"], Block = ["BO@x.example"] }).Single().Ask.ShouldBe(["ann@x.example"]);

    [Fact]
    public void Nobody_else_is_asked_while_an_answer_has_time() => Due(Rule, Asked("bo", 1, 1)).ShouldBeEmpty();

    [Fact]
    public void Somebody_else_is_asked_when_the_time_is_over() =>
        Due(Rule, Asked("bo", 2, 1))
            .Single()
            .ShouldSatisfyAllConditions(s => s.Ask.ShouldBe(["ann@x.example"]), s => s.Round.ShouldBe(2));

    [Fact]
    public void Somebody_else_is_asked_at_once_where_all_said_no() =>
        Due(Rule, Asked("bo", 1, 1, OwnerAnswer.No)).Single().Ask.ShouldBe(["ann@x.example"]);

    [Fact]
    public void Who_said_no_is_not_asked_again() =>
        Due(
                Rule with
                {
                    Times = 12,
                },
                Asked("bo", 9, 1, OwnerAnswer.No),
                Asked("ann", 6, 2, OwnerAnswer.No),
                Asked("cy", 3, 3)
            )
            .Single()
            .Ask.ShouldBe(["cy@x.example"]);

    [Fact]
    public void The_steward_of_most_of_them_gets_it_when_the_times_are_over() =>
        Due(Rule, Asked("bo", 9, 1), Asked("ann", 3, 2)).Single().Steward.ShouldBe("steward@x.example");

    [Fact]
    public void The_steward_gets_it_at_once_where_nobody_may_be_asked() =>
        Due(Rule with { Block = ["Yard", "Office"] })
            .Single()
            .ShouldSatisfyAllConditions(s => s.Ask.ShouldBeEmpty(), s => s.Steward.ShouldBe("steward@x.example"));

    [Fact]
    public void Nothing_is_done_where_there_is_no_steward_either() =>
        Owners
            .Due(
                Rule with
                {
                    Block = ["Yard", "Office"],
                },
                Facts,
                new EffectiveAccess(Model, Today),
                ["Crew"],
                [],
                new Dictionary<string, string>()
            )
            .ShouldBeEmpty();

    [Fact]
    public void The_search_begins_anew_where_an_owner_has_left() =>
        Due(Rule, Asked("bo", 50, 1, OwnerAnswer.No), Asked("ann", 40, 2, OwnerAnswer.Yes)).Single().Round.ShouldBe(1);

    [Fact]
    public void A_place_is_asked_about_by_what_lies_in_it() =>
        Owners
            .Due(Rule, Facts, new EffectiveAccess(Model, Today), ["lib"], [], Stewards)
            .Single()
            .Ask.ShouldBe(["bo@x.example"]);

    [Theory]
    [InlineData(0, 2, 3)]
    [InlineData(6, 2, 3)]
    [InlineData(2, 0, 3)]
    [InlineData(2, 27, 3)]
    [InlineData(2, 2, 0)]
    [InlineData(2, 2, 13)]
    public void A_rule_without_measure_is_refused(int many, int weeks, int times) =>
        (Rule with { Many = many, Weeks = weeks, Times = times }).Check().ShouldNotBeNull();
}
