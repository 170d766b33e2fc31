using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Server.Activity;

namespace WideKeel.Server.Tests.Activity;

/// <summary>What it takes to connect a log and send to it.</summary>
internal static class Channels
{
    public static object Settings(
        string format = "json",
        string retention = "P2Y",
        object? mapping = null,
        object? admits = null,
        bool open = true,
        long[]? readers = null,
        string folder = "",
        int port = 0
    ) =>
        new
        {
            title = "A log",
            format,
            retention,
            mapping,
            admits,
            openToAnalysts = open,
            readers = readers ?? [],
            folder,
            port,
        };

    /// <summary>Makes a channel and returns its number.</summary>
    public static async Task<long> MakeAsync(Api admin, string name, string feed = "http", object? settings = null)
    {
        await admin.PostOk(
            "channels",
            new
            {
                name,
                feed,
                settings = settings ?? Settings(),
            }
        );
        return (await OfAsync(admin, name)).GetProperty("id").GetInt64();
    }

    public static async Task<JsonElement> OfAsync(Api admin, string name) =>
        (await admin.GetOk("channels")).EnumerateArray().Single(c => c.GetProperty("name").GetString() == name);

    public static async Task<string> KeyAsync(Api admin, long channel) =>
        (await admin.PostOk($"channels/{channel}/key", new { })).GetProperty("key").GetString()!;

    /// <summary>Sends lines as a program would: with the channel's key and nothing else.</summary>
    public static async Task<Answer> SendAsync(Product product, string name, string key, string lines)
    {
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(
            HttpMethod.Post,
            new Uri(product.Address, $"/api/channels/{name}/events")
        )
        {
            Content = new StringContent(lines, Encoding.UTF8, "application/x-ndjson"),
        };
        request.Headers.TryAddWithoutValidation("Authorization", $"Bearer {key}");
        var response = await http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        return new(response.StatusCode, JsonDocument.Parse(text).RootElement, response) { Text = text };
    }

    /// <summary>Sends a file as a person would hand it over.</summary>
    public static async Task<Answer> HandOverAsync(Api who, long channel, string text, string range = "")
    {
        var response = await who.Http.PostAsync(
            new Uri($"channels/{channel}/files?file=a.log{range}", UriKind.Relative),
            new StringContent(text)
        );
        return new(
            response.StatusCode,
            JsonDocument.Parse(await response.Content.ReadAsStringAsync()).RootElement,
            response
        );
    }

    public static string Line(
        string id,
        string time,
        string action,
        string actor = "pia@tarn.example",
        string rest = ""
    ) => $$"""{"id":"{{id}}","time":"{{time}}","action":"{{action}}","actor":"{{actor}}"{{rest}}}""";
}

/// <summary>The ways in, and what each does with what it cannot take.</summary>
public sealed class ChannelTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api admin = null!;
    private Api analyst = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
        analyst = await product.SignInAsync("sunniva");
    }

    public async ValueTask DisposeAsync()
    {
        admin.Dispose();
        analyst.Dispose();
        await product.DisposeAsync();
    }

    private async Task<(long Id, string Key)> OpenAsync(object? settings = null)
    {
        var id = await Channels.MakeAsync(admin, "gateway", settings: settings);
        return (id, await Channels.KeyAsync(admin, id));
    }

    private static long Number(Answer answer, string name) => answer.Body.GetProperty(name).GetInt64();

    private async Task<long> FoundAsync(string query) =>
        (await analyst.GetOk($"events?query={Uri.EscapeDataString(query)}")).GetProperty("total").GetInt64();

    [Fact]
    public async Task Lines_that_are_sent_with_the_key_are_found()
    {
        var (_, key) = await OpenAsync();
        var answer = await Channels.SendAsync(
            product,
            "gateway",
            key,
            Channels.Line("a", "2026-06-15T07:00:00Z", "file.delete", rest: ",\"object\":\"pier 4.jpg\"")
        );
        answer.Status.ShouldBe(HttpStatusCode.OK);
        (await FoundAsync("pier")).ShouldBe(1);
    }

    [Fact]
    public async Task The_same_lines_again_add_nothing()
    {
        var (_, key) = await OpenAsync();
        var lines = Channels.Line("a", "2026-06-15T07:00:00Z", "file.read");
        await Channels.SendAsync(product, "gateway", key, lines);
        var again = await Channels.SendAsync(product, "gateway", key, lines);
        (Number(again, "taken"), Number(again, "duplicates")).ShouldBe((0, 1));
    }

    [Fact]
    public async Task Lines_that_cannot_be_taken_are_named_each_with_its_reason()
    {
        var (id, key) = await OpenAsync();
        var lines = string.Join(
            '\n',
            Channels.Line("a", "2026-06-15T07:00:00Z", "file.read"),
            "{\"id\":\"half",
            Channels.Line("c", "2099-01-01T00:00:00Z", "file.read"),
            "{\"id\":\"d\"}"
        );
        var answer = await Channels.SendAsync(product, "gateway", key, lines);
        answer.Status.ShouldBe(HttpStatusCode.MultiStatus);
        Number(answer, "taken").ShouldBe(1);
        answer
            .Body.GetProperty("refused")
            .EnumerateArray()
            .Select(r => r.GetProperty("line").GetInt64())
            .ShouldBe([2, 3, 4]);
        (await admin.GetOk($"channels/{id}/rejected")).GetArrayLength().ShouldBe(3);
    }

    [Fact]
    public async Task An_event_past_its_time_is_refused_and_counted()
    {
        var (_, key) = await OpenAsync(Channels.Settings(retention: "P1Y"));
        var answer = await Channels.SendAsync(
            product,
            "gateway",
            key,
            Channels.Line("a", "1601-01-01T00:00:00Z", "file.read")
                + "\n"
                + Channels.Line("b", "2025-06-15T00:00:00Z", "file.read")
        );
        (Number(answer, "tooOld"), Number(answer, "taken")).ShouldBe((1, 1));
    }

    [Fact]
    public async Task A_line_of_ten_million_characters_is_refused_and_the_next_one_taken()
    {
        var (_, key) = await OpenAsync();
        var answer = await Channels.SendAsync(
            product,
            "gateway",
            key,
            new string('x', 10_000_000) + "\n" + Channels.Line("b", "2026-06-15T07:00:00Z", "file.read")
        );
        (Number(answer, "rejected"), Number(answer, "taken")).ShouldBe((1, 1));
    }

    [Fact]
    public async Task What_a_channel_does_not_admit_is_counted_and_not_kept()
    {
        var (_, key) = await OpenAsync(
            Channels.Settings(
                admits: new
                {
                    reads = false,
                    writes = true,
                    except = "actor = backup@tarn.example",
                }
            )
        );
        var answer = await Channels.SendAsync(
            product,
            "gateway",
            key,
            Channels.Line("a", "2026-06-15T07:00:00Z", "file.read")
                + "\n"
                + Channels.Line("b", "2026-06-15T07:00:00Z", "file.delete", "backup@tarn.example")
                + "\n"
                + Channels.Line("c", "2026-06-15T07:00:00Z", "file.delete")
        );
        (Number(answer, "notAdmitted"), Number(answer, "taken")).ShouldBe((2, 1));
    }

    [Fact]
    public async Task A_key_of_another_channel_opens_nothing()
    {
        var (_, key) = await OpenAsync();
        await Channels.MakeAsync(admin, "other");
        (await Channels.SendAsync(product, "other", key, "{}")).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_channels_key_opens_nothing_else()
    {
        var (_, key) = await OpenAsync();
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(HttpMethod.Get, new Uri(product.Address, "/api/events"));
        request.Headers.TryAddWithoutValidation("Authorization", $"Bearer {key}");
        (await http.SendAsync(request, stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_table_is_read_by_its_mapping()
    {
        var id = await Channels.MakeAsync(
            admin,
            "doors",
            "files",
            Channels.Settings(
                "csv",
                mapping: new
                {
                    columns = new Dictionary<string, string> { ["When"] = "time", ["Who"] = "actor" },
                    constants = new Dictionary<string, string> { ["action"] = "door.open" },
                }
            )
        );
        await Channels.HandOverAsync(admin, id, "When,Who,Gate\n2026-06-15T07:00:00Z,pia@tarn.example,7\n");
        (await FoundAsync("action = door.open and field.gate = 7")).ShouldBe(1);
    }

    [Fact]
    public async Task A_table_that_lacks_a_column_is_refused_as_a_whole()
    {
        var id = await Channels.MakeAsync(
            admin,
            "doors",
            "files",
            Channels.Settings("csv", mapping: new { columns = new Dictionary<string, string> { ["When"] = "time" } })
        );
        var answer = await Channels.HandOverAsync(admin, id, "Time,Who\n2026-06-15T07:00:00Z,pia\n");
        answer
            .Body.GetProperty("refused")[0]
            .GetProperty("reason")
            .GetString()
            .ShouldBe("The column “When” is missing; nothing of this file was taken.");
    }

    [Fact]
    public async Task A_mapping_is_tried_without_writing_anything()
    {
        var tried = await admin.PostOk(
            "channels/trial",
            new
            {
                text = "When;Who\n2026-06-15T07:00:00Z;pia\nnever;pia\n",
                format = "csv",
                mapping = new { columns = new Dictionary<string, string> { ["When"] = "time", ["Who"] = "actor" } },
            }
        );
        tried.GetProperty("header").EnumerateArray().Select(h => h.GetString()).ShouldBe(["When", "Who"]);
        tried
            .GetProperty("lines")[1]
            .GetProperty("reason")
            .GetString()
            .ShouldBe("“never” is no time as the mapping says.");
    }

    [Fact]
    public async Task A_back_filled_range_takes_its_days_only()
    {
        var (id, _) = await OpenAsync();
        var answer = await Channels.HandOverAsync(
            admin,
            id,
            string.Join(
                '\n',
                Enumerable.Range(1, 9).Select(d => Channels.Line($"e{d}", $"2026-06-0{d}T12:00:00Z", "file.read"))
            ),
            "&from=2026-06-03&to=2026-06-05"
        );
        Number(answer, "taken").ShouldBe(3);
    }

    [Fact]
    public async Task A_file_that_grows_in_a_watched_folder_is_read_on_to_its_last_whole_line()
    {
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "drop")).FullName;
        await Channels.MakeAsync(admin, "drop", "folder", Channels.Settings(folder: folder));
        var file = Path.Combine(folder, "a.jsonl");
        var feeds = product.Services.GetRequiredService<ChannelFeeds>();
        await File.WriteAllTextAsync(
            file,
            Channels.Line("a", "2026-06-15T07:00:00Z", "file.read") + "\n{\"id\":\"b\",\"ti",
            stop
        );
        await feeds.LookAsync(CancellationToken.None);
        (await FoundAsync("channel = drop")).ShouldBe(1);
        await File.AppendAllTextAsync(file, "me\":\"2026-06-15T07:00:01Z\"}\n", stop);
        await feeds.LookAsync(CancellationToken.None);
        (await FoundAsync("channel = drop")).ShouldBe(2);
        (await Channels.OfAsync(admin, "drop")).GetProperty("rejected").GetInt64().ShouldBe(0);
    }

    [Fact]
    public async Task The_products_own_ledger_is_read_as_a_channel()
    {
        await Channels.MakeAsync(admin, "wide-keel", "ledger");
        await product.Services.GetRequiredService<ChannelFeeds>().LookAsync(CancellationToken.None);
        (await FoundAsync("channel = wide-keel and action = connected and actor = jonas")).ShouldBe(1);
    }

    private async Task<Stream> SyslogAsync()
    {
        using var probe = new TcpListener(IPAddress.Loopback, 0);
        probe.Start();
        var port = ((IPEndPoint)probe.LocalEndpoint).Port;
        probe.Stop();
        var id = await Channels.MakeAsync(admin, "syslog", "syslog", Channels.Settings("syslog", port: port));
        var ports = product.Services.GetRequiredService<SyslogServer>().Ports;
        for (var i = 0; i < 1_000 && !ports.ContainsKey(id); i++)
        {
            await Task.Delay(20);
        }

        var client = new TcpClient();
        await client.ConnectAsync(IPAddress.Loopback, port);
        return client.GetStream();
    }

    private const string Message = "<134>1 2026-06-15T07:00:00Z gw door - sign-in - ";

    [Fact]
    public async Task Syslog_is_taken_in_counted_octets_and_in_lines()
    {
        await using var stream = await SyslogAsync();
        await stream.WriteAsync(
            Encoding.UTF8.GetBytes($"{Encoding.UTF8.GetByteCount(Message + "é")} {Message}é{Message}two\n"),
            stop
        );
        await analyst.WaitForAsync("events?query=channel%20%3D%20syslog", e => e.GetProperty("total").GetInt64() == 2);
    }

    [Fact]
    public async Task What_a_frame_with_a_wrong_length_tore_apart_is_named_and_the_next_line_is_taken()
    {
        await using var stream = await SyslogAsync();
        await stream.WriteAsync(Encoding.UTF8.GetBytes($"{Message.Length - 4} {Message}one\n{Message}two\n"), stop);
        var channel = await admin.WaitForAsync(
            "channels",
            c => c.EnumerateArray().Any(x => x.GetProperty("taken").GetInt64() > 0)
        );
        channel[0].GetProperty("rejected").GetInt64().ShouldBe(2);
    }

    [Fact]
    public async Task Only_the_readers_of_a_closed_channel_learn_anything_of_it()
    {
        var (_, key) = await OpenAsync(Channels.Settings(open: false));
        await Channels.SendAsync(
            product,
            "gateway",
            key,
            Channels.Line("secret-id", "2026-06-15T07:00:00Z", "file.delete", rest: ",\"object\":\"hidden.txt\"")
        );
        foreach (
            var path in new[]
            {
                "events",
                "events?query=hidden",
                "events/facets",
                "events/histogram",
                "activity/boards/overview",
                "activity/boards/destruction",
                "activity/sign-ins",
                "events.csv",
                "events.jsonl",
                "events/1",
                "events/1/proof",
            }
        )
        {
            var answer = await analyst.Get(path);
            answer.Text!.ShouldNotContain("hidden", customMessage: path);
            answer.Text!.ShouldNotContain("gateway", customMessage: path);
        }

        var sql = await analyst.PostOk("statements/answers", new { sql = "SELECT * FROM events" });
        sql.GetProperty("rows").GetArrayLength().ShouldBe(0);
    }

    [Theory]
    [InlineData("Gate Way", "name-malformed")]
    [InlineData("gateway2", "period-malformed", "two years")]
    [InlineData("gateway2", "root-not-absolute", "P1Y", "folder")]
    public async Task A_channel_that_cannot_work_is_refused(
        string name,
        string problem,
        string retention = "P1Y",
        string feed = "http"
    ) =>
        (
            await admin.Post(
                "channels",
                new
                {
                    name,
                    feed,
                    settings = Channels.Settings(retention: retention),
                }
            )
        ).Problem.ShouldBe(problem);
}
