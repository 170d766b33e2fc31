using System.Net;
using WideKeel.Server.Kernel;

namespace WideKeel.Server.Tests.Kernel;

/// <summary>What signs people in is worth nothing to somebody who has a copy of the data folder.</summary>
public sealed class KeyAtRestTests : IAsyncLifetime
{
    private readonly Product product = new();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    private async Task RestartAsync(bool withAnotherKey)
    {
        await product.StopAsync();
        if (withAnotherKey)
        {
            File.Delete(Path.Combine(product.Secrets, KeyAtRest.FileName));
        }

        await product.StartAsync();
    }

    private async Task<HttpStatusCode> ReadsAsync(string cookies) =>
        (await product.ReadWithAsync(cookies, "series")).Status;

    private async Task<string> CookiesAsync()
    {
        using var ines = await product.SignInAsync("ines");
        return ines.Cookies.GetCookieHeader(product.Address);
    }

    [Fact]
    public async Task The_keys_of_cookies_lie_encrypted_in_the_data_folder()
    {
        _ = await CookiesAsync();
        Directory
            .EnumerateFiles(Path.Combine(product.Data, "cookie-keys"))
            .Select(File.ReadAllText)
            .ShouldAllBe(key => key.Contains("<encryptedSecret") && !key.Contains("<value>"));
    }

    [Fact]
    public async Task Nobody_but_the_services_account_reads_the_key()
    {
        _ = await CookiesAsync();
        File.GetUnixFileMode(Path.Combine(product.Secrets, KeyAtRest.FileName))
            .ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }

    [Fact]
    public async Task A_cookie_goes_on_after_a_restart()
    {
        var cookies = await CookiesAsync();
        await RestartAsync(withAnotherKey: false);
        (await ReadsAsync(cookies)).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_cookie_is_worth_nothing_where_the_key_is_another()
    {
        var cookies = await CookiesAsync();
        await RestartAsync(withAnotherKey: true);
        (await ReadsAsync(cookies)).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task People_sign_in_anew_where_the_key_is_another()
    {
        _ = await CookiesAsync();
        await RestartAsync(withAnotherKey: true);
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public void A_folder_in_which_no_key_can_be_made_is_refused_with_its_name()
    {
        var file = Path.Combine(product.Folder, "a-file");
        File.WriteAllText(file, "");
        Should.Throw<NotOursException>(() => KeyAtRest.Open(file)).Message.ShouldContain("--secrets");
    }

    [Fact]
    public async Task Of_two_that_make_the_key_at_once_both_have_the_same()
    {
        var folder = Path.Combine(product.Folder, "both");
        var keys = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => Task.Run(() => KeyAtRest.Open(folder), Stop)));
        keys.Select(k => k.Thumbprint).Distinct().Count().ShouldBe(1);
    }
}
