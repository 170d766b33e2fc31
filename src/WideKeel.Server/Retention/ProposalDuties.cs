namespace WideKeel.Server.Retention;

/// <summary>What another person asked for and the caller may decide.</summary>
internal sealed class ProposalDuties(IEnumerable<IActHandler> handlers) : IDutySource
{
    public async Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        [
            .. (await Proposals.WaitingAsync(handlers, new(asked.Db, asked.Calendar, asked.Cancel), asked.Caller))
                .Where(p => p.MayNotDecide is null)
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
