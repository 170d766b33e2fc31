using System.Security.Cryptography;
using WideKeel.Core;

namespace WideKeel.Server.Readiness;

/// <summary>A file that was given and lies aside until it is kept; disposed of without that, it is gone.</summary>
/// <param name="aside">Where it lies.</param>
/// <param name="place">Where it would be kept.</param>
internal sealed class GivenFile(string aside, string place, string name, string hash, long bytes) : IDisposable
{
    /// <summary>As its giver calls it.</summary>
    public string Name { get; } = name;

    /// <summary>SHA-256, hexadecimal; its name in the folder.</summary>
    public string Hash { get; } = hash;

    public long Bytes { get; } = bytes;

    /// <summary>Where it can be read before it is kept.</summary>
    public string Path { get; } = aside;

    /// <summary>Moves it to its place; last in the change that names it, so that what is refused leaves nothing behind.</summary>
    public void Keep() => File.Move(Path, place, overwrite: true);

    public void Dispose() => File.Delete(Path);
}

/// <summary>Files that people give: each lies once, under the hash of its bytes.</summary>
internal static class StoredFiles
{
    /// <summary>Larger files are refused.</summary>
    public const long MostBytes = 200_000_000;

    /// <summary>Takes a file: it is written aside and hashed while it comes.</summary>
    /// <param name="name">As its giver calls it.</param>
    public static async Task<Outcome<GivenFile>> TakeAsync(
        Stream from,
        string name,
        WideKeelOptions options,
        ContentScanner scanner,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrWhiteSpace(name) || name.Length > 255)
        {
            return new Refusal("file-missing", "file", "Name the file, in at most 255 characters.");
        }

        Directory.CreateDirectory(options.EvidenceFolder);
        var aside = Path.Combine(options.EvidenceFolder, $"{Guid.NewGuid():N}.part");
        var taken = false;
        try
        {
            var (hash, bytes) = await WriteAsync(from, aside, cancel);
            if (bytes == 0)
            {
                return new Refusal("file-empty", "file", $"{name} is empty: it shows nothing.");
            }

            if (bytes > MostBytes)
            {
                return new Refusal("file-too-large", "file", $"{name} has more than 200 MB.");
            }

            if (await scanner.CheckAsync(aside, Bare(name), cancel) is { } harmful)
            {
                return harmful;
            }

            taken = true;
            return new GivenFile(aside, Path.Combine(options.EvidenceFolder, hash), Bare(name), hash, bytes);
        }
        finally
        {
            if (!taken)
            {
                File.Delete(aside);
            }
        }
    }

    /// <summary>
    /// A name without the folders of any system and without control characters: it stands in archives that other people
    /// unpack.
    /// </summary>
    internal static string Bare(string name)
    {
        var last = string.Concat(name.Split('/', '\\')[^1].Where(c => !char.IsControl(c) && c != ':')).Trim('.', ' ');
        return last.Length == 0 ? "file" : last;
    }

    /// <summary>The file as a download; not found where it is gone, refused where it is not what was given.</summary>
    /// <param name="name">Empty where there is none.</param>
    public static IResult Send(string hash, string? name, WideKeelOptions options) =>
        string.IsNullOrEmpty(name) ? (Reply<Done>)Problems.NotFound("file")
        : Broken(hash, options) is { } why
            ? (Reply<Done>)Refusal.Conflict("file-broken", null, $"{why} It is not sent; restore it from a backup.")
        : Results.File(Path.Combine(options.EvidenceFolder, hash), "application/octet-stream", name);

    /// <summary>Why a file is not what was given; null where it is, by its SHA-256.</summary>
    internal static string? Broken(string hash, WideKeelOptions options)
    {
        try
        {
            using var file = File.OpenRead(Path.Combine(options.EvidenceFolder, hash));
            return Convert.ToHexStringLower(SHA256.HashData(file)) == hash
                ? null
                : "The file was changed since it was given: its SHA-256 is another.";
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            return "The file is missing where evidence lies.";
        }
    }

    private static async Task<(string Hash, long Bytes)> WriteAsync(Stream from, string to, CancellationToken cancel)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        await using var stream = File.Create(to);
        var buffer = new byte[81_920];
        long bytes = 0;
        for (int read; (read = await from.ReadAsync(buffer, cancel)) > 0; )
        {
            bytes += read;
            if (bytes > MostBytes)
            {
                break;
            }

            hash.AppendData(buffer, 0, read);
            await stream.WriteAsync(buffer.AsMemory(0, read), cancel);
        }

        await stream.FlushAsync(cancel);
        return (Convert.ToHexStringLower(hash.GetHashAndReset()), bytes);
    }
}
