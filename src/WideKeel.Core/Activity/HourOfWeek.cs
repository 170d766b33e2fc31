using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>Clock hours, counted from 1970 in UTC, and what they are in the organisation's zone.</summary>
public static class HourOfWeek
{
    /// <summary>Hours of a week.</summary>
    public const long Week = 7 * 24;

    public static long Of(Instant time) => (long)Math.Floor(time.ToUnixTimeMilliseconds() / 3_600_000.0);

    public static Instant Begins(long hour) => Instant.FromUnixTimeSeconds(hour * 3600);

    public static LocalDateTime Local(long hour, DateTimeZone zone) => Begins(hour).InZone(zone).LocalDateTime;

    public static bool IsWeekend(LocalDateTime at) => IsWeekend(at.DayOfWeek);

    public static bool IsWeekend(IsoDayOfWeek day) => day is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday;
}
