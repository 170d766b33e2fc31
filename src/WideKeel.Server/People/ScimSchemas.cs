using System.Text.Json.Nodes;
using WideKeel.Core.People;

namespace WideKeel.Server.People;

/// <summary>What the service says about itself (RFC 7644, 4; RFC 7643, 5 to 7): what is kept, and no more.</summary>
internal static class ScimSchemas
{
    private const string Of = "urn:ietf:params:scim:schemas:core:2.0:";

    public static JsonObject Configuration(string at) =>
        new()
        {
            ["schemas"] = new JsonArray($"{Of}ServiceProviderConfig"),
            ["patch"] = Supported(true),
            ["bulk"] = new JsonObject
            {
                ["supported"] = false,
                ["maxOperations"] = 0,
                ["maxPayloadSize"] = 0,
            },
            ["filter"] = new JsonObject { ["supported"] = true, ["maxResults"] = 1000 },
            ["changePassword"] = Supported(false),
            ["sort"] = Supported(true),
            ["etag"] = Supported(true),
            ["authenticationSchemes"] = new JsonArray(
                new JsonObject
                {
                    ["type"] = "oauthbearertoken",
                    ["name"] = "Token of the source",
                    ["description"] = "Authorization: Bearer with the token that the set-up showed (RFC 6750).",
                    ["primary"] = true,
                }
            ),
            ["meta"] = new JsonObject
            {
                ["resourceType"] = "ServiceProviderConfig",
                ["location"] = $"{at}/ServiceProviderConfig",
            },
        };

    public static JsonObject ResourceTypes(string at) =>
        List(
            Type("User", Scim.User, at, [new JsonObject { ["schema"] = ScimPath.Enterprise, ["required"] = false }]),
            Type("Group", Scim.Group, at, [])
        );

    public static JsonObject All(string at) =>
        List(
            Schema(
                Scim.User,
                "User",
                at,
                Text("userName", required: true, unique: true),
                Text("externalId", exact: true),
                Complex("name", false, Text("formatted"), Text("givenName"), Text("familyName")),
                Text("displayName"),
                Text("title"),
                Text("userType"),
                Simple("active", "boolean"),
                Complex("emails", true, Text("value"), Text("type"), Simple("primary", "boolean")),
                Complex("groups", true, Text("value", exact: true), Text("display"), Text("type")).ReadOnly()
            ),
            Schema(
                Scim.Group,
                "Group",
                at,
                Text("displayName", required: true, unique: true),
                Text("externalId", exact: true),
                Complex("members", true, Text("value", exact: true), Text("display").ReadOnly(), Text("type"))
            ),
            Schema(
                ScimPath.Enterprise,
                "EnterpriseUser",
                at,
                Text("department"),
                Complex("manager", false, Text("value", exact: true), Text("displayName").ReadOnly())
            )
        );

    private static JsonObject Supported(bool supported) => new() { ["supported"] = supported };

    private static JsonObject List(params JsonNode[] resources) =>
        new()
        {
            ["schemas"] = new JsonArray(Scim.List),
            ["totalResults"] = resources.Length,
            ["startIndex"] = 1,
            ["itemsPerPage"] = resources.Length,
            ["Resources"] = new JsonArray(resources),
        };

    private static JsonObject Type(string name, string schema, string at, JsonArray extensions) =>
        new()
        {
            ["schemas"] = new JsonArray($"{Of}ResourceType"),
            ["id"] = name,
            ["name"] = name,
            ["endpoint"] = $"/{name}s",
            ["schema"] = schema,
            ["schemaExtensions"] = extensions,
            ["meta"] = new JsonObject
            {
                ["resourceType"] = "ResourceType",
                ["location"] = $"{at}/ResourceTypes/{name}",
            },
        };

    private static JsonObject Schema(string id, string name, string at, params JsonNode[] attributes) =>
        new()
        {
            ["schemas"] = new JsonArray($"{Of}Schema"),
            ["id"] = id,
            ["name"] = name,
            ["attributes"] = new JsonArray(attributes),
            ["meta"] = new JsonObject { ["resourceType"] = "Schema", ["location"] = $"{at}/Schemas/{id}" },
        };

    private static JsonObject Text(string name, bool required = false, bool unique = false, bool exact = false)
    {
        var attribute = Simple(name, "string");
        (attribute["required"], attribute["caseExact"]) = (required, exact);
        attribute["uniqueness"] = unique ? "server" : "none";
        return attribute;
    }

    private static JsonObject Simple(string name, string type) =>
        new()
        {
            ["name"] = name,
            ["type"] = type,
            ["multiValued"] = false,
            ["required"] = false,
            ["mutability"] = "readWrite",
            ["returned"] = "default",
        };

    private static JsonObject Complex(string name, bool many, params JsonNode[] parts)
    {
        var attribute = Simple(name, "complex");
        attribute["multiValued"] = many;
        attribute["subAttributes"] = new JsonArray(parts);
        return attribute;
    }

    private static JsonObject ReadOnly(this JsonObject attribute)
    {
        attribute["mutability"] = "readOnly";
        return attribute;
    }
}
