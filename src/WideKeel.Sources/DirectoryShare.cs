using System.Security.Cryptography;
using Microsoft.Win32.SafeHandles;
using NodaTime;
using WideKeel.Core;

namespace WideKeel.Sources;

/// <summary>Something a walk over the share came upon.</summary>
public abstract record Found(string Path)
{
    /// <param name="Bytes">Size in bytes.</param>
    /// <param name="Modified">The file's modification time.</param>
    /// <param name="Born">The file's birth time, where the file system keeps one; copying resets it, so it may be later
    /// than <paramref name="Modified"/>.</param>
    public sealed record File(string Path, long Bytes, Instant Modified, Instant Born) : Found(Path)
    {
        /// <summary>
        /// SHA-256 of the content in lower-case hex, where listing it came to know it; null otherwise.
        /// </summary>
        public string? Hash { get; init; }
    }

    /// <summary>Could not be taken in, and why, in a sentence.</summary>
    public sealed record Unreadable(string Path, string Reason) : Found(Path);
}

/// <summary>
/// A real directory tree. It can only be observed: nothing is asked of us before a file changes there. Never follows a
/// link, never leaves its root.
/// </summary>
public sealed class DirectoryShare(string root) : IContentSource
{
    private const int BufferSize = 1 << 20;

    /// <summary>Bytes; Linux gives 255 a name and 4,096 a path, and a tree can still be nested beyond reason.</summary>
    private const int MaxDepth = 100;

    public string Root { get; } = Path.TrimEndingDirectorySeparator(Path.GetFullPath(root));

    /// <summary>Why the root cannot be used as a share, or null.</summary>
    public static Refusal? CheckRoot(string? root)
    {
        if (string.IsNullOrWhiteSpace(root) || !Path.IsPathFullyQualified(root))
        {
            return new("root-not-absolute", "root", "The share's root is an absolute path, such as /srv/share.");
        }

        if (Path.GetFullPath(root) == "/")
        {
            return new("root-is-everything", "root", "The whole machine cannot be a share; name a directory in it.");
        }

        return Directory.Exists(root)
            ? null
            : new("root-not-found", "root", $"There is no directory {root} on the server.");
    }

    /// <summary>
    /// Walks the tree in a steady order, so that a walk that was interrupted can be told where to go on.
    /// </summary>
    public IEnumerable<Found> Walk()
    {
        Stack<(string Relative, int Depth)> folders = new([("", 0)]);
        while (folders.TryPop(out var folder))
        {
            List<FileSystemInfo> entries;
            string? failure = null;
            try
            {
                entries = [.. new DirectoryInfo(Path.Combine(Root, folder.Relative)).EnumerateFileSystemInfos()];
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                entries = [];
                failure = Words(e);
            }

            if (failure is not null)
            {
                yield return new Found.Unreadable(folder.Relative.Length == 0 ? "." : folder.Relative, failure);
                continue;
            }

            entries.Sort((a, b) => string.CompareOrdinal(a.Name, b.Name));
            List<string> deeper = [];
            foreach (var entry in entries)
            {
                var relative = folder.Relative.Length == 0 ? entry.Name : $"{folder.Relative}/{entry.Name}";
                if (entry is DirectoryInfo && Obstacle(entry, relative) is null && folder.Depth < MaxDepth)
                {
                    deeper.Add(relative);
                }
                else
                {
                    yield return Describe(relative, entry);
                }
            }

            deeper.Reverse();
            deeper.ForEach(d => folders.Push((d, folder.Depth + 1)));
        }
    }

    /// <summary>Why something in the tree cannot be taken in; null where it can.</summary>
    private string? Obstacle(FileSystemInfo entry, string relative) =>
        // First: of such a name nothing else can be asked, and its attributes would read as those of a link.
        entry.Name.Contains('\uFFFD', StringComparison.Ordinal) && !Path.Exists(entry.FullName)
            ? "Its name is not valid UTF-8, so it cannot be opened. Rename it on the share."
        : entry.LinkTarget is not null || entry.Attributes.HasFlag(FileAttributes.ReparsePoint)
            ? "It is a link. Links are never followed, because they may lead out of the share."
        : entry is FileInfo { Length: 0 } && !IsRegular(relative)
            ? "It is a pipe, a socket or a device, not a file: there is no content in it to keep."
        : null;

    /// <summary>What cannot be opened is taken for a file: reading it will name the cause.</summary>
    private bool IsRegular(string relative)
    {
        try
        {
            using var place = Beneath.Find(Root, relative);
            using var file = place?.Open();
            return file is not null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return true;
        }
    }

    /// <summary>The full path of something beneath the root; a refusal for whatever would lead out of it.</summary>
    public Outcome<string> Resolve(string relative)
    {
        if (
            relative.Length == 0
            || Path.IsPathRooted(relative)
            || relative.Contains('\0', StringComparison.Ordinal)
            || relative.Split('/').Any(part => part is "" or "." or "..")
        )
        {
            return new Refusal("path-leaves-share", "path", "The path does not stay beneath the share's root.");
        }

        var full = Root;
        foreach (var part in relative.Split('/'))
        {
            full = Path.Combine(full, part);
            if (new FileInfo(full).LinkTarget is not null)
            {
                return new Refusal(
                    "path-through-link",
                    "path",
                    $"“{relative}” leads through a link, and links are never followed."
                );
            }
        }

        return full;
    }

    public Stream? Open(string relative) => OpenFile(relative);

    internal FileStream? OpenFile(string relative) =>
        Handle(relative) is { } handle ? new FileStream(handle, FileAccess.Read, 1 << 17) : null;

    /// <summary>Null when it is not there, or is a pipe or a device.</summary>
    private SafeFileHandle? Handle(string relative)
    {
        if (Resolve(relative).Refused)
        {
            return null;
        }

        using var place = Beneath.Find(Root, relative);
        return place?.Open();
    }

    public async Task<Extracted> ExtractAsync(string relative, string type, CancellationToken cancel)
    {
        if (!TextExtraction.Reads(type))
        {
            return Extracted.Nothing(null);
        }

        await using var content = Open(relative);
        return content is null
            ? Extracted.Nothing("It was gone before it could be read, or its path does not stay beneath the root.")
            : await TextExtraction.ExtractAsync(content, type, cancel);
    }

    public IReadOnlyDictionary<string, string> Delete(IReadOnlyCollection<Removal> removals)
    {
        Dictionary<string, string> failures = [];
        foreach (var removal in removals)
        {
            if (Delete(removal) is { } failure)
            {
                failures[removal.Path] = failure;
            }
        }

        return failures;
    }

    /// <summary>
    /// SHA-256 of a file's content in lower-case hex, or null when it is not there. Throws <see cref="IOException"/>
    /// when it cannot be read.
    /// </summary>
    public async Task<string?> HashAsync(string relative, CancellationToken cancel)
    {
        if (Handle(relative) is not { } handle)
        {
            return null;
        }

        await using var stream = new FileStream(handle, FileAccess.Read, 0);
        return await HashAsync(stream, cancel);
    }

    private static async Task<string> HashAsync(FileStream stream, CancellationToken cancel)
    {
        var buffer = System.Buffers.ArrayPool<byte>.Shared.Rent((int)Math.Min(BufferSize, stream.Length + 1));
        try
        {
            // What one read takes in is there before another thread would have been found for it.
            var read = stream.Read(buffer);
            if (read >= stream.Length)
            {
                return Convert.ToHexStringLower(SHA256.HashData(buffer.AsSpan(0, read)));
            }

            using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
            do
            {
                hash.AppendData(buffer, 0, read);
            } while ((read = await stream.ReadAsync(buffer, cancel)) > 0);
            return Convert.ToHexStringLower(hash.GetHashAndReset());
        }
        finally
        {
            System.Buffers.ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>
    /// Puts a file at its place, or beside it where something else lies there: nothing is overwritten. Returns the path
    /// that it lies under, beneath the root. Throws <see cref="IOException"/> or
    /// <see cref="UnauthorizedAccessException"/> when the source does not take it.
    /// </summary>
    public async Task<string> PlaceAsync(string relative, Func<Stream> content, CancellationToken cancel)
    {
        var full = Resolve(relative);
        if (full.Refused)
        {
            throw new IOException(full.Refusal!.Sentence);
        }

        using var folder = Beneath.Make(Root, relative);
        var partial = folder.Within($".{Guid.NewGuid():N}.partial");
        try
        {
            await using (var target = new FileStream(partial, FileMode.CreateNew, FileAccess.Write))
            await using (var source = content())
            {
                await source.CopyToAsync(target, cancel);
                target.Flush(flushToDisk: true);
            }

            for (var i = 0; ; i++)
            {
                var extension = Path.GetExtension(relative);
                var stem = relative[..^extension.Length];
                var number = i == 1 ? "" : string.Create(System.Globalization.CultureInfo.InvariantCulture, $" {i}");
                var beside = i == 0 ? relative : $"{stem} (restored{number}){extension}";
                var place = folder.Within(Path.GetFileName(beside));
                if (!Path.Exists(place))
                {
                    File.Move(partial, place, overwrite: false);
                    return beside;
                }
            }
        }
        finally
        {
            File.Delete(partial);
        }
    }

    /// <summary>
    /// Deletes a file. Null when it is gone; otherwise why not. A file that was gone already is gone. It gets a name of
    /// its own first, and what bears that name is looked at and removed: nothing can be put in its place meanwhile.
    /// </summary>
    private string? Delete(Removal removal)
    {
        var full = Resolve(removal.Path);
        if (full.Refused)
        {
            return full.Refusal!.Sentence;
        }

        try
        {
            using var place = Beneath.Find(Root, removal.Path);
            var going = Partial.Going(Path.GetFileName(removal.Path));
            if (place is null || !place.SetAside(going))
            {
                return null;
            }

            try
            {
                if (removal.Hash is not null && HashAside(place, going) != removal.Hash)
                {
                    place.PutBack(going);
                    return "It changed after it was last looked at, so it stays.";
                }

                place.Remove(going);
                return null;
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                place.PutBack(going);
                return Words(e);
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return Words(e);
        }
    }

    private static string? HashAside(Beneath place, string going)
    {
        if (place.OpenAside(going) is not { } handle)
        {
            return null;
        }

        using var stream = new FileStream(handle, FileAccess.Read, 1 << 17);
        return Convert.ToHexStringLower(SHA256.HashData(stream));
    }

    /// <summary>Why a folder cannot be the root of a source where it lies, or null.</summary>
    /// <param name="others">Roots of the other sources.</param>
    public static Refusal? CheckPlace(string root, RootPlaces places, IEnumerable<string> others)
    {
        if (places.Check(root, "root") is { } refusal)
        {
            return refusal;
        }

        var own = Beneath.Identities(root);
        return others.FirstOrDefault(other => RootPlaces.Overlap(own, Beneath.Identities(other))) is { } taken
            ? Refusal.Conflict(
                "share-taken",
                "root",
                $"This directory overlaps with the share {taken}; a file belongs to one source."
            )
            : null;
    }

    /// <summary>An error of the file system in a sentence for the list of exceptions.</summary>
    public static string Words(Exception e) =>
        e switch
        {
            UnauthorizedAccessException => "The server's account may not read or change it.",
            PathTooLongException => "Its path is too long for the file system.",
            FileNotFoundException or DirectoryNotFoundException => "It was gone before it could be read.",
            _ => $"The file system refused: {e.Message}",
        };

    /// <summary>A file, or why what lies there is not taken in.</summary>
    private Found Describe(string relative, FileSystemInfo entry)
    {
        try
        {
            if (Obstacle(entry, relative) is { } why)
            {
                return new Found.Unreadable(relative, why);
            }

            if (entry is not FileInfo file)
            {
                return new Found.Unreadable(relative, $"It is nested deeper than {MaxDepth} folders.");
            }

            return new Found.File(
                relative,
                file.Length,
                Instant.FromDateTimeUtc(file.LastWriteTimeUtc),
                Instant.FromDateTimeUtc(file.CreationTimeUtc)
            );
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return new Found.Unreadable(relative, Words(e));
        }
    }
}
