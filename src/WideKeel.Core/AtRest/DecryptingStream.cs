using System.Security.Cryptography;

namespace WideKeel.Core.AtRest;

/// <summary>Reads what <see cref="SegmentedCipher"/> wrote; only segments that are asked for are decrypted.</summary>
internal sealed class DecryptingStream : Stream
{
    private readonly Stream cipher;
    private readonly long begin;
    private readonly SegmentedCipher.Segments segments;
    private readonly uint last;
    private readonly byte[] sealedBytes = new byte[SegmentedCipher.SegmentBytes];
    private readonly byte[] plain = new byte[SegmentedCipher.SegmentBytes];
    private long open = -1;
    private int openBytes;

    public DecryptingStream(ReadOnlySpan<byte> key, string name, Stream cipher)
    {
        this.cipher = cipher;
        begin = cipher.Position;
        var header = new byte[SegmentedCipher.HeaderBytes];
        var size = cipher.Length - begin;
        if (
            size < SegmentedCipher.HeaderBytes + SegmentedCipher.TagBytes
            || cipher.ReadAtLeast(header, header.Length, throwOnEndOfStream: false) < header.Length
            || header[0] != SegmentedCipher.HeaderBytes
        )
        {
            throw new UnreadableAtRestException("This is no encrypted content, or its beginning is lost.");
        }

        segments = new(key, header, name);
        last = (uint)((size - 1) / SegmentedCipher.SegmentBytes);
        // What the last segment holds beyond its tag: a cut in the middle of a tag shows here, any other when it is read.
        var beyond = size - last * (long)SegmentedCipher.SegmentBytes - SegmentedCipher.TagBytes;
        if (beyond < (last == 0 ? SegmentedCipher.HeaderBytes : 0))
        {
            throw new UnreadableAtRestException("The end of this encrypted content is lost.");
        }

        Length = size - SegmentedCipher.HeaderBytes - SegmentedCipher.TagBytes * (last + 1L);
    }

    public override bool CanRead => true;

    public override bool CanSeek => true;

    public override bool CanWrite => false;

    public override long Length { get; }

    public override long Position { get; set; }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(Span<byte> buffer)
    {
        // The end is proven as well: whoever reads an empty content, or beyond the end, learns of a cut.
        var number = Position >= Length ? last : NumberAt(Position);
        OpenSegment(number);
        var at = (int)(Math.Min(Position, Length) - StartOf(number));
        var bytes = Math.Min(buffer.Length, openBytes - at);
        if (bytes <= 0)
        {
            return 0;
        }

        plain.AsSpan(at, bytes).CopyTo(buffer);
        Position += bytes;
        return bytes;
    }

    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch
        {
            SeekOrigin.Begin => offset,
            SeekOrigin.Current => Position + offset,
            _ => Length + offset,
        };

    public override void Flush() { }

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            segments.Dispose();
            cipher.Dispose();
            CryptographicOperations.ZeroMemory(plain);
        }

        base.Dispose(disposing);
    }

    private static uint NumberAt(long position) =>
        position < SegmentedCipher.Room(0)
            ? 0
            : (uint)(1 + (position - SegmentedCipher.Room(0)) / SegmentedCipher.Room(1));

    private static long StartOf(uint number) =>
        number == 0 ? 0 : SegmentedCipher.Room(0) + (number - 1L) * SegmentedCipher.Room(1);

    private void OpenSegment(uint number)
    {
        if (number == open)
        {
            return;
        }

        cipher.Position =
            begin + (number == 0 ? SegmentedCipher.HeaderBytes : number * (long)SegmentedCipher.SegmentBytes);
        var room = SegmentedCipher.Room(number) + SegmentedCipher.TagBytes;
        var bytes = cipher.ReadAtLeast(sealedBytes.AsSpan(0, room), room, throwOnEndOfStream: false);
        if (bytes < SegmentedCipher.TagBytes)
        {
            throw new UnreadableAtRestException("The end of this encrypted content is lost.");
        }

        open = -1;
        openBytes = bytes - SegmentedCipher.TagBytes;
        try
        {
            segments.Decrypt(number, number == last, sealedBytes.AsSpan(0, bytes), plain.AsSpan(0, openBytes));
        }
        catch (CryptographicException e)
        {
            throw new UnreadableAtRestException("It was altered, or encrypted under another name.", e);
        }

        open = number;
    }
}
