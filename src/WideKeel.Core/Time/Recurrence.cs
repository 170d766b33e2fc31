using Ical.Net.DataTypes;
using Ical.Net.Evaluation;
using NodaTime;

namespace WideKeel.Core.Time;

/// <summary>Days that recur by a rule of RFC 5545 §3.3.10, such as <c>FREQ=MONTHLY;INTERVAL=3</c>.</summary>
public static class Recurrence
{
    /// <summary>Refused where the text is no rule of whole days.</summary>
    /// <param name="rule">Empty: only the first day.</param>
    public static Refusal? Check(string rule, string field)
    {
        if (rule.Length == 0)
        {
            return null;
        }

        try
        {
            var pattern = new RecurrenceRule(rule);
            return pattern.Frequency >= Ical.Net.FrequencyType.Daily
                ? null
                : new Refusal("recurrence-malformed", field, "A rule recurs by days, weeks, months or years.");
        }
        catch (Exception e) when (e is ArgumentException or FormatException or OverflowException or EvaluationException)
        {
            return new Refusal(
                "recurrence-malformed",
                field,
                $"“{rule}” is no rule such as FREQ=MONTHLY;INTERVAL=3: {e.Message}"
            );
        }
    }

    /// <summary>A sound rule as words: <c>every 3 months</c>; rules with more than that are given as they are.</summary>
    public static string InWords(string rule)
    {
        var pattern = new RecurrenceRule(rule);
        var unit = pattern.Frequency switch
        {
            Ical.Net.FrequencyType.Daily => "day",
            Ical.Net.FrequencyType.Weekly => "week",
            Ical.Net.FrequencyType.Monthly => "month",
            _ => "year",
        };
        var isPlain = rule.Split(';', StringSplitOptions.RemoveEmptyEntries)
            .All(p =>
                p.StartsWith("FREQ=", StringComparison.OrdinalIgnoreCase)
                || p.StartsWith("INTERVAL=", StringComparison.OrdinalIgnoreCase)
            );
        return !isPlain ? rule
            : pattern.Interval == 1 ? $"every {unit}"
            : string.Create(System.Globalization.CultureInfo.InvariantCulture, $"every {pattern.Interval} {unit}s");
    }

    /// <summary>The days of a rule that is sound, in their order, the first one included.</summary>
    /// <param name="through">The last day that is asked for.</param>
    public static IEnumerable<LocalDate> Days(LocalDate first, string rule, LocalDate through)
    {
        if (rule.Length == 0)
        {
            return first <= through ? [first] : [];
        }

        var start = new CalDateTime(first.Year, first.Month, first.Day);
        var when = new Ical.Net.CalendarComponents.CalendarEvent
        {
            Start = start,
            RecurrenceRule = new RecurrenceRule(rule),
        };
        return when.GetOccurrences(start)
            .Select(o => new LocalDate(o.Period.StartTime.Year, o.Period.StartTime.Month, o.Period.StartTime.Day))
            .TakeWhile(d => d <= through);
    }

    /// <summary>The first day after one; null where the rule is over.</summary>
    public static LocalDate? Next(LocalDate first, string rule, LocalDate after) =>
        Days(first, rule, after.PlusYears(20)).Where(d => d > after).Select(d => (LocalDate?)d).FirstOrDefault();

    /// <summary>The last day up to one; null where there is none yet.</summary>
    public static LocalDate? Latest(LocalDate first, string rule, LocalDate upTo) =>
        Days(first, rule, upTo).Select(d => (LocalDate?)d).LastOrDefault();
}
