using System.Text.Json;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>A finding is the auditor's, the answer the organisation's.</summary>
public sealed class AuditFindingTests : AuditedProduct
{
    private Task<Answer> RespondAsync(long finding, bool done = true) =>
        Manager.Put(
            $"audits/{Audit}/findings/{finding}/response",
            new
            {
                response = "They are new",
                action = "Give them one",
                owner = "pia@tarn.example",
                due = "2026-06-20",
                done,
            }
        );

    [Fact]
    public async Task The_organisation_does_not_change_the_words_of_a_finding()
    {
        var finding = await FoundAsync();
        (
            await Manager.Put(
                $"audits/{Audit}/findings/{finding}",
                new
                {
                    title = "All is well",
                    severity = "observation",
                    control = "",
                }
            )
        ).Problem.ShouldBe("not-yours");
    }

    [Fact]
    public async Task The_auditor_changes_their_words_and_the_former_ones_are_kept()
    {
        var finding = await FoundAsync();
        await Auditor.Put(
            $"audits/{Audit}/findings/{finding}",
            new
            {
                title = "Three without a factor",
                severity = "major",
                control = "ACC-01",
            }
        );
        var change = (await FindingAsync()).GetProperty("changes")[0];
        (change.GetProperty("before").GetString(), change.GetProperty("after").GetString()).ShouldBe(
            ("Two without a factor", "Three without a factor")
        );
    }

    [Fact]
    public async Task The_organisation_does_not_close_a_finding()
    {
        var finding = await FoundAsync();
        await RespondAsync(finding);
        (
            await Manager.Post($"audits/{Audit}/findings/{finding}/verification", new { verified = true })
        ).Problem.ShouldBe("not-auditor");
    }

    [Fact]
    public async Task The_auditor_does_not_answer_for_the_organisation()
    {
        var finding = await FoundAsync();
        (
            await Auditor.Put(
                $"audits/{Audit}/findings/{finding}/response",
                new
                {
                    response = "Done",
                    action = "",
                    owner = "",
                    due = (string?)null,
                    done = true,
                }
            )
        ).Problem.ShouldBe("not-allowed");
    }

    [Fact]
    public async Task What_is_not_done_is_not_verified()
    {
        var finding = await FoundAsync();
        await RespondAsync(finding, done: false);
        (
            await Auditor.Post($"audits/{Audit}/findings/{finding}/verification", new { verified = true })
        ).Problem.ShouldBe("not-done");
    }

    [Fact]
    public async Task A_returned_finding_is_open_again_with_the_reason()
    {
        var finding = await FoundAsync();
        await RespondAsync(finding);
        await Auditor.PostOk(
            $"audits/{Audit}/findings/{finding}/verification",
            new { verified = false, remark = "One is left" }
        );
        var found = await FindingAsync();
        (
            found.GetProperty("doneOn").ValueKind,
            found.GetProperty("changes").EnumerateArray().Last().GetProperty("after").GetString()
        ).ShouldBe((JsonValueKind.Null, "One is left"));
    }

    [Fact]
    public async Task A_verified_finding_is_closed()
    {
        var finding = await FoundAsync();
        await RespondAsync(finding);
        await Auditor.PostOk($"audits/{Audit}/findings/{finding}/verification", new { verified = true });
        (await RespondAsync(finding, done: false)).Problem.ShouldBe("finding-closed");
    }

    [Fact]
    public async Task Nobody_verifies_what_they_did_themselves_in_an_audit_without_an_auditor()
    {
        await Manager.PostOk(
            "audits",
            new
            {
                name = "Our own",
                framework = "nist-csf-2.0",
                Auditor = "",
                periodFrom = "2025-06-01",
                periodThrough = "2026-06-30",
                startsOn = "2026-06-10",
                endsOn = "2026-06-25",
            }
        );
        Audit = (await Manager.GetOk("audits")).EnumerateArray().Max(a => a.GetProperty("id").GetInt64());
        await Manager.PostOk(
            $"audits/{Audit}/findings",
            new
            {
                title = "x",
                severity = "minor",
                control = "",
            }
        );
        var finding = (await Manager.GetOk($"audits/{Audit}")).GetProperty("findings")[0].GetProperty("id").GetInt64();
        await RespondAsync(finding);
        (
            await Manager.Post($"audits/{Audit}/findings/{finding}/verification", new { verified = true })
        ).Problem.ShouldBe("own-finding");
    }
}
