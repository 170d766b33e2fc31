using System.Collections.Concurrent;
using System.Globalization;
using System.Reflection;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Mvc.ApiExplorer;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using WideKeel.Core;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Which names an address takes in its query, and of what kind their values are. One that it does not take is refused: a
/// filter that is passed over in silence gives a wrong answer that looks right.
/// </summary>
internal sealed partial class QueryNames(IApiDescriptionGroupCollectionProvider descriptions)
{
    /// <summary>What the framework would refuse without a word.</summary>
    private static readonly Dictionary<Type, (string Words, Func<string, bool> Reads)> Kinds = new()
    {
        [typeof(int)] = ("a whole number", v => int.TryParse(v, CultureInfo.InvariantCulture, out _)),
        [typeof(long)] = ("a whole number", v => long.TryParse(v, CultureInfo.InvariantCulture, out _)),
        [typeof(double)] = ("a number", v => double.TryParse(v, CultureInfo.InvariantCulture, out _)),
        [typeof(bool)] = ("true or false", v => bool.TryParse(v, out _)),
        [typeof(DateOnly)] = (
            "a day such as 2026-06-15",
            v => DateOnly.TryParse(v, CultureInfo.InvariantCulture, out _)
        ),
        [typeof(DateTimeOffset)] = (
            "a moment such as 2026-06-15T08:00:00Z",
            v => DateTimeOffset.TryParse(v, CultureInfo.InvariantCulture, out _)
        ),
    };

    private readonly ConcurrentDictionary<MethodInfo, Dictionary<string, Type>?> known = new();
    private readonly Lazy<ILookup<MethodInfo, Microsoft.AspNetCore.Mvc.ApiExplorer.ApiDescription>> described = new(
        () =>
            (
                from description in descriptions.ApiDescriptionGroups.Items.SelectMany(g => g.Items)
                from method in description.ActionDescriptor.EndpointMetadata.OfType<MethodInfo>()
                select (method, description)
            ).ToLookup(d => d.method, d => d.description)
    );

    /// <summary>The first name, or value, that the address does not take, as a refusal; null where it takes all.</summary>
    public Refusal? Check(HttpContext http)
    {
        if (
            http.Request.Query.Count == 0
            || http.GetEndpoint()?.Metadata.GetMetadata<MethodInfo>() is not { } handler
            || known.GetOrAdd(handler, NamesOf) is not { } names
        )
        {
            return null;
        }

        var foreign = http.Request.Query.Keys.FirstOrDefault(k => !names.ContainsKey(k));
        return foreign is null
            ? CheckValues(http.Request.Query, names) ?? CheckList(http.Request.Query)
            : new(
                "parameter-unknown",
                foreign,
                $"This address takes no parameter “{foreign}”. "
                    + (
                        names.Count == 0
                            ? "It takes none."
                            : $"It takes {string.Join(", ", names.Keys.Order(StringComparer.Ordinal))}."
                    )
            );
    }

    private static Refusal? CheckValues(IQueryCollection query, Dictionary<string, Type> names) =>
        query
            .Where(q => Kinds.ContainsKey(names[q.Key]))
            .SelectMany(q => q.Value.Select(value => (q.Key, Value: value, Kind: Kinds[names[q.Key]])))
            .Where(q => !string.IsNullOrEmpty(q.Value) && !q.Kind.Reads(q.Value))
            .Select(q => new Refusal("value-malformed", q.Key, $"“{q.Value}” is not {q.Kind.Words}."))
            .FirstOrDefault();

    /// <summary>
    /// What every list takes, checked once for all of them: a limit of nothing, an order with two signs, and the end of a
    /// page that never was would otherwise each be read as something else.
    /// </summary>
    private static Refusal? CheckList(IQueryCollection query) =>
        query.TryGetValue("limit", out var limits)
        && limits.Any(l => int.TryParse(l, CultureInfo.InvariantCulture, out var limit) && limit < 1)
            ? new("limit-malformed", "limit", "A limit is 1 or more.")
        : query.TryGetValue("sort", out var sorts) && sorts.Any(s => !string.IsNullOrEmpty(s) && !AnOrder().IsMatch(s))
            ? new(
                "sort-malformed",
                "sort",
                "An order is the name of a column, with one - before it for the other way round."
            )
        : query.TryGetValue("cursor", out var cursors)
        && cursors.Any(c => !string.IsNullOrEmpty(c) && Cursor.Read(c) is null)
            ? new("cursor-malformed", "cursor", "This is not the cursor of a page. Read the list from its beginning.")
        : null;

    [GeneratedRegex("^-?[A-Za-z][A-Za-z0-9._]*$")]
    private static partial Regex AnOrder();

    /// <summary>
    /// Each name with the type of its values, or of one where there may be several. Null where the address stands in no
    /// description: it may take what it likes.
    /// </summary>
    private Dictionary<string, Type>? NamesOf(MethodInfo handler) =>
        described.Value.Contains(handler)
            ? described
                .Value[handler]
                .SelectMany(d => d.ParameterDescriptions)
                .Where(p => p.Source == BindingSource.Query)
                .DistinctBy(p => p.Name, StringComparer.OrdinalIgnoreCase)
                .ToDictionary(
                    p => JsonNamingPolicy.CamelCase.ConvertName(p.Name),
                    p => p.Type.GetElementType() ?? Nullable.GetUnderlyingType(p.Type) ?? p.Type,
                    StringComparer.OrdinalIgnoreCase
                )
            : null;
}
