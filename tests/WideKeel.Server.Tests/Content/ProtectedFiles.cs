using System.Globalization;
using System.IO.Compression;
using System.Text;

namespace WideKeel.Server.Tests.Content;

/// <summary>Files that a password protects, made by the rules of their formats; nobody knows the passwords.</summary>
internal static class ProtectedFiles
{
    /// <summary>
    /// An archive with one file, whose bit 0 of the general purpose flags says that it is encrypted (APPNOTE.TXT of the
    /// ZIP format, section 4.4.4), beside one that is not.
    /// </summary>
    public static byte[] Zip()
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            using var entry = zip.CreateEntry("secret.txt").Open();
            entry.Write("words that nobody reads"u8);
        }

        var bytes = stream.ToArray();
        foreach (var (mark, flags) in new[] { ("PK\x03\x04", 6), ("PK\x01\x02", 8) })
        {
            bytes[bytes.AsSpan().IndexOf(Encoding.Latin1.GetBytes(mark)) + flags] |= 1;
        }

        return bytes;
    }

    /// <summary>
    /// A compound file with a stream named EncryptedPackage, as an office document with a password is one ([MS-OFFCRYPTO]
    /// section 2.3.4); of the compound file only what tells it is there.
    /// </summary>
    public static byte[] Office() =>
        [
            0xD0,
            0xCF,
            0x11,
            0xE0,
            0xA1,
            0xB1,
            0x1A,
            0xE1,
            .. new byte[504],
            .. Encoding.Unicode.GetBytes("EncryptedPackage"),
            .. new byte[480],
        ];

    /// <summary>
    /// A PDF with the standard security handler (ISO 32000-1 section 7.6.3); its user password is not the empty one, since
    /// its U entry fits no password.
    /// </summary>
    public static byte[] Pdf()
    {
        string[] objects =
        [
            "<< /Type /Catalog /Pages 2 0 R >>",
            "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
            "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 200] >>",
            $"<< /Filter /Standard /V 1 /R 2 /P -4 /O <{new string('1', 64)}> /U <{new string('2', 64)}> >>",
        ];
        var text = new StringBuilder("%PDF-1.4\n");
        List<int> at = [];
        foreach (var (i, body) in objects.Index())
        {
            at.Add(text.Length);
            text.Append(CultureInfo.InvariantCulture, $"{i + 1} 0 obj\n{body}\nendobj\n");
        }

        var table = text.Length;
        text.Append(CultureInfo.InvariantCulture, $"xref\n0 {objects.Length + 1}\n0000000000 65535 f \n");
        foreach (var offset in at)
        {
            text.Append(CultureInfo.InvariantCulture, $"{offset:D10} 00000 n \n");
        }

        text.Append(
            CultureInfo.InvariantCulture,
            $"trailer\n<< /Size {objects.Length + 1} /Root 1 0 R /Encrypt 4 0 R /ID [<{new string('3', 32)}> <{new string('3', 32)}>] >>\n"
        );
        text.Append(CultureInfo.InvariantCulture, $"startxref\n{table}\n%%EOF\n");
        return Encoding.Latin1.GetBytes(text.ToString());
    }
}
