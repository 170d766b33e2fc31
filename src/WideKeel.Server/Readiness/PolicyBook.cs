using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>One person whom a policy binds, and how they stand to it.</summary>
internal sealed record PolicyReader(OutsidePerson Person, Acknowledgement State, PolicyCopy? Copy);

/// <summary>A policy on a day: its version in force, and everybody whom it binds.</summary>
/// <param name="InForce">Null where nothing is in force, or where the policy has ended.</param>
/// <param name="MustKnow">The lowest version whose acknowledgement is enough.</param>
internal sealed record PolicyStanding(
    PolicyRow Row,
    PolicyVersionRow? InForce,
    int? MustKnow,
    IReadOnlyList<PolicyReader> Readers
)
{
    public int Count(Acknowledgement state) => Readers.Count(r => r.State == state);
}

/// <summary>Policies as rows, with whom they bind.</summary>
internal static class PolicyBook
{
    public static IQueryable<PolicyRow> Whole(WideKeelDb db) =>
        db.Policies.Include(p => p.Versions).Include(p => p.Copies).AsSplitQuery();

    public static PolicyStanding Of(PolicyRow row, DirectoryState directory, LocalDate day)
    {
        List<PolicyVersion> versions = [.. row.Versions.Select(VersionOf)];
        if (row.EndedOn < day || Policies.MustKnow(versions, day) is not { } must)
        {
            return new(row, null, null, []);
        }

        var now = Policies.InForce(versions, day)!.Number;
        var copies = row.Copies.ToLookup(c => c.Mail, StringComparer.OrdinalIgnoreCase);
        return new(
            row,
            row.Versions.Single(v => v.Number == now),
            must,
            [
                .. Policies
                    .InScope(directory, row.Units, row.Groups, day)
                    .OrderBy(p => p.Name, StringComparer.OrdinalIgnoreCase)
                    .Select(p => new PolicyReader(
                        p,
                        Policies.StateOf(
                            must,
                            copies[p.Id]
                                .Select(c => new PolicyAsked(c.Number, c.AskedOn, c.AcknowledgedAt is not null)),
                            row.Days,
                            day
                        ),
                        copies[p.Id].Where(c => c.Number >= must).MaxBy(c => c.Number)
                    )),
            ]
        );
    }

    private static PolicyVersion VersionOf(PolicyVersionRow row) =>
        new(row.Number, row.ApprovedAt is not null, row.InForceFrom, row.AsksAnew);

    /// <summary>Every policy that has not ended, on a day.</summary>
    public static async Task<IReadOnlyList<PolicyStanding>> AllAsync(
        WideKeelDb db,
        DirectoryState directory,
        LocalDate day,
        CancellationToken cancel
    ) =>
        [
            .. (await Whole(db).AsNoTracking().OrderBy(p => p.Title).ToListAsync(cancel))
                .Where(p => !(p.EndedOn < day))
                .Select(p => Of(p, directory, day)),
        ];
}

/// <summary>Whether policies are in force, looked at in time, and known to whom they bind.</summary>
internal sealed class PolicyMeasures : IMeasureSource
{
    public IReadOnlyList<Measure> Measures { get; } =
    [
        new(
            "policies-acknowledged",
            "Policies acknowledged",
            "People who acknowledged what binds them, or still have time for it.",
            "people",
            AcknowledgedAsync
        ),
        new(
            "policies-in-force",
            "Policies in force",
            "Policies that have an approved version in force, and whose review is not overdue.",
            "people",
            InForceAsync
        ),
    ];

    private static async Task<IReadOnlyList<MeasuredSubject>> AcknowledgedAsync(MeasureQuestion asked) =>
        [
            .. (await StandingAsync(asked)).SelectMany(p =>
                p.Readers.Select(r => new MeasuredSubject(
                    $"{p.Row.Code} {r.Person.Id}",
                    $"{r.Person.Name}: {p.Row.Title}",
                    r.Person.Unit,
                    r.State is Acknowledgement.Given or Acknowledgement.Asked,
                    Why(r),
                    LinkOf(p.Row)
                ))
            ),
        ];

    private static string Why(PolicyReader reader) =>
        reader.State switch
        {
            Acknowledgement.Given => $"Acknowledged version {Wording.Number(reader.Copy!.Number)}.",
            Acknowledgement.Asked => $"Was asked on {Wording.Day(reader.Copy!.AskedOn)} and has time.",
            Acknowledgement.Overdue =>
                $"Was asked on {Wording.Day(reader.Copy!.AskedOn)} and has not answered in time.",
            Acknowledgement.NotAsked => "Nobody has asked.",
            _ => throw new InvalidOperationException($"{reader.State} has no words."),
        };

    private static async Task<IReadOnlyList<MeasuredSubject>> InForceAsync(MeasureQuestion asked) =>
        [
            .. (await StandingAsync(asked)).Select(p => new MeasuredSubject(
                p.Row.Code,
                p.Row.Title,
                "",
                p.InForce is not null && !(p.Row.ReviewOn < asked.Calendar.Today),
                p.InForce is null ? "No approved version is in force."
                    : p.Row.ReviewOn is { } review ? $"To be looked at again by {Wording.Day(review)}."
                    : "Has no date for its next review.",
                LinkOf(p.Row)
            )),
        ];

    private static Task<IReadOnlyList<PolicyStanding>> StandingAsync(MeasureQuestion asked) =>
        PolicyBook.AllAsync(
            asked.Db,
            asked.Services.GetRequiredService<OrganisationDirectory>().State,
            asked.Calendar.Today,
            asked.Cancel
        );

    private static string LinkOf(PolicyRow row) => $"/readiness/policies?policy={Wording.Id(row.Id)}";
}
