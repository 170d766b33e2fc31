using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WideKeel.Core.Ledger;

/// <summary>JSON Canonicalization Scheme, RFC 8785: one byte sequence for one JSON value.</summary>
public static class CanonicalJson
{
    /// <summary>Deeper values are refused: recursion must not be steered by input.</summary>
    private const int MaxDepth = 128;

    /// <summary>
    /// Whole numbers up to here are exact as doubles and are written without an exponent, so their digits are the
    /// canonical form.
    /// </summary>
    private const long MaxExact = 1L << 53;

    private static readonly SearchValues<char> Escaped = SearchValues.Create([
        .. Enumerable.Range(0, ' ').Select(c => (char)c),
        '"',
        '\\',
    ]);

    /// <summary>
    /// UTF-8 bytes of the canonical form. Throws <see cref="FormatException"/> for values that JSON or the scheme
    /// cannot carry (NaN, lone surrogates, duplicate names, depth over 128).
    /// </summary>
    public static byte[] Serialize(JsonNode? node) => Utf8(Text(node));

    public static string Text(JsonNode? node)
    {
        var text = new StringBuilder(256);
        Write(text, node, 0);
        return text.ToString();
    }

    /// <summary>
    /// The form of an object with these members, in whatever order; for values that belong to other objects already,
    /// which would have to be copied.
    /// </summary>
    internal static string Text(Span<KeyValuePair<string, JsonNode?>> members)
    {
        var text = new StringBuilder(512);
        Write(text, members, 0);
        return text.ToString();
    }

    /// <summary>RFC 8785 §3.2.2.3: numbers as ECMAScript's <c>Number.prototype.toString</c> writes them.</summary>
    public static string Number(double value)
    {
        if (!double.IsFinite(value))
        {
            throw new FormatException("NaN and infinities have no JSON form (RFC 8785 §3.2.2.3).");
        }

        if (value == 0)
        {
            return "0";
        }

        // .NET's round-trip form has the shortest digits that ECMAScript demands; only the layout differs.
        var roundTrip = value.ToString("R", CultureInfo.InvariantCulture);
        var (digits, exponent) = Decompose(roundTrip);
        var sign = value < 0 ? "-" : "";
        var count = digits.Length;
        return sign
            + exponent switch
            {
                // exponent is n of ECMA-262 Number::toString: value = 0.digits × 10^n
                var n when count <= n && n <= 21 => digits + new string('0', n - count),
                var n when n is > 0 and <= 21 => digits[..n] + "." + digits[n..],
                var n when n is > -6 and <= 0 => "0." + new string('0', -n) + digits,
                var n => (count == 1 ? digits : digits[..1] + "." + digits[1..])
                    + (n - 1 < 0 ? "e-" : "e+")
                    + Math.Abs(n - 1).ToString(CultureInfo.InvariantCulture),
            };
    }

    private static (string Digits, int Exponent) Decompose(string roundTrip)
    {
        var text = roundTrip.TrimStart('-');
        var e = text.IndexOf('E', StringComparison.Ordinal);
        var exponent =
            e < 0 ? 0 : int.Parse(text.AsSpan(e + 1), NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture);
        var mantissa = e < 0 ? text : text[..e];
        var point = mantissa.IndexOf('.', StringComparison.Ordinal);
        var whole = point < 0 ? mantissa : mantissa[..point];
        var digits = whole + (point < 0 ? "" : mantissa[(point + 1)..]);
        var n = whole.Length + exponent;
        var leading = digits.Length - digits.TrimStart('0').Length;
        return (digits.Trim('0'), n - leading);
    }

    private static void Write(StringBuilder text, JsonNode? node, int depth)
    {
        if (depth > MaxDepth)
        {
            throw new FormatException($"JSON nested deeper than {MaxDepth} levels.");
        }

        switch (node)
        {
            case null:
                text.Append("null");
                break;
            case JsonObject members:
                Write(text, [.. members], depth);
                break;
            case JsonArray elements:
                text.Append('[');
                for (var i = 0; i < elements.Count; i++)
                {
                    if (i > 0)
                    {
                        text.Append(',');
                    }

                    Write(text, elements[i], depth + 1);
                }

                text.Append(']');
                break;
            case JsonValue value:
                WriteValue(text, value);
                break;
        }
    }

    private static void Write(StringBuilder text, Span<KeyValuePair<string, JsonNode?>> members, int depth)
    {
        // RFC 8785 §3.2.3: sorted by UTF-16 code units, which is ordinal order here.
        members.Sort((a, b) => string.CompareOrdinal(a.Key, b.Key));
        text.Append('{');
        for (var i = 0; i < members.Length; i++)
        {
            if (i > 0)
            {
                text.Append(',');
            }

            WriteString(text, members[i].Key);
            text.Append(':');
            Write(text, members[i].Value, depth + 1);
        }

        text.Append('}');
    }

    private static void WriteValue(StringBuilder text, JsonValue value)
    {
        switch (value.GetValueKind())
        {
            case JsonValueKind.String:
                WriteString(text, value.GetValue<string>());
                break;
            case JsonValueKind.Number when Whole(value) is { } whole and >= -MaxExact and <= MaxExact:
                text.Append(CultureInfo.InvariantCulture, $"{whole}");
                break;
            case JsonValueKind.Number:
                text.Append(
                    Number(
                        value.TryGetValue<double>(out var number)
                            ? number
                            : double.Parse(value.ToJsonString(), CultureInfo.InvariantCulture)
                    )
                );
                break;
            case JsonValueKind.True:
                text.Append("true");
                break;
            case JsonValueKind.False:
                text.Append("false");
                break;
            default:
                text.Append("null");
                break;
        }
    }

    private static long? Whole(JsonValue value) =>
        value.TryGetValue<long>(out var number) ? number
        : value.TryGetValue<int>(out var small) ? small
        : null;

    /// <summary>
    /// RFC 8785 §3.2.2.2: the two-character escapes, lower-case \u00xx for other controls, everything else as it is.
    /// </summary>
    private static void WriteString(StringBuilder text, string value)
    {
        text.Append('"');
        var rest = value.AsSpan();
        for (int plain; (plain = rest.IndexOfAny(Escaped)) >= 0; rest = rest[(plain + 1)..])
        {
            text.Append(rest[..plain]);
            switch (rest[plain])
            {
                case '"':
                    text.Append("\\\"");
                    break;
                case '\\':
                    text.Append("\\\\");
                    break;
                case '\b':
                    text.Append("\\b");
                    break;
                case '\f':
                    text.Append("\\f");
                    break;
                case '\n':
                    text.Append("\\n");
                    break;
                case '\r':
                    text.Append("\\r");
                    break;
                case '\t':
                    text.Append("\\t");
                    break;
                default:
                    text.Append(CultureInfo.InvariantCulture, $"\\u{(int)rest[plain]:x4}");
                    break;
            }
        }

        text.Append(rest).Append('"');
    }

    private static byte[] Utf8(string text)
    {
        try
        {
            return new UTF8Encoding(false, throwOnInvalidBytes: true).GetBytes(text);
        }
        catch (EncoderFallbackException e)
        {
            throw new FormatException("A lone surrogate cannot be written as UTF-8 (RFC 8785 §3.2.2.2).", e);
        }
    }
}
