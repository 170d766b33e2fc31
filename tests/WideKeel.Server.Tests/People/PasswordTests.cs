using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.People;

/// <summary>A password that somebody else set is changed before anything else, and makes nobody a second person.</summary>
public sealed class PasswordTests : IAsyncLifetime
{
    private const string Given = "Given-by-jonas-2026";
    private const string Chosen = "Chosen-by-ines-2026";

    private readonly Product product = new();
    private Api jonas = null!;

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

    private async Task ChangeAsync(Api who, string name, string? password, params string[] roles)
    {
        var answer = await Product.ChangePersonAsync(
            who,
            name,
            password: password,
            remits: roles.Select(role => new { role, unitId = product.Units["Tarn Lines"] })
        );
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Body.ToString());
    }

    private Task ResetInesAsync() => ChangeAsync(jonas, "ines", Given, "recordsManager");

    private async Task<Api> InesAsync(string password)
    {
        var api = await Api.ConnectAsync(product.Address);
        (await api.Post("session", new { mail = "ines@tarn.example", password })).Status.ShouldBe(HttpStatusCode.OK);
        await api.RenewTokenAsync();
        return api;
    }

    private static async Task ChooseAsync(Api ines)
    {
        await ines.PostOk("session/password", new { current = Given, password = Chosen });
        await ines.RenewTokenAsync();
    }

    [Fact]
    public async Task After_a_reset_nothing_is_open_before_another_password_is_chosen()
    {
        await ResetInesAsync();
        using var ines = await InesAsync(Given);
        (await ines.Get("series")).Problem.ShouldBe("password-to-choose");
    }

    [Fact]
    public async Task After_that_everything_is_open_again()
    {
        await ResetInesAsync();
        using var ines = await InesAsync(Given);
        await ChooseAsync(ines);
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_chosen_password_signs_in_without_another_choice()
    {
        await ResetInesAsync();
        using (var ines = await InesAsync(Given))
        {
            await ChooseAsync(ines);
        }

        using var again = await InesAsync(Chosen);
        (await again.Get("series")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_given_password_is_not_chosen_once_more()
    {
        await ResetInesAsync();
        using var ines = await InesAsync(Given);
        (await ines.Post("session/password", new { current = Given, password = Given })).Problem.ShouldBe(
            "password-same"
        );
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
    public async Task Another_password_ends_the_sessions_elsewhere()
    {
        await ResetInesAsync();
        using var here = await InesAsync(Given);
        using var elsewhere = await InesAsync(Given);
        await ChooseAsync(here);
        (await elsewhere.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    private async Task<JsonElement> AskedByInesAsync(Api ines)
    {
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
        return (await ines.GetOk("proposals"))[0];
    }

    private async Task<Answer> JonasAgreesAsync()
    {
        using (var admin = await product.SignInAsync("admin"))
        {
            await ChangeAsync(admin, "jonas", null, "administrator", "recordsManager");
        }

        using var ines = await InesAsync(Given);
        await ChooseAsync(ines);
        var asked = await AskedByInesAsync(ines);
        return await jonas.Post(
            $"proposals/{asked.GetProperty("id").GetInt64()}/decision",
            new { agree = true, why = "test" },
            asked.GetProperty("revision").GetInt64()
        );
    }

    [Fact]
    public async Task Who_set_the_password_of_whoever_asked_is_no_second_person()
    {
        await ResetInesAsync();
        (await JonasAgreesAsync()).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task The_refusal_says_that_it_is_for_the_password()
    {
        await ResetInesAsync();
        (await JonasAgreesAsync())
            .Body.GetProperty("title")
            .GetString()
            .ShouldBe("One of you set the other's password within 30 days; a third person must do it.");
    }

    [Fact]
    public async Task Thirty_days_later_they_are_two_again()
    {
        await ResetInesAsync();
        product.Clock.AdvanceDays(31);
        jonas.Dispose();
        jonas = await product.SignInAsync("jonas");
        (await JonasAgreesAsync()).Status.ShouldBe(HttpStatusCode.OK);
    }
}
