namespace WideKeel.Core.Retention;

/// <summary>How often something was right, with the interval in which the true share lies.</summary>
/// <param name="Share">0 to 1; null while nothing was judged.</param>
/// <param name="Low">Lower bound of the 95 % interval, 0 to 1.</param>
/// <param name="High">Upper bound, 0 to 1.</param>
public sealed record Precision(int Right, int Wrong, double? Share, double? Low, double? High)
{
    /// <summary>The 97.5 % point of the normal distribution.</summary>
    private const double Z = 1.959963984540054;

    /// <summary>
    /// The score interval of E. B. Wilson (Journal of the American Statistical Association 22, 1927, p. 209), without
    /// continuity correction.
    /// </summary>
    public static Precision Of(int right, int wrong)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(right);
        ArgumentOutOfRangeException.ThrowIfNegative(wrong);
        if (right + wrong == 0)
        {
            return new(0, 0, null, null, null);
        }

        double n = right + wrong;
        var share = right / n;
        var middle = share + (Z * Z / (2 * n));
        var half = Z * Math.Sqrt((share * (1 - share) / n) + (Z * Z / (4 * n * n)));
        var scale = 1 + (Z * Z / n);
        return new(
            right,
            wrong,
            share,
            right == 0 ? 0 : (middle - half) / scale,
            wrong == 0 ? 1 : (middle + half) / scale
        );
    }
}
