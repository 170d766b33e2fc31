using NodaTime;

namespace WideKeel.Core.Matters;

/// <summary>A tag of a matter, put on an item or on one document of its family.</summary>
/// <param name="Document">Of the family, counted from 1, the message itself; <see cref="Coding.WholeFamily"/> for all
/// of them.</param>
/// <param name="Withholds">Whether what bears the tag stays out of bundles.</param>
public sealed record Code(long ItemId, int Document, string Tag, bool Withholds, string Note, string By, Instant At);

/// <summary>A content that lies within the file of a document, as an attachment lies within its message.</summary>
/// <param name="Document">Which document of the family it is, counted from 1; null where it is none, but lies within
/// one.</param>
/// <param name="Hash">SHA-256.</param>
public sealed record HeldContent(int? Document, string Hash);

/// <summary>A document of a bundle, as coding looks at it.</summary>
/// <param name="Document">Of the family, counted from 1; null for a content that the item has no more.</param>
/// <param name="Hash">SHA-256 of its content.</param>
/// <param name="Holds">What lies within its file, however deep.</param>
public sealed record CodedDocument(
    string Id,
    long ItemId,
    int? Document,
    string Hash,
    IReadOnlyList<HeldContent> Holds
);

/// <summary>Which documents a bundle withholds. The coding of documents before they are disclosed is common practice.</summary>
public static class Coding
{
    public const int WholeFamily = 0;

    /// <summary>Why each document is withheld that is; what is given stands not in it.</summary>
    /// <remarks>
    /// A document is withheld that bears a withholding tag itself or by its family; a message, and its former contents,
    /// of which a document is withheld, because its file holds that document; and whatever has the same content as
    /// something withheld, or holds it. The rules are applied until none finds more.
    /// </remarks>
    public static IReadOnlyDictionary<string, string> Withheld(
        IReadOnlyCollection<CodedDocument> documents,
        IEnumerable<Code> codes
    )
    {
        var withholding = codes.Where(c => c.Withholds).ToLookup(c => c.ItemId);
        Dictionary<string, string> why = [];
        // Content → what it is withheld as. An attachment counts though it is no document of its own in the bundle.
        Dictionary<string, string> hidden = [];
        foreach (var document in documents)
        {
            var own = TagsOn(withholding[document.ItemId], document.Document);
            if (own.Length > 0)
            {
                why[document.Id] = own;
            }
            else if (document.Document is null or 1 && withholding[document.ItemId].Any())
            {
                why[document.Id] = HoldsOne;
            }

            foreach (var held in document.Holds)
            {
                if (held.Document is { } place && TagsOn(withholding[document.ItemId], place).Length > 0)
                {
                    hidden.TryAdd(held.Hash, $"a document of {document.Id}");
                }
            }
        }

        while (Spread(documents, why, hidden)) { }

        return why;
    }

    private const string HoldsOne = "holds a document that is withheld";

    private static string TagsOn(IEnumerable<Code> codes, int? document) =>
        string.Join(
            "; ",
            codes
                .Where(c => c.Document == WholeFamily || c.Document == document)
                .Select(c => c.Tag)
                .Distinct(StringComparer.Ordinal)
        );

    /// <summary>One round of what a withheld document makes withheld; whether there was more.</summary>
    private static bool Spread(
        IReadOnlyCollection<CodedDocument> documents,
        Dictionary<string, string> why,
        Dictionary<string, string> hidden
    )
    {
        HashSet<long> items = [];
        foreach (var document in documents.Where(d => why.ContainsKey(d.Id)))
        {
            items.Add(document.ItemId);
            hidden.TryAdd(document.Hash, document.Id);
        }

        var more = false;
        foreach (var document in documents.Where(d => !why.ContainsKey(d.Id)))
        {
            var reason =
                hidden.TryGetValue(document.Hash, out var same) ? $"same content as {same}"
                : document.Holds.Any(h => hidden.ContainsKey(h.Hash))
                || (document.Document is null or 1 && items.Contains(document.ItemId))
                    ? HoldsOne
                : null;
            if (reason is not null)
            {
                why[document.Id] = reason;
                more = true;
            }
        }

        return more;
    }
}
