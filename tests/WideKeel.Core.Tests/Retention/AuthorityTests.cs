using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class AuthorityTests
{
    private static ClauseText[] Clauses(string clauses) =>
        [
            .. clauses
                .Split(';', StringSplitOptions.RemoveEmptyEntries)
                .Select(c => c.Split(' '))
                .Select(p => new ClauseText(p[0], Enum.Parse<Cutoff>(p[1], true), p[2])),
        ];

    private static AuthorityFinding Check(string rule, string least, string? most = null)
    {
        var demand = new AuthorityDefinition(
            "29 CFR 0",
            "",
            "",
            "Records",
            ClauseJoin.Later,
            Clauses(least),
            most is null ? null : Clauses(most)[0],
            "",
            "test"
        )
            .Check("29 CFR 0")
            .Value;
        var series = SeriesDefinition.OfClauses(ClauseJoin.Later, Clauses(rule)) with { Permanent = rule.Length == 0 };
        return AuthorityCheck.Of(series.Check("S").Value, demand);
    }

    [Theory]
    [InlineData("created none P6Y", "created none P6Y", AuthorityVerdict.Meets, "meets it")]
    [InlineData("created year P6Y", "created none P6Y", AuthorityVerdict.Meets, "meets it")]
    [InlineData("", "event:left none P30Y", AuthorityVerdict.Meets, "meets it")]
    [InlineData("created none P4Y", "created none P6Y", AuthorityVerdict.Short, "short by 2 years")]
    [InlineData("created none P4Y6M", "created none P6Y", AuthorityVerdict.Short, "short by 1 year and 6 months")]
    [InlineData(
        "created none P5Y",
        "created year P5Y",
        AuthorityVerdict.Short,
        "short: the authority counts from the end of the calendar year"
    )]
    [InlineData(
        "modified none P9Y",
        "created none P6Y",
        AuthorityVerdict.DifferentTrigger,
        "different trigger, judge yourself"
    )]
    [InlineData(
        "field:hired none P3Y;event:left none P1Y",
        "field:hired none P3Y;event:left none P1Y",
        AuthorityVerdict.Meets,
        "meets it"
    )]
    [InlineData(
        "field:hired none P3Y;event:left none P6M",
        "field:hired none P3Y;event:left none P1Y",
        AuthorityVerdict.Short,
        "short by 6 months"
    )]
    [InlineData(
        "field:hired none P3Y",
        "field:hired none P3Y;event:left none P1Y",
        AuthorityVerdict.DifferentTrigger,
        "different trigger, judge yourself"
    )]
    public void A_series_is_held_against_the_least_that_an_authority_demands(
        string rule,
        string least,
        AuthorityVerdict verdict,
        string sentence
    ) => Check(rule, least).ShouldBe(new("29 CFR 0", verdict, sentence));

    [Theory]
    [InlineData("created none P3Y", "created none P3Y", AuthorityVerdict.Meets, "meets it")]
    [InlineData("created none P5Y", "created none P3Y", AuthorityVerdict.ExceedsMost, "exceeds the most by 2 years")]
    [InlineData(
        "created year P3Y",
        "created none P3Y",
        AuthorityVerdict.ExceedsMost,
        "exceeds the most: it counts from the end of the calendar year"
    )]
    [InlineData(
        "",
        "created none P3Y",
        AuthorityVerdict.ExceedsMost,
        "exceeds the most: permanent, where 3 years is the most"
    )]
    [InlineData(
        "modified none P1Y",
        "created none P3Y",
        AuthorityVerdict.DifferentTrigger,
        "different trigger, judge yourself"
    )]
    public void A_series_is_held_against_the_most_that_privacy_law_allows(
        string rule,
        string most,
        AuthorityVerdict verdict,
        string sentence
    ) => Check(rule, "", most).ShouldBe(new("29 CFR 0", verdict, sentence));

    [Fact]
    public void Every_authority_of_the_starter_library_is_whole_and_says_where_it_comes_from()
    {
        foreach (var (code, definition) in StarterLibrary.Authorities)
        {
            definition.Check(code).Refusal.ShouldBeNull(code);
            definition.Origin.ShouldContain("to be verified");
        }

        StarterLibrary.Authorities.Select(a => a.Code).Distinct().Count().ShouldBe(StarterLibrary.Authorities.Count);
    }

    [Theory]
    [InlineData("code", "")]
    [InlineData("citation", "29 CFR 516.5")]
    [InlineData("least[0].period", "29 CFR 516.5")]
    [InlineData("least", "29 CFR 516.5")]
    public void Each_wrong_part_is_named(string field, string code)
    {
        var good = new AuthorityDefinition(
            "29 CFR 516.5",
            "",
            "",
            "Payroll",
            ClauseJoin.Later,
            Clauses("created none P3Y"),
            null,
            "",
            "test"
        );
        var wrong = field switch
        {
            "citation" => good with { Citation = " " },
            "least[0].period" => good with { Least = Clauses("created none 3Y") },
            "least" => good with { Least = [] },
            _ => good,
        };
        wrong.Check(code).Refusal.ShouldNotBeNull().Field.ShouldBe(field);
    }
}
