using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;
using NodaTime;
using NodaTime.Serialization.SystemTextJson;
using NodaTime.Text;
using WideKeel.Core.Content;

namespace WideKeel.Server.Kernel;

/// <summary>
/// How values are written in the API: dates and instants in ISO 8601, words of closed lists in camelCase.
/// </summary>
public static class Json
{
    public static void Configure(JsonSerializerOptions options)
    {
        foreach (var converter in Converters)
        {
            options.Converters.Add(converter);
        }

        options.NumberHandling = JsonNumberHandling.Strict;
        // What a record needs must be sent; a null where none may be is refused at the door, with its place.
        options.RespectRequiredConstructorParameters = true;
        options.RespectNullableAnnotations = true;
        options.TypeInfoResolver = Resolver;
    }

    /// <summary>
    /// One of each for the process: options that are equal, down to the instances, share what was compiled for their
    /// types, and several hosts in one process then compile it once.
    /// </summary>
    private static readonly IReadOnlyList<JsonConverter> Converters =
    [
        .. new JsonSerializerOptions().ConfigureForNodaTime(DateTimeZoneProviders.Tzdb).Converters,
        new JsonStringEnumConverter(JsonNamingPolicy.CamelCase, allowIntegerValues: false),
        new KeepUntilConverter(),
    ];

    private static readonly IJsonTypeInfoResolver Resolver = new DefaultJsonTypeInfoResolver().WithAddedModifier(
        RefuseNullsInLists
    );

    /// <summary>The annotations of elements are nowhere to be read at run time; no list of ours takes a null.</summary>
    private static void RefuseNullsInLists(JsonTypeInfo type)
    {
        if (type is { Kind: JsonTypeInfoKind.Enumerable, ElementType.IsValueType: false })
        {
            type.OnDeserialized = list =>
            {
                if (((System.Collections.IEnumerable)list).Cast<object?>().Any(element => element is null))
                {
                    throw new JsonException();
                }
            };
        }
    }

    public static JsonSerializerOptions Options { get; } = Create();

    private static JsonSerializerOptions Create()
    {
        var options = new JsonSerializerOptions(JsonSerializerDefaults.Web);
        Configure(options);
        return options;
    }

    private sealed class KeepUntilConverter : JsonConverter<KeepUntil>
    {
        public override KeepUntil Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            throw new NotSupportedException("A keep-until is computed, never taken in.");

        public override void Write(Utf8JsonWriter writer, KeepUntil value, JsonSerializerOptions options)
        {
            if (value.Text is { } text)
            {
                writer.WriteStringValue(text);
            }
            else
            {
                writer.WriteNullValue();
            }
        }
    }
}
