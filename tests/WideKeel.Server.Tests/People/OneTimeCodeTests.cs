using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.People;

/// <summary>One-time codes at the sign-in (RFC 6238): set up, asked for, used once, and turned off.</summary>
public sealed class OneTimeCodeTests : IAsyncLifetime
{
    private readonly Product product = new() { WallClock = new Wall() };
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
    }

    public ValueTask DisposeAsync()
    {
        ines.Dispose();
        return product.DisposeAsync();
    }

    private Wall Clock => (Wall)product.WallClock;

    private string CodeOf(byte[] key)
    {
        // Each code opens one time, so that every step of a test has one of its own.
        Clock.Advance(TimeSpan.FromSeconds(OneTimeCode.StepSeconds));
        return OneTimeCode.At(key, Instant.FromDateTimeOffset(Clock.GetUtcNow()));
    }

    private async Task<byte[]> BeginAsync() =>
        OtpNet.Base32Encoding.ToBytes(
            (await ines.PostOk("session/one-time-codes", new { password = Product.Password }))
                .GetProperty("key")
                .GetString()
        );

    private async Task<(byte[] Key, List<string> Recovery)> TurnOnAsync()
    {
        var key = await BeginAsync();
        var codes = await ines.PostOk("session/one-time-codes/confirmation", new { code = CodeOf(key) });
        return (key, [.. codes.GetProperty("codes").EnumerateArray().Select(c => c.GetString()!)]);
    }

    private async Task<Answer> EnterAsync(string? code, string password = Product.Password)
    {
        using var api = await Api.ConnectAsync(product.Address);
        return await api.Post(
            "session",
            new
            {
                mail = "ines@tarn.example",
                password,
                code,
            }
        );
    }

    private static async Task TurnOffForInesAsync(Api admin)
    {
        var id = (await admin.GetOk("people"))
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == "ines")
            .GetProperty("id")
            .GetInt64();
        (await admin.Delete($"people/{id}/one-time-codes")).Status.ShouldBe(HttpStatusCode.OK);
    }

    private async Task SpoilTheKeyAsync()
    {
        await using var db = product.Database();
        await db.Authenticators.ExecuteUpdateAsync(
            set => set.SetProperty(a => a.Key, "AAAA"),
            TestContext.Current.CancellationToken
        );
    }

    [Fact]
    public async Task The_right_code_signs_in()
    {
        var (key, _) = await TurnOnAsync();
        (await EnterAsync(CodeOf(key))).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_password_alone_is_not_enough()
    {
        await TurnOnAsync();
        (await EnterAsync(null)).Problem.ShouldBe("one-time-code-needed");
    }

    [Fact]
    public async Task A_wrong_password_is_not_said_to_be_right_by_asking_for_a_code()
    {
        await TurnOnAsync();
        (await EnterAsync(null, "wrong-wrong-wrong")).Problem.ShouldBe("sign-in-failed");
    }

    [Fact]
    public async Task A_code_signs_in_once()
    {
        var (key, _) = await TurnOnAsync();
        var code = CodeOf(key);
        await EnterAsync(code);
        (await EnterAsync(code)).Problem.ShouldBe("one-time-code-wrong");
    }

    [Fact]
    public async Task The_code_that_turned_them_on_signs_nobody_in()
    {
        var key = await BeginAsync();
        var code = CodeOf(key);
        await ines.PostOk("session/one-time-codes/confirmation", new { code });
        (await EnterAsync(code)).Problem.ShouldBe("one-time-code-wrong");
    }

    [Fact]
    public async Task Wrong_codes_lock_the_account_as_wrong_passwords_do()
    {
        var (key, _) = await TurnOnAsync();
        for (var i = 0; i < 5; i++)
        {
            await EnterAsync("000000");
        }

        (await EnterAsync(CodeOf(key))).Problem.ShouldBe("locked-out");
    }

    [Fact]
    public async Task A_wrong_code_stands_in_the_ledger()
    {
        await TurnOnAsync();
        await EnterAsync("000000");
        using var admin = await product.SignInAsync("jonas");
        (await admin.GetOk("ledger?kind=person")).GetRawText().ShouldContain("wrong one-time code");
    }

    [Fact]
    public async Task A_key_that_was_never_confirmed_asks_for_nothing()
    {
        await BeginAsync();
        (await EnterAsync(null)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_key_is_shown_only_for_the_password() =>
        (await ines.Post("session/one-time-codes", new { password = "wrong-wrong-wrong" })).Problem.ShouldBe(
            "password-wrong"
        );

    [Fact]
    public async Task A_wrong_first_code_turns_nothing_on()
    {
        await BeginAsync();
        await ines.Post("session/one-time-codes/confirmation", new { code = "000000" });
        (await ines.GetOk("session/one-time-codes")).GetProperty("since").ValueKind.ShouldBe(JsonValueKind.Null);
    }

    [Fact]
    public async Task A_wrong_first_code_leaves_the_session_as_it_is()
    {
        await BeginAsync();
        (await ines.Post("session/one-time-codes/confirmation", new { code = "000000" })).Status.ShouldBe(
            HttpStatusCode.BadRequest
        );
    }

    [Fact]
    public async Task A_code_before_a_key_is_refused() =>
        (await ines.Post("session/one-time-codes/confirmation", new { code = "123456" })).Problem.ShouldBe(
            "one-time-codes-not-begun"
        );

    [Fact]
    public async Task Another_app_does_not_take_the_place_of_one_that_is_on()
    {
        await TurnOnAsync();
        (await ines.Post("session/one-time-codes", new { password = Product.Password })).Problem.ShouldBe(
            "one-time-codes-on"
        );
    }

    [Fact]
    public async Task Turning_them_on_ends_the_sessions_elsewhere()
    {
        using var elsewhere = await product.SignInAsync("ines");
        await TurnOnAsync();
        (await elsewhere.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_recovery_code_stands_in_for_a_code()
    {
        var (_, recovery) = await TurnOnAsync();
        (await EnterAsync(recovery[0].ToUpperInvariant())).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_recovery_code_stands_in_once()
    {
        var (_, recovery) = await TurnOnAsync();
        await EnterAsync(recovery[0]);
        (await EnterAsync(recovery[0])).Problem.ShouldBe("one-time-code-wrong");
    }

    [Fact]
    public async Task Whoever_owns_the_account_gets_a_message_of_a_used_recovery_code()
    {
        var (_, recovery) = await TurnOnAsync();
        await EnterAsync(recovery[0]);
        await using var db = product.Database();
        db.Messages.Single(m => m.Kind == "recovery-code-used").Body.ShouldContain("9 recovery codes are left");
    }

    [Fact]
    public async Task New_recovery_codes_end_the_former_ones()
    {
        var (key, recovery) = await TurnOnAsync();
        await ines.PostOk(
            "session/one-time-codes/recovery-codes",
            new { password = Product.Password, code = CodeOf(key) }
        );
        (await EnterAsync(recovery[0])).Problem.ShouldBe("one-time-code-wrong");
    }

    [Fact]
    public async Task Turned_off_with_password_and_code_the_password_is_enough()
    {
        var (key, _) = await TurnOnAsync();
        await ines.PostOk("session/one-time-codes/turn-off", new { password = Product.Password, code = CodeOf(key) });
        (await EnterAsync(null)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task An_open_session_does_not_turn_them_off_without_a_code()
    {
        await TurnOnAsync();
        (
            await ines.Post("session/one-time-codes/turn-off", new { password = Product.Password, code = "" })
        ).Problem.ShouldBe("one-time-code-needed");
    }

    [Fact]
    public async Task An_administrator_turns_them_off_for_whoever_lost_the_phone()
    {
        await TurnOnAsync();
        using var admin = await product.SignInAsync("jonas");
        await TurnOffForInesAsync(admin);
        (await EnterAsync(null)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Whoever_had_them_turned_off_is_signed_out()
    {
        await TurnOnAsync();
        using var admin = await product.SignInAsync("jonas");
        await TurnOffForInesAsync(admin);
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Whoever_had_them_turned_off_gets_a_message()
    {
        await TurnOnAsync();
        using var admin = await product.SignInAsync("jonas");
        await TurnOffForInesAsync(admin);
        await using var db = product.Database();
        db.Messages.Single(m => m.Kind == "one-time-codes-off").Body.ShouldStartWith("jonas turned");
    }

    [Fact]
    public async Task An_administrator_does_not_turn_the_own_ones_off_without_a_code()
    {
        using var admin = await product.SignInAsync("jonas");
        var me = (await admin.GetOk("session")).GetProperty("person").GetProperty("id").GetInt64();
        (await admin.Delete($"people/{me}/one-time-codes")).Problem.ShouldBe("one-time-codes-own");
    }

    [Fact]
    public async Task The_list_of_people_says_who_has_them()
    {
        await TurnOnAsync();
        using var admin = await product.SignInAsync("jonas");
        (await admin.GetOk("people"))
            .EnumerateArray()
            .Where(p => p.GetProperty("oneTimeCodes").GetBoolean())
            .Select(p => p.GetProperty("name").GetString())
            .ShouldBe(["ines"]);
    }

    [Fact]
    public async Task The_key_lies_protected_in_the_database()
    {
        var key = await BeginAsync();
        await using var db = product.Database();
        var kept = Convert.FromBase64String(
            (await db.Authenticators.SingleAsync(TestContext.Current.CancellationToken)).Key
        );
        kept.AsSpan().IndexOf(key).ShouldBe(-1);
    }

    [Fact]
    public async Task Neither_key_nor_codes_stand_in_the_ledger()
    {
        var (key, recovery) = await TurnOnAsync();
        using var admin = await product.SignInAsync("jonas");
        var ledger = (await admin.GetOk("ledger?kind=person")).GetRawText();
        recovery.Append(OneTimeCode.Base32(key)).ShouldAllBe(secret => !ledger.Contains(secret));
    }

    [Fact]
    public async Task Where_the_key_cannot_be_read_a_recovery_code_signs_in()
    {
        var (_, recovery) = await TurnOnAsync();
        await SpoilTheKeyAsync();
        (await EnterAsync(recovery[0])).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Where_the_key_cannot_be_read_a_code_is_refused_with_the_cause()
    {
        var (key, _) = await TurnOnAsync();
        await SpoilTheKeyAsync();
        (await EnterAsync(CodeOf(key))).Problem.ShouldBe("authenticator-unreadable");
    }
}
