using System.Net;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.Access;

/// <summary>
/// What a removal takes: every way that concerns the person alone, nothing from others unless that was chosen; and when it is
/// applied.
/// </summary>
public sealed class ReviewRemovalTests : ReviewedProduct
{
    private bool IsIn(string group) => Outside.Read().Groups.Single(g => g.Id == group).Members.Contains(Guest);

    private bool LinkStands => Outside.Read().Resources[0].Links.Any(l => l.Role == "editor");

    [Fact]
    public async Task A_removal_takes_every_way_that_concerns_the_person_alone()
    {
        await Run.StartAsync(AccessTests.Review());
        (await Run.AnswerAsync("remove")).Status.ShouldBe(HttpStatusCode.OK);
        await Run.EndAsync();
        (IsIn("Dock"), IsIn("Yard"), (await Run.OutcomeAsync()).Applied).ShouldBe((false, false, true));
    }

    [Fact]
    public async Task A_line_is_not_applied_while_its_person_is_still_in_by_another_way()
    {
        await Run.StartAsync(AccessTests.Review());
        await Run.AnswerAsync("remove", changes: new[] { Member("Dock") });
        await Run.EndAsync();
        (await Run.OutcomeAsync()).ShouldBe(
            (false, "Removed as decided; still reached by 1 other way: Gus → Yard → Dock.")
        );
    }

    [Fact]
    public async Task Before_the_decision_every_way_is_shown_with_what_takes_it()
    {
        await Run.StartAsync(AccessTests.Review());
        var removal = await Run.RemovalAsync();
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
        await Run.StartAsync(AccessTests.Review());
        (await Run.RemovalAsync())
            .GetProperty("costs")
            .EnumerateArray()
            .Select(c => c.GetString())
            .ShouldBe(["Library"]);
    }

    [Fact]
    public async Task The_end_of_a_link_says_whom_else_it_touches()
    {
        await Run.StartAsync(OfTheLibrary());
        var link = (await Run.RemovalAsync(Ann)).GetProperty("steps").EnumerateArray().Last();
        (link.GetProperty("others").GetInt32(), link.GetProperty("usual").GetBoolean()).ShouldBe((2, false));
    }

    [Fact]
    public async Task A_removal_does_not_take_the_access_of_everybody_by_itself()
    {
        await Run.StartAsync(OfTheLibrary());
        await Run.AnswerAsync("remove", "vera@tarn.example");
        await Run.EndAsync();
        (LinkStands, (await Run.OutcomeAsync("vera@tarn.example")).Failure).ShouldBe(
            (
                true,
                "Nothing that concerns this person alone takes it; still reached by 1 way: Vera → the organisation → Library."
            )
        );
    }

    [Fact]
    public async Task Silence_does_not_take_the_access_of_everybody()
    {
        await Run.StartAsync(OfTheLibrary("remove"));
        await Run.EndAsync();
        LinkStands.ShouldBeTrue();
    }

    [Fact]
    public async Task A_link_ends_where_that_was_chosen()
    {
        await Run.StartAsync(OfTheLibrary());
        (await Run.AnswerAsync("remove", Ann, new[] { Link(), Member("Dock", Ann) })).Status.ShouldBe(
            HttpStatusCode.OK
        );
        await Run.EndAsync();
        (LinkStands, (await Run.OutcomeAsync(Ann)).Applied).ShouldBe((false, true));
    }

    [Fact]
    public async Task A_line_about_a_link_ends_that_link()
    {
        await Run.StartAsync(OfTheLibrary(links: true));
        (await Run.AnswerAsync("remove", "organisation")).Status.ShouldBe(HttpStatusCode.OK);
        await Run.EndAsync();
        (LinkStands, (await Run.OutcomeAsync("organisation")).Applied).ShouldBe((false, true));
    }

    [Fact]
    public async Task A_line_about_a_consent_revokes_it()
    {
        await Run.StartAsync(OfTheLibrary(resources: [], applications: ["Notes"]));
        await Run.AnswerAsync("remove", Ann, reviewer: "vera@tarn.example");
        await Run.EndAsync();
        (Outside.Read().Applications[0].Consents.Count, (await Run.OutcomeAsync(Ann)).Applied).ShouldBe((0, true));
    }

    [Fact]
    public async Task A_review_of_an_application_that_is_not_there_is_refused() =>
        (await Manager.Post("reviews", OfTheLibrary(resources: [], applications: ["Nothing"]))).Problem.ShouldBe(
            "application-unknown"
        );

    [Fact]
    public async Task A_review_of_a_role_that_nobody_has_is_refused() =>
        (await Manager.Post("reviews", OfTheLibrary(roles: ["captain"]))).Problem.ShouldBe("role-unknown");

    [Fact]
    public async Task What_a_former_stage_chose_is_carried_out_where_the_last_one_cannot_say()
    {
        await Run.StartAsync(AccessTests.Review(later: [Vera]));
        await Run.AnswerAsync("remove", changes: new[] { Member("Dock") });
        await Manager.PostOk($"reviews/{Run.Review}/rounds/1/next-stage", new { });
        await Run.AnswerAsync("cannotSay", reviewer: "vera@tarn.example");
        await Run.EndAsync();
        (IsIn("Dock"), IsIn("Yard")).ShouldBe((false, true));
    }

    [Fact]
    public async Task Of_several_changes_the_one_that_failed_is_named()
    {
        await Run.StartAsync(AccessTests.Review());
        await Run.AnswerAsync("remove");
        Outside.FailNext(1);
        await Run.EndAsync();
        (await Run.OutcomeAsync()).Failure.ShouldBe("The directory does not answer.");
    }

    [Fact]
    public async Task What_was_applied_stays_so_though_it_is_granted_again()
    {
        var state = Outside.Read();
        await Product.WriteDirectoryAsync(
            state with
            {
                People = [.. state.People, new("two@yard.example", "Two", "guest")],
                Groups = [state.Groups[0] with { Members = [Guest, "two@yard.example"] }, state.Groups[1]],
            }
        );
        await Run.StartAsync(AccessTests.Review());
        await Run.AnswerAsync("remove");
        await Run.AnswerAsync("remove", "two@yard.example");
        await Run.EndAsync();
        await Manager.PostOk(
            "access/changes",
            new
            {
                verb = "addMember",
                who = Guest,
                what = "Dock",
            }
        );
        await Manager.PostOk($"reviews/{Run.Review}/rounds/1/carrying-out", new { });
        (await Run.OutcomeAsync()).Applied.ShouldBeTrue();
    }

    [Fact]
    public async Task A_link_that_has_ended_gives_nothing()
    {
        await Run.StartAsync(OfTheLibrary());
        (await Run.LineAsync(Ann)).GetProperty("roles").GetString().ShouldBe("editor");
    }

    [Fact]
    public async Task A_change_that_takes_no_way_of_the_line_is_refused()
    {
        await Run.StartAsync(OfTheLibrary());
        (await Run.AnswerAsync("remove", Ann, new[] { Link("owner") })).Problem.ShouldBe("ways-changed");
    }

    [Fact]
    public async Task A_removal_of_no_way_is_refused()
    {
        await Run.StartAsync(OfTheLibrary());
        (await Run.AnswerAsync("remove", Ann, Array.Empty<object>())).Problem.ShouldBe("changes-missing");
    }
}
