using System.Globalization;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Server.Tests.Activity;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>Frameworks, controls, proofs, gauges, audits and the assurance page through the API.</summary>
public sealed class ReadinessTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api manager = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await DirectoryAsync(secondFactors: 1);
        manager = await product.SignInAsync("mikkel");
        await manager.PostOk("frameworks", new { code = "nist-csf-2.0" });
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        return product.DisposeAsync();
    }

    /// <summary>Two people, so many of whom have a second factor.</summary>
    private Task DirectoryAsync(int secondFactors) =>
        product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People =
                [
                    new("ann@tarn.example", "Ann", SecondFactor: secondFactors > 0),
                    new("bo@tarn.example", "Bo", SecondFactor: secondFactors > 1),
                ],
            }
        );

    private async Task<long> ControlAsync(string code = "ACC-01", string requirement = "nist-csf-2.0/PR.AA")
    {
        await manager.PostOk(
            "controls",
            new
            {
                code,
                title = "Second factor",
                says = "",
                area = "access",
                owner = "pia@tarn.example",
                units = Array.Empty<long>(),
                requirements = new[] { requirement },
            }
        );
        return (await Control(code)).GetProperty("id").GetInt64();
    }

    private async Task<JsonElement> Control(string code = "ACC-01") =>
        (await manager.GetOk("controls"))
            .EnumerateArray()
            .Single(c => c.GetProperty("settings").GetProperty("code").GetString() == code);

    private async Task<long> PartAsync(long control, object part)
    {
        await manager.PostOk($"controls/{control}/parts", part);
        return (await Control()).GetProperty("parts")[0].GetProperty("id").GetInt64();
    }

    private Task<long> TestPartAsync(long control, double expected = 100) =>
        PartAsync(
            control,
            new
            {
                kind = "test",
                title = "Second factor",
                measure = "second-factor",
                expected,
                period = "P7D",
            }
        );

    private static decimal Readiness(JsonElement of) => of.GetProperty("readiness").GetDecimal();

    [Fact]
    public async Task An_adopted_framework_without_controls_is_unanswered() =>
        (await manager.GetOk("readiness"))
            .GetProperty("frameworks")[0]
            .GetProperty("unanswered")
            .GetInt32()
            .ShouldBe(22);

    [Theory]
    [InlineData("PR.AA", "/readiness?framework=nist-csf-2.0")]
    [InlineData("Cybersecurity", "/readiness?framework=nist-csf-2.0")]
    public async Task A_requirement_or_framework_is_found(string words, string link) =>
        (await manager.GetOk($"find?q={words}"))
            .EnumerateArray()
            .Select(h => h.GetProperty("link").GetString())
            .ShouldContain(link);

    [Fact]
    public async Task A_control_is_found_by_its_code()
    {
        var control = await ControlAsync();
        (await manager.GetOk("find?q=ACC-01"))[0]
            .GetProperty("link")
            .GetString()
            .ShouldBe($"/readiness/controls?control={control}");
    }

    [Fact]
    public async Task A_framework_is_adopted_once() =>
        (await manager.Post("frameworks", new { code = "nist-csf-2.0" })).Problem.ShouldBe("framework-adopted");

    [Fact]
    public async Task A_test_that_passes_makes_its_control_ready()
    {
        await DirectoryAsync(secondFactors: 2);
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        Readiness(await Control()).ShouldBe(1);
    }

    [Fact]
    public async Task A_test_fails_when_the_fact_is_false_in_the_product()
    {
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        Readiness(await Control()).ShouldBe(0);
    }

    [Fact]
    public async Task A_test_passes_at_the_percent_that_is_expected()
    {
        var part = await TestPartAsync(await ControlAsync(), expected: 50);
        await manager.PostOk($"control-parts/{part}/runs", new { });
        Readiness(await Control()).ShouldBe(1);
    }

    [Fact]
    public async Task A_run_keeps_what_it_looked_at()
    {
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        await DirectoryAsync(secondFactors: 2);
        var proof = (await Control()).GetProperty("parts")[0].GetProperty("proofs")[0].GetProperty("id").GetInt64();
        (await manager.GetOk($"proofs/{proof}"))
            .GetProperty("facts")
            .EnumerateArray()
            .Count(f => !f.GetProperty("right").GetBoolean())
            .ShouldBe(1);
    }

    [Fact]
    public async Task A_run_that_is_older_than_its_period_no_longer_counts()
    {
        await DirectoryAsync(secondFactors: 2);
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        product.Clock.Advance(Duration.FromDays(8));
        Readiness(await Control()).ShouldBe(0);
    }

    [Fact]
    public async Task The_framework_rises_by_the_share_of_its_requirement()
    {
        await DirectoryAsync(secondFactors: 2);
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        Readiness((await manager.GetOk("readiness")).GetProperty("frameworks")[0]).ShouldBe(1m / 22, 1e-9m);
    }

    [Fact]
    public async Task What_moved_the_readiness_is_named()
    {
        await DirectoryAsync(secondFactors: 2);
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        product.Clock.Advance(Duration.FromDays(1));
        await DirectoryAsync(secondFactors: 0);
        await manager.PostOk($"control-parts/{part}/runs", new { });
        (await manager.GetOk("readiness"))
            .GetProperty("frameworks")[0]
            .GetProperty("history")
            .EnumerateArray()
            .Last()
            .GetRawText()
            .ShouldContain("no longer counts");
    }

    [Fact]
    public async Task The_next_best_fix_is_the_control_that_is_not_ready()
    {
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        (await manager.GetOk("readiness/fixes?hours=8"))
            .GetProperty("fixes")[0]
            .GetProperty("control")
            .GetString()
            .ShouldBe("ACC-01");
    }

    [Fact]
    public async Task The_forecast_falls_when_a_run_grows_old()
    {
        await DirectoryAsync(secondFactors: 2);
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        (await manager.GetOk("readiness/forecast?days=30"))
            .EnumerateArray()
            .Last()
            .GetProperty("readiness")
            .GetDecimal()
            .ShouldBe(0);
    }

    [Fact]
    public async Task A_control_is_not_applicable_only_once_another_person_approves()
    {
        var id = await ControlAsync();
        await manager.PostOk($"controls/{id}/not-applicable", new { reason = "We have none." });
        (await Control()).GetProperty("state").GetString().ShouldBe("notSetUp");
    }

    [Fact]
    public async Task Who_asked_may_not_approve()
    {
        var id = await ControlAsync();
        await manager.PostOk($"controls/{id}/not-applicable", new { reason = "We have none." });
        (await manager.Post($"controls/{id}/approval", new { })).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task A_requirement_that_is_not_there_is_refused_by_its_name() =>
        (
            await manager.Post(
                "controls",
                new
                {
                    code = "X",
                    title = "x",
                    says = "",
                    area = "access",
                    owner = "",
                    units = Array.Empty<long>(),
                    requirements = new[] { "nist-csf-2.0/ZZ.ZZ" },
                }
            )
        ).Problem.ShouldBe("requirement-unknown");

    private Task<long> EvidencePartAsync(long control) =>
        PartAsync(
            control,
            new
            {
                kind = "evidence",
                title = "Report",
                period = "P90D",
                doer = "pia@tarn.example",
            }
        );

    private async Task<HttpResponseMessage> GiveAsync(Api who, long part, byte[] bytes, string file = "report.txt") =>
        await who.Http.PostAsync(
            new Uri($"control-parts/{part}/evidence?file={Uri.EscapeDataString(file)}", UriKind.Relative),
            new ByteArrayContent(bytes),
            stop
        );

    [Fact]
    public async Task A_file_that_is_given_counts_for_its_freshness()
    {
        var part = await EvidencePartAsync(await ControlAsync());
        (await GiveAsync(manager, part, "all well"u8.ToArray())).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await Control()).GetProperty("parts")[0].GetProperty("endsOn").GetString().ShouldBe("2026-09-13");
    }

    [Fact]
    public async Task A_file_comes_back_as_it_was_given()
    {
        var part = await EvidencePartAsync(await ControlAsync());
        await GiveAsync(manager, part, "all well"u8.ToArray());
        var proof = (await Control()).GetProperty("parts")[0].GetProperty("proofs")[0].GetProperty("id").GetInt64();
        (await manager.Http.GetStringAsync(new Uri($"proofs/{proof}/file", UriKind.Relative), stop)).ShouldBe(
            "all well"
        );
    }

    [Fact]
    public async Task An_empty_file_is_refused()
    {
        var part = await EvidencePartAsync(await ControlAsync());
        (await GiveAsync(manager, part, [])).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task The_one_who_brings_evidence_may_give_it_without_any_other_right()
    {
        var part = await EvidencePartAsync(await ControlAsync());
        using var pia = await product.SignInAsync("pia");
        (await GiveAsync(pia, part, "mine"u8.ToArray())).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Somebody_else_may_not_give_it()
    {
        var part = await EvidencePartAsync(await ControlAsync());
        using var nils = await product.SignInAsync("nils");
        (await GiveAsync(nils, part, "not mine"u8.ToArray())).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    private Task<Answer> SeenByAsync(long control, long part, params string[] roles) =>
        manager.Put($"controls/{control}/parts/{part}/readers", new { seenBy = roles });

    /// <summary>A file that only legal sees, given by who manages readiness.</summary>
    private async Task<long> RestrictedAsync()
    {
        var control = await ControlAsync();
        var part = await EvidencePartAsync(control);
        await GiveAsync(manager, part, "names of the injured"u8.ToArray());
        var proof = (await Control()).GetProperty("parts")[0].GetProperty("proofs")[0].GetProperty("id").GetInt64();
        (await SeenByAsync(control, part, "legal")).Status.ShouldBe(HttpStatusCode.OK);
        return proof;
    }

    private async Task<HttpStatusCode> OpenedByAsync(string name, long proof)
    {
        using var who = await product.SignInAsync(name);
        return (await who.Http.GetAsync(new Uri($"proofs/{proof}/file", UriKind.Relative), stop)).StatusCode;
    }

    [Theory]
    [InlineData("nils", HttpStatusCode.OK)]
    [InlineData("pia", HttpStatusCode.OK)]
    [InlineData("mikkel", HttpStatusCode.NotFound)]
    [InlineData("edvin", HttpStatusCode.NotFound)]
    public async Task A_file_for_legal_opens_to_legal_and_to_whoever_brings_it(string name, HttpStatusCode status) =>
        (await OpenedByAsync(name, await RestrictedAsync())).ShouldBe(status);

    [Fact]
    public async Task Who_does_not_see_the_proofs_of_a_part_learns_no_name_of_theirs()
    {
        await RestrictedAsync();
        var answer = await manager.GetOk("controls");
        var part = answer[0].GetProperty("parts")[0];
        (
            part.GetProperty("kept").GetBoolean(),
            answer.GetRawText().Contains("report.txt", StringComparison.Ordinal)
        ).ShouldBe((true, false));
    }

    [Fact]
    public async Task A_proof_counts_for_those_too_who_do_not_see_it()
    {
        await RestrictedAsync();
        Readiness(await Control()).ShouldBe(1);
    }

    [Fact]
    public async Task The_list_of_evidence_keeps_what_is_for_others()
    {
        await RestrictedAsync();
        var piece = (await manager.GetOk("evidence"))[0];
        (piece.GetProperty("kept").GetBoolean(), piece.GetProperty("latest").ValueKind).ShouldBe(
            (true, JsonValueKind.Null)
        );
    }

    [Fact]
    public async Task A_statement_gives_no_proofs_that_are_for_others()
    {
        await RestrictedAsync();
        (await manager.PostOk("statements/answers", new { sql = "SELECT * FROM control_proofs" }))
            .GetProperty("rows")
            .GetArrayLength()
            .ShouldBe(0);
    }

    [Fact]
    public async Task Who_sees_the_proofs_of_a_part_is_an_entry_of_the_ledger()
    {
        await RestrictedAsync();
        (await manager.GetOk("ledger?kind=control")).GetRawText().ShouldContain("proof-readers-changed");
    }

    [Fact]
    public async Task Evidence_that_auditors_may_not_see_is_not_offered_to_them()
    {
        await RestrictedAsync();
        var (id, auditor) = await AuditAsync();
        auditor.Dispose();
        (await manager.Post($"audits/{id}/requests/1/offer", new { })).Problem.ShouldBe("kept-from-auditors");
    }

    /// <summary>A control whose evidence is offered in the room of an audit.</summary>
    private async Task<(long Audit, Api Auditor, long Control, long Part, long Proof)> OfferedAsync(
        string file = "a.txt"
    )
    {
        var control = await ControlAsync();
        var part = await EvidencePartAsync(control);
        await GiveAsync(manager, part, "all well"u8.ToArray(), file);
        var (audit, auditor) = await AuditAsync();
        await manager.PostOk($"audits/{audit}/requests/1/offer", new { });
        var proof = (await Control()).GetProperty("parts")[0].GetProperty("proofs")[0].GetProperty("id").GetInt64();
        return (audit, auditor, control, part, proof);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_proof_stays_in_the_room_whatever_is_removed_of_what_it_shows(bool whole)
    {
        var (audit, auditor, control, part, proof) = await OfferedAsync();
        using (auditor)
        {
            await manager.Delete(whole ? $"controls/{control}" : $"controls/{control}/parts/{part}");
            (
                (await auditor.Get($"audits/{audit}/proofs/{proof}/file")).Text,
                (await auditor.GetOk($"audits/{audit}"))
                    .GetProperty("requests")[0]
                    .GetProperty("offered")
                    .GetArrayLength()
            ).ShouldBe(("all well", 1));
        }
    }

    [Fact]
    public async Task A_control_with_proofs_that_was_removed_is_asked_no_more()
    {
        var (_, auditor, control, _, _) = await OfferedAsync();
        auditor.Dispose();
        await manager.Delete($"controls/{control}");
        (
            (await manager.GetOk("controls")).GetArrayLength(),
            (await manager.GetOk("readiness")).GetProperty("frameworks")[0].GetProperty("unanswered").GetInt32()
        ).ShouldBe((0, 22));
    }

    [Fact]
    public async Task A_part_of_a_control_that_was_retired_takes_nothing_more()
    {
        var (_, auditor, control, part, _) = await OfferedAsync();
        auditor.Dispose();
        await manager.Delete($"controls/{control}");
        (await GiveAsync(manager, part, "later"u8.ToArray())).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_code_of_a_control_with_proofs_is_not_given_again()
    {
        var (_, auditor, control, _, _) = await OfferedAsync();
        auditor.Dispose();
        await manager.Delete($"controls/{control}");
        (
            await manager.Post(
                "controls",
                new
                {
                    code = "ACC-01",
                    title = "Another",
                    says = "",
                    area = "access",
                    owner = "",
                    units = Array.Empty<long>(),
                    requirements = Array.Empty<string>(),
                }
            )
        ).Problem.ShouldBe("code-taken");
    }

    [Fact]
    public async Task A_control_that_never_had_a_proof_is_gone_with_its_code()
    {
        await manager.Delete($"controls/{await ControlAsync()}");
        (await ControlAsync()).ShouldBeGreaterThan(0);
    }

    [Fact]
    public async Task A_file_that_was_changed_where_evidence_lies_is_not_sent()
    {
        var (audit, auditor, _, _, proof) = await OfferedAsync();
        using (auditor)
        {
            var file = Directory.GetFiles(Path.Combine(product.Data, "evidence")).Single();
            await File.WriteAllTextAsync(file, "all is not well", stop);
            (await auditor.Get($"audits/{audit}/proofs/{proof}/file")).Problem.ShouldBe("file-broken");
        }
    }

    private async Task<Dictionary<string, byte[]>> RoomAsync(long audit)
    {
        var bytes = await manager.Http.GetByteArrayAsync(new Uri($"audits/{audit}/room.zip", UriKind.Relative), stop);
        await using var zip = new System.IO.Compression.ZipArchive(new MemoryStream(bytes));
        Dictionary<string, byte[]> files = [];
        foreach (var entry in zip.Entries)
        {
            using var content = new MemoryStream();
            await using var packed = await entry.OpenAsync(stop);
            await packed.CopyToAsync(content, stop);
            files[entry.FullName] = content.ToArray();
        }

        return files;
    }

    [Fact]
    public async Task The_room_as_a_file_names_each_of_its_files_with_its_hash()
    {
        var (audit, auditor, _, _, _) = await OfferedAsync();
        auditor.Dispose();
        var files = await RoomAsync(audit);
        System
            .Text.Encoding.UTF8.GetString(files["manifest-sha256.txt"])
            .Trim()
            .Split('\n')
            .Order(StringComparer.Ordinal)
            .ShouldBe(
                files
                    .Where(f => f.Key != "manifest-sha256.txt")
                    .Select(f =>
                        $"{Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(f.Value))}  {f.Key}"
                    )
                    .Order(StringComparer.Ordinal)
            );
    }

    [Fact]
    public async Task A_file_that_is_missing_is_an_exception_of_the_room_as_a_file()
    {
        var (audit, auditor, _, _, proof) = await OfferedAsync();
        auditor.Dispose();
        File.Delete(Directory.GetFiles(Path.Combine(product.Data, "evidence")).Single());
        System
            .Text.Encoding.UTF8.GetString((await RoomAsync(audit))["exceptions.txt"])
            .ShouldBe($"proofs/{proof}-a.txt: The file is missing where evidence lies.\n");
    }

    [Fact]
    public async Task A_name_with_folders_of_another_system_is_bare_in_the_room()
    {
        var (audit, auditor, _, _, proof) = await OfferedAsync("..\\..\\evil.bat");
        auditor.Dispose();
        (await RoomAsync(audit)).Keys.ShouldContain($"proofs/{proof}-evil.bat");
    }

    [Fact]
    public async Task A_finding_about_a_control_stands_on_the_control_until_it_is_verified()
    {
        await ControlAsync();
        var (id, auditor) = await AuditAsync();
        using var _ = auditor;
        var finding = new
        {
            title = "Two without a factor",
            severity = "major",
            control = "ACC-01",
            action = "",
            owner = "",
            due = "2026-07-01",
            done = false,
        };
        await manager.PostOk($"audits/{id}/findings", finding);
        var open = (await Control()).GetProperty("findings").GetArrayLength();
        var there = (await manager.GetOk($"audits/{id}")).GetProperty("findings")[0].GetProperty("id").GetInt64();
        var answer = new
        {
            response = "",
            action = "",
            owner = "",
            due = "2026-07-01",
            done = true,
        };
        (await manager.Put($"audits/{id}/findings/{there}/response", answer)).Status.ShouldBe(HttpStatusCode.OK);
        var done = (await Control()).GetProperty("findings").GetArrayLength();
        await auditor.PostOk($"audits/{id}/findings/{there}/verification", new { verified = true });
        (open, done, (await Control()).GetProperty("findings").GetArrayLength()).ShouldBe((1, 1, 0));
    }

    [Fact]
    public async Task A_finding_about_no_control_of_that_code_is_refused()
    {
        var (id, auditor) = await AuditAsync();
        auditor.Dispose();
        (
            await manager.Post(
                $"audits/{id}/findings",
                new
                {
                    title = "x",
                    severity = "minor",
                    control = "NO-1",
                    action = "",
                    owner = "",
                    due = "2026-07-01",
                }
            )
        ).Problem.ShouldBe("control-unknown");
    }

    [Fact]
    public async Task A_routine_counts_until_its_next_due_day()
    {
        var part = await PartAsync(
            await ControlAsync(),
            new
            {
                kind = "routine",
                title = "Look",
                recurrence = "FREQ=MONTHLY",
                first = "2026-06-01",
            }
        );
        await manager.PostOk($"control-parts/{part}/done", new { text = "Looked." });
        Readiness(await Control()).ShouldBe(1);
        product.Clock.Advance(Duration.FromDays(16));
        Readiness(await Control()).ShouldBe(0);
    }

    [Fact]
    public async Task An_OSCAL_catalog_is_adopted()
    {
        var answer = await manager.Http.PostAsync(
            new Uri("frameworks/oscal", UriKind.Relative),
            new StringContent(
                """
                {"catalog":{"uuid":"u","metadata":{"title":"Our standard"},
                "groups":[{"title":"A","controls":[{"id":"a-1","title":"One"}]}]}}
                """,
                Encoding.UTF8,
                "application/json"
            ),
            stop
        );
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await manager.GetOk("frameworks/our-standard")).GetProperty("requirements").GetArrayLength().ShouldBe(1);
    }

    private async Task<long> GaugeAsync()
    {
        await manager.PostOk(
            "gauges",
            new
            {
                name = "Second factor",
                measure = "second-factor",
                target = 100,
                warning = 90,
                alarm = 60,
            }
        );
        return (await manager.GetOk("gauges"))[0].GetProperty("id").GetInt64();
    }

    private async Task<double> PercentAsync() => (await manager.GetOk("gauges"))[0].GetProperty("percent").GetDouble();

    [Fact]
    public async Task A_gauge_shows_the_share_of_today()
    {
        await GaugeAsync();
        (await PercentAsync()).ShouldBe(50);
    }

    [Fact]
    public async Task A_gauge_rises_when_what_is_lacking_is_passed_over_with_a_reason()
    {
        var id = await GaugeAsync();
        await manager.PostOk(
            $"gauges/{id}/exclusions",
            new { subject = "bo@tarn.example", reason = "Emergency account" }
        );
        (await PercentAsync()).ShouldBe(100);
    }

    [Fact]
    public async Task An_exclusion_without_a_reason_is_refused()
    {
        var id = await GaugeAsync();
        (
            await manager.Post($"gauges/{id}/exclusions", new { subject = "bo@tarn.example", reason = "" })
        ).Problem.ShouldBe("reason-missing");
    }

    [Fact]
    public async Task An_exclusion_ends_on_its_day()
    {
        var id = await GaugeAsync();
        await manager.PostOk(
            $"gauges/{id}/exclusions",
            new
            {
                subject = "bo@tarn.example",
                reason = "Emergency account",
                endsOn = "2026-06-20",
            }
        );
        product.Clock.Advance(Duration.FromDays(6));
        (await PercentAsync()).ShouldBe(50);
    }

    [Fact]
    public async Task A_gauge_opens_into_who_is_missing()
    {
        var id = await GaugeAsync();
        (await manager.GetOk($"gauges/{id}")).GetProperty("subjects")[0].GetProperty("name").GetString().ShouldBe("Bo");
    }

    /// <summary>Every measure that ships can be asked on an empty product.</summary>
    [Fact]
    public async Task Every_measure_answers()
    {
        foreach (var measure in (await manager.GetOk("measures")).EnumerateArray())
        {
            await manager.PostOk(
                "gauges",
                new
                {
                    name = measure.GetProperty("name").GetString(),
                    measure = measure.GetProperty("name").GetString(),
                    target = 100,
                    warning = 90,
                    alarm = 60,
                }
            );
        }

        (await manager.GetOk("gauges")).GetArrayLength().ShouldBeGreaterThanOrEqualTo(25);
    }

    private async Task<(long Audit, Api Auditor)> AuditAsync(string starts = "2026-06-10", string ends = "2026-06-25")
    {
        using (var admin = await product.SignInAsync("jonas"))
        {
            await product.AddPersonAsync(admin, "aud", "externalAuditor");
        }

        await manager.PostOk(
            "audits",
            new
            {
                name = "Yearly",
                framework = "nist-csf-2.0",
                auditor = "aud@tarn.example",
                periodFrom = "2025-06-01",
                periodThrough = "2026-06-30",
                startsOn = starts,
                endsOn = ends,
            }
        );
        var id = (await manager.GetOk("audits"))[0].GetProperty("id").GetInt64();
        await manager.PostOk(
            $"audits/{id}/requests",
            new
            {
                what = "Second factor",
                requirement = "PR.AA",
                owner = "",
                due = "2026-06-20",
            }
        );
        var auditor = await Api.ConnectAsync(product.Address);
        await auditor.PostOk("session", new { mail = "aud@tarn.example", password = Product.Password });
        await auditor.RenewTokenAsync();
        return (id, auditor);
    }

    [Fact]
    public async Task The_auditor_sees_the_audit_and_nothing_else()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            await auditor.GetOk($"audits/{id}");
            (await auditor.Get("controls")).Status.ShouldBe(HttpStatusCode.Forbidden);
        }
    }

    [Fact]
    public async Task After_its_last_day_the_auditor_sees_nothing()
    {
        var (id, auditor) = await AuditAsync(ends: "2026-06-20");
        using (auditor)
        {
            product.Clock.Advance(Duration.FromDays(6));
            (await auditor.Get($"audits/{id}")).Status.ShouldBe(HttpStatusCode.NotFound);
        }
    }

    [Fact]
    public async Task Every_look_of_the_auditor_is_in_the_ledger()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            await auditor.GetOk($"audits/{id}");
            (await manager.GetOk($"ledger?kind=audit&subject={id}")).GetRawText().ShouldContain("looked");
        }
    }

    private async Task<(long Finding, long Investigation)> FoundAsync(long audit, bool frozen)
    {
        await manager.PostOk(
            $"audits/{audit}/findings",
            new
            {
                title = "Plans were deleted",
                severity = "major",
                control = "",
                action = "",
                owner = "",
                due = "2026-07-01",
            }
        );
        using var jonas = await product.SignInAsync("jonas");
        var key = await Channels.KeyAsync(jonas, await Channels.MakeAsync(jonas, "files"));
        await Channels.SendAsync(
            product,
            "files",
            key,
            Channels.Line("d1", "2026-06-15T07:00:00Z", "file.delete", "ann@tarn.example", "")
        );
        var seen = (await manager.GetOk("events"))
            .GetProperty("events")
            .EnumerateArray()
            .First(e => e.GetProperty("eventId").GetString() == "d1");
        await manager.PostOk("investigations", new { name = "Pier", summary = "" });
        var id = (await manager.GetOk("investigations"))[0].GetProperty("id").GetInt64();
        await manager.PostOk(
            $"investigations/{id}/events",
            new { eventId = seen.GetProperty("id").GetInt64(), note = "" }
        );
        if (frozen)
        {
            await manager.PostOk($"investigations/{id}/freezing", new { });
        }

        return ((await manager.GetOk($"audits/{audit}")).GetProperty("findings")[0].GetProperty("id").GetInt64(), id);
    }

    [Fact]
    public async Task The_auditor_reads_the_investigation_that_a_finding_rests_on()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            var (finding, investigation) = await FoundAsync(id, frozen: true);
            await manager.PostOk(
                $"audits/{id}/findings/{finding}/investigations",
                new { investigationId = investigation }
            );
            (await auditor.GetOk($"audits/{id}/findings/{finding}/investigations/{investigation}/file"))
                .GetProperty("events")[0]
                .GetProperty("event")
                .GetProperty("id")
                .GetString()
                .ShouldBe("d1");
        }
    }

    [Fact]
    public async Task An_investigation_that_is_not_attached_is_no_file_of_the_room()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            var (finding, investigation) = await FoundAsync(id, frozen: true);
            (await auditor.Get($"audits/{id}/findings/{finding}/investigations/{investigation}/file")).Status.ShouldBe(
                HttpStatusCode.NotFound
            );
        }
    }

    [Fact]
    public async Task A_finding_takes_no_investigation_that_may_still_change()
    {
        var (id, auditor) = await AuditAsync();
        auditor.Dispose();
        var (finding, investigation) = await FoundAsync(id, frozen: false);
        (
            await manager.Post(
                $"audits/{id}/findings/{finding}/investigations",
                new { investigationId = investigation }
            )
        ).Problem.ShouldBe("not-frozen");
    }

    [Fact]
    public async Task The_look_of_the_auditor_at_an_investigation_is_in_the_ledger()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            var (finding, investigation) = await FoundAsync(id, frozen: true);
            await manager.PostOk(
                $"audits/{id}/findings/{finding}/investigations",
                new { investigationId = investigation }
            );
            await auditor.GetOk($"audits/{id}/findings/{finding}/investigations/{investigation}/file");
            (await manager.GetOk($"ledger?kind=audit&subject={id}"))
                .GetRawText()
                .ShouldContain("the investigation \u201CPier\u201D");
        }
    }

    [Fact]
    public async Task Evidence_of_the_mapped_controls_is_offered_by_one_press()
    {
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        var (id, auditor) = await AuditAsync();
        auditor.Dispose();
        await manager.PostOk($"audits/{id}/requests/1/offer", new { });
        (await manager.GetOk($"audits/{id}"))
            .GetProperty("requests")[0]
            .GetProperty("offered")
            .GetArrayLength()
            .ShouldBe(1);
    }

    [Fact]
    public async Task Only_the_auditor_accepts()
    {
        var (id, auditor) = await AuditAsync();
        auditor.Dispose();
        (await manager.Post($"audits/{id}/requests/1/state", new { state = "accepted", remark = "" })).Problem.ShouldBe(
            "not-allowed"
        );
    }

    [Fact]
    public async Task A_proof_that_was_not_offered_is_not_shown_to_the_auditor()
    {
        var part = await TestPartAsync(await ControlAsync());
        await manager.PostOk($"control-parts/{part}/runs", new { });
        var proof = (await Control()).GetProperty("parts")[0].GetProperty("proofs")[0].GetProperty("id").GetInt64();
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            (await auditor.Get($"audits/{id}/proofs/{proof}")).Status.ShouldBe(HttpStatusCode.NotFound);
        }
    }

    [Fact]
    public async Task A_framework_that_an_audit_uses_is_not_removed()
    {
        var (_, auditor) = await AuditAsync();
        auditor.Dispose();
        (await manager.Delete("frameworks/nist-csf-2.0")).Problem.ShouldBe("framework-in-use");
    }

    /// <summary>The familiar cell of attribute sampling: 95 %, tolerable 5 %, expected 0 → 59; from memory.</summary>
    [Fact]
    public async Task A_sample_has_the_size_of_the_familiar_table()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            await auditor.PostOk(
                $"audits/{id}/samples",
                new
                {
                    title = "Leavers",
                    measure = (string?)null,
                    population = Enumerable.Range(0, 500).Select(i => i.ToString(CultureInfo.InvariantCulture)),
                    method = "random",
                    seed = 7,
                    confidence = 0.95,
                    tolerable = 0.05,
                    expected = 0,
                    finite = false,
                }
            );
            (await auditor.GetOk($"audits/{id}"))
                .GetProperty("samples")[0]
                .GetProperty("picked")
                .GetArrayLength()
                .ShouldBe(59);
        }
    }

    /// <summary>
    /// Of 50 of which 22 were looked at without a deviation, four deviations have a chance of 8.9 % to be missed and five of
    /// 4.6 %: C(28,4)/C(50,4) and C(28,5)/C(50,5) with C(n,k) the number of ways, computed by hand. So at 95 % the limit is
    /// 4 of 50.
    /// </summary>
    [Theory]
    [InlineData(50, true, 22, 0.08)]
    [InlineData(10, false, 10, 0)]
    public async Task The_limit_of_a_sample_is_that_of_its_population(int of, bool finite, int size, double limit)
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            await auditor.PostOk(
                $"audits/{id}/samples",
                new
                {
                    title = "Leavers",
                    measure = (string?)null,
                    population = Enumerable.Range(0, of).Select(i => i.ToString(CultureInfo.InvariantCulture)),
                    method = "random",
                    seed = 7,
                    confidence = 0.95,
                    tolerable = 0.1,
                    expected = 0,
                    finite,
                }
            );
            var sample = (await auditor.GetOk($"audits/{id}")).GetProperty("samples")[0];
            sample.GetProperty("picked").GetArrayLength().ShouldBe(size);
            await auditor.PostOk(
                $"audits/{id}/samples/{sample.GetProperty("id").GetInt64()}/result",
                new { items = Array.Empty<object>() }
            );
            (await auditor.GetOk($"audits/{id}"))
                .GetProperty("samples")[0]
                .GetProperty("upperLimit")
                .GetDouble()
                .ShouldBe(limit);
        }
    }

    [Fact]
    public async Task Who_moves_the_days_of_an_audit_leaves_the_former_ones_in_the_ledger()
    {
        var (id, auditor) = await AuditAsync(ends: "2026-06-20");
        auditor.Dispose();
        var settings = (await manager.GetOk($"audits/{id}")).GetProperty("settings");
        var revision = (await manager.GetOk($"audits/{id}")).GetProperty("revision").GetInt64();
        var moved = JsonNode.Parse(settings.GetRawText())!;
        moved["endsOn"] = "2026-07-20";
        (await manager.Put($"audits/{id}", moved, revision)).Status.ShouldBe(HttpStatusCode.OK);
        await using var db = product.Database();
        var body = (await db.Ledger.OrderBy(e => e.Sequence).LastAsync(stop)).Body;
        (
            body.Contains("2026-06-20", StringComparison.Ordinal),
            body.Contains("2026-07-20", StringComparison.Ordinal)
        ).ShouldBe((true, true));
    }

    [Fact]
    public async Task A_stratified_sample_draws_from_every_stratum_and_says_how_many()
    {
        var (id, auditor) = await AuditAsync();
        using (auditor)
        {
            await auditor.PostOk(
                $"audits/{id}/samples",
                new
                {
                    title = "Leavers",
                    measure = (string?)null,
                    population = Enumerable.Range(0, 300).Select(n => $"{(n < 100 ? "North" : "South")} | {n}"),
                    method = "stratified",
                    seed = 7,
                    confidence = 0.95,
                    tolerable = 0.05,
                    expected = 0,
                    finite = false,
                }
            );
            (await auditor.GetOk($"audits/{id}"))
                .GetProperty("samples")[0]
                .GetProperty("strata")
                .EnumerateArray()
                .Select(s =>
                    $"{s.GetProperty("name").GetString()} {s.GetProperty("members").GetInt32()} {s.GetProperty("drawn").GetInt32()}"
                )
                .ShouldBe(["North 100 20", "South 200 39"]);
        }
    }

    [Fact]
    public async Task Nothing_is_public_before_it_is_published()
    {
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.Get("assurance")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_public_sees_no_figure_of_a_framework()
    {
        await manager.Put(
            "assurance/settings",
            new
            {
                published = true,
                words = "Hello",
                frameworks = new[] { "nist-csf-2.0" },
                controlsShown = false,
                policiesShown = false,
            }
        );
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.GetOk("assurance")).GetProperty("frameworks")[0].GetRawText().ShouldNotContain("readiness");
    }

    [Fact]
    public async Task The_public_does_not_see_what_was_not_chosen()
    {
        await ControlAsync();
        await manager.Put(
            "assurance/settings",
            new
            {
                published = true,
                words = "Hello",
                frameworks = Array.Empty<string>(),
                controlsShown = false,
                policiesShown = false,
            }
        );
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.GetOk("assurance")).GetProperty("areas").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_risk_without_its_numbers_is_refused() =>
        (await manager.Post("registers", new { kind = "risk", title = "Fire" })).Problem.ShouldBe("risk-malformed");
}
