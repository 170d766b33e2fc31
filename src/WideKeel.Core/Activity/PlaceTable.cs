using System.Buffers.Binary;
using System.Net;
using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <summary>Where addresses are, by ranges; the narrowest range counts. One look a length of prefix, however many ranges.</summary>
public sealed class PlaceTable
{
    private readonly Dictionary<(bool IsV6, int Length, UInt128 Prefix), EventPlace> ranges = [];
    private readonly ILookup<bool, int> lengths;

    public PlaceTable(IEnumerable<(string Range, EventPlace Place)> places)
    {
        foreach (var (text, place) in places)
        {
            if (Cidr.Read(text) is { } range)
            {
                var (isV6, bits) = BitsOf(range.BaseAddress);
                ranges.TryAdd((isV6, range.PrefixLength, Prefix(bits, range.PrefixLength)), place);
            }
        }

        lengths = ranges
            .Keys.Select(k => (k.IsV6, k.Length))
            .Distinct()
            .OrderByDescending(k => k.Length)
            .ToLookup(k => k.IsV6, k => k.Length);
    }

    /// <summary>The place of an address; null where no range holds it.</summary>
    public EventPlace? Of(string? address)
    {
        if (address is null || !IPAddress.TryParse(address, out var parsed))
        {
            return null;
        }

        var (isV6, bits) = BitsOf(parsed);
        foreach (var length in lengths[isV6])
        {
            if (ranges.TryGetValue((isV6, length, Prefix(bits, length)), out var place))
            {
                return place;
            }
        }

        return null;
    }

    /// <summary>The address from the highest bit of 128 on.</summary>
    private static (bool IsV6, UInt128 Bits) BitsOf(IPAddress address)
    {
        Span<byte> bytes = stackalloc byte[16];
        address.TryWriteBytes(bytes, out var written);
        return (written == bytes.Length, BinaryPrimitives.ReadUInt128BigEndian(bytes));
    }

    private static UInt128 Prefix(UInt128 bits, int length) =>
        length == 0 ? 0 : bits >> (128 - length) << (128 - length);
}
