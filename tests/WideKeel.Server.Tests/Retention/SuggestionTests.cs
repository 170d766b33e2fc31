using System.Net;
using System.Text.Json;
using Shouldly;

namespace WideKeel.Server.Tests.Retention;

/// <summary>What is suggested for items that nobody filed.</summary>
public sealed class SuggestionTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
    }

    public async ValueTask DisposeAsync()
    {
        ines.Dispose();
        await product.DisposeAsync();
    }

    [Fact]
    public async Task Learns_from_filing_by_hand_and_suggests_within_the_unit_of_a_series_with_words_that_hide_nothing()
    {
        string[] things = ["paint", "bearings", "fuel", "ramps", "ropes", "lamps"];
        for (var i = 0; i < things.Length; i++)
        {
            product.Write($"Island/invoices/{i}.md", "2024-01-01", $"Invoice for {things[i]}, please pay to the bank.");
            product.Write($"Island/permits/{i}.md", "2024-01-01", $"The harbour grants a berth, with {things[i]}.");
        }

        product.Write(
            "Island/new/a.md",
            "2025-01-01",
            "Please pay this invoice for buoys to the bank.\nP<NORHAUGEN<<LARS<<<<<<<<<<<<<<<<<<<<<<<<<<<<\n"
                + "T100011111NOR9001011M3001012<<<<<<<<<<<<<<04"
        );
        product.Write("Northern/b.md", "2025-01-01", "Please pay this invoice for buoys to the bank.");
        var containers = await product.ScanAsync();
        var invoices = await FiledAsync("ISL-010", "Invoices", "path = \"*invoices*\"", containers["Island"]);
        await FiledAsync("ISL-020", "Permits", "path = \"*permits*\"", containers["Island"]);
        (await ines.GetOk("filing-suggestions")).GetProperty("learntAt").ValueKind.ShouldBe(JsonValueKind.Null);
        await ines.PostOk("filing-suggestions/learning", new { });
        await ines.WaitForJobsAsync();

        var view = await ines.GetOk("filing-suggestions");
        view.GetProperty("examples").GetInt32().ShouldBe(12);
        var learnt = view.GetProperty("learnt")
            .EnumerateArray()
            .Single(l => l.GetProperty("series").GetProperty("code").GetString() == "ISL-010");
        learnt.GetProperty("items").GetInt64().ShouldBe(1);
        learnt.GetProperty("found").GetProperty("right").GetInt32().ShouldBe(6);

        var listed = (await ines.GetOk($"items?suggested={invoices}")).GetProperty("items").EnumerateArray().Single();
        listed.GetProperty("path").GetString().ShouldBe("Island/new/a.md");
        var suggestion = (await ines.GetOk($"items/{listed.GetProperty("id").GetInt64()}")).GetProperty("suggestion");
        suggestion.GetProperty("series").GetProperty("code").GetString().ShouldBe("ISL-010");
        var words = suggestion.GetProperty("words").EnumerateArray().Select(w => w.GetString()!).ToList();
        words.ShouldContain("invoice");
        words.ShouldNotContain(w => w.Contains("haugen", StringComparison.OrdinalIgnoreCase));

        // The sister unit's steward sees neither the item nor that there is one; filed, it is suggested no longer.
        using var edvin = await product.SignInAsync("edvin");
        (await edvin.GetOk($"items?suggested={invoices}")).GetProperty("total").GetInt64().ShouldBe(0);
        (await edvin.GetOk("filing-suggestions")).GetProperty("learnt").GetArrayLength().ShouldBe(0);
        await FileAsync(new { suggested = new[] { invoices } }, invoices);
        (await ines.GetOk($"items?suggested={invoices}")).GetProperty("total").GetInt64().ShouldBe(0);
        (await ines.GetOk($"items/{listed.GetProperty("id").GetInt64()}"))
            .GetProperty("suggestion")
            .ValueKind.ShouldBe(JsonValueKind.Null);
    }

    [Fact]
    public async Task Content_of_a_recognised_kind_without_a_series_is_pointed_out_until_a_rule_looks_for_it()
    {
        product.Write(
            "Island/pass.md",
            "2024-01-01",
            "P<UTOERIKSSON<<ANNA<MARIA<<<<<<<<<<<<<<<<<<<\nL898902C36UTO7408122F1204159ZE184226B<<<<<10"
        );
        product.Write(
            "Northern/pass.md",
            "2024-01-01",
            "P<UTOERIKSSON<<ANNA<MARIA<<<<<<<<<<<<<<<<<<<\nL898902C36UTO7408122F1204159ZE184226B<<<<<10"
        );
        await product.ScanAsync();
        var found = (await ines.GetOk("filing-suggestions")).GetProperty("recognised").EnumerateArray().Single();
        (found.GetProperty("kind").GetString(), found.GetProperty("items").GetInt64()).ShouldBe(("passport-mrz", 2));
        var starter = found.GetProperty("starter");

        // Its starter is a definition that a series can begin with as it stands; then that series is named instead.
        await ines.PostOk("authorities/library", new { });
        var made = await ines.PostOk(
            "series",
            new
            {
                code = "PPL-010",
                unitId = product.Units["Tarn Lines"],
                draft = starter,
            }
        );
        found = (await ines.GetOk("filing-suggestions")).GetProperty("recognised").EnumerateArray().Single();
        found.GetProperty("existing").GetProperty("code").GetString().ShouldBe("PPL-010");

        using var maren = await product.SignInAsync("maren");
        (await maren.GetOk("filing-suggestions"))
            .GetProperty("recognised")[0]
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(1);
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("filing-suggestions")).GetProperty("recognised").ValueKind.ShouldBe(JsonValueKind.Null);

        await ines.PostOk(
            "filing-rules",
            new
            {
                name = "Passports",
                seriesId = made.GetProperty("row").GetProperty("id").GetInt64(),
                definition = new
                {
                    query = (string?)null,
                    kinds = new[]
                    {
                        new
                        {
                            kind = "passport-mrz",
                            least = "likely",
                            count = 1,
                        },
                    },
                },
                priority = 1,
            }
        );
        (await ines.GetOk("filing-suggestions")).GetProperty("recognised").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task Every_starter_series_is_whole_and_rests_on_authorities_of_the_library()
    {
        await ines.PostOk("authorities/library", new { });
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "crew-member-left",
                title = "Left",
                description = "",
            }
        );
        await ines.PostOk(
            "trigger-event-types",
            new
            {
                name = "vessel-sold",
                title = "Sold",
                description = "",
            }
        );
        var number = 10;
        foreach (var starter in Core.Retention.StarterSeries.All)
        {
            var answer = await ines.Post(
                "series",
                new
                {
                    code = $"STA-{number++:000}",
                    unitId = product.Units["Tarn Lines"],
                    draft = JsonSerializer.SerializeToElement(starter.Definition, Json.Options),
                }
            );
            answer.Status.ShouldBe(HttpStatusCode.OK, $"{starter.Definition.Title}: {answer.Body}");
            var id = answer.Body.GetProperty("row").GetProperty("id").GetInt64();
            var findings = (
                await ines.PostOk(
                    $"series/{id}/consequences",
                    JsonSerializer.SerializeToElement(starter.Definition, Json.Options)
                )
            ).GetProperty("authorities");
            findings
                .EnumerateArray()
                .ShouldAllBe(f =>
                    f.GetProperty("verdict").GetString() != "short"
                    && f.GetProperty("verdict").GetString() != "exceedsMost"
                );
            starter.Kinds.ShouldAllBe(k => Core.Sensitive.SensitiveKinds.BuiltIn.Any(b => b.Name == k));
        }
    }

    private async Task<long> FiledAsync(string code, string title, string cql, long container)
    {
        var id = (
            await ines.PostOk(
                "series",
                new
                {
                    code,
                    unitId = product.Units["Island"],
                    draft = Product.Definition(title),
                }
            )
        ).GetProperty("row").GetProperty("id").GetInt64();
        await FileAsync(new { cql, container = new[] { container } }, id);
        return id;
    }

    private async Task FileAsync(object selection, long seriesId)
    {
        var fingerprint = (await ines.PostOk("filings/consequences", new { selection, seriesId }))
            .GetProperty("fingerprint")
            .GetString();
        await ines.PostOk(
            "filings",
            new
            {
                selection,
                seriesId,
                fingerprint,
            }
        );
    }
}
