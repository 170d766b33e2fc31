using CsCheck;
using NodaTime;
using WideKeel.Core.Activity;

namespace WideKeel.Core.Tests.Activity;

/// <summary>Watches of what is slow or quiet, by cases worked out by hand and over made histories.</summary>
public class QuietWatchTests
{
    /// <summary>A Monday.</summary>
    private static readonly Instant Start = Instant.FromUtc(2026, 3, 2, 0, 0);

    private static readonly LocalDate Today = new(2026, 6, 15);

    private static IReadOnlyList<WatchAlert> Run(
        string watch,
        IEnumerable<ActivityEvent> events,
        string more = "",
        double? until = null
    )
    {
        var set = WatchFile.Read($$"""{ "watches": [ { "name": "w", {{watch}} } ] {{more}} }""", Today).Value;
        return new WatchRun(events, set.Networks, set.People, set.Zone, until is { } day ? At(day) : null).Alerts(
            set.Watches
        );
    }

    private static string Refused(string watch) =>
        WatchFile.Read($$"""{ "watches": [ { "name": "w", {{watch}} } ] }""", Today).Refusal!.Sentence;

    private static Instant At(double day) => Start + Duration.FromMilliseconds((long)(day * 86_400_000));

    private static ActivityEvent E(double day, string? actor = "x", string channel = "c", EventPlace? place = null) =>
        new()
        {
            Id = FormattableString.Invariant($"{channel} {actor} {day:F5} {place?.Latitude}"),
            Time = At(day),
            Actor = actor,
            Channel = channel,
            Action = "file.read",
            Place = place,
        };

    private static readonly EventPlace Home = new("XA", "Home", 61.9, -6.9);

    // A degree of latitude is 111.195 km on this sphere.
    private static EventPlace North(double degrees) => Home with { Latitude = 61.9 + degrees };

    // Woken.

    private const string Woken = """ "kind": "woken", "quiet": "P30D", "per": "actor" """;

    [Fact]
    public void An_account_wakes_at_its_first_event_after_the_quiet() =>
        Run(Woken, [E(0), E(1), E(40), E(41)]).Select(a => a.Event).ShouldBe([E(40).Id]);

    [Fact]
    public void A_quiet_of_exactly_that_length_wakes_and_a_shorter_one_does_not() =>
        Run(Woken, [E(0), E(30), E(59.9999)]).Select(a => a.At).ShouldBe([At(30)]);

    [Fact]
    public void Waking_names_the_event_before_the_quiet_and_its_seconds()
    {
        var alert = Run(Woken, [E(0), E(40)]).Single();
        (alert.First, alert.Measure).ShouldBe((E(0).Id, 40 * 86_400m));
    }

    [Fact]
    public void Each_key_sleeps_for_itself() =>
        Run(Woken, [E(0, "a"), E(20, "b"), E(40, "a"), E(41, "b")]).Select(a => a.Key).ShouldBe(["a"]);

    [Fact]
    public void An_account_that_was_never_seen_does_not_wake() => Run(Woken, [E(50)]).ShouldBeEmpty();

    // Elsewhere.

    private const string Elsewhere = """ "kind": "elsewhere", "within": "PT10M", "minKm": 300 """;
    private const double Minute = 1.0 / 1440;

    [Theory]
    [InlineData(10, 2.7, true)]
    [InlineData(10.02, 2.7, false)]
    [InlineData(5, 2.69, false)]
    [InlineData(0, 2.7, true)]
    public void Two_places_count_within_the_time_and_from_the_distance_on(
        double minutes,
        double degrees,
        bool raised
    ) =>
        Run(Elsewhere, [E(1, place: Home), E(1 + (minutes * Minute) + 1e-9, place: North(degrees))])
            .Any()
            .ShouldBe(raised);

    [Fact]
    public void It_measures_the_kilometres_to_the_nearest_event_that_is_far_enough()
    {
        var alert = Run(
                Elsewhere,
                [E(1, place: Home), E(1 + Minute, place: North(1)), E(1 + (2 * Minute), place: North(4))]
            )
            .Single();
        (alert.Measure, alert.First).ShouldBe((333.6m, E(1 + Minute, place: North(1)).Id));
    }

    [Fact]
    public void Who_goes_on_at_both_places_raises_one_alert() =>
        Run(Elsewhere, Enumerable.Range(0, 20).Select(i => E(1 + (i * Minute), place: i % 2 == 0 ? Home : North(5))))
            .Count.ShouldBe(1);

    [Fact]
    public void A_network_that_all_leave_through_does_not_count() =>
        Run(
                Elsewhere,
                [E(1, place: Home), E(1 + Minute, place: North(9)) with { Address = "198.51.100.7" }],
                """, "networks": [ { "name": "exit", "ranges": ["198.51.100.0/24"], "egress": true } ] """
            )
            .ShouldBeEmpty();

    // Rhythm.

    private const string Rhythm = """ "kind": "rhythm", "per": "channel" """;

    /// <summary>Three events an hour.</summary>
    private static IEnumerable<ActivityEvent> Busy(double first, double to, string channel = "c") =>
        Enumerable
            .Range(0, (int)((to - first) * 72))
            .Select(i => E(first + (i / 72.0) + 0.002, actor: "svc", channel: channel));

    /// <summary>In the working hours of working days.</summary>
    private static IEnumerable<ActivityEvent> Office(int days, string channel, int people, params int[] away) =>
        from day in Enumerable.Range(0, days)
        where day % 7 < 5 && !away.Contains(day)
        from hour in Enumerable.Range(8, 9)
        from person in Enumerable.Range(0, people)
        select E(day + ((hour + (person / 20.0)) / 24), $"p{person}", channel);

    [Fact]
    public void A_channel_that_was_never_silent_is_missed_within_half_a_day() =>
        Run(Rhythm, Busy(0, 30), until: 32).Single().At.ShouldBeInRange(At(30.08), At(30.5));

    [Fact]
    public void A_quiet_names_its_channel_and_the_event_before_it()
    {
        var alert = Run(Rhythm, Busy(0, 30), until: 32).Single();
        (alert.Key, alert.Event, alert.First).ShouldBe(("c", null, Busy(0, 30).Last().Id));
    }

    [Fact]
    public void A_channel_without_two_weeks_of_history_is_not_judged() =>
        Run(Rhythm, Busy(0, 13), until: 20).ShouldBeEmpty();

    [Fact]
    public void Nights_and_weekends_of_an_office_are_no_quiet() =>
        Run(Rhythm, Office(56, "c", 8), until: 56).ShouldBeEmpty();

    [Fact]
    public void A_holiday_on_which_the_other_channels_are_quiet_too_is_no_fault() =>
        Run(Rhythm, [.. Office(49, "c", 8, 31), .. Office(49, "d", 8, 31), .. Busy(0, 49, "m")], until: 49)
            .ShouldBeEmpty();

    [Fact]
    public void A_working_day_that_one_channel_alone_misses_is_a_fault() =>
        Run(Rhythm, [.. Office(49, "c", 8, 31), .. Office(49, "d", 8)], until: 49).Select(a => a.Key).ShouldBe(["c"]);

    [Fact]
    public void A_quiet_once_raised_stays_where_it_was_raised_as_time_goes_on() =>
        Gen.Int[13, 200]
            .Sample(hours =>
            {
                var early = Run(Rhythm, Busy(0, 30), until: 30.6).Single();
                Run(Rhythm, Busy(0, 30), until: 30 + (hours / 24.0)).Select(a => a.At).ShouldBe([early.At]);
            });

    // Drift.

    /// <summary>So many a day on working days.</summary>
    private static IEnumerable<ActivityEvent> Daily(string actor, int first, int to, Func<int, int> count) =>
        from day in Enumerable.Range(first, to - first)
        where day % 7 < 5
        from i in Enumerable.Range(0, count(day))
        select E(day + 0.35 + (i * 0.004), actor);

    /// <summary>Ten a day, now two more and now two fewer.</summary>
    private static int Usual(int day) => 10 + (day % 5) - 2;

    private static string Drift(string against) => $""" "kind": "drift", "per": "actor", "against": "{against}" """;

    [Fact]
    public void A_rise_by_half_is_found_within_ten_working_days() =>
        Run(Drift("self"), Daily("x", 0, 70, d => Usual(d) + (d >= 42 ? 5 : 0)))
            .Select(a => a.At)
            .ShouldHaveSingleItem()
            .ShouldBeInRange(At(43), At(54));

    [Fact]
    public void A_steady_measure_raises_nothing() => Run(Drift("self"), Daily("x", 0, 70, Usual)).ShouldBeEmpty();

    [Fact]
    public void One_day_alone_is_no_lasting_rise() =>
        Run(Drift("self"), Daily("x", 0, 70, d => Usual(d) + (d == 42 ? 100 : 0))).ShouldBeEmpty();

    [Fact]
    public void Who_comes_back_from_three_weeks_of_leave_does_not_rise() =>
        Run(Drift("self"), Daily("x", 0, 84, d => d >= 28 && d < 49 ? 0 : Usual(d))).ShouldBeEmpty();

    private static string Unit(int people) =>
        ", \"people\": ["
        + string.Join(
            ",",
            Enumerable.Range(0, people).Select(i => $$"""{ "id": "p{{i}}", "unit": "Finance", "title": "Clerk" }""")
        )
        + "]";

    private static IEnumerable<ActivityEvent> Clerks(Func<int, int, int> count) =>
        Enumerable.Range(0, 6).SelectMany(p => Daily($"p{p}", 0, 70, day => count(p, day)));

    [Fact]
    public void What_all_peers_do_at_a_quarters_end_is_no_rise_of_one() =>
        Run(Drift("both"), Clerks((_, d) => Usual(d) + (d >= 42 && d < 49 ? 9 : 0)), Unit(6)).ShouldBeEmpty();

    [Fact]
    public void A_rise_that_the_peers_do_not_share_is_found() =>
        Run(Drift("both"), Clerks((p, d) => Usual(d) + (d >= 42 && p == 3 ? 9 : 0)), Unit(6))
            .Select(a => a.Key)
            .ShouldBe(["p3"]);

    /// <summary>
    /// NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.3 (CUSUM control charts), the example with target 325 and
    /// k = 0.3175; data and sums from memory.
    /// </summary>
    [Fact]
    public void The_cumulative_sum_is_that_of_the_handbooks_example()
    {
        double[] data =
        [
            324.925,
            324.675,
            324.725,
            324.350,
            325.350,
            325.225,
            324.125,
            324.525,
            325.225,
            324.600,
            324.625,
            325.150,
            328.325,
            327.250,
            327.825,
            328.500,
            326.675,
            327.775,
            326.875,
            328.350,
        ];
        var sum = 0.0;
        data.Select(x => sum = Cusum.Next(sum, x - 325, 0.3175))
            .TakeLast(8)
            .ShouldBe([3.01, 4.94, 7.45, 10.63, 11.99, 14.44, 16.00, 19.04], tolerance: 0.006);
    }

    // More than usual.

    private const string BeyondUsual =
        """ "kind": "count", "usual": true, "per": "none", "of": "distinct:actor", "within": "P1D" """;

    [Fact]
    public void A_count_goes_by_what_is_usual_for_all_together()
    {
        var usual = Enumerable
            .Range(0, 30)
            .SelectMany(d => Enumerable.Range(0, 6).Select(i => E(d + (i * 0.1), $"p{i}")));
        var spread = Enumerable.Range(0, 80).Select(i => E(30 + (i * 0.01), $"q{i}"));
        Run(BeyondUsual, [.. usual, .. spread]).Single().At.ShouldBeInRange(At(30.1), At(30.4));
    }

    [Fact]
    public void A_week_is_held_against_the_weeks_before_it() =>
        Run(
                BeyondUsual
                    .Replace("P1D", "P7D", StringComparison.Ordinal)
                    .Replace("distinct:actor", "events", StringComparison.Ordinal),
                [
                    .. Enumerable.Range(0, 70).Select(d => E(d)),
                    .. Enumerable.Range(0, 60).Select(i => E(70 + (i * 0.05))),
                ]
            )
            .ShouldHaveSingleItem()
            .At.ShouldBeGreaterThan(At(70));

    [Fact]
    public void Without_two_weeks_of_history_no_count_is_beyond_the_usual() =>
        Run(BeyondUsual, Enumerable.Range(0, 80).Select(i => E(5 + (i * 0.01), $"q{i}")).Prepend(E(0))).ShouldBeEmpty();

    [Theory]
    [InlineData(""" "kind": "count", "usual": true, "threshold": 5, "within": "P1D" """, "watches[0].threshold")]
    [InlineData(
        """ "kind": "count", "usual": true, "within": "P8D" """,
        "watches[0].within: usual needs a window of at most P7D"
    )]
    [InlineData(""" "kind": "woken", "per": "actor" """, "watches[0].quiet: it is missing")]
    [InlineData(""" "kind": "elsewhere" """, "watches[0].within: it is missing")]
    [InlineData(""" "kind": "rhythm", "per": "actor" """, "“actor” is none of channel, address, application, none")]
    [InlineData(""" "kind": "drift", "against": "all" """, "“all” is none of self, peers, both")]
    [InlineData(""" "kind": "drift", "sensitivity": "some" """, "“some” is none of low, medium, high")]
    public void A_mistake_in_a_watch_is_told_with_its_place(string watch, string says) =>
        Refused(watch).ShouldContain(says);

    public static TheoryData<string> Learning =>
        [
            Woken.Replace("P30D", "P10D", StringComparison.Ordinal),
            Elsewhere.Replace("PT10M", "PT30M", StringComparison.Ordinal),
            Rhythm,
            Drift("self"),
            Drift("peers"),
            Drift("both"),
            """ "kind": "count", "usual": true, "per": "actor", "within": "PT6H", "least": 2, "sensitivity": "high" """,
        ];

    /// <summary>
    /// Ten weeks of six colleagues. One of them does more from a day on, or all do and one more than the others; some are
    /// away for a while, one is abroad, and all are silent for some days.
    /// </summary>
    private static readonly Gen<ActivityEvent[]> Histories = Gen.Select(
            Gen.Int[-3, 3].Array[6 * 70],
            Gen.Int[28, 60],
            Gen.Int[1, 3],
            Gen.Int[25, 60],
            Gen.Int[0, 16],
            Gen.Int[25, 60],
            Gen.Int[1, 2]
        )
        .Select(
            (noise, rises, times, away, absent, silent, all) =>
                (
                    from p in Enumerable.Range(0, 6)
                    from day in Enumerable.Range(0, 70)
                    where
                        day % 7 < 5
                        && (p > 1 || day < away || day >= away + absent)
                        && (day < silent || day > silent + 2)
                    from i in Enumerable.Range(
                        0,
                        (6 + noise[(p * 70) + day])
                            * (
                                day < rises ? 1
                                : p == 3 ? all * times
                                : all
                            )
                    )
                    select E(day + 0.33 + (i * 0.013), $"p{p}", place: p == 4 && (day + i) % 60 == 0 ? North(9) : Home)
                ).ToArray()
        );

    [Theory]
    [MemberData(nameof(Learning))]
    public void What_is_raised_by_a_moment_is_not_changed_by_what_comes_later(string watch)
    {
        var raised = 0;
        Gen.Select(Histories, Gen.Double[20, 69], Gen.Int[0, 10], Gen.Int[-50, 50])
            .Sample(
                (events, any, near, minutes) =>
                {
                    // As often as not near an alert, where a change would show.
                    var whole = Run(watch, events, Unit(6), until: 70);
                    var moment =
                        near < 5 && near < whole.Count ? whole[near].At + Duration.FromMinutes(minutes) : At(any);
                    var by = whole.Where(a => a.At <= moment).ToList();
                    Interlocked.Add(ref raised, by.Count);
                    Run(watch, events.Where(e => e.Time <= moment), Unit(6), until: (moment - Start).TotalDays)
                        .Select(a => (a.Key, a.At, a.Event))
                        .ShouldBe(by.Select(a => (a.Key, a.At, a.Event)));
                },
                iter: 100
            );
        raised.ShouldBeGreaterThan(0);
    }

    public static TheoryData<string> Kinds => [.. WatchKinds.All.Select(k => k.Code)];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Each_kind_of_the_list_begins_with_a_rule_that_can_be_read(string code)
    {
        var kind = WatchKinds.All.Single(k => k.Code == code);
        var parts = kind.Parts.Select(p => $", \"{p.Name}\": {System.Text.Json.JsonSerializer.Serialize(p.Beginning)}");
        var file =
            $$"""{ "name": "w", "kind": "{{kind.Kind}}", "usual": {{(kind.Usual ? "true" : "false")}}{{string.Concat(parts)}} }""";
        WatchFile.ReadOne(file, Today).Refusal.ShouldBeNull();
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Each_sentence_names_every_part_of_its_kind_once(string code)
    {
        var kind = WatchKinds.All.Single(k => k.Code == code);
        kind.Parts.ShouldAllBe(p => kind.Sentence.Split("{" + p.Name + "}").Length == 2);
    }
}
