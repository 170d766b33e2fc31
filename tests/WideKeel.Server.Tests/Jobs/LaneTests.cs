using System.Net;
using System.Text.Json;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.AspNetCore.Routing;
using WideKeel.Server.Jobs;
using WideKeel.Store;

namespace WideKeel.Server.Tests.Jobs;

/// <summary>A lane whose job finds no room waits, says so to whoever looks after the server, and goes on.</summary>
public sealed class LaneTests : IAsyncLifetime
{
    private const int NoSpaceLeft = 28;

    private readonly Product product = new() { MoreParts = [new StallingPart()] };
    private Api jonas = null!;

    public async ValueTask InitializeAsync()
    {
        StallingJob.Room = false;
        await product.InitializeAsync();
        jonas = await product.SignInAsync("jonas");
        await jonas.PostOk("stall", new { });
    }

    public async ValueTask DisposeAsync()
    {
        jonas.Dispose();
        await product.DisposeAsync();
    }

    private Task<JsonElement> UntilAsync(string state) =>
        jonas.WaitForAsync("jobs", jobs => jobs[0].GetProperty("state").GetString() == state);

    /// <summary>The signal, once it says what is waited for.</summary>
    private async Task<Answer> HealthAsync(HttpStatusCode status)
    {
        for (var i = 0; i < 1_000; i++)
        {
            var answer = await jonas.Get("health");
            if (answer.Status == status)
            {
                return answer;
            }

            await Task.Delay(20, TestContext.Current.CancellationToken);
        }

        throw new TimeoutException($"The server's health never became {status}.");
    }

    [Fact]
    public async Task The_signal_says_which_lane_waits()
    {
        var answer = await HealthAsync(HttpStatusCode.ServiceUnavailable);
        answer.Body.GetProperty("troubles")[0].GetString().ShouldBe("Jobs of the lane “stalling” wait");
    }

    [Fact]
    public async Task Whoever_looks_after_the_server_finds_it_on_Today_with_its_cause()
    {
        await HealthAsync(HttpStatusCode.ServiceUnavailable);
        (await jonas.GetOk("today"))
            .GetProperty("duties")
            .EnumerateArray()
            .Select(d => d.GetProperty("why").GetString())
            .ShouldContain("The server's disk is full.");
    }

    [Fact]
    public async Task The_list_of_troubles_gives_the_cause_and_since_when()
    {
        await HealthAsync(HttpStatusCode.ServiceUnavailable);
        var trouble = (await jonas.GetOk("troubles"))[0];
        (trouble.GetProperty("why").GetString(), trouble.GetProperty("since").ValueKind).ShouldBe(
            ("The server's disk is full.", JsonValueKind.String)
        );
    }

    [Fact]
    public async Task Nobody_else_is_told_of_it_on_Today()
    {
        await HealthAsync(HttpStatusCode.ServiceUnavailable);
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("today"))
            .GetProperty("duties")
            .EnumerateArray()
            .Select(d => d.GetProperty("kind").GetString())
            .ShouldNotContain("trouble");
    }

    [Fact]
    public async Task The_job_is_not_given_up()
    {
        await HealthAsync(HttpStatusCode.ServiceUnavailable);
        await UntilAsync("running");
    }

    [Fact]
    public async Task The_job_is_done_and_the_signal_well_when_there_is_room()
    {
        await HealthAsync(HttpStatusCode.ServiceUnavailable);
        StallingJob.Room = true;
        await UntilAsync("done");
        (await HealthAsync(HttpStatusCode.OK)).Body.GetProperty("state").GetString().ShouldBe("well");
    }

    [Fact]
    public async Task Other_lanes_go_on_meanwhile()
    {
        product.Write("Fleet/log.md", "2015-01-01");
        await HealthAsync(HttpStatusCode.ServiceUnavailable);
        await jonas.PostOk("sources", new { name = "Share", root = product.Share });
        await jonas.WaitForAsync("sources", sources => sources[0].GetProperty("containers").EnumerateArray().Any());
    }

    private sealed class StallingPart : IPart
    {
        public string Name => "Stalling";

        public int Order => 500;

        public void MapRoutes(IEndpointRouteBuilder api) =>
            api.MapPost(
                    "/stall",
                    async (Writer writer) =>
                    {
                        await writer.RunAsync(
                            new("test"),
                            session => JobBoard.AddAsync(session, StallingJob.JobKind, 0, "Stalling", null, "test")
                        );
                        return Results.Ok();
                    }
                )
                .RequiresSignIn();
    }

    private sealed class StallingJob : IJob
    {
        public static readonly JobKind JobKind = new("stalling", Lane: "stalling");

        /// <summary>Of the one test that runs: those of a class run one after the other.</summary>
        public static bool Room { get; set; }

        public JobKind Kind => JobKind;

        public Task<string> RunAsync(JobRun run, CancellationToken cancel) =>
            Room ? Task.FromResult("Done.") : throw new IOException("No space left on device", NoSpaceLeft);
    }
}
