using System.Text;
using System.Text.RegularExpressions;
using WideKeel.Core.Query;

namespace WideKeel.Core.Sensitive;

/// <summary>How sure a find is.</summary>
public enum Confidence
{
    /// <summary>It could be; a number that happens to pass would look the same.</summary>
    Possible,

    /// <summary>Its check digit and its form agree, or the words around it say so.</summary>
    Likely,

    /// <summary>Form, check and words agree, or the check is one that chance does not pass.</summary>
    Certain,
}

/// <summary>One place where a kind was found, in UTF-16 units of the text.</summary>
public readonly record struct SensitiveFind(string Kind, Confidence Confidence, int Start, int Length);

/// <summary>How much a candidate proves by itself, before the words around it are read.</summary>
public enum Proof
{
    /// <summary>It is not one.</summary>
    None,

    /// <summary>Only counts where the words around it speak of it; then it is likely.</summary>
    NeedsWords,

    /// <summary>Possible alone, likely with words.</summary>
    Weak,

    /// <summary>Likely alone, certain with words.</summary>
    Strong,

    /// <summary>Certain alone.</summary>
    Full,
}

/// <summary>
/// One kind of sensitive data: a pattern finds candidates, a check judges each by checksum or structure, and words nearby raise what is
/// believed of it. A new kind is one instance of this class.
/// </summary>
/// <param name="name">Lower case with hyphens, as queries name it.</param>
/// <param name="title">As screens name it.</param>
/// <param name="pattern">What a candidate looks like.</param>
/// <param name="judge">Takes the candidate as it stands in the text, and as its letters and digits alone, upper case.</param>
/// <param name="nearby">Folded words or phrases that speak of it; looked for within <see cref="Reach"/> characters.</param>
public sealed class SensitiveKind(string name, string title, Regex pattern, Func<string, string, Proof> judge, params string[] nearby)
{
    /// <summary>Characters before and after a candidate in which words count as near.</summary>
    public const int Reach = 60;

    public string Name { get; } = name;

    public string Title { get; } = title;

    public Regex Pattern { get; } = pattern;

    public IReadOnlyList<string> Nearby { get; } = nearby;

    /// <summary>Whether a text with these traits can hold it at all; tried before the pattern, because most texts cannot.</summary>
    public Func<TextTraits, bool> CanBeIn { get; init; } = _ => true;

    public IEnumerable<SensitiveFind> FindIn(string text)
    {
        for (var match = Pattern.Match(text); match.Success; match = match.NextMatch())
        {
            var proof = judge(match.Value, Compact(match.ValueSpan));
            if (proof != Proof.None && Judge(proof, proof == Proof.Full || HasNearby(text, match.Index, match.Length)) is { } confidence)
            {
                yield return new(Name, confidence, match.Index, match.Length);
            }
        }
    }

    private static Confidence? Judge(Proof proof, bool words) => proof switch
    {
        Proof.NeedsWords => words ? Confidence.Likely : null,
        Proof.Weak => words ? Confidence.Likely : Confidence.Possible,
        Proof.Strong => words ? Confidence.Certain : Confidence.Likely,
        _ => Confidence.Certain,
    };

    private bool HasNearby(string text, int start, int length)
    {
        if (Nearby.Count == 0)
        {
            return false;
        }

        // Whole words only: cut the ends at a place between words.
        var from = Math.Max(0, start - Reach);
        while (from > 0 && from < start && char.IsLetterOrDigit(text[from - 1]))
        {
            from++;
        }

        var to = Math.Min(text.Length, start + length + Reach);
        while (to < text.Length && to > start + length && char.IsLetterOrDigit(text[to]))
        {
            to--;
        }

        var before = $" {Words.Folded(text[from..start])} ";
        var after = $" {Words.Folded(text[(start + length)..to])} ";
        return Nearby.Any(n => before.Contains($" {n} ", StringComparison.Ordinal) || after.Contains($" {n} ", StringComparison.Ordinal));
    }

    private static string Compact(ReadOnlySpan<char> candidate)
    {
        var compact = new StringBuilder(candidate.Length);
        foreach (var c in candidate)
        {
            if (char.IsAsciiLetterOrDigit(c) || c == '<')
            {
                compact.Append(char.ToUpperInvariant(c));
            }
        }

        return compact.ToString();
    }
}

/// <summary>Looks for many kinds at once.</summary>
public sealed class SensitiveScan(IReadOnlyList<SensitiveKind> kinds)
{
    /// <summary>Everything found, by place. Where two kinds claim overlapping characters, the surer one stays; of two equally sure ones both.</summary>
    public IReadOnlyList<SensitiveFind> FindIn(string text)
    {
        List<SensitiveFind> found = [];
        var traits = new TextTraits(text);
        foreach (var kind in kinds)
        {
            if (kind.CanBeIn(traits))
            {
                found.AddRange(kind.FindIn(text));
            }
        }

        found.Sort((a, b) => (a.Start, -a.Length, a.Kind).CompareTo((b.Start, -b.Length, b.Kind)));
        return [.. found.Where((f, at) => !OutdoneAt(at, f))];

        bool OutdoneAt(int at, SensitiveFind find)
        {
            for (var i = at - 1; i >= 0 && i > at - 50; i--)
            {
                if (Outdoes(found[i], find))
                {
                    return true;
                }
            }

            for (var i = at + 1; i < found.Count && found[i].Start < find.Start + find.Length; i++)
            {
                if (Outdoes(found[i], find))
                {
                    return true;
                }
            }

            return false;
        }

        static bool Outdoes(SensitiveFind other, SensitiveFind find) =>
            other.Start < find.Start + find.Length && find.Start < other.Start + other.Length && other.Confidence > find.Confidence;
    }

    /// <summary>
    /// The find with all but its end hidden: a quarter of its letters and digits stay, at most four; of a mail address the first letter and
    /// the domain; of a machine readable zone and of a heading nothing that identifies.
    /// </summary>
    public static string Masked(string kind, ReadOnlySpan<char> found)
    {
        var at = found.IndexOf('@');
        if (at > 0)
        {
            return $"{found[0]}{new string('•', at - 1)}{found[at..]}";
        }

        if (kind == SensitiveKinds.TaxForm)
        {
            return found.ToString();
        }

        var total = 0;
        foreach (var c in found)
        {
            total += char.IsLetterOrDigit(c) ? 1 : 0;
        }

        var hidden = total - (kind == SensitiveKinds.PassportZone ? 0 : Math.Min(4, total / 4));
        var masked = new StringBuilder(found.Length);
        foreach (var c in found)
        {
            masked.Append(char.IsLetterOrDigit(c) && hidden-- > 0 ? '•' : c);
        }

        return masked.ToString();
    }
}
