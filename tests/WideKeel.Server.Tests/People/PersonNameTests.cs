using System.Net;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.People;

/// <summary>A name in the ledger stands for one person, and who sets the product up reads its console.</summary>
public sealed class PersonNameTests : IAsyncLifetime
{
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

    private Task<Answer> AddAsync(string name) =>
        jonas.Post(
            "people",
            new
            {
                name,
                mail = $"{Guid.NewGuid():N}@tarn.example",
                remits = new[] { new { role = "staff", unitId = product.Units["Fleet"] } },
            }
        );

    private Task<Answer> RenameAsync(string from, string to) => Product.ChangePersonAsync(jonas, from, rename: to);

    [Theory]
    [InlineData("ines")]
    [InlineData("INES")]
    [InlineData("  ines ")]
    [InlineData("ｉｎｅｓ")]
    public async Task Nobody_is_added_under_the_name_of_another(string name) =>
        (await AddAsync(name)).Problem.ShouldBe("name-taken");

    [Fact]
    public async Task Nobody_takes_the_name_of_another() =>
        (await RenameAsync("pia", "ines")).Problem.ShouldBe("name-taken");

    [Fact]
    public async Task Nobody_takes_a_name_that_another_bore()
    {
        (await RenameAsync("pia", "Pia Holm")).Status.ShouldBe(HttpStatusCode.OK);
        (await AddAsync("pia")).Problem.ShouldBe("name-taken");
    }

    [Fact]
    public async Task A_person_takes_their_own_former_name_again()
    {
        await RenameAsync("pia", "Pia Holm");
        (await RenameAsync("Pia Holm", "pia")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Theory]
    [InlineData("job:scan")]
    [InlineData("Outside:a@b.example")]
    [InlineData("Nobody")]
    [InlineData("set-up")]
    public async Task Nobody_bears_a_name_that_the_ledger_uses_for_no_person(string name) =>
        (await AddAsync(name)).Problem.ShouldBe("name-reserved");

    [Theory]
    [InlineData("in\u200Bes")]
    [InlineData("\u202Eseni")]
    [InlineData("ines\u0007")]
    public async Task Nobody_bears_a_name_with_characters_that_nobody_sees(string name) =>
        (await AddAsync(name)).Problem.ShouldBe("name-unseen-characters");

    [Fact]
    public async Task An_entry_of_the_ledger_bears_the_number_of_who_acted_beside_the_name()
    {
        var added = JsonDocument
            .Parse((await AddAsync("Ola Rand")).Text!)
            .RootElement.GetProperty("person")
            .GetProperty("id")
            .GetInt64();
        await using var db = product.Database();
        var entry = await db
            .Ledger.AsNoTracking()
            .Where(l => l.Verb == "person-added" && l.SubjectId == added.ToString())
            .SingleAsync(TestContext.Current.CancellationToken);
        var actor = await db.Users.SingleAsync(p => p.DisplayName == "jonas", TestContext.Current.CancellationToken);
        ((long?)JsonNode.Parse(entry.Body)!["person"]).ShouldBe(actor.Id);
    }

    [Fact]
    public async Task Without_the_code_from_the_console_nobody_sets_the_product_up()
    {
        await product.StopAsync();
        Directory.Delete(product.Data, recursive: true);
        await product.StartAsync();
        using var stranger = await Api.ConnectAsync(product.Address);
        var answer = await stranger.Post(
            "set-up",
            new
            {
                organisation = "Stranger",
                zone = "Etc/UTC",
                fiscalYearEnd = "12-31",
                administratorName = "Stranger",
                administratorMail = "stranger@tarn.example",
                password = Product.Password,
                code = "ABCDEFGHJK",
            }
        );
        answer.Problem.ShouldBe("code-wrong");
    }
}
