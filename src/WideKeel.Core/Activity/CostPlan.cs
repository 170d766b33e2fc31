namespace WideKeel.Core.Activity;

/// <summary>What a place to keep events costs, in any one currency.</summary>
/// <param name="Fixed">A month, whatever is stored.</param>
/// <param name="Taken">For each GB (10⁹ bytes) that comes in.</param>
/// <param name="Stored">For each GB that lies there for a month.</param>
/// <param name="IncludedMonths">So many first months of each GB are stored without a price.</param>
public sealed record CostPlan(string Name, double Fixed, double Taken, double Stored, int IncludedMonths)
{
    /// <summary>The cost of one month.</summary>
    /// <param name="monthly">GB that come in each month.</param>
    /// <param name="months">How many months of them lie there at its end.</param>
    public double InMonth(double monthly, int months) => Fixed + (monthly * PerGigabyte(months));

    /// <summary>What each monthly GB costs in a month in which so many months of them lie there.</summary>
    public double PerGigabyte(int months) => Taken + (Stored * Math.Max(0, months - IncludedMonths));
}

/// <param name="Gigabytes">Stored at the end of the month.</param>
/// <param name="Costs">Of each plan, in its order.</param>
public sealed record CostMonth(int Month, double Gigabytes, IReadOnlyList<double> Costs);

/// <summary>What a month costs under each plan once storage has settled, at one volume.</summary>
public sealed record CostVolume(double EventsADay, IReadOnlyList<double> Costs);

/// <summary>Several plans beside one another.</summary>
/// <param name="Volumes">From nothing to twice the volume that matters, in even steps.</param>
/// <param name="SettlesAt">GB, once as much goes as comes.</param>
/// <param name="EvenEventsADay">The events a day at which the first two plans cost the same once storage has settled;
/// null where one is cheaper at every volume.</param>
public sealed record CostComparison(
    IReadOnlyList<CostMonth> Months,
    IReadOnlyList<CostVolume> Volumes,
    double SettlesAt,
    double? EvenEventsADay
)
{
    private const int Steps = 40;
    private const double Gigabyte = 1e9;
    private const double DaysAMonth = 365.2425 / 12;

    /// <param name="bytesAnEvent">Sealed.</param>
    /// <param name="months">For how long events are kept.</param>
    public static CostComparison Of(double eventsADay, double bytesAnEvent, int months, IReadOnlyList<CostPlan> plans)
    {
        var perEvent = bytesAnEvent * DaysAMonth / Gigabyte;
        var monthly = eventsADay * perEvent;
        double? even = null;
        if (plans.Count > 1)
        {
            var slope = plans[0].PerGigabyte(months) - plans[1].PerGigabyte(months);
            var volume = slope == 0 ? double.NaN : (plans[1].Fixed - plans[0].Fixed) / slope;
            even = volume > 0 ? volume / perEvent : null;
        }

        var most = 2 * Math.Max(eventsADay, even ?? 0);
        return new(
            [
                .. Enumerable
                    .Range(1, months)
                    .Select(m => new CostMonth(m, monthly * m, [.. plans.Select(p => p.InMonth(monthly, m))])),
            ],
            [
                .. Enumerable
                    .Range(0, Steps + 1)
                    .Select(i => most * i / Steps)
                    .Select(v => new CostVolume(v, [.. plans.Select(p => p.InMonth(v * perEvent, months))])),
            ],
            monthly * months,
            even
        );
    }
}
