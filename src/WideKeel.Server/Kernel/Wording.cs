using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Server.Kernel;

/// <summary>Numbers, days and counts as sentences on screen and in messages write them.</summary>
internal static class Wording
{
    private static readonly LocalDatePattern DayPattern = LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu");

    /// <summary>How far away a day is: "12 days left", "today", "3 days late".</summary>
    public static string Left(LocalDate today, LocalDate by) =>
        NodaTime.Period.DaysBetween(today, by) switch
        {
            0 => "today",
            var days and > 0 => $"{Plural(days, "day")} left",
            var days => $"{Plural(-days, "day")} late",
        };

    /// <summary>With thousands separators: <c>1,234</c>.</summary>
    public static string Number(long number) => number.ToString("N0", CultureInfo.InvariantCulture);

    /// <summary><c>14 Mar 2026</c>.</summary>
    public static string Day(LocalDate day) => DayPattern.Format(day);

    /// <summary><c>1 item</c>, <c>1,234 items</c>.</summary>
    /// <param name="many">The word for several, where it is not the word with an s.</param>
    public static string Plural(long count, string word, string? many = null) =>
        $"{Number(count)} {(count == 1 ? word : many ?? word + "s")}";

    /// <summary>An id as the ledger writes it.</summary>
    public static string Id(long id) => id.ToString(CultureInfo.InvariantCulture);
}
