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

public sealed record CertificateView(long Id, string Number, long BatchId, SeriesRef Series, Instant IssuedAt, int Items, long Bytes);

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
        var all = await (from c in db.Certificates.AsNoTracking() join s in db.Series on c.SeriesId equals s.Id orderby c.Id descending select new { c, s }).ToListAsync(cancel);
        return (Outcome<IReadOnlyList<CertificateView>>)all.Where(x => caller.May(Right.ReadDocket, x.s.UnitId))
            .Select(x => new CertificateView(x.c.Id, x.c.Number, x.c.BatchId, new(x.s.Id, x.s.Code, x.s.Title), x.c.IssuedAt, x.c.Items, x.c.Bytes)).ToList();
    }

    private static async Task<Reply<CertificateView>> Show(long id, Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        var certificate = await VisibleAsync(id, caller, db, cancel);
        if (certificate is null)
        {
            return Problems.NotFound("certificate");
        }

        var series = await db.Series.AsNoTracking().SingleAsync(s => s.Id == certificate.SeriesId, cancel);
        return new CertificateView(certificate.Id, certificate.Number, certificate.BatchId, new(series.Id, series.Code, series.Title), certificate.IssuedAt, certificate.Items, certificate.Bytes);
    }

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
        return certificate is not null && caller.May(Right.ReadDocket, await db.Series.Where(s => s.Id == certificate.SeriesId).Select(s => s.UnitId).SingleAsync(cancel)) ? certificate : null;
    }
}
