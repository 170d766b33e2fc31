namespace WideKeel.Core.Activity;

/// <summary>Distances on a sphere with the earth's mean radius; off the ellipsoid by at most 0.6 %.</summary>
public static class Sphere
{
    /// <summary>Mean radius R₁ of GRS 80, in kilometres (Moritz, Geodetic Reference System 1980).</summary>
    public const double RadiusKm = 6371.0088;

    /// <summary>Great-circle distance by the haversine formula, in kilometres; all arguments in degrees.</summary>
    public static double DistanceKm(double latitude1, double longitude1, double latitude2, double longitude2)
    {
        var (a, b) = (double.DegreesToRadians(latitude1), double.DegreesToRadians(latitude2));
        var north = Math.Sin((b - a) / 2);
        var east = Math.Sin(double.DegreesToRadians(longitude2 - longitude1) / 2);
        var h = (north * north) + (Math.Cos(a) * Math.Cos(b) * east * east);
        return 2 * RadiusKm * Math.Asin(Math.Min(1, Math.Sqrt(h)));
    }
}
