using System.Net;
using System.Text;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>What moved readiness, where a control applies, what is called met, and which risks are accepted.</summary>
public sealed class ReadinessCauseTests : ProvedProduct
{
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
        await SetAsync(s => s["requirements"]!.AsArray().Add("nist-csf-2.0/PR.DS"));
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
        await SetAsync(s => s["units"]!.AsArray().Add(Product.Units["Fleet"]));
        (await Manager.GetOk("readiness"))
            .GetProperty("frameworks")[0]
            .GetProperty("readiness")
            .GetDecimal()
            .ShouldBeGreaterThan(0);
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
            Stop
        );
        var code = (await Manager.GetOk("readiness"))
            .GetProperty("frameworks")
            .EnumerateArray()
            .Single(f => f.GetProperty("title").GetString() == "Small")
            .GetProperty("code")
            .GetString()!;
        await SetAsync(s => s["requirements"]!.AsArray().Add($"{code}/a"));
        await using (var db = Product.Database())
        {
            // So heavy that what nothing answers hardly counts.
            await db
                .Requirements.Where(r => r.Code == "a")
                .ExecuteUpdateAsync(r => r.SetProperty(x => x.Weight, 1000), Stop);
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
