using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using Org.BouncyCastle.Crypto.Digests;
using Org.BouncyCastle.Crypto.Engines;
using Org.BouncyCastle.Crypto.Generators;
using Org.BouncyCastle.Crypto.Modes;
using Org.BouncyCastle.Crypto.Parameters;
using WideKeel.Core.AtRest;

namespace WideKeel.Core.Tests.AtRest;

/// <summary>
/// The format is that of AES256_GCM_HKDF_1MB as the Tink library publishes it ("Streaming AEAD", AES-GCM-HKDF). It is written
/// here a second time from that page, with the primitives of another library (BouncyCastle).
/// </summary>
public sealed class SegmentedCipherTests
{
    private const int Segment = 1 << 20;
    private static readonly byte[] Key = [.. Enumerable.Range(0, 32).Select(i => (byte)i)];
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>Around the ends of segments: the first has 56 bytes less than a mebibyte, others 16.</summary>
    public static TheoryData<int> Sizes =>
        [0, 1, 100, Segment - 57, Segment - 56, Segment - 55, (2 * Segment) - 72, (2 * Segment) - 71, 3_000_001];

    private static byte[] Content(int size)
    {
        var content = new byte[size];
        new Random(size).NextBytes(content);
        return content;
    }

    private static async Task<byte[]> EncryptAsync(byte[] content, string name = "a name")
    {
        using var cipher = new MemoryStream();
        await SegmentedCipher.EncryptAsync(Key, name, new MemoryStream(content), cipher, Stop);
        return cipher.ToArray();
    }

    private static byte[] Decrypt(byte[] cipher, string name = "a name", byte[]? key = null)
    {
        using var plain = SegmentedCipher.Decrypt(key ?? Key, name, new MemoryStream(cipher));
        using var copy = new MemoryStream();
        plain.CopyTo(copy);
        return copy.ToArray();
    }

    [Theory]
    [MemberData(nameof(Sizes))]
    public async Task What_was_encrypted_is_read_again(int size) =>
        Decrypt(await EncryptAsync(Content(size))).SequenceEqual(Content(size)).ShouldBeTrue();

    [Theory]
    [MemberData(nameof(Sizes))]
    public async Task Another_library_that_follows_the_published_format_reads_it(int size) =>
        Elsewhere(await EncryptAsync(Content(size)), encrypt: false).SequenceEqual(Content(size)).ShouldBeTrue();

    [Theory]
    [MemberData(nameof(Sizes))]
    public void It_reads_what_another_library_wrote_in_the_published_format(int size) =>
        Decrypt(Elsewhere(Content(size), encrypt: true)).SequenceEqual(Content(size)).ShouldBeTrue();

    [Theory]
    [MemberData(nameof(Sizes))]
    public async Task Its_length_is_known_before_it_is_read(int size)
    {
        using var plain = SegmentedCipher.Decrypt(Key, "a name", new MemoryStream(await EncryptAsync(Content(size))));
        plain.Length.ShouldBe(size);
    }

    [Fact]
    public async Task It_can_be_read_from_any_place_on()
    {
        var content = Content(3_000_001);
        using var plain = SegmentedCipher.Decrypt(Key, "a name", new MemoryStream(await EncryptAsync(content)));
        var random = new Random(1);
        for (var i = 0; i < 50; i++)
        {
            var at = random.Next(content.Length - 1000);
            var read = new byte[1000];
            plain.Position = at;
            plain.ReadExactly(read);
            read.AsSpan().SequenceEqual(content.AsSpan(at, 1000)).ShouldBeTrue($"from {at}");
        }
    }

    [Fact]
    public async Task No_bit_can_be_altered_unseen()
    {
        var cipher = await EncryptAsync(Content(2_500_000));
        for (var at = 0; at < cipher.Length; at += at < 60 ? 1 : 48_611)
        {
            var altered = (byte[])cipher.Clone();
            altered[at] ^= 4;
            Should.Throw<UnreadableAtRestException>(() => Decrypt(altered), $"byte {at}");
        }
    }

    [Theory]
    [InlineData(0)]
    [InlineData(39)]
    [InlineData(55)]
    [InlineData(56)]
    [InlineData(1000)]
    [InlineData(Segment - 1)]
    [InlineData(Segment)]
    [InlineData(Segment + 1)]
    [InlineData(Segment + 15)]
    [InlineData(2 * Segment)]
    [InlineData(2_499_999)]
    public async Task No_end_can_be_cut_off_unseen(int left)
    {
        var cipher = await EncryptAsync(Content(2_500_000));
        Should.Throw<UnreadableAtRestException>(() => Decrypt([.. cipher.Take(left)]));
    }

    [Fact]
    public async Task Segments_cannot_change_places_unseen()
    {
        var cipher = await EncryptAsync(Content(4 * Segment));
        var swapped = (byte[])cipher.Clone();
        Array.Copy(cipher, Segment, swapped, 2 * Segment, Segment);
        Array.Copy(cipher, 2 * Segment, swapped, Segment, Segment);
        Should.Throw<UnreadableAtRestException>(() => Decrypt(swapped));
    }

    [Fact]
    public async Task A_content_cannot_be_put_in_another_s_place()
    {
        var cipher = await EncryptAsync(Content(100), "gateway/day=2026-06-13/0.parquet");
        Should.Throw<UnreadableAtRestException>(() => Decrypt(cipher, "gateway/day=2026-06-14/0.parquet"));
    }

    [Fact]
    public async Task Another_key_reads_nothing()
    {
        var cipher = await EncryptAsync(Content(100));
        Should.Throw<UnreadableAtRestException>(() => Decrypt(cipher, key: new byte[32]));
    }

    [Fact]
    public async Task Equal_contents_do_not_look_equal()
    {
        var (one, other) = (await EncryptAsync(Content(100)), await EncryptAsync(Content(100)));
        one.ShouldNotBe(other);
    }

    /// <summary>The published format once more, by another library.</summary>
    private static byte[] Elsewhere(byte[] input, bool encrypt)
    {
        var header = encrypt ? [40, .. Content(39)] : input[..40];
        var hkdf = new HkdfBytesGenerator(new Sha256Digest());
        hkdf.Init(new HkdfParameters(Key, header[1..33], Encoding.UTF8.GetBytes("a name")));
        var derived = new byte[32];
        hkdf.GenerateBytes(derived, 0, 32);
        var piece = encrypt ? Segment - 16 : Segment;
        List<byte[]> pieces = [];
        var at = encrypt ? 0 : 40;
        do
        {
            var bytes = Math.Min(piece - (pieces.Count == 0 ? 40 : 0), input.Length - at);
            pieces.Add(input[at..(at + bytes)]);
            at += bytes;
        } while (at < input.Length);
        using var output = new MemoryStream();
        if (encrypt)
        {
            output.Write(header);
        }

        for (var i = 0; i < pieces.Count; i++)
        {
            var nonce = new byte[12];
            header[33..40].CopyTo(nonce, 0);
            BinaryPrimitives.WriteInt32BigEndian(nonce.AsSpan(7), i);
            nonce[11] = (byte)(i == pieces.Count - 1 ? 1 : 0);
            var gcm = new GcmBlockCipher(new AesEngine());
            gcm.Init(encrypt, new AeadParameters(new KeyParameter(derived), 128, nonce));
            var result = new byte[gcm.GetOutputSize(pieces[i].Length)];
            var done = gcm.ProcessBytes(pieces[i], 0, pieces[i].Length, result, 0);
            gcm.DoFinal(result, done);
            output.Write(result);
        }

        return output.ToArray();
    }
}
