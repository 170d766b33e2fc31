using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Retention;

/// <summary>What was never in force can be dropped whole; what was in force stays, with its history.</summary>
public sealed class DroppingTests : IAsyncLifetime
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

    private async Task<long> DraftedSeriesAsync(string code)
    {
        var made = await ines.PostOk(
            "series",
            new
            {
                code,
                unitId = product.Units["Fleet"],
                draft = Product.Definition(),
            }
        );
        return made.GetProperty("row").GetProperty("id").GetInt64();
    }

    private async Task<JsonElement> FileAsync(long container, long? series, string? why = null)
    {
        var selection = new { container = new[] { container } };
        var preview = await ines.PostOk("filings/consequences", new { selection, seriesId = series });
        return await ines.PostOk(
            "filings",
            new
            {
                selection,
                seriesId = series,
                fingerprint = preview.GetProperty("fingerprint").GetString(),
                why,
            }
        );
    }

    private async Task<Answer> DropSeriesAsync(long id) =>
        await ines.Delete($"series/{id}", (await ines.GetOk($"series/{id}")).GetProperty("revision").GetInt64());

    private async Task<JsonElement> DraftedBlanketAsync() =>
        await ines.PostOk(
            "blankets",
            new
            {
                name = "Mail",
                unitId = product.Units["Fleet"],
                draft = BlanketDefinition(),
            }
        );

    private static object BlanketDefinition() =>
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
        };

    [Fact]
    public async Task A_series_never_in_force_is_dropped()
    {
        var id = await DraftedSeriesAsync("VES-010");
        (await DropSeriesAsync(id)).Status.ShouldBe(HttpStatusCode.OK);
        (await ines.GetOk("series/names")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task The_ledger_keeps_that_a_series_was_dropped_and_by_whom()
    {
        var id = await DraftedSeriesAsync("VES-010");
        await DropSeriesAsync(id);
        var entry = (await ines.GetOk("ledger?kind=series")).GetProperty("entries")[0];
        (entry.GetProperty("verb").GetString(), entry.GetProperty("who").GetString()).ShouldBe(
            ("series-dropped", "ines")
        );
    }

    [Fact]
    public async Task Items_filed_under_a_dropped_series_are_under_no_series_again()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        var containers = await product.ScanAsync();
        var id = await DraftedSeriesAsync("VES-010");
        await FileAsync(containers["Fleet"], id);
        await DropSeriesAsync(id);
        (await ines.GetOk("items?unfiled=true")).GetProperty("total").GetInt64().ShouldBe(1);
    }

    [Fact]
    public async Task A_series_that_was_in_force_is_not_dropped()
    {
        var id = await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [], Product.Definition());
        var answer = await DropSeriesAsync(id);
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.Conflict, "series-was-in-force"));
    }

    [Fact]
    public async Task A_series_that_another_person_has_changed_since_is_not_dropped()
    {
        var id = await DraftedSeriesAsync("VES-010");
        var seen = (await ines.GetOk($"series/{id}")).GetProperty("revision").GetInt64();
        using var tobias = await product.SignInAsync("tobias");
        await tobias.Put($"series/{id}/draft", Product.Definition(period: "P9Y"), seen);
        (await ines.Delete($"series/{id}", seen)).Status.ShouldBe(HttpStatusCode.PreconditionFailed);
    }

    [Fact]
    public async Task A_filing_that_waits_for_a_second_person_closes_when_its_series_is_dropped()
    {
        product.Write("Fleet/a.md", "2024-01-01", "a");
        var containers = await product.ScanAsync();
        var declared = Product.Definition(grade: "declared");
        await product.SeriesInForceAsync(ines, "VES-010", "Fleet", [containers["Fleet"]], declared);
        var id = await DraftedSeriesAsync("VES-020");
        await FileAsync(containers["Fleet"], id, "filed by mistake");
        await DropSeriesAsync(id);
        (await ines.GetOk("proposals/all"))
            .GetProperty("proposals")[0]
            .GetProperty("decidedWhy")
            .GetString()
            .ShouldBe("VES-020 is gone.");
    }

    [Fact]
    public async Task A_blanket_never_in_force_is_dropped()
    {
        var made = await DraftedBlanketAsync();
        var id = made.GetProperty("id").GetInt64();
        (await ines.Delete($"blankets/{id}", made.GetProperty("revision").GetInt64())).Status.ShouldBe(
            HttpStatusCode.OK
        );
        (await ines.GetOk("blankets")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_blanket_that_was_in_force_is_not_dropped()
    {
        var id = await product.BlanketInForceAsync(ines, "Mail", "Fleet", BlanketDefinition());
        var revision = (await ines.GetOk("blankets"))[0].GetProperty("revision").GetInt64();
        var answer = await ines.Delete($"blankets/{id}", revision);
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.Conflict, "blanket-was-in-force"));
    }
}
