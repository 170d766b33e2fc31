using System.Net;
using System.Net.Sockets;

namespace WideKeel.Core.People;

/// <summary>Which addresses the whole internet reaches, and which only a machine, a wire or an organisation.</summary>
public static class PublicAddress
{
    /// <summary>
    /// Blocks that are not globally reachable, of the IANA registries of special-purpose addresses (RFC 6890, with RFC 8190),
    /// and those of multicast (RFC 5771, RFC 4291).
    /// </summary>
    private static readonly IPNetwork[] Special =
    [
        .. new[]
        {
            "0.0.0.0/8",
            "10.0.0.0/8",
            "100.64.0.0/10",
            "127.0.0.0/8",
            "169.254.0.0/16",
            "172.16.0.0/12",
            "192.0.0.0/24",
            "192.0.2.0/24",
            "192.168.0.0/16",
            "198.18.0.0/15",
            "198.51.100.0/24",
            "203.0.113.0/24",
            "224.0.0.0/4",
            "240.0.0.0/4",
            "::/128",
            "::1/128",
            "64:ff9b:1::/48",
            "100::/64",
            "2001::/23",
            "2001:db8::/32",
            "3fff::/20",
            "5f00::/16",
            "fc00::/7",
            "fe80::/10",
            "fec0::/10",
            "ff00::/8",
        }.Select(IPNetwork.Parse),
    ];

    private static readonly IPNetwork Translated = IPNetwork.Parse("64:ff9b::/96");
    private static readonly IPNetwork SixToFour = IPNetwork.Parse("2002::/16");

    /// <summary>Whether an address is globally reachable.</summary>
    public static bool Is(IPAddress address)
    {
        var plain = Plain(address);
        return !Array.Exists(Special, n => n.Contains(plain));
    }

    /// <summary>Whether an address lies in one of some blocks.</summary>
    public static bool IsIn(IPAddress address, IEnumerable<IPNetwork> networks)
    {
        var plain = Plain(address);
        return networks.Any(n => n.Contains(plain));
    }

    /// <summary>Blocks in CIDR form, with a comma between.</summary>
    public static Outcome<IReadOnlyList<IPNetwork>> ReadNetworks(string text, string field)
    {
        List<IPNetwork> networks = [];
        foreach (var part in text.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
        {
            if (
                !IPNetwork.TryParse(
                    part.Contains('/', StringComparison.Ordinal) ? part : WholeOf(part),
                    out var network
                )
            )
            {
                return new Refusal(
                    "network-malformed",
                    field,
                    $"“{part}” is not a network such as 192.168.10.0/24 or 2001:db8::/32."
                );
            }

            networks.Add(network);
        }

        return networks;
    }

    private static string WholeOf(string address) =>
        $"{address}/{(address.Contains(':', StringComparison.Ordinal) ? 128 : 32)}";

    /// <summary>An address of IPv4 that one of IPv6 carries counts as what it is (RFC 4291, RFC 6052, RFC 3056).</summary>
    private static IPAddress Plain(IPAddress address)
    {
        if (address.AddressFamily != AddressFamily.InterNetworkV6)
        {
            return address;
        }

        var bytes = address.GetAddressBytes();
        return address.IsIPv4MappedToIPv6 || Translated.Contains(address) ? new(bytes.AsSpan(12, 4))
            : SixToFour.Contains(address) ? new(bytes.AsSpan(2, 4))
            : bytes.AsSpan(0, 12).ContainsAnyExcept((byte)0) || bytes[12] == 0 ? new(bytes)
            : new(bytes.AsSpan(12, 4));
    }
}
