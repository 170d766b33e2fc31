using System.Collections.Concurrent;
using Microsoft.AspNetCore.Server.Kestrel.Core;
using NodaTime;
using WideKeel.Core.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// A small program that stands in for a host inventory, a training register or a ticket list: it answers signed
/// questions with the records of a file, which is read anew for each answer.
/// </summary>
public static class StandInProgram
{
    /// <summary>Listens at an address until it is disposed of.</summary>
    /// <param name="file">JSON as <see cref="ConnectionRecords"/> reads it.</param>
    /// <param name="urls">Such as http://127.0.0.1:5081; port 0 takes any that is free.</param>
    public static async Task<WebApplication> StartAsync(string file, string key, string urls, IClock clock)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls(urls);
        builder.Services.Configure<KestrelServerOptions>(o => o.AddServerHeader = false);
        var app = builder.Build();
        ConcurrentDictionary<string, Instant> seen = new(StringComparer.Ordinal);
        app.MapGet("/records", Task<IResult> (HttpContext http) => AnswerAsync(http, file, key, seen, clock));
        await app.StartAsync();
        return app;
    }

    private static async Task<IResult> AnswerAsync(
        HttpContext http,
        string file,
        string key,
        ConcurrentDictionary<string, Instant> seen,
        IClock clock
    )
    {
        string? time = http.Request.Headers[Signature.TimeHeader];
        string? nonce = http.Request.Headers[Signature.NonceHeader];
        string? given = http.Request.Headers[Signature.Header];
        var now = clock.GetCurrentInstant();
        if (
            nonce is null
            || !Signature.IsFresh(time, now)
            || !Signature.Same(given, Signature.OfQuestion(key, "/records", time!, nonce))
            || !seen.TryAdd(nonce, now)
        )
        {
            return Results.Unauthorized();
        }

        foreach (var (old, at) in seen.Where(s => s.Value < now - Signature.Stays - Signature.Stays))
        {
            seen.TryRemove(new(old, at));
        }

        var body = await File.ReadAllTextAsync(file, http.RequestAborted);
        http.Response.Headers[Signature.Header] = Signature.OfAnswer(key, nonce, body);
        return Results.Text(body, "application/json");
    }
}
