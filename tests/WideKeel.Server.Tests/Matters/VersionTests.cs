using System.IO.Compression;
using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.Matters;

/// <summary>What a held file held before is searched, listed, opened and bundled.</summary>
public sealed class VersionTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api vera = null!;
    private long matter;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/report.md", "2020-01-01", "contact with pier 4, iban GB82 WEST 1234 5698 7654 32");
        product.Write("Fleet/other.md", "2020-01-01", "pier 4 again");
        await product.ScanAsync();
        vera = await product.SignInAsync("vera");
        matter = await product.OpenMatterAsync(vera);
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        return product.DisposeAsync();
    }

    private async Task HoldAsync(string query)
    {
        await MatterTests.InForceAsync(vera, matter, "All", MatterTests.Everything(query));
        await vera.WaitForJobsAsync();
    }

    private async Task EditAsync(string file, string words)
    {
        product.Clock.AdvanceDays(1);
        product.Write(file, "2020-01-01", words);
        await product.ScanAsync();
        await vera.WaitForJobsAsync();
    }

    /// <summary>The order holds the report; it is overwritten with other words.</summary>
    private async Task OverwriteAsync()
    {
        await HoldAsync("pier");
        await EditAsync("Fleet/report.md", "nothing of the kind");
    }

    /// <summary>Runs a sweep and returns its run.</summary>
    private async Task<JsonElement> SweepAsync(string query)
    {
        var name = $"Sweep for {query}";
        var sweep = (
            await vera.PostOk($"matters/{matter}/sweeps", new { name, definition = MatterTests.Everything(query) })
        )
            .GetProperty("sweeps")
            .EnumerateArray()
            .Single(s => s.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        return (await vera.GetOk($"matters/{matter}/sweeps/{sweep}/runs"))[0];
    }

    private async Task<JsonElement> HitsAsync(JsonElement run, string query = "") =>
        await vera.GetOk($"matters/{matter}/runs/{run.GetProperty("id").GetInt64()}/items{query}");

    private static List<string> Titles(JsonElement page) =>
        [.. page.GetProperty("items").EnumerateArray().Select(i => i.GetProperty("title").GetString()!).Order()];

    private async Task<long> ReportAsync()
    {
        using var ines = await product.SignInAsync("ines");
        return (await ines.GetOk("items?cql=title%20%3D%20report"))
            .GetProperty("items")[0]
            .GetProperty("id")
            .GetInt64();
    }

    [Fact]
    public async Task A_sweep_finds_a_held_file_by_the_words_it_had_before()
    {
        await OverwriteAsync();
        Titles(await HitsAsync(await SweepAsync("contact"))).Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_run_counts_the_items_that_only_a_former_version_fits()
    {
        await OverwriteAsync();
        var figures = (await SweepAsync("pier")).GetProperty("figures");
        (figures.GetProperty("versions").GetInt64(), figures.GetProperty("onlyFormer").GetInt64()).ShouldBe((1L, 1L));
    }

    [Theory]
    [InlineData("fits", 2)]
    [InlineData("only", 1)]
    public async Task The_figures_of_former_versions_open_into_their_items(string former, int items)
    {
        await OverwriteAsync();
        await EditAsync("Fleet/other.md", "pier 4 once more");
        var run = await SweepAsync("pier");
        (await HitsAsync(run, $"?former={former}")).GetProperty("total").GetInt64().ShouldBe(items);
    }

    [Fact]
    public async Task Anything_else_of_former_versions_is_refused()
    {
        await OverwriteAsync();
        var run = (await SweepAsync("pier")).GetProperty("id").GetInt64();
        (await vera.Get($"matters/{matter}/runs/{run}/items?former=some")).Problem.ShouldBe("former-unknown");
    }

    [Fact]
    public async Task A_term_counts_what_its_list_shows()
    {
        await OverwriteAsync();
        var run = await SweepAsync("contact or again or nothing");
        var terms = run.GetProperty("figures").GetProperty("byTerm").EnumerateArray().ToList();
        for (var i = 0; i < terms.Count; i++)
        {
            foreach (var (figure, scope) in new[] { ("found", "found"), ("only", "only") })
            {
                (await HitsAsync(run, $"?term={i}&scope={scope}"))
                    .GetProperty("total")
                    .GetInt64()
                    .ShouldBe(terms[i].GetProperty(figure).GetInt64(), $"{terms[i]} {scope}");
            }
        }
    }

    [Fact]
    public async Task An_item_with_one_term_now_and_another_before_has_both()
    {
        await OverwriteAsync();
        var only = (await SweepAsync("contact or nothing"))
            .GetProperty("figures")
            .GetProperty("byTerm")
            .EnumerateArray()
            .Select(t => (t.GetProperty("found").GetInt64(), t.GetProperty("only").GetInt64()));
        only.ShouldBe([(1L, 0L), (1L, 0L)]);
    }

    [Fact]
    public async Task A_run_shows_what_it_found_in_a_version_with_sensitive_data_masked()
    {
        await OverwriteAsync();
        var version = (await HitsAsync(await SweepAsync("contact"))).GetProperty("versions")[0];
        var snippet = version.GetProperty("found").GetProperty("snippet").GetString()!;
        (snippet.Contains("contact"), snippet.Contains("5698")).ShouldBe((true, false));
    }

    [Fact]
    public async Task A_second_run_reads_no_copy_again()
    {
        await OverwriteAsync();
        await SweepAsync("contact");
        Directory.Delete(Path.Combine(product.Data, "safekeeping"), true);
        Titles(await HitsAsync(await SweepAsync("pier and contact"))).Count.ShouldBe(1);
    }

    [Fact]
    public async Task Members_list_every_content_that_was_kept()
    {
        await OverwriteAsync();
        (await vera.GetOk($"matters/{matter}/items/{await ReportAsync()}/versions")).GetArrayLength().ShouldBe(2);
    }

    [Fact]
    public async Task Members_open_the_file_as_it_was()
    {
        await OverwriteAsync();
        var item = await ReportAsync();
        var first = (await vera.GetOk($"matters/{matter}/items/{item}/versions")).EnumerateArray().Last();
        var hash = first.GetProperty("hash").GetString();
        (await vera.Get($"matters/{matter}/items/{item}/versions/{hash}/file")).Text!.ShouldContain(
            "contact with pier 4, iban GB82 WEST 1234 5698 7654 32"
        );
    }

    [Fact]
    public async Task The_text_of_a_version_is_read_with_the_words_marked()
    {
        await OverwriteAsync();
        var item = await ReportAsync();
        var hash = (await vera.GetOk($"matters/{matter}/items/{item}/versions"))
            .EnumerateArray()
            .Last()
            .GetProperty("hash")
            .GetString();
        (await vera.GetOk($"matters/{matter}/items/{item}/versions/{hash}?cql=contact"))
            .GetProperty("marks")
            .GetArrayLength()
            .ShouldBe(1);
    }

    [Fact]
    public async Task Who_is_no_member_learns_of_no_version()
    {
        await OverwriteAsync();
        using var nils = await product.SignInAsync("nils");
        (await nils.Get($"matters/{matter}/items/{await ReportAsync()}/versions")).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task The_versions_of_an_item_that_the_matter_has_nothing_to_do_with_are_unknown()
    {
        await HoldAsync("nowhere");
        (await vera.Get($"matters/{matter}/items/{await ReportAsync()}/versions")).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task The_text_of_a_version_goes_when_its_item_is_destroyed()
    {
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var series = (
            await ines.PostOk(
                "series",
                new
                {
                    code = "VES-040",
                    unitId = product.Units["Fleet"],
                    draft = Product.Definition(),
                }
            )
        ).GetProperty("row").GetProperty("id").GetInt64();
        await Product.FileAsync(ines, [(await product.ScanAsync())["Fleet"]], series);
        await Product.ActivateAsync(ines, series, Product.Definition());
        await ines.WaitForJobsAsync();
        await EditAsync("Fleet/report.md", "nothing of the kind");
        await SweepAsync("contact");
        await using var db = product.Database();
        (await db.CopyTexts.CountAsync(stop)).ShouldBe(1);
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        (await db.CopyTexts.CountAsync(stop)).ShouldBe(0);
    }

    /// <summary>The texts of all files in the bundle of what an order or a run found.</summary>
    private async Task<List<string>> BundleAsync(long? run, long? order)
    {
        await vera.PostOk(
            $"matters/{matter}/bundles",
            new
            {
                name = "All",
                options = new
                {
                    runId = run,
                    orderId = order,
                    mbox = false,
                    onePerContent = false,
                    attachments = false,
                },
            }
        );
        await vera.WaitForJobsAsync();
        var bundle = (await vera.GetOk($"matters/{matter}")).GetProperty("bundles")[0].GetProperty("id").GetInt64();
        var zip = await vera.Http.GetByteArrayAsync(
            new Uri($"matters/{matter}/bundles/{bundle}.zip", UriKind.Relative),
            stop
        );
        await using var archive = new ZipArchive(new MemoryStream(zip));
        List<string> texts = [];
        foreach (var entry in archive.Entries)
        {
            using var reader = new StreamReader(await entry.OpenAsync(stop));
            texts.Add(await reader.ReadToEndAsync(stop));
        }

        return texts;
    }

    [Fact]
    public async Task A_bundle_of_a_run_holds_the_version_by_which_an_item_was_found()
    {
        await OverwriteAsync();
        var run = (await SweepAsync("contact")).GetProperty("id").GetInt64();
        (await BundleAsync(run, null)).ShouldContain(t => t.Contains("---\ncontact with pier 4"));
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task Every_content_that_existed_while_it_was_held_is_in_the_bundle(int seed)
    {
        var random = new Random(seed);
        await HoldAsync("pier");
        string[] files = ["Fleet/report.md", "Fleet/other.md"];
        HashSet<string> contents = ["contact with pier 4, iban GB82 WEST 1234 5698 7654 32", "pier 4 again"];
        for (var step = 0; step < 8; step++)
        {
            var file = files[random.Next(files.Length)];
            if (random.Next(3) == 0)
            {
                product.Clock.AdvanceDays(1);
                File.Delete(Path.Combine(product.Share, file));
                await product.ScanAsync();
                await vera.WaitForJobsAsync();
                continue;
            }

            // What appears at the path of a held file that was deleted is a new item; it is held where it fits.
            var words =
                $"{(random.Next(2) == 0 || !File.Exists(Path.Combine(product.Share, file)) ? "pier" : "no word")} in step {step}";
            await EditAsync(file, words);
            contents.Add(words);
        }

        var order = (await vera.GetOk($"matters/{matter}")).GetProperty("orders")[0].GetProperty("id").GetInt64();
        var texts = await BundleAsync(null, order);
        contents.Where(c => !texts.Exists(t => t.Contains($"---\n{c}\n"))).ShouldBeEmpty();
    }
}
