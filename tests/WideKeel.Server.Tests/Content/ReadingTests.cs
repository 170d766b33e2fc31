using System.Diagnostics;
using System.IO.Compression;
using System.Text;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Spreadsheet;
using DocumentFormat.OpenXml.Wordprocessing;
using WideKeel.Core.Content;
using WideKeel.Sources;

namespace WideKeel.Server.Tests.Content;

/// <summary>Words that lie off the beaten track of a file: a search finds them, or the file says what was not read.</summary>
public sealed class ReadingTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static Task<Extracted> ReadAsync(byte[] file, string type) =>
        TextExtraction.ExtractAsync(new MemoryStream(file), type, Stop);

    private static Task<Extracted> MailAsync(string message) =>
        TextExtraction.ExtractMailAsync(new MemoryStream(Encoding.UTF8.GetBytes(message)), Stop);

    [Fact]
    public async Task A_text_in_Latin_1_is_read_by_its_letters() =>
        (await ReadAsync(Encoding.Latin1.GetBytes("Fähre nach Ærø"), "txt")).Text.ShouldBe("Fähre nach Ærø");

    /// <summary>Encoding Standard (WHATWG): what is called Latin-1 is windows-1252, where 0x80 is the euro sign.</summary>
    [Fact]
    public async Task A_euro_sign_of_windows_1252_is_one() =>
        (await ReadAsync([0x80, 0x20, 0x31, 0x32], "txt")).Text.ShouldBe("€ 12");

    [Theory]
    [InlineData(false, true)]
    [InlineData(false, false)]
    [InlineData(true, true)]
    [InlineData(true, false)]
    public async Task A_text_in_UTF_16_is_read_with_and_without_its_mark(bool bigEndian, bool mark)
    {
        var encoding = new UnicodeEncoding(bigEndian, mark);
        byte[] file = [.. encoding.GetPreamble(), .. encoding.GetBytes("contact with pier 4, Ærø")];
        (await ReadAsync(file, "txt")).Text.ShouldBe("contact with pier 4, Ærø");
    }

    [Fact]
    public async Task A_text_of_UTF_8_whose_beginning_ends_within_a_letter_is_UTF_8()
    {
        var text = "x" + string.Concat(Enumerable.Repeat("æ", 600_000));
        (await ReadAsync(Encoding.UTF8.GetBytes(text), "txt")).Text.ShouldEndWith("æ");
    }

    [Fact]
    public async Task An_archive_is_read_file_by_file()
    {
        (
            await ReadAsync(
                Zip(("a/report.txt", "contact with the pier"u8.ToArray()), ("berths.csv", "berth,4"u8.ToArray())),
                "zip"
            )
        ).Text.ShouldBe("File: a/report.txt\ncontact with the pier\nFile: berths.csv\nberth,4\n");
    }

    [Fact]
    public async Task An_archive_in_an_archive_is_read() =>
        (await ReadAsync(Zip(("inner.zip", Zip(("deep.txt", "keelson"u8.ToArray())))), "zip")).Text.ShouldContain(
            "keelson"
        );

    [Fact]
    public async Task An_archive_says_how_many_of_its_files_were_not_read() =>
        (await ReadAsync(Zip(("a.txt", "words"u8.ToArray()), ("b.jpg", [1, 2, 3])), "zip")).Limit.ShouldBe(
            "No text, or not all, was read of 1 of the files in the archive."
        );

    [Fact]
    public async Task Archives_nested_without_end_are_read_to_a_depth()
    {
        var zip = Zip(("deep.txt", "keelson"u8.ToArray()));
        for (var i = 0; i < 8; i++)
        {
            zip = Zip(("next.zip", zip));
        }

        (await ReadAsync(zip, "zip")).Limit.ShouldBe("No text, or not all, was read of 1 of the files in the archive.");
    }

    private static byte[] Zip(params (string Name, byte[] Content)[] files)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (name, content) in files)
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(content);
            }
        }

        return stream.ToArray();
    }

    [Theory]
    [InlineData("body")]
    [InlineData("footnote")]
    [InlineData("endnote")]
    [InlineData("comment")]
    [InlineData("header")]
    [InlineData("footer")]
    public async Task What_stands_beside_the_text_of_a_document_is_found(string word) =>
        (await ReadAsync(Docx(), "docx")).Text.Split('\n').ShouldContain($"the {word}");

    private static byte[] Docx()
    {
        using var stream = new MemoryStream();
        using (var document = WordprocessingDocument.Create(stream, WordprocessingDocumentType.Document))
        {
            var main = document.AddMainDocumentPart();
            main.Document = new(new Body(Says("the body")));
            main.AddNewPart<FootnotesPart>().Footnotes = new(new Footnote(Says("the footnote")) { Id = 1 });
            main.AddNewPart<EndnotesPart>().Endnotes = new(new Endnote(Says("the endnote")) { Id = 1 });
            main.AddNewPart<WordprocessingCommentsPart>().Comments = new(
                new DocumentFormat.OpenXml.Wordprocessing.Comment(Says("the comment")) { Id = "1", Author = "Anna" }
            );
            main.AddNewPart<HeaderPart>().Header = new(Says("the header"));
            main.AddNewPart<FooterPart>().Footer = new(Says("the footer"));
        }

        return stream.ToArray();
    }

    private static Paragraph Says(string text) =>
        new(new DocumentFormat.OpenXml.Wordprocessing.Run(new DocumentFormat.OpenXml.Wordprocessing.Text(text)));

    [Theory]
    [InlineData("the comment")]
    [InlineData("the header")]
    public async Task What_stands_beside_the_cells_of_a_spreadsheet_is_found(string words)
    {
        using var stream = new MemoryStream();
        using (var document = SpreadsheetDocument.Create(stream, SpreadsheetDocumentType.Workbook))
        {
            var sheet = document.AddWorkbookPart().AddNewPart<WorksheetPart>();
            document.WorkbookPart!.Workbook = new(new Sheets());
            sheet.Worksheet = new(
                new SheetData(),
                new DocumentFormat.OpenXml.Spreadsheet.HeaderFooter(new OddHeader("the header"))
            );
            sheet.AddNewPart<WorksheetCommentsPart>().Comments = new(
                new Authors(new Author("Anna")),
                new CommentList(
                    new DocumentFormat.OpenXml.Spreadsheet.Comment(
                        new CommentText(new DocumentFormat.OpenXml.Spreadsheet.Text("the comment"))
                    )
                    {
                        Reference = "A1",
                        AuthorId = 0,
                    }
                )
            );
        }

        (await ReadAsync(stream.ToArray(), "xlsx")).Text.ShouldContain(words);
    }

    private const string Enclosing =
        "From: a@all.example\nTo: b@all.example\nCc: copied@all.example\nSubject: outer\nMIME-Version: 1.0\n"
        + "Content-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\nsee below\n"
        + "--b\nContent-Type: message/rfc822\n\nFrom: c@all.example\nSubject: The inner letter\n\ncontact with the pier\n"
        + "--b\nContent-Type: text/csv; name=\"rota.csv\"\nContent-Disposition: inline; filename=\"rota.csv\"\n\nwatch,dog\n--b--\n";

    [Fact]
    public async Task Whoever_is_copied_in_a_message_is_found_in_its_text() =>
        (await MailAsync(Enclosing)).Text.ShouldContain("Cc: copied@all.example");

    [Fact]
    public async Task A_message_within_a_message_and_a_named_part_between_the_words_are_documents_of_the_family() =>
        (await MailAsync(Enclosing)).Attachments.ShouldBe(["The inner letter.eml", "rota.csv"]);

    [Fact]
    public async Task The_words_of_a_message_within_a_message_are_found() =>
        (await MailAsync(Enclosing)).Text.ShouldContain("contact with the pier");

    [Fact]
    public async Task The_words_of_a_named_part_between_the_words_are_found() =>
        (await MailAsync(Enclosing)).Text.ShouldContain("watch,dog");

    [Fact]
    public void A_message_within_a_message_is_handed_over_as_a_message()
    {
        var inner = MailParts.Read(new MemoryStream(Encoding.UTF8.GetBytes(Enclosing)))!.Attachments[0];
        Encoding.UTF8.GetString(inner.Content).Split('\n')[0].Trim().ShouldBe("From: c@all.example");
    }

    [Fact]
    public async Task The_text_of_an_HTML_message_without_attachments_has_none() =>
        (
            await MailAsync(
                "From: a@all.example\nMIME-Version: 1.0\nContent-Type: multipart/alternative; boundary=b\n\n"
                    + "--b\nContent-Type: text/plain\n\nplain\n--b\nContent-Type: text/html\n\n<p>plain</p>\n--b--\n"
            )
        ).Attachments.ShouldBeEmpty();

    private static string Attached(string name, byte[] content) =>
        $"From: a@all.example\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\n"
        + $"see there\n--b\nContent-Type: application/octet-stream; name=\"{name}\"\nContent-Disposition: attachment; "
        + $"filename=\"{name}\"\nContent-Transfer-Encoding: base64\n\n{Convert.ToBase64String(content)}\n--b--\n";

    private const string OneNotWhole = "No text, or not all, was read of 1 of the attachments.";

    [Fact]
    public async Task A_message_says_that_an_attachment_is_damaged() =>
        (await MailAsync(Attached("report.docx", [1, 2, 3]))).Limit.ShouldBe(OneNotWhole);

    [Fact]
    public async Task A_message_says_that_not_all_of_an_attached_archive_was_read() =>
        (await MailAsync(Attached("all.zip", Zip(("a.txt", "words"u8.ToArray()), ("b.docx", [1, 2]))))).Limit.ShouldBe(
            OneNotWhole
        );

    [Fact]
    public async Task A_message_says_that_a_message_within_it_was_not_read_whole() =>
        (
            await MailAsync(Attached("inner.eml", Encoding.UTF8.GetBytes(Attached("report.docx", [1, 2, 3]))))
        ).Limit.ShouldBe(OneNotWhole);

    [Fact]
    public async Task Of_a_picture_that_is_attached_no_words_are_expected() =>
        (await MailAsync(Attached("logo.png", [1, 2, 3]))).Limit.ShouldBeNull();

    [Fact]
    public async Task A_message_whose_attachments_were_read_says_nothing() =>
        (await MailAsync(Attached("all.zip", Zip(("a.txt", "words"u8.ToArray()))))).Limit.ShouldBeNull();

    [Theory]
    [InlineData("pdf")]
    [InlineData("docx")]
    [InlineData("xlsx")]
    [InlineData("pptx")]
    public async Task A_document_with_a_password_is_not_called_damaged(string type) =>
        (await ReadAsync(type == "pdf" ? ProtectedFiles.Pdf() : ProtectedFiles.Office(), type)).Limit.ShouldBe(
            "No text was read: it is protected with a password."
        );

    [Fact]
    public async Task An_archive_says_how_many_of_its_files_are_protected_with_a_password() =>
        (await ReadAsync(ProtectedFiles.Zip(), "zip")).Limit.ShouldBe(
            "No text, or not all, was read of 1 of the files in the archive; 1 of them protected with a password."
        );

    [Theory]
    [InlineData("pdf", Searchable.Password)]
    [InlineData("zip", Searchable.Password)]
    [InlineData("eml", Searchable.Password)]
    [InlineData("scan", Searchable.Scan)]
    [InlineData("jpg", Searchable.None)]
    [InlineData("txt", Searchable.Whole)]
    public async Task A_file_says_how_much_of_it_can_be_found(string kind, Searchable searchable)
    {
        using var scan = new UglyToad.PdfPig.Writer.PdfDocumentBuilder();
        scan.AddPage(200, 200);
        var (file, type) = kind switch
        {
            "pdf" => (ProtectedFiles.Pdf(), "pdf"),
            "zip" => (ProtectedFiles.Zip(), "zip"),
            "eml" => (Encoding.UTF8.GetBytes(Attached("all.zip", ProtectedFiles.Zip())), "eml"),
            "scan" => (scan.Build(), "pdf"),
            _ => ("words"u8.ToArray(), kind),
        };
        (await ReadAsync(file, type)).Searchable(file.Length).ShouldBe(searchable);
    }

    [Fact]
    public void A_pipe_is_no_empty_file()
    {
        var folder = Directory.CreateTempSubdirectory("widekeel-test-").FullName;
        try
        {
            using (var made = Process.Start("mkfifo", [Path.Combine(folder, "pipe.txt")]))
            {
                made.WaitForExit();
            }

            File.WriteAllText(Path.Combine(folder, "empty.txt"), "");
            var found = new DirectoryShare(folder).Walk().ToList();
            found.Select(f => (f.Path, f is Found.Unreadable)).ShouldBe([("empty.txt", false), ("pipe.txt", true)]);
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }
}
