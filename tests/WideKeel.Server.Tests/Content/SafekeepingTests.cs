using System.Net;
using System.Text.Json;
using NodaTime;
using Shouldly;

namespace WideKeel.Server.Tests.Content;

/// <summary>Copies that rot are found and named, what can be made anew is, and what was lost comes back.</summary>
public sealed class SafekeepingTests : IAsyncLifetime
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
    public async Task Bit_rot_is_found_named_and_mended_where_the_source_still_has_the_content()
    {
        product.Write("Island/a.md", "2024-01-01", "same");
        product.Write("Island/b.md", "2024-01-01", "same");
        var lost = product.Write("Island/c.md", "2024-01-01", "lost");
        var containers = await product.ScanAsync();
        await product.SeriesInForceAsync(ines, "ISL-010", "Island", [containers["Island"]], Product.Definition());
        var figures = await ines.GetOk("safekeeping");
        (figures.GetProperty("copies").GetInt64(), figures.GetProperty("contents").GetInt64()).ShouldBe((3, 2));
        figures.GetProperty("saved").GetInt64().ShouldBe(new FileInfo(lost).Length);

        var copies = Directory.GetFiles(Path.Combine(product.Data, "safekeeping"), "*", SearchOption.AllDirectories);
        foreach (var copy in copies)
        {
            var bytes = await File.ReadAllBytesAsync(copy, TestContext.Current.CancellationToken);
            bytes[^2] ^= 1;
            await File.WriteAllBytesAsync(copy, bytes, TestContext.Current.CancellationToken);
        }

        File.Delete(lost);
        await product.ScanAsync();
        await ines.PostOk("safekeeping/verification", new { });
        await ines.WaitForJobsAsync();
        figures = await ines.GetOk("safekeeping");
        figures
            .GetProperty("verified")
            .GetString()
            .ShouldBe("2 copies read; 2 are not what they were, 1 of them made anew from the source.");
        var broken = figures.GetProperty("broken").EnumerateArray().Single();
        broken.GetProperty("items")[0].GetProperty("title").GetString().ShouldBe("c.md");
        broken.GetProperty("fault").GetString()!.ShouldStartWith("The copy holds something else now");
        figures.GetProperty("ofDeleted").GetInt64().ShouldBe(1);

        var item = broken.GetProperty("items")[0].GetProperty("id").GetInt64();
        (
            await ines.Post(
                $"items/{item}/restoration",
                new { hash = broken.GetProperty("hash").GetString(), why = "needed" }
            )
        ).Problem.ShouldBe("copy-broken");
        (await ines.GetOk($"items/{item}/copies"))[0].GetProperty("fault").ValueKind.ShouldBe(JsonValueKind.String);
    }

    [Fact]
    public async Task A_deleted_or_overwritten_file_comes_back_and_nothing_is_written_over()
    {
        var file = product.Write("Island/a.md", "2024-01-01", "first");
        var containers = await product.ScanAsync();
        await product.SeriesInForceAsync(ines, "ISL-010", "Island", [containers["Island"]], Product.Definition());
        var first = await File.ReadAllTextAsync(file, TestContext.Current.CancellationToken);
        var item = (await ines.GetOk("items")).GetProperty("items")[0].GetProperty("id").GetInt64();
        var hash = (await ines.GetOk($"items/{item}/copies"))[0].GetProperty("hash").GetString();

        File.Delete(file);
        await product.ScanAsync();
        (await ines.GetOk($"items/{item}")).GetProperty("item").GetProperty("missing").GetBoolean().ShouldBeTrue();
        (await ines.PostOk($"items/{item}/restoration", new { hash, why = "It was deleted by mistake." }))
            .GetProperty("path")
            .GetString()
            .ShouldBe("Island/a.md");
        await ines.WaitForJobsAsync();
        (await File.ReadAllTextAsync(file, TestContext.Current.CancellationToken)).ShouldBe(first);
        (await ines.GetOk($"items/{item}")).GetProperty("item").GetProperty("missing").GetBoolean().ShouldBeFalse();

        product.Write("Island/a.md", "2024-01-01", "second, longer");
        await product.ScanAsync();
        (await ines.PostOk($"items/{item}/restoration", new { hash, why = "Both are needed." }))
            .GetProperty("path")
            .GetString()
            .ShouldBe("Island/a (restored).md");
        (await ines.PostOk($"items/{item}/restoration", new { hash, why = "Both are needed." }))
            .GetProperty("path")
            .GetString()
            .ShouldBe("Island/a (restored 2).md");
        (await File.ReadAllTextAsync(file, TestContext.Current.CancellationToken)).ShouldContain("second");
        (
            await File.ReadAllTextAsync(
                Path.Combine(product.Share, "Island", "a (restored).md"),
                TestContext.Current.CancellationToken
            )
        ).ShouldBe(first);

        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk($"items/{item}/copies")).GetArrayLength().ShouldBe(2);
        (await pia.Post($"items/{item}/restoration", new { hash, why = "x" })).Status.ShouldBe(
            HttpStatusCode.Forbidden
        );
        using var edvin = await product.SignInAsync("edvin");
        (await edvin.Post($"items/{item}/restoration", new { hash, why = "x" })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task A_copy_that_several_items_share_goes_with_the_last_of_them()
    {
        product.Write("Island/one.md", "2015-01-01", "same");
        product.Write("Island/two.md", "2015-01-01", "same");
        product.Write("Island/own.md", "2015-01-01", "another");
        // The same content in a container whose series keeps it for longer.
        product.Write("Fleet/three.md", "2015-01-01", "same");
        var containers = await product.ScanAsync();
        await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Fleet",
            [containers["Fleet"]],
            Product.Definition(period: "P99Y")
        );
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        Contents().Count.ShouldBe(2);
        using var tobias = await product.SignInAsync("tobias");
        await DestroyAsync(series);
        // All three are gone from the share; of their two contents the one that is needed elsewhere stays.
        Directory.GetFiles(Path.Combine(product.Share, "Island")).ShouldBeEmpty();
        Contents().Count.ShouldBe(1);
        var entries = (await ines.GetOk("ledger?verb=destroyed"))
            .GetProperty("entries")
            .EnumerateArray()
            .Select(e => e.GetProperty("after").GetProperty("copiesRemoved").GetInt64())
            .ToList();
        entries.ShouldBe([1, 1, 1]);
        var kept = (await ines.GetOk("items?cql=same")).GetProperty("items").EnumerateArray().Single();
        (
            kept.GetProperty("path").GetString(),
            (await ines.GetOk($"items/{kept.GetProperty("id").GetInt64()}/copies")).GetArrayLength()
        ).ShouldBe(("Fleet/three.md", 1));
        // The stub keeps its title and is found by it; its text is gone.
        (await ines.GetOk("items?state=destroyed&cql=title=two"))
            .GetProperty("total")
            .GetInt64()
            .ShouldBe(1);
        (await ines.GetOk("items?cql=another")).GetProperty("total").GetInt64().ShouldBe(0);

        List<string> Contents() =>
            [.. Directory.GetFiles(Path.Combine(product.Data, "safekeeping"), "*", SearchOption.AllDirectories)];

        async Task DestroyAsync(long id)
        {
            var batch = (await ines.PostOk("batches", new { seriesId = id })).GetProperty("id").GetInt64();
            await Product.SignAsync(ines, batch);
            (await Product.SignAsync(tobias, batch)).Status.ShouldBe(HttpStatusCode.OK);
            await ines.WaitForJobsAsync();
        }
    }

    [Fact]
    public async Task A_certificate_past_its_own_term_loses_its_list_and_keeps_its_number()
    {
        product.Write("Island/a.md", "2015-01-01", "a");
        var containers = await product.ScanAsync();
        var series = await product.SeriesInForceAsync(
            ines,
            "ISL-010",
            "Island",
            [containers["Island"]],
            Product.Definition()
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        using var tobias = await product.SignInAsync("tobias");
        await Product.SignAsync(ines, batch);
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        var item = (await ines.GetOk("items?state=destroyed")).GetProperty("items")[0].GetProperty("id").GetInt64();

        product.Clock.Advance(Duration.FromDays((7 * 366) + 2));
        using var later = await product.SignInAsync("ines");
        for (var i = 0; i < 300 && (await later.GetOk("certificates"))[0].GetProperty("hasList").GetBoolean(); i++)
        {
            await Task.Delay(100, TestContext.Current.CancellationToken);
        }

        var certificate = (await later.GetOk("certificates"))[0];
        (
            certificate.GetProperty("number").GetString(),
            certificate.GetProperty("items").GetInt32(),
            certificate.GetProperty("hasList").GetBoolean()
        ).ShouldBe(("2026-0001", 1, false));
        (await later.Get($"certificates/{certificate.GetProperty("id").GetInt64()}/document.pdf")).Problem.ShouldBe(
            "certificate-let-go"
        );
        (await later.Get($"items/{item}")).Status.ShouldBe(HttpStatusCode.NotFound);
        (await later.GetOk("items?cql=a")).GetProperty("total").GetInt64().ShouldBe(0);
        (await later.GetOk($"batches/{batch}")).GetProperty("destroyed").GetInt32().ShouldBe(1);
    }
}
