using WideKeel.Core;

namespace WideKeel.Sources;

/// <summary>
/// A simulated collaboration system that ships with the product: libraries (folders of the first level) of files, in a
/// directory of its own. It never changes by itself; whoever works in it asks the product, which decides and then calls
/// on this.
/// </summary>
public sealed class WorkspaceFolder(string root) : IContentSource
{
    private const int MaxName = 120;
    private readonly DirectoryShare tree = new(root);

    public IEnumerable<Found> Walk() => tree.Walk();

    public Stream? Open(string relative) => tree.Open(relative);

    public Task<string?> HashAsync(string relative, CancellationToken cancel) => tree.HashAsync(relative, cancel);

    public Task<Extracted> ExtractAsync(string relative, string type, CancellationToken cancel) =>
        tree.ExtractAsync(relative, type, cancel);

    public IReadOnlyDictionary<string, string> Delete(IReadOnlyCollection<Removal> removals) => tree.Delete(removals);

    public Task<string> PlaceAsync(string relative, Func<Stream> content, CancellationToken cancel) =>
        tree.PlaceAsync(relative, content, cancel);

    /// <summary>Null when it can be the name of a file or folder; otherwise what is wrong.</summary>
    public static Refusal? CheckName(string? name, string field) =>
        string.IsNullOrWhiteSpace(name)
        || name.Length > MaxName
        || name is "." or ".."
        || name != name.Trim()
        || name.StartsWith('.')
        || name.Any(c => char.IsControl(c) || c is '/' or '\\')
            ? new(
                "name-malformed",
                field,
                $"A name has 1 to {MaxName} characters, none of them a slash; it does not begin with a dot or end in a blank."
            )
            : null;

    /// <summary>Null when it is a path of folders beneath a library, or empty; otherwise what is wrong.</summary>
    public static Refusal? CheckFolder(string? folder, string field) =>
        string.IsNullOrEmpty(folder) ? null
        : folder.Length > 500 ? new("name-malformed", field, "The folders are nested too deep.")
        : folder.Split('/').Select(p => CheckName(p, field)).FirstOrDefault(r => r is not null);

    /// <summary>Folders directly within a folder, by name; empty where there is no such folder.</summary>
    public IReadOnlyList<string> FoldersIn(string relative) =>
        tree.Resolve(relative) is { Refused: false, Value: var full } && Directory.Exists(full)
            ?
            [
                .. new DirectoryInfo(full)
                    .EnumerateDirectories()
                    .Where(d => d.LinkTarget is null)
                    .Select(d => d.Name)
                    .Order(StringComparer.OrdinalIgnoreCase),
            ]
            : [];

    public bool Has(string relative) =>
        tree.Resolve(relative) is { Refused: false, Value: var full } && (File.Exists(full) || Directory.Exists(full));

    public void MakeFolder(string relative) => Directory.CreateDirectory(Full(relative));

    /// <summary>Removes an empty folder; false where something lies in it.</summary>
    public bool RemoveFolder(string relative)
    {
        var full = Full(relative);
        if (Directory.EnumerateFileSystemEntries(full).Any())
        {
            return false;
        }

        Directory.Delete(full);
        return true;
    }

    /// <summary>Writes a file, whole or not at all; what lies there under its name is replaced.</summary>
    public async Task WriteAsync(string relative, Stream content, CancellationToken cancel)
    {
        var full = Full(relative);
        Directory.CreateDirectory(Path.GetDirectoryName(full)!);
        var partial = Path.Combine(Path.GetDirectoryName(full)!, $".{Guid.NewGuid():N}.partial");
        try
        {
            await using (var target = new FileStream(partial, FileMode.CreateNew, FileAccess.Write))
            {
                await content.CopyToAsync(target, cancel);
                target.Flush(flushToDisk: true);
            }

            File.Move(partial, full, overwrite: true);
        }
        finally
        {
            File.Delete(partial);
        }
    }

    public void Move(string from, string to)
    {
        var target = Full(to);
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        File.Move(Full(from), target, overwrite: false);
    }

    /// <summary>What a scan would tell of a file.</summary>
    public Found.File Describe(string relative)
    {
        var file = new FileInfo(Full(relative));
        return new(
            relative,
            file.Length,
            NodaTime.Instant.FromDateTimeUtc(file.LastWriteTimeUtc),
            NodaTime.Instant.FromDateTimeUtc(file.CreationTimeUtc)
        );
    }

    private string Full(string relative) =>
        tree.Resolve(relative) is { Refused: false, Value: var full }
            ? full
            : throw new IOException("The path does not stay within the workspace.");
}
