using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.People;

/// <summary>
/// What is stored of a right or a role that this version no longer knows gives nothing and breaks nothing.
/// </summary>
public sealed class FormerRightsTests : IAsyncLifetime
{
    private readonly Product product = new();

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task A_key_with_a_scope_that_no_longer_exists_answers_with_its_other_scopes()
    {
        using var ines = await product.SignInAsync("ines");
        var key = await ines.PostOk(
            "api-keys",
            new
            {
                name = "old",
                scopes = new[] { "readSchedule" },
                days = 30,
            }
        );
        await ExecuteAsync("UPDATE api_key SET Scopes = 'FlyKites,ReadSchedule'");
        using var program = new HttpClient { BaseAddress = product.Address };
        program.DefaultRequestHeaders.Authorization = new("Bearer", key.GetProperty("key").GetString());
        (
            await program.GetAsync(new Uri("/api/series", UriKind.Relative), TestContext.Current.CancellationToken)
        ).StatusCode.ShouldBe(System.Net.HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_list_of_keys_leaves_out_a_scope_that_no_longer_exists()
    {
        using var ines = await product.SignInAsync("ines");
        await ines.PostOk(
            "api-keys",
            new
            {
                name = "old",
                scopes = new[] { "readSchedule" },
                days = 30,
            }
        );
        await ExecuteAsync("UPDATE api_key SET Scopes = 'FlyKites,ReadSchedule'");
        (await ines.GetOk("api-keys"))[0]
            .GetProperty("scopes")
            .EnumerateArray()
            .Select(s => s.GetString())
            .ShouldBe(["readSchedule"]);
    }

    [Fact]
    public async Task A_person_with_a_role_that_no_longer_exists_is_signed_in_without_it()
    {
        await ExecuteAsync("UPDATE remit SET Role = 'Archivist' WHERE Role = 'Staff'");
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("session")).GetProperty("person").GetProperty("remits").GetArrayLength().ShouldBe(0);
    }

    private async Task ExecuteAsync(string sql)
    {
        await using var db = product.Database();
        await db.Database.ExecuteSqlRawAsync(sql, TestContext.Current.CancellationToken);
    }
}
