using System.Globalization;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Query;

namespace WideKeel.Core.CommandLine;

/// <summary>One line of a file of items, as JSON Lines give it; every property but the id may be absent.</summary>
public sealed record BatchItem(string Id)
{
    /// <summary>On which line of its file it stands, from 1.</summary>
    public int Line { get; init; }

    public string? Title { get; init; }

    public string? Text { get; init; }

    public string? Path { get; init; }

    public string? Author { get; init; }

    public string? Owner { get; init; }

    public string? Type { get; init; }

    public string? Source { get; init; }

    public string? Container { get; init; }

    public string? Unit { get; init; }

    public string? Series { get; init; }

    public string? Grade { get; init; }

    public string? State { get; init; }

    public string? Searchable { get; init; }

    public string? Subject { get; init; }

    public LocalDate? Created { get; init; }

    public LocalDate? Modified { get; init; }

    public LocalDate? Filed { get; init; }

    /// <summary>Bytes, as a query sees them.</summary>
    public decimal? Size { get; init; }

    /// <summary>Bytes that it takes in store; 0 where nobody says.</summary>
    public long Bytes { get; init; }

    /// <summary>Kinds found elsewhere; null where nobody has looked yet.</summary>
    public IReadOnlyList<string>? Sensitive { get; init; }

    /// <summary>Names in lower case.</summary>
    public IReadOnlyDictionary<string, string> Fields { get; init; } = new Dictionary<string, string>();

    /// <summary>Reads a file, one item a line; blank lines are passed over.</summary>
    /// <returns>All of the items, or the first mistake with its line and field.</returns>
    public static Outcome<IReadOnlyList<BatchItem>> ReadAll(TextReader lines)
    {
        List<BatchItem> items = [];
        Dictionary<string, int> seen = [];
        for (var number = 1; lines.ReadLine() is { } line; number++)
        {
            if (string.IsNullOrWhiteSpace(line))
            {
                continue;
            }

            var item = Read(line.TrimStart('\uFEFF'), $"Line {number.ToString(CultureInfo.InvariantCulture)}", number);
            if (item.Refusal is { } refusal)
            {
                return refusal;
            }

            if (!seen.TryAdd(item.Value.Id, number))
            {
                return Refuse(number, "id", $"“{item.Value.Id}” stands on line {seen[item.Value.Id]} already");
            }

            items.Add(item.Value);
        }

        return items;
    }

    /// <summary>Reads one item.</summary>
    /// <param name="place">Where it stands, as a message begins with it.</param>
    /// <param name="number">Its line, from 1; 0 where it stands on none.</param>
    public static Outcome<BatchItem> Read(string line, string place, int number = 0)
    {
        try
        {
            using var document = JsonDocument.Parse(line, JsonPlace.Strict);
            if (document.RootElement.ValueKind != JsonValueKind.Object)
            {
                return Refuse(place, "", "an object is expected");
            }

            return Read(new Properties(document.RootElement, place)) with
            {
                Line = number,
            };
        }
        catch (JsonException e)
        {
            return Refuse(
                place,
                "",
                string.Create(CultureInfo.InvariantCulture, $"this is no JSON, at byte {e.BytePositionInLine + 1}")
            );
        }
        catch (PropertyException e)
        {
            return e.Refusal;
        }
    }

    private static BatchItem Read(Properties reader)
    {
        if (reader.Text("id") is not { Length: > 0 } id)
        {
            throw reader.Wrong("id", "it is missing");
        }

        var fields = reader.Fields();
        if (reader.Text("docdate") is { } docdate)
        {
            fields.TryAdd("docdate", docdate);
        }

        return new BatchItem(id)
        {
            Title = reader.Text("title"),
            Text = reader.Text("text"),
            Path = reader.Text("path"),
            Author = reader.Text("author"),
            Owner = reader.Text("owner"),
            Type = reader.Text("type"),
            Source = reader.Text("source"),
            Container = reader.Text("container"),
            Unit = reader.Text("unit"),
            Series = reader.Text("series"),
            Grade = reader.Text("grade"),
            State = reader.Text("state"),
            Searchable = reader.Text("searchable"),
            Subject = reader.Text("subject"),
            Created = reader.Date("created"),
            Modified = reader.Date("modified"),
            Filed = reader.Date("filed"),
            Size = reader.Number("size"),
            Bytes = reader.Bytes("bytes"),
            Sensitive = reader.Texts("sensitive"),
            Fields = fields,
        };
    }

    internal static Refusal Refuse(int line, string field, string what) =>
        Refuse($"Line {line.ToString(CultureInfo.InvariantCulture)}", field, what);

    private static Refusal Refuse(string place, string field, string what) =>
        new("line-malformed", field, $"{place}{(field.Length == 0 ? "" : $", {field}")}: {what}.");

    /// <summary>The item as a query sees it.</summary>
    /// <param name="sensitive">Finds the kinds where the line does not name them.</param>
    public QueryItem ToQueryItem(Func<string, IReadOnlyCollection<string>> sensitive) =>
        new()
        {
            Title = Title,
            Body = Text,
            Path = Path,
            Author = Author,
            Owner = Owner,
            Type = Type,
            Source = Source,
            Container = Container,
            Unit = Unit,
            Series = Series,
            Grade = Grade,
            State = State,
            Searchable = Searchable,
            Created = Created,
            Modified = Modified,
            Size = Size,
            Sensitive = Sensitive ?? sensitive(Text ?? ""),
            Fields = Fields,
        };

    private sealed class PropertyException(Refusal refusal) : Exception
    {
        public Refusal Refusal { get; } = refusal;
    }

    private readonly struct Properties(JsonElement item, string place)
    {
        public string? Text(string name) =>
            Find(name) is not { } value ? null
            : value.ValueKind == JsonValueKind.String ? value.GetString()
            : throw Wrong(name, "text is expected");

        public LocalDate? Date(string name) =>
            Text(name) is not { } text ? null
            : LocalDatePattern.Iso.Parse(text) is { Success: true, Value: var date } ? date
            : throw Wrong(name, $"“{text}” is no calendar date such as 2026-03-14");

        public decimal? Number(string name) =>
            Find(name) is not { } value ? null
            : value.ValueKind == JsonValueKind.Number && value.TryGetDecimal(out var number) ? number
            : throw Wrong(name, "a number is expected");

        public long Bytes(string name) =>
            Find(name) is not { } value ? 0
            : value.ValueKind == JsonValueKind.Number && value.TryGetInt64(out var bytes) && bytes >= 0 ? bytes
            : throw Wrong(name, "a whole number of 0 or more is expected");

        public IReadOnlyList<string>? Texts(string name) =>
            Find(name) is not { } value ? null
            : value.ValueKind == JsonValueKind.Array
            && value.EnumerateArray().All(v => v.ValueKind == JsonValueKind.String)
                ? [.. value.EnumerateArray().Select(v => v.GetString()!)]
            : throw Wrong(name, "a list of texts is expected");

        public Dictionary<string, string> Fields()
        {
            Dictionary<string, string> fields = [];
            if (Find("fields") is not { } value)
            {
                return fields;
            }

            if (value.ValueKind != JsonValueKind.Object)
            {
                throw Wrong("fields", "an object is expected");
            }

            foreach (var property in value.EnumerateObject().Where(p => p.Value.ValueKind != JsonValueKind.Null))
            {
                fields[property.Name.ToLowerInvariant()] = property.Value.ValueKind switch
                {
                    JsonValueKind.String => property.Value.GetString()!,
                    JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False => property.Value.GetRawText(),
                    _ => throw Wrong($"fields.{property.Name}", "a text or a number is expected"),
                };
            }

            return fields;
        }

        private JsonElement? Find(string name) =>
            item.TryGetProperty(name, out var value) && value.ValueKind != JsonValueKind.Null ? value : null;

        public PropertyException Wrong(string field, string what) => new(Refuse(place, field, what));
    }
}
