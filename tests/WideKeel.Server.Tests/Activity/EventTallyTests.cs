using System.Globalization;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Query;
using WideKeel.Server.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Tests.Activity;

/// <summary>Figures that are kept beside the events say the same as the events.</summary>
public sealed class EventTallyTests : IAsyncLifetime
{
    private readonly Product product = new();
    private readonly CancellationToken stop = TestContext.Current.CancellationToken;
    private readonly Random random = new(29);
    private Api admin = null!;
    private Api analyst = null!;
    private string key = "";

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
        analyst = await product.SignInAsync("sunniva");
        var channel = await Channels.MakeAsync(
            admin,
            "gateway",
            settings: new
            {
                title = "A log",
                format = "json",
                retention = "P100Y",
                daysAtHand = 4,
                openToAnalysts = true,
                readers = Array.Empty<long>(),
            }
        );
        key = await Channels.KeyAsync(admin, channel);
    }

    public async ValueTask DisposeAsync()
    {
        admin.Dispose();
        analyst.Dispose();
        await product.DisposeAsync();
    }

    private string Moment(double daysAgo) =>
        InstantPattern.ExtendedIso.Format(product.Clock.GetCurrentInstant() - Duration.FromDays(daysAgo));

    /// <summary>Sends events of the last six days, some of them twice.</summary>
    private async Task SendAsync(int first, int count)
    {
        string[] people = ["pia@tarn.example", "maren@tarn.example", "svc-backup"];
        string[] outcomes =
        [
            "",
            ",\"outcome\":\"success\"",
            ",\"outcome\":\"failure\"",
            ",\"outcome\":\"interrupted\"",
        ];
        var lines = Enumerable
            .Range(first, count)
            .Select(i =>
                Channels.Line(
                    $"e{i}",
                    Moment(random.NextDouble() * 6),
                    random.Next(3) == 0 ? "file.delete" : "file.read",
                    people[random.Next(people.Length)],
                    $",\"container\":\"c{random.Next(4)}\"{outcomes[random.Next(outcomes.Length)]}"
                )
            );
        (await Channels.SendAsync(product, "gateway", key, string.Join('\n', lines))).Status.ShouldBe(
            System.Net.HttpStatusCode.OK
        );
    }

    private async Task SealAsync()
    {
        await admin.PostOk("channels/seal", new { });
        await admin.WaitForJobsAsync();
    }

    private List<string> Rows(string sql)
    {
        using var connection = new SqliteConnection(
            $"Data Source={Path.Combine(product.Data, "widekeel.db")};Mode=ReadOnly;Pooling=False"
        );
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        using var reader = command.ExecuteReader();
        List<string> rows = [];
        while (reader.Read())
        {
            rows.Add(string.Join(' ', Enumerable.Range(0, reader.FieldCount).Select(reader.GetInt64)));
        }

        return rows;
    }

    [Fact]
    public async Task The_newest_events_are_met_in_the_order_of_time_and_not_sorted()
    {
        await using var db = product.Database();
        await db.Database.OpenConnectionAsync(stop);
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var access = new ChannelAccess(await db.Channels.ToListAsync(stop), null);
        var question = EventQuestion.Of(connection, access, new Condition.Everything()).Value;
        using var command = connection.CreateCommand();
        command.CommandText =
            $"EXPLAIN QUERY PLAN SELECT e.Id FROM activity_event e WHERE {question.Where} {EventEndpoints.NewestFirst}";
        question.Bind(command);
        using var reader = command.ExecuteReader();
        List<string> steps = [];
        while (reader.Read())
        {
            steps.Add(reader.GetString(3));
        }

        steps.ShouldContain(s => s.Contains(EventSql.ByTime));
        steps.ShouldNotContain(s => s.Contains("TEMP B-TREE"));
    }

    private async Task ComeAndGoAsync()
    {
        await SendAsync(0, 60);
        await SealAsync();
        await SendAsync(40, 60);
        product.Clock.Advance(Duration.FromDays(2));
        await SealAsync();
        await SendAsync(100, 30);
    }

    [Fact]
    public async Task The_counts_of_days_are_those_of_the_rows_whatever_came_and_went()
    {
        await ComeAndGoAsync();
        var byRow = EventCounts.Columns.Select(c =>
            $"""
                SELECT ChannelId, {EventCounts.Floor("Time", EventCounts.DayMilliseconds)}, UnitId, {EventSql.ColumnOf(
                    c
                )} AS V, COUNT(*)
                FROM activity_event e WHERE V IS NOT NULL GROUP BY 1, 2, 3, 4
                """
        );
        Rows("SELECT * FROM activity_day_count ORDER BY 1, 2, 3, 4")
            .ShouldBe(Rows($"{string.Join(" UNION ALL ", byRow)} ORDER BY 1, 2, 3, 4"));
    }

    [Fact]
    public async Task The_counts_of_hours_are_those_of_the_rows_whatever_came_and_went()
    {
        await ComeAndGoAsync();
        Rows("SELECT * FROM activity_hour_count ORDER BY 1, 2, 3, 4")
            .ShouldBe(
                Rows(
                    $"""
                    SELECT ChannelId, {EventCounts.Floor("Time", EventCounts.HourMilliseconds)}, UnitId,
                        COALESCE(Outcome, 0), COUNT(*)
                    FROM activity_event GROUP BY 1, 2, 3, 4 ORDER BY 1, 2, 3, 4
                    """
                )
            );
    }

    [Fact]
    public async Task Rows_of_sealed_days_go_when_they_are_no_longer_at_hand()
    {
        await ComeAndGoAsync();
        Rows("SELECT COUNT(*) FROM activity_event")[0].ShouldNotBe("130");
    }

    /// <summary>The figures of a span, and of the same asked in words for which each event is looked at.</summary>
    private async Task<(string Kept, string Looked)> BothAsync(string path, string span)
    {
        var kept = await analyst.GetOk($"{path}?{span}");
        var looked = await analyst.GetOk($"{path}?{span}&query={Uri.EscapeDataString("action = *")}");
        return (Figures(kept), Figures(looked));

        static string Figures(JsonElement answer) =>
            answer.ValueKind == JsonValueKind.Object && answer.TryGetProperty("total", out var total)
                ? total.GetRawText()
                : answer.GetRawText();
    }

    [Theory]
    [InlineData("events")]
    [InlineData("events/facets")]
    [InlineData("events/histogram")]
    public async Task A_span_has_the_figures_of_its_events_wherever_it_begins_and_ends(string path)
    {
        await SendAsync(0, 200);
        for (var i = 0; i < 12; i++)
        {
            var (a, b) = (random.NextDouble() * 6.5, random.NextDouble() * 6.5);
            var span = $"from={Moment(Math.Max(a, b))}&before={Moment(Math.Min(a, b))}";
            var (kept, looked) = await BothAsync(path, i == 0 ? "" : span);
            kept.ShouldBe(looked, span);
        }
    }

    [Fact]
    public async Task The_figures_of_a_unit_leave_out_the_events_of_others()
    {
        await SendAsync(0, 40);
        await product.AddPersonAsync(admin, "other", "securityAnalyst", "Fleet");
        using var other = await product.SignInAsync("other");
        (await other.GetOk("events/facets"))
            .EnumerateArray()
            .Sum(f => f.GetProperty("values").GetArrayLength())
            .ShouldBe(0);
    }

    [Fact]
    public async Task An_event_from_before_1970_is_sealed_under_its_own_day()
    {
        await Channels.SendAsync(product, "gateway", key, Channels.Line("old", "1961-03-02T10:00:00Z", "file.read"));
        await SealAsync();
        File.Exists(Path.Combine(product.Data, "archive", "gateway", "day=1961-03-02", "0.parquet")).ShouldBeTrue();
    }
}
