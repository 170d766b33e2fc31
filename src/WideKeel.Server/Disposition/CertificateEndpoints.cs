using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

/// <param name="HasList">False once its own term is over: the list is gone, the counts remain.</param>
public sealed record CertificateView(
    long Id,
    string Number,
    long BatchId,
    string Code,
    string Title,
    Instant IssuedAt,
    int Items,
    long Bytes,
    bool HasList
);

public static class CertificateEndpoints
{
    public static void MapCertificates(this IEndpointRouteBuilder api)
    {
        api.MapGet("/certificates", List).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}", Show).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}/document.json", Document).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}/document.pdf", Pdf).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}/document.csv", Csv).Requires(Right.ReadDocket);
    }

    private static Refusal LetGo { get; } =
        Refusal.Conflict(
            "certificate-let-go",
            null,
            "This certificate's own term is over: its list is gone, its number and counts remain."
        );

    private static async Task<Reply<IReadOnlyList<CertificateView>>> List(
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var all = await Listed(db.Certificates.OrderByDescending(c => c.Id)).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<CertificateView>>)
            all.Where(c => caller.May(Right.ReadDocket, c.UnitId)).Select(c => c.View).ToList();
    }

    private static async Task<Reply<CertificateView>> Show(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    ) =>
        await Listed(db.Certificates.Where(c => c.Id == id)).SingleOrDefaultAsync(cancel) is { } certificate
        && caller.May(Right.ReadDocket, certificate.UnitId)
            ? certificate.View
            : Problems.NotFound("certificate");

    /// <summary>Without their documents, each of which may be megabytes long.</summary>
    private static IQueryable<ListedCertificate> Listed(IQueryable<Certificate> certificates) =>
        certificates.Select(c => new ListedCertificate(
            c.UnitId,
            new(c.Id, c.Number, c.BatchId, c.Code, c.Title, c.IssuedAt, c.Items, c.Bytes, c.Document != "")
        ));

    private static async Task<IResult> Document(
        long id,
        Caller caller,
        WideKeelDb db,
        HttpContext http,
        CancellationToken cancel
    ) =>
        await VisibleAsync(id, caller, db, cancel) is { } certificate
            ? certificate.Document.Length == 0
                ? (Reply<Done>)LetGo
                : Results.File(
                    Encoding.UTF8.GetBytes(certificate.Document),
                    "application/json",
                    FileName(certificate, "json")
                )
            : (Reply<Done>)Problems.NotFound("certificate");

    private static async Task<IResult> Pdf(long id, Caller caller, WideKeelDb db, CancellationToken cancel) =>
        await VisibleAsync(id, caller, db, cancel) is { } certificate
            ? certificate.Document.Length == 0
                ? (Reply<Done>)LetGo
                : Results.File(
                    CertificatePdf.Draw(JsonNode.Parse(certificate.Document)!.AsObject()),
                    "application/pdf",
                    FileName(certificate, "pdf")
                )
            : (Reply<Done>)Problems.NotFound("certificate");

    private static readonly string[] Columns =
    [
        "certificate",
        "outcome",
        "id",
        "source",
        "path",
        "title",
        "sha256",
        "bytes",
        "created",
        "kept-through",
        "destroyed",
        "why",
        "entry",
    ];

    /// <summary>What is gone, and what was not destroyed, one item a line.</summary>
    private static async Task<IResult> Csv(
        long id,
        Caller caller,
        WideKeelDb db,
        HttpContext http,
        CancellationToken cancel
    )
    {
        if (await VisibleAsync(id, caller, db, cancel) is not { } certificate)
        {
            return (Reply<Done>)Problems.NotFound("certificate");
        }

        if (certificate.Document.Length == 0)
        {
            return (Reply<Done>)LetGo;
        }

        var document = JsonNode.Parse(certificate.Document)!;
        var gone = document["items"]!
            .AsArray()
            .Select(i =>
                Row(
                    i!,
                    (bool)i!["handedOver"]! ? "handed over" : "destroyed",
                    ["title", "sha256", "bytes", "created", "keptThrough", "destroyed", "", "entry"]
                )
            );
        var stayed = document["notDestroyed"]!
            .AsArray()
            .Select(i =>
                Row(i!, DispositionTexts.OutcomeOf((string)i!["outcome"]!), ["", "", "", "", "", "", "why", ""])
            );
        return await CsvAnswer.WriteAsync(
            http,
            FileName(certificate, "csv"),
            Columns,
            gone.Concat(stayed).ToAsyncEnumerable(),
            cancel
        );

        object?[] Row(JsonNode item, string outcome, string[] rest) =>
            [
                certificate.Number,
                outcome,
                item["id"]!.ToString(),
                item["source"]!.ToString(),
                item["path"]!.ToString(),
                .. rest.Select(name => name.Length == 0 ? null : item[name]?.ToString()),
            ];
    }

    private static string FileName(Certificate certificate, string extension) =>
        $"certificate-{certificate.Number.Replace('/', '-')}.{extension}";

    /// <summary>
    /// Certificates that are older than they are kept lose their list; number and counts remain. The stubs of their
    /// items go with it.
    /// </summary>
    internal static async Task LetGoAsync(
        WriteSession session,
        LocalDate today,
        int years,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var before = today.PlusYears(-years);
        foreach (
            var certificate in (
                await session
                    .Db.Certificates.Where(c => c.Document != "")
                    .Select(c => new
                    {
                        c.Id,
                        c.Number,
                        c.Items,
                        c.IssuedAt,
                    })
                    .ToListAsync(cancel)
            ).Where(c => calendar.DateOf(c.IssuedAt) < before)
        )
        {
            await session
                .Db.Certificates.Where(c => c.Id == certificate.Id)
                .ExecuteUpdateAsync(set => set.SetProperty(c => c.Document, ""), cancel);
            var stubs = session.Db.Items.Where(i => i.CertificateId == certificate.Id && i.DestroyedAt != null);
            FullText.Remove(session, await stubs.Select(i => i.Id).ToListAsync(cancel));
            await session.Db.ItemDates.Where(d => stubs.Any(i => i.Id == d.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.FilingMarks.Where(m => stubs.Any(i => i.Id == m.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.FilingSuggestions.Where(g => stubs.Any(i => i.Id == g.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.Questions.Where(q => stubs.Any(i => i.Id == q.ItemId)).ExecuteDeleteAsync(cancel);
            await session.Db.BatchLines.Where(l => stubs.Any(i => i.Id == l.ItemId)).ExecuteDeleteAsync(cancel);
            var count = await stubs.ExecuteDeleteAsync(cancel);
            await JobBoard.AddAsync(session, ClearWordsJob.JobKind, 0, ClearWordsJob.Title, null, "certificates");
            session.Record(
                "certificate-let-go",
                new("certificate", certificate.Id.ToString(CultureInfo.InvariantCulture)),
                after: new JsonObject
                {
                    ["number"] = certificate.Number,
                    ["items"] = certificate.Items,
                    ["stubs"] = count,
                }
            );
        }
    }

    private static async Task<Certificate?> VisibleAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    )
    {
        var certificate = await db.Certificates.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id, cancel);
        return certificate is not null && caller.May(Right.ReadDocket, certificate.UnitId) ? certificate : null;
    }

    private sealed record ListedCertificate(long UnitId, CertificateView View);
}
