using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Frameworks">Codes of those that are shown.</param>
public sealed record AssuranceSettings(
    bool Published,
    string Words,
    IReadOnlyList<string> Frameworks,
    bool ControlsShown,
    bool PoliciesShown
);

public sealed record AssuranceView(AssuranceSettings Settings, IReadOnlyList<string> Reveals, long Revision) : IRevised;

/// <param name="State">met, largely met, in part, or being built: no figure is shown.</param>
public sealed record AssuranceFramework(string Title, string Version, string State);

public sealed record AssuranceArea(string Area, int Passing, int Of);

public sealed record AssurancePolicy(string Title, string Version);

/// <summary>What the public sees: only what was chosen, live.</summary>
public sealed record AssurancePage(
    string Organisation,
    string Words,
    LocalDate AsOf,
    IReadOnlyList<AssuranceFramework> Frameworks,
    IReadOnlyList<AssuranceArea> Areas,
    IReadOnlyList<AssurancePolicy> Policies,
    IReadOnlyList<AssuranceOffer> Documents
);

/// <summary>A document that anybody may ask for.</summary>
public sealed record AssuranceOffer(long Id, string Title, string Says);

/// <summary>The assurance page: public, live, and nothing on it that was not chosen.</summary>
public static class AssuranceEndpoints
{
    public static void MapAssurance(this IEndpointRouteBuilder api)
    {
        api.MapGet("/assurance", Page).OpenToAll();
        api.MapGet("/assurance/preview", Preview).Requires(Right.ReadReadiness);
        api.MapGet("/assurance/settings", Settings).Requires(Right.ReadReadiness);
        api.MapPut("/assurance/settings", Put).Requires(Right.ManageReadiness);
    }

    private static async Task<Reply<AssurancePage>> Page(
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        var row = await context.Db.Assurances.AsNoTracking().SingleOrDefaultAsync(context.Cancel);
        return row is not { Published: true } ? Problems.NotFound("page") : await PageAsync(row, directory, context);
    }

    private static async Task<Reply<AssurancePage>> Preview(
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        await PageAsync(
            await context.Db.Assurances.AsNoTracking().SingleOrDefaultAsync(context.Cancel) ?? new(),
            directory,
            context
        );

    private static async Task<AssurancePage> PageAsync(
        AssuranceRow row,
        OrganisationDirectory directory,
        ApiContext context
    )
    {
        var book = await ReadinessBook.LoadAsync(context.Db, context.Calendar, context.Cancel);
        var now = ReadinessComputation.On(book.Today, book.Model);
        var chosen = row.Frameworks.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var organisation = await context.Db.Organisations.AsNoTracking().SingleAsync(context.Cancel);
        var states = now.Controls.ToDictionary(c => c.Id, c => c.State);
        return new(
            organisation.Name,
            row.Words,
            book.Today,
            [
                .. book
                    .Frameworks.Where(f => chosen.Contains(f.Code))
                    .Select(f => new AssuranceFramework(
                        f.Title,
                        f.Version,
                        StateOf(now.Frameworks.First(x => x.Id == f.Code))
                    )),
            ],
            row.ControlsShown
                ?
                [
                    .. book
                        .Controls.Where(c => states[c.Code] != ControlState.NotApplicable)
                        .GroupBy(c => c.Area)
                        .OrderBy(g => g.Key, StringComparer.Ordinal)
                        .Select(g => new AssuranceArea(
                            g.Key,
                            g.Count(c => states[c.Code] == ControlState.Ready),
                            g.Count()
                        )),
                ]
                : [],
            row.PoliciesShown
                ?
                [
                    .. (await PolicyBook.AllAsync(context.Db, directory.State, book.Today, context.Cancel))
                        .Where(p => p.InForce is not null)
                        .Select(p => new AssurancePolicy(p.Row.Title, Wording.Number(p.InForce!.Number))),
                ]
                : [],
            [
                .. (
                    await context
                        .Db.AssuranceDocuments.AsNoTracking()
                        .Where(d => d.WithdrawnAt == null)
                        .OrderBy(d => d.Title)
                        .ToListAsync(context.Cancel)
                ).Select(d => new AssuranceOffer(d.Id, d.Title, d.Says)),
            ]
        );
    }

    /// <summary>Nothing is met that has a requirement which no control answers, however high its figure.</summary>
    private static string StateOf(FrameworkFigure figure) =>
        (figure.Readiness ?? 0) switch
        {
            >= 0.95m when figure.Requirements.All(r => r.State != RequirementState.Unanswered) => "met",
            >= 0.75m => "largely met",
            >= 0.4m => "met in part",
            _ => "being built",
        };

    private static async Task<Reply<AssuranceView>> Settings(WideKeelDb db, CancellationToken cancel)
    {
        var row = await db.Assurances.AsNoTracking().SingleOrDefaultAsync(cancel) ?? new AssuranceRow();
        var documents = await db.AssuranceDocuments.CountAsync(d => d.WithdrawnAt == null, cancel);
        return new AssuranceView(
            new(
                row.Published,
                row.Words,
                row.Frameworks.Split(' ', StringSplitOptions.RemoveEmptyEntries),
                row.ControlsShown,
                row.PoliciesShown
            ),
            [
                .. new[]
                {
                    row.Words.Length > 0 ? "Your own words." : "",
                    row.Frameworks.Length > 0
                        ? "The names of the chosen frameworks, and for each whether it is met, largely met, met in part "
                            + "or being built. No percentage."
                        : "",
                    row.ControlsShown ? "By area, how many controls are ready of how many. No names of controls." : "",
                    row.PoliciesShown ? "The titles and versions of policies. No texts." : "",
                    documents > 0
                        ? $"The titles of {Wording.Plural(documents, "document")} that may be asked for. Nobody gets one "
                            + "without a decision, but named clients."
                        : "",
                    "The organisation’s name and today’s date.",
                }.Where(t => t.Length > 0),
            ],
            row.Version
        );
    }

    private static async Task<Reply<Done>> Put(AssuranceSettings request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var known = await session.Db.Frameworks.Select(f => f.Code).ToListAsync(context.Cancel);
                if (request.Frameworks.FirstOrDefault(f => !known.Contains(f)) is { } unknown)
                {
                    return new Refusal("framework-unknown", "frameworks", $"The framework “{unknown}” is not adopted.");
                }

                var row = await session.Db.Assurances.SingleOrDefaultAsync(context.Cancel);
                if (row is null)
                {
                    session.Db.Assurances.Add(row = new());
                }
                else if (Problems.CheckMatch(context.Http, row.Version) is { } stale)
                {
                    return stale;
                }

                (row.Published, row.Words) = (request.Published, request.Words.Trim());
                row.Frameworks = string.Join(' ', request.Frameworks.Distinct());
                (row.ControlsShown, row.PoliciesShown) = (request.ControlsShown, request.PoliciesShown);
                row.Version++;
                session.Record(
                    row.Published ? "published" : "unpublished",
                    new LedgerSubject("assurance", "1"),
                    after: new JsonObject
                    {
                        ["frameworks"] = row.Frameworks,
                        ["controls"] = row.ControlsShown,
                        ["policies"] = row.PoliciesShown,
                    }
                );
                return new Done();
            },
            context.Cancel
        );
}
