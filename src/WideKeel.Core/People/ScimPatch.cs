using System.Text.Json.Nodes;

namespace WideKeel.Core.People;

/// <summary>
/// Changes of a SCIM resource by PATCH (RFC 7644, 3.5.2), on its JSON. Refusals have the scimType of RFC 7644, table 9 as
/// their code. Nothing is changed where one operation is refused.
/// </summary>
public sealed class ScimPatch
{
    private const int MostOperations = 1_000;

    private static readonly string[] ReadOnly = ["id", "meta", "groups", "schemas"];

    private readonly HashSet<string> known;

    /// <param name="attributes">The attributes that the resource may have, those of extensions after their URN and a colon.</param>
    public ScimPatch(IEnumerable<string> attributes) => known = attributes.ToHashSet(StringComparer.OrdinalIgnoreCase);

    /// <summary>The resource as the operations leave it.</summary>
    /// <param name="resource">It is not changed itself.</param>
    /// <param name="patch">The body: <c>Operations</c> with <c>op</c>, <c>path</c> and <c>value</c>.</param>
    public Outcome<JsonObject> Apply(JsonObject resource, JsonObject patch)
    {
        if (ScimPath.Member(patch, "Operations") is not JsonArray { Count: > 0 and <= MostOperations } operations)
        {
            return new Refusal(
                "invalidSyntax",
                "Operations",
                $"A patch has between 1 and {MostOperations} operations (RFC 7644, 3.5.2)."
            );
        }

        var changed = (JsonObject)resource.DeepClone();
        foreach (var node in operations)
        {
            if (
                node is not JsonObject operation
                || Text(operation, "op")?.ToLowerInvariant() is not ("add" or "replace" or "remove")
            )
            {
                return new Refusal("invalidSyntax", "op", "An operation is add, replace or remove.");
            }

            if (One(changed, operation) is { } refusal)
            {
                return refusal;
            }
        }

        return changed;
    }

    private Refusal? One(JsonObject resource, JsonObject operation)
    {
        var op = Text(operation, "op")!.ToLowerInvariant();
        var value = ScimPath.Member(operation, "value");
        if (Text(operation, "path") is { Length: > 0 } text)
        {
            var path = ScimPath.Parse(text);
            return path.Refused ? path.Refusal : At(resource, path.Value, op, value);
        }

        if (op == "remove")
        {
            return new("noTarget", "path", "What is removed is named by a path.");
        }

        if (value is not JsonObject all)
        {
            return new("invalidValue", "value", "Without a path the value is an object of attributes.");
        }

        foreach (var (name, member) in all)
        {
            if (string.Equals(name, "schemas", StringComparison.OrdinalIgnoreCase))
            {
                continue;
            }

            var path = ScimPath.Parse(name);
            if ((path.Refused ? path.Refusal : At(resource, path.Value, op, member)) is { } refusal)
            {
                return refusal;
            }
        }

        return null;
    }

    private Refusal? At(JsonObject resource, ScimPath path, string op, JsonNode? value)
    {
        if (Check(path) is { } refusal)
        {
            return refusal;
        }

        var holder = resource;
        if (path.Schema.Length > 0)
        {
            if (path.Attribute.Length == 0)
            {
                return Whole(resource, path.Schema, op, value);
            }

            holder = ScimPath.Member(resource, path.Schema) as JsonObject;
            if (holder is null)
            {
                resource[path.Schema] = holder = [];
            }
        }

        var name = NameIn(holder, path.Attribute);
        return path.Filter is not null ? Among(holder, name, path, op, value)
            : path.Sub is { } sub ? Below(holder, name, sub, op, value)
            : Set(holder, name, op, value);
    }

    private Refusal? Check(ScimPath path)
    {
        if (path.Schema.Length == 0 && ReadOnly.Contains(path.Attribute, StringComparer.OrdinalIgnoreCase))
        {
            return new("mutability", path.Attribute, $"“{path.Attribute}” cannot be changed from outside.");
        }

        var name =
            path.Schema.Length == 0 ? path.Attribute
            : path.Attribute.Length == 0 ? path.Schema
            : $"{path.Schema}:{path.Attribute}";
        return known.Contains(name)
            ? null
            : new Refusal(
                "invalidPath",
                "path",
                $"There is no attribute “{name}” here; the schemas list those that there are."
            );
    }

    /// <summary>A schema's attributes all at once.</summary>
    private Refusal? Whole(JsonObject resource, string schema, string op, JsonNode? value)
    {
        if (op == "remove")
        {
            resource.Remove(NameIn(resource, schema));
            return null;
        }

        if (value is not JsonObject all)
        {
            return new("invalidValue", "value", $"The value for “{schema}” is an object of attributes.");
        }

        foreach (var (name, member) in all)
        {
            if (At(resource, new(schema, name, null, null), op, member) is { } refusal)
            {
                return refusal;
            }
        }

        return null;
    }

    private static Refusal? Set(JsonObject holder, string name, string op, JsonNode? value)
    {
        if (op == "remove" && value is JsonArray gone && holder[name] is JsonArray list)
        {
            // Members are removed by their values by several clients; RFC 7644 names a filter for it.
            var ids = gone.OfType<JsonObject>().Select(g => Text(g, "value")).ToHashSet();
            Remove(list, v => v is JsonObject o && ids.Contains(Text(o, "value")));
            return null;
        }

        if (op == "remove" || value is null)
        {
            holder.Remove(name);
            return null;
        }

        switch (op, holder[name], value)
        {
            case ("add", JsonArray present, JsonArray more):
                Append(present, more);
                break;
            case ("add", JsonArray present, JsonObject one):
                Append(present, [one.DeepClone()]);
                break;
            case (_, JsonObject present, JsonObject members):
                foreach (var (member, to) in members)
                {
                    present[NameIn(present, member)] = to?.DeepClone();
                }

                break;
            case (_, JsonObject present, JsonValue simple) when present.ContainsKey("value"):
                present["value"] = simple.DeepClone();
                break;
            default:
                holder[name] = value.DeepClone();
                break;
        }

        return null;
    }

    private static Refusal? Below(JsonObject holder, string name, string sub, string op, JsonNode? value)
    {
        switch (holder[name])
        {
            case JsonArray list:
                foreach (var one in list.OfType<JsonObject>())
                {
                    SetMember(one, sub, op, value);
                }

                return null;
            case null when op == "remove":
                return null;
            case null:
                holder[name] = new JsonObject { [sub] = value?.DeepClone() };
                return null;
            case JsonObject complex:
                SetMember(complex, sub, op, value);
                return null;
            default:
                return new("invalidPath", "path", $"“{name}” has no parts.");
        }
    }

    private static Refusal? Among(JsonObject holder, string name, ScimPath path, string op, JsonNode? value)
    {
        var list = holder[name] as JsonArray;
        var fitting = list?.OfType<JsonObject>().Where(o => path.Filter!.Fits(o)).ToList() ?? [];
        if (fitting.Count == 0)
        {
            // Adding to what is not there makes it, with what the filter says of it; anything else has no target.
            if (op != "remove" && path.Sub is { } part && path.Filter!.AsEquation() is var (of, text))
            {
                if (list is null)
                {
                    holder[name] = list = [];
                }

                list.Add(new JsonObject { [of.Attribute] = text, [part] = value?.DeepClone() });
                return null;
            }

            return op == "remove" ? null : new Refusal("noTarget", "path", $"Nothing among “{name}” fits the filter.");
        }

        foreach (var one in fitting)
        {
            if (path.Sub is { } sub)
            {
                SetMember(one, sub, op, value);
            }
            else if (op == "remove")
            {
                list!.Remove(one);
            }
            else if (value is JsonObject members)
            {
                foreach (var (member, to) in members)
                {
                    one[NameIn(one, member)] = to?.DeepClone();
                }
            }
            else
            {
                return new("invalidValue", "value", $"A value among “{name}” is an object.");
            }
        }

        return null;
    }

    private static void SetMember(JsonObject of, string name, string op, JsonNode? value)
    {
        if (op == "remove")
        {
            of.Remove(NameIn(of, name));
        }
        else
        {
            of[NameIn(of, name)] = value?.DeepClone();
        }
    }

    /// <summary>Adds what is not there yet; of values that are primary the newest stays so (RFC 7644, 3.5.2).</summary>
    private static void Append(JsonArray list, JsonArray more)
    {
        var there = list.OfType<JsonObject>().GroupBy(Key).ToDictionary(g => g.Key, g => g.First());
        foreach (var one in more)
        {
            if (one is JsonObject added)
            {
                if (there.Remove(Key(added), out var same))
                {
                    list.Remove(same);
                }

                if (added["primary"]?.GetValueKind() == System.Text.Json.JsonValueKind.True)
                {
                    foreach (var other in list.OfType<JsonObject>())
                    {
                        other.Remove("primary");
                    }
                }
            }

            list.Add(one?.DeepClone());
        }

        static (string?, string?) Key(JsonObject of) => (Text(of, "value"), Text(of, "type"));
    }

    private static void Remove(JsonArray list, Func<JsonNode?, bool> which)
    {
        foreach (var one in list.Where(which).ToList())
        {
            list.Remove(one);
        }
    }

    /// <summary>The name by which a member stands there already, whatever its case; else the name as it was written.</summary>
    private static string NameIn(JsonObject of, string name) =>
        of.FirstOrDefault(m => string.Equals(m.Key, name, StringComparison.OrdinalIgnoreCase)).Key ?? name;

    private static string? Text(JsonObject of, string name) =>
        ScimPath.Member(of, name) is JsonValue value && value.TryGetValue<string>(out var text) ? text : null;
}
