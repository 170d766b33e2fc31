using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Counts">It counts today.</param>
/// <param name="EndsOn">The last day on which it counts if nobody does anything.</param>
/// <param name="Due">A routine’s latest due day.</param>
/// <param name="SeenBy">The roles that see its proofs; empty for everybody who reads readiness.</param>
/// <param name="Kept">There may be proofs, and the caller does not see them.</param>
/// <param name="MayBring">The caller may bring a proof.</param>
/// <param name="NeedsReview">A proof counts when somebody else than its giver has reviewed it.</param>
/// <param name="ToApprove">Id of the proof that awaits the caller's approval.</param>
public sealed record PartView(
    long Id,
    PartKind Kind,
    string Title,
    decimal Weight,
    string Measure,
    double Expected,
    string Period,
    string Recurrence,
    LocalDate? First,
    string Doer,
    string Deputy,
    bool Counts,
    LocalDate? EndsOn,
    LocalDate? Due,
    IReadOnlyList<Role> SeenBy,
    bool Kept,
    bool MayBring,
    bool NeedsReview,
    long? ToApprove,
    IReadOnlyList<ProofView> Proofs
);

/// <summary>A finding of an audit that names a control and is not settled.</summary>
public sealed record OpenFinding(
    long AuditId,
    string Audit,
    string Title,
    string Severity,
    string Action,
    string Owner,
    LocalDate? Due
);

/// <param name="Hash">SHA-256 of what was frozen.</param>
/// <param name="ReviewedBy">Empty where nobody has.</param>
/// <param name="WithdrawnWhy">Empty where it stands.</param>
/// <param name="Broken">Its file is missing, or is not what was given.</param>
public sealed record ProofView(
    long Id,
    Instant At,
    LocalDate Day,
    bool Passed,
    string Says,
    string By,
    string FileName,
    long Bytes,
    string Hash,
    LocalDate? CoversFrom = null,
    LocalDate? CoversThrough = null,
    string ReviewedBy = "",
    string WithdrawnBy = "",
    string WithdrawnWhy = "",
    bool Broken = false
);

/// <param name="Formula">How its figure is made, with its numbers.</param>
/// <param name="AskedBy">Who asked for it to be not applicable and waits for another's approval.</param>
public sealed record ControlView(
    long Id,
    ControlSettings Settings,
    decimal? Readiness,
    ControlState State,
    string Formula,
    string NotApplicable,
    bool AwaitsApproval,
    bool MayApprove,
    string ApprovedBy,
    IReadOnlyList<PartView> Parts,
    IReadOnlyList<OpenFinding> Findings,
    long Revision
) : IRevised;

/// <summary>Controls as screens show them.</summary>
internal static class ControlViews
{
    private const int MostProofs = 20;

    public static async Task<Reply<IReadOnlyList<ControlView>>> List([AsParameters] ApiContext context)
    {
        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        var figures = ReadinessComputation.On(book.Today, book.Model).Controls.ToDictionary(c => c.Id);
        var codes = book.Codes;
        var findings = (
            await (
                from finding in context.Db.Set<AuditFinding>()
                join audit in context.Db.Audits on finding.AuditId equals audit.Id
                where finding.VerifiedAt == null && finding.Control != ""
                orderby finding.Id
                select new
                {
                    finding.Control,
                    View = new OpenFinding(
                        audit.Id,
                        audit.Name,
                        finding.Title,
                        finding.Severity,
                        finding.Action,
                        finding.Owner,
                        finding.Due
                    ),
                }
            ).ToListAsync(context.Cancel)
        ).ToLookup(f => f.Control, f => f.View);
        return (Outcome<IReadOnlyList<ControlView>>)
            book
                .Controls.Select(c =>
                    View(c, book.Today, figures[c.Code], codes, context.Caller) with
                    {
                        Findings = [.. findings[c.Code]],
                    }
                )
                .ToList();
    }

    private static ControlView View(
        ControlRow row,
        LocalDate today,
        ControlFigure figure,
        IReadOnlyDictionary<long, string> codes,
        Caller caller
    )
    {
        var parts = row.Parts.OrderBy(p => p.Id).Select(p => View(p, row.Owner, today, caller)).ToList();
        return new(
            row.Id,
            new(
                row.Code,
                row.Title,
                row.Says,
                row.Area,
                row.Owner,
                [.. row.Units.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(long.Parse)],
                [.. row.Maps.Select(m => codes[m.RequirementId]).Order(StringComparer.Ordinal)],
                row.Weight,
                row.Effort
            ),
            figure.Readiness,
            figure.State,
            parts.Count == 0
                ? "No test, routine or evidence is set up: 0."
                : $"({string.Join(" + ", parts.Select(p => p.Counts ? $"{p.Weight:0.##}" : "0"))}) ÷ "
                    + $"{parts.Sum(p => p.Weight):0.##} = {figure.Readiness:P0}",
            row.NotApplicable,
            row.NotApplicable.Length > 0 && row.ApprovedBy.Length == 0,
            caller.NotSecondTo(row.AskedById, ControlEndpoints.AskedForIt) is null,
            row.ApprovedBy,
            parts,
            [],
            row.Version
        );
    }

    public static PartView View(ControlPartRow p, string controlOwner, LocalDate today, Caller caller)
    {
        var maySee = ProofReaders.MaySee(p, controlOwner, caller);
        return new(
            p.Id,
            p.Kind,
            p.Title,
            p.Weight,
            p.Measure,
            p.Expected,
            p.Period,
            p.Recurrence,
            p.First,
            p.Doer,
            p.Deputy,
            ReadinessBook.PartOf(p, today).CountsOn(today),
            ReadinessBook.EndsOn(p, today),
            p.Kind == PartKind.Routine && p.First is { } first ? Recurrence.Latest(first, p.Recurrence, today) : null,
            p.SeenBy,
            !maySee,
            ProofReaders.MayBring(p, controlOwner, caller),
            p.NeedsReview,
            maySee ? ProofReaders.ToApprove(p, controlOwner, caller)?.Id : null,
            maySee ? [.. p.Proofs.OrderByDescending(x => x.Id).Take(MostProofs).Select(View)] : []
        );
    }

    public static ProofView View(PartProof x) =>
        new(
            x.Id,
            x.At,
            x.Day,
            x.Passed,
            x.Says,
            x.By,
            x.FileName,
            x.Bytes,
            x.Hash,
            x.CoversFrom,
            x.CoversThrough,
            x.ReviewedBy,
            x.WithdrawnBy,
            x.WithdrawnWhy,
            x.BrokenSince is not null
        );
}
