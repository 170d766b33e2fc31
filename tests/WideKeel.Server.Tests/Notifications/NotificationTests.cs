using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using NodaTime;
using Shouldly;
using WideKeel.Server.Jobs;
using WideKeel.Server.Notifications;

namespace WideKeel.Server.Tests.Notifications;

/// <summary>What people and other systems are told, through a real mail server and a real socket.</summary>
public sealed class NotificationTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
    }

    public async ValueTask DisposeAsync()
    {
        ines.Dispose();
        await product.DisposeAsync();
    }

    [Fact]
    public async Task Whoever_signs_next_is_told_by_mail_with_the_reason_and_one_link_then_reminded_then_the_deputy()
    {
        var batch = await BatchAsync("tobias@tarn.example", "ines@tarn.example");
        var mail = await MailAsync(m =>
            To(m, "tobias") && Subject(m).Contains("to sign off", StringComparison.Ordinal)
        );
        mail.GetProperty("text").GetString()!.ShouldContain($"/schedule/docket?batch={batch}");
        mail.GetProperty("text")
            .GetString()!
            .ShouldContain("You get this because stage 1 of ISL-010 is yours to sign.");
        (await SinkAsync()).ShouldNotContain(m => To(m, "ines"));

        // Half-way: a reminder, in the morning's digest.
        await MorningAsync(7);
        (await MailAsync(m => To(m, "tobias") && Subject(m) == "1 message this morning"))
            .GetProperty("text")
            .GetString()!
            .ShouldContain("waits for you until 29 Jun 2026");
        (await SinkAsync()).ShouldNotContain(m => To(m, "ines"));

        // Overdue: both.
        await MorningAsync(8);
        (await MailAsync(m => To(m, "ines") && Subject(m) == "1 message this morning"))
            .GetProperty("text")
            .GetString()!
            .ShouldContain("you may sign it now as the deputy");
        (await SinkAsync()).Count(m => To(m, "tobias")).ShouldBe(3);
    }

    [Fact]
    public async Task A_morning_that_is_begun_by_several_at_once_is_gone_through_once()
    {
        await BatchAsync("tobias@tarn.example", "ines@tarn.example");
        var routine = product.Services.GetServices<IHostedService>().OfType<DailyRun>().Single();
        product.Clock.Advance(Duration.FromDays(7));
        await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(_ => Task.Run(() => routine.RunIfDueAsync(TestContext.Current.CancellationToken)))
        );
        (
            await AdminAsync(async a =>
                (await a.GetOk("messages"))
                    .EnumerateArray()
                    .Count(m => m.GetProperty("to").GetString() == "tobias" && m.GetProperty("digest").GetBoolean())
            )
        ).ShouldBe(1);
    }

    [Fact]
    public async Task A_flood_becomes_one_digest()
    {
        product.Write("Island/a.md", "2015-01-01", "a");
        for (var month = 1; month <= 9; month++)
        {
            product.Write($"Island/{month}.md", $"2016-0{month}-05", $"month {month}");
        }

        var containers = await product.ScanAsync();
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        for (var month = 1; month <= 9; month++)
        {
            await ines.PostOk("batches", new { seriesId = series, month = $"2021-0{month}-01" });
        }

        await WaitAsync(async () => (await SinkAsync()).Count(m => To(m, "tobias")) == 5);
        (
            await AdminAsync(async a =>
                (await a.GetOk("messages"))
                    .EnumerateArray()
                    .Count(m => m.GetProperty("to").GetString() == "tobias" && m.GetProperty("digest").GetBoolean())
            )
        ).ShouldBe(4);
        await MorningAsync(1);
        await MailAsync(m => To(m, "tobias") && Subject(m) == "4 messages this morning");
        (await SinkAsync()).Count(m => To(m, "tobias")).ShouldBe(6);
    }

    [Fact]
    public async Task Other_systems_are_told_with_a_signature_and_again_when_they_were_away()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        listener.Stop();
        const string secret = "quiet-harbour-key-12";
        using var admin = await product.SignInAsync("jonas");
        (
            await admin.Post(
                "webhooks",
                new
                {
                    name = "Desk",
                    url = "ftp://x",
                    secret,
                }
            )
        ).Problem.ShouldBe("url-malformed");
        (
            await admin.Post(
                "webhooks",
                new
                {
                    name = "Desk",
                    url = "http://127.0.0.1/",
                    secret = "short",
                }
            )
        ).Problem.ShouldBe("secret-too-short");
        await admin.PostOk(
            "webhooks",
            new
            {
                name = "Desk",
                url = $"http://127.0.0.1:{port}/told",
                secret,
            }
        );
        await BatchAsync("", "");
        await WaitAsync(async () =>
            (await admin.GetOk("webhooks"))[0].GetProperty("lastFailure").ValueKind == JsonValueKind.String
        );

        using var http = new HttpListener();
        http.Prefixes.Add($"http://127.0.0.1:{port}/");
        http.Start();
        product.Clock.Advance(Duration.FromMinutes(2));
        var told = await http.GetContextAsync();
        using var reader = new StreamReader(told.Request.InputStream);
        var body = await reader.ReadToEndAsync(TestContext.Current.CancellationToken);
        told.Request.Headers["X-WideKeel-Signature"]
            .ShouldBe(
                $"sha256={Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(secret), Encoding.UTF8.GetBytes(body)))}"
            );
        JsonDocument.Parse(body).RootElement.GetProperty("event").GetString().ShouldBe("batch-opened");
        told.Response.StatusCode = 204;
        told.Response.Close();
        await WaitAsync(async () =>
            (await admin.GetOk("webhooks"))[0] is var hook
            && hook.GetProperty("sent").GetInt64() == 1
            && hook.GetProperty("waiting").GetInt64() == 0
        );
    }

    [Fact]
    public async Task A_calendar_feed_holds_what_waits_for_its_person_only_and_dies_with_its_key()
    {
        var batch = await BatchAsync("tobias@tarn.example", "");
        using var tobias = await product.SignInAsync("tobias");
        (await tobias.GetOk("calendar-feed")).GetProperty("path").ValueKind.ShouldBe(JsonValueKind.Null);
        var path = (await tobias.PostOk("calendar-feed", new { })).GetProperty("path").GetString()!;
        using var stranger = await Api.ConnectAsync(product.Address);
        var answer = await stranger.Get(path["/api/".Length..]);
        answer.Response.Content.Headers.ContentType!.MediaType.ShouldBe("text/calendar");
        var calendar = Ical.Net.Calendar.Load(answer.Text!)!;
        var own = calendar.Events.Single(e => e.Uid == $"batch-{batch}-stage-1@widekeel.example");
        (own.Summary, own.Start!.Value.Date, own.Start.HasTime).ShouldBe(
            ("Sign off 1 item: Voyage reports", new DateTime(2026, 6, 29), false)
        );

        var inesPath = (await ines.PostOk("calendar-feed", new { })).GetProperty("path").GetString()!;
        Ical.Net.Calendar.Load((await stranger.Get(inesPath["/api/".Length..])).Text!)!.Events.ShouldBeEmpty();
        await tobias.PostOk("calendar-feed", new { });
        (await stranger.Get(path["/api/".Length..])).Status.ShouldBe(HttpStatusCode.NotFound);
        (await stranger.Get("calendar/x.ics")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_mail_server_is_set_with_a_password_that_is_never_shown_and_tried_before_it_is_needed()
    {
        using var admin = await product.SignInAsync("jonas");
        var wrong = new
        {
            host = "mail here",
            port = 25,
            tls = true,
            user = "",
            password = (string?)null,
            from = "",
            address = "",
            certificateYears = 7,
        };
        (await admin.Put("mail-settings", wrong)).Problem.ShouldBe("host-malformed");
        (await admin.Put("mail-settings", wrong with { host = "mail.example" })).Problem.ShouldBe("from-malformed");
        (await admin.Put("mail-settings", wrong with { host = "", address = "records" })).Problem.ShouldBe(
            "address-malformed"
        );
        var saved = await admin.Put(
            "mail-settings",
            wrong with
            {
                host = "mail.example",
                from = "records@tarn.example",
                password = "sesame-street-9",
                address = "https://records.example/",
            }
        );
        saved.Text!.ShouldNotContain("sesame");
        saved.Body.GetProperty("hasPassword").GetBoolean().ShouldBeTrue();
        using (var db = product.Database())
        {
            db.Organisations.Single().SmtpPassword.ShouldNotContain("sesame");
        }

        await admin.PostOk("mail-settings/test", new { });
        (await MailAsync(m => To(m, "jonas")))
            .GetProperty("text")
            .GetString()!
            .ShouldContain("https://records.example/today");
    }

    private async Task<long> BatchAsync(string person, string deputy)
    {
        product.Write("Island/a.md", "2015-01-01", "a");
        var containers = await product.ScanAsync();
        var definition = JsonSerializer.SerializeToNode(Product.Definition())!.AsObject();
        definition["stages"] = JsonSerializer.SerializeToNode(
            new object[]
            {
                new
                {
                    role = "recordsManager",
                    person,
                    deputy,
                    days = 14,
                },
                new
                {
                    role = "recordsManager",
                    person = "",
                    deputy = "",
                    days = 14,
                },
            }
        );
        var series = await product.SeriesInForceAsync(ines, "ISL-010", "Island", [containers["Island"]], definition);
        return (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
    }

    /// <summary>Days go by, and the routine of the last one is through.</summary>
    private async Task MorningAsync(int days)
    {
        product.Clock.Advance(Duration.FromDays(days));
        var today = product.Clock.GetCurrentInstant().InUtc().Date;
        await WaitAsync(() =>
        {
            using var db = product.Database();
            return Task.FromResult(db.Organisations.Single().DailyRunOn == today);
        });
    }

    private async Task<JsonElement> MailAsync(Func<JsonElement, bool> which)
    {
        JsonElement? found = null;
        await WaitAsync(async () =>
            (found = (await SinkAsync()).Where(which).Cast<JsonElement?>().FirstOrDefault()) is not null
        );
        return found!.Value;
    }

    private Task<List<JsonElement>> SinkAsync() =>
        AdminAsync(async a => (await a.GetOk("mail-sink")).EnumerateArray().ToList());

    private async Task<T> AdminAsync<T>(Func<Api, Task<T>> ask)
    {
        using var admin = await product.SignInAsync("jonas");
        return await ask(admin);
    }

    private static bool To(JsonElement mail, string name) =>
        mail.GetProperty("to").GetString()!.Contains($"{name}@tarn.example", StringComparison.Ordinal);

    private static string Subject(JsonElement mail) => mail.GetProperty("subject").GetString()!;

    /// <summary>Asks again in short steps, because what it waits for is the product's own state.</summary>
    private static async Task WaitAsync(Func<Task<bool>> holds)
    {
        for (var i = 0; i < 300; i++)
        {
            if (await holds())
            {
                return;
            }

            await Task.Delay(100, TestContext.Current.CancellationToken);
        }

        throw new TimeoutException("It did not come to be.");
    }
}
