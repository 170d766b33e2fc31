using NodaTime;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Something that waits for a person: what, by when, why, and the one thing to do. Today shows it, and what has a day
/// stands in the calendar feed.
/// </summary>
/// <param name="Kind">A word for what it is about, such as <c>sign</c>; the part that brings it chooses it.</param>
/// <param name="Key">Tells it from every other duty, the same each time it is asked for.</param>
/// <param name="By">The day by which it should be done; null when there is none.</param>
/// <param name="ByWords">The same in words, or what stands in place of a day.</param>
/// <param name="Link">Path of the screen that its button opens.</param>
public sealed record Duty(
    string Kind,
    string Key,
    string Title,
    string Why,
    LocalDate? By,
    string ByWords,
    string Action,
    string Link,
    bool Pressing
);

/// <summary>A day that belongs in a person's calendar and asks for nothing.</summary>
public sealed record CalendarDay(string Key, LocalDate Day, string Title, string Link);

/// <summary>Who asks for duties, and where they are read.</summary>
public sealed record DutyQuestion(Caller Caller, WideKeelDb Db, OrganisationCalendar Calendar, CancellationToken Cancel)
{
    public LocalDate Today => Calendar.Today;
}

/// <summary>What waits in one part.</summary>
public interface IDutySource : IContribution
{
    Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked);

    /// <summary>Other days of the caller's calendar.</summary>
    Task<IReadOnlyList<CalendarDay>> DaysAsync(DutyQuestion asked) => Task.FromResult<IReadOnlyList<CalendarDay>>([]);
}
