using System.Net.Sockets;
using System.Text;
using System.Threading.Channels;
using Microsoft.Extensions.Logging;
using NodaTime;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Ledger;

/// <summary>
/// Sends each signed head to a second place: a folder, a syslog address or a URL. Whoever can write the data folder
/// cannot take back what lies there. A head that cannot be sent waits; any later one covers it.
/// </summary>
public sealed partial class SecondPlace(
    Heads heads,
    WideKeelOptions options,
    Troubles troubles,
    ILogger<SecondPlace> log
) : BackgroundService
{
    private static readonly TimeSpan Longest = TimeSpan.FromMinutes(1);
    private readonly Channel<string> waiting = Channel.CreateBounded<string>(
        new BoundedChannelOptions(10_000) { FullMode = BoundedChannelFullMode.DropOldest }
    );
    private readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(20) };

    private const string TroubleKey = "heads";

    public override void Dispose()
    {
        http.Dispose();
        base.Dispose();
        GC.SuppressFinalize(this);
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (options.HeadsTo is not { } to)
        {
            return;
        }

        heads.Appended += line => waiting.Writer.TryWrite(line);
        // What was signed while the place could not be reached, or by a run that was cut off.
        if (Heads.ReadLines(options.DataFolder) is [.., var last])
        {
            waiting.Writer.TryWrite(last);
        }

        await foreach (var line in waiting.Reader.ReadAllAsync(stoppingToken))
        {
            for (var wait = TimeSpan.FromSeconds(1); ; wait = wait * 2 > Longest ? Longest : wait * 2)
            {
                try
                {
                    await SendAsync(to, line, stoppingToken);
                    troubles.Clear(TroubleKey);
                    break;
                }
                catch (Exception e) when (!stoppingToken.IsCancellationRequested)
                {
                    troubles.Report(
                        TroubleKey,
                        "The ledger's heads do not reach their second place",
                        e.Message,
                        "/activity/ledger"
                    );
                    Unsent(log, to, e.Message);
                    await Task.Delay(wait, stoppingToken);
                }
            }
        }
    }

    /// <summary>What is wrong with an address of a second place; null when nothing is.</summary>
    /// <param name="dataFolder">Of the database: heads beside it are there already.</param>
    public static string? Check(string to, string dataFolder) =>
        !to.Contains("://", StringComparison.Ordinal)
            ? Path.GetFullPath(to) == Path.GetFullPath(dataFolder)
                ? "The second place of the heads is another folder than the data folder itself."
                : null
            : Uri.TryCreate(to, UriKind.Absolute, out var uri) && uri.Scheme is "syslog" or "http" or "https"
                ? null
                : "The second place of the heads is a folder, syslog://HOST:PORT, or a URL that takes POST.";

    private async Task SendAsync(string to, string line, CancellationToken cancel)
    {
        if (!to.Contains("://", StringComparison.Ordinal))
        {
            Directory.CreateDirectory(to);
            await using var file = new FileStream(
                Path.Combine(to, Heads.FileName),
                FileMode.Append,
                FileAccess.Write,
                FileShare.Read
            );
            await file.WriteAsync(Encoding.UTF8.GetBytes(line + "\n"), cancel);
            file.Flush(flushToDisk: true);
            return;
        }

        var uri = new Uri(to);
        if (uri.Scheme == "syslog")
        {
            // RFC 5424: facility 13 (log audit), severity 5 (notice).
            using var udp = new UdpClient();
            var at = SystemClock.Instance.GetCurrentInstant();
            var message = Encoding.UTF8.GetBytes($"<109>1 {at} {Environment.MachineName} widekeel - head - {line}");
            await udp.SendAsync(message, uri.Host, uri.Port < 0 ? 514 : uri.Port, cancel);
            return;
        }

        using var body = new StringContent(line, Encoding.UTF8, "application/json");
        using var answer = await http.PostAsync(uri, body, cancel);
        answer.EnsureSuccessStatusCode();
    }

    [LoggerMessage(Level = LogLevel.Warning, Message = "The ledger's head was not sent to {To}: {Why}")]
    private static partial void Unsent(ILogger log, string to, string why);
}
