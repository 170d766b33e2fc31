using WideKeel.Core;

namespace WideKeel.Sources;

/// <summary>
/// Where paths that a person typed may lead: roots of sources, folders of channels, files of certificates. The one check,
/// made when a path is set and again each time before it is used.
/// </summary>
/// <param name="Ours">Folders of the product itself, which nothing overlaps with.</param>
/// <param name="Within">Folders that each path is, or lies in; empty where paths may lie anywhere.</param>
public sealed record RootPlaces(IReadOnlyList<string> Ours, IReadOnlyList<string> Within)
{
    private static readonly string[] Systems = ["/proc", "/sys", "/dev"];

    /// <summary>Why a folder cannot be used where it lies, or null.</summary>
    /// <param name="field">The field of the request that named it.</param>
    public Refusal? Check(string folder, string field)
    {
        // By what they are to the file system: another path, or a mount, can lead to the same folder.
        var own = Beneath.Identities(folder);
        return own.Count == 0 ? new("root-not-found", field, $"There is no folder {folder} on the server.")
            : Ours.Any(ours => Overlap(own, Beneath.Identities(ours)))
                ? new(
                    "root-is-our-own",
                    field,
                    $"{folder} holds, or lies in, the product's own data. It cannot be used here."
                )
            : Within.Count > 0 && !Within.Any(w => Beneath.Identities(w) is [var top, ..] && own.Contains(top))
                ? new(
                    "root-elsewhere",
                    field,
                    $"Whoever started the server allows folders in {string.Join(" or ", Within)} only."
                )
            : Systems.FirstOrDefault(s => Beneath.Identities(s) is [var top, ..] && own.Contains(top)) is { } system
                ? new(
                    "root-is-the-systems",
                    field,
                    $"What lies in {system} is the system's own. It cannot be used here."
                )
            : null;
    }

    /// <summary>The same for a file: its folder decides, and it is no link to another.</summary>
    public Refusal? CheckFile(string file, string field) =>
        !Path.IsPathFullyQualified(file) || !File.Exists(file)
            ? new("file-not-found", field, $"There is no file {file} on the server.")
        : File.ResolveLinkTarget(file, returnFinalTarget: true) is { } target
            ? Check(Path.GetDirectoryName(target.FullName)!, field)
        : Check(Path.GetDirectoryName(file)!, field);

    /// <summary>Whether one lies in the other, or they are the same.</summary>
    internal static bool Overlap(
        IReadOnlyList<(uint Major, uint Minor, ulong Inode)> one,
        IReadOnlyList<(uint Major, uint Minor, ulong Inode)> other
    ) => (one is [var first, ..] && other.Contains(first)) || (other is [var second, ..] && one.Contains(second));
}
