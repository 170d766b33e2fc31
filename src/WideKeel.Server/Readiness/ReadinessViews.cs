using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Server.People;

namespace WideKeel.Server.Readiness;

/// <summary>Controls, their parts, policies and what gauges showed, for statements.</summary>
internal sealed class ReadinessViews(OrganisationDirectory directory) : ISqlViewSource
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
                    "control_id BIGINT, part VARCHAR, kind VARCHAR, day DATE, passed BOOLEAN, says VARCHAR, "
                        + "done_by VARCHAR, withdrawn BOOLEAN"
                )
            ),
            May
        ),
        (
            new(
                "policies",
                "Policies, and whether one is in force.",
                StatementViews.Columns(
                    "id BIGINT, code VARCHAR, title VARCHAR, owner VARCHAR, version BIGINT, in_force_from DATE, review_on DATE"
                )
            ),
            May
        ),
        (
            new(
                "policy_readers",
                "Whom each policy binds today, and how they stand to it.",
                StatementViews.Columns("policy VARCHAR, mail VARCHAR, name VARCHAR, unit VARCHAR, state VARCHAR")
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
            "control_proofs" => Proofs(ground),
            "policies" => Policies(ground),
            "policy_readers" => PolicyReaders(ground),
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

    private static IAsyncEnumerable<object?[]> Proofs(StatementGround ground) =>
        (
            from proof in ground.Db.PartProofs.AsNoTracking()
            join part in ground.Db.ControlParts.IgnoreQueryFilters() on proof.PartId equals part.Id
            join control in ground.Db.Controls.IgnoreQueryFilters() on part.ControlId equals control.Id
            orderby proof.Id
            select new
            {
                Part = part,
                Proof = proof,
                control.Owner,
            }
        )
            .AsAsyncEnumerable()
            .Where(p => ProofReaders.MaySee(p.Part, p.Owner, ground.Caller))
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
                    p.Proof.WithdrawnAt is not null,
                }
            );

    private static IAsyncEnumerable<object?[]> Policies(StatementGround ground) =>
        ground
            .Db.Policies.AsNoTracking()
            .Include(p => p.Versions)
            .OrderBy(p => p.Code)
            .AsAsyncEnumerable()
            .Select(p => PolicyBook.Of(p, DirectoryState.Empty, ground.Calendar.Today))
            .Select(p =>
                new object?[]
                {
                    p.Row.Id,
                    p.Row.Code,
                    p.Row.Title,
                    p.Row.Owner,
                    (long?)p.InForce?.Number,
                    p.InForce?.InForceFrom.ToDateOnly(),
                    p.Row.ReviewOn?.ToDateOnly(),
                }
            );

    private IAsyncEnumerable<object?[]> PolicyReaders(StatementGround ground) =>
        PolicyBook
            .Whole(ground.Db)
            .AsNoTracking()
            .OrderBy(p => p.Code)
            .AsAsyncEnumerable()
            .Select(p => PolicyBook.Of(p, directory.State, ground.Calendar.Today))
            .SelectMany(p =>
                p.Readers.Select(r =>
                        new object?[]
                        {
                            p.Row.Code,
                            r.Person.Id,
                            r.Person.Name,
                            r.Person.Unit,
                            JsonNamingPolicy.CamelCase.ConvertName(r.State.ToString()),
                        }
                    )
                    .ToAsyncEnumerable()
            );
}
