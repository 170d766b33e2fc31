using WideKeel.Core.People;

namespace WideKeel.Server.Ledger;

/// <summary>A second place of the heads that cannot be reached.</summary>
internal sealed class LedgerDuties(SecondPlace second) : IDutySource
{
    public Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        Task.FromResult<IReadOnlyList<Duty>>(
            second.Failure is { } why && asked.Caller.May(Right.ManageSettings)
                ?
                [
                    new(
                        "heads",
                        "heads-unsent",
                        "The ledger's heads do not reach their second place",
                        why,
                        null,
                        "no date",
                        "Open the ledger",
                        "/activity/ledger",
                        true
                    ),
                ]
                : []
        );
}
