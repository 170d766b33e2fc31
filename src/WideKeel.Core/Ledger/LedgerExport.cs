using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WideKeel.Core.Ledger;

/// <summary>A range of the ledger with its proofs, as a file: what it is, and whether it holds.</summary>
public static class LedgerExport
{
    public const string Format = "widekeel-ledger/1";

    /// <summary>
    /// Recomputes an export: the head's signature, and for each entry its hash and its proof of inclusion (RFC 6962).
    /// An entry of which only the hash is given proves its place and is counted as withheld.
    /// </summary>
    /// <returns>How many entries and how many withheld; or what is wrong, with the entry's number.</returns>
    public static Outcome<(int Entries, int Withheld, long Size)> Verify(string json)
    {
        try
        {
            var export = JsonNode.Parse(json) as JsonObject;
            if ((string?)export?["format"] != Format)
            {
                return new Refusal(
                    "not-an-export",
                    "format",
                    $"This is no export of a ledger: its format is not {Format}."
                );
            }

            var head = HeadOf(export!);
            if (head.Refusal is { } unsigned)
            {
                return unsigned;
            }

            var (count, withheld) = (0, 0);
            foreach (var entry in export!["entries"]!.AsArray())
            {
                if (Check(entry!, count, head.Value) is { } wrong)
                {
                    return wrong;
                }

                count++;
                withheld += entry!["body"] is null ? 1 : 0;
            }

            return (count, withheld, head.Value.Size);
        }
        catch (Exception e)
            when (e
                    is JsonException
                        or FormatException
                        or InvalidOperationException
                        or NullReferenceException
                        or ArgumentException
                        or CryptographicException
            )
        {
            return new Refusal("export-malformed", null, $"The export cannot be read: {e.Message}");
        }
    }

    private static Outcome<TreeHead> HeadOf(JsonObject export)
    {
        if (TreeHead.FromLine(export["head"]!.ToJsonString()) is not { } head)
        {
            return new Refusal("head-malformed", "head", "The head cannot be read.");
        }

        using var key = ECDsa.Create();
        key.ImportFromPem((string)export["publicKey"]!);
        return head.IsSignedBy(key)
            ? head
            : new Refusal("head-not-signed", "head", "The head was not signed by the key of this export.");
    }

    private static Refusal? Check(JsonNode entry, int index, TreeHead head)
    {
        var sequence = (long)entry["seq"]!;
        var body = (string?)entry["body"];
        if (body is not null && (long?)JsonNode.Parse(body)?["seq"] != sequence)
        {
            return new("entry-misnumbered", $"entries[{index}]", $"Entry {sequence} does not carry its own number.");
        }

        var leaf = body is null
            ? Convert.FromHexString((string)entry["leaf"]!)
            : MerkleTree.LeafHash(Encoding.UTF8.GetBytes(body));
        var proof = entry["inclusion"]!.AsArray().Select(h => Convert.FromHexString((string)h!)).ToList();
        return MerkleTree.VerifyInclusion(leaf, sequence - 1, head.Size, proof, head.Root)
            ? null
            : new(
                "entry-not-included",
                $"entries[{index}]",
                $"Entry {sequence} is not what the ledger holds: its proof does not lead to the head."
            );
    }
}
