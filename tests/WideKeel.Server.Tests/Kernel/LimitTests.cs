using System.Net;

namespace WideKeel.Server.Tests.Kernel;

/// <summary>What is asked for has a time, and only the parameters that its address takes.</summary>
public sealed class LimitTests : IAsyncLifetime
{
    private readonly Product product = new();

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task A_search_that_takes_too_long_is_stopped_and_says_so()
    {
        for (var i = 0; i < 400; i++)
        {
            product.Write($"Fleet/{i}.md", "2024-01-01", "pier crane pier");
        }

        await product.ScanAsync();
        // What a sign-in reads has the same limit, so it comes before.
        using var ines = await product.SignInAsync("ines");
        var cookies = ines.Cookies.GetCookieHeader(product.Address);
        await product.StopAsync();
        product.LongestSearch = TimeSpan.FromMilliseconds(1);
        await product.StartAsync();
        (await product.ReadWithAsync(cookies, "items/facets?cql=pier prox/distance<=3 crane")).Problem.ShouldBe(
            "search-too-long"
        );
    }

    [Fact]
    public async Task A_change_has_no_such_limit()
    {
        await product.StopAsync();
        product.LongestSearch = TimeSpan.Zero;
        await product.StartAsync();
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.Post("units", new { name = "Yard", parentId = product.Units["Fleet"] })).Status.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Theory]
    [InlineData("blankets?sort=code", "This address takes no parameter “sort”. It takes none.")]
    [InlineData("authorities?limit=3", "This address takes no parameter “limit”. It takes none.")]
    public async Task A_parameter_that_the_address_does_not_take_is_refused(string path, string says)
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get(path)).Body.GetProperty("title").GetString().ShouldBe(says);
    }

    [Theory]
    [InlineData("items?limit=many", "“many” is not a whole number.")]
    [InlineData("items?unfiled=perhaps", "“perhaps” is not true or false.")]
    [InlineData("items?container=1&container=x", "“x” is not a whole number.")]
    [InlineData("items?state=nonsense", "“nonsense” is no value that state takes.")]
    [InlineData("ledger?day=yesterday", "“yesterday” is no day as in 2026-06-15.")]
    [InlineData("items?sort=colour", "Sort by title, path")]
    public async Task A_value_that_the_address_does_not_take_is_refused_by_its_name(string path, string says)
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get(path)).Body.GetProperty("title").GetString().ShouldStartWith(says);
    }

    [Theory]
    [InlineData("activity/sign-ins?before=soon", "“soon” is not a moment such as 2026-06-15T08:00:00Z.")]
    [InlineData("access/entries?kind=ships", "The kinds are people, groups, places and applications.")]
    [InlineData("events.jsonl?shape=round", "There is no shape “round”; “ocsf” is one.")]
    public async Task A_value_that_a_question_about_activity_does_not_take_is_refused(string path, string says)
    {
        using var sunniva = await product.SignInAsync("sunniva");
        (await sunniva.Get(path)).Body.GetProperty("title").GetString().ShouldBe(says);
    }

    [Fact]
    public async Task A_null_in_a_list_is_refused_with_its_place()
    {
        using var jonas = await product.SignInAsync("jonas");
        var answer = await jonas.Put("networks", new object?[] { null });
        (answer.Problem, answer.Body.GetProperty("title").GetString()).ShouldBe(
            ("request-malformed", "The request cannot be read at its beginning (line 1).")
        );
    }

    [Fact]
    public async Task A_null_in_a_list_within_an_object_is_refused_with_its_place()
    {
        using var jonas = await product.SignInAsync("jonas");
        var answer = await jonas.Post(
            "people",
            new
            {
                name = "x",
                mail = "x@tarn.example",
                remits = new object?[] { null },
            }
        );
        (answer.Problem, answer.Body.GetProperty("title").GetString()).ShouldBe(
            ("request-malformed", "The request cannot be read at remits (line 1).")
        );
    }

    [Fact]
    public async Task A_body_that_is_too_large_is_refused_in_a_sentence()
    {
        using var ines = await product.SignInAsync("ines");
        var answer = await ines.Post("views", new { name = new string('x', 3_000_000), query = "" });
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.RequestEntityTooLarge, "body-too-large"));
    }

    [Fact]
    public async Task An_empty_value_asks_for_nothing()
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("items?limit=&unfiled=")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_refusal_names_what_the_address_takes()
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("directory/people?name=x"))
            .Body.GetProperty("title")
            .GetString()
            .ShouldBe("This address takes no parameter “name”. It takes source, words.");
    }
}
