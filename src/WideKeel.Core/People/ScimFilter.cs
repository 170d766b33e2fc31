using System.Globalization;
using System.Text.Json.Nodes;

namespace WideKeel.Core.People;

/// <summary>
/// A filter of SCIM (RFC 7644, 3.4.2.2): attribute expressions, <c>and</c>, <c>or</c>, <c>not</c>, parentheses, and values of
/// a list by a filter of their own.
/// </summary>
public abstract record ScimFilter
{
    /// <summary>As deep as people write; deeper is refused rather than followed.</summary>
    public const int Deepest = 30;

    private const int MostCharacters = 4_000;

    /// <summary>Whether a resource fits.</summary>
    public abstract bool Fits(JsonObject resource);

    /// <summary>Reads a filter; the refusal's code is the scimType of RFC 7644, table 9.</summary>
    public static Outcome<ScimFilter> Parse(string text)
    {
        if (text.Length > MostCharacters)
        {
            return Wrong(0, "the filter is longer than 4,000 characters");
        }

        var reader = new Reader(text);
        try
        {
            var filter = reader.Any(0);
            reader.End();
            return filter;
        }
        catch (FilterException e)
        {
            return Wrong(e.At, e.Message);
        }
    }

    private static Refusal Wrong(int at, string why) =>
        new(
            "invalidFilter",
            "filter",
            string.Create(CultureInfo.InvariantCulture, $"The filter is wrong at character {at + 1:N0}: {why}.")
        )
        {
            Span = new(at, 0),
        };

    /// <summary>The one equation that most clients ask by: an attribute of its own and a text; null for other filters.</summary>
    public (ScimPath Path, string Text)? AsEquation() =>
        this is Compared { Operator: "eq", Value: JsonValue value, Path: { Filter: null, Sub: null } path }
        && value.TryGetValue<string>(out var text)
            ? (path, text)
            : null;

    internal sealed record Both(ScimFilter One, ScimFilter Other) : ScimFilter
    {
        public override bool Fits(JsonObject resource) => One.Fits(resource) && Other.Fits(resource);
    }

    internal sealed record Either(ScimFilter One, ScimFilter Other) : ScimFilter
    {
        public override bool Fits(JsonObject resource) => One.Fits(resource) || Other.Fits(resource);
    }

    internal sealed record Not(ScimFilter One) : ScimFilter
    {
        public override bool Fits(JsonObject resource) => !One.Fits(resource);
    }

    internal sealed record Present(ScimPath Path) : ScimFilter
    {
        public override bool Fits(JsonObject resource) =>
            Path.Values(resource)
                .Any(v =>
                    v switch
                    {
                        null => false,
                        JsonArray { Count: 0 } or JsonObject { Count: 0 } => false,
                        JsonValue value when value.TryGetValue<string>(out var text) => text.Length > 0,
                        _ => true,
                    }
                );
    }

    /// <summary>A list of which one value fits a filter: <c>emails[type eq "work"]</c>.</summary>
    internal sealed record Among(ScimPath Path) : ScimFilter
    {
        public override bool Fits(JsonObject resource) => Path.Values(resource).Any();
    }

    internal sealed record Compared(ScimPath Path, string Operator, JsonNode? Value) : ScimFilter
    {
        public override bool Fits(JsonObject resource)
        {
            var values = Path.Values(resource)
                .SelectMany(v => v is JsonArray list ? list : (IEnumerable<JsonNode?>)[v])
                // A list that is compared as a whole is compared by its values (RFC 7644, 3.4.2.2).
                .Select(v => v is JsonObject complex ? ScimPath.Member(complex, "value") : v);
            return Operator == "ne" ? !values.Any(v => Same(v, Value)) : values.Any(One);
        }

        private bool One(JsonNode? value) =>
            Operator switch
            {
                "eq" => Same(value, Value),
                "co" => Texts(value, (a, b, by) => a.Contains(b, by)),
                "sw" => Texts(value, (a, b, by) => a.StartsWith(b, by)),
                "ew" => Texts(value, (a, b, by) => a.EndsWith(b, by)),
                "gt" => Order(value) > 0,
                "ge" => Order(value) >= 0,
                "lt" => Order(value) < 0,
                "le" => Order(value) <= 0,
                _ => false,
            };

        private StringComparison By => Path.CaseExact ? StringComparison.Ordinal : StringComparison.OrdinalIgnoreCase;

        private bool Same(JsonNode? a, JsonNode? b) =>
            (a, b) switch
            {
                (null, null) => true,
                (JsonValue x, JsonValue y) when x.TryGetValue<string>(out var s) && y.TryGetValue<string>(out var t) =>
                    string.Equals(s, t, By),
                (JsonValue x, JsonValue y) => JsonNode.DeepEquals(x, y),
                _ => false,
            };

        private bool Texts(JsonNode? value, Func<string, string, StringComparison, bool> fits) =>
            value is JsonValue v
            && v.TryGetValue<string>(out var text)
            && Value is JsonValue w
            && w.TryGetValue<string>(out var asked)
            && fits(text, asked, By);

        /// <summary>Null where the two have no order, which no comparison holds for.</summary>
        private int? Order(JsonNode? value)
        {
            if (value is not JsonValue v || Value is not JsonValue w)
            {
                return null;
            }

            if (v.TryGetValue<string>(out var text) && w.TryGetValue<string>(out var asked))
            {
                return
                    DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, out var a)
                    && DateTimeOffset.TryParse(asked, CultureInfo.InvariantCulture, out var b)
                    ? a.CompareTo(b)
                    : string.Compare(text, asked, By);
            }

            return v.TryGetValue<double>(out var x) && w.TryGetValue<double>(out var y) ? x.CompareTo(y) : null;
        }
    }

    /// <summary>Where and why a filter or path cannot be read.</summary>
    internal sealed class FilterException(int at, string why) : Exception(why)
    {
        public int At { get; } = at;
    }

    /// <summary>Reads by descent, as the grammar of RFC 7644, figure 1 stands.</summary>
    internal sealed class Reader(string text)
    {
        private static readonly string[] Operators = ["eq", "ne", "co", "sw", "ew", "gt", "lt", "ge", "le"];

        private int at;

        public bool Ended => at >= text.Length;

        public ScimFilter Any(int depth)
        {
            var one = All(depth);
            while (Word("or"))
            {
                one = new Either(one, All(depth));
            }

            return one;
        }

        public void End()
        {
            Spaces();
            if (at < text.Length)
            {
                throw new FilterException(at, $"“{text[at..Math.Min(text.Length, at + 20)]}” is not understood here");
            }
        }

        private ScimFilter All(int depth)
        {
            var one = Single(depth);
            while (Word("and"))
            {
                one = new Both(one, Single(depth));
            }

            return one;
        }

        private ScimFilter Single(int depth)
        {
            if (depth > Deepest)
            {
                throw new FilterException(at, $"more than {Deepest} parentheses within each other");
            }

            Spaces();
            var negated = Word("not");
            Spaces();
            if (at < text.Length && text[at] == '(')
            {
                at++;
                var within = Any(depth + 1);
                Close(')');
                return negated ? new Not(within) : within;
            }

            return negated ? throw new FilterException(at, "“not” is followed by parentheses") : Attribute(depth);
        }

        private ScimFilter Attribute(int depth)
        {
            var path = Path(depth);
            if (path.Filter is not null && path.Sub is null)
            {
                Spaces();
                if (Ended || text[at] is ')' or ']' || IsJoin())
                {
                    return new Among(path);
                }
            }

            if (Word("pr"))
            {
                return new Present(path);
            }

            Spaces();
            var op =
                Operators.FirstOrDefault(o => Word(o))
                ?? throw new FilterException(at, "an operator is missing: eq, ne, co, sw, ew, gt, ge, lt, le or pr");
            return new Compared(path, op, Value());
        }

        private bool IsJoin()
        {
            var before = at;
            var joins = Word("and") || Word("or");
            at = before;
            return joins;
        }

        /// <summary>An attribute with its sub-attribute or filter, and the schema before it where it has one.</summary>
        public ScimPath Path(int depth)
        {
            Spaces();
            var begin = at;
            while (
                at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] is ':' or '.' or '-' or '_' or '$')
            )
            {
                at++;
            }

            var name = text[begin..at];
            if (name.Length == 0)
            {
                throw new FilterException(begin, "the name of an attribute is missing");
            }

            var (schema, attribute, sub) = ScimPath.Split(name);
            ScimFilter? filter = null;
            if (at < text.Length && text[at] == '[')
            {
                at++;
                filter = Any(depth + 1);
                Close(']');
                if (at < text.Length && text[at] == '.')
                {
                    begin = ++at;
                    while (at < text.Length && (char.IsAsciiLetterOrDigit(text[at]) || text[at] is '-' or '_' or '$'))
                    {
                        at++;
                    }

                    sub = text[begin..at];
                }
            }

            return new(schema, attribute, filter, sub);
        }

        private JsonValue? Value()
        {
            Spaces();
            var begin = at;
            if (at < text.Length && text[at] == '"')
            {
                for (at++; at < text.Length && text[at] != '"'; at++)
                {
                    at += text[at] == '\\' ? 1 : 0;
                }

                at++;
            }
            else
            {
                while (at < text.Length && text[at] is not (' ' or ')' or ']'))
                {
                    at++;
                }
            }

            try
            {
                return JsonNode.Parse(text[begin..Math.Min(at, text.Length)]) switch
                {
                    null => null,
                    JsonValue value => value,
                    _ => throw new FilterException(begin, "a value is a text in quotes, a number, true, false or null"),
                };
            }
            catch (System.Text.Json.JsonException)
            {
                throw new FilterException(begin, "a value is a text in quotes, a number, true, false or null");
            }
        }

        private void Close(char with)
        {
            Spaces();
            if (at >= text.Length || text[at] != with)
            {
                throw new FilterException(at, $"“{with}” is missing");
            }

            at++;
        }

        /// <summary>Goes past a word that stands next by itself, whatever its case.</summary>
        private bool Word(string word)
        {
            var begin = at;
            Spaces();
            var end = at + word.Length;
            if (
                end <= text.Length
                && string.Compare(text, at, word, 0, word.Length, StringComparison.OrdinalIgnoreCase) == 0
                && (end == text.Length || !(char.IsAsciiLetterOrDigit(text[end]) || text[end] is ':' or '.' or '['))
            )
            {
                at = end;
                return true;
            }

            at = begin;
            return false;
        }

        private void Spaces()
        {
            while (at < text.Length && text[at] == ' ')
            {
                at++;
            }
        }
    }
}

/// <summary>A place within a SCIM resource: an attribute, of a list those that fit a filter, and a sub-attribute.</summary>
/// <param name="Schema">The URN before the attribute; empty for that of the resource's own.</param>
public sealed record ScimPath(string Schema, string Attribute, ScimFilter? Filter, string? Sub)
{
    /// <summary>The URN of RFC 7643, 4.3.</summary>
    public const string Enterprise = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User";

    private static readonly string[] Own =
    [
        "urn:ietf:params:scim:schemas:core:2.0:User",
        "urn:ietf:params:scim:schemas:core:2.0:Group",
    ];

    /// <summary>Attributes whose case matters (RFC 7643, 3.1 and 4.2).</summary>
    private static readonly HashSet<string> Exact = new(StringComparer.OrdinalIgnoreCase)
    {
        "id",
        "externalId",
        "members",
        "manager",
        "meta",
        "schemas",
    };

    public bool CaseExact => Exact.Contains(Attribute);

    /// <summary>Reads a path as PATCH writes it.</summary>
    public static Outcome<ScimPath> Parse(string text)
    {
        var reader = new ScimFilter.Reader(text);
        try
        {
            // A schema by itself stands for all that it holds.
            if (string.Equals(text.Trim(), Enterprise, StringComparison.OrdinalIgnoreCase))
            {
                return new ScimPath(Enterprise, "", null, null);
            }

            var path = reader.Path(0);
            reader.End();
            return path;
        }
        catch (ScimFilter.FilterException e)
        {
            return new Refusal("invalidPath", "path", $"The path “{text}” cannot be read: {e.Message}.");
        }
    }

    /// <summary>Schema, attribute and sub-attribute of a name such as <c>urn:…:User:name.familyName</c>.</summary>
    internal static (string Schema, string Attribute, string? Sub) Split(string name)
    {
        var colon = name.LastIndexOf(':');
        var schema = colon < 0 ? "" : name[..colon];
        var parts = name[(colon + 1)..].Split('.', 2);
        return (
            Own.Contains(schema, StringComparer.OrdinalIgnoreCase) ? "" : schema,
            parts[0],
            parts.Length > 1 ? parts[1] : null
        );
    }

    /// <summary>What stands at the path; of a list that is not filtered each value's sub-attribute, or the list.</summary>
    public IEnumerable<JsonNode?> Values(JsonObject resource)
    {
        var holder = Schema.Length == 0 ? resource : Member(resource, Schema) as JsonObject;
        var value =
            holder is null ? null
            : Attribute.Length == 0 ? holder
            : Member(holder, Attribute);
        IEnumerable<JsonNode?> values = value switch
        {
            null => [],
            JsonArray list when Filter is not null => list.Where(v => v is JsonObject o && Filter.Fits(o)),
            JsonArray list when Sub is not null => list,
            _ => [value],
        };
        return Sub is null ? values : values.OfType<JsonObject>().Select(v => Member(v, Sub)).Where(v => v is not null);
    }

    /// <summary>A member by its name, whatever its case.</summary>
    public static JsonNode? Member(JsonObject of, string name) =>
        of.FirstOrDefault(m => string.Equals(m.Key, name, StringComparison.OrdinalIgnoreCase)).Value;
}
