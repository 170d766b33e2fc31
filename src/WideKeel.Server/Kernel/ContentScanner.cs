using System.Globalization;
using System.Net.Sockets;
using System.Text;
using WideKeel.Core;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Asks a content scanner about each file that is given, by the Internet Content Adaptation Protocol (RFC 3507, 4.8:
/// REQMOD): 204 lets the file in; an HTTP response in place of the request keeps it out. What cannot be asked is not let in.
/// </summary>
public sealed class ContentScanner(WideKeelOptions options)
{
    private const int DefaultPort = 1344;
    private const int Chunk = 64 * 1024;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(60);

    /// <summary>Such as icap://127.0.0.1:1344/scan; null where no scanner is asked.</summary>
    public Uri? Address { get; set; } = options.Scanner;

    /// <summary>Why a file is not let in; null where it is.</summary>
    /// <param name="path">Where it can be read.</param>
    /// <param name="name">As its giver calls it.</param>
    public async Task<Refusal?> CheckAsync(string path, string name, CancellationToken cancel)
    {
        if (Address is not { } address)
        {
            return null;
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        limit.CancelAfter(Longest);
        try
        {
            using var client = new TcpClient();
            await client.ConnectAsync(address.Host, address.Port > 0 ? address.Port : DefaultPort, limit.Token);
            await using var stream = client.GetStream();
            await AskAsync(stream, address, path, limit.Token);
            var answer = await ReadAsync(stream, limit.Token);
            return Read(answer, name);
        }
        catch (Exception e)
            when (e is SocketException or IOException
                || (e is OperationCanceledException && !cancel.IsCancellationRequested)
            )
        {
            return Silent("it does not answer");
        }
    }

    private static Refusal? Read(IReadOnlyList<string> answer, string name)
    {
        var status = answer.Count > 0 ? answer[0].Split(' ') : [];
        if (status is ["ICAP/1.0", "204", ..])
        {
            return null;
        }

        if (status is not ["ICAP/1.0", "200" or "201", ..])
        {
            return Silent(answer.Count > 0 ? $"it answers “{answer[0]}”" : "it does not answer");
        }

        // The two headers by which scanners say what they found (common practice).
        var found = answer
            .Where(l =>
                l.StartsWith("X-Infection-Found:", StringComparison.OrdinalIgnoreCase)
                || l.StartsWith("X-Virus-ID:", StringComparison.OrdinalIgnoreCase)
            )
            .Select(l => l[(l.IndexOf(':', StringComparison.Ordinal) + 1)..].Trim())
            .LastOrDefault();
        return new(
            "file-harmful",
            "file",
            $"The content scanner refuses {name}{(found is null ? "" : $": {found}")}. The file is not taken."
        );
    }

    private static Refusal Silent(string why) =>
        Refusal.OutOfService(
            "scanner-silent",
            "file",
            $"The content scanner cannot be asked: {why}. The file is not taken; try again later."
        );

    private static async Task AskAsync(NetworkStream stream, Uri address, string path, CancellationToken cancel)
    {
        await using var file = File.OpenRead(path);
        var inner = string.Create(
            CultureInfo.InvariantCulture,
            $"PUT /file HTTP/1.1\r\nHost: wide-keel\r\nContent-Length: {file.Length}\r\n\r\n"
        );
        var head = string.Create(
            CultureInfo.InvariantCulture,
            $"""
            REQMOD {address} ICAP/1.0
            Host: {address.Authority}
            Allow: 204
            Connection: close
            Encapsulated: req-hdr=0, req-body={inner.Length}


            """
        );
        await stream.WriteAsync(Encoding.ASCII.GetBytes(head.ReplaceLineEndings("\r\n") + inner), cancel);
        var buffer = new byte[Chunk];
        for (int read; (read = await file.ReadAsync(buffer, cancel)) > 0; )
        {
            await stream.WriteAsync(Encoding.ASCII.GetBytes($"{read:x}\r\n"), cancel);
            await stream.WriteAsync(buffer.AsMemory(0, read), cancel);
            await stream.WriteAsync("\r\n"u8.ToArray(), cancel);
        }

        await stream.WriteAsync("0\r\n\r\n"u8.ToArray(), cancel);
    }

    /// <summary>The lines of the answer's head.</summary>
    private static async Task<IReadOnlyList<string>> ReadAsync(NetworkStream stream, CancellationToken cancel)
    {
        using var reader = new StreamReader(stream, Encoding.Latin1, leaveOpen: true);
        List<string> lines = [];
        while (await reader.ReadLineAsync(cancel) is { Length: > 0 } line)
        {
            lines.Add(line);
        }

        return lines;
    }
}
