using System.Globalization;
using System.Net;

namespace WideKeel.Core.Query;

/// <summary>Networks as ranges of addresses: CIDR form (RFC 4632 for IPv4, RFC 4291 §2.3 for IPv6).</summary>
public static class Cidr
{
    /// <summary>
    /// The network, with the bits of a host taken out of its base address; a single address is a network of one. Null
    /// where the text is neither.
    /// </summary>
    public static IPNetwork? Read(string text)
    {
        var slash = text.IndexOf('/', StringComparison.Ordinal);
        if (!IPAddress.TryParse(slash < 0 ? text : text[..slash], out var address) || !IsWritten(text))
        {
            return null;
        }

        var bytes = address.GetAddressBytes();
        var length = 8 * bytes.Length;
        if (
            slash >= 0
            && (
                !int.TryParse(text.AsSpan(slash + 1), NumberStyles.None, CultureInfo.InvariantCulture, out length)
                || length > 8 * bytes.Length
            )
        )
        {
            return null;
        }

        for (var i = 0; i < bytes.Length; i++)
        {
            var kept = Math.Clamp(length - (8 * i), 0, 8);
            bytes[i] &= (byte)(0xFF00 >> kept);
        }

        return new IPNetwork(new IPAddress(bytes), length);
    }

    /// <summary>Whether an address, as text, lies in the network; what is no address lies in none.</summary>
    public static bool Holds(IPNetwork network, string address) =>
        IPAddress.TryParse(address, out var parsed)
        && parsed.AddressFamily == network.BaseAddress.AddressFamily
        && network.Contains(parsed);

    /// <summary>The parser of the platform takes “1” and “0x7f000001” for addresses too; people do not.</summary>
    private static bool IsWritten(string text) =>
        text.Contains(':', StringComparison.Ordinal) || text.Count(c => c == '.') == 3;
}
