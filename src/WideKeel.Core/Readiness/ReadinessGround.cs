using NodaTime;

namespace WideKeel.Core.Readiness;

/// <param name="Counts">On the day that the ground is of.</param>
/// <param name="Terms">In words, how long a proof is valid or when the part is due.</param>
public sealed record GroundPart(long Id, string Title, decimal Weight, bool Counts, string Terms = "");

/// <param name="Units">Ids of the units where it applies; null for everywhere.</param>
/// <param name="Maps">The requirements that it serves, each as framework/requirement.</param>
public sealed record GroundControl(
    string Code,
    IReadOnlyList<string>? Units,
    IReadOnlyList<string> Maps,
    bool Applicable,
    decimal Weight,
    IReadOnlyList<GroundPart> Parts
);

/// <param name="People">How many are in scope.</param>
public sealed record GroundUnit(string Id, string Name, decimal People);

/// <param name="Id">As framework/requirement.</param>
public sealed record GroundRequirement(string Id, decimal Weight);

/// <summary>
/// Everything that the readiness of one day was computed from, so that a later day can say what moved it and by how much.
/// </summary>
/// <param name="Requirements">By the code of their framework.</param>
public sealed record ReadinessGround(
    IReadOnlyList<GroundUnit> Units,
    IReadOnlyDictionary<string, IReadOnlyList<GroundRequirement>> Requirements,
    IReadOnlyList<GroundControl> Controls
)
{
    /// <summary>The figure of one framework; 0 where there is nothing to divide by.</summary>
    public decimal Figure(string framework) =>
        ReadinessComputation
            .On(
                default,
                new(
                    [.. Units.Select(u => new ReadinessUnit(u.Id, u.People))],
                    [
                        new(
                            framework,
                            [
                                .. Requirements
                                    .GetValueOrDefault(framework, [])
                                    .Select(r => new Requirement(r.Id, r.Weight)),
                            ]
                        ),
                    ],
                    [
                        .. Controls.Select(c => new Control(
                            c.Code,
                            c.Units?.ToHashSet(),
                            c.Maps.ToHashSet(),
                            c.Applicable,
                            c.Weight,
                            0,
                            [.. c.Parts.Select(p => new Known(p.Weight, p.Counts))]
                        )),
                    ]
                )
            )
            .Frameworks[0]
            .Readiness
        ?? 0;

    /// <summary>What has to do with one framework.</summary>
    internal ReadinessGround Of(string framework) =>
        this with
        {
            Controls =
            [
                .. Controls.Where(c => c.Maps.Any(m => m.StartsWith($"{framework}/", StringComparison.Ordinal))),
            ],
        };

    private sealed record Known(decimal Weight, bool Counts) : ControlPart(Weight)
    {
        public override bool CountsOn(LocalDate day) => Counts;
    }
}
