using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Writer;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>Outsiders ask, somebody decides, and every copy bears a name.</summary>
public sealed class AssuranceDocumentTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api manager = null!;
    private Api nobody = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        manager = await product.SignInAsync("mikkel");
        nobody = await Api.ConnectAsync(product.Address);
        await manager.Put(
            "assurance/settings",
            new
            {
                published = true,
                words = "",
                frameworks = Array.Empty<string>(),
                controlsShown = false,
                policiesShown = false,
            },
            1
        );
        await OfferAsync(Pdf(2));
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        nobody.Dispose();
        return product.DisposeAsync();
    }

    private static byte[] Pdf(int pages)
    {
        using var builder = new PdfDocumentBuilder();
        for (var n = 0; n < pages; n++)
        {
            builder.AddPage(PageSize.A4);
        }

        return builder.Build();
    }

    private async Task<HttpResponseMessage> OfferAsync(byte[] bytes) =>
        await manager.Http.PostAsync(
            new Uri("assurance/documents?file=report.pdf&title=Report", UriKind.Relative),
            new ByteArrayContent(bytes),
            stop
        );

    private async Task<JsonElement> RoomAsync() => await manager.GetOk("assurance/room");

    private async Task<long> DocumentAsync() =>
        (await RoomAsync()).GetProperty("documents")[0].GetProperty("id").GetInt64();

    private async Task<Answer> AskAsync(string mail = "kim@client.example", string name = "Kim") =>
        await nobody.Post(
            $"assurance/documents/{await DocumentAsync()}/asks",
            new
            {
                name,
                organisation = "Client Ltd",
                mail,
                reason = "Our yearly look at suppliers",
            }
        );

    private async Task<string> GivenAsync(int days = 14)
    {
        await AskAsync();
        var ask = (await RoomAsync()).GetProperty("asks")[0].GetProperty("id").GetInt64();
        (await manager.Post($"assurance/asks/{ask}/decision", new { give = true, days }, 1)).Status.ShouldBe(
            HttpStatusCode.OK
        );
        return await product.LinkAsync(LinkKind.Document, ask, "kim@client.example");
    }

    private async Task<HttpResponseMessage> FetchAsync(string token) =>
        await nobody.Http.GetAsync(new Uri($"assurance/given/{token}/{await DocumentAsync()}", UriKind.Relative), stop);

    [Fact]
    public async Task The_public_page_names_what_may_be_asked_for() =>
        (await nobody.GetOk("assurance"))
            .GetProperty("documents")[0]
            .GetProperty("title")
            .GetString()
            .ShouldBe("Report");

    [Fact]
    public async Task Asking_alone_gives_nothing()
    {
        await AskAsync();
        var ask = (await RoomAsync()).GetProperty("asks")[0];
        ask.GetProperty("state").GetString().ShouldBe("waiting");
        await using var db = product.Database();
        (await db.PersonLinks.CountAsync(stop)).ShouldBe(
            await db.PersonLinks.CountAsync(l => l.Kind == LinkKind.Invitation, stop)
        );
    }

    [Fact]
    public async Task A_copy_bears_the_asker_s_name_on_every_page()
    {
        var answer = await FetchAsync(await GivenAsync());
        using var copy = PdfDocument.Open(await answer.Content.ReadAsByteArrayAsync(stop));
        copy.GetPages()
            .Select(p => p.Text.Contains("Kim, Client Ltd", StringComparison.Ordinal))
            .ShouldBe([true, true]);
    }

    [Fact]
    public async Task The_link_goes_out_by_mail()
    {
        await GivenAsync();
        await using var db = product.Database();
        (await db.Messages.SingleAsync(m => m.ToMail == "kim@client.example", stop)).Link.ShouldBe(
            "/assurance/given/{secret}"
        );
    }

    [Theory]
    [InlineData(14, HttpStatusCode.OK)]
    [InlineData(15, HttpStatusCode.NotFound)]
    public async Task A_link_opens_to_its_last_day(int later, HttpStatusCode status)
    {
        var token = await GivenAsync();
        var document = await DocumentAsync();
        product.Clock.Advance(Duration.FromDays(later));
        (
            await nobody.Http.GetAsync(new Uri($"assurance/given/{token}/{document}", UriKind.Relative), stop)
        ).StatusCode.ShouldBe(status);
    }

    [Fact]
    public async Task A_document_that_was_changed_in_its_folder_is_not_sent()
    {
        var token = await GivenAsync();
        var document = await DocumentAsync();
        foreach (var file in Directory.GetFiles(Path.Combine(product.Data, "evidence")))
        {
            await File.AppendAllTextAsync(file, "x", stop);
        }

        (
            await nobody.Http.GetAsync(new Uri($"assurance/given/{token}/{document}", UriKind.Relative), stop)
        ).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_refusal_sends_nothing()
    {
        await AskAsync();
        var ask = (await RoomAsync()).GetProperty("asks")[0].GetProperty("id").GetInt64();
        await manager.Post($"assurance/asks/{ask}/decision", new { give = false }, 1);
        await using var db = product.Database();
        (await db.Messages.CountAsync(m => m.ToMail == "kim@client.example", stop)).ShouldBe(0);
    }

    [Fact]
    public async Task Two_who_decide_at_once_do_not_both_decide()
    {
        await AskAsync();
        var ask = (await RoomAsync()).GetProperty("asks")[0].GetProperty("id").GetInt64();
        await manager.Post($"assurance/asks/{ask}/decision", new { give = false }, 1);
        (await manager.Post($"assurance/asks/{ask}/decision", new { give = true }, 1)).Status.ShouldBe(
            HttpStatusCode.PreconditionFailed
        );
    }

    [Fact]
    public async Task A_document_that_is_withdrawn_opens_by_no_link()
    {
        var token = await GivenAsync();
        var document = await DocumentAsync();
        await manager.Delete($"assurance/documents/{document}");
        (
            await nobody.Http.GetAsync(new Uri($"assurance/given/{token}/{document}", UriKind.Relative), stop)
        ).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Each_copy_is_counted_and_an_entry_of_the_ledger()
    {
        await FetchAsync(await GivenAsync());
        (await RoomAsync()).GetProperty("asks")[0].GetProperty("opened").GetInt32().ShouldBe(1);
        await using var db = product.Database();
        (await db.Ledger.OrderBy(e => e.Sequence).LastAsync(stop)).Verb.ShouldBe("fetched");
    }

    [Fact]
    public async Task A_named_client_gets_documents_without_asking()
    {
        await manager.PostOk(
            "assurance/clients",
            new
            {
                name = "Client Ltd",
                mail = "office@client.example",
                endsOn = "2026-12-31",
            }
        );
        await using var db = product.Database();
        var client = await db.AssuranceClients.SingleAsync(stop);
        var token = await product.LinkAsync(LinkKind.Client, client.Id, client.Mail);
        (await FetchAsync(token)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_client_who_is_removed_gets_nothing_more()
    {
        await manager.PostOk(
            "assurance/clients",
            new
            {
                name = "Client Ltd",
                mail = "office@client.example",
                endsOn = "2026-12-31",
            }
        );
        await using var db = product.Database();
        var client = await db.AssuranceClients.SingleAsync(stop);
        var token = await product.LinkAsync(LinkKind.Client, client.Id, client.Mail);
        await manager.Delete($"assurance/clients/{client.Id}");
        (await FetchAsync(token)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_document_whose_file_is_gone_is_not_found()
    {
        var token = await GivenAsync();
        foreach (
            var file in Directory.EnumerateFiles(product.Services.GetRequiredService<WideKeelOptions>().EvidenceFolder)
        )
        {
            File.Delete(file);
        }

        (await FetchAsync(token)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_guessed_link_opens_nothing() =>
        (await nobody.Get($"assurance/given/{new string('a', 48)}")).Status.ShouldBe(HttpStatusCode.NotFound);

    [Fact]
    public async Task Nobody_can_be_asked_where_nothing_is_public()
    {
        var document = await DocumentAsync();
        await using (var db = product.Database())
        {
            await db.Assurances.ExecuteUpdateAsync(a => a.SetProperty(x => x.Published, false), stop);
        }

        (
            await nobody.Post(
                $"assurance/documents/{document}/asks",
                new
                {
                    name = "Kim",
                    organisation = "Client",
                    mail = "kim@client.example",
                    reason = "Why not",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Theory]
    [InlineData("kim@client.example", "", "ask-malformed")]
    [InlineData("nothing", "Kim", "mail-malformed")]
    [InlineData("Kim <kim@client.example>", "Kim", "mail-malformed")]
    [InlineData("kim@client.example\r\nBcc: all@client.example", "Kim", "mail-malformed")]
    public async Task A_question_that_is_malformed_is_refused(string mail, string name, string problem) =>
        (await AskAsync(mail, name)).Problem.ShouldBe(problem);

    [Fact]
    public async Task One_address_does_not_fill_the_list()
    {
        for (var n = 0; n < 5; n++)
        {
            await AskAsync();
        }

        (await AskAsync()).Problem.ShouldBe("too-many-asks");
    }

    [Fact]
    public async Task What_cannot_be_marked_is_not_offered() =>
        (await OfferAsync("no PDF at all"u8.ToArray())).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
}
