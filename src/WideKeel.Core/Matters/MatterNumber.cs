using System.Globalization;
using System.Security.Cryptography;

namespace WideKeel.Core.Matters;

/// <summary>
/// Numbers of matters. They are drawn, not counted: whoever sees two of them must not learn how many others there are.
/// </summary>
public static class MatterNumber
{
    /// <summary>Digits and capitals without those that are taken for one another (0 O, 1 I L, 5 S, U V), and without
    /// vowels, so that no word comes out.</summary>
    public const string Alphabet = "2346789BCDFGHJKMNPQRTVWXYZ";

    private const int Length = 4;
    private const int WidestStep = 1 << 20;

    /// <summary>A number as people speak of it: <c>M-2026-7KQD</c>; one of 456,976 a year.</summary>
    public static string Draw(int year) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"M-{year:0000}-{RandomNumberGenerator.GetString(Alphabet, Length)}"
        );

    /// <summary>An id above all others by an unknown step of 1 to 1,048,576: ids stay in the order of opening, and an
    /// address counts nothing either.</summary>
    public static long IdAfter(long highest) => highest + RandomNumberGenerator.GetInt32(1, WidestStep + 1);
}
