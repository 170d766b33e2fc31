using System.Net;
using System.Text;
using System.Text.Json;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>Frameworks as OSCAL, and what is answered before one is adopted.</summary>
public sealed class AdoptionTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api manager = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        manager = await product.SignInAsync("mikkel");
        await manager.PostOk("frameworks", new { code = "nist-csf-2.0" });
        await manager.PostOk(
            "controls",
            new
            {
                code = "ACC-01",
                title = "Second factor",
                says = "",
                area = "access",
                owner = "",
                units = Array.Empty<long>(),
                requirements = new[] { "nist-csf-2.0/PR.AA" },
            }
        );
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        return product.DisposeAsync();
    }

    private async Task<Answer> SendAsync(HttpMethod method, string path, string text)
    {
        using var request = new HttpRequestMessage(method, new Uri(path, UriKind.Relative))
        {
            Content = new StringContent(text, Encoding.UTF8, "text/plain"),
        };
        // What is too large is refused by its announced length, before it is sent.
        request.Headers.ExpectContinue = text.Length > 50_000_000;
        var response = await manager.Http.SendAsync(request, stop);
        var body = await response.Content.ReadAsStringAsync(stop);
        return new(
            response.StatusCode,
            body.StartsWith('{') ? JsonDocument.Parse(body).RootElement : default,
            response
        );
    }

    private async Task<string> TextAsync(string path) =>
        await manager.Http.GetStringAsync(new Uri(path, UriKind.Relative), stop);

    [Fact]
    public async Task A_preview_shows_what_is_answered_through_what_it_is_like()
    {
        var line = (await manager.GetOk("frameworks/preview?code=sp-800-53-slice"))
            .GetProperty("requirements")
            .EnumerateArray()
            .Single(r => r.GetProperty("code").GetString() == "ia-2");
        (line.GetProperty("controls").ToString(), line.GetProperty("through").ToString()).ShouldBe(
            ("""["ACC-01"]""", """["nist-csf-2.0/PR.AA"]""")
        );
    }

    [Fact]
    public async Task A_preview_adopts_nothing()
    {
        await manager.GetOk("frameworks/preview?code=sp-800-53-slice");
        (await manager.Get("frameworks/sp-800-53-slice")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Theory]
    [InlineData(true, 1)]
    [InlineData(false, 0)]
    public async Task Controls_answer_the_new_framework_where_that_is_wanted(bool map, int controls)
    {
        await manager.PostOk("frameworks", new { code = "sp-800-53-slice", map });
        (await manager.GetOk("frameworks/sp-800-53-slice"))
            .GetProperty("requirements")
            .EnumerateArray()
            .Single(r => r.GetProperty("code").GetString() == "ia-2")
            .GetProperty("controls")
            .GetArrayLength()
            .ShouldBe(controls);
    }

    [Fact]
    public async Task Links_of_one_s_own_count_beside_those_that_ship()
    {
        await SendAsync(
            HttpMethod.Put,
            "crosswalk/csv",
            "from framework,from,to framework,to\nnist-csf-2.0,PR.AA,sp-800-53-slice,mp-6\n"
        );
        (await manager.GetOk("frameworks/preview?code=sp-800-53-slice"))
            .GetProperty("requirements")
            .EnumerateArray()
            .Single(r => r.GetProperty("code").GetString() == "mp-6")
            .GetProperty("controls")
            .GetArrayLength()
            .ShouldBe(1);
    }

    [Theory]
    [InlineData("from framework,from,to framework,to\na,b,c,\n", "Line 2: it needs")]
    [InlineData("one,two\n1,2\n", "Line 2: it needs")]
    [InlineData("from framework,from,to framework,to\n\"a,b,c,d\n", "Line 2, column 1")]
    public async Task A_table_of_links_that_is_wrong_is_refused_by_its_line(string table, string says)
    {
        var answer = await SendAsync(HttpMethod.Put, "crosswalk/csv", table);
        (
            answer.Status,
            answer.Body.GetProperty("title").GetString()!.StartsWith(says, StringComparison.Ordinal)
        ).ShouldBe((HttpStatusCode.BadRequest, true), answer.Body.ToString());
    }

    [Fact]
    public async Task The_links_come_as_the_table_that_is_taken_in()
    {
        var table = await TextAsync("crosswalk.csv");
        (await SendAsync(HttpMethod.Put, "crosswalk/csv", table)).Status.ShouldBe(HttpStatusCode.OK);
        (await TextAsync("crosswalk.csv")).ShouldBe(table);
    }

    private const string Profile = """
        {"profile":{"uuid":"p-1","metadata":{"title":"Our choice","version":"1"},
        "imports":[{"href":"nist-csf-2.0.oscal.json","include-controls":[{"with-ids":["PR.AA","GV.OC"]}]}]}}
        """;

    [Fact]
    public async Task A_profile_is_adopted_as_what_it_chooses()
    {
        (await SendAsync(HttpMethod.Post, "frameworks/oscal", Profile)).Status.ShouldBe(HttpStatusCode.OK);
        (await manager.GetOk("frameworks/our-choice"))
            .GetProperty("requirements")
            .EnumerateArray()
            .Select(r => r.GetProperty("code").GetString())
            .ShouldBe(["GV.OC", "PR.AA"]);
    }

    [Fact]
    public async Task A_profile_goes_out_as_it_came()
    {
        await SendAsync(HttpMethod.Post, "frameworks/oscal", Profile);
        using var document = JsonDocument.Parse(await TextAsync("frameworks/our-choice/oscal?form=profile"));
        var import = document.RootElement.GetProperty("profile").GetProperty("imports")[0];
        (
            import.GetProperty("href").GetString(),
            import.GetProperty("include-controls")[0].GetProperty("with-ids").ToString()
        ).ShouldBe(("nist-csf-2.0.oscal.json", """["GV.OC","PR.AA"]"""));
    }

    [Fact]
    public async Task A_profile_of_what_is_not_here_is_refused_by_its_place()
    {
        var answer = await SendAsync(
            HttpMethod.Post,
            "frameworks/oscal",
            Profile.Replace("nist-csf-2.0.oscal", "elsewhere", StringComparison.Ordinal)
        );
        answer.Body.GetProperty("title").GetString()!.ShouldStartWith("profile.imports[0].href: “elsewhere.json”");
    }

    [Fact]
    public async Task A_form_that_there_is_not_is_refused() =>
        (await manager.Get("frameworks/nist-csf-2.0/oscal?form=xml")).Problem.ShouldBe("choice-unknown");

    [Fact]
    public async Task A_catalog_of_ten_megabytes_is_taken()
    {
        var prose = new string('x', 1000);
        var controls = string.Join(
            ',',
            Enumerable.Range(0, 10_000).Select(n => $$"""{"id":"c-{{n}}","title":"{{prose}}"}""")
        );
        (
            await SendAsync(
                HttpMethod.Post,
                "frameworks/oscal",
                $$$"""{"catalog":{"uuid":"u","metadata":{"title":"Large"},"controls":[{{{controls}}}]}}"""
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_catalog_over_sixty_megabytes_is_refused_in_words()
    {
        var answer = await SendAsync(HttpMethod.Post, "frameworks/oscal", new string(' ', 60_000_001));
        (answer.Status, answer.Body.GetProperty("title").GetString()).ShouldBe(
            (HttpStatusCode.RequestEntityTooLarge, "The request is larger than 60 MB.")
        );
    }
}
