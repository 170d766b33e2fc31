using System.Net;
using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>Where addresses are, by ranges; the narrowest range counts.</summary>
public sealed class PlaceTable
{
    private readonly ILookup<int, (IPNetwork Range, EventPlace Place)> ranges;
    private readonly List<int> lengths;

    public PlaceTable(IEnumerable<(string Range, EventPlace Place)> places)
    {
        ranges = places
            .Select(p => (Range: Cidr.Read(p.Range), p.Place))
            .Where(p => p.Range is not null)
            .Select(p => (p.Range!.Value, p.Place))
            .ToLookup(p => p.Value.PrefixLength, p => (p.Value, p.Place));
        lengths = [.. ranges.Select(r => r.Key).OrderDescending()];
    }

    /// <summary>The place of an address; null where no range holds it.</summary>
    public EventPlace? Of(string? address)
    {
        if (address is null || !IPAddress.TryParse(address, out var parsed))
        {
            return null;
        }

        foreach (var length in lengths)
        {
            foreach (var (range, place) in ranges[length])
            {
                if (range.BaseAddress.AddressFamily == parsed.AddressFamily && range.Contains(parsed))
                {
                    return place;
                }
            }
        }

        return null;
    }
}
