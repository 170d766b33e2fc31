using System.Net;
using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>Policies: written by one, approved by another, acknowledged by everybody whom they bind.</summary>
public sealed class PolicyTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api writer = null!;
    private Api approver = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People =
                [
                    new("ann@tarn.example", "Ann", Unit: "Northern"),
                    new("bo@tarn.example", "Bo", Unit: "Island"),
                    new("gus@yard.example", "Gus", "guest", Unit: "Northern"),
                ],
                Groups = [new("Crew", "Crew", null, ["bo@tarn.example"])],
            }
        );
        using var jonas = await product.SignInAsync("jonas");
        await product.AddPersonAsync(jonas, "runa", "auditManager");
        writer = await product.SignInAsync("mikkel");
        approver = await product.SignInAsync("runa");
    }

    public ValueTask DisposeAsync()
    {
        writer.Dispose();
        approver.Dispose();
        return product.DisposeAsync();
    }

    private static object Settings(
        string code = "POL-1",
        string[]? units = null,
        string[]? groups = null,
        int days = 14,
        bool asksItself = false
    ) =>
        new
        {
            code,
            title = "Devices",
            says = "",
            owner = "mikkel@tarn.example",
            units = units ?? [],
            groups = groups ?? [],
            days,
            asksItself,
        };

    private async Task<long> MadeAsync(object? settings = null) =>
        (await writer.PostOk("policies", settings ?? Settings())).GetProperty("id").GetInt64();

    private Task<Answer> VersionAsync(long id, string from = "2026-06-15", bool asksAnew = true) =>
        writer.Post(
            $"policies/{id}/versions",
            new
            {
                text = "Lock your device.",
                change = "The first",
                inForceFrom = from,
                asksAnew,
            }
        );

    private async Task<long> InForceAsync(object? settings = null)
    {
        var id = await MadeAsync(settings);
        await VersionAsync(id);
        await approver.PostOk($"policies/{id}/versions/1/approval", new { });
        return id;
    }

    private async Task<JsonElement> PolicyAsync(long id) =>
        (await writer.GetOk("policies")).EnumerateArray().Single(p => p.GetProperty("id").GetInt64() == id);

    private async Task<string> TokenAsync(string mail = "ann@tarn.example")
    {
        await using var db = product.Database();
        var copy = await db.PolicyCopies.Where(c => c.Mail == mail).OrderBy(c => c.Id).LastAsync(stop);
        return await product.LinkAsync(LinkKind.Policy, copy.Id, mail);
    }

    private Task MorningAsync() => product.RunDayAsync();

    [Fact]
    public async Task A_version_binds_nobody_until_another_person_approves()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        (await PolicyAsync(id)).GetProperty("inForce").ValueKind.ShouldBe(JsonValueKind.Null);
    }

    [Fact]
    public async Task Who_wrote_a_version_does_not_approve_it()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        var answer = await writer.Post($"policies/{id}/versions/1/approval", new { });
        (answer.Problem, answer.Body.GetProperty("title").GetString()).ShouldBe(
            ("second-person-needed", "You wrote this version; another person must approve it.")
        );
    }

    [Fact]
    public async Task Who_put_a_file_beside_it_does_not_approve_it_either()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        await PutFileAsync(approver, id);
        (await approver.Post($"policies/{id}/versions/1/approval", new { })).Problem.ShouldBe("second-person-needed");
    }

    private async Task<HttpResponseMessage> PutFileAsync(Api who, long id, int bytes = 20) =>
        await who.Http.PutAsync(
            new Uri($"policies/{id}/versions/1/file?file=devices.pdf", UriKind.Relative),
            new ByteArrayContent([.. Enumerable.Range(0, bytes).Select(i => (byte)i)]),
            stop
        );

    [Fact]
    public async Task A_file_of_three_megabytes_is_taken()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        (await PutFileAsync(writer, id, 3_000_000)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task An_approved_version_does_not_change_any_more() =>
        (await PutFileAsync(writer, await InForceAsync())).StatusCode.ShouldBe(HttpStatusCode.Conflict);

    [Fact]
    public async Task A_version_that_waits_is_decided_before_the_next_one()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        (await VersionAsync(id)).Problem.ShouldBe("version-waits");
    }

    [Fact]
    public async Task A_version_that_is_refused_makes_room_for_the_next()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        await approver.PostOk($"policies/{id}/versions/1/refusal", new { why = "A sentence is missing." });
        (await VersionAsync(id)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_refusal_says_why_and_stays_in_the_ledger()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        (await writer.Post($"policies/{id}/versions/1/refusal", new { why = " " })).Problem.ShouldBe("why-missing");
        await writer.PostOk($"policies/{id}/versions/1/refusal", new { why = "A sentence is missing." });
        await using var db = product.Database();
        (await db.Ledger.OrderBy(e => e.Sequence).LastAsync(stop)).Body.ShouldContain("A sentence is missing.");
    }

    [Fact]
    public async Task An_approved_version_is_not_refused_any_more() =>
        (
            await writer.Post($"policies/{await InForceAsync()}/versions/1/refusal", new { why = "Too late." })
        ).Problem.ShouldBe("approved");

    [Theory]
    [InlineData(9)]
    [InlineData(1)]
    public async Task A_file_that_is_refused_leaves_nothing_behind(int number)
    {
        var id = await InForceAsync();
        (
            await writer.Http.PutAsync(
                new Uri($"policies/{id}/versions/{number}/file?file=a.pdf", UriKind.Relative),
                new ByteArrayContent([1, 2, 3]),
                stop
            )
        ).IsSuccessStatusCode.ShouldBeFalse();
        Directory.EnumerateFiles(product.Services.GetRequiredService<WideKeelOptions>().EvidenceFolder).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_code_of_a_policy_does_not_change()
    {
        var id = await MadeAsync();
        (await writer.Put($"policies/{id}", Settings("POL-2"), 1)).Problem.ShouldBe("code-fixed");
    }

    [Fact]
    public async Task A_policy_is_found_by_a_part_of_its_title()
    {
        var id = await MadeAsync();
        (await writer.GetOk("find?q=devic"))
            .EnumerateArray()
            .Select(h => h.GetProperty("link").GetString())
            .ShouldContain($"/readiness/policies?policy={id}");
    }

    [Fact]
    public async Task No_version_begins_before_the_one_before_it() =>
        (await VersionAsync(await InForceAsync(), "2026-06-14")).Problem.ShouldBe("begins-too-early");

    [Fact]
    public async Task Everybody_whom_it_binds_is_asked_and_no_guest()
    {
        var id = await InForceAsync();
        (await writer.PostOk($"policies/{id}/requests", new { })).GetProperty("asked").GetInt32().ShouldBe(2);
    }

    [Fact]
    public async Task Nobody_is_asked_twice_about_one_version()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        (await writer.PostOk($"policies/{id}/requests", new { })).GetProperty("asked").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task Nobody_is_asked_about_what_is_not_in_force() =>
        (await writer.Post($"policies/{await MadeAsync()}/requests", new { })).Problem.ShouldBe("not-in-force");

    [Theory]
    [InlineData("units", "Northern", "Ann")]
    [InlineData("groups", "Crew", "Bo")]
    public async Task It_binds_the_people_of_its_units_and_groups(string of, string name, string bound)
    {
        var id = await InForceAsync(Settings(units: of == "units" ? [name] : [], groups: of == "groups" ? [name] : []));
        (await writer.GetOk($"policies/{id}"))
            .GetProperty("readers")
            .EnumerateArray()
            .Select(r => r.GetProperty("name").GetString())
            .ShouldBe([bound]);
    }

    [Fact]
    public async Task Whoever_is_asked_acknowledges_without_an_account()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        await nobody.PostOk($"policy/{await product.ProveAsync(nobody, await TokenAsync())}/acknowledgement", new { });
        (await PolicyAsync(id)).GetProperty("given").GetInt32().ShouldBe(1);
    }

    [Fact]
    public async Task The_page_shows_the_text_that_binds_and_to_whom_it_was_sent()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        var page = await nobody.GetOk($"policy/{await TokenAsync()}");
        (
            page.GetProperty("text").GetString(),
            page.GetProperty("name").GetString(),
            page.GetProperty("dueOn").GetString()
        ).ShouldBe(("Lock your device.", "Ann", "2026-06-29"));
    }

    [Fact]
    public async Task An_acknowledgement_is_an_entry_of_the_ledger_in_the_reader_s_name()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        await nobody.PostOk($"policy/{await product.ProveAsync(nobody, await TokenAsync())}/acknowledgement", new { });
        await using var db = product.Database();
        (await db.Ledger.OrderBy(e => e.Sequence).LastAsync(stop)).Body.ShouldContain("\"Ann\"");
    }

    [Fact]
    public async Task Whoever_has_an_account_finds_the_policy_among_their_duties_until_they_know_it()
    {
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People = [new("pia@tarn.example", "Pia", Unit: "Northern")],
            }
        );
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        using var pia = await product.SignInAsync("pia");
        (await DutiesAsync(pia)).ShouldContain("Read “Devices”, version 1");
        await pia.PostOk($"policy/{await TokenAsync("pia@tarn.example")}/acknowledgement", new { });
        (await DutiesAsync(pia)).ShouldNotContain("Read “Devices”, version 1");
    }

    private static async Task<string> DutiesAsync(Api who) => (await who.GetOk("today")).ToString();

    [Fact]
    public async Task Who_may_approve_a_version_finds_it_among_their_duties_and_who_wrote_it_does_not()
    {
        var id = await MadeAsync();
        await VersionAsync(id);
        (
            (await DutiesAsync(approver)).Contains("Version 1 of “Devices” waits", StringComparison.Ordinal),
            (await DutiesAsync(writer)).Contains("Version 1 of “Devices” waits", StringComparison.Ordinal)
        ).ShouldBe((true, false));
    }

    [Fact]
    public async Task A_guessed_key_opens_nothing()
    {
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.Get($"policy/{new string('a', 48)}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_version_that_asks_anew_makes_the_old_link_say_so()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        var token = await TokenAsync();
        await VersionAsync(id);
        await approver.PostOk($"policies/{id}/versions/2/approval", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(nobody, token);
        (await nobody.Post($"policy/{token}/acknowledgement", new { })).Problem.ShouldBe("superseded");
    }

    [Fact]
    public async Task A_version_that_does_not_ask_anew_keeps_what_was_acknowledged()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        await nobody.PostOk($"policy/{await product.ProveAsync(nobody, await TokenAsync())}/acknowledgement", new { });
        await VersionAsync(id, asksAnew: false);
        await approver.PostOk($"policies/{id}/versions/2/approval", new { });
        var policy = await PolicyAsync(id);
        (policy.GetProperty("inForce").GetInt32(), policy.GetProperty("given").GetInt32()).ShouldBe((2, 1));
    }

    [Fact]
    public async Task The_morning_reminds_who_is_late_and_once_a_week()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        product.Clock.Advance(Duration.FromDays(15));
        await MorningAsync();
        product.Clock.Advance(Duration.FromDays(1));
        await MorningAsync();
        await using var db = product.Database();
        (await db.PolicyCopies.Select(c => c.Reminders).Distinct().SingleAsync(stop)).ShouldBe(1);
    }

    [Theory]
    [InlineData(true, 2)]
    [InlineData(false, 0)]
    public async Task The_morning_asks_where_the_policy_asks_by_itself(bool itself, int asked)
    {
        await InForceAsync(Settings(asksItself: itself));
        product.Clock.Advance(Duration.FromDays(1));
        await MorningAsync();
        await using var db = product.Database();
        (await db.PolicyCopies.CountAsync(stop)).ShouldBe(asked);
    }

    [Fact]
    public async Task A_policy_that_has_ended_binds_nobody_from_the_next_day()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/end", new { });
        product.Clock.Advance(Duration.FromDays(1));
        using var later = await product.SignInAsync("mikkel");
        (await later.Post($"policies/{id}/requests", new { })).Problem.ShouldBe("not-in-force");
    }

    [Fact]
    public async Task The_acknowledgements_come_as_a_table()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        var csv = await writer.Http.GetStringAsync(
            new Uri($"policies/{id}/acknowledgements.csv", UriKind.Relative),
            stop
        );
        csv.Split("\r\n")[1].ShouldBe("Ann,ann@tarn.example,Northern,Asked,1,2026-06-15,2026-06-29,0,,");
    }

    [Theory]
    [InlineData("", 14, "code-malformed")]
    [InlineData("POL 1", 14, "code-malformed")]
    [InlineData("POL-1", 0, "days-out-of-range")]
    [InlineData("POL-1", 366, "days-out-of-range")]
    public async Task A_policy_that_cannot_be_is_refused(string code, int days, string problem) =>
        (await writer.Post("policies", Settings(code, days: days))).Problem.ShouldBe(problem);

    [Fact]
    public async Task A_unit_in_which_nobody_is_is_refused() =>
        (await writer.Post("policies", Settings(units: ["Nowhere"]))).Problem.ShouldBe("unit-unknown");

    [Fact]
    public async Task A_code_stands_once()
    {
        await MadeAsync();
        (await writer.Post("policies", Settings("pol-1"))).Problem.ShouldBe("code-taken");
    }

    [Fact]
    public async Task Who_changes_a_policy_from_a_former_state_is_refused()
    {
        var id = await MadeAsync();
        (await writer.Put($"policies/{id}", Settings(), 1)).Status.ShouldBe(HttpStatusCode.OK);
        (await writer.Put($"policies/{id}", Settings(), 1)).Status.ShouldBe(HttpStatusCode.PreconditionFailed);
    }

    [Fact]
    public async Task The_measure_counts_who_acknowledged_or_still_has_time()
    {
        var id = await InForceAsync();
        await writer.PostOk($"policies/{id}/requests", new { });
        product.Clock.Advance(Duration.FromDays(15));
        using var later = await product.SignInAsync("mikkel");
        using var nobody = await Api.ConnectAsync(product.Address);
        await nobody.PostOk($"policy/{await product.ProveAsync(nobody, await TokenAsync())}/acknowledgement", new { });
        await later.PostOk(
            "gauges",
            new
            {
                name = "Known",
                measure = "policies-acknowledged",
                target = 100,
                warning = 90,
                alarm = 50,
            }
        );
        var gauge = (await later.GetOk("gauges"))[0];
        (gauge.GetProperty("right").GetInt32(), gauge.GetProperty("of").GetInt32()).ShouldBe((1, 2));
    }
}
