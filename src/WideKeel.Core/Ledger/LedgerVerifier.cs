using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace WideKeel.Core.Ledger;

/// <summary>An entry as stored: its canonical text and the leaf hash written beside it.</summary>
public readonly record struct StoredEntry(long Sequence, string Body, byte[] LeafHash);

/// <summary>What a verification found. <paramref name="Finding"/> is null when all is well.</summary>
/// <param name="Entries">Entries read.</param>
/// <param name="Heads">Signed heads compared.</param>
/// <param name="FirstBadEntry">The first entry at fault, where one can be named.</param>
public sealed record VerificationReport(long Entries, int Heads, byte[] Root, long? FirstBadEntry, string? Finding)
{
    public bool Sound => Finding is null;

    /// <summary>What is no fault of the ledger and must be known all the same: the clock went back.</summary>
    public IReadOnlyList<string> Remarks { get; init; } = [];
}

/// <summary>
/// Recomputes the ledger: every entry's hash from its bytes, the unbroken sequence, and every signed head. Names the
/// first thing that is wrong.
/// </summary>
public static class LedgerVerifier
{
    /// <param name="entries">All entries in order of sequence; streamed, not held.</param>
    /// <param name="heads">The heads file's lines in order; a line that is not a head is reported.</param>
    /// <param name="key">The public key; null when the key file is missing, which is itself a finding.</param>
    public static VerificationReport Verify(IEnumerable<StoredEntry> entries, IReadOnlyList<string> heads, ECDsa? key)
    {
        var range = new CompactRange();
        if (key is null && heads.Count == 0 && !entries.Any())
        {
            // Nothing was ever written: the key is made with the first entry.
            return new(0, 0, range.Root(), null, null);
        }

        if (key is null)
        {
            return new(0, 0, range.Root(), null, "The public key of the ledger is missing, so no head can be checked.");
        }

        var signed = ReadHeads(heads, key);
        return signed.Finding is { } finding
            ? new(0, signed.Heads.Count, range.Root(), null, finding)
            : Walk(entries, signed.Heads, range, LedgerBeginning.Fingerprint(key));
    }

    /// <summary>
    /// Another machine's copy of the heads against the entries: each of its heads must be the root of the tree of its
    /// size, and the entries may go beyond it.
    /// </summary>
    /// <param name="copy">Lines of the copy, in any order and with gaps; a line that is no head is passed over.</param>
    public static VerificationReport VerifyAgainst(
        IEnumerable<StoredEntry> entries,
        IReadOnlyList<string> copy,
        ECDsa key
    )
    {
        var range = new CompactRange();
        List<TreeHead> heads =
        [
            .. copy.Select(TreeHead.FromLine)
                .OfType<TreeHead>()
                .DistinctBy(h => Convert.ToHexString(h.Signature))
                .OrderBy(h => h.Size),
        ];
        return heads.Count == 0 ? new(0, 0, range.Root(), null, "The copy holds no head.")
            : heads.FirstOrDefault(h => !h.IsSignedBy(key)) is { } foreign
                ? new(
                    0,
                    0,
                    range.Root(),
                    null,
                    $"The copy's head of {foreign.Size} entries does not carry this ledger's signature: the key is another one now."
                )
            : Walk(entries, heads, range, LedgerBeginning.Fingerprint(key), beyond: true);
    }

    /// <summary>The heads in their order, up to the first that cannot stand.</summary>
    private static (List<TreeHead> Heads, string? Finding) ReadHeads(IReadOnlyList<string> lines, ECDsa key)
    {
        List<TreeHead> heads = new(lines.Count);
        for (var i = 0; i < lines.Count; i++)
        {
            if (TreeHead.FromLine(lines[i]) is not { } head)
            {
                // The last line may be half written when the machine stopped; the one before it still stands.
                return (heads, i == lines.Count - 1 ? null : $"Line {i + 1} of the heads file is not a signed head.");
            }

            if (!head.IsSignedBy(key))
            {
                return (
                    heads,
                    $"The head on line {i + 1} of the heads file (size {head.Size}) does not carry this ledger's signature."
                );
            }

            if (heads.Count > 0 && head.Size < heads[^1].Size)
            {
                return (
                    heads,
                    $"The head on line {i + 1} covers {head.Size} entries, fewer than the {heads[^1].Size} "
                        + $"before it: the database was rolled back and written on."
                );
            }

            heads.Add(head);
        }

        return (heads, null);
    }

    /// <summary>
    /// Goes through the entries and compares the tree over them with each head as it grows to its size.
    /// </summary>
    /// <param name="fingerprint">Of the key, as entry 1 must name it.</param>
    /// <param name="beyond">Entries may go beyond the last head.</param>
    private static VerificationReport Walk(
        IEnumerable<StoredEntry> entries,
        List<TreeHead> heads,
        CompactRange range,
        string fingerprint,
        bool beyond = false
    )
    {
        var next = 0;
        long lastSound = 0;
        string? unfinished = null;
        byte[] buffer = [];
        var clock = new ClockWalk();
        foreach (var entry in entries)
        {
            if (Check(entry, range.Size + 1, ref buffer, out var hash) is { } fault)
            {
                return Bad(range.Size + 1, fault);
            }

            range.Append(hash);
            clock.Next(entry);
            var wrong =
                range.Size == 1 && LedgerBeginning.KeyOf(entry.Body) != fingerprint ? OtherKey
                : beyond ? null
                : Uncovered(entry, range.Size, heads, ref unfinished);
            if (wrong is not null)
            {
                return Bad(range.Size, wrong);
            }

            while (next < heads.Count && heads[next].Size == range.Size)
            {
                if (!range.Root().AsSpan().SequenceEqual(heads[next].Root))
                {
                    return Bad(lastSound + 1, Replaced(lastSound + 1, range.Size));
                }

                lastSound = range.Size;
                next++;
            }
        }

        return next < heads.Count
            ? Bad(
                range.Size + 1,
                $"The tail is missing: {range.Size} entries are stored, but a head signed at {heads[^1].At} "
                    + $"covers {heads[^1].Size}. The database was rolled back, cut or replaced."
            )
            : new(range.Size, heads.Count, range.Root(), null, null) { Remarks = clock.Remarks };

        VerificationReport Bad(long sequence, string finding) =>
            new(range.Size, next, range.Root(), sequence, finding) { Remarks = clock.Remarks };
    }

    private static string Replaced(long first, long last) =>
        first == last
            ? $"Entry {first} and its hash were replaced: they do not match the head signed after it."
            : $"An entry from {first} to {last} and its hash were replaced: they do not match the head signed after {last}.";

    private const string OtherKey =
        "Entry 1 names another key than the one whose public half lies beside the database.";

    /// <summary>What no head covers may be one commit whose head could not be signed, and no more.</summary>
    /// <param name="unfinished">The moment of that commit, once an entry beyond the heads was seen.</param>
    private static string? Uncovered(in StoredEntry entry, long size, List<TreeHead> heads, ref string? unfinished)
    {
        if (heads.Count == 0)
        {
            return "There is no signed head: the heads file is missing or was emptied.";
        }

        if (size <= heads[^1].Size)
        {
            return null;
        }

        var at = LedgerBeginning.MomentOf(entry.Body);
        if ((unfinished ?? at) != at)
        {
            return $"Entry {size} is covered by no signed head and was not written by the one commit that may lack its "
                + "head: another program wrote it, or heads were cut off.";
        }

        unfinished = at;
        return null;
    }

    /// <summary>What is wrong with one entry by itself; null when nothing is.</summary>
    /// <param name="buffer">Used again for each entry, and made larger where one needs it.</param>
    private static string? Check(in StoredEntry entry, long expected, ref byte[] buffer, out byte[] hash)
    {
        hash = [];
        if (entry.Sequence != expected)
        {
            return $"Entry {expected} is missing; the next one stored is {entry.Sequence}.";
        }

        var needed = 1 + Encoding.UTF8.GetMaxByteCount(entry.Body.Length);
        if (buffer.Length < needed)
        {
            buffer = new byte[Math.Max(needed, 4096)];
        }

        // The leaf's prefix byte stands in the buffer, so one call hashes both: buffer[0] is 0x00 from the start and
        // stays so.
        var length = Encoding.UTF8.GetBytes(entry.Body, buffer.AsSpan(1));
        hash = SHA256.HashData(buffer.AsSpan(0, 1 + length));
        return !hash.AsSpan().SequenceEqual(entry.LeafHash)
                ? $"Entry {expected} was changed after it was written: its content does not give the hash stored with it."
            : !SequenceInside(buffer.AsSpan(1, length), expected) ? $"Entry {expected} does not carry its own number."
            : null;
    }

    private static bool SequenceInside(ReadOnlySpan<byte> body, long expected)
    {
        try
        {
            var reader = new Utf8JsonReader(body);
            while (reader.Read())
            {
                if (
                    reader.CurrentDepth == 1
                    && reader.TokenType == JsonTokenType.PropertyName
                    && reader.ValueTextEquals("seq")
                )
                {
                    return reader.Read()
                        && reader.TokenType == JsonTokenType.Number
                        && reader.TryGetInt64(out var sequence)
                        && sequence == expected;
                }
            }
        }
        catch (JsonException)
        {
            return false;
        }

        return false;
    }
}
