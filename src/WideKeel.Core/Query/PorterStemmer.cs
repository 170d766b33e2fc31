namespace WideKeel.Core.Query;

/// <summary>
/// The stem of an English word: M. F. Porter, “An algorithm for suffix stripping”, Program 14 (3), 1980, as printed,
/// without the changes of later programs.
/// </summary>
public static class PorterStemmer
{
    private static readonly (string Suffix, string Stem)[] Step2 =
    [
        ("ational", "ate"),
        ("tional", "tion"),
        ("enci", "ence"),
        ("anci", "ance"),
        ("izer", "ize"),
        ("abli", "able"),
        ("alli", "al"),
        ("entli", "ent"),
        ("eli", "e"),
        ("ousli", "ous"),
        ("ization", "ize"),
        ("ation", "ate"),
        ("ator", "ate"),
        ("alism", "al"),
        ("iveness", "ive"),
        ("fulness", "ful"),
        ("ousness", "ous"),
        ("aliti", "al"),
        ("iviti", "ive"),
        ("biliti", "ble"),
    ];

    private static readonly (string Suffix, string Stem)[] Step3 =
    [
        ("icate", "ic"),
        ("ative", ""),
        ("alize", "al"),
        ("iciti", "ic"),
        ("ical", "ic"),
        ("ful", ""),
        ("ness", ""),
    ];

    /// <summary>Longest first where one ends another.</summary>
    private static readonly string[] Step4 =
    [
        "ement",
        "ance",
        "ence",
        "able",
        "ible",
        "ment",
        "ant",
        "ent",
        "ion",
        "ism",
        "ate",
        "iti",
        "ous",
        "ive",
        "ize",
        "al",
        "er",
        "ic",
        "ou",
    ];

    /// <param name="word">Folded. A word with anything but a to z in it is its own stem.</param>
    public static string Stem(string word)
    {
        if (word.Length < 2 || word.AsSpan().ContainsAnyExceptInRange('a', 'z'))
        {
            return word;
        }

        var w = Plural(word);
        w = PastAndProgressive(w);
        if (w.EndsWith('y') && HasVowel(w.AsSpan(0, w.Length - 1)))
        {
            w = w[..^1] + "i";
        }

        w = Replace(w, Step2);
        w = Replace(w, Step3);
        w = Strip(w);
        return Tidy(w);
    }

    /// <summary>
    /// Every word with this stem begins so; a test holds it over a whole vocabulary. Lets a sorted list of words be
    /// searched.
    /// </summary>
    public static string CommonBeginning(string stem) => stem[..Math.Max(1, stem.Length - 1)];

    private static string Plural(string w) =>
        w.EndsWith("sses", StringComparison.Ordinal) || w.EndsWith("ies", StringComparison.Ordinal) ? w[..^2]
        : w.EndsWith("ss", StringComparison.Ordinal) || !w.EndsWith('s') ? w
        : w[..^1];

    private static string PastAndProgressive(string w)
    {
        if (w.EndsWith("eed", StringComparison.Ordinal))
        {
            return Measure(w.AsSpan(0, w.Length - 3)) > 0 ? w[..^1] : w;
        }

        var stem =
            w.EndsWith("ed", StringComparison.Ordinal) ? w[..^2]
            : w.EndsWith("ing", StringComparison.Ordinal) ? w[..^3]
            : w;
        if (stem.Length == w.Length || !HasVowel(stem))
        {
            return w;
        }

        if (
            stem.EndsWith("at", StringComparison.Ordinal)
            || stem.EndsWith("bl", StringComparison.Ordinal)
            || stem.EndsWith("iz", StringComparison.Ordinal)
        )
        {
            return stem + "e";
        }

        if (EndsInDoubleConsonant(stem) && stem[^1] is not ('l' or 's' or 'z'))
        {
            return stem[..^1];
        }

        return Measure(stem) == 1 && EndsInShortSyllable(stem) ? stem + "e" : stem;
    }

    private static string Replace(string w, (string Suffix, string Stem)[] rules)
    {
        foreach (var (suffix, stem) in rules)
        {
            if (w.EndsWith(suffix, StringComparison.Ordinal))
            {
                return Measure(w.AsSpan(0, w.Length - suffix.Length)) > 0 ? w[..^suffix.Length] + stem : w;
            }
        }

        return w;
    }

    private static string Strip(string w)
    {
        foreach (var suffix in Step4)
        {
            if (w.EndsWith(suffix, StringComparison.Ordinal))
            {
                var stem = w[..^suffix.Length];
                return Measure(stem) > 1 && (suffix != "ion" || (stem.Length > 0 && stem[^1] is 's' or 't')) ? stem : w;
            }
        }

        return w;
    }

    private static string Tidy(string w)
    {
        if (w.EndsWith('e'))
        {
            var stem = w.AsSpan(0, w.Length - 1);
            var measure = Measure(stem);
            if (measure > 1 || (measure == 1 && !EndsInShortSyllable(stem)))
            {
                w = w[..^1];
            }
        }

        return w.EndsWith("ll", StringComparison.Ordinal) && Measure(w) > 1 ? w[..^1] : w;
    }

    /// <summary>How many times a run of vowels is followed by a run of consonants: the paper's <c>m</c>.</summary>
    private static int Measure(ReadOnlySpan<char> w)
    {
        var measure = 0;
        var wasVowel = false;
        for (var i = 0; i < w.Length; i++)
        {
            var vowel = IsVowel(w, i);
            if (wasVowel && !vowel)
            {
                measure++;
            }

            wasVowel = vowel;
        }

        return measure;
    }

    private static bool HasVowel(ReadOnlySpan<char> w)
    {
        for (var i = 0; i < w.Length; i++)
        {
            if (IsVowel(w, i))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>y is a vowel where a consonant stands before it.</summary>
    private static bool IsVowel(ReadOnlySpan<char> w, int i)
    {
        if (w[i] != 'y')
        {
            return w[i] is 'a' or 'e' or 'i' or 'o' or 'u';
        }

        // A run of y is a consonant, a vowel, a consonant …, counted from the letter before the run.
        var start = i;
        while (start > 0 && w[start - 1] == 'y')
        {
            start--;
        }

        var firstIsVowel = start > 0 && w[start - 1] is not ('a' or 'e' or 'i' or 'o' or 'u');
        return firstIsVowel == ((i - start) % 2 == 0);
    }

    private static bool EndsInDoubleConsonant(string w) => w.Length >= 2 && w[^1] == w[^2] && !IsVowel(w, w.Length - 1);

    /// <summary>Consonant, vowel, consonant at the end, the last not w, x or y: the paper's <c>*o</c>.</summary>
    private static bool EndsInShortSyllable(ReadOnlySpan<char> w) =>
        w.Length >= 3
        && !IsVowel(w, w.Length - 1)
        && IsVowel(w, w.Length - 2)
        && !IsVowel(w, w.Length - 3)
        && w[^1] is not ('w' or 'x' or 'y');
}
