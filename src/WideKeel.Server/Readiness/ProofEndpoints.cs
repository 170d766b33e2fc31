using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="Facts">What a test looked at, as it was.</param>
public sealed record ProofDetail(ProofView Proof, string Control, string Title, IReadOnlyList<MeasuredSubject> Facts);

/// <param name="EndsOn">The last day on which it counts.</param>
/// <param name="Kept">There may be proofs, and the caller does not see them.</param>
/// <param name="AwaitsApproval">The latest counts once a second person has approved it.</param>
/// <param name="SameAs">Titles of other evidence with the same file.</param>
public sealed record EvidenceView(
    long PartId,
    string Control,
    string Title,
    PartKind Kind,
    string Doer,
    bool Counts,
    LocalDate? EndsOn,
    ProofView? Latest,
    int Versions,
    bool AwaitsApproval,
    bool Kept,
    IReadOnlyList<string> SameAs
);

/// <summary>Proofs as screens show them, and runs of tests.</summary>
public static class ProofEndpoints
{
    public static void MapProofs(this IEndpointRouteBuilder api)
    {
        api.MapGet("/evidence", List).Requires(Right.ReadReadiness);
        api.MapPost("/control-parts/{id:long}/runs", Run).Requires(Right.ManageReadiness);
        api.MapGet("/proofs/{id:long}", One).RequiresSignIn();
        api.MapGet("/proofs/{id:long}/file", FileOf).RequiresSignIn();
        api.MapProofGiving();
    }

    private static async Task<Reply<IReadOnlyList<EvidenceView>>> List([AsParameters] ApiContext context)
    {
        var controls = await context
            .Db.Controls.AsNoTracking()
            .Include(c => c.Parts)
                .ThenInclude(p => p.Proofs)
            .AsSplitQuery()
            .ToListAsync(context.Cancel);
        var today = context.Calendar.Today;
        var parts = controls
            .SelectMany(c => c.Parts.Select(p => (Control: c, Part: p)))
            .Where(p => p.Part.Kind != PartKind.Test)
            .ToList();
        var byHash = parts
            .Where(p => ProofReaders.MaySee(p.Part, p.Control.Owner, context.Caller))
            .SelectMany(p => p.Part.Proofs.Where(x => x.FileName.Length > 0).Select(x => (x.Hash, p.Part)))
            .ToLookup(x => x.Hash, x => x.Part);
        return (Outcome<IReadOnlyList<EvidenceView>>)
            parts
                .Select(p =>
                {
                    var maySee = ProofReaders.MaySee(p.Part, p.Control.Owner, context.Caller);
                    var latest = maySee ? p.Part.Proofs.Where(x => x.WithdrawnAt is null).MaxBy(x => x.Id) : null;
                    return new EvidenceView(
                        p.Part.Id,
                        p.Control.Code,
                        p.Part.Title,
                        p.Part.Kind,
                        p.Part.Doer.Length > 0 ? p.Part.Doer : p.Control.Owner,
                        ReadinessBook.PartOf(p.Part, today).CountsOn(today),
                        ReadinessBook.EndsOn(p.Part, today),
                        latest is null ? null : ControlViews.View(latest),
                        maySee ? p.Part.Proofs.Count : 0,
                        ProofReaders.Awaiting(p.Part) is not null,
                        !maySee,
                        latest is null || latest.FileName.Length == 0
                            ? []
                            : [.. byHash[latest.Hash].Where(o => o.Id != p.Part.Id).Select(o => o.Title).Distinct()]
                    );
                })
                .OrderBy(e => e.Counts)
                .ThenBy(e => e.EndsOn ?? LocalDate.MaxIsoValue)
                .ToList();
    }

    /// <summary>Runs a test now.</summary>
    private static async Task<Reply<Done>> Run(
        long id,
        MeasureBook measures,
        IServiceProvider services,
        [AsParameters] ApiContext context
    )
    {
        var part = await context
            .Db.ControlParts.AsNoTracking()
            .SingleOrDefaultAsync(p => p.Id == id && p.Kind == PartKind.Test, context.Cancel);
        if (part is null)
        {
            return Problems.NotFound("test");
        }

        var answers = await measures.AskAllAsync(
            [part.Measure],
            new(context.Db, services, context.Calendar, context.Cancel)
        );
        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var runs = new TestRuns(session, measures, answers, context.Calendar);
                var proof = runs.Run(part, context.Caller.Name);
                await ReadinessNotes.TakeAsync(session, context.Calendar, context.Cancel);
                session.Record(
                    proof.Passed ? "test-passed" : "test-failed",
                    ControlEndpoints.Subject(part.ControlId),
                    after: new JsonObject
                    {
                        ["test"] = part.Title,
                        ["says"] = proof.Says,
                        ["sha256"] = proof.Hash,
                    }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<ProofDetail>> One(long id, [AsParameters] ApiContext context) =>
        await SeenAsync(id, context) is not var (proof, part, control)
            ? Problems.NotFound("proof")
            : new ProofDetail(ControlViews.View(proof), control.Code, part.Title, FactsOf(proof.Frozen?.Text));

    /// <summary>A proof that the caller may see, with what it belongs to.</summary>
    internal static async Task<(PartProof Proof, ControlPartRow Part, ControlRow Control)?> SeenAsync(
        long id,
        ApiContext context
    )
    {
        var proof = await context
            .Db.PartProofs.AsNoTracking()
            .Include(p => p.Frozen)
            .SingleOrDefaultAsync(p => p.Id == id, context.Cancel);
        if (proof is null)
        {
            return null;
        }

        var part = await context
            .Db.ControlParts.IgnoreQueryFilters()
            .AsNoTracking()
            .SingleAsync(p => p.Id == proof.PartId, context.Cancel);
        var control = await context
            .Db.Controls.IgnoreQueryFilters()
            .AsNoTracking()
            .SingleAsync(c => c.Id == part.ControlId, context.Cancel);
        return ProofReaders.MaySee(part, control.Owner, context.Caller) ? (proof, part, control) : null;
    }

    internal static IReadOnlyList<MeasuredSubject> FactsOf(string? text) =>
        string.IsNullOrEmpty(text) ? [] : JsonSerializer.Deserialize<List<MeasuredSubject>>(text, Json.Options)!;

    private static async Task<IResult> FileOf(long id, WideKeelOptions options, [AsParameters] ApiContext context)
    {
        var proof = (await SeenAsync(id, context))?.Proof;
        return StoredFiles.Send(proof?.Hash ?? "", proof?.FileName, options);
    }
}
