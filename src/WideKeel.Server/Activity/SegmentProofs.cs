using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// Proofs of inclusion (RFC 6962 §2.1.1) out of sealed files, for one request: each file is read once, however many of its
/// events are proven. An event is found by its leaf, so it needs no row: days that are no longer at hand are proven as well.
/// </summary>
internal sealed class SegmentProofs(ArchiveFiles archive, ApiContext context)
{
    private readonly Dictionary<(string Channel, LocalDate Day), IReadOnlyList<Opened>> days = [];

    private sealed record Opened(
        SealedSegment Segment,
        MerkleProver Prover,
        int Size,
        Dictionary<string, int> Places,
        long? Entry
    );

    /// <summary>
    /// Where an event stands in its sealed file, how that leads to the file's root, and the number of the root's entry; null
    /// where no file of its day holds it.
    /// </summary>
    /// <param name="leaf">Of the event, as lower-case hex.</param>
    public async Task<JsonObject?> OfAsync(string channel, Instant time, string leaf)
    {
        var key = (channel, time.InUtc().Date);
        if (!days.TryGetValue(key, out var opened))
        {
            days[key] = opened = await OpenAsync(channel, key.Date);
        }

        foreach (var file in opened)
        {
            if (file.Places.TryGetValue(leaf, out var index))
            {
                return new()
                {
                    ["index"] = index,
                    ["size"] = file.Size,
                    ["inclusion"] = new JsonArray([
                        .. file.Prover.InclusionProof(index).Select(h => (JsonNode)Convert.ToHexStringLower(h)),
                    ]),
                    ["segment"] = file.Segment.ToJson(),
                    ["ledgerEntry"] = file.Entry,
                };
            }
        }

        return null;
    }

    private async Task<IReadOnlyList<Opened>> OpenAsync(string name, LocalDate day)
    {
        if (
            await context.Db.Channels.AsNoTracking().SingleOrDefaultAsync(c => c.Name == name, context.Cancel)
            is not { } channel
        )
        {
            return [];
        }

        List<Opened> opened = [];
        foreach (
            var segment in await context
                .Db.Segments.AsNoTracking()
                .Where(s => s.ChannelId == channel.Id && s.Day == day && s.RemovedAt == null)
                .OrderBy(s => s.Number)
                .ToListAsync(context.Cancel)
        )
        {
            using var file = archive.Open(name, day, segment.Number);
            if (file is not null)
            {
                var leaves = SegmentFile.Leaves(file.Path);
                var described = SealJob.Described(channel, segment);
                opened.Add(
                    new(
                        described,
                        new(leaves),
                        leaves.Length,
                        leaves
                            .Select((l, i) => (Leaf: Convert.ToHexStringLower(l), Index: i))
                            .DistinctBy(l => l.Leaf)
                            .ToDictionary(l => l.Leaf, l => l.Index),
                        await EventEndpoints.EntryOfAsync(described, context)
                    )
                );
            }
        }

        return opened;
    }
}
