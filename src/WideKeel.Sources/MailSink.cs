using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using MimeKit;

namespace WideKeel.Sources;

/// <summary>A mail that the sink took.</summary>
/// <param name="Name">Of its file, without the folder.</param>
/// <param name="MatterId">The matter that it belongs to; null for most.</param>
/// <param name="IsPrivate">It holds a link or a code for its addressee alone.</param>
public sealed record SunkMail(
    string Name,
    string From,
    string To,
    string Subject,
    DateTimeOffset Date,
    string Text,
    long? MatterId,
    bool IsPrivate
);

/// <summary>
/// A small mail server (SMTP, RFC 5321) on this machine's loopback that takes everything and passes nothing on: the
/// stand-in for a real one. Each mail is kept as an .eml file.
/// </summary>
public sealed class MailSink(string folder) : IAsyncDisposable
{
    /// <summary>Header of a mail that belongs to a matter, with the matter's id.</summary>
    public const string MatterHeader = "X-WideKeel-Matter";

    /// <summary>Header of a mail that holds a link or a code for its addressee alone.</summary>
    public const string SecretHeader = "X-WideKeel-Secret";

    private const int MostBytes = 20_000_000;
    private const int MostLine = 4_096;

    private readonly TcpListener listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource stop = new();
    private Task? accepting;
    private int taken;

    public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

    public void Start()
    {
        Directory.CreateDirectory(folder);
        listener.Start();
        accepting = AcceptAsync();
    }

    /// <summary>What it holds, newest first.</summary>
    public IReadOnlyList<SunkMail> List(int most)
    {
        return !Directory.Exists(folder)
            ? []
            :
            [
                .. Directory
                    .EnumerateFiles(folder, "*.eml")
                    .OrderDescending(StringComparer.Ordinal)
                    .Take(most)
                    .Select(Read),
            ];
    }

    /// <summary>The file of one mail; null when there is none of that name.</summary>
    public string? FileOf(string name) =>
        name.EndsWith(".eml", StringComparison.Ordinal)
        && Path.GetFileName(name) == name
        && File.Exists(Path.Combine(folder, name))
            ? Path.Combine(folder, name)
            : null;

    public async ValueTask DisposeAsync()
    {
        await stop.CancelAsync();
        listener.Stop();
        if (accepting is not null)
        {
            await accepting.ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }

        listener.Dispose();
        stop.Dispose();
    }

    private static SunkMail Read(string file)
    {
        var mail = MimeMessage.Load(file);
        return new(
            Path.GetFileName(file),
            mail.From.ToString(),
            mail.To.ToString(),
            mail.Subject ?? "",
            mail.Date,
            mail.TextBody ?? "",
            long.TryParse(mail.Headers[MatterHeader], CultureInfo.InvariantCulture, out var matter) ? matter : null,
            mail.Headers[SecretHeader] is not null
        );
    }

    private async Task AcceptAsync()
    {
        while (!stop.IsCancellationRequested)
        {
            var client = await listener.AcceptTcpClientAsync(stop.Token);
            _ = TalkAsync(client);
        }
    }

    private async Task TalkAsync(TcpClient client)
    {
        try
        {
            using (client)
            {
                client.NoDelay = true;
                await using var stream = client.GetStream();
                await ConverseAsync(stream);
            }
        }
        catch (Exception e) when (e is IOException or SocketException or OperationCanceledException)
        {
            // The other side hung up; what it had not finished was not taken.
        }
    }

    private async Task ConverseAsync(NetworkStream stream)
    {
        // Latin-1 keeps every byte as it is, whatever the mail's own encoding.
        using var reader = new StreamReader(stream, Encoding.Latin1);
        await SayAsync("220 widekeel mail sink");
        var hasSender = false;
        var recipients = 0;
        while (await reader.ReadLineAsync(stop.Token) is { } line)
        {
            if (line.Length > MostLine)
            {
                await SayAsync("500 line too long");
                continue;
            }

            switch (line.Split(' ', 2)[0].ToUpperInvariant())
            {
                case "EHLO":
                    await SayAsync(
                        "250-widekeel\r\n250-8BITMIME\r\n250 SIZE " + MostBytes.ToString(CultureInfo.InvariantCulture)
                    );
                    break;
                case "HELO" or "NOOP":
                    await SayAsync("250 ok");
                    break;
                case "MAIL":
                    (hasSender, recipients) = (true, 0);
                    await SayAsync("250 ok");
                    break;
                case "RCPT":
                    recipients += hasSender ? 1 : 0;
                    await SayAsync(hasSender ? "250 ok" : "503 MAIL first");
                    break;
                case "RSET":
                    (hasSender, recipients) = (false, 0);
                    await SayAsync("250 ok");
                    break;
                case "DATA" when recipients == 0:
                    await SayAsync("503 RCPT first");
                    break;
                case "DATA":
                    await SayAsync("354 end with a dot on a line of its own");
                    await SayAsync(await TakeAsync(reader) ? "250 taken" : "552 too large");
                    (hasSender, recipients) = (false, 0);
                    break;
                case "QUIT":
                    await SayAsync("221 bye");
                    return;
                default:
                    await SayAsync("502 not known here");
                    break;
            }
        }

        async Task SayAsync(string text) => await stream.WriteAsync(Encoding.ASCII.GetBytes(text + "\r\n"), stop.Token);
    }

    private async Task<bool> TakeAsync(StreamReader reader)
    {
        var mail = new StringBuilder();
        var fits = true;
        while (await reader.ReadLineAsync(stop.Token) is { } line)
        {
            if (line == ".")
            {
                if (fits)
                {
                    var name = string.Create(
                        CultureInfo.InvariantCulture,
                        $"{DateTime.UtcNow:yyyyMMdd-HHmmss-fffffff}-{Interlocked.Increment(ref taken):000000}.eml"
                    );
                    var partial = Path.Combine(folder, name + ".partial");
                    await File.WriteAllTextAsync(partial, mail.ToString(), Encoding.Latin1, stop.Token);
                    File.Move(partial, Path.Combine(folder, name));
                }

                return fits;
            }

            fits = fits && mail.Length < MostBytes;
            if (fits)
            {
                // RFC 5321 section 4.5.2: a leading dot was doubled on the way.
                mail.Append(line.StartsWith('.') ? line.AsSpan(1) : line).Append("\r\n");
            }
        }

        throw new IOException("The mail broke off.");
    }
}
