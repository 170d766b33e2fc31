using System.Net;
using System.Text.Json;
using System.Text.Json.Nodes;
using Parquet;
using WideKeel.Core.Ledger;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Tests.Activity;

/// <summary>Days that are sealed: what the files hold, who can check them, when they go.</summary>
public sealed class ArchiveTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api admin = null!;
    private Api analyst = null!;
    private string key = "";
    private long channel;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
        analyst = await product.SignInAsync("sunniva");
        channel = await Channels.MakeAsync(admin, "gateway", settings: Channels.Settings(retention: "P1Y"));
        key = await Channels.KeyAsync(admin, channel);
    }

    public async ValueTask DisposeAsync()
    {
        admin.Dispose();
        analyst.Dispose();
        await product.DisposeAsync();
    }

    private string Archive => Path.Combine(product.Data, "archive");

    private string FileOf(string day, int number = 0) =>
        Path.Combine(Archive, "gateway", $"day={day}", $"{number}.parquet");

    private Task<Answer> SendAsync(params string[] lines) =>
        Channels.SendAsync(product, "gateway", key, string.Join('\n', lines));

    private async Task SealAsync()
    {
        await admin.PostOk("channels/seal", new { });
        await admin.WaitForJobsAsync();
    }

    private async Task<string> ExportAsync()
    {
        using var ines = await product.SignInAsync("ines");
        return (await ines.Get("ledger/export")).Text!;
    }

    /// <summary>The findings of the check that needs no database.</summary>
    private async Task<IReadOnlyList<string>> FindingsAsync() =>
        SegmentVerifier.Verify(product.Archive(), await ExportAsync()).Value.Findings;

    private static string[] Day(string day, int count) =>
        [
            .. Enumerable
                .Range(0, count)
                .Select(i =>
                    Channels.Line(
                        $"{day}-{i:00000}",
                        $"{day}T{i / 3600 % 24:00}:{i / 60 % 60:00}:{i % 60:00}.5Z",
                        i % 3 == 0 ? "file.delete" : "file.read",
                        rest: $$""","object":"o{{i}}","address":"192.0.2.{{i % 200}}","amount":{{i}}.25,"details":{"b":1,"a":"é"}"""
                    )
                ),
        ];

    [Fact]
    public async Task A_sealed_day_leads_to_its_root_in_the_ledger()
    {
        await SendAsync(Day("2026-06-13", 5));
        await SealAsync();
        var report = SegmentVerifier.Verify(product.Archive(), await ExportAsync()).Value;
        (report.Files, report.Events, report.Findings.Count).ShouldBe((1, 5, 0));
    }

    [Fact]
    public async Task The_day_that_is_not_over_stays_open()
    {
        await SendAsync(Day("2026-06-15", 2));
        await SealAsync();
        Directory.Exists(Archive).ShouldBeFalse();
    }

    [Fact]
    public async Task What_comes_late_becomes_a_supplementary_file()
    {
        await SendAsync(Day("2026-06-13", 2));
        await SealAsync();
        await SendAsync(Channels.Line("late", "2026-06-13T23:00:00Z", "file.read"));
        await SealAsync();
        File.Exists(FileOf("2026-06-13", 1)).ShouldBeTrue();
        (await FindingsAsync()).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_reader_of_another_make_finds_the_events_in_the_file()
    {
        await SendAsync(Day("2026-06-13", 7));
        await SealAsync();
        await using var reader = await ParquetReader.CreateAsync(FileOf("2026-06-13"), cancellationToken: stop);
        var objects = new string[7];
        using var group = reader.OpenRowGroupReader(0);
        await group.ReadAsync(
            reader.Schema.DataFields.Single(f => f.Name == "object"),
            objects,
            cancellationToken: stop
        );
        objects.ShouldBe(["o0", "o1", "o2", "o3", "o4", "o5", "o6"]);
    }

    /// <summary>Writes the file anew with something else in it, as who can write the folder could.</summary>
    private void Rewrite(string day, string select)
    {
        var file = FileOf(day);
        using var engine = SegmentFile.Engine();
        SegmentFile.Run(
            engine,
            $"COPY (SELECT {select} FROM read_parquet('{file}') ORDER BY number) TO '{file}.new' (FORMAT parquet)"
        );
        File.Move($"{file}.new", file, overwrite: true);
    }

    [Theory]
    [InlineData("* REPLACE (CASE WHEN number = 3 THEN 'somebody' ELSE actor END AS actor)", "event 3 was altered.")]
    [InlineData("* REPLACE (number + CASE WHEN number > 2 THEN 1 ELSE 0 END AS number)", "event 3 is missing.")]
    public async Task An_altered_or_missing_event_is_named_by_its_number(string select, string finding)
    {
        await SendAsync(Day("2026-06-13", 5));
        await SealAsync();
        Rewrite("2026-06-13", select);
        (await FindingsAsync()).ShouldBe([$"gateway/day=2026-06-13/0.parquet: {finding}"]);
    }

    [Fact]
    public async Task An_event_that_was_cut_off_at_the_end_is_named()
    {
        await SendAsync(Day("2026-06-13", 5));
        await SealAsync();
        var file = FileOf("2026-06-13");
        using (var engine = SegmentFile.Engine())
        {
            SegmentFile.Run(
                engine,
                $"COPY (SELECT * FROM read_parquet('{file}') WHERE number < 5) TO '{file}.new' (FORMAT parquet)"
            );
        }

        File.Move($"{file}.new", file, overwrite: true);
        (await FindingsAsync()).ShouldBe(["gateway/day=2026-06-13/0.parquet: event 5 is missing, and all after it."]);
    }

    [Fact]
    public async Task One_altered_byte_in_any_part_of_a_file_is_found()
    {
        await SendAsync(Day("2026-06-13", 3_000));
        await SealAsync();
        var export = await ExportAsync();
        var file = FileOf("2026-06-13");
        var whole = await File.ReadAllBytesAsync(file, stop);
        for (var at = 100; at < whole.Length; at += whole.Length / 12)
        {
            var altered = (byte[])whole.Clone();
            altered[at] ^= 0x10;
            await File.WriteAllBytesAsync(file, altered, stop);
            SegmentVerifier.Verify(product.Archive(), export).Value.Findings.Count.ShouldBe(1, $"byte {at}");
        }
    }

    [Fact]
    public async Task A_file_that_is_gone_and_a_file_that_nobody_sealed_are_found()
    {
        await SendAsync(Day("2026-06-13", 3));
        await SealAsync();
        File.Move(FileOf("2026-06-13"), FileOf("2026-06-13", 7));
        (await FindingsAsync()).ShouldBe([
            "gateway/day=2026-06-13/0.parquet: the file is missing, with its 3 events.",
            "gateway/day=2026-06-13/7.parquet: the ledger knows of no such file.",
        ]);
    }

    [Fact]
    public async Task An_events_proof_leads_to_the_root_that_the_ledger_holds()
    {
        await SendAsync(Day("2026-06-13", 9));
        await SealAsync();
        var id = (await analyst.GetOk("events")).GetProperty("events")[4].GetProperty("id").GetInt64();
        var proof = JsonNode.Parse((await analyst.Get($"events/{id}/proof")).Text!)!;
        MerkleTree
            .VerifyInclusion(
                MerkleTree.LeafHash(CanonicalJson.Serialize(proof["event"])),
                (long)proof["index"]!,
                (long)proof["size"]!,
                [.. proof["inclusion"]!.AsArray().Select(h => Convert.FromHexString((string)h!))],
                Convert.FromHexString((string)proof["segment"]!["root"]!)
            )
            .ShouldBeTrue();
    }

    [Fact]
    public async Task A_day_whose_time_is_up_goes_whole_and_its_root_stays()
    {
        await SendAsync(Day("2025-06-16", 3));
        await SealAsync();
        product.Clock.AdvanceDays(3);
        await SealAsync();
        File.Exists(FileOf("2025-06-16")).ShouldBeFalse();
        (await analyst.GetOk("events")).GetProperty("total").GetInt64().ShouldBe(0);
        (await FindingsAsync()).ShouldBeEmpty();
    }

    [Fact]
    public async Task Statements_count_sealed_and_open_events_once_each()
    {
        await SendAsync(Day("2026-06-13", 5));
        await SealAsync();
        await SendAsync([.. Day("2026-06-15", 2), Channels.Line("late", "2026-06-13T23:00:00Z", "file.read")]);
        var answer = await analyst.PostOk("statements/answers", new { sql = "SELECT count(*) FROM events" });
        answer.GetProperty("rows")[0][0].GetInt64().ShouldBe(8);
    }

    [Fact]
    public async Task Days_that_are_no_longer_at_hand_still_answer_to_statements()
    {
        await SendAsync(Day("2025-07-01", 4));
        var settings = JsonSerializer.SerializeToNode(Channels.Settings(retention: "P1Y"))!.AsObject();
        settings["daysAtHand"] = 30;
        (await admin.Put($"channels/{channel}", settings, 1)).Status.ShouldBe(HttpStatusCode.OK);
        await SealAsync();
        (await analyst.GetOk("events")).GetProperty("total").GetInt64().ShouldBe(0);
        var answer = await analyst.PostOk("statements/answers", new { sql = "SELECT count(*) FROM events" });
        answer.GetProperty("rows")[0][0].GetInt64().ShouldBe(4);
    }

    [Fact]
    public async Task An_investigation_proves_events_of_days_that_are_no_longer_at_hand()
    {
        await SendAsync(Day("2025-07-01", 4));
        await SealAsync();
        await analyst.PostOk("investigations", new { name = "July", summary = "" });
        var id = (await analyst.GetOk("investigations"))[0].GetProperty("id").GetInt64();
        foreach (var e in (await analyst.GetOk("events")).GetProperty("events").EnumerateArray())
        {
            await analyst.PostOk(
                $"investigations/{id}/events",
                new { eventId = e.GetProperty("id").GetInt64(), note = "" }
            );
        }

        var settings = JsonSerializer.SerializeToNode(Channels.Settings(retention: "P1Y"))!.AsObject();
        settings["daysAtHand"] = 30;
        await admin.Put($"channels/{channel}", settings, 1);
        await SealAsync();
        (await analyst.GetOk($"investigations/{id}/file"))
            .GetProperty("events")
            .EnumerateArray()
            .Select(e => e.GetProperty("proof").GetProperty("index").GetInt32())
            .ShouldBe([0, 1, 2, 3]);
    }

    private async Task<Answer> CountAsync(bool withoutMissing = false) =>
        await analyst.Post(
            "statements/answers",
            new { sql = "SELECT count(*) FROM events WHERE channel <> 'ledger'", withoutMissing }
        );

    [Fact]
    public async Task The_events_of_a_missing_file_answer_from_their_rows_while_these_are_at_hand()
    {
        await SendAsync(Day("2026-06-13", 3));
        await SealAsync();
        File.Delete(FileOf("2026-06-13"));
        (await CountAsync()).Body.GetProperty("rows")[0][0].GetInt64().ShouldBe(3);
    }

    /// <summary>A sealed day whose rows are at hand no longer and whose file is gone, and another day.</summary>
    private async Task LoseDayAsync()
    {
        var settings = new
        {
            title = "Brief",
            format = "json",
            retention = "P1Y",
            daysAtHand = 1,
            openToAnalysts = true,
            readers = Array.Empty<long>(),
        };
        var brief = await Channels.KeyAsync(admin, await Channels.MakeAsync(admin, "brief", settings: settings));
        var lines = string.Join('\n', Day("2026-06-12", 4).Concat(Day("2026-06-14", 2)));
        await Channels.SendAsync(product, "brief", brief, lines);
        await SealAsync();
        File.Delete(Path.Combine(Archive, "brief", "day=2026-06-12", "0.parquet"));
    }

    [Fact]
    public async Task A_statement_over_a_file_that_is_lost_is_refused_with_the_file_and_what_it_held()
    {
        await LoseDayAsync();
        var answer = await CountAsync();
        (answer.Problem, answer.Body.GetProperty("title").GetString()).ShouldBe(
            (
                "archive-incomplete",
                "A sealed file is missing from the archive: brief/day=2026-06-12/0.parquet, with 4 events that are no "
                    + "longer at hand. An answer would leave them out."
            )
        );
    }

    [Fact]
    public async Task Whoever_says_so_is_answered_without_what_is_lost()
    {
        await LoseDayAsync();
        (await CountAsync(withoutMissing: true)).Body.GetProperty("rows")[0][0].GetInt64().ShouldBe(2);
    }

    /// <summary>A matter with an order in force that keeps the gateway's events.</summary>
    private static async Task<(Api Vera, long Matter, long Order, JsonElement View)> HoldAsync(Product product)
    {
        var vera = await product.SignInAsync("vera");
        var matter = (
            await vera.PostOk(
                "matters",
                new
                {
                    name = "m",
                    description = "",
                    kind = "litigation",
                    unitId = product.Units["Tarn Lines"],
                }
            )
        ).GetProperty("id").GetInt64();
        var order = (await vera.PostOk($"matters/{matter}/orders", new { name = "o", definition = Keeps("gateway") }))
            .GetProperty("orders")[0]
            .GetProperty("id")
            .GetInt64();
        await PutInForceAsync(vera, matter, order, Keeps("gateway"));
        return (vera, matter, order, await vera.GetOk($"matters/{matter}"));
    }

    private static object Keeps(params string[] channels) =>
        new
        {
            containers = Array.Empty<long>(),
            custodians = Array.Empty<long>(),
            query = "nothing of content",
            from = (string?)null,
            to = (string?)null,
            channels,
        };

    private static async Task<Answer> PutInForceAsync(Api vera, long matter, long order, object definition)
    {
        var figures = await vera.PostOk($"matters/{matter}/orders/{order}/consequences", definition);
        var revision = (await vera.GetOk($"matters/{matter}"))
            .GetProperty("orders")[0]
            .GetProperty("revision")
            .GetInt64();
        return await vera.Post(
            $"matters/{matter}/orders/{order}/activation",
            new { fingerprint = figures.GetProperty("fingerprint").GetString(), why = "Claim." },
            revision
        );
    }

    [Fact]
    public async Task A_day_that_a_hold_order_keeps_stays_when_its_time_is_up()
    {
        await SendAsync(Day("2025-06-16", 3));
        await SealAsync();
        var (vera, _, _, _) = await HoldAsync(product);
        product.Clock.AdvanceDays(3);
        await SealAsync();
        File.Exists(FileOf("2025-06-16")).ShouldBeTrue();
        (await analyst.GetOk("events")).GetProperty("total").GetInt64().ShouldBe(3);
        vera.Dispose();
    }

    [Fact]
    public async Task An_order_names_the_number_of_events_that_it_keeps()
    {
        await SendAsync(Day("2026-06-13", 5));
        await SealAsync();
        await SendAsync(Day("2026-06-15", 2));
        using var vera = await product.SignInAsync("vera");
        (await vera.PostOk("channels/kept", Keeps("gateway"))).GetProperty("events").GetInt64().ShouldBe(7);
    }

    [Fact]
    public async Task Events_leave_an_order_only_by_a_release()
    {
        var (vera, matter, order, view) = await HoldAsync(product);
        (
            await vera.Put(
                $"matters/{matter}/orders/{order}/draft",
                new { name = "o", definition = Keeps() },
                view.GetProperty("orders")[0].GetProperty("revision").GetInt64()
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await PutInForceAsync(vera, matter, order, Keeps())).Problem.ShouldBe("order-narrower");
        vera.Dispose();
    }
}
