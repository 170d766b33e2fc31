using System.Buffers;
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
        // An entry is short, and copying it costs less than setting up a hash that is fed in parts.
        var bytes = ArrayPool<byte>.Shared.Rent(1 + entry.Length);
        bytes[0] = 0x00;
        entry.CopyTo(bytes.AsSpan(1));
        var hash = SHA256.HashData(bytes.AsSpan(0, 1 + entry.Length));
        ArrayPool<byte>.Shared.Return(bytes);
        return hash;
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

    /// <summary>RFC 9162 §2.1.3.2.</summary>
    public static bool VerifyInclusion(
        byte[] leafHash,
        long index,
        long treeSize,
        IReadOnlyList<byte[]> proof,
        byte[] root
    )
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
    /// <remarks>Long because it is the RFC's procedure step by step, so that both can be read side by side.</remarks>
    public static bool VerifyConsistency(
        long olderSize,
        byte[] olderRoot,
        long newerSize,
        byte[] newerRoot,
        IReadOnlyList<byte[]> proof
    )
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
}

/// <summary>
/// Proofs over a fixed list of leaves. The roots of all perfect subtrees are computed once, so that ten thousand proofs
/// over a million entries cost ten thousand short walks and not ten thousand trees. For one thread.
/// </summary>
public sealed class MerkleProver
{
    /// <summary><c>levels[h][i]</c> is the root of the 2^h leaves from i·2^h on, where all of them exist.</summary>
    private readonly List<byte[][]> levels;

    /// <summary>
    /// Roots of what is no perfect subtree: the ranges down the right edge, by where they begin. Each proof asks for
    /// some of them.
    /// </summary>
    private readonly Dictionary<int, byte[]> edge = [];

    public MerkleProver(byte[][] leaves)
    {
        levels = [leaves];
        while (levels[^1].Length > 1)
        {
            var below = levels[^1];
            var level = new byte[below.Length / 2][];
            for (var i = 0; i < level.Length; i++)
            {
                level[i] = MerkleTree.NodeHash(below[2 * i], below[(2 * i) + 1]);
            }

            levels.Add(level);
        }
    }

    public int Size => levels[0].Length;

    public byte[] Root() => Size == 0 ? MerkleTree.EmptyRoot : Root(0, Size);

    /// <summary>PATH(m, D[n]) of RFC 6962 §2.1.1: the sibling hashes from the leaf upwards.</summary>
    /// <param name="index">0 ≤ index &lt; Size.</param>
    public IReadOnlyList<byte[]> InclusionProof(int index)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(index);
        ArgumentOutOfRangeException.ThrowIfGreaterThanOrEqual(index, Size);
        List<byte[]> proof = [];
        var (from, to) = (0, Size);
        while (to - from > 1)
        {
            var split = from + SplitPoint(to - from);
            if (index < split)
            {
                proof.Add(Root(split, to));
                to = split;
            }
            else
            {
                proof.Add(Root(from, split));
                from = split;
            }
        }

        proof.Reverse();
        return proof;
    }

    /// <summary>PROOF(m, D[n]) of RFC 6962 §2.1.2; empty when the two sizes are equal.</summary>
    /// <param name="olderSize">m, 1 ≤ m ≤ Size.</param>
    public IReadOnlyList<byte[]> ConsistencyProof(int olderSize)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(olderSize, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(olderSize, Size);
        List<byte[]> proof = [];
        var (from, to) = (0, Size);
        while (olderSize != to)
        {
            var split = from + SplitPoint(to - from);
            if (olderSize <= split)
            {
                proof.Add(Root(split, to));
                to = split;
            }
            else
            {
                proof.Add(Root(from, split));
                from = split;
            }
        }

        // SUBPROOF's flag b: only the whole older tree may be left out, because the verifier knows its root.
        if (from > 0)
        {
            proof.Add(Root(from, to));
        }

        proof.Reverse();
        return proof;
    }

    private byte[] Root(int from, int to)
    {
        var count = to - from;
        if (int.IsPow2(count))
        {
            var height = int.Log2(count);
            return levels[height][from >> height];
        }

        if (!edge.TryGetValue(from, out var root))
        {
            var split = from + SplitPoint(count);
            edge[from] = root = MerkleTree.NodeHash(Root(from, split), Root(split, to));
        }

        return root;
    }

    /// <summary>The largest power of two smaller than n (RFC 6962 §2.1: k &lt; n ≤ 2k).</summary>
    private static int SplitPoint(int n) => 1 << (31 - int.LeadingZeroCount(n - 1));
}

/// <summary>
/// The roots of the perfect subtrees of a growing tree, largest first: enough to append a leaf and to give the root in
/// O(log n), without the leaves.
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
