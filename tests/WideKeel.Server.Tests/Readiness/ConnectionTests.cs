using System.Net;
using System.Net.Sockets;
using System.Text.Json;
using Microsoft.AspNetCore.Builder;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Server.Readiness;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>The product and the programs that ship with it, over signed HTTP.</summary>
public sealed class ConnectionTests : IAsyncLifetime
{
    private const string Key = "a key of sixteen or more";
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private readonly string file = Path.Combine(Path.GetTempPath(), $"wk-{Guid.NewGuid():N}.json");
    private WebApplication program = null!;
    private Api manager = null!;

    private string Address => program.Urls.First();

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People =
                [
                    new("ann@tarn.example", "Ann", Unit: "Northern", Manager: "bo@tarn.example"),
                    new("bo@tarn.example", "Bo", Unit: "Northern"),
                    new("cy@tarn.example", "Cy", Unit: "Island", Left: "2026-06-01"),
                ],
                Groups = [new("Crew", "Crew", null, ["cy@tarn.example"])],
            }
        );
        Write("""{ "key": "a", "title": "Ann’s laptop", "encrypted": true, "patched": "2026-06-01" }""");
        program = await StandInProgram.StartAsync(file, Key, "http://127.0.0.1:0", product.Clock);
        manager = await product.SignInAsync("mikkel");
    }

    public async ValueTask DisposeAsync()
    {
        manager.Dispose();
        await program.DisposeAsync();
        await product.DisposeAsync();
        File.Delete(file);
    }

    private void Write(params string[] records) =>
        File.WriteAllText(file, $$"""{ "records": [{{string.Join(',', records)}}] }""");

    private object Settings(
        string kind = "hosts",
        string? secret = Key,
        string? address = null,
        string name = "Inventory"
    ) =>
        new
        {
            kind,
            name,
            address = address ?? Address,
            secret,
        };

    private async Task<long> ConnectedAsync(string kind = "hosts")
    {
        var id = (await manager.PostOk("connections", Settings(kind))).GetProperty("id").GetInt64();
        await manager.PostOk($"connections/{id}/reading", new { });
        return id;
    }

    private async Task<JsonElement> ConnectionAsync() => (await manager.GetOk("connections"))[0];

    private async Task<(int Right, int Of)> MeasuredAsync(string measure)
    {
        await manager.PostOk(
            "gauges",
            new
            {
                name = measure,
                measure,
                target = 100,
                warning = 90,
                alarm = 50,
            }
        );
        var gauge = (await manager.GetOk("gauges"))
            .EnumerateArray()
            .Single(g => g.GetProperty("settings").GetProperty("measure").GetString() == measure);
        return (gauge.GetProperty("right").GetInt32(), gauge.GetProperty("of").GetInt32());
    }

    [Fact]
    public async Task A_program_s_records_are_taken_in()
    {
        var id = await ConnectedAsync();
        (await manager.GetOk($"connections/{id}/records"))
            .GetProperty("records")[0]
            .GetProperty("title")
            .GetString()
            .ShouldBe("Ann’s laptop");
    }

    [Fact]
    public async Task A_trial_keeps_nothing()
    {
        (await manager.PostOk("connections/trial", Settings())).GetProperty("total").GetInt32().ShouldBe(1);
        (await manager.GetOk("connections")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task Another_key_is_not_answered()
    {
        var answer = await manager.Post("connections/trial", Settings(secret: "another key of sixteen"));
        (answer.Problem, answer.Body.GetProperty("title").GetString()!).ShouldBe(
            ("connection-failed", "It does not know the key, or its clock is more than five minutes off.")
        );
    }

    [Fact]
    public async Task A_program_that_is_gone_keeps_what_it_sent_and_says_why()
    {
        var id = await ConnectedAsync();
        await program.StopAsync(stop);
        await manager.PostOk($"connections/{id}/reading", new { });
        var connection = await ConnectionAsync();
        (
            connection.GetProperty("records").GetInt32(),
            connection.GetProperty("failure").GetString()!.Length > 0
        ).ShouldBe((1, true));
    }

    [Fact]
    public async Task An_answer_that_is_half_written_changes_nothing()
    {
        var id = await ConnectedAsync();
        await File.WriteAllTextAsync(file, """{ "records": [{ "key": "b" }, { "title": "no key" }] }""", stop);
        await manager.PostOk($"connections/{id}/reading", new { });
        var connection = await ConnectionAsync();
        (connection.GetProperty("records").GetInt32(), connection.GetProperty("failure").GetString()).ShouldBe(
            (1, "records[1].key: it is missing. What it sent before is kept.")
        );
    }

    [Fact]
    public async Task What_a_program_no_longer_names_is_gone()
    {
        var id = await ConnectedAsync();
        Write("""{ "key": "b" }""");
        await manager.PostOk($"connections/{id}/reading", new { });
        (await manager.GetOk($"connections/{id}/records"))
            .GetProperty("records")
            .EnumerateArray()
            .Select(r => r.GetProperty("key").GetString())
            .ShouldBe(["b"]);
    }

    [Fact]
    public async Task An_answer_that_nobody_signed_is_not_believed()
    {
        using var listener = new HttpListener();
        var port = FreePort();
        listener.Prefixes.Add($"http://127.0.0.1:{port}/");
        listener.Start();
        var answering = listener
            .GetContextAsync()
            .ContinueWith(
                context =>
                {
                    context.Result.Response.OutputStream.Write("""{ "records": [] }"""u8);
                    context.Result.Response.Close();
                },
                TaskScheduler.Default
            );
        var answer = await manager.Post("connections/trial", Settings(address: $"http://127.0.0.1:{port}"));
        await answering;
        answer.Body.GetProperty("title").GetString()!.ShouldStartWith("Its answer is not signed with the key.");
    }

    private static int FreePort()
    {
        using var socket = new TcpListener(IPAddress.Loopback, 0);
        socket.Start();
        return ((IPEndPoint)socket.LocalEndpoint).Port;
    }

    private async Task<HttpStatusCode> AskAsync(string key, Instant at, string nonce)
    {
        var time = InstantPattern.General.Format(at);
        using var http = new HttpClient();
        using var question = new HttpRequestMessage(HttpMethod.Get, new Uri($"{Address}/records"));
        question.Headers.Add(Signature.TimeHeader, time);
        question.Headers.Add(Signature.NonceHeader, nonce);
        question.Headers.Add(Signature.Header, Signature.OfQuestion(key, "/records", time, nonce));
        return (await http.SendAsync(question, stop)).StatusCode;
    }

    [Fact]
    public async Task A_question_is_answered_once()
    {
        var now = product.Clock.GetCurrentInstant();
        (await AskAsync(Key, now, "once"), await AskAsync(Key, now, "once")).ShouldBe(
            (HttpStatusCode.OK, HttpStatusCode.Unauthorized)
        );
    }

    [Theory]
    [InlineData(-4, HttpStatusCode.OK)]
    [InlineData(-6, HttpStatusCode.Unauthorized)]
    [InlineData(6, HttpStatusCode.Unauthorized)]
    public async Task A_question_is_answered_within_five_minutes(int minutes, HttpStatusCode status) =>
        (await AskAsync(Key, product.Clock.GetCurrentInstant() + Duration.FromMinutes(minutes), "now")).ShouldBe(
            status
        );

    [Fact]
    public async Task A_question_without_a_signature_is_not_answered()
    {
        using var http = new HttpClient();
        (await http.GetAsync(new Uri($"{Address}/records"), stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("", Key, "http://127.0.0.1:1", "name-missing")]
    [InlineData("X", "short", "http://127.0.0.1:1", "key-too-short")]
    [InlineData("X", null, "http://127.0.0.1:1", "key-missing")]
    [InlineData("X", Key, "ftp://127.0.0.1", "address-malformed")]
    [InlineData("X", Key, "/etc/passwd", "address-malformed")]
    [InlineData("X", Key, "http://127.0.0.1:1/elsewhere", "address-malformed")]
    public async Task A_connection_that_cannot_be_is_refused(
        string name,
        string? secret,
        string address,
        string problem
    ) => (await manager.Post("connections", Settings("hosts", secret, address, name))).Problem.ShouldBe(problem);

    [Fact]
    public async Task What_a_program_knows_does_not_change()
    {
        var id = await ConnectedAsync();
        (await manager.Put($"connections/{id}", Settings("tickets"), 1)).Problem.ShouldBe("kind-fixed");
    }

    [Fact]
    public async Task The_key_is_never_shown_again()
    {
        await ConnectedAsync();
        (await manager.Get("connections")).Text!.ShouldNotContain(Key);
    }

    [Fact]
    public async Task Machines_are_measured_by_their_patches()
    {
        Write(
            """{ "key": "a", "patched": "2026-05-16" }""",
            """{ "key": "b", "patched": "2026-05-15" }""",
            """{ "key": "c" }"""
        );
        await ConnectedAsync();
        (await MeasuredAsync("hosts-patched")).ShouldBe((1, 3));
    }

    [Fact]
    public async Task A_course_is_right_where_it_is_done_or_still_has_time()
    {
        Write(
            """{ "key": "a", "sort": "Fire", "person": "ann@tarn.example", "due": "2026-06-15" }""",
            """{ "key": "b", "sort": "Fire", "person": "bo@tarn.example", "due": "2026-06-14" }""",
            """{ "key": "c", "sort": "Fire", "person": "cy@tarn.example", "done": "2026-01-01" }"""
        );
        await ConnectedAsync("training");
        (await MeasuredAsync("training-done")).ShouldBe((2, 3));
    }

    [Fact]
    public async Task A_course_shows_who_is_late_first()
    {
        Write(
            """{ "key": "a", "sort": "Fire", "person": "ann@tarn.example", "done": "2026-06-01" }""",
            """{ "key": "b", "sort": "Fire", "person": "bo@tarn.example", "due": "2026-06-14" }"""
        );
        await ConnectedAsync("training");
        var course = (await manager.GetOk("areas/training"))[0];
        (
            course.GetProperty("late").GetInt32(),
            course.GetProperty("people")[0].GetProperty("name").GetString()
        ).ShouldBe((1, "Bo"));
    }

    [Fact]
    public async Task A_change_that_is_done_before_its_approval_is_not_right()
    {
        Write(
            """{ "key": "a", "sort": "change", "done": "2026-06-01", "approved": "2026-06-02" }""",
            """{ "key": "b", "sort": "change", "done": "2026-06-01", "approved": "2026-05-02" }""",
            """{ "key": "c", "sort": "incident", "done": "2026-06-01" }"""
        );
        await ConnectedAsync("tickets");
        (await MeasuredAsync("changes-decided")).ShouldBe((1, 2));
    }

    [Fact]
    public async Task Changes_without_approval_are_named()
    {
        Write("""{ "key": "a", "sort": "change", "done": "2026-06-01" }""");
        await ConnectedAsync("tickets");
        (await manager.GetOk("areas/changes"))[0].GetProperty("unapproved").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task Incidents_come_from_tickets_and_the_register()
    {
        Write("""{ "key": "a", "sort": "incident", "title": "Till 4", "opened": "2026-06-01" }""");
        await ConnectedAsync("tickets");
        await manager.PostOk("registers", new { kind = "incident", title = "Collision" });
        (await manager.GetOk("areas/incidents"))
            .EnumerateArray()
            .Select(i => i.GetProperty("from").GetString())
            .Order()
            .ShouldBe(["register", "ticket"]);
    }

    [Fact]
    public async Task A_leaver_s_page_says_what_is_left_to_take_back()
    {
        var leaver = (await manager.GetOk("areas/people")).GetProperty("leavers")[0];
        (leaver.GetProperty("name").GetString(), leaver.GetProperty("steps")[0].GetString()).ShouldBe(
            ("Cy", "Is in Crew.")
        );
    }

    private async Task JoinsAsync(string day)
    {
        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk("directory", new { people = $"name,mail,joins\nDot,dot@new.example,{day}\n" });
    }

    private async Task<JsonElement> JoinersAsync() => (await manager.GetOk("areas/people")).GetProperty("joiners");

    [Fact]
    public async Task A_joiner_s_line_says_which_course_is_late()
    {
        await JoinsAsync("2026-05-04");
        Write("""{ "key": "a", "sort": "Fire", "person": "dot@new.example", "due": "2026-06-01" }""");
        await ConnectedAsync("training");
        var joiner = (await JoinersAsync())[0];
        (
            joiner.GetProperty("on").GetString(),
            joiner.GetProperty("steps")[0].GetString(),
            joiner.GetProperty("late").GetBoolean()
        ).ShouldBe(("2026-05-04", "Do the course “Fire”.", true));
    }

    [Theory]
    [InlineData("2026-03-17", 1)]
    [InlineData("2026-03-16", 0)]
    [InlineData("2026-09-13", 1)]
    [InlineData("2026-09-14", 0)]
    public async Task Whoever_joins_within_ninety_days_is_listed(string day, int listed)
    {
        await JoinsAsync(day);
        (await JoinersAsync()).GetArrayLength().ShouldBe(listed);
    }

    [Fact]
    public async Task The_chart_begins_with_those_who_have_people_and_no_manager() =>
        (await manager.GetOk("areas/people"))
            .GetProperty("top")
            .EnumerateArray()
            .Select(m => m.GetString())
            .ShouldBe(["bo@tarn.example"]);

    [Fact]
    public async Task A_connection_that_fails_is_not_heard()
    {
        var id = await ConnectedAsync();
        await program.StopAsync(stop);
        await manager.PostOk($"connections/{id}/reading", new { });
        (await MeasuredAsync("connections-heard")).ShouldBe((0, 1));
    }

    [Fact]
    public async Task A_supplier_keeps_its_documents_until_their_last_day()
    {
        await manager.PostOk("registers", new { kind = "supplier", title = "Charts" });
        var id = (await manager.GetOk("registers?kind=supplier"))[0].GetProperty("id").GetInt64();
        (
            await manager.Http.PostAsync(
                new Uri(
                    $"registers/{id}/documents?file=a.pdf&title=Contract&validThrough=2026-06-14",
                    UriKind.Relative
                ),
                new ByteArrayContent([1, 2, 3]),
                stop
            )
        ).StatusCode.ShouldBe(HttpStatusCode.OK);
        (await manager.GetOk("registers?kind=supplier"))[0]
            .GetProperty("documents")[0]
            .GetProperty("ended")
            .GetBoolean()
            .ShouldBeTrue();
        (await MeasuredAsync("supplier-documents")).ShouldBe((0, 1));
    }
}
