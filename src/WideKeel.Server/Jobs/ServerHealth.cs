using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;

namespace WideKeel.Server.Jobs;

/// <summary>Whether the server does all that it does by itself.</summary>
/// <param name="State">“well”, or “troubled”.</param>
/// <param name="Since">When the longest-standing trouble began; null where all is well.</param>
/// <param name="Troubles">What is not done. Why, is for those who are signed in and look after it.</param>
public sealed record ServerHealth(string State, Instant? Since, IReadOnlyList<string> Troubles);

/// <summary>A signal for whatever watches the server from outside.</summary>
public static class ServerHealthEndpoint
{
    public static void MapServerHealth(this IEndpointRouteBuilder api)
    {
        api.MapGet("/health", Show).OpenToAll();
        api.MapGet("/troubles", List).Requires(Right.ManageSettings);
    }

    /// <summary>What the server cannot do at present, with the cause of each, the longest-standing first.</summary>
    private static Reply<IReadOnlyList<Trouble>> List(Troubles troubles) =>
        (Outcome<IReadOnlyList<Trouble>>)troubles.Open.ToList();

    /// <summary>200 where all is well, and 503 where not, so that a watcher need not read the answer.</summary>
    private static JsonHttpResult<ServerHealth> Show(Troubles troubles)
    {
        var open = troubles.Open;
        return open.Count == 0
            ? TypedResults.Json(new ServerHealth("well", null, []))
            : TypedResults.Json(
                new ServerHealth("troubled", open[0].Since, [.. open.Select(t => t.Title)]),
                statusCode: StatusCodes.Status503ServiceUnavailable
            );
    }
}
