namespace WideKeel.Core.Activity;

/// <summary>The measure of a window that slides: events come in at its end and go out at its beginning.</summary>
internal sealed class MeasuredWindow(WatchMeasure of)
{
    private readonly Dictionary<string, int> values = new(StringComparer.Ordinal);
    private long count;
    private decimal sum;

    public decimal Measure =>
        of.Distinct is not null ? values.Count
        : of.Amount ? sum
        : count;

    public void Add(ActivityEvent e)
    {
        count++;
        sum += e.Amount ?? 0;
        if (of.Distinct?.ValueOf(e) is { } value)
        {
            values[value] = values.GetValueOrDefault(value) + 1;
        }
    }

    public void Remove(ActivityEvent e)
    {
        count--;
        sum -= e.Amount ?? 0;
        if (of.Distinct?.ValueOf(e) is { } value && --values[value] == 0)
        {
            values.Remove(value);
        }
    }
}
