using System.Buffers;

namespace WideKeel.Core.Query;

/// <summary>What most people type: some words and nothing else. They mean that all of the words occur.</summary>
public static class PlainWords
{
    private static readonly HashSet<string> Meaningful = new(StringComparer.OrdinalIgnoreCase)
    {
        "and",
        "or",
        "not",
        "prox",
        "sortby",
        "any",
        "all",
        "within",
        "adj",
        "scr",
    };

    private static readonly SearchValues<char> Signs = SearchValues.Create("()/=<>\"\\");

    /// <summary>
    /// The query that plain words stand for; the text itself where it is written in the query language.
    /// </summary>
    public static string ToQuery(string text)
    {
        var parts = text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        return parts.Length < 2 || text.AsSpan().ContainsAny(Signs) || parts.Any(Meaningful.Contains)
            ? text
            : $"text all \"{string.Join(' ', parts)}\"";
    }
}
