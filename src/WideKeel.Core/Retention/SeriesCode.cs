using System.Text.RegularExpressions;

namespace WideKeel.Core.Retention;

/// <summary>
/// A series' code such as <c>VES-010</c>: 2 to 20 capitals, digits, dots and hyphens, beginning with a capital.
/// </summary>
public readonly partial record struct SeriesCode
{
    private SeriesCode(string value) => Value = value;

    public string Value { get; }

    public static Outcome<SeriesCode> Parse(string? text, string field = "code") =>
        text is not null && Shape().IsMatch(text)
            ? new SeriesCode(text)
            : new Refusal(
                "code-malformed",
                field,
                "A code has 2 to 20 capitals, digits, dots and hyphens, and begins with a capital: VES-010."
            );

    public override string ToString() => Value;

    [GeneratedRegex(@"\A[A-Z][A-Z0-9.\-]{1,19}\z")]
    private static partial Regex Shape();
}
