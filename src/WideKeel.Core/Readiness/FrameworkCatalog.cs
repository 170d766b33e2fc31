using System.Text.Json;
using System.Text.Json.Nodes;

namespace WideKeel.Core.Readiness;

/// <param name="Group">The heading that it stands under.</param>
public sealed record CatalogRequirement(string Code, string Group, string Title);

/// <summary>A framework as it is adopted.</summary>
public sealed record Catalog(
    string Code,
    string Title,
    string Version,
    string Source,
    IReadOnlyList<CatalogRequirement> Requirements
)
{
    /// <summary>What a file says besides and a framework here does not hold, a sentence each.</summary>
    public IReadOnlyList<string> PassedOver { get; init; } = [];
}

/// <summary>
/// Frameworks that ship, and others as OSCAL 1.1 catalogs in JSON (the structure is from memory of the published model:
/// catalog, metadata, groups, controls).
/// </summary>
public static class FrameworkCatalog
{
    /// <summary>A catalog with more requirements than this is refused.</summary>
    public const int Most = 20_000;

    private const int Deepest = 20;

    /// <summary>The frameworks that ship.</summary>
    public static IReadOnlyList<Catalog> Shipped { get; } = Load();

    private static List<Catalog> Load()
    {
        using var stream = typeof(FrameworkCatalog).Assembly.GetManifestResourceStream("frameworks.json")!;
        return JsonSerializer.Deserialize<List<Catalog>>(stream, JsonSerializerOptions.Web)!;
    }

    /// <summary>Reads a catalog; the first mistake is named with its place.</summary>
    // Long because the ids that were seen belong to groups and controls alike.
    internal static Catalog CatalogAt(JsonPlace root)
    {
        var catalog =
            root.Within("catalog") ?? throw root.Wrong("catalog", "it is missing: an OSCAL catalog is expected");
        var metadata = catalog.Within("metadata") ?? throw catalog.Wrong("metadata", "it is missing");
        List<CatalogRequirement> requirements = [];
        HashSet<string> ids = new(StringComparer.OrdinalIgnoreCase);
        Controls(catalog, "", 0);
        foreach (var group in catalog.Each("groups"))
        {
            Group(group, 0);
        }

        if (requirements.Count == 0)
        {
            throw catalog.Wrong("groups", "the catalog has no controls");
        }

        var title = metadata.Needed("title");
        return new(
            CodeOf(title),
            title,
            metadata.Text("version") ?? "",
            $"OSCAL catalog {catalog.Text("uuid")}",
            requirements
        );

        void Group(JsonPlace at, int depth)
        {
            if (depth > Deepest)
            {
                throw at.Wrong("groups", $"groups lie more than {Deepest} deep");
            }

            Controls(at, at.Text("title") ?? at.Text("id") ?? "", depth);
            foreach (var inner in at.Each("groups"))
            {
                Group(inner, depth + 1);
            }
        }

        void Controls(JsonPlace at, string group, int depth)
        {
            if (depth > Deepest)
            {
                throw at.Wrong("controls", $"controls lie more than {Deepest} deep");
            }

            foreach (var control in at.Each("controls"))
            {
                var id = control.Needed("id");
                if (!ids.Add(id))
                {
                    throw control.Wrong("id", $"“{id}” is the id of another control already");
                }

                if (requirements.Count == Most)
                {
                    throw control.Wrong("id", $"a catalog has at most {Most} controls here");
                }

                requirements.Add(new(id, group, control.Needed("title")));
                Controls(control, group, depth + 1);
            }
        }
    }

    /// <summary>A framework as an OSCAL catalog.</summary>
    /// <param name="uuid">Of the document.</param>
    /// <param name="modified">When it was made, RFC 3339.</param>
    public static JsonObject WriteOscal(Catalog catalog, Guid uuid, string modified) =>
        new()
        {
            ["catalog"] = new JsonObject
            {
                ["uuid"] = uuid.ToString(),
                ["metadata"] = Metadata(catalog.Title, catalog.Version, modified),
                ["groups"] = All(catalog.Requirements.GroupBy(r => r.Group).Select(GroupOf)),
            },
        };

    internal static JsonObject Metadata(string title, string version, string modified) =>
        new()
        {
            ["title"] = title,
            ["last-modified"] = modified,
            ["version"] = version,
            ["oscal-version"] = "1.1.2",
        };

    private static JsonObject GroupOf(IGrouping<string, CatalogRequirement> group)
    {
        var title = group.Key.Length > 0 ? group.Key : "All";
        return new()
        {
            ["id"] = CodeOf(title),
            ["title"] = title,
            ["controls"] = All(group.Select(r => new JsonObject { ["id"] = r.Code, ["title"] = r.Title })),
        };
    }

    private static JsonArray All(IEnumerable<JsonObject> nodes)
    {
        JsonNode?[] all = [.. nodes];
        return new JsonArray(all);
    }

    /// <summary>A title as a code: lower case, with hyphens.</summary>
    public static string CodeOf(string title)
    {
        var code = string.Concat(
            title.ToLowerInvariant().Select(c => char.IsAsciiLetterOrDigit(c) || c == '.' ? c : '-')
        );
        while (code.Contains("--", StringComparison.Ordinal))
        {
            code = code.Replace("--", "-", StringComparison.Ordinal);
        }

        code = code.Trim('-');
        return code.Length > 80 ? code[..80] : code;
    }
}
