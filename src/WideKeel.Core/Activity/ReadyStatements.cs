namespace WideKeel.Core.Activity;

/// <param name="Says">One sentence on what it answers.</param>
public sealed record ReadyStatement(string Name, string Says, string Sql);

/// <summary>Questions that most people ask first. <c>$from</c> and <c>$before</c> are the span that is looked at.</summary>
public static class ReadyStatements
{
    private const string Head = "-- ";

    /// <summary>Each begins in its file with a line <c>-- name: what it answers</c>.</summary>
    public static IReadOnlyList<ReadyStatement> All { get; } = [.. Read()];

    private static IEnumerable<ReadyStatement> Read()
    {
        using var stream = typeof(ReadyStatements).Assembly.GetManifestResourceStream("ready-statements.sql")!;
        using var reader = new StreamReader(stream);
        foreach (var part in reader.ReadToEnd().Split("\n\n", StringSplitOptions.RemoveEmptyEntries))
        {
            var lines = part.Trim().Split('\n', 2);
            var head = lines[0][Head.Length..].Split(": ", 2);
            yield return new(head[0], head[1], lines[1]);
        }
    }
}
