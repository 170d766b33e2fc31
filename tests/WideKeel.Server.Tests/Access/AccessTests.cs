using System.Net;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Access;

/// <summary>Access over a small directory: asked, changed after its consequences, mended, reviewed.</summary>
public sealed class AccessTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api manager = null!;

    private StandInDirectory Outside => product.Services.GetRequiredService<OrganisationDirectory>().Outside;

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            new(
                [
                    new("ann@tarn.example", "Ann", Unit: "Northern", Title: "Mate"),
                    new("guest@yard.example", "Gus", "guest", Title: "Guest", Sponsor: "ann@tarn.example"),
                    new("gone@tarn.example", "Gone", Unit: "Northern", Left: "2026-01-31"),
                    new("ines@tarn.example", "Ines"),
                    new("vera@tarn.example", "Vera"),
                ],
                [
                    new("Crew", "Crew", "ines@tarn.example", ["ann@tarn.example", "gone@tarn.example"]),
                    new("Dock", "Dock", "ines@tarn.example", ["guest@yard.example", "ann@tarn.example"]),
                ],
                [
                    new("lib", "Library", "library", null, true, "ines@tarn.example", false, false, null, []),
                    new(
                        "lib/plans",
                        "Plans",
                        "library",
                        "lib",
                        true,
                        null,
                        false,
                        true,
                        null,
                        [new("anyone", "reader", "ann@tarn.example")]
                    ),
                ],
                [new("Crew", "lib", "editor")],
                [new("Notes", "Notes", "Papirus", [new("organisation", ["all-files.read"], "2026-06-10")])]
            )
        );
        manager = await product.SignInAsync("mikkel");
    }

    public ValueTask DisposeAsync()
    {
        manager.Dispose();
        return product.DisposeAsync();
    }

    private static readonly object AddGuest = new
    {
        verb = "addMember",
        who = "guest@yard.example",
        what = "Crew",
        reason = "Helps out",
    };

    [Fact]
    public async Task A_person_reaches_what_their_groups_give() =>
        (await manager.GetOk("access/reach?person=ann@tarn.example")).GetProperty("reach").GetArrayLength().ShouldBe(2);

    private async Task<IEnumerable<string?>> FoundAsync(Api who, string words) =>
        (await who.GetOk($"find?q={words}")).EnumerateArray().Select(h => h.GetProperty("link").GetString());

    [Theory]
    [InlineData("Ann", "/access?person=ann%40tarn.example")]
    [InlineData("Crew", "/access?group=Crew")]
    [InlineData("Plans", "/access?resource=lib%2Fplans")]
    public async Task What_stands_in_the_directory_is_found(string words, string link) =>
        (await FoundAsync(manager, words)).ShouldContain(link);

    [Fact]
    public async Task Who_may_not_read_access_finds_nobody_of_the_directory()
    {
        using var pia = await product.SignInAsync("pia");
        (await FoundAsync(pia, "Crew")).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_place_lists_anyone_where_a_link_is_open() =>
        (await manager.GetOk("access/reach?resource=lib/plans"))
            .GetProperty("reach")
            .EnumerateArray()
            .ShouldContain(r => r.GetProperty("person").GetString() == "anyone");

    [Fact]
    public async Task Before_a_guest_is_added_the_sensitive_places_are_counted() =>
        (await manager.PostOk("access/consequences", AddGuest)).GetProperty("sensitive").GetInt32().ShouldBe(1);

    [Fact]
    public async Task Asking_for_consequences_changes_nothing()
    {
        await manager.PostOk("access/consequences", AddGuest);
        Outside.Read().Groups[0].Members.ShouldNotContain("guest@yard.example");
    }

    [Fact]
    public async Task A_change_is_seen_in_the_directory()
    {
        (await manager.PostOk("access/changes", AddGuest)).GetProperty("verified").GetBoolean().ShouldBeTrue();
        Outside.Read().Groups[0].Members.ShouldContain("guest@yard.example");
    }

    [Fact]
    public async Task A_change_is_an_entry_of_the_ledger()
    {
        await manager.PostOk("access/changes", AddGuest);
        (await manager.GetOk("ledger?kind=account")).GetRawText().ShouldContain("Helps out");
    }

    [Fact]
    public async Task A_directory_that_does_not_answer_refuses_the_change()
    {
        Outside.FailNext(1);
        (await manager.Post("access/changes", AddGuest)).Problem.ShouldBe("directory-failed");
    }

    [Fact]
    public async Task A_change_of_a_group_that_is_not_there_is_refused() =>
        (
            await manager.Post(
                "access/consequences",
                new
                {
                    verb = "addMember",
                    who = "ann@tarn.example",
                    what = "Nobody",
                }
            )
        ).Problem.ShouldBe("target-unknown");

    private async Task<int> LinesAsync(string list) =>
        (await manager.GetOk($"access/lists/{list}")).GetProperty("lines").GetArrayLength();

    [Theory]
    [InlineData("open-to-anyone", 1)]
    [InlineData("left", 1)]
    [InlineData("consents", 1)]
    [InlineData("outsiders", 0)]
    public async Task A_list_to_mend_has_its_lines(string list, int lines) => (await LinesAsync(list)).ShouldBe(lines);

    [Fact]
    public async Task Mending_what_is_open_to_anyone_empties_the_list()
    {
        var fix = (await manager.GetOk("access/lists/open-to-anyone")).GetProperty("lines")[0].GetProperty("fix");
        await manager.PostOk("access/changes", fix);
        (await LinesAsync("open-to-anyone")).ShouldBe(0);
    }

    [Fact]
    public async Task A_toxic_pair_of_an_unknown_place_is_refused() =>
        (
            await manager.Put(
                "access/toxic-pairs",
                new[]
                {
                    new
                    {
                        name = "x",
                        first = "nowhere",
                        firstRole = "a",
                        second = "lib",
                        secondRole = "b",
                    },
                }
            )
        ).Problem.ShouldBe("pair-malformed");

    /// <summary>A review of the dock, which its owner is asked about.</summary>
    internal static object Review(
        string silence = "advice",
        bool applyItself = true,
        bool reasons = false,
        object[]? later = null,
        string people = "guests",
        string reviewer = "owner",
        string[]? named = null,
        int[]? reminders = null,
        string reminderWords = "",
        string[]? informed = null
    ) =>
        new
        {
            later = later ?? [],
            name = "Guests in the dock",
            groups = new[] { "Dock" },
            resources = Array.Empty<string>(),
            people,
            inactiveDays = 30,
            reviewer,
            named = named ?? [],
            deputy = "",
            days = 10,
            start = "2026-06-15",
            recurrence = "",
            reasonsRequired = reasons,
            silence,
            applyItself,
            words = "",
            reminders,
            reminderWords,
            informed,
        };

    /// <summary>Starts a round and returns the review's number and the token of its one reviewer.</summary>
    private async Task<(long Review, string Token)> StartAsync(object settings)
    {
        await manager.PostOk("reviews", settings);
        var id = (await manager.GetOk("reviews"))[0].GetProperty("id").GetInt64();
        await manager.PostOk($"reviews/{id}/rounds", new { });
        await using var scope = product.Services.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<WideKeelDb>();
        var link = await db.ReviewerLinks.SingleAsync(TestContext.Current.CancellationToken);
        return (id, await product.LinkAsync(LinkKind.Review, link.Id, link.Mail));
    }

    private async Task<JsonElement> LineAsync(long review) =>
        (await manager.GetOk($"reviews/{review}/rounds/1")).GetProperty("lines")[0];

    private async Task DecideAsync(string token, string decision, string reason = "")
    {
        using var nobody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(nobody, token);
        var line = (await nobody.GetOk($"review/{token}")).GetProperty("lines")[0].GetProperty("id").GetInt64();
        await nobody.PostOk(
            $"review/{token}/answers",
            new
            {
                lines = new[] { line },
                decision,
                reason,
            }
        );
    }

    private static object Vera(int days = 7, bool seesFormer = true) =>
        new
        {
            reviewer = "named",
            named = new[] { "Vera@tarn.example" },
            days,
            seesFormer,
        };

    private async Task<string> TokenOfAsync(string mail)
    {
        await using var db = product.Database();
        var link = await db.ReviewerLinks.SingleAsync(l => l.Mail == mail, TestContext.Current.CancellationToken);
        return await product.LinkAsync(LinkKind.Review, link.Id, mail);
    }

    [Fact]
    public async Task A_later_stage_asks_somebody_else_who_sees_what_was_said()
    {
        var (review, token) = await StartAsync(Review(later: [Vera()]));
        await DecideAsync(token, "keep", "Works here");
        await manager.PostOk($"reviews/{review}/rounds/1/next-stage", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        var line = (await nobody.GetOk($"review/{await TokenOfAsync("vera@tarn.example")}")).GetProperty("lines")[0];
        (
            line.GetProperty("decision").GetString(),
            line.GetProperty("former")[0].GetProperty("decision").GetString(),
            line.GetProperty("former")[0].GetProperty("reason").GetString()
        ).ShouldBe(("open", "keep", "Works here"));
    }

    [Fact]
    public async Task A_later_stage_that_is_not_to_see_it_does_not()
    {
        var (review, token) = await StartAsync(Review(later: [Vera(seesFormer: false)]));
        await DecideAsync(token, "keep");
        await manager.PostOk($"reviews/{review}/rounds/1/next-stage", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.GetOk($"review/{await TokenOfAsync("vera@tarn.example")}"))
            .GetProperty("lines")[0]
            .GetProperty("former")
            .GetArrayLength()
            .ShouldBe(0);
    }

    [Fact]
    public async Task Who_answered_in_a_stage_that_is_over_has_no_lines_any_more()
    {
        var (review, token) = await StartAsync(Review(later: [Vera()]));
        await manager.PostOk($"reviews/{review}/rounds/1/next-stage", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.GetOk($"review/{token}")).GetProperty("lines").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task What_the_last_stage_leaves_open_stays_as_the_stage_before_decided()
    {
        var (review, token) = await StartAsync(Review(silence: "keep", later: [Vera()]));
        await DecideAsync(token, "remove", "Left the dock");
        await manager.PostOk($"reviews/{review}/rounds/1/next-stage", new { });
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        var line = await LineAsync(review);
        (
            line.GetProperty("decision").GetString(),
            line.GetProperty("bySilence").GetBoolean(),
            line.GetProperty("decidedBy").GetString(),
            IsInDock
        ).ShouldBe(("remove", false, "ines@tarn.example", false));
    }

    [Fact]
    public async Task A_stage_begins_by_itself_after_the_last_day_of_the_one_before()
    {
        var (review, _) = await StartAsync(Review(later: [Vera(days: 5)]));
        product.Clock.Advance(Duration.FromDays(11));
        await product.RunDayAsync();
        var round = (await manager.GetOk($"reviews/{review}/rounds/1")).GetProperty("round");
        (
            round.GetProperty("stage").GetInt32(),
            round.GetProperty("endsOn").GetString(),
            round.GetProperty("endedAt").ValueKind
        ).ShouldBe((2, "2026-07-01", JsonValueKind.Null));
    }

    [Theory]
    [InlineData("", 1)]
    [InlineData("?decision=remove", 1)]
    [InlineData("?decision=keep", 0)]
    [InlineData("?kind=group", 1)]
    [InlineData("?kind=application", 0)]
    [InlineData("?from=2026-06-15&to=2026-06-15", 1)]
    [InlineData("?from=2026-06-16", 0)]
    [InlineData("?to=2026-06-14", 0)]
    public async Task The_history_has_the_decisions_of_its_days_and_kinds(string asked, int lines)
    {
        var (review, _) = await StartAsync(Review(silence: "remove"));
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        var csv = await manager.Http.GetStringAsync(
            new Uri($"reviews/history.csv{asked}", UriKind.Relative),
            TestContext.Current.CancellationToken
        );
        csv.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(1 + lines);
    }

    [Theory]
    [InlineData("decision=burn")]
    [InlineData("kind=7")]
    [InlineData("from=yesterday")]
    public async Task A_history_by_a_word_that_there_is_not_is_refused(string asked) =>
        (await manager.Get($"reviews/history.csv?{asked}")).Status.ShouldBe(System.Net.HttpStatusCode.BadRequest);

    [Fact]
    public async Task Who_only_stamped_in_a_stage_that_is_over_is_still_named()
    {
        var guests = Enumerable.Range(1, 5).Select(n => new OutsidePerson($"g{n}@yard.example", $"Guest {n}", "guest"));
        var before = Outside.Read();
        await product.WriteDirectoryAsync(
            before with
            {
                People = [.. before.People, .. guests],
                Groups = [before.Groups[0], before.Groups[1] with { Members = [.. guests.Select(g => g.Id)] }],
            }
        );
        var (review, token) = await StartAsync(Review(later: [Vera()]));
        using var nobody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(nobody, token);
        var lines = (await nobody.GetOk($"review/{token}"))
            .GetProperty("lines")
            .EnumerateArray()
            .Select(l => l.GetProperty("id").GetInt64())
            .ToArray();
        await nobody.PostOk(
            $"review/{token}/answers",
            new
            {
                lines,
                decision = "keep",
                reason = "",
            }
        );
        await manager.PostOk($"reviews/{review}/rounds/1/next-stage", new { });
        (await manager.GetOk($"reviews/{review}/rounds/1"))
            .GetProperty("round")
            .GetProperty("stamped")
            .ToString()
            .ShouldBe("[\"ines@tarn.example\"]");
    }

    [Fact]
    public async Task The_lines_as_csv_say_what_was_decided_in_the_stages_before()
    {
        var (review, token) = await StartAsync(Review(later: [Vera()]));
        await DecideAsync(token, "keep", "Works here");
        await manager.PostOk($"reviews/{review}/rounds/1/next-stage", new { });
        (
            await manager.Http.GetStringAsync(
                new Uri($"reviews/{review}/rounds/1/report.csv", UriKind.Relative),
                TestContext.Current.CancellationToken
            )
        )
            .Split("\r\n")[1]
            .ShouldEndWith("ines@tarn.example: Keep Works here");
    }

    [Fact]
    public async Task Consequences_say_whom_each_stage_would_ask() =>
        (await manager.PostOk("reviews/consequences", Review(later: [Vera()])))
            .GetProperty("reviewers")
            .EnumerateArray()
            .Select(r => $"{r.GetProperty("stage").GetInt32()} {r.GetProperty("reviewer").GetString()}")
            .ShouldBe(["1 ines@tarn.example", "2 vera@tarn.example"]);

    [Fact]
    public async Task After_the_last_stage_there_is_no_other()
    {
        var (review, _) = await StartAsync(Review());
        (await manager.Post($"reviews/{review}/rounds/1/next-stage", new { })).Problem.ShouldBe("last-stage");
    }

    [Fact]
    public async Task A_stage_that_names_nobody_is_refused() =>
        (
            await manager.Post(
                "reviews",
                Review(
                    later:
                    [
                        new
                        {
                            reviewer = "named",
                            named = Array.Empty<string>(),
                            days = 7,
                            seesFormer = true,
                        },
                    ]
                )
            )
        ).Problem.ShouldBe("reviewer-missing");

    private bool IsInDock => Outside.Read().Groups[1].Members.Contains("guest@yard.example");

    [Fact]
    public async Task A_draft_says_whom_it_would_ask() =>
        (await manager.PostOk("reviews/consequences", Review()))
            .GetProperty("reviewers")[0]
            .GetProperty("reviewer")
            .GetString()
            .ShouldBe("ines@tarn.example");

    [Fact]
    public async Task A_reviewer_answers_by_the_link_without_an_account()
    {
        var (review, token) = await StartAsync(Review());
        await DecideAsync(token, "keep");
        (await LineAsync(review)).GetProperty("decision").GetString().ShouldBe("keep");
    }

    [Fact]
    public async Task A_guessed_link_shows_nothing()
    {
        using var nobody = await Api.ConnectAsync(product.Address);
        (await nobody.Get($"review/{new string('a', 48)}")).Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_removal_is_carried_out_at_the_end()
    {
        var (review, token) = await StartAsync(Review());
        await DecideAsync(token, "remove");
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        IsInDock.ShouldBeFalse();
    }

    [Fact]
    public async Task What_a_stop_left_without_an_outcome_is_asked_for_again_at_the_start()
    {
        await product.StopAsync();
        var options = new DbContextOptionsBuilder<WideKeelDb>();
        options.UseWideKeel(product.DatabaseFile);
        await using (var db = new WideKeelDb(options.Options))
        {
            db.DirectoryIntents.Add(
                new()
                {
                    Actor = """{"who":"mikkel"}""",
                    Change = """{"verb":"removeMember","who":"guest@yard.example","what":"Dock"}""",
                    Because = "It was stopped in between.",
                    AskedAt = product.Clock.GetCurrentInstant(),
                }
            );
            await db.SaveChangesAsync(TestContext.Current.CancellationToken);
        }

        await product.StartAsync();
        await Product.UntilAsync(() => Task.FromResult(!IsInDock));
    }

    [Fact]
    public async Task Its_outcome_is_recorded_with_what_it_was_done_for()
    {
        await manager.PostOk("access/changes", AddGuest);
        await using var db = product.Database();
        (await db.DirectoryIntents.SingleAsync(TestContext.Current.CancellationToken)).Verified.ShouldBeTrue();
    }

    [Fact]
    public async Task Nothing_is_carried_out_before_the_end()
    {
        var (_, token) = await StartAsync(Review());
        await DecideAsync(token, "remove");
        IsInDock.ShouldBeTrue();
    }

    [Fact]
    public async Task Silence_removes_where_the_review_says_so()
    {
        var (review, _) = await StartAsync(Review(silence: "remove"));
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        IsInDock.ShouldBeFalse();
    }

    [Fact]
    public async Task Without_carrying_out_by_itself_the_end_changes_nothing()
    {
        var (review, _) = await StartAsync(Review(silence: "remove", applyItself: false));
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        IsInDock.ShouldBeTrue();
    }

    [Fact]
    public async Task A_removal_that_failed_twice_is_carried_out_the_third_time()
    {
        var (review, _) = await StartAsync(Review(silence: "remove"));
        Outside.FailNext(2);
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        await manager.PostOk($"reviews/{review}/rounds/1/carrying-out", new { });
        IsInDock.ShouldBeTrue();
        await manager.PostOk($"reviews/{review}/rounds/1/carrying-out", new { });
        (await LineAsync(review)).GetProperty("applied").GetBoolean().ShouldBeTrue();
    }

    [Fact]
    public async Task An_answer_after_the_end_is_refused()
    {
        var (review, token) = await StartAsync(Review());
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        using var nobody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(nobody, token);
        var line = (await LineAsync(review)).GetProperty("id").GetInt64();
        (
            await nobody.Post(
                $"review/{token}/answers",
                new
                {
                    lines = new[] { line },
                    decision = "keep",
                    reason = "",
                }
            )
        ).Problem.ShouldBe("round-ended");
    }

    [Fact]
    public async Task A_review_that_asks_for_reasons_refuses_an_answer_without_one()
    {
        var (review, token) = await StartAsync(Review(reasons: true));
        using var nobody = await Api.ConnectAsync(product.Address);
        await product.ProveAsync(nobody, token);
        var line = (await LineAsync(review)).GetProperty("id").GetInt64();
        (
            await nobody.Post(
                $"review/{token}/answers",
                new
                {
                    lines = new[] { line },
                    decision = "keep",
                    reason = "",
                }
            )
        ).Problem.ShouldBe("reason-missing");
    }

    [Fact]
    public async Task A_line_whose_person_left_says_so()
    {
        var (review, _) = await StartAsync(Review());
        var state = Outside.Read();
        await product.WriteDirectoryAsync(
            state with
            {
                People = [.. state.People.Select(p => p.Kind == "guest" ? p with { Left = "2026-06-14" } : p)],
            }
        );
        (await LineAsync(review)).GetProperty("meanwhile").GetString().ShouldBe("This person has left.");
    }

    [Fact]
    public async Task Open_lines_are_handed_over()
    {
        var (review, _) = await StartAsync(Review());
        await manager.PostOk(
            $"reviews/{review}/rounds/1/hand-over",
            new { from = "ines@tarn.example", to = "vera@tarn.example" }
        );
        (await LineAsync(review)).GetProperty("reviewer").GetString().ShouldBe("vera@tarn.example");
    }

    [Fact]
    public async Task The_round_ends_by_itself_after_its_last_day()
    {
        var (review, _) = await StartAsync(Review(silence: "remove"));
        product.Clock.Advance(Duration.FromDays(11));
        await product.RunDayAsync();
        (await LineAsync(review)).GetProperty("decision").GetString().ShouldBe("remove");
    }

    [Theory]
    [InlineData("csv")]
    [InlineData("json")]
    [InlineData("pdf")]
    public async Task The_report_of_an_ended_round_can_be_taken_along(string format)
    {
        var (review, _) = await StartAsync(Review());
        await manager.PostOk($"reviews/{review}/rounds/1/end", new { });
        var file = await manager.Http.GetAsync(
            new Uri($"reviews/{review}/rounds/1/report.{format}", UriKind.Relative),
            TestContext.Current.CancellationToken
        );
        file.StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_rule_that_is_none_of_RFC_5545_is_refused() =>
        (
            await manager.Post(
                "reviews",
                new
                {
                    name = "x",
                    groups = new[] { "Dock" },
                    resources = Array.Empty<string>(),
                    people = "everybody",
                    inactiveDays = 30,
                    reviewer = "owner",
                    named = Array.Empty<string>(),
                    deputy = "",
                    days = 10,
                    start = "2026-06-15",
                    recurrence = "now and then",
                    reasonsRequired = false,
                    silence = nameof(SilenceRule.Keep).ToLowerInvariant(),
                    applyItself = true,
                    words = "",
                }
            )
        ).Problem.ShouldBe("recurrence-malformed");
}
