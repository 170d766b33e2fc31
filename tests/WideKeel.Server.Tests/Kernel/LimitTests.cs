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
        await product.StopAsync();
        product.LongestSearch = TimeSpan.FromMilliseconds(1);
        await product.StartAsync();
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("items/facets?cql=pier prox/distance<=3 crane")).Problem.ShouldBe("search-too-long");
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
    [InlineData("series?sort=code", "This address takes no parameter “sort”. It takes none.")]
    [InlineData("authorities?limit=3", "This address takes no parameter “limit”. It takes none.")]
    public async Task A_parameter_that_the_address_does_not_take_is_refused(string path, string says)
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get(path)).Body.GetProperty("title").GetString().ShouldBe(says);
    }

    [Fact]
    public async Task The_refusal_names_what_the_address_takes()
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("directory/people?name=x"))
            .Body.GetProperty("title")
            .GetString()
            .ShouldBe("This address takes no parameter “name”. It takes words.");
    }
}
