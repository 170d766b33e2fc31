using System.Text.Json;
using NodaTime;
using WideKeel.Core.Access;

namespace WideKeel.Core.Tests.Access;

/// <summary>Effective access against networkx (Fixtures/make-reach.py), and by small cases.</summary>
public class ReachTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static List<Reach> Of(string directory) =>
        [.. new EffectiveAccess(AccessFile.Read(directory).Value, Today).All()];

    [Fact]
    public void Random_directories_with_cycles_give_what_networkx_finds()
    {
        using var cases = JsonDocument.Parse(
            File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Fixtures", "reach.json"))
        );
        foreach (var c in cases.RootElement.EnumerateArray())
        {
            Of(c.GetProperty("directory").GetRawText())
                .Select(r => $"{r.Person} {r.Resource} {string.Join(',', r.Roles)} {r.Path.Count}")
                .ShouldBe(
                    c.GetProperty("expected")
                        .EnumerateArray()
                        .Select(e =>
                            $"{e.GetProperty("person")} {e.GetProperty("resource")} "
                            + $"{string.Join(',', e.GetProperty("roles").EnumerateArray())} {e.GetProperty("length")}"
                        )
                );
        }
    }

    [Fact]
    public void Of_two_ways_of_one_length_the_smaller_by_its_ids_is_shown() =>
        Of(
                """
                { "people": [{"id":"p"}],
                  "groups": [{"id":"b","members":["p"]},{"id":"a","members":["p"]}],
                  "resources": [{"id":"r"}],
                  "grants": [{"to":"b","resource":"r","role":"x"},{"to":"a","resource":"r","role":"y"}] }
                """
            )
            .Single()
            .Path.ShouldBe(["p", "a", "r"]);

    [Fact]
    public void A_link_to_the_organisation_reaches_people_and_no_guests() =>
        Of(
                """
                { "people": [{"id":"g","kind":"guest"},{"id":"p","kind":"person"},{"id":"s","kind":"service"}],
                  "resources": [{"id":"r","links":[{"to":"organisation","role":"reader"}]}] }
                """
            )
            .Select(r => string.Join(' ', r.Path))
            .ShouldBe(["p organisation r"]);

    [Fact]
    public void Who_left_reaches_nothing() =>
        Of(
                """
                { "people": [{"id":"p","left":"2026-06-15"}], "resources": [{"id":"r"}],
                  "grants": [{"to":"p","resource":"r","role":"owner"}] }
                """
            )
            .ShouldBeEmpty();

    [Fact]
    public void A_resource_that_does_not_inherit_stops_what_is_granted_above() =>
        Of(
                """
                { "people": [{"id":"p"}],
                  "resources": [{"id":"a"},{"id":"b","parent":"a","inherits":false},{"id":"c","parent":"b"}],
                  "grants": [{"to":"p","resource":"a","role":"owner"}] }
                """
            )
            .Select(r => r.Resource)
            .ShouldBe(["a"]);

    [Theory]
    [InlineData("""{ "people": [{"id":"p"},{"id":"p"}] }""", "people[1].id")]
    [InlineData("""{ "groups": [{"id":"g","members":["nobody"]}] }""", "groups[0].members")]
    [InlineData("""{ "resources": [{"id":"a","parent":"b"},{"id":"b","parent":"a"}] }""", "resources[0].parent")]
    [InlineData("""{ "resources": [{"id":"a"}], "grants": [{"to":"x","resource":"a","role":"r"}] }""", "grants[0].to")]
    public void A_directory_that_does_not_hold_together_is_refused_with_its_place(string directory, string place) =>
        AccessFile.Read(directory).Refusal!.Sentence.ShouldStartWith(place);
}
