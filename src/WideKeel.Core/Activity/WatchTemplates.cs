namespace WideKeel.Core.Activity;

/// <summary>The watches that ship, with the settings that they have when they are switched on.</summary>
public static class WatchTemplates
{
    /// <summary>A file of watches, without networks and people.</summary>
    public static string Json { get; } = Load();

    private static string Load()
    {
        using var stream = typeof(WatchTemplates).Assembly.GetManifestResourceStream("watch-templates.json")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
