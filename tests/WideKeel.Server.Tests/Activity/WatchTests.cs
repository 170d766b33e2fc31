using System.Globalization;
using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Server.People;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Activity;

/// <summary>Watches over what is sent, and what is done about their alerts.</summary>
public sealed class WatchTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api analyst = null!;
    private string key = "";

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        using var admin = await product.SignInAsync("jonas");
        var channel = await Channels.MakeAsync(admin, "files");
        key = await Channels.KeyAsync(admin, channel);
        analyst = await product.SignInAsync("sunniva");
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People = [new("nora@tarn.example", "Nora"), new("pia@tarn.example", "Pia")],
            }
        );
    }

    public ValueTask DisposeAsync()
    {
        analyst.Dispose();
        return product.DisposeAsync();
    }

    private static object Deletions(int threshold = 3, string? act = null, string[]? recipients = null, int cap = 5) =>
        new
        {
            name = "Deletions",
            rule = new
            {
                kind = "count",
                where = "action = file.delete",
                per = "actor",
                of = "events",
                threshold,
                within = "PT10M",
            },
            severity = "high",
            recipients = recipients ?? [],
            words = "",
            dailyCap = cap,
            act,
        };

    private static string Delete(int number, string at, string actor = "nora@tarn.example") =>
        Channels.Line(
            string.Create(CultureInfo.InvariantCulture, $"d{number}"),
            at,
            "file.delete",
            actor,
            ",\"object\":\"Pier/1.jpg\",\"address\":\"192.0.2.9\""
        );

    private static readonly string[] Three =
    [
        Delete(1, "2026-06-15T07:00:00Z"),
        Delete(2, "2026-06-15T07:01:00Z"),
        Delete(3, "2026-06-15T07:02:00Z"),
    ];

    private async Task<long> WatchAsync(object settings, string? since = "2026-06-01T00:00:00Z")
    {
        await analyst.PostOk("watches", settings);
        var id = (await analyst.GetOk("watches"))[0].GetProperty("id").GetInt64();
        await analyst.PostOk($"watches/{id}/on", new { since });
        return id;
    }

    private async Task SendAsync(params string[] lines)
    {
        (await Channels.SendAsync(product, "files", key, string.Join('\n', lines))).Status.ShouldBe(HttpStatusCode.OK);
        await JudgeAsync();
    }

    private Task JudgeAsync() =>
        product.Services.GetRequiredService<WatchEvaluator>().JudgeAsync(TestContext.Current.CancellationToken);

    private async Task<JsonElement[]> AlertsAsync(string query = "") =>
        [.. (await analyst.GetOk($"alerts{query}")).EnumerateArray()];

    private async Task<long> AlertAsync() => (await AlertsAsync()).Single().GetProperty("id").GetInt64();

    [Fact]
    public async Task Events_that_reach_the_threshold_raise_one_alert()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        (await AlertsAsync()).Single().GetProperty("who").GetString().ShouldBe("nora@tarn.example");
    }

    [Fact]
    public async Task An_alert_names_the_event_of_its_own_channel_where_two_channels_use_one_id()
    {
        using var admin = await product.SignInAsync("jonas");
        var other = await Channels.KeyAsync(admin, await Channels.MakeAsync(admin, "other"));
        await WatchAsync(Deletions(threshold: 1));
        var line = Channels.Line(
            "d1",
            "2026-06-15T07:00:00Z",
            "file.delete",
            "pia@tarn.example",
            ",\"object\":\"Quay/2.jpg\""
        );
        await Channels.SendAsync(product, "other", other, line);
        await SendAsync(Three[0]);
        (await AlertsAsync())
            .ToDictionary(a => a.GetProperty("who").GetString()!, a => a.GetProperty("object").GetString())
            .ShouldBe(
                new Dictionary<string, string?>
                {
                    ["nora@tarn.example"] = "Pier/1.jpg",
                    ["pia@tarn.example"] = "Quay/2.jpg",
                },
                ignoreOrder: true
            );
    }

    [Fact]
    public async Task The_same_events_again_raise_nothing_more()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        await SendAsync(Three);
        (await AlertsAsync("?all=true")).Length.ShouldBe(1);
    }

    [Fact]
    public async Task A_watch_is_found_by_its_name()
    {
        await WatchAsync(Deletions());
        (await analyst.GetOk("find?q=Deletions")).GetRawText().ShouldContain("Watch, on");
    }

    [Fact]
    public async Task A_watch_that_is_off_raises_nothing()
    {
        var id = await WatchAsync(Deletions());
        await analyst.PostOk($"watches/{id}/off", new { });
        await SendAsync(Three);
        (await AlertsAsync()).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_watch_that_is_switched_on_from_now_leaves_the_past_alone()
    {
        await SendAsync(Three);
        await WatchAsync(Deletions(), since: null);
        await JudgeAsync();
        (await AlertsAsync()).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_late_line_raises_the_alert_of_its_own_day()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three[0], Three[2], Delete(9, "2026-06-15T07:40:00Z"));
        await SendAsync(Three[1]);
        (await AlertsAsync()).Single().GetProperty("at").GetString().ShouldStartWith("2026-06-15T07:02:00");
    }

    [Fact]
    public async Task An_event_that_comes_before_those_of_an_alert_moves_the_alert()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        await SendAsync(Delete(0, "2026-06-15T06:59:00Z"));
        (await AlertsAsync()).Single().GetProperty("at").GetString().ShouldStartWith("2026-06-15T07:01:00");
    }

    /// <summary>Whatever the order and the cuts of arrival, the alerts are those of one pass over all events.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    [InlineData(4)]
    public async Task Any_order_and_any_cuts_of_arrival_raise_the_same_alerts(int seed)
    {
        await analyst.PostOk("watches", Deletions(threshold: 4));
        await analyst.PostOk(
            "watches",
            new
            {
                name = "Then shared",
                rule = new
                {
                    kind = "sequence",
                    first = "action = file.delete",
                    then = "action = share.link",
                    per = "actor",
                    within = "PT30M",
                },
                severity = "low",
            }
        );
        await analyst.PostOk(
            "watches",
            new
            {
                name = "Quiet",
                rule = new { kind = "silence", @for = "PT1H" },
                severity = "low",
            }
        );
        foreach (var watch in (await analyst.GetOk("watches")).EnumerateArray())
        {
            await analyst.PostOk(
                $"watches/{watch.GetProperty("id").GetInt64()}/on",
                new { since = "2026-06-01T00:00:00Z" }
            );
        }

        await JudgeAsync();
        var random = new Random(seed);
        var lines = Enumerable
            .Range(0, 60)
            .Select(i =>
                Channels.Line(
                    string.Create(CultureInfo.InvariantCulture, $"r{i}"),
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"2026-06-14T{random.Next(24):00}:{random.Next(60):00}:00Z"
                    ),
                    random.Next(5) == 0 ? "share.link" : "file.delete",
                    random.Next(3) == 0 ? "pia@tarn.example" : "nora@tarn.example"
                )
            )
            .ToArray();
        random.Shuffle(lines);
        for (var at = 0; at < lines.Length; )
        {
            var portion = lines[at..Math.Min(lines.Length, at + 1 + random.Next(12))];
            await SendAsync(portion);
            at += portion.Length;
        }

        var pieces = await RaisedAsync();
        foreach (var watch in (await analyst.GetOk("watches")).EnumerateArray())
        {
            // Switched on anew, it judges everything in one pass; what it finds must be there already.
            var id = watch.GetProperty("id").GetInt64();
            await analyst.PostOk($"watches/{id}/off", new { });
            await analyst.PostOk($"watches/{id}/on", new { since = "2026-06-01T00:00:00Z" });
        }

        await JudgeAsync();
        (await RaisedAsync()).ShouldBe(pieces);

        async Task<string[]> RaisedAsync() =>
            [
                .. (await AlertsAsync("?all=true"))
                    .Where(a => !a.GetProperty("withdrawn").GetBoolean())
                    .Select(a =>
                        $"{a.GetProperty("watch")} {a.GetProperty("at")} {a.GetProperty("who")} {a.GetProperty("why")}"
                    )
                    .Order(StringComparer.Ordinal),
            ];
    }

    [Fact]
    public async Task Silence_is_raised_by_the_clock()
    {
        await WatchAsync(
            new
            {
                name = "Quiet",
                rule = new { kind = "silence", @for = "PT2H" },
                severity = "medium",
            }
        );
        await SendAsync(Three[0]);
        product.Clock.Advance(Duration.FromHours(3));
        await JudgeAsync();
        await JudgeAsync();
        (await AlertsAsync("?all=true")).Single().GetProperty("at").GetString().ShouldStartWith("2026-06-15T09:00:00");
    }

    private static object Named(object rule) =>
        new
        {
            name = "Quiet",
            rule,
            severity = "medium",
        };

    /// <summary>An event in every hour of three weeks, until two days before now.</summary>
    private static string[] Hourly() =>
        [
            .. Enumerable
                .Range(0, 19 * 24)
                .Select(h => Instant.FromUtc(2026, 5, 25, 8, 30) + Duration.FromHours(h))
                .Select((at, i) => Delete(i, NodaTime.Text.InstantPattern.ExtendedIso.Format(at))),
        ];

    [Fact]
    public async Task A_channel_that_stops_is_raised_by_its_own_rhythm()
    {
        await WatchAsync(Named(new { kind = "rhythm", per = "channel" }));
        await SendAsync(Hourly());
        (await AlertsAsync("?all=true")).Single().GetProperty("at").GetString()!.ShouldStartWith("2026-06-13T");
    }

    [Fact]
    public async Task Who_acted_last_before_a_quiet_is_not_named_by_its_alert()
    {
        await WatchAsync(Named(new { kind = "rhythm", per = "channel" }));
        await SendAsync(Hourly());
        (await AlertsAsync("?all=true")).Single().GetProperty("who").GetString().ShouldBe("files");
    }

    [Fact]
    public async Task A_rhythm_is_looked_at_again_when_an_hour_is_over()
    {
        await WatchAsync(Named(new { kind = "rhythm", per = "channel" }));
        await SendAsync(Hourly());
        await SendAsync(Delete(999, "2026-06-15T07:59:00Z"));
        product.Clock.Advance(Duration.FromHours(30));
        await JudgeAsync();
        (await AlertsAsync("?all=true")).Length.ShouldBe(2);
    }

    [Fact]
    public async Task An_account_wakes_when_its_event_arrives()
    {
        await WatchAsync(
            Named(
                new
                {
                    kind = "woken",
                    per = "actor",
                    quiet = "P30D",
                }
            )
        );
        await SendAsync(Delete(1, "2026-04-01T07:00:00Z"));
        await SendAsync(Delete(2, "2026-06-15T07:00:00Z"));
        (await AlertsAsync()).Single().GetProperty("who").GetString().ShouldBe("nora@tarn.example");
    }

    /// <summary>Two deletions on each working day of six weeks, then eight a day; at two places each.</summary>
    private static string[] Rising() =>
        [
            .. from day in Enumerable.Range(0, 50)
            let date = new LocalDate(2026, 4, 20).PlusDays(day)
            where date.DayOfWeek < IsoDayOfWeek.Saturday
            from i in Enumerable.Range(0, day < 42 ? 2 : 8)
            select Delete(
                (day * 10) + i,
                string.Create(CultureInfo.InvariantCulture, $"{date:uuuu-MM-dd}T{9 + i:00}:00:00Z")
            ),
        ];

    [Fact]
    public async Task The_alert_of_a_rise_opens_into_all_events_since_it_began()
    {
        await WatchAsync(
            Named(
                new
                {
                    kind = "drift",
                    per = "actor",
                    of = "events",
                }
            )
        );
        await SendAsync(Rising());
        var alert = await AlertAsync();
        (await analyst.GetOk($"alerts/{alert}")).GetProperty("events").GetArrayLength().ShouldBeGreaterThan(8);
    }

    [Fact]
    public async Task The_alert_of_all_together_opens_into_the_whole_window()
    {
        await WatchAsync(
            Named(
                new
                {
                    kind = "count",
                    per = "none",
                    threshold = 3,
                    within = "P7D",
                }
            )
        );
        await SendAsync(
            Delete(1, "2026-06-10T07:00:00Z"),
            Delete(2, "2026-06-12T07:00:00Z", "pia@tarn.example"),
            Delete(3, "2026-06-15T07:00:00Z")
        );
        var alert = await AlertAsync();
        (await analyst.GetOk($"alerts/{alert}")).GetProperty("events").GetArrayLength().ShouldBe(3);
    }

    [Fact]
    public async Task The_kinds_say_their_sentences() =>
        (await analyst.GetOk("watches/kinds"))
            .EnumerateArray()
            .Select(k => k.GetProperty("code").GetString())
            .ShouldBe(WatchKinds.All.Select(k => k.Code));

    [Fact]
    public async Task A_backtest_says_where_the_watch_stands_on_its_curve()
    {
        await SendAsync(Three);
        var result = await analyst.PostOk(
            "watches/backtest",
            new
            {
                rule = new
                {
                    kind = "elsewhere",
                    within = "PT10M",
                    minKm = 400,
                },
            }
        );
        result.GetProperty("mark").GetDouble().ShouldBe(400);
    }

    [Fact]
    public async Task A_repeat_on_the_same_day_folds_into_the_first()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        await SendAsync(
            Delete(4, "2026-06-15T07:30:00Z"),
            Delete(5, "2026-06-15T07:31:00Z"),
            Delete(6, "2026-06-15T07:32:00Z")
        );
        (await AlertsAsync()).Single().GetProperty("count").GetInt32().ShouldBe(2);
    }

    [Fact]
    public async Task A_message_goes_to_the_recipient()
    {
        await WatchAsync(Deletions(recipients: ["sunniva@tarn.example"]));
        await SendAsync(Three);
        using var admin = await product.SignInAsync("jonas");
        (await admin.GetOk("messages")).GetRawText().ShouldContain("nora@tarn.example");
    }

    [Fact]
    public async Task Beyond_the_days_number_of_messages_an_alert_is_marked_in_the_log()
    {
        await WatchAsync(Deletions(recipients: ["sunniva@tarn.example"], cap: 0));
        await SendAsync(Three);
        (await AlertsAsync()).Single().GetProperty("capped").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task A_recipient_without_an_account_is_refused() =>
        (await analyst.Post("watches", Deletions(recipients: ["who@else.example"]))).Problem.ShouldBe(
            "recipient-unknown"
        );

    [Fact]
    public async Task A_malformed_query_is_refused_with_its_field() => (
            await analyst.Post(
                "watches",
                new
                {
                    name = "x",
                    rule = new { kind = "each", where = "action = (" },
                    severity = "low",
                }
            )
        ).Body.GetRawText().ShouldContain("where");

    [Fact]
    public async Task Dismissal_without_a_reason_is_refused()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        var alert = (await AlertsAsync()).Single();
        (
            await analyst.Post(
                $"alerts/{alert.GetProperty("id").GetInt64()}/state",
                new { state = "expected", reason = " " },
                alert.GetProperty("revision").GetInt64()
            )
        ).Problem.ShouldBe("reason-missing");
    }

    [Fact]
    public async Task Noise_lowers_the_weights_of_the_alerts_factors()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        await analyst.PostOk($"alerts/{await AlertAsync()}/feedback", new { useful = false });
        (await analyst.GetOk("alert-weights"))
            .EnumerateArray()
            .ShouldContain(w => w.GetProperty("weight").GetDouble() < w.GetProperty("beginning").GetDouble());
    }

    [Fact]
    public async Task Resetting_the_weights_gives_back_those_at_first()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        await analyst.PostOk($"alerts/{await AlertAsync()}/feedback", new { useful = false });
        await analyst.Delete("alert-weights");
        (await analyst.GetOk("alert-weights"))
            .EnumerateArray()
            .ShouldAllBe(w => w.GetProperty("weight").GetDouble() == w.GetProperty("beginning").GetDouble());
    }

    private bool Suspended =>
        product
            .Services.GetRequiredService<OrganisationDirectory>()
            .State.People.Single(p => p.Id == "nora@tarn.example")
            .Suspended;

    [Fact]
    public async Task An_account_is_suspended_in_the_directory_from_its_alert()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        await analyst.PostOk($"alerts/{await AlertAsync()}/acts", new { act = "suspend" });
        Suspended.ShouldBeTrue();
    }

    [Fact]
    public async Task Undoing_restores_the_account()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        var alert = await AlertAsync();
        await analyst.PostOk($"alerts/{alert}/acts", new { act = "suspend" });
        var act = (await analyst.GetOk($"alerts/{alert}")).GetProperty("acts")[0].GetProperty("id").GetInt64();
        await analyst.PostOk($"alerts/{alert}/acts/{act}/undo", new { });
        Suspended.ShouldBeFalse();
    }

    [Fact]
    public async Task A_directory_that_does_not_answer_is_said_so()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        product.Services.GetRequiredService<OrganisationDirectory>().Outside.FailNext(1);
        var alert = await AlertAsync();
        await analyst.PostOk($"alerts/{alert}/acts", new { act = "suspend" });
        (await analyst.GetOk($"alerts/{alert}"))
            .GetProperty("acts")[0]
            .GetProperty("failure")
            .GetString()
            .ShouldNotBeNull();
    }

    [Fact]
    public async Task A_watch_suspends_by_itself_where_it_was_told_to()
    {
        await WatchAsync(Deletions(act: "suspend"));
        await SendAsync(Three);
        Suspended.ShouldBeTrue();
    }

    [Fact]
    public async Task A_backtest_says_what_would_have_been_raised()
    {
        await SendAsync(Three);
        var result = await analyst.PostOk(
            "watches/backtest",
            new
            {
                rule = new
                {
                    kind = "count",
                    where = "action = file.delete",
                    per = "actor",
                    threshold = 3,
                    within = "PT10M",
                },
            }
        );
        result.GetProperty("raised").GetInt32().ShouldBe(1);
    }

    [Fact]
    public async Task The_curve_of_a_backtest_falls_with_the_threshold()
    {
        await SendAsync(Three);
        var curve = (
            await analyst.PostOk(
                "watches/backtest",
                new
                {
                    rule = new
                    {
                        kind = "count",
                        where = "action = file.delete",
                        per = "actor",
                        threshold = 3,
                        within = "PT10M",
                    },
                }
            )
        ).GetProperty("curve").EnumerateArray().Select(p => p.GetProperty("perWeek").GetDouble()).ToList();
        curve.ShouldBe(curve.OrderDescending());
    }

    /// <summary>An alert of a channel that was closed to whoever is no reader of it.</summary>
    private async Task<long> ClosedAsync()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        var alert = await AlertAsync();
        await CloseAsync();
        return alert;
    }

    private async Task CloseAsync()
    {
        await using var db = product.Database();
        await db.Channels.ExecuteUpdateAsync(
            set => set.SetProperty(c => c.OpenToAnalysts, false),
            TestContext.Current.CancellationToken
        );
    }

    [Fact]
    public async Task An_alert_of_a_channel_that_one_may_not_read_is_in_no_list()
    {
        await ClosedAsync();
        (await AlertsAsync("?all=true")).ShouldBeEmpty();
    }

    [Fact]
    public async Task An_alert_of_a_channel_that_one_may_not_read_has_no_page()
    {
        var alert = await ClosedAsync();
        (await analyst.Get($"alerts/{alert}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Theory]
    [InlineData("owner", "{}")]
    [InlineData("feedback", """{"useful":true}""")]
    [InlineData("acts", """{"act":"suspend"}""")]
    [InlineData("state", """{"state":"lookedAt","reason":""}""")]
    public async Task An_alert_of_a_channel_that_one_may_not_read_takes_no_act(string act, string body)
    {
        var alert = await ClosedAsync();
        (await analyst.Post($"alerts/{alert}/{act}", JsonDocument.Parse(body).RootElement, 1)).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task A_watchs_count_leaves_out_the_alerts_of_a_channel_that_one_may_not_read()
    {
        await ClosedAsync();
        (await analyst.GetOk("watches"))[0].GetProperty("quarter").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task No_message_goes_to_a_recipient_who_may_not_read_the_channel()
    {
        await WatchAsync(Deletions(recipients: ["sunniva@tarn.example"]));
        await CloseAsync();
        await SendAsync(Three);
        await using var db = product.Database();
        db.Messages.Select(m => m.Kind).ShouldNotContain("alert");
    }

    [Fact]
    public async Task The_work_list_leaves_out_the_alerts_of_a_channel_that_one_may_not_read()
    {
        await ClosedAsync();
        (await analyst.GetOk("today")).GetRawText().ShouldNotContain("of high severity");
    }

    [Fact]
    public async Task Every_alert_is_an_entry_of_the_ledger()
    {
        await WatchAsync(Deletions());
        await SendAsync(Three);
        (await analyst.GetOk($"ledger?kind=alert&subject={await AlertAsync()}")).GetRawText().ShouldContain("raised");
    }
}
