using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.Access;
using WideKeel.Server.People;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Access;

/// <summary>The search for owners, and lists to mend that report what is new in them.</summary>
public sealed class OwnerTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api manager = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(Directory(groupOwner: null));
        manager = await product.SignInAsync("mikkel");
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        return product.DisposeAsync();
    }

    private static DirectoryState Directory(string? groupOwner, string? link = null) =>
        new(
            [
                new("ann@tarn.example", "Ann", Unit: "Northern"),
                new("bo@tarn.example", "Bo", Unit: "Northern"),
                new("ines@tarn.example", "Ines"),
            ],
            [new("Crew", "Crew", groupOwner, ["ann@tarn.example", "bo@tarn.example"])],
            [
                new(
                    "lib",
                    "Library",
                    "library",
                    null,
                    true,
                    "ines@tarn.example",
                    false,
                    false,
                    null,
                    link is null ? [] : [new(link, "reader", "ann@tarn.example")]
                ),
            ],
            [new("Crew", "lib", "reader")],
            []
        );

    private OwnerTests Rule(int many = 1, int times = 2)
    {
        manager
            .Put(
                "access/owners",
                new
                {
                    on = true,
                    many,
                    weeks = 2,
                    times,
                    allow = Array.Empty<string>(),
                    block = Array.Empty<string>(),
                    words = "The group stays as it is.",
                }
            )
            .Wait(TestContext.Current.CancellationToken);
        return this;
    }

    private async Task<string> AskedAsync(string person)
    {
        await manager.PostOk("access/owners/asking", new { });
        return await LinkToAsync(person);
    }

    private async Task<string> LinkToAsync(string person)
    {
        await using var db = product.Database();
        var question = await db.OwnerQuestions.SingleAsync(
            q => q.Person == person,
            TestContext.Current.CancellationToken
        );
        return await product.LinkAsync(LinkKind.Ownership, question.Id, person);
    }

    private async Task<JsonElement> ThingAsync() =>
        (await manager.GetOk("access/owners")).GetProperty("things").EnumerateArray().Single();

    [Fact]
    public async Task The_most_active_member_gets_a_message_with_a_link_of_their_own()
    {
        await Rule().AskedAsync("ann@tarn.example");
        await using var db = product.Database();
        var message = await db.Messages.SingleAsync(m => m.Kind == "ownership", TestContext.Current.CancellationToken);
        (message.ToMail, message.Link, message.Body.Contains("stays as it is", StringComparison.Ordinal)).ShouldBe(
            ("ann@tarn.example", "/owner/{secret}", true)
        );
    }

    [Fact]
    public async Task Yes_makes_an_owner_in_the_directory()
    {
        var token = await Rule().AskedAsync("ann@tarn.example");
        using var anybody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(anybody, token);
        await anybody.PostOk($"ownership/{token}", new { take = true });
        product
            .Services.GetRequiredService<OrganisationDirectory>()
            .Outside.Read()
            .Groups.Single()
            .Owner.ShouldBe("ann@tarn.example");
    }

    [Fact]
    public async Task The_second_who_says_yes_is_thanked_and_changes_nothing()
    {
        var first = await Rule(many: 2).AskedAsync("ann@tarn.example");
        var second = await LinkToAsync("bo@tarn.example");
        using var anybody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(anybody, first);
        await product.ProveAsync(anybody, second);
        await anybody.PostOk($"ownership/{first}", new { take = true });
        (await anybody.Post($"ownership/{second}", new { take = true })).Problem.ShouldBe("answered");
        (await anybody.GetOk($"ownership/{second}")).GetProperty("state").GetString().ShouldBe("taken");
    }

    [Fact]
    public async Task No_is_kept_with_its_day()
    {
        var token = await Rule().AskedAsync("ann@tarn.example");
        using var anybody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(anybody, token);
        await anybody.PostOk($"ownership/{token}", new { take = false });
        (await ThingAsync()).GetProperty("asked")[0].GetProperty("answer").GetString().ShouldBe("no");
    }

    [Fact]
    public async Task A_directory_that_does_not_answer_keeps_no_answer_either()
    {
        var token = await Rule().AskedAsync("ann@tarn.example");
        product.Services.GetRequiredService<OrganisationDirectory>().Outside.FailNext(1);
        using var anybody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(anybody, token);
        (await anybody.Post($"ownership/{token}", new { take = true })).Problem.ShouldBe("directory-failed");
        (await anybody.GetOk($"ownership/{token}")).GetProperty("state").GetString().ShouldBe("open");
    }

    [Fact]
    public async Task Nobody_is_asked_twice_on_one_day()
    {
        await Rule().AskedAsync("ann@tarn.example");
        (await manager.PostOk("access/owners/asking", new { })).GetProperty("asked").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task The_morning_asks_the_next_when_the_time_is_over()
    {
        await Rule().AskedAsync("ann@tarn.example");
        product.Clock.AdvanceDays(15);
        await product.RunDayAsync();
        (await ThingAsync()).GetProperty("asked")[0].GetProperty("person").GetString().ShouldBe("bo@tarn.example");
    }

    [Theory]
    [InlineData("short")]
    [InlineData("00000000000000000000000000000000000000000000000")]
    public async Task A_guessed_link_shows_nothing(string token)
    {
        using var anybody = await Api.ConnectAsync(product.Address);
        (await anybody.Get($"ownership/{token}")).Problem.ShouldBe("not-found");
    }

    [Fact]
    public async Task A_rule_without_measure_is_refused() =>
        (
            await manager.Put(
                "access/owners",
                new
                {
                    on = true,
                    many = 9,
                    weeks = 2,
                    times = 2,
                    allow = Array.Empty<string>(),
                    block = Array.Empty<string>(),
                    words = "",
                }
            )
        ).Problem.ShouldBe("many-malformed");

    private Task<Answer> WatchAsync(string list, bool tickets, params string[] recipients) =>
        manager.Put($"access/lists/{list}/news", new { tickets, recipients });

    private Task<int> LookAsync() =>
        product.Services.GetRequiredService<MendingWatch>().LookAsync(TestContext.Current.CancellationToken);

    [Fact]
    public async Task What_stood_in_a_list_before_it_was_watched_is_no_news()
    {
        await WatchAsync("ownerless", false, "ines@tarn.example");
        (await LookAsync()).ShouldBe(0);
    }

    [Fact]
    public async Task A_new_line_informs_by_message()
    {
        await WatchAsync("open-to-anyone", false, "ines@tarn.example");
        await product.WriteDirectoryAsync(Directory(groupOwner: null, link: "anyone"));
        (await LookAsync()).ShouldBe(1);
        await using var db = product.Database();
        (
            await db.Messages.SingleAsync(m => m.Kind == "list-to-mend", TestContext.Current.CancellationToken)
        ).Subject.ShouldBe("Open to anyone: 1 new line");
    }

    [Fact]
    public async Task A_new_line_opens_a_ticket_at_each_connected_address()
    {
        using var admin = await product.SignInAsync("jonas");
        await admin.PostOk(
            "webhooks",
            new
            {
                name = "Desk",
                url = "http://127.0.0.1:9/",
                secret = "quiet-harbour-key-12",
            }
        );
        await WatchAsync("open-to-anyone", true);
        await product.WriteDirectoryAsync(Directory(groupOwner: null, link: "anyone"));
        await LookAsync();
        await using var db = product.Database();
        (await db.Deliveries.CountAsync(d => d.Event == "access.line", TestContext.Current.CancellationToken)).ShouldBe(
            1
        );
    }

    [Fact]
    public async Task A_line_is_news_once()
    {
        await WatchAsync("open-to-anyone", false, "ines@tarn.example");
        await product.WriteDirectoryAsync(Directory(groupOwner: null, link: "anyone"));
        await LookAsync();
        (await LookAsync()).ShouldBe(0);
    }

    [Fact]
    public async Task A_line_that_was_mended_and_comes_back_is_news_again()
    {
        await WatchAsync("open-to-anyone", false, "ines@tarn.example");
        await product.WriteDirectoryAsync(Directory(groupOwner: null, link: "anyone"));
        await LookAsync();
        await product.WriteDirectoryAsync(Directory(groupOwner: null));
        await LookAsync();
        await product.WriteDirectoryAsync(Directory(groupOwner: null, link: "anyone"));
        (await LookAsync()).ShouldBe(1);
    }

    [Fact]
    public async Task A_list_that_nobody_watches_any_more_is_quiet()
    {
        await WatchAsync("open-to-anyone", true);
        await WatchAsync("open-to-anyone", false);
        await product.WriteDirectoryAsync(Directory(groupOwner: null, link: "anyone"));
        (await LookAsync()).ShouldBe(0);
    }

    [Fact]
    public async Task A_list_that_there_is_not_cannot_be_watched() =>
        (await WatchAsync("nothing", true)).Problem.ShouldBe("not-found");

    [Fact]
    public async Task A_recipient_without_an_address_is_refused() =>
        (await WatchAsync("unused", true, "nobody")).Problem.ShouldBe("recipient-malformed");
}
