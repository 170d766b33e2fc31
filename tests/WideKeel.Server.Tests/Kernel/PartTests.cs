using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Server.Jobs;

namespace WideKeel.Server.Tests.Kernel;

/// <summary>A part that no list of the product names is a part all the same.</summary>
public sealed class PartTests : IAsyncLifetime
{
    private readonly Product product = new() { MoreParts = [new ToyPart()] };
    private Api ines = null!;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        ines = await product.SignInAsync("ines");
    }

    public async ValueTask DisposeAsync()
    {
        ines.Dispose();
        await product.DisposeAsync();
    }

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task Its_route_answers() => (await ines.GetOk("toy")).GetProperty("ok").GetBoolean().ShouldBeTrue();

    [Fact]
    public async Task Its_duty_stands_on_Today() =>
        (await ines.GetOk("today"))
            .GetProperty("duties")
            .EnumerateArray()
            .Select(d => d.GetProperty("title").GetString())
            .ShouldContain("Wind up the toy");

    [Fact]
    public async Task Its_duty_counts_in_the_masthead() =>
        (await ines.GetOk("duties/count"))
            .GetProperty("duties")
            .GetInt32()
            .ShouldBe((await ines.GetOk("today")).GetProperty("duties").GetArrayLength());

    [Fact]
    public async Task Its_duty_with_a_day_stands_in_the_calendar_feed()
    {
        var path = (await ines.PostOk("calendar-feed", new { })).GetProperty("path").GetString()!;
        (await ines.Get(path["/api/".Length..])).Text!.ShouldContain("SUMMARY:Wind up the toy");
    }

    [Fact]
    public async Task What_it_finds_is_found() =>
        (await ines.GetOk("find?q=clockwork"))
            .EnumerateArray()
            .Select(h => h.GetProperty("title").GetString())
            .ShouldContain("The clockwork boat");

    [Fact]
    public async Task The_daily_run_asks_it_and_its_job_is_done()
    {
        product.Clock.Advance(Duration.FromDays(1));
        var deadline = DateTime.UtcNow.AddSeconds(40);
        while (DateTime.UtcNow < deadline)
        {
            await using var db = product.Database();
            if (await db.Jobs.AnyAsync(j => j.Kind == "toy" && j.Message == "Wound up.", Stop))
            {
                return;
            }

            await Task.Delay(100, Stop);
        }

        throw new TimeoutException("The toy's job was not done.");
    }

    private sealed class ToyPart : IPart
    {
        public string Name => "Toy";

        public int Order => 500;

        public void MapRoutes(IEndpointRouteBuilder api) =>
            api.MapGet("/toy", () => Results.Json(new { ok = true })).RequiresSignIn();
    }

    private sealed class ToyJob : IJob
    {
        public static readonly JobKind JobKind = new("toy", Lane: "toys");

        public JobKind Kind => JobKind;

        public Task<string> RunAsync(JobRun run, CancellationToken cancel) => Task.FromResult("Wound up.");
    }

    private sealed class DailyToy : IDailyTask
    {
        public Task RunAsync(DailyQuestion asked) =>
            JobBoard.AddAsync(asked.Session, ToyJob.JobKind, 0, "Winding up", null, DailyRun.Asker);
    }

    private sealed class ToyDuties : IDutySource
    {
        public Task<IReadOnlyList<Duty>> OfAsync(DutyQuestion asked) =>
            Task.FromResult<IReadOnlyList<Duty>>([
                new("toy", "toy", "Wind up the toy", "It stands still", asked.Today, "today", "Wind", "/toy", false),
            ]);
    }

    private sealed class ToyFindSource : IFindSource
    {
        public Task<IReadOnlyList<FindHit>> FindAsync(FindQuestion asked) =>
            Task.FromResult<IReadOnlyList<FindHit>>(
                asked.Fits("The clockwork boat") ? [new("toy", "The clockwork boat", "Toy", "/toy")] : []
            );
    }
}
