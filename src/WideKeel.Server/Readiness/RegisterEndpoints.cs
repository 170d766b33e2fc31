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
/// <param name="Mark">Tier of a supplier, treatment of a risk, state of an incident.</param>
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
    IReadOnlyList<string>? Controls = null
);

/// <param name="Ended">Its last day is past.</param>
public sealed record RegisterDocumentView(
    long Id,
    string Title,
    string FileName,
    long Bytes,
    string Hash,
    LocalDate? ValidThrough,
    bool Ended,
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
        new(d.Id, d.Title, d.FileName, d.Bytes, d.Hash, d.ValidThrough, d.ValidThrough < today, d.GivenAt, d.By);

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
            e.Controls.Split(' ', StringSplitOptions.RemoveEmptyEntries)
        );

    private static Refusal? Check(RegisterSettings s)
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

        return null;
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
        e.Controls = string.Join(' ', s.Controls ?? []);
    }

    private static async Task<Reply<Done>> Make(RegisterSettings request, [AsParameters] ApiContext context) =>
        Check(request) is { } refusal
            ? refusal
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    var entry = new RegisterEntry { Kind = request.Kind, Title = request.Title };
                    Apply(entry, request);
                    session.Db.RegisterEntries.Add(entry);
                    await session.Db.SaveChangesAsync(context.Cancel);
                    session.Record("made", Subject(entry), after: new JsonObject { ["title"] = entry.Title });
                    return new Done();
                },
                context.Cancel
            );

    private static Task<Reply<Done>> Change(long id, RegisterSettings request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, entry) =>
            {
                if (
                    (Problems.CheckMatch(context.Http, entry.Version) ?? Check(request with { Kind = entry.Kind })) is
                    { } refusal
                )
                {
                    return refusal;
                }

                var before = new JsonObject { ["title"] = entry.Title, ["mark"] = entry.Mark };
                Apply(entry, request);
                session.Record(
                    "changed",
                    Subject(entry),
                    before,
                    new JsonObject { ["title"] = entry.Title, ["mark"] = entry.Mark }
                );
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
                session.Record("removed", Subject(entry), new JsonObject { ["title"] = entry.Title });
                return null;
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
        [AsParameters] ApiContext context
    )
    {
        var taken = await StoredFiles.TakeAsync(request.Body, file, options, context.Cancel);
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
                return null;
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
        Func<WriteSession, RegisterEntry, Refusal?> work
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

                if (work(session, entry) is { } refusal)
                {
                    return refusal;
                }

                entry.Version++;
                return new Done();
            },
            context.Cancel
        );

    private static LedgerSubject Subject(RegisterEntry e) => LedgerSubject.Of(e.Kind, e.Id);
}

/// <summary>Whether the registers are kept up.</summary>
internal sealed class RegisterMeasures : IMeasureSource
{
    public IReadOnlyList<Measure> Measures { get; } =
    [
        Kept("risks-reviewed", "risk", "Risks that are looked at", "risk", "Risks whose review is not overdue."),
        Kept(
            "suppliers-reviewed",
            "supplier",
            "Suppliers that are looked at",
            "suppliers",
            "Suppliers whose review is not overdue."
        ),
        new(
            "supplier-documents",
            "Documents of suppliers that still speak",
            "The newest document of each title of a supplier, where its last day is not past.",
            "suppliers",
            DocumentsAsync
        ),
    ];

    private static async Task<IReadOnlyList<MeasuredSubject>> DocumentsAsync(MeasureQuestion asked)
    {
        var today = asked.Calendar.Today;
        var documents = await (
            from document in asked.Db.RegisterDocuments
            join entry in asked.Db.RegisterEntries on document.EntryId equals entry.Id
            where entry.Kind == "supplier"
            orderby entry.Title, document.Id
            select new { entry.Title, Document = document }
        )
            .AsNoTracking()
            .ToListAsync(asked.Cancel);
        return
        [
            .. documents
                .GroupBy(d => (d.Document.EntryId, d.Document.Title))
                .Select(g => g.Last())
                .Select(d => new MeasuredSubject(
                    Wording.Id(d.Document.Id),
                    $"{d.Title}: {d.Document.Title}",
                    "",
                    !(d.Document.ValidThrough < today),
                    d.Document.ValidThrough is { } day ? $"Speaks until {Wording.Day(day)}." : "Has no last day.",
                    "/readiness/areas?kind=supplier"
                )),
        ];
    }

    private static Measure Kept(string name, string kind, string title, string area, string says) =>
        new(
            name,
            title,
            says,
            area,
            asked =>
                AskAsync(
                    asked,
                    kind,
                    e => !RegisterEndpoints.IsOverdue(e, asked.Calendar.Today),
                    e => e.Due is { } due ? $"Due {Wording.Day(due)}." : "Has no date."
                )
        );

    private static async Task<IReadOnlyList<MeasuredSubject>> AskAsync(
        MeasureQuestion asked,
        string kind,
        Func<RegisterEntry, bool> right,
        Func<RegisterEntry, string> why
    ) =>
        [
            .. (
                await asked
                    .Db.RegisterEntries.AsNoTracking()
                    .Where(e => e.Kind == kind)
                    .OrderBy(e => e.Title)
                    .ToListAsync(asked.Cancel)
            ).Select(e => new MeasuredSubject(
                Wording.Id(e.Id),
                e.Title,
                "",
                right(e),
                why(e),
                $"/readiness/areas?kind={kind}"
            )),
        ];
}
