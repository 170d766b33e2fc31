using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>
/// A service provider of SCIM 2.0 (RFC 7644): a program of the organisation's directory keeps its users and groups here. It
/// sees what it sent, and nothing else. Bulk and changes of passwords are not offered, and the configuration says so.
/// </summary>
public static class ScimEndpoints
{
    private const int MostAtOnce = 1_000;
    private static readonly ScimUsers Users = new();
    private static readonly ScimGroups Groups = new(Users);

    public static void MapScim(this IEndpointRouteBuilder root)
    {
        // The token is asked for by the filter: it is none of a person, and opens nothing under /api.
        var scim = root.MapGroup(Scim.Root).OpenToAll().ExcludeFromDescription();
        scim.AddEndpointFilter(TokenAsync);
        scim.MapGet("/ServiceProviderConfig", (HttpContext http) => Scim.Answer(ScimSchemas.Configuration(At(http))));
        scim.MapGet("/ResourceTypes", (HttpContext http) => Scim.Answer(ScimSchemas.ResourceTypes(At(http))));
        scim.MapGet(
            "/ResourceTypes/{id}",
            (string id, HttpContext http) => One(ScimSchemas.ResourceTypes(At(http)), id)
        );
        scim.MapGet("/Schemas", (HttpContext http) => Scim.Answer(ScimSchemas.All(At(http))));
        scim.MapGet("/Schemas/{id}", (string id, HttpContext http) => One(ScimSchemas.All(At(http)), id));
        Map(scim, Users);
        Map(scim, Groups);
        scim.Map("/{**rest}", (string? rest) => Scim.Refused(Scim.NotFound(rest ?? "")));
    }

    private static void Map(RouteGroupBuilder scim, ScimKind kind)
    {
        var (all, one) = ($"/{kind.Endpoint}", $"/{kind.Endpoint}/{{id}}");
        // The type is written out: without it a lambda of a context alone is taken for one that writes its answer itself.
        scim.MapGet(all, Task<IResult> (HttpContext http) => ListAsync(kind, http, Asked(http.Request.Query)));
        scim.MapPost($"{all}/.search", Task<IResult> (HttpContext http) => SearchAsync(kind, http));
        scim.MapPost(all, Task<IResult> (HttpContext http) => KeepAsync(kind, http, null));
        scim.MapGet(one, (string id, HttpContext http) => ShowAsync(kind, http, id));
        scim.MapPut(one, (string id, HttpContext http) => KeepAsync(kind, http, id));
        scim.MapPatch(one, (string id, HttpContext http) => PatchAsync(kind, http, id));
        scim.MapDelete(one, (string id, HttpContext http) => RemoveAsync(kind, http, id));
    }

    private static async ValueTask<object?> TokenAsync(
        EndpointFilterInvocationContext invocation,
        EndpointFilterDelegate next
    )
    {
        var http = invocation.HttpContext;
        http.Response.Headers.CacheControl = "no-store";
        var db = http.RequestServices.GetRequiredService<WideKeelDb>();
        var source = ApiKeyAuthentication.DirectoryTokenHash(http.Request) is { } hash
            ? await db.DirectorySources.AsNoTracking().SingleOrDefaultAsync(s => s.TokenHash == hash)
            : null;
        if (source is null)
        {
            http.Response.Headers.WWWAuthenticate = "Bearer";
            return Scim.Refused(
                Refusal.NotSignedIn("not-signed-in", null, "Send the token of a source of the directory.")
            );
        }

        http.Items[typeof(DirectorySource)] = source;
        http.Items[Scim.Root] = await DirectorySources.ScimAddressAsync(db, http.Request, http.RequestAborted);
        return await next(invocation);
    }

    private static DirectorySource SourceOf(HttpContext http) => (DirectorySource)http.Items[typeof(DirectorySource)]!;

    private static string At(HttpContext http) => (string)http.Items[Scim.Root]!;

    private static IResult One(JsonObject list, string id) =>
        list["Resources"]!
            .AsArray()
            .FirstOrDefault(r => string.Equals((string?)r!["id"], id, StringComparison.OrdinalIgnoreCase))
            is { } one
            ? Scim.Answer(one.DeepClone())
            : Scim.Refused(Scim.NotFound(id));

    /// <summary>What a list is asked by (RFC 7644, 3.4.2 and 3.4.3).</summary>
    private sealed record Question(
        string? Filter,
        string? StartIndex,
        string? Count,
        string? SortBy,
        string? SortOrder,
        string? Attributes,
        string? ExcludedAttributes
    );

    private static Question Asked(IQueryCollection query) =>
        new(
            query["filter"],
            query["startIndex"],
            query["count"],
            query["sortBy"],
            query["sortOrder"],
            query["attributes"],
            query["excludedAttributes"]
        );

    private static async Task<IResult> SearchAsync(ScimKind kind, HttpContext http)
    {
        var body = await BodyAsync(http);
        if (body.Refused)
        {
            return Scim.Refused(body.Refusal!);
        }

        return await ListAsync(
            kind,
            http,
            new(
                Value("filter"),
                Value("startIndex"),
                Value("count"),
                Value("sortBy"),
                Value("sortOrder"),
                Value("attributes"),
                Value("excludedAttributes")
            )
        );

        string? Value(string name) =>
            ScimPath.Member(body.Value, name) switch
            {
                null => null,
                JsonArray list => string.Join(',', list.Select(l => l?.ToString())),
                { } value => value.ToString(),
            };
    }

    private static async Task<IResult> ListAsync(ScimKind kind, HttpContext http, Question asked)
    {
        var filter = asked.Filter is { Length: > 0 } text ? ScimFilter.Parse(text) : default(Outcome<ScimFilter>?);
        if (filter is { Refused: true } refused)
        {
            return Scim.Refused(refused.Refusal!);
        }

        var sort = asked.SortBy is { Length: > 0 } by ? ScimPath.Parse(by) : default(Outcome<ScimPath>?);
        if (sort is { Refused: true } unread)
        {
            return Scim.Refused(unread.Refusal!);
        }

        if (!Number(asked.StartIndex, 1, out var start) || !Number(asked.Count, MostAtOnce, out var count))
        {
            return Scim.Refused(Scim.Wrong("startIndex", "startIndex and count are whole numbers."));
        }

        var db = http.RequestServices.GetRequiredService<WideKeelDb>();
        var source = SourceOf(http).Id;
        var equal =
            filter?.Value.AsEquation() is var (path, wanted) && path.Schema.Length == 0
                ? await kind.EqualAsync(db, source, At(http), (path.Attribute, wanted), http.RequestAborted)
                : null;
        IEnumerable<JsonObject> found =
            equal
            ?? (await kind.AllAsync(db, source, At(http), http.RequestAborted)).Where(r =>
                filter?.Value.Fits(r) ?? true
            );
        if (sort is { Value: var order })
        {
            var descending = string.Equals(asked.SortOrder, "descending", StringComparison.OrdinalIgnoreCase);
            var key = (JsonObject r) => order.Values(r).FirstOrDefault()?.ToString() ?? "";
            found = descending
                ? found.OrderByDescending(key, StringComparer.OrdinalIgnoreCase)
                : found.OrderBy(key, StringComparer.OrdinalIgnoreCase);
        }

        var all = found.ToList();
        start = Math.Max(1, start);
        var page = all.Skip(start - 1).Take(Math.Clamp(count, 0, MostAtOnce)).ToList();
        return Scim.Answer(
            new JsonObject
            {
                ["schemas"] = new JsonArray(Scim.List),
                ["totalResults"] = all.Count,
                ["startIndex"] = start,
                ["itemsPerPage"] = page.Count,
                ["Resources"] = new JsonArray([.. page.Select(r => (JsonNode)Chosen(r, asked))]),
            }
        );
    }

    private static bool Number(string? text, int otherwise, out int number)
    {
        number = otherwise;
        return string.IsNullOrEmpty(text)
            || int.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out number);
    }

    /// <summary>The attributes that were asked for; id and schemas are always there (RFC 7644, 3.9).</summary>
    private static JsonObject Chosen(JsonObject resource, Question asked)
    {
        var wanted = Names(asked.Attributes);
        var unwanted = Names(asked.ExcludedAttributes);
        if (wanted.Count == 0 && unwanted.Count == 0)
        {
            return (JsonObject)resource.DeepClone();
        }

        return new(
            resource
                .Where(m =>
                    m.Key is "id" or "schemas"
                    || (wanted.Count == 0 ? !unwanted.Contains(m.Key) : wanted.Contains(m.Key))
                )
                .Select(m => KeyValuePair.Create(m.Key, m.Value?.DeepClone()))
        );

        static HashSet<string> Names(string? text) =>
            (text ?? "")
                .Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
                .Select(ScimPath.Parse)
                .Where(p => !p.Refused)
                .Select(p => p.Value.Schema.Length > 0 ? p.Value.Schema : p.Value.Attribute)
                .ToHashSet(StringComparer.OrdinalIgnoreCase);
    }

    private static async Task<IResult> ShowAsync(ScimKind kind, HttpContext http, string id)
    {
        var resource = await FoundAsync(kind, http, id);
        if (resource is null)
        {
            return Scim.Refused(Scim.NotFound(id));
        }

        var tag = TagOf(resource);
        http.Response.Headers.ETag = tag;
        return http.Request.Headers.IfNoneMatch.Contains(tag)
            ? Results.StatusCode(StatusCodes.Status304NotModified)
            : Scim.Answer(Chosen(resource, Asked(http.Request.Query)));
    }

    private static async Task<IResult> PatchAsync(ScimKind kind, HttpContext http, string id)
    {
        var body = await BodyAsync(http);
        return body.Refused
            ? Scim.Refused(body.Refusal!)
            : await KeptAsync(kind, http, id, resource => new ScimPatch(kind.Attributes).Apply(resource, body.Value));
    }

    /// <summary>POST where there is no id, PUT where there is one.</summary>
    private static async Task<IResult> KeepAsync(ScimKind kind, HttpContext http, string? id)
    {
        var body = await BodyAsync(http);
        return body.Refused ? Scim.Refused(body.Refusal!) : await KeptAsync(kind, http, id, _ => body.Value);
    }

    private static async Task<IResult> KeptAsync(
        ScimKind kind,
        HttpContext http,
        string? id,
        Func<JsonObject, Outcome<JsonObject>> change
    )
    {
        var source = SourceOf(http);
        var number = kind.Number(id);
        var outcome = await WriteAsync(
            http,
            async session =>
            {
                var now = number is { } known
                    ? await kind.OneAsync(session.Db, source.Id, At(http), known, http.RequestAborted)
                    : null;
                if ((id is null ? null : Stale(http, now, id)) is { } refusal)
                {
                    return refusal;
                }

                var resource = change(now ?? []);
                return resource.Refused
                    ? resource.Refusal!
                    : await kind.KeepAsync(session, source, number, resource.Value, http.RequestAborted);
            }
        );
        if (outcome.Refused)
        {
            return Scim.Refused(outcome.Refusal!);
        }

        var kept = await FoundAsync(kind, http, kind.IdOf(outcome.Value));
        http.Response.Headers.ETag = TagOf(kept!);
        http.Response.Headers.Location = (string?)kept!["meta"]!["location"];
        return Scim.Answer(kept, id is null ? StatusCodes.Status201Created : StatusCodes.Status200OK);
    }

    private static async Task<IResult> RemoveAsync(ScimKind kind, HttpContext http, string id)
    {
        var source = SourceOf(http);
        var number = kind.Number(id);
        var outcome = await WriteAsync(
            http,
            async session =>
            {
                var now = number is { } known
                    ? await kind.OneAsync(session.Db, source.Id, At(http), known, http.RequestAborted)
                    : null;
                if (Stale(http, now, id) is { } refusal)
                {
                    return refusal;
                }

                await kind.RemoveAsync(session, source, number!.Value, http.RequestAborted);
                return number.Value;
            }
        );
        return outcome.Refused ? Scim.Refused(outcome.Refusal!) : Results.NoContent();
    }

    private static Task<Outcome<long>> WriteAsync(HttpContext http, Func<WriteSession, Task<Outcome<long>>> change)
    {
        var source = SourceOf(http);
        return http
            .RequestServices.GetRequiredService<Writer>()
            .RunAsync<long>(
                new LedgerActor($"job:scim {source.Name}", null, http.Connection.RemoteIpAddress?.ToString()),
                session =>
                    Entrances.WatchedAsync(
                        session,
                        async () =>
                        {
                            var done = await change(session);
                            if (!done.Refused)
                            {
                                (await session.Db.DirectorySources.SingleAsync(s => s.Id == source.Id)).LastAt =
                                    session.Now;
                            }

                            return done;
                        },
                        http.RequestAborted
                    ),
                http.RequestAborted
            );
    }

    /// <summary>Why the resource cannot be changed: it is not there, or it is not the one that the client read.</summary>
    private static Refusal? Stale(HttpContext http, JsonObject? now, string id) =>
        now is null ? Scim.NotFound(id)
        : http.Request.Headers.IfMatch is { Count: > 0 } tags
        && !tags.Any(t => t == "*" || t!.Split(',', StringSplitOptions.TrimEntries).Contains(TagOf(now)))
            ? Refusal.Stale("stale", null, $"“{id}” has changed since it was read; its version is {TagOf(now)}.")
        : null;

    private static string TagOf(JsonObject resource) => (string)resource["meta"]!["version"]!;

    private static async Task<JsonObject?> FoundAsync(ScimKind kind, HttpContext http, string id) =>
        kind.Number(id) is { } number
            ? await kind.OneAsync(
                http.RequestServices.GetRequiredService<WideKeelDb>(),
                SourceOf(http).Id,
                At(http),
                number,
                http.RequestAborted
            )
            : null;

    private static async Task<Outcome<JsonObject>> BodyAsync(HttpContext http)
    {
        try
        {
            return
                await JsonNode.ParseAsync(
                    http.Request.Body,
                    documentOptions: new JsonDocumentOptions { MaxDepth = 32 },
                    cancellationToken: http.RequestAborted
                )
                    is JsonObject body
                // A name that stands twice is found when the members are first looked at.
                && body.Count >= 0
                ? body
                : new Refusal("invalidSyntax", null, "The body is a JSON object.");
        }
        catch (Exception e) when (e is JsonException or ArgumentException)
        {
            return new Refusal("invalidSyntax", null, $"The body is no JSON object: {e.Message}");
        }
    }
}
