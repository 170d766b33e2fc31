using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Server.Activity;

namespace WideKeel.Server.Readiness;

/// <summary>Controls, their parts and what gauges showed, for statements.</summary>
internal sealed class ReadinessViews : ISqlViewSource
{
    private static bool May(Caller caller) => caller.May(Right.ReadReadiness);

    public IReadOnlyList<(SqlView View, Func<Caller, bool> May)> Views { get; } =
    [
        (
            new(
                "controls",
                "Controls of the organisation.",
                StatementViews.Columns(
                    "id BIGINT, code VARCHAR, title VARCHAR, area VARCHAR, owner VARCHAR, applicable BOOLEAN"
                )
            ),
            May
        ),
        (
            new(
                "control_proofs",
                "Runs of tests, routines done and evidence taken.",
                StatementViews.Columns(
                    "control_id BIGINT, part VARCHAR, kind VARCHAR, day DATE, passed BOOLEAN, says VARCHAR, done_by VARCHAR"
                )
            ),
            May
        ),
        (
            new(
                "gauge_days",
                "What each gauge showed on each day.",
                StatementViews.Columns("gauge VARCHAR, day DATE, is_right BIGINT, of_all BIGINT, target DOUBLE")
            ),
            May
        ),
    ];

    public IAsyncEnumerable<object?[]> RowsAsync(string view, StatementGround ground) =>
        view switch
        {
            "controls" => ground
                .Db.Controls.AsNoTracking()
                .OrderBy(c => c.Code)
                .AsAsyncEnumerable()
                .Select(c => new object?[] { c.Id, c.Code, c.Title, c.Area, c.Owner, c.NotApplicable.Length == 0 }),
            "control_proofs" => (
                from proof in ground.Db.PartProofs.AsNoTracking()
                join part in ground.Db.ControlParts on proof.PartId equals part.Id
                orderby proof.Id
                select new { Part = part, Proof = proof }
            )
                .AsAsyncEnumerable()
                .Select(p =>
                    new object?[]
                    {
                        p.Part.ControlId,
                        p.Part.Title,
                        p.Part.Kind.ToString(),
                        p.Proof.Day.ToDateOnly(),
                        p.Proof.Passed,
                        p.Proof.Says,
                        p.Proof.By,
                    }
                ),
            _ => ground
                .Db.Gauges.AsNoTracking()
                .Include(g => g.Days)
                .AsAsyncEnumerable()
                .SelectMany(g =>
                    g.Days.OrderBy(d => d.Day)
                        .Select(d => new object?[] { g.Name, d.Day.ToDateOnly(), (long)d.Right, (long)d.Of, g.Target })
                        .ToAsyncEnumerable()
                ),
        };
}
