using WideKeel.Store.Ledger;

namespace WideKeel.Server.Ledger;

/// <summary>Whether the ledger is whole.</summary>
internal sealed class LedgerMeasures(WideKeelOptions options) : IMeasureSource
{
    public IReadOnlyList<Measure> Measures =>
        [
            new(
                "ledger-verified",
                "The ledger is whole",
                "The ledger, read from its first entry and held against its signed heads.",
                "operations",
                VerifyAsync
            )
            {
                IsCostly = true,
            },
        ];

    private async Task<IReadOnlyList<MeasuredSubject>> VerifyAsync(MeasureQuestion asked)
    {
        var report = await Task.Run(() => LedgerReader.Verify(options.DatabaseFile), asked.Cancel);
        return
        [
            new(
                "ledger",
                "The ledger",
                "",
                report.Finding is null,
                report.Finding
                    ?? $"{Wording.Number(report.Entries)} entries and {Wording.Number(report.Heads)} heads agree.",
                "/activity/ledger"
            ),
        ];
    }
}
