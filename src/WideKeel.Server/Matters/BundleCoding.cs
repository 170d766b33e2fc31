using Microsoft.EntityFrameworkCore;
using NodaTime.Text;
using WideKeel.Core.Matters;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>What the tags of a matter mean for a bundle: what is withheld, and the log of it.</summary>
internal static class BundleCoding
{
    /// <summary>All tags of the matter on these items.</summary>
    public static async Task<List<Code>> CodesAsync(
        IReadOnlyCollection<long> items,
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        List<Code> codes = [];
        foreach (var portion in items.Chunk(1_000))
        {
            codes.AddRange(
                await (
                    from code in db.ItemTags.AsNoTracking()
                    join tag in db.MatterTags on code.TagId equals tag.Id
                    where tag.MatterId == matter && portion.Contains(code.ItemId)
                    orderby tag.Id
                    select new Code(code.ItemId, code.Document, tag.Name, tag.Withholds, code.Note, code.By, code.At)
                ).ToListAsync(cancel)
            );
        }

        return codes;
    }

    /// <summary>Why each document is withheld that is; what was noted as withheld before stays so.</summary>
    public static async Task<IReadOnlyDictionary<string, string>> WithheldAsync(
        IReadOnlyCollection<BundleItem> rows,
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var codes = await CodesAsync([.. rows.Select(r => r.ItemId)], matter, db, cancel);
        var why = new Dictionary<string, string>(
            Coding.Withheld(
                [
                    .. rows.SelectMany(r =>
                        (r.Documents ?? []).Select(d => new CodedDocument(
                            d.Id,
                            r.ItemId,
                            PlaceOf(r, d),
                            d.Hash,
                            d.Holds
                        ))
                    ),
                ],
                codes
            )
        );
        foreach (var before in rows.SelectMany(r => r.Documents ?? []).Where(d => d.Withheld is not null))
        {
            why.TryAdd(before.Id, before.Withheld!);
        }

        return why;
    }

    /// <summary>Names of the tags that a document bears, itself or by its family.</summary>
    public static string TagsOf(IEnumerable<Code> codes, BundleItem row, BundleDocument document) =>
        string.Join(
            "; ",
            codes
                .Where(c => c.Document == Coding.WholeFamily || c.Document == PlaceOf(row, document))
                .Select(c => c.Tag)
                .Distinct(StringComparer.Ordinal)
        );

    /// <summary>
    /// The withheld documents, each with what an opponent may know of it: whose it is, when, from whom to whom, and why it
    /// is withheld. Its columns are common practice.
    /// </summary>
    public static async Task<string> PrivilegeLogAsync(
        IReadOnlyCollection<BundleItem> rows,
        long matter,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var affected = rows.Where(r => r.Documents?.Any(d => d.Withheld is not null) == true).ToList();
        var ids = affected.ConvertAll(r => r.ItemId);
        var codes = (await CodesAsync(ids, matter, db, cancel)).Where(c => c.Withholds).ToLookup(c => c.ItemId);
        List<string?[]> lines = [];
        foreach (var portion in affected.Chunk(1_000))
        {
            var some = portion.Select(r => r.ItemId).ToList();
            var dates = await db
                .Items.AsNoTracking()
                .Where(i => some.Contains(i.Id))
                .ToDictionaryAsync(i => i.Id, i => i.Created, cancel);
            foreach (var row in portion)
            {
                foreach (var document in row.Documents!.Where(d => d.Withheld is not null))
                {
                    var own = codes[row.ItemId]
                        .Where(c => c.Document == Coding.WholeFamily || c.Document == PlaceOf(row, document))
                        .ToList();
                    lines.Add([
                        document.Id,
                        document.Family,
                        LocalDatePattern.Iso.Format(dates[row.ItemId]),
                        document.Author,
                        document.To,
                        document.Title,
                        document.Withheld,
                        string.Join("; ", own.Select(c => c.Note).Where(n => n.Length > 0).Distinct()),
                        string.Join("; ", own.Select(c => c.By).Distinct()),
                        own.Count == 0 ? null : InstantPattern.General.Format(own.Max(c => c.At)),
                    ]);
                }
            }
        }

        return BundleLoadFile.Table(
            ["id", "family", "date", "author", "to", "subject", "withheld", "note", "coded_by", "coded_at"],
            lines
        );
    }

    /// <summary>
    /// Which document of the family it is, from 1; null for a content that the item has no more.
    /// </summary>
    private static int? PlaceOf(BundleItem row, BundleDocument document)
    {
        if (document.VersionFrom is not null)
        {
            return null;
        }

        var at = 0;
        while (row.Documents![at].Id != document.Id)
        {
            at++;
        }

        return at + 1;
    }
}
