using System.Text.Json;

namespace WideKeel.Server.Kernel;

/// <summary>Where a page of a list ended: the sort value and the id of its last row, as opaque text.</summary>
public static class Cursor
{
    public static string Write(object value, long id) =>
        Convert
            .ToBase64String(JsonSerializer.SerializeToUtf8Bytes(new[] { value, id }))
            .Replace('+', '-')
            .Replace('/', '_')
            .TrimEnd('=');

    /// <summary>Null when the text is not a cursor.</summary>
    public static (object Value, long Id)? Read(string text)
    {
        try
        {
            var base64 = text.Replace('-', '+').Replace('_', '/');
            using var parsed = JsonDocument.Parse(
                Convert.FromBase64String(base64.PadRight((base64.Length + 3) / 4 * 4, '='))
            );
            var value = parsed.RootElement[0];
            return value.ValueKind switch
            {
                JsonValueKind.Number => (value.GetInt64(), parsed.RootElement[1].GetInt64()),
                JsonValueKind.String => (value.GetString()!, parsed.RootElement[1].GetInt64()),
                _ => null,
            };
        }
        catch (Exception e)
            when (e is FormatException or JsonException or InvalidOperationException or IndexOutOfRangeException)
        {
            return null;
        }
    }
}
