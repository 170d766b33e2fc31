using System.Text.Json;
using System.Text.Json.Serialization;
using WideKeel.Core.Content;

namespace WideKeel.Server.Kernel;

/// <summary>A state as it stands in an address or a request: <c>inTerm</c>, <c>due</c> …</summary>
[JsonConverter(typeof(Converter))]
public readonly record struct StateWord(ItemState State)
{
    public static bool TryParse(string? text, out StateWord word)
    {
        var known =
            Enum.TryParse<ItemState>(text, ignoreCase: true, out var state)
            && Enum.IsDefined(state)
            && !char.IsAsciiDigit(text![0]);
        word = new(state);
        return known;
    }

    private sealed class Converter : JsonConverter<StateWord>
    {
        public override StateWord Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            TryParse(reader.GetString(), out var word) ? word : throw new JsonException("There is no such state.");

        public override void Write(Utf8JsonWriter writer, StateWord value, JsonSerializerOptions options) =>
            JsonSerializer.Serialize(writer, value.State, options);
    }
}
