using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Server.Content;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Tests;

/// <summary>Things that stand in two places and must say the same.</summary>
public class ConsistencyTests
{
    [Fact]
    public async Task The_description_in_the_repository_is_the_one_that_the_server_gives()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using var http = new HttpClient();
        var served = await http.GetStringAsync(
            new Uri(product.Address, "/openapi/v1.json"),
            TestContext.Current.CancellationToken
        );
        var kept = await File.ReadAllTextAsync(
            Path.Combine(Repository.Root, "docs", "openapi.json"),
            TestContext.Current.CancellationToken
        );
        JsonElement
            .DeepEquals(JsonDocument.Parse(served).RootElement, JsonDocument.Parse(kept).RootElement)
            .ShouldBeTrue(
                "docs/openapi.json is stale: run “widekeel openapi docs/openapi.json” and build the interface anew."
            );
    }

    [Fact]
    public async Task The_state_in_lists_counts_on_the_page_and_from_the_command_line_is_the_engine_s_for_every_item()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var year = 2005; year <= 2026; year++)
        {
            product.Write(
                $"Fleet/{year}.md",
                $"{year}-03-01",
                $"{year}",
                year % 3 == 0 ? "" : $"Closed: {year + 1}-02-28\n"
            );
            product.Write($"Island/{year}.md", $"{year}-03-01", $"i{year}");
            product.Write(
                $"Northern/{year}.md",
                $"{year}-03-01",
                $"n{year}",
                year % 2 == 0 ? "Subject reference: IMO1\n" : "Subject reference: IMO2\n"
            );
        }

        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        var fleet = await product.SeriesInForceAsync(
            ines,
            "VES-030",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition(trigger: "field:closed", cutoff: "fiscal", period: "P7Y")
        );
        await ines.PostOk("batches", new { seriesId = fleet });

        // Every kind of rule at once: two clauses and an event, a grade that runs out, blankets that keep, destroy, and
        // lack nothing.
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "vessel-sold",
                title = "Vessel sold",
                description = "",
            }
        );
        await ines.PostOk(
            "trigger-events",
            new
            {
                type = "vessel-sold",
                subject = "IMO1",
                date = "2015-05-01",
            }
        );
        await product.SeriesInForceAsync(
            ines,
            "VES-050",
            "Northern",
            [containers["Northern"]],
            Product.Definition(
                grade: "declared",
                atEnd: "nothing",
                clauses:
                [
                    new
                    {
                        trigger = "created",
                        cutoff = "year",
                        period = "P3Y",
                    },
                    new
                    {
                        trigger = "event:vessel-sold",
                        cutoff = "none",
                        period = "P6Y",
                    },
                ]
            )
        );
        await product.BlanketInForceAsync(
            ines,
            "Scratch",
            "Tarn Lines",
            new
            {
                description = "",
                reach = new
                {
                    query = "unit = Island",
                    containers = Array.Empty<long>(),
                    except = Array.Empty<long>(),
                },
                from = "created",
                keep = (string?)null,
                destroys = true,
                destroyAfter = "P10Y",
            }
        );
        await product.BlanketInForceAsync(
            ines,
            "All of it",
            "Tarn Lines",
            new
            {
                description = "",
                reach = new
                {
                    query = (string?)null,
                    containers = containers.Values,
                    except = new[] { containers["Fleet"], containers["Island"] },
                },
                from = "created",
                keep = "P4Y",
                destroys = false,
                destroyAfter = (string?)null,
            }
        );
        product.Clock.Advance(Duration.FromDays(400));

        await using var db = product.Database();
        var calendar = (OrganisationCalendar)product.Services.GetService(typeof(OrganisationCalendar))!;
        var items = await db.Items.AsNoTracking().ToListAsync(TestContext.Current.CancellationToken);
        var dates = (await db.ItemDates.AsNoTracking().ToListAsync(TestContext.Current.CancellationToken)).ToLookup(d =>
            d.ItemId
        );
        items.Count.ShouldBe(66);

        // Every fifth is held, every tenth by a hold whose delay has passed, which protects no longer.
        foreach (var item in items.Where(i => i.Id % 5 == 0))
        {
            db.HoldItems.Add(
                new()
                {
                    ItemId = item.Id,
                    OrderId = 1,
                    Until =
                        item.Id % 10 == 0 ? calendar.Today.PlusDays(-1)
                        : item.Id % 15 == 0 ? calendar.Today
                        : null,
                }
            );
        }

        await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        var held = items.Where(i => i.Id % 10 == 5).Select(i => i.Id).ToHashSet();
        var ruling = await Ruling.LoadAsync(db, calendar.Evaluator);
        Dictionary<string, (string, string?, string?, string)> told = [];
        foreach (var item in items)
        {
            var standing = ruling.Evaluator.Evaluate(
                ruling.RuleOf(item.SeriesId),
                ruling.BlanketsOf(item.ContainerId),
                ItemEndpoints.FactsOf(item, ruling, dates[item.Id])
            );
            (item.KeepUntil, item.DisposableFrom, item.AtEnd, item.OwnGrade, item.OwnGradeUntil).ShouldBe(
                (
                    standing.KeepUntil.Code,
                    standing.DisposableFrom,
                    standing.AtEnd,
                    standing.OwnGrade,
                    standing.OwnGradeUntil.Code
                )
            );
            var expected =
                held.Contains(item.Id) ? ItemState.Held
                : item.BatchId is not null ? ItemState.OnDocket
                : standing.State;
            ItemEndpoints.StateOf(item, calendar.Today, held.Contains(item.Id)).ShouldBe(expected);
            var word = char.ToLowerInvariant(expected.ToString()[0]) + expected.ToString()[1..];
            (await ines.GetOk($"items?state={word}&ids={item.Id}"))
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(1, item.Path);
            var detail = await ines.GetOk($"items/{item.Id}");
            detail.GetProperty("item").GetProperty("state").GetString().ShouldBe(word);
            detail.GetProperty("standing").GetString()!.ShouldMatch(@"^[A-Z].*[a-z0-9]\.$");
            var grade = (
                held.Contains(item.Id) && standing.GradeOn(calendar.Today) == Grade.None
                    ? Grade.Kept
                    : standing.GradeOn(calendar.Today)
            )
                .ToString()
                .ToLowerInvariant();
            detail.GetProperty("grade").GetString().ShouldBe(grade);
            (await ines.GetOk($"items?cql={Uri.EscapeDataString($"grade = {grade}")}&ids={item.Id}"))
                .GetProperty("total")
                .GetInt64()
                .ShouldBe(1, item.Path);
            var winner = detail
                .GetProperty("reasons")
                .EnumerateArray()
                .FirstOrDefault(r => r.GetProperty("won").GetBoolean());
            (
                winner.ValueKind == System.Text.Json.JsonValueKind.Undefined
                    ? null
                    : winner.GetProperty("keepUntil").GetString()
            ).ShouldBe(standing.KeepUntil.Text);
            // The command line knows no docket: what lies there is due.
            var tideline = detail.GetProperty("item").GetProperty("tideline");
            told[$"{item.Id}"] = (
                expected == ItemState.OnDocket ? "due" : expected.Word().ToLowerInvariant().Replace(' ', '-'),
                tideline.GetProperty("keepUntil").GetString(),
                tideline.GetProperty("disposableFrom").GetString(),
                grade
            );
        }

        foreach (var (id, line) in await EvaluatedAsync(items, dates, held, calendar.Today))
        {
            (
                line.GetProperty("state").GetString(),
                line.GetProperty("keepUntil").GetString(),
                line.GetProperty("disposableFrom").GetString(),
                line.GetProperty("grade").GetString()
            ).ShouldBe(told[id], id);
        }

        // A change that changes nothing: consequences count what lists count.
        var same = await ines.PostOk(
            "filings/consequences",
            new
            {
                selection = new { container = new[] { containers["Northern"] } },
                seriesId = items.First(i => i.ContainerId == containers["Northern"]).SeriesId,
            }
        );
        same.GetProperty("figures").GetProperty("unchanged").GetProperty("items").GetInt64().ShouldBe(22);
        same.GetProperty("figures")
            .GetProperty("dueBefore")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(
                (await ines.GetOk($"items?state=due&container={containers["Northern"]}"))
                    .GetProperty("total")
                    .GetInt64()
            );

        var facet = (await ines.GetOk("items/facets"))
            .EnumerateArray()
            .Single(f => f.GetProperty("name").GetString() == "state")
            .GetProperty("values")
            .EnumerateArray();
        facet.Sum(v => v.GetProperty("count").GetInt64()).ShouldBe(66);
    }

    [Fact]
    public async Task Each_value_of_each_facet_counts_what_choosing_it_finds()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var i = 0; i < 30; i++)
        {
            product.Write(
                $"{(i % 3 == 0 ? "Fleet" : i % 3 == 1 ? "Island" : "Northern")}/{i}.{(i % 2 == 0 ? "md" : "txt")}",
                $"{2015 + (i % 4)}-0{1 + (i % 9)}-01",
                i % 5 == 0 ? new string('x', 12_000) : "pier"
            );
        }

        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        await product.SeriesInForceAsync(ines, "ISL-010", "Island", [containers["Island"]], Product.Definition());
        foreach (var already in new[] { "", "&cql=pier", "&type=md" })
        {
            var facets = (await ines.GetOk($"items/facets?{already.TrimStart('&')}"))
                .EnumerateArray()
                .ToDictionary(
                    f => f.GetProperty("name").GetString()!,
                    f => f.GetProperty("values").EnumerateArray().ToList()
                );
            facets.Keys.ShouldBeSubsetOf([
                "state",
                "series",
                "source",
                "container",
                "unit",
                "type",
                "searchable",
                "owner",
                "year",
                "size",
                "kind",
            ]);
            foreach (var name in new[] { "state", "source", "container", "unit", "year", "size" })
            {
                // No two of these stand beside each other on one item, so together they are all of them.
                facets[name]
                    .Sum(v => v.GetProperty("count").GetInt64())
                    .ShouldBe((await ines.GetOk($"items?limit=1{already}")).GetProperty("total").GetInt64(), name);
                foreach (var value in facets[name])
                {
                    var chosen = await ines.GetOk(
                        $"items?{name}={Uri.EscapeDataString(value.GetProperty("value").GetString()!)}{already}"
                    );
                    chosen
                        .GetProperty("total")
                        .GetInt64()
                        .ShouldBe(value.GetProperty("count").GetInt64(), $"{name} {value} {already}");
                }
            }

            facets["unit"]
                .Select(v => v.GetProperty("label").GetString())
                .Order()
                .ShouldBe(["Fleet", "Island", "Northern"]);
            facets["source"].Select(v => v.GetProperty("label").GetString()).ShouldBe(["Share"]);
            facets["year"]
                .Select(v => v.GetProperty("value").GetString())
                .Order()
                .ShouldBe(already == "&type=md" ? ["2015", "2017"] : ["2015", "2016", "2017", "2018"]);
        }
    }

    [Fact]
    public async Task Paging_through_a_list_gives_every_item_once_in_every_order()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var i = 0; i < 45; i++)
        {
            product.Write($"Fleet/{i % 7} {i}.md", $"20{10 + (i % 9)}-01-01", new string('x', i % 5));
        }

        await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        foreach (
            var sort in new[]
            {
                "title",
                "-title",
                "created",
                "-created",
                "bytes",
                "-bytes",
                "path",
                "due",
                "-due",
                "modified",
                "-modified",
            }
        )
        {
            List<long> seen = [];
            string? cursor = null;
            do
            {
                var page = await ines.GetOk($"items?sort={sort}&limit=10{(cursor is null ? "" : $"&cursor={cursor}")}");
                seen.AddRange(page.GetProperty("items").EnumerateArray().Select(i => i.GetProperty("id").GetInt64()));
                cursor = page.GetProperty("next").GetString();
            } while (cursor is not null);
            seen.Distinct().Count().ShouldBe(45, sort);
            seen.Count.ShouldBe(45, sort);
        }
    }

    /// <summary>
    /// The same items under the same rules by <c>widekeel evaluate</c>, which knows neither database nor server.
    /// </summary>
    private static async Task<Dictionary<string, JsonElement>> EvaluatedAsync(
        IReadOnlyList<Item> items,
        ILookup<long, ItemDate> dates,
        HashSet<long> held,
        LocalDate today
    )
    {
        var folder = Directory.CreateTempSubdirectory("widekeel-evaluate-").FullName;
        try
        {
            var schedule = Path.Combine(folder, "schedule.json");
            var events = Path.Combine(folder, "events.jsonl");
            await File.WriteAllTextAsync(
                schedule,
                JsonSerializer.Serialize(
                    new
                    {
                        fiscalYearEnd = "09-30",
                        series = new object[]
                        {
                            new
                            {
                                code = "VES-030",
                                grade = "kept",
                                atEnd = "signoff",
                                permanent = false,
                                join = "later",
                                clauses = new[]
                                {
                                    new
                                    {
                                        trigger = "field:closed",
                                        cutoff = "fiscal",
                                        period = "P7Y",
                                    },
                                },
                            },
                            new
                            {
                                code = "VES-050",
                                grade = "declared",
                                atEnd = "nothing",
                                permanent = false,
                                join = "later",
                                clauses = new[]
                                {
                                    new
                                    {
                                        trigger = "created",
                                        cutoff = "year",
                                        period = "P3Y",
                                    },
                                    new
                                    {
                                        trigger = "event:vessel-sold",
                                        cutoff = "none",
                                        period = "P6Y",
                                    },
                                },
                            },
                        },
                        blankets = new object[]
                        {
                            new
                            {
                                name = "Scratch",
                                containers = new[] { "Share/Island" },
                                except = Array.Empty<string>(),
                                from = "created",
                                keep = (string?)null,
                                then = "destroy",
                                destroyAfter = "P10Y",
                            },
                            new
                            {
                                name = "All of it",
                                containers = new[] { "Share/*" },
                                except = new[] { "Share/Fleet", "Share/Island" },
                                from = "created",
                                keep = "P4Y",
                                then = "nothing",
                            },
                        },
                        holds = new[]
                        {
                            new
                            {
                                name = "M-1/1",
                                containers = Array.Empty<string>(),
                                items = held.Select(i => $"{i}"),
                                query = (string?)null,
                            },
                        },
                    }
                ),
                TestContext.Current.CancellationToken
            );
            await File.WriteAllTextAsync(
                events,
                """{"type":"vessel-sold","subject":"IMO1","date":"2015-05-01","revoked":false}""",
                TestContext.Current.CancellationToken
            );
            var lines = items.Select(i =>
                JsonSerializer.Serialize(
                    new
                    {
                        id = $"{i.Id}",
                        container = $"Share/{i.Path.Split('/')[0]}",
                        series = i.Path.Split('/')[0] switch
                        {
                            "Fleet" => "VES-030",
                            "Northern" => "VES-050",
                            _ => null,
                        },
                        created = Iso(i.Created),
                        modified = Iso(i.Modified),
                        filed = i.FiledOn is { } on ? Iso(on) : null,
                        subject = i.Subject,
                        fields = dates[i.Id].ToDictionary(d => d.Name, d => Iso(d.Date)),
                    }
                )
            );
            await using var output = new StringWriter();
            await using var errors = new StringWriter();
            var code = await new Server.CommandLine.PipelineVerbs(
                new StringReader(string.Join('\n', lines)),
                output,
                errors
            ).RunAsync(["evaluate", "--schedule", schedule, "--items", "-", "--events", events, "--as-of", Iso(today)]);
            (code, errors.ToString()).ShouldBe((0, ""));
            return output
                .ToString()
                .Split('\n', StringSplitOptions.RemoveEmptyEntries)
                .Select(l => JsonDocument.Parse(l).RootElement)
                .ToDictionary(l => l.GetProperty("id").GetString()!);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }

        static string Iso(LocalDate date) => NodaTime.Text.LocalDatePattern.Iso.Format(date);
    }
}
