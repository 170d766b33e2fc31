using System.Security.Cryptography;
using System.Text.Json;
using CsCheck;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.Tests.Ledger;

/// <summary>
/// Constants: the reference implementation's tests of RFC 6962, in Debian package
/// golang-github-google-certificate-transparency-dev (Apache-2.0), merkle_tree_test.cc.
/// </summary>
public class MerkleTreeTests
{
    private static readonly string[] Inputs =
    [
        "",
        "00",
        "10",
        "2021",
        "3031",
        "40414243",
        "5051525354555657",
        "606162636465666768696a6b6c6d6e6f",
    ];

    private static readonly string[] Roots =
    [
        "6e340b9cffb37a989ca544e6bb780a2c78901d3fb33738768511a30617afa01d",
        "fac54203e7cc696cf0dfcb42c92a1d9dbaf70ad9e621f4bd8d98662f00e3c125",
        "aeb6bcfe274b70a14fb067a5e5578264db0fa9b51af5e0ba159158f329e06e77",
        "d37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7",
        "4e3bbb1f7b478dcfe71fb631631519a3bca12c9aefca1612bfce4c13a86264d4",
        "76e67dadbcdf1e10e1b74ddc608abd2f98dfb16fbce75277b5232a127f2087ef",
        "ddb89be403809e325750d3d263cd78929c2942b7942a34b77e122c9594a74c8c",
        "5dc9da79a70659a9ad559cb701ded9a2ab9d823aad2f4960cfe370eff4604328",
    ];

    private static byte[][] Leaves => [.. Inputs.Select(i => MerkleTree.LeafHash(Convert.FromHexString(i)))];

    [Fact]
    public void SHA_256_gives_the_digests_of_NIST()
    {
        // NIST messages with digests, in npm hash-test-vectors 1.3.2 (MIT): message in base 64.
        var lines = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "sha256.jsonl"));
        lines.Length.ShouldBe(196);
        foreach (var line in lines)
        {
            using var vector = JsonDocument.Parse(line);
            Convert
                .ToHexStringLower(SHA256.HashData(vector.RootElement.GetProperty("input").GetBytesFromBase64()))
                .ShouldBe(vector.RootElement.GetProperty("sha256").GetString());
        }
    }

    [Fact]
    public void Roots_of_one_to_eight_entries_are_those_of_the_reference()
    {
        for (var size = 1; size <= 8; size++)
        {
            Hex(new MerkleProver(Leaves[..size]).Root()).ShouldBe(Roots[size - 1]);
            var range = new CompactRange();
            Leaves[..size].ToList().ForEach(range.Append);
            Hex(range.Root()).ShouldBe(Roots[size - 1]);
        }

        Hex(new MerkleProver([]).Root()).ShouldBe("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
    }

    [Theory]
    [InlineData(
        1,
        8,
        new[]
        {
            "96a296d224f285c67bee93c30f8a309157f0daa35dc5b87e410b78630a09cfc7",
            "5f083f0a1a33ca076a95279832580db3e0ef4584bdff1f54c8a360f50de3031e",
            "6b47aaf29ee3c2af9af889bc1fb9254dabd31177f16232dd6aab035ca39bf6e4",
        }
    )]
    [InlineData(
        6,
        8,
        new[]
        {
            "bc1a0643b12e4d2d7c77918f44e0f4f79a838b6cf9ec5b5c283e1f4d88599e6b",
            "ca854ea128ed050b41b35ffc1b87b8eb2bde461e9e3b5596ece6b9d5975a0ae0",
            "d37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7",
        }
    )]
    [InlineData(3, 3, new[] { "fac54203e7cc696cf0dfcb42c92a1d9dbaf70ad9e621f4bd8d98662f00e3c125" })]
    [InlineData(
        2,
        5,
        new[]
        {
            "6e340b9cffb37a989ca544e6bb780a2c78901d3fb33738768511a30617afa01d",
            "5f083f0a1a33ca076a95279832580db3e0ef4584bdff1f54c8a360f50de3031e",
            "bc1a0643b12e4d2d7c77918f44e0f4f79a838b6cf9ec5b5c283e1f4d88599e6b",
        }
    )]
    public void Inclusion_proofs_are_those_of_the_reference(int leaf, int size, string[] path)
    {
        var prover = new MerkleProver(Leaves[..size]);
        prover.InclusionProof(leaf - 1).Select(Hex).ShouldBe(path);
    }

    [Theory]
    [InlineData(1, 1, new string[0])]
    [InlineData(
        1,
        8,
        new[]
        {
            "96a296d224f285c67bee93c30f8a309157f0daa35dc5b87e410b78630a09cfc7",
            "5f083f0a1a33ca076a95279832580db3e0ef4584bdff1f54c8a360f50de3031e",
            "6b47aaf29ee3c2af9af889bc1fb9254dabd31177f16232dd6aab035ca39bf6e4",
        }
    )]
    [InlineData(
        6,
        8,
        new[]
        {
            "0ebc5d3437fbe2db158b9f126a1d118e308181031d0a949f8dededebc558ef6a",
            "ca854ea128ed050b41b35ffc1b87b8eb2bde461e9e3b5596ece6b9d5975a0ae0",
            "d37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7",
        }
    )]
    [InlineData(
        2,
        5,
        new[]
        {
            "5f083f0a1a33ca076a95279832580db3e0ef4584bdff1f54c8a360f50de3031e",
            "bc1a0643b12e4d2d7c77918f44e0f4f79a838b6cf9ec5b5c283e1f4d88599e6b",
        }
    )]
    public void Consistency_proofs_are_those_of_the_reference(int older, int newer, string[] proof) =>
        new MerkleProver(Leaves[..newer]).ConsistencyProof(older).Select(Hex).ShouldBe(proof);

    [Fact]
    public void Every_proof_verifies_and_none_for_another_leaf_or_root() =>
        Gen.Select(Gen.Int[1, 70], Gen.Int[0, 69], Gen.Int[1, 70])
            .Sample(
                (size, at, older) =>
                {
                    var leaves = Enumerable.Range(0, size).Select(i => MerkleTree.LeafHash([(byte)i])).ToArray();
                    var (index, before) = (at % size, ((older - 1) % size) + 1);
                    var prover = new MerkleProver(leaves);
                    var (root, olderRoot) = (prover.Root(), new MerkleProver(leaves[..before]).Root());
                    var inclusion = prover.InclusionProof(index);
                    var consistency = prover.ConsistencyProof(before);
                    var foreign = MerkleTree.LeafHash([255, 255]);
                    MerkleTree.VerifyInclusion(leaves[index], index, size, inclusion, root).ShouldBeTrue();
                    MerkleTree.VerifyInclusion(foreign, index, size, inclusion, root).ShouldBeFalse();
                    MerkleTree.VerifyInclusion(leaves[index], index, size, inclusion, foreign).ShouldBeFalse();
                    MerkleTree.VerifyConsistency(before, olderRoot, size, root, consistency).ShouldBeTrue();
                    MerkleTree.VerifyConsistency(before, foreign, size, root, consistency).ShouldBeFalse();
                }
            );

    private static string Hex(byte[] hash) => Convert.ToHexStringLower(hash);
}
