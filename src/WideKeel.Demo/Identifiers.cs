using System.Globalization;
using WideKeel.Core.Sensitive;

namespace WideKeel.Demo;

/// <summary>
/// Identifiers with right check digits that belong to nobody: card numbers of the ranges set aside for trying out,
/// banks that do not exist.
/// </summary>
internal static class Identifiers
{
    public static string Card(int number)
    {
        var body = string.Create(CultureInfo.InvariantCulture, $"411111{number:000000000}");
        var digits = body + Enumerable.Range(0, 10).First(d => Checksums.Luhn(body + d));
        return string.Join(' ', digits.Chunk(4).Select(c => new string(c)));
    }

    public static string Iban(int number)
    {
        var account = string.Create(CultureInfo.InvariantCulture, $"XTAR{number * 7919:00000000000000}");
        var check = Enumerable.Range(2, 97).First(c => Checksums.Mod97($"{account}GB{c:00}"));
        return string.Join(' ', $"GB{check:00}{account}".Chunk(4).Select(c => new string(c)));
    }

    public static string NationalInsurance(int number) =>
        string.Create(
            CultureInfo.InvariantCulture,
            $"ZY {number % 100:00} {number * 7 % 100:00} {number * 13 % 100:00} {"ABCD"[number % 4]}"
        );

    public static string Ship(int number)
    {
        var body = string.Create(CultureInfo.InvariantCulture, $"{990100 + number:000000}");
        return body + (Checksums.Weighted(body, 7, 6, 5, 4, 3, 2) % 10).ToString(CultureInfo.InvariantCulture);
    }

    /// <summary>Issued by Utopia, the state of the standard's own specimens.</summary>
    public static string PassportZone(string family, string given, int number)
    {
        var first = $"P<UTO{family.ToUpperInvariant()}<<{given.ToUpperInvariant()}".PadRight(44, '<');
        var passport = Checked(
            string.Create(CultureInfo.InvariantCulture, $"L{10_000_000 + (number * 7919):00000000}")
        );
        var birth = Checked(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{60 + (number % 40):00}{1 + (number % 12):00}{1 + (number % 28):00}"
            )
        );
        var expiry = Checked(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{28 + (number % 8):00}{1 + (number % 12):00}{1 + (number % 28):00}"
            )
        );
        var personal = Checked(new string('<', 14));
        var all = passport + birth + expiry + personal;
        return $"{first}\n{passport}UTO{birth}{"MF"[number % 2]}{expiry}{personal}{Digit(all)}";

        static string Checked(string field) => field + Digit(field);
        static char Digit(string field) => "0123456789".First(d => Checksums.MachineReadable(field, d));
    }
}
