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

/// <param name="Kind">risk, supplier or incident.</param>
/// <param name="Due">When it is to be looked at, done or renewed.</param>
/// <param name="Mark">Tier of a supplier, what is done about a risk, state of an incident.</param>
/// <param name="Treatment">Of a risk: avoid, reduce, share or accept; empty where nothing was decided.</param>
public sealed record RegisterSettings(
    string Kind,
    string Title,
    string Says = "",
    string Owner = "",
    DateOnly? Due = null,
    DateOnly? DoneOn = null,
    int Likelihood = 0,
    int Impact = 0,
    int LikelihoodAfter = 0,
    int ImpactAfter = 0,
    string Mark = "",
    string Treatment = "",
    IReadOnlyList<string>? Controls = null
);

/// <param name="Ended">Its last day is past.</param>
/// <param name="Broken">Its file is missing or was changed.</param>
public sealed record RegisterDocumentView(
    long Id,
    string Title,
    string FileName,
    long Bytes,
    string Hash,
    LocalDate? ValidThrough,
    bool Ended,
    bool Broken,
    Instant GivenAt,
    string By
);

public sealed record RegisterView(
    long Id,
    RegisterSettings Settings,
    bool Overdue,
    IReadOnlyList<RegisterDocumentView> Documents,
    long Revision
) : IRevised;

/// <summary>The registers of risks, suppliers and incidents.</summary>
public static class RegisterEndpoints
{
    public static readonly string[] Kinds = ["risk", "supplier", "incident"];

    public static void MapRegisters(this IEndpointRouteBuilder api)
    {
        api.MapGet("/registers", List).Requires(Right.ReadReadiness);
        api.MapPost("/registers", Make).Requires(Right.ManageReadiness);
        api.MapPut("/registers/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapDelete("/registers/{id:long}", Remove).Requires(Right.ManageReadiness);
        api.MapPost("/registers/{id:long}/documents", Give)
            .Requires(Right.ManageReadiness)
            .TakesUpTo(StoredFiles.MostBytes + 1);
        api.MapGet("/register-documents/{id:long}/file", FileOf).Requires(Right.ReadReadiness);
    }

    private static async Task<Reply<IReadOnlyList<RegisterView>>> List(string? kind, [AsParameters] ApiContext context)
    {
        if (kind is not null && !Kinds.Contains(kind))
        {
            return new Refusal("kind-unknown", "kind", $"“{kind}” is none of {string.Join(", ", Kinds)}.");
        }

        var today = context.Calendar.Today;
        var documents = (
            await context.Db.RegisterDocuments.AsNoTracking().OrderByDescending(d => d.Id).ToListAsync(context.Cancel)
        ).ToLookup(d => d.EntryId);
        return (Outcome<IReadOnlyList<RegisterView>>)
            (
                await context
                    .Db.RegisterEntries.AsNoTracking()
                    .Where(e => kind == null || e.Kind == kind)
                    .OrderBy(e => e.Kind)
                    .ThenBy(e => e.Title)
                    .ToListAsync(context.Cancel)
            )
                .Select(e => new RegisterView(
                    e.Id,
                    Settings(e),
                    IsOverdue(e, today),
                    [.. documents[e.Id].Select(d => View(d, today))],
                    e.Version
                ))
                .ToList();
    }

    private static RegisterDocumentView View(RegisterDocument d, LocalDate today) =>
        new(
            d.Id,
            d.Title,
            d.FileName,
            d.Bytes,
            d.Hash,
            d.ValidThrough,
            d.ValidThrough < today,
            d.BrokenSince is not null,
            d.GivenAt,
            d.By
        );

    internal static bool IsOverdue(RegisterEntry e, LocalDate today) =>
        e.Due < today && !(e.DoneOn >= e.Due.Value.PlusDays(-60));

    private static RegisterSettings Settings(RegisterEntry e) =>
        new(
            e.Kind,
            e.Title,
            e.Says,
            e.Owner,
            e.Due?.ToDateOnly(),
            e.DoneOn?.ToDateOnly(),
            e.Likelihood,
            e.Impact,
            e.LikelihoodAfter,
            e.ImpactAfter,
            e.Mark,
            e.Treatment,
            e.Controls.Split(' ', StringSplitOptions.RemoveEmptyEntries)
        );

    /// <summary>How a risk is treated (ISO 31000:2018, 6.5.2, in one word each).</summary>
    public static readonly string[] Treatments = ["avoid", "reduce", "share", "accept"];

    // Long because each field is refused in its own words.
    private static Refusal? Check(RegisterSettings s, IReadOnlyCollection<string> controls)
    {
        if (!Kinds.Contains(s.Kind))
        {
            return new("kind-unknown", "kind", $"“{s.Kind}” is none of {string.Join(", ", Kinds)}.");
        }

        if (string.IsNullOrWhiteSpace(s.Title) || s.Title.Length > 300)
        {
            return new("title-missing", "title", "It needs a title of at most 300 characters.");
        }

        if (
            s.Kind == "risk"
            && (
                s.Likelihood is < 1 or > 5
                || s.Impact is < 1 or > 5
                || s.LikelihoodAfter is < 1 or > 5
                || s.ImpactAfter is < 1 or > 5
            )
        )
        {
            return new("risk-malformed", "likelihood", "Likelihood and impact are 1 to 5, before treatment and after.");
        }

        if (s.Kind == "risk" && (s.LikelihoodAfter > s.Likelihood || s.ImpactAfter > s.Impact))
        {
            return new(
                "risk-rises",
                s.LikelihoodAfter > s.Likelihood ? "likelihoodAfter" : "impactAfter",
                "After treatment neither likelihood nor impact is higher than before."
            );
        }

        if (s.Treatment.Length > 0 && (s.Kind != "risk" || !Treatments.Contains(s.Treatment)))
        {
            return new(
                "treatment-unknown",
                "treatment",
                $"“{s.Treatment}” is none of {string.Join(", ", Treatments)}."
            );
        }

        if (
            s is { Kind: "risk", Treatment: "" or "accept" }
            && (s.LikelihoodAfter, s.ImpactAfter) != (s.Likelihood, s.Impact)
        )
        {
            return new(
                "treatment-missing",
                "treatment",
                "A risk that is lower after treatment is avoided, reduced or shared: say which."
            );
        }

        return (s.Controls ?? []).FirstOrDefault(c => !controls.Contains(c)) is { } unknown
            ? new("control-unknown", "controls", $"There is no control {unknown}.")
            : null;
    }

    private static void Apply(RegisterEntry e, RegisterSettings s)
    {
        e.Title = s.Title.Trim();
        e.Says = s.Says;
        e.Owner = s.Owner;
        e.Due = s.Due is { } due ? LocalDate.FromDateOnly(due) : null;
        e.DoneOn = s.DoneOn is { } done ? LocalDate.FromDateOnly(done) : null;
        (e.Likelihood, e.Impact) = (s.Likelihood, s.Impact);
        (e.LikelihoodAfter, e.ImpactAfter) = (s.LikelihoodAfter, s.ImpactAfter);
        e.Mark = s.Mark;
        e.Treatment = s.Treatment;
        e.Controls = string.Join(' ', s.Controls ?? []);
    }

    private static async Task<Reply<Done>> Make(RegisterSettings request, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (Check(request, await ControlsAsync(session, context)) is { } refusal)
                {
                    return refusal;
                }

                var entry = new RegisterEntry { Kind = request.Kind, Title = request.Title };
                Apply(entry, request);
                session.Db.RegisterEntries.Add(entry);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record("made", Subject(entry), after: Described(entry));
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> Change(long id, RegisterSettings request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, entry) =>
            {
                var controls = await ControlsAsync(session, context);
                if (
                    (
                        Problems.CheckMatch(context.Http, entry.Version)
                        ?? Check(request with { Kind = entry.Kind }, controls)
                    ) is
                    { } refusal
                )
                {
                    return refusal;
                }

                var before = Described(entry);
                Apply(entry, request);
                session.Record("changed", Subject(entry), before, Described(entry));
                return null;
            }
        );

    private static Task<Reply<Done>> Remove(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, entry) =>
            {
                session.Db.RegisterEntries.Remove(entry);
                session.Record("removed", Subject(entry), Described(entry));
                return Task.FromResult<Refusal?>(null);
            }
        );

    /// <summary>A file of an entry: a contract, a report, a certificate.</summary>
    /// <param name="file">Its name.</param>
    /// <param name="title">What it is; the file's name where there is none.</param>
    /// <param name="validThrough">The last day on which it speaks.</param>
    private static async Task<Reply<Done>> Give(
        long id,
        string file,
        string? title,
        DateOnly? validThrough,
        HttpRequest request,
        WideKeelOptions options,
        ContentScanner scanner,
        [AsParameters] ApiContext context
    )
    {
        var taken = await StoredFiles.TakeAsync(request.Body, file, options, scanner, context.Cancel);
        if (taken.Refusal is { } refusal)
        {
            return refusal;
        }

        using var given = taken.Value;
        return await WorkAsync(
            id,
            context,
            (session, entry) =>
            {
                var document = new RegisterDocument
                {
                    EntryId = entry.Id,
                    Title = string.IsNullOrWhiteSpace(title) ? given.Name : title.Trim(),
                    FileName = given.Name,
                    Hash = given.Hash,
                    Bytes = given.Bytes,
                    ValidThrough = validThrough is { } day ? LocalDate.FromDateOnly(day) : null,
                    GivenAt = session.Now,
                    By = context.Caller.Name,
                };
                session.Db.RegisterDocuments.Add(document);
                session.Record(
                    "document-given",
                    Subject(entry),
                    after: new JsonObject
                    {
                        ["title"] = entry.Title,
                        ["document"] = document.Title,
                        ["sha256"] = document.Hash,
                    }
                );
                given.Keep();
                return Task.FromResult<Refusal?>(null);
            }
        );
    }

    private static async Task<IResult> FileOf(long id, WideKeelOptions options, [AsParameters] ApiContext context)
    {
        var document = await context
            .Db.RegisterDocuments.AsNoTracking()
            .SingleOrDefaultAsync(d => d.Id == id, context.Cancel);
        return StoredFiles.Send(document?.Hash ?? "", document?.FileName, options);
    }

    private static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, RegisterEntry, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session.Db.RegisterEntries.SingleOrDefaultAsync(e => e.Id == id, context.Cancel)
                    is not { } entry
                )
                {
                    return Problems.NotFound("entry");
                }

                if (await work(session, entry) is { } refusal)
                {
                    return refusal;
                }

                entry.Version++;
                return new Done();
            },
            context.Cancel
        );

    private static Task<List<string>> ControlsAsync(WriteSession session, ApiContext context) =>
        session.Db.Controls.Select(c => c.Code).ToListAsync(context.Cancel);

    private static JsonObject Described(RegisterEntry e) =>
        JsonSerializer.SerializeToNode(Settings(e), Json.Options)!.AsObject();

    private static LedgerSubject Subject(RegisterEntry e) => LedgerSubject.Of(e.Kind, e.Id);
}
