using System.Security.Cryptography;
using System.Text;
using NodaTime;
using WideKeel.Core.AtRest;
using WideKeel.Sources;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// The sealed files of an archive, encrypted where there are keys. The engine reads files in the open only, so what is
/// encrypted is decrypted into a folder of its own for as long as it is read.
/// </summary>
/// <param name="folder">Of the archive.</param>
/// <param name="openFolder">Where decrypted files lie while they are read; in memory, where the machine has such a folder.</param>
public sealed class ArchiveFiles(string folder, string openFolder, RestKeyring keyring) : ISegmentFiles
{
    private const string Ending = ".parquet";
    private const UnixFileMode OwnerOnly = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;

    public string Folder => folder;

    /// <summary>Where decrypted files lie while they are read.</summary>
    public string OpenFolder => openFolder;

    /// <summary>Where the rows lie that one statement reads, for as long as it runs: never in the open where the archive is not.</summary>
    public string StatementFolder =>
        Path.Combine(
            keyring.Keys is null ? Path.GetDirectoryName(Path.GetFullPath(folder))! : openFolder,
            "statements"
        );

    /// <summary>A folder in memory for what is decrypted of an archive; on disk where the machine has none.</summary>
    public static string OpenFolderFor(string folder)
    {
        var hash = SHA256.HashData(Encoding.UTF8.GetBytes(Path.GetFullPath(folder)));
        return Path.Combine(
            Directory.Exists("/dev/shm") ? "/dev/shm" : Path.GetTempPath(),
            $"wide-keel-{Convert.ToHexStringLower(hash)[..16]}"
        );
    }

    /// <summary>Removes what a process that was killed had decrypted, and what it had not finished to encrypt.</summary>
    public void Tidy()
    {
        if (Directory.Exists(openFolder))
        {
            Directory.Delete(openFolder, recursive: true);
        }

        if (Directory.Exists(StatementFolder))
        {
            Directory.Delete(StatementFolder, recursive: true);
        }

        if (Directory.Exists(folder))
        {
            foreach (var partial in Directory.EnumerateFiles(folder, "*.partial", SearchOption.AllDirectories))
            {
                File.Delete(partial);
            }
        }
    }

    /// <inheritdoc cref="SegmentFile.Write"/>
    public async Task<(byte[][] Leaves, string Hash, long Bytes)> WriteAsync(
        string channel,
        LocalDate day,
        int number,
        IReadOnlyList<StoredEvent> events,
        CancellationToken cancel
    )
    {
        var place = PlaceOf(channel, day, number);
        if (keyring.Keys is not { } keys)
        {
            return SegmentFile.Write(place.Path, events);
        }

        using var open = new OpenSegment(NewOpenFile(), isCopy: true);
        var written = SegmentFile.Write(open.Path, events);
        Directory.CreateDirectory(Path.GetDirectoryName(place.Path)!);
        await place.EncryptAsync(open.Path, keys, cancel);
        return written;
    }

    public bool Has(string channel, LocalDate day, int number) => PlaceOf(channel, day, number).Exists;

    public OpenSegment? Open(string channel, LocalDate day, int number)
    {
        var place = PlaceOf(channel, day, number);
        if (!place.IsEncrypted)
        {
            return File.Exists(place.Path) ? new(place.Path, isCopy: false) : null;
        }

        using var content = place.Open(keyring.Keys);
        if (content is null)
        {
            return null;
        }

        var open = new OpenSegment(NewOpenFile(), isCopy: true);
        try
        {
            using var copy = new FileStream(open.Path, FileMode.CreateNew, FileAccess.Write);
            content.CopyTo(copy, 1 << 20);
            return open;
        }
        catch
        {
            open.Dispose();
            throw;
        }
    }

    public void Delete(string channel, LocalDate day, int number) => PlaceOf(channel, day, number).Delete();

    public IEnumerable<(string Path, bool IsEncrypted)> All() =>
        Directory.Exists(folder)
            ? Directory
                .EnumerateFiles(folder, "*", SearchOption.AllDirectories)
                .Select(f => Path.GetRelativePath(folder, f))
                .Where(f =>
                    f.EndsWith(Ending, StringComparison.Ordinal)
                    || f.EndsWith(Ending + AtRestFile.Ending, StringComparison.Ordinal)
                )
                .Select(f =>
                    f.EndsWith(AtRestFile.Ending, StringComparison.Ordinal)
                        ? (f[..^AtRestFile.Ending.Length], true)
                        : (f, false)
                )
            : [];

    /// <summary>Encrypts a file that lies in the open.</summary>
    /// <param name="path">Within the archive.</param>
    public async Task EncryptAsync(string path, CancellationToken cancel)
    {
        var place = PlaceOf(path);
        if (keyring.Keys is { } keys && File.Exists(place.Path))
        {
            await place.EncryptAsync(place.Path, keys, cancel);
        }
    }

    /// <summary>Writes a file in the open elsewhere.</summary>
    /// <param name="path">Within the archive.</param>
    public void CopyOpen(string path, string to)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        using var content = PlaceOf(path).Open(keyring.Keys) ?? throw new FileNotFoundException(null, path);
        using var copy = File.Create(to);
        content.CopyTo(copy, 1 << 20);
    }

    private string NewOpenFile()
    {
        Directory.CreateDirectory(openFolder, OwnerOnly);
        return Path.Combine(openFolder, $"{Guid.NewGuid():N}{Ending}");
    }

    private AtRestFile PlaceOf(string channel, LocalDate day, int number) =>
        PlaceOf(Path.GetRelativePath(folder, SegmentFile.PathOf(folder, channel, day, number)));

    /// <summary>A file is encrypted under its place, so that one cannot be put in another's.</summary>
    private AtRestFile PlaceOf(string path) =>
        new(Path.Combine(folder, path), path.Replace(Path.DirectorySeparatorChar, '/'));
}
