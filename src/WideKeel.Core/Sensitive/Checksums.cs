using System.Globalization;
using System.Numerics;

namespace WideKeel.Core.Sensitive;

/// <summary>
/// Check digits of the identifiers that are recognised. Every method takes the identifier without separators.
/// </summary>
public static class Checksums
{
    /// <summary>ISO/IEC 7812-1, annex B.</summary>
    public static bool Luhn(string digits)
    {
        var sum = 0;
        for (var i = 0; i < digits.Length; i++)
        {
            var d = digits[^(i + 1)] - '0';
            sum +=
                i % 2 == 0 ? d
                : d < 5 ? 2 * d
                : (2 * d) - 9;
        }

        return sum % 10 == 0;
    }

    /// <summary>ISO/IEC 7064 MOD 97-10, letters counting from A = 10.</summary>
    public static bool Mod97(string text)
    {
        var rest = 0;
        foreach (var c in text)
        {
            rest = char.IsAsciiDigit(c)
                ? ((rest * 10) + c - '0') % 97
                : ((rest * 100) + char.ToUpperInvariant(c) - 'A' + 10) % 97;
        }

        return rest == 1;
    }

    /// <summary>ISO/IEC 7064 MOD 11-2; the last character may be X for 10.</summary>
    public static bool Mod11Radix2(string text)
    {
        var check = 0;
        foreach (var c in text)
        {
            check = ((2 * check) + (c is 'X' or 'x' ? 10 : c - '0')) % 11;
        }

        return check == 1;
    }

    /// <summary>ISO/IEC 7064 MOD 11,10.</summary>
    public static bool Mod11Hybrid10(string digits)
    {
        var check = 5;
        foreach (var c in digits)
        {
            check = (((check == 0 ? 10 : check) * 2 % 11) + c - '0') % 10;
        }

        return check == 1;
    }

    /// <summary>J. Verhoeff, “Error Detecting Decimal Codes”, 1969: the dihedral group of order 10.</summary>
    public static bool Verhoeff(string digits)
    {
        var check = 0;
        for (var i = 0; i < digits.Length; i++)
        {
            check = Product(check, Permuted(i % 8, digits[^(i + 1)] - '0'));
        }

        return check == 0;

        static int Product(int a, int b) =>
            a < 5 ? (b < 5 ? (a + b) % 5 : ((a + b - 5) % 5) + 5)
            : b < 5 ? ((a - b + 5) % 5) + 5
            : (a - b + 5) % 5;

        static int Permuted(int times, int digit)
        {
            ReadOnlySpan<int> permutation = [1, 5, 7, 6, 2, 8, 3, 0, 9, 4];
            for (; times > 0; times--)
            {
                digit = permutation[digit];
            }

            return digit;
        }
    }

    /// <summary>Σ digit × weight over as many digits as there are weights.</summary>
    public static int Weighted(string digits, params ReadOnlySpan<int> weights)
    {
        var sum = 0;
        for (var i = 0; i < weights.Length; i++)
        {
            sum += (digits[i] - '0') * weights[i];
        }

        return sum;
    }

    /// <summary>A check digit of a machine readable zone: weights 7, 3, 1; ICAO Doc 9303 part 3, 4.9.</summary>
    public static bool MachineReadable(ReadOnlySpan<char> field, char check)
    {
        ReadOnlySpan<int> weights = [7, 3, 1];
        var sum = 0;
        for (var i = 0; i < field.Length; i++)
        {
            sum +=
                weights[i % 3]
                * (
                    field[i] == '<' ? 0
                    : char.IsAsciiDigit(field[i]) ? field[i] - '0'
                    : field[i] - 'A' + 10
                );
        }

        return (check == '<' ? 0 : check - '0') == sum % 10;
    }

    /// <summary>The remainder of a number of any length.</summary>
    public static int Remainder(string digits, int modulus) =>
        (int)(BigInteger.Parse(digits, NumberStyles.None, CultureInfo.InvariantCulture) % modulus);
}
