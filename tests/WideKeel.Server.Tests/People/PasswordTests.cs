using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.People;

/// <summary>Passwords are chosen by their persons, from a link in their mailbox, and known to nobody else.</summary>
public sealed class PasswordTests : IAsyncLifetime
{
    private const string Chosen = "Winter-quay-lantern-26";

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

    private async Task<long> IdAsync(string name)
    {
        await using var db = product.Database();
        return await db.Users.Where(p => p.DisplayName == name).Select(p => p.Id).SingleAsync(Stop);
    }

    private async Task ResetInesAsync() =>
        (await Product.ResetPasswordAsync(jonas, "ines")).Status.ShouldBe(HttpStatusCode.OK);

    private async Task ChooseInesAsync() =>
        await product.ChoosePasswordAsync(await IdAsync("ines"), "ines@tarn.example", Chosen);

    private async Task<Answer> SignInAsync(string mail, string password)
    {
        using var api = await Api.ConnectAsync(product.Address);
        return await api.Post("session", new { mail, password });
    }

    private Task<Answer> InviteAsync(string mail) =>
        jonas.Post(
            "people",
            new
            {
                name = "Ylva",
                mail,
                remits = new[] { new { role = "staff", unitId = product.Units["Fleet"] } },
            }
        );

    [Fact]
    public async Task A_new_account_has_no_password_until_its_person_chooses_one()
    {
        var invited = await InviteAsync("ylva@tarn.example");
        invited.Body.GetProperty("person").GetProperty("invited").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task An_account_without_a_password_is_opened_by_none()
    {
        await InviteAsync("ylva@tarn.example");
        (await SignInAsync("ylva@tarn.example", "")).Problem.ShouldBe("sign-in-failed");
    }

    [Fact]
    public async Task The_answer_to_the_administrator_holds_no_link_when_it_was_mailed() =>
        (await InviteAsync("ylva@tarn.example")).Body.GetProperty("link").ValueKind.ShouldBe(JsonValueKind.Null);

    [Fact]
    public async Task The_list_of_messages_shows_the_administrator_no_invitation_that_opens()
    {
        await InviteAsync("ylva@tarn.example");
        var text = (await jonas.GetOk("messages")).ToString();
        text.ShouldNotMatch("invitation/[0-9a-f]{32}");
    }

    [Fact]
    public async Task The_mail_brings_the_link_to_its_person()
    {
        await InviteAsync("ylva@tarn.example");
        await Product.UntilAsync(async () => (await MailsAsync()).Contains("/invitation/", StringComparison.Ordinal));
        (await MailsAsync()).ShouldMatch("/invitation/[0-9a-f]{48}");
    }

    /// <summary>What lies in the mailboxes that the sink stands in for, as their owners read it.</summary>
    private async Task<string> MailsAsync()
    {
        var folder = Path.Combine(product.Data, "mail-sink");
        var texts = Directory.Exists(folder)
            ? await Task.WhenAll(Directory.EnumerateFiles(folder, "*.eml").Select(f => File.ReadAllTextAsync(f, Stop)))
            : [];
        return string.Concat(texts).Replace("=\r\n", "", StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_was_mailed_to_somebody_is_shown_to_nobody_else()
    {
        await InviteAsync("ylva@tarn.example");
        await Product.UntilAsync(async () => (await ToYlvaAsync()).Length > 0);
        (await ToYlvaAsync()).ShouldAllBe(m => !m.Contains("/invitation/", StringComparison.Ordinal));
    }

    private async Task<string[]> ToYlvaAsync() =>
        [
            .. (await jonas.GetOk("mail-sink"))
                .EnumerateArray()
                .Where(m => m.GetProperty("to").GetString()!.Contains("ylva@", StringComparison.Ordinal))
                .Select(m => m.GetProperty("text").GetString()!),
        ];

    [Fact]
    public async Task The_secret_of_a_message_is_gone_once_it_was_sent()
    {
        await InviteAsync("ylva@tarn.example");
        await Product.UntilAsync(async () =>
        {
            await using var db = product.Database();
            return await db.Messages.AnyAsync(
                m => m.Kind == "invitation" && m.ToName == "Ylva" && m.SentAt != null,
                Stop
            );
        });
        await using var after = product.Database();
        (await after.Messages.Where(m => m.ToName == "Ylva").Select(m => m.Secret).SingleAsync(Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task An_invitation_is_used_once()
    {
        await ResetInesAsync();
        var secret = await product.LinkAsync(LinkKind.Invitation, await IdAsync("ines"), "ines@tarn.example");
        using var anybody = await Api.ConnectAsync(product.Address);
        await anybody.PostOk($"invitations/{secret}", new { password = Chosen });
        (await anybody.Post($"invitations/{secret}", new { password = "Another-long-way-26" })).Problem.ShouldBe(
            "invitation-ended"
        );
    }

    [Fact]
    public async Task An_invitation_expires()
    {
        var secret = await product.LinkAsync(LinkKind.Invitation, await IdAsync("ines"), "ines@tarn.example");
        product.Clock.AdvanceDays(401);
        using var anybody = await Api.ConnectAsync(product.Address);
        (await anybody.Get($"invitations/{secret}")).Problem.ShouldBe("invitation-ended");
    }

    [Fact]
    public async Task A_second_invitation_ends_the_first()
    {
        await ResetInesAsync();
        var first = await product.LinkAsync(LinkKind.Invitation, await IdAsync("ines"), "ines@tarn.example");
        await ResetInesAsync();
        using var anybody = await Api.ConnectAsync(product.Address);
        (await anybody.Get($"invitations/{first}")).Problem.ShouldBe("invitation-ended");
    }

    [Fact]
    public async Task After_a_reset_the_former_password_opens_nothing()
    {
        await ResetInesAsync();
        (await SignInAsync("ines@tarn.example", Product.Password)).Problem.ShouldBe("sign-in-failed");
    }

    [Fact]
    public async Task After_a_reset_the_chosen_password_signs_in()
    {
        await ResetInesAsync();
        await ChooseInesAsync();
        (await SignInAsync("ines@tarn.example", Chosen)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Nobody_resets_their_own_password_without_the_current_one() =>
        (await Product.ResetPasswordAsync(jonas, "jonas")).Problem.ShouldBe("password-own");

    [Fact]
    public async Task A_change_of_a_person_sets_no_password()
    {
        using var api = await product.SignInAsync("jonas");
        await api.Put(
            $"people/{await IdAsync("ines")}",
            new
            {
                name = "ines",
                active = true,
                remits = Array.Empty<object>(),
                newPassword = Chosen,
            },
            1
        );
        (await SignInAsync("ines@tarn.example", Product.Password)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_wrong_current_password_changes_nothing()
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Post("session/password", new { current = "no", password = Chosen })).Problem.ShouldBe(
            "password-wrong"
        );
    }

    [Fact]
    public async Task Wrong_current_passwords_count_within_a_session()
    {
        using var ines = await product.SignInAsync("ines");
        for (var i = 0; i < 5; i++)
        {
            await ines.Post("session/password", new { current = "no", password = Chosen });
        }

        (await ines.Post("session/password", new { current = Product.Password, password = Chosen })).Problem.ShouldBe(
            "locked-out"
        );
    }

    [Fact]
    public async Task Another_password_ends_the_sessions_elsewhere()
    {
        using var here = await product.SignInAsync("ines");
        using var elsewhere = await product.SignInAsync("ines");
        await here.PostOk("session/password", new { current = Product.Password, password = Chosen });
        (await elsewhere.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("password1234")]
    [InlineData("Password!2026")]
    [InlineData("qwertyqwerty")]
    [InlineData("123456789012")]
    [InlineData("ines@tarn.example")]
    [InlineData("ines.tarn.2026")]
    public async Task A_password_that_is_guessed_first_is_refused(string password)
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Post("session/password", new { current = Product.Password, password })).Problem.ShouldBe(
            "password-weak"
        );
    }

    private async Task<Answer> JonasAgreesAsync()
    {
        using (var admin = await product.SignInAsync("admin"))
        {
            var answer = await Product.ChangePersonAsync(
                admin,
                "jonas",
                remits: new[] { "administrator", "recordsManager" }.Select(role => new
                {
                    role,
                    unitId = product.Units["Tarn Lines"],
                })
            );
            answer.Status.ShouldBe(HttpStatusCode.OK, answer.Body.ToString());
        }

        using var ines = await product.SignInAsync("ines");
        var draft = Product.Definition(title: "Temporary", period: "P1Y", atEnd: "destroy");
        var made = await ines.PostOk(
            "series",
            new
            {
                code = "TMP-010",
                unitId = product.Units["Tarn Lines"],
                draft,
            }
        );
        await Product.ActivateAsync(ines, made.GetProperty("row").GetProperty("id").GetInt64(), draft);
        var asked = (await ines.GetOk("proposals"))[0];
        return await jonas.Post(
            $"proposals/{asked.GetProperty("id").GetInt64()}/decision",
            new { agree = true, why = "test" },
            asked.GetProperty("revision").GetInt64()
        );
    }

    /// <summary>Where no mail can be sent, the administrator hands the link over, and so could use it.</summary>
    private async Task HandOverAsync()
    {
        await using var db = product.Database();
        var jonasId = await IdAsync("jonas");
        await db
            .Users.Where(p => p.DisplayName == "ines")
            .ExecuteUpdateAsync(set => set.SetProperty(p => p.PasswordSetById, jonasId), Stop);
    }

    [Fact]
    public async Task Who_could_have_chosen_the_password_of_whoever_asked_is_no_second_person()
    {
        await HandOverAsync();
        (await JonasAgreesAsync()).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task The_refusal_says_why()
    {
        await HandOverAsync();
        (await JonasAgreesAsync())
            .Body.GetProperty("title")
            .GetString()
            .ShouldBe("One of you made or reset the other's account; a third person must do it.");
    }

    [Fact]
    public async Task Time_alone_makes_them_not_two()
    {
        await HandOverAsync();
        product.Clock.AdvanceDays(400);
        jonas.Dispose();
        jonas = await product.SignInAsync("jonas");
        (await JonasAgreesAsync()).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task Who_made_an_account_and_whoever_opened_it_by_mail_are_two()
    {
        (await JonasAgreesAsync()).Status.ShouldBe(HttpStatusCode.OK);
    }
}
