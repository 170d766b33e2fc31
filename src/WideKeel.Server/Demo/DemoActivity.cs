using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Demo;
using WideKeel.Server.Activity;

namespace WideKeel.Server.Demo;

/// <summary>
/// The demo's logs: five systems in five formats, taken in through the ways by which a customer's logs come, and the
/// ledger. What was planted is written beside the data, for who wants to hold a detector against it.
/// </summary>
internal static class DemoActivity
{
    private const string Truth = "planted.jsonl";

    private static readonly Dictionary<
        DemoSystem,
        (string Name, string Title, ChannelFeed Feed, EventFormat Format)
    > Channels = new()
    {
        [DemoSystem.Identity] = ("identity", "Sign-in service", ChannelFeed.Http, EventFormat.Json),
        [DemoSystem.Files] = ("file-server", "File server", ChannelFeed.Folder, EventFormat.Json),
        [DemoSystem.Gateway] = ("gateway", "Gateway and addresses", ChannelFeed.Syslog, EventFormat.Syslog),
        [DemoSystem.Mail] = ("mail-server", "Mail server", ChannelFeed.Files, EventFormat.Csv),
        [DemoSystem.Portal] = ("portal", "Sharing portal", ChannelFeed.Files, EventFormat.Csv),
    };

    /// <param name="folder">Beside the data: for the watched folder and the truth.</param>
    public static async Task MakeAsync(
        Uri address,
        IServiceProvider services,
        string folder,
        Logs logs,
        Action<string> say
    )
    {
        say("Taking in ninety days of logs …");
        using var jonas = await DemoSeed.DemoClient.ConnectAsync(address);
        await jonas.SignInAsync("jonas.aske@tarnholm.example");
        await jonas.PutAsync<Done>(
            "networks",
            Logs.Networks.Select(n => new NetworkView(n.Name, n.Ranges, n.Egress)).ToList()
        );
        await jonas.PutAsync<Done>(
            "places",
            Logs.Places.Select(p => new PlaceView(p.Range, p.Country, p.Name, p.Lat, p.Lon)).ToList()
        );
        var drop = Directory.CreateDirectory(Path.Combine(folder, "file-server")).FullName;
        var port = FreePort();
        foreach (var (system, channel) in Channels)
        {
            await jonas.PostAsync<Done>(
                "channels",
                new NewChannel(channel.Name, channel.Feed, SettingsOf(system, channel, drop, port))
            );
        }

        await jonas.PostAsync<Done>(
            "channels",
            new NewChannel("wide-keel", ChannelFeed.Ledger, new("Wide Keel’s own ledger", EventFormat.Json, "P10Y"))
        );
        var ids = (await jonas.GetAsync<List<ChannelView>>("channels")).ToDictionary(c => c.Name, c => c.Id);
        await SendAsync(address, jonas, ids["identity"], logs.Write(DemoSystem.Identity));
        await File.WriteAllTextAsync(Path.Combine(drop, "events.jsonl"), logs.Write(DemoSystem.Files));
        await services.GetRequiredService<ChannelFeeds>().LookAsync(CancellationToken.None);
        await SyslogAsync(jonas, port, logs.Write(DemoSystem.Gateway));
        await jonas.HandOverAsync(ids["mail-server"], "mail-2026.csv", logs.Write(DemoSystem.Mail));
        await jonas.HandOverAsync(ids["portal"], "portal.csv", logs.Write(DemoSystem.Portal));
        await jonas.PostAsync<Done>("channels/seal", new { });
        await jonas.WaitForJobsAsync();
        await File.WriteAllLinesAsync(
            Path.Combine(folder, Truth),
            logs.Planted.Select(p => JsonSerializer.Serialize(p, Json.Options))
        );
    }

    private static ChannelSettings SettingsOf(
        DemoSystem system,
        (string Name, string Title, ChannelFeed Feed, EventFormat Format) channel,
        string drop,
        int port
    ) =>
        new(
            channel.Title,
            channel.Format,
            "P2Y",
            Mapping: MappingOf(system),
            Folder: system == DemoSystem.Files ? drop : "",
            Port: system == DemoSystem.Gateway ? port : 0
        );

    private static EventMapping? MappingOf(DemoSystem system) =>
        system switch
        {
            DemoSystem.Mail => new(
                new Dictionary<string, string>
                {
                    ["When"] = "time",
                    ["From"] = "actor",
                    ["To"] = "target",
                    ["Bytes"] = "amount",
                    ["Client"] = "address",
                    ["Action"] = "action",
                    ["Result"] = "outcome",
                    ["Ref"] = "id",
                },
                new Dictionary<string, string> { ["application"] = "Mail" }
            ),
            DemoSystem.Portal => new(
                new Dictionary<string, string>
                {
                    ["Zeit"] = "time",
                    ["Konto"] = "actor",
                    ["Vorgang"] = "action",
                    ["Datei"] = "object",
                    ["An"] = "target",
                    ["Adresse"] = "address",
                    ["Nr"] = "id",
                },
                new Dictionary<string, string> { ["application"] = "Portal", ["outcome"] = "success" },
                new Dictionary<string, IReadOnlyDictionary<string, string>> { ["action"] = Logs.PortalWords },
                "dd.MM.uuuu HH:mm:ss",
                Scenario.Zone
            ),
            _ => null,
        };

    private static int FreePort()
    {
        using var probe = new TcpListener(System.Net.IPAddress.Loopback, 0);
        probe.Start();
        return ((System.Net.IPEndPoint)probe.LocalEndpoint).Port;
    }

    /// <summary>As the sign-in service would: with the channel's key.</summary>
    private static async Task SendAsync(Uri address, DemoSeed.DemoClient who, long channel, string lines)
    {
        var key = (await who.PostAsync<ChannelKey>($"channels/{channel}/key", new { })).Key;
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(address, "/api/channels/identity/events"))
        {
            Content = new StringContent(lines, Encoding.UTF8, "application/x-ndjson"),
        };
        request.Headers.TryAddWithoutValidation("Authorization", $"Bearer {key}");
        using var response = await http.SendAsync(request);
        response.EnsureSuccessStatusCode();
    }

    /// <summary>As the gateway would: counted octets over TCP.</summary>
    private static async Task SyslogAsync(DemoSeed.DemoClient who, int port, string lines)
    {
        using var client = new TcpClient();
        for (var attempt = 0; ; attempt++)
        {
            try
            {
                await client.ConnectAsync(System.Net.IPAddress.Loopback, port);
                break;
            }
            catch (SocketException) when (attempt < 100)
            {
                // The port opens within a second of the channel.
                await Task.Delay(100);
            }
        }

        long sent = 0;
        await using (var stream = client.GetStream())
        {
            foreach (var line in lines.Split('\n', StringSplitOptions.RemoveEmptyEntries))
            {
                await stream.WriteAsync(Encoding.UTF8.GetBytes($"{Encoding.UTF8.GetByteCount(line)} {line}"));
                sent++;
            }
        }

        while (
            (await who.GetAsync<List<ChannelView>>("channels")).Single(c => c.Name == "gateway") is var g
            && g.Taken + g.Rejected < sent
        )
        {
            await Task.Delay(100);
        }
    }
}
