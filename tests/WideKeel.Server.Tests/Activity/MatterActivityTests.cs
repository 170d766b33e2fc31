using System.Net;
using System.Text.Json;
using NodaTime;
using WideKeel.Core.Matters;

namespace WideKeel.Server.Tests.Activity;

/// <summary>The events of a matter's custodians, and the events that its orders keep and a release lets go.</summary>
public sealed class MatterActivityTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api admin = null!;
    private Api vera = null!;
    private Api analyst = null!;
    private string key = "";
    private long matter;
    private long custodian;

    /// <summary>Tobias deleted twice and read once; Pia read once. Tobias is a custodian, and an analyst is a member.</summary>
    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
        vera = await product.SignInAsync("vera");
        analyst = await product.SignInAsync("sunniva");
        var channel = await Channels.MakeAsync(admin, "gateway", settings: Channels.Settings(retention: "P1Y"));
        key = await Channels.KeyAsync(admin, channel);
        await SendAsync(
            Line("t1", "2026-06-12T08:00:00Z", "file.delete", "tobias@tarn.example"),
            Line("t2", "2026-06-13T08:00:00Z", "file.delete", "tobias@tarn.example"),
            Line("t3", "2026-06-13T23:00:00Z", "file.read", "Tobias@tarn.example"),
            Line("p1", "2026-06-13T09:00:00Z", "file.read", "pia@tarn.example")
        );
        await admin.PostOk(
            "directory",
            new
            {
                people = "name,mail,unit,title,manager,leaves\nTobias,tobias@tarn.example,Fleet,Mate,,\n",
                groups = "",
            }
        );
        matter = await product.OpenMatterAsync(vera);
        await vera.PostOk(
            $"matters/{matter}/members",
            new
            {
                personId = await PersonAsync("sunniva"),
                groupId = (long?)null,
                part = "reviewer",
            }
        );
        var offer = (await vera.GetOk($"matters/{matter}/custodians/offers?words=tobias"))[0];
        custodian = (
            await vera.PostOk(
                $"matters/{matter}/custodians",
                new
                {
                    personId = offer.GetProperty("personId").GetInt64(),
                    containers = Array.Empty<long>(),
                    authored = true,
                }
            )
        ).GetProperty("custodians")[0].GetProperty("id").GetInt64();
    }

    public async ValueTask DisposeAsync()
    {
        admin.Dispose();
        vera.Dispose();
        analyst.Dispose();
        await product.DisposeAsync();
    }

    private static string Line(string id, string time, string action, string actor) =>
        $$"""{"id":"{{id}}","time":"{{time}}","action":"{{action}}","actor":"{{actor}}"}""";

    private Task<Answer> SendAsync(params string[] lines) =>
        Channels.SendAsync(product, "gateway", key, string.Join('\n', lines));

    private async Task<long> PersonAsync(string name) =>
        (await admin.GetOk("people"))
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt64();

    private object Sweep(string? query = null, string? from = null, string? to = null, params long[] custodians) =>
        new
        {
            custodians,
            query,
            from,
            to,
        };

    private Task<JsonElement> FindAsync(string? query = null, string? from = null, string? to = null) =>
        analyst.PostOk($"matters/{matter}/activity", Sweep(query, from, to, custodian));

    private Task<Answer> KeepAsync(string? query = null, string name = "What Tobias did") =>
        analyst.Post($"matters/{matter}/activity/investigations", new { sweep = Sweep(query), name });

    [Fact]
    public async Task Only_what_custodians_did_is_found() =>
        (await FindAsync()).GetProperty("events").GetInt64().ShouldBe(3);

    [Fact]
    public async Task A_query_narrows_what_is_found() =>
        (await FindAsync("action = file.delete")).GetProperty("events").GetInt64().ShouldBe(2);

    [Theory]
    [InlineData("2026-06-12", "2026-06-13", 3)]
    [InlineData("2026-06-13", "2026-06-13", 2)]
    [InlineData("2026-06-14", null, 0)]
    public async Task Both_ends_of_a_span_of_days_belong_to_it(string from, string? to, long events) =>
        (await FindAsync(from: from, to: to)).GetProperty("events").GetInt64().ShouldBe(events);

    [Theory]
    [InlineData("action = file.delete", null, null)]
    [InlineData(null, "2026-06-13", null)]
    [InlineData("action = file.delete or action = file.read", null, "2026-06-12")]
    public async Task What_is_found_opens_into_as_many_events_in_the_search(string? query, string? from, string? to)
    {
        var found = await FindAsync(query, from, to);
        foreach (var part in new[] { found, found.GetProperty("byCustodian")[0] })
        {
            var question = part.GetProperty("question").GetString()!;
            (await analyst.GetOk($"events?query={Uri.EscapeDataString(question)}"))
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(part.GetProperty("events").GetInt64());
        }
    }

    [Fact]
    public async Task What_a_release_counts_opens_into_the_events_that_the_order_keeps()
    {
        var order = await HoldAsync("one");
        var question = (
            await vera.PostOk($"matters/{matter}/orders/{order}/releases/events", new { narrowed = (object?)null })
        ).GetProperty("question");
        (await analyst.GetOk($"events?query={Uri.EscapeDataString(question.GetString()!)}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(4);
    }

    [Fact]
    public async Task A_mistake_in_the_query_is_named() =>
        (await analyst.Post($"matters/{matter}/activity", Sweep("action ="))).Status.ShouldBe(
            HttpStatusCode.BadRequest
        );

    [Fact]
    public async Task What_is_kept_is_frozen_and_belongs_to_the_matter()
    {
        (await KeepAsync("action = file.delete")).Status.ShouldBe(HttpStatusCode.OK);
        var kept = (await vera.GetOk($"matters/{matter}/investigations"))[0];
        (kept.GetProperty("events").GetInt32(), kept.GetProperty("frozenAt").ValueKind).ShouldBe(
            (2, JsonValueKind.String)
        );
    }

    [Fact]
    public async Task What_is_kept_does_not_change_with_what_arrives_later()
    {
        await KeepAsync();
        await SendAsync(Line("t9", "2026-06-14T08:00:00Z", "file.delete", "tobias@tarn.example"));
        (await vera.GetOk($"matters/{matter}/investigations"))[0].GetProperty("events").GetInt32().ShouldBe(3);
    }

    [Fact]
    public async Task Nothing_is_kept_of_nothing() =>
        (await KeepAsync("action = mail.send")).Problem.ShouldBe("nothing-found");

    [Fact]
    public async Task Who_is_no_member_learns_nothing_of_the_matter()
    {
        using var mikkel = await product.SignInAsync("mikkel");
        (await mikkel.Post($"matters/{matter}/activity", Sweep())).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_member_without_the_right_to_read_activity_finds_none() =>
        (await vera.Post($"matters/{matter}/activity", Sweep())).Status.ShouldBe(HttpStatusCode.Forbidden);

    [Fact]
    public async Task A_member_finds_nothing_in_a_channel_that_is_closed_to_them()
    {
        var secret = await Channels.MakeAsync(
            admin,
            "secret",
            settings: Channels.Settings(retention: "P1Y", open: false)
        );
        var secretKey = await Channels.KeyAsync(admin, secret);
        await Channels.SendAsync(
            product,
            "secret",
            secretKey,
            Line("s1", "2026-06-13T08:00:00Z", "file.delete", "tobias@tarn.example")
        );
        (await FindAsync("action = file.delete")).GetProperty("events").GetInt64().ShouldBe(2);
    }

    private static object Definition(params string[] channels) =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = Array.Empty<long>(),
            query = "nothing of content",
            from = (string?)null,
            to = (string?)null,
            channels,
        };

    /// <summary>An order in force that keeps the gateway's events.</summary>
    private async Task<long> HoldAsync(string name)
    {
        var order = (await vera.PostOk($"matters/{matter}/orders", new { name, definition = Definition("gateway") }))
            .GetProperty("orders")
            .EnumerateArray()
            .Single(o => o.GetProperty("name").GetString() == name);
        var id = order.GetProperty("id").GetInt64();
        var figures = await vera.PostOk($"matters/{matter}/orders/{id}/consequences", Definition("gateway"));
        (
            await vera.Post(
                $"matters/{matter}/orders/{id}/activation",
                new { fingerprint = figures.GetProperty("fingerprint").GetString(), why = "Claim." },
                order.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        return id;
    }

    private async Task<(long Events, long StayHeld, long PastTime)> ReleasedAsync(
        long order,
        object? narrowed = null,
        int delay = 30
    )
    {
        var events = await vera.PostOk(
            $"matters/{matter}/orders/{order}/releases/events?delay={delay}",
            new { narrowed }
        );
        return (
            events.GetProperty("events").GetInt64(),
            events.GetProperty("stayHeld").GetInt64(),
            events.GetProperty("pastTime").GetInt64()
        );
    }

    [Fact]
    public async Task A_release_counts_the_events_that_it_lets_go() =>
        (await ReleasedAsync(await HoldAsync("one"))).ShouldBe((4, 0, 0));

    [Fact]
    public async Task Events_count_the_same_sealed_and_open()
    {
        var order = await HoldAsync("one");
        await admin.PostOk("channels/seal", new { });
        await admin.WaitForJobsAsync();
        (await ReleasedAsync(order)).ShouldBe((4, 0, 0));
    }

    [Fact]
    public async Task Events_that_another_order_keeps_stay_held()
    {
        var order = await HoldAsync("one");
        await HoldAsync("two");
        (await ReleasedAsync(order)).ShouldBe((4, 4, 0));
    }

    [Fact]
    public async Task Events_past_their_time_are_those_that_the_next_sealing_removes() =>
        (await ReleasedAsync(await HoldAsync("one"), delay: 362)).ShouldBe((4, 0, 1));

    /// <summary>A release that was agreed before and keeps the gateway's events until its delay has passed.</summary>
    private async Task ReleaseAsync(long order, LocalDate through)
    {
        using var db = product.Database();
        db.HoldReleases.Add(
            new()
            {
                MatterId = matter,
                OrderId = order,
                Former = db.HoldOrders.Single(o => o.Id == order).InForce,
                Why = "Settled.",
                AskedBy = "Vera",
                Fingerprint = "",
                State = ReleaseState.Agreed,
                Through = through,
            }
        );
        await db.SaveChangesAsync(TestContext.Current.CancellationToken);
    }

    [Fact]
    public async Task What_an_earlier_release_of_the_same_order_still_keeps_is_not_kept_by_another()
    {
        var order = await HoldAsync("one");
        await ReleaseAsync(order, new(2027, 1, 1));
        (await ReleasedAsync(order)).ShouldBe((4, 0, 0));
    }

    [Theory]
    [InlineData(30, 4)]
    [InlineData(31, 0)]
    public async Task A_release_of_another_order_keeps_events_until_its_delay_has_passed(int delay, long held)
    {
        var other = await HoldAsync("two");
        var order = await HoldAsync("one");
        using (var db = product.Database())
        {
            db.HoldOrders.Single(o => o.Id == other).State = OrderState.Released;
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        // The day after a delay of 30 days, from 15 June on.
        await ReleaseAsync(other, new(2026, 7, 16));
        (await ReleasedAsync(order, delay: delay)).ShouldBe((4, held, 0));
    }

    [Fact]
    public async Task A_narrower_order_goes_on_keeping_what_it_still_names() =>
        (await ReleasedAsync(await HoldAsync("one"), Definition("gateway"))).ShouldBe((0, 0, 0));
}
