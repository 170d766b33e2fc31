using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store.People;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

public sealed record NewClient(string Name, string Mail, DateOnly EndsOn);

/// <summary>What somebody with a link sees: the documents that it opens, and to whom it was given.</summary>
public sealed record GivenDocuments(
    string Organisation,
    string Name,
    LocalDate EndsOn,
    IReadOnlyList<AssuranceOffer> Documents
);

/// <summary>Named clients, and the documents that a link opens to them or to the person who asked.</summary>
internal static class AssuranceClients
{
    public static void MapAssuranceClients(this IEndpointRouteBuilder api)
    {
        api.MapPost("/assurance/clients", AddClient).Requires(Right.ManageReadiness);
        api.MapDelete("/assurance/clients/{id:long}", RemoveClient).Requires(Right.ManageReadiness);
        api.MapGet("/assurance/given/{token}", Given).OpenToAll();
        api.MapGet("/assurance/given/{token}/{document:long}", Fetch).OpenToAll();
    }

    private static async Task<Reply<Done>> AddClient(NewClient request, [AsParameters] ApiContext context)
    {
        var ends = LocalDate.FromDateOnly(request.EndsOn);
        if (
            string.IsNullOrWhiteSpace(request.Name)
            || request.Name.Length > 200
            || !AssuranceDocuments.MailLike(request.Mail)
        )
        {
            return new Refusal("client-malformed", "name", "A client has a name and a mail address.");
        }

        if (ends < context.Calendar.Today)
        {
            return new Refusal("ends-past", "endsOn", "The last day lies in the past.");
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var client = new AssuranceClient
                {
                    Name = request.Name.Trim(),
                    Mail = request.Mail,
                    EndsOn = ends,
                };
                session.Db.AssuranceClients.Add(client);
                await session.Db.SaveChangesAsync(context.Cancel);
                await AssuranceDocuments.SendAsync(
                    session,
                    (LinkKind.Client, client.Id),
                    (client.Name, client.Mail, "What we give to named clients", ends),
                    context
                );
                session.Record(
                    "client-named",
                    new LedgerSubject("assurance", "1"),
                    after: new JsonObject { ["name"] = client.Name, ["mail"] = client.Mail }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<Done>> RemoveClient(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session.Db.AssuranceClients.SingleOrDefaultAsync(c => c.Id == id, context.Cancel)
                    is not { } row
                )
                {
                    return Problems.NotFound("client");
                }

                session.Db.AssuranceClients.Remove(row);
                await PersonLinks.EndAsync(session, LinkKind.Client, id, context.Cancel);
                session.Record(
                    "client-removed",
                    new LedgerSubject("assurance", "1"),
                    new JsonObject { ["name"] = row.Name, ["mail"] = row.Mail }
                );
                return new Done();
            },
            context.Cancel
        );

    /// <summary>What a link opens today: the name on it, its last day, and its documents.</summary>
    private static async Task<Opening?> OpenedByAsync(string token, PersonLinks links, ApiContext context)
    {
        var (db, today, cancel) = (context.Db, context.Calendar.Today, context.Cancel);
        return await links.FindAsync(db, token, cancel) switch
        {
            { Kind: LinkKind.Client } link
                when await db.AssuranceClients.AsNoTracking().SingleOrDefaultAsync(c => c.Id == link.SubjectId, cancel)
                    is { } client
                    && client.EndsOn >= today => new(
                link,
                client.Name,
                client.EndsOn,
                await AssuranceDocuments.Offered(db).OrderBy(d => d.Title).ToListAsync(cancel)
            ),
            { Kind: LinkKind.Document } link
                when await db.DocumentAsks.AsNoTracking().SingleOrDefaultAsync(a => a.Id == link.SubjectId, cancel)
                    is { } ask
                    && ask.EndsOn >= today
                    && await AssuranceDocuments.Offered(db).Where(d => d.Id == ask.DocumentId).ToListAsync(cancel)
                        is { Count: 1 } one => new(link, $"{ask.Name}, {ask.Organisation}", ask.EndsOn.Value, one),
            _ => null,
        };
    }

    private sealed record Opening(PersonLink Link, string Name, LocalDate EndsOn, List<AssuranceDocument> Documents);

    private static async Task<Reply<GivenDocuments>> Given(
        string token,
        PersonLinks links,
        [AsParameters] ApiContext context
    ) =>
        await OpenedByAsync(token, links, context) is var (_, name, ends, documents)
            ? new GivenDocuments(
                (await context.Db.Organisations.AsNoTracking().SingleAsync(context.Cancel)).Name,
                name,
                ends,
                [.. documents.Select(d => new AssuranceOffer(d.Id, d.Title, d.Says))]
            )
            : Problems.NotFound("document; the link may have ended");

    /// <summary>The document, with the recipient's name on every page; each time is an entry.</summary>
    private static async Task<IResult> Fetch(
        string token,
        long document,
        WideKeelOptions options,
        PersonLinks links,
        [AsParameters] ApiContext context
    )
    {
        var today = context.Calendar.Today;
        if (
            await OpenedByAsync(token, links, context) is not var (link, name, _, documents)
            || documents.Find(d => d.Id == document) is not { } row
            || StoredFiles.Broken(row.Hash, options) is not null
        )
        {
            return (Reply<Done>)Problems.NotFound("document; the link may have ended");
        }

        await context.Writer.RunAsync(
            LedgerActor.Outsider(link.Mail, context.Caller.Address) with
            {
                Via = "link",
            },
            async session =>
            {
                await session
                    .Db.DocumentAsks.Where(a => link.Kind == LinkKind.Document && a.Id == link.SubjectId)
                    .ExecuteUpdateAsync(a => a.SetProperty(x => x.Opened, x => x.Opened + 1), context.Cancel);
                await session
                    .Db.AssuranceClients.Where(c => link.Kind == LinkKind.Client && c.Id == link.SubjectId)
                    .ExecuteUpdateAsync(c => c.SetProperty(x => x.Opened, x => x.Opened + 1), context.Cancel);
                session.Record(
                    "fetched",
                    AssuranceDocuments.DocumentOf(row.Id),
                    after: new JsonObject { ["title"] = row.Title }
                );
            },
            context.Cancel
        );
        var marked = Watermark.Mark(
            Path.Combine(options.EvidenceFolder, row.Hash),
            $"Given to {name} on {Wording.Day(today)}. Not to be passed on."
        );
        return Results.File(marked, "application/pdf", row.FileName);
    }
}
