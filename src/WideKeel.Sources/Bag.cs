using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using WideKeel.Core.Ledger;

namespace WideKeel.Sources;

/// <summary>
/// A bag by RFC 8493, version 1.0, with SHA-256 manifests: filled file by file, closed once, verified from what lies on
/// disk. Filling and closing can be done again after a stop anywhere; a file that is there whole stays.
/// </summary>
public sealed class Bag(string folder)
{
    private const string Manifest = "manifest-sha256.txt";
    private const string TagManifest = "tagmanifest-sha256.txt";

    public string Folder => folder;

    /// <summary>
    /// Copies content in and returns the SHA-256 of what lies in the bag, lower-case hex. It appears under its name
    /// only when it is whole.
    /// </summary>
    /// <param name="name">Path beneath <c>data/</c>, with forward slashes.</param>
    public async Task<string> PutAsync(string name, Stream source, CancellationToken cancel)
    {
        var place = PlaceOf(name);
        Directory.CreateDirectory(Path.GetDirectoryName(place)!);
        var partial = Partial.Of(place);
        try
        {
            using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
            await using (
                var target = new FileStream(partial, FileMode.Create, FileAccess.Write, FileShare.None, 1 << 17)
            )
            {
                var buffer = new byte[1 << 17];
                int read;
                while ((read = await source.ReadAsync(buffer, cancel)) > 0)
                {
                    hash.AppendData(buffer, 0, read);
                    await target.WriteAsync(buffer.AsMemory(0, read), cancel);
                }

                target.Flush(flushToDisk: true);
            }

            File.Move(partial, place, overwrite: true);
            return Convert.ToHexStringLower(hash.GetHashAndReset());
        }
        catch
        {
            // What could not be read to its end must not lie in the bag: it would be in no manifest, and the bag not
            // valid.
            File.Delete(partial);
            throw;
        }
    }

    /// <summary>What was put in. Throws <see cref="IOException"/> when it is not there.</summary>
    /// <param name="name">Path beneath <c>data/</c>.</param>
    public Stream Open(string name) => File.OpenRead(PlaceOf(name));

    /// <summary>
    /// Takes out what was put in and is not to be handed over after all, or what a run that was cut off had begun to
    /// put in.
    /// </summary>
    public void Remove(string name)
    {
        var place = PlaceOf(name);
        if (Directory.Exists(Path.GetDirectoryName(place)))
        {
            File.Delete(place);
            File.Delete(Partial.Of(place));
        }
    }

    /// <summary>
    /// Writes the tag files and both manifests. Returns the SHA-256 of the tag manifest, which vouches for all of it.
    /// </summary>
    /// <param name="payload">Names with their hashes, as <see cref="PutAsync"/> gave them.</param>
    /// <param name="about">Lines of <c>bag-info.txt</c>, in their order.</param>
    /// <param name="tags">Further tag files: path beneath the bag → content.</param>
    public string Close(
        IReadOnlyList<(string Name, string Hash)> payload,
        IReadOnlyList<(string Label, string Value)> about,
        IReadOnlyDictionary<string, string> tags
    )
    {
        var bytes = payload.Sum(p => new FileInfo(PlaceOf(p.Name)).Length);
        Dictionary<string, string> files = new(tags)
        {
            ["bagit.txt"] = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n",
            ["bag-info.txt"] = string.Concat(
                about
                    .Append(("Payload-Oxum", string.Create(CultureInfo.InvariantCulture, $"{bytes}.{payload.Count}")))
                    .Select(l => $"{l.Item1}: {OneLine(l.Item2)}\n")
            ),
            [Manifest] = string.Concat(
                payload.OrderBy(p => p.Name, StringComparer.Ordinal).Select(p => $"{p.Hash}  data/{Escape(p.Name)}\n")
            ),
        };
        Directory.CreateDirectory(Path.Combine(folder, "data"));
        foreach (var (name, content) in files)
        {
            var file = Path.Combine(folder, name);
            Directory.CreateDirectory(Path.GetDirectoryName(file)!);
            File.WriteAllText(file, content, new UTF8Encoding(false));
        }

        var manifest = string.Concat(
            files
                .OrderBy(f => f.Key, StringComparer.Ordinal)
                .Select(f => $"{ContentHash.Of(f.Value)}  {Escape(f.Key)}\n")
        );
        File.WriteAllText(Path.Combine(folder, TagManifest), manifest, new UTF8Encoding(false));
        return ContentHash.Of(manifest);
    }

    /// <summary>
    /// Reads everything again from disk. Null when the bag is complete and valid (RFC 8493 section 3); otherwise the
    /// first thing that is wrong.
    /// </summary>
    public async Task<string?> VerifyAsync(CancellationToken cancel)
    {
        foreach (var (manifest, within) in new[] { (TagManifest, ""), (Manifest, "data") })
        {
            var file = Path.Combine(folder, manifest);
            if (!File.Exists(file))
            {
                return $"{manifest} is missing.";
            }

            HashSet<string> listed = [];
            foreach (var (name, hash) in await ListedAsync(manifest, cancel))
            {
                listed.Add(name);
                var place = Path.Combine(folder, name);
                if (!File.Exists(place))
                {
                    return $"{name} is missing.";
                }

                await using var stream = File.OpenRead(place);
                if (Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel)) != hash)
                {
                    return $"{name} is not what the manifest says.";
                }
            }

            if (
                within.Length > 0
                && Directory.Exists(Path.Combine(folder, within))
                && Directory
                    .EnumerateFiles(Path.Combine(folder, within), "*", SearchOption.AllDirectories)
                    .Select(f => Path.GetRelativePath(folder, f).Replace('\\', '/'))
                    .FirstOrDefault(f => !listed.Contains(f))
                    is { } stray
            )
            {
                return $"{stray} is in no manifest.";
            }
        }

        return null;
    }

    /// <summary>
    /// What the bag was closed over: names beneath <c>data/</c> with their hashes; nothing where it never was.
    /// </summary>
    public async Task<IReadOnlyDictionary<string, string>> PayloadAsync(CancellationToken cancel) =>
        File.Exists(Path.Combine(folder, Manifest))
            ? (await ListedAsync(Manifest, cancel)).ToDictionary(l => l.Name["data/".Length..], l => l.Hash)
            : new Dictionary<string, string>();

    private async Task<IEnumerable<(string Name, string Hash)>> ListedAsync(
        string manifest,
        CancellationToken cancel
    ) =>
        (await File.ReadAllLinesAsync(Path.Combine(folder, manifest), cancel)).Select(l =>
            (Unescape(l[66..]), l[..64])
        );

    public void Delete()
    {
        if (Directory.Exists(folder))
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    private string PlaceOf(string name)
    {
        var data = Path.GetFullPath(Path.Combine(folder, "data"));
        var place = Path.GetFullPath(Path.Combine(data, name));
        return place.StartsWith(data + Path.DirectorySeparatorChar, StringComparison.Ordinal)
            ? place
            : throw new ArgumentException($"“{name}” does not lie within the bag.", nameof(name));
    }

    /// <summary>RFC 8493 section 2.1.3: line ends and the percent sign are percent-encoded, nothing else.</summary>
    private static string Escape(string name) =>
        name.Replace("%", "%25", StringComparison.Ordinal)
            .Replace("\n", "%0A", StringComparison.Ordinal)
            .Replace("\r", "%0D", StringComparison.Ordinal);

    private static string Unescape(string name) =>
        name.Replace("%0A", "\n", StringComparison.OrdinalIgnoreCase)
            .Replace("%0D", "\r", StringComparison.OrdinalIgnoreCase)
            .Replace("%25", "%", StringComparison.Ordinal);

    private static string OneLine(string value) => value.ReplaceLineEndings(" ");
}
