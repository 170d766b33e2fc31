using System.Net;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Server.Kernel;
using WideKeel.Server.Readiness;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>Uploaded files: scanned before they are taken, and compared with their hash every day.</summary>
public sealed class GivenFileTests : ProvedProduct
{
    /// <summary>The part, once a job has found that it counts, or that it does not.</summary>
    private async Task<JsonElement> UntilCountsAsync(bool counts) =>
        (
            await Manager.WaitForAsync(
                "controls",
                controls => controls[0].GetProperty("parts")[0].GetProperty("counts").GetBoolean() == counts
            )
        )[0]
            .GetProperty("parts")[0];

    private Task NextMorningAsync()
    {
        Product.Clock.Advance(Duration.FromDays(1));
        return Product.RunDayAsync();
    }

    [Fact]
    public async Task A_file_that_is_gone_counts_no_more_after_the_daily_run()
    {
        await GiveAsync("all well");
        File.Delete(Directory.GetFiles(Path.Combine(Product.Data, "evidence")).Single());
        await NextMorningAsync();
        (await UntilCountsAsync(false)).GetProperty("proofs")[0].GetProperty("broken").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task A_file_that_is_gone_is_a_duty()
    {
        await GiveAsync("all well");
        File.Delete(Directory.GetFiles(Path.Combine(Product.Data, "evidence")).Single());
        await NextMorningAsync();
        await UntilCountsAsync(false);
        (await Manager.GetOk("today")).GetRawText().ShouldContain("1 file that was given is missing or changed");
    }

    [Fact]
    public async Task A_file_that_came_back_counts_again_after_the_next_daily_run()
    {
        await GiveAsync("all well");
        var file = Directory.GetFiles(Path.Combine(Product.Data, "evidence")).Single();
        File.Move(file, file + ".away");
        await NextMorningAsync();
        await UntilCountsAsync(false);
        File.Move(file + ".away", file);
        await NextMorningAsync();
        (await UntilCountsAsync(true)).GetProperty("proofs")[0].GetProperty("broken").GetBoolean().ShouldBeFalse();
    }

    [Fact]
    public async Task The_test_file_of_scanners_is_not_taken()
    {
        await using var scanner = new StandInScanner();
        Product.Services.GetRequiredService<ContentScanner>().Address = scanner.Address;
        var harmful = @"X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR" + "-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*";
        (await GiveAsync(Manager, harmful)).Problem.ShouldBe("file-harmful");
    }

    [Fact]
    public async Task A_file_that_the_scanner_finds_harmless_is_taken()
    {
        await using var scanner = new StandInScanner();
        Product.Services.GetRequiredService<ContentScanner>().Address = scanner.Address;
        (await GiveAsync(Manager, new string('a', 200_000))).Status.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task No_file_is_taken_while_the_scanner_does_not_answer()
    {
        Uri gone;
        await using (var scanner = new StandInScanner())
        {
            gone = scanner.Address;
        }

        Product.Services.GetRequiredService<ContentScanner>().Address = gone;
        (await GiveAsync(Manager, "all well")).Problem.ShouldBe("scanner-silent");
    }
}
