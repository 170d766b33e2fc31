using WideKeel.Core.Ledger;

namespace WideKeel.Core.Tests.Ledger;

public sealed class ClockWalkTests
{
    private static IReadOnlyList<string> Walk(params string[] times)
    {
        var walk = new ClockWalk();
        for (var i = 0; i < times.Length; i++)
        {
            walk.Next(
                new(i + 1, $$"""{"after":{"at":"1999-01-01T00:00:00Z"},"at":"{{times[i]}}","seq":{{i + 1}}}""", [])
            );
        }

        return walk.Remarks;
    }

    [Fact]
    public void A_clock_that_goes_on_is_not_remarked() =>
        Walk("2026-06-15T08:00:00Z", "2026-06-15T08:00:00Z", "2026-06-16T08:00:00Z").ShouldBeEmpty();

    [Fact]
    public void A_clock_that_goes_back_is_named_with_both_times() =>
        Walk("2026-06-15T08:00:00Z", "2026-06-14T08:00:00Z")
            .ShouldHaveSingleItem()
            .ShouldBe("The clock went back before entry 2: from 2026-06-15T08:00:00Z to 2026-06-14T08:00:00Z.");

    [Fact]
    public void One_step_back_is_said_once() =>
        Walk("2026-06-15T08:00:00Z", "2026-06-14T08:00:00Z", "2026-06-14T09:00:00Z").Count.ShouldBe(1);

    [Fact]
    public void A_correction_of_a_second_is_no_step_back() =>
        Walk("2026-06-15T08:00:01Z", "2026-06-15T08:00:00Z").ShouldBeEmpty();

    [Theory]
    [InlineData("{}")]
    [InlineData("{\"at\":5}")]
    [InlineData("{\"at\":\"soon\"}")]
    [InlineData("not json")]
    public void What_has_no_time_has_none(string body) => ClockWalk.TimeOf(body).ShouldBeNull();
}
