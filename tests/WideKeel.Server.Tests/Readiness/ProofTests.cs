using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>A proof stays true: the day it is for, who approved it, and whether it was withdrawn.</summary>
public sealed class ProofTests : ProvedProduct
{
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
    public async Task Evidence_that_awaits_approval_is_a_duty_of_who_may_give_it()
    {
        await ChangeAsync(List(needsReview: true));
        using (var pia = await Product.SignInAsync("pia"))
        {
            await GiveAsync(pia, "all well");
        }

        (await Manager.GetOk("today")).GetRawText().ShouldContain("Approve the evidence");
    }

    [Fact]
    public async Task Evidence_that_awaits_approval_is_no_duty_of_its_giver()
    {
        await ChangeAsync(List(needsReview: true));
        await GiveAsync(Manager, "all well");
        (await Manager.GetOk("today")).GetRawText().ShouldNotContain("Approve the evidence");
    }

    /// <summary>A file as it was given, approved and withdrawn in a random history.</summary>
    private sealed class Given(string by)
    {
        public string By { get; } = by;

        public bool Approved { get; set; }

        public bool Withdrawn { get; set; }
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task Over_random_acts_of_three_persons_only_what_a_second_one_approved_counts(int seed)
    {
        await ChangeAsync(List(needsReview: true));
        using var pia = await Product.SignInAsync("pia");
        using var nils = await Product.SignInAsync("nils");
        var persons = new Dictionary<string, Api>
        {
            ["mikkel"] = Manager,
            ["pia"] = pia,
            ["nils"] = nils,
        };
        var random = new Random(seed);
        Dictionary<long, Given> history = [];
        for (var act = 0; act < 30; act++)
        {
            var (name, who) = persons.ElementAt(random.Next(3));
            var proof = history.Count == 0 ? 0 : history.Keys.ElementAt(random.Next(history.Count));
            var kind = random.Next(3);
            if (kind == 0 && (await GiveAsync(who, $"list {act}")).Status == HttpStatusCode.OK)
            {
                history[await LatestAsync()] = new(name);
            }
            else if (kind == 1 && (await who.Post($"proofs/{proof}/review", new { })).Status == HttpStatusCode.OK)
            {
                history[proof].Approved = true;
                history[proof].By.ShouldNotBe(name);
                name.ShouldNotBe("nils");
            }
            else if (
                kind == 2
                && (await who.Post($"proofs/{proof}/withdrawal", new { reason = "x" })).Status == HttpStatusCode.OK
            )
            {
                history[proof].Withdrawn = true;
            }

            (await CountsAsync()).ShouldBe(
                history.Values.Any(g => g is { Approved: true, Withdrawn: false }),
                $"act {act}"
            );
        }
    }

    private async Task<long> LatestAsync() =>
        (await PartAsync()).GetProperty("proofs").EnumerateArray().Max(p => p.GetProperty("id").GetInt64());
}
