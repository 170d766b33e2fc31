using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.AtRest;
using WideKeel.Server.CommandLine;

namespace WideKeel.Server.Tests.CommandLine;

/// <summary>What <c>widekeel verify --all</c> looks at beside the ledger.</summary>
public sealed class VerifyAllTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly StringWriter output = new();

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/a.md", "2025-01-01", "pier");
        var containers = await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        await product.SeriesInForceAsync(
            ines,
            "REC-010",
            "Tarn Lines",
            [containers["Fleet"]],
            Product.Definition(grade: "declared")
        );
    }

    public async ValueTask DisposeAsync()
    {
        await output.DisposeAsync();
        await product.DisposeAsync();
    }

    private WideKeelOptions Options => product.Services.GetRequiredService<WideKeelOptions>();

    private Task<int> VerifyAsync() =>
        new VerifyAll(Options, product.Services.GetRequiredService<RestKeyring>(), output).RunAsync(
            TestContext.Current.CancellationToken
        );

    private string Copy() =>
        Directory.EnumerateFiles(Options.SafekeepingFolder, "*", SearchOption.AllDirectories).Single();

    [Fact]
    public async Task Where_all_is_well_there_is_no_finding() => (await VerifyAsync()).ShouldBe(0);

    [Fact]
    public async Task It_says_of_each_kind_how_much_was_looked_at()
    {
        await VerifyAsync();
        output
            .ToString()
            .Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .ShouldBe([
                "Sealed segments: 0 files verified, no finding.",
                "Safekeeping: 1 copy verified, no finding.",
                "Evidence: 0 files verified, no finding.",
                "Bundles: 0 bags verified, no finding.",
            ]);
    }

    [Fact]
    public async Task A_copy_that_was_changed_is_a_finding()
    {
        File.AppendAllText(Copy(), "x");
        (await VerifyAsync()).ShouldBe(1);
    }

    [Fact]
    public async Task A_copy_that_is_gone_is_a_finding()
    {
        File.Delete(Copy());
        (await VerifyAsync()).ShouldBe(1);
    }
}
