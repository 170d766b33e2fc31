using NodaTime;
using WideKeel.Core.Activity;

namespace WideKeel.Core.Tests.Activity;

/// <summary>Each kind of watch by small cases worked out by hand.</summary>
public class WatchTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private const string Signed = "\"action\":\"sign-in\",\"outcome\":\"success\"";

    private static List<string> Run(string watch, string events, string extra = "", string? until = null)
    {
        var set = WatchFile.Read($$"""{ "watches": [{{watch}}] {{extra}} }""", Today).Value;
        var read = WatchFile.ReadEvents(new StringReader(events)).Value;
        return
        [
            .. new WatchRun(read, set.Networks, set.People, set.Zone, until is null ? null : EventLine.Moment(until))
                .Alerts(set.Watches)
                .Select(a =>
                    $"{a.Key ?? "-"} {EventLine.Text(a.At)[11..19]} {a.Event ?? "-"} {WatchFile.Write(a)["measure"]} {a.First ?? "-"}"
                ),
        ];
    }

    private static string E(string id, string time, string rest) =>
        $$"""{"id":"{{id}}","time":"2026-06-01T{{time}}Z",{{rest}}}""" + "\n";

    [Fact]
    public void Each_raises_one_alert_an_event() =>
        Run(
                """{"name":"w","kind":"each","where":"action = role.add"}""",
                E("a", "08:00:00", "\"action\":\"role.add\"") + E("b", "08:00:01", "\"action\":\"role.remove\"")
            )
            .ShouldBe(["- 08:00:00 a 1 -"]);

    [Fact]
    public void A_count_alerts_at_the_event_that_reaches_the_threshold_and_again_after_it_fell_below()
    {
        const string one = "\"action\":\"file.delete\",\"actor\":\"x\"";
        Run(
                """{"name":"w","kind":"count","per":"actor","threshold":2,"within":"PT10S"}""",
                E("a", "08:00:00", one)
                    + E("b", "08:00:05", one)
                    + E("c", "08:00:06", one)
                    + E("d", "08:01:00", one)
                    + E("e", "08:01:09", one)
            )
            .ShouldBe(["x 08:00:05 b 2 a", "x 08:01:09 e 2 d"]);
    }

    [Fact]
    public void A_window_does_not_hold_the_event_that_is_exactly_as_old_as_it_is_long()
    {
        const string one = "\"actor\":\"x\"";
        Run(
                """{"name":"w","kind":"count","per":"actor","threshold":2,"within":"PT10S"}""",
                E("a", "08:00:00", one) + E("b", "08:00:10", one)
            )
            .ShouldBeEmpty();
    }

    [Fact]
    public void A_count_of_distinct_values_passes_over_events_without_one()
    {
        Run(
                """{"name":"w","kind":"count","per":"actor","of":"distinct:address","threshold":2,"within":"PT1H"}""",
                E("a", "08:00:00", "\"actor\":\"x\",\"address\":\"192.0.2.1\"")
                    + E("b", "08:00:01", "\"actor\":\"x\"")
                    + E("c", "08:00:02", "\"actor\":\"x\",\"address\":\"192.0.2.1\"")
                    + E("d", "08:00:03", "\"actor\":\"x\",\"address\":\"192.0.2.2\"")
            )
            .ShouldBe(["x 08:00:03 d 2 a"]);
    }

    [Fact]
    public void A_sum_takes_an_amount_that_is_missing_as_zero()
    {
        Run(
                """{"name":"w","kind":"count","of":"sum:amount","threshold":10.5,"within":"P1D"}""",
                E("a", "08:00:00", "\"amount\":4")
                    + E("b", "08:00:01", "\"code\":\"x\"")
                    + E("c", "08:00:02", "\"amount\":6.5")
            )
            .ShouldBe(["- 08:00:02 c 10.5 a"]);
    }

    [Fact]
    public void An_excepted_event_does_not_count()
    {
        Run(
                """{"name":"w","kind":"each","where":"action = file.delete","except":"actor = backup@x.example"}""",
                E("a", "08:00:00", "\"action\":\"file.delete\",\"actor\":\"backup@x.example\"")
                    + E("b", "08:00:01", "\"action\":\"file.delete\",\"actor\":\"a@x.example\"")
            )
            .ShouldBe(["- 08:00:01 b 1 -"]);
    }

    [Fact]
    public void A_first_value_alerts_once_the_scope_has_learnt()
    {
        string At(string id, string time, string country) =>
            E(id, time, $$"""{{Signed}},"actor":"x","place":{"country":"{{country}}"}""");
        Run(
                """{"name":"w","kind":"first","dimension":"country","scope":"actor","learn":"PT1H"}""",
                At("a", "08:00:00", "XA")
                    + At("b", "08:59:59", "XB")
                    + At("c", "09:00:00", "XC")
                    + At("d", "09:00:01", "XB")
            )
            .ShouldBe(["x 09:00:00 c 1 -"]);
    }

    [Fact]
    public void A_person_without_peers_is_not_judged()
    {
        Run(
                """{"name":"w","kind":"first","dimension":"device","scope":"peers","learn":"PT0S"}""",
                E("a", "08:00:00", "\"actor\":\"x\",\"device\":\"d1\"")
                    + E("b", "08:00:01", "\"actor\":\"y\",\"device\":\"d1\""),
                """, "people":[{"id":"y","unit":"Yard","title":"Engineer"}]"""
            )
            .ShouldBe(["y 08:00:01 b 1 -"]);
    }

    [Fact]
    public void A_journey_faster_than_believed_alerts_at_the_later_sign_in()
    {
        string At(string id, string time, double lon) =>
            E(id, time, $$"""{{Signed}},"actor":"x","place":{"country":"XA","lat":0,"lon":{{lon}}}""");
        // A degree of the equator on this sphere: 2π · 6371.0088 / 360 = 111.19508 km.
        Run(
                """{"name":"w","kind":"journey","maxKmh":900,"minKm":500}""",
                At("a", "08:00:00", 0) + At("b", "09:00:00", 10) + At("c", "09:00:00", 20) + At("d", "20:00:00", 0)
            )
            .ShouldBe(["x 09:00:00 b 1112 a", "x 09:00:00 c  b"]);
    }

    [Fact]
    public void A_sign_in_through_an_exit_network_is_no_place_to_travel_from()
    {
        string At(string id, string time, double lon, string address) =>
            E(id, time, $$"""{{Signed}},"actor":"x","address":"{{address}}","place":{"lat":0,"lon":{{lon}}}""");
        Run(
                """{"name":"w","kind":"journey"}""",
                At("a", "08:00:00", 0, "192.0.2.1")
                    + At("b", "08:30:00", 50, "198.51.100.7")
                    + At("c", "09:00:00", 1, "192.0.2.1"),
                """, "networks":[{"name":"vpn","ranges":["198.51.100.0/24"],"egress":true}]"""
            )
            .ShouldBeEmpty();
    }

    [Fact]
    public void Silence_is_reported_between_neighbours_and_up_to_the_end()
    {
        const string one = "\"channel\":\"gateway\"";
        Run(
                """{"name":"w","kind":"silence","where":"channel = gateway","for":"PT2H"}""",
                E("a", "08:00:00", one) + E("b", "10:00:00", one) + E("c", "13:30:00", one),
                until: "2026-06-01T16:00:00.500Z"
            )
            .ShouldBe(["- 12:00:00 - 12600 b", "- 15:30:00 - 9000.5 c"]);
    }

    [Fact]
    public void A_sequence_uses_up_what_came_before_it()
    {
        const string watch =
            """{"name":"w","kind":"sequence","first":"action = log.stop","then":"action = file.delete","per":"actor","within":"PT30M"}""";
        string At(string id, string time, string action) => E(id, time, $"\"actor\":\"x\",\"action\":\"{action}\"");
        Run(
                watch,
                At("a", "08:00:00", "log.stop")
                    + At("b", "08:05:00", "log.stop")
                    + At("c", "08:10:00", "file.delete")
                    + At("d", "08:11:00", "file.delete")
                    + At("e", "08:20:00", "log.stop")
                    + At("f", "08:50:00", "file.delete")
            )
            .ShouldBe(["x 08:10:00 c 2 a", "x 08:50:00 f 1 e"]);
    }

    [Fact]
    public void The_order_of_the_input_does_not_matter()
    {
        var events = string.Concat(
            Enumerable.Range(0, 40).Select(i => E($"e{i:00}", $"08:{i % 7:00}:{i:00}", $"\"actor\":\"x{i % 3}\""))
        );
        const string watch = """{"name":"w","kind":"count","per":"actor","threshold":3,"within":"PT1M"}""";
        var backwards = string.Join('\n', events.Split('\n').Reverse());
        Run(watch, backwards).ShouldBe(Run(watch, events));
    }

    [Fact]
    public void An_id_that_a_channel_has_had_already_is_dropped() =>
        Run(
                """{"name":"w","kind":"each"}""",
                E("a", "08:00:00", "\"channel\":\"c\"")
                    + E("a", "09:00:00", "\"channel\":\"c\"")
                    + E("a", "10:00:00", "\"channel\":\"d\"")
            )
            .ShouldBe(["- 08:00:00 a 1 -", "- 10:00:00 a 1 -"]);

    [Fact]
    public void An_hour_far_beyond_the_same_hour_of_five_weeks_is_unusual()
    {
        var start = Instant.FromUtc(2026, 5, 4, 9, 0);
        var lines = Enumerable
            .Range(0, 5)
            .SelectMany(week =>
                Enumerable
                    .Range(0, 2)
                    .Select(i => (start + Duration.FromDays(7 * week) + Duration.FromMinutes(i), $"w{week}-{i}"))
            )
            .Concat(
                Enumerable
                    .Range(0, 30)
                    .Select(i => (start + Duration.FromDays(35) + Duration.FromMinutes(i), $"x{i:00}"))
            )
            .Select(e => $$"""{"id":"{{e.Item2}}","time":"{{EventLine.Text(e.Item1)}}","actor":"a"}""");
        Run(
                """{"name":"w","kind":"unusual","per":"actor","sensitivity":"medium","least":5}""",
                string.Join('\n', lines)
            )
            .Single()
            // Five twos: μ = 10.5 / 6 = 1.75, variance 0, so Poisson; scipy's −log10 of sf(29, 1.75) is 25.87.
            .ShouldBe("a 09:00:00 x00 25.87 -");
    }

    [Fact]
    public void An_hour_without_two_weeks_before_it_is_not_judged() =>
        Run(
                """{"name":"w","kind":"unusual","per":"actor"}""",
                string.Concat(Enumerable.Range(0, 50).Select(i => E($"e{i:00}", $"08:{i:00}:00", "\"actor\":\"x\"")))
            )
            .ShouldBeEmpty();

    [Fact]
    public void The_templates_that_ship_are_watches_that_can_be_read() =>
        WatchFile.Read(WatchTemplates.Json, Today).Value.Watches.Count.ShouldBeGreaterThanOrEqualTo(20);

    [Theory]
    [InlineData("""{"name":"w","kind":"loud"}""", "watches[0].kind")]
    [InlineData("""{"name":"w","kind":"count","threshold":0,"within":"PT1H"}""", "watches[0].threshold")]
    [InlineData("""{"name":"w","kind":"count","threshold":1,"within":"P1M"}""", "watches[0].within")]
    [InlineData("""{"name":"w","kind":"each","where":"nothing ="}""", "watches[0].where")]
    [InlineData("""{"name":"w","kind":"first","dimension":"mood"}""", "watches[0].dimension")]
    public void A_watch_that_cannot_be_read_is_refused_with_its_place(string watch, string place) =>
        WatchFile.Read($$"""{ "watches": [{{watch}}] }""", Today).Refusal!.Sentence.ShouldStartWith(place);

    [Fact]
    public void An_event_without_a_time_is_refused_with_its_line() =>
        WatchFile
            .ReadEvents(new StringReader(E("a", "08:00:00", "\"actor\":\"x\"") + "{\"id\":\"b\"}"))
            .Refusal!.Sentence.ShouldBe("Line 2, time: it is missing.");
}
