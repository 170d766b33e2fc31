using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.Notifications;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <param name="State">waiting, given, refused or over.</param>
/// <param name="Opened">How often the document was fetched.</param>
public sealed record DocumentAskView(
    long Id,
    long DocumentId,
    string Document,
    string Name,
    string Organisation,
    string Mail,
    string Reason,
    Instant AskedAt,
    string State,
    string DecidedBy,
    LocalDate? EndsOn,
    int Opened,
    long Revision
) : IRevised;

public sealed record AssuranceDocumentView(
    long Id,
    string Title,
    string Says,
    string FileName,
    long Bytes,
    string Hash
);

/// <param name="Over">Its last day is past.</param>
public sealed record AssuranceClientView(long Id, string Name, string Mail, LocalDate EndsOn, bool Over, int Opened);

public sealed record AssuranceRoom(
    IReadOnlyList<AssuranceDocumentView> Documents,
    IReadOnlyList<DocumentAskView> Asks,
    IReadOnlyList<AssuranceClientView> Clients
);

public sealed record NewDocumentAsk(string Name, string Organisation, string Mail, string Reason);

/// <param name="Days">For how many days the link opens, 1 to 365.</param>
public sealed record DocumentDecision(bool Give, int Days = 14);

/// <summary>
/// Documents for the asking: outsiders ask at the public page, somebody decides, and the link that goes out ends by
/// itself. Named clients need not ask. Every copy bears the name of whoever it was given to.
/// </summary>
public static class AssuranceDocuments
{
    /// <summary>Nobody from outside fills the list: so many may wait at once.</summary>
    private const int MostWaiting = 200;
    private const int MostWaitingOfOne = 5;

    public static void MapAssuranceDocuments(this IEndpointRouteBuilder api)
    {
        api.MapGet("/assurance/room", Room).Requires(Right.ReadReadiness);
        api.MapPost("/assurance/documents", Offer).Requires(Right.ManageReadiness).TakesUpTo(StoredFiles.MostBytes + 1);
        api.MapDelete("/assurance/documents/{id:long}", Withdraw).Requires(Right.ManageReadiness);
        api.MapPost("/assurance/documents/{id:long}/asks", Ask).OpenToAll().LimitsAttempts();
        api.MapPost("/assurance/asks/{id:long}/decision", Decide).Requires(Right.ManageReadiness);
        api.MapAssuranceClients();
    }

    private static async Task<Reply<AssuranceRoom>> Room([AsParameters] ApiContext context)
    {
        var today = context.Calendar.Today;
        var documents = await context.Db.AssuranceDocuments.AsNoTracking().ToListAsync(context.Cancel);
        var titles = documents.ToDictionary(d => d.Id, d => d.Title);
        return new AssuranceRoom(
            [
                .. documents
                    .Where(d => d.WithdrawnAt is null)
                    .OrderBy(d => d.Title, StringComparer.OrdinalIgnoreCase)
                    .Select(d => new AssuranceDocumentView(d.Id, d.Title, d.Says, d.FileName, d.Bytes, d.Hash)),
            ],
            [
                .. (
                    await context
                        .Db.DocumentAsks.AsNoTracking()
                        .OrderBy(a => a.DecidedAt != null)
                        .ThenByDescending(a => a.Id)
                        .ToListAsync(context.Cancel)
                ).Select(a => new DocumentAskView(
                    a.Id,
                    a.DocumentId,
                    titles[a.DocumentId],
                    a.Name,
                    a.Organisation,
                    a.Mail,
                    a.Reason,
                    a.AskedAt,
                    StateOf(a, today),
                    a.DecidedBy,
                    a.EndsOn,
                    a.Opened,
                    a.Version
                )),
            ],
            [
                .. (
                    await context.Db.AssuranceClients.AsNoTracking().OrderBy(c => c.Name).ToListAsync(context.Cancel)
                ).Select(c => new AssuranceClientView(c.Id, c.Name, c.Mail, c.EndsOn, c.EndsOn < today, c.Opened)),
            ]
        );
    }

    private static string StateOf(DocumentAsk ask, LocalDate today) =>
        ask.DecidedAt is null ? "waiting"
        : !ask.Given ? "refused"
        : ask.EndsOn < today ? "over"
        : "given";

    /// <summary>Puts a document on the page, to be asked for.</summary>
    /// <param name="file">Its name; a PDF.</param>
    private static async Task<Reply<Done>> Offer(
        string file,
        string title,
        string? says,
        HttpRequest request,
        WideKeelOptions options,
        ContentScanner scanner,
        [AsParameters] ApiContext context
    )
    {
        if (string.IsNullOrWhiteSpace(title) || title.Length > 200)
        {
            return new Refusal("title-missing", "title", "A document needs a title of at most 200 characters.");
        }

        var taken = await StoredFiles.TakeAsync(request.Body, file, options, scanner, context.Cancel);
        if (taken.Refusal is { } refusal)
        {
            return refusal;
        }

        using var given = taken.Value;
        if (!Watermark.Takes(given.Path))
        {
            return new Refusal(
                "document-unmarkable",
                "file",
                $"{given.Name} is no PDF whose pages can be marked. A document for the asking bears the asker’s name on every page."
            );
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var row = new AssuranceDocument
                {
                    Title = title.Trim(),
                    Says = says?.Trim() ?? "",
                    FileName = given.Name,
                    Hash = given.Hash,
                    Bytes = given.Bytes,
                    GivenAt = session.Now,
                };
                session.Db.AssuranceDocuments.Add(row);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "offered",
                    DocumentOf(row.Id),
                    after: new JsonObject { ["title"] = row.Title, ["sha256"] = row.Hash }
                );
                given.Keep();
                return new Done();
            },
            context.Cancel
        );
    }

    internal static LedgerSubject DocumentOf(long id) => LedgerSubject.Of("assurance-document", id);

    /// <summary>Takes a document off the page; links that went out open nothing any more.</summary>
    private static async Task<Reply<Done>> Withdraw(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await Offered(session.Db).SingleOrDefaultAsync(d => d.Id == id, context.Cancel) is not { } row)
                {
                    return Problems.NotFound("document");
                }

                row.WithdrawnAt = session.Now;
                session.Record("withdrawn", DocumentOf(id), new JsonObject { ["title"] = row.Title });
                return new Done();
            },
            context.Cancel
        );

    internal static IQueryable<AssuranceDocument> Offered(WideKeelDb db) =>
        db.AssuranceDocuments.Where(d => d.WithdrawnAt == null);

    private static Refusal? Check(NewDocumentAsk request) =>
        new[] { request.Name, request.Organisation, request.Reason }.Any(t =>
            string.IsNullOrWhiteSpace(t) || t.Length > 500
        )
            ? new("ask-malformed", "name", "Say who you are, for whom you ask and why, each in at most 500 characters.")
        : !MailLike(request.Mail) ? new("mail-malformed", "mail", $"“{request.Mail}” is no mail address.")
        : null;

    internal static bool MailLike(string mail) =>
        mail.Length <= 200
        && System.Net.Mail.MailAddress.TryCreate(mail, out var read)
        && read.Address == mail
        && read.Host.Contains('.', StringComparison.Ordinal);

    /// <summary>Somebody outside asks; whoever manages readiness decides.</summary>
    private static async Task<Reply<Done>> Ask(long id, NewDocumentAsk request, [AsParameters] ApiContext context)
    {
        if (Check(request) is { } refusal)
        {
            return refusal;
        }

        var mail = request.Mail.ToLowerInvariant();
        return await context.Writer.RunAsync<Done>(
            LedgerActor.Outsider(mail, context.Caller.Address),
            async session =>
            {
                if (
                    !await session.Db.Assurances.AnyAsync(a => a.Published, context.Cancel)
                    || await Offered(session.Db).SingleOrDefaultAsync(d => d.Id == id, context.Cancel)
                        is not { } document
                )
                {
                    return Problems.NotFound("document");
                }

                var waiting = session.Db.DocumentAsks.Where(a => a.DecidedAt == null);
                if (
                    await waiting.CountAsync(context.Cancel) >= MostWaiting
                    || await waiting.CountAsync(a => a.Mail == mail, context.Cancel) >= MostWaitingOfOne
                )
                {
                    return Refusal.TooMany("too-many-asks", null, "Too much waits for an answer. Try again tomorrow.");
                }

                session.Db.DocumentAsks.Add(
                    new()
                    {
                        DocumentId = id,
                        Name = request.Name.Trim(),
                        Organisation = request.Organisation.Trim(),
                        Mail = mail,
                        Reason = request.Reason.Trim(),
                        AskedAt = session.Now,
                    }
                );
                session.Record(
                    "asked-for",
                    DocumentOf(id),
                    after: new JsonObject
                    {
                        ["title"] = document.Title,
                        ["name"] = request.Name.Trim(),
                        ["organisation"] = request.Organisation.Trim(),
                    }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<Done>> Decide(long id, DocumentDecision request, [AsParameters] ApiContext context)
    {
        if (request.Days is < 1 or > 365)
        {
            return new Refusal("days-out-of-range", "days", "A link opens for 1 to 365 days.");
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session.Db.DocumentAsks.SingleOrDefaultAsync(a => a.Id == id, context.Cancel) is not { } ask
                    || await Offered(session.Db).SingleOrDefaultAsync(d => d.Id == ask.DocumentId, context.Cancel)
                        is not { } document
                )
                {
                    return Problems.NotFound("question");
                }

                if (Problems.CheckMatch(context.Http, ask.Version) is { } stale)
                {
                    return stale;
                }

                if (ask.DecidedAt is not null)
                {
                    return Refusal.Conflict("decided", null, $"{ask.DecidedBy} has decided it already.");
                }

                (ask.DecidedBy, ask.DecidedAt) = (context.Caller.Name, session.Now);
                ask.Version++;
                if (request.Give)
                {
                    (ask.Given, ask.EndsOn) = (true, context.Calendar.Today.PlusDays(request.Days));
                    await SendAsync(
                        session,
                        (LinkKind.Document, ask.Id),
                        (ask.Name, ask.Mail, document.Title, ask.EndsOn.Value),
                        context
                    );
                }

                session.Record(
                    request.Give ? "given" : "refused",
                    DocumentOf(document.Id),
                    after: new JsonObject
                    {
                        ["title"] = document.Title,
                        ["person"] = ask.Name,
                        ["organisation"] = ask.Organisation,
                    }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    internal static async Task SendAsync(
        WriteSession session,
        (LinkKind Kind, long Id) of,
        (string Name, string Mail, string What, LocalDate Ends) given,
        ApiContext context
    )
    {
        var (name, mail, what, ends) = given;
        var secret = PersonLinks.Issue(session, of, mail, Duration.FromDays((ends - context.Calendar.Today).Days + 1));
        Outbox.Send(
            session,
            new DirectoryPerson { Name = name, Mail = mail },
            null,
            new(
                "assurance",
                $"{what} for you",
                $"The link opens {what} until {Wording.Day(ends)}. Every page bears your name; please do not pass it on.",
                "you asked for it, or are a named client"
            ),
            "/assurance/given/{secret}",
            secret
        );
    }
}
