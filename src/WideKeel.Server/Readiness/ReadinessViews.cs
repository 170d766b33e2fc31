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

    public async Task<IReadOnlyList<object?[]>> RowsAsync(string view, StatementGround ground)
    {
        switch (view)
        {
            case "controls":
                var controls = await ground.Db.Controls.AsNoTracking().OrderBy(c => c.Code).ToListAsync(ground.Cancel);
                return
                [
                    .. controls.Select(c =>
                        new object?[] { c.Id, c.Code, c.Title, c.Area, c.Owner, c.NotApplicable.Length == 0 }
                    ),
                ];
            case "control_proofs":
                var proofs = await (
                    from proof in ground.Db.PartProofs.AsNoTracking()
                    join part in ground.Db.ControlParts on proof.PartId equals part.Id
                    orderby proof.Id
                    select new
                    {
                        part.ControlId,
                        part.Title,
                        part.Kind,
                        proof.Day,
                        proof.Passed,
                        proof.Says,
                        proof.By,
                    }
                ).ToListAsync(ground.Cancel);
                return
                [
                    .. proofs.Select(p =>
                        new object?[]
                        {
                            p.ControlId,
                            p.Title,
                            p.Kind.ToString(),
                            p.Day.ToDateOnly(),
                            p.Passed,
                            p.Says,
                            p.By,
                        }
                    ),
                ];
            default:
                var gauges = await ground.Db.Gauges.AsNoTracking().Include(g => g.Days).ToListAsync(ground.Cancel);
                return
                [
                    .. from gauge in gauges
                    from day in gauge.Days.OrderBy(d => d.Day)
                    select new object?[]
                    {
                        gauge.Name,
                        day.Day.ToDateOnly(),
                        (long)day.Right,
                        (long)day.Of,
                        gauge.Target,
                    },
                ];
        }
    }
}
