using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Sensitive;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Content;

/// <summary>
/// All kinds that are looked for: the product's own and the organisation's. A pattern is built once a revision.
/// </summary>
public static class KindSet
{
    private static readonly ConcurrentDictionary<OwnKindDefinition, SensitiveKind> Built = new(new SameDefinition());

    public static async Task<SensitiveScan> ScanAsync(WideKeelDb db) =>
        new([
            .. SensitiveKinds.BuiltIn,
            .. (await db.OwnKinds.AsNoTracking().OrderBy(k => k.Name).ToListAsync())
                .Select(DefinitionOf)
                .Select(d => Built.GetOrAdd(d, x => x.Check().Value)),
        ]);

    public static OwnKindDefinition DefinitionOf(OwnKind kind) =>
        new(
            kind.Name,
            kind.Title,
            kind.Pattern,
            kind.Checksum,
            kind.Nearby.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
        );

    /// <summary>What an item's text holds, as rows to be stored.</summary>
    public static IEnumerable<ItemSensitive> CountsOf(long itemId, IReadOnlyList<SensitiveFind> finds) =>
        finds
            .GroupBy(f => f.Kind)
            .Select(kind => new ItemSensitive
            {
                ItemId = itemId,
                Kind = kind.Key,
                Possible = kind.Count(f => f.Confidence == Confidence.Possible),
                Likely = kind.Count(f => f.Confidence == Confidence.Likely),
                Certain = kind.Count(f => f.Confidence == Confidence.Certain),
            });

    private sealed class SameDefinition : IEqualityComparer<OwnKindDefinition>
    {
        public bool Equals(OwnKindDefinition? x, OwnKindDefinition? y) =>
            x is not null
            && y is not null
            && (x.Name, x.Title, x.Pattern, x.Checksum) == (y.Name, y.Title, y.Pattern, y.Checksum)
            && x.Nearby.SequenceEqual(y.Nearby);

        public int GetHashCode(OwnKindDefinition definition) =>
            HashCode.Combine(definition.Name, definition.Pattern, definition.Checksum);
    }
}
