namespace WideKeel.Store;

/// <summary>Patterns for SQL's LIKE in which what somebody typed stands for itself. To be used with <see cref="Escape"/>.</summary>
public static class Like
{
    public const string Escape = @"\";

    public static string Containing(string? typed) => $"%{Literal(typed)}%";

    public static string BeginningWith(string? typed) => $"{Literal(typed)}%";

    private static string Literal(string? typed) =>
        (typed ?? "").Trim().Replace(@"\", @"\\", StringComparison.Ordinal).Replace("%", @"\%", StringComparison.Ordinal).Replace("_", @"\_", StringComparison.Ordinal);
}
