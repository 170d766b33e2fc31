using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Retention;

/// <summary>The list of series comes page by page, in any order, of any part.</summary>
public sealed class SeriesListTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
        foreach (var i in Enumerable.Range(0, 7))
        {
            await ines.PostOk(
                "series",
                new
                {
                    code = $"VES-{i}10",
                    unitId = product.Units["Fleet"],
                    draft = Product.Definition(title: $"Title {9 - i}"),
                }
            );
        }
    }

    public async ValueTask DisposeAsync()
    {
        ines.Dispose();
        await product.DisposeAsync();
    }

    private static List<string> Codes(JsonElement page) =>
        [.. page.GetProperty("series").EnumerateArray().Select(s => s.GetProperty("code").GetString()!)];

    [Fact]
    public async Task The_pages_together_hold_each_series_once()
    {
        List<string> codes = [];
        string? next = null;
        do
        {
            var page = await ines.GetOk($"series?limit=3{(next is null ? "" : $"&cursor={next}")}");
            codes.AddRange(Codes(page));
            next = page.GetProperty("next").GetString();
        } while (next is not null);

        codes.ShouldBe([.. Enumerable.Range(0, 7).Select(i => $"VES-{i}10")]);
    }

    [Fact]
    public async Task The_total_is_that_of_all_pages() =>
        (await ines.GetOk("series?limit=2")).GetProperty("total").GetInt64().ShouldBe(7);

    [Fact]
    public async Task A_minus_sorts_the_other_way_round() =>
        Codes(await ines.GetOk("series?sort=-code"))[0].ShouldBe("VES-610");

    [Fact]
    public async Task A_title_sorts_by_itself() => Codes(await ines.GetOk("series?sort=title"))[0].ShouldBe("VES-610");

    [Fact]
    public async Task Words_find_what_code_or_title_contain() =>
        Codes(await ines.GetOk("series?words=TITLE%207")).ShouldBe(["VES-210"]);

    [Fact]
    public async Task The_choices_count_what_the_words_leave() =>
        (await ines.GetOk("series?words=title%207&show=retired"))
            .GetProperty("figures")
            .GetProperty("draft")
            .GetInt64()
            .ShouldBe(1);

    [Fact]
    public async Task A_choice_shows_no_others() => Codes(await ines.GetOk("series?show=active")).ShouldBeEmpty();

    [Theory]
    [InlineData("sort=colour", "sort-unknown")]
    [InlineData("show=some", "choice-unknown")]
    [InlineData("cursor=zzz", "cursor-malformed")]
    [InlineData("color=red", "parameter-unknown")]
    public async Task What_the_list_does_not_know_is_refused(string query, string code)
    {
        var answer = await ines.Get($"series?{query}");
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.BadRequest, code));
    }

    [Fact]
    public async Task Names_come_without_figures() =>
        (await ines.GetOk("series/names"))[0].TryGetProperty("items", out _).ShouldBeFalse();
}
