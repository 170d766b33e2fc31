using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>What another person asked for and the caller may decide.</summary>
internal sealed class ProposalDuties : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        [
            .. (await Proposals.VisibleAsync(asked.Caller, asked.Db, asked.Cancel))
                .Where(p => p.State == ProposalState.Waiting && p.MayNotDecide is null)
                .Select(p => new Duty(
                    "proposal",
                    $"proposal-{p.Id}",
                    p.Title,
                    $"{p.AskedBy} asks for your agreement: {p.Why}",
                    null,
                    $"since {Wording.Day(asked.Calendar.DateOf(p.AskedAt))}",
                    "Decide",
                    "/",
                    true
                )),
        ];
}
