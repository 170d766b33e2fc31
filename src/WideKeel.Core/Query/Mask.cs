using System.Text;

namespace WideKeel.Core.Query;

/// <summary>
/// A term with its masking read: <c>*</c> any number of characters, <c>?</c> one, <c>^</c> the beginning or end of the
/// field; a backslash takes the meaning from the character after it. CQL 1.2, “Masking”.
/// </summary>
public static class Mask
{
    /// <summary>
    /// What stands for a mask character within a read term, so that a literal one cannot be taken for it.
    /// </summary>
    internal const char Any = '\uE000',
        One = '\uE001',
        Anchor = '\uE002';

    /// <summary>
    /// The term with escapes resolved and masks as the characters above. Private-use characters of the term itself are
    /// dropped.
    /// </summary>
    public static string Read(string term)
    {
        var read = new StringBuilder(term.Length);
        for (var i = 0; i < term.Length; i++)
        {
            var c = term[i];
            if (c == '\\' && i + 1 < term.Length)
            {
                read.Append(term[++i]);
            }
            else if (c is not (Any or One or Anchor))
            {
                read.Append(
                    c switch
                    {
                        '*' => Any,
                        '?' => One,
                        '^' => Anchor,
                        _ => c,
                    }
                );
            }
        }

        return read.ToString();
    }

    /// <summary>The characters themselves, whatever they could have masked.</summary>
    public static string Literal(string term) =>
        new([
            .. Read(term)
                .Select(c =>
                    c switch
                    {
                        Any => '*',
                        One => '?',
                        Anchor => '^',
                        _ => c,
                    }
                ),
        ]);

    public static bool IsMask(char c) => c is Any or One;

    /// <summary>Whether the whole text fits the pattern; takes time of at most pattern × text.</summary>
    public static bool Fits(ReadOnlySpan<char> pattern, ReadOnlySpan<char> text, bool ignoreCase)
    {
        var (p, t, star, resume) = (0, 0, -1, 0);
        while (t < text.Length)
        {
            if (p < pattern.Length && pattern[p] == Any)
            {
                (star, resume) = (p++, t);
            }
            else if (p < pattern.Length && (pattern[p] == One || Same(pattern[p], text[t])))
            {
                p++;
                t++;
            }
            else if (star >= 0)
            {
                p = star + 1;
                t = ++resume;
            }
            else
            {
                return false;
            }
        }

        while (p < pattern.Length && pattern[p] == Any)
        {
            p++;
        }

        return p == pattern.Length;

        bool Same(char a, char b) => a == b || (ignoreCase && char.ToUpperInvariant(a) == char.ToUpperInvariant(b));
    }
}

/// <summary>
/// One word that is looked for: folded, perhaps with masks, perhaps by its stem, perhaps only at an end of the field.
/// </summary>
/// <param name="Text">Folded; masks as <see cref="Mask"/> reads them. A stem where <paramref name="Stemmed"/>.</param>
public readonly record struct WordPattern(string Text, bool Stemmed, bool AtStart, bool AtEnd)
{
    public bool HasMask => Text.AsSpan().ContainsAny(Mask.Any, Mask.One);

    /// <summary>Whether it is a beginning: its only mask is one <c>*</c> at its end.</summary>
    public bool IsPrefix =>
        Text.Length > 1 && Text[^1] == Mask.Any && !Text.AsSpan(0, Text.Length - 1).ContainsAny(Mask.Any, Mask.One);

    /// <summary>Any word at all.</summary>
    public bool IsAnyWord => Text.Length > 0 && Text.All(c => c == Mask.Any);

    /// <summary>As it was written.</summary>
    public string Shown => Text.Replace(Mask.Any, '*').Replace(Mask.One, '?');

    public bool Anchored => AtStart || AtEnd;

    /// <summary>What every word that fits begins with; may be empty.</summary>
    public string Beginning
    {
        get
        {
            var mask = Text.AsSpan().IndexOfAny(Mask.Any, Mask.One);
            return mask >= 0 ? Text[..mask]
                : Stemmed ? PorterStemmer.CommonBeginning(Text)
                : Text;
        }
    }

    /// <summary>Whether a word of a text is meant; anchors are not looked at.</summary>
    public bool Fits(string word) =>
        HasMask ? Mask.Fits(Text, word, ignoreCase: false)
        : Stemmed ? PorterStemmer.Stem(word) == Text
        : Text == word;

    /// <summary>Any word that begins so.</summary>
    /// <param name="word">Folded.</param>
    public static WordPattern BeginningWith(string word) => new(word + Mask.Any, false, false, false);

    /// <summary>
    /// The words of a term. Masks belong to the word they touch; one that stands alone means any word.
    /// </summary>
    public static IReadOnlyList<WordPattern> Of(string term, bool stemmed)
    {
        var read = Mask.Read(term);
        List<WordPattern> patterns = [];
        var at = 0;
        var anchored = false;
        while (at < read.Length)
        {
            if (Mask.IsMask(read[at]) || Words.StartsWord(read, at, out var skip))
            {
                var pattern = new StringBuilder();
                while (at < read.Length)
                {
                    if (Mask.IsMask(read[at]))
                    {
                        pattern.Append(read[at++]);
                        continue;
                    }

                    var run = at;
                    Words.Next(read, ref at);
                    if (at == run)
                    {
                        break;
                    }

                    pattern.Append(Words.Fold(read.AsSpan(run, at - run)));
                }

                var text = pattern.ToString();
                var stems = stemmed && !text.AsSpan().ContainsAny(Mask.Any, Mask.One);
                patterns.Add(
                    new(
                        stems ? PorterStemmer.Stem(text) : text,
                        stems,
                        anchored,
                        at < read.Length && read[at] == Mask.Anchor
                    )
                );
                anchored = false;
            }
            else
            {
                anchored = read[at] == Mask.Anchor;
                at += skip;
            }
        }

        return patterns;
    }
}
