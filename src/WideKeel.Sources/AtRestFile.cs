using WideKeel.Core.AtRest;

namespace WideKeel.Sources;

/// <summary>A file that lies in the open under its own name, or encrypted under that name with an ending more.</summary>
/// <param name="Path">Of the file in the open.</param>
/// <param name="Name">What its content is encrypted as; see <see cref="SegmentedCipher"/>.</param>
public readonly record struct AtRestFile(string Path, string Name)
{
    public const string Ending = ".enc";

    public string EncryptedPath => Path + Ending;

    public bool IsEncrypted => File.Exists(EncryptedPath);

    public bool Exists => File.Exists(Path) || IsEncrypted;

    /// <summary>Its content, whichever way it lies; null where it does not.</summary>
    /// <exception cref="UnreadableAtRestException">It is encrypted, and is not what was encrypted with these keys.</exception>
    public Stream? Open(RestKeys? keys)
    {
        try
        {
            return IsEncrypted
                ? (keys ?? throw NoKeys()).Decrypt(Name, File.OpenRead(EncryptedPath))
                : File.OpenRead(Path);
        }
        // Encrypted or removed between the two looks; a second look finds which.
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            return IsEncrypted ? (keys ?? throw NoKeys()).Decrypt(Name, File.OpenRead(EncryptedPath)) : null;
        }
    }

    /// <summary>
    /// Encrypts what lies in a file into this place: flushed under another name, then renamed. What lay here in the open goes
    /// afterwards, so that a stop leaves it there once at least.
    /// </summary>
    public async Task EncryptAsync(string from, RestKeys keys, CancellationToken cancel)
    {
        var partial = $"{EncryptedPath}.{Guid.NewGuid():N}.partial";
        try
        {
            await using (var plain = File.OpenRead(from))
            await using (var cipher = new FileStream(partial, FileMode.CreateNew, FileAccess.Write))
            {
                await keys.EncryptAsync(Name, plain, cipher, cancel);
                cipher.Flush(flushToDisk: true);
            }

            File.Move(partial, EncryptedPath, overwrite: true);
            Beneath.FlushFolder(System.IO.Path.GetDirectoryName(Path)!);
            File.Delete(Path);
        }
        finally
        {
            File.Delete(partial);
        }
    }

    /// <summary>Removes it, whichever way it lies.</summary>
    public void Delete()
    {
        if (Directory.Exists(System.IO.Path.GetDirectoryName(Path)))
        {
            File.Delete(Path);
            File.Delete(EncryptedPath);
        }
    }

    private static UnreadableAtRestException NoKeys() => new("It is encrypted, and no keys are there.");
}
