using System.Globalization;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Store.Content;

namespace WideKeel.Server.Tests.Retention;

/// <summary>
/// Every way that was found to bring forward what only grows, tried one by one; and random histories of them.
/// </summary>
public sealed class NothingShrinksTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;
    private Dictionary<string, long> containers = [];

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/log.md", "2024-03-01", "pier log", "Subject reference: ship-1\n");
        product.Write("Crewing/other.md", "2024-03-01", "another");
        containers = await product.ScanAsync();
        ines = await product.SignInAsync("ines");
    }

    public ValueTask DisposeAsync()
    {
        ines.Dispose();
        return product.DisposeAsync();
    }

    private Task<long> RatchetedAsync(string trigger = "created", string code = "VES-010", string period = "P10Y") =>
        product.SeriesInForceAsync(
            ines,
            code,
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(trigger: trigger, period: period, ratchet: true)
        );

    private Task<long> DeclaredAsync() =>
        product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(grade: "declared", period: "P10Y")
        );

    private Task<long> ShorterAsync() =>
        product.SeriesInForceAsync(ines, "VES-020", "Tarn Lines", [], Product.Definition(period: "P1Y"));

    [Theory]
    [InlineData("nothing")]
    [InlineData("destroy")]
    public async Task A_filing_elsewhere_does_not_take_the_sign_off_at_its_end_away(string atEnd)
    {
        await RatchetedAsync();
        var other = await product.SeriesInForceAsync(
            ines,
            "VES-030",
            "Tarn Lines",
            [],
            Product.Definition(period: "P20Y", atEnd: atEnd)
        );
        var answer = await ines.Post(
            "filings/consequences",
            new { selection = new { container = new[] { containers["Fleet"] } }, seriesId = other }
        );
        answer.Problem.ShouldBe("end-taken-away");
    }

    /// <summary>Somebody writes over the file on the share, with another date in it.</summary>
    private async Task EditAsync(string created, string words = "pier log, edited")
    {
        product.Write("Fleet/log.md", created, words, "Subject reference: ship-1\n");
        await product.ScanAsync();
    }

    private Task<JsonElement> EventTypeAsync() =>
        ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "sold",
                title = "Ship sold",
                description = "",
            }
        );

    private async Task RevokeAsync(long told)
    {
        var shown = await ines.PostOk($"trigger-events/{told}/revocation/consequences", new { });
        await ines.PostOk(
            $"trigger-events/{told}/revocation",
            new { fingerprint = shown.GetProperty("fingerprint").GetString(), why = "A mistake." }
        );
    }

    private async Task<Item> LogAsync()
    {
        await using var db = product.Database();
        return await db.Items.AsNoTracking().SingleAsync(i => i.Title == "log.md" || i.Path.EndsWith("log.md"));
    }

    private async Task<string?> KeptUntilAsync() =>
        WideKeel.Core.Content.KeepUntil.FromCode((await LogAsync()).KeepUntil).Text;

    private async Task<JsonElement> ToMendAsync(string kind) => await ines.GetOk($"schedule/to-mend?kind={kind}");

    private Task FileAsync(long? series) => Product.FileAsync(ines, [containers["Fleet"]], series);

    private async Task<long> TellAsync(string date)
    {
        var body = new
        {
            type = "sold",
            subject = "ship-1",
            date,
        };
        var shown = await ines.PostOk("trigger-events/consequences", body);
        var told = await ines.PostOk(
            "trigger-events",
            new
            {
                body.type,
                body.subject,
                body.date,
                fingerprint = shown.GetProperty("fingerprint").GetString(),
            }
        );
        return told.GetProperty("id").GetInt64();
    }

    [Fact]
    public async Task An_earlier_date_in_the_file_does_not_bring_a_ratcheted_item_forward()
    {
        await RatchetedAsync();
        await EditAsync("2004-03-01");
        (await KeptUntilAsync()).ShouldBe("2034-03-01");
    }

    [Fact]
    public async Task It_stands_in_the_list_with_both_dates()
    {
        await RatchetedAsync();
        await EditAsync("2004-03-01");
        (await ToMendAsync("floor"))
            .GetProperty("rows")[0]
            .GetProperty("says")
            .GetString()
            .ShouldBe("Its rules would keep it through 1 Mar 2014; it stays kept through 1 Mar 2034.");
    }

    [Fact]
    public async Task The_ledger_has_an_entry_with_both_dates()
    {
        await RatchetedAsync();
        await EditAsync("2004-03-01");
        await using var db = product.Database();
        var entry = await db.Set<WideKeel.Store.Ledger.LedgerRow>()
            .AsNoTracking()
            .SingleAsync(e => e.Verb == "kept-by-its-floor", TestContext.Current.CancellationToken);
        entry.Body.ShouldContain(
            """
            "after":{"keptUntil":"2034-03-01"}
            """.Trim()
        );
        entry.Body.ShouldContain(
            """
            "before":{"rulesSay":"2014-03-01"}
            """.Trim()
        );
    }

    [Fact]
    public async Task Settling_it_with_a_reason_takes_it_off_the_list_and_shortens_nothing()
    {
        await RatchetedAsync();
        await EditAsync("2004-03-01");
        await ines.PostOk(
            "schedule/to-mend/settlements",
            new
            {
                kind = "floor",
                items = new[] { (await LogAsync()).Id },
                why = "The copy was misdated.",
            }
        );
        ((await ToMendAsync("floor")).GetProperty("total").GetInt64(), await KeptUntilAsync()).ShouldBe(
            (0, "2034-03-01")
        );
    }

    [Fact]
    public async Task What_is_not_in_the_list_cannot_be_settled() =>
        (
            await ines.Post(
                "schedule/to-mend/settlements",
                new
                {
                    kind = "altered",
                    items = new[] { (await LogAsync()).Id },
                    why = "No reason.",
                }
            )
        ).Problem.ShouldBe("not-in-the-list");

    [Fact]
    public async Task Taking_it_off_the_series_leaves_it_kept_as_long()
    {
        await RatchetedAsync();
        await FileAsync(null);
        (await KeptUntilAsync()).ShouldBe("2034-03-01");
    }

    [Fact]
    public async Task Filing_it_under_a_shorter_series_leaves_it_kept_as_long()
    {
        await RatchetedAsync();
        var shorter = await ShorterAsync();
        await FileAsync(shorter);
        (await KeptUntilAsync()).ShouldBe("2034-03-01");
    }

    [Fact]
    public async Task The_consequences_of_that_promise_no_more_than_comes()
    {
        await RatchetedAsync();
        var shorter = await ShorterAsync();
        var shown = await ines.PostOk(
            "filings/consequences",
            new { selection = new { container = new[] { containers["Fleet"] } }, seriesId = shorter }
        );
        shown.GetProperty("figures").GetProperty("becomeDue").GetProperty("items").GetInt64().ShouldBe(0);
    }

    [Fact]
    public async Task Retiring_the_series_with_a_shorter_successor_leaves_it_kept_as_long()
    {
        var series = await RatchetedAsync();
        var successor = await ShorterAsync();
        var shown = await ines.PostOk($"series/{series}/retirement/consequences", new { successorId = successor });
        var retired = await ines.Post(
            $"series/{series}/retirement",
            new
            {
                successorId = successor,
                fingerprint = shown.GetProperty("fingerprint").GetString(),
                why = "test",
            },
            (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64()
        );
        retired.Status.ShouldBe(System.Net.HttpStatusCode.OK, retired.Body.ToString());
        (await KeptUntilAsync()).ShouldBe("2034-03-01");
    }

    [Fact]
    public async Task A_move_on_the_share_to_another_container_leaves_what_is_kept_kept_as_long()
    {
        await product.BlanketInForceAsync(
            ines,
            "Fleet for ten years",
            "Fleet",
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
                keep = "P10Y",
                destroys = false,
                destroyAfter = (string?)null,
            }
        );
        File.Move(Path.Combine(product.Share, "Fleet/log.md"), Path.Combine(product.Share, "Crewing/log.md"));
        await product.ScanAsync();
        (await KeptUntilAsync()).ShouldBe("2034-03-01");
    }

    [Fact]
    public async Task Revoking_the_later_of_two_events_leaves_it_kept_as_long()
    {
        await EventTypeAsync();
        await RatchetedAsync(trigger: "event:sold");
        await TellAsync("2024-01-01");
        var later = await TellAsync("2026-01-01");
        await RevokeAsync(later);
        (await KeptUntilAsync()).ShouldBe("2036-01-01");
    }

    [Fact]
    public async Task The_end_of_a_ratcheted_series_is_not_taken_away()
    {
        var series = await RatchetedAsync();
        var revision = (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64();
        (
            await ines.Put(
                $"series/{series}/draft",
                Product.Definition(period: "P10Y", ratchet: true, atEnd: "nothing"),
                revision
            )
        ).Problem.ShouldBe("ratchet");
    }

    [Fact]
    public async Task A_declared_record_counts_from_the_date_that_it_had_when_it_was_declared()
    {
        await DeclaredAsync();
        await EditAsync("2004-03-01");
        (await KeptUntilAsync()).ShouldBe("2034-03-01");
    }

    [Fact]
    public async Task Its_page_shows_the_declared_date_beside_its_own()
    {
        await DeclaredAsync();
        await EditAsync("2004-03-01");
        (await ines.GetOk($"items/{(await LogAsync()).Id}"))
            .GetProperty("declared")[0]
            .GetProperty("date")
            .GetString()
            .ShouldBe("2024-03-01");
    }

    [Fact]
    public async Task A_declared_record_that_was_changed_on_the_share_stands_among_what_was_altered()
    {
        await DeclaredAsync();
        await EditAsync("2024-03-01");
        (await ToMendAsync("altered"))
            .GetProperty("rows")[0]
            .GetProperty("says")
            .GetString()
            .ShouldBe("Its content was changed on the source.");
    }

    [Fact]
    public async Task A_field_that_a_rule_counts_from_and_that_has_no_date_stands_in_the_list()
    {
        await RatchetedAsync(trigger: "field:closed");
        (await ToMendAsync("field"))
            .GetProperty("rows")[0]
            .GetProperty("says")
            .GetString()
            .ShouldBe("It has no date in its field “closed”, from which its rule counts.");
    }

    [Fact]
    public async Task Filing_under_a_clock_of_filing_counts_from_today()
    {
        var filed = await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(trigger: "filed", period: "P1M")
        );
        var other = await product.SeriesInForceAsync(
            ines,
            "VES-020",
            "Tarn Lines",
            [],
            Product.Definition(trigger: "filed", period: "P1M")
        );
        filed.ShouldNotBe(other);
        product.Clock.AdvanceDays(70);
        var shown = await ines.PostOk(
            "filings/consequences",
            new { selection = new { container = new[] { containers["Fleet"] } }, seriesId = other }
        );
        shown.GetProperty("figures").GetProperty("dueAfter").GetProperty("items").GetInt64().ShouldBe(0);
    }

    /// <summary>
    /// Edits on the share, moves, events and their revocation, filing off and on, another fiscal year: after each, what
    /// only grows is kept at least as long as before it.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task No_random_history_brings_keep_until_forward(int seed)
    {
        var random = new Random(seed);
        await EventTypeAsync();
        var grows = await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(
                ratchet: true,
                join: "earlier",
                clauses:
                [
                    new
                    {
                        trigger = "created",
                        cutoff = "fiscal",
                        period = "P12Y",
                    },
                    new
                    {
                        trigger = "event:sold",
                        cutoff = "none",
                        period = "P9Y",
                    },
                ]
            )
        );
        var shorter = await ShorterAsync();
        List<long> events = [];
        var kept = WideKeel.Core.Content.KeepUntil.FromCode((await LogAsync()).KeepUntil);
        List<string> history = [];
        for (var step = 0; step < 8; step++)
        {
            var year = random.Next(1990, 2026).ToString(CultureInfo.InvariantCulture);
            var act = random.Next(5);
            history.Add($"{act} {year}");
            switch (act)
            {
                case 0:
                    product.Write(
                        "Fleet/log.md",
                        $"{year}-02-01",
                        $"log {step} of {seed}",
                        "Subject reference: ship-1\n"
                    );
                    await product.ScanAsync();
                    break;
                case 1:
                    events.Add(await TellAsync($"{year}-05-01"));
                    break;
                case 2 when events.Count > 0:
                    var gone = events[^1];
                    events.Remove(gone);
                    await RevokeAsync(gone);
                    break;
                case 3:
                    await FileAsync(
                        random.Next(3) switch
                        {
                            0 => null,
                            1 => shorter,
                            _ => grows,
                        }
                    );
                    break;
                default:
                    product.Clock.AdvanceDays(random.Next(1, 40));
                    break;
            }

            var now = WideKeel.Core.Content.KeepUntil.FromCode((await LogAsync()).KeepUntil);
            now.ShouldBeGreaterThanOrEqualTo(kept, string.Join("; ", history));
            kept = now.IsAwaiting ? kept : now;
        }
    }
}
