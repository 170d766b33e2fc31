using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;

namespace WideKeel.Server.People;

/// <summary>Words and forms of SCIM 2.0 (RFC 7643, RFC 7644).</summary>
internal static class Scim
{
    public const string Root = "/scim/v2";
    public const string MediaType = "application/scim+json";
    public const string User = "urn:ietf:params:scim:schemas:core:2.0:User";
    public const string Group = "urn:ietf:params:scim:schemas:core:2.0:Group";
    public const string List = "urn:ietf:params:scim:api:messages:2.0:ListResponse";
    private const string Error = "urn:ietf:params:scim:api:messages:2.0:Error";

    /// <summary>The scimTypes of RFC 7644, table 9, that stand in an answer of 400 or 409.</summary>
    private static readonly HashSet<string> Types =
    [
        "invalidFilter",
        "tooMany",
        "uniqueness",
        "mutability",
        "invalidSyntax",
        "invalidPath",
        "noTarget",
        "invalidValue",
    ];

    public static IResult Answer(JsonNode body, int status = StatusCodes.Status200OK) =>
        Results.Text(body.ToJsonString(), MediaType, statusCode: status);

    /// <summary>An error as RFC 7644, 3.12 writes it.</summary>
    public static IResult Refused(Refusal refusal)
    {
        var status = Problems.StatusOf(refusal.Kind);
        var body = new JsonObject
        {
            ["schemas"] = new JsonArray(Error),
            ["status"] = status.ToString(CultureInfo.InvariantCulture),
            ["detail"] = refusal.Sentence,
        };
        if (Types.Contains(refusal.Code))
        {
            body["scimType"] = refusal.Code;
        }

        return Answer(body, status);
    }

    public static Refusal NotFound(string id) => Refusal.NotFound("not-found", null, $"There is no resource “{id}”.");

    public static Refusal Wrong(string field, string why) => new("invalidValue", field, why);

    public static Refusal Taken(string field, string why) => Refusal.Conflict("uniqueness", field, why);

    public static string ETag(long version) => string.Create(CultureInfo.InvariantCulture, $"W/\"{version}\"");

    public static JsonObject Meta(string type, string location, Instant made, Instant changed, long version) =>
        new()
        {
            ["resourceType"] = type,
            ["created"] = made.ToString(),
            ["lastModified"] = changed.ToString(),
            ["location"] = location,
            ["version"] = ETag(version),
        };

    /// <summary>A text member; empty where there is none.</summary>
    public static string Text(JsonObject of, string path) =>
        ScimPath.Parse(path).Value.Values(of).FirstOrDefault() is JsonValue value
        && value.TryGetValue<string>(out var text)
            ? text.Trim()
            : "";

    /// <summary>Whether an attribute is true; several clients send the word as a text (common practice).</summary>
    public static bool? Flag(JsonObject of, string path) =>
        ScimPath.Parse(path).Value.Values(of).FirstOrDefault() switch
        {
            JsonValue v when v.TryGetValue<bool>(out var flag) => flag,
            JsonValue v when v.TryGetValue<string>(out var text) && bool.TryParse(text, out var flag) => flag,
            _ => null,
        };
}
