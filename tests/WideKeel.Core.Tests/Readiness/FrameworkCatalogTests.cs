using CsCheck;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

public sealed class FrameworkCatalogTests
{
    private static Outcome<Catalog> Read(string json) =>
        OscalProfile.Read(json, []) is { Refusal: { } refusal } ? refusal : OscalProfile.Read(json, []).Value.Chosen;

    private static string Catalog(string groups) =>
        $$$"""{"catalog":{"uuid":"u","metadata":{"title":"Our standard","version":"2"},"groups":{{{groups}}}}}""";

    [Fact]
    public void Two_frameworks_ship() => FrameworkCatalog.Shipped.Count.ShouldBe(2);

    /// <summary>NIST CSWP 29 (2024), The NIST Cybersecurity Framework 2.0: 22 categories; from memory.</summary>
    [Fact]
    public void The_cybersecurity_framework_has_its_22_categories() =>
        FrameworkCatalog.Shipped.Single(c => c.Code == "nist-csf-2.0").Requirements.Count.ShouldBe(22);

    [Fact]
    public void No_requirement_of_a_shipped_framework_stands_twice() =>
        FrameworkCatalog.Shipped.ShouldAllBe(c =>
            c.Requirements.DistinctBy(r => r.Code).Count() == c.Requirements.Count
        );

    [Fact]
    public void Controls_are_read_from_groups_within_groups() =>
        Read(
            Catalog(
                """
                [{"title":"A","groups":[{"title":"B","controls":[
                {"id":"a-1","title":"One","controls":[{"id":"a-1.1","title":"Enhanced"}]}]}]}]
                """
            )
        )
            .Value.Requirements.Select(r => $"{r.Group}/{r.Code}")
            .ShouldBe(["B/a-1", "B/a-1.1"]);

    [Fact]
    public void An_id_twice_is_refused_with_its_place() =>
        Read(Catalog("""[{"title":"A","controls":[{"id":"x","title":"1"},{"id":"x","title":"2"}]}]"""))
            .Refusal!.Sentence.ShouldContain("controls[1]");

    [Fact]
    public void A_file_without_a_catalog_is_refused() => Read("{}").Refusal!.Sentence.ShouldContain("catalog");

    [Fact]
    public void A_catalog_without_controls_is_refused() => Read(Catalog("[]")).Refused.ShouldBeTrue();

    [Fact]
    public void Groups_that_nest_without_end_are_refused()
    {
        var nested = """{"title":"x","controls":[{"id":"c","title":"c"}]}""";
        for (var i = 0; i < 25; i++)
        {
            nested = $$"""{"title":"x","groups":[{{nested}}]}""";
        }

        Read(Catalog($"[{nested}]")).Refused.ShouldBeTrue();
    }

    [Fact]
    public void What_is_written_as_OSCAL_is_read_as_it_was()
    {
        var shipped = FrameworkCatalog.Shipped[0];
        Read(FrameworkCatalog.WriteOscal(shipped, Guid.Empty, "2026-06-15T00:00:00Z").ToJsonString())
            .Value.Requirements.ShouldBe(shipped.Requirements);
    }

    [Fact]
    public void A_draw_by_the_same_seed_is_the_same_draw() =>
        Gen.Select(Gen.Int[1, 400], Gen.Int, Gen.Bool)
            .Sample(
                (n, seed, systematic) =>
                    AttributeSample
                        .Draw(n, (n + 1) / 2, systematic, seed)
                        .SequenceEqual(AttributeSample.Draw(n, (n + 1) / 2, systematic, seed))
            );

    [Fact]
    public void A_draw_takes_nothing_twice_and_nothing_from_outside() =>
        Gen.Select(Gen.Int[1, 400], Gen.Int, Gen.Bool)
            .Sample(
                (n, seed, systematic) =>
                {
                    var size = (n + 2) / 3;
                    var drawn = AttributeSample.Draw(n, size, systematic, seed);
                    return drawn.Distinct().Count() == size && drawn.All(i => i >= 0 && i < n);
                }
            );

    /// <summary>Steele, Lea and Flood's splitmix64 from the seed 0 gives 0xE220A8397B1DCDAF first; from memory.</summary>
    [Fact]
    public void The_first_place_is_that_of_splitmix64() =>
        AttributeSample.Draw(1_000, 1, false, 0).ShouldBe([(int)(0xE220A8397B1DCDAF % 1_000)]);
}
