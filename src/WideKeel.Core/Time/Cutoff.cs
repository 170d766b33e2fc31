using NodaTime;

namespace WideKeel.Core.Time;

/// <summary>The end of the period at which the clock really starts.</summary>
public enum Cutoff
{
    None,
    Month,
    Quarter,
    Year,
    Fiscal,
}

/// <summary>
/// The last day of an organisation's fiscal year, any month and day. 29 February is read as the last day of February.
/// </summary>
public readonly record struct FiscalYearEnd
{
    public FiscalYearEnd(int month, int day)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(month, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(month, 12);
        ArgumentOutOfRangeException.ThrowIfLessThan(day, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(day, CalendarSystem.Iso.GetDaysInMonth(2024, month));
        (Month, Day) = (month, day);
    }

    /// <summary>1 to 12.</summary>
    public int Month { get; }

    /// <summary>1 to 31, valid in the month of a leap year.</summary>
    public int Day { get; }

    public static FiscalYearEnd CalendarYear { get; } = new(12, 31);

    /// <summary>Reads <c>MM-DD</c>, e.g. <c>04-05</c> for 5 April.</summary>
    public static Outcome<FiscalYearEnd> Parse(string? text, string field = "fiscalYearEnd")
    {
        if (
            text is { Length: 5 }
            && text[2] == '-'
            && int.TryParse(text.AsSpan(0, 2), out var month)
            && int.TryParse(text.AsSpan(3), out var day)
            && month is >= 1 and <= 12
            && day >= 1
            && day <= CalendarSystem.Iso.GetDaysInMonth(2024, month)
        )
        {
            return new FiscalYearEnd(month, day);
        }

        return new Refusal(
            "fiscal-year-end-malformed",
            field,
            "The fiscal year's last day is written MM-DD, for example 09-30 or 04-05."
        );
    }

    /// <summary>The last day of the fiscal year that contains the date.</summary>
    public LocalDate EndOfYearContaining(LocalDate date)
    {
        var end = EndIn(date.Year);
        return date <= end ? end : EndIn(date.Year + 1);
    }

    private LocalDate EndIn(int year) =>
        new(year, Month, Math.Min(Day, CalendarSystem.Iso.GetDaysInMonth(year, Month)));

    public override string ToString() => $"{Month:00}-{Day:00}";
}

public static class CutoffDates
{
    /// <summary>
    /// The last day of the cutoff period that contains <paramref name="date"/>; the date itself without a cutoff.
    /// </summary>
    public static LocalDate LastDay(this Cutoff cutoff, LocalDate date, FiscalYearEnd fiscalYearEnd) =>
        cutoff switch
        {
            Cutoff.None => date,
            Cutoff.Month => date.With(DateAdjusters.EndOfMonth),
            Cutoff.Quarter => new LocalDate(date.Year, (((date.Month - 1) / 3) * 3) + 3, 1).With(
                DateAdjusters.EndOfMonth
            ),
            Cutoff.Year => new LocalDate(date.Year, 12, 31),
            Cutoff.Fiscal => fiscalYearEnd.EndOfYearContaining(date),
            _ => throw new ArgumentOutOfRangeException(nameof(cutoff)),
        };
}
