using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Disposition;

/// <summary>
/// No one person's requests destroy: who wrote the rule, and who put an item under it in whatever way, leaves the
/// clearing to somebody else (docs/decisions/0035).
/// </summary>
public sealed class TwoPersonTests : IAsyncLifetime
{
    private const string Code = "TMP-010";

    private readonly Product product = new();
    private Api ines = null!;
    private Api tobias = null!;
    private Dictionary<string, long> containers = [];

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/a.md", "2020-01-01", "pier");
        product.Write("Fleet/b.md", "2020-01-01", "pier");
        containers = await product.ScanAsync();
        ines = await product.SignInAsync("ines");
        tobias = await product.SignInAsync("tobias");
    }

    public ValueTask DisposeAsync()
    {
        ines.Dispose();
        tobias.Dispose();
        return product.DisposeAsync();
    }

    private static object Unsigned(string period = "P1Y") =>
        Product.Definition(title: "Temporary", period: period, atEnd: "destroy");

    /// <summary>A series that destroys without sign-off, wanted by one and agreed to by Tobias.</summary>
    private async Task<long> SeriesAsync(Api who)
    {
        var made = await who.PostOk(
            "series",
            new
            {
                code = Code,
                unitId = product.Units["Tarn Lines"],
                draft = Unsigned(),
            }
        );
        var id = made.GetProperty("row").GetProperty("id").GetInt64();
        await Product.ActivateAsync(who, id, Unsigned());
        return id;
    }

    /// <summary>Ines writes a draft and wants it in effect.</summary>
    private async Task ChangeAsync(long series, object draft)
    {
        var revision = (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        (await ines.Put($"series/{series}/draft", draft, revision)).Status.ShouldBe(HttpStatusCode.OK);
        await Product.ActivateAsync(ines, series, draft);
    }

    private async Task<int> VersionAsync(long series) =>
        (await ines.GetOk($"series/{series}")).GetProperty("version").GetInt32();

    private Task FileAsync(Api who, long series) => Product.FileAsync(who, [containers["Fleet"]], series);

    private static Task<Answer> ClearAsync(Api who, long series, int items = 2) =>
        who.Post(
            "clearings",
            new
            {
                seriesId = series,
                items,
                why = "Nobody needs it.",
            }
        );

    [Fact]
    public async Task A_rule_that_destroys_without_sign_off_waits_for_a_second_person() =>
        (await VersionAsync(await SeriesAsync(ines))).ShouldBe(0);

    [Fact]
    public async Task It_takes_effect_once_the_second_person_agrees()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        (await VersionAsync(series)).ShouldBe(1);
    }

    [Fact]
    public async Task Who_asked_for_it_cannot_agree()
    {
        await SeriesAsync(tobias);
        await product.AgreeAsync();
        (await tobias.GetOk("proposals"))[0].GetProperty("state").GetString().ShouldBe("waiting");
    }

    [Fact]
    public async Task Who_put_the_rule_into_effect_does_not_clear()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        await FileAsync(tobias, series);
        (await ClearAsync(ines, series)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task Who_filed_the_items_by_hand_does_not_clear()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        await FileAsync(tobias, series);
        (await ClearAsync(tobias, series)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task Who_put_a_filing_rule_into_effect_does_not_clear_what_it_filed()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        var rule = await tobias.PostOk(
            "filing-rules",
            new
            {
                name = "Piers",
                seriesId = series,
                definition = new { query = "pier", kinds = Array.Empty<object>() },
                priority = 1,
            }
        );
        var id = rule.GetProperty("id").GetInt64();
        var fingerprint = (await tobias.PostOk($"filing-rules/{id}/consequences", new { }))
            .GetProperty("fingerprint")
            .GetString();
        (
            await tobias.Post(
                $"filing-rules/{id}/activation",
                new { fingerprint, why = "All piers." },
                rule.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await tobias.WaitForJobsAsync();
        (await ClearAsync(tobias, series)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task Who_set_a_default_does_not_clear_what_came_under_it()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        await tobias.Put(
            "filing-defaults",
            new
            {
                containerId = containers["Fleet"],
                folder = "",
                seriesId = series,
            }
        );
        product.Write("Fleet/c.md", "2020-01-01", "later");
        await product.ScanAsync();
        (await ClearAsync(tobias, series, items: 1)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task The_docket_says_to_each_why_they_may_not_clear()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        await FileAsync(tobias, series);
        string? Why(JsonElement docket) =>
            docket.GetProperty("due").EnumerateArray().Single().GetProperty("mayNotClear").GetString();
        new[] { Why(await ines.GetOk("docket")), Why(await tobias.GetOk("docket")) }.ShouldBe([
            "You put the rule into effect; somebody else clears what it makes due.",
            "You agreed to the rule; somebody else clears what it makes due.",
        ]);
    }

    [Fact]
    public async Task Longer_needs_nobody_else_and_shorter_does()
    {
        var series = await SeriesAsync(ines);
        await product.AgreeAsync();
        await ChangeAsync(series, Unsigned("P2Y"));
        await ChangeAsync(series, Unsigned("P1M"));
        (await VersionAsync(series)).ShouldBe(2);
    }

    [Fact]
    public async Task Among_drafts_that_take_effect_together_it_is_refused()
    {
        await ines.PostOk(
            "series",
            new
            {
                code = Code,
                unitId = product.Units["Tarn Lines"],
                draft = Unsigned(),
            }
        );
        var drafts = await ines.GetOk("schedule/drafts");
        (
            await ines.Post(
                "schedule/adoption",
                new
                {
                    fingerprint = drafts.GetProperty("consequences").GetProperty("fingerprint").GetString(),
                    why = "All of them.",
                }
            )
        ).Problem.ShouldBe("second-person-needed");
    }
}
