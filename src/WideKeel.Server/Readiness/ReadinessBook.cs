using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>Everything that readiness is computed from, as it stands now.</summary>
/// <param name="Frameworks">With their requirements.</param>
/// <param name="Controls">With their mappings and parts, each part with its proofs.</param>
/// <param name="UnitNames">By id as the model uses it.</param>
internal sealed record ReadinessBook(
    ReadinessModel Model,
    IReadOnlyList<FrameworkRow> Frameworks,
    IReadOnlyList<ControlRow> Controls,
    IReadOnlyDictionary<string, string> UnitNames,
    LocalDate Today
)
{
    // Long because each of the tables becomes a part of the model.
    public static async Task<ReadinessBook> LoadAsync(
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var frameworks = await db
            .Frameworks.AsNoTracking()
            .Include(f => f.Requirements)
            .OrderBy(f => f.Title)
            .ToListAsync(cancel);
        var controls = await db
            .Controls.AsNoTracking()
            .Include(c => c.Maps)
            .Include(c => c.Parts)
                .ThenInclude(p => p.Proofs)
            .AsSplitQuery()
            .OrderBy(c => c.Code)
            .ToListAsync(cancel);
        var today = calendar.Today;
        var units = await db.Units.AsNoTracking().ToListAsync(cancel);
        var people = (
            await db
                .DirectoryPeople.AsNoTracking()
                .Where(p => p.LeavesOn == null || p.LeavesOn > today)
                .GroupBy(p => p.Unit)
                .Select(g => new { g.Key, Count = g.Count() })
                .ToListAsync(cancel)
        ).ToDictionary(p => p.Key, p => p.Count);
        List<ReadinessUnit> weighed =
        [
            .. units
                .Where(u => people.GetValueOrDefault(u.Name) > 0)
                .Select(u => new ReadinessUnit(Wording.Id(u.Id), people[u.Name])),
        ];
        if (weighed.Count == 0 && units.Count > 0)
        {
            weighed.Add(new(Wording.Id(units[0].Id), 1));
        }

        return new(
            new(
                weighed,
                [
                    .. frameworks.Select(f => new Framework(
                        f.Code,
                        [
                            .. f
                                .Requirements.OrderBy(r => r.Id)
                                .Select(r => new Core.Readiness.Requirement(Wording.Id(r.Id), r.Weight)),
                        ]
                    )),
                ],
                [.. controls.Select(c => ControlOf(c, units, today))]
            ),
            frameworks,
            controls,
            units.ToDictionary(u => Wording.Id(u.Id), u => u.Name),
            today
        );
    }

    private static Control ControlOf(ControlRow row, IReadOnlyList<Unit> units, LocalDate today) =>
        new(
            row.Code,
            row.Units.Length == 0 ? null : Beneath(row.Units.Split(','), units),
            row.Maps.Select(m => Wording.Id(m.RequirementId)).ToHashSet(),
            row.NotApplicable.Length == 0 || row.ApprovedBy.Length == 0,
            row.Weight,
            row.Effort,
            [.. row.Parts.OrderBy(p => p.Id).Select(p => PartOf(p, today))]
        );

    /// <summary>The units with these ids and all that lie beneath one of them.</summary>
    private static HashSet<string> Beneath(IReadOnlyCollection<string> ids, IReadOnlyList<Unit> units)
    {
        var chosen = units.Where(u => ids.Contains(Wording.Id(u.Id))).Select(u => new UnitPath(u.Path)).ToList();
        return [.. units.Where(u => chosen.Exists(c => c.Covers(new(u.Path)))).Select(u => Wording.Id(u.Id))];
    }

    /// <summary>
    /// The valid proofs: not withdrawn, their file still what was given, and approved by a second person where the part
    /// requires approval.
    /// </summary>
    public static IEnumerable<PartProof> Valid(ControlPartRow row) =>
        row.Proofs.Where(p =>
            p is { WithdrawnAt: null, BrokenSince: null }
            && (!row.NeedsReview || row.Kind != PartKind.Evidence || p.ReviewedAt is not null)
        );

    /// <summary>A part as the computation knows it.</summary>
    public static ControlPart PartOf(ControlPartRow row, LocalDate today)
    {
        var period = Period.Parse(row.Period).Value;
        var proofs = Valid(row).OrderBy(p => p.Id).ToList();
        var last = proofs.LastOrDefault();
        return row.Kind switch
        {
            PartKind.Test => new ControlPart.Test(row.Weight, last?.Passed ?? false, last?.Day, period),
            PartKind.Routine => new ControlPart.Routine(
                row.Weight,
                row.First is { } first ? Recurrence.Latest(first, row.Recurrence, today) : null,
                row.First is { } from ? Recurrence.Next(from, row.Recurrence, today) : null,
                proofs.Max(p => (LocalDate?)p.Day)
            ),
            PartKind.Evidence => new ControlPart.Evidence(row.Weight, proofs.Max(p => (LocalDate?)p.Day), period),
            _ => throw new ArgumentOutOfRangeException(nameof(row)),
        };
    }

    /// <summary>The first day after today on which a part stops counting; null where it does not count now, or no day is
    /// known.</summary>
    public static LocalDate? EndsOn(ControlPartRow row, LocalDate today) =>
        PartOf(row, today) switch
        {
            var part when !part.CountsOn(today) => null,
            ControlPart.Test { Ran: { } ran } test => test.Period.AddTo(ran),
            ControlPart.Evidence { Taken: { } taken } evidence => evidence.Fresh.AddTo(taken),
            ControlPart.Routine { Next: { } next } => next.PlusDays(-1),
            _ => null,
        };

    /// <summary>A part with the proofs that were valid at the end of a day.</summary>
    private static ControlPartRow AsOf(ControlPartRow part, LocalDate day)
    {
        bool By(Instant? at) => at?.InUtc().Date <= day;
        var then = new ControlPartRow
        {
            Id = part.Id,
            ControlId = part.ControlId,
            Kind = part.Kind,
            Title = part.Title,
            Weight = part.Weight,
            Period = part.Period,
            Recurrence = part.Recurrence,
            First = part.First,
        };
        var needed = part is { NeedsReview: true, Kind: PartKind.Evidence };
        then.Proofs.AddRange(
            part.Proofs.Where(p =>
                    By(p.At) && !By(p.WithdrawnAt) && !By(p.BrokenSince) && (!needed || By(p.ReviewedAt))
                )
                .OrderBy(p => p.Id)
                .Select(p => new PartProof
                {
                    Id = p.Id,
                    At = p.At,
                    Day = p.Day,
                    Passed = p.Passed,
                    Says = p.Says,
                    By = p.By,
                })
        );
        return then;
    }

    /// <summary>Each requirement as framework/requirement, by its id.</summary>
    public IReadOnlyDictionary<long, string> Codes =>
        Frameworks
            .SelectMany(f => f.Requirements.Select(r => (r.Id, Code: $"{f.Code}/{r.Code}")))
            .ToDictionary(r => r.Id, r => r.Code);

    /// <summary>What the readiness of today is computed from.</summary>
    public ReadinessGround Ground => GroundOf(Model, Today);

    /// <summary>The same of a former day: the same controls and mappings with the proofs of then.</summary>
    public ReadinessGround GroundOn(LocalDate day) => GroundOf(AsOf(day).Model, day);

    private static string TermsOf(ControlPartRow part) =>
        part.Kind == PartKind.Routine && part.Recurrence.Length > 0
            ? $"due {Recurrence.InWords(part.Recurrence)}"
            : $"valid for {Period.Parse(part.Period).Value.InWords()}";

    private ReadinessGround GroundOf(ReadinessModel model, LocalDate day)
    {
        var codes = Codes.ToDictionary(c => Wording.Id(c.Key), c => c.Value);
        return new(
            [.. model.Units.Select(u => new GroundUnit(u.Id, UnitNames[u.Id], u.People))],
            model.Frameworks.ToDictionary(
                f => f.Id,
                f =>
                    (IReadOnlyList<GroundRequirement>)
                        [.. f.Requirements.Select(r => new GroundRequirement(codes[r.Id], r.Weight))]
            ),
            [
                .. model.Controls.Zip(
                    Controls,
                    (c, row) =>
                        new GroundControl(
                            c.Id,
                            c.Units is null ? null : [.. c.Units.Order(StringComparer.Ordinal)],
                            [.. c.Maps.Select(m => codes[m]).Order(StringComparer.Ordinal)],
                            c.Applicable,
                            c.Weight,
                            [
                                .. c.Parts.Zip(
                                    row.Parts.OrderBy(p => p.Id),
                                    (p, part) =>
                                        new GroundPart(part.Id, part.Title, p.Weight, p.CountsOn(day), TermsOf(part))
                                ),
                            ]
                        )
                ),
            ]
        );
    }

    /// <summary>The same controls and mappings with the proofs of a former day.</summary>
    public ReadinessBook AsOf(LocalDate day) =>
        this with
        {
            Model = Model with
            {
                Controls =
                [
                    .. Model.Controls.Zip(
                        Controls,
                        (c, row) =>
                            c with
                            {
                                Parts = [.. row.Parts.OrderBy(p => p.Id).Select(p => PartOf(AsOf(p, day), day))],
                            }
                    ),
                ],
            },
        };
}
