using System.Net;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.People;

/// <summary>
/// Links by which somebody decides without an account, in the hands of those who should not have them: the administrator who
/// reads lists, whoever a message was forwarded to, whoever has left.
/// </summary>
public sealed class LinkTests : IAsyncLifetime
{
    private const string Vera = "vera@tarn.example";

    private readonly Product product = new();
    private Api manager = null!;
    private Api nobody = null!;
    private long review;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static DirectoryState Directory(string? veraLeft = null) =>
        DirectoryState.Empty with
        {
            People =
            [
                new(Vera, "Vera", Left: veraLeft),
                new("guest@yard.example", "Gus", "guest", Sponsor: Vera),
                new("mikkel@tarn.example", "Mikkel"),
            ],
            Groups = [new("Dock", "Dock", "mikkel@tarn.example", ["guest@yard.example"])],
        };

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(Directory());
        manager = await product.SignInAsync("mikkel");
        await manager.PostOk("reviews", Access.AccessTests.Review(reviewer: "named", named: [Vera]));
        review = (await manager.GetOk("reviews"))[0].GetProperty("id").GetInt64();
        await manager.PostOk($"reviews/{review}/rounds", new { });
        nobody = await Api.ConnectAsync(product.Address);
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        nobody.Dispose();
        return product.DisposeAsync();
    }

    private async Task<long> PartAsync()
    {
        await using var db = product.Database();
        return await db.ReviewerLinks.Select(l => l.Id).SingleAsync(Stop);
    }

    private async Task<string> LinkAsync()
    {
        await using var db = product.Database();
        var link = await db.ReviewerLinks.SingleAsync(Stop);
        return await product.LinkAsync(LinkKind.Review, link.Id, link.Mail);
    }

    private async Task<Answer> DecideAsync(Api who, string link)
    {
        var line = (await manager.GetOk($"reviews/{review}/rounds/1"))
            .GetProperty("lines")[0]
            .GetProperty("id")
            .GetInt64();
        return await who.Post(
            $"review/{link}/answers",
            new
            {
                lines = new[] { line },
                decision = "keep",
                reason = "",
            }
        );
    }

    [Fact]
    public async Task A_link_alone_decides_nothing() =>
        (await DecideAsync(nobody, await LinkAsync())).Problem.ShouldBe("link-code-needed");

    [Fact]
    public async Task With_the_code_from_the_mailbox_it_decides()
    {
        var link = await product.ProveAsync(nobody, await LinkAsync());
        (await DecideAsync(nobody, link)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_ledger_says_that_it_was_by_link()
    {
        var link = await product.ProveAsync(nobody, await LinkAsync());
        await DecideAsync(nobody, link);
        await using var db = product.Database();
        (await db.Ledger.Where(e => e.Verb == "reviewed").Select(e => e.Body).SingleAsync(Stop)).ShouldContain(
            "\"via\":\"link\""
        );
    }

    [Fact]
    public async Task The_code_of_one_browser_is_not_that_of_another()
    {
        var link = await product.ProveAsync(nobody, await LinkAsync());
        using var other = await Api.ConnectAsync(product.Address);
        (await DecideAsync(other, link)).Problem.ShouldBe("link-code-needed");
    }

    [Fact]
    public async Task Whoever_is_signed_in_as_its_person_needs_no_code()
    {
        using var vera = await product.SignInAsync("vera");
        (await DecideAsync(vera, await LinkAsync())).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Whoever_is_signed_in_as_somebody_else_does()
    {
        using var jonas = await product.SignInAsync("jonas");
        (await DecideAsync(jonas, await LinkAsync())).Problem.ShouldBe("link-code-needed");
    }

    [Fact]
    public async Task The_number_of_a_part_opens_it_to_nobody_but_its_person()
    {
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.Get($"review/{await PartAsync()}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_number_of_a_part_opens_it_to_nobody_without_a_session() =>
        (await nobody.Get($"review/{await PartAsync()}")).Status.ShouldBe(HttpStatusCode.NotFound);

    [Fact]
    public async Task A_wrong_code_is_refused()
    {
        var link = await LinkAsync();
        var code = await product.CodeAsync(link);
        (
            await nobody.Post($"links/{link}/entrance", new { code = code == "000000" ? "000001" : "000000" })
        ).Problem.ShouldBe("code-wrong");
    }

    [Fact]
    public async Task After_five_wrong_codes_the_right_one_is_worth_nothing()
    {
        var link = await LinkAsync();
        var code = await product.CodeAsync(link);
        for (var i = 0; i < 5; i++)
        {
            await nobody.Post($"links/{link}/entrance", new { code = "x" });
        }

        (await nobody.Post($"links/{link}/entrance", new { code })).Problem.ShouldBe("code-expired");
    }

    [Fact]
    public async Task A_code_expires()
    {
        var link = await LinkAsync();
        var code = await product.CodeAsync(link);
        product.Clock.Advance(NodaTime.Duration.FromMinutes(16));
        (await nobody.Post($"links/{link}/entrance", new { code })).Problem.ShouldBe("code-expired");
    }

    [Fact]
    public async Task A_code_is_used_once()
    {
        var link = await LinkAsync();
        var code = await product.CodeAsync(link);
        await nobody.PostOk($"links/{link}/entrance", new { code });
        (await nobody.Post($"links/{link}/entrance", new { code })).Problem.ShouldBe("code-expired");
    }

    [Fact]
    public async Task The_code_goes_to_the_person_of_the_link()
    {
        await nobody.PostOk($"links/{await LinkAsync()}/code", new { });
        await using var db = product.Database();
        (await db.Messages.Where(m => m.Kind == "link-code").Select(m => m.ToMail).SingleAsync(Stop)).ShouldBe(Vera);
    }

    [Fact]
    public async Task The_code_stands_in_no_list_of_messages()
    {
        await nobody.PostOk($"links/{await LinkAsync()}/code", new { });
        await using var db = product.Database();
        (await db.Messages.Where(m => m.Kind == "link-code").Select(m => m.Body).SingleAsync(Stop)).ShouldContain(
            "{secret}"
        );
    }

    [Fact]
    public async Task The_answer_shows_little_of_the_address() =>
        (await nobody.PostOk($"links/{await LinkAsync()}/code", new { }))
            .GetProperty("mail")
            .GetString()
            .ShouldBe("v…@tarn.example");

    [Fact]
    public async Task Codes_are_not_asked_for_by_the_dozen()
    {
        var link = await LinkAsync();
        await nobody.PostOk($"links/{link}/code", new { });
        (await nobody.Post($"links/{link}/code", new { })).Problem.ShouldBe("code-sent");
    }

    [Fact]
    public async Task The_list_of_messages_holds_no_secret_of_a_link()
    {
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.GetOk("messages")).ToString().ShouldNotMatch("review/[0-9a-f]{32}");
    }

    [Fact]
    public async Task The_database_holds_none_either()
    {
        var link = await LinkAsync();
        await using var db = product.Database();
        (await db.PersonLinks.AnyAsync(l => l.Hash == link, Stop)).ShouldBeFalse();
    }

    [Fact]
    public async Task A_link_of_one_kind_opens_nothing_of_another() =>
        (await nobody.Get($"policy/{await LinkAsync()}")).Status.ShouldBe(HttpStatusCode.NotFound);

    [Fact]
    public async Task A_link_ends_when_its_person_leaves()
    {
        var link = await LinkAsync();
        await product.WriteDirectoryAsync(Directory(veraLeft: "2026-06-01"));
        (await nobody.Get($"review/{link}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_link_ends_when_the_directory_deletes_its_person()
    {
        var link = await LinkAsync();
        await using var db = product.Database();
        await db
            .DirectoryPeople.Where(p => p.Mail == Vera)
            .ExecuteUpdateAsync(set => set.SetProperty(p => p.RemovedAt, product.Clock.GetCurrentInstant()), Stop);
        (await nobody.Get($"review/{link}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Whoever_typed_the_code_and_left_decides_no_more()
    {
        var link = await product.ProveAsync(nobody, await LinkAsync());
        await product.WriteDirectoryAsync(Directory(veraLeft: "2026-06-01"));
        (await DecideAsync(nobody, link)).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Whoever_left_in_the_directory_cannot_sign_in()
    {
        await product.WriteDirectoryAsync(Directory(veraLeft: "2026-06-01"));
        (await nobody.Post("session", new { mail = Vera, password = Product.Password })).Problem.ShouldBe(
            "sign-in-failed"
        );
    }

    [Fact]
    public async Task Their_last_day_is_not_over_before_it_ends()
    {
        await product.WriteDirectoryAsync(Directory(veraLeft: "2026-06-16"));
        (await nobody.Post("session", new { mail = Vera, password = Product.Password })).Status.ShouldBe(
            HttpStatusCode.OK
        );
    }

    [Fact]
    public async Task A_session_that_was_open_ends_with_them()
    {
        using var vera = await product.SignInAsync("vera");
        await product.WriteDirectoryAsync(Directory(veraLeft: "2026-06-01"));
        (await vera.Get("series")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }
}
