using System.Globalization;
using System.Text;
using NodaTime;

namespace WideKeel.Core.Time;

/// <summary>
/// A length of time in calendar units, written as an ISO 8601 duration <c>PnYnMnWnD</c> (ISO 8601-1:2019 §5.5.2).
/// Never negative, never zero in a rule; no time of day.
/// </summary>
/// <param name="Years">0 to 999.</param>
/// <param name="Months">0 to 11,988.</param>
/// <param name="Weeks">0 to 52,142.</param>
/// <param name="Days">0 to 364,999.</param>
public readonly record struct Period(int Years, int Months, int Weeks, int Days) : IComparable<Period>
{
    /// <summary>No record is kept by period for longer than this; "permanent" is the word for more.</summary>
    public const int MaxYears = 999;

    public static Period OfYears(int years) => new(years, 0, 0, 0);

    public static Period OfMonths(int months) => new(0, months, 0, 0);

    public static Period OfDays(int days) => new(0, 0, 0, days);

    public bool IsZero => this == default;

    /// <summary>
    /// Adds the period to a date: years and months first, together, with the day clamped to the month's end; then weeks
    /// and days. 31 January + P1M is the last day of February; 29 February 2020 + P1Y1M is 29 March 2021.
    /// </summary>
    public LocalDate AddTo(LocalDate date) => date.PlusMonths((12 * Years) + Months).PlusDays((7 * Weeks) + Days);

    /// <summary>Orders by mean length (a year 365.2425 days); only for sorting lists, never for deciding.</summary>
    /// <summary>The date this much earlier, by the same rule: months first, then days.</summary>
    public LocalDate SubtractFrom(LocalDate date) =>
        date.PlusMonths(-((12 * Years) + Months)).PlusDays(-((7 * Weeks) + Days));

    public int CompareTo(Period other) => MeanDays.CompareTo(other.MeanDays);

    private double MeanDays => (365.2425 * (Years + (Months / 12.0))) + (7 * Weeks) + Days;

    public static bool operator <(Period a, Period b) => a.CompareTo(b) < 0;

    public static bool operator >(Period a, Period b) => a.CompareTo(b) > 0;

    public static bool operator <=(Period a, Period b) => a.CompareTo(b) <= 0;

    public static bool operator >=(Period a, Period b) => a.CompareTo(b) >= 0;

    /// <summary>
    /// Reads <c>P7Y</c>, <c>P1Y6M</c>, <c>P2W</c>, <c>P90D</c>. Each unit at most once, in this order; zero in total is
    /// refused.
    /// </summary>
    /// <param name="mayBeZero">Takes P0D too: until the event, until the end of the fiscal year.</param>
    public static Outcome<Period> Parse(string? text, string field = "period", bool mayBeZero = false)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            return new Refusal("period-missing", field, "A period is needed, such as P7Y for seven years.");
        }

        if (text.Contains('-', StringComparison.Ordinal))
        {
            return new Refusal(
                "period-negative",
                field,
                $"The period “{Clip(text)}” is negative; a record cannot be kept for less than no time."
            );
        }

        if (text[0] != 'P' || text.Length < 3)
        {
            return Malformed(text, field);
        }

        Span<int> units = stackalloc int[4];
        if (ReadUnits(text, field, units) is { } wrong)
        {
            return wrong;
        }

        var period = new Period(units[0], units[1], units[2], units[3]);
        if (period.IsZero && !mayBeZero)
        {
            return new Refusal("period-zero", field, "A period of zero keeps nothing; give at least one day.");
        }

        return period.MeanDays > 365.2425 * MaxYears ? TooLong(text, field) : period;
    }

    /// <param name="units">Takes the years, months, weeks and days.</param>
    private static Refusal? ReadUnits(string text, string field, Span<int> units)
    {
        const string letters = "YMWD";
        var next = 0;
        for (var i = 1; i < text.Length; i++)
        {
            var start = i;
            while (i < text.Length && char.IsAsciiDigit(text[i]))
            {
                i++;
            }

            var unit = i == start || i == text.Length ? -1 : letters.IndexOf(text[i], StringComparison.Ordinal);
            if (unit < next)
            {
                return Malformed(text, field);
            }

            var digits = text.AsSpan(start, i - start);
            if (
                !int.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out units[unit])
                || units[unit] > 365_000
            )
            {
                return TooLong(text, field);
            }

            next = unit + 1;
        }

        return null;
    }

    public override string ToString()
    {
        if (IsZero)
        {
            return "P0D";
        }

        var text = new StringBuilder("P");
        Append(text, Years, 'Y');
        Append(text, Months, 'M');
        Append(text, Weeks, 'W');
        Append(text, Days, 'D');
        return text.ToString();
    }

    /// <summary>The period in words, right for one and many: <c>1 year and 6 months</c>.</summary>
    public string InWords()
    {
        List<string> parts = [];
        AddWords(parts, Years, "year");
        AddWords(parts, Months, "month");
        AddWords(parts, Weeks, "week");
        AddWords(parts, Days, "day");
        return parts.Count switch
        {
            0 => "no time",
            1 => parts[0],
            _ => string.Join(", ", parts[..^1]) + " and " + parts[^1],
        };
    }

    private static void AddWords(List<string> parts, int count, string unit)
    {
        if (count > 0)
        {
            parts.Add(count == 1 ? $"1 {unit}" : string.Create(CultureInfo.InvariantCulture, $"{count} {unit}s"));
        }
    }

    private static void Append(StringBuilder text, int count, char unit)
    {
        if (count > 0)
        {
            text.Append(CultureInfo.InvariantCulture, $"{count}{unit}");
        }
    }

    private static Refusal Malformed(string text, string field) =>
        new(
            "period-malformed",
            field,
            $"“{Clip(text)}” is not an ISO 8601 period; write for example P7Y, P18M, P2W or P90D."
        );

    private static Refusal TooLong(string text, string field) =>
        new("period-too-long", field, $"“{Clip(text)}” is longer than {MaxYears} years; choose “permanently” instead.");

    private static string Clip(string text) => text.Length <= 40 ? text : text[..40] + "…";
}
