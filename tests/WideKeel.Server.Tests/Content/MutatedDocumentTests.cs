using System.IO.Compression;
using System.Text;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.Packaging;
using MiniExcelLibs;
using UglyToad.PdfPig.Fonts.Standard14Fonts;
using UglyToad.PdfPig.Writer;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Content;

/// <summary>
/// Documents with some of their bytes changed, cut or repeated: each gives its text, or a reason why not, and no reader is
/// lost for the next.
/// </summary>
public sealed class MutatedDocumentTests : IDisposable
{
    /// <summary>Of each format; a few in the suite, <c>WIDEKEEL_MUTATIONS=1700</c> makes about 10,000 in all.</summary>
    private static readonly int Mutations = int.TryParse(
        Environment.GetEnvironmentVariable("WIDEKEEL_MUTATIONS"),
        out var asked
    )
        ? asked
        : 25;

    private readonly DocumentReaders readers = new(
        Path.Combine(AppContext.BaseDirectory, "widekeel"),
        1,
        TimeSpan.FromSeconds(6)
    );

    public void Dispose() => readers.Dispose();

    public static TheoryData<string> Formats => ["docx", "xlsx", "pdf", "eml", "html", "zip"];

    private static byte[] Sound(string format) =>
        format switch
        {
            "docx" => Docx(),
            "xlsx" => Xlsx(),
            "pdf" => Pdf(),
            "eml" => Encoding.UTF8.GetBytes(
                "From: a@tarn.example\r\nTo: b@tarn.example\r\nSubject: Pier 4\r\nMIME-Version: 1.0\r\n"
                    + "Content-Type: multipart/mixed; boundary=x\r\n\r\n--x\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n"
                    + "The pier.\r\n--x\r\nContent-Type: application/pdf; name=plan.pdf\r\n"
                    + "Content-Transfer-Encoding: base64\r\nContent-Disposition: attachment\r\n\r\n"
                    + $"{Convert.ToBase64String(Pdf())}\r\n--x--\r\n"
            ),
            "html" => Encoding.UTF8.GetBytes(
                "<!doctype html><html><head><title>Pier</title></head><body><table><tr><td>Berth &amp; pier</td></tr></table>"
                    + "<script>let a = 1</script></body></html>"
            ),
            _ => Zip(),
        };

    private static byte[] Docx()
    {
        using var stream = new MemoryStream();
        using (var document = WordprocessingDocument.Create(stream, WordprocessingDocumentType.Document))
        {
            using var part = new StreamWriter(document.AddMainDocumentPart().GetStream(FileMode.Create));
            part.Write(
                "<w:document xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\"><w:body>"
                    + "<w:p><w:r><w:t>The pier.</w:t></w:r></w:p></w:body></w:document>"
            );
        }

        return stream.ToArray();
    }

    private static byte[] Xlsx()
    {
        using var stream = new MemoryStream();
        stream.SaveAs(new[] { new { Berth = "Pier 4", Metres = 120 } });
        return stream.ToArray();
    }

    private static byte[] Pdf()
    {
        using var builder = new PdfDocumentBuilder();
        builder
            .AddPage(200, 200)
            .AddText("The pier", 12, new(20, 100), builder.AddStandard14Font(Standard14Font.Helvetica));
        return builder.Build();
    }

    private static byte[] Zip()
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, content) in new[] { ("a.docx", Docx()), ("b.pdf", Pdf()) })
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(content);
            }
        }

        return stream.ToArray();
    }

    /// <summary>One to eight changes: a bit, a byte, a cut, a part twice, a number at its largest.</summary>
    private static byte[] Mutate(byte[] sound, Random random)
    {
        var bytes = sound.ToList();
        for (var i = random.Next(1, 9); i > 0 && bytes.Count > 16; i--)
        {
            var at = random.Next(bytes.Count);
            switch (random.Next(5))
            {
                case 0:
                    bytes[at] ^= (byte)(1 << random.Next(8));
                    break;
                case 1:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 2:
                    bytes.RemoveRange(at, Math.Min(random.Next(1, 64), bytes.Count - at));
                    break;
                case 3:
                    bytes.InsertRange(at, bytes.GetRange(at, Math.Min(random.Next(1, 256), bytes.Count - at)));
                    break;
                default:
                    for (var end = Math.Min(at + 4, bytes.Count); at < end; at++)
                    {
                        bytes[at] = 0xFF;
                    }

                    break;
            }
        }

        return [.. bytes];
    }

    [Theory]
    [MemberData(nameof(Formats))]
    public async Task After_mutated_documents_a_sound_one_is_read(string format)
    {
        var sound = Sound(format);
        for (var seed = 0; seed < Mutations; seed++)
        {
            await ReadAsync(Mutate(sound, new Random(seed)), format);
        }

        (await ReadAsync(Docx(), "docx")).Text.ShouldBe("The pier.\n");
    }

    /// <summary>A document that stops its reader is given up after six seconds; an exception is a fault.</summary>
    private Task<Extracted> ReadAsync(byte[] document, string format) =>
        readers.ExtractAsync(new MemoryStream(document), format, TestContext.Current.CancellationToken);
}
