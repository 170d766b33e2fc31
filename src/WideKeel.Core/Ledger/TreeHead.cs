using System.Security.Cryptography;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Core.Ledger;

/// <summary>
/// The size and root of the ledger's tree at a moment, signed with ECDSA P-256 over SHA-256 of its canonical JSON.
/// </summary>
/// <param name="Size">Number of entries covered.</param>
/// <param name="Root">32 bytes.</param>
/// <param name="Signature">IEEE P1363 form (r ‖ s), 64 bytes.</param>
public sealed record TreeHead(long Size, byte[] Root, Instant At, byte[] Signature)
{
    public static TreeHead Sign(long size, byte[] root, Instant at, ECDsa key) =>
        new(size, root, at, key.SignData(SignedBytes(size, root, at), HashAlgorithmName.SHA256));

    public bool IsSignedBy(ECDsa key) =>
        key.VerifyData(SignedBytes(Size, Root, At), Signature, HashAlgorithmName.SHA256);

    /// <summary>One line of the heads file.</summary>
    public string ToLine()
    {
        var head = Body(Size, Root, At);
        head["signature"] = Convert.ToBase64String(Signature);
        return CanonicalJson.Text(head);
    }

    /// <summary>Reads a line that <see cref="ToLine"/> wrote; null when it is not one.</summary>
    public static TreeHead? FromLine(string line)
    {
        try
        {
            var head = JsonNode.Parse(line) as JsonObject;
            return head is null
                ? null
                : new TreeHead(
                    (long)head["size"]!,
                    Convert.FromHexString((string)head["root"]!),
                    InstantPattern.ExtendedIso.Parse((string)head["at"]!).Value,
                    Convert.FromBase64String((string)head["signature"]!)
                );
        }
        catch (Exception e)
            when (e
                    is System.Text.Json.JsonException
                        or FormatException
                        or InvalidOperationException
                        or NullReferenceException
                        or ArgumentException
                        or UnparsableValueException
            )
        {
            return null;
        }
    }

    private static byte[] SignedBytes(long size, byte[] root, Instant at) =>
        CanonicalJson.Serialize(Body(size, root, at));

    private static JsonObject Body(long size, byte[] root, Instant at) =>
        new()
        {
            ["size"] = size,
            ["root"] = Convert.ToHexStringLower(root),
            ["at"] = InstantPattern.ExtendedIso.Format(at),
        };
}
