using CsCheck;
using WideKeel.Core.Readiness;

namespace WideKeel.Core.Tests.Readiness;

/// <summary>What moved the readiness of a framework: true causes, each with its part of the way, which add up.</summary>
public class ReadinessMovementTests
{
    private static readonly ReadinessGround Before = new(
        [new("u1", "Yard", 30), new("u2", "Office", 10)],
        new Dictionary<string, IReadOnlyList<GroundRequirement>> { ["f"] = [new("f/q1", 1), new("f/q2", 3)] },
        [
            new("AC-1", null, ["f/q1"], true, 1, [new(1, "Test of backups", 1, true)]),
            new("AC-2", null, ["f/q2"], true, 1, [new(2, "Drill", 1, true), new(3, "Report", 1, false)]),
        ]
    );

    private static ReadinessGround With(Func<GroundControl, GroundControl> change, string of = "AC-1") =>
        Before with
        {
            Controls = [.. Before.Controls.Select(c => c.Code == of ? change(c) : c)],
        };

    private static string Of(ReadinessGround after) =>
        string.Join(" ", ReadinessMovement.Between(Before, after, "f").Select(m => m.ToString()));

    [Fact]
    public void What_is_the_same_did_not_move() => Of(With(c => c)).ShouldBeEmpty();

    [Fact]
    public void A_part_that_ended_is_named_with_the_points_that_it_took() =>
        Of(With(c => c with { Parts = [c.Parts[0] with { Counts = false }] }))
            .ShouldBe("AC-1 Test of backups: no longer counts. (−25.0 points)");

    [Fact]
    public void A_part_that_counts_by_another_validity_names_the_change() =>
        ReadinessMovement
            .Between(
                With(c => c with { Parts = [c.Parts[0] with { Counts = false, Terms = "valid for 90 days" }] }),
                With(c => c with { Parts = [c.Parts[0] with { Terms = "valid for 1 year" }] }),
                "f"
            )
            .Single()
            .Says.ShouldBe(
                "AC-1 Test of backups: counts again, because it is valid for 1 year (before: valid for 90 days)."
            );

    [Fact]
    public void A_mapping_that_was_taken_away_is_a_cause() =>
        Of(With(c => c with { Maps = ["f/q2"] }))
            .ShouldBe("AC-1 no longer answers q1. (−25.0 points) AC-1 answers q2. (+18.75 points)");

    [Fact]
    public void A_control_that_was_declared_not_applicable_is_a_cause() =>
        Of(With(c => c with { Applicable = false }, "AC-2")).ShouldBe("AC-2 is not applicable. (+37.5 points)");

    [Fact]
    public void A_weight_is_a_cause() =>
        Of(With(c => c with { Parts = [c.Parts[0] with { Weight = 3 }, c.Parts[1]] }, "AC-2"))
            .ShouldBe("AC-2 Drill: weighs 3, 1 before. (+18.75 points)");

    [Fact]
    public void A_control_that_is_gone_is_a_cause() =>
        Of(Before with { Controls = [Before.Controls[1]] })
            .ShouldBe("AC-1 serves no requirement here any more. (−25.0 points)");

    [Fact]
    public void A_headcount_is_a_cause_where_a_control_applies_in_one_unit_alone()
    {
        var narrow = With(c => c with { Units = ["u2"] });
        ReadinessMovement
            .Between(narrow, narrow with { Units = [new("u1", "Yard", 30), new("u2", "Office", 30)] }, "f")
            .Single()
            .Says.ShouldBe("Office has 30 people in scope, 10 before.");
    }

    [Fact]
    public void What_moved_another_framework_alone_is_no_cause() =>
        Of(
                Before with
                {
                    Controls = [.. Before.Controls, new("AC-9", null, ["g/q1"], true, 1, [new(9, "Drill", 1, true)])],
                }
            )
            .ShouldBeEmpty();

    private static readonly Gen<ReadinessGround> Grounds = (
        from people in Gen.Int[0, 4].Array[3]
        from weights in Gen.Int[0, 3].Array[4]
        from controls in (
            from units in Gen.Int[0, 7]
            from maps in Gen.Int[0, 15]
            from applicable in Gen.Bool
            from weight in Gen.Int[0, 3]
            from parts in (
                from there in Gen.Bool
                from counts in Gen.Bool
                from weighs in Gen.Int[0, 3]
                select (there, counts, weighs)
            ).Array[3]
            from present in Gen.Bool
            select (units, maps, applicable, weight, parts, present)
        ).Array[4]
        select (people, weights, controls)
    ).Select(
        (people, weights, controls) =>
            new ReadinessGround(
                [.. people.Select((p, i) => new GroundUnit($"u{i}", $"Unit {i}", p)).Where(u => u.People > 0)],
                new Dictionary<string, IReadOnlyList<GroundRequirement>>
                {
                    ["f"] = [.. weights.Select((w, i) => new GroundRequirement($"f/q{i}", w)).Where(r => r.Weight > 0)],
                },
                [
                    .. controls
                        .Select((c, i) => (c, i))
                        .Where(x => x.c.present)
                        .Select(x => new GroundControl(
                            $"C-{x.i}",
                            x.c.units == 0 ? null : [.. Bits(x.c.units, 3).Select(b => $"u{b}")],
                            [.. Bits(x.c.maps, 4).Select(b => $"f/q{b}")],
                            x.c.applicable,
                            x.c.weight,
                            [
                                .. x
                                    .c.parts.Select((p, k) => (p, k))
                                    .Where(p => p.p.there)
                                    .Select(p => new GroundPart((x.i * 10) + p.k, "Part", p.p.weighs, p.p.counts)),
                            ]
                        )),
                ]
            )
    );

    private static IEnumerable<int> Bits(int of, int most) => Enumerable.Range(0, most).Where(b => (of >> b & 1) == 1);

    [Fact]
    public void The_causes_of_any_change_add_up_to_what_the_figure_moved() =>
        Gen.Select(Grounds, Grounds)
            .Sample(
                (before, after) =>
                    Math.Abs(
                        ReadinessMovement.Between(before, after, "f").Sum(m => m.By)
                            - (after.Figure("f") - before.Figure("f"))
                    ) < 1e-9m
            );
}
