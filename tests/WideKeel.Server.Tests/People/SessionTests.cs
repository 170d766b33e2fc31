using System.Net;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Server.Kernel;

namespace WideKeel.Server.Tests.People;

/// <summary>Sessions are rows that end, and what works without a session ends with its person's password.</summary>
public sealed class SessionTests : IAsyncLifetime
{
    private readonly Product product = new();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    /// <summary>What the copy of somebody's cookies reads.</summary>
    private async Task<HttpStatusCode> CopyReadsAsync(string cookies) =>
        (await product.ReadWithAsync(cookies, "series")).Status;

    private HttpClient WithKey(JsonElement issued)
    {
        var program = new HttpClient { BaseAddress = new Uri(product.Address, "/api/") };
        program.DefaultRequestHeaders.Authorization = new("Bearer", issued.GetProperty("key").GetString());
        return program;
    }

    private static Task<JsonElement> KeyOfAsync(Api who) =>
        who.PostOk(
            "api-keys",
            new
            {
                name = "reader",
                scopes = new[] { "readSchedule" },
                days = 5,
            }
        );

    [Fact]
    public async Task A_copied_cookie_reads_while_its_session_is_open()
    {
        using var ines = await product.SignInAsync("ines");
        (await CopyReadsAsync(ines.Cookies.GetCookieHeader(product.Address))).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_copied_cookie_reads_nothing_after_its_person_signed_out()
    {
        using var ines = await product.SignInAsync("ines");
        var copied = ines.Cookies.GetCookieHeader(product.Address);
        await ines.Delete("session");
        (await CopyReadsAsync(copied)).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_session_that_its_person_ended_from_elsewhere_reads_nothing_more()
    {
        using var office = await product.SignInAsync("ines");
        using var home = await product.SignInAsync("ines");
        var other = (await home.GetOk("sessions"))
            .EnumerateArray()
            .First(s => !s.GetProperty("here").GetBoolean())
            .GetProperty("id")
            .GetInt64();
        (await home.Delete($"sessions/{other}")).Status.ShouldBe(HttpStatusCode.OK);
        (await office.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Ending_all_others_leaves_the_session_that_asks()
    {
        using var office = await product.SignInAsync("ines");
        using var home = await product.SignInAsync("ines");
        await home.Delete("sessions");
        (await home.GetOk("sessions")).GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task Nobody_ends_the_session_of_somebody_else()
    {
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var hers = (await ines.GetOk("sessions"))[0].GetProperty("id").GetInt64();
        (await tobias.Delete($"sessions/{hers}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Theory]
    [InlineData("api-keys", """{"name":"stronger","scopes":["readSchedule"],"days":300}""")]
    [InlineData("calendar-feed", "{}")]
    public async Task A_key_makes_nothing_that_works_without_signing_in(string path, string body)
    {
        using var ines = await product.SignInAsync("ines");
        using var program = WithKey(await KeyOfAsync(ines));
        using var content = new StringContent(body, System.Text.Encoding.UTF8, "application/json");
        var answer = await program.PostAsync(new Uri(path, UriKind.Relative), content, Stop);
        (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain("key-by-key");
    }

    private async Task<Wall> WithWallAsync()
    {
        var wall = new Wall();
        await product.StopAsync();
        product.WallClock = wall;
        await product.StartAsync();
        return wall;
    }

    [Fact]
    public async Task A_session_in_which_nothing_is_asked_is_over_after_an_hour()
    {
        var wall = await WithWallAsync();
        using var ines = await product.SignInAsync("ines");
        wall.Advance(TimeSpan.FromMinutes(61));
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_session_in_which_something_is_asked_goes_on()
    {
        var wall = await WithWallAsync();
        using var ines = await product.SignInAsync("ines");
        wall.Advance(TimeSpan.FromMinutes(50));
        await ines.Get("series");
        wall.Advance(TimeSpan.FromMinutes(50));
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_session_is_over_after_twelve_hours_however_much_is_asked()
    {
        var wall = await WithWallAsync();
        using var ines = await product.SignInAsync("ines");
        for (var i = 0; i < 15; i++)
        {
            wall.Advance(TimeSpan.FromMinutes(50));
            await ines.Get("series");
        }

        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    /// <summary>The administrator resets the password of Ines.</summary>
    private async Task ResetAsync()
    {
        using var admin = await product.SignInAsync("jonas");
        (await Product.ResetPasswordAsync(admin, "ines")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_reset_of_the_password_ends_the_keys()
    {
        using var ines = await product.SignInAsync("ines");
        using var program = WithKey(await KeyOfAsync(ines));
        await ResetAsync();
        (await program.GetAsync(new Uri("series", UriKind.Relative), Stop)).StatusCode.ShouldBe(
            HttpStatusCode.Unauthorized
        );
    }

    [Fact]
    public async Task A_reset_of_the_password_ends_the_sessions()
    {
        using var ines = await product.SignInAsync("ines");
        await ResetAsync();
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_reset_of_the_password_is_an_act_of_its_own_in_the_ledger()
    {
        await ResetAsync();
        using var admin = await product.SignInAsync("jonas");
        (await admin.GetOk("ledger?kind=person")).GetRawText().ShouldContain("password-reset");
    }

    [Fact]
    public async Task A_reset_of_the_password_is_told_to_its_person()
    {
        await ResetAsync();
        await using var db = product.Database();
        db.Messages.Select(m => m.Subject).ShouldContain("Your password was reset");
    }

    [Fact]
    public void A_second_process_is_refused_in_the_same_folder()
    {
        using var second = new FolderLock();
        var folder = product.Services.GetRequiredService<WideKeelOptions>().DataFolder;
        Should.Throw<NotOursException>(() => second.Take(folder)).Message.ShouldContain("Another process works in");
    }

    [Fact]
    public async Task The_password_of_a_mail_server_is_typed_again_for_another_server()
    {
        using var admin = await product.SignInAsync("jonas");
        var settings = new
        {
            host = "mail.example",
            port = 465,
            tls = true,
            user = "records",
            password = (string?)"a-secret-of-the-server",
            from = "records@tarn.example",
            address = "",
            certificateYears = 20,
        };
        (await admin.Put("mail-settings", settings)).Status.ShouldBe(HttpStatusCode.OK);
        (
            await admin.Put("mail-settings", settings with { host = "elsewhere.example", password = null })
        ).Problem.ShouldBe("password-needed");
    }

    [Theory]
    [InlineData("[null,1]")]
    [InlineData("[[],1]")]
    [InlineData("{}")]
    public async Task A_cursor_that_is_none_is_refused(string json)
    {
        using var ines = await product.SignInAsync("ines");
        var cursor = Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes(json)).TrimEnd('=');
        (await ines.Get($"items?cursor={cursor}")).Status.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task A_query_with_an_empty_row_is_refused()
    {
        using var ines = await product.SignInAsync("ines");
        (
            await ines.Post(
                "query/writing",
                new { form = new { all = true, rows = new object?[] { null } }, sortBy = "" }
            )
        ).Status.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Theory]
    [InlineData("trigger-events/csv")]
    [InlineData("trigger-events/csv/becomeDue")]
    public async Task A_quote_without_a_partner_is_refused_with_line_and_column(string path)
    {
        using var ines = await product.SignInAsync("ines");
        var answer = await ines.Post(
            path,
            new { csv = "type,subject,date\nsold,\"T1,2026-01-01\nsold,T2,2026-01-01\n" }
        );
        answer.Text.ShouldNotBeNull().ShouldContain("Line 2, column 6");
    }
}
