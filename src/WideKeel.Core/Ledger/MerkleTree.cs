using System.Security.Cryptography;

namespace WideKeel.Core.Ledger;

/// <summary>The Merkle tree of RFC 6962 §2.1 (unchanged in RFC 9162 §2.1) over SHA-256. Hashes are 32 bytes.</summary>
public static class MerkleTree
{
    public const int HashSize = SHA256.HashSizeInBytes;

    /// <summary>MTH({}) = SHA-256 of the empty string.</summary>
    public static byte[] EmptyRoot { get; } = SHA256.HashData([]);

    /// <summary>SHA-256(0x00 ‖ entry), RFC 6962 §2.1.</summary>
    public static byte[] LeafHash(ReadOnlySpan<byte> entry)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        hash.AppendData([0x00]);
        hash.AppendData(entry);
        return hash.GetHashAndReset();
    }

    /// <summary>SHA-256(0x01 ‖ left ‖ right), RFC 6962 §2.1.</summary>
    public static byte[] NodeHash(ReadOnlySpan<byte> left, ReadOnlySpan<byte> right)
    {
        Span<byte> bytes = stackalloc byte[1 + (2 * HashSize)];
        bytes[0] = 0x01;
        left.CopyTo(bytes[1..]);
        right.CopyTo(bytes[(1 + HashSize)..]);
        return SHA256.HashData(bytes);
    }

    public static byte[] Root(ReadOnlySpan<byte[]> leaves)
    {
        var range = new CompactRange();
        foreach (var leaf in leaves)
        {
            range.Append(leaf);
        }

        return range.Root();
    }

    /// <summary>PATH(m, D[n]) of RFC 6962 §2.1.1: the sibling hashes from the leaf upwards.</summary>
    /// <param name="index">0 ≤ index &lt; leaves.Length.</param>
    public static IReadOnlyList<byte[]> InclusionProof(ReadOnlySpan<byte[]> leaves, int index)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(index);
        ArgumentOutOfRangeException.ThrowIfGreaterThanOrEqual(index, leaves.Length);
        List<byte[]> proof = [];
        while (leaves.Length > 1)
        {
            var split = SplitPoint(leaves.Length);
            if (index < split)
            {
                proof.Add(Root(leaves[split..]));
                leaves = leaves[..split];
            }
            else
            {
                proof.Add(Root(leaves[..split]));
                leaves = leaves[split..];
                index -= split;
            }
        }

        proof.Reverse();
        return proof;
    }

    /// <summary>PROOF(m, D[n]) of RFC 6962 §2.1.2; empty when the two sizes are equal.</summary>
    /// <param name="leaves">All n leaves of the newer tree.</param>
    /// <param name="olderSize">m, 1 ≤ m ≤ n.</param>
    public static IReadOnlyList<byte[]> ConsistencyProof(ReadOnlySpan<byte[]> leaves, int olderSize)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(olderSize, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(olderSize, leaves.Length);
        List<byte[]> proof = [];
        var wholeSubtree = true;
        while (olderSize != leaves.Length)
        {
            var split = SplitPoint(leaves.Length);
            if (olderSize <= split)
            {
                proof.Add(Root(leaves[split..]));
                leaves = leaves[..split];
            }
            else
            {
                proof.Add(Root(leaves[..split]));
                leaves = leaves[split..];
                olderSize -= split;
                wholeSubtree = false;
            }
        }

        if (!wholeSubtree)
        {
            proof.Add(Root(leaves));
        }

        proof.Reverse();
        return proof;
    }

    /// <summary>RFC 9162 §2.1.3.2.</summary>
    public static bool VerifyInclusion(byte[] leafHash, long index, long treeSize, IReadOnlyList<byte[]> proof, byte[] root)
    {
        if (index < 0 || index >= treeSize)
        {
            return false;
        }

        var (fn, sn, r) = (index, treeSize - 1, leafHash);
        foreach (var p in proof)
        {
            if (sn == 0)
            {
                return false;
            }

            if ((fn & 1) == 1 || fn == sn)
            {
                r = NodeHash(p, r);
                while ((fn & 1) == 0 && fn != 0)
                {
                    fn >>= 1;
                    sn >>= 1;
                }
            }
            else
            {
                r = NodeHash(r, p);
            }

            fn >>= 1;
            sn >>= 1;
        }

        return sn == 0 && r.AsSpan().SequenceEqual(root);
    }

    /// <summary>RFC 9162 §2.1.4.2.</summary>
    public static bool VerifyConsistency(long olderSize, byte[] olderRoot, long newerSize, byte[] newerRoot, IReadOnlyList<byte[]> proof)
    {
        if (olderSize < 1 || olderSize > newerSize)
        {
            return false;
        }

        if (olderSize == newerSize)
        {
            return proof.Count == 0 && olderRoot.AsSpan().SequenceEqual(newerRoot);
        }

        List<byte[]> path = [.. proof];
        if ((olderSize & (olderSize - 1)) == 0)
        {
            path.Insert(0, olderRoot);
        }

        if (path.Count == 0)
        {
            return false;
        }

        var (fn, sn) = (olderSize - 1, newerSize - 1);
        while ((fn & 1) == 1)
        {
            fn >>= 1;
            sn >>= 1;
        }

        var (fr, sr) = (path[0], path[0]);
        foreach (var c in path.Skip(1))
        {
            if (sn == 0)
            {
                return false;
            }

            if ((fn & 1) == 1 || fn == sn)
            {
                fr = NodeHash(c, fr);
                sr = NodeHash(c, sr);
                while ((fn & 1) == 0 && fn != 0)
                {
                    fn >>= 1;
                    sn >>= 1;
                }
            }
            else
            {
                sr = NodeHash(sr, c);
            }

            fn >>= 1;
            sn >>= 1;
        }

        return sn == 0 && fr.AsSpan().SequenceEqual(olderRoot) && sr.AsSpan().SequenceEqual(newerRoot);
    }

    /// <summary>The largest power of two smaller than n (RFC 6962 §2.1: k &lt; n ≤ 2k).</summary>
    private static int SplitPoint(int n) => 1 << (31 - int.LeadingZeroCount(n - 1));
}

/// <summary>
/// The roots of the perfect subtrees of a growing tree, largest first: enough to append a leaf and to give the root in O(log n),
/// without the leaves.
/// </summary>
public sealed class CompactRange
{
    private readonly List<byte[]> peaks = [];

    public long Size { get; private set; }

    public void Append(byte[] leafHash)
    {
        var carry = leafHash;
        for (var size = Size; (size & 1) == 1; size >>= 1)
        {
            carry = MerkleTree.NodeHash(peaks[^1], carry);
            peaks.RemoveAt(peaks.Count - 1);
        }

        peaks.Add(carry);
        Size++;
    }

    public byte[] Root()
    {
        if (peaks.Count == 0)
        {
            return MerkleTree.EmptyRoot;
        }

        var root = peaks[^1];
        for (var i = peaks.Count - 2; i >= 0; i--)
        {
            root = MerkleTree.NodeHash(peaks[i], root);
        }

        return root;
    }
}
