using System.Text.Json;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;
using NodaTime;
using WideKeel.Core.Content;

namespace WideKeel.Server.Kernel;

/// <summary>What the OpenAPI document says beyond what the routes say themselves.</summary>
public static class ApiDescription
{
    // Long because each type that the generator describes wrongly is one branch.
    public static void Configure(OpenApiOptions options)
    {
        options.OpenApiVersion = OpenApiSpecVersion.OpenApi3_1;
        options.AddDocumentTransformer(
            (document, _, _) =>
            {
                document.Info = new OpenApiInfo
                {
                    Title = "Wide Keel",
                    Version = "1",
                    Contact = new() { Name = "Whoever runs this installation" },
                    Description =
                        "Retention schedule, disposition, matters, activity and ledger. Errors are RFC 9457 problem details; "
                        + "lists are paged by cursor; writes of shared objects want If-Match.",
                };
                document.Servers = [new() { Url = "/" }];
                return Task.CompletedTask;
            }
        );
        options.AddSchemaTransformer(
            (schema, context, _) =>
            {
                var type = Nullable.GetUnderlyingType(context.JsonTypeInfo.Type) ?? context.JsonTypeInfo.Type;
                if (type == typeof(LocalDate))
                {
                    Text(schema, "date");
                }
                else if (type == typeof(Instant))
                {
                    Text(schema, "date-time");
                }
                else if (type == typeof(KeepUntil))
                {
                    Text(schema, null, orNull: true);
                }
                else if (type == typeof(StateWord))
                {
                    Text(schema, null);
                }
                else if (type == typeof(StateWord[]))
                {
                    schema.Items = new OpenApiSchema { Type = JsonSchemaType.String };
                }
                else if (type == typeof(IReadOnlyList<JsonElement?>))
                {
                    // A row of an answer: whatever its columns hold.
                    schema.Items = new OpenApiSchema();
                }
                else if (type.IsValueType && schema.Properties is { Count: > 0 })
                {
                    // Structs are always written whole; the generator only knows that of classes.
                    schema.Required = schema.Properties.Keys.ToHashSet();
                }

                return Task.CompletedTask;
            }
        );
        options.AddOperationTransformer(
            (operation, context, _) =>
            {
                var path = context.Description.RelativePath ?? "";
                operation.Tags = null;
                operation.Description ??= context
                    .Description.ActionDescriptor.EndpointMetadata.OfType<Requirement>()
                    .LastOrDefault() switch
                {
                    { Right: { } right } =>
                        $"Needs the right {JsonNamingPolicy.CamelCase.ConvertName(right.ToString())} over the unit concerned.",
                    { Anonymous: true } => "Open to everybody.",
                    _ => "Needs a sign-in.",
                };
                foreach (var parameter in operation.Parameters?.OfType<OpenApiParameter>() ?? [])
                {
                    parameter.Name = char.ToLowerInvariant(parameter.Name![0]) + parameter.Name[1..];
                    // A list in an address may always be left out: without it, nothing is narrowed.
                    parameter.Required &= parameter.Schema?.Type != JsonSchemaType.Array;
                }

                operation.OperationId ??= OperationId(context.Description.HttpMethod, path);
                return Task.CompletedTask;
            }
        );
    }

    /// <summary>Method and path in one word, such as <c>get-api-series-id</c>.</summary>
    private static string OperationId(string? method, string path)
    {
        var words = path.Replace(":long", "", StringComparison.Ordinal)
            .Replace("{", "", StringComparison.Ordinal)
            .Replace("}", "", StringComparison.Ordinal)
            .Replace('/', '-');
        return $"{method?.ToLowerInvariant()}-{words}";
    }

    private static void Text(OpenApiSchema schema, string? format, bool orNull = false)
    {
        schema.Type = JsonSchemaType.String | (orNull ? JsonSchemaType.Null : 0);
        schema.Format = format;
        schema.Properties = null;
        schema.Required = null;
    }
}
