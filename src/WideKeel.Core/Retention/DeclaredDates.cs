using System.Globalization;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Time;

namespace WideKeel.Core.Retention;

/// <summary>
/// The dates that an item had when it came under a rule that fixes them: what its file or its fields say later starts no
/// clock. Immutable.
/// </summary>
public sealed class DeclaredDates
{
    private readonly (string Code, LocalDate Date)[] dates;

    private DeclaredDates((string, LocalDate)[] dates) => this.dates = dates;

    public static DeclaredDates None { get; } = new([]);

    /// <summary>By the code of their trigger.</summary>
    public IReadOnlyList<(string Code, LocalDate Date)> All => dates;

    /// <summary>Null where the trigger had no date then.</summary>
    public LocalDate? Of(Trigger trigger)
    {
        // One to three of them: a search by eye.
        foreach (var (code, date) in dates)
        {
            if (code == trigger.Code)
            {
                return date;
            }
        }

        return null;
    }

    /// <summary>
    /// The same, with the dates that an item has for those triggers of a rule which had none so far. A trigger event
    /// is no date of the item's own and is not fixed.
    /// </summary>
    public DeclaredDates With(SeriesRule rule, in ItemFacts item, LocalDate today)
    {
        var known = this;
        foreach (var trigger in rule.Clauses.Select(c => c.Trigger).Distinct())
        {
            if (
                trigger.Kind.OfItem
                && known.Of(trigger) is null
                && trigger.Kind.DateOf(item, trigger.Name) is { } date
                && PlausibleDate.Holds(date, today)
            )
            {
                known = new([.. known.dates, (trigger.Code, date)]);
            }
        }

        return known;
    }

    /// <summary>As a column holds them: <c>created=7305;field:closed=9000</c>, by day numbers.</summary>
    public override string ToString() =>
        string.Join(
            ';',
            dates.Select(d => string.Create(CultureInfo.InvariantCulture, $"{d.Code}={d.Date.ToDayNumber()}"))
        );

    /// <summary>Reads what <see cref="ToString"/> writes; null for null and for nothing.</summary>
    public static DeclaredDates? Read(string? text) =>
        string.IsNullOrEmpty(text)
            ? null
            : new([
                .. text.Split(';')
                    .Select(part => part.Split('='))
                    .Select(pair => (pair[0], DayNumber.ToDate(int.Parse(pair[1], CultureInfo.InvariantCulture)))),
            ]);
}
