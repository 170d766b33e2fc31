using NodaTime;
using WideKeel.Core.Access;
using WideKeel.Core.People;

namespace WideKeel.Core.Tests.Access;

public sealed class ReviewTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static ReviewFacts Facts(
        LocalDate? sponsorLeft = null,
        LocalDate? lastSignIn = null,
        string? groupOwner = "olga",
        IReadOnlyList<Grant>? grants = null,
        IReadOnlyList<ToxicPair>? toxic = null
    )
    {
        PersonFacts[] people =
        [
            new("ann", "Ann", AccountKind.Person, "Yard", "Engineer", null, null),
            new("guest", "Guest", AccountKind.Guest, "", "Guest", null, "sponsor"),
            new("sponsor", "Sponsor", AccountKind.Person, "Yard", "Engineer", sponsorLeft, null),
            new("olga", "Olga", AccountKind.Person, "Yard", "Lead", null, null),
        ];
        return new(
            new(
                Today,
                new(
                    [.. people.Select(p => new DirectoryAccount(p.Id, p.Kind, p.Left))],
                    [new("dock", ["ann", "guest", "olga"])],
                    [new("plans", null, true, []), new("pay", null, true, [])],
                    grants ?? []
                ),
                people.ToDictionary(p => p.Id),
                new Dictionary<string, ResourceFacts>
                {
                    ["plans"] = new("plans", "Plans", "library", "olga", false, true, null),
                    ["pay"] = new("pay", "Pay", "application", null, false, false, null),
                },
                new Dictionary<string, string?> { ["dock"] = groupOwner },
                [],
                toxic ?? [],
                new Dictionary<string, string>(),
                new Dictionary<(string, string), LocalDate>(),
                Today.PlusDays(-200)
            )
            {
                CollectedSince = new Dictionary<string, LocalDate> { ["Plans"] = Today.PlusDays(-200) },
            },
            people.ToDictionary(p => p.Id, _ => lastSignIn ?? Today.PlusDays(-1)),
            new Dictionary<string, string> { ["ann"] = "manager" },
            new Dictionary<string, string> { ["Yard"] = "steward" },
            new HashSet<(string, string)>()
        );
    }

    private static ReviewDefinition Review(
        ReviewPeople people = ReviewPeople.Everybody,
        ReviewerKind reviewer = ReviewerKind.Owner,
        string deputy = "",
        string[]? resources = null
    ) =>
        new(
            "Quarterly",
            resources is null ? ["dock"] : [],
            resources ?? [],
            people,
            30,
            reviewer,
            [],
            deputy,
            10,
            Today,
            "",
            false,
            SilenceRule.Advice,
            true,
            ""
        );

    private static ReviewQuestion Line(ReviewDefinition review, ReviewFacts facts, string person) =>
        Reviews.Questions(review, facts, "boss").Single(q => q.Person == person);

    /// <summary>Plans are open to the organisation and to anyone; Ann owns them by a grant besides.</summary>
    private static ReviewFacts Linked()
    {
        var facts = Facts(grants: [new("ann", "plans", "owner")]);
        var model = facts.Directory.Model;
        return facts with
        {
            Directory = facts.Directory with
            {
                Model = model with
                {
                    Resources =
                    [
                        new(
                            "plans",
                            null,
                            true,
                            [new(LinkReach.Organisation, "reader"), new(LinkReach.Anyone, "reader")]
                        ),
                        new("pay", null, true, []),
                        new("plans/own", "plans", false, []),
                    ],
                },
                Resources = new Dictionary<string, ResourceFacts>(facts.Directory.Resources)
                {
                    ["plans/own"] = new("plans/own", "Own", "folder", null, false, false, null),
                },
                Consents = [new("notes", "Papirus", "ann", ["all-files.read"], Today)],
            },
        };
    }

    private static IEnumerable<string> Asked(ReviewDefinition review) =>
        Reviews.Questions(review, Linked(), "boss").Select(q => $"{q.Person} {q.What} {string.Join('+', q.Roles)}");

    [Fact]
    public void Links_are_lines_of_their_own_and_who_comes_by_them_alone_is_none() =>
        Asked(Review(resources: ["plans"]) with { Links = true })
            .ShouldBe(["ann plans owner+reader", "organisation plans reader", "anyone plans reader"]);

    [Fact]
    public void A_link_to_anyone_is_advised_away_where_sharing_outside_is_not_allowed() =>
        Reviews
            .Questions(Review(resources: ["plans"]) with { Links = true }, Linked(), "boss")
            .Single(q => q.Person == "anyone")
            .Grounds.ShouldBe(["Sharing Plans outside is not allowed.", "Plans holds sensitive material."]);

    [Fact]
    public void Of_chosen_roles_only_those_are_asked_about() =>
        Asked(Review(resources: ["plans"]) with { Roles = ["owner"] }).ShouldBe(["ann plans owner"]);

    [Fact]
    public void Consents_of_applications_are_asked_about() =>
        Asked(Review(resources: []) with { Applications = ["notes"] }).ShouldBe(["ann notes all-files.read"]);

    [Theory]
    [InlineData(ReviewSet.SensitivePlaces, "plans")]
    [InlineData(ReviewSet.PlacesWithLinks, "plans")]
    [InlineData(ReviewSet.GroupsWithGuests, "dock")]
    [InlineData(ReviewSet.AllApplications, "notes")]
    public void A_standing_set_is_what_it_is_at_the_start(ReviewSet set, string what) =>
        Reviews
            .Questions(Review(resources: []) with { Sets = [set] }, Linked(), "boss")
            .Select(q => q.What)
            .Distinct()
            .ShouldBe([what]);

    [Fact]
    public void A_draft_says_what_it_leaves_out()
    {
        var facts = Linked().Directory;
        Reviews
            .LeftOut(Review(resources: ["plans"]) with { Roles = ["owner"] }, facts, new(facts.Model, Today))
            .ShouldBe([
                "1 place is open by a link; the links themselves are not asked about.",
                "1 place within the chosen ones with grants of their own only.",
                "1 consent of other applications.",
                "Roles on places other than owner.",
            ]);
    }

    [Fact]
    public void Guests_only_asks_about_guests() =>
        Reviews.Questions(Review(ReviewPeople.Guests), Facts(), "boss").Select(q => q.Person).ShouldBe(["guest"]);

    [Fact]
    public void Inactive_only_asks_about_those_who_did_not_sign_in() =>
        Reviews.Questions(Review(ReviewPeople.Inactive), Facts(), "boss").ShouldBeEmpty();

    [Fact]
    public void The_owner_is_asked() => Line(Review(), Facts(), "ann").Reviewer.ShouldBe("olga");

    [Fact]
    public void Nobody_is_asked_about_themselves() =>
        Line(Review(deputy: "deputy"), Facts(), "olga").Reviewer.ShouldBe("deputy");

    [Fact]
    public void Without_an_owner_or_deputy_the_steward_of_the_unit_is_asked() =>
        Line(Review(), Facts(groupOwner: null), "ann").Reviewer.ShouldBe("steward");

    [Fact]
    public void Where_nobody_is_left_the_owner_of_the_review_is_asked() =>
        Line(Review(), Facts(groupOwner: null), "guest").Reviewer.ShouldBe("boss");

    [Fact]
    public void Who_has_left_is_not_asked() =>
        Line(Review(reviewer: ReviewerKind.Manager), Facts(sponsorLeft: Today), "guest").Reviewer.ShouldBe("boss");

    [Fact]
    public void A_guest_whose_sponsor_left_is_advised_away() =>
        Line(Review(), Facts(sponsorLeft: Today.PlusDays(-5)), "guest").AdviseRemoval.ShouldBeTrue();

    [Fact]
    public void No_sign_in_for_thirty_days_is_a_ground() =>
        Line(Review(), Facts(lastSignIn: Today.PlusDays(-31)), "ann")
            .Grounds.ShouldContain(g => g.StartsWith("The last sign-in", StringComparison.Ordinal));

    [Fact]
    public void A_place_not_used_for_ninety_days_is_a_ground() =>
        Line(Review(resources: ["plans"]), Facts(grants: [new("ann", "plans", "reader")]), "ann")
            .Grounds.ShouldContain("Plans was not used for 90 days.");

    [Fact]
    public void A_toxic_pair_is_a_ground() =>
        Line(
            Review(resources: ["pay"]),
            Facts(
                grants: [new("ann", "plans", "orders"), new("ann", "pay", "approves")],
                toxic: [new("Orders and pays", "plans", "orders", "pay", "approves")]
            ),
            "ann"
        )
            .Grounds.ShouldContain("It makes a toxic pair with another role of theirs.");

    [Fact]
    public void The_owner_of_a_review_is_not_asked_about_themselves() =>
        Reviews
            .Questions(Review(deputy: ""), Facts() with { AccessManagers = ["olga", "vera"] }, "olga")
            .Single(q => q.Person == "olga")
            .Reviewer.ShouldBe("steward");

    [Fact]
    public void Without_anybody_else_who_manages_access_is_asked() =>
        Reviews
            .Questions(
                Review(),
                Facts() with
                {
                    Stewards = new Dictionary<string, string>(),
                    AccessManagers = ["olga", "vera"],
                },
                "olga"
            )
            .Single(q => q.Person == "olga")
            .Reviewer.ShouldBe("vera");

    [Fact]
    public void Nobody_is_asked_about_themselves_under_another_spelling() =>
        Line(Review(deputy: "OLGA"), Facts(), "olga").Reviewer.ShouldBe("steward");

    [Fact]
    public void A_place_whose_events_nobody_collects_is_no_ground() =>
        Line(Review(resources: ["pay"]), Facts(grants: [new("ann", "pay", "reader")]), "ann")
            .Grounds.ShouldBe([
                "Nothing speaks against it; no events of Pay are collected, so whether it is used is not known.",
            ]);

    [Fact]
    public void No_sign_in_is_no_ground_where_no_source_reports_sign_ins() =>
        Line(Review(), Facts() with { LastSignIn = new Dictionary<string, LocalDate>() }, "ann")
            .AdviseRemoval.ShouldBeFalse();

    [Theory]
    [InlineData(LineDecision.Keep, SilenceRule.Remove, true, LineDecision.Keep)]
    [InlineData(LineDecision.Open, SilenceRule.Remove, false, LineDecision.Remove)]
    [InlineData(LineDecision.Open, SilenceRule.Keep, true, LineDecision.Keep)]
    [InlineData(LineDecision.CannotSay, SilenceRule.Advice, true, LineDecision.Remove)]
    [InlineData(LineDecision.Open, SilenceRule.Advice, false, LineDecision.Keep)]
    public void At_the_end_silence_means_what_the_review_said(
        LineDecision decision,
        SilenceRule silence,
        bool advised,
        LineDecision end
    ) => Reviews.AtEnd(decision, silence, advised).ShouldBe(end);

    [Theory]
    [InlineData(LineDecision.Keep, LineDecision.Remove, LineDecision.Remove)]
    [InlineData(LineDecision.Remove, LineDecision.Open, LineDecision.Remove)]
    [InlineData(LineDecision.Remove, LineDecision.CannotSay, LineDecision.Remove)]
    [InlineData(LineDecision.CannotSay, LineDecision.Open, LineDecision.Keep)]
    public void The_last_stage_that_says_something_decides(LineDecision first, LineDecision last, LineDecision end) =>
        Reviews.AtEnd(last, SilenceRule.Keep, true, [new FormerAnswer("ann@x.example", first, "")]).ShouldBe(end);

    private static bool Stamped(int seconds, bool opened = false, LineDecision last = LineDecision.Keep) =>
        Reviews.IsRubberStamp([
            .. Enumerable
                .Range(0, 6)
                .Select(i =>
                    (
                        i == 5 ? last : LineDecision.Keep,
                        Instant.FromUtc(2026, 6, 15, 9, 0) + Duration.FromSeconds(seconds * i),
                        opened && i == 2
                    )
                ),
        ]);

    [Fact]
    public void Keeping_everything_at_once_is_a_rubber_stamp() => Stamped(1).ShouldBeTrue();

    [Fact]
    public void Taking_two_seconds_a_line_is_none() => Stamped(2).ShouldBeFalse();

    [Fact]
    public void Opening_one_line_is_none() => Stamped(1, opened: true).ShouldBeFalse();

    [Fact]
    public void Removing_one_line_is_none() => Stamped(1, last: LineDecision.Remove).ShouldBeFalse();

    /// <summary>
    /// R. G. Newcombe, “Two-sided confidence intervals for the single proportion”, Statistics in Medicine 17 (1998), table
    /// I, method 3 (the score interval without continuity correction); from memory.
    /// </summary>
    [Theory]
    [InlineData(81, 263, 0.2553, 0.3662)]
    [InlineData(15, 148, 0.0624, 0.1605)]
    [InlineData(0, 20, 0.0000, 0.1611)]
    [InlineData(1, 29, 0.0061, 0.1718)]
    public void The_Wilson_interval_is_that_of_the_published_table(int hits, int of, double lower, double upper)
    {
        var (low, high) = Reviews.Wilson(hits, of);
        (Math.Round(low, 4), Math.Round(high, 4)).ShouldBe((lower, upper));
    }
}
