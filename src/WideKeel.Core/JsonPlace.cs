using System.Globalization;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core;

/// <summary>The first mistake in a file of JSON, with its place.</summary>
public sealed class JsonPlaceException(Refusal refusal) : Exception
{
    public Refusal Refusal { get; } = refusal;
}

/// <summary>An object within the file, which knows where it stands.</summary>
public sealed class JsonPlace
{
    private readonly JsonElement element;
    private readonly string path;

    /// <summary>How files are parsed that are read by this class.</summary>
    public static JsonDocumentOptions Strict { get; } = new() { AllowDuplicateProperties = false };

    public JsonPlace(JsonElement element, string path)
    {
        (this.element, this.path) = (element, path);
        if (element.ValueKind != JsonValueKind.Object)
        {
            throw new JsonPlaceException(
                new("input-malformed", path, $"{(path.Length == 0 ? "the whole" : path)}: an object is expected.")
            );
        }
    }

    /// <summary>Reads a whole file; the first mistake is named with its place.</summary>
    public static Outcome<T> Read<T>(string json, Func<JsonPlace, T> read)
    {
        try
        {
            using var document = JsonDocument.Parse(json, Strict);
            return read(new JsonPlace(document.RootElement, ""));
        }
        catch (JsonException e)
        {
            return new Refusal(
                "input-malformed",
                null,
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Line {e.LineNumber + 1}: this is no JSON, at byte {e.BytePositionInLine + 1} of the line."
                )
            );
        }
        catch (JsonPlaceException e)
        {
            return e.Refusal;
        }
    }

    public JsonPlaceException Wrong(string field, string what) =>
        new(new("input-malformed", At(field), $"{At(field)}: {what}."));

    /// <summary>What was read elsewhere, whose mistakes name their place themselves.</summary>
    public static T Take<T>(Outcome<T> outcome) =>
        outcome.Refusal is { } refusal ? throw new JsonPlaceException(refusal) : outcome.Value;

    public T Take<T>(Outcome<T> outcome, string field) =>
        outcome.Refusal is { } refusal ? throw Wrong(field, refusal.Sentence.TrimEnd('.')) : outcome.Value;

    public string? Text(string field) =>
        Find(field) is not { } value ? null
        : value.ValueKind == JsonValueKind.String ? value.GetString()
        : throw Wrong(field, "text is expected");

    public string Needed(string field) =>
        Text(field) is { Length: > 0 } text ? text : throw Wrong(field, "it is missing");

    public LocalDate Date(string field) =>
        LocalDatePattern.Iso.Parse(Needed(field)) is { Success: true, Value: var date }
            ? date
            : throw Wrong(field, $"“{Text(field)}” is no calendar date such as 2026-03-14");

    /// <summary>A calendar date; null where there is none.</summary>
    public LocalDate? DateOrNone(string field) => Has(field) ? Date(field) : null;

    /// <summary>Whether the field is there and not null.</summary>
    public bool Has(string field) => Find(field) is not null;

    /// <summary>A number; null where there is none.</summary>
    public decimal? Number(string field) =>
        Find(field) is not { } value ? null
        : value.ValueKind == JsonValueKind.Number && value.TryGetDecimal(out var number) ? number
        : throw Wrong(field, "a number is expected");

    /// <summary>An object within; null where there is none.</summary>
    public JsonPlace? Within(string field) => Find(field) is { } value ? new(value, At(field)) : null;

    /// <summary>The names of its properties, in their order.</summary>
    public IEnumerable<string> Names => element.EnumerateObject().Select(p => p.Name);

    /// <summary>The object itself, as it was written.</summary>
    public string Whole => element.GetRawText();

    /// <summary>The value as it was written; null where there is none.</summary>
    public string? Raw(string field) => Find(field)?.GetRawText();

    public bool Flag(string field) =>
        Find(field) is { } value
        && (
            value.ValueKind is JsonValueKind.True or JsonValueKind.False
                ? value.GetBoolean()
                : throw Wrong(field, "true or false is expected")
        );

    /// <summary>One of the words of an enumeration, in lower case.</summary>
    public T Word<T>(string field, T otherwise)
        where T : struct, Enum
    {
        if (Text(field) is not { } text)
        {
            return otherwise;
        }

        var words = Enum.GetValues<T>().ToDictionary(v => v.ToString().ToLowerInvariant());
        return words.TryGetValue(text, out var value)
            ? value
            : throw Wrong(field, $"“{text}” is none of {string.Join(", ", words.Keys)}");
    }

    public IEnumerable<JsonPlace> Each(string field) =>
        List(field)
            .Select(
                (value, i) => new JsonPlace(value, string.Create(CultureInfo.InvariantCulture, $"{At(field)}[{i}]"))
            );

    public List<string> Texts(string field) =>
        [
            .. List(field)
                .Select(
                    (value, i) =>
                        value.ValueKind == JsonValueKind.String
                            ? value.GetString()!
                            : throw Wrong(
                                string.Create(CultureInfo.InvariantCulture, $"{field}[{i}]"),
                                "text is expected"
                            )
                ),
        ];

    private List<JsonElement> List(string field) =>
        Find(field) is not { } value ? []
        : value.ValueKind == JsonValueKind.Array ? [.. value.EnumerateArray()]
        : throw Wrong(field, "a list is expected");

    private JsonElement? Find(string field) =>
        element.TryGetProperty(field, out var value) && value.ValueKind != JsonValueKind.Null ? value : null;

    private string At(string field) => path.Length == 0 ? field : $"{path}.{field}";
}
