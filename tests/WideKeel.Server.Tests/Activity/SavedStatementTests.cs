using System.Net;
using System.Text.Json;
using NodaTime;
using WideKeel.Server.Activity;
using WideKeel.Server.Jobs;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Tests.Activity;

/// <summary>Statements that are kept, with typed parameters, and asked again by themselves.</summary>
public sealed class SavedStatementTests : IAsyncLifetime
{
    private const string Deletions = "SELECT id, object FROM events WHERE action = 'file.delete' ORDER BY id";
    private readonly Product product = new();
    private Api admin = null!;
    private Api analyst = null!;
    private string key = "";

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        admin = await product.SignInAsync("jonas");
        analyst = await product.SignInAsync("sunniva");
        key = await Channels.KeyAsync(admin, await Channels.MakeAsync(admin, "gateway"));
        await DeleteAsync("d1");
    }

    public async ValueTask DisposeAsync()
    {
        admin.Dispose();
        analyst.Dispose();
        await product.DisposeAsync();
    }

    private Task<Answer> DeleteAsync(params string[] ids) =>
        Channels.SendAsync(
            product,
            "gateway",
            key,
            string.Join(
                '\n',
                ids.Select(id =>
                    Channels.Line(id, "2026-06-14T08:00:00Z", "file.delete", rest: $",\"object\":\"o-{id}\"")
                )
            )
        );

    private async Task<long> KeepAsync(string sql = Deletions, object[]? parameters = null, int? days = null)
    {
        await analyst.PostOk(
            "statements",
            new
            {
                name = "Deletions",
                sql,
                parameters,
                days,
            }
        );
        return (await OwnAsync()).GetProperty("id").GetInt64();
    }

    private async Task<JsonElement> OwnAsync() => (await analyst.GetOk("statements")).GetProperty("own")[0];

    private async Task<long> ScheduleAsync(string rhythm = "daily")
    {
        var id = await KeepAsync();
        (await analyst.Put($"statements/{id}/schedule", new { rhythm })).Status.ShouldBe(HttpStatusCode.OK);
        return id;
    }

    private async Task NextDayAsync(int days = 1)
    {
        product.Clock.Advance(Duration.FromDays(days));
        await product.RunDayAsync();
        await admin.WaitForJobsAsync();
    }

    private string[] Messages()
    {
        using var db = product.Database();
        return [.. db.Messages.Where(m => m.Kind.StartsWith("statement")).OrderBy(m => m.Id).Select(m => m.Subject)];
    }

    private async Task<JsonElement> AskAsync(string sql, params object[] parameters) =>
        (await analyst.PostOk("statements/answers", new { sql, parameters })).GetProperty("rows");

    [Theory]
    [InlineData("text", "d1", "SELECT count(*) FROM events WHERE id = $x")]
    [InlineData("day", "2026-06-14", "SELECT count(*) FROM events WHERE time::DATE = $x")]
    [InlineData("moment", "2026-06-14T07:59:59Z", "SELECT count(*) FROM events WHERE time > $x")]
    [InlineData("number", "0.5", "SELECT count(*) FROM events WHERE 1 > $x")]
    public async Task A_parameter_has_its_type_without_a_cast(string type, string value, string sql) => (
            await AskAsync(
                sql,
                new
                {
                    name = "x",
                    type,
                    value,
                }
            )
        )[0][0].GetInt64().ShouldBe(1);

    [Theory]
    [InlineData("day", "14 June")]
    [InlineData("moment", "2026-06-14")]
    [InlineData("number", "a few")]
    public async Task A_value_of_another_type_is_refused_by_the_parameter_s_name(string type, string value) =>
        (
            await analyst.Post(
                "statements/answers",
                new
                {
                    sql = "SELECT $x",
                    parameters = new[]
                    {
                        new
                        {
                            name = "x",
                            type,
                            value,
                        },
                    },
                }
            )
        ).Text!.ShouldContain("$x");

    [Fact]
    public async Task An_empty_parameter_is_null() => (
            await AskAsync(
                "SELECT $x IS NULL",
                new
                {
                    name = "x",
                    type = "text",
                    value = "",
                }
            )
        )[0][0].GetBoolean().ShouldBeTrue();

    [Fact]
    public async Task Parameters_that_a_statement_does_not_name_are_left_out() => (
            await AskAsync(
                "SELECT '$x'",
                new
                {
                    name = "x",
                    type = "text",
                    value = "1",
                }
            )
        )[0][0].GetString().ShouldBe("$x");

    [Fact]
    public async Task A_statement_is_kept_with_its_parameters_and_its_span()
    {
        await KeepAsync(
            "SELECT $who",
            [
                new
                {
                    name = "who",
                    type = "text",
                    value = "p1",
                },
            ],
            days: 7
        );
        var own = await OwnAsync();
        own.GetProperty("parameters")[0].GetProperty("value").GetString().ShouldBe("p1");
        own.GetProperty("days").GetInt32().ShouldBe(7);
    }

    [Fact]
    public async Task What_was_there_when_it_was_scheduled_is_not_new()
    {
        await ScheduleAsync();
        await NextDayAsync();
        Messages().ShouldBeEmpty();
    }

    [Fact]
    public async Task What_is_new_since_the_last_run_comes_by_message()
    {
        await ScheduleAsync();
        await DeleteAsync("d2", "d3");
        await NextDayAsync();
        Messages().ShouldBe(["2 new rows: Deletions"]);
    }

    [Fact]
    public async Task No_row_is_new_twice()
    {
        await ScheduleAsync();
        await DeleteAsync("d2");
        await NextDayAsync();
        await NextDayAsync();
        Messages().Length.ShouldBe(1);
    }

    [Fact]
    public async Task A_weekly_statement_waits_for_its_week()
    {
        await ScheduleAsync("weekly");
        await DeleteAsync("d2");
        await NextDayAsync(6);
        Messages().ShouldBeEmpty();
        await NextDayAsync();
        Messages().Length.ShouldBe(1);
    }

    [Theory]
    [InlineData(StatementRhythm.Daily, "2026-02-01")]
    [InlineData(StatementRhythm.Weekly, "2026-02-07")]
    [InlineData(StatementRhythm.Monthly, "2026-02-28")]
    public void Each_rhythm_has_its_next_day(StatementRhythm rhythm, string next) =>
        StatementJob.Next(rhythm, new(2026, 1, 31)).ToString("uuuu-MM-dd", null).ShouldBe(next);

    [Fact]
    public async Task The_span_of_a_kept_statement_moves_with_the_day()
    {
        var id = await KeepAsync(
            "SELECT id FROM events WHERE time >= $from AND time < $before AND action = 'file.delete'",
            days: 2
        );
        await analyst.Put($"statements/{id}/schedule", new { rhythm = "daily" });
        await NextDayAsync(5);
        (await OwnAsync()).GetProperty("lastSaid").GetString().ShouldBe("0 new rows of 0.");
    }

    [Fact]
    public async Task Who_may_read_no_activity_any_more_gets_a_reason_and_no_rows()
    {
        await ScheduleAsync();
        await DeleteAsync("d2");
        (await Product.ChangePersonAsync(admin, "sunniva", remits: Array.Empty<object>())).Status.ShouldBe(
            HttpStatusCode.OK
        );
        await NextDayAsync();
        using var db = product.Database();
        db.Statements.Single().LastSaid.ShouldStartWith("No view events exists");
    }

    [Fact]
    public async Task A_statement_that_goes_on_failing_says_so_once()
    {
        var id = await ScheduleAsync();
        using (var db = product.Database())
        {
            db.Statements.Single(s => s.Id == id).Sql = "SELECT error('broken') FROM events";
            db.SaveChanges();
        }

        await NextDayAsync();
        await NextDayAsync();
        Messages().ShouldBe(["No answer: Deletions"]);
    }

    [Fact]
    public async Task A_statement_without_an_answer_is_not_scheduled()
    {
        var id = await KeepAsync("SELECT nothing FROM events");
        (await analyst.Put($"statements/{id}/schedule", new { rhythm = "daily" })).Problem.ShouldBe("statement-failed");
    }

    [Fact]
    public async Task A_scheduled_statement_does_not_become_another_under_its_name()
    {
        await ScheduleAsync();
        (await analyst.Post("statements", new { name = "Deletions", sql = "SELECT 1" })).Problem.ShouldBe(
            "statement-scheduled"
        );
    }

    [Fact]
    public async Task The_span_of_a_scheduled_statement_stays()
    {
        await ScheduleAsync();
        (
            await analyst.Post(
                "statements",
                new
                {
                    name = "Deletions",
                    sql = Deletions,
                    days = 400,
                }
            )
        ).Problem.ShouldBe("statement-scheduled");
    }

    [Fact]
    public async Task A_schedule_ends_when_its_person_says_so()
    {
        var id = await ScheduleAsync();
        await analyst.Put($"statements/{id}/schedule", new { rhythm = (string?)null });
        await DeleteAsync("d2");
        await NextDayAsync();
        Messages().ShouldBeEmpty();
    }

    [Fact]
    public async Task Nobody_schedules_a_statement_of_somebody_else()
    {
        var id = await KeepAsync();
        using var mikkel = await product.SignInAsync("mikkel");
        (await mikkel.Put($"statements/{id}/schedule", new { rhythm = "daily" })).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }
}
