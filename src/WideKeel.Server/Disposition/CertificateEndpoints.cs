using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.SignIn;
using WideKeel.Store;
using WideKeel.Store.Disposition;

namespace WideKeel.Server.Disposition;

public sealed record CertificateView(long Id, string Number, long BatchId, string Code, string Title, Instant IssuedAt, int Items, long Bytes);

public static class CertificateEndpoints
{
    public static void MapCertificates(this IEndpointRouteBuilder api)
    {
        api.MapGet("/certificates", List).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}", Show).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}/document.json", Document).Requires(Right.ReadDocket);
        api.MapGet("/certificates/{id:long}/document.pdf", Pdf).Requires(Right.ReadDocket);
    }

    private static async Task<Reply<IReadOnlyList<CertificateView>>> List(Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var all = await db.Certificates.AsNoTracking().OrderByDescending(c => c.Id).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<CertificateView>>)all.Where(c => caller.May(Right.ReadDocket, c.UnitId)).Select(View).ToList();
    }

    private static async Task<Reply<CertificateView>> Show(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        return await VisibleAsync(id, caller, db, cancel) is { } certificate ? View(certificate) : Problems.NotFound("certificate");
    }

    private static CertificateView View(Certificate certificate) => new(certificate.Id, certificate.Number, certificate.BatchId, certificate.Code, certificate.Title, certificate.IssuedAt, certificate.Items, certificate.Bytes);

    private static async Task<IResult> Document(long id, Caller caller, WideKeelDb db, HttpContext http, CancellationToken cancel) =>
        await VisibleAsync(id, caller, db, cancel) is { } certificate
            ? Results.File(Encoding.UTF8.GetBytes(certificate.Document), "application/json", $"certificate-{certificate.Number}.json")
            : (Reply<Done>)Problems.NotFound("certificate");

    private static async Task<IResult> Pdf(long id, Caller caller, WideKeelDb db, CancellationToken cancel) =>
        await VisibleAsync(id, caller, db, cancel) is { } certificate
            ? Results.File(CertificatePdf.Draw(JsonNode.Parse(certificate.Document)!.AsObject()), "application/pdf", $"certificate-{certificate.Number}.pdf")
            : (Reply<Done>)Problems.NotFound("certificate");

    private static async Task<Certificate?> VisibleAsync(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var certificate = await db.Certificates.AsNoTracking().SingleOrDefaultAsync(c => c.Id == id, cancel);
        return certificate is not null && caller.May(Right.ReadDocket, certificate.UnitId) ? certificate : null;
    }
}
