using MathNet.Numerics;

namespace WideKeel.Core.Activity;

/// <summary>
/// How surprising a count is: −log10 of the chance of at least so many. In logarithms throughout, because what matters
/// is far beyond the range in which a chance differs from nothing.
/// </summary>
public static class Tail
{
    /// <summary>
    /// −log10 P(X ≥ x) for X ~ Poisson(mean) where the variance is at most the mean, else for the negative binomial
    /// distribution with this mean and variance.
    /// </summary>
    /// <param name="x">0 or more; 0 is never surprising.</param>
    /// <param name="mean">More than 0.</param>
    public static double Surprise(long x, double mean, double variance)
    {
        if (x <= 0)
        {
            return 0;
        }

        var poisson = variance <= mean;
        // Negative binomial with r = mean²/(variance − mean) and q = 1 − mean/variance: pmf(k+1)/pmf(k) = q (k+r)/(k+1).
        var r = poisson ? 0 : mean * mean / (variance - mean);
        var q = poisson ? 0 : 1 - (mean / variance);
        var log = poisson
            ? (x * Math.Log(mean)) - mean - SpecialFunctions.GammaLn(x + 1.0)
            : SpecialFunctions.GammaLn(x + r)
                - SpecialFunctions.GammaLn(r)
                - SpecialFunctions.GammaLn(x + 1.0)
                + (r * Math.Log(mean / variance))
                + (x * Math.Log(q));
        if (x <= mean)
        {
            return -Math.Log10(1 - Below());
        }

        double sum = 1,
            term = 1;
        for (var k = x; term > sum * 1e-17; k++)
        {
            term *= Ratio(k);
            sum += term;
        }

        return -(log + Math.Log(sum)) / Math.Log(10);

        double Ratio(double k) => poisson ? mean / (k + 1) : q * (k + r) / (k + 1);

        // P(X < x), downward from pmf(x − 1).
        double Below()
        {
            double below = 0,
                part = Math.Exp(log);
            for (var k = x - 1; k >= 0; k--)
            {
                part /= Ratio(k);
                below += part;
                if (part < below * 1e-17)
                {
                    break;
                }
            }

            return Math.Min(below, 1 - 1e-16);
        }
    }

    /// <summary>The middle value; of an even number, the mean of the middle two.</summary>
    /// <param name="values">At least one.</param>
    public static double Median(IEnumerable<double> values)
    {
        var sorted = values.Order().ToList();
        var middle = sorted.Count / 2;
        return sorted.Count % 2 == 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
    }
}
