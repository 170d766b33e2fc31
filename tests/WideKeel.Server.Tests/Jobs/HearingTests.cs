using System.Diagnostics;
using System.Net;
using System.Net.WebSockets;
using System.Text;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.Jobs;

/// <summary>Who listens to the jobs hears each only as long as they may see it.</summary>
public sealed class HearingTests : IAsyncLifetime
{
    /// <summary>Ends each message of the hub's protocol.</summary>
    private const char End = '\u001e';

    private readonly Product product = new();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        product.Write("Fleet/log.md", "2015-01-01");
    }

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task Whoever_may_see_a_job_hears_it()
    {
        using var ines = await product.SignInAsync("ines");
        using var ear = await ListenAsync(ines);
        await product.ScanAsync();
        (await HeardAsync(ear, "Scanning Share")).ShouldContain("Scanning Share");
    }

    [Fact]
    public async Task Whoever_lost_the_right_meanwhile_hears_no_more()
    {
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        using var first = await ListenAsync(ines);
        using var second = await ListenAsync(tobias);
        await TakeRightAsync("tobias");
        await product.ScanAsync();
        await HeardAsync(first, "\"done\"");
        // A last word that everybody with a session hears would be nothing to wait for: the connection is closed instead.
        await second.CloseOutputAsync(WebSocketCloseStatus.NormalClosure, null, Stop);
        (await HeardAsync(second, "never said")).ShouldNotContain("Scanning Share");
    }

    [Fact]
    public async Task A_page_hears_of_jobs_after_the_time_that_a_search_has()
    {
        await product.StopAsync();
        product.LongestSearch = TimeSpan.FromSeconds(1);
        await product.StartAsync();
        using var ines = await product.SignInAsync("ines");
        using var ear = await ListenAsync(ines);
        var begun = Stopwatch.StartNew();
        await AddUnitsAsync(600);
        while (begun.Elapsed < product.LongestSearch)
        {
            await ines.GetOk("sources");
        }

        await product.ScanAsync();
        (await HeardAsync(ear, "\"done\"")).ShouldContain("Scanning Share");
    }

    /// <summary>Units enough for SQLite to look at the time when it reads them all.</summary>
    private async Task AddUnitsAsync(int count)
    {
        await using var db = product.Database();
        var root = await db.Units.SingleAsync(u => u.ParentId == null, Stop);
        for (var i = 0; i < count; i++)
        {
            db.Units.Add(
                new()
                {
                    ParentId = root.Id,
                    Name = $"Unit {i}",
                    Path = $"{root.Path}{900_000 + i}/",
                }
            );
        }

        await db.SaveChangesAsync(Stop);
    }

    private async Task TakeRightAsync(string name)
    {
        using var jonas = await product.SignInAsync("jonas");
        (await Product.ChangePersonAsync(jonas, name, remits: Array.Empty<object>())).Status.ShouldBe(
            HttpStatusCode.OK
        );
    }

    /// <summary>A connection to the hub that asked for its stream and was heard.</summary>
    private async Task<ClientWebSocket> ListenAsync(Api who)
    {
        var socket = new ClientWebSocket();
        socket.Options.Cookies = who.Cookies;
        var address = new UriBuilder(product.Address) { Scheme = "ws", Path = "/api/jobs/stream" }.Uri;
        await socket.ConnectAsync(address, Stop);
        await SayAsync(socket, """{"protocol":"json","version":1}""");
        await HeardAsync(socket, "{}");
        await SayAsync(socket, """{"type":4,"invocationId":"1","target":"Jobs","arguments":[]}""");
        // The answer to a second call comes after the first was begun.
        await SayAsync(socket, """{"type":1,"invocationId":"2","target":"Nothing","arguments":[]}""");
        await HeardAsync(socket, "\"invocationId\":\"2\"");
        return socket;
    }

    private static Task SayAsync(ClientWebSocket socket, string message) =>
        socket.SendAsync(Encoding.UTF8.GetBytes(message + End), WebSocketMessageType.Text, true, Stop);

    /// <summary>What is said up to some words, or up to the end of the stream or the connection.</summary>
    private static async Task<string> HeardAsync(ClientWebSocket socket, string words)
    {
        var heard = new StringBuilder();
        var buffer = new byte[1 << 16];
        while (
            heard.ToString() is var soFar
            && !soFar.Contains(words, StringComparison.Ordinal)
            && !soFar.Contains("{\"type\":3,\"invocationId\":\"1\"", StringComparison.Ordinal)
        )
        {
            var piece = await socket.ReceiveAsync(buffer, Stop);
            if (piece.MessageType == WebSocketMessageType.Close)
            {
                break;
            }

            heard.Append(Encoding.UTF8.GetString(buffer, 0, piece.Count));
        }

        return heard.ToString();
    }
}
