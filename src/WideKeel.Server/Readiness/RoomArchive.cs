using System.Globalization;
using System.IO.Compression;
using System.Security.Cryptography;
using System.Text;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>
/// The room of an audit as a ZIP. <c>manifest-sha256.txt</c> names every other file with its SHA-256, as
/// <c>sha256sum -c</c> takes it; <c>exceptions.txt</c> names what should be there and is not.
/// </summary>
internal sealed class RoomArchive(ZipArchive zip)
{
    private readonly List<string> manifest = [];
    private readonly List<string> exceptions = [];

    public void Write(string name, string text)
    {
        var bytes = Encoding.UTF8.GetBytes(text);
        using (var entry = zip.CreateEntry(name).Open())
        {
            entry.Write(bytes);
        }

        manifest.Add($"{Convert.ToHexStringLower(SHA256.HashData(bytes))}  {name}");
    }

    /// <summary>
    /// A proof as it was offered: its facts, and its file where it has one and that is what was given.
    /// </summary>
    public void Write(AuditOffer offer, WideKeelOptions options)
    {
        var proof = AuditOffers.Of(offer).Proof;
        var name = string.Create(CultureInfo.InvariantCulture, $"proofs/{offer.ProofId}");
        Write($"{name}.json", offer.Frozen);
        if (proof.FileName.Length == 0)
        {
            return;
        }

        var file = $"{name}-{StoredFiles.Bare(proof.FileName)}";
        if (StoredFiles.Broken(proof.Hash, options) is { } why)
        {
            exceptions.Add($"{file}: {why}");
            return;
        }

        zip.CreateEntryFromFile(Path.Combine(options.EvidenceFolder, proof.Hash), file);
        manifest.Add($"{proof.Hash}  {file}");
    }

    public void Close()
    {
        if (exceptions.Count > 0)
        {
            Write("exceptions.txt", string.Join('\n', exceptions) + "\n");
        }

        using var entry = new StreamWriter(zip.CreateEntry("manifest-sha256.txt").Open());
        entry.Write(string.Join('\n', manifest) + "\n");
    }
}
