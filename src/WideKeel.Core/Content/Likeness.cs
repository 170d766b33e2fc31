using WideKeel.Core.Query;

namespace WideKeel.Core.Content;

/// <summary>
/// How alike two texts are: the share of runs of three words that they have in common among all that either has
/// (Jaccard's index over shingles; A. Broder, “On the resemblance and containment of documents”, 1997).
/// </summary>
public static class Likeness
{
    private const int Run = 3;

    /// <summary>Hashes of the runs of three folded words; of a shorter text the one run that there is.</summary>
    public static HashSet<int> Shingles(string text)
    {
        var words = Words.Of(text);
        HashSet<int> shingles = [];
        for (var i = 0; i + Math.Min(Run, words.Count) <= words.Count && words.Count > 0; i++)
        {
            var hash = default(HashCode);
            for (var k = i; k < Math.Min(i + Run, words.Count); k++)
            {
                hash.Add(words[k].Text, StringComparer.Ordinal);
            }

            shingles.Add(hash.ToHashCode());
        }

        return shingles;
    }

    /// <summary>0 for nothing in common, 1 for the same runs; 0 where either text has no word.</summary>
    public static double Of(HashSet<int> a, HashSet<int> b)
    {
        if (a.Count == 0 || b.Count == 0)
        {
            return 0;
        }

        var common = a.Count(b.Contains);
        return (double)common / (a.Count + b.Count - common);
    }
}
