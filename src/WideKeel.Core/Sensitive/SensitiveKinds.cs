using System.Globalization;
using System.Text.RegularExpressions;
using static WideKeel.Core.Sensitive.Checksums;

namespace WideKeel.Core.Sensitive;

/// <summary>
/// The kinds that the product knows by itself. Each names what its structure is published in; nearby words are common
/// practice.
/// </summary>
public static partial class SensitiveKinds
{
    /// <summary>
    /// IBAN length by country: ISO 13616 registry, held against a library's copy of it in a test; FK, MN, NI, OM, SO
    /// and YE joined later and are from memory.
    /// </summary>
    public static IReadOnlyDictionary<string, int> IbanLengths { get; } =
        new Dictionary<string, int>
        {
            ["AD"] = 24,
            ["AE"] = 23,
            ["AL"] = 28,
            ["AT"] = 20,
            ["AZ"] = 28,
            ["BA"] = 20,
            ["BE"] = 16,
            ["BG"] = 22,
            ["BH"] = 22,
            ["BI"] = 27,
            ["BR"] = 29,
            ["BY"] = 28,
            ["CH"] = 21,
            ["CR"] = 22,
            ["CY"] = 28,
            ["CZ"] = 24,
            ["DE"] = 22,
            ["DJ"] = 27,
            ["DK"] = 18,
            ["DO"] = 28,
            ["EE"] = 20,
            ["EG"] = 29,
            ["ES"] = 24,
            ["FI"] = 18,
            ["FK"] = 18,
            ["FO"] = 18,
            ["FR"] = 27,
            ["GB"] = 22,
            ["GE"] = 22,
            ["GI"] = 23,
            ["GL"] = 18,
            ["GR"] = 27,
            ["GT"] = 28,
            ["HR"] = 21,
            ["HU"] = 28,
            ["IE"] = 22,
            ["IL"] = 23,
            ["IQ"] = 23,
            ["IS"] = 26,
            ["IT"] = 27,
            ["JO"] = 30,
            ["KW"] = 30,
            ["KZ"] = 20,
            ["LB"] = 28,
            ["LC"] = 32,
            ["LI"] = 21,
            ["LT"] = 20,
            ["LU"] = 20,
            ["LV"] = 21,
            ["LY"] = 25,
            ["MC"] = 27,
            ["MD"] = 24,
            ["ME"] = 22,
            ["MK"] = 19,
            ["MN"] = 20,
            ["MR"] = 27,
            ["MT"] = 31,
            ["MU"] = 30,
            ["NI"] = 28,
            ["NL"] = 18,
            ["NO"] = 15,
            ["OM"] = 23,
            ["PK"] = 24,
            ["PL"] = 28,
            ["PS"] = 29,
            ["PT"] = 25,
            ["QA"] = 29,
            ["RO"] = 24,
            ["RS"] = 22,
            ["RU"] = 33,
            ["SA"] = 24,
            ["SC"] = 31,
            ["SD"] = 18,
            ["SE"] = 24,
            ["SI"] = 19,
            ["SK"] = 24,
            ["SM"] = 27,
            ["SO"] = 23,
            ["ST"] = 25,
            ["SV"] = 28,
            ["TL"] = 23,
            ["TN"] = 24,
            ["TR"] = 26,
            ["UA"] = 29,
            ["VA"] = 22,
            ["VG"] = 24,
            ["XK"] = 20,
            ["YE"] = 30,
        };

    /// <summary>Two-letter codes of ISO 3166-1, and XK, which banks use.</summary>
    private static readonly HashSet<string> Countries =
    [
        .. (
            "AD AE AF AG AI AL AM AO AQ AR AS AT AU AW AX AZ BA BB BD BE BF BG BH BI BJ BL BM BN BO BQ BR BS BT "
            + "BV BW BY BZ CA CC CD CF CG CH CI CK CL CM CN CO CR CU CV CW CX CY CZ DE DJ DK DM DO DZ EC EE EG EH "
            + "ER ES ET FI FJ FK FM FO FR GA GB GD GE GF GG GH GI GL GM GN GP GQ GR GS GT GU GW GY HK HM HN HR HT "
            + "HU ID IE IL IM IN IO IQ IR IS IT JE JM JO JP KE KG KH KI KM KN KP KR KW KY KZ LA LB LC LI LK LR LS "
            + "LT LU LV LY MA MC MD ME MF MG MH MK ML MM MN MO MP MQ MR MS MT MU MV MW MX MY MZ NA NC NE NF NG NI "
            + "NL NO NP NR NU NZ OM PA PE PF PG PH PK PL PM PN PR PS PT PW PY QA RE RO RS RU RW SA SB SC SD SE SG "
            + "SH SI SJ SK SL SM SN SO SR SS ST SV SX SY SZ TC TD TF TG TH TJ TK TL TM TN TO TR TT TV TW TZ UA UG "
            + "UM US UY UZ VA VC VE VG VI VN VU WF WS XK YE YT ZA ZM ZW"
        ).Split(' '),
    ];

    /// <summary>
    /// Country calling codes: ITU-T E.164.D, from memory; a zone of which every code is given out stands by its first
    /// digits alone.
    /// </summary>
    private static readonly HashSet<string> CallingCodes =
    [
        .. (
            "1 20 211 212 213 216 218 220 221 222 223 224 225 226 227 228 229 230 231 232 233 234 235 236 237 238 "
            + "239 240 241 242 243 244 245 246 247 248 249 250 251 252 253 254 255 256 257 258 260 261 262 263 264 "
            + "265 266 267 268 269 27 290 291 297 298 299 30 31 32 33 34 350 351 352 353 354 355 356 357 358 359 36 "
            + "370 371 372 373 374 375 376 377 378 379 380 381 382 383 385 386 387 389 39 40 41 420 421 423 43 44 "
            + "45 46 47 48 49 500 501 502 503 504 505 506 507 508 509 51 52 53 54 55 56 57 58 590 591 592 593 594 "
            + "595 596 597 598 599 60 61 62 63 64 65 66 670 672 673 674 675 676 677 678 679 680 681 682 683 685 686 "
            + "687 688 689 690 691 692 7 800 808 81 82 84 850 852 853 855 856 86 870 878 880 881 882 883 886 888 90 "
            + "91 92 93 94 95 960 961 962 963 964 965 966 967 968 970 971 972 973 974 975 976 977 979 98 992 993 "
            + "994 995 996 998"
        ).Split(' '),
    ];

    private static readonly HashSet<string> EmployerPrefixesNotGivenOut =
    [
        "00",
        "07",
        "08",
        "09",
        "17",
        "18",
        "19",
        "28",
        "29",
        "49",
        "69",
        "70",
        "78",
        "79",
        "89",
        "96",
        "97",
    ];

    public static IReadOnlyList<SensitiveKind> BuiltIn { get; } =
    [
        new(
            "payment-card",
            "Payment card number",
            Card(),
            (_, n) => IsIssued(n) && Luhn(n) ? Proof.Strong : Proof.None,
            "card",
            "credit",
            "debit",
            "visa",
            "mastercard",
            "amex",
            "cvv",
            "cvc",
            "expiry",
            "expires",
            "cardholder",
            "pan",
            "payment"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 13,
        },
        new(
            "iban",
            "IBAN",
            Iban(),
            (_, n) =>
                IbanLengths.TryGetValue(n[..2], out var length) && n.Length == length && Mod97(n[4..] + n[..4])
                    ? Proof.Full
                    : Proof.None
        )
        {
            CanBeIn = t => t.DigitsAfterCapitals,
        },
        new(
            "bic",
            "BIC",
            Bic(),
            (_, n) =>
                !Countries.Contains(n.Substring(4, 2)) ? Proof.None
                : n.AsSpan(6).ContainsAnyInRange('0', '9') || n.EndsWith("XXX", StringComparison.Ordinal) ? Proof.Weak
                : Proof.NeedsWords,
            "bic",
            "swift",
            "iban",
            "bank",
            "banking",
            "correspondent",
            "beneficiary"
        )
        {
            CanBeIn = t => t.CapitalsInARow >= 6,
            HiddenInText = false,
        },
        new(
            "us-ssn",
            "US social security number",
            UsNine(),
            (raw, n) =>
                IsSocialSecurity(n)
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.NeedsWords
                    : Proof.None,
            "ssn",
            "social security",
            "social security number",
            "ss number",
            "taxpayer"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 9,
        },
        new(
            "us-itin",
            "US individual taxpayer number",
            UsNine(),
            (raw, n) =>
                IsIndividualTaxpayer(n)
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.NeedsWords
                    : Proof.None,
            "itin",
            "individual taxpayer",
            "taxpayer identification",
            "taxpayer id",
            "tin"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 9,
        },
        new(
            "us-ein",
            "US employer number",
            Ein(),
            (raw, n) =>
                EmployerPrefixesNotGivenOut.Contains(n[..2]) ? Proof.None
                : Separated(raw) ? Proof.Weak
                : Proof.NeedsWords,
            "ein",
            "employer identification",
            "employer id",
            "fein",
            "federal tax id",
            "tax id"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 9,
        },
        new(
            "uk-nino",
            "UK national insurance number",
            Nino(),
            (_, n) => n[..2] is "BG" or "GB" or "KN" or "NK" or "NT" or "TN" or "ZZ" ? Proof.None : Proof.Strong,
            "national insurance",
            "nino",
            "ni number",
            "ni no",
            "insurance number"
        )
        {
            CanBeIn = t => t.DigitsAfterCapitals,
        },
        new(
            "uk-utr",
            "UK unique taxpayer reference",
            Utr(),
            (_, n) =>
                n.Length == 10 && "21987654321"[Weighted(n[1..], 6, 7, 8, 9, 10, 5, 4, 3, 2) % 11] == n[0]
                    ? Proof.Weak
                    : Proof.None,
            "utr",
            "unique taxpayer",
            "taxpayer reference",
            "self assessment",
            "tax reference"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 10,
        },
        new(
            "uk-nhs",
            "NHS number",
            Nhs(),
            (raw, n) =>
                IsNhs(n)
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.Weak
                    : Proof.None,
            "nhs",
            "nhs number",
            "nhs no",
            "patient",
            "health service"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 10,
        },
        new(
            "au-tfn",
            "Australian tax file number",
            TaxFile(),
            (raw, n) =>
                IsTaxFile(n)
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.Weak
                    : Proof.None,
            "tfn",
            "tax file",
            "tax file number",
            "ato"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 8,
        },
        new(
            "au-abn",
            "Australian business number",
            BusinessNumber(),
            (raw, n) =>
                IsBusinessNumber(n)
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.Weak
                    : Proof.None,
            "abn",
            "australian business number",
            "business number"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 11,
        },
        new(
            "au-medicare",
            "Australian Medicare number",
            Medicare(),
            (raw, n) =>
                Weighted(n, 1, 3, 7, 9, 1, 3, 7, 9) % 10 == n[8] - '0'
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.Weak
                    : Proof.None,
            "medicare",
            "medicare card",
            "medicare number"
        )
        {
            CanBeIn = t => t.DigitsLoose >= 10,
        },
        new(
            "ca-sin",
            "Canadian social insurance number",
            Sin(),
            (raw, n) =>
                !Luhn(n) ? Proof.None
                : Separated(raw) && n[0] is not ('0' or '8') ? Proof.Strong
                : Proof.Weak,
            "sin",
            "social insurance",
            "social insurance number",
            "nas",
            "assurance sociale"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 9,
        },
        new(
            "pl-pesel",
            "Polish PESEL",
            Eleven(),
            (_, n) =>
                (10 - (Weighted(n, 1, 3, 7, 9, 1, 3, 7, 9, 1, 3) % 10)) % 10 == n[10] - '0' && IsPeselBirth(n)
                    ? Proof.Strong
                    : Proof.None,
            "pesel"
        )
        {
            CanBeIn = t => t.DigitsInARow >= 11,
        },
        new(
            "fr-nir",
            "French social security number",
            Nir(),
            (_, n) => IsNir(n) ? Proof.Full : Proof.None,
            "securite sociale",
            "nir",
            "numero de securite"
        )
        {
            CanBeIn = t => t.DigitsJoined >= 8,
        },
        new(
            "es-dni",
            "Spanish DNI",
            Dni(),
            (_, n) => IsSpanish(n) ? Proof.Strong : Proof.None,
            "dni",
            "documento nacional",
            "nif"
        )
        {
            CanBeIn = t => t.DigitsInARow >= 8,
        },
        new(
            "es-nie",
            "Spanish NIE",
            Nie(),
            (_, n) => IsSpanish($"{n[0] - 'X'}{n[1..]}") ? Proof.Strong : Proof.None,
            "nie",
            "extranjero",
            "numero de identidad"
        )
        {
            CanBeIn = t => t.DigitAfterXyz && t.DigitsInARow >= 7,
        },
        new(
            "nl-bsn",
            "Dutch citizen service number",
            Bsn(),
            (raw, n) =>
                n != "000000000" && (Weighted(n, 9, 8, 7, 6, 5, 4, 3, 2) - (n[8] - '0')) % 11 == 0
                    ? Separated(raw)
                        ? Proof.Strong
                        : Proof.Weak
                    : Proof.None,
            "bsn",
            "burgerservicenummer",
            "sofinummer",
            "citizen service number"
        )
        {
            CanBeIn = t => t.DigitsLoose >= 9,
        },
        new(
            "passport-mrz",
            "Passport, machine readable zone",
            PassportLines(),
            (raw, _) => IsPassport(raw) ? Proof.Full : Proof.None
        )
        {
            CanBeIn = t => t.HasFiller,
            Masking = Masking.All,
        },
        new("email", "Mail address", Email(), (_, _) => Proof.Full)
        {
            CanBeIn = t => t.HasAt,
            Holds = ('@', 64),
            Masking = Masking.AllButDomain,
            HiddenInText = false,
        },
        new(
            "phone",
            "Phone number",
            Phone(),
            (raw, n) => IsPhone(raw, n),
            "tel",
            "telephone",
            "phone",
            "mobile",
            "cell",
            "fax",
            "call",
            "mob"
        )
        {
            CanBeIn = t => t.DigitsLoose >= (t.HasPlus ? 8 : 9),
            HiddenInText = false,
        },
        new(
            "imo-number",
            "IMO ship number",
            Imo(),
            (raw, n) =>
                IsImo(n[^7..])
                    ? n.StartsWith("IMO", StringComparison.Ordinal)
                        ? Proof.Full
                        : Proof.NeedsWords
                    : Proof.None,
            "imo",
            "vessel",
            "ship",
            "lloyd s"
        )
        {
            CanBeIn = t => t.DigitsInARow >= 7,
            HiddenInText = false,
        },
        new("tax-form", "Tax form", TaxForms(), (_, _) => Proof.Full)
        {
            CanBeIn = t => t.HasHeading,
            Masking = Masking.None,
            HiddenInText = false,
        },
    ];

    private static bool Separated(string raw) => raw.AsSpan().ContainsAny(' ', '-', '.');

    /// <summary>
    /// First digits and lengths given out to card schemes: ISO/IEC 7812 with the schemes' public ranges, from memory.
    /// </summary>
    private static bool IsIssued(string n)
    {
        var four = int.Parse(n.AsSpan(0, 4), CultureInfo.InvariantCulture);
        return n.Length switch
        {
            13 => n[0] == '4',
            14 => four is (>= 3000 and <= 3059) or 3095 or (>= 3600 and <= 3699) or (>= 3800 and <= 3999),
            15 => four is (>= 3400 and <= 3499) or (>= 3700 and <= 3799),
            16 => n[0] == '4'
                || four
                    is (>= 2221 and <= 2720)
                        or (>= 5100 and <= 5599)
                        or 6011
                        or (>= 6440 and <= 6599)
                        or (>= 3528 and <= 3589)
                        or (>= 6200 and <= 6299)
                        or (>= 3000 and <= 3059)
                        or (>= 3600 and <= 3999),
            17 or 18 => four is >= 6200 and <= 6299,
            19 => n[0] == '4' || four is (>= 6200 and <= 6299) or 6011 or (>= 6440 and <= 6599),
            _ => false,
        };
    }

    /// <summary>Social Security Administration: no area 000, 666 or 900–999, no group 00, no serial 0000.</summary>
    private static bool IsSocialSecurity(string n) =>
        n[..3] is not ("000" or "666")
        && n[0] != '9'
        && n.Substring(3, 2) != "00"
        && n[5..] != "0000"
        && n is not ("078051120" or "219099999");

    /// <summary>Internal Revenue Service: 9xx with the fourth and fifth digit 50–65, 70–88, 90–92 or 94–99.</summary>
    private static bool IsIndividualTaxpayer(string n) =>
        n[0] == '9'
        && int.Parse(n.AsSpan(3, 2), CultureInfo.InvariantCulture)
            is (>= 50 and <= 65)
                or (>= 70 and <= 88)
                or (>= 90 and <= 92)
                or (>= 94 and <= 99);

    private static bool IsNhs(string n)
    {
        var check = 11 - (Weighted(n, 10, 9, 8, 7, 6, 5, 4, 3, 2) % 11);
        return check != 10 && (check == 11 ? 0 : check) == n[9] - '0' && n.Distinct().Count() > 1;
    }

    private static bool IsTaxFile(string n) =>
        n.Distinct().Count() > 1
        && (n.Length == 9 ? Weighted(n, 1, 4, 3, 7, 5, 8, 6, 9, 10) : Weighted(n, 10, 7, 8, 4, 6, 3, 5, 1)) % 11 == 0;

    private static bool IsBusinessNumber(string n) =>
        n[0] != '0' && (Weighted(n, 10, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19) - 10) % 89 == 0;

    /// <summary>
    /// The month carries the century: 81–92 for 1800, 1–12 for 1900, 21–32 for 2000, 41–52 for 2100, 61–72 for 2200.
    /// </summary>
    private static bool IsPeselBirth(string n)
    {
        var (year, month, day) = (Two(0), Two(2), Two(4));
        var century = month switch
        {
            > 80 => 1800,
            > 60 => 2200,
            > 40 => 2100,
            > 20 => 2000,
            _ => 1900,
        };
        return month % 20 is >= 1 and <= 12 && day >= 1 && day <= DateTime.DaysInMonth(century + year, month % 20);

        int Two(int at) => int.Parse(n.AsSpan(at, 2), CultureInfo.InvariantCulture);
    }

    /// <summary>
    /// The key is 97 less the remainder of the first thirteen characters; Corsica's 2A and 2B count as 19 and 18.
    /// </summary>
    private static bool IsNir(string n)
    {
        var number = n[..13]
            .Replace("2A", "19", StringComparison.Ordinal)
            .Replace("2B", "18", StringComparison.Ordinal);
        return number.All(char.IsAsciiDigit)
            && 97 - Remainder(number, 97) == int.Parse(n.AsSpan(13), CultureInfo.InvariantCulture);
    }

    private static bool IsSpanish(string n) =>
        "TRWAGMYFPDXBNJZSQVHLCKE"[int.Parse(n.AsSpan(0, 8), CultureInfo.InvariantCulture) % 23] == n[8];

    /// <summary>Two lines of 44: ICAO Doc 9303 part 4, TD3.</summary>
    private static bool IsPassport(string raw)
    {
        var second = raw.AsSpan(raw.Length - 44);
        return MachineReadable(second[..9], second[9])
            && MachineReadable(second[13..19], second[19])
            && MachineReadable(second[21..27], second[27])
            && MachineReadable(second[28..42], second[42])
            && MachineReadable(string.Concat(second[..10], second[13..20], second[21..43]), second[43]);
    }

    private static Proof IsPhone(string raw, string n)
    {
        if (raw[0] == '+')
        {
            return n.Length is >= 8 and <= 15 && Enumerable.Range(1, 3).Any(k => CallingCodes.Contains(n[..k]))
                ? Proof.Strong
                : Proof.None;
        }

        return n.Length is >= 9 and <= 13 ? Proof.NeedsWords : Proof.None;
    }

    /// <summary>
    /// Weights 7 to 2 over the first six digits; the last digit of the sum is the seventh. IMO resolution A.1117(30).
    /// </summary>
    private static bool IsImo(string n) => Weighted(n, 7, 6, 5, 4, 3, 2) % 10 == n[6] - '0' && n[0] != '0';

    [GeneratedRegex(
        @"(?<![\w.+-])(?:\d{13,19}|\d{4}([ -])\d{4}\1\d{4}\1\d{4}(?:\1\d{1,3})?|\d{4}([ -])\d{6}\2\d{4,5})(?![\w]|[.-]\d)"
    )]
    private static partial Regex Card();

    [GeneratedRegex(
        @"(?<![A-Za-z0-9])[A-Z]{2}\d{2}(?:(?: [A-Z0-9]{4}){2,7}(?: [A-Z0-9]{1,4})?|[A-Z0-9]{11,30})(?![A-Za-z0-9])"
    )]
    private static partial Regex Iban();

    [GeneratedRegex(@"(?<![A-Za-z0-9])[A-Z]{6}[A-Z0-9]{2}(?:[A-Z0-9]{3})?(?![A-Za-z0-9])")]
    private static partial Regex Bic();

    [GeneratedRegex(@"(?<![\w-]|\d[./,])\d{3}([ -]?)\d{2}\1\d{4}(?![\w-]|[./,]\d)")]
    private static partial Regex UsNine();

    [GeneratedRegex(@"(?<![\w-]|\d[./,])\d{2}-?\d{7}(?![\w-]|[./,]\d)")]
    private static partial Regex Ein();

    [GeneratedRegex(@"(?<![A-Za-z0-9])[A-CEGHJ-PR-TW-Z][A-CEGHJ-NPR-TW-Z] ?\d{2} ?\d{2} ?\d{2} ?[A-D](?![A-Za-z0-9])")]
    private static partial Regex Nino();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])(?:\d{10}|\d{5} \d{5}|\d{3} \d{3} \d{4})(?![\w-]|[./, ]\d)")]
    private static partial Regex Utr();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])\d{3}([ -]?)\d{3}\1\d{4}(?![\w-]|[./, ]\d)")]
    private static partial Regex Nhs();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])(?:\d{3}([ -]?)\d{3}\1\d{2,3})(?![\w-]|[./, ]\d)")]
    private static partial Regex TaxFile();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])\d{2}([ -]?)\d{3}\1\d{3}\1\d{3}(?![\w-]|[./, ]\d)")]
    private static partial Regex BusinessNumber();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])[2-6]\d{3}([ -]?)\d{5}\1\d(?:[ /-]?\d)?(?![\w-]|[./, ]\d)")]
    private static partial Regex Medicare();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])\d{3}([ -]?)\d{3}\1\d{3}(?![\w-]|[./, ]\d)")]
    private static partial Regex Sin();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])\d{11}(?![\w-]|[./, ]\d)")]
    private static partial Regex Eleven();

    [GeneratedRegex(
        @"(?<![\w-]|\d[./, ])[12] ?\d{2} ?(?:0[1-9]|1[0-2]|[2-9]\d) ?(?:\d{2}|2[AB]) ?\d{3} ?\d{3} ?\d{2}(?![\w-]|[./,]\d)"
    )]
    private static partial Regex Nir();

    [GeneratedRegex(@"(?<![\w-])\d{8}[ -]?[A-Z](?![\w])")]
    private static partial Regex Dni();

    [GeneratedRegex(@"(?<![\w-])[XYZ][ -]?\d{7}[ -]?[A-Z](?![\w])")]
    private static partial Regex Nie();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])(?:\d{9}|\d{4}\.\d{2}\.\d{3})(?![\w-]|[./, ]\d)")]
    private static partial Regex Bsn();

    [GeneratedRegex(
        @"(?<![A-Z0-9<])P[A-Z<][A-Z<]{42}[ \t]*\r?\n[ \t]*[A-Z0-9<]{9}[0-9<][A-Z<]{3}\d{7}[MFX<]\d{7}[A-Z0-9<]{14}[0-9<]\d(?![A-Z0-9<])"
    )]
    private static partial Regex PassportLines();

    [GeneratedRegex(
        @"(?<![A-Za-z0-9._%+-])[A-Za-z0-9](?:[A-Za-z0-9._%+-]{0,62}[A-Za-z0-9_%+-])?@(?:[A-Za-z0-9](?:"
            + @"[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\.)+[A-Za-z]{2,24}(?![A-Za-z0-9-])"
    )]
    private static partial Regex Email();

    [GeneratedRegex(
        @"(?<![\w+.-])(?:\+\d{1,3}(?:[ .-]?\(\d{1,4}\))?(?:[ .-]?\d{1,4}){2,6}|\(0\d{1,4}\)[ -]?\d{2,4}(?:"
            + @"[ -]?\d{2,4}){1,3}|0\d{2,4}[ -]\d{2,4}(?:[ -]?\d{2,4}){1,3}|\(\d{3}\) ?\d{3}-\d{4}"
            + @"|\d{3}-\d{3}-\d{4})(?![\w]|[.-]\d)"
    )]
    private static partial Regex Phone();

    [GeneratedRegex(@"(?<![\w+-]|\d[./, ])(?:IMO[ :#-]{0,2}(?:[Nn]o\.? ?|[Nn]umber ?)?)?\d{7}(?![\w-]|[./, ]\d)")]
    private static partial Regex Imo();

    /// <summary>
    /// The forms' own headings, from memory. A heading names the form and says what it is; the number alone does not
    /// count.
    /// </summary>
    [GeneratedRegex(
        @"Form\s+W-2\b[^\n]{0,40}\s*Wage and Tax Statement|Wage and Tax Statement"
            + @"|Form\s+W-4\b|Request for Taxpayer\s+Identification Number and Certification"
            + @"|Form\s+1040(?:-[A-Z]{1,2})?\b|U\.S\. Individual Income Tax Return|Form\s+1099-[A-Z]{1,4}\b"
            + @"|Form\s+1120(?:-S)?\b|P60\s+End of Year Certificate|End of Year Certificate"
            + @"|P45\s+Part\s+1A?|Details of employee leaving work|P11D\b[^\n]{0,60}Expenses and benefits"
            + @"|SA100\b|Self Assessment tax return|PAYG payment summary|T4\s+Statement of Remuneration Paid"
            + @"|Statement of Remuneration Paid|T1\s+General\b|PIT-\d{1,2}[A-Z]?\s+Zeznanie"
            + @"|Déclaration (?:des|de) revenus|Modelo 1(?:00|90)\b|Aangifte inkomstenbelasting"
            + @"|Einkommensteuererklärung|Lohnsteuerbescheinigung",
        RegexOptions.IgnoreCase
    )]
    private static partial Regex TaxForms();
}
