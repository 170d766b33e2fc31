namespace WideKeel.Core.Readiness;

/// <summary>A requirement by its framework and its code.</summary>
public sealed record RequirementCode(string Framework, string Code)
{
    public override string ToString() => $"{Framework}/{Code}";
}

/// <summary>Two requirements of different frameworks that ask for the same.</summary>
public sealed record CrosswalkLink(RequirementCode From, RequirementCode To);

/// <summary>A requirement of a framework that somebody thinks of adopting, and what would answer it.</summary>
/// <param name="Controls">Codes of controls; empty where nothing answers it yet.</param>
/// <param name="Through">The requirements by which they do.</param>
public sealed record AnsweredAlready(
    CatalogRequirement Requirement,
    IReadOnlyList<string> Controls,
    IReadOnlyList<RequirementCode> Through
);

/// <summary>
/// What asks for the same in several frameworks. It reads both ways and takes one step only: that A is like B and B like
/// C does not make A like C.
/// </summary>
public static class Crosswalk
{
    /// <summary>The links that ship, between the frameworks that ship.</summary>
    /// <remarks>
    /// From memory of the informative references that NIST publishes for CSF 2.0, at the level of categories; to be
    /// checked by whoever relies on them.
    /// </remarks>
    public static IReadOnlyList<CrosswalkLink> Shipped { get; } =
    [
        .. new (string Csf, string[] Controls)[]
        {
            ("GV.OC", ["pl-1"]),
            ("GV.RM", ["ra-3"]),
            ("GV.RR", ["ac-5"]),
            ("GV.PO", ["pl-1"]),
            ("GV.OV", ["ca-7"]),
            ("GV.SC", ["sa-9"]),
            ("ID.RA", ["ra-3", "ca-2"]),
            ("ID.IM", ["ca-2", "ca-5"]),
            ("PR.AA", ["ac-2", "ac-3", "ac-6", "ac-17", "ia-2"]),
            ("PR.AT", ["at-2", "at-3"]),
            ("PR.DS", ["mp-6", "cp-9", "si-12"]),
            ("PR.PS", ["cm-3", "au-2", "au-12"]),
            ("PR.IR", ["cp-10"]),
            ("DE.CM", ["si-4", "ca-7"]),
            ("DE.AE", ["au-6", "si-4"]),
            ("RS.MA", ["ir-4"]),
            ("RS.AN", ["ir-4", "au-9"]),
            ("RS.CO", ["ir-6"]),
            ("RS.MI", ["ir-4"]),
            ("RC.RP", ["cp-10"]),
        }.SelectMany(l =>
            l.Controls.Select(c => new CrosswalkLink(new("nist-csf-2.0", l.Csf), new("sp-800-53-slice", c)))
        ),
    ];

    /// <summary>For each requirement of a catalog: the controls that answer one that is linked to it.</summary>
    /// <param name="answers">What controls answer now, by requirement.</param>
    public static IReadOnlyList<AnsweredAlready> Preview(
        Catalog catalog,
        IEnumerable<CrosswalkLink> links,
        ILookup<RequirementCode, string> answers
    )
    {
        var linked = links
            .SelectMany(l => new[] { (l.From, l.To), (From: l.To, To: l.From) })
            .ToLookup(l => l.Item1, l => l.Item2);
        return
        [
            .. catalog.Requirements.Select(r =>
            {
                var through = linked[new(catalog.Code, r.Code)]
                    .Distinct()
                    .Where(answers.Contains)
                    .OrderBy(t => t.ToString(), StringComparer.Ordinal)
                    .ToList();
                return new AnsweredAlready(
                    r,
                    [.. through.SelectMany(t => answers[t]).Distinct().Order(StringComparer.Ordinal)],
                    through
                );
            }),
        ];
    }

    /// <summary>
    /// Reads links as CSV with the columns from framework, from, to framework, to; the first line that is wrong is named.
    /// </summary>
    /// <param name="rows">Cells by column name, with the number of their line.</param>
    public static Outcome<IReadOnlyList<CrosswalkLink>> Read(
        IEnumerable<(int Line, IReadOnlyDictionary<string, string> Cells)> rows
    )
    {
        HashSet<CrosswalkLink> links = [];
        foreach (var (line, cells) in rows)
        {
            string Cell(string name) => cells.GetValueOrDefault(name)?.Trim() ?? "";
            var link = new CrosswalkLink(
                new(Cell("from framework"), Cell("from")),
                new(Cell("to framework"), Cell("to"))
            );
            if (new[] { link.From.Framework, link.From.Code, link.To.Framework, link.To.Code }.Any(c => c.Length == 0))
            {
                return new Refusal(
                    "line-malformed",
                    "crosswalk",
                    $"Line {line}: it needs “from framework”, “from”, “to framework” and “to”. Nothing was taken in."
                );
            }

            if (link.From.Framework == link.To.Framework)
            {
                return new Refusal(
                    "line-malformed",
                    "crosswalk",
                    $"Line {line}: both requirements are of {link.From.Framework}. Nothing was taken in."
                );
            }

            links.Add(link);
        }

        return links.ToList();
    }
}
