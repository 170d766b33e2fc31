using System.Buffers;
using System.Collections.Frozen;
using System.Globalization;
using System.Text;

namespace WideKeel.Core.Query;

/// <summary>A word of a text: folded, with the place it was read from (UTF-16 units).</summary>
public readonly record struct Word(string Text, int Start, int Length);

/// <summary>
/// What a word is, in one place for the index, for queries and for marking. A word is a run of letters and digits, with
/// the marks that belong to them; everything else separates. Words are folded: compatibility forms are taken apart
/// (Unicode NFKD), diacritics dropped, case removed, and the letters that Unicode leaves whole but a keyboard lacks are
/// written plainly (ł l, ø o, đ d, ß ss, æ ae, œ oe).
/// </summary>
public static class Words
{
    /// <summary>Characters that a word usually takes, with what stands before the next.</summary>
    private const int UsualWord = 6;

    private static readonly FrozenDictionary<int, string> Folding = ReadFolding();
    private static readonly SearchValues<char> Plain = SearchValues.Create("abcdefghijklmnopqrstuvwxyz0123456789");
    private static readonly SearchValues<char> AsciiWord = SearchValues.Create(
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"
    );
    private static readonly char[] AsciiFolding =
    [
        .. Enumerable
            .Range(0, 128)
            .Select(c => char.IsAsciiLetterOrDigit((char)c) ? char.ToLowerInvariant((char)c) : ' '),
    ];
    private static readonly SearchValues<char> AsciiBetween = SearchValues.Create([
        .. Enumerable.Range(0, 128).Select(c => (char)c).Where(c => !char.IsAsciiLetterOrDigit(c)),
    ]);

    /// <summary>The words of a text, in their order.</summary>
    public static List<Word> Of(string text)
    {
        List<Word> words = new(text.Length / UsualWord);
        var at = 0;
        while (Find(text, ref at) is { Length: > 0 } found)
        {
            // A sign that folds to nothing is no word, here as in the index.
            if (Fold(text.AsSpan(found.Start, found.Length)) is { Length: > 0 } folded)
            {
                words.Add(new(folded, found.Start, found.Length));
            }
        }

        return words;
    }

    /// <summary>The folded words with one space between them, as the full-text index takes them.</summary>
    public static string Folded(string text)
    {
        if (Ascii.IsValid(text))
        {
            return FoldedAscii(text);
        }

        var folded = new StringBuilder(text.Length);
        var at = 0;
        while (Find(text, ref at) is { Length: > 0 } found)
        {
            if (folded.Length > 0 && folded[^1] != ' ')
            {
                folded.Append(' ');
            }

            Fold(text.AsSpan(found.Start, found.Length), folded);
        }

        return folded.ToString().TrimEnd(' ');
    }

    /// <summary>The same for what most texts are, several times as fast.</summary>
    private static string FoldedAscii(string text)
    {
        var folded = ArrayPool<char>.Shared.Rent(text.Length + 1);
        // A blank before the text, so that what separates never stands first or twice.
        folded[0] = ' ';
        var length = 1;
        foreach (var c in text)
        {
            var plain = AsciiFolding[c];
            if (plain != ' ' || folded[length - 1] != ' ')
            {
                folded[length++] = plain;
            }
        }

        var result = folded.AsSpan(1, length - 1).TrimEnd(' ').ToString();
        ArrayPool<char>.Shared.Return(folded);
        return result;
    }

    /// <summary>
    /// The place of the next word at or after <paramref name="at"/>, which moves beyond it; length 0 when there is
    /// none.
    /// </summary>
    private static TextSpan Find(string text, ref int at)
    {
        while (at < text.Length)
        {
            // Most texts are ASCII: what lies between their words is passed over in one go.
            var gap = text.AsSpan(at).IndexOfAnyExcept(AsciiBetween);
            at = gap < 0 ? text.Length : at + gap;
            if (at == text.Length || StartsWord(text, at, out var skip))
            {
                break;
            }

            at += skip;
        }

        var start = at;
        Next(text, ref at);
        return new(start, at - start);
    }

    /// <summary>Moves beyond the rest of the word that stands here; stays where there is none.</summary>
    internal static void Next(string text, ref int at)
    {
        while (at < text.Length)
        {
            var run = text.AsSpan(at).IndexOfAnyExcept(AsciiWord);
            at = run < 0 ? text.Length : at + run;
            if (at == text.Length || !ContinuesWord(text, at, out var step))
            {
                return;
            }

            at += step;
        }
    }

    /// <summary>Whether a letter or digit stands at this place, and how many units wide what stands there is.</summary>
    internal static bool StartsWord(string text, int at, out int width)
    {
        var c = text[at];
        width = 1;
        if (c < 128)
        {
            return char.IsAsciiLetterOrDigit(c);
        }

        Rune.DecodeFromUtf16(text.AsSpan(at), out var rune, out width);
        return Rune.GetUnicodeCategory(rune)
            is UnicodeCategory.UppercaseLetter
                or UnicodeCategory.LowercaseLetter
                or UnicodeCategory.TitlecaseLetter
                or UnicodeCategory.ModifierLetter
                or UnicodeCategory.OtherLetter
                or UnicodeCategory.DecimalDigitNumber
                or UnicodeCategory.LetterNumber
                or UnicodeCategory.OtherNumber;
    }

    private static bool ContinuesWord(string text, int at, out int width)
    {
        if (StartsWord(text, at, out width))
        {
            return true;
        }

        if (text[at] < 128)
        {
            return false;
        }

        Rune.DecodeFromUtf16(text.AsSpan(at), out var rune, out width);
        return Rune.GetUnicodeCategory(rune)
            is UnicodeCategory.NonSpacingMark
                or UnicodeCategory.SpacingCombiningMark
                or UnicodeCategory.EnclosingMark;
    }

    public static string Fold(ReadOnlySpan<char> word)
    {
        if (word.ContainsAnyExcept(Plain))
        {
            var folded = new StringBuilder(word.Length);
            Fold(word, folded);
            return folded.ToString();
        }

        return word.ToString();
    }

    private static void Fold(ReadOnlySpan<char> word, StringBuilder to)
    {
        if (Ascii.IsValid(word))
        {
            foreach (var c in word)
            {
                to.Append((char)(char.IsAsciiLetterUpper(c) ? c | 0x20 : c));
            }

            return;
        }

        foreach (var rune in word.EnumerateRunes())
        {
            if (Folding.TryGetValue(rune.Value, out var folded))
            {
                to.Append(folded);
            }
            else
            {
                to.Append(Rune.ToLowerInvariant(rune).ToString());
            }
        }
    }

    /// <summary>
    /// The table that make-folding.py draws from the Unicode character database; the platform's own normalization may
    /// be switched off.
    /// </summary>
    private static FrozenDictionary<int, string> ReadFolding()
    {
        using var stream = typeof(Words).Assembly.GetManifestResourceStream("folding.txt")!;
        using var lines = new StreamReader(stream);
        Dictionary<int, string> folding = [];
        while (lines.ReadLine() is { } line)
        {
            if (!line.StartsWith('#'))
            {
                var blank = line.IndexOf(' ', StringComparison.Ordinal);
                folding[
                    int.Parse(line.AsSpan(0, blank), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture)
                ] = line[(blank + 1)..];
            }
        }

        return folding.ToFrozenDictionary();
    }
}
