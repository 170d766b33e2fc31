using System.Security.Cryptography;

namespace WideKeel.Sources;

/// <summary>
/// Protected copies, addressed by the SHA-256 of their content and kept once however many items share it. Lies outside
/// every share.
/// </summary>
public sealed class Safekeeping(string folder)
{
    /// <summary>
    /// Copies content in, if it is not there yet, and returns the hash of what was copied. The copy appears under its
    /// name only when it is whole and on disk.
    /// </summary>
    public async Task<string> PutAsync(Stream source, CancellationToken cancel)
    {
        Directory.CreateDirectory(folder);
        var partial = Path.Combine(folder, $"{Guid.NewGuid():N}.partial");
        try
        {
            string hash;
            await using (var target = new FileStream(partial, FileMode.CreateNew, FileAccess.ReadWrite))
            {
                await source.CopyToAsync(target, cancel);
                target.Flush(flushToDisk: true);
                target.Seek(0, SeekOrigin.Begin);
                hash = Convert.ToHexStringLower(await SHA256.HashDataAsync(target, cancel));
            }

            var place = PlaceOf(hash);
            Directory.CreateDirectory(Path.GetDirectoryName(place)!);
            File.Move(partial, place, overwrite: true);
            return hash;
        }
        finally
        {
            File.Delete(partial);
        }
    }

    public bool Has(string hash) => File.Exists(PlaceOf(hash));

    /// <summary>Null when the copy is there and is what its name says; otherwise what is wrong with it.</summary>
    public async Task<string?> FaultAsync(string hash, CancellationToken cancel)
    {
        try
        {
            await using var stream = Open(hash);
            return stream is null ? "The copy is not there."
                : Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel)) is var now && now == hash ? null
                : $"The copy holds something else now: its SHA-256 is {now}.";
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return $"The copy could not be read: {e.Message}";
        }
    }

    public Stream? Open(string hash) => Has(hash) ? File.OpenRead(PlaceOf(hash)) : null;

    /// <summary>Removes a copy; gone when this returns. Removing what is not there is no error.</summary>
    public void Remove(string hash)
    {
        var place = PlaceOf(hash);
        if (File.Exists(place))
        {
            File.Delete(place);
        }
    }

    /// <summary>Removes what an interrupted copy left behind.</summary>
    public void Tidy()
    {
        if (Directory.Exists(folder))
        {
            foreach (var partial in Directory.EnumerateFiles(folder, "*.partial"))
            {
                File.Delete(partial);
            }
        }
    }

    private string PlaceOf(string hash) =>
        hash.Length == 64 && hash.All(char.IsAsciiHexDigitLower)
            ? Path.Combine(folder, hash[..2], hash)
            : throw new ArgumentException($"“{hash}” is not a SHA-256 in lower-case hex.", nameof(hash));
}
