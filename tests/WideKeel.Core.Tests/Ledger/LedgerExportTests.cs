using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using NodaTime;
using Shouldly;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.Tests.Ledger;

public sealed class LedgerExportTests : IDisposable
{
    private readonly ECDsa key = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    [Fact]
    public void A_true_export_holds_with_entries_of_which_only_the_hash_is_given() =>
        LedgerExport.Verify(Export(withheld: 3)).Value.ShouldBe((5, 1, 9L));

    [Fact]
    public void A_changed_entry_a_foreign_head_and_a_wrong_number_are_named()
    {
        var changed = JsonNode.Parse(Export())!;
        changed["entries"]![2]!["body"] = ((string)changed["entries"]![2]!["body"]!).Replace(
            "entry 4",
            "entry X",
            StringComparison.Ordinal
        );
        LedgerExport.Verify(changed.ToJsonString()).Refusal!.Sentence.ShouldStartWith("Entry 4 ");

        var headed = JsonNode.Parse(Export())!;
        headed["head"]!["size"] = 8;
        LedgerExport.Verify(headed.ToJsonString()).Refusal!.Code.ShouldBe("head-not-signed");

        var swapped = JsonNode.Parse(Export())!;
        (swapped["entries"]![0]!["seq"], swapped["entries"]![1]!["seq"]) = (3, 2);
        LedgerExport.Verify(swapped.ToJsonString()).Refusal!.Code.ShouldBe("entry-misnumbered");
        foreach (var rubbish in new[] { "", "{}", "[1]", "{\"format\":\"widekeel-ledger/1\"}", "not json" })
        {
            LedgerExport.Verify(rubbish).Refused.ShouldBeTrue();
        }
    }

    public void Dispose() => key.Dispose();

    /// <summary>Entries 2 to 6 of a ledger of nine.</summary>
    private string Export(int withheld = 0)
    {
        var bodies = Enumerable.Range(1, 9).Select(i => $"{{\"seq\":{i},\"verb\":\"entry {i}\"}}").ToList();
        var leaves = bodies.Select(b => MerkleTree.LeafHash(Encoding.UTF8.GetBytes(b))).ToArray();
        var prover = new MerkleProver(leaves);
        return new JsonObject
        {
            ["format"] = LedgerExport.Format,
            ["head"] = JsonNode.Parse(
                TreeHead.Sign(9, prover.Root(), Instant.FromUtc(2026, 6, 15, 8, 0), key).ToLine()
            ),
            ["publicKey"] = key.ExportSubjectPublicKeyInfoPem(),
            ["entries"] = new JsonArray([
                .. Enumerable
                    .Range(2, 5)
                    .Select(i =>
                    {
                        var entry = new JsonObject
                        {
                            ["seq"] = i,
                            ["inclusion"] = new JsonArray([
                                .. prover.InclusionProof(i - 1).Select(h => (JsonNode)Convert.ToHexStringLower(h)),
                            ]),
                        };
                        entry[i == withheld ? "leaf" : "body"] =
                            i == withheld ? Convert.ToHexStringLower(leaves[i - 1]) : bodies[i - 1];
                        return (JsonNode)entry;
                    }),
            ]),
        }.ToJsonString();
    }
}
