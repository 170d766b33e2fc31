using NodaTime;
using WideKeel.Core.CommandLine;

namespace WideKeel.Core.Tests.CommandLine;

/// <summary>Examples that a schedule carries; those with a source are worked from the published rule.</summary>
public class WorkedExampleTests
{
    // 8 CFR 274a.2(b)(2)(i)(A): three years after hire or one year after employment ends, whichever is later.
    private const string Series = """
        "fiscalYearEnd": "12-31",
        "series": [ { "code": "HR-9", "grade": "kept", "atEnd": "destroy", "join": "later",
                      "clauses": [ { "trigger": "created", "period": "P3Y" },
                                   { "trigger": "event:left", "period": "P1Y" } ] } ],
        "holds": [ { "name": "new", "query": "created > \"today-P30D\"" } ]
        """;

    private const string Hired =
        """ "item": { "id": "i-9", "series": "HR-9", "created": "2015-03-01", "subject": "E1" } """;

    private const string Left = """ "events": [ { "type": "left", "subject": "E1", "date": "2026-01-10" } ] """;

    private static Outcome<IReadOnlyList<ExampleResult>> Run(params string[] examples)
    {
        var json = $$"""{ {{Series}}, "examples": [ {{string.Join(", ", examples)}} ] }""";
        var read = WorkedExample.ReadAll(json, new LocalDate(2026, 6, 15));
        return read.Refusal is { } refusal
            ? refusal
            : WorkedExample.RunAll(json, read.Value, i => i.ToQueryItem(_ => []));
    }

    private static string Example(
        string expect,
        string item = Hired,
        string events = Left,
        string day = "2026-06-15"
    ) =>
        $$"""{ "name": "a form", "rule": "HR-9", {{item}}, {{events}}, "asOf": "{{day}}", "expect": { {{expect}} } }""";

    private static string Told(params string[] examples) => Run(examples).Refusal!.Sentence;

    [Theory]
    [InlineData("""  "keepUntil": "2027-01-10" """, true)]
    [InlineData("""  "keepUntil": "2027-01-10", "disposableFrom": "2027-01-11", "state": "in-term" """, true)]
    [InlineData("""  "keepUntil": "2027-01-11" """, false)]
    [InlineData("""  "disposableFrom": null """, false)]
    [InlineData("", true)]
    public void An_example_is_right_when_each_key_that_it_expects_is(string expect, bool ok) =>
        Run(Example(expect)).Value.Single().Ok.ShouldBe(ok);

    [Fact]
    public void What_was_got_has_the_keys_that_were_expected() =>
        Run(Example(""" "keepUntil": "2027-01-11", "atEnd": "destroy" """)).Value.Single().Write()["got"]!
            .ToJsonString()
            .ShouldBe("""{"keepUntil":"2027-01-10","atEnd":"destroy"}""");

    [Fact]
    public void An_example_sees_its_own_events_only() =>
        Run(Example(""" "state": "in-term" """), Example(""" "state": "awaiting-event" """, events: "\"events\": []"))
            .Value.ShouldAllBe(r => r.Ok);

    [Fact]
    public void Each_example_is_computed_on_its_own_day() =>
        Run(Example(""" "state": "due" """, day: "2027-01-11"), Example(""" "state": "in-term" """, day: "2027-01-10"))
            .Value.ShouldAllBe(r => r.Ok);

    [Fact]
    public void Today_in_a_holds_query_is_the_day_of_the_example() =>
        Run(Example(""" "state": "held" """, day: "2015-03-02")).Value.Single().Ok.ShouldBeTrue();

    [Theory]
    [InlineData("\"name\": \"a form\", ", "examples[0].name: it is missing.")]
    [InlineData("\"rule\": \"HR-9\", ", "examples[0].rule: it is missing.")]
    [InlineData(Hired + ",", "examples[0].item: it is missing.")]
    public void An_example_that_lacks_a_part_is_told_with_its_place(string part, string says) =>
        Told(Example("").Replace(part, "", StringComparison.Ordinal)).ShouldBe(says);

    [Fact]
    public void A_wrong_date_of_an_item_is_told_with_its_place() =>
        Told(Example("").Replace("2015-03-01", "2015-02-30", StringComparison.Ordinal))
            .ShouldStartWith("examples[0].item, created: “2015-02-30” is no calendar date");

    [Fact]
    public void A_key_that_no_item_has_cannot_be_expected() =>
        Told(Example("\"colour\": \"red\"")).ShouldStartWith("examples[0].expect.colour: an example may expect state,");

    [Fact]
    public void An_unknown_series_is_told_with_its_example() =>
        Told(Example(""), Example("").Replace("\"series\": \"HR-9\"", "\"series\": \"X\"", StringComparison.Ordinal))
            .ShouldBe("examples[1].item.series: the schedule has no series X.");
}
