using System.Security.Cryptography;
using System.Text;
using NodaTime;
using WideKeel.Core.Ledger;

namespace WideKeel.Core.Tests.Ledger;

public sealed class LedgerVerifierTests : IDisposable
{
    private readonly ECDsa key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly List<StoredEntry> entries = [];
    private readonly List<string> heads = [];

    public LedgerVerifierTests()
    {
        var range = new CompactRange();
        for (var i = 1; i <= 10; i++)
        {
            range.Append(Add(i, i));
            if (i % 2 == 0)
            {
                heads.Add(TreeHead.Sign(range.Size, range.Root(), Instant.FromUnixTimeSeconds(i), key).ToLine());
            }
        }
    }

    private byte[] Add(int sequence, int second)
    {
        var body = new LedgerEntry(
            sequence,
            Instant.FromUnixTimeSeconds(second),
            new LedgerActor("Ines"),
            sequence == 1 ? LedgerBeginning.Verb : "filed",
            new LedgerSubject("item", $"{sequence}"),
            null,
            sequence == 1 ? LedgerBeginning.After(key) : null,
            null
        ).ToCanonicalText();
        var leaf = MerkleTree.LeafHash(Encoding.UTF8.GetBytes(body));
        entries.Add(new(sequence, body, leaf));
        return leaf;
    }

    public void Dispose() => key.Dispose();

    [Fact]
    public void A_ledger_as_it_was_written_is_sound()
    {
        var report = LedgerVerifier.Verify(entries, heads, key);
        report.Finding.ShouldBeNull();
        report.Entries.ShouldBe(10);
        report.Heads.ShouldBe(5);
    }

    [Fact]
    public void A_changed_byte_is_found_and_its_entry_named()
    {
        entries[6] = entries[6] with { Body = entries[6].Body.Replace("filed", "fileD", StringComparison.Ordinal) };
        LedgerVerifier.Verify(entries, heads, key).FirstBadEntry.ShouldBe(7);
    }

    [Fact]
    public void An_entry_changed_together_with_its_hash_is_found_between_two_heads()
    {
        var body = entries[6].Body.Replace("filed", "fileD", StringComparison.Ordinal);
        entries[6] = entries[6] with { Body = body, LeafHash = MerkleTree.LeafHash(Encoding.UTF8.GetBytes(body)) };
        var report = LedgerVerifier.Verify(entries, heads, key);
        report.FirstBadEntry.ShouldBe(7);
        report.Finding!.ShouldContain("from 7 to 8");
    }

    [Fact]
    public void A_missing_entry_is_named()
    {
        entries.RemoveAt(3);
        LedgerVerifier.Verify(entries, heads, key).Finding!.ShouldStartWith("Entry 4 is missing");
    }

    [Fact]
    public void A_missing_tail_is_found()
    {
        entries.RemoveRange(7, 3);
        LedgerVerifier
            .Verify(entries, heads, key)
            .Finding!.ShouldStartWith("The tail is missing: 7 entries are stored");
    }

    [Fact]
    public void A_head_of_another_key_is_found()
    {
        using var other = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        heads[2] = TreeHead.Sign(6, MerkleTree.EmptyRoot, Instant.MinValue.Plus(Duration.FromDays(1)), other).ToLine();
        LedgerVerifier.Verify(entries, heads, key).Finding!.ShouldContain("line 3");
    }

    [Fact]
    public void Heads_that_shrink_tell_of_a_rolled_back_database()
    {
        heads.Add(heads[0]);
        LedgerVerifier.Verify(entries, heads, key).Finding!.ShouldContain("rolled back");
    }

    [Fact]
    public void Half_a_last_line_is_no_finding_but_half_a_line_in_between_is()
    {
        heads.Add("{\"at\":\"20");
        LedgerVerifier.Verify(entries, heads, key).Sound.ShouldBeTrue();
        heads.Insert(1, "{\"at\":\"20");
        LedgerVerifier.Verify(entries, heads, key).Finding!.ShouldContain("Line 2");
    }

    [Fact]
    public void Without_the_public_key_nothing_is_called_sound() =>
        LedgerVerifier.Verify(entries, heads, null).Sound.ShouldBeFalse();

    [Fact]
    public void One_commit_without_its_head_is_sound()
    {
        Add(11, 11);
        Add(12, 11);
        LedgerVerifier.Verify(entries, heads, key).Finding.ShouldBeNull();
    }

    [Fact]
    public void Entries_of_two_moments_without_a_head_are_found()
    {
        Add(11, 11);
        Add(12, 12);
        LedgerVerifier.Verify(entries, heads, key).Finding!.ShouldStartWith("Entry 12 is covered by no signed head");
    }

    [Fact]
    public void Tail_and_last_heads_cut_off_together_leave_what_the_second_place_knows()
    {
        var copy = heads.ToList();
        entries.RemoveRange(8, 2);
        heads.RemoveAt(4);
        LedgerVerifier.Verify(entries, heads, key).Finding.ShouldBeNull();
        LedgerVerifier.VerifyAgainst(entries, copy, key).Finding!.ShouldStartWith("The tail is missing");
    }

    [Fact]
    public void Without_any_head_entries_are_not_sound()
    {
        heads.Clear();
        LedgerVerifier.Verify(entries, heads, key).Finding!.ShouldStartWith("There is no signed head");
    }

    [Fact]
    public void Another_key_pair_is_found_although_all_heads_are_its_own()
    {
        using var other = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var range = new CompactRange();
        entries.ForEach(e => range.Append(e.LeafHash));
        heads.Clear();
        heads.Add(TreeHead.Sign(range.Size, range.Root(), Instant.FromUnixTimeSeconds(99), other).ToLine());
        LedgerVerifier.Verify(entries, heads, other).Finding!.ShouldStartWith("Entry 1 names another key");
    }

    [Fact]
    public void A_copy_with_gaps_that_ends_earlier_agrees() =>
        LedgerVerifier.VerifyAgainst(entries, [heads[0], heads[2]], key).Finding.ShouldBeNull();

    [Fact]
    public void Nothing_written_yet_is_sound() => LedgerVerifier.Verify([], [], null).Finding.ShouldBeNull();
}
