namespace WideKeel.Server.Tests;

/// <summary>The folder of the working copy that these tests were built from.</summary>
internal static class Repository
{
    public static string Root { get; } = Find();

    private static string Find()
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder!.FullName, "WideKeel.slnx")))
        {
            folder = folder.Parent;
        }

        return folder.FullName;
    }
}
