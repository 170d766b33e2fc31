using System.Net;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Server.Tests.Activity;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Readiness;

/// <summary>Measures that people write in SQL and CQL, and what rests on them.</summary>
public sealed class OwnMeasureTests : IAsyncLifetime
{
    private const string Factors =
        "SELECT id, name, second_factor AS ok, 'Signs in with a password alone.' AS why FROM accounts";

    private readonly Product product = new();
    private Api mikkel = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People =
                [
                    new("ann@tarn.example", "Ann"),
                    new("bo@tarn.example", "Bo", SecondFactor: false),
                    new("cy@tarn.example", "Cy"),
                ],
                Groups = [new("crew", "Crew", null, ["ann@tarn.example"])],
                Resources = [new("pier", "Pier", "library", null, false, null, false, false, null, [])],
                Grants = [new("crew", "pier", "editor")],
            }
        );
        mikkel = await product.SignInAsync("mikkel");
    }

    public ValueTask DisposeAsync()
    {
        mikkel.Dispose();
        return product.DisposeAsync();
    }

    private static object Measure(string sql) =>
        new
        {
            title = "Second factors",
            says = "Accounts with a second factor.",
            area = "access",
            asks = Statement(sql),
        };

    private static object Statement(string sql) => new { over = "statement", question = sql };

    private static object Count(string over, string query, int? least, int? most) =>
        new
        {
            over,
            question = query,
            least,
            most,
        };

    private async Task<JsonElement> MakeAsync(string sql = Factors) =>
        await mikkel.PostOk("own-measures", Measure(sql));

    private async Task<JsonElement> GaugeAsync(string measure)
    {
        await mikkel.PostOk(
            "gauges",
            new
            {
                name = "Factors",
                measure,
                target = 100,
                warning = 90,
                alarm = 50,
            }
        );
        return (await mikkel.GetOk("gauges"))[0];
    }

    private async Task<long> TriedAsync(string sql) =>
        (await mikkel.PostOk("own-measures/trial", Statement(sql))).GetProperty("of").GetInt64();

    [Fact]
    public async Task A_trial_shows_the_share_and_what_is_wrong_first()
    {
        var trial = await mikkel.PostOk("own-measures/trial", Statement(Factors));
        (
            trial.GetProperty("right").GetInt32(),
            trial.GetProperty("of").GetInt32(),
            trial.GetProperty("subjects")[0].GetProperty("name").GetString()
        ).ShouldBe((2, 3, "Bo"));
    }

    [Fact]
    public async Task A_gauge_shows_a_measure_in_SQL()
    {
        var made = await MakeAsync();
        (await GaugeAsync(made.GetProperty("name").GetString()!)).GetProperty("percent").GetDouble().ShouldBe(66.7);
    }

    [Fact]
    public async Task A_measure_in_SQL_stands_among_the_ready_ones()
    {
        await MakeAsync();
        (await mikkel.GetOk("measures"))
            .EnumerateArray()
            .Select(m => m.GetProperty("title").GetString())
            .ShouldContain("Second factors");
    }

    [Fact]
    public async Task A_changed_statement_changes_what_its_gauge_shows()
    {
        var made = await MakeAsync();
        await GaugeAsync(made.GetProperty("name").GetString()!);
        await mikkel.Put(
            $"own-measures/{made.GetProperty("id").GetInt64()}",
            Measure("SELECT id, true AS ok FROM accounts"),
            made.GetProperty("revision").GetInt64()
        );
        (await mikkel.GetOk("gauges"))[0].GetProperty("percent").GetDouble().ShouldBe(100);
    }

    [Fact]
    public async Task A_measure_on_which_a_gauge_rests_is_not_dropped()
    {
        var made = await MakeAsync();
        await GaugeAsync(made.GetProperty("name").GetString()!);
        (await mikkel.Delete($"own-measures/{made.GetProperty("id").GetInt64()}")).Problem.ShouldBe("measure-in-use");
    }

    [Fact]
    public async Task A_measure_on_which_nothing_rests_is_dropped()
    {
        var made = await MakeAsync();
        await mikkel.Delete($"own-measures/{made.GetProperty("id").GetInt64()}");
        (await mikkel.GetOk("own-measures")).GetArrayLength().ShouldBe(0);
    }

    [Theory]
    [InlineData("SELECT id FROM accounts", "columns-missing")]
    [InlineData("SELECT 'a' AS id, true AS ok FROM accounts", "id-repeated")]
    [InlineData("SELECT id, name AS ok FROM accounts", "ok-malformed")]
    [InlineData("SELECT id, true AS ok FROM items", "view-unknown")]
    [InlineData("DELETE FROM accounts", "statement-malformed")]
    [InlineData("SELECT id, true AS ok FROM accounts WHERE", "statement-malformed")]
    public async Task A_statement_that_gives_no_subjects_is_refused(string sql, string problem) =>
        (await mikkel.Post("own-measures", Measure(sql))).Problem.ShouldBe(problem);

    [Fact]
    public async Task A_measure_whose_writer_may_read_no_longer_is_wrong_and_says_so()
    {
        var made = await MakeAsync();
        await GaugeAsync(made.GetProperty("name").GetString()!);
        using var jonas = await product.SignInAsync("jonas");
        await product.AddPersonAsync(jonas, "Runa", "auditManager");
        using var runa = await product.SignInAsync("runa");
        (await Product.ChangePersonAsync(jonas, "mikkel", remits: Array.Empty<object>())).Status.ShouldBe(
            HttpStatusCode.OK
        );
        // What a screen shows of a measure in SQL is asked anew after an hour.
        product.Clock.Advance(NodaTime.Duration.FromHours(2));
        var gauge = (await runa.GetOk("gauges"))[0].GetProperty("id").GetInt64();
        (await runa.GetOk($"gauges/{gauge}"))
            .GetProperty("subjects")[0]
            .GetProperty("why")
            .GetString()!
            .ShouldStartWith("The question has no answer.");
    }

    private async Task LogAsync()
    {
        using var jonas = await product.SignInAsync("jonas");
        var key = await Channels.KeyAsync(jonas, await Channels.MakeAsync(jonas, "files"));
        await Channels.SendAsync(
            product,
            "files",
            key,
            Channels.Line("s1", "2026-06-15T07:00:00Z", "log.stop", "ann@tarn.example", "")
                + "\n"
                + Channels.Line("s2", "2026-06-15T07:01:00Z", "log.stop", "ann@tarn.example", "")
        );
    }

    [Theory]
    [InlineData(null, 0, false, "2 events; at most 0 expected")]
    [InlineData(null, 2, true, "2 events; at most 2 expected")]
    [InlineData(3, null, false, "2 events; at least 3 expected")]
    [InlineData(1, 2, true, "2 events; 1 to 2 expected")]
    public async Task A_query_over_events_is_right_within_its_bounds(int? least, int? most, bool right, string why)
    {
        await LogAsync();
        var subject = (
            await mikkel.PostOk("own-measures/trial", Count("events", "action = log.stop", least, most))
        ).GetProperty("subjects")[0];
        (subject.GetProperty("right").GetBoolean(), subject.GetProperty("why").GetString()).ShouldBe((right, why));
    }

    [Fact]
    public async Task A_count_opens_into_what_it_counted()
    {
        await LogAsync();
        (await mikkel.PostOk("own-measures/trial", Count("events", "action = log.stop", null, 0)))
            .GetProperty("subjects")[0]
            .GetProperty("link")
            .GetString()
            .ShouldBe("/activity/search?cql=action%20%3D%20log.stop&days=all");
    }

    [Fact]
    public async Task A_query_over_items_counts_what_its_writer_may_read()
    {
        product.Write("Fleet/plan.txt", "2026-01-01");
        await product.ScanAsync();
        using var jonas = await product.SignInAsync("jonas");
        (
            await Product.ChangePersonAsync(
                jonas,
                "mikkel",
                remits: new object[]
                {
                    new { role = "auditManager", unitId = product.Units["Tarn Lines"] },
                    new { role = "recordsManager", unitId = product.Units["Tarn Lines"] },
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        (await mikkel.PostOk("own-measures/trial", Count("items", "title = plan", 1, null)))
            .GetProperty("right")
            .GetInt32()
            .ShouldBe(1);
    }

    [Theory]
    [InlineData("items", "title = plan", null, 0, "not-allowed")]
    [InlineData("events", "action = ", null, 0, "query-malformed")]
    [InlineData("events", " ", null, 0, "query-missing")]
    [InlineData("events", "action = log.stop", null, null, "bounds-malformed")]
    [InlineData("events", "action = log.stop", 3, 2, "bounds-malformed")]
    public async Task A_count_that_means_nothing_is_refused(
        string over,
        string query,
        int? least,
        int? most,
        string problem
    ) => (await mikkel.Post("own-measures/trial", Count(over, query, least, most))).Problem.ShouldBe(problem);

    [Theory]
    [InlineData("SELECT account || role AS id, true AS ok FROM effective_access", 1)]
    [InlineData("SELECT granted_to AS id, true AS ok FROM access_grants", 1)]
    [InlineData("SELECT code AS id, applicable AS ok FROM controls", 0)]
    [InlineData("SELECT part AS id, passed AS ok FROM control_proofs", 0)]
    [InlineData("SELECT gauge AS id, true AS ok FROM gauge_days", 0)]
    [InlineData("SELECT code AS id, in_force_from IS NOT NULL AS ok FROM policies", 0)]
    [InlineData("SELECT policy || mail AS id, state = 'given' AS ok FROM policy_readers", 0)]
    [InlineData("SELECT id::VARCHAR AS id, true AS ok FROM alerts", 0)]
    [InlineData("SELECT name AS id, is_on AS ok FROM watches", 0)]
    public async Task Access_alerts_and_readiness_are_views(string sql, int rows) =>
        (await TriedAsync(sql)).ShouldBe(rows);

    [Fact]
    public async Task Who_may_not_read_access_has_no_view_of_it()
    {
        using var ines = await product.SignInAsync("ines");
        (await ines.Post("statements/answers", new { sql = "SELECT * FROM accounts" })).Status.ShouldBe(
            HttpStatusCode.Forbidden
        );
    }
}
