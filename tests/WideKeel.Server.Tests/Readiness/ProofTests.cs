using System.Net;
using System.Text;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Server.Kernel;
using WideKeel.Server.Readiness;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>What a proof says stays true: for which day it is, who reviewed it, and whether its file is what was given.</summary>
public sealed class ProofTests : AuditedProduct
{
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;

    private async Task<Answer> GiveAsync(Api who, string text, string more = "", long? part = null)
    {
        var response = await who.Http.PostAsync(
            new Uri($"control-parts/{part ?? Part}/evidence?file=list.txt{more}", UriKind.Relative),
            new ByteArrayContent(Encoding.UTF8.GetBytes(text)),
            stop
        );
        var body = await response.Content.ReadAsStringAsync(stop);
        return new(response.StatusCode, JsonDocument.Parse(body.Length == 0 ? "{}" : body).RootElement, response);
    }

    private async Task<JsonElement> PartAsync(long? id = null) =>
        (await ControlAsync())
            .GetProperty("parts")
            .EnumerateArray()
            .Single(p => p.GetProperty("id").GetInt64() == (id ?? Part));

    private async Task<bool> CountsAsync() => (await PartAsync()).GetProperty("counts").GetBoolean();

    /// <summary>The part, once a job has found that it counts, or that it does not.</summary>
    private async Task<JsonElement> UntilCountsAsync(bool counts) =>
        (
            await Manager.WaitForAsync(
                "controls",
                controls => controls[0].GetProperty("parts")[0].GetProperty("counts").GetBoolean() == counts
            )
        )[0]
            .GetProperty("parts")[0];

    private Task NextMorningAsync()
    {
        Product.Clock.Advance(Duration.FromDays(1));
        return Product.RunDayAsync();
    }

    private async Task<long> AddAsync(object part)
    {
        await Manager.PostOk($"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts", part);
        return (await ControlAsync()).GetProperty("parts").EnumerateArray().Max(p => p.GetProperty("id").GetInt64());
    }

    private Task<long> RoutineAsync(string first = "2026-06-01") =>
        AddAsync(
            new
            {
                kind = "routine",
                title = "Look",
                recurrence = "FREQ=MONTHLY",
                first,
            }
        );

    private async Task<Answer> ChangeAsync(object part)
    {
        var control = await ControlAsync();
        return await Manager.Put(
            $"controls/{control.GetProperty("id").GetInt64()}/parts/{Part}",
            part,
            control.GetProperty("revision").GetInt64()
        );
    }

    private static object List(string period = "P90D", bool needsReview = false) =>
        new
        {
            kind = "evidence",
            title = "The list",
            period,
            doer = "pia@tarn.example",
            needsReview,
        };

    private async Task<IReadOnlyList<string>> HistoryAsync() =>
        [
            .. (await Manager.GetOk("readiness"))
                .GetProperty("frameworks")[0]
                .GetProperty("history")
                .EnumerateArray()
                .Last()
                .GetProperty("moved")
                .EnumerateArray()
                .Select(m => m.GetString()!),
        ];

    [Theory]
    [InlineData("2199-06-01")]
    [InlineData("2026-07-01")]
    [InlineData("2026-06-02")]
    [InlineData("2026-05-01")]
    public async Task A_routine_is_not_proved_for_a_day_on_which_it_was_not_due(string due)
    {
        var part = await RoutineAsync();
        (await Manager.Post($"control-parts/{part}/done", new { text = "Looked.", due })).Problem.ShouldBe(
            "due-unknown"
        );
    }

    [Fact]
    public async Task A_routine_is_proved_for_a_due_day_that_has_come()
    {
        var part = await RoutineAsync();
        await Manager.PostOk($"control-parts/{part}/done", new { text = "Looked.", due = "2026-06-01" });
        (await PartAsync(part)).GetProperty("counts").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task A_routine_is_not_proved_before_its_first_due_day()
    {
        var part = await RoutineAsync("2026-07-01");
        (await Manager.Post($"control-parts/{part}/done", new { text = "Looked." })).Problem.ShouldBe("not-due-yet");
    }

    [Fact]
    public async Task A_proof_that_was_withdrawn_counts_no_more_and_stays()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"proofs/{proof}/withdrawal", new { reason = "Of another ship." });
        var part = await PartAsync();
        (
            part.GetProperty("counts").GetBoolean(),
            part.GetProperty("proofs")[0].GetProperty("withdrawnWhy").GetString()
        ).ShouldBe((false, "Of another ship."));
    }

    [Fact]
    public async Task A_proof_is_not_withdrawn_without_a_reason() =>
        (await Manager.Post($"proofs/{await GiveAsync("all well")}/withdrawal", new { reason = " " })).Problem.ShouldBe(
            "reason-missing"
        );

    [Fact]
    public async Task A_proof_is_withdrawn_once()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"proofs/{proof}/withdrawal", new { reason = "Of another ship." });
        (await Manager.Post($"proofs/{proof}/withdrawal", new { reason = "Again." })).Problem.ShouldBe(
            "proof-withdrawn"
        );
    }

    [Fact]
    public async Task What_was_offered_to_an_audit_stays_there_after_its_proof_was_withdrawn()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { });
        await Manager.PostOk($"proofs/{proof}/withdrawal", new { reason = "Of another ship." });
        (await RequestAsync()).GetProperty("offered").GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task A_proof_that_was_withdrawn_is_offered_to_no_audit()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"proofs/{proof}/withdrawal", new { reason = "Of another ship." });
        (await Manager.Post($"audits/{Audit}/requests/1/offer", new { proofs = new[] { proof } })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task Somebody_who_brings_no_proof_of_it_withdraws_none()
    {
        var proof = await GiveAsync("all well");
        using var nils = await Product.SignInAsync("nils");
        (await nils.Post($"proofs/{proof}/withdrawal", new { reason = "x" })).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Evidence_that_needs_a_review_counts_only_after_it()
    {
        await ChangeAsync(List(needsReview: true));
        await GiveAsync("all well");
        (await CountsAsync()).ShouldBeFalse();
    }

    [Fact]
    public async Task Nobody_reviews_evidence_that_they_gave()
    {
        await ChangeAsync(List(needsReview: true));
        (await Manager.Post($"proofs/{await GiveAsync("all well")}/review", new { })).Problem.ShouldBe(
            "second-person-needed"
        );
    }

    [Fact]
    public async Task Evidence_counts_once_somebody_else_has_reviewed_it()
    {
        await ChangeAsync(List(needsReview: true));
        using (var pia = await Product.SignInAsync("pia"))
        {
            (await GiveAsync(pia, "all well")).Status.ShouldBe(HttpStatusCode.OK);
        }

        var proof = (await PartAsync()).GetProperty("proofs")[0].GetProperty("id").GetInt64();
        await Manager.PostOk($"proofs/{proof}/review", new { });
        (await CountsAsync()).ShouldBeTrue();
    }

    [Fact]
    public async Task Evidence_has_its_own_date()
    {
        (await GiveAsync(Manager, "all well", "&day=2026-05-01")).Status.ShouldBe(HttpStatusCode.OK);
        (await PartAsync()).GetProperty("endsOn").GetString().ShouldBe("2026-07-30");
    }

    [Theory]
    [InlineData("&day=2026-06-16", "day-ahead")]
    [InlineData("&coversFrom=2026-02-01&coversThrough=2026-01-01", "period-malformed")]
    [InlineData("&coversFrom=2026-02-01", "period-malformed")]
    public async Task Evidence_of_impossible_days_is_refused(string more, string problem) =>
        (await GiveAsync(Manager, "all well", more)).Problem.ShouldBe(problem);

    [Fact]
    public async Task Evidence_that_covers_the_period_of_an_audit_lies_within_it()
    {
        await GiveAsync(Manager, "all well", "&day=2024-01-10&coversFrom=2024-01-01&coversThrough=2026-12-31");
        (await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { }))
            .GetProperty("outside")
            .GetArrayLength()
            .ShouldBe(0);
    }

    [Fact]
    public async Task One_file_is_evidence_of_several_controls()
    {
        var other = await AddAsync(
            new
            {
                kind = "evidence",
                title = "Another list",
                period = "P90D",
            }
        );
        var given = await GiveAsync(Manager, "all well", $"&also={other}");
        given.Status.ShouldBe(HttpStatusCode.OK, given.Body.GetRawText());
        (await PartAsync(other))
            .GetProperty("proofs")[0]
            .GetProperty("hash")
            .GetString()
            .ShouldBe((await PartAsync()).GetProperty("proofs")[0].GetProperty("hash").GetString());
    }

    [Fact]
    public async Task A_part_is_changed_with_what_it_was_before_in_the_ledger()
    {
        (await ChangeAsync(List("P1Y"))).Status.ShouldBe(HttpStatusCode.OK);
        var entry = (await Manager.GetOk("ledger?verb=part-changed")).GetProperty("entries")[0];
        (
            entry.GetProperty("before").GetProperty("period").GetString(),
            entry.GetProperty("after").GetProperty("period").GetString()
        ).ShouldBe(("P90D", "P1Y"));
    }

    [Fact]
    public async Task The_kind_of_a_part_stays() =>
        (
            await ChangeAsync(
                new
                {
                    kind = "routine",
                    title = "The list",
                    recurrence = "FREQ=MONTHLY",
                    first = "2026-06-01",
                }
            )
        ).Problem.ShouldBe("part-fixed");

    [Fact]
    public async Task A_part_that_somebody_else_changed_meanwhile_is_not_overwritten()
    {
        var control = (await ControlAsync()).GetProperty("id").GetInt64();
        (await Manager.Put($"controls/{control}/parts/{Part}", List("P1Y"), 1)).Status.ShouldBe(
            HttpStatusCode.PreconditionFailed
        );
    }

    [Fact]
    public async Task A_file_that_is_gone_counts_no_more_after_the_daily_run()
    {
        await GiveAsync("all well");
        File.Delete(Directory.GetFiles(Path.Combine(Product.Data, "evidence")).Single());
        await NextMorningAsync();
        (await UntilCountsAsync(false)).GetProperty("proofs")[0].GetProperty("broken").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task A_file_that_is_gone_is_a_duty()
    {
        await GiveAsync("all well");
        File.Delete(Directory.GetFiles(Path.Combine(Product.Data, "evidence")).Single());
        await NextMorningAsync();
        await UntilCountsAsync(false);
        (await Manager.GetOk("today")).GetRawText().ShouldContain("1 file that was given is missing or changed");
    }

    [Fact]
    public async Task A_file_that_came_back_counts_again_after_the_next_daily_run()
    {
        await GiveAsync("all well");
        var file = Directory.GetFiles(Path.Combine(Product.Data, "evidence")).Single();
        File.Move(file, file + ".away");
        await NextMorningAsync();
        await UntilCountsAsync(false);
        File.Move(file + ".away", file);
        await NextMorningAsync();
        (await UntilCountsAsync(true)).GetProperty("proofs")[0].GetProperty("broken").GetBoolean().ShouldBeFalse();
    }

    [Fact]
    public async Task A_proof_moves_its_own_day_at_once()
    {
        await NextDayAsync();
        await GiveAsync("all well");
        (await HistoryAsync()).ShouldBe(["ACC-01 The list: counts again. (+4.55 points)"]);
    }

    /// <summary>Readiness of today was noted, and it is tomorrow.</summary>
    private async Task NextDayAsync()
    {
        await ChangeAsync(List());
        Product.Clock.Advance(Duration.FromDays(1));
    }

    [Fact]
    public async Task A_mapping_that_was_added_is_named_as_the_cause()
    {
        await GiveAsync("all well");
        await NextDayAsync();
        var control = await ControlAsync();
        var settings = System.Text.Json.Nodes.JsonNode.Parse(control.GetProperty("settings").GetRawText())!.AsObject();
        settings["requirements"]!.AsArray().Add("nist-csf-2.0/PR.DS");
        await Manager.Put(
            $"controls/{control.GetProperty("id").GetInt64()}",
            settings,
            control.GetProperty("revision").GetInt64()
        );
        (await HistoryAsync()).ShouldBe(["ACC-01 answers PR.DS. (+4.55 points)"]);
    }

    [Fact]
    public async Task A_control_set_on_a_unit_applies_beneath_it()
    {
        await Product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People = [new("ann@tarn.example", "Ann") { Unit = "Island" }],
            }
        );
        await GiveAsync("all well");
        var control = await ControlAsync();
        var settings = System.Text.Json.Nodes.JsonNode.Parse(control.GetProperty("settings").GetRawText())!.AsObject();
        settings["units"]!.AsArray().Add(Product.Units["Fleet"]);
        await Manager.Put(
            $"controls/{control.GetProperty("id").GetInt64()}",
            settings,
            control.GetProperty("revision").GetInt64()
        );
        (await Manager.GetOk("readiness"))
            .GetProperty("frameworks")[0]
            .GetProperty("readiness")
            .GetDecimal()
            .ShouldBeGreaterThan(0);
    }

    [Fact]
    public async Task The_test_file_of_scanners_is_not_taken()
    {
        await using var scanner = new StandInScanner();
        Product.Services.GetRequiredService<ContentScanner>().Address = scanner.Address;
        var harmful = @"X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR" + "-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*";
        (await GiveAsync(Manager, harmful)).Problem.ShouldBe("file-harmful");
    }

    [Fact]
    public async Task A_file_that_the_scanner_finds_harmless_is_taken()
    {
        await using var scanner = new StandInScanner();
        Product.Services.GetRequiredService<ContentScanner>().Address = scanner.Address;
        (await GiveAsync(Manager, new string('a', 200_000))).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task No_file_is_taken_while_the_scanner_does_not_answer()
    {
        Uri gone;
        await using (var scanner = new StandInScanner())
        {
            gone = scanner.Address;
        }

        Product.Services.GetRequiredService<ContentScanner>().Address = gone;
        (await GiveAsync(Manager, "all well")).Problem.ShouldBe("scanner-silent");
    }

    private Task<Answer> RiskAsync(int after, string treatment, params string[] controls) =>
        Manager.Post(
            "registers",
            new
            {
                kind = "risk",
                title = "Fire",
                likelihood = 3,
                impact = 3,
                likelihoodAfter = after,
                impactAfter = 3,
                treatment,
                controls,
            }
        );

    [Theory]
    [InlineData(4, "reduce", "ACC-01", "risk-rises")]
    [InlineData(2, "", "ACC-01", "treatment-missing")]
    [InlineData(2, "accept", "ACC-01", "treatment-missing")]
    [InlineData(2, "hope", "ACC-01", "treatment-unknown")]
    [InlineData(2, "reduce", "NO-1", "control-unknown")]
    public async Task A_risk_that_cannot_be_so_is_refused(
        int after,
        string treatment,
        string control,
        string problem
    ) => (await RiskAsync(after, treatment, control)).Problem.ShouldBe(problem);

    [Fact]
    public async Task A_risk_that_is_reduced_by_a_control_is_taken() =>
        (await RiskAsync(2, "reduce", "ACC-01")).Status.ShouldBe(HttpStatusCode.OK);

    [Fact]
    public async Task Nothing_is_called_met_that_has_an_unanswered_requirement()
    {
        await GiveAsync("all well");
        var oscal = """
            {"catalog":{"uuid":"5b1a1c1e-0000-4000-8000-000000000001","metadata":{"title":"Small","version":"1",
            "last-modified":"2026-01-01T00:00:00Z","oscal-version":"1.1.2"},
            "controls":[{"id":"a","title":"A"},{"id":"b","title":"B"}]}}
            """;
        await Manager.Http.PostAsync(
            new Uri("frameworks/oscal", UriKind.Relative),
            new StringContent(oscal, Encoding.UTF8, "application/json"),
            stop
        );
        var code = (await Manager.GetOk("readiness"))
            .GetProperty("frameworks")
            .EnumerateArray()
            .Single(f => f.GetProperty("title").GetString() == "Small")
            .GetProperty("code")
            .GetString()!;
        var control = await ControlAsync();
        var settings = System.Text.Json.Nodes.JsonNode.Parse(control.GetProperty("settings").GetRawText())!.AsObject();
        settings["requirements"]!.AsArray().Add($"{code}/a");
        await Manager.Put(
            $"controls/{control.GetProperty("id").GetInt64()}",
            settings,
            control.GetProperty("revision").GetInt64()
        );
        await using (var db = Product.Database())
        {
            // So heavy that what nothing answers hardly counts.
            await Microsoft.EntityFrameworkCore.EntityFrameworkQueryableExtensions.ExecuteUpdateAsync(
                db.Requirements.Where(r => r.Code == "a"),
                r => r.SetProperty(x => x.Weight, 1000),
                stop
            );
        }

        await Manager.Put(
            "assurance/settings",
            new
            {
                published = true,
                words = "",
                frameworks = new[] { code },
                controlsShown = false,
                policiesShown = false,
            }
        );
        (await Manager.GetOk("assurance"))
            .GetProperty("frameworks")[0]
            .GetProperty("state")
            .GetString()
            .ShouldBe("largely met");
    }
}
