using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;

namespace WideKeel.Core.AtRest;

/// <summary>
/// Encrypts what is too long for memory, so that any part of it can be read, and no part can be altered, dropped, added or
/// moved unseen. Source: the streaming format AES256_GCM_HKDF_1MB of the Tink library, as its wire format is published:
/// a header (its length, a salt of 32 bytes, a prefix of nonces of 7 bytes), then segments of 1 MiB that end with their tags,
/// each encrypted by AES-256-GCM under HKDF-SHA-256(key, salt, name) and the nonce prefix ‖ number ‖ whether it is the last.
/// </summary>
public static class SegmentedCipher
{
    internal const int KeyBytes = 32;
    internal const int TagBytes = 16;
    internal const int PrefixBytes = 7;
    internal const int HeaderBytes = 1 + KeyBytes + PrefixBytes;
    internal const int SegmentBytes = 1 << 20;

    /// <summary>Encrypts a stream to its end.</summary>
    /// <param name="key">32 bytes.</param>
    /// <param name="name">What it is, bound to the content: it decrypts under this name only.</param>
    public static async Task EncryptAsync(
        ReadOnlyMemory<byte> key,
        string name,
        Stream plain,
        Stream cipher,
        CancellationToken cancel
    )
    {
        var header = new byte[HeaderBytes];
        header[0] = HeaderBytes;
        RandomNumberGenerator.Fill(header.AsSpan(1));
        using var segments = new Segments(key.Span, header, name);
        await cipher.WriteAsync(header, cancel);
        var (now, next) = (new byte[SegmentBytes], new byte[SegmentBytes]);
        var sealedBytes = new byte[SegmentBytes];
        var length = await FillAsync(plain, now, Room(0), cancel);
        for (uint number = 0; ; number++)
        {
            // Whether a segment is the last is part of its nonce, so the next is read before this one is written.
            var following = length < Room(number) ? 0 : await FillAsync(plain, next, Room(number + 1), cancel);
            var last = following == 0;
            segments.Encrypt(number, last, now.AsSpan(0, length), sealedBytes.AsSpan(0, length + TagBytes));
            await cipher.WriteAsync(sealedBytes.AsMemory(0, length + TagBytes), cancel);
            if (last)
            {
                return;
            }

            (now, next, length) = (next, now, following);
        }
    }

    /// <summary>The content that was encrypted, as a stream that can be read from any place on.</summary>
    /// <param name="cipher">One that can seek, at its beginning; it is closed with the answer.</param>
    /// <exception cref="UnreadableAtRestException">
    /// The key or the name is another, or the content was altered; reading throws it as well.
    /// </exception>
    public static Stream Decrypt(ReadOnlyMemory<byte> key, string name, Stream cipher) =>
        new DecryptingStream(key.Span, name, cipher);

    /// <summary>Bytes of content in a segment that is not the last; the header takes its room from the first.</summary>
    internal static int Room(uint number) => SegmentBytes - TagBytes - (number == 0 ? HeaderBytes : 0);

    private static async Task<int> FillAsync(Stream from, byte[] buffer, int bytes, CancellationToken cancel) =>
        await from.ReadAtLeastAsync(buffer.AsMemory(0, bytes), bytes, throwOnEndOfStream: false, cancel);

    /// <summary>The segments of one content.</summary>
    internal sealed class Segments : IDisposable
    {
        private readonly AesGcm aes;
        private readonly byte[] prefix;

        public Segments(ReadOnlySpan<byte> key, byte[] header, string name)
        {
            ArgumentOutOfRangeException.ThrowIfNotEqual(key.Length, KeyBytes);
            Span<byte> derived = stackalloc byte[KeyBytes];
            HKDF.DeriveKey(
                HashAlgorithmName.SHA256,
                key,
                derived,
                header.AsSpan(1, KeyBytes),
                Encoding.UTF8.GetBytes(name)
            );
            aes = new(derived, TagBytes);
            CryptographicOperations.ZeroMemory(derived);
            prefix = header[(1 + KeyBytes)..];
        }

        public void Encrypt(uint number, bool last, ReadOnlySpan<byte> plain, Span<byte> cipher)
        {
            Span<byte> nonce = stackalloc byte[12];
            Nonce(number, last, nonce);
            aes.Encrypt(nonce, plain, cipher[..plain.Length], cipher[plain.Length..]);
        }

        public void Decrypt(uint number, bool last, ReadOnlySpan<byte> cipher, Span<byte> plain)
        {
            Span<byte> nonce = stackalloc byte[12];
            Nonce(number, last, nonce);
            aes.Decrypt(nonce, cipher[..^TagBytes], cipher[^TagBytes..], plain);
        }

        public void Dispose() => aes.Dispose();

        private void Nonce(uint number, bool last, Span<byte> nonce)
        {
            prefix.CopyTo(nonce);
            BinaryPrimitives.WriteUInt32BigEndian(nonce[PrefixBytes..], number);
            nonce[^1] = last ? (byte)1 : (byte)0;
        }
    }
}

/// <summary>What lies encrypted cannot be read: for whoever reads it, it is as if the disk could not.</summary>
public sealed class UnreadableAtRestException(string message, Exception? cause = null) : IOException(message, cause);
