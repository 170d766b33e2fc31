using System.Globalization;
using System.Net;
using System.Text.Json;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

namespace WideKeel.Server.Tests.Activity;

/// <summary>Search, boards, sign-ins, statements and threads over one small log.</summary>
public sealed class AskingTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private Api analyst = null!;

    private static readonly string[] Log =
    [
        Channels.Line(
            "e1",
            "2026-06-14T21:00:00Z",
            "device.lease",
            "dhcp",
            ",\"device\":\"WS-17\",\"address\":\"192.0.2.17\""
        ),
        Channels.Line(
            "e2",
            "2026-06-14T21:30:00Z",
            "sign-in",
            rest: ",\"address\":\"192.0.2.17\",\"outcome\":\"failure\",\"code\":\"bad-password\",\"application\":\"Mail\""
        ),
        Channels.Line(
            "e3",
            "2026-06-14T21:31:00Z",
            "sign-in",
            rest: ",\"address\":\"192.0.2.17\",\"outcome\":\"success\",\"application\":\"Mail\""
        ),
        Channels.Line(
            "e4",
            "2026-06-14T22:00:00Z",
            "file.delete",
            rest: ",\"address\":\"192.0.2.17\",\"object\":\"Pier/DSC \\\"1*\\\".jpg\",\"amount\":2048,\"details\":{\"Bin\":\"emptied\"}"
        ),
        Channels.Line(
            "e5",
            "2026-06-14T22:05:00Z",
            "file.delete",
            "maren@tarn.example",
            ",\"address\":\"198.51.100.9\",\"object\":\"Pier/DSC 2.jpg\",\"amount\":1024"
        ),
        Channels.Line(
            "e6",
            "2026-06-15T06:00:00Z",
            "share.link",
            "maren@tarn.example",
            ",\"object\":\"Plans\",\"target\":\"anyone\""
        ),
    ];

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        using var admin = await product.SignInAsync("jonas");
        var channel = await Channels.MakeAsync(admin, "gateway");
        var key = await Channels.KeyAsync(admin, channel);
        (await Channels.SendAsync(product, "gateway", key, string.Join('\n', Log))).Status.ShouldBe(HttpStatusCode.OK);
        analyst = await product.SignInAsync("sunniva");
    }

    public ValueTask DisposeAsync()
    {
        analyst.Dispose();
        return product.DisposeAsync();
    }

    private async Task<List<string>> IdsAsync(string query) =>
        [
            .. (await analyst.GetOk($"events?query={Uri.EscapeDataString(query)}"))
                .GetProperty("events")
                .EnumerateArray()
                .Select(e => e.GetProperty("eventId").GetString()!)
                .Order(),
        ];

    /// <summary>Search in SQL and the matcher in hand are two evaluations of one language.</summary>
    [Theory]
    [InlineData("action = file.delete")]
    [InlineData("action <> file.delete")]
    [InlineData("pier")]
    [InlineData("\"pier dsc\"")]
    [InlineData("text any \"plans jpg\"")]
    [InlineData("text all \"pia jpg\"")]
    [InlineData("address = \"192.0.2.0/24\"")]
    [InlineData("address <> \"192.0.2.0/24\"")]
    [InlineData("amount > \"1 kB\"")]
    [InlineData("amount >= 1024 and amount <= 1024")]
    [InlineData("time within \"2026-06-14 2026-06-14\"")]
    [InlineData("time >= 2026-06-14T22:00:00Z")]
    [InlineData("time < 2026-06-14T21:30:00.001Z")]
    [InlineData("field.bin = emptied")]
    [InlineData("code = *")]
    [InlineData("actor = m*")]
    [InlineData("object == \"Pier/DSC \\\"1\\*\\\".jpg\"")]
    [InlineData("actor > n")]
    [InlineData("id any \"e1 e6\"")]
    [InlineData("outcome = failure or target = anyone not action = sign-in")]
    public async Task A_query_finds_in_rows_what_it_matches_in_hand(string query)
    {
        var condition = QueryCompiler.Compile(query, new(2026, 6, 15), EventColumn.Vocabulary).Value.Condition;
        var expected = Log.Select(l => EventLine.Read(l).Value)
            .Where(e => EventMatcher.Matches(condition, e))
            .Select(e => e.Id)
            .Order();
        (await IdsAsync(query)).ShouldBe(expected);
    }

    [Fact]
    public async Task A_mistake_in_a_query_is_named_with_its_place()
    {
        var answer = await analyst.Get("events?query=actor%20%3D");
        (answer.Status, answer.Body.TryGetProperty("at", out _)).ShouldBe((HttpStatusCode.BadRequest, true));
    }

    [Fact]
    public async Task Pages_follow_one_another_without_a_gap()
    {
        List<string> seen = [];
        string? cursor = null;
        do
        {
            var page = await analyst.GetOk($"events?limit=2{(cursor is null ? "" : $"&cursor={cursor}")}");
            seen.AddRange(
                page.GetProperty("events").EnumerateArray().Select(e => e.GetProperty("eventId").GetString()!)
            );
            cursor = page.GetProperty("next").GetString();
        } while (cursor is not null);
        seen.ShouldBe(["e6", "e5", "e4", "e3", "e2", "e1"]);
    }

    [Fact]
    public async Task The_bars_of_the_histogram_add_up_to_the_events()
    {
        var buckets = (await analyst.GetOk("events/histogram")).GetProperty("buckets").EnumerateArray();
        buckets
            .Sum(b =>
                b.GetProperty("success").GetInt64()
                + b.GetProperty("failure").GetInt64()
                + b.GetProperty("other").GetInt64()
            )
            .ShouldBe(Log.Length);
    }

    [Fact]
    public async Task Every_bar_of_every_board_opens_into_as_many_events_as_it_says()
    {
        foreach (var board in new[] { "overview", "sign-ins", "sharing", "destruction", "administration" })
        {
            foreach (
                var chart in (await analyst.GetOk($"activity/boards/{board}")).GetProperty("charts").EnumerateArray()
            )
            {
                foreach (var row in chart.GetProperty("rows").EnumerateArray())
                {
                    (await IdsAsync(row.GetProperty("query").GetString()!)).Count.ShouldBe(
                        row.GetProperty("value").GetInt32(),
                        row.ToString()
                    );
                }
            }
        }
    }

    private async Task<JsonElement> DetailAsync(string id)
    {
        var found = await analyst.GetOk($"events?query=id%20%3D%20{id}");
        return await analyst.GetOk($"events/{found.GetProperty("events")[0].GetProperty("id").GetInt64()}");
    }

    [Fact]
    public async Task What_is_related_to_an_event_opens_into_as_many_as_it_says()
    {
        var around = (await DetailAsync("e4")).GetProperty("around").EnumerateArray().ToList();
        around.Count.ShouldBeGreaterThan(4);
        foreach (var a in around)
        {
            (await IdsAsync(a.GetProperty("query").GetString()!)).Count.ShouldBe(a.GetProperty("count").GetInt32());
        }
    }

    [Fact]
    public async Task An_event_keeps_its_original_line() =>
        (await DetailAsync("e2")).GetProperty("original").GetString().ShouldBe(Log[1]);

    [Fact]
    public async Task A_failed_sign_in_is_explained_from_its_code_and_neighbours()
    {
        var id = (await DetailAsync("e2")).GetProperty("event").GetProperty("id").GetInt64();
        var diagnosis = await analyst.GetOk($"events/{id}/diagnosis");
        diagnosis.GetProperty("words").GetString().ShouldBe("The password was wrong.");
        diagnosis
            .GetProperty("grounds")
            .EnumerateArray()
            .Select(g => g.GetString())
            .ShouldContain("A sign-in followed within an hour.");
    }

    [Fact]
    public async Task A_thread_follows_the_address_from_a_deletion_to_the_machine()
    {
        var id = (await DetailAsync("e4")).GetProperty("event").GetProperty("id").GetInt64();
        var thread = await analyst.GetOk($"events/{id}/thread?along=address&hours=2");
        thread.EnumerateArray().Select(e => e.GetProperty("eventId").GetString()).ShouldBe(["e1", "e2", "e3", "e4"]);
    }

    [Fact]
    public async Task The_machine_that_had_an_address_is_found_by_an_ASOF_join_with_an_uploaded_table()
    {
        await analyst.Http.PostAsync(
            new Uri("statements/tables/leases", UriKind.Relative),
            new StringContent(
                "address,machine,since\n192.0.2.17,WS-03,2026-06-01 00:00:00\n192.0.2.17,WS-17,2026-06-14 20:00:00\n"
            ),
            stop
        );
        var answer = await analyst.PostOk(
            "statements/answers",
            new
            {
                sql = """
                SELECT e.id, l.machine FROM (SELECT * FROM events WHERE action = 'file.delete') e
                ASOF JOIN leases l ON e.address = l.address AND e.time >= l.since
                """,
            }
        );
        answer.GetProperty("rows").EnumerateArray().Select(r => $"{r[0]} {r[1]}").ShouldBe(["e4 WS-17"]);
    }

    [Theory]
    [InlineData("SELECT * FROM read_csv('/etc/passwd')")]
    [InlineData("SELECT * FROM '/etc/passwd'")]
    [InlineData("SELECT * FROM read_parquet('archive/gateway/**/*.parquet')")]
    [InlineData("COPY (SELECT 1) TO '/tmp/x.csv'")]
    [InlineData("SELECT current_setting('memory_limit')")]
    [InlineData("SELECT getenv('HOME')")]
    [InlineData("SELECT * FROM duckdb_settings()")]
    [InlineData("SELECT * FROM information_schema.tables")]
    [InlineData("SELECT * FROM open_events")]
    [InlineData("SET memory_limit = '1TB'")]
    [InlineData("ATTACH 'widekeel.db'")]
    [InlineData("SELECT 1; SELECT 2")]
    [InlineData("DROP VIEW events")]
    [InlineData("SELECT (SELECT count(*) FROM read_text('/etc/passwd'))")]
    [InlineData("WITH x AS (SELECT * FROM read_text('/etc/passwd')) SELECT * FROM x")]
    [InlineData("SELECT query('SELECT 1')")]
    [InlineData("FROM glob('*')")]
    public async Task A_statement_that_reaches_for_more_than_the_views_is_refused(string sql)
    {
        var answer = await analyst.Post("statements/answers", new { sql });
        answer.Status.ShouldBe(HttpStatusCode.BadRequest, sql);
    }

    [Fact]
    public async Task Every_ready_statement_runs()
    {
        foreach (var ready in (await analyst.GetOk("statements")).GetProperty("ready").EnumerateArray())
        {
            var answer = await analyst.Post(
                "statements/answers",
                new
                {
                    sql = ready.GetProperty("sql").GetString(),
                    parameters = new[]
                    {
                        new
                        {
                            name = "from",
                            type = "moment",
                            value = "2026-06-01T00:00:00Z",
                        },
                        new
                        {
                            name = "before",
                            type = "moment",
                            value = "2026-07-01T00:00:00Z",
                        },
                    },
                }
            );
            answer.Status.ShouldBe(HttpStatusCode.OK, $"{ready.GetProperty("name")}: {answer.Text}");
        }
    }

    [Fact]
    public async Task A_frozen_investigation_changes_no_more()
    {
        await analyst.PostOk("investigations", new { name = "Pier", summary = "" });
        var id = (await analyst.GetOk("investigations"))[0].GetProperty("id").GetInt64();
        var deleted = (await DetailAsync("e4")).GetProperty("event").GetProperty("id").GetInt64();
        await analyst.PostOk($"investigations/{id}/events", new { eventId = deleted, note = "The deletion." });
        await analyst.PostOk($"investigations/{id}/freezing", new { });
        var answer = await analyst.Delete(
            $"investigations/{id}/events/{deleted.ToString(CultureInfo.InvariantCulture)}"
        );
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.Conflict, "frozen"));
    }

    private async Task<string?> MeaningAsync() =>
        (await analyst.GetOk("activity/sign-ins")).GetProperty("codes")[0].GetProperty("words").GetString();

    private static readonly object Explanation = new { words = "The badge was not read.", next = "Ask at the gate." };

    [Fact]
    public async Task An_explanation_of_the_organisation_goes_before_the_catalogue()
    {
        (await analyst.Put("activity/sign-in-codes/bad-password", Explanation)).Status.ShouldBe(HttpStatusCode.OK);
        (await MeaningAsync()).ShouldBe("The badge was not read.");
    }

    [Fact]
    public async Task A_diagnosis_uses_the_explanation_of_the_organisation()
    {
        await analyst.Put("activity/sign-in-codes/bad-password", Explanation);
        var failed = (await analyst.GetOk("events?query=code%20%3D%3D%20bad-password"))
            .GetProperty("events")[0]
            .GetProperty("id")
            .GetInt64();
        (await analyst.GetOk($"events/{failed}/diagnosis"))
            .GetProperty("next")
            .GetString()
            .ShouldBe("Ask at the gate.");
    }

    [Fact]
    public async Task An_explanation_that_is_taken_back_leaves_that_of_the_catalogue()
    {
        await analyst.Put("activity/sign-in-codes/bad-password", Explanation);
        (await analyst.Delete("activity/sign-in-codes/bad-password")).Status.ShouldBe(HttpStatusCode.OK);
        (await MeaningAsync()).ShouldBe("The password was wrong.");
    }

    [Fact]
    public async Task An_explanation_without_words_is_refused()
    {
        var answer = await analyst.Put("activity/sign-in-codes/x", new { words = " ", next = "Ask." });
        (answer.Status, answer.Problem).ShouldBe((HttpStatusCode.BadRequest, "explanation-needed"));
    }

    [Fact]
    public async Task An_investigation_is_read_by_nobody_else()
    {
        await analyst.PostOk("investigations", new { name = "Pier", summary = "" });
        using var admin = await product.SignInAsync("jonas");
        await product.AddPersonAsync(admin, "other", "securityAnalyst", "Tarn Lines");
        using var other = await product.SignInAsync("other");
        (await other.GetOk("investigations")).GetArrayLength().ShouldBe(0);
    }

    [Theory]
    [InlineData("events.csv", "text/csv")]
    [InlineData("events.jsonl", "application/x-ndjson")]
    [InlineData("events.jsonl?shape=ocsf", "application/x-ndjson")]
    [InlineData("events.xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet")]
    public async Task Events_go_out_in_open_formats(string path, string type) =>
        (await analyst.Get(path)).Response.Content.Headers.ContentType!.MediaType.ShouldBe(type);

    [Fact]
    public async Task Lines_that_went_out_come_in_again_as_the_same_events()
    {
        var text = (await analyst.Get("events.jsonl")).Text!;
        text.Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => EventLine.Read(l).Value.Id)
            .Order()
            .ShouldBe(["e1", "e2", "e3", "e4", "e5", "e6"]);
    }
}
