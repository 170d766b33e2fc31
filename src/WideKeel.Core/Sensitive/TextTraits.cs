using System.Buffers;

namespace WideKeel.Core.Sensitive;

/// <summary>
/// What one pass over a text tells of it, so that patterns which cannot fit are not tried at all. Never says no where a
/// find is possible.
/// </summary>
public readonly struct TextTraits
{
    private static readonly SearchValues<string> Headings = SearchValues.Create(
        [
            "Form",
            "Wage and",
            "Request for",
            "U.S.",
            "P45",
            "P11D",
            "SA100",
            "Self Assessment",
            "End of Year",
            "Details of",
            "PAYG",
            "General",
            "Remuneration",
            "Zeznanie",
            "claration d",
            "Modelo 1",
            "Aangifte",
            "Einkommensteuer",
            "Lohnsteuer",
        ],
        StringComparison.OrdinalIgnoreCase
    );

    private static readonly SearchValues<char> Telling = SearchValues.Create("0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ@<+");

    // Long because it is one loop over each character of everything that is scanned: calls within it cost the time
    // that it saves.
    public TextTraits(string text)
    {
        var (digits, joined, loose, upper, last, gap) = (0, 0, 0, 0, '\0', 0);
        for (var i = 0; i < text.Length; i++)
        {
            if (gap > 2 && upper == 0)
            {
                // Nothing is begun that could go on: leap to the next character that matters.
                var leap = text.AsSpan(i).IndexOfAny(Telling);
                if (leap < 0)
                {
                    break;
                }

                (last, loose) = leap > 0 ? (text[i + leap - 1], 0) : (last, loose);
                i += leap;
            }

            var c = text[i];
            if (char.IsAsciiDigit(c))
            {
                // A group goes on over one blank or hyphen, or loosely over any sign or two between its digits.
                (digits, joined, loose) = (
                    gap == 0 ? digits + 1 : 1,
                    gap == 0 || (gap == 1 && last is ' ' or '-') ? joined + 1 : 1,
                    loose + 1
                );
                DigitsAfterCapitals |= upper >= 2;
                DigitAfterXyz |= last is 'X' or 'Y' or 'Z' || XyzPending(last);
                DigitsInARow = Math.Max(DigitsInARow, digits);
                DigitsJoined = Math.Max(DigitsJoined, joined);
                DigitsLoose = Math.Max(DigitsLoose, loose);
                (gap, last, upper) = (0, c, 0);
                continue;
            }

            gap++;
            if (char.IsAsciiLetterUpper(c))
            {
                upper++;
                CapitalsInARow = Math.Max(CapitalsInARow, upper);
            }
            else if (c != ' ' && c != '-')
            {
                upper = 0;
            }

            if (gap > 2 || char.IsAsciiLetterLower(c))
            {
                loose = 0;
            }

            HasAt |= c == '@';
            HasPlus |= c == '+';
            HasFiller |= c == '<';
            last = c;
        }

        HasHeading = text.AsSpan().ContainsAny(Headings);
        bool XyzPending(char sign) => sign is ' ' or '-';
    }

    /// <summary>Most digits side by side.</summary>
    public int DigitsInARow { get; }

    /// <summary>Most digits with at most one blank or hyphen between each two.</summary>
    public int DigitsJoined { get; }

    /// <summary>Most digits with at most two signs between each two.</summary>
    public int DigitsLoose { get; }

    /// <summary>Most capitals side by side, blanks and hyphens not counted.</summary>
    public int CapitalsInARow { get; }

    /// <summary>A digit follows two capitals or more, perhaps after blanks or hyphens.</summary>
    public bool DigitsAfterCapitals { get; }

    /// <summary>A digit follows X, Y or Z, or a blank or hyphen that could follow one.</summary>
    public bool DigitAfterXyz { get; }

    public bool HasAt { get; }

    public bool HasPlus { get; }

    /// <summary>The &lt; of machine readable zones.</summary>
    public bool HasFiller { get; }

    /// <summary>Some words of the headings of tax forms.</summary>
    public bool HasHeading { get; }
}
