using System.Diagnostics;
using System.Net;
using Microsoft.EntityFrameworkCore;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Tests.Jobs;

/// <summary>
/// The data folder on a disk of its own that is made full: the answer is truthful, nothing is lost, and work goes on when
/// there is room. Needs the right to mount; skipped where the machine does not give it.
/// </summary>
public sealed class FullDiskTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly List<string> mounted = [];
    private bool started;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private string Ballast => Path.Combine(product.Data, "ballast");

    public async ValueTask InitializeAsync()
    {
        Directory.CreateDirectory(product.Data);
        Mount("-t", "tmpfs", "-o", "size=24m", "tmpfs", product.Data);
        await product.InitializeAsync();
        started = true;
    }

    public async ValueTask DisposeAsync()
    {
        if (started)
        {
            await product.StopAsync();
        }

        foreach (var place in Enumerable.Reverse(mounted))
        {
            Run("umount", place);
        }

        await product.DisposeAsync();
    }

    [Fact]
    public async Task Nobody_signs_in_on_a_full_disk_and_is_told_why()
    {
        Fill();
        (await SignInAsync())
            .Body.GetProperty("title")
            .GetString()
            .ShouldBe("The server's disk is full. Nothing was changed; try again when that is over.");
    }

    [Fact]
    public async Task What_was_signed_in_before_goes_on_reading()
    {
        using var ines = await product.SignInAsync("ines");
        Fill();
        (await ines.Get("series")).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task People_sign_in_again_when_there_is_room()
    {
        Fill();
        await SignInAsync();
        MakeRoom();
        (await SignInAsync()).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_scan_on_a_full_disk_waits_and_takes_in_everything_when_there_is_room()
    {
        Write(400);
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk("sources", new { name = "Share", root = product.Share });
        Fill();
        await Task.WhenAny(jonas.WaitForJobsAsync(), UntilRefusedAsync());
        MakeRoom();
        await jonas.WaitForJobsAsync();
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("items")).GetProperty("total").GetInt64().ShouldBe(400);
        await ShouldBeSoundAsync();
    }

    [Fact]
    public async Task A_batch_on_a_full_disk_destroys_nothing_that_its_ledger_does_not_say()
    {
        var batch = await BatchAsync(300);
        Fill();
        await UntilRefusedAsync();
        MakeRoom();
        using var ines = await product.SignInAsync("ines");
        await ines.WaitForJobsAsync();
        var view = await ines.GetOk($"batches/{batch}");
        (view.GetProperty("state").GetString(), view.GetProperty("destroyed").GetInt32()).ShouldBe(("done", 300));
        (await ines.GetOk("ledger?verb=destroyed")).GetProperty("total").GetInt64().ShouldBe(300);
        await ShouldBeSoundAsync();
    }

    [Fact]
    public async Task A_change_whose_seal_finds_no_room_says_that_it_is_stored_and_the_next_one_seals_it()
    {
        var small = Directory.CreateDirectory(Path.Combine(product.Folder, "small")).FullName;
        var heads = Path.Combine(product.Data, Heads.FileName);
        using var jonas = await product.SignInAsync("jonas");
        Mount("-t", "tmpfs", "-o", "size=256k", "tmpfs", small);
        File.Copy(heads, Path.Combine(small, "heads"));
        Mount("--bind", Path.Combine(small, "heads"), heads);
        FillFile(Path.Combine(small, "ballast"));
        // Each change needs a line more; the file's last block takes a few.
        var last = 0;
        Answer answer;
        while ((answer = await AddUnitAsync(jonas, ++last)).Status == HttpStatusCode.OK) { }

        answer.Body.GetProperty("title").GetString()!.ShouldStartWith("Your change is stored");
        (await AddUnitAsync(jonas, 100)).Body.GetProperty("title").GetString()!.ShouldStartWith("No change is taken");
        (await jonas.Get("health")).Body.GetProperty("troubles")[0].GetString().ShouldBe("No change is taken");
        File.Delete(Path.Combine(small, "ballast"));
        (await AddUnitAsync(jonas, 101)).Status.ShouldBe(HttpStatusCode.OK);
        (await jonas.GetOk("units"))
            .EnumerateArray()
            .Select(u => u.GetProperty("name").GetString()!)
            .Where(n => n.StartsWith("Yard", StringComparison.Ordinal))
            .ShouldBe([.. Enumerable.Range(1, last).Append(101).Select(n => $"Yard {n}")], ignoreOrder: true);
        (await jonas.Get("health")).Status.ShouldBe(HttpStatusCode.OK);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private Task<Answer> AddUnitAsync(Api who, int number) =>
        who.Post("units", new { name = $"Yard {number}", parentId = product.Units["Fleet"] });

    private async Task<Answer> SignInAsync()
    {
        using var api = await Api.ConnectAsync(product.Address);
        return await api.Post("session", new { mail = "ines@tarn.example", password = Product.Password });
    }

    /// <summary>Until a change is refused for want of room: the disk is full for whatever runs, too.</summary>
    private async Task UntilRefusedAsync()
    {
        while ((await SignInAsync()).Status != HttpStatusCode.ServiceUnavailable)
        {
            Fill();
        }
    }

    private async Task<long> BatchAsync(int files)
    {
        Write(files);
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
        (await Product.SignAsync(tobias, batch)).Status.ShouldBe(HttpStatusCode.OK);
        return batch;
    }

    private void Write(int files)
    {
        for (var i = 0; i < files; i++)
        {
            product.Write($"Fleet/{i}.md", "2010-01-01", $"body {i}");
        }
    }

    private async Task ShouldBeSoundAsync()
    {
        await using (var db = product.Database())
        {
            (await db.Database.SqlQueryRaw<string>("PRAGMA integrity_check").ToListAsync(Stop)).ShouldBe(["ok"]);
        }

        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private void Fill() => FillFile(Ballast);

    private static void FillFile(string file)
    {
        using var stream = new FileStream(file, FileMode.Append, FileAccess.Write, FileShare.ReadWrite, 0);
        foreach (var size in new[] { 1 << 20, 1 << 12, 1 })
        {
            try
            {
                while (true)
                {
                    stream.Write(new byte[size]);
                }
            }
            catch (IOException)
            {
                // Full, for pieces of this size.
            }
        }
    }

    private void MakeRoom() => File.Delete(Ballast);

    private void Mount(params string[] arguments)
    {
        if (!Run("mount", arguments))
        {
            Assert.Skip("This machine does not let its tests mount a small disk.");
        }

        mounted.Add(arguments[^1]);
    }

    private static bool Run(string program, params string[] arguments)
    {
        using var process = Process.Start(
            new ProcessStartInfo(program, arguments) { RedirectStandardError = true, RedirectStandardOutput = true }
        )!;
        process.WaitForExit();
        return process.ExitCode == 0;
    }
}
