using System.Net;
using System.Text.Json;

namespace WideKeel.Server.Tests.Matters;

/// <summary>What a hold leaves behind is seen by the members of its matter, and by nobody else.</summary>
public sealed class TraceTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api vera = null!;
    private Api ines = null!;
    private long matter;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/report.md", "2020-01-01", "contact with pier 4");
        product.Write("Fleet/other.md", "2020-01-01", "fog");
        await product.ScanAsync();
        vera = await product.SignInAsync("vera");
        ines = await product.SignInAsync("ines");
        matter = await product.OpenMatterAsync(vera);
        await MatterTests.InForceAsync(vera, matter, "All", MatterTests.Everything("pier"));
        await vera.WaitForJobsAsync();
    }

    public ValueTask DisposeAsync()
    {
        vera.Dispose();
        ines.Dispose();
        return product.DisposeAsync();
    }

    private static async Task<List<string>> JobsAsync(Api who) =>
        [.. (await who.GetOk("jobs")).EnumerateArray().Select(j => j.GetProperty("kind").GetString()!)];

    private static int Copies(JsonElement entries) =>
        entries.EnumerateArray().Count(e => e.GetProperty("verb").GetString() == "copied-to-safekeeping");

    private async Task<int> CopiesAsync(long of) => Copies(await vera.GetOk($"matters/{of}/history"));

    private async Task<int> CopiesInLedgerAsync() =>
        Copies((await ines.GetOk("ledger?limit=500")).GetProperty("entries"));

    private async Task EditAsync()
    {
        product.Clock.AdvanceDays(1);
        product.Write("Fleet/report.md", "2020-01-01", "quite other words");
        await product.ScanAsync();
        await vera.WaitForJobsAsync();
    }

    [Fact]
    public async Task The_job_that_copies_what_an_order_holds_is_shown_to_its_members()
    {
        (await JobsAsync(vera)).ShouldContain("capture-held");
    }

    [Fact]
    public async Task The_job_that_copies_what_an_order_holds_is_not_shown_to_a_records_manager()
    {
        (await JobsAsync(ines)).ShouldBe(["scan"]);
    }

    [Fact]
    public async Task The_members_read_in_the_ledger_what_was_copied()
    {
        (await CopiesAsync(matter)).ShouldBe(1);
    }

    [Fact]
    public async Task A_records_manager_reads_nothing_of_it_in_the_ledger()
    {
        (await CopiesInLedgerAsync()).ShouldBe(0);
    }

    [Fact]
    public async Task What_a_held_file_says_later_is_copied_in_the_matter_too()
    {
        await EditAsync();
        (await CopiesAsync(matter)).ShouldBe(2);
    }

    [Fact]
    public async Task A_held_file_that_changes_leaves_no_job_that_a_records_manager_sees()
    {
        await EditAsync();
        (await JobsAsync(ines)).ShouldNotContain(kind => kind.StartsWith("capture", StringComparison.Ordinal));
    }

    [Fact]
    public async Task What_a_rule_keeps_as_well_is_copied_for_the_rule_where_records_managers_read_it()
    {
        await product.SeriesInForceAsync(
            ines,
            "FLT-010",
            "Tarn Lines",
            [(await product.ScanAsync())["Fleet"]],
            Product.Definition(period: "P30Y")
        );
        await ines.WaitForJobsAsync();
        var before = await CopiesInLedgerAsync();
        await EditAsync();
        (await CopiesInLedgerAsync() - before, await CopiesAsync(matter)).ShouldBe((1, 1));
    }

    [Fact]
    public async Task What_was_released_and_is_past_its_delay_is_copied_no_more()
    {
        using var nils = await product.SignInAsync("nils");
        await MatterTests.LetInAsync(vera, matter, "nils", "lead");
        var released = (await vera.GetOk($"matters/{matter}")).GetProperty("orders")[0].GetProperty("id").GetInt64();
        await MatterTests.InForceAsync(vera, matter, "Fog", MatterTests.Everything("fog"));
        await vera.WaitForJobsAsync();
        (await MatterTests.AskReleaseAsync(vera, matter, released, null)).Status.ShouldBe(HttpStatusCode.OK);
        await MatterTests.AgreeAsync(nils, matter, released, null);
        product.Clock.AdvanceDays(40);
        product.Write("Fleet/report.md", "2020-01-01", "quite other words");
        product.Write("Fleet/other.md", "2020-01-01", "more fog");
        await product.ScanAsync();
        await vera.WaitForJobsAsync();
        (await vera.GetOk($"matters/{matter}/history"))
            .EnumerateArray()
            .First(e => e.GetProperty("verb").GetString() == "copied-to-safekeeping")
            .GetProperty("after")
            .GetProperty("items")
            .GetArrayLength()
            .ShouldBe(1);
    }

    [Fact]
    public async Task Two_matters_that_hold_the_same_file_copy_each_content_once()
    {
        var other = await product.OpenMatterAsync(vera, "Another");
        await MatterTests.InForceAsync(vera, other, "All", MatterTests.Everything("contact"));
        await vera.WaitForJobsAsync();
        await EditAsync();
        (await CopiesAsync(matter) + await CopiesAsync(other)).ShouldBe(2);
    }

    [Fact]
    public async Task The_number_of_a_matter_does_not_say_how_many_there_are()
    {
        var numbers = new List<string>();
        for (var i = 0; i < 8; i++)
        {
            var id = await product.OpenMatterAsync(vera, $"Matter {i}");
            numbers.Add((await vera.GetOk($"matters/{id}")).GetProperty("number").GetString()!);
        }

        numbers.SequenceEqual(numbers.Order(StringComparer.Ordinal)).ShouldBeFalse();
    }
}
