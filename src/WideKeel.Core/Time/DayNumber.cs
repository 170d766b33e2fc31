using NodaTime;

namespace WideKeel.Core.Time;

/// <summary>Dates as whole days since 1 January 1970, the form in which columns hold them.</summary>
public static class DayNumber
{
    private static readonly LocalDate Epoch = new(1970, 1, 1);

    public static int ToDayNumber(this LocalDate date) => NodaTime.Period.DaysBetween(Epoch, date);

    public static LocalDate ToDate(int dayNumber) => Epoch.PlusDays(dayNumber);
}
