using System.Net;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Tests.Activity;

/// <summary>Acts in the directory that need a second person, and what an alert can become.</summary>
public sealed class AlertActTests : IAsyncLifetime
{
    private const string Nora = "nora@tarn.example";

    private readonly Product product = new();
    private Api sunniva = null!;
    private Api runa = null!;
    private string key = "";
    private long alert;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(DirectoryState.Empty with { People = [new(Nora, "Nora")] });
        using var jonas = await product.SignInAsync("jonas");
        await product.AddPersonAsync(jonas, "runa", "securityAnalyst");
        (await jonas.Put("alert-settings", new { actsNeedSecond = true })).Status.ShouldBe(HttpStatusCode.OK);
        sunniva = await product.SignInAsync("sunniva");
        runa = await product.SignInAsync("runa");
        var channel = await Channels.MakeAsync(jonas, "files");
        key = await Channels.KeyAsync(jonas, channel);
        await sunniva.PostOk(
            "watches",
            new
            {
                name = "Deletions",
                rule = new { kind = "each", where = "action = file.delete" },
                severity = "high",
                recipients = Array.Empty<string>(),
                words = "",
                dailyCap = 5,
                act = (string?)null,
            }
        );
        var watch = (await sunniva.GetOk("watches"))[0].GetProperty("id").GetInt64();
        await sunniva.PostOk($"watches/{watch}/on", new { since = "2026-06-01T00:00:00Z" });
        await Channels.SendAsync(
            product,
            "files",
            key,
            Channels.Line("d1", "2026-06-15T07:00:00Z", "file.delete", Nora, ",\"object\":\"Pier/1.jpg\"")
        );
        await product.Services.GetRequiredService<WatchEvaluator>().JudgeAsync(TestContext.Current.CancellationToken);
        alert = (await sunniva.GetOk("alerts"))[0].GetProperty("id").GetInt64();
    }

    public ValueTask DisposeAsync()
    {
        sunniva.Dispose();
        runa.Dispose();
        return product.DisposeAsync();
    }

    private bool IsSuspended =>
        product.Services.GetRequiredService<OrganisationDirectory>().State.People.Single().Suspended;

    private async Task<JsonElement> ActAsync(Api who) => (await who.GetOk($"alerts/{alert}")).GetProperty("acts")[0];

    private async Task<long> AskedAsync()
    {
        await sunniva.PostOk($"alerts/{alert}/acts", new { act = "suspend" });
        return (await ActAsync(sunniva)).GetProperty("id").GetInt64();
    }

    private static object Decision(bool agree) => new { agree, why = agree ? "" : "She is on holiday cover." };

    [Fact]
    public async Task An_act_waits_for_a_second_person()
    {
        await AskedAsync();
        IsSuspended.ShouldBeFalse();
    }

    [Fact]
    public async Task It_is_done_when_the_second_person_agrees()
    {
        var act = await AskedAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/decision", Decision(true));
        IsSuspended.ShouldBeTrue();
    }

    [Fact]
    public async Task Whoever_asked_does_not_agree_themselves()
    {
        var act = await AskedAsync();
        (await sunniva.Post($"alerts/{alert}/acts/{act}/decision", Decision(true))).Problem.ShouldBe(
            "second-person-needed"
        );
    }

    /// <summary>An act that a watch by sunniva asks for by itself.</summary>
    private async Task<(long Alert, long Act)> ByWatchAsync()
    {
        var watch = (await sunniva.GetOk("watches"))[0];
        var settings = JsonNode.Parse(watch.GetProperty("settings").GetRawText())!;
        settings["act"] = "suspend";
        (
            await sunniva.Put(
                $"watches/{watch.GetProperty("id").GetInt64()}",
                settings,
                watch.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await Channels.SendAsync(
            product,
            "files",
            key,
            Channels.Line("d2", "2026-06-15T06:30:00Z", "file.delete", Nora, ",\"object\":\"Pier/2.jpg\"")
        );
        await product.Services.GetRequiredService<WatchEvaluator>().JudgeAsync(TestContext.Current.CancellationToken);
        foreach (var raised in (await sunniva.GetOk("alerts")).EnumerateArray())
        {
            var id = raised.GetProperty("id").GetInt64();
            var acts = (await sunniva.GetOk($"alerts/{id}")).GetProperty("acts");
            if (acts.GetArrayLength() > 0)
            {
                return (id, acts[0].GetProperty("id").GetInt64());
            }
        }

        throw new InvalidOperationException("The watch asked for nothing.");
    }

    [Fact]
    public async Task The_author_of_a_watch_does_not_approve_its_act()
    {
        var (raised, act) = await ByWatchAsync();
        (await sunniva.Post($"alerts/{raised}/acts/{act}/decision", Decision(true))).Problem.ShouldBe(
            "second-person-needed"
        );
    }

    [Fact]
    public async Task Another_person_approves_the_act_of_a_watch()
    {
        var (raised, act) = await ByWatchAsync();
        await runa.PostOk($"alerts/{raised}/acts/{act}/decision", Decision(true));
        IsSuspended.ShouldBeTrue();
    }

    private async Task<long> DoneAsync()
    {
        var act = await AskedAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/decision", Decision(true));
        return act;
    }

    [Fact]
    public async Task An_undo_waits_for_a_second_person_too()
    {
        var act = await DoneAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/undo", new { });
        IsSuspended.ShouldBeTrue();
    }

    [Fact]
    public async Task Whoever_asked_for_an_undo_does_not_approve_it()
    {
        var act = await DoneAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/undo", new { });
        (await runa.Post($"alerts/{alert}/acts/{act + 1}/decision", Decision(true))).Problem.ShouldBe(
            "second-person-needed"
        );
    }

    [Fact]
    public async Task An_undo_that_was_approved_takes_the_act_back()
    {
        var act = await DoneAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/undo", new { });
        await sunniva.PostOk($"alerts/{alert}/acts/{act + 1}/decision", Decision(true));
        IsSuspended.ShouldBeFalse();
    }

    [Fact]
    public async Task An_undo_that_waits_is_not_asked_for_twice()
    {
        var act = await DoneAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/undo", new { });
        (await sunniva.Post($"alerts/{alert}/acts/{act}/undo", new { })).Problem.ShouldBe("act-waits");
    }

    [Theory]
    [InlineData("organisation", null)]
    [InlineData("organisation nora@tarn.example odd@tarn.example", Nora)]
    public void A_consent_is_revoked_for_the_person_of_the_alert_alone(string consents, string? revoked)
    {
        var state = DirectoryState.Empty with
        {
            People = [new(Nora, "Nora")],
            Applications =
            [
                new(
                    "app",
                    "Berths",
                    "Somebody",
                    [.. consents.Split(' ').Select(by => new OutsideConsent(by, ["files.read"], null))]
                ),
            ],
        };
        var row = new AlertRow
        {
            Why = "",
            Actor = Nora,
            Object = "app",
        };
        var change = AlertActs.ChangeOf("revoke-consent", row, state);
        (change is null ? null : (string?)change.Who).ShouldBe(revoked);
    }

    [Fact]
    public async Task It_is_not_done_where_the_second_person_does_not_agree()
    {
        var act = await AskedAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/decision", Decision(false));
        ((await ActAsync(sunniva)).GetProperty("failure").GetString(), IsSuspended).ShouldBe(
            ("runa did not agree: She is on holiday cover.", false)
        );
    }

    [Fact]
    public async Task Whoever_does_not_agree_says_why()
    {
        var act = await AskedAsync();
        (await runa.Post($"alerts/{alert}/acts/{act}/decision", new { agree = false, why = "" })).Problem.ShouldBe(
            "why-missing"
        );
    }

    [Fact]
    public async Task What_was_decided_is_not_decided_again()
    {
        var act = await AskedAsync();
        await runa.PostOk($"alerts/{alert}/acts/{act}/decision", Decision(false));
        (await runa.Post($"alerts/{alert}/acts/{act}/decision", Decision(true))).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task The_same_act_is_not_asked_for_twice()
    {
        await AskedAsync();
        (await runa.Post($"alerts/{alert}/acts", new { act = "suspend" })).Problem.ShouldBe("act-waits");
    }

    [Fact]
    public async Task It_stands_on_Today_for_those_who_can_agree()
    {
        await AskedAsync();
        (await DutiesAsync(runa)).ShouldContain("act");
    }

    [Fact]
    public async Task It_does_not_stand_on_Today_for_whoever_asked()
    {
        await AskedAsync();
        (await DutiesAsync(sunniva)).ShouldNotContain("act");
    }

    [Fact]
    public async Task Who_acts_on_alerts_does_not_lift_the_need_for_a_second_person() =>
        (await sunniva.Put("alert-settings", new { actsNeedSecond = false })).Status.ShouldBe(HttpStatusCode.Forbidden);

    [Fact]
    public async Task An_alert_becomes_an_investigation_with_its_events_pinned()
    {
        await sunniva.PostOk($"alerts/{alert}/investigation", new { });
        var opened = (await sunniva.GetOk("investigations"))[0];
        (opened.GetProperty("name").GetString(), opened.GetProperty("events").GetArrayLength()).ShouldBe(
            ($"Alert {alert}: Deletions, {Nora}", 1)
        );
    }

    private async Task<IEnumerable<string?>> AttachedAsync(Api who) =>
        (await who.GetOk($"alerts/{alert}/investigations"))
            .EnumerateArray()
            .Select(i => i.GetProperty("name").GetString());

    private async Task<long> OpenedAsync(Api who, string name)
    {
        await who.PostOk("investigations", new { name, summary = "" });
        return (await who.GetOk("investigations"))
            .EnumerateArray()
            .Single(i => i.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt64();
    }

    [Fact]
    public async Task An_investigation_of_an_alert_is_seen_by_whoever_else_reads_its_events()
    {
        await sunniva.PostOk($"alerts/{alert}/investigation", new { });
        (await AttachedAsync(runa)).ShouldBe([$"Alert {alert}: Deletions, {Nora}"]);
    }

    [Fact]
    public async Task Another_investigation_is_attached_to_an_alert_once()
    {
        var pier = await OpenedAsync(sunniva, "Pier");
        await sunniva.PostOk($"alerts/{alert}/investigations", new { investigationId = pier });
        await sunniva.PostOk($"alerts/{alert}/investigations", new { investigationId = pier });
        (await AttachedAsync(sunniva)).ShouldBe(["Pier"]);
    }

    [Fact]
    public async Task Nobody_attaches_an_investigation_of_somebody_else()
    {
        var pier = await OpenedAsync(sunniva, "Pier");
        (await runa.Post($"alerts/{alert}/investigations", new { investigationId = pier })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task An_attached_investigation_with_events_of_a_channel_one_may_not_read_is_not_seen()
    {
        var pier = await OpenedAsync(sunniva, "Pier");
        await sunniva.PostOk($"alerts/{alert}/investigations", new { investigationId = pier });
        await using (var db = product.Database())
        {
            db.Add(
                new InvestigationEvent
                {
                    InvestigationId = pier,
                    EventId = 999,
                    Time = NodaTime.Instant.FromUtc(2026, 6, 15, 7, 0),
                    Body = "{\"channel\":\"closed\"}",
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        (
            (await AttachedAsync(runa)).Count(),
            (await runa.GetOk("investigations")).GetArrayLength(),
            (await runa.Get($"investigations/{pier}/file")).Status
        ).ShouldBe((0, 0, HttpStatusCode.NotFound));
    }

    [Fact]
    public async Task Whoever_sees_an_investigation_of_another_person_changes_nothing_in_it()
    {
        await sunniva.PostOk($"alerts/{alert}/investigation", new { });
        var seen = (await runa.GetOk("investigations"))[0];
        (
            seen.GetProperty("mine").GetBoolean(),
            (await runa.Post($"investigations/{seen.GetProperty("id").GetInt64()}/freezing", new { })).Status
        ).ShouldBe((false, HttpStatusCode.NotFound));
    }

    [Fact]
    public async Task An_alert_is_a_file_that_stands_for_itself()
    {
        var file = (await sunniva.Get($"alerts/{alert}/file")).Body;
        (
            file.GetProperty("events")[0].GetProperty("eventId").GetString(),
            file.GetProperty("watch").GetProperty("settings").GetProperty("name").GetString()
        ).ShouldBe(("d1", "Deletions"));
    }

    private static async Task<IEnumerable<string?>> DutiesAsync(Api who) =>
        (await who.GetOk("today"))
            .GetProperty("duties")
            .EnumerateArray()
            .Select(d => d.GetProperty("kind").GetString());
}
