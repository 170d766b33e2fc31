using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace WideKeel.Server.Readiness;

/// <summary>
/// A small program that stands in for a content scanner: it speaks the Internet Content Adaptation Protocol (RFC 3507) and
/// knows one thing, the test file that every scanner is to report (EICAR, “Anti-malware testfile”).
/// </summary>
public sealed class StandInScanner : IAsyncDisposable
{
    // In two parts, so that a scanner does not take the program itself for the test file.
    private static readonly string Harmful =
        @"X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR" + "-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*";

    private readonly TcpListener listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource ending = new();
    private readonly Task running;

    public StandInScanner()
    {
        listener.Start();
        running = RunAsync();
    }

    public Uri Address =>
        new(
            string.Create(
                CultureInfo.InvariantCulture,
                $"icap://127.0.0.1:{((IPEndPoint)listener.LocalEndpoint).Port}/scan"
            )
        );

    private async Task RunAsync()
    {
        try
        {
            while (true)
            {
                using var client = await listener.AcceptTcpClientAsync(ending.Token);
                await using var stream = client.GetStream();
                try
                {
                    await AnswerAsync(stream, ending.Token);
                }
                catch (IOException)
                {
                    // The client closed the connection.
                }
            }
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // It was stopped.
        }
    }

    private static async Task AnswerAsync(NetworkStream stream, CancellationToken cancel)
    {
        using var reader = new BinaryReader(stream, Encoding.Latin1, leaveOpen: true);
        var body = await Task.Run(() => Body(reader), cancel);
        var answer = body.Contains(Harmful, StringComparison.Ordinal)
            ? "ICAP/1.0 200 OK\r\nISTag: \"stand-in\"\r\nX-Infection-Found: Type=0; Resolution=2; Threat=EICAR-Test-File;\r\n"
                + "Encapsulated: res-hdr=0, null-body=28\r\n\r\nHTTP/1.1 403 Forbidden\r\n\r\n"
            : "ICAP/1.0 204 No Content\r\nISTag: \"stand-in\"\r\n\r\n";
        await stream.WriteAsync(Encoding.ASCII.GetBytes(answer), cancel);
    }

    /// <summary>The chunks of the request's body, joined.</summary>
    private static string Body(BinaryReader reader)
    {
        // The protocol's own head, and that of the request within.
        Skip(reader);
        Skip(reader);
        var body = new StringBuilder();
        while (int.Parse(Line(reader), NumberStyles.HexNumber, CultureInfo.InvariantCulture) is > 0 and var length)
        {
            body.Append(Encoding.Latin1.GetString(reader.ReadBytes(length)));
            Line(reader);
        }

        return body.ToString();
    }

    private static void Skip(BinaryReader reader)
    {
        while (Line(reader).Length > 0)
        {
            // The head is not needed.
        }
    }

    private static string Line(BinaryReader reader)
    {
        var line = new StringBuilder();
        for (char c; (c = reader.ReadChar()) != '\n'; )
        {
            line.Append(c);
        }

        return line.ToString().TrimEnd('\r');
    }

    public async ValueTask DisposeAsync()
    {
        await ending.CancelAsync();
        listener.Dispose();
        await running;
        ending.Dispose();
    }
}
