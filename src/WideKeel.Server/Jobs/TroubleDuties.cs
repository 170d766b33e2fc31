using WideKeel.Core.People;

namespace WideKeel.Server.Jobs;

/// <summary>What the server cannot do at present, for those who look after it.</summary>
internal sealed class TroubleDuties(Troubles troubles) : IDutySource
{
    public Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
        Task.FromResult<IReadOnlyList<Duty>>(
            asked.Caller.May(Right.ManageSettings)
                ?
                [
                    .. troubles.Open.Select(t => new Duty(
                        "trouble",
                        $"trouble-{t.Key}",
                        t.Title,
                        t.Why,
                        null,
                        $"since {Wording.Day(asked.Calendar.DateOf(t.Since))}",
                        "See it",
                        t.Link,
                        true
                    )),
                ]
                : []
        );
}
