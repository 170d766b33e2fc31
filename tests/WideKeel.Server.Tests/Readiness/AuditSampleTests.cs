using System.Net;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>An auditor samples what was opened to the audit, and each subject has its result.</summary>
public sealed class AuditSampleTests : AuditedProduct
{
    private static object Sample(object? measure = null, object? opened = null, object? population = null) =>
        new
        {
            title = "Accounts",
            measure,
            opened,
            population,
            method = "random",
            seed = 7,
            confidence = 0.95,
            tolerable = 0.5,
            expected = 0,
            finite = true,
        };

    [Theory]
    [InlineData("second-factor")]
    [InlineData("removals-carried-out")]
    public async Task The_auditor_does_not_read_the_organisation_through_its_measures(string measure) =>
        (await Auditor.Post($"audits/{Audit}/samples", Sample(measure))).Problem.ShouldBe("not-opened");

    [Fact]
    public async Task The_auditor_samples_what_was_opened_to_the_audit()
    {
        await Manager.PostOk($"audits/{Audit}/populations", new { title = "Accounts", measure = "second-factor" });
        var opened = (await Auditor.GetOk($"audits/{Audit}")).GetProperty("populations")[0];
        await Auditor.PostOk($"audits/{Audit}/samples", Sample(opened: opened.GetProperty("id").GetInt64()));
        var sample = (await Auditor.GetOk($"audits/{Audit}")).GetProperty("samples")[0];
        (
            sample.GetProperty("population").GetInt32(),
            sample.GetProperty("hash").GetString() == opened.GetProperty("hash").GetString()
        ).ShouldBe((2, true));
    }

    [Fact]
    public async Task A_population_of_another_audit_is_not_sampled()
    {
        await Manager.PostOk($"audits/{Audit}/populations", new { title = "Accounts", measure = "second-factor" });
        var opened = (await Auditor.GetOk($"audits/{Audit}"))
            .GetProperty("populations")[0]
            .GetProperty("id")
            .GetInt64();
        var other = await PlanAsync("2026-06-30");
        (await Auditor.Post($"audits/{other}/samples", Sample(opened: opened))).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    private async Task<(long Id, int Size)> DrawnAsync()
    {
        await Auditor.PostOk(
            $"audits/{Audit}/samples",
            Sample(population: Enumerable.Range(1, 20).Select(i => $"account {i}"))
        );
        var sample = (await Auditor.GetOk($"audits/{Audit}")).GetProperty("samples")[0];
        return (sample.GetProperty("id").GetInt64(), sample.GetProperty("picked").GetArrayLength());
    }

    [Fact]
    public async Task Each_deviation_has_its_subject_and_a_note()
    {
        var (sample, _) = await DrawnAsync();
        await Auditor.PostOk(
            $"audits/{Audit}/samples/{sample}/result",
            new
            {
                items = new[]
                {
                    new
                    {
                        place = 2,
                        deviates = true,
                        note = "No factor",
                    },
                },
            }
        );
        var drawn = (await Auditor.GetOk($"audits/{Audit}")).GetProperty("samples")[0];
        (
            drawn.GetProperty("found").GetInt32(),
            drawn.GetProperty("picked")[1].GetProperty("note").GetString(),
            drawn.GetProperty("picked")[0].GetProperty("deviates").GetBoolean()
        ).ShouldBe((1, "No factor", false));
    }

    [Theory]
    [InlineData(0, "No factor", "item-malformed")]
    [InlineData(99, "No factor", "item-malformed")]
    [InlineData(1, "", "note-missing")]
    public async Task A_result_of_no_subject_or_without_a_note_is_refused(int place, string note, string problem)
    {
        var (sample, _) = await DrawnAsync();
        (
            await Auditor.Post(
                $"audits/{Audit}/samples/{sample}/result",
                new
                {
                    items = new[]
                    {
                        new
                        {
                            place,
                            deviates = true,
                            note,
                        },
                    },
                }
            )
        ).Problem.ShouldBe(problem);
    }

    [Fact]
    public async Task The_audited_organisation_does_not_set_the_results_of_the_auditors_sample()
    {
        var (sample, _) = await DrawnAsync();
        (
            await Manager.Post($"audits/{Audit}/samples/{sample}/result", new { items = Array.Empty<object>() })
        ).Problem.ShouldBe("not-yours");
    }

    [Fact]
    public async Task A_sample_has_the_hash_of_the_population_that_was_opened_with_its_strata()
    {
        await Manager.PostOk(
            $"audits/{Audit}/populations",
            new { title = "Accounts", population = new[] { "North | Ann", "South | Bo" } }
        );
        var opened = (await Auditor.GetOk($"audits/{Audit}")).GetProperty("populations")[0];
        await Auditor.PostOk($"audits/{Audit}/samples", Sample(opened: opened.GetProperty("id").GetInt64()));
        (await Auditor.GetOk($"audits/{Audit}"))
            .GetProperty("samples")[0]
            .GetProperty("hash")
            .GetString()
            .ShouldBe(opened.GetProperty("hash").GetString());
    }
}
