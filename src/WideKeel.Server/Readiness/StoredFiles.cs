using System.Security.Cryptography;
using WideKeel.Core;

namespace WideKeel.Server.Readiness;

/// <param name="Hash">SHA-256, hexadecimal; the file's name in its folder.</param>
internal sealed record StoredFile(string Name, string Hash, long Bytes);

/// <summary>Files that people give: each lies once, under the hash of its bytes.</summary>
internal static class StoredFiles
{
    /// <summary>Larger files are refused.</summary>
    public const long MostBytes = 200_000_000;

    /// <summary>
    /// Takes a file: it is written aside, hashed while it comes, then moved to its place. What is refused leaves nothing
    /// behind.
    /// </summary>
    /// <param name="name">As its giver calls it.</param>
    public static async Task<Outcome<StoredFile>> TakeAsync(
        Stream from,
        string name,
        WideKeelOptions options,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrWhiteSpace(name) || name.Length > 255)
        {
            return new Refusal("file-missing", "file", "Name the file, in at most 255 characters.");
        }

        Directory.CreateDirectory(options.EvidenceFolder);
        var half = Path.Combine(options.EvidenceFolder, $"{Guid.NewGuid():N}.part");
        try
        {
            var (hash, bytes) = await WriteAsync(from, half, cancel);
            if (bytes == 0)
            {
                return new Refusal("file-empty", "file", $"{name} is empty: it shows nothing.");
            }

            if (bytes > MostBytes)
            {
                return new Refusal("file-too-large", "file", $"{name} has more than 200 MB.");
            }

            File.Move(half, Path.Combine(options.EvidenceFolder, hash), overwrite: true);
            return new StoredFile(Path.GetFileName(name), hash, bytes);
        }
        finally
        {
            File.Delete(half);
        }
    }

    /// <summary>The file as a download; not found where it is gone.</summary>
    /// <param name="name">Empty where there is none.</param>
    public static IResult Send(string hash, string? name, WideKeelOptions options)
    {
        var path = Path.Combine(options.EvidenceFolder, hash);
        return !string.IsNullOrEmpty(name) && File.Exists(path)
            ? Results.File(path, "application/octet-stream", name)
            : (Reply<Done>)Problems.NotFound("file");
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
