using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Sensitive;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>What items say of themselves, to be kept with a copy of their content.</summary>
internal static class VersionFacts
{
    /// <summary>As the rows of items say it, with their fields and finds.</summary>
    public static async Task<Dictionary<long, CopyFacts>> OfAsync(
        WideKeelDb db,
        IReadOnlyCollection<Item> items,
        CancellationToken cancel
    )
    {
        var ids = items.Select(i => i.Id).ToList();
        var fields = (
            await db.ItemFields.AsNoTracking().Where(f => ids.Contains(f.ItemId)).ToListAsync(cancel)
        ).ToLookup(f => f.ItemId, f => (f.Name, f.Value));
        var dates = (await db.ItemDates.AsNoTracking().Where(d => ids.Contains(d.ItemId)).ToListAsync(cancel)).ToLookup(
            d => d.ItemId,
            d => (d.Name, Value: LocalDatePattern.Iso.Format(d.Date))
        );
        var kinds = (
            await db.ItemSensitives.AsNoTracking().Where(s => ids.Contains(s.ItemId)).ToListAsync(cancel)
        ).ToLookup(s => s.ItemId, s => s.Kind);
        return items.ToDictionary(
            i => i.Id,
            i => new CopyFacts(
                i.ContainerId,
                i.Path,
                i.Type,
                i.Title,
                i.Author,
                i.Owner,
                i.Created,
                i.Modified,
                i.Searchable,
                Named(fields[i.Id].Concat(dates[i.Id])),
                [.. kinds[i.Id]]
            )
        );
    }

    /// <summary>As a content says it to which no scan has come yet: the item's row still speaks of the one before.</summary>
    /// <param name="today">When it was found so.</param>
    public static CopyFacts Of(
        Item before,
        Extracted read,
        long bytes,
        IEnumerable<SensitiveFind> finds,
        LocalDate today
    ) =>
        new(
            before.ContainerId,
            before.Path,
            before.Type,
            read.Title ?? Path.GetFileName(before.Path),
            read.Author,
            read.Owner,
            read.Created ?? before.Created,
            today,
            read.Searchable(bytes),
            Named(
                read.Fields.Select(f => (f.Key, f.Value))
                    .Concat(read.Dates.Select(d => (d.Key, LocalDatePattern.Iso.Format(d.Value))))
            ),
            [.. finds.Select(f => f.Kind).Distinct(StringComparer.Ordinal)]
        );

    /// <summary>Where two have one name, the later is taken.</summary>
    private static Dictionary<string, string> Named(IEnumerable<(string Name, string Value)> fields) =>
        fields.GroupBy(f => f.Name).ToDictionary(g => g.Key, g => g.Last().Value);
}
