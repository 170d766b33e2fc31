using WideKeel.Core.Ledger;

namespace WideKeel.Sources;

/// <summary>The name under which a file is written until it is whole.</summary>
public static class Partial
{
    /// <summary>
    /// Beside the file, and always the same for it. It is short: what is added to a name of 255 bytes cannot be written.
    /// </summary>
    public static string Of(string file) =>
        Path.Combine(Path.GetDirectoryName(file)!, $".{ContentHash.Of(Path.GetFileName(file))[..16]}.partial");
}
