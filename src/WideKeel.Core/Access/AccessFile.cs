using System.Text.Json.Nodes;
using WideKeel.Core.People;

namespace WideKeel.Core.Access;

/// <summary>Reads a directory from a file, and writes what is reached; the first mistake is named with its place.</summary>
public static class AccessFile
{
    public static Outcome<AccessModel> Read(string json) => JsonPlace.Read(json, ModelAt);

    private static AccessModel ModelAt(JsonPlace root)
    {
        HashSet<string> ids = new(StringComparer.Ordinal);
        List<DirectoryAccount> people =
        [
            .. root.Each("people")
                .Select(p => new DirectoryAccount(Id(p), p.Word("kind", AccountKind.Person), p.DateOrNone("left"))),
        ];
        List<(JsonPlace At, DirectoryGroup Group)> groups =
        [
            .. root.Each("groups").Select(g => (g, new DirectoryGroup(Id(g), g.Texts("members")))),
        ];
        HashSet<string> principals = [.. people.Select(p => p.Id), .. groups.Select(g => g.Group.Id)];
        List<(JsonPlace At, Resource Resource)> resources =
        [
            .. root.Each("resources").Select(r => (r, ResourceAt(r, Id(r)))),
        ];
        var known = resources.ToDictionary(r => r.Resource.Id, r => r.Resource, StringComparer.Ordinal);
        foreach (var (at, group) in groups)
        {
            Check(at, "members", group.Members.FirstOrDefault(m => !principals.Contains(m)), "person or group");
        }

        foreach (var (at, resource) in resources)
        {
            CheckParents(at, resource, known);
        }

        return new AccessModel(
            people,
            [.. groups.Select(g => g.Group)],
            [.. resources.Select(r => r.Resource)],
            [
                .. root.Each("grants")
                    .Select(g =>
                    {
                        var grant = new Grant(g.Needed("to"), g.Needed("resource"), g.Needed("role"));
                        Check(g, "to", principals.Contains(grant.To) ? null : grant.To, "person or group");
                        Check(g, "resource", known.ContainsKey(grant.Resource) ? null : grant.Resource, "resource");
                        return grant;
                    }),
            ]
        );

        string Id(JsonPlace at) =>
            at.Needed("id") is var id && ids.Add(id)
                ? id
                : throw at.Wrong("id", $"“{at.Text("id")}” is the id of something else already");
    }

    private static Resource ResourceAt(JsonPlace at, string id) =>
        new(
            id,
            at.Text("parent"),
            at.Has("inherits") ? at.Flag("inherits") : true,
            [
                .. at.Each("links")
                    .Select(l => new ResourceLink(
                        l.Needed("to") is "anyone" or "organisation"
                            ? l.Word("to", LinkReach.Organisation)
                            : throw l.Wrong("to", "a link is to anyone or to organisation"),
                        l.Needed("role")
                    )),
            ]
        );

    /// <summary>What one person reaches, as a line of JSON.</summary>
    public static JsonObject Write(Reach reach) =>
        new()
        {
            ["person"] = reach.Person,
            ["resource"] = reach.Resource,
            ["roles"] = Texts(reach.Roles),
            ["path"] = Texts(reach.Path),
        };

    /// <summary>What membership gives, as a line of JSON.</summary>
    public static JsonObject WriteGain(Reach reach) =>
        new() { ["resource"] = reach.Resource, ["roles"] = Texts(reach.Roles) };

    private static JsonArray Texts(IEnumerable<string> texts) => new([.. texts.Select(t => (JsonNode?)t)]);

    private static void Check(JsonPlace at, string field, string? unknown, string what)
    {
        if (unknown is not null)
        {
            throw at.Wrong(field, $"there is no {what} “{unknown}”");
        }
    }

    private static void CheckParents(JsonPlace at, Resource resource, Dictionary<string, Resource> known)
    {
        HashSet<string> above = [resource.Id];
        for (var parent = resource.Parent; parent is not null; parent = known[parent].Parent)
        {
            Check(at, "parent", known.ContainsKey(parent) ? null : parent, "resource");
            if (!above.Add(parent))
            {
                throw at.Wrong("parent", $"“{resource.Id}” lies in a loop of parents, by “{parent}”");
            }
        }
    }
}
