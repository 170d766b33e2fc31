using System.Text.Json.Nodes;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Activity;

/// <summary>What an event is given when it arrives, what a channel admits, and what the ledger says of a sealed day.</summary>
public class ArrivalTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static NamedNetwork Network(string name, params string[] ranges) =>
        new(name, [.. ranges.Select(r => Cidr.Read(r)!.Value)], Egress: false);

    [Fact]
    public void The_narrowest_range_names_the_network() =>
        new NamedNetworks([Network("wide", "192.0.2.0/24"), Network("narrow", "192.0.2.64/26")])
            .Of("192.0.2.70")!
            .Name.ShouldBe("narrow");

    [Fact]
    public void An_address_in_no_range_has_no_network() =>
        new NamedNetworks([Network("office", "192.0.2.0/24")]).Of("198.51.100.1").ShouldBeNull();

    [Fact]
    public void What_is_no_address_has_no_network() =>
        new NamedNetworks([Network("office", "192.0.2.0/24")]).Of("WS-017").ShouldBeNull();

    [Fact]
    public void The_narrowest_range_gives_the_place() =>
        new PlaceTable([
            ("2001:db8::/32", new EventPlace("XA", "Coast", 1, 2)),
            ("2001:db8:c::/48", new EventPlace("XB", "At sea", 3, 4)),
        ])
            .Of("2001:db8:c::7")!
            .Name.ShouldBe("At sea");

    private static bool Admits(AdmissionRules rules, string action, string? actor = null) =>
        rules
            .Compile(Today)
            .Value(
                new()
                {
                    Id = "e",
                    Time = default,
                    Action = action,
                    Actor = actor,
                    Category = EventActions.CategoryOf(action),
                }
            );

    [Fact]
    public void Rules_that_say_nothing_admit_everything() => Admits(new(), "file.read").ShouldBeTrue();

    [Fact]
    public void A_channel_without_reads_takes_a_deletion() => Admits(new(Reads: false), "file.delete").ShouldBeTrue();

    [Fact]
    public void A_channel_without_reads_takes_no_opening() => Admits(new(Reads: false), "file.read").ShouldBeFalse();

    [Fact]
    public void A_channel_without_writes_takes_no_deletion() =>
        Admits(new(Writes: false), "file.delete").ShouldBeFalse();

    [Fact]
    public void A_category_that_is_not_listed_is_not_admitted() =>
        Admits(new(Categories: ["mail"]), "file.read").ShouldBeFalse();

    [Fact]
    public void What_is_included_and_excepted_is_not_admitted() =>
        Admits(new(Include: "action = file.read", Except: "actor = svc@x.example"), "file.read", "svc@x.example")
            .ShouldBeFalse();

    [Theory]
    [InlineData("actor =", null, "include")]
    [InlineData(null, "mood = bad", "except")]
    public void A_condition_that_cannot_be_read_is_refused_by_its_field(
        string? include,
        string? except,
        string field
    ) => new AdmissionRules(Include: include, Except: except).Compile(Today).Refusal!.Field.ShouldBe(field);

    private static EventMapping Mapping(string field, string? pattern = null, string? zone = null) =>
        new(new Dictionary<string, string> { ["When"] = "time", ["X"] = field }, TimePattern: pattern, Zone: zone);

    [Theory]
    [InlineData("mood", null, null, "“mood”")]
    [InlineData("time", null, null, "two columns")]
    [InlineData("actor", null, "Moon/Base", "“Moon/Base”")]
    [InlineData("actor", "%", null, "pattern of times")]
    public void A_mapping_that_cannot_be_used_says_why(string field, string? pattern, string? zone, string why) =>
        Mapping(field, pattern, zone).Check()!.Sentence.ShouldContain(why);

    [Fact]
    public void A_mapping_that_can_be_used_is_not_refused() =>
        Mapping("actor", "dd.MM.uuuu HH:mm", "Europe/Copenhagen").Check().ShouldBeNull();

    [Theory]
    [InlineData(EventOutcome.Success)]
    [InlineData(EventOutcome.Failure)]
    [InlineData(EventOutcome.Interrupted)]
    public void An_outcome_survives_the_open_schema_out_and_in(EventOutcome outcome)
    {
        var e = new ActivityEvent
        {
            Id = "e1",
            Time = Instant.FromUtc(2026, 6, 1, 8, 0),
            Action = "sign-in",
            Actor = "a@x.example",
            Address = "192.0.2.1",
            Device = "WS-1",
            Outcome = outcome,
        };
        var back = OcsfLine.Read(OcsfLine.Write(e).ToJsonString()).Value;
        (back.Id, back.Time, back.Action, back.Actor, back.Address, back.Device, back.Outcome).ShouldBe(
            (e.Id, e.Time, e.Action, e.Actor, e.Address, e.Device, e.Outcome)
        );
    }

    [Fact]
    public void What_the_ledger_says_of_a_sealed_day_is_read_as_it_was_written()
    {
        var segment = new SealedSegment(
            "gateway",
            new(2026, 6, 1),
            2,
            7,
            Instant.FromUtc(2026, 6, 1, 0, 0),
            Instant.FromUtc(2026, 6, 1, 23, 0),
            "ab",
            "cd"
        );
        SealedSegment.Read(segment.ToJson()).ShouldBe(segment);
    }

    [Fact]
    public void An_entry_that_is_no_sealed_day_is_none() =>
        SealedSegment.Read(new JsonObject { ["channel"] = "gateway" }).ShouldBeNull();

    [Fact]
    public void The_leaf_does_not_depend_on_when_an_event_arrived()
    {
        var e = EventLine.Read("""{"id":"a","time":"2026-06-01T08:00:00Z"}""").Value;
        EventLine.LeafOf(e with { Received = Instant.MaxValue }).ShouldBe(EventLine.LeafOf(e));
    }

    [Fact]
    public void The_leaf_depends_on_every_field_that_is_sealed()
    {
        var e = EventLine.Read("""{"id":"a","time":"2026-06-01T08:00:00Z"}""").Value;
        byte[][] leaves =
        [
            .. new[]
            {
                e,
                e with
                {
                    Actor = "x",
                },
                e with
                {
                    Network = "x",
                },
                e with
                {
                    Unit = "x",
                },
                e with
                {
                    Original = "x",
                },
                e with
                {
                    Amount = 1,
                },
                e with
                {
                    Details = """{"a":1}""",
                },
                e with
                {
                    Outcome = EventOutcome.Failure,
                },
            }.Select(EventLine.LeafOf),
        ];
        leaves.Select(Convert.ToHexString).Distinct().Count().ShouldBe(leaves.Length);
    }
}
