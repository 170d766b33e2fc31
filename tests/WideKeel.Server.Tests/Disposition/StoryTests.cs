using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Ledger;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Tests.Disposition;

/// <summary>The spine, end to end, by API.</summary>
public class StoryTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task From_a_folder_to_a_certificate_of_destruction()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var old = Enumerable
            .Range(1, 12)
            .Select(i => product.Write($"Fleet/old {i}.md", $"20{i:00}-03-01", $"the pump was repaired {i}"))
            .ToList();
        var recent = product.Write("Fleet/recent.md", "2026-01-01");
        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");

        // A draft, filed under, with its consequences; nothing is ruled before it is in force.
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
        await Product.FileAsync(ines, [containers["Fleet"]], series);
        (await ines.GetOk("docket")).GetProperty("due").GetArrayLength().ShouldBe(0);
        var figures = (await ines.PostOk($"series/{series}/consequences", Product.Definition())).GetProperty("figures");
        figures.GetProperty("becomeDue").GetProperty("items").GetInt64().ShouldBe(12);
        figures.GetProperty("newlyUnderRule").GetProperty("items").GetInt64().ShouldBe(13);
        (await ines.Post($"series/{series}/consequences/becomesDue", Product.Definition()))
            .Body.GetProperty("total")
            .GetInt64()
            .ShouldBe(12);

        await Product.ActivateAsync(ines, series, Product.Definition());
        await ines.WaitForJobsAsync();
        Directory
            .EnumerateFiles(Path.Combine(product.Data, "safekeeping"), "*", SearchOption.AllDirectories)
            .Count()
            .ShouldBe(13);
        (await ines.GetOk("docket")).GetProperty("due")[0].GetProperty("items").GetInt64().ShouldBe(12);

        // One is extended, the rest signed by two people; the first cannot sign twice.
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        var lines = (await ines.GetOk($"batches/{batch}/lines")).GetProperty("lines").EnumerateArray().ToList();
        var kept = lines[0].GetProperty("item").GetProperty("id").GetInt64();
        await ines.PostOk($"batches/{batch}/lines/{kept}/opened", new { });
        await ines.PostOk(
            $"batches/{batch}/marks",
            new
            {
                items = new[] { kept },
                mark = "extend",
                until = "2027-12-31",
                why = "asked for by the yard",
            }
        );
        (await Product.SignAsync(ines, batch)).Status.ShouldBe(HttpStatusCode.OK);
        (await Product.SignAsync(ines, batch)).Problem.ShouldBe("second-person-needed");
        old.ShouldAllBe(f => File.Exists(f));
        (await Product.SignAsync(tobias, batch)).Status.ShouldBe(HttpStatusCode.OK);
        await ines.WaitForJobsAsync();

        // The files are gone, their copies too; the extended one and the recent one stay.
        old.Count(File.Exists).ShouldBe(1);
        File.Exists(recent).ShouldBeTrue();
        Directory
            .EnumerateFiles(Path.Combine(product.Data, "safekeeping"), "*", SearchOption.AllDirectories)
            .Count()
            .ShouldBe(2);
        (await ines.GetOk($"items/{kept}")).GetProperty("standing").GetString()!.ShouldContain("31 Dec 2027");
        var gone = lines[1].GetProperty("item").GetProperty("id").GetInt64();
        var stub = await ines.GetOk($"items/{gone}");
        stub.GetProperty("standing").GetString().ShouldBe("Destroyed on 15 Jun 2026, certificate 2026-0001.");
        (await ines.GetOk($"items/{gone}/preview")).GetProperty("kind").GetString().ShouldBe("none");
        (await ines.GetOk("items?cql=pump")).GetProperty("total").GetInt64().ShouldBe(1);

        // The certificate's proofs hold by the published algorithm, without the product's own verification.
        var certificate = (await ines.GetOk("certificates"))[0].GetProperty("id").GetInt64();
        var document = (await ines.Get($"certificates/{certificate}/document.json")).Body;
        document.GetProperty("items").GetArrayLength().ShouldBe(11);
        document.GetProperty("approvals").GetArrayLength().ShouldBe(2);
        await using (var db = product.Database())
        {
            foreach (var item in document.GetProperty("items").EnumerateArray())
            {
                var sequence = item.GetProperty("entry").GetInt64();
                var body = (await db.Ledger.SingleAsync(l => l.Sequence == sequence, Stop)).Body;
                body.ShouldContain("\"verb\":\"destroyed\"");
                MerkleTree
                    .VerifyInclusion(
                        SHA256.HashData([0, .. Encoding.UTF8.GetBytes(body)]),
                        sequence - 1,
                        document.GetProperty("ledger").GetProperty("size").GetInt64(),
                        [
                            .. item.GetProperty("inclusion")
                                .EnumerateArray()
                                .Select(h => Convert.FromHexString(h.GetString()!)),
                        ],
                        Convert.FromHexString(document.GetProperty("ledger").GetProperty("root").GetString()!)
                    )
                    .ShouldBeTrue();
            }
        }

        var pdf = await ines.Http.GetByteArrayAsync(
            new Uri($"certificates/{certificate}/document.pdf", UriKind.Relative),
            Stop
        );
        using (var read = UglyToad.PdfPig.PdfDocument.Open(pdf))
        {
            var text = string.Concat(
                read.GetPages()
                    .Select(p =>
                        UglyToad.PdfPig.DocumentLayoutAnalysis.TextExtractor.ContentOrderTextExtractor.GetText(p)
                    )
            );
            text.ShouldContain("Certificate of destruction 2026-0001");
            text.ShouldContain("old 12.md");
            text.ShouldContain($"page {read.NumberOfPages} of {read.NumberOfPages}");
        }

        (await ines.GetOk("ledger/verification")).GetProperty("sound").GetBoolean().ShouldBeTrue();
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    [Fact]
    public async Task A_byte_changed_in_the_ledger_is_named_and_a_rolled_back_database_is_noticed()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        await product.StopAsync();
        var backup = Path.Combine(product.Folder, "earlier.db");
        File.Copy(product.DatabaseFile, backup);
        await product.StartAsync();
        using (var ines = await product.SignInAsync("ines"))
        {
            await ines.PostOk(
                "series",
                new
                {
                    code = "VES-040",
                    unitId = product.Units["Fleet"],
                    draft = Product.Definition(),
                }
            );
        }

        await product.StopAsync();
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();

        // The triggers refuse first; somebody who edits the file by hand takes them away.
        await using (var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False"))
        {
            await connection.OpenAsync(Stop);
            Execute(connection, "UPDATE ledger SET Body = Body WHERE Sequence = 5")
                .ShouldBe("the ledger is append-only");
            Execute(connection, "DELETE FROM ledger WHERE Sequence = 5").ShouldBe("the ledger is append-only");
            Execute(connection, "INSERT OR REPLACE INTO ledger (Sequence, Body, LeafHash) VALUES (5, '{}', x'00')")
                .ShouldBe("the ledger is append-only");
        }

        // One byte in the file itself. A page that was split leaves stale text behind, so every place where it stands
        // is changed.
        var bytes = await File.ReadAllBytesAsync(product.DatabaseFile, Stop);
        var wanted = Encoding.UTF8.GetBytes("\"name\":\"Northern\"");
        var changed = 0;
        for (var at = bytes.AsSpan().IndexOf(wanted); at >= 0; at = bytes.AsSpan().IndexOf(wanted))
        {
            bytes[at + 9] ^= 1;
            changed++;
        }

        changed.ShouldBeGreaterThan(0);
        File.Exists(product.DatabaseFile + "-wal").ShouldBeFalse("the log beside the database would hide the change");
        await File.WriteAllBytesAsync(product.DatabaseFile, bytes, Stop);
        var report = LedgerReader.Verify(product.DatabaseFile);
        report.FirstBadEntry.ShouldNotBeNull(report.Finding);
        report.Finding!.ShouldStartWith($"Entry {report.FirstBadEntry} was changed");

        File.Copy(backup, product.DatabaseFile, overwrite: true);
        LedgerReader.Verify(product.DatabaseFile).Finding!.ShouldStartWith("The tail is missing");
        (await Should.ThrowAsync<NotOursException>(product.StartAsync)).Message.ShouldContain("rolled back");
    }

    [Fact]
    public async Task What_changes_between_signature_and_execution_drops_out_with_its_reason()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var files = Enumerable.Range(1, 4).Select(i => product.Write($"Fleet/{i}.md", "2010-01-01", $"{i}")).ToList();
        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var series = await product.SeriesInForceAsync(
            ines,
            "VES-040",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition()
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        await File.AppendAllTextAsync(files[0], "somebody added a line", Stop);
        File.Delete(files[1]);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();

        var lines = (await ines.GetOk($"batches/{batch}/lines"))
            .GetProperty("lines")
            .EnumerateArray()
            .ToDictionary(l => l.GetProperty("item").GetProperty("path").GetString()!);
        lines["Fleet/1.md"].GetProperty("outcome").GetString()!.ShouldContain("content changed");
        lines["Fleet/2.md"].GetProperty("outcome").GetString()!.ShouldContain("no longer at its place");
        lines["Fleet/3.md"].GetProperty("state").GetString().ShouldBe("destroyed");
        File.Exists(files[0]).ShouldBeTrue();
        File.Exists(files[2]).ShouldBeFalse();

        // A changed rule takes what is left out of the next batch.
        await product.ScanAsync();
        var again = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, again);
        var longer = Product.Definition(period: "P50Y");
        (
            await ines.Put(
                $"series/{series}/draft",
                longer,
                (await ines.GetOk($"series/{series}")).GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await Product.ActivateAsync(ines, series, longer);
        await Product.SignAsync(tobias, again);
        await ines.WaitForJobsAsync();
        (await ines.GetOk($"batches/{again}")).GetProperty("destroyed").GetInt32().ShouldBe(0);
        File.Exists(files[0]).ShouldBeTrue();
    }

    [Fact]
    public async Task A_new_installation_says_what_comes_first_and_its_exported_ledger_can_be_checked_without_the_product()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("today"))
            .GetProperty("duties")[0]
            .GetProperty("title")
            .GetString()
            .ShouldBe("No source is connected yet");
        var export = (await ines.Get("ledger/export?from=2&to=6")).Body;
        var head = export.GetProperty("head");
        string Text(string name) => head.GetProperty(name).GetString()!;
        using var key = ECDsa.Create();
        key.ImportFromPem(export.GetProperty("publicKey").GetString());
        var signed =
            $$"""{"at":"{{Text("at")}}","root":"{{Text("root")}}","size":{{head.GetProperty("size").GetInt64()}}}""";
        key.VerifyData(
                Encoding.UTF8.GetBytes(signed),
                head.GetProperty("signature").GetBytesFromBase64(),
                HashAlgorithmName.SHA256
            )
            .ShouldBeTrue();
        export.GetProperty("entries").GetArrayLength().ShouldBe(5);
        foreach (var entry in export.GetProperty("entries").EnumerateArray())
        {
            MerkleTree
                .VerifyInclusion(
                    SHA256.HashData([0, .. Encoding.UTF8.GetBytes(entry.GetProperty("body").GetString()!)]),
                    entry.GetProperty("seq").GetInt64() - 1,
                    head.GetProperty("size").GetInt64(),
                    [
                        .. entry
                            .GetProperty("inclusion")
                            .EnumerateArray()
                            .Select(h => Convert.FromHexString(h.GetString()!)),
                    ],
                    Convert.FromHexString(head.GetProperty("root").GetString()!)
                )
                .ShouldBeTrue();
        }

        (await ines.Get("ledger/export?from=0")).Problem.ShouldBe("range-malformed");
        (await ines.Get("ledger/export?from=5&to=2")).Problem.ShouldBe("range-malformed");
    }

    private static string Execute(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return Should.Throw<SqliteException>(() => command.ExecuteNonQuery()).Message.Split('\'')[1];
    }
}
