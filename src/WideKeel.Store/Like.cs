namespace WideKeel.Store;

/// <summary>
/// Patterns for SQL's LIKE in which what somebody typed stands for itself. To be used with <see cref="Escape"/>.
/// </summary>
public static class Like
{
    public const string Escape = @"\";

    /// <summary>Blanks around what was typed do not count.</summary>
    public static string Containing(string? typed) => $"%{Literal(typed?.Trim())}%";

    /// <summary>To the letter, blanks too: the next word of a name may be what is being typed.</summary>
    public static string BeginningWith(string? typed) => $"{Literal(typed)}%";

    private static string Literal(string? typed) =>
        (typed ?? "")
            .Replace(@"\", @"\\", StringComparison.Ordinal)
            .Replace("%", @"\%", StringComparison.Ordinal)
            .Replace("_", @"\_", StringComparison.Ordinal);
}
