using System.Text;
using System.Text.RegularExpressions;
using WideKeel.Core.CommandLine;
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

/// <summary>What is hidden when a find is shown masked.</summary>
public enum Masking
{
    /// <summary>All but the last quarter of its letters and digits, at most four.</summary>
    AllButEnd,

    /// <summary>Every letter and digit.</summary>
    All,

    /// <summary>All between the first letter and the domain of a mail address.</summary>
    AllButDomain,

    /// <summary>Nothing: it identifies nobody.</summary>
    None,
}

/// <summary>One place where a kind was found, in UTF-16 units of the text.</summary>
public readonly record struct SensitiveFind(SensitiveKind Of, Confidence Confidence, int Start, int Length)
{
    public string Kind => Of.Name;

    /// <summary>
    /// Whether its characters are hidden wherever the text is shown. What is only possible is not, or every order
    /// number would be.
    /// </summary>
    public bool IsHidden => Of.HiddenInText && Confidence > Confidence.Possible;

    /// <summary>Its characters, masked; as long as they are.</summary>
    public string MaskedIn(string text) => Of.Masked(text.AsSpan(Start, Length));
}

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
/// One kind of sensitive data: a pattern finds candidates, a check judges each by checksum or structure, and words
/// nearby raise what is believed of it. A new kind is one instance of this class.
/// </summary>
/// <param name="name">Lower case with hyphens, as queries name it.</param>
/// <param name="title">As screens name it.</param>
/// <param name="pattern">What a candidate looks like.</param>
/// <param name="judge">Takes the candidate as it stands in the text, and as its letters and digits alone, upper
/// case.</param>
/// <param name="nearby">Folded words or phrases that speak of it; looked for within <see cref="Reach"/>
/// characters.</param>
public sealed class SensitiveKind(
    string name,
    string title,
    Regex pattern,
    Func<string, string, Proof> judge,
    params string[] nearby
)
{
    /// <summary>Characters before and after a candidate in which words count as near.</summary>
    public const int Reach = 60;

    public string Name { get; } = name;

    public string Title { get; } = title;

    public Regex Pattern { get; } = pattern;

    public IReadOnlyList<string> Nearby { get; } = nearby;

    public Masking Masking { get; init; }

    /// <summary>
    /// It identifies a person or an account, so that it is hidden where the text is shown; ways to reach somebody,
    /// ships and headings are not.
    /// </summary>
    public bool HiddenInText { get; init; } = true;

    /// <summary>
    /// Whether a text with these traits can hold it at all; tried before the pattern, because most texts cannot.
    /// </summary>
    public Func<TextTraits, bool> CanBeIn { get; init; } = _ => true;

    /// <summary>
    /// A sign that every find holds, at most so many characters behind its first; the pattern is not tried where none
    /// can begin.
    /// </summary>
    public (char Sign, int Behind)? Holds { get; init; }

    public IEnumerable<SensitiveFind> FindIn(string text)
    {
        var from = 0;
        while (Begin(text, from) is { } start && Pattern.Match(text, start) is { Success: true } match)
        {
            from = match.Index + Math.Max(1, match.Length);
            var proof = judge(match.Value, Compact(match.ValueSpan));
            if (
                proof != Proof.None
                && Judge(proof, proof == Proof.Full || HasNearby(text, match.Index, match.Length)) is { } confidence
            )
            {
                yield return new(this, confidence, match.Index, match.Length);
            }
        }
    }

    /// <summary>Where the next find can begin; null when there is none.</summary>
    private int? Begin(string text, int from) =>
        from > text.Length ? null
        : Holds is not { } holds ? from
        : text.IndexOf(holds.Sign, from) is var at and >= 0 ? Math.Max(from, at - holds.Behind)
        : null;

    /// <summary>
    /// The characters of a find, with what <see cref="Masking"/> hides as bullets; as long as they were.
    /// </summary>
    public string Masked(ReadOnlySpan<char> found)
    {
        var total = 0;
        foreach (var c in found)
        {
            total += char.IsLetterOrDigit(c) ? 1 : 0;
        }

        var hidden = Masking switch
        {
            Masking.AllButEnd => total - Math.Min(4, total / 4),
            Masking.All => total,
            _ => 0,
        };
        var at = Masking == Masking.AllButDomain ? found.IndexOf('@') : 0;
        var masked = new StringBuilder(found.Length);
        for (var i = 0; i < found.Length; i++)
        {
            masked.Append((i > 0 && i < at) || (char.IsLetterOrDigit(found[i]) && hidden-- > 0) ? '•' : found[i]);
        }

        return masked.ToString();
    }

    private static Confidence? Judge(Proof proof, bool words) =>
        proof switch
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
        return Nearby.Any(n =>
            before.Contains($" {n} ", StringComparison.Ordinal) || after.Contains($" {n} ", StringComparison.Ordinal)
        );
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
    /// <summary>
    /// Everything found, by place. Where two kinds claim overlapping characters, the surer one stays; of two equally
    /// sure ones both.
    /// </summary>
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
            other.Start < find.Start + find.Length
            && find.Start < other.Start + other.Length
            && other.Confidence > find.Confidence;
    }
}
