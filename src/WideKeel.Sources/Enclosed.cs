using System.IO.Compression;
using System.Security.Cryptography;

namespace WideKeel.Sources;

/// <summary>What lies within files: the attachments of messages and the files of archives, however deep.</summary>
public static class Enclosed
{
    /// <summary>How deep files are looked into that lie in files.</summary>
    private const int MaxDepth = 10;

    /// <summary>
    /// SHA-256 of what lies within a file, in lower-case hex; nothing where it is neither message nor archive. What an
    /// archive encrypts or unpacks to beyond <see cref="TextExtraction.MaxUnpackedBytes"/> is passed over.
    /// </summary>
    /// <param name="name">Its ending says what it is.</param>
    public static IEnumerable<string> HashesIn(string name, byte[] content) => HashesIn(name, content, 0);

    /// <summary>The same of an archive as it lies on disk.</summary>
    public static IEnumerable<string> HashesIn(Stream archive) => Hashes(Unpacked(archive), 0);

    private static IEnumerable<string> HashesIn(string name, byte[] content, int depth) =>
        Hashes(
            depth >= MaxDepth ? []
                : name.EndsWith(".eml", StringComparison.OrdinalIgnoreCase)
                    ? MailParts.Read(new MemoryStream(content))?.Attachments.Select(a => (a.Name, a.Content)) ?? []
                : name.EndsWith(".zip", StringComparison.OrdinalIgnoreCase) ? Unpacked(new MemoryStream(content))
                : [],
            depth
        );

    private static IEnumerable<string> Hashes(IEnumerable<(string Name, byte[] Content)> parts, int depth)
    {
        foreach (var (inner, bytes) in parts)
        {
            yield return Convert.ToHexStringLower(SHA256.HashData(bytes));
            foreach (var deeper in HashesIn(inner, bytes, depth + 1))
            {
                yield return deeper;
            }
        }
    }

    private static IEnumerable<(string Name, byte[] Content)> Unpacked(Stream archive)
    {
        ZipArchive zip;
        try
        {
            zip = new ZipArchive(archive, ZipArchiveMode.Read, leaveOpen: true);
        }
        catch (InvalidDataException)
        {
            yield break;
        }

        using (zip)
        {
            var left = TextExtraction.MaxUnpackedBytes;
            foreach (var entry in zip.Entries.Where(e => e.Name.Length > 0 && !e.IsEncrypted))
            {
                if (Bytes(entry, left) is { } content)
                {
                    left -= content.Length;
                    yield return (entry.Name, content);
                }
            }
        }
    }

    /// <summary>Null where an entry is damaged, or unpacks to more than is left, whatever size it declares.</summary>
    private static byte[]? Bytes(ZipArchiveEntry entry, long most)
    {
        try
        {
            using var content = entry.Open();
            using var memory = new MemoryStream();
            var buffer = new byte[81_920];
            int read;
            while ((read = content.Read(buffer)) > 0)
            {
                if (memory.Length + read > most)
                {
                    return null;
                }

                memory.Write(buffer, 0, read);
            }

            return memory.ToArray();
        }
        catch (InvalidDataException)
        {
            return null;
        }
    }
}
