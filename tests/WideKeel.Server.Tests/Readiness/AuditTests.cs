using System.Net;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>
/// Two sides of an audit: the auditor's words and decisions are the auditor's, the organisation answers, and what was
/// accepted stays as it was.
/// </summary>
public sealed class AuditTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api manager = null!;
    private Api auditor = null!;
    private long audit;
    private long part;

    /// <summary>A control with one piece of evidence, in the period, and an audit that asks for its requirement.</summary>
    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People = [new("ann@tarn.example", "Ann"), new("bo@tarn.example", "Bo", SecondFactor: false)],
            }
        );
        manager = await product.SignInAsync("mikkel");
        await manager.PostOk("frameworks", new { code = "nist-csf-2.0" });
        await manager.PostOk(
            "controls",
            new
            {
                code = "ACC-01",
                title = "Second factor",
                says = "",
                area = "access",
                owner = "pia@tarn.example",
                units = Array.Empty<long>(),
                requirements = new[] { "nist-csf-2.0/PR.AA" },
            }
        );
        await manager.PostOk(
            $"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts",
            new
            {
                kind = "evidence",
                title = "The list",
                period = "P90D",
                doer = "pia@tarn.example",
            }
        );
        part = (await ControlAsync()).GetProperty("parts")[0].GetProperty("id").GetInt64();
        using (var admin = await product.SignInAsync("jonas"))
        {
            await product.AddPersonAsync(admin, "aud", "externalAuditor");
        }

        audit = await PlanAsync("2026-06-30");
        auditor = await Api.ConnectAsync(product.Address);
        await auditor.PostOk("session", new { mail = "aud@tarn.example", password = Product.Password });
        await auditor.RenewTokenAsync();
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        auditor.Dispose();
        return product.DisposeAsync();
    }

    private async Task<long> PlanAsync(string through)
    {
        await manager.PostOk(
            "audits",
            new
            {
                name = "Yearly",
                framework = "nist-csf-2.0",
                auditor = "aud@tarn.example",
                periodFrom = "2025-06-01",
                periodThrough = through,
                startsOn = "2026-06-10",
                endsOn = "2026-06-25",
            }
        );
        var id = (await manager.GetOk("audits")).EnumerateArray().Max(a => a.GetProperty("id").GetInt64());
        foreach (var requirement in new[] { "PR.AA", "" })
        {
            await manager.PostOk(
                $"audits/{id}/requests",
                new
                {
                    what = "Second factor",
                    requirement,
                    owner = "pia@tarn.example",
                    due = "2026-06-20",
                }
            );
        }

        return id;
    }

    private async Task<JsonElement> ControlAsync() => (await manager.GetOk("controls"))[0];

    private async Task<long> GiveAsync(string text)
    {
        var given = await manager.Http.PostAsync(
            new Uri($"control-parts/{part}/evidence?file=list.txt", UriKind.Relative),
            new ByteArrayContent(System.Text.Encoding.UTF8.GetBytes(text)),
            TestContext.Current.CancellationToken
        );
        given.StatusCode.ShouldBe(HttpStatusCode.OK);
        return (await ControlAsync())
            .GetProperty("parts")[0]
            .GetProperty("proofs")
            .EnumerateArray()
            .Max(p => p.GetProperty("id").GetInt64());
    }

    private async Task<JsonElement> RequestAsync(int number = 1, Api? who = null) =>
        (await (who ?? auditor).GetOk($"audits/{audit}"))
            .GetProperty("requests")
            .EnumerateArray()
            .Single(r => r.GetProperty("number").GetInt32() == number);

    private async Task AcceptedAsync()
    {
        await GiveAsync("all well");
        await manager.PostOk($"audits/{audit}/requests/1/offer", new { });
        await manager.PostOk($"audits/{audit}/requests/1/state", new { state = "ready" });
        await auditor.PostOk($"audits/{audit}/requests/1/state", new { state = "accepted" });
    }

    [Fact]
    public async Task What_was_accepted_is_not_set_back_by_the_organisation()
    {
        await AcceptedAsync();
        (await manager.Post($"audits/{audit}/requests/1/state", new { state = "open" })).Problem.ShouldBe(
            "not-allowed"
        );
    }

    [Fact]
    public async Task Nothing_is_added_to_what_was_accepted()
    {
        await AcceptedAsync();
        var later = await GiveAsync("later");
        (await manager.Post($"audits/{audit}/requests/1/offer", new { proofs = new[] { later } })).Problem.ShouldBe(
            "accepted"
        );
    }

    [Fact]
    public async Task Nothing_is_withdrawn_of_what_was_accepted()
    {
        await AcceptedAsync();
        var proof = (await RequestAsync()).GetProperty("offered")[0].GetProperty("id").GetInt64();
        (
            await manager.Post($"audits/{audit}/requests/1/offers/{proof}/withdrawal", new { reason = "Wrong one" })
        ).Problem.ShouldBe("accepted");
    }

    [Fact]
    public async Task The_auditor_takes_an_acceptance_back_by_returning_it_with_a_reason()
    {
        await AcceptedAsync();
        await auditor.PostOk($"audits/{audit}/requests/1/state", new { state = "returned", remark = "Too old" });
        var request = await RequestAsync();
        (
            request.GetProperty("state").GetString(),
            request.GetProperty("remarks")[0].GetProperty("text").GetString()
        ).ShouldBe(("returned", "Too old"));
    }

    [Fact]
    public async Task Nothing_offered_is_nothing_accepted() =>
        (await auditor.Post($"audits/{audit}/requests/1/state", new { state = "accepted" })).Problem.ShouldBe(
            "nothing-offered"
        );

    [Fact]
    public async Task A_withdrawal_leaves_its_reason_where_both_sides_read_it()
    {
        var proof = await GiveAsync("all well");
        await manager.PostOk($"audits/{audit}/requests/1/offer", new { });
        await manager.PostOk($"audits/{audit}/requests/1/offers/{proof}/withdrawal", new { reason = "Wrong one" });
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
        await manager.PostOk($"audits/{audit}/requests/1/offer", new { });
        (
            await manager.Post($"audits/{audit}/requests/1/offers/{proof}/withdrawal", new { reason = " " })
        ).Problem.ShouldBe("reason-missing");
    }

    [Fact]
    public async Task What_was_offered_is_read_as_it_was_after_its_part_was_closed_to_auditors()
    {
        var proof = await GiveAsync("all well");
        await manager.PostOk($"audits/{audit}/requests/1/offer", new { });
        var control = (await ControlAsync()).GetProperty("id").GetInt64();
        await manager.Put($"controls/{control}/parts/{part}/readers", new { seenBy = new[] { "legal" } });
        (await auditor.Get($"audits/{audit}/proofs/{proof}/file")).Text.ShouldBe("all well");
    }

    [Theory]
    [InlineData("UPDATE audit_offer SET Frozen = '{}'")]
    [InlineData("DELETE FROM audit_offer")]
    public async Task The_database_refuses_to_change_what_was_offered(string sql)
    {
        await AcceptedAsync();
        await using var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False");
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
        var result = await manager.PostOk($"audits/{past}/requests/1/offer", new { });
        (result.GetProperty("offered").GetInt32(), result.GetProperty("outside").GetArrayLength()).ShouldBe((0, 1));
    }

    [Fact]
    public async Task What_lies_outside_the_period_is_offered_where_it_is_chosen_and_says_so()
    {
        var proof = await GiveAsync("all well");
        audit = await PlanAsync("2026-05-31");
        await manager.PostOk($"audits/{audit}/requests/1/offer", new { proofs = new[] { proof } });
        (await RequestAsync()).GetProperty("offered")[0].GetProperty("outside").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task A_request_without_a_requirement_is_answered_by_its_owner()
    {
        var proof = await GiveAsync("all well");
        using var pia = await product.SignInAsync("pia");
        var candidates = await pia.GetOk($"audits/{audit}/requests/2/candidates");
        await pia.PostOk($"audits/{audit}/requests/2/offer", new { proofs = new[] { proof } });
        await pia.PostOk($"audits/{audit}/requests/2/state", new { state = "ready" });
        (candidates.GetArrayLength(), (await RequestAsync(2)).GetProperty("state").GetString()).ShouldBe((1, "ready"));
    }

    [Fact]
    public async Task Somebody_whom_a_request_does_not_name_offers_nothing()
    {
        var proof = await GiveAsync("all well");
        using var nils = await product.SignInAsync("nils");
        (await nils.Post($"audits/{audit}/requests/2/offer", new { proofs = new[] { proof } })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

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
        (await auditor.Post($"audits/{audit}/samples", Sample(measure))).Problem.ShouldBe("not-opened");

    [Fact]
    public async Task The_auditor_samples_what_was_opened_to_the_audit()
    {
        await manager.PostOk($"audits/{audit}/populations", new { title = "Accounts", measure = "second-factor" });
        var opened = (await auditor.GetOk($"audits/{audit}")).GetProperty("populations")[0];
        await auditor.PostOk($"audits/{audit}/samples", Sample(opened: opened.GetProperty("id").GetInt64()));
        var sample = (await auditor.GetOk($"audits/{audit}")).GetProperty("samples")[0];
        (
            sample.GetProperty("population").GetInt32(),
            sample.GetProperty("hash").GetString() == opened.GetProperty("hash").GetString()
        ).ShouldBe((2, true));
    }

    [Fact]
    public async Task A_population_of_another_audit_is_not_sampled()
    {
        await manager.PostOk($"audits/{audit}/populations", new { title = "Accounts", measure = "second-factor" });
        var opened = (await auditor.GetOk($"audits/{audit}"))
            .GetProperty("populations")[0]
            .GetProperty("id")
            .GetInt64();
        var other = await PlanAsync("2026-06-30");
        (await auditor.Post($"audits/{other}/samples", Sample(opened: opened))).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    private async Task<(long Id, int Size)> DrawnAsync()
    {
        await auditor.PostOk(
            $"audits/{audit}/samples",
            Sample(population: Enumerable.Range(1, 20).Select(i => $"account {i}"))
        );
        var sample = (await auditor.GetOk($"audits/{audit}")).GetProperty("samples")[0];
        return (sample.GetProperty("id").GetInt64(), sample.GetProperty("picked").GetArrayLength());
    }

    [Fact]
    public async Task Each_deviation_has_its_subject_and_a_note()
    {
        var (sample, _) = await DrawnAsync();
        await auditor.PostOk(
            $"audits/{audit}/samples/{sample}/result",
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
        var drawn = (await auditor.GetOk($"audits/{audit}")).GetProperty("samples")[0];
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
            await auditor.Post(
                $"audits/{audit}/samples/{sample}/result",
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

    private async Task<long> FoundAsync()
    {
        await auditor.PostOk(
            $"audits/{audit}/findings",
            new
            {
                title = "Two without a factor",
                severity = "major",
                control = "ACC-01",
            }
        );
        return (await FindingAsync()).GetProperty("id").GetInt64();
    }

    private async Task<JsonElement> FindingAsync() =>
        (await auditor.GetOk($"audits/{audit}")).GetProperty("findings")[0];

    private Task<Answer> RespondAsync(long finding, bool done = true) =>
        manager.Put(
            $"audits/{audit}/findings/{finding}/response",
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
            await manager.Put(
                $"audits/{audit}/findings/{finding}",
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
        await auditor.Put(
            $"audits/{audit}/findings/{finding}",
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
            await manager.Post($"audits/{audit}/findings/{finding}/verification", new { verified = true })
        ).Problem.ShouldBe("not-auditor");
    }

    [Fact]
    public async Task The_auditor_does_not_answer_for_the_organisation()
    {
        var finding = await FoundAsync();
        (
            await auditor.Put(
                $"audits/{audit}/findings/{finding}/response",
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
            await auditor.Post($"audits/{audit}/findings/{finding}/verification", new { verified = true })
        ).Problem.ShouldBe("not-done");
    }

    [Fact]
    public async Task A_returned_finding_is_open_again_with_the_reason()
    {
        var finding = await FoundAsync();
        await RespondAsync(finding);
        await auditor.PostOk(
            $"audits/{audit}/findings/{finding}/verification",
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
        await auditor.PostOk($"audits/{audit}/findings/{finding}/verification", new { verified = true });
        (await RespondAsync(finding, done: false)).Problem.ShouldBe("finding-closed");
    }

    [Fact]
    public async Task Nobody_verifies_what_they_did_themselves_in_an_audit_without_an_auditor()
    {
        await manager.PostOk(
            "audits",
            new
            {
                name = "Our own",
                framework = "nist-csf-2.0",
                auditor = "",
                periodFrom = "2025-06-01",
                periodThrough = "2026-06-30",
                startsOn = "2026-06-10",
                endsOn = "2026-06-25",
            }
        );
        audit = (await manager.GetOk("audits")).EnumerateArray().Max(a => a.GetProperty("id").GetInt64());
        await manager.PostOk(
            $"audits/{audit}/findings",
            new
            {
                title = "x",
                severity = "minor",
                control = "",
            }
        );
        var finding = (await manager.GetOk($"audits/{audit}")).GetProperty("findings")[0].GetProperty("id").GetInt64();
        await RespondAsync(finding);
        (
            await manager.Post($"audits/{audit}/findings/{finding}/verification", new { verified = true })
        ).Problem.ShouldBe("own-finding");
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
            var who = random.Next(2) == 0 ? manager : auditor;
            var proof = random.Next(2) == 0 ? first : second;
            var answer = await (
                random.Next(7) switch
                {
                    0 => who.Post($"audits/{audit}/requests/1/offer", new { proofs = new[] { proof } }),
                    1 => who.Post($"audits/{audit}/requests/1/offers/{proof}/withdrawal", new { reason = "x" }),
                    2 => who.Post($"audits/{audit}/requests/1/state", new { state = "ready" }),
                    3 => who.Post($"audits/{audit}/requests/1/state", new { state = "accepted" }),
                    4 => who.Post($"audits/{audit}/requests/1/state", new { state = "returned", remark = "x" }),
                    5 => who.Put(
                        $"audits/{audit}/findings/{finding}",
                        new
                        {
                            title = $"words {step}",
                            severity = "minor",
                            control = "",
                        }
                    ),
                    _ => who.Delete($"controls/{(await ControlAsync()).GetProperty("id").GetInt64()}/parts/{part}"),
                }
            );
            var request = await RequestAsync();
            var offered = request.GetProperty("offered").GetRawText();
            var isAccepted = request.GetProperty("state").GetString() == "accepted";
            if (accepted is not null && !(who == auditor && answer.Status == HttpStatusCode.OK))
            {
                (isAccepted, offered).ShouldBe((true, accepted), $"step {step}");
            }

            accepted = isAccepted ? offered : null;
            var title = (await FindingAsync()).GetProperty("title").GetString();
            if (who == manager)
            {
                title.ShouldBe(words, $"step {step}");
            }

            words = title!;
        }
    }
}
