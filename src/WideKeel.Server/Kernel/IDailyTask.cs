using NodaTime;
using WideKeel.Store.People;

namespace WideKeel.Server.Kernel;

/// <summary>
/// One thing that the daily run asks of a part, in the organisation's morning and in the one change of the whole run.
/// </summary>
public interface IDailyTask : IContribution
{
    /// <summary>It gathers what the others left, so it comes after them.</summary>
    bool IsLast => false;

    Task RunAsync(DailyQuestion asked);
}

/// <param name="Session">The change that the daily run is; jobs are put into the queue in it.</param>
public sealed record DailyQuestion(
    Store.WriteSession Session,
    Organisation Organisation,
    OrganisationCalendar Calendar,
    CancellationToken Cancel
)
{
    public LocalDate Today => Calendar.Today;
}
