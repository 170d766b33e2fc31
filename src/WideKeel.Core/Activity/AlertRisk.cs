using NodaTime;

namespace WideKeel.Core.Activity;

/// <summary>How weighty an act or an alert is.</summary>
public enum AlertSeverity
{
    Low,
    Medium,
    High,
}

/// <summary>What is known of an alert when it is raised; what nobody knows counts nothing.</summary>
/// <param name="Severity">Of the act, by the organisation's table.</param>
/// <param name="CountryShare">Part of the organisation's successful sign-ins from this country, 0 to 1; null without a
/// country.</param>
/// <param name="NetworkNamed">Whether the address lies in a network that the organisation names; null without one.</param>
/// <param name="LocalTime">In the organisation's zone.</param>
/// <param name="Surprise">−log10 of the tail, for what is unusual.</param>
/// <param name="Privileged">The act changes accounts, roles, permissions or settings.</param>
/// <param name="Age">Since the account's first event.</param>
/// <param name="FailuresBefore">Failed sign-ins of the account in the hour before.</param>
/// <param name="Quiet">Since the account's event before; null where there is none.</param>
/// <param name="NewDevice">The account was never seen on this device before.</param>
/// <param name="Left">The person has left the organisation.</param>
public sealed record AlertFacts(
    AlertSeverity Severity,
    double? CountryShare = null,
    bool? NetworkNamed = null,
    LocalDateTime? LocalTime = null,
    double? Surprise = null,
    bool Privileged = false,
    Duration? Age = null,
    int FailuresBefore = 0,
    Duration? Quiet = null,
    bool NewDevice = false,
    bool Left = false
);

/// <summary>One reason for an alert's risk.</summary>
/// <param name="Value">0 where it does not hold; 1 where it holds once.</param>
/// <param name="Weight">What the organisation's weight for it is.</param>
public sealed record RiskFactor(string Name, string Words, double Value, double Weight)
{
    /// <summary>What it adds to the sum.</summary>
    public double Part => Value * Weight;
}

/// <summary>
/// The risk of an alert: 100 · 1 / (1 + e^−z), where z is <see cref="Bias"/> plus every factor's value times its weight.
/// Feedback is one step of stochastic gradient ascent on the log-likelihood of a logistic regression: w += η (y − p) x
/// with y = 1 for useful and 0 for noise, and p the risk as it was (0 to 1).
/// </summary>
public static class AlertRisk
{
    /// <summary>Of an alert without any factor: a risk of 12.</summary>
    public const double Bias = -2;

    /// <summary>η, the length of a step.</summary>
    public const double Step = 0.25;

    private static readonly Duration Young = Duration.FromDays(14);
    private static readonly Duration Dormant = Duration.FromDays(30);

    /// <summary>The weights that the product begins with, by factor.</summary>
    public static IReadOnlyDictionary<string, double> Weights { get; } =
        new Dictionary<string, double>
        {
            ["severity"] = 0.9,
            ["country"] = 0.6,
            ["network"] = 0.7,
            ["hour"] = 0.7,
            ["surprise"] = 0.5,
            ["privilege"] = 0.6,
            ["young account"] = 0.5,
            ["failures before"] = 0.8,
            ["dormant"] = 0.8,
            ["new device"] = 0.5,
            ["left"] = 2,
        };

    /// <summary>The factors that hold, the heaviest first.</summary>
    /// <param name="weights">The organisation's; a factor that is missing has the weight it begins with.</param>
    public static IReadOnlyList<RiskFactor> Factors(AlertFacts facts, IReadOnlyDictionary<string, double> weights)
    {
        List<RiskFactor> factors = [];
        Add("severity", "The act is weighty by itself", (double)(int)facts.Severity);
        if (facts.CountryShare is { } share)
        {
            Add(
                "country",
                $"{share:P1} of successful sign-ins come from this country",
                Math.Min(3, -Math.Log10(Math.Max(share, 0.001)))
            );
        }

        Add("network", "The address is in no named network", facts.NetworkNamed == false ? 1 : 0);
        if (facts.LocalTime is { } local)
        {
            var odd =
                local.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday || local.Hour < 6 || local.Hour >= 20;
            Add("hour", "At night or on a weekend", odd ? 1 : 0);
        }

        Add("surprise", "Far from what is usual", Math.Min(4, (facts.Surprise ?? 0) / 3));
        Add("privilege", "It changes accounts, roles, permissions or settings", facts.Privileged ? 1 : 0);
        Add("young account", "The account is less than two weeks old", facts.Age < Young ? 1 : 0);
        Add("failures before", "Failed sign-ins in the hour before", Math.Min(1, facts.FailuresBefore / 5.0));
        Add("dormant", "The account was quiet for a month before", facts.Quiet > Dormant ? 1 : 0);
        Add("new device", "The account was never seen on this device", facts.NewDevice ? 1 : 0);
        Add("left", "The person has left", facts.Left ? 1 : 0);
        return [.. factors.Where(f => f.Value > 0).OrderByDescending(f => f.Part)];

        void Add(string name, string words, double value) =>
            factors.Add(new(name, words, value, weights.TryGetValue(name, out var w) ? w : Weights[name]));
    }

    /// <summary>0 to 100.</summary>
    public static int Of(IEnumerable<RiskFactor> factors) =>
        (int)Math.Round(100 * Chance(factors), MidpointRounding.AwayFromZero);

    /// <summary>The weights of the factors after somebody found the alert useful, or noise.</summary>
    public static IReadOnlyDictionary<string, double> Learn(IReadOnlyList<RiskFactor> factors, bool useful)
    {
        var error = (useful ? 1 : 0) - Chance(factors);
        return factors.ToDictionary(f => f.Name, f => Math.Clamp(f.Weight + (Step * error * f.Value), -4, 4));
    }

    /// <summary>The band of a risk.</summary>
    public static AlertSeverity BandOf(int risk) =>
        risk >= 70 ? AlertSeverity.High
        : risk >= 40 ? AlertSeverity.Medium
        : AlertSeverity.Low;

    private static double Chance(IEnumerable<RiskFactor> factors) =>
        1 / (1 + Math.Exp(-(Bias + factors.Sum(f => f.Part))));
}
