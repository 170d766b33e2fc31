using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Disposition;

/// <summary>
/// Whoever makes items due does not clear them, by whatever kind of change they are made due; and one person alone makes
/// nothing due that is destroyed without sign-off (docs/decisions/0051).
/// </summary>
public sealed class CustodyTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Dictionary<string, long> containers = [];
    private Api ines = null!;
    private Api tobias = null!;

    /// <summary>A records manager who has no part in any rule.</summary>
    private Api solveig = null!;
    private Api jonas = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/a.md", "2018-05-01", "pier", "subject-reference: IMO9901005\n");
        product.Write("Fleet/b.md", "2018-05-01", "berth", "subject-reference: IMO9901005\n");
        containers = await product.ScanAsync();
        jonas = await product.SignInAsync("jonas");
        await product.AddPersonAsync(jonas, "solveig", "recordsManager");
        ines = await product.SignInAsync("ines");
        tobias = await product.SignInAsync("tobias");
        solveig = await product.SignInAsync("solveig");
    }

    public ValueTask DisposeAsync()
    {
        foreach (var one in new[] { ines, tobias, solveig, jonas })
        {
            one.Dispose();
        }

        return product.DisposeAsync();
    }

    private static Task<Answer> ClearAsync(Api who, long? series, long? blanket = null) =>
        who.Post(
            "clearings",
            new
            {
                seriesId = series,
                blanketId = blanket,
                items = 2,
                why = "Nobody needs it.",
            }
        );

    private async Task<JsonElement> WaitingAsync() =>
        (await tobias.GetOk("proposals")).EnumerateArray().ShouldHaveSingleItem();

    private static async Task<Answer> DecideAsync(Api who, JsonElement proposal, bool agree = true) =>
        await who.Post(
            $"proposals/{proposal.GetProperty("id").GetInt64()}/decision",
            new { agree, why = "Looked at." },
            proposal.GetProperty("revision").GetInt64()
        );

    private static async Task AgreeAsync(Api who) =>
        (
            await DecideAsync(who, (await who.GetOk("proposals")).EnumerateArray().ShouldHaveSingleItem())
        ).Status.ShouldBe(HttpStatusCode.OK);

    private static object Destroying(string trigger = "created", string period = "P1Y", string cutoff = "none") =>
        Product.Definition(title: "Temporary", period: period, trigger: trigger, cutoff: cutoff, atEnd: "destroy");

    /// <summary>A series that destroys without sign-off: asked for by Ines, agreed to by Tobias; filed by Ines.</summary>
    private async Task<long> DestroyingSeriesAsync(object definition)
    {
        var id = await product.SeriesInForceAsync(ines, "TMP-010", "Tarn Lines", [containers["Fleet"]], definition);
        await AgreeAsync(tobias);
        return id;
    }

    private Task<long> DestroyingBlanketAsync() =>
        product.BlanketInForceAsync(
            ines,
            "Old files",
            "Tarn Lines",
            new
            {
                description = "",
                reach = new
                {
                    query = (string?)null,
                    containers = new[] { containers["Fleet"] },
                    except = Array.Empty<long>(),
                },
                from = "created",
                keep = (string?)null,
                destroys = false,
                destroyAfter = "P1Y",
            }
        );

    private async Task EventTypeAsync() =>
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "vessel-sold",
                title = "Vessel sold",
                description = "",
            }
        );

    private static Task<Answer> ReportAsync(Api who, string date) =>
        who.Post(
            "trigger-events",
            new
            {
                type = "vessel-sold",
                subject = "IMO9901005",
                date,
                why = "The sale was registered.",
            }
        );

    /// <summary>Items under sign-off, over a blanket that destroys: off the series, the blanket destroys them.</summary>
    private async Task<long> TakenOffAsync()
    {
        var blanket = await DestroyingBlanketAsync();
        await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P20Y")
        );
        await Product.FileAsync(solveig, [containers["Fleet"]], null);
        return blanket;
    }

    [Fact]
    public async Task Taking_items_off_their_series_over_a_blanket_that_destroys_waits_for_a_second_person()
    {
        await TakenOffAsync();
        (await WaitingAsync()).GetProperty("kind").GetString().ShouldBe("file-items");
    }

    [Fact]
    public async Task Who_took_items_off_their_series_does_not_clear_them_once_it_was_agreed_to()
    {
        var blanket = await TakenOffAsync();
        await AgreeAsync(tobias);
        (await ClearAsync(solveig, null, blanket)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task Who_agreed_to_it_does_not_clear_them_either()
    {
        var blanket = await TakenOffAsync();
        await AgreeAsync(tobias);
        (await ClearAsync(tobias, null, blanket)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task An_event_that_makes_items_due_without_sign_off_waits_for_a_second_person()
    {
        await EventTypeAsync();
        await DestroyingSeriesAsync(Destroying("event:vessel-sold", "P1D"));
        (await ReportAsync(solveig, "2026-01-10")).Status.ShouldBe(HttpStatusCode.Accepted);
    }

    [Fact]
    public async Task Who_reported_the_event_does_not_clear_what_it_made_due()
    {
        await EventTypeAsync();
        var series = await DestroyingSeriesAsync(Destroying("event:vessel-sold", "P1D"));
        await ReportAsync(solveig, "2026-01-10");
        await AgreeAsync(tobias);
        (await ClearAsync(solveig, series)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task Who_had_no_part_in_it_clears()
    {
        await EventTypeAsync();
        var series = await DestroyingSeriesAsync(Destroying("event:vessel-sold", "P1D"));
        await ReportAsync(ines, "2026-01-10");
        await AgreeAsync(tobias);
        (await ClearAsync(solveig, series)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_fiscal_year_that_makes_items_due_sooner_without_sign_off_waits_for_a_second_person()
    {
        await DestroyingSeriesAsync(Destroying(period: "P8Y", cutoff: "fiscal"));
        var change = new
        {
            name = "Tarn Lines",
            zone = "Europe/Copenhagen",
            fiscalYearEnd = "06-30",
        };
        var shown = await jonas.PostOk("settings/consequences", change);
        (
            await jonas.Put(
                "settings",
                new
                {
                    change.name,
                    change.zone,
                    change.fiscalYearEnd,
                    fingerprint = shown.GetProperty("fingerprint").GetString(),
                    why = "The new owner's year.",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.Accepted);
    }

    [Fact]
    public async Task Retiring_a_blanket_that_keeps_waits_for_a_second_person()
    {
        var blanket = await product.BlanketInForceAsync(
            ines,
            "Keep all",
            "Tarn Lines",
            new
            {
                description = "",
                reach = new
                {
                    query = (string?)null,
                    containers = new[] { containers["Fleet"] },
                    except = Array.Empty<long>(),
                },
                from = "created",
                keep = "P60Y",
                destroys = false,
                destroyAfter = (string?)null,
            }
        );
        var known = (await solveig.GetOk("blankets")).EnumerateArray().Single();
        var shown = await solveig.PostOk($"blankets/{blanket}/retirement/consequences", new { });
        await solveig.Post(
            $"blankets/{blanket}/retirement",
            new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "No need." },
            known.GetProperty("revision").GetInt64()
        );
        (await solveig.GetOk("blankets")).EnumerateArray().Single().GetProperty("state").GetString().ShouldBe("active");
    }

    [Fact]
    public async Task Who_asked_for_a_rule_does_not_clear_after_a_colleague_corrected_its_title()
    {
        var series = await product.SeriesInForceAsync(tobias, "TMP-010", "Tarn Lines", [], Destroying());
        await product.AddPersonAsync(jonas, "oskar", "recordsManager");
        using var oskar = await product.SignInAsync("oskar");
        await AgreeAsync(oskar);
        await Product.FileAsync(solveig, [containers["Fleet"]], series);
        var draft = Product.Definition(title: "Temporary files", period: "P1Y", atEnd: "destroy");
        var revision = (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        await ines.Put($"series/{series}/draft", draft, revision);
        await Product.ActivateAsync(ines, series, draft);
        (await ClearAsync(tobias, series)).Problem.ShouldBe("second-person-needed");
    }

    [Fact]
    public async Task A_declared_record_is_not_shortened_by_one_person_who_revokes_an_event()
    {
        await EventTypeAsync();
        await product.SeriesInForceAsync(
            ines,
            "REC-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(period: "P10Y", trigger: "event:vessel-sold", grade: "declared")
        );
        await ReportAsync(ines, "2012-03-01");
        await product.AgreeAsync();
        var later = await ines.PostOk(
            "trigger-events",
            new
            {
                type = "vessel-sold",
                subject = "IMO9901005",
                date = "2025-03-01",
            }
        );
        (
            await solveig.Post(
                $"trigger-events/{later.GetProperty("id").GetInt64()}/revocation",
                new { why = "It was reported in error." }
            )
        ).Status.ShouldBe(HttpStatusCode.Accepted);
    }

    private async Task<(long Series, JsonElement Proposal)> ProposedAsync()
    {
        var made = await ines.PostOk(
            "series",
            new
            {
                code = "TMP-010",
                unitId = product.Units["Tarn Lines"],
                draft = Destroying(),
            }
        );
        var id = made.GetProperty("row").GetProperty("id").GetInt64();
        await Product.ActivateAsync(ines, id, Destroying());
        return (id, await WaitingAsync());
    }

    private async Task SaveDraftAsync(long series, object draft)
    {
        var revision = (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        (await ines.Put($"series/{series}/draft", draft, revision)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Agreeing_to_a_draft_that_was_changed_since_is_refused()
    {
        var (series, proposal) = await ProposedAsync();
        await SaveDraftAsync(series, Product.Definition(title: "Temporary", period: "P20Y"));
        (await DecideAsync(tobias, proposal)).Problem.ShouldBe("stale");
    }

    [Fact]
    public async Task A_newer_rule_is_not_overwritten_by_agreeing_to_an_older_proposal()
    {
        var (series, proposal) = await ProposedAsync();
        var newer = Product.Definition(title: "Temporary", period: "P20Y");
        await SaveDraftAsync(series, newer);
        await Product.ActivateAsync(ines, series, newer);
        await DecideAsync(tobias, proposal);
        (await ines.GetOk($"series/{series}"))
            .GetProperty("inForce")
            .GetProperty("clauses")[0]
            .GetProperty("period")
            .GetString()
            .ShouldBe("P20Y");
    }

    [Fact]
    public async Task A_proposal_of_a_series_that_was_dropped_closes_itself()
    {
        var (series, _) = await ProposedAsync();
        var revision = (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        (await ines.Delete($"series/{series}", revision)).Status.ShouldBe(HttpStatusCode.OK);
        (await tobias.GetOk("proposals/all"))
            .GetProperty("proposals")[0]
            .GetProperty("state")
            .GetString()
            .ShouldBe("closed");
    }

    [Fact]
    public async Task A_closed_proposal_says_why()
    {
        var (series, _) = await ProposedAsync();
        await SaveDraftAsync(series, Destroying(period: "P2Y"));
        (await tobias.GetOk("proposals/all"))
            .GetProperty("proposals")[0]
            .GetProperty("decidedWhy")
            .GetString()
            .ShouldBe("TMP-010 was changed since ines asked.");
    }

    [Fact]
    public async Task Asked_twice_it_waits_once()
    {
        var (series, _) = await ProposedAsync();
        await Product.ActivateAsync(ines, series, Destroying());
        (await tobias.GetOk("proposals")).GetArrayLength().ShouldBe(1);
    }

    [Fact]
    public async Task The_second_person_sees_the_rule_in_full()
    {
        var (_, proposal) = await ProposedAsync();
        (await tobias.GetOk($"proposals/{proposal.GetProperty("id").GetInt64()}"))
            .GetProperty("parts")
            .EnumerateArray()
            .Single(p => p.GetProperty("name").GetString() == "At the end")
            .GetProperty("after")
            .GetString()
            .ShouldBe("destroyed without sign-off");
    }

    [Fact]
    public async Task The_second_person_opens_a_figure_into_its_items()
    {
        await TakenOffAsync();
        var proposal = await WaitingAsync();
        (await tobias.GetOk($"proposals/{proposal.GetProperty("id").GetInt64()}/consequences/all"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);
    }

    [Fact]
    public async Task The_person_who_asked_is_informed_when_a_colleague_overtakes_the_request()
    {
        var (series, _) = await ProposedAsync();
        var revision = (await solveig.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        await solveig.Put($"series/{series}/draft", Destroying(period: "P2Y"), revision);
        await using var db = product.Database();
        db.Messages.Count(m => m.Kind == "proposal-closed").ShouldBe(1);
    }

    [Fact]
    public async Task Agreeing_to_other_figures_than_were_asked_for_is_refused()
    {
        var (series, proposal) = await ProposedAsync();
        await Product.FileAsync(solveig, [containers["Fleet"]], series);
        (await DecideAsync(tobias, proposal)).Problem.ShouldBe("consequences-changed");
    }

    [Fact]
    public async Task Asked_anew_over_other_figures_it_is_agreed_to()
    {
        var (series, _) = await ProposedAsync();
        await Product.FileAsync(solveig, [containers["Fleet"]], series);
        await Product.ActivateAsync(ines, series, Destroying());
        (await DecideAsync(tobias, await WaitingAsync())).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task What_a_leaver_asked_for_is_not_agreed_to()
    {
        var (_, proposal) = await ProposedAsync();
        await Product.ChangePersonAsync(jonas, "ines", active: false);
        (await DecideAsync(tobias, proposal)).Status.ShouldNotBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Every_proposal_that_waits_is_listed()
    {
        var (_, proposal) = await ProposedAsync();
        using (var db = product.Database())
        {
            for (var i = 0; i < 600; i++)
            {
                db.Proposals.Add(
                    new()
                    {
                        Kind = "enable-worm",
                        Title = "Enable",
                        Act = "{}",
                        RestsOn = "{}",
                        Consequences = "{}",
                        Digest = "",
                        Unit = "/1/",
                        AskedById = proposal.GetProperty("id").GetInt64() + 100,
                        AskedBy = "Somebody",
                        Why = "test",
                    }
                );
            }

            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        (await ines.GetOk("proposals"))
            .EnumerateArray()
            .ShouldContain(p => p.GetProperty("id").GetInt64() == proposal.GetProperty("id").GetInt64());
    }
}
