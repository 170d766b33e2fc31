using System.Net;

namespace WideKeel.Server.Tests.People;

/// <summary>Whoever guesses learns nothing of which accounts exist, and locks out nobody but themselves.</summary>
public sealed class GuessingTests : IAsyncLifetime
{
    private readonly Product product = new() { Proxies = ["127.0.0.0/8"] };

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    /// <summary>Somebody behind the proxy, as it says.</summary>
    private Task<Api> FromAsync(string address) => Api.ConnectAsync(product.Address, address);

    private static Task<Answer> TryAsync(Api who, string mail, string password = "wrong-wrong-wrong") =>
        who.Post("session", new { mail, password });

    private static async Task FailAsync(Api who, string mail, int times)
    {
        for (var i = 0; i < times; i++)
        {
            await TryAsync(who, mail);
        }
    }

    [Theory]
    [InlineData("pia@tarn.example")]
    [InlineData("nobody@tarn.example")]
    public async Task An_account_that_exists_is_answered_as_one_that_does_not(string mail)
    {
        using var stranger = await FromAsync("203.0.113.9");
        await FailAsync(stranger, mail, 5);
        (await TryAsync(stranger, mail)).Problem.ShouldBe("locked-out");
    }

    [Fact]
    public async Task A_stranger_who_guesses_locks_nobody_out_where_they_work()
    {
        using var stranger = await FromAsync("203.0.113.9");
        await FailAsync(stranger, "pia@tarn.example", 20);
        using var pia = await FromAsync("198.51.100.7");
        (await TryAsync(pia, "pia@tarn.example", Product.Password)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Many_people_behind_one_address_do_not_use_up_each_other_s_tries()
    {
        using var office = await FromAsync("198.51.100.7");
        await FailAsync(office, "pia@tarn.example", 5);
        (await TryAsync(office, "ines@tarn.example", Product.Password)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task One_address_that_tries_many_accounts_is_stopped()
    {
        using var stranger = await FromAsync("203.0.113.9");
        for (var i = 0; i < 50; i++)
        {
            await TryAsync(stranger, $"user{i}@tarn.example");
        }

        (await TryAsync(stranger, "ines@tarn.example", Product.Password)).Problem.ShouldBe("locked-out");
    }

    [Fact]
    public async Task A_network_of_IPv6_counts_as_one_address()
    {
        for (var i = 0; i < 5; i++)
        {
            using var one = await FromAsync($"2001:db8:1:2::{i + 1}");
            await TryAsync(one, "pia@tarn.example");
        }

        using var next = await FromAsync("2001:db8:1:2::99");
        (await TryAsync(next, "pia@tarn.example")).Problem.ShouldBe("locked-out");
    }

    [Fact]
    public async Task An_address_of_IPv6_is_recorded_whole()
    {
        using var stranger = await FromAsync("2001:db8:1:2:3:4:5:6");
        await TryAsync(stranger, "pia@tarn.example");
        using var ines = await FromAsync("198.51.100.7");
        await TryAsync(ines, "ines@tarn.example", Product.Password);
        (await ines.GetOk("ledger?verb=sign-in-refused"))
            .GetProperty("entries")[0]
            .GetProperty("address")
            .GetString()
            .ShouldBe("2001:db8:1:2:3:4:5:6");
    }

    [Fact]
    public async Task A_request_that_did_not_come_by_TLS_is_refused_in_a_sentence()
    {
        using var plain = new HttpClient();
        using var answer = await plain.GetAsync(
            new Uri(product.Address, "/api/session"),
            TestContext.Current.CancellationToken
        );
        (await Api.AnswerAsync(answer)).Problem.ShouldBe("tls-needed");
    }

    [Fact]
    public async Task Behind_a_proxy_cookies_are_bound_to_TLS_and_this_host()
    {
        using var pia = await FromAsync("198.51.100.7");
        var answer = await TryAsync(pia, "pia@tarn.example", Product.Password);
        answer
            .Response.Headers.GetValues("Set-Cookie")
            .ShouldAllBe(c => c.StartsWith("__Host-", StringComparison.Ordinal) && c.Contains("secure"));
    }

    [Fact]
    public async Task Behind_a_proxy_browsers_are_told_to_stay_with_TLS()
    {
        using var pia = await FromAsync("198.51.100.7");
        (await pia.Get("session"))
            .Response.Headers.GetValues("Strict-Transport-Security")
            .Single()
            .ShouldBe("max-age=31536000");
    }
}

/// <summary>Without a listed proxy, what a request says of its own address is not believed.</summary>
public sealed class UnlistedProxyTests : IAsyncLifetime
{
    private readonly Product product = new();

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task What_it_says_of_the_address_is_passed_over()
    {
        using var liar = await Api.ConnectAsync(product.Address, "203.0.113.9");
        await liar.Post("session", new { mail = "pia@tarn.example", password = "wrong-wrong-wrong" });
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("ledger?verb=sign-in-refused"))
            .GetProperty("entries")[0]
            .GetProperty("address")
            .GetString()
            .ShouldBe("127.0.0.1");
    }
}
