using System.Net;
using System.Net.Http.Json;

namespace WideKeel.Server.Tests.Kernel;

/// <summary>What every answer says to the browser, what cookies are given, and how often one address may try.</summary>
public sealed class HeaderTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly HttpClient browser = new(new HttpClientHandler { UseCookies = false });

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync()
    {
        browser.Dispose();
        return product.DisposeAsync();
    }

    private async Task<HttpResponseMessage> GetAsync(string path) =>
        await browser.GetAsync(new Uri(product.Address, path), TestContext.Current.CancellationToken);

    /// <remarks>Names and values of the OWASP Secure Headers Project, from memory.</remarks>
    [Theory]
    [InlineData("X-Content-Type-Options", "nosniff")]
    [InlineData("X-Frame-Options", "DENY")]
    [InlineData("Referrer-Policy", "same-origin")]
    public async Task Every_answer_of_the_interface_for_programs_has_this_header(string name, string value)
    {
        using var answer = await GetAsync("/api/session");
        answer.Headers.GetValues(name).ShouldBe([value]);
    }

    [Theory]
    [InlineData("default-src 'self'")]
    [InlineData("object-src 'none'")]
    [InlineData("base-uri 'none'")]
    [InlineData("form-action 'self'")]
    [InlineData("frame-ancestors 'none'")]
    public async Task The_content_security_policy_says_this(string part)
    {
        using var answer = await GetAsync("/");
        answer.Headers.GetValues("Content-Security-Policy").Single().Split("; ").ShouldContain(part);
    }

    [Fact]
    public async Task No_answer_of_the_interface_for_programs_is_stored()
    {
        using var answer = await GetAsync("/api/session");
        answer.Headers.CacheControl!.NoStore.ShouldBeTrue();
    }

    [Fact]
    public async Task No_answer_names_the_program_that_serves_it()
    {
        using var answer = await GetAsync("/");
        answer.Headers.Contains("Server").ShouldBeFalse();
    }

    /// <summary>The form cookie and the session cookie that signing in gives.</summary>
    private async Task<List<string>> CookiesAsync()
    {
        using var session = await GetAsync("/api/session");
        var given = session.Headers.GetValues("Set-Cookie").ToList();
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(product.Address, "/api/session"));
        request.Headers.Add("Cookie", given.Select(c => c.Split(';')[0]));
        request.Headers.Add(
            "X-XSRF-TOKEN",
            (
                await session.Content.ReadFromJsonAsync<System.Text.Json.JsonElement>(
                    TestContext.Current.CancellationToken
                )
            )
                .GetProperty("token")
                .GetString()
        );
        request.Content = JsonContent.Create(new { mail = "ines@tarn.example", password = Product.Password });
        using var answer = await browser.SendAsync(request, TestContext.Current.CancellationToken);
        return [.. given, .. answer.Headers.GetValues("Set-Cookie")];
    }

    [Fact]
    public async Task Every_cookie_goes_to_this_site_alone() =>
        (await CookiesAsync()).ShouldAllBe(c => c.Contains("samesite=strict", StringComparison.OrdinalIgnoreCase));

    [Fact]
    public async Task No_cookie_is_read_by_a_script() =>
        (await CookiesAsync()).ShouldAllBe(c => c.Contains("httponly", StringComparison.OrdinalIgnoreCase));

    [Fact]
    public async Task One_address_that_tries_to_sign_in_too_often_within_a_minute_is_refused()
    {
        await product.StopAsync();
        product.SignInsAMinute = 3;
        await product.StartAsync();
        using var stranger = await Api.ConnectAsync(product.Address);
        List<HttpStatusCode> answers = [];
        for (var i = 0; i < 4; i++)
        {
            answers.Add(
                (await stranger.Post("session", new { mail = $"nobody{i}@tarn.example", password = "wrong" })).Status
            );
        }

        answers[^1].ShouldBe(HttpStatusCode.TooManyRequests);
    }
}
