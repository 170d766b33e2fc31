using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class SeriesDefinitionTests
{
    private static readonly SeriesDefinition Good = new(
        "Oil record books",
        "",
        "",
        Descriptors.OfFunction("Vessels"),
        "",
        [],
        false,
        ClauseJoin.Later,
        [new("field:last-entry", Cutoff.None, "P3Y")],
        EndAction.SignOff,
        Grade.Kept,
        false,
        90,
        [new(Role.Steward), new(Role.RecordsManager)]
    );

    [Fact]
    public void A_whole_definition_gives_its_rule()
    {
        var rule = Good.Check("VES-010").Value;
        (rule.Code, rule.Grade, rule.AtEnd, rule.Permanent).ShouldBe(("VES-010", Grade.Kept, EndAction.SignOff, false));
        rule.Clauses.ShouldBe([new(Trigger.Field("last-entry"), Cutoff.None, Period.OfYears(3))]);
    }

    [Theory]
    [InlineData("title")]
    [InlineData("description")]
    [InlineData("clauses[0].period")]
    [InlineData("clauses[1].trigger")]
    [InlineData("clauses")]
    [InlineData("grade")]
    [InlineData("tags")]
    [InlineData("atEnd")]
    [InlineData("graceDays")]
    [InlineData("stages")]
    public void Each_wrong_part_is_named(string field)
    {
        var wrong = field switch
        {
            "title" => Good with { Title = new string('x', 100_000) },
            "description" => Good with { Description = new string('x', 100_000) },
            "clauses[0].period" => Good with { Clauses = [new("created", Cutoff.None, "P-1Y")] },
            "clauses[1].trigger" => Good with
            {
                Clauses = [.. Good.Clauses, new("field:Last Entry", Cutoff.None, "P1Y")],
            },
            "clauses" => Good with { Clauses = [] },
            "grade" => Good with { Grade = Grade.None },
            "tags" => Good with { Descriptors = Good.Descriptors with { Tags = ["a;b"] } },
            "atEnd" => Good with { AtEnd = EndAction.Destroy, Grade = Grade.Declared },
            "graceDays" => Good with { GraceDays = -1 },
            _ => Good with { Stages = [new(Role.RecordsManager)] },
        };
        wrong.Check("S").Refusal.ShouldNotBeNull().Field.ShouldBe(field);
    }

    [Fact]
    public void A_length_that_is_refused_is_told_with_its_limit() =>
        (Good with { Title = new string('x', 100_000) })
            .Check("S")
            .Refusal!.Sentence.ShouldBe("The title has 100,000 characters; 200 is the most.");

    [Fact]
    public void Staff_cannot_be_asked_to_sign() =>
        (Good with { Stages = [new(Role.RecordsManager), new(Role.Staff)] })
            .Check("S")
            .Refusal!.Code.ShouldBe("stage-without-right");

    [Fact]
    public void Differences_are_named_part_by_part() =>
        (
            Good with
            {
                Clauses = [Good.Clauses[0] with { Period = "P5Y" }],
                GraceDays = 30,
                Descriptors = Good.Descriptors with { Tags = ["ship"] },
            }
        )
            .DifferencesFrom(Good)
            .ShouldBe(["tags", "clauses", "graceDays"]);

    [Theory]
    [InlineData("VES-010", true)]
    [InlineData("V.1", true)]
    [InlineData("ves-010", false)]
    [InlineData("V", false)]
    [InlineData("VES 010", false)]
    [InlineData("VES-010\n", false)]
    public void A_code_has_its_shape(string code, bool good) => SeriesCode.Parse(code).Refused.ShouldBe(!good);
}
