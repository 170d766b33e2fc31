using System.Net;
using System.Text.Json;
using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Access;

/// <summary>Owners who start reviews of what they own, and reviews that are changed while they run.</summary>
public sealed class OwnedTests : IAsyncLifetime
{
    private readonly Product product = new();
    private Api manager = null!;
    private Api ines = null!;

    /// <summary>Ines owns the dock, which a guest, Ann and she herself are in; Tobias owns the library.</summary>
    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        await product.WriteDirectoryAsync(
            new(
                [
                    new("ann@tarn.example", "Ann", Unit: "Northern", Title: "Mate"),
                    new("guest@yard.example", "Gus", "guest", Title: "Guest", Sponsor: "ann@tarn.example"),
                    new("ines@tarn.example", "Ines", Unit: "Northern"),
                    new("tobias@tarn.example", "Tobias"),
                ],
                [
                    new(
                        "Dock",
                        "Dock",
                        "ines@tarn.example",
                        ["guest@yard.example", "ann@tarn.example", "ines@tarn.example"]
                    ),
                    new("Empty", "Empty", "ines@tarn.example", []),
                ],
                [new("lib", "Library", "library", null, true, "tobias@tarn.example", false, false, null, [])],
                [new("Dock", "lib", "editor")],
                []
            )
        );
        manager = await product.SignInAsync("mikkel");
        ines = await product.SignInAsync("ines");
    }

    public async ValueTask DisposeAsync()
    {
        manager.Dispose();
        ines.Dispose();
        await product.DisposeAsync();
    }

    private Task<Answer> AllowAsync() => manager.Put("access/owners/reviews", new { may = true });

    private Task<Answer> StartAsync(string thing = "Dock", string people = "everybody", string silence = "keep") =>
        ines.Post(
            "owned/reviews",
            new
            {
                name = "Who is in the dock",
                things = new[] { thing },
                people,
                inactiveDays = 0,
                days = 10,
                silence,
            }
        );

    private async Task MorningAsync(int days)
    {
        product.Clock.Advance(Duration.FromDays(days));
        await product.RunDayAsync();
    }

    private string[] MessagesTo(string mail)
    {
        using var db = product.Database();
        return
        [
            .. db
                .Messages.Where(m => m.ToMail == mail && m.Kind != "invitation")
                .OrderBy(m => m.Id)
                .Select(m => m.Subject),
        ];
    }

    private async Task<long> ReviewAsync() => (await manager.GetOk("reviews"))[0].GetProperty("id").GetInt64();

    private async Task<JsonElement> RoundAsync() => await manager.GetOk($"reviews/{await ReviewAsync()}/rounds/1");

    private async Task<string[]> ReviewersAsync() =>
        [
            .. (await RoundAsync())
                .GetProperty("reviewers")
                .EnumerateArray()
                .Select(r => $"{r.GetProperty("mail")} {r.GetProperty("open")}")
                .Order(StringComparer.Ordinal),
        ];

    [Fact]
    public async Task What_somebody_owns_is_listed_with_its_people_and_guests() =>
        (await ines.GetOk("owned"))
            .GetProperty("things")
            .EnumerateArray()
            .Select(t => $"{t.GetProperty("id")} {t.GetProperty("people")} {t.GetProperty("guests")}")
            .ShouldBe(["Dock 3 1", "Empty 0 0"]);

    [Fact]
    public async Task The_people_of_what_one_owns_are_named_outsiders_first() =>
        (await ines.GetOk("owned/people?thing=Dock"))
            .EnumerateArray()
            .Select(p => p.GetProperty("name").GetString())
            .ShouldBe(["Gus", "Ann", "Ines"]);

    [Fact]
    public async Task The_people_of_what_somebody_else_owns_stay_unknown() =>
        (await ines.Get("owned/people?thing=lib")).Status.ShouldBe(HttpStatusCode.NotFound);

    [Fact]
    public async Task An_owner_takes_along_what_was_decided_in_their_own_review()
    {
        await AllowAsync();
        await StartAsync(people: "guests");
        (await ines.Get($"owned/reviews/{await ReviewAsync()}/rounds/1/report.csv")).Text!.ShouldContain(
            "guest@yard.example"
        );
    }

    [Fact]
    public async Task A_review_that_somebody_else_started_is_not_theirs_to_take_along()
    {
        await AllowAsync();
        await StartAsync(people: "guests");
        using var tobias = await product.SignInAsync("tobias");
        (await tobias.Get($"owned/reviews/{await ReviewAsync()}/rounds/1/report.csv")).Status.ShouldBe(
            HttpStatusCode.NotFound
        );
    }

    [Fact]
    public async Task Who_owns_nothing_sees_nothing()
    {
        using var pia = await product.SignInAsync("pia");
        (await pia.GetOk("owned")).GetProperty("things").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task An_owner_may_not_start_a_review_before_the_organisation_allows_it() =>
        (await StartAsync()).Problem.ShouldBe("owners-may-not-review");

    [Fact]
    public async Task Only_who_manages_access_allows_it() =>
        (await ines.Put("access/owners/reviews", new { may = true })).Status.ShouldBe(HttpStatusCode.Forbidden);

    [Fact]
    public async Task An_owner_is_asked_about_the_others_and_not_about_herself()
    {
        await AllowAsync();
        (await StartAsync()).Status.ShouldBe(HttpStatusCode.OK);
        (await RoundAsync())
            .GetProperty("lines")
            .EnumerateArray()
            .Where(l => l.GetProperty("reviewer").GetString() == "ines@tarn.example")
            .Select(l => l.GetProperty("person").GetString())
            .ShouldNotContain("ines@tarn.example");
    }

    [Fact]
    public async Task An_owner_finds_the_way_to_their_own_lines()
    {
        await AllowAsync();
        await StartAsync(people: "guests");
        var review = (await ines.GetOk("owned")).GetProperty("reviews")[0];
        (
            review.GetProperty("lines").GetInt32(),
            review.GetProperty("link").GetString()!.StartsWith("/review/", StringComparison.Ordinal)
        ).ShouldBe((1, true));
    }

    [Fact]
    public async Task What_somebody_else_owns_is_refused()
    {
        await AllowAsync();
        (await StartAsync("lib")).Problem.ShouldBe("not-yours");
    }

    [Fact]
    public async Task A_review_of_nobody_is_refused_and_leaves_nothing_behind()
    {
        await AllowAsync();
        (await StartAsync("Empty")).Problem.ShouldBe("nothing-to-ask");
        (await manager.GetOk("reviews")).GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task What_an_owner_removes_is_carried_out_at_the_end()
    {
        await AllowAsync();
        await StartAsync(people: "guests", silence: "remove");
        await MorningAsync(11);
        var line = (await RoundAsync()).GetProperty("lines")[0];
        (line.GetProperty("decision").GetString(), line.GetProperty("applied").GetBoolean()).ShouldBe(("remove", true));
    }

    /// <summary>Everybody in the dock, whom these are asked about.</summary>
    private static object Review(
        string[] named,
        int[]? reminders = null,
        string reminderWords = "",
        string[]? informed = null,
        object[]? later = null
    ) =>
        AccessTests.Review(
            silence: "keep",
            later: later,
            people: "everybody",
            reviewer: "named",
            named: named,
            reminders: reminders,
            reminderWords: reminderWords,
            informed: informed
        );

    private async Task<long> RunningAsync(object settings)
    {
        (await manager.Post("reviews", settings)).Status.ShouldBe(HttpStatusCode.OK);
        var id = (await manager.GetOk("reviews"))[0].GetProperty("id").GetInt64();
        await manager.PostOk($"reviews/{id}/rounds", new { });
        return id;
    }

    private async Task<Answer> ChangeAsync(long id, object settings) =>
        await manager.Put(
            $"reviews/{id}",
            settings,
            (await manager.GetOk("reviews"))[0].GetProperty("revision").GetInt64()
        );

    [Theory]
    [InlineData(7, 0)]
    [InlineData(8, 1)]
    [InlineData(9, 1)]
    public async Task Whoever_is_silent_is_reminded_on_the_days_that_the_review_names(int days, int reminders)
    {
        await RunningAsync(Review(["vera@tarn.example"], reminders: [2]));
        for (var day = 0; day < days; day++)
        {
            await MorningAsync(1);
        }

        MessagesTo("vera@tarn.example")
            .Count(s => s.StartsWith("Reminder", StringComparison.Ordinal))
            .ShouldBe(reminders);
    }

    [Fact]
    public async Task A_review_without_reminders_reminds_nobody()
    {
        await RunningAsync(Review(["vera@tarn.example"], reminders: []));
        await MorningAsync(7);
        MessagesTo("vera@tarn.example").Length.ShouldBe(1);
    }

    [Fact]
    public async Task A_reminder_has_words_of_its_own()
    {
        await RunningAsync(Review(["vera@tarn.example"], reminderWords: "It is nearly over."));
        await MorningAsync(7);
        using var db = product.Database();
        db.Messages.OrderBy(m => m.Id)
            .Last(m => m.ToMail == "vera@tarn.example")
            .Body.ShouldStartWith("It is nearly over.");
    }

    [Fact]
    public async Task Those_who_are_to_know_are_informed_of_the_end_with_its_figures()
    {
        await RunningAsync(Review(["vera@tarn.example"], informed: ["Board@tarn.example"]));
        await MorningAsync(11);
        using var db = product.Database();
        db.Messages.Single(m => m.ToMail == "board@tarn.example").Body.ShouldStartWith("3 lines: 3 kept, 0 removed");
    }

    [Fact]
    public async Task Open_lines_of_a_running_round_go_to_its_new_reviewers()
    {
        var id = await RunningAsync(Review(["vera@tarn.example"]));
        (await ChangeAsync(id, Review(["nils@tarn.example"]))).Status.ShouldBe(HttpStatusCode.OK);
        (await ReviewersAsync()).ShouldBe(["nils@tarn.example 3"]);
        MessagesTo("nils@tarn.example").Length.ShouldBe(1);
    }

    [Fact]
    public async Task A_change_of_anything_else_asks_nobody_anew()
    {
        var id = await RunningAsync(Review(["vera@tarn.example"]));
        await ChangeAsync(id, Review(["vera@tarn.example"], reminders: [1]));
        MessagesTo("vera@tarn.example").Length.ShouldBe(1);
    }

    [Fact]
    public async Task Lines_that_were_decided_stay_with_whoever_decided_them()
    {
        var id = await RunningAsync(Review(["vera@tarn.example"]));
        long link;
        using (var db = product.Database())
        {
            link = db.ReviewerLinks.Single().Id;
        }

        var token = await product.LinkAsync(LinkKind.Review, link, "vera@tarn.example");
        await product.ProveAsync(manager, token);

        var line = (await RoundAsync()).GetProperty("lines")[0].GetProperty("id").GetInt64();
        (
            await manager.Post(
                $"review/{token}/answers",
                new
                {
                    lines = new[] { line },
                    decision = "keep",
                    reason = "",
                }
            )
        ).Status.ShouldBe(HttpStatusCode.OK);
        await ChangeAsync(id, Review(["nils@tarn.example"]));
        (await ReviewersAsync()).ShouldBe(["nils@tarn.example 2", "vera@tarn.example 0"]);
    }

    [Fact]
    public async Task The_stage_that_is_running_cannot_be_taken_away()
    {
        object[] later =
        [
            new
            {
                reviewer = "named",
                named = new[] { "nils@tarn.example" },
                days = 5,
                seesFormer = true,
            },
        ];
        var id = await RunningAsync(Review(["vera@tarn.example"], later: later));
        await manager.PostOk($"reviews/{id}/rounds/1/next-stage", new { });
        (await ChangeAsync(id, Review(["vera@tarn.example"]))).Problem.ShouldBe("stage-running");
    }
}
