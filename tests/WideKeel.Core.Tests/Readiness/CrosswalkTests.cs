using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

public sealed class CrosswalkTests
{
    private static readonly Catalog New = new("new", "New", "1", "", [new("n1", "", "One"), new("n2", "", "Two")]);

    private static CrosswalkLink Link(string from, string to)
    {
        var (a, b) = (from.Split('/'), to.Split('/'));
        return new(new(a[0], a[1]), new(b[0], b[1]));
    }

    private static string Controls(CrosswalkLink[] links, params (string Requirement, string Control)[] answers) =>
        string.Join(
            "; ",
            Crosswalk
                .Preview(
                    New,
                    links,
                    answers.ToLookup(
                        a => new RequirementCode(a.Requirement.Split('/')[0], a.Requirement.Split('/')[1]),
                        a => a.Control
                    )
                )
                .Select(p => $"{p.Requirement.Code}: {string.Join(' ', p.Controls)}".TrimEnd())
        );

    [Fact]
    public void A_requirement_is_answered_by_the_controls_of_its_like() =>
        Controls([Link("old/o1", "new/n1")], ("old/o1", "ACC-01")).ShouldBe("n1: ACC-01; n2:");

    [Fact]
    public void A_link_reads_both_ways() =>
        Controls([Link("new/n2", "old/o1")], ("old/o1", "ACC-01")).ShouldBe("n1:; n2: ACC-01");

    [Fact]
    public void A_control_that_two_links_bring_stands_once() =>
        Controls([Link("old/o1", "new/n1"), Link("old/o2", "new/n1")], ("old/o1", "ACC-01"), ("old/o2", "ACC-01"))
            .ShouldBe("n1: ACC-01; n2:");

    [Fact]
    public void What_is_like_something_like_it_is_not_like_it() =>
        Controls([Link("old/o1", "mid/m1"), Link("mid/m1", "new/n1")], ("old/o1", "ACC-01")).ShouldBe("n1:; n2:");

    [Fact]
    public void A_like_requirement_that_nothing_answers_answers_nothing() =>
        Controls([Link("old/o1", "new/n1")]).ShouldBe("n1:; n2:");

    [Fact]
    public void Every_link_that_ships_is_between_requirements_that_ship()
    {
        var known = FrameworkCatalog
            .Shipped.SelectMany(c => c.Requirements.Select(r => new RequirementCode(c.Code, r.Code)))
            .ToHashSet();
        Crosswalk.Shipped.SelectMany(l => new[] { l.From, l.To }).Where(r => !known.Contains(r)).ShouldBeEmpty();
    }

    private static Outcome<IReadOnlyList<CrosswalkLink>> Read(params string[] lines) =>
        Crosswalk.Read(
            lines.Select(
                (l, i) =>
                    (
                        i + 2,
                        (IReadOnlyDictionary<string, string>)
                            new[] { "from framework", "from", "to framework", "to" }
                                .Zip(l.Split(','))
                                .ToDictionary(c => c.First, c => c.Second)
                    )
            )
        );

    [Fact]
    public void A_table_is_read_as_its_links() => Read("old,o1,new,n1").Value.ShouldBe([Link("old/o1", "new/n1")]);

    [Fact]
    public void A_link_that_stands_twice_is_one() => Read("old,o1,new,n1", "old,o1,new,n1").Value.Count.ShouldBe(1);

    [Theory]
    [InlineData("old,,new,n1", "Line 3: it needs")]
    [InlineData("old,o1,new, ", "Line 3: it needs")]
    [InlineData("old,o1,old,o2", "Line 3: both requirements are of old")]
    public void A_line_that_is_wrong_is_named(string line, string says) =>
        Read("old,o1,new,n1", line).Refusal!.Sentence.ShouldStartWith(says);
}
