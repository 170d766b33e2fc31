using System.Net;

namespace WideKeel.Server.Tests.People;

/// <summary>What keys may not do, what roles can require, and what a request without either is worth.</summary>
public sealed class DoorkeepingTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api jonas = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        jonas = await product.SignInAsync("jonas");
    }

    public ValueTask DisposeAsync()
    {
        jonas.Dispose();
        return product.DisposeAsync();
    }

    private async Task<HttpClient> KeyAsync(Api who, string scope)
    {
        var issued = await who.PostOk(
            "api-keys",
            new
            {
                name = "program",
                scopes = new[] { scope },
                days = 5,
            }
        );
        var http = new HttpClient { BaseAddress = new Uri(product.Address, "/api/") };
        http.DefaultRequestHeaders.Add("Authorization", $"Bearer {issued.GetProperty("key").GetString()}");
        return http;
    }

    private static async Task<Answer> SendAsync(HttpClient http, string method, string path) =>
        await Api.AnswerAsync(
            await http.SendAsync(
                new HttpRequestMessage(new(method), new Uri(path, UriKind.Relative))
                {
                    Content =
                        method == "GET" ? null : new StringContent("{}", System.Text.Encoding.UTF8, "application/json"),
                },
                Stop
            )
        );

    [Theory]
    [InlineData("POST", "people")]
    [InlineData("PUT", "people/1")]
    [InlineData("POST", "people/1/invitation")]
    [InlineData("DELETE", "people/1/one-time-codes")]
    [InlineData("POST", "units")]
    [InlineData("POST", "api-keys")]
    [InlineData("DELETE", "api-keys/1")]
    [InlineData("POST", "session/password")]
    [InlineData("PUT", "factor-roles")]
    [InlineData("PUT", "inner-networks")]
    public async Task A_key_of_an_administrator_makes_no_people_passwords_or_keys(string method, string path)
    {
        using var program = await KeyAsync(jonas, "managePeople");
        (await SendAsync(program, method, path)).Problem.ShouldBe("key-by-key");
    }

    [Fact]
    public async Task What_a_key_does_names_the_key_in_the_ledger()
    {
        using var ines = await product.SignInAsync("ines");
        using var program = await KeyAsync(ines, "verifyLedger");
        (await SendAsync(program, "GET", "ledger/verification")).Status.ShouldBe(HttpStatusCode.OK);
        using var db = product.Database();
        db.Ledger.OrderBy(e => e.Sequence).Last().Body.ShouldContain("\"via\":\"key “program” (wk_");
    }

    [Fact]
    public async Task A_key_ends_with_its_owner()
    {
        using var ines = await product.SignInAsync("ines");
        using var program = await KeyAsync(ines, "readSchedule");
        await product.WriteDirectoryAsync(
            Core.People.DirectoryState.Empty with
            {
                People = [new("ines@tarn.example", "Ines", Left: "2026-06-01")],
            }
        );
        (await SendAsync(program, "GET", "series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_key_that_does_not_exist_is_no_reason_to_pass_over_the_form_token()
    {
        using var stranger = new HttpClient { BaseAddress = new Uri(product.Address, "/api/") };
        stranger.DefaultRequestHeaders.Add("Authorization", $"Bearer wk_{new string('0', 64)}");
        (await SendAsync(stranger, "POST", "session")).Problem.ShouldBe("antiforgery");
    }

    [Fact]
    public async Task A_role_that_requires_one_time_codes_opens_nothing_without_them()
    {
        await jonas.Put("factor-roles", new { roles = new[] { "recordsManager" } });
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("series")).Problem.ShouldBe("factor-missing");
    }

    [Fact]
    public async Task Setting_them_up_stays_open()
    {
        await jonas.Put("factor-roles", new { roles = new[] { "recordsManager" } });
        using var ines = await product.SignInAsync("ines");
        (await ines.Post("session/one-time-codes", new { password = Product.Password })).Status.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task Other_roles_are_as_they_were()
    {
        await jonas.Put("factor-roles", new { roles = new[] { "recordsManager" } });
        using var vera = await product.SignInAsync("vera");
        (await vera.Get("series")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_session_says_that_they_are_missing()
    {
        await jonas.Put("factor-roles", new { roles = new[] { "recordsManager" } });
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("session")).GetProperty("person").GetProperty("factorIsMissing").GetBoolean().ShouldBeTrue();
    }
}
