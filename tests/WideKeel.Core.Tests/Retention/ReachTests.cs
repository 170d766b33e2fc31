using NodaTime;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Sensitive;

namespace WideKeel.Core.Tests.Retention;

public class ReachTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static bool Covers(ReachDefinition reach, long id, string container, string unit = "Fleet") =>
        reach.Covers(
            reach.Check(Today).Value,
            id,
            new QueryItem
            {
                Source = "Share",
                Container = $"Share/{container}",
                Unit = unit,
            }
        );

    [Fact]
    public void A_listed_reach_covers_what_is_listed_less_the_exceptions()
    {
        var reach = new ReachDefinition(null, [1, 2], [2]);
        (Covers(reach, 1, "a"), Covers(reach, 2, "b"), Covers(reach, 3, "c")).ShouldBe((true, false, false));
    }

    [Theory]
    [InlineData("container = \"*scratch*\"", "Yard scratch", "Fleet", true)]
    [InlineData("container = \"*scratch*\"", "Yard", "Fleet", false)]
    [InlineData("source = share and unit = Fleet", "Yard", "Fleet", true)]
    [InlineData("source = share not unit = Fleet", "Yard", "Fleet", false)]
    public void A_standing_reach_is_asked_of_each_container(string query, string container, string unit, bool covered)
    {
        Covers(new(query, [], []), 7, container, unit).ShouldBe(covered);
        Covers(new(query, [], [7]), 7, container, unit).ShouldBeFalse();
    }

    [Theory]
    [InlineData("title = a")]
    [InlineData("text any \"a b\"")]
    [InlineData("a prox b")]
    [InlineData("created > 2020")]
    [InlineData("size > 5")]
    [InlineData("series = VES-010")]
    [InlineData("field.closed > 2020")]
    [InlineData("container = a or sensitive = iban")]
    [InlineData("container = a not (unit = b and owner = c)")]
    public void A_standing_reach_asks_of_containers_only(string query) =>
        new ReachDefinition(query, [], []).Check(Today).Refusal.ShouldNotBeNull().Code.ShouldBe("reach-index");

    [Fact]
    public void A_reach_that_covers_nothing_is_refused() =>
        new ReachDefinition(null, [], [1]).Check(Today).Refusal.ShouldNotBeNull().Field.ShouldBe("containers");

    [Theory]
    [InlineData("P3Y", false, null, null)]
    [InlineData("P3Y", true, null, null)]
    [InlineData(null, true, "P90D", null)]
    [InlineData(null, true, null, "keep")]
    [InlineData("P3Y", false, "P90D", "destroyAfter")]
    [InlineData("3 years", false, null, "keep")]
    [InlineData(null, true, "90", "destroyAfter")]
    public void A_blanket_keeps_for_a_period_or_keeps_nothing_and_destroys_after_one(
        string? keep,
        bool destroys,
        string? destroyAfter,
        string? wrong
    ) =>
        (
            new BlanketDefinition("", new(null, [1], []), "created", keep, destroys, destroyAfter)
                .Check("B")
                .Refusal?.Field
        ).ShouldBe(wrong);

    [Fact]
    public void A_blanket_counts_from_created_or_modified() =>
        new BlanketDefinition("", new(null, [1], []), "filed", "P1Y", false, null)
            .Check("B")
            .Refusal.ShouldNotBeNull()
            .Field.ShouldBe("from");

    [Theory]
    [InlineData("title = oil", null)]
    [InlineData("", "query")]
    [InlineData("title = (", "query")]
    [InlineData("series = VES-010", "query")]
    [InlineData("title = oil and state = due", "query")]
    [InlineData("title = oil not grade = kept", "query")]
    public void A_filing_rule_looks_for_something_that_filing_does_not_change(string query, string? wrong) =>
        (new FilingRuleDefinition(query, []).Check(Today).Refusal?.Field).ShouldBe(wrong);

    [Theory]
    [InlineData("iban", 1, true)]
    [InlineData("iban", 0, false)]
    [InlineData("iban", 10_001, false)]
    [InlineData(" ", 1, false)]
    public void A_filing_rule_wants_kinds_with_a_count(string kind, int count, bool good) =>
        new FilingRuleDefinition(null, [new(kind, Confidence.Likely, count)]).Check(Today).Refused.ShouldBe(!good);
}
