using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Server.Access;

namespace WideKeel.Server.Tests.Access;

/// <summary>A line follows its person, nobody decides on their own access, and a frozen report stays as it is.</summary>
public sealed class ReviewCustodyTests : ReviewedProduct
{
    [Fact]
    public async Task Somebody_with_another_address_is_still_removed()
    {
        await Run.StartAsync(AccessTests.Review());
        await Run.AnswerAsync("remove");
        var state = Outside.Read();
        const string now = "gus@yard.example";
        await Product.WriteDirectoryAsync(
            state with
            {
                People = [.. state.People.Select(p => p.Id == Guest ? p with { Id = now } : p)],
                Groups =
                [
                    .. state.Groups.Select(g => g with { Members = [.. g.Members.Select(m => m == Guest ? now : m)] }),
                ],
            }
        );
        await using (var db = Product.Database())
        {
            await new AccessAddresses().FollowAsync(db, Guest, now, TestContext.Current.CancellationToken);
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        await Run.EndAsync();
        ((await Run.OutcomeAsync(now)).Applied, Outside.Read().Groups.Any(g => g.Members.Contains(now))).ShouldBe(
            (true, false)
        );
    }

    [Fact]
    public async Task A_leaver_keeps_no_grant_where_removal_was_decided()
    {
        var state = Outside.Read();
        await Product.WriteDirectoryAsync(
            state with
            {
                Grants = [.. state.Grants, new("gone@tarn.example", "lib", "editor")],
                People =
                [
                    .. state.People.Select(p => p.Id == "gone@tarn.example" ? p with { Left = "2026-06-20" } : p),
                ],
            }
        );
        await Run.StartAsync(OfTheLibrary());
        await Run.AnswerAsync("remove", "gone@tarn.example");
        Product.Clock.Advance(Duration.FromDays(6));
        await Run.EndAsync();
        Outside.Read().Grants.Any(g => g.To == "gone@tarn.example").ShouldBeFalse();
    }

    [Theory]
    [InlineData("nobody@tarn.example", "reviewer-unknown")]
    [InlineData("gone@tarn.example", "reviewer-unknown")]
    [InlineData(Guest, "own-line")]
    public async Task Lines_are_handed_only_to_somebody_else_who_is_there(string to, string problem)
    {
        await Run.StartAsync(AccessTests.Review());
        (
            await Manager.Post($"reviews/{Run.Review}/rounds/1/hand-over", new { from = "ines@tarn.example", to })
        ).Problem.ShouldBe(problem);
    }

    [Fact]
    public async Task Nobody_answers_on_their_own_access()
    {
        await Run.StartAsync(AccessTests.Review());
        await using (var db = Product.Database())
        {
            await db.ReviewLines.ExecuteUpdateAsync(
                l => l.SetProperty(x => x.Person, "ines@tarn.example"),
                TestContext.Current.CancellationToken
            );
        }

        (await Run.AnswerAsync("keep", "ines@tarn.example")).Problem.ShouldBe("own-line");
    }

    [Fact]
    public async Task A_review_whose_last_word_is_the_persons_own_is_refused() =>
        (await Manager.Post("reviews", AccessTests.Review(reviewer: "self"))).Problem.ShouldBe("self-last");

    [Fact]
    public async Task What_people_keep_of_their_own_decides_nothing()
    {
        await Run.StartAsync(AccessTests.Review(reviewer: "self", silence: "remove", later: [Vera]));
        (await Run.AnswerAsync("keep", reviewer: Guest)).Status.ShouldBe(HttpStatusCode.OK);
        await Manager.PostOk($"reviews/{Run.Review}/rounds/1/next-stage", new { });
        await Run.EndAsync();
        (await Run.LineAsync()).GetProperty("decision").GetString().ShouldBe("remove");
    }

    [Fact]
    public async Task The_lines_of_a_reviewer_who_left_are_dealt_anew_in_the_morning()
    {
        await Run.StartAsync(AccessTests.Review(reviewer: "named", named: ["vera@tarn.example"]));
        var state = Outside.Read();
        await Product.WriteDirectoryAsync(
            state with
            {
                People =
                [
                    .. state.People.Select(p => p.Id == "vera@tarn.example" ? p with { Left = "2026-06-16" } : p),
                ],
            }
        );
        Product.Clock.Advance(Duration.FromDays(1));
        await Product.RunDayAsync();
        (await Run.LineAsync()).GetProperty("reviewer").GetString().ShouldNotBe("vera@tarn.example");
    }

    private async Task<JsonElement> RoundAsync() =>
        (await Manager.GetOk($"reviews/{Run.Review}/rounds/1")).GetProperty("round");

    [Fact]
    public async Task A_retry_leaves_the_frozen_report_as_it_was()
    {
        await Run.StartAsync(AccessTests.Review(silence: "remove"));
        Outside.FailNext(2);
        await Run.EndAsync();
        var before = (await RoundAsync()).GetProperty("reportHash").GetString();
        await Manager.PostOk($"reviews/{Run.Review}/rounds/1/carrying-out", new { });
        (await RoundAsync()).GetProperty("reportHash").GetString().ShouldBe(before);
    }

    [Fact]
    public async Task What_a_retry_brought_is_an_addendum_that_names_the_report()
    {
        await Run.StartAsync(AccessTests.Review(silence: "remove"));
        Outside.FailNext(2);
        await Run.EndAsync();
        await Manager.PostOk($"reviews/{Run.Review}/rounds/1/carrying-out", new { });
        var round = await RoundAsync();
        var added = round.GetProperty("addenda").EnumerateArray().Single();
        (
            added.GetProperty("after").GetString(),
            added.GetProperty("lines")[0].GetProperty("applied").GetBoolean()
        ).ShouldBe((round.GetProperty("reportHash").GetString(), true));
    }

    [Fact]
    public async Task A_retry_that_brings_nothing_adds_nothing()
    {
        await Run.StartAsync(AccessTests.Review());
        await Run.AnswerAsync("remove", changes: new[] { Member("Dock") });
        await Run.EndAsync();
        await Manager.PostOk($"reviews/{Run.Review}/rounds/1/carrying-out", new { });
        (await RoundAsync()).GetProperty("addenda").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task The_report_carries_the_way_of_each_line()
    {
        await Run.StartAsync(AccessTests.Review());
        await Run.EndAsync();
        (await Manager.GetOk($"reviews/{Run.Review}/rounds/1/report.json"))
            .GetProperty("lines")[0]
            .GetProperty("path")
            .EnumerateArray()
            .Select(p => p.GetString())
            .ShouldBe([Guest, "Dock"]);
    }
}
