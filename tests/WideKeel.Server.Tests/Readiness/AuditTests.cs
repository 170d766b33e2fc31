using System.Net;
using Microsoft.Data.Sqlite;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>What is offered and accepted in the room of an audit stays as it was.</summary>
public sealed class AuditTests : AuditedProduct
{
    private async Task AcceptedAsync()
    {
        await GiveAsync("all well");
        await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { });
        await Manager.PostOk($"audits/{Audit}/requests/1/state", new { state = "ready" });
        await Auditor.PostOk($"audits/{Audit}/requests/1/state", new { state = "accepted" });
    }

    [Fact]
    public async Task What_was_accepted_is_not_set_back_by_the_organisation()
    {
        await AcceptedAsync();
        (await Manager.Post($"audits/{Audit}/requests/1/state", new { state = "open" })).Problem.ShouldBe(
            "not-allowed"
        );
    }

    [Fact]
    public async Task Nothing_is_added_to_what_was_accepted()
    {
        await AcceptedAsync();
        var later = await GiveAsync("later");
        (await Manager.Post($"audits/{Audit}/requests/1/offer", new { proofs = new[] { later } })).Problem.ShouldBe(
            "accepted"
        );
    }

    [Fact]
    public async Task Nothing_is_withdrawn_of_what_was_accepted()
    {
        await AcceptedAsync();
        var proof = (await RequestAsync()).GetProperty("offered")[0].GetProperty("id").GetInt64();
        (
            await Manager.Post($"audits/{Audit}/requests/1/offers/{proof}/withdrawal", new { reason = "Wrong one" })
        ).Problem.ShouldBe("accepted");
    }

    [Fact]
    public async Task The_auditor_takes_an_acceptance_back_by_returning_it_with_a_reason()
    {
        await AcceptedAsync();
        await Auditor.PostOk($"audits/{Audit}/requests/1/state", new { state = "returned", remark = "Too old" });
        var request = await RequestAsync();
        (
            request.GetProperty("state").GetString(),
            request.GetProperty("remarks")[0].GetProperty("text").GetString()
        ).ShouldBe(("returned", "Too old"));
    }

    [Fact]
    public async Task Nothing_offered_is_nothing_accepted() =>
        (await Auditor.Post($"audits/{Audit}/requests/1/state", new { state = "accepted" })).Problem.ShouldBe(
            "nothing-offered"
        );

    [Fact]
    public async Task A_withdrawal_leaves_its_reason_where_both_sides_read_it()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { });
        await Manager.PostOk($"audits/{Audit}/requests/1/offers/{proof}/withdrawal", new { reason = "Wrong one" });
        var request = await RequestAsync();
        (
            request.GetProperty("offered").GetArrayLength(),
            request
                .GetProperty("remarks")[0]
                .GetProperty("text")
                .GetString()!
                .StartsWith("Withdrew ACC-01 The list, SHA-256 ", StringComparison.Ordinal)
        ).ShouldBe((0, true));
    }

    [Fact]
    public async Task A_withdrawal_without_a_reason_is_refused()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { });
        (
            await Manager.Post($"audits/{Audit}/requests/1/offers/{proof}/withdrawal", new { reason = " " })
        ).Problem.ShouldBe("reason-missing");
    }

    [Fact]
    public async Task What_was_offered_is_read_as_it_was_after_its_part_was_closed_to_auditors()
    {
        var proof = await GiveAsync("all well");
        await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { });
        var control = (await ControlAsync()).GetProperty("id").GetInt64();
        await Manager.Put($"controls/{control}/parts/{Part}/readers", new { seenBy = new[] { "legal" } });
        (await Auditor.Get($"audits/{Audit}/proofs/{proof}/file")).Text.ShouldBe("all well");
    }

    [Theory]
    [InlineData("UPDATE audit_offer SET Frozen = '{}'")]
    [InlineData("DELETE FROM audit_offer")]
    public async Task The_database_refuses_to_change_what_was_offered(string sql)
    {
        await AcceptedAsync();
        await using var connection = new SqliteConnection($"Data Source={Product.DatabaseFile};Pooling=False");
        await connection.OpenAsync(TestContext.Current.CancellationToken);
        await using var command = connection.CreateCommand();
        command.CommandText = sql;
        (
            await Should.ThrowAsync<SqliteException>(() =>
                command.ExecuteNonQueryAsync(TestContext.Current.CancellationToken)
            )
        ).Message.ShouldContain("what was offered to an audit stays as it was");
    }

    [Fact]
    public async Task By_one_press_nothing_outside_the_period_is_offered_and_it_is_named()
    {
        await GiveAsync("all well");
        var past = await PlanAsync("2026-05-31");
        var result = await Manager.PostOk($"audits/{past}/requests/1/offer", new { });
        (result.GetProperty("offered").GetInt32(), result.GetProperty("outside").GetArrayLength()).ShouldBe((0, 1));
    }

    [Fact]
    public async Task What_lies_outside_the_period_is_offered_where_it_is_chosen_and_says_so()
    {
        var proof = await GiveAsync("all well");
        Audit = await PlanAsync("2026-05-31");
        await Manager.PostOk($"audits/{Audit}/requests/1/offer", new { proofs = new[] { proof } });
        (await RequestAsync()).GetProperty("offered")[0].GetProperty("outside").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task A_request_without_a_requirement_is_answered_by_its_owner()
    {
        var proof = await GiveAsync("all well");
        using var pia = await Product.SignInAsync("pia");
        var candidates = await pia.GetOk($"audits/{Audit}/requests/2/candidates");
        await pia.PostOk($"audits/{Audit}/requests/2/offer", new { proofs = new[] { proof } });
        await pia.PostOk($"audits/{Audit}/requests/2/state", new { state = "ready" });
        (candidates.GetArrayLength(), (await RequestAsync(2)).GetProperty("state").GetString()).ShouldBe((1, "ready"));
    }

    [Fact]
    public async Task Somebody_whom_a_request_does_not_name_offers_nothing()
    {
        var proof = await GiveAsync("all well");
        using var nils = await Product.SignInAsync("nils");
        (await nils.Post($"audits/{Audit}/requests/2/offer", new { proofs = new[] { proof } })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    /// <summary>
    /// Random acts of the organisation and the auditor: at no moment is less accepted than the auditor left accepted, no
    /// accepted copy changes, and no word of a finding is another than its finder last wrote.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task Whatever_both_sides_do_accepted_evidence_and_the_auditors_words_stay(int seed)
    {
        var random = new Random(seed);
        var first = await GiveAsync("first");
        var second = await GiveAsync("second");
        var finding = await FoundAsync();
        var (words, accepted) = ("Two without a factor", (string?)null);
        for (var step = 0; step < 40; step++)
        {
            var who = random.Next(2) == 0 ? Manager : Auditor;
            var proof = random.Next(2) == 0 ? first : second;
            var answer = await (
                random.Next(7) switch
                {
                    0 => who.Post($"audits/{Audit}/requests/1/offer", new { proofs = new[] { proof } }),
                    1 => who.Post($"audits/{Audit}/requests/1/offers/{proof}/withdrawal", new { reason = "x" }),
                    2 => who.Post($"audits/{Audit}/requests/1/state", new { state = "ready" }),
                    3 => who.Post($"audits/{Audit}/requests/1/state", new { state = "accepted" }),
                    4 => who.Post($"audits/{Audit}/requests/1/state", new { state = "returned", remark = "x" }),
                    5 => who.Put(
                        $"audits/{Audit}/findings/{finding}",
                        new
                        {
                            title = $"words {step}",
                            severity = "minor",
                            control = "",
                        }
                    ),
                    _ => who.Delete($"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts/{Part}"),
                }
            );
            var request = await RequestAsync();
            var offered = request.GetProperty("offered").GetRawText();
            var isAccepted = request.GetProperty("state").GetString() == "accepted";
            if (accepted is not null && !(who == Auditor && answer.Status == HttpStatusCode.OK))
            {
                (isAccepted, offered).ShouldBe((true, accepted), $"step {step}");
            }

            accepted = isAccepted ? offered : null;
            var title = (await FindingAsync()).GetProperty("title").GetString();
            if (who == Manager)
            {
                title.ShouldBe(words, $"step {step}");
            }

            words = title!;
        }
    }
}
