using System.Globalization;
using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Store;

namespace WideKeel.Server.Tests.Retention;

/// <summary>
/// The schedule as a whole: blankets, events, authorities, grades, filing rules, and its way out to a spreadsheet and
/// back.
/// </summary>
public sealed class ScheduleTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;
    private Api tobias = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        (ines, tobias) = (await product.SignInAsync("ines"), await product.SignInAsync("tobias"));
    }

    public async ValueTask DisposeAsync()
    {
        ines.Dispose();
        tobias.Dispose();
        await product.DisposeAsync();
    }

    private static string Fingerprint(JsonElement view) => view.GetProperty("fingerprint").GetString()!;

    private static int Count(JsonElement view, string group) =>
        view.GetProperty("figures").GetProperty(group).GetProperty("items").GetInt32();

    private async Task<Dictionary<string, string?>> KeepUntilAsync() =>
        (await ines.GetOk("items?limit=500"))
            .GetProperty("items")
            .EnumerateArray()
            .ToDictionary(
                i => i.GetProperty("path").GetString()!,
                i => i.GetProperty("tideline").GetProperty("keepUntil").GetString()
            );

    private async Task<JsonElement> AgreeAsync(Api who, long id, bool agree = true)
    {
        var revision = (await who.GetOk("proposals"))
            .EnumerateArray()
            .Single(p => p.GetProperty("id").GetInt64() == id)
            .GetProperty("revision")
            .GetInt64();
        var answer = await who.Post($"proposals/{id}/decision", new { agree, why = "seen" }, revision);
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Body.ToString());
        return answer.Body;
    }

    [Fact]
    public async Task An_event_starts_the_clocks_of_its_subject_and_a_revoked_one_stops_them()
    {
        product.Write("Fleet/a.md", "2015-02-28", "a", "Subject reference: IMO1\n");
        product.Write("Fleet/b.md", "2015-02-28", "b", "Subject reference: IMO2\n");
        var containers = await product.ScanAsync();
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "vessel-sold",
                title = "Vessel sold",
                description = "",
            }
        );
        await product.SeriesInForceAsync(
            ines,
            "VES-050",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition(
                clauses:
                [
                    new
                    {
                        trigger = "event:vessel-sold",
                        cutoff = "fiscal",
                        period = "P7Y",
                    },
                    new
                    {
                        trigger = "created",
                        cutoff = "none",
                        period = "P10Y",
                    },
                ]
            )
        );
        (await KeepUntilAsync()).Values.ShouldAllBe(k => k == "awaiting-event");

        var told = new
        {
            type = "vessel-sold",
            subject = "IMO1",
            date = "2019-03-31",
            reference = "register-7",
        };
        var preview = await ines.PostOk("trigger-events/consequences", told);
        (Count(preview, "inReach"), Count(preview, "sooner"), Count(preview, "becomeDue")).ShouldBe((1, 1, 0));
        var made = await ines.PostOk("trigger-events", told);
        // Fiscal year to 30 September: 30 Sep 2019 + 7 years is later than 28 Feb 2015 + 10 years.
        (await KeepUntilAsync())["Fleet/a.md"]
            .ShouldBe("2026-09-30");
        (await KeepUntilAsync())["Fleet/b.md"].ShouldBe("awaiting-event");
        var about = (await ines.GetOk("items?subject=IMO1"))
            .GetProperty("items")
            .EnumerateArray()
            .ShouldHaveSingleItem();
        about.GetProperty("path").GetString().ShouldBe("Fleet/a.md");
        (await ines.GetOk($"items/{about.GetProperty("id").GetInt64()}"))
            .GetProperty("subject")
            .GetString()
            .ShouldBe("IMO1");

        // Told again under the same reference it is the same event; another fact under it is refused.
        (await ines.PostOk("trigger-events", told))
            .GetProperty("id")
            .GetInt64()
            .ShouldBe(made.GetProperty("id").GetInt64());
        var other = await ines.Post(
            "trigger-events",
            new
            {
                told.type,
                told.subject,
                date = "2020-01-01",
                told.reference,
            }
        );
        (other.Status, other.Problem).ShouldBe((HttpStatusCode.Conflict, "reference-taken"));

        // Of two events of one type the latest counts.
        await ines.PostOk(
            "trigger-events",
            new
            {
                told.type,
                told.subject,
                date = "2020-12-01",
            }
        );
        (await KeepUntilAsync())["Fleet/a.md"].ShouldBe("2028-09-30");
        var events = (await ines.GetOk("trigger-events?subject=IMO1")).GetProperty("events");
        events.EnumerateArray().Select(e => e.GetProperty("counts").GetBoolean()).ShouldBe([true, false]);
        var undoing = await ines.PostOk(
            $"trigger-events/{events[0].GetProperty("id").GetInt64()}/revocation/consequences",
            new { }
        );
        (Count(undoing, "inReach"), Count(undoing, "sooner")).ShouldBe((1, 1));
        (
            await ines.PostOk(
                $"trigger-events/{events[0].GetProperty("id").GetInt64()}/revocation/consequences/sooner",
                new { }
            )
        )
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(1);
        (
            await ines.Post(
                $"trigger-events/{events[0].GetProperty("id").GetInt64()}/revocation",
                new { why = "x", fingerprint = "stale" }
            )
        ).Problem.ShouldBe("consequences-changed");
        foreach (var e in events.EnumerateArray())
        {
            await ines.PostOk(
                $"trigger-events/{e.GetProperty("id").GetInt64()}/revocation",
                new { why = "Told of the wrong vessel." }
            );
        }

        (await KeepUntilAsync())["Fleet/a.md"].ShouldBe("awaiting-event");
        // What was revoked is not told again by its old number, as if nothing had happened.
        (await ines.Post("trigger-events", told)).Problem.ShouldBe("reference-taken");
        var subject = await ines.GetOk("subjects/IMO1");
        subject.GetProperty("events").GetArrayLength().ShouldBe(2);
        subject.GetProperty("items").GetProperty("total").GetInt64().ShouldBe(1);
    }

    [Fact]
    public async Task A_file_of_events_is_told_whole_or_not_at_all()
    {
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "left",
                title = "Left",
                description = "",
            }
        );
        var bad = await ines.PostOk(
            "trigger-events/csv",
            new
            {
                csv = "type,subject,date\nleft,T1,2020-01-01\nleft,T2,soon\ngone,T3,2020-01-01\nleft,,2020-01-01\nleft,T4,1066-10-14\n",
            }
        );
        bad.GetProperty("refused")
            .EnumerateArray()
            .Select(r => (r.GetProperty("line").GetInt32(), r.GetProperty("column").GetString()))
            .ShouldBe([(3, "date"), (4, "type"), (5, "subject"), (6, "date")]);
        (await ines.GetOk("trigger-events")).GetProperty("total").GetInt64().ShouldBe(0);
        (await ines.Post("trigger-events/csv", new { csv = "kind,subject\n" })).Problem.ShouldBe("csv-column");

        const string good =
            "type,subject,date,note,reference\nleft,T1,2020-01-01,\"said, by mail\",r1\nleft,T2,2021-01-01,,r2\nleft,T1,2020-01-01,,r1\n";
        var preview = await ines.PostOk("trigger-events/csv", new { csv = good });
        (
            preview.GetProperty("added").GetInt32(),
            preview.GetProperty("known").GetInt32(),
            preview.GetProperty("applied").GetBoolean()
        ).ShouldBe((2, 1, false));
        (
            await ines.PostOk(
                "trigger-events/csv",
                new { csv = good, fingerprint = Fingerprint(preview.GetProperty("consequences")) }
            )
        )
            .GetProperty("applied")
            .GetBoolean()
            .ShouldBeTrue();
        (await ines.GetOk("trigger-events")).GetProperty("total").GetInt64().ShouldBe(2);
        (await ines.PostOk("trigger-events/csv", new { csv = good })).GetProperty("added").GetInt32().ShouldBe(0);
    }

    [Fact]
    public async Task A_standing_blanket_covers_what_arrives_in_a_container_that_its_query_finds()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        await product.ScanAsync();
        object definition = new
        {
            description = "",
            reach = new
            {
                query = "container = \"*Fleet*\" or container = \"*scratch*\"",
                containers = Array.Empty<long>(),
                except = Array.Empty<long>(),
            },
            from = "created",
            keep = "P3Y",
            destroys = false,
            destroyAfter = (string?)null,
        };
        var id = await product.BlanketInForceAsync(ines, "Drafts", "Tarn Lines", definition);
        (await KeepUntilAsync())["Fleet/a.md"].ShouldBe("2027-01-01");
        product.Write("yard scratch/n.md", "2025-05-05", "n");
        product.Write("Island/n.md", "2025-05-05", "i");
        await product.ScanAsync();
        var kept = await KeepUntilAsync();
        (kept["yard scratch/n.md"], kept["Island/n.md"]).ShouldBe(("2028-05-05", null));

        // What the user deletes is kept in safekeeping, and its storage is told.
        File.Delete(Path.Combine(product.Share, "Fleet/a.md"));
        await product.ScanAsync();
        (await ines.GetOk($"blankets/{id}")).GetProperty("keptCopies").GetProperty("items").GetInt64().ShouldBe(1);

        var revision = (await ines.GetOk($"blankets/{id}")).GetProperty("revision").GetInt64();
        var retirement = await ines.PostOk($"blankets/{id}/retirement/consequences", new { });
        Count(retirement, "loseProtection").ShouldBe(2);
        (await ines.PostOk($"blankets/{id}/retirement/consequences/losesProtection", new { }))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(2);
        (
            await ines.Post(
                $"blankets/{id}/retirement",
                new { fingerprint = Fingerprint(retirement), why = "no longer needed" },
                revision
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await product.AgreeAsync();
        (await KeepUntilAsync()).Values.ShouldAllBe(k => k == null);
    }

    [Fact]
    public async Task What_a_blanket_destroys_falls_due_and_is_cleared_without_signatures_but_with_the_same_proof()
    {
        var file = product.Write("Fleet/old.md", "2015-01-01", "a");
        product.Write("Fleet/young.md", "2026-06-01", "b");
        product.Write("Fleet/filed.md", "2015-01-01", "c");
        var containers = await product.ScanAsync();
        var filed = (await ines.GetOk("items"))
            .GetProperty("items")
            .EnumerateArray()
            .Single(i => i.GetProperty("path").GetString() == "Fleet/filed.md")
            .GetProperty("id")
            .GetInt64();
        var series = await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition());
        var filing = new { selection = new { ids = new[] { filed } }, seriesId = series };
        await ines.PostOk(
            "filings",
            new
            {
                filing.selection,
                filing.seriesId,
                fingerprint = Fingerprint(await ines.PostOk("filings/consequences", filing)),
            }
        );
        var id = await product.BlanketInForceAsync(
            ines,
            "Scratch",
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
                keep = (string?)null,
                destroys = true,
                destroyAfter = "P1Y",
            }
        );
        var due = (await ines.GetOk("docket"))
            .GetProperty("due")
            .EnumerateArray()
            .Single(g => g.GetProperty("blanketId").ValueKind == JsonValueKind.Number);
        due.GetProperty("items").GetInt64().ShouldBe(1);
        due.GetProperty("mayNotClear")
            .GetString()
            .ShouldBe("You put the rule into effect; somebody else clears what it makes due.");
        (
            await ines.Post(
                "clearings",
                new
                {
                    blanketId = id,
                    items = 1,
                    why = "scratch",
                }
            )
        ).Problem.ShouldBe("second-person-needed");
        using var jonas = await product.SignInAsync("jonas");
        await product.AddPersonAsync(jonas, "solveig", "recordsManager");
        using var solveig = await product.SignInAsync("solveig");
        (
            await solveig.Post(
                "clearings",
                new
                {
                    blanketId = id,
                    items = 2,
                    why = "scratch",
                }
            )
        ).Problem.ShouldBe("consequences-changed");
        (
            await ines.Post(
                "clearings",
                new
                {
                    seriesId = series,
                    items = 1,
                    why = "scratch",
                }
            )
        ).Problem.ShouldBe("sign-off-needed");
        using var maren = await product.SignInAsync("maren");
        (
            await maren.Post(
                "clearings",
                new
                {
                    blanketId = id,
                    items = 1,
                    why = "scratch",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);

        await solveig.PostOk(
            "clearings",
            new
            {
                blanketId = id,
                items = 1,
                why = "scratch",
            }
        );
        await ines.WaitForJobsAsync();
        File.Exists(file).ShouldBeFalse();
        (await ines.GetOk("items?state=destroyed")).GetProperty("total").GetInt64().ShouldBe(1);
        (await ines.GetOk("items?state=noRule&state=inTerm&state=due")).GetProperty("total").GetInt64().ShouldBe(2);
        var certificate = (await ines.GetOk("certificates"))[0];
        (
            certificate.GetProperty("code").GetString(),
            certificate.GetProperty("title").GetString(),
            certificate.GetProperty("items").GetInt32()
        ).ShouldBe(("Blanket", "Scratch", 1));
        (
            await ines.SendAsync(
                HttpMethod.Get,
                $"certificates/{certificate.GetProperty("id").GetInt64()}/document.pdf",
                null,
                null
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await ines.GetOk("ledger/verification")).GetProperty("sound").GetBoolean().ShouldBeTrue();
    }

    [Theory]
    [InlineData("title = secret", "reach-index")]
    [InlineData("container = (", "query-malformed")]
    public async Task A_standing_reach_that_asks_of_more_than_containers_is_refused(string query, string code)
    {
        var answer = await ines.Post(
            "blankets",
            new
            {
                name = "B",
                unitId = product.Units["Fleet"],
                draft = new
                {
                    description = "",
                    reach = new
                    {
                        query,
                        containers = Array.Empty<long>(),
                        except = Array.Empty<long>(),
                    },
                    from = "created",
                    keep = "P3Y",
                    destroys = false,
                    destroyAfter = (string?)null,
                },
            }
        );
        (answer.Status, answer.Problem, answer.Body.GetProperty("field").GetString()).ShouldBe(
            (HttpStatusCode.BadRequest, code, "query")
        );
    }

    [Fact]
    public async Task A_steward_s_blanket_covers_nothing_outside_the_steward_s_unit()
    {
        product.Write("Island/a.md", "2024-01-01", "a");
        product.Write("Northern/a.md", "2024-01-01", "b");
        await product.ScanAsync();
        using var maren = await product.SignInAsync("maren");
        object everything = new
        {
            description = "",
            reach = new
            {
                query = "container = \"*\"",
                containers = Array.Empty<long>(),
                except = Array.Empty<long>(),
            },
            from = "created",
            keep = "P3Y",
            destroys = false,
            destroyAfter = (string?)null,
        };
        await product.BlanketInForceAsync(maren, "All", "Island", everything);
        var kept = await KeepUntilAsync();
        (kept["Island/a.md"], kept["Northern/a.md"]).ShouldBe(("2027-01-01", null));
    }

    [Fact]
    public async Task A_ratcheted_series_refuses_to_be_loosened_by_screen_sheet_and_calendar_alike_and_the_attempt_is_in_the_ledger()
    {
        var id = await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Fleet",
            [],
            Product.Definition(cutoff: "fiscal", ratchet: true)
        );
        var revision = (await ines.GetOk($"series/{id}")).GetProperty("revision").GetInt64();
        foreach (
            var looser in new[]
            {
                Product.Definition(cutoff: "fiscal", period: "P4Y", ratchet: true),
                Product.Definition(cutoff: "fiscal"),
                Product.Definition(ratchet: true),
                Product.Definition(cutoff: "fiscal", trigger: "modified", ratchet: true),
            }
        )
        {
            (await ines.Put($"series/{id}/draft", looser, revision)).Problem.ShouldBe("ratchet");
        }

        var csv = (await ines.SendAsync(HttpMethod.Get, "schedule.csv", null, null)).Text!;
        var sheet = await ines.PostOk(
            "schedule/return",
            new { csv = csv.Replace("P5Y created fiscal", "P4Y created fiscal", StringComparison.Ordinal) }
        );
        sheet
            .GetProperty("refused")[0]
            .GetProperty("why")
            .GetString()!
            .ShouldContain("can be tightened, never loosened");
        (
            await ines.Post(
                "settings/consequences",
                new
                {
                    name = "Tarn Lines",
                    zone = "Etc/UTC",
                    fiscalYearEnd = "03-31",
                }
            )
        ).Problem.ShouldBe("ratchet");
        (
            await ines.Put(
                $"series/{id}/draft",
                Product.Definition(cutoff: "fiscal", period: "P6Y", ratchet: true),
                revision
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await ines.GetOk($"series/{id}/history"))
            .EnumerateArray()
            .Count(e => e.GetProperty("verb").GetString() == "loosening-refused")
            .ShouldBeGreaterThanOrEqualTo(4);
    }

    [Fact]
    public async Task Declared_records_leave_their_series_or_are_kept_shorter_only_with_a_second_person()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        var containers = await product.ScanAsync();
        var declared = await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition(grade: "declared")
        );
        await product.SeriesInForceAsync(ines, "VES-020", "Fleet", [], Product.Definition("Other"));
        var filing = new { selection = new { container = new[] { containers["Fleet"] } }, seriesId = (long?)null };
        var preview = await ines.PostOk("filings/consequences", filing);
        preview.GetProperty("secondPerson").GetString()!.ShouldContain("declared record");
        (
            await ines.Post(
                "filings",
                new
                {
                    filing.selection,
                    filing.seriesId,
                    fingerprint = Fingerprint(preview),
                }
            )
        ).Problem.ShouldBe("why-missing");
        var asked = await ines.PostOk(
            "filings",
            new
            {
                filing.selection,
                filing.seriesId,
                fingerprint = Fingerprint(preview),
                why = "filed by mistake",
            }
        );
        var proposal = asked.GetProperty("proposalId").GetInt64();
        (await ines.GetOk("items?unfiled=true")).GetProperty("total").GetInt64().ShouldBe(0);
        var own = await ines.Post($"proposals/{proposal}/decision", new { agree = true, why = "me too" }, 1);
        own.Problem.ShouldBe("second-person-needed");
        await AgreeAsync(tobias, proposal);
        (await ines.GetOk("items?unfiled=true")).GetProperty("total").GetInt64().ShouldBe(1);

        // To keep them for a shorter time takes two as well.
        var shorter = Product.Definition(period: "P2Y", grade: "declared");
        var revision = (await ines.GetOk($"series/{declared}")).GetProperty("revision").GetInt64();
        revision = (await ines.Put($"series/{declared}/draft", shorter, revision))
            .Body.GetProperty("revision")
            .GetInt64();
        var consequences = await ines.PostOk($"series/{declared}/consequences", shorter);
        consequences.GetProperty("secondPerson").ValueKind.ShouldBe(JsonValueKind.String);
        var answer = await ines.Post(
            $"series/{declared}/activation",
            new { fingerprint = Fingerprint(consequences), why = "shorter" },
            revision
        );
        answer.Body.GetProperty("version").GetInt32().ShouldBe(1);
        var waiting = (await tobias.GetOk("proposals"))
            .EnumerateArray()
            .First(p => p.GetProperty("state").GetString() == "waiting");
        await AgreeAsync(tobias, waiting.GetProperty("id").GetInt64());
        (await ines.GetOk($"series/{declared}")).GetProperty("version").GetInt32().ShouldBe(2);
    }

    [Fact]
    public async Task WORM_is_enabled_by_two_and_then_nothing_under_it_is_undone_by_anyone()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        var containers = await product.ScanAsync();
        var worm = Product.Definition(grade: "worm");
        (
            await ines.Post(
                "series",
                new
                {
                    code = "VES-010",
                    unitId = product.Units["Fleet"],
                    draft = worm,
                }
            )
        ).Problem.ShouldBe("worm-not-enabled");
        await EnableWormAsync();

        var id = (
            await ines.PostOk(
                "series",
                new
                {
                    code = "VES-010",
                    unitId = product.Units["Fleet"],
                    draft = worm,
                }
            )
        ).GetProperty("row").GetProperty("id").GetInt64();
        await Product.ActivateAsync(ines, id, worm);
        var filing = new { selection = new { container = new[] { containers["Fleet"] } }, seriesId = (long?)id };
        var fingerprint = Fingerprint(await ines.PostOk("filings/consequences", filing));
        (
            await ines.Post(
                "filings",
                new
                {
                    filing.selection,
                    filing.seriesId,
                    fingerprint,
                }
            )
        ).Problem.ShouldBe("confirmation-needed");
        await ines.PostOk(
            "filings",
            new
            {
                filing.selection,
                filing.seriesId,
                fingerprint,
                confirmed = true,
            }
        );

        var off = await ines.Post("filings/consequences", new { filing.selection, seriesId = (long?)null });
        (off.Status, off.Problem).ShouldBe((HttpStatusCode.Forbidden, "grade"));
        off.Body.GetProperty("title").GetString()!.ShouldContain("never taken off its series");
        var revision = (await ines.GetOk($"series/{id}")).GetProperty("revision").GetInt64();
        (await ines.Put($"series/{id}/draft", Product.Definition(), revision)).Problem.ShouldBe("ratchet");
        var rule = (
            await ines.PostOk(
                "filing-rules",
                new
                {
                    name = "W",
                    seriesId = id,
                    definition = new { query = "title = a", kinds = Array.Empty<object>() },
                    priority = 1,
                }
            )
        ).GetProperty("id").GetInt64();
        (await ines.Post($"filing-rules/{rule}/activation", new { fingerprint = "x", why = "x" }, 1)).Problem.ShouldBe(
            "rule-files-worm"
        );
    }

    private async Task EnableWormAsync()
    {
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.Post("settings/worm", new { why = "The law asks for it.", word = "yes" })).Problem.ShouldBe(
            "confirmation-needed"
        );
        (await jonas.PostOk("settings/worm", new { why = "The law asks for it.", word = "for good" }))
            .GetProperty("wormAsked")
            .GetBoolean()
            .ShouldBeTrue();
        await AgreeAsync(ines, (await ines.GetOk("proposals"))[0].GetProperty("id").GetInt64());
    }

    [Fact]
    public async Task No_draft_default_successor_or_filing_rule_brings_items_under_WORM_unconfirmed()
    {
        product.Write("Fleet/a.md", "2024-01-01", "ramp");
        product.Write("Fleet/b.md", "2024-01-01", "b");
        var containers = await product.ScanAsync();
        await EnableWormAsync();
        var worm = Product.Definition(grade: "worm");

        // A draft says it again before it is in force, and not together with others.
        var id = await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition());
        var draft = await SaveDraftAsync(id, worm);
        var shown = Fingerprint(await ines.PostOk($"series/{id}/consequences", worm));
        (
            await ines.Post(
                $"series/{id}/activation",
                new { fingerprint = shown, why = "law" },
                draft.Body.GetProperty("revision").GetInt64()
            )
        ).Problem.ShouldBe("confirmation-needed");
        var drafts = await ines.GetOk("schedule/drafts");
        var together = await ines.Post(
            "schedule/adoption",
            new { fingerprint = Fingerprint(drafts.GetProperty("consequences")), why = "law" }
        );
        (together.Problem, (await ines.GetOk($"series/{id}")).GetProperty("version").GetInt32()).ShouldBe(
            ("confirmation-needed", 1)
        );

        // Nothing that a rule files or has filed comes under it, by whatever way.
        (await SaveDraftAsync(id, Product.Definition())).Status.ShouldBe(HttpStatusCode.OK);
        var rule = await ines.PostOk(
            "filing-rules",
            new
            {
                name = "Ramps",
                seriesId = id,
                definition = new { query = "text = ramp", kinds = Array.Empty<object>() },
                priority = 1,
            }
        );
        var ruleId = rule.GetProperty("id").GetInt64();
        var shownByRule = Fingerprint(await ines.PostOk($"filing-rules/{ruleId}/consequences", new { }));
        (
            await ines.Post(
                $"filing-rules/{ruleId}/activation",
                new { fingerprint = shownByRule, why = "it works" },
                rule.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();
        var inForce = await SaveDraftAsync(id, worm);
        (inForce.Problem, inForce.Body.GetProperty("title").GetString()!).ShouldBe(
            (
                "rule-files-worm",
                "The filing rule “Ramps” files under VES-010. Nothing comes under WORM by conditions; stop the rule first."
            )
        );
        rule = (await ines.GetOk("filing-rules"))[0];
        (
            await ines.Post($"filing-rules/{ruleId}/stop", new { why = "x" }, rule.GetProperty("revision").GetInt64())
        ).Status.ShouldBe(HttpStatusCode.OK);
        var filed = await SaveDraftAsync(id, worm);
        (filed.Problem, filed.Body.GetProperty("title").GetString()!).ShouldBe(
            (
                "rule-files-worm",
                "1 of its items was filed by a rule. Nothing comes under WORM by conditions; file it by hand "
                    + "first, under another series and back."
            )
        );

        // A default and a successor bring items under it too.
        var other = await product.SeriesInForceAsync(ines, "VES-020", "Fleet", [], worm);
        (
            await ines.Put(
                "filing-defaults",
                new
                {
                    containerId = containers["Fleet"],
                    folder = "",
                    seriesId = other,
                },
                null
            )
        ).Problem.ShouldBe("confirmation-needed");
        (await ines.GetOk("filing-defaults")).GetArrayLength().ShouldBe(0);
        (
            await ines.Put(
                "filing-defaults",
                new
                {
                    containerId = containers["Fleet"],
                    folder = "",
                    seriesId = other,
                    confirmed = true,
                },
                null
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await ines.Post($"series/{id}/retirement/consequences", new { successorId = other })).Problem.ShouldBe(
            "confirmation-needed"
        );
    }

    private async Task<Answer> SaveDraftAsync(long id, object definition) =>
        await ines.Put(
            $"series/{id}/draft",
            definition,
            (await ines.GetOk($"series/{id}")).GetProperty("revision").GetInt64()
        );

    [Fact]
    public async Task A_steward_is_told_nothing_of_events_covered_containers_and_defaults_of_a_sister_unit()
    {
        product.Write("Island/a.md", "2024-01-01", "a", "Subject reference: IMO1\n");
        product.Write("Northern/b.md", "2024-01-01", "b", "Subject reference: IMO2\n");
        var containers = await product.ScanAsync();
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "vessel-sold",
                title = "Vessel sold",
                description = "",
            }
        );
        foreach (var subject in new[] { "IMO1", "IMO2", "IMO3" })
        {
            await ines.PostOk(
                "trigger-events",
                new
                {
                    type = "vessel-sold",
                    subject,
                    date = "2025-01-01",
                }
            );
        }

        await product.SeriesInForceAsync(
            ines,
            "NOR-010",
            "Northern",
            [],
            Product.Definition(trigger: "event:vessel-sold")
        );
        var all = await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Fleet",
            [],
            Product.Definition(trigger: "event:vessel-sold")
        );
        foreach (var name in new[] { "Island", "Northern" })
        {
            await ines.Put(
                "filing-defaults",
                new
                {
                    containerId = containers[name],
                    folder = "",
                    seriesId = all,
                },
                null
            );
        }

        await product.BlanketInForceAsync(
            ines,
            "All",
            "Fleet",
            new
            {
                description = "",
                reach = new
                {
                    query = "container = \"*\"",
                    containers = Array.Empty<long>(),
                    except = Array.Empty<long>(),
                },
                from = "created",
                keep = "P3Y",
                destroys = false,
                destroyAfter = (string?)null,
            }
        );
        using var maren = await product.SignInAsync("maren");
        var events = await maren.GetOk("trigger-events");
        (
            events.GetProperty("total").GetInt64(),
            events.GetProperty("events")[0].GetProperty("subject").GetString()
        ).ShouldBe((1, "IMO1"));
        (await maren.GetOk("subjects/IMO2")).GetProperty("events").GetArrayLength().ShouldBe(0);
        var type = (await maren.GetOk("trigger-event-types"))[0];
        (
            type.GetProperty("events").GetInt64(),
            type.GetProperty("series")[0].GetString(),
            type.GetProperty("series").GetArrayLength()
        ).ShouldBe((1, "VES-010", 1));
        (await maren.GetOk("blankets"))[0]
            .GetProperty("covered")
            .EnumerateArray()
            .Select(c => c.GetProperty("id").GetInt64())
            .ShouldBe([containers["Island"]]);
        (await maren.GetOk("filing-defaults"))
            .EnumerateArray()
            .Select(d => d.GetProperty("container").GetString())
            .ShouldBe(["Island"]);
        (await ines.GetOk("trigger-events")).GetProperty("total").GetInt64().ShouldBe(3);
    }

    [Fact]
    public async Task What_a_filing_rule_finds_by_its_sensitive_kind_is_told_to_nobody_who_may_not_know_where_that_lies()
    {
        product.Write("Island/pay.md", "2024-01-01", "Pay to GB82 WEST 1234 5698 7654 32");
        await product.ScanAsync();
        var series = await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition());
        await ines.PostOk(
            "filing-rules",
            new
            {
                name = "Pay",
                seriesId = series,
                definition = new
                {
                    query = (string?)null,
                    kinds = new[]
                    {
                        new
                        {
                            kind = "iban",
                            least = "certain",
                            count = 1,
                        },
                    },
                },
                priority = 1,
            }
        );
        await ines.PostOk(
            "filing-rules",
            new
            {
                name = "Asked",
                seriesId = series,
                definition = new { query = "text = pay and sensitive = iban", kinds = Array.Empty<object>() },
                priority = 2,
            }
        );
        using var maren = await product.SignInAsync("maren");
        using var pia = await product.SignInAsync("pia");
        (await maren.GetOk("filing-rules"))
            .EnumerateArray()
            .Select(r => r.GetProperty("matches").GetInt64())
            .ShouldBe([1, 1]);
        (await pia.GetOk("filing-rules"))
            .EnumerateArray()
            .Select(r => r.GetProperty("matches").ValueKind)
            .ShouldBe([JsonValueKind.Null, JsonValueKind.Null]);
        (await pia.GetOk("filing-rules/clashes")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_filing_rule_is_tried_on_samples_then_files_what_exists_and_what_arrives_but_never_over_a_hand()
    {
        product.Write("Fleet/ramp.md", "2024-01-01", "ramp repaired");
        product.Write("Fleet/hand.md", "2024-01-01", "ramp filed by hand");
        product.Write("Fleet/other.md", "2024-01-01", "nothing of it");
        var containers = await product.ScanAsync();
        var ramps = await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition("Ramps"));
        var hands = await product.SeriesInForceAsync(ines, "VES-020", "Fleet", [], Product.Definition("Hands"));
        var hand = (await ines.GetOk("items?cql=text%3Dhand")).GetProperty("items")[0].GetProperty("id").GetInt64();
        var filing = new { selection = new { ids = new[] { hand } }, seriesId = hands };
        await ines.PostOk(
            "filings",
            new
            {
                filing.selection,
                filing.seriesId,
                fingerprint = Fingerprint(await ines.PostOk("filings/consequences", filing)),
            }
        );

        var made = await ines.PostOk(
            "filing-rules",
            new
            {
                name = "Ramps",
                seriesId = ramps,
                definition = new { query = "text = ramp", kinds = Array.Empty<object>() },
                priority = 5,
            }
        );
        var id = made.GetProperty("id").GetInt64();
        (made.GetProperty("state").GetString(), made.GetProperty("matches").GetInt64()).ShouldBe(("trial", 1));
        var sample = (await ines.GetOk($"filing-rules/{id}/samples"))[0].GetProperty("item");
        sample.GetProperty("found").GetProperty("snippetMarks").GetArrayLength().ShouldBe(1);
        var judged = (
            await ines.Put(
                $"filing-rules/{id}/samples/{sample.GetProperty("id").GetInt64()}",
                new { right = true },
                null
            )
        ).Body.GetProperty("precision");
        (judged.GetProperty("right").GetInt32(), judged.GetProperty("share").GetDouble()).ShouldBe((1, 1));
        (await ines.GetOk("items?unfiled=true")).GetProperty("total").GetInt64().ShouldBe(2);

        var consequences = await ines.PostOk($"filing-rules/{id}/consequences", new { });
        Count(consequences, "inReach").ShouldBe(1);
        (await ines.PostOk($"filing-rules/{id}/consequences/all", new { }))
            .GetProperty("items")[0]
            .GetProperty("path")
            .GetString()
            .ShouldBe("Fleet/ramp.md");
        (
            await ines.Post(
                $"filing-rules/{id}/activation",
                new { fingerprint = Fingerprint(consequences), why = "it works" },
                made.GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();
        product.Write("Fleet/later.md", "2024-01-01", "another ramp");
        await product.ScanAsync();
        (await SeriesOfAsync()).ShouldBe(
            new Dictionary<string, string?>
            {
                ["Fleet/ramp.md"] = "VES-010",
                ["Fleet/later.md"] = "VES-010",
                ["Fleet/hand.md"] = "VES-020",
                ["Fleet/other.md"] = null,
            },
            ignoreOrder: true
        );
        (await ines.GetOk($"items?filingRule={id}"))
            .GetProperty("items")
            .EnumerateArray()
            .Select(i => i.GetProperty("path").GetString())
            .ShouldBe(["Fleet/ramp.md", "Fleet/later.md"], ignoreOrder: true);

        // A rule of higher priority takes over what the lower one filed; the clash is listed before that.
        var higher = await ines.PostOk(
            "filing-rules",
            new
            {
                name = "Repairs",
                seriesId = hands,
                definition = new { query = "text = repaired", kinds = Array.Empty<object>() },
                priority = 9,
            }
        );
        var clash = (await ines.GetOk("filing-rules/clashes"))[0];
        (clash.GetProperty("winner").GetString(), clash.GetProperty("items").GetInt64()).ShouldBe(("Repairs", 1));
        var shown = await ines.PostOk($"filing-rules/{higher.GetProperty("id").GetInt64()}/consequences", new { });
        await ines.Post(
            $"filing-rules/{higher.GetProperty("id").GetInt64()}/activation",
            new { fingerprint = Fingerprint(shown), why = "x" },
            1
        );
        await ines.WaitForJobsAsync();
        (await SeriesOfAsync())["Fleet/ramp.md"].ShouldBe("VES-020");
        // Both are active now and the winner has filed it: the clash is no less one.
        (await ines.GetOk("filing-rules/clashes"))[0]
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(1);
    }

    [Fact]
    public async Task What_arrives_in_a_folder_is_filed_under_the_default_of_its_deepest_folder()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        var containers = await product.ScanAsync();
        var all = await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition("All"));
        var logs = await product.SeriesInForceAsync(ines, "VES-020", "Fleet", [], Product.Definition("Logs"));
        foreach (var (folder, seriesId) in new[] { ("", all), ("2026/logs", logs) })
        {
            (
                await ines.Put(
                    "filing-defaults",
                    new
                    {
                        containerId = containers["Fleet"],
                        folder,
                        seriesId,
                    },
                    null
                )
            ).Status.ShouldBe(HttpStatusCode.OK);
        }

        product.Write("Fleet/2026/b.md", "2024-01-01", "b");
        product.Write("Fleet/2026/logs/deep/c.md", "2024-01-01", "c");
        product.Write("Fleet/2026/logs2/d.md", "2024-01-01", "d");
        await product.ScanAsync();
        (await SeriesOfAsync()).ShouldBe(
            new Dictionary<string, string?>
            {
                ["Fleet/a.md"] = null,
                ["Fleet/2026/b.md"] = "VES-010",
                ["Fleet/2026/logs/deep/c.md"] = "VES-020",
                ["Fleet/2026/logs2/d.md"] = "VES-010",
            },
            ignoreOrder: true
        );
    }

    [Fact]
    public async Task Five_thousand_rows_edited_in_twelve_places_come_back_with_exactly_twelve_differences()
    {
        var rows = Enumerable
            .Range(1, 5_000)
            .Select(i =>
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"S-{i:0000},Series {i},Tarn Lines / Fleet,Vessels,P7Y created fiscal,recordsManager"
                )
            );
        var first = string.Join("\r\n", rows.Prepend("code,title,unit,function,clauses,stages"))
            .Replace("recordsManager", "records-manager; records-manager", StringComparison.Ordinal);
        var preview = await ines.PostOk("schedule/return", new { csv = first });
        preview.GetProperty("added").GetArrayLength().ShouldBe(5_000);
        (
            await ines.PostOk(
                "schedule/return",
                new { csv = first, fingerprint = Fingerprint(preview.GetProperty("consequences")) }
            )
        )
            .GetProperty("applied")
            .GetBoolean()
            .ShouldBeTrue();

        var sheet = (await ines.SendAsync(HttpMethod.Get, "schedule.csv", null, null)).Text!;
        (await ines.PostOk("schedule/return", new { csv = sheet })).GetProperty("unchanged").GetInt32().ShouldBe(5_000);
        var lines = sheet.Split("\r\n");
        for (var i = 1; i <= 12; i++)
        {
            lines[i * 400] =
                i % 2 == 0
                    ? lines[i * 400].Replace("P7Y", "P8Y", StringComparison.Ordinal)
                    : lines[i * 400].Replace("Vessels", "Ships", StringComparison.Ordinal);
        }

        var back = await ines.PostOk("schedule/return", new { csv = string.Join("\r\n", lines) });
        back.GetProperty("changed")
            .EnumerateArray()
            .SelectMany(r => r.GetProperty("changes").EnumerateArray())
            .Count()
            .ShouldBe(12);
        (
            back.GetProperty("changed").GetArrayLength(),
            back.GetProperty("unchanged").GetInt32(),
            back.GetProperty("added").GetArrayLength()
        ).ShouldBe((12, 4_988, 0));
    }

    [Fact]
    public async Task A_sheet_with_a_wrong_line_or_a_row_that_somebody_else_changed_writes_nothing()
    {
        await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition("=Reports"));
        var id = await product.SeriesInForceAsync(ines, "VES-020", "Fleet", [], Product.Definition("Logs"));
        var sheet = (await ines.SendAsync(HttpMethod.Get, "schedule.csv", null, null)).Text!;
        // What a spreadsheet would take for a formula goes out marked, and comes back unmarked.
        sheet.ShouldContain("'=Reports");
        (await ines.PostOk("schedule/return", new { csv = sheet })).GetProperty("unchanged").GetInt32().ShouldBe(2);

        var wrong = sheet.Replace("P5Y created", "five years", StringComparison.Ordinal);
        var refused = (await ines.PostOk("schedule/return", new { csv = wrong }))
            .GetProperty("refused")
            .EnumerateArray()
            .ToList();
        refused
            .Select(r => (r.GetProperty("line").GetInt32(), r.GetProperty("column").GetString()))
            .ShouldBe([(2, "clauses"), (3, "clauses")]);
        (await ines.Post("schedule/return", new { csv = "code,colour\nVES-010,red\n" })).Problem.ShouldBe(
            "sheet-column"
        );
        (await ines.Post("schedule/return", new { xlsx = "bm8gc3ByZWFkc2hlZXQ=" })).Problem.ShouldBe(
            "sheet-unreadable"
        );

        var revision = (await tobias.GetOk($"series/{id}")).GetProperty("revision").GetInt64();
        await tobias.Put($"series/{id}/draft", Product.Definition("Deck logs"), revision);
        var conflict = await ines.PostOk(
            "schedule/return",
            new { csv = sheet.Replace("Logs", "Log books", StringComparison.Ordinal) }
        );
        conflict.GetProperty("applied").GetBoolean().ShouldBeFalse();
        var cell = conflict.GetProperty("conflicts")[0].GetProperty("theirs")[0];
        (
            cell.GetProperty("column").GetString(),
            cell.GetProperty("before").GetString(),
            cell.GetProperty("after").GetString()
        ).ShouldBe(("title", "Deck logs", "Log books"));
    }

    [Fact]
    public async Task All_drafts_are_shown_together_and_put_into_effect_together()
    {
        product.Write("Fleet/a.md", "2015-01-01", "a");
        product.Write("Island/b.md", "2015-01-01", "b");
        var containers = await product.ScanAsync();
        await ines.PostOk(
            "series",
            new
            {
                code = "VES-010",
                unitId = product.Units["Fleet"],
                draft = Product.Definition(),
            }
        );
        var series = (await ines.GetOk("series/names"))[0].GetProperty("id").GetInt64();
        var filing = new { selection = new { container = new[] { containers["Fleet"] } }, seriesId = series };
        await ines.PostOk(
            "filings",
            new
            {
                filing.selection,
                filing.seriesId,
                fingerprint = Fingerprint(await ines.PostOk("filings/consequences", filing)),
            }
        );
        await ines.PostOk(
            "blankets",
            new
            {
                name = "Island",
                unitId = product.Units["Island"],
                draft = new
                {
                    description = "",
                    reach = new
                    {
                        query = (string?)null,
                        containers = new[] { containers["Island"] },
                        except = Array.Empty<long>(),
                    },
                    from = "created",
                    keep = "P20Y",
                    destroys = false,
                    destroyAfter = (string?)null,
                },
            }
        );
        var drafts = await ines.GetOk("schedule/drafts");
        drafts.GetProperty("drafts").GetArrayLength().ShouldBe(2);
        (
            Count(drafts.GetProperty("consequences"), "becomeDue"),
            Count(drafts.GetProperty("consequences"), "newlyUnderRule")
        ).ShouldBe((1, 2));
        (await ines.GetOk("schedule/drafts/becomesDue")).GetProperty("total").GetInt64().ShouldBe(1);
        (await ines.Post("schedule/adoption", new { fingerprint = "stale", why = "x" })).Problem.ShouldBe(
            "consequences-changed"
        );
        await ines.PostOk(
            "schedule/adoption",
            new { fingerprint = Fingerprint(drafts.GetProperty("consequences")), why = "the new schedule" }
        );
        await ines.WaitForJobsAsync();
        var kept = await KeepUntilAsync();
        (kept["Fleet/a.md"], kept["Island/b.md"]).ShouldBe(("2020-01-01", "2035-01-01"));
        (await ines.GetOk("schedule/drafts")).GetProperty("drafts").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_retired_series_takes_nothing_new_and_leaves_its_items_or_hands_them_on()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        var containers = await product.ScanAsync();
        var old = await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition()
        );
        var heir = await product.SeriesInForceAsync(ines, "VES-020", "Fleet", [], Product.Definition(period: "P9Y"));
        var preview = await ines.PostOk($"series/{old}/retirement/consequences", new { successorId = heir });
        (Count(preview, "inReach"), Count(preview, "later")).ShouldBe((1, 1));
        (await ines.PostOk($"series/{old}/retirement/consequences/later", new { successorId = heir }))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(1);
        var revision = (await ines.GetOk($"series/{old}")).GetProperty("revision").GetInt64();
        (
            await ines.Post(
                $"series/{old}/retirement",
                new
                {
                    successorId = heir,
                    fingerprint = Fingerprint(preview),
                    why = "merged",
                },
                revision
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await SeriesOfAsync())["Fleet/a.md"].ShouldBe("VES-020");
        (await ines.Post("filings/consequences", new { selection = new { }, seriesId = old })).Problem.ShouldBe(
            "series-retired"
        );
        (await ines.Put($"series/{old}/draft", Product.Definition(), revision + 1)).Problem.ShouldBe("series-retired");
    }

    [Fact]
    public async Task Health_names_what_is_wrong_and_leads_to_it()
    {
        product.Write("Fleet/old.md", "2015-01-01", "a", "Subject reference: X\n");
        product.Write("Northern/n.md", "2015-01-01", "n");
        var containers = await product.ScanAsync();
        await ines.PostOk("authorities/library", new { });
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "claim-settled",
                title = "Claim settled",
                description = "",
            }
        );
        await product.SeriesInForceAsync(
            ines,
            "CLM-010",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition(trigger: "event:claim-settled")
        );
        await product.SeriesInForceAsync(
            ines,
            "SAF-030",
            "Fleet",
            [],
            Product.Definition("Garbage", trigger: "field:last-entry", period: "P1Y", authorities: ["MARPOL V/10"])
        );
        var lines = (await ines.GetOk("schedule/health"))
            .EnumerateArray()
            .ToDictionary(l => l.GetProperty("key").GetString()!);
        lines["short"].GetProperty("rows")[0].GetProperty("note").GetString().ShouldBe("MARPOL V/10: short by 1 year");
        lines["no-authority"].GetProperty("count").GetInt32().ShouldBe(1);
        lines["no-owner"].GetProperty("count").GetInt32().ShouldBe(2);
        lines["no-items"].GetProperty("rows")[0].GetProperty("title").GetString()!.ShouldStartWith("SAF-030");
        lines["never-fired"].GetProperty("rows")[0].GetProperty("title").GetString().ShouldBe("Claim settled");
        lines["waiting"].GetProperty("count").GetInt32().ShouldBe(1);
        lines["no-rule"].GetProperty("rows")[0].GetProperty("title").GetString().ShouldBe("Northern");
        lines["no-signer"].GetProperty("count").GetInt32().ShouldBe(0);
        // Each link of items finds as many as the line counts.
        (await ines.GetOk($"items?{lines["waiting"].GetProperty("link").GetString()!.Split('?')[1]}"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(1);
        (await ines.GetOk("items?state=noRule"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(lines["no-rule"].GetProperty("count").GetInt64());
    }

    [Fact]
    public async Task Another_fiscal_year_moves_the_cutoffs_of_every_item_after_it_was_shown()
    {
        product.Write("Fleet/a.md", "2024-05-01", "a");
        var containers = await product.ScanAsync();
        await product.SeriesInForceAsync(
            ines,
            "VES-010",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition(cutoff: "fiscal")
        );
        (await KeepUntilAsync())["Fleet/a.md"].ShouldBe("2029-09-30");
        var change = new
        {
            name = "Tarn Lines",
            zone = "Etc/UTC",
            fiscalYearEnd = "04-05",
        };
        var preview = await ines.PostOk("settings/consequences", change);
        Count(preview, "later").ShouldBe(1);
        (await ines.PostOk("settings/consequences/later", change)).GetProperty("total").GetInt64().ShouldBe(1);
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.PostOk("settings/consequences", change))
            .GetProperty("figures")
            .GetProperty("later")
            .GetProperty("items")
            .GetInt32()
            .ShouldBe(1);
        (await jonas.Post("settings/consequences/later", change)).Problem.ShouldBe("not-allowed");
        (
            await ines.Put(
                "settings",
                new
                {
                    change.name,
                    change.zone,
                    change.fiscalYearEnd,
                    fingerprint = Fingerprint(preview),
                },
                null
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await KeepUntilAsync())["Fleet/a.md"].ShouldBe("2030-04-05");
        (
            await ines.Post(
                "settings/consequences",
                new
                {
                    change.name,
                    zone = "Moon/Crater",
                    change.fiscalYearEnd,
                }
            )
        ).Problem.ShouldBe("zone-unknown");

        // Where a series counts declared records by it, another year's end would shorten some of their terms in
        // passing.
        await product.SeriesInForceAsync(
            ines,
            "VES-020",
            "Fleet",
            [],
            Product.Definition(cutoff: "fiscal", grade: "declared")
        );
        (
            await ines.Post(
                "settings/consequences",
                new
                {
                    change.name,
                    change.zone,
                    fiscalYearEnd = "06-30",
                }
            )
        ).Problem.ShouldBe("ratchet");
    }

    private async Task<Dictionary<string, string?>> SeriesOfAsync() =>
        (await ines.GetOk("items?limit=500"))
            .GetProperty("items")
            .EnumerateArray()
            .ToDictionary(
                i => i.GetProperty("path").GetString()!,
                i =>
                    i.GetProperty("series").ValueKind == JsonValueKind.Null
                        ? null
                        : i.GetProperty("series").GetProperty("code").GetString()
            );
}
