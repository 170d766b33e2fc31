using System.Text;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Query;
using WideKeel.Core.Sensitive;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>A sensitive find within a text that is shown; places in UTF-16 units.</summary>
public sealed record FindMark(string Kind, Confidence Confidence, int Start, int Length);

/// <summary>
/// What is shown of texts: the words that were looked for are marked, and what must not be seen by the way is masked.
/// </summary>
internal static class FoundText
{
    private const int SnippetLength = 170;

    /// <summary>Characters of a text in which a snippet is looked for.</summary>
    private const int MostSearched = 60_000;

    /// <summary>What a query asks, for its words to be marked; null where there is none or it cannot be read.</summary>
    public static Condition? Asked(string? cql, LocalDate today) =>
        !string.IsNullOrWhiteSpace(cql)
        && QueryCompiler.Compile(PlainWords.ToQuery(cql), today) is { Refused: false, Value: var compiled }
            ? compiled.Condition
            : null;

    /// <summary>The text with the same length and every hidden find masked.</summary>
    public static string Mask(string text, IReadOnlyList<SensitiveFind> finds)
    {
        var masked = new StringBuilder(text);
        foreach (var find in finds.Where(f => f.IsHidden))
        {
            // Where finds overlap, what one of them hides stays hidden.
            var shown = find.MaskedIn(text);
            for (var i = 0; i < find.Length; i++)
            {
                masked[find.Start + i] = shown[i] == '•' ? '•' : masked[find.Start + i];
            }
        }

        return masked.ToString();
    }

    /// <summary>Titles with their marks and a snippet of each text, for the items of one page.</summary>
    public static async Task<Dictionary<long, FoundWords>> InAsync(
        Condition condition,
        IReadOnlyList<Item> items,
        WideKeelDb db
    )
    {
        var ids = items.Select(i => i.Id).ToList();
        var texts = await db
            .ItemTexts.AsNoTracking()
            .Where(t => ids.Contains(t.ItemId))
            .Select(t => new
            {
                t.ItemId,
                Text = t.Text.Substring(0, MostSearched),
                Holding = db.ItemSensitives.Any(s => s.ItemId == t.ItemId),
            })
            .ToDictionaryAsync(t => t.ItemId);
        var scan = !texts.Values.Any(t => t.Holding) ? null : await KindSet.ScanAsync(db);
        Dictionary<long, FoundWords> found = [];
        foreach (var item in items)
        {
            var text = texts.GetValueOrDefault(item.Id);
            if (In(condition, item.Title, text?.Text, text?.Holding == true ? scan : null) is { } words)
            {
                found[item.Id] = words;
            }
        }

        return found;
    }

    /// <summary>A title with its marks and a snippet of a text; null where nothing is found in either.</summary>
    /// <param name="scan">Null where the text is known to hold nothing sensitive.</param>
    public static FoundWords? In(Condition condition, string title, string? text, SensitiveScan? scan)
    {
        var seen = new QueryItem { Title = title, Body = text };
        var marks = QueryMatcher.Marks(condition, seen, QueryIndex.Title);
        var body = QueryMatcher.Marks(condition, seen, QueryIndex.Text);
        if (marks.Count + body.Count == 0)
        {
            return null;
        }

        var (snippet, found) = body.Count == 0 ? (null, []) : Snippet(text!, body, scan);
        return new(marks, snippet, found);
    }

    /// <summary>Begins a little before the first word found, at the beginning of a word.</summary>
    /// <param name="scan">Null where the item is known to hold nothing sensitive.</param>
    private static (string Text, IReadOnlyList<TextSpan> Marks) Snippet(
        string text,
        IReadOnlyList<TextSpan> marks,
        SensitiveScan? scan
    )
    {
        var from = Math.Max(0, marks[0].Start - 16);
        while (from > 0 && from < marks[0].Start && !char.IsWhiteSpace(text[from - 1]))
        {
            from++;
        }

        var to = Math.Min(text.Length, Math.Max(from + SnippetLength, marks[0].End));
        // A little more on both sides is read, so that a number cut by the snippet's edge is still known for what it
        // is.
        var (around, until) = (Math.Max(0, from - 100), Math.Min(text.Length, to + 100));
        var finds = scan?.FindIn(text[around..until]) ?? [];
        var masked = Mask(text[around..until], finds)[(from - around)..(to - around)];
        var snippet =
            (from > 0 ? "… " : "")
            + masked.Replace('\n', ' ').Replace('\r', ' ').Replace('\t', ' ')
            + (to < text.Length ? " …" : "");
        var shift = (from > 0 ? 2 : 0) - from;
        return (snippet, [.. marks.Where(m => m.End <= to).Select(m => new TextSpan(m.Start + shift, m.Length))]);
    }
}
