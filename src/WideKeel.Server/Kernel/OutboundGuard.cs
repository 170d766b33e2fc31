using System.Net;
using System.Net.Sockets;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Store;

namespace WideKeel.Server.Kernel;

/// <summary>
/// The way out for webhooks and connections, whose addresses people type: it reaches what is public, and what an
/// administrator listed; never this machine, its wire or the organisation's inside by surprise. A name is resolved here,
/// once, and what was looked at is what is connected to. It follows no redirect.
/// </summary>
internal sealed class OutboundGuard(IDbContextFactory<WideKeelDb> databases)
{
    private const string Inside =
        "The address lies inside this network. An administrator can list it under Set-up, Organisation.";

    /// <summary>
    /// Why a program could not be asked, in a sentence that says nothing of what answered: an address that is typed is no
    /// means to look around in the network.
    /// </summary>
    public static string Words(Exception e) =>
        e.Message.Contains(Inside, StringComparison.Ordinal) || e.InnerException?.Message == Inside
            ? Inside
            : "The address could not be reached, or its answer was not what was expected.";

    public SocketsHttpHandler Handler() =>
        new()
        {
            AllowAutoRedirect = false,
            UseCookies = false,
            UseProxy = false,
            ConnectCallback = ConnectAsync,
            PooledConnectionLifetime = TimeSpan.FromMinutes(1),
        };

    private async ValueTask<Stream> ConnectAsync(SocketsHttpConnectionContext context, CancellationToken cancel)
    {
        var (host, port) = (context.DnsEndPoint.Host, context.DnsEndPoint.Port);
        var addresses = IPAddress.TryParse(host, out var given)
            ? [given]
            : await Dns.GetHostAddressesAsync(host, cancel);
        var listed = await ListedAsync(cancel);
        var reached = Array.FindAll(addresses, a => PublicAddress.Is(a) || PublicAddress.IsIn(a, listed));
        if (reached.Length == 0)
        {
            throw new HttpRequestException(Inside);
        }

        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(reached, port, cancel);
            return new NetworkStream(socket, ownsSocket: true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }

    private async Task<IReadOnlyList<IPNetwork>> ListedAsync(CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var text = await db.Organisations.Select(o => o.InnerNetworks).SingleOrDefaultAsync(cancel);
        return PublicAddress.ReadNetworks(text ?? "", "networks").Value;
    }
}
