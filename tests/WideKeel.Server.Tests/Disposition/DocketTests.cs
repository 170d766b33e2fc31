using System.Diagnostics;
using System.IO.Compression;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using NodaTime;
using Shouldly;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Disposition;

/// <summary>The docket by months, every mark, stages with people and deputies, bundles for an archive.</summary>
public sealed class DocketTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api ines = null!;
    private Api tobias = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
        tobias = await product.SignInAsync("tobias");
    }

    public async ValueTask DisposeAsync()
    {
        ines.Dispose();
        tobias.Dispose();
        await product.DisposeAsync();
    }

    [Fact]
    public async Task What_is_due_stands_by_series_and_month_and_a_batch_takes_one_month_or_all()
    {
        product.Write("Island/a.md", "2015-03-10", "a");
        product.Write("Island/b.md", "2015-03-30", "b");
        product.Write("Island/c.md", "2016-07-01", "c");
        var containers = await product.ScanAsync();
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        var group = (await ines.GetOk("docket")).GetProperty("due")[0];
        group
            .GetProperty("months")
            .EnumerateArray()
            .Select(m => (m.GetProperty("month").GetString(), m.GetProperty("items").GetInt64()))
            .ShouldBe([("2020-03-01", 2L), ("2021-07-01", 1L)]);

        var batch = await ines.PostOk("batches", new { seriesId = series, month = "2020-03-31" });
        (batch.GetProperty("lines").GetInt32(), batch.GetProperty("month").GetString()).ShouldBe((2, "2020-03-01"));
        (await ines.Post("batches", new { seriesId = series, month = "2020-03-01" })).Problem.ShouldBe("nothing-due");
        (await ines.PostOk("batches", new { seriesId = series })).GetProperty("lines").GetInt32().ShouldBe(1);
    }

    [Fact]
    public async Task Each_mark_does_what_it_says_once_every_stage_has_signed()
    {
        foreach (var name in new[] { "destroy", "extend", "refile", "transfer" })
        {
            product.Write($"Island/{name}.md", "2015-01-01", name);
        }

        var containers = await product.ScanAsync();
        var other = await product.SeriesInForceAsync(
            ines,
            "ISL-020",
            "Island",
            [],
            Product.Definition("Permits", period: "P20Y")
        );
        var northern = await product.SeriesInForceAsync(
            ines,
            "NOR-010",
            "Northern",
            [],
            Product.Definition("Northern")
        );
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        var lines = (await ines.GetOk($"batches/{batch}/lines"))
            .GetProperty("lines")
            .EnumerateArray()
            .ToDictionary(
                l => Path.GetFileNameWithoutExtension(l.GetProperty("item").GetProperty("path").GetString()!),
                l => l.GetProperty("item").GetProperty("id").GetInt64()
            );

        (
            await ines.Post(
                $"batches/{batch}/marks",
                new
                {
                    items = new[] { lines["extend"] },
                    mark = "extend",
                    by = "P2Y",
                    why = "",
                }
            )
        ).Problem.ShouldBe("why-missing");
        (
            await ines.Post(
                $"batches/{batch}/marks",
                new
                {
                    items = new[] { lines["extend"] },
                    mark = "extend",
                    by = "two years",
                    why = "x",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.BadRequest);
        await ines.PostOk(
            $"batches/{batch}/marks",
            new
            {
                items = new[] { lines["extend"] },
                mark = "extend",
                by = "P2Y",
                why = "The harbour asked.",
            }
        );
        (
            await ines.Post(
                $"batches/{batch}/marks",
                new
                {
                    items = new[] { lines["refile"] },
                    mark = "refile",
                    seriesId = northern,
                }
            )
        ).Problem.ShouldBe("outside-the-series");
        (
            await ines.Post(
                $"batches/{batch}/marks",
                new
                {
                    items = new[] { lines["refile"] },
                    mark = "refile",
                    seriesId = series,
                }
            )
        ).Problem.ShouldBe("refiling-refused");
        await ines.PostOk(
            $"batches/{batch}/marks",
            new
            {
                items = new[] { lines["refile"] },
                mark = "refile",
                seriesId = other,
            }
        );
        await ines.PostOk($"batches/{batch}/marks", new { items = new[] { lines["transfer"] }, mark = "transfer" });
        (await ines.GetOk($"items/{lines["refile"]}"))
            .GetProperty("item")
            .GetProperty("series")
            .GetProperty("code")
            .GetString()
            .ShouldBe("ISL-010");

        (await Product.SignAsync(ines, batch)).Status.ShouldBe(HttpStatusCode.OK);
        (await Product.SignAsync(tobias, batch)).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();

        var done = await ines.GetOk($"batches/{batch}");
        (
            done.GetProperty("state").GetString(),
            done.GetProperty("destroyed").GetInt32(),
            done.GetProperty("extended").GetInt32(),
            done.GetProperty("refiled").GetInt32(),
            done.GetProperty("transferred").GetInt32()
        ).ShouldBe(("done", 1, 1, 1, 1));
        Directory
            .GetFiles(Path.Combine(product.Share, "Island"))
            .Select(Path.GetFileName)
            .Order()
            .ShouldBe(["extend.md", "refile.md"]);
        (await ines.GetOk($"items/{lines["extend"]}"))
            .GetProperty("item")
            .GetProperty("tideline")
            .GetProperty("keepUntil")
            .GetString()
            .ShouldBe("2028-06-15");
        var refiled = await ines.GetOk($"items/{lines["refile"]}");
        (
            refiled.GetProperty("item").GetProperty("series").GetProperty("code").GetString(),
            refiled.GetProperty("filedBy").GetString()
        ).ShouldBe(("ISL-020", "ines and tobias"));
        var handedOver = await ines.GetOk($"items/{lines["transfer"]}");
        handedOver.GetProperty("item").GetProperty("state").GetString().ShouldBe("handedOver");
        handedOver
            .GetProperty("standing")
            .GetString()!
            .ShouldStartWith("Handed over to the archive on 15 Jun 2026, certificate 2026-0001.");
        (await ines.GetOk("items?state=handedOver")).GetProperty("total").GetInt64().ShouldBe(1);
    }

    [Fact]
    public async Task No_word_of_what_was_destroyed_is_left_anywhere_among_the_products_files()
    {
        product.Write("Island/goes.md", "2015-01-01", "The Quorblexyz ran aground.");
        product.Write("Northern/stays.md", "2015-01-01", "The Vantiqulor came in.");
        var containers = await product.ScanAsync();
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        // The index shortens a word by what it shares with the one before it, so the first letter is left out.
        Among("uorblexyz").ShouldBeTrue();
        await using (var db = product.Database())
        {
            // As learning from filing by hand leaves it, which takes more items than these.
            var item = db.Items.Single(i => i.Path == "Island/goes.md").Id;
            db.FilingSuggestions.Add(
                new()
                {
                    ItemId = item,
                    SeriesId = series,
                    Confidence = 0.9,
                    Words = "quorblexyz",
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        (await Product.SignAsync(tobias, batch)).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();

        Among("uorblexyz").ShouldBeFalse();
        Among("antiqulor").ShouldBeTrue();
        (await ines.GetOk("items?cql=vantiqulor")).GetProperty("total").GetInt64().ShouldBe(1);
        // Nobody can keep the clearing from its end.
        var clearing = (await ines.GetOk("jobs"))
            .EnumerateArray()
            .Single(j => j.GetProperty("kind").GetString() == "clear-words");
        clearing.GetProperty("message").GetString().ShouldBe("No word of what was destroyed is left in the index.");
        clearing.GetProperty("mayBeStopped").GetBoolean().ShouldBeFalse();
        (await ines.Post($"jobs/{clearing.GetProperty("id").GetInt64()}/cancellation", new { })).Problem.ShouldBe(
            "job-not-stoppable"
        );

        bool Among(string word) =>
            Directory
                .EnumerateFiles(product.Data, "*", SearchOption.AllDirectories)
                .Where(file => Path.GetFileName(file) != FolderLock.Name)
                .Any(file => Holds(file, word));

        // The database's own files beside it come and go; what is gone holds nothing.
        static bool Holds(string file, string word)
        {
            try
            {
                using var stream = new FileStream(
                    file,
                    FileMode.Open,
                    FileAccess.Read,
                    FileShare.ReadWrite | FileShare.Delete
                );
                using var reader = new StreamReader(stream, Encoding.Latin1);
                return reader.ReadToEnd().Contains(word, StringComparison.OrdinalIgnoreCase);
            }
            catch (FileNotFoundException)
            {
                return false;
            }
        }
    }

    /// <summary>RFC 8493: what the manifests say is checked by sha256sum (GNU coreutils), an outside tool.</summary>
    [Fact]
    public async Task A_bundle_for_the_archive_is_a_valid_bag_and_goes_once_the_archive_has_it()
    {
        product.Write("Island/deck log, May 50%.md", "2015-01-01", "log");
        product.Write("Island/2015/øl.md", "2015-01-01", "second");
        var containers = await product.ScanAsync();
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition(atEnd: "transfer")
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        (await ines.GetOk($"batches/{batch}")).GetProperty("toTransfer").GetInt32().ShouldBe(2);
        await Product.SignAsync(ines, batch);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        Directory.GetFiles(Path.Combine(product.Share, "Island"), "*", SearchOption.AllDirectories).ShouldBeEmpty();

        var bundle = (await ines.GetOk($"batches/{batch}")).GetProperty("bundle");
        var folder = Path.Combine(product.Folder, "taken");
        await using (
            var zip = await ines.Http.GetStreamAsync(
                $"bundles/{bundle.GetProperty("id").GetInt64()}.zip",
                TestContext.Current.CancellationToken
            )
        )
        {
            await ZipFile.ExtractToDirectoryAsync(zip, folder, TestContext.Current.CancellationToken);
        }

        var bag = Directory.GetDirectories(folder).Single();
        File.ReadAllText(Path.Combine(bag, "bagit.txt"))
            .ShouldBe("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n");
        foreach (var manifest in new[] { "manifest-sha256.txt", "tagmanifest-sha256.txt" })
        {
            // A name with a percent sign is escaped in the manifest (section 2.1.3), which sha256sum does not know of.
            await File.WriteAllTextAsync(
                Path.Combine(bag, "plain.txt"),
                File.ReadAllText(Path.Combine(bag, manifest)).Replace("%25", "%", StringComparison.Ordinal),
                TestContext.Current.CancellationToken
            );
            (await RunAsync("sha256sum", ["--check", "--strict", "plain.txt"], bag)).ShouldBe(0, manifest);
        }

        var payload = Directory.GetFiles(Path.Combine(bag, "data"), "*", SearchOption.AllDirectories);
        File.ReadAllLines(Path.Combine(bag, "bag-info.txt"))
            .ShouldContain($"Payload-Oxum: {payload.Sum(f => new FileInfo(f).Length)}.{payload.Length}");
        Convert
            .ToHexStringLower(SHA256.HashData(File.ReadAllBytes(Path.Combine(bag, "tagmanifest-sha256.txt"))))
            .ShouldBe(bundle.GetProperty("hash").GetString());
        File.ReadAllLines(Path.Combine(bag, "metadata", "items.csv")).Length.ShouldBe(3);
        using var certificate = JsonDocument.Parse(
            (
                await ines.Get(
                    $"certificates/{(await ines.GetOk("certificates"))[0].GetProperty("id").GetInt64()}/document.json"
                )
            ).Text!
        );
        certificate
            .RootElement.GetProperty("bundle")
            .GetProperty("tagManifestSha256")
            .GetString()
            .ShouldBe(bundle.GetProperty("hash").GetString());
        certificate
            .RootElement.GetProperty("items")
            .EnumerateArray()
            .ShouldAllBe(i => i.GetProperty("handedOver").GetBoolean());

        (
            await ines.Post($"bundles/{bundle.GetProperty("id").GetInt64()}/receipt", new { receipt = " " }, 1)
        ).Problem.ShouldBe("receipt-missing");
        (
            await ines.Post(
                $"bundles/{bundle.GetProperty("id").GetInt64()}/receipt",
                new { receipt = "Accession 14" },
                1
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        Directory.Exists(Path.Combine(product.Data, "bundles", $"batch-{batch}")).ShouldBeFalse();
        (await ines.Get($"bundles/{bundle.GetProperty("id").GetInt64()}.zip")).Problem.ShouldBe("bundle-handed-over");
    }

    [Fact]
    public async Task A_bag_that_was_touched_is_found_out()
    {
        var file = product.Write("Island/a.md", "2015-01-01", "a");
        var bag = new Bag(Path.Combine(product.Folder, "bag"));
        var hash = await bag.PutAsync("Share/a.md", File.OpenRead(file), TestContext.Current.CancellationToken);
        bag.Close([("Share/a.md", hash)], [("Source-Organization", "Two\nlines")], new Dictionary<string, string>());
        (await bag.VerifyAsync(TestContext.Current.CancellationToken)).ShouldBeNull();
        await File.WriteAllTextAsync(
            Path.Combine(bag.Folder, "data", "stray.txt"),
            "stray",
            TestContext.Current.CancellationToken
        );
        (await bag.VerifyAsync(TestContext.Current.CancellationToken)).ShouldBe("data/stray.txt is in no manifest.");
        File.Delete(Path.Combine(bag.Folder, "data", "stray.txt"));
        await File.WriteAllTextAsync(
            Path.Combine(bag.Folder, "data", "Share", "a.md"),
            "b",
            TestContext.Current.CancellationToken
        );
        (await bag.VerifyAsync(TestContext.Current.CancellationToken)).ShouldBe(
            "data/Share/a.md is not what the manifest says."
        );
        File.Delete(Path.Combine(bag.Folder, "data", "Share", "a.md"));
        (await bag.VerifyAsync(TestContext.Current.CancellationToken)).ShouldBe("data/Share/a.md is missing.");
        await Should.ThrowAsync<ArgumentException>(() =>
            bag.PutAsync("../out.md", Stream.Null, TestContext.Current.CancellationToken)
        );
    }

    [Fact]
    public async Task Nobody_signs_while_somebody_who_was_asked_has_not_answered()
    {
        product.Write("Island/a.md", "2015-01-01", "a");
        product.Write("Island/b.md", "2015-01-01", "b");
        var containers = await product.ScanAsync();
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        var item = (await ines.GetOk($"batches/{batch}/lines"))
            .GetProperty("lines")[0]
            .GetProperty("item")
            .GetProperty("id")
            .GetInt64();
        var people = (await ines.GetOk("colleagues"))
            .EnumerateArray()
            .ToDictionary(p => p.GetProperty("name").GetString()!, p => p.GetProperty("id").GetInt64());

        (
            await ines.Post(
                $"batches/{batch}/marks",
                new
                {
                    items = new[] { item },
                    mark = "ask",
                    why = "Still needed?",
                    askedOf = people["edvin"],
                }
            )
        ).Problem.ShouldBe("asked-of-outside");
        await ines.PostOk(
            $"batches/{batch}/marks",
            new
            {
                items = new[] { item },
                mark = "ask",
                why = "Still needed?",
                askedOf = people["pia"],
            }
        );
        (await Product.SignAsync(ines, batch)).Problem.ShouldBe("question-open");

        using var pia = await product.SignInAsync("pia");
        var question = (await pia.GetOk("questions"))[0];
        question.GetProperty("text").GetString().ShouldBe("Still needed?");
        using var edvin = await product.SignInAsync("edvin");
        (
            await edvin.Post($"questions/{question.GetProperty("id").GetInt64()}/answer", new { answer = "no" })
        ).Status.ShouldBe(HttpStatusCode.NotFound);
        await pia.PostOk(
            $"questions/{question.GetProperty("id").GetInt64()}/answer",
            new { answer = "No, it is settled." }
        );
        (
            await pia.Post($"questions/{question.GetProperty("id").GetInt64()}/answer", new { answer = "Yes." })
        ).Problem.ShouldBe("question-answered");
        (await pia.GetOk("questions")).GetArrayLength().ShouldBe(0);

        (await ines.GetOk($"batches/{batch}/lines"))
            .GetProperty("lines")[0]
            .GetProperty("question")
            .GetProperty("answer")
            .GetString()
            .ShouldBe("No, it is settled.");
        await ines.PostOk($"batches/{batch}/marks", new { items = new[] { item }, mark = "destroy" });
        (await Product.SignAsync(ines, batch)).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_stage_of_one_person_is_theirs_until_it_is_overdue_and_then_their_deputys_too()
    {
        product.Write("Island/a.md", "2015-01-01", "a");
        var containers = await product.ScanAsync();
        object[] stages =
        [
            new
            {
                role = "recordsManager",
                person = "tobias@tarn.example",
                deputy = "ines@tarn.example",
                days = 7,
            },
            new
            {
                role = "steward",
                person = "",
                deputy = "",
                days = 14,
            },
        ];
        var text = JsonSerializer.SerializeToNode(Product.Definition())!.AsObject();
        text["stages"] = JsonSerializer.SerializeToNode(stages);
        var series = await product.SeriesInForceAsync(ines, "ISL-010", "Island", [containers["Island"]], text);
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        var refused = await Product.SignAsync(ines, batch);
        (refused.Problem, refused.Body.GetProperty("title").GetString()).ShouldBe(
            ("stage-of-another", "Stage 1 is signed by tobias@tarn.example; you may sign instead once it is overdue.")
        );

        product.Clock.Advance(Duration.FromDays(7));
        (await Product.SignAsync(ines, batch)).Problem.ShouldBe("stage-of-another");
        (await ines.GetOk($"batches/{batch}")).GetProperty("overdue").GetBoolean().ShouldBeFalse();
        product.Clock.Advance(Duration.FromDays(1));
        using var later = await product.SignInAsync("ines");
        (await later.GetOk($"batches/{batch}")).GetProperty("overdue").GetBoolean().ShouldBeTrue();
        (await Product.SignAsync(later, batch)).Status.ShouldBe(HttpStatusCode.OK);

        // The sheet carries the same, and comes back unchanged.
        (await later.Get("schedule.csv")).Text!.ShouldContain(
            "\"records-manager: tobias@tarn.example, deputy ines@tarn.example, 7 days; steward\""
        );
    }

    private static async Task<int> RunAsync(string program, string[] arguments, string folder)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments)
            {
                WorkingDirectory = folder,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            }
        )!;
        await process.StandardOutput.ReadToEndAsync(TestContext.Current.CancellationToken);
        await process.WaitForExitAsync(TestContext.Current.CancellationToken);
        return process.ExitCode;
    }
}
