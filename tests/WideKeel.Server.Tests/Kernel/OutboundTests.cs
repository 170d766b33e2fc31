using System.Net;
using System.Net.Sockets;
using System.Text;
using Microsoft.EntityFrameworkCore;

namespace WideKeel.Server.Tests.Kernel;

/// <summary>What people type as an address, a folder or a key leads to nothing that is not theirs.</summary>
public sealed class OutboundTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api jonas = null!;
    private Api mikkel = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        jonas = await product.SignInAsync("jonas");
        mikkel = await product.SignInAsync("mikkel");
        await jonas.Put("inner-networks", new { networks = "" });
    }

    public ValueTask DisposeAsync()
    {
        jonas.Dispose();
        mikkel.Dispose();
        return product.DisposeAsync();
    }

    private Task<Answer> TryAsync(string address) =>
        mikkel.Post(
            "connections/trial",
            new
            {
                kind = "hosts",
                name = "x",
                address,
                secret = "a-key-of-sixteen-characters",
            }
        );

    private static string Title(Answer answer) => answer.Body.GetProperty("title").GetString()!;

    [Theory]
    [InlineData("http://127.0.0.1:5081")]
    [InlineData("http://localhost:5081")]
    [InlineData("http://[::1]:5081")]
    [InlineData("http://169.254.169.254")]
    [InlineData("http://10.0.0.1")]
    [InlineData("http://[::ffff:127.0.0.1]:5081")]
    [InlineData("http://0.0.0.0:5081")]
    public async Task A_connection_reaches_nothing_inside_that_is_not_listed(string address) =>
        Title(await TryAsync(address)).ShouldStartWith("The address lies inside this network.");

    [Fact]
    public async Task What_an_administrator_listed_is_reached()
    {
        await jonas.Put("inner-networks", new { networks = "127.0.0.0/8" });
        Title(await TryAsync("http://127.0.0.1:1"))
            .ShouldBe("The address could not be reached, or its answer was not what was expected.");
    }

    [Fact]
    public async Task An_open_port_is_answered_as_a_closed_one()
    {
        await jonas.Put("inner-networks", new { networks = "127.0.0.0/8" });
        using var port = new TcpListener(IPAddress.Loopback, 0);
        port.Start();
        var answering = AnswerOnceAsync(port, "SSH-2.0-secret banner\r\n");
        var open = Title(await TryAsync($"http://127.0.0.1:{((IPEndPoint)port.LocalEndpoint).Port}"));
        await answering;
        open.ShouldBe(Title(await TryAsync("http://127.0.0.1:1")));
    }

    private static async Task AnswerOnceAsync(TcpListener port, string text)
    {
        using var client = await port.AcceptTcpClientAsync(Stop);
        await client.GetStream().WriteAsync(Encoding.ASCII.GetBytes(text), Stop);
    }

    [Fact]
    public async Task A_redirect_is_not_followed()
    {
        await jonas.Put("inner-networks", new { networks = "127.0.0.0/8" });
        using var port = new TcpListener(IPAddress.Loopback, 0);
        port.Start();
        var answering = AnswerOnceAsync(
            port,
            "HTTP/1.1 302 Found\r\nLocation: http://10.0.0.1/\r\nContent-Length: 0\r\nConnection: close\r\n\r\n"
        );
        var answer = Title(await TryAsync($"http://127.0.0.1:{((IPEndPoint)port.LocalEndpoint).Port}"));
        await answering;
        answer.ShouldBe("It did not answer with records.");
    }

    [Fact]
    public async Task Nobody_but_an_administrator_lists_networks() =>
        (await mikkel.Put("inner-networks", new { networks = "0.0.0.0/0" })).Problem.ShouldBe("not-allowed");

    [Fact]
    public async Task The_key_of_a_webhook_does_not_lie_in_the_open()
    {
        using var ines = await product.SignInAsync("ines");
        await ines.PostOk(
            "webhooks",
            new
            {
                name = "Tickets",
                url = "https://tickets.example/in",
                secret = "a-key-of-sixteen-characters",
                active = true,
            }
        );
        await using var db = product.Database();
        (await db.Webhooks.Select(w => w.Secret).SingleAsync(Stop)).ShouldNotContain("sixteen");
    }

    [Theory]
    [InlineData("data", "root-is-our-own")]
    [InlineData("secrets", "root-is-our-own")]
    [InlineData("", "root-is-our-own")]
    public async Task No_channel_reads_the_folder_of_the_product(string folder, string problem) =>
        (
            await jonas.Post(
                "channels",
                new
                {
                    name = "peek",
                    feed = "folder",
                    settings = Activity.Channels.Settings(folder: Path.Combine(product.Folder, folder)),
                }
            )
        ).Problem.ShouldBe(problem);

    [Theory]
    [InlineData("/proc/self")]
    [InlineData("/dev")]
    public async Task No_channel_reads_what_is_the_system_s(string folder) =>
        (
            await jonas.Post(
                "channels",
                new
                {
                    name = "peek",
                    feed = "folder",
                    settings = Activity.Channels.Settings(folder: folder),
                }
            )
        ).Problem.ShouldBe("root-is-the-systems");

    [Fact]
    public async Task A_database_under_another_name_is_not_read_as_content()
    {
        product.Write("Fleet/a.md", "2015-01-01", "a", "text");
        // A hard link: the same file, whatever its path says.
        using var link = System.Diagnostics.Process.Start(
            "ln",
            [product.DatabaseFile, Path.Combine(product.Share, "Fleet", "copy.md")]
        );
        await link.WaitForExitAsync(Stop);
        await product.ScanAsync();
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("items")).ToString().ShouldNotContain("copy.md");
    }

    [Fact]
    public async Task What_lies_in_the_data_folder_is_for_its_own_account_only()
    {
        await jonas.GetOk("session");
        Directory
            .EnumerateFiles(product.Data, "*", SearchOption.AllDirectories)
            .Where(f => (File.GetUnixFileMode(f) & (UnixFileMode)0b000_111_111) != 0)
            .Where(f =>
                File.GetLastWriteTimeUtc(f) > System.Diagnostics.Process.GetCurrentProcess().StartTime.ToUniversalTime()
            )
            .ShouldBeEmpty();
    }

    [Theory]
    [InlineData("limit=0", "limit-malformed")]
    [InlineData("limit=-1", "limit-malformed")]
    [InlineData("sort=--code", "sort-malformed")]
    [InlineData("sort=code;drop", "sort-malformed")]
    [InlineData("cursor=zzz", "cursor-malformed")]
    public async Task A_list_refuses_what_it_cannot_mean(string query, string problem)
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Get($"series?{query}")).Problem.ShouldBe(problem);
    }
}
