using System.Text;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.Packaging;
using NodaTime;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Content;

/// <summary>A document that was made to stop its reader stops that reader, and nothing else.</summary>
public sealed class DocumentReaderTests : IDisposable
{
    private readonly DocumentReaders readers = new(
        Path.Combine(AppContext.BaseDirectory, "widekeel"),
        1,
        TimeSpan.FromSeconds(6)
    );

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => readers.Dispose();

    private static MemoryStream Docx(string body)
    {
        var stream = new MemoryStream();
        using (var document = WordprocessingDocument.Create(stream, WordprocessingDocumentType.Document))
        {
            using (var part = new StreamWriter(document.AddMainDocumentPart().GetStream(FileMode.Create)))
            {
                part.Write(
                    "<w:document xmlns:w=\"http://schemas.openxmlformats.org/wordprocessingml/2006/main\"><w:body>"
                        + $"{body}</w:body></w:document>"
                );
            }

            document.PackageProperties.Title = "Charter";
            document.PackageProperties.Created = new DateTime(2018, 6, 1, 0, 0, 0, DateTimeKind.Utc);
        }

        stream.Position = 0;
        return stream;
    }

    private static MemoryStream Sound() => Docx("<w:p><w:r><w:t>First</w:t></w:r></w:p>");

    /// <summary>Some 11 kB once zipped: 100,000 elements, each within the one before.</summary>
    private static MemoryStream Nested() =>
        Docx(
            string.Concat(Enumerable.Repeat("<w:sdt><w:sdtContent>", 50_000))
                + string.Concat(Enumerable.Repeat("</w:sdtContent></w:sdt>", 50_000))
        );

    [Fact]
    public async Task What_was_drawn_comes_back_whole_through_the_pipe()
    {
        var read = await readers.ExtractAsync(Sound(), "docx", Stop);
        (read.Text, read.Title, read.Created, read.Limit).ShouldBe(
            ("First\n", "Charter", new LocalDate(2018, 6, 1), null)
        );
    }

    [Fact]
    public async Task A_document_nested_without_end_gives_no_text_and_a_reason() =>
        (await readers.ExtractAsync(Nested(), "docx", Stop)).Limit!.ShouldStartWith("No text was read:");

    [Fact]
    public async Task The_next_document_is_read_after_one_that_ended_its_reader()
    {
        await readers.ExtractAsync(Nested(), "docx", Stop);
        (await readers.ExtractAsync(Sound(), "docx", Stop)).Text.ShouldBe("First\n");
    }

    [Fact]
    public async Task A_damaged_document_says_so() =>
        (await readers.ExtractAsync(new MemoryStream("no zip"u8.ToArray()), "docx", Stop)).Limit.ShouldBe(
            "No text was read: the file is not the docx that its name says, or it is damaged."
        );

    [Fact]
    public async Task Documents_that_are_asked_for_at_once_wait_their_turn() =>
        (await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => readers.ExtractAsync(Sound(), "docx", Stop))))
            .Select(r => r.Text)
            .Distinct()
            .ShouldBe(["First\n"]);

    [Fact]
    public async Task A_page_that_is_made_safe_has_no_script_left() =>
        (await readers.SanitizeAsync(new MemoryStream("<script>x</script><p>ok</p>"u8.ToArray()), Stop)).ShouldBe(
            "<p>ok</p>"
        );

    [Fact]
    public async Task A_page_nested_without_end_is_given_up()
    {
        var page = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Repeat("<div><b>", 60_000)));
        (await readers.SanitizeAsync(new MemoryStream(page), Stop)).ShouldBeNull();
    }

    /// <summary>A file that is longer or shorter by the time it is read than when its length was asked.</summary>
    private sealed class Changing(byte[] bytes, long length) : MemoryStream(bytes)
    {
        public override long Length => length;
    }

    [Fact]
    public async Task A_file_that_grows_while_it_is_read_spoils_no_other()
    {
        var bytes = Sound().ToArray();
        await readers.ExtractAsync(new Changing([.. bytes, .. new byte[5_000]], bytes.Length), "docx", Stop);
        (await readers.ExtractAsync(Sound(), "docx", Stop)).Text.ShouldBe("First\n");
    }

    [Fact]
    public async Task A_file_that_shrinks_while_it_is_read_gives_no_text_and_a_reason()
    {
        var bytes = Sound().ToArray();
        (await readers.ExtractAsync(new Changing(bytes, bytes.Length + 5_000), "docx", Stop)).Limit!.ShouldStartWith(
            "No text was read:"
        );
    }
}
