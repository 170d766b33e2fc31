using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WideKeel.Core.Ledger;

/// <summary>Entry 1 of every ledger: it names the key that signs the heads, so that no other can take its place.</summary>
public static class LedgerBeginning
{
    public const string Verb = "ledger-begun";

    /// <summary>SHA-256 of the public key (SubjectPublicKeyInfo, DER), lower-case hex.</summary>
    public static string Fingerprint(ECDsa key) =>
        Convert.ToHexStringLower(SHA256.HashData(key.ExportSubjectPublicKeyInfo()));

    /// <summary>What entry 1 says of the key.</summary>
    public static JsonObject After(ECDsa key) => new() { ["algorithm"] = "ECDSA P-256", ["key"] = Fingerprint(key) };

    /// <summary>The fingerprint that an entry's body names; null where it is not the beginning of a ledger.</summary>
    public static string? KeyOf(string body) =>
        Part(
            body,
            e =>
                e.GetProperty("verb").GetString() == Verb ? e.GetProperty("after").GetProperty("key").GetString() : null
        );

    /// <summary>When an entry was written, as it says itself.</summary>
    public static string? MomentOf(string body) => Part(body, e => e.GetProperty("at").GetString());

    private static string? Part(string body, Func<JsonElement, string?> read)
    {
        try
        {
            using var document = JsonDocument.Parse(body);
            return read(document.RootElement);
        }
        catch (Exception e) when (e is JsonException or KeyNotFoundException or InvalidOperationException)
        {
            return null;
        }
    }
}
