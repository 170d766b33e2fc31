using System.IO.Compression;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.Matters;

/// <summary>A version is judged by its own text, author, dates and fields, whatever came after it.</summary>
public sealed class VersionFactsTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api vera = null!;
    private long matter;
    private long order;

    /// <summary>
    /// An order on <c>pier</c> holds a report of 2019 by Pia; then it becomes one of 2024 by Odd, and says nothing of a pier.
    /// </summary>
    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write(
            "Fleet/report.md",
            "2019-03-04",
            "contact with pier 4, iban GB82 WEST 1234 5698 7654 32",
            "author: Pia Lind\ntitle: Contact\nberth: north\n"
        );
        product.Write("Fleet/other.md", "2020-01-01", "pier 4 again");
        await product.ScanAsync();
        vera = await product.SignInAsync("vera");
        matter = await product.OpenMatterAsync(vera);
        order = await MatterTests.InForceAsync(vera, matter, "Pier", MatterTests.Everything("pier"));
        await vera.WaitForJobsAsync();
        product.Clock.AdvanceDays(1);
        product.Write("Fleet/report.md", "2024-05-06", "a menu", "author: Odd Vik\ntitle: Menu\nberth: south\n");
        await product.ScanAsync();
        await vera.WaitForJobsAsync();
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        return product.DisposeAsync();
    }

    private static object Definition(string? query, string? from = null, string? to = null) =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = Array.Empty<long>(),
            query,
            from,
            to,
        };

    private async Task<long> FormerAsync(object definition) =>
        (await RunAsync(definition)).GetProperty("figures").GetProperty("onlyFormer").GetInt64();

    private async Task<JsonElement> RunAsync(object definition)
    {
        var name = $"Sweep {Guid.NewGuid()}";
        var sweep = (await vera.PostOk($"matters/{matter}/sweeps", new { name, definition }))
            .GetProperty("sweeps")
            .EnumerateArray()
            .Single(s => s.GetProperty("name").GetString() == name)
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        return (await vera.GetOk($"matters/{matter}/sweeps/{sweep}/runs"))[0];
    }

    [Theory]
    [InlineData("author = \"Pia Lind\"")]
    [InlineData("title = contact")]
    [InlineData("created = 2019-03-04")]
    [InlineData("field.berth = north")]
    [InlineData("sensitive = iban")]
    [InlineData("text = contact and author = pia and created within \"2019-01-01 2019-12-31\"")]
    public async Task A_sweep_finds_the_version_by_what_it_said_of_itself(string query) =>
        (await FormerAsync(Definition(query))).ShouldBe(1);

    [Theory]
    [InlineData("contact and author = odd")]
    [InlineData("contact and field.berth = south")]
    [InlineData("contact and created = 2024-05-06")]
    public async Task What_came_after_a_version_says_nothing_of_it(string query) =>
        (await FormerAsync(Definition(query))).ShouldBe(0);

    [Fact]
    public async Task The_figure_of_a_custodian_and_its_list_have_what_they_wrote_before_it_was_overwritten()
    {
        using (var jonas = await product.SignInAsync("jonas"))
        {
            await jonas.PostOk(
                "directory",
                new { people = "name,mail,unit,title,manager,leaves\nPia Lind,pia.lind@tarn.example,Fleet,Mate,,\n" }
            );
        }

        var pia = await MatterTests.CustodianAsync(vera, matter, "pia");
        var run = await RunAsync(Definition("contact"));
        (
            run.GetProperty("figures").GetProperty("byCustodian")[0].GetProperty("items").GetInt64(),
            (await vera.GetOk($"matters/{matter}/runs/{run.GetProperty("id").GetInt64()}/items?custodian={pia}"))
                .GetProperty("total")
                .GetInt64()
        ).ShouldBe((1L, 1L));
    }

    [Fact]
    public async Task A_version_counts_in_the_dates_that_it_had() =>
        (await FormerAsync(Definition("contact", to: "2019-12-31"))).ShouldBe(1);

    [Fact]
    public async Task The_count_of_a_definition_is_that_of_its_run() =>
        (await vera.PostOk($"matters/{matter}/count", Definition("contact")))
            .GetProperty("found")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(1);

    [Fact]
    public async Task An_order_keeps_what_a_version_that_is_kept_says()
    {
        var second = await MatterTests.InForceAsync(vera, matter, "Contact", MatterTests.Everything("contact"));
        await vera.WaitForJobsAsync();
        (await MatterTests.HeldAsync(vera, matter, second)).Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_narrowing_lets_nothing_go_of_which_a_version_fits() =>
        (
            await vera.PostOk(
                $"matters/{matter}/orders/{order}/releases/consequences?delay=30",
                new { narrowed = Definition("contact") }
            )
        )
            .GetProperty("figures")
            .GetProperty("all")
            .GetProperty("items")
            .GetInt64()
            .ShouldBe(1);

    [Fact]
    public async Task A_narrowing_that_took_effect_still_holds_the_item_of_which_a_version_fits()
    {
        await MatterTests.LetInAsync(vera, matter, "nils", "lead");
        using var nils = await product.SignInAsync("nils");
        await MatterTests.AskReleaseAsync(vera, matter, order, Definition("contact"));
        await MatterTests.AgreeAsync(nils, matter, order, Definition("contact"));
        product.Clock.AdvanceDays(60);
        (await HeldNowAsync()).ShouldBe(["Fleet/report.md"]);
    }

    private async Task<List<string>> HeldNowAsync()
    {
        await using var db = product.Database();
        var today = product.Clock.GetCurrentInstant().InUtc().Date;
        return await db
            .Items.Where(i => db.HoldItems.Any(h => h.ItemId == i.Id && (h.Until == null || h.Until >= today)))
            .Select(i => i.Path)
            .ToListAsync(stop);
    }

    private async Task<List<Dictionary<string, string>>> BundledAsync(string table)
    {
        await vera.PostOk(
            $"matters/{matter}/bundles",
            new
            {
                name = "All",
                options = new
                {
                    runId = (long?)null,
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
        using var reader = new StreamReader(
            await archive.Entries.Single(e => e.FullName.EndsWith(table, StringComparison.Ordinal)).OpenAsync(stop)
        );
        return CodingTests.Rows(await reader.ReadToEndAsync(stop));
    }

    [Fact]
    public async Task The_load_file_tells_the_dates_and_the_author_of_the_version()
    {
        (await BundledAsync("load.csv"))
            .Where(r => r["version_from"].Length > 0)
            .Select(r => (r["created"], r["author"]))
            .ShouldBe([("2019-03-04", "Pia Lind")]);
    }

    [Fact]
    public async Task A_protected_content_that_was_replaced_is_listed_among_what_a_run_did_not_read()
    {
        var secret = Path.Combine(product.Share, "Fleet", "pier.pdf");
        await File.WriteAllBytesAsync(secret, Content.ProtectedFiles.Pdf(), stop);
        await product.ScanAsync();
        await MatterTests.InForceAsync(vera, matter, "Files", MatterTests.Everything("path = \"Fleet/pier*\""));
        await vera.WaitForJobsAsync();
        product.Write("Fleet/pier.pdf", "2020-01-01", "no pdf");
        await product.ScanAsync();
        await vera.WaitForJobsAsync();
        var run = await RunAsync(Definition(null));
        (await vera.GetOk($"matters/{matter}/runs/{run.GetProperty("id").GetInt64()}/unreadable"))
            .EnumerateArray()
            .Select(f => f.GetProperty("reason").GetString())
            .ShouldContain("An earlier content of it is protected with a password.");
    }

    [Fact]
    public async Task The_exceptions_name_pictures_pipes_and_versions_that_are_protected()
    {
        var secret = Path.Combine(product.Share, "Fleet", "pier.zip");
        await File.WriteAllBytesAsync(secret, Content.ProtectedFiles.Zip(), stop);
        await File.WriteAllBytesAsync(Path.Combine(product.Share, "Fleet", "pier.jpg"), [1, 2, 3], stop);
        using (var made = System.Diagnostics.Process.Start("mkfifo", [Path.Combine(product.Share, "Fleet", "pipe")]))
        {
            await made.WaitForExitAsync(stop);
        }

        await product.ScanAsync();
        order = await MatterTests.InForceAsync(vera, matter, "Files", MatterTests.Everything("path = \"Fleet/pier*\""));
        await vera.WaitForJobsAsync();
        await File.WriteAllTextAsync(secret, "no archive any more", stop);
        await product.ScanAsync();
        await vera.WaitForJobsAsync();
        (await BundledAsync("exceptions.csv"))
            .Select(r => $"{r["path"]}: {r["why"]}")
            .Order(StringComparer.Ordinal)
            .ShouldBe([
                "Fleet/pier.jpg: No text is drawn from files of the type jpg.",
                "Fleet/pier.zip: No text was read: the file is not the zip that its name says, or it is damaged.",
                "Fleet/pier.zip: No text, or not all, was read of 1 of the files in the archive; 1 of them protected with a "
                    + "password.",
                "Fleet/pipe: It is a pipe, a socket or a device, not a file: there is no content in it to keep.",
            ]);
    }
}
