using System.Globalization;
using NodaTime.Text;

namespace WideKeel.Core.Activity;

/// <summary>What a parameter of a statement is.</summary>
public enum StatementValue
{
    Text,
    Number,
    Day,
    Moment,
}

/// <summary>A value that a statement names by <c>$name</c>.</summary>
/// <param name="Value">
/// As written: a day as <c>2026-06-15</c>, a moment in UTC as <c>2026-06-15T08:00:00Z</c>; null or empty for none.
/// </param>
public sealed record StatementParameter(string Name, StatementValue Type, string? Value)
{
    /// <summary>The value for the engine: string, double, DateOnly or DateTime in UTC; null for none.</summary>
    public Outcome<object?> Read()
    {
        if (Type == StatementValue.Text || string.IsNullOrWhiteSpace(Value))
        {
            return (object?)(string.IsNullOrWhiteSpace(Value) ? null : Value);
        }

        return Type switch
        {
            StatementValue.Number => double.TryParse(
                Value,
                NumberStyles.Float,
                CultureInfo.InvariantCulture,
                out var number
            ) && double.IsFinite(number)
                ? number
                : Malformed("a number such as 12.5"),
            StatementValue.Day => LocalDatePattern.Iso.Parse(Value) is { Success: true } day
                ? day.Value.ToDateOnly()
                : Malformed("a day such as 2026-06-15"),
            _ => InstantPattern.ExtendedIso.Parse(Value) is { Success: true } moment
                ? moment.Value.ToDateTimeUtc()
                : Malformed("a moment such as 2026-06-15T08:00:00Z"),
        };
    }

    private Outcome<object?> Malformed(string what) =>
        new Refusal("parameter-malformed", Name, $"The value of ${Name} is “{Value}”; it has to be {what}.");
}
