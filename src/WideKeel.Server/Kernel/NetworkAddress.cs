using System.Net;

namespace WideKeel.Server.Kernel;

/// <summary>From where a request comes, as it is recorded.</summary>
internal static class NetworkAddress
{
    /// <summary>
    /// The address whole (RFC 5952). One of IPv4 that a socket of IPv6 maps is written as IPv4, so that the same machine has
    /// one name.
    /// </summary>
    public static string? Of(HttpContext http) =>
        http.Connection.RemoteIpAddress is not { } address ? null
        : address.IsIPv4MappedToIPv6 ? address.MapToIPv4().ToString()
        : new IPAddress(address.GetAddressBytes()).ToString();
}
