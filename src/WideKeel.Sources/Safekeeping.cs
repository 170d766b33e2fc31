using System.Security.Cryptography;
using WideKeel.Core.AtRest;

namespace WideKeel.Sources;

/// <summary>
/// Protected copies, addressed by the SHA-256 of their content and kept once however many items share it. Lies outside
/// every share. Where there are keys, each copy lies encrypted.
/// </summary>
public sealed class Safekeeping(string folder, RestKeyring keyring)
{
    private const string Name = "safekeeping";
    private const string Unfinished = ".partial";

    /// <summary>
    /// Copies content in, if it is not there yet, and returns the hash of what was copied. The copy appears under its
    /// name only when it is whole and on disk.
    /// </summary>
    public async Task<string> PutAsync(Stream source, CancellationToken cancel)
    {
        Directory.CreateDirectory(folder);
        var partial = Path.Combine(folder, $"{Guid.NewGuid():N}{Unfinished}");
        try
        {
            var keys = keyring.Keys;
            await using (var target = new FileStream(partial, FileMode.CreateNew, FileAccess.Write))
            {
                await (keys?.EncryptAsync(Name, source, target, cancel) ?? source.CopyToAsync(target, cancel));
                target.Flush(flushToDisk: true);
            }

            // The hash is that of what can be read back, not of what was meant to be written.
            var written = File.OpenRead(partial);
            string hash;
            await using (var content = keys?.Decrypt(Name, written) ?? written)
            {
                hash = Convert.ToHexStringLower(await SHA256.HashDataAsync(content, cancel));
            }

            var place = PlaceOf(hash);
            Directory.CreateDirectory(Path.GetDirectoryName(place.Path)!);
            File.Move(partial, keys is null ? place.Path : place.EncryptedPath, overwrite: true);
            Beneath.FlushFolder(Path.GetDirectoryName(place.Path)!);
            if (keys is not null)
            {
                File.Delete(place.Path);
            }

            return hash;
        }
        finally
        {
            File.Delete(partial);
        }
    }

    public bool Has(string hash) => PlaceOf(hash).Exists;

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

    /// <exception cref="UnreadableAtRestException">The copy is encrypted, and was altered or is of other keys.</exception>
    public Stream? Open(string hash) => PlaceOf(hash).Open(keyring.Keys);

    /// <summary>Removes a copy; gone when this returns. Removing what is not there is no error.</summary>
    public void Remove(string hash) => PlaceOf(hash).Delete();

    /// <summary>The hashes of all copies, each with whether it lies encrypted.</summary>
    public IEnumerable<(string Hash, bool IsEncrypted)> All() =>
        Directory.Exists(folder)
            ? Directory
                .EnumerateFiles(folder, "*", SearchOption.AllDirectories)
                .Where(f => !f.EndsWith(Unfinished, StringComparison.Ordinal))
                .Select(f =>
                    (Path.GetFileName(f).Replace(AtRestFile.Ending, "", StringComparison.Ordinal), IsEncrypted(f))
                )
            : [];

    /// <summary>Encrypts a copy that lies in the open. Nobody may remove it meanwhile.</summary>
    public async Task EncryptAsync(string hash, CancellationToken cancel)
    {
        var place = PlaceOf(hash);
        if (keyring.Keys is { } keys && File.Exists(place.Path))
        {
            await place.EncryptAsync(place.Path, keys, cancel);
        }
    }

    /// <summary>Removes what an interrupted copy left behind.</summary>
    public void Tidy()
    {
        if (Directory.Exists(folder))
        {
            foreach (var partial in Directory.EnumerateFiles(folder, $"*{Unfinished}", SearchOption.AllDirectories))
            {
                File.Delete(partial);
            }
        }
    }

    private static bool IsEncrypted(string file) => file.EndsWith(AtRestFile.Ending, StringComparison.Ordinal);

    private AtRestFile PlaceOf(string hash) =>
        hash.Length == 64 && hash.All(char.IsAsciiHexDigitLower)
            ? new(Path.Combine(folder, hash[..2], hash), Name)
            : throw new ArgumentException($"“{hash}” is not a SHA-256 in lower-case hex.", nameof(hash));
}
