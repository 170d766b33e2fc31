using System.Collections.Concurrent;
using System.Globalization;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Authentication;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Threading.Channels;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Store;

namespace WideKeel.Server.Activity;

/// <summary>
/// Listens for syslog over TCP, one port a channel, plain or TLS (RFC 5425). Frames are counted octets or lines
/// (RFC 6587 §3.4.1 and §3.4.2); which one is told from each frame's first character. Where a length is wrong, what it tore
/// apart is rejected up to the next line; a length that is no number ends its connection, because nothing after it could
/// be told apart.
/// </summary>
public sealed class SyslogServer(
    IDbContextFactory<WideKeelDb> databases,
    EventIntake intake,
    WideKeelOptions options,
    Troubles troubles,
    ILogger<SyslogServer> log
) : BackgroundService
{
    private const string TroubleKey = "syslog";

    private const int MostOctets = EventLine.MostCharacters;
    private const int Portion = 500;
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(1);

    /// <summary>A port that somebody else has is tried again this much later.</summary>
    private static readonly TimeSpan Again = TimeSpan.FromSeconds(30);

    private readonly ConcurrentDictionary<int, long> taken = new();

    private readonly ConcurrentDictionary<long, (int Port, string Certificate, CancellationTokenSource Stop)> open =
        new();

    /// <summary>The ports that are open now, by channel; for who must wait until one is.</summary>
    internal ConcurrentDictionary<long, int> Ports { get; } = new();

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Look);
        do
        {
            try
            {
                await AdjustAsync(stoppingToken);
                troubles.Clear(TroubleKey);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                log.LogError(e, "The syslog channels could not be looked at");
                troubles.Report(TroubleKey, "Syslog channels are not looked after", e.Message, "/set-up/channels");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    /// <summary>Opens the ports that are wanted and closes those that are wanted no more.</summary>
    private async Task AdjustAsync(CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var wanted = await db
            .Channels.AsNoTracking()
            .Where(c => c.Feed == ChannelFeed.Syslog && c.Connected && c.Port > 0)
            .Select(c => new
            {
                c.Id,
                c.Port,
                c.CertificateFile,
            })
            .ToListAsync(cancel);
        foreach (var (id, there) in open)
        {
            if (!wanted.Exists(w => w.Id == id && w.Port == there.Port && w.CertificateFile == there.Certificate))
            {
                await there.Stop.CancelAsync();
                open.TryRemove(id, out _);
                Ports.TryRemove(id, out _);
            }
        }

        foreach (var channel in wanted.Where(w => !open.ContainsKey(w.Id) && !WaitsFor(w.Port)))
        {
            if (
                channel.CertificateFile.Length > 0
                && options.RootPlaces.CheckFile(channel.CertificateFile, "certificateFile") is { } misplaced
            )
            {
                taken[channel.Port] = TimeProvider.System.GetTimestamp();
                log.LogWarning("Port {Port} is not opened for syslog: {Reason}", channel.Port, misplaced.Sentence);
                continue;
            }

            try
            {
                var listener = new TcpListener(options.SyslogAddress, channel.Port);
                listener.Start();
                var certificate =
                    channel.CertificateFile.Length == 0
                        ? null
                        : X509Certificate2.CreateFromPemFile(channel.CertificateFile);
                var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
                open[channel.Id] = (channel.Port, channel.CertificateFile, stop);
                Ports[channel.Id] = channel.Port;
                _ = AcceptAsync(channel.Id, listener, certificate, stop.Token);
            }
            catch (Exception e)
                when (e is SocketException or IOException or System.Security.Cryptography.CryptographicException)
            {
                taken[channel.Port] = TimeProvider.System.GetTimestamp();
                log.LogWarning("Port {Port} cannot be opened for syslog: {Reason}", channel.Port, e.Message);
            }
        }
    }

    private bool WaitsFor(int port) =>
        taken.TryGetValue(port, out var since) && TimeProvider.System.GetElapsedTime(since) < Again;

    private async Task AcceptAsync(
        long channel,
        TcpListener listener,
        X509Certificate2? certificate,
        CancellationToken cancel
    )
    {
        using (listener)
        {
            while (!cancel.IsCancellationRequested)
            {
                try
                {
                    var client = await listener.AcceptTcpClientAsync(cancel);
                    _ = ServeAsync(channel, client, certificate, cancel);
                }
                catch (Exception e) when (e is OperationCanceledException or SocketException)
                {
                    // Stopped, or a client that left before it was greeted.
                }
            }
        }

        certificate?.Dispose();
    }

    private async Task ServeAsync(
        long channel,
        TcpClient client,
        X509Certificate2? certificate,
        CancellationToken cancel
    )
    {
        using (client)
        {
            var from = string.Create(CultureInfo.InvariantCulture, $"syslog from {client.Client.RemoteEndPoint}");
            try
            {
                await using Stream stream = client.GetStream();
                await using var secure = certificate is null ? null : new SslStream(stream);
                if (secure is not null)
                {
                    await secure.AuthenticateAsServerAsync(certificate!, false, SslProtocols.None, true);
                }

                await TakeAsync(channel, from, secure ?? stream, cancel);
            }
            catch (Exception e) when (e is IOException or SocketException or AuthenticationException)
            {
                log.LogInformation(e, "A syslog connection ended");
            }
            catch (OperationCanceledException)
            {
                // The channel was closed.
            }
            catch (Exception e)
            {
                log.LogError(e, "A syslog connection failed");
            }
        }
    }

    /// <summary>
    /// Reads frames on one side and writes what has come in portions on the other, so that one line is not kept waiting
    /// for the next.
    /// </summary>
    private async Task TakeAsync(long channel, string from, Stream stream, CancellationToken cancel)
    {
        var queue = System.Threading.Channels.Channel.CreateBounded<ReadLine>(2 * Portion);
        var reading = ReadAsync();
        while (await queue.Reader.WaitToReadAsync(cancel))
        {
            List<ReadLine> portion = [];
            while (portion.Count < Portion && queue.Reader.TryRead(out var line))
            {
                portion.Add(line);
            }

            await intake.TakeAsync(channel, from, portion.ToAsyncEnumerable(), null, cancel);
        }

        await reading;

        async Task ReadAsync()
        {
            try
            {
                await foreach (var line in FramesAsync(stream, cancel))
                {
                    await queue.Writer.WriteAsync(line, cancel);
                }
            }
            finally
            {
                queue.Writer.Complete();
            }
        }
    }

    /// <summary>The frames of a connection, each read as a message.</summary>
    internal static async IAsyncEnumerable<ReadLine> FramesAsync(
        Stream stream,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken cancel
    )
    {
        var reader = new FrameReader(stream, MostOctets);
        for (long number = 1; await reader.NextAsync(cancel) is { } frame; number++)
        {
            if (frame.Fault is { } fault)
            {
                yield return new(number, frame.Text, new Refusal("frame-malformed", null, fault));
            }
            else if (!string.IsNullOrWhiteSpace(frame.Text))
            {
                yield return new(number, frame.Text, SyslogLine.Read(frame.Text));
            }

            if (frame.IsLast)
            {
                yield break;
            }
        }
    }

    /// <param name="Fault">Why it is no frame; null where it is one.</param>
    /// <param name="IsLast">Nothing after it can be told apart.</param>
    private sealed record Frame(string Text, string? Fault = null, bool IsLast = false);

    private sealed class FrameReader(Stream stream, int most)
    {
        private readonly byte[] buffer = new byte[65_536];
        private int at;
        private int filled;

        public async Task<Frame?> NextAsync(CancellationToken cancel)
        {
            if (await PeekAsync(cancel) is not { } first)
            {
                return null;
            }

            return first is >= (byte)'1' and <= (byte)'9' ? await CountedAsync(cancel) : await LineAsync(cancel);
        }

        private async Task<Frame> CountedAsync(CancellationToken cancel)
        {
            var length = 0;
            while (await PeekAsync(cancel) is { } b)
            {
                at++;
                if (b == (byte)' ')
                {
                    break;
                }

                if (b is < (byte)'0' or > (byte)'9' || (length = (10 * length) + b - '0') > most)
                {
                    return new(
                        "",
                        "The length of this frame is none: digits and a space are expected, up to 1,000,000.",
                        true
                    );
                }
            }

            var octets = new byte[length];
            var read = 0;
            while (read < length && await PeekAsync(cancel) is not null)
            {
                var part = Math.Min(filled - at, length - read);
                buffer.AsSpan(at, part).CopyTo(octets.AsSpan(read));
                (at, read) = (at + part, read + part);
            }

            var text = Encoding.UTF8.GetString(octets, 0, read).TrimEnd('\n');
            return read < length
                    ? new(
                        text,
                        $"The connection ended within this frame: {length} octets were announced, {read} came.",
                        true
                    )
                : !text.StartsWith('<')
                    ? new(
                        text,
                        "This frame does not begin with a priority: the length of the one before it is wrong.",
                        true
                    )
                : new(text);
        }

        private async Task<Frame> LineAsync(CancellationToken cancel)
        {
            using var line = new MemoryStream();
            while (await PeekAsync(cancel) is not null)
            {
                var end = Array.IndexOf(buffer, (byte)'\n', at, filled - at);
                var length = (end < 0 ? filled : end) - at;
                line.Write(buffer, at, Math.Min(length, (int)(most + 1 - line.Length)));
                at += end < 0 ? length : length + 1;
                if (end >= 0)
                {
                    break;
                }
            }

            var text = Encoding.UTF8.GetString(line.GetBuffer(), 0, (int)line.Length).TrimEnd('\r', '\0');
            return line.Length > most ? new(text, "This line has more than 1,000,000 octets.") : new(text);
        }

        private async Task<byte?> PeekAsync(CancellationToken cancel)
        {
            if (at == filled)
            {
                (at, filled) = (0, await stream.ReadAsync(buffer, cancel));
            }

            return at == filled ? null : buffer[at];
        }
    }
}
