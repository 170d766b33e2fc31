using WideKeel.Core.Ledger;

namespace WideKeel.Sources;

/// <summary>The names that files have while they come and go.</summary>
public static class Partial
{
    /// <summary>
    /// Under which a file is written until it is whole: beside it, and always the same for it. It is short: what is added
    /// to a name of 255 bytes cannot be written.
    /// </summary>
    public static string Of(string file) =>
        Path.Combine(Path.GetDirectoryName(file)!, Named(Path.GetFileName(file), "partial"));

    /// <summary>
    /// The name that a file has, in its folder, while it is looked at for the last time and removed; the same again for a
    /// try after one that was cut off.
    /// </summary>
    public static string Going(string name) => Named(name, "going");

    private static string Named(string name, string state) => $".{ContentHash.Of(name)[..16]}.{state}";
}
