using System.Text.Json;
using System.Text.Json.Serialization;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;

namespace WideKeel.Store;

/// <summary>How definitions are written to their columns.</summary>
internal static class DefinitionJson
{
    private static readonly JsonSerializerOptions Options = new JsonSerializerOptions(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) },
    }.ConfigureForNodaTime(DateTimeZoneProviders.Tzdb);

    public static PropertyBuilder<T> IsJson<T>(this PropertyBuilder<T> property) =>
        property.HasConversion(value => Write(value), text => Read<T>(text));

    public static string Write<T>(T definition) => JsonSerializer.Serialize(definition, Options);

    public static T Read<T>(string text) => JsonSerializer.Deserialize<T>(text, Options)!;
}
