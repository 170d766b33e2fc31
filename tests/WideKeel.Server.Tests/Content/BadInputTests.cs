using System.Diagnostics;
using System.IO.Compression;
using System.Net;
using System.Text;
using WideKeel.Server.Demo;

namespace WideKeel.Server.Tests.Content;

public class BadInputTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_demo_is_not_made_over_a_share_that_lies_there_already()
    {
        var folder = Directory.CreateTempSubdirectory("widekeel-demo-").FullName;
        var options = new WideKeelOptions { DataFolder = Path.Combine(folder, "data"), SecretsFolder = folder };
        var file = Path.Combine(Directory.CreateDirectory(DemoSeed.ShareFolder(options)).FullName, "somebody's.txt");
        await File.WriteAllTextAsync(file, "mine", Stop);
        (
            await Should.ThrowAsync<IOException>(() => DemoSeed.EnsureAsync(options, 1, 1, fresh: true, _ => { }))
        ).Message.ShouldContain($"{DemoSeed.ShareFolder(options)} is there already");
        File.ReadAllText(file).ShouldBe("mine");
        Directory.Exists(options.DataFolder).ShouldBeFalse();
        Directory.Delete(folder, recursive: true);
    }

    [Fact]
    public async Task A_share_full_of_oddities_is_scanned_and_each_is_told()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var fleet = Directory.CreateDirectory(Path.Combine(product.Share, "Fleet")).FullName;
        await File.WriteAllTextAsync(Path.Combine(fleet, "not really.pdf"), "this is no pdf", Stop);
        await File.WriteAllBytesAsync(Path.Combine(fleet, "broken.txt"), [0x68, 0xff, 0xfe, 0x00, 0x69], Stop);
        await File.WriteAllTextAsync(Path.Combine(fleet, "empty.docx"), "", Stop);
        string[] names =
        [
            "line\nbreak.txt",
            "quo\"te's.txt",
            "emoji 🚢.txt",
            new string('n', 251) + ".txt",
            "=1+1.txt",
        ];
        foreach (var name in names)
        {
            await File.WriteAllTextAsync(Path.Combine(fleet, name), "fine", Stop);
        }

        File.CreateSymbolicLink(Path.Combine(fleet, "loop"), fleet);
        File.CreateSymbolicLink(Path.Combine(fleet, "outside.txt"), "/etc/hostname");
        Bomb(Path.Combine(fleet, "bomb.docx"));
        await using (var big = new FileStream(Path.Combine(fleet, "big.txt"), FileMode.CreateNew))
        {
            await big.WriteAsync(Encoding.UTF8.GetBytes("bigword at the beginning "), Stop);
            big.SetLength(300_000_000);
        }

        // A name that is no UTF-8 can only be made by a program that does not care.
        using (var shell = Process.Start("sh", ["-c", $"printf x > '{fleet}/'$(printf 'bad\\377name.txt')"]))
        {
            await shell.WaitForExitAsync(Stop);
        }

        // Held by another process: the nearest to unreadable that also works for root.
        await using var held = new FileStream(
            Path.Combine(fleet, "held.txt"),
            FileMode.CreateNew,
            FileAccess.ReadWrite,
            FileShare.None
        );
        held.Write("locked"u8);
        held.Flush();

        await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        var items = (await ines.GetOk("items?limit=500"))
            .GetProperty("items")
            .EnumerateArray()
            .ToDictionary(i => i.GetProperty("path").GetString()!, i => i.GetProperty("id").GetInt64());
        names.ShouldAllBe(n => items.ContainsKey($"Fleet/{n}"));
        async Task<string?> Limit(string name) =>
            (await ines.GetOk($"items/{items[$"Fleet/{name}"]}")).GetProperty("textLimit").GetString();
        (await Limit("not really.pdf"))!.ShouldContain("not the pdf that its name says");
        (await Limit("bomb.docx"))!.ShouldContain("unpacks to more than 200 MB");
        (await Limit("big.txt"))!.ShouldContain("first 1,000,000 characters");
        (await Limit("empty.docx")).ShouldBeNull();
        (await ines.GetOk("items?cql=bigword")).GetProperty("total").GetInt64().ShouldBe(1);

        var source = (await ines.GetOk("sources"))[0].GetProperty("id").GetInt64();
        var exceptions = (await ines.GetOk($"sources/{source}/exceptions"))
            .EnumerateArray()
            .ToDictionary(e => e.GetProperty("path").GetString()!, e => e.GetProperty("reason").GetString()!);
        exceptions["Fleet/loop"].ShouldContain("link");
        exceptions["Fleet/outside.txt"].ShouldContain("link");
        exceptions["Fleet/held.txt"].ShouldNotBeEmpty();
        exceptions.ShouldContain(e => e.Value.Contains("not valid UTF-8", StringComparison.Ordinal));
        (await ines.Http.GetStringAsync(new Uri("items.csv", UriKind.Relative), Stop)).ShouldContain("'=1+1.txt");
    }

    [Fact]
    public async Task A_file_that_moves_keeps_its_filing_one_that_goes_is_told_and_its_copy_stays()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var moved = product.Write("Fleet/a.md", "2024-01-01", "moves");
        var gone = product.Write("Fleet/b.md", "2024-01-01", "goes");
        var changed = product.Write("Fleet/c.md", "2024-01-01", "changes");
        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        await product.SeriesInForceAsync(ines, "VES-040", "Fleet", [containers["Fleet"]], Product.Definition());
        var ids = (await ines.GetOk("items"))
            .GetProperty("items")
            .EnumerateArray()
            .ToDictionary(i => i.GetProperty("path").GetString()!, i => i.GetProperty("id").GetInt64());

        Directory.CreateDirectory(Path.Combine(product.Share, "Fleet/deeper"));
        File.Move(moved, Path.Combine(product.Share, "Fleet/deeper/a renamed.md"));
        File.Delete(gone);
        await File.AppendAllTextAsync(changed, "more", Stop);
        await product.ScanAsync();

        var after = await ines.GetOk($"items/{ids["Fleet/a.md"]}");
        after.GetProperty("item").GetProperty("path").GetString().ShouldBe("Fleet/deeper/a renamed.md");
        after.GetProperty("item").GetProperty("series").GetProperty("code").GetString().ShouldBe("VES-040");
        var missing = await ines.GetOk($"items/{ids["Fleet/b.md"]}");
        missing.GetProperty("item").GetProperty("missing").GetBoolean().ShouldBeTrue();
        missing.GetProperty("copies").GetInt32().ShouldBe(1);
        (await ines.GetOk($"items/{ids["Fleet/c.md"]}")).GetProperty("copies").GetInt32().ShouldBe(2);
        (await ines.GetOk("items")).GetProperty("total").GetInt64().ShouldBe(3);
        (await ines.GetOk("items?missing=true")).GetProperty("total").GetInt64().ShouldBe(1);
    }

    [Fact]
    public async Task Two_people_who_save_one_series_at_once_do_not_overwrite_each_other()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var made = await ines.PostOk(
            "series",
            new
            {
                code = "VES-040",
                unitId = product.Units["Fleet"],
                draft = Product.Definition(),
            }
        );
        var id = made.GetProperty("row").GetProperty("id").GetInt64();
        var revision = made.GetProperty("revision").GetInt64();
        var answers = await Task.WhenAll(
            ines.Put($"series/{id}/draft", Product.Definition("Of Ines"), revision),
            tobias.Put($"series/{id}/draft", Product.Definition("Of Tobias"), revision)
        );
        answers.Select(a => a.Status).Order().ShouldBe([HttpStatusCode.OK, HttpStatusCode.PreconditionFailed]);
        (await ines.Put($"series/{id}/draft", Product.Definition())).Status.ShouldBe(
            HttpStatusCode.PreconditionRequired
        );
        (await ines.GetOk("ledger?verb=drafted")).GetProperty("total").GetInt64().ShouldBe(2);
    }

    [Fact]
    public async Task Consequences_that_changed_since_they_were_looked_at_stop_the_act()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        product.Write("Fleet/a.md", "2010-01-01");
        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        var filing = new
        {
            selection = new { container = new[] { containers["Fleet"] } },
            seriesId = await product.SeriesInForceAsync(ines, "VES-040", "Fleet", [0], Product.Definition()),
        };
        var seen = (await ines.PostOk("filings/consequences", filing)).GetProperty("fingerprint").GetString();
        product.Write("Fleet/b.md", "2010-01-01", "another");
        await product.ScanAsync();
        (
            await ines.Post(
                "filings",
                new
                {
                    filing.selection,
                    filing.seriesId,
                    fingerprint = seen,
                }
            )
        ).Problem.ShouldBe("consequences-changed");
        (await ines.GetOk("items?unfiled=true")).GetProperty("total").GetInt64().ShouldBe(2);
    }

    [Theory]
    [InlineData("clauses[0].period", "P-1Y", "period-negative")]
    [InlineData("title", null, "text-too-long")]
    [InlineData("clauses[0].trigger", "field:NO", "trigger-unknown")]
    public async Task A_series_with_a_wrong_part_is_refused_by_name_and_nothing_is_made(
        string field,
        string? value,
        string code
    )
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using var ines = await product.SignInAsync("ines");
        var draft = field switch
        {
            "clauses[0].period" => Product.Definition(period: value!),
            "clauses[0].trigger" => Product.Definition(trigger: value!),
            _ => Product.Definition(new string('x', 100_000)),
        };
        var answer = await ines.Post(
            "series",
            new
            {
                code = "VES-040",
                unitId = product.Units["Fleet"],
                draft,
            }
        );
        answer.Status.ShouldBe(HttpStatusCode.BadRequest);
        answer.Problem.ShouldBe(code);
        answer.Body.GetProperty("field").GetString().ShouldBe(field);
        (await ines.GetOk("series/names")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task Malformed_requests_are_answered_with_problem_details_that_name_the_place()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using var ines = await product.SignInAsync("ines");
        (await ines.Get("items?state=nonsense")).Problem.ShouldBe("value-malformed");
        (await ines.Get("items?cursor=%21%21")).Problem.ShouldBe("cursor-malformed");
        (await ines.Get("items?sort=colour")).Problem.ShouldBe("sort-unknown");
        (await ines.Get("nowhere")).Status.ShouldBe(HttpStatusCode.NotFound);
        (await ines.Post("series", new { code = "VES-040" })).Problem.ShouldBe("request-malformed");
        (
            await ines.Post(
                "series",
                new
                {
                    code = new string('x', 3_000_000),
                    unitId = 1,
                    draft = Product.Definition(),
                }
            )
        ).Status.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
        (
            await ines.Get("items?cql=" + Uri.EscapeDataString("\" OR title:* NEAR( ) -- ; DROP TABLE item"))
        ).Problem.ShouldBe("query-malformed");
        (
            await ines.GetOk(
                "items?cql="
                    + Uri.EscapeDataString("title = \"' OR 1 --\" and field.x = \"' OR 1 --\" sortby \"field.x' --\"")
            )
        )
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(0);
        // What looks like a query is only words in the field that finds things.
        (await ines.GetOk("find?q=" + Uri.EscapeDataString("\" OR title:* NEAR( ) -- ; DROP TABLE item")))
            .GetArrayLength()
            .ShouldBe(0);
        (await ines.GetOk("ledger?words=" + Uri.EscapeDataString("%_\\'"))).GetProperty("total").GetInt64().ShouldBe(0);
    }

    [Theory]
    [InlineData("relative/path", "root-not-absolute")]
    [InlineData("/", "root-is-everything")]
    [InlineData("/no/such/directory", "root-not-found")]
    public async Task A_share_that_cannot_be_one_is_refused(string root, string code)
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using var jonas = await product.SignInAsync("jonas");
        (await jonas.Post("sources", new { name = "x", root })).Problem.ShouldBe(code);
        (await jonas.Post("sources", new { name = "x", root = product.Folder })).Problem.ShouldBe("root-is-our-own");
    }

    /// <summary>A document of a few kilobytes that would unpack to half a gigabyte.</summary>
    private static void Bomb(string file)
    {
        using var zip = ZipFile.Open(file, ZipArchiveMode.Create);
        using var part = zip.CreateEntry("word/document.xml", CompressionLevel.SmallestSize).Open();
        var block = new byte[1 << 20];
        for (var i = 0; i < 500; i++)
        {
            part.Write(block);
        }
    }
}
