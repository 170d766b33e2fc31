using System.Globalization;
using System.IO.Compression;
using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Matters;

/// <summary>Tags of a matter: put on what a sweep found, obeyed by its bundles.</summary>
public sealed class CodingTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api vera = null!;
    private long matter;
    private long run;
    private Dictionary<string, long> items = [];
    private Dictionary<string, long> tags = [];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/advice.md", "2020-01-01", "pier, advice of counsel");
        product.Write("Fleet/copy of advice.md", "2020-01-01", "pier, advice of counsel");
        product.Write("Fleet/report.md", "2020-01-01", "pier, contact");
        product.Write("Fleet/menu.md", "2020-01-01", "soup");
        await File.WriteAllTextAsync(
            Path.Combine(product.Share, "Fleet", "letter.eml"),
            MatterTests.Letter("one", "pier, a letter").Split('\n', 2)[1],
            Stop
        );
        await product.ScanAsync();
        vera = await product.SignInAsync("vera");
        matter = await product.OpenMatterAsync(vera);
        run = await SweepAsync();
        items = (await HitsAsync(""))
            .GetProperty("items")
            .EnumerateArray()
            .ToDictionary(
                i => i.GetProperty("path").GetString()!["Fleet/".Length..],
                i => i.GetProperty("id").GetInt64()
            );
        foreach (var (name, withholds) in new[] { ("Responsive", false), ("Privileged", true) })
        {
            tags = (await vera.PostOk($"matters/{matter}/tags", new { name, withholds }))
                .GetProperty("tags")
                .EnumerateArray()
                .ToDictionary(t => t.GetProperty("name").GetString()!, t => t.GetProperty("id").GetInt64());
        }
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        return product.DisposeAsync();
    }

    private static object Definition(string? query, long[]? listed) =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = Array.Empty<long>(),
            query,
            from = (string?)null,
            to = (string?)null,
            items = listed,
        };

    /// <summary>Runs a sweep for the pier and returns its run.</summary>
    private async Task<long> SweepAsync(long[]? listed = null)
    {
        var definition = Definition(listed is null ? "pier" : null, listed);
        var sweep = (await vera.PostOk($"matters/{matter}/sweeps", new { name = "Pier", definition }))
            .GetProperty("sweeps")
            .EnumerateArray()
            .Last()
            .GetProperty("id")
            .GetInt64();
        await vera.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
        await vera.WaitForJobsAsync();
        return (await vera.GetOk($"matters/{matter}/sweeps/{sweep}/runs"))[0].GetProperty("id").GetInt64();
    }

    private Task<JsonElement> HitsAsync(string query) => vera.GetOk($"matters/{matter}/runs/{run}/items{query}");

    private async Task<List<string>> NamesAsync(string query) =>
        [
            .. (await HitsAsync(query))
                .GetProperty("items")
                .EnumerateArray()
                .Select(i => i.GetProperty("path").GetString()!["Fleet/".Length..])
                .Order(StringComparer.Ordinal),
        ];

    private Task<Answer> CodeAsync(
        string tag,
        string[]? files,
        bool on = true,
        string choice = "",
        int document = 0,
        string note = "",
        Api? who = null
    ) =>
        (who ?? vera).Post(
            $"matters/{matter}/runs/{run}/coding{choice}",
            new
            {
                tag = tags[tag],
                on,
                note,
                items = files?.Select(f => items[f]),
                document,
            }
        );

    private async Task<long> CountAsync(Task<Answer> coding)
    {
        var answer = await coding;
        answer.Status.ShouldBe(HttpStatusCode.OK, answer.Text);
        return answer.Body.GetProperty("items").GetInt64();
    }

    /// <summary>Makes a bundle of the run and returns its files by name.</summary>
    private async Task<Dictionary<string, string>> BundleAsync(string? tag = null, bool attachments = true)
    {
        var asked = await vera.Post(
            $"matters/{matter}/bundles",
            new
            {
                name = "First",
                options = new
                {
                    runId = run,
                    orderId = (long?)null,
                    mbox = true,
                    onePerContent = false,
                    attachments,
                    tagId = tag is null ? (long?)null : tags[tag],
                },
            }
        );
        asked.Status.ShouldBe(HttpStatusCode.OK, asked.Text);
        await vera.WaitForJobsAsync();
        var bundle = (await vera.GetOk($"matters/{matter}")).GetProperty("bundles")[0];
        bundle.GetProperty("state").GetString().ShouldBe("done", bundle.GetRawText());
        var bytes = await vera.Http.GetByteArrayAsync(
            new Uri($"matters/{matter}/bundles/{bundle.GetProperty("id").GetInt64()}.zip", UriKind.Relative),
            Stop
        );
        Dictionary<string, string> files = [];
        using var zip = new ZipArchive(new MemoryStream(bytes));
        foreach (var entry in zip.Entries)
        {
            using var reader = new StreamReader(entry.Open());
            files[entry.FullName[(entry.FullName.IndexOf('/', StringComparison.Ordinal) + 1)..]] =
                await reader.ReadToEndAsync(Stop);
        }

        return files;
    }

    internal static List<Dictionary<string, string>> Rows(string csv)
    {
        using var reader = new CsvHelper.CsvReader(new StringReader(csv), CultureInfo.InvariantCulture);
        return
        [
            .. reader
                .GetRecords<dynamic>()
                .Select(r => ((IDictionary<string, object>)r).ToDictionary(c => c.Key, c => (string)c.Value)),
        ];
    }

    [Fact]
    public async Task One_tag_is_put_on_everything_that_a_query_finds_among_the_hits() =>
        (await CountAsync(CodeAsync("Responsive", null, choice: "?query=contact"))).ShouldBe(1);

    [Fact]
    public async Task What_bears_no_tag_yet_is_listed_by_itself()
    {
        await CodeAsync("Responsive", ["report.md", "advice.md"]);
        (await NamesAsync("?coded=no")).ShouldBe(["copy of advice.md", "letter.eml"]);
    }

    [Fact]
    public async Task What_bears_a_tag_is_listed_by_it()
    {
        await CodeAsync("Responsive", ["report.md"]);
        (await NamesAsync($"?tag={tags["Responsive"]}")).ShouldBe(["report.md"]);
    }

    [Fact]
    public async Task The_list_says_who_coded_what()
    {
        await CodeAsync("Privileged", ["advice.md"], note: "of counsel");
        var code = (await HitsAsync("")).GetProperty("codes")[0];
        (
            code.GetProperty("itemId").GetInt64(),
            code.GetProperty("by").GetString(),
            code.GetProperty("note").GetString()
        ).ShouldBe((items["advice.md"], "vera", "of counsel"));
    }

    [Fact]
    public async Task A_tag_taken_off_is_gone()
    {
        await CodeAsync("Responsive", null);
        (await CountAsync(CodeAsync("Responsive", null, on: false))).ShouldBe(4);
        (await NamesAsync("?coded=yes")).ShouldBeEmpty();
    }

    [Fact]
    public async Task Coding_again_alike_changes_nothing()
    {
        await CodeAsync("Responsive", ["report.md"]);
        (await CountAsync(CodeAsync("Responsive", ["report.md"]))).ShouldBe(0);
    }

    [Fact]
    public async Task An_item_that_the_run_did_not_find_is_not_coded()
    {
        var other = items.Values.Max() + 1_000;
        (
            await vera.Post(
                $"matters/{matter}/runs/{run}/coding",
                new
                {
                    tag = tags["Responsive"],
                    on = true,
                    items = new[] { other },
                }
            )
        ).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_document_that_the_family_does_not_have_is_not_coded() =>
        (await CodeAsync("Privileged", ["letter.eml"], document: 3)).Status.ShouldBe(HttpStatusCode.NotFound);

    [Fact]
    public async Task A_document_is_coded_in_one_item_at_a_time() =>
        (await CodeAsync("Privileged", null, document: 2)).Problem.ShouldBe("document-alone");

    [Fact]
    public async Task A_reader_does_not_code()
    {
        await MatterTests.LetInAsync(vera, matter, "nils", "reader");
        using var nils = await product.SignInAsync("nils");
        (await CodeAsync("Responsive", null, who: nils)).Status.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task Whoever_is_no_member_finds_no_run_to_code()
    {
        using var nils = await product.SignInAsync("nils");
        (await CodeAsync("Responsive", null, who: nils)).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_term_and_a_query_are_not_asked_at_once() =>
        (await vera.Get($"matters/{matter}/runs/{run}/items?term=0&query=contact")).Problem.ShouldBe("query-or-term");

    [Fact]
    public async Task The_items_of_a_tag_are_listed()
    {
        await CodeAsync("Responsive", ["report.md"]);
        (await vera.GetOk($"matters/{matter}/tags/{tags["Responsive"]}/items"))
            .GetProperty("items")
            .EnumerateArray()
            .Select(i => i.GetProperty("id").GetInt64())
            .ShouldBe([items["report.md"]]);
    }

    [Fact]
    public async Task Whoever_is_no_member_lists_no_items_of_a_tag()
    {
        using var nils = await product.SignInAsync("nils");
        (await nils.Get($"matters/{matter}/tags/{tags["Responsive"]}/items")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_tag_in_use_is_not_removed()
    {
        await CodeAsync("Responsive", ["report.md"]);
        (await vera.Delete($"matters/{matter}/tags/{tags["Responsive"]}")).Problem.ShouldBe("tag-in-use");
    }

    [Fact]
    public async Task Two_tags_have_two_names_whatever_their_case() =>
        (await vera.Post($"matters/{matter}/tags", new { name = "privileged", withholds = false })).Problem.ShouldBe(
            "name-taken"
        );

    [Fact]
    public async Task A_tag_is_called_otherwise_in_place()
    {
        (
            await vera.Put($"matters/{matter}/tags/{tags["Privileged"]}", new { name = "Counsel", withholds = true })
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await vera.GetOk($"matters/{matter}"))
            .GetProperty("tags")
            .EnumerateArray()
            .Select(t => t.GetProperty("name").GetString())
            .ShouldBe(["Responsive", "Counsel"]);
    }

    [Fact]
    public async Task A_bundle_withholds_what_is_privileged_and_every_copy_of_it()
    {
        await CodeAsync("Privileged", ["advice.md"]);
        var files = await BundleAsync();
        files
            .Where(f =>
                f.Key.StartsWith("data/originals/", StringComparison.Ordinal)
                || f.Key.StartsWith("data/text/", StringComparison.Ordinal)
            )
            .ShouldAllBe(f => !f.Value.Contains("advice"));
    }

    [Fact]
    public async Task An_archive_that_holds_what_is_privileged_is_withheld()
    {
        var advice = Path.Combine(product.Share, "Fleet", "advice.md");
        await using (
            var made = await ZipFile.OpenAsync(
                Path.Combine(product.Share, "Fleet", "all.zip"),
                ZipArchiveMode.Create,
                Stop
            )
        )
        {
            made.CreateEntryFromFile(advice, "inner/advice.md");
        }

        await product.ScanAsync();
        run = await SweepAsync();
        await CodeAsync("Privileged", ["advice.md"]);
        (await BundleAsync()).Keys.ShouldNotContain(f => f.EndsWith(".zip", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Items_that_are_null_are_those_that_the_address_chooses_as_where_they_are_left_out() =>
        (await CountAsync(CodeAsync("Responsive", null))).ShouldBe(4);

    [Fact]
    public async Task The_load_file_is_silent_about_what_is_withheld_and_names_the_tags_of_the_rest()
    {
        await CodeAsync("Privileged", ["advice.md"]);
        await CodeAsync("Responsive", ["report.md"]);
        Rows((await BundleAsync())["data/load.csv"])
            .Select(r => (r["path"], r["tags"]))
            .ShouldBe(
                [("Fleet/letter.eml", ""), ("Fleet/letter.eml", ""), ("Fleet/report.md", "Responsive")],
                ignoreOrder: true
            );
    }

    [Fact]
    public async Task The_privilege_log_says_why_each_document_is_withheld()
    {
        await CodeAsync("Privileged", ["advice.md"], note: "of counsel");
        Rows((await BundleAsync())["data/privilege-log.csv"])
            .Select(r => (r["withheld"], r["note"]))
            .ShouldBe([("Privileged", "of counsel"), ($"same content as {items["advice.md"]}", "")], ignoreOrder: true);
    }

    [Fact]
    public async Task A_message_with_a_withheld_attachment_is_withheld_and_not_in_the_mailbox()
    {
        await CodeAsync("Privileged", ["letter.eml"], document: 2);
        var files = await BundleAsync();
        (files["data/mail.mbox"], Rows(files["data/privilege-log.csv"]).Count).ShouldBe(("", 2));
    }

    [Fact]
    public async Task A_file_like_a_withheld_attachment_is_withheld_though_attachments_are_no_documents()
    {
        await File.WriteAllTextAsync(Path.Combine(product.Share, "Fleet", "pier sheet.csv"), "a,b", Stop);
        await product.ScanAsync();
        run = await SweepAsync();
        await CodeAsync("Privileged", ["letter.eml"], document: 2);
        Rows((await BundleAsync(attachments: false))["data/privilege-log.csv"])
            .Select(r => r["subject"])
            .Order(StringComparer.Ordinal)
            .ShouldBe(["Pier one", "pier sheet.csv"]);
    }

    [Theory]
    [InlineData("sweep-")]
    [InlineData("member-")]
    [InlineData("custodian-")]
    [InlineData("matter-opened")]
    public async Task The_chain_of_custody_says_nothing_of_the_work_of_the_matter(string verb) =>
        (await BundleAsync())["metadata/custody.csv"].ShouldNotContain(verb);

    [Fact]
    public async Task The_chain_of_custody_says_when_the_bundle_was_asked_for() =>
        (await BundleAsync())["metadata/custody.csv"].ShouldContain("bundle-asked");

    [Fact]
    public async Task The_chain_of_custody_does_not_say_how_the_matter_coded()
    {
        await CodeAsync("Privileged", ["advice.md"], note: "of counsel");
        var files = await BundleAsync();
        (files["metadata/custody.csv"] + files["metadata/custody.json"]).ShouldNotContain("oded");
    }

    [Fact]
    public async Task A_bundle_of_a_tag_takes_only_what_bears_it()
    {
        await CodeAsync("Responsive", ["report.md"]);
        Rows((await BundleAsync("Responsive"))["data/load.csv"]).Select(r => r["path"]).ShouldBe(["Fleet/report.md"]);
    }

    [Fact]
    public async Task A_sweep_of_a_list_of_ids_finds_those_items()
    {
        run = await SweepAsync([items["report.md"], items["letter.eml"]]);
        (await NamesAsync("")).ShouldBe(["letter.eml", "report.md"]);
    }

    [Fact]
    public async Task A_list_with_an_id_that_is_none_is_refused_by_name() =>
        (
            await vera.Post($"matters/{matter}/count", Definition(null, [items["report.md"], 999_999]))
        ).Text!.ShouldContain("There is no item 999999.");

    [Fact]
    public async Task An_order_takes_no_list_of_ids() =>
        (
            await vera.Post(
                $"matters/{matter}/orders",
                new { name = "Listed", definition = Definition(null, [items["report.md"]]) }
            )
        ).Problem.ShouldBe("items-of-order");
}
