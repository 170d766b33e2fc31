using System.Net;
using WideKeel.Core.Query;

namespace WideKeel.Core.Activity;

/// <param name="Egress">Many people leave through it, from wherever they are: an address says nothing of a journey.</param>
public sealed record NamedNetwork(string Name, IReadOnlyList<IPNetwork> Ranges, bool Egress);

/// <summary>The networks that an organisation names.</summary>
public sealed class NamedNetworks
{
    private readonly List<(IPNetwork Range, NamedNetwork Network)> narrowestFirst;

    /// <param name="networks">Of ranges of one width that hold the same address, the one written first counts.</param>
    public NamedNetworks(IEnumerable<NamedNetwork> networks) =>
        narrowestFirst = [
            .. networks
                .SelectMany(n => n.Ranges.Select(r => (Range: r, Network: n)))
                .OrderByDescending(r => r.Range.PrefixLength),
        ];

    /// <summary>The network with the narrowest range that holds the address; null where none does.</summary>
    public NamedNetwork? Of(string? address)
    {
        if (address is null || !IPAddress.TryParse(address, out var parsed))
        {
            return null;
        }

        foreach (var (range, network) in narrowestFirst)
        {
            if (range.BaseAddress.AddressFamily == parsed.AddressFamily && range.Contains(parsed))
            {
                return network;
            }
        }

        return null;
    }
}
