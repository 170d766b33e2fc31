namespace WideKeel.Browser.Tests;

/// <summary>What a page asks of the server when it is opened: nothing twice, and little.</summary>
public sealed class LoadTests(Demo demo) : IClassFixture<Demo>
{
    private const int MostRequests = 12;

    [Theory]
    [InlineData("/")]
    [InlineData("/content")]
    [InlineData("/schedule")]
    [InlineData("/schedule/docket")]
    [InlineData("/schedule/health")]
    [InlineData("/matters")]
    [InlineData("/activity")]
    [InlineData("/activity/alerts")]
    [InlineData("/access")]
    [InlineData("/access/reviews")]
    [InlineData("/readiness")]
    [InlineData("/readiness/controls")]
    public void No_address_is_asked_twice_on_a_load(string path)
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go(path);
        // The stream of jobs has been heard, and what it could make stale would be asked for by now.
        page.Settle();
        var asked = page.Requests();
        asked.GroupBy(a => a).Where(g => g.Count() > 1).Select(g => $"{g.Count()} {g.Key}").ShouldBeEmpty();
        asked.Count.ShouldBeLessThanOrEqualTo(MostRequests, string.Join('\n', asked));
    }
}
