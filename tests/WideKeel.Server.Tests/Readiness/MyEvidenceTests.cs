using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>What people see of readiness who may not read it: what they bring, what they are asked for.</summary>
public sealed class MyEvidenceTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api mikkel = null!;
    private Api pia = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        mikkel = await product.SignInAsync("mikkel");
        pia = await product.SignInAsync("pia");
        await mikkel.PostOk("frameworks", new { code = "nist-csf-2.0" });
        await mikkel.PostOk(
            "controls",
            new
            {
                code = "ACC-01",
                title = "Second factor",
                says = "",
                area = "access",
                owner = "",
                units = Array.Empty<long>(),
                requirements = Array.Empty<string>(),
            }
        );
    }

    public ValueTask DisposeAsync()
    {
        mikkel.Dispose();
        pia.Dispose();
        return product.DisposeAsync();
    }

    private async Task<JsonElement> ControlAsync() => (await mikkel.GetOk("controls"))[0];

    private async Task PartAsync(string doer, params string[] seenBy) =>
        await mikkel.PostOk(
            $"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts",
            new
            {
                kind = "evidence",
                title = "Report",
                period = "P90D",
                doer,
                seenBy,
            }
        );

    private static async Task<JsonElement> MineAsync(Api who) => await who.GetOk("evidence/mine");

    private async Task<long> AuditAsync()
    {
        await mikkel.PostOk(
            "audits",
            new
            {
                name = "Yearly",
                framework = "nist-csf-2.0",
                auditor = "",
                periodFrom = "2025-06-01",
                periodThrough = "2026-05-31",
                startsOn = "2026-07-01",
                endsOn = "2026-07-10",
            }
        );
        return (await mikkel.GetOk("audits"))[0].GetProperty("id").GetInt64();
    }

    private static async Task<IEnumerable<string?>> LinksAsync(Api who) =>
        (await who.GetOk("today"))
            .GetProperty("duties")
            .EnumerateArray()
            .Select(d => d.GetProperty("link").GetString());

    [Fact]
    public async Task Who_brings_evidence_has_it_with_its_control()
    {
        await PartAsync("pia@tarn.example");
        var mine = (await MineAsync(pia)).GetProperty("parts")[0];
        (
            mine.GetProperty("control").GetString(),
            mine.GetProperty("part").GetProperty("mayBring").GetBoolean()
        ).ShouldBe(("ACC-01", true));
    }

    [Fact]
    public async Task What_others_bring_is_not_among_it()
    {
        await PartAsync("nils@tarn.example");
        (await MineAsync(pia)).GetProperty("parts").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task What_is_kept_for_a_role_is_seen_by_it_and_brought_by_others()
    {
        await PartAsync("pia@tarn.example", "legal");
        using var nils = await product.SignInAsync("nils");
        (await MineAsync(nils))
            .GetProperty("parts")[0]
            .GetProperty("part")
            .GetProperty("mayBring")
            .GetBoolean()
            .ShouldBeFalse();
    }

    [Fact]
    public async Task Today_leads_whoever_may_not_read_readiness_to_what_they_bring()
    {
        await PartAsync("pia@tarn.example");
        (await LinksAsync(pia)).ShouldContain("/my-evidence");
    }

    [Fact]
    public async Task A_request_of_an_audit_stands_there_for_whoever_it_names()
    {
        var audit = await AuditAsync();
        await mikkel.PostOk(
            $"audits/{audit}/requests",
            new
            {
                what = "The schedule",
                requirement = "",
                owner = "Pia@tarn.example",
                due = "2026-06-20",
            }
        );
        (
            (await MineAsync(pia)).GetProperty("requests")[0].GetProperty("what").GetString(),
            (await LinksAsync(pia)).Contains("/my-evidence")
        ).ShouldBe(("The schedule", true));
    }

    [Fact]
    public async Task An_action_on_a_finding_waits_for_whoever_it_names_until_it_is_done()
    {
        var audit = await AuditAsync();
        var finding = new
        {
            title = "Two without a factor",
            severity = "major",
            control = "",
        };
        var answer = new
        {
            response = "They are new",
            action = "Give them one",
            owner = "pia@tarn.example",
            due = "2026-06-20",
            done = false,
        };
        await mikkel.PostOk($"audits/{audit}/findings", finding);
        var id = (await mikkel.GetOk($"audits/{audit}")).GetProperty("findings")[0].GetProperty("id").GetInt64();
        await mikkel.Put($"audits/{audit}/findings/{id}/response", answer);
        var waits = (await MineAsync(pia)).GetProperty("actions")[0].GetProperty("action").GetString();
        var today = (await LinksAsync(pia)).Contains("/my-evidence");
        await pia.Put($"audits/{audit}/findings/{id}/response", answer with { done = true });
        (waits, today, (await MineAsync(pia)).GetProperty("actions").GetArrayLength()).ShouldBe(
            ("Give them one", true, 0)
        );
    }

    [Fact]
    public async Task Who_manages_readiness_sees_actions_in_the_room_of_their_audit()
    {
        var audit = await AuditAsync();
        await mikkel.PostOk(
            $"audits/{audit}/findings",
            new
            {
                title = "x",
                severity = "minor",
                control = "",
                action = "",
                owner = "",
                due = "2026-06-20",
            }
        );
        (await LinksAsync(mikkel)).ShouldContain($"/readiness/audits?audit={audit}&tab=findings");
    }

    [Fact]
    public async Task Nobody_brings_what_is_only_theirs_to_see()
    {
        await PartAsync("pia@tarn.example", "legal");
        var part = (await ControlAsync()).GetProperty("parts")[0].GetProperty("id").GetInt64();
        using var nils = await product.SignInAsync("nils");
        (
            await nils.Http.PostAsync(
                new Uri($"control-parts/{part}/evidence?file=a.txt", UriKind.Relative),
                new ByteArrayContent("x"u8.ToArray()),
                TestContext.Current.CancellationToken
            )
        ).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }
}
