using System.Globalization;
using System.Reflection;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Http.Metadata;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Refusals that several places give, and the one place where a refusal becomes an HTTP answer (RFC 9457).
/// </summary>
public static partial class Problems
{
    public static Refusal NotFound(string what) =>
        Refusal.NotFound("not-found", null, $"There is no such {what}, or it lies outside your remit.");

    public static Refusal Stale { get; } =
        Refusal.Stale(
            "stale",
            null,
            "Somebody else changed this in the meantime. Nothing was saved; look at what is there now and decide again."
        );

    public static Refusal Precondition { get; } =
        Refusal.Precondition(
            "precondition-missing",
            null,
            "Send If-Match with the ETag that you read, so that nobody's change is overwritten."
        );

    public static int StatusOf(RefusalKind kind) =>
        kind switch
        {
            RefusalKind.Malformed => StatusCodes.Status400BadRequest,
            RefusalKind.NotSignedIn => StatusCodes.Status401Unauthorized,
            RefusalKind.Forbidden => StatusCodes.Status403Forbidden,
            RefusalKind.NotFound => StatusCodes.Status404NotFound,
            RefusalKind.Conflict => StatusCodes.Status409Conflict,
            RefusalKind.Stale => StatusCodes.Status412PreconditionFailed,
            RefusalKind.Precondition => StatusCodes.Status428PreconditionRequired,
            RefusalKind.TooLarge => StatusCodes.Status413PayloadTooLarge,
            RefusalKind.TooMany => StatusCodes.Status429TooManyRequests,
            RefusalKind.Asked => StatusCodes.Status202Accepted,
            RefusalKind.OutOfService => StatusCodes.Status503ServiceUnavailable,
            _ => throw new ArgumentOutOfRangeException(nameof(kind)),
        };

    public static ProblemDetails Describe(Refusal refusal)
    {
        var problem = new ProblemDetails
        {
            Type = $"urn:widekeel:problem:{refusal.Code}",
            Title = refusal.Sentence,
            Status = StatusOf(refusal.Kind),
        };
        if (refusal.Field is not null)
        {
            problem.Extensions["field"] = refusal.Field;
        }

        if (refusal.Span is { } span)
        {
            problem.Extensions["at"] = span.Start;
            problem.Extensions["length"] = span.Length;
        }

        return problem;
    }

    public static Task WriteAsync(HttpContext http, Refusal refusal)
    {
        http.Response.StatusCode = StatusOf(refusal.Kind);
        return http.Response.WriteAsJsonAsync(
            Describe(refusal),
            options: null,
            contentType: "application/problem+json"
        );
    }

    /// <summary>Says what the framework refused with a number alone; the number stays.</summary>
    public static Task WriteStatusAsync(HttpContext http)
    {
        var status = http.Response.StatusCode;
        if (status == StatusCodes.Status413PayloadTooLarge)
        {
            return WriteAsync(http, BodyTooLarge(http));
        }

        var problem = Describe(
            new("request-refused", null, $"The server took the request for none that it can answer (status {status}).")
        );
        problem.Status = status;
        return http.Response.WriteAsJsonAsync(problem, options: null, contentType: "application/problem+json");
    }

    private static Refusal BodyTooLarge(HttpContext http)
    {
        // Whoever handles an exception has taken the endpoint off the request.
        var endpoint = http.Features.Get<IExceptionHandlerFeature>()?.Endpoint ?? http.GetEndpoint();
        var most = endpoint?.Metadata.GetMetadata<IRequestSizeLimitMetadata>()?.MaxRequestBodySize;
        return Refusal.TooLarge(
            "body-too-large",
            null,
            string.Create(
                CultureInfo.InvariantCulture,
                $"The request is larger than {(most ?? WideKeelHost.MostRequestBytes) / 1_000_000} MB."
            )
        );
    }

    /// <summary>Checks If-Match against the revision read; null when they agree.</summary>
    public static Refusal? CheckMatch(HttpContext http, long revision)
    {
        var match = http.Request.Headers.IfMatch.ToString();
        return match.Length == 0 ? Precondition
            : match == ETag(revision) ? null
            : Stale;
    }

    /// <summary>Reads the revision of If-Match; null where there is one.</summary>
    public static Refusal? ReadMatch(HttpContext http, out long revision)
    {
        var match = http.Request.Headers.IfMatch.ToString();
        revision = 0;
        return match.Length == 0 ? Precondition
            : long.TryParse(match.Trim('"'), CultureInfo.InvariantCulture, out revision) ? null
            : Stale;
    }

    /// <summary>Null where a reason was given; it stays with what was done.</summary>
    public static Refusal? CheckWhy(string? why) =>
        string.IsNullOrWhiteSpace(why) || why.Length > 1000
            ? new("why-missing", "why", "Say in a sentence why, in at most 1,000 characters; it stays in the history.")
            : null;

    public static string ETag(long revision) => $"\"{revision}\"";

    /// <summary>Turns what slips through as an exception into the answer that it means.</summary>
    public static Refusal? FromException(Exception exception, HttpContext http) =>
        exception switch
        {
            DbUpdateConcurrencyException => Stale,
            _ when Store.SearchDeadline.WasMissed(exception) => new(
                "search-too-long",
                null,
                "This took longer than a search may and was stopped. Narrow it: fewer words beside one another, a place or dates."
            ),
            Store.OutOfServiceException e => Refusal.OutOfService("out-of-service", null, e.Message),
            _ when Store.Shortage.Of(exception) is { } shortage => Refusal.OutOfService(
                "out-of-service",
                null,
                $"{shortage} Nothing was changed; try again when that is over."
            ),
            BadHttpRequestException { StatusCode: StatusCodes.Status413PayloadTooLarge } => BodyTooLarge(http),
            BadHttpRequestException { InnerException: System.Text.Json.JsonException e } => Unreadable(e),
            BadHttpRequestException e when Unbound().Match(e.Message) is { Success: true, Groups: var part } => new(
                "value-malformed",
                part["name"].Value,
                $"“{part["value"].Value}” is no value that {part["name"].Value} takes."
            ),
            BadHttpRequestException e => new("request-malformed", null, $"The request cannot be read: {e.Message}"),
            _ => null,
        };

    /// <summary>What the framework says of a value in the address, with the type of our own that it did not fit.</summary>
    [GeneratedRegex("""^Failed to bind parameter ".* (?<name>\w+)" from "(?<value>.*)"\.$""", RegexOptions.Singleline)]
    private static partial Regex Unbound();

    private static Refusal Unreadable(System.Text.Json.JsonException e) =>
        new(
            "request-malformed",
            e.Path?.TrimStart('$', '.') is { Length: > 0 } path ? path : null,
            e.Message.Contains("required", StringComparison.Ordinal)
                ? $"The request lacks something that is needed: {e.Message.Split(':')[^1].Trim()}"
                : $"The request cannot be read at {(e.Path is { Length: > 1 } at ? at[2..] : "its beginning")}"
                    + $"{(e.LineNumber is { } line ? $" (line {line + 1})" : "")}."
        );
}

/// <summary>An endpoint's answer: the value as JSON, or the refusal as problem details. Tells OpenAPI both.</summary>
public sealed class Reply<T> : IResult, IEndpointMetadataProvider
{
    private readonly Outcome<T> outcome;

    private Reply(Outcome<T> outcome) => this.outcome = outcome;

    /// <summary>Sent as the ETag, when the value has a revision.</summary>
    public long? Revision { get; init; }

    public static implicit operator Reply<T>(Outcome<T> outcome) =>
        new(outcome) { Revision = !outcome.Refused && outcome.Value is IRevised revised ? revised.Revision : null };

    public static implicit operator Reply<T>(T value) => (Outcome<T>)value;

    public static implicit operator Reply<T>(Refusal refusal) => (Outcome<T>)refusal;

    public Task ExecuteAsync(HttpContext httpContext)
    {
        if (outcome.Refused)
        {
            return Problems.WriteAsync(httpContext, outcome.Refusal!);
        }

        if (Revision is { } revision)
        {
            httpContext.Response.Headers.ETag = Problems.ETag(revision);
        }

        return httpContext.Response.WriteAsJsonAsync(outcome.Value);
    }

    // The interface asks for a static member on this generic type.
#pragma warning disable CA1000
    public static void PopulateMetadata(MethodInfo method, EndpointBuilder builder)
    {
        builder.Metadata.Add(
            new ProducesResponseTypeMetadata(StatusCodes.Status200OK, typeof(T), ["application/json"])
        );
        builder.Metadata.Add(
            new ProducesResponseTypeMetadata(
                StatusCodes.Status400BadRequest,
                typeof(ProblemDetails),
                ["application/problem+json"]
            )
        );
    }
#pragma warning restore CA1000
}

/// <summary>Something whose writes are guarded by an ETag.</summary>
public interface IRevised
{
    long Revision { get; }
}

/// <summary>The answer of an act that has nothing else to say.</summary>
public sealed record Done(bool Ok = true);
