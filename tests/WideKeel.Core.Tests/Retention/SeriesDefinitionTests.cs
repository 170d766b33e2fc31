using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Tests.Retention;

public class SeriesDefinitionTests
{
    private static readonly SeriesDefinition Good = new("Oil record books", "", "", "Vessels", "", false, "field:last-entry", Cutoff.None, "P3Y", EndAction.SignOff, 90, [new(Role.Steward), new(Role.RecordsManager)]);

    [Fact]
    public void A_whole_definition_gives_its_rule() =>
        Good.Check().Value.ShouldBe(new Rule.Timed(new Trigger.DateField("last-entry"), Cutoff.None, Period.OfYears(3), EndAction.SignOff));

    [Theory]
    [InlineData("title")]
    [InlineData("description")]
    [InlineData("period")]
    [InlineData("trigger")]
    [InlineData("graceDays")]
    [InlineData("stages")]
    public void Each_wrong_part_is_named(string field)
    {
        var wrong = field switch
        {
            "title" => Good with { Title = new string('x', 100_000) },
            "description" => Good with { Description = new string('x', 100_000) },
            "period" => Good with { Period = "P-1Y" },
            "trigger" => Good with { Trigger = "field:Last Entry" },
            "graceDays" => Good with { GraceDays = -1 },
            _ => Good with { Stages = [new(Role.RecordsManager)] },
        };
        wrong.Check().Refusal.ShouldNotBeNull().Field.ShouldBe(field);
    }

    [Fact]
    public void A_length_that_is_refused_is_told_with_its_limit() =>
        (Good with { Title = new string('x', 100_000) }).Check().Refusal!.Sentence.ShouldBe("The title has 100,000 characters; 200 is the most.");

    [Fact]
    public void Staff_cannot_be_asked_to_sign() => (Good with { Stages = [new(Role.RecordsManager), new(Role.Staff)] }).Check().Refusal!.Code.ShouldBe("stage-without-right");

    [Fact]
    public void Differences_are_named_part_by_part() =>
        (Good with { Period = "P5Y", GraceDays = 30 }).DifferencesFrom(Good).ShouldBe(["period", "graceDays"]);

    [Theory]
    [InlineData("VES-010", true)]
    [InlineData("V.1", true)]
    [InlineData("ves-010", false)]
    [InlineData("V", false)]
    [InlineData("VES 010", false)]
    [InlineData("VES-010\n", false)]
    public void A_code_has_its_shape(string code, bool good) => SeriesCode.Parse(code).Refused.ShouldBe(!good);
}
