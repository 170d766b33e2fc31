using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Readiness;
using WideKeel.Core.Time;
using WideKeel.Store;
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
                [.. controls.Select(c => ControlOf(c, today))]
            ),
            frameworks,
            controls,
            units.ToDictionary(u => Wording.Id(u.Id), u => u.Name),
            today
        );
    }

    private static Control ControlOf(ControlRow row, LocalDate today) =>
        new(
            row.Code,
            row.Units.Length == 0 ? null : row.Units.Split(',').ToHashSet(),
            row.Maps.Select(m => Wording.Id(m.RequirementId)).ToHashSet(),
            row.NotApplicable.Length == 0 || row.ApprovedBy.Length == 0,
            row.Weight,
            row.Effort,
            [.. row.Parts.OrderBy(p => p.Id).Select(p => PartOf(p, today))]
        );

    /// <summary>A part as the computation knows it.</summary>
    public static ControlPart PartOf(ControlPartRow row, LocalDate today)
    {
        var period = Period.Parse(row.Period).Value;
        var last = row.Proofs.OrderBy(p => p.Id).LastOrDefault();
        return row.Kind switch
        {
            PartKind.Test => new ControlPart.Test(row.Weight, last?.Passed ?? false, last?.Day, period),
            PartKind.Routine => new ControlPart.Routine(
                row.Weight,
                row.First is { } first ? Recurrence.Latest(first, row.Recurrence, today) : null,
                row.First is { } from ? Recurrence.Next(from, row.Recurrence, today) : null,
                row.Proofs.Count == 0 ? null : row.Proofs.Max(p => p.Day)
            ),
            PartKind.Evidence => new ControlPart.Evidence(
                row.Weight,
                row.Proofs.Count == 0 ? null : row.Proofs.Max(p => p.Day),
                period
            ),
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

    /// <summary>A part with the proofs that it had by the end of a day.</summary>
    private static ControlPartRow AsOf(ControlPartRow part, LocalDate day)
    {
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
        then.Proofs.AddRange(part.Proofs.Where(p => p.At.InUtc().Date <= day).OrderBy(p => p.Id));
        return then;
    }

    /// <summary>Whether a part counted on a day, by the proofs of then.</summary>
    public static bool CountedOn(ControlPartRow part, LocalDate day) => PartOf(AsOf(part, day), day).CountsOn(day);

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
