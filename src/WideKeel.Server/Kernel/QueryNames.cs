using System.Collections.Concurrent;
using System.Reflection;
using System.Text.Json;
using Microsoft.AspNetCore.Mvc.ApiExplorer;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using WideKeel.Core;

namespace WideKeel.Server.Kernel;

/// <summary>
/// Which names an address takes in its query. One that it does not take is refused: a filter that is passed over in
/// silence gives a wrong answer that looks right.
/// </summary>
internal sealed class QueryNames(IApiDescriptionGroupCollectionProvider descriptions)
{
    private readonly ConcurrentDictionary<MethodInfo, HashSet<string>?> known = new();
    private readonly Lazy<ILookup<MethodInfo, Microsoft.AspNetCore.Mvc.ApiExplorer.ApiDescription>> described = new(
        () =>
            (
                from description in descriptions.ApiDescriptionGroups.Items.SelectMany(g => g.Items)
                from method in description.ActionDescriptor.EndpointMetadata.OfType<MethodInfo>()
                select (method, description)
            ).ToLookup(d => d.method, d => d.description)
    );

    /// <summary>The first name that the address does not take, as a refusal; null where it takes all.</summary>
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

        var foreign = http.Request.Query.Keys.FirstOrDefault(k => !names.Contains(k));
        return foreign is null
            ? null
            : new(
                "parameter-unknown",
                foreign,
                $"This address takes no parameter “{foreign}”. "
                    + (
                        names.Count == 0
                            ? "It takes none."
                            : $"It takes {string.Join(", ", names.Order(StringComparer.Ordinal))}."
                    )
            );
    }

    /// <summary>Null where the address stands in no description: it may take what it likes.</summary>
    private HashSet<string>? NamesOf(MethodInfo handler) =>
        described.Value.Contains(handler)
            ? described
                .Value[handler]
                .SelectMany(d => d.ParameterDescriptions)
                .Where(p => p.Source == BindingSource.Query)
                .Select(p => JsonNamingPolicy.CamelCase.ConvertName(p.Name))
                .ToHashSet(StringComparer.OrdinalIgnoreCase)
            : null;
}
