using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.Matters;

/// <summary>What custodians and their managers read.</summary>
public sealed class NoticeTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api vera = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk(
            "directory",
            new
            {
                people = "name,mail,unit,title,manager,leaves\nAnna Brand,anna@tarn.example,Fleet,Master,edvin@tarn.example,\n",
                groups = "group,member\n",
            }
        );
        vera = await product.SignInAsync("vera");
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        return product.DisposeAsync();
    }

    /// <summary>A matter with Anna as its custodian.</summary>
    private async Task<long> MatterAsync(string name)
    {
        var matter = await product.OpenMatterAsync(vera, name);
        var offer = (await vera.GetOk($"matters/{matter}/custodians/offers?words=Anna"))[0];
        await vera.PostOk(
            $"matters/{matter}/custodians",
            new
            {
                personId = offer.GetProperty("personId").GetInt64(),
                containers = Array.Empty<long>(),
                authored = true,
            }
        );
        return matter;
    }

    private Task<JsonElement> IssueAsync(long matter, string kind) =>
        vera.PostOk(
            $"matters/{matter}/notices",
            new
            {
                kind,
                subject = "{organisation}: {matter}",
                body = "Dear {name}.",
                questions = Array.Empty<string>(),
                remindDays = 7,
                escalateDays = 10,
                custodians = Array.Empty<long>(),
            }
        );

    private async Task<List<(string Subject, string Text)>> MailsToAsync(string mail)
    {
        await using var db = product.Database();
        return (
            await db
                .Messages.Where(m => m.ToMail == mail)
                .OrderBy(m => m.Id)
                .Select(m => new { m.Subject, m.Body })
                .ToListAsync(Stop)
        ).ConvertAll(m => (m.Subject, m.Body));
    }

    private async Task EscalatedAsync(long matter)
    {
        product.Clock.AdvanceDays(11);
        await vera.WaitForAsync(
            $"matters/{matter}",
            m => m.GetProperty("custodians")[0].GetProperty("escalatedAt").ValueKind != JsonValueKind.Null
        );
    }

    [Fact]
    public async Task A_reminder_fills_every_field_of_its_subject()
    {
        var matter = await MatterAsync("Collision");
        await IssueAsync(matter, "hold");
        product.Clock.AdvanceDays(8);
        await vera.WaitForAsync(
            $"matters/{matter}",
            m => m.GetProperty("custodians")[0].GetProperty("reminders").GetInt32() == 1
        );
        (await MailsToAsync("anna@tarn.example"))[^1].Subject.ShouldBe("Reminder: Tarn Lines: Collision");
    }

    [Fact]
    public async Task A_manager_reads_on_their_own_page_who_has_not_acknowledged()
    {
        var matter = await MatterAsync("Collision");
        await IssueAsync(matter, "hold");
        await EscalatedAsync(matter);
        using var edvin = await product.SignInAsync("edvin");
        var waiting = (await edvin.GetOk("notices")).GetProperty("outstanding")[0];
        (waiting.GetProperty("name").GetString(), waiting.GetProperty("days").GetInt32()).ShouldBe(("Anna Brand", 11));
    }

    [Fact]
    public async Task A_manager_reads_nothing_of_what_it_is_about()
    {
        var matter = await MatterAsync("Collision");
        await IssueAsync(matter, "hold");
        await EscalatedAsync(matter);
        using var edvin = await product.SignInAsync("edvin");
        (await edvin.GetOk("notices")).GetRawText().ShouldNotContain("Collision");
    }

    [Fact]
    public async Task Nobody_else_reads_who_has_not_acknowledged()
    {
        var matter = await MatterAsync("Collision");
        await IssueAsync(matter, "hold");
        await EscalatedAsync(matter);
        using var maren = await product.SignInAsync("maren");
        (await maren.GetOk("notices")).GetProperty("outstanding").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_release_says_that_another_matters_notice_still_stands()
    {
        var (one, other) = (await MatterAsync("Collision"), await MatterAsync("Inquiry"));
        await IssueAsync(one, "hold");
        await IssueAsync(other, "hold");
        await IssueAsync(one, "release");
        (await MailsToAsync("anna@tarn.example"))[^1].Text.ShouldContain("Another notice to you still stands");
    }

    [Fact]
    public async Task A_release_says_nothing_of_the_kind_where_none_stands()
    {
        var (one, other) = (await MatterAsync("Collision"), await MatterAsync("Inquiry"));
        await IssueAsync(other, "hold");
        await IssueAsync(other, "release");
        await IssueAsync(one, "hold");
        await IssueAsync(one, "release");
        (await MailsToAsync("anna@tarn.example"))[^1].Text.ShouldNotContain("still stands");
    }
}
