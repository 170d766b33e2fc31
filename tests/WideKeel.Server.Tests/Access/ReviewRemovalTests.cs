using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Server.Access;
using WideKeel.Server.People;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Access;

/// <summary>
/// What is decided on a line, and what is true of it afterwards: a removal is applied only where nobody is let in any more,
/// takes nothing from others unless that was chosen, and follows its person.
/// </summary>
public sealed class ReviewRemovalTests : IAsyncLifetime
{
    private const string Guest = "guest@yard.example";
    private const string Ann = "ann@tarn.example";
    private readonly Product product = new();
    private Api manager = null!;
    private ReviewRun run = null!;

    private StandInDirectory Outside => product.Services.GetRequiredService<OrganisationDirectory>().Outside;

    /// <summary>
    /// A guest is in the dock by a membership and by the yard; Ann has the library by the dock and by a link to everybody.
    /// </summary>
    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            new(
                [
                    new(Ann, "Ann", Unit: "Northern", Title: "Mate"),
                    new(Guest, "Gus", "guest", Title: "Guest", Sponsor: Ann),
                    new("ines@tarn.example", "Ines"),
                    new("vera@tarn.example", "Vera"),
                    new("gone@tarn.example", "Gone", Left: "2026-01-31"),
                ],
                [
                    new("Dock", "Dock", "ines@tarn.example", [Guest, Ann, "Yard"]),
                    new("Yard", "Yard", "ines@tarn.example", [Guest]),
                ],
                [
                    new(
                        "lib",
                        "Library",
                        "library",
                        null,
                        true,
                        "ines@tarn.example",
                        false,
                        false,
                        null,
                        [new("organisation", "editor", Ann), new("organisation", "owner", Ann, "2026-06-14")]
                    ),
                ],
                [new("Dock", "lib", "editor")],
                [new("Notes", "Notes", "Papirus", [new(Ann, ["all-files.read"], "2026-06-10")])]
            )
        );
        manager = await product.SignInAsync("mikkel");
        run = new(product, manager);
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        return product.DisposeAsync();
    }

    /// <summary>A review of the library, which its owner is asked about.</summary>
    private static object OfTheLibrary(
        string silence = "keep",
        bool links = false,
        string[]? applications = null,
        string[]? resources = null
    ) =>
        new
        {
            name = "The library",
            groups = Array.Empty<string>(),
            resources = resources ?? ["lib"],
            applications,
            links,
            people = "everybody",
            inactiveDays = 30,
            reviewer = "owner",
            named = Array.Empty<string>(),
            deputy = "vera@tarn.example",
            days = 10,
            start = "2026-06-15",
            recurrence = "",
            reasonsRequired = false,
            silence,
            applyItself = true,
            words = "",
        };

    private static object Link(string role = "editor") =>
        new
        {
            verb = "removeLink",
            who = "organisation",
            what = "lib",
            role,
        };

    private static object Member(string group, string who = Guest) =>
        new
        {
            verb = "removeMember",
            who,
            what = group,
        };

    private bool IsIn(string group) => Outside.Read().Groups.Single(g => g.Id == group).Members.Contains(Guest);

    private bool LinkStands => Outside.Read().Resources[0].Links.Any(l => l.Role == "editor");

    [Fact]
    public async Task A_removal_takes_every_way_that_concerns_the_person_alone()
    {
        await run.StartAsync(AccessTests.Review());
        (await run.AnswerAsync("remove")).Status.ShouldBe(HttpStatusCode.OK);
        await run.EndAsync();
        (IsIn("Dock"), IsIn("Yard"), (await run.OutcomeAsync()).Applied).ShouldBe((false, false, true));
    }

    [Fact]
    public async Task A_line_is_not_applied_while_its_person_is_still_in_by_another_way()
    {
        await run.StartAsync(AccessTests.Review());
        await run.AnswerAsync("remove", changes: new[] { Member("Dock") });
        await run.EndAsync();
        (await run.OutcomeAsync()).ShouldBe(
            (false, "Removed as decided; still reached by 1 other way: Gus → Yard → Dock.")
        );
    }

    [Fact]
    public async Task Before_the_decision_every_way_is_shown_with_what_takes_it()
    {
        await run.StartAsync(AccessTests.Review());
        var removal = await run.RemovalAsync();
        (
            removal.GetProperty("ways").GetInt32(),
            string.Join(
                "; ",
                removal.GetProperty("steps").EnumerateArray().Select(s => s.GetProperty("says").GetString())
            )
        ).ShouldBe((2, "leaves the group Dock; leaves the group Yard"));
    }

    [Fact]
    public async Task Before_the_decision_it_is_said_what_else_the_person_loses()
    {
        await run.StartAsync(AccessTests.Review());
        (await run.RemovalAsync())
            .GetProperty("costs")
            .EnumerateArray()
            .Select(c => c.GetString())
            .ShouldBe(["Library"]);
    }

    [Fact]
    public async Task The_end_of_a_link_says_whom_else_it_touches()
    {
        await run.StartAsync(OfTheLibrary());
        var link = (await run.RemovalAsync(Ann)).GetProperty("steps").EnumerateArray().Last();
        (link.GetProperty("others").GetInt32(), link.GetProperty("usual").GetBoolean()).ShouldBe((2, false));
    }

    [Fact]
    public async Task A_removal_does_not_take_the_access_of_everybody_by_itself()
    {
        await run.StartAsync(OfTheLibrary());
        await run.AnswerAsync("remove", "vera@tarn.example");
        await run.EndAsync();
        (LinkStands, (await run.OutcomeAsync("vera@tarn.example")).Failure).ShouldBe(
            (
                true,
                "Nothing that concerns this person alone takes it; still reached by 1 way: Vera → the organisation → Library."
            )
        );
    }

    [Fact]
    public async Task Silence_does_not_take_the_access_of_everybody()
    {
        await run.StartAsync(OfTheLibrary("remove"));
        await run.EndAsync();
        LinkStands.ShouldBeTrue();
    }

    [Fact]
    public async Task A_link_ends_where_that_was_chosen()
    {
        await run.StartAsync(OfTheLibrary());
        (await run.AnswerAsync("remove", Ann, new[] { Link(), Member("Dock", Ann) })).Status.ShouldBe(
            HttpStatusCode.OK
        );
        await run.EndAsync();
        (LinkStands, (await run.OutcomeAsync(Ann)).Applied).ShouldBe((false, true));
    }

    [Fact]
    public async Task A_line_about_a_link_ends_that_link()
    {
        await run.StartAsync(OfTheLibrary(links: true));
        (await run.AnswerAsync("remove", "organisation")).Status.ShouldBe(HttpStatusCode.OK);
        await run.EndAsync();
        (LinkStands, (await run.OutcomeAsync("organisation")).Applied).ShouldBe((false, true));
    }

    [Fact]
    public async Task A_line_about_a_consent_revokes_it()
    {
        await run.StartAsync(OfTheLibrary(resources: [], applications: ["Notes"]));
        await run.AnswerAsync("remove", Ann, reviewer: "vera@tarn.example");
        await run.EndAsync();
        (Outside.Read().Applications[0].Consents.Count, (await run.OutcomeAsync(Ann)).Applied).ShouldBe((0, true));
    }

    [Fact]
    public async Task A_review_of_an_application_that_is_not_there_is_refused() =>
        (await manager.Post("reviews", OfTheLibrary(resources: [], applications: ["Nothing"]))).Problem.ShouldBe(
            "application-unknown"
        );

    [Fact]
    public async Task A_link_that_has_ended_gives_nothing()
    {
        await run.StartAsync(OfTheLibrary());
        (await run.LineAsync(Ann)).GetProperty("roles").GetString().ShouldBe("editor");
    }

    [Fact]
    public async Task A_change_that_takes_no_way_of_the_line_is_refused()
    {
        await run.StartAsync(OfTheLibrary());
        (await run.AnswerAsync("remove", Ann, new[] { Link("owner") })).Problem.ShouldBe("ways-changed");
    }

    [Fact]
    public async Task A_removal_of_no_way_is_refused()
    {
        await run.StartAsync(OfTheLibrary());
        (await run.AnswerAsync("remove", Ann, Array.Empty<object>())).Problem.ShouldBe("changes-missing");
    }

    [Fact]
    public async Task Somebody_with_another_address_is_still_removed()
    {
        await run.StartAsync(AccessTests.Review());
        await run.AnswerAsync("remove");
        var state = Outside.Read();
        const string now = "gus@yard.example";
        await product.WriteDirectoryAsync(
            state with
            {
                People = [.. state.People.Select(p => p.Id == Guest ? p with { Id = now } : p)],
                Groups =
                [
                    .. state.Groups.Select(g => g with { Members = [.. g.Members.Select(m => m == Guest ? now : m)] }),
                ],
            }
        );
        await using (var db = product.Database())
        {
            await new AccessAddresses().FollowAsync(db, Guest, now, TestContext.Current.CancellationToken);
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        await run.EndAsync();
        ((await run.OutcomeAsync(now)).Applied, Outside.Read().Groups.Any(g => g.Members.Contains(now))).ShouldBe(
            (true, false)
        );
    }

    [Fact]
    public async Task A_leaver_keeps_no_grant_where_removal_was_decided()
    {
        var state = Outside.Read();
        await product.WriteDirectoryAsync(
            state with
            {
                Grants = [.. state.Grants, new("gone@tarn.example", "lib", "editor")],
                People =
                [
                    .. state.People.Select(p => p.Id == "gone@tarn.example" ? p with { Left = "2026-06-20" } : p),
                ],
            }
        );
        await run.StartAsync(OfTheLibrary());
        await run.AnswerAsync("remove", "gone@tarn.example");
        product.Clock.Advance(Duration.FromDays(6));
        await run.EndAsync();
        Outside.Read().Grants.Any(g => g.To == "gone@tarn.example").ShouldBeFalse();
    }

    [Theory]
    [InlineData("nobody@tarn.example", "reviewer-unknown")]
    [InlineData("gone@tarn.example", "reviewer-unknown")]
    [InlineData(Guest, "own-line")]
    public async Task Lines_are_handed_only_to_somebody_else_who_is_there(string to, string problem)
    {
        await run.StartAsync(AccessTests.Review());
        (
            await manager.Post($"reviews/{run.Review}/rounds/1/hand-over", new { from = "ines@tarn.example", to })
        ).Problem.ShouldBe(problem);
    }

    [Fact]
    public async Task Nobody_answers_on_their_own_access()
    {
        await run.StartAsync(AccessTests.Review());
        await using (var db = product.Database())
        {
            await db.ReviewLines.ExecuteUpdateAsync(
                l => l.SetProperty(x => x.Person, "ines@tarn.example"),
                TestContext.Current.CancellationToken
            );
        }

        (await run.AnswerAsync("keep", "ines@tarn.example")).Problem.ShouldBe("own-line");
    }

    [Fact]
    public async Task A_review_whose_last_word_is_the_persons_own_is_refused() =>
        (await manager.Post("reviews", AccessTests.Review(reviewer: "self"))).Problem.ShouldBe("self-last");

    [Fact]
    public async Task What_people_keep_of_their_own_decides_nothing()
    {
        await run.StartAsync(
            AccessTests.Review(
                reviewer: "self",
                silence: "remove",
                later:
                [
                    new
                    {
                        reviewer = "named",
                        named = new[] { "vera@tarn.example" },
                        days = 7,
                        seesFormer = true,
                    },
                ]
            )
        );
        (await run.AnswerAsync("keep", reviewer: Guest)).Status.ShouldBe(HttpStatusCode.OK);
        await manager.PostOk($"reviews/{run.Review}/rounds/1/next-stage", new { });
        await run.EndAsync();
        (await run.LineAsync()).GetProperty("decision").GetString().ShouldBe("remove");
    }

    [Fact]
    public async Task The_lines_of_a_reviewer_who_left_are_dealt_anew_in_the_morning()
    {
        await run.StartAsync(AccessTests.Review(reviewer: "named", named: ["vera@tarn.example"]));
        var state = Outside.Read();
        await product.WriteDirectoryAsync(
            state with
            {
                People =
                [
                    .. state.People.Select(p => p.Id == "vera@tarn.example" ? p with { Left = "2026-06-16" } : p),
                ],
            }
        );
        product.Clock.Advance(Duration.FromDays(1));
        await product.RunDayAsync();
        (await run.LineAsync()).GetProperty("reviewer").GetString().ShouldNotBe("vera@tarn.example");
    }

    private async Task<JsonElement> RoundAsync() =>
        (await manager.GetOk($"reviews/{run.Review}/rounds/1")).GetProperty("round");

    [Fact]
    public async Task A_retry_leaves_the_frozen_report_as_it_was()
    {
        await run.StartAsync(AccessTests.Review(silence: "remove"));
        Outside.FailNext(2);
        await run.EndAsync();
        var before = (await RoundAsync()).GetProperty("reportHash").GetString();
        await manager.PostOk($"reviews/{run.Review}/rounds/1/carrying-out", new { });
        (await RoundAsync()).GetProperty("reportHash").GetString().ShouldBe(before);
    }

    [Fact]
    public async Task What_a_retry_brought_is_an_addendum_that_names_the_report()
    {
        await run.StartAsync(AccessTests.Review(silence: "remove"));
        Outside.FailNext(2);
        await run.EndAsync();
        await manager.PostOk($"reviews/{run.Review}/rounds/1/carrying-out", new { });
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
        await run.StartAsync(AccessTests.Review());
        await run.AnswerAsync("remove", changes: new[] { Member("Dock") });
        await run.EndAsync();
        await manager.PostOk($"reviews/{run.Review}/rounds/1/carrying-out", new { });
        (await RoundAsync()).GetProperty("addenda").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task The_report_carries_the_way_of_each_line()
    {
        await run.StartAsync(AccessTests.Review());
        await run.EndAsync();
        (await manager.GetOk($"reviews/{run.Review}/rounds/1/report.json"))
            .GetProperty("lines")[0]
            .GetProperty("path")
            .EnumerateArray()
            .Select(p => p.GetString())
            .ShouldBe([Guest, "Dock"]);
    }
}
