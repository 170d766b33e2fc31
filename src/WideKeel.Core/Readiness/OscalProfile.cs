using System.IO.Enumeration;
using System.Text.Json.Nodes;

namespace WideKeel.Core.Readiness;

/// <summary>What a profile takes from one catalog.</summary>
/// <param name="Codes">Requirements by their codes, in the catalog's order.</param>
public sealed record ProfileImport(string Framework, IReadOnlyList<string> Codes);

/// <summary>
/// A choice of requirements from frameworks that are here, as an OSCAL 1.1 profile in JSON (the structure is from memory
/// of the published model: profile, metadata, imports with include-all, include-controls and exclude-controls, merge,
/// modify).
/// </summary>
public static class OscalProfile
{
    /// <summary>
    /// Reads a catalog, or a profile with what it chooses. A control that two imports choose stands once; what it is called
    /// and the heading above it come from the catalog.
    /// </summary>
    /// <param name="known">Frameworks that a profile can import from.</param>
    /// <returns>The framework, and what a profile took from which; nothing of a catalog.</returns>
    public static Outcome<(Catalog Chosen, IReadOnlyList<ProfileImport> Imports)> Read(
        string json,
        IReadOnlyCollection<Catalog> known
    ) =>
        JsonPlace.Read(
            json,
            root =>
                root.Has("profile")
                    ? ProfileAt(root, known)
                    : (FrameworkCatalog.CatalogAt(root), (IReadOnlyList<ProfileImport>)[])
        );

    private static (Catalog, IReadOnlyList<ProfileImport>) ProfileAt(JsonPlace root, IReadOnlyCollection<Catalog> known)
    {
        var profile = root.Within("profile")!;
        var metadata = profile.Within("metadata") ?? throw profile.Wrong("metadata", "it is missing");
        var title = metadata.Needed("title");
        List<ProfileImport> imports = [];
        Dictionary<string, CatalogRequirement> chosen = new(StringComparer.OrdinalIgnoreCase);
        foreach (var at in profile.Each("imports"))
        {
            var catalog = CatalogOf(at, title, profile.Text("uuid"), known);
            var codes = Chosen(at, catalog);
            imports.Add(new(catalog.Code, codes));
            foreach (var requirement in catalog.Requirements.Where(r => codes.Contains(r.Code)))
            {
                chosen.TryAdd(requirement.Code, requirement);
            }
        }

        return chosen.Count == 0
            ? throw profile.Wrong("imports", "the profile chooses no controls")
            : (
                new(
                    FrameworkCatalog.CodeOf(title),
                    title,
                    metadata.Text("version") ?? "",
                    $"OSCAL profile {profile.Text("uuid")}",
                    IsFlat(profile) ? [.. chosen.Values.Select(r => r with { Group = "" })] : [.. chosen.Values]
                )
                {
                    PassedOver = PassedOver(profile),
                },
                imports
            );
    }

    /// <summary>Whether headings are dropped; a control that several imports choose stands once in any case.</summary>
    private static bool IsFlat(JsonPlace profile)
    {
        if (profile.Within("merge") is not { } merge)
        {
            return false;
        }

        return merge.Has("custom")
            ? throw merge.Wrong("custom", "headings of a profile's own are not read; use as-is or flat")
            : merge.Has("flat");
    }

    /// <summary>A framework here holds the codes, headings and titles of controls, which these change nothing of.</summary>
    private static List<string> PassedOver(JsonPlace profile)
    {
        List<string> all = [];
        if (profile.Within("modify") is not { } modify)
        {
            return all;
        }

        if (modify.Has("set-parameters"))
        {
            all.Add("The profile sets parameters; texts of controls are not kept here.");
        }

        var altered = modify.Each("alters").Select(a => a.Text("control-id")).OfType<string>().ToList();
        if (altered.Count > 0)
        {
            all.Add($"The profile alters texts of {string.Join(", ", altered)}; they are not kept here.");
        }

        return all;
    }

    private static Catalog CatalogOf(JsonPlace at, string title, string? uuid, IReadOnlyCollection<Catalog> known)
    {
        var href = at.Needed("href");
        var name = NameOf(href);
        return name == uuid || string.Equals(name, FrameworkCatalog.CodeOf(title), StringComparison.OrdinalIgnoreCase)
            ? throw at.Wrong("href", "the profile imports itself")
            : known.FirstOrDefault(c =>
                string.Equals(c.Code, name, StringComparison.OrdinalIgnoreCase)
                || c.Source == $"OSCAL catalog {name}"
                || c.Source == $"OSCAL profile {name}"
            ) ?? throw at.Wrong("href", $"“{href}” is none of the frameworks here; adopt it first");
    }

    /// <summary>The last part of an address without the ends of file names, or what follows the #.</summary>
    private static string NameOf(string href)
    {
        var name = href[(href.LastIndexOfAny(['/', '#']) + 1)..];
        foreach (var end in new[] { ".json", ".oscal" })
        {
            name = name.EndsWith(end, StringComparison.OrdinalIgnoreCase) ? name[..^end.Length] : name;
        }

        return name;
    }

    private static List<string> Chosen(JsonPlace at, Catalog catalog)
    {
        var known = catalog.Requirements.ToDictionary(r => r.Code, r => r.Code, StringComparer.OrdinalIgnoreCase);
        var included =
            at.Within("include-all") is not null || !at.Has("include-controls")
                ? [.. known.Values]
                : Ids(at, "include-controls", catalog, known);
        var excluded = Ids(at, "exclude-controls", catalog, known);
        return [.. catalog.Requirements.Select(r => r.Code).Where(c => included.Contains(c) && !excluded.Contains(c))];
    }

    private static HashSet<string> Ids(JsonPlace at, string field, Catalog catalog, Dictionary<string, string> known)
    {
        HashSet<string> ids = [];
        foreach (var choice in at.Each(field))
        {
            if (choice.Text("with-child-controls") == "yes")
            {
                throw choice.Wrong("with-child-controls", "controls beneath others are not chosen by them; name each");
            }

            foreach (var pattern in choice.Each("matching").Select(m => m.Needed("pattern")))
            {
                ids.UnionWith(known.Values.Where(c => FileSystemName.MatchesSimpleExpression(pattern, c)));
            }

            foreach (var id in choice.Texts("with-ids"))
            {
                ids.Add(
                    known.TryGetValue(id, out var code)
                        ? code
                        : throw choice.Wrong("with-ids", $"{catalog.Title} has no control “{id}”")
                );
            }
        }

        return ids;
    }

    /// <summary>A choice as an OSCAL profile.</summary>
    /// <param name="uuid">Of the document.</param>
    /// <param name="modified">When it was made, RFC 3339.</param>
    public static JsonObject Write(
        string title,
        string version,
        IReadOnlyList<ProfileImport> imports,
        Guid uuid,
        string modified
    ) =>
        new()
        {
            ["profile"] = new JsonObject
            {
                ["uuid"] = uuid.ToString(),
                ["metadata"] = FrameworkCatalog.Metadata(title, version, modified),
                ["imports"] = new JsonArray([
                    .. imports.Select(i =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["href"] = $"{i.Framework}.oscal.json",
                                ["include-controls"] = new JsonArray(
                                    new JsonObject
                                    {
                                        ["with-ids"] = new JsonArray([.. i.Codes.Select(c => (JsonNode?)c)]),
                                    }
                                ),
                            }
                    ),
                ]),
            },
        };
}
