using System.Security.Cryptography;
using System.Text;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Wordprocessing;
using NodaTime;
using WideKeel.Core.AtRest;
using WideKeel.Demo;
using WideKeel.Sources;
using A = DocumentFormat.OpenXml.Drawing;
using P = DocumentFormat.OpenXml.Presentation;

namespace WideKeel.Server.Tests.Content;

public sealed class SourceTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-source-").FullName;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => Directory.Delete(folder, recursive: true);

    [Theory]
    [InlineData("../outside.txt")]
    [InlineData("a/../../outside.txt")]
    [InlineData("/etc/hostname")]
    [InlineData("a//b")]
    [InlineData("./a")]
    [InlineData("")]
    [InlineData("a\0b")]
    public void A_path_that_leaves_the_share_is_refused(string path) =>
        new DirectoryShare(folder).Resolve(path).Refusal.ShouldNotBeNull().Code.ShouldBe("path-leaves-share");

    [Fact]
    public async Task Nothing_is_read_or_deleted_through_a_link()
    {
        var outside = Directory.CreateTempSubdirectory("widekeel-outside-").FullName;
        var target = Path.Combine(outside, "precious.txt");
        await File.WriteAllTextAsync(target, "precious", Stop);
        Directory.CreateSymbolicLink(Path.Combine(folder, "way-out"), outside);
        var share = new DirectoryShare(folder);
        share.Resolve("way-out/precious.txt").Refusal.ShouldNotBeNull().Code.ShouldBe("path-through-link");
        (await share.HashAsync("way-out/precious.txt", Stop)).ShouldBeNull();
        share.Delete([new("way-out/precious.txt")]).Count.ShouldBe(1);
        File.Exists(target).ShouldBeTrue();
        Directory.Delete(outside, recursive: true);
    }

    [Fact]
    public void A_walk_gives_every_file_once_and_in_the_same_order_each_time()
    {
        foreach (var path in new[] { "b/2.txt", "a/1.txt", "b/a/3.txt", "0.txt" })
        {
            Directory.CreateDirectory(Path.GetDirectoryName(Path.Combine(folder, path))!);
            File.WriteAllText(Path.Combine(folder, path), path);
        }

        var first = new DirectoryShare(folder).Walk().Select(f => f.Path).ToList();
        first.ShouldBe(["0.txt", "a/1.txt", "b/2.txt", "b/a/3.txt"]);
        new DirectoryShare(folder).Walk().Select(f => f.Path).ShouldBe(first);
    }

    [Fact]
    public void Deleting_what_is_gone_already_is_no_failure() =>
        new DirectoryShare(folder).Delete([new("never/was.txt")]).ShouldBeEmpty();

    [Fact]
    public async Task What_was_written_since_it_was_looked_at_is_not_deleted()
    {
        var file = Path.Combine(folder, "memo.txt");
        await File.WriteAllTextAsync(file, "the first words", Stop);
        var share = new DirectoryShare(folder);
        var signed = await share.HashAsync("memo.txt", Stop);
        await File.WriteAllTextAsync(file, "other words", Stop);
        share.Delete([new("memo.txt", signed)]).Count.ShouldBe(1);
        (await File.ReadAllTextAsync(file, Stop)).ShouldBe("other words");
    }

    [Fact]
    public async Task What_is_as_it_was_looked_at_is_deleted_and_leaves_nothing_beside_it()
    {
        await File.WriteAllTextAsync(Path.Combine(folder, "memo.txt"), "the first words", Stop);
        var share = new DirectoryShare(folder);
        share.Delete([new("memo.txt", await share.HashAsync("memo.txt", Stop))]).ShouldBeEmpty();
        Directory.GetFileSystemEntries(folder).ShouldBeEmpty();
    }

    [Fact]
    public async Task What_a_deletion_that_was_cut_off_had_set_aside_goes_with_the_next_try()
    {
        await File.WriteAllTextAsync(Path.Combine(folder, Partial.Going("memo.txt")), "the first words", Stop);
        new DirectoryShare(folder).Delete([new("memo.txt")]).ShouldBeEmpty();
        Directory.GetFileSystemEntries(folder).ShouldBeEmpty();
    }

    [Fact]
    public void A_folder_is_not_deleted_in_the_place_of_a_file()
    {
        Directory.CreateDirectory(Path.Combine(folder, "memo.txt"));
        new DirectoryShare(folder).Delete([new("memo.txt")]).Count.ShouldBe(1);
        Directory.GetFileSystemEntries(folder).ShouldBe([Path.Combine(folder, "memo.txt")]);
    }

    [Theory]
    [InlineData("")]
    [InlineData("a")]
    [InlineData("some longer content")]
    public async Task A_file_s_hash_is_the_SHA_256_of_its_content(string content)
    {
        await File.WriteAllTextAsync(Path.Combine(folder, "f"), content, Stop);
        (await new DirectoryShare(folder).HashAsync("f", Stop)).ShouldBe(
            Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(content)))
        );
    }

    [Fact]
    public async Task Safekeeping_keeps_equal_content_once_and_gives_it_back_unchanged()
    {
        var keep = new Safekeeping(Path.Combine(folder, "safe"), new RestKeyring());
        await File.WriteAllTextAsync(Path.Combine(folder, "one"), "same", Stop);
        await File.WriteAllTextAsync(Path.Combine(folder, "two"), "same", Stop);
        var hash = await PutAsync(keep, "one");
        (await PutAsync(keep, "two")).ShouldBe(hash);
        Directory.EnumerateFiles(Path.Combine(folder, "safe"), "*", SearchOption.AllDirectories).Count().ShouldBe(1);
        using (var reader = new StreamReader(keep.Open(hash)!))
        {
            (await reader.ReadToEndAsync(Stop)).ShouldBe("same");
        }

        keep.Remove(hash);
        keep.Has(hash).ShouldBeFalse();
        keep.Remove(hash);
        Should.Throw<ArgumentException>(() => keep.Has("../../etc/passwd"));
    }

    private async Task<string> PutAsync(Safekeeping keep, string name)
    {
        await using var content = File.OpenRead(Path.Combine(folder, name));
        return await keep.PutAsync(content, Stop);
    }

    [Fact]
    public async Task What_an_interrupted_copy_left_is_tidied_and_whole_copies_stay()
    {
        var keep = new Safekeeping(Path.Combine(folder, "safe"), new RestKeyring());
        await File.WriteAllTextAsync(Path.Combine(folder, "one"), "whole", Stop);
        var hash = await PutAsync(keep, "one");
        var half = Path.Combine(folder, "safe", "x.partial");
        await File.WriteAllTextAsync(half, "ha", Stop);
        keep.Tidy();
        File.Exists(half).ShouldBeFalse();
        keep.Has(hash).ShouldBeTrue();
    }

    [Fact]
    public async Task Front_matter_gives_title_author_day_and_date_fields()
    {
        var read = await ExtractAsync(
            "a.md",
            "---\ntitle: Voyage 7\nauthor: T. Solberg\ncreated: 2020-02-29\nLast Entry: 2021-03-04\nnote: not a date\n---\nBody text\n"
        );
        (read.Title, read.Author, read.Created).ShouldBe(("Voyage 7", "T. Solberg", new LocalDate(2020, 2, 29)));
        read.Dates.ShouldBe(new Dictionary<string, LocalDate> { ["last-entry"] = new(2021, 3, 4) });
        read.Text.ShouldBe("Body text\n");
    }

    [Fact]
    public async Task A_page_gives_its_text_without_script_and_its_meta_fields()
    {
        var read = await ExtractAsync(
            "a.html",
            "<html><head><title>Invoice 4</title><meta name='created' "
                + "content='2019-05-04'><script>alert('no')</script></head><body><p>Marine "
                + "<b>paint</b></p></body></html>"
        );
        (read.Title, read.Created).ShouldBe(("Invoice 4", new LocalDate(2019, 5, 4)));
        read.Text.ShouldContain("Marine paint");
        read.Text.ShouldNotContain("alert");
    }

    [Fact]
    public async Task A_mail_gives_sender_subject_day_and_body()
    {
        // RFC 5322 appendix A.1.1, typed.
        var read = await ExtractAsync(
            "a.eml",
            "From: John Doe <jdoe@machine.example>\r\nTo: Mary Smith <mary@example.net>\r\n"
                + "Subject: Saying Hello\r\nDate: Fri, 21 Nov 1997 09:55:06 -0600\r\n"
                + "Message-ID: <1234@local.machine.example>\r\n\r\nThis is a message just to say hello.\r\n"
                + "So, \"Hello\".\r\n"
        );
        (read.Title, read.Author, read.Created).ShouldBe(
            ("Saying Hello", "jdoe@machine.example", new LocalDate(1997, 11, 21))
        );
        read.Dates["sent"].ShouldBe(new LocalDate(1997, 11, 21));
        read.Text.ShouldContain("just to say hello");
    }

    [Fact]
    public async Task A_document_gives_its_paragraphs_and_core_properties()
    {
        var file = Path.Combine(folder, "a.docx");
        using (var document = WordprocessingDocument.Create(file, WordprocessingDocumentType.Document))
        {
            document.AddMainDocumentPart().Document = new Document(
                new Body(new Paragraph(new Run(new Text("First"))), new Paragraph(new Run(new Text("Second"))))
            );
            document.PackageProperties.Title = "Charter";
            document.PackageProperties.Created = new DateTime(2018, 6, 1, 0, 0, 0, DateTimeKind.Utc);
        }

        var read = await ReadAsync(file, "docx");
        read.Text.ShouldBe("First\nSecond\n");
        (read.Title, read.Created).ShouldBe(("Charter", new LocalDate(2018, 6, 1)));
    }

    [Fact]
    public async Task A_presentation_gives_its_slides_in_their_order_with_their_notes()
    {
        var file = Path.Combine(folder, "a.pptx");
        using (var document = PresentationDocument.Create(file, PresentationDocumentType.Presentation))
        {
            var presentation = document.AddPresentationPart();
            var (second, first) = (
                presentation.AddNewPart<SlidePart>("late"),
                presentation.AddNewPart<SlidePart>("early")
            );
            first.Slide = new P.Slide(Shown("Pier 4", "after the contact"));
            second.Slide = new P.Slide(Shown("Costs"));
            first.AddNewPart<NotesSlidePart>().NotesSlide = new P.NotesSlide(Shown("Say who pays."));
            presentation.Presentation = new P.Presentation(
                new P.SlideIdList(
                    new P.SlideId { Id = 256, RelationshipId = "early" },
                    new P.SlideId { Id = 257, RelationshipId = "late" }
                )
            );
            document.PackageProperties.Title = "To the board";
        }

        var read = await ReadAsync(file, "pptx");
        (read.Text, read.Title, read.Limit).ShouldBe(
            ("Pier 4\nafter the contact\nSay who pays.\nCosts\n", "To the board", null)
        );
        TextExtraction.Reads("pptx").ShouldBeTrue();

        static P.CommonSlideData Shown(params string[] lines) =>
            new(
                new P.ShapeTree(
                    new P.Shape(new P.TextBody(lines.Select(l => new A.Paragraph(new A.Run(new A.Text(l))))))
                )
            );
    }

    [Fact]
    public async Task Every_file_of_the_demo_gives_text_and_none_a_limit()
    {
        new Documents(3, new LocalDate(2026, 6, 15)).Write(folder, 1);
        var seen = new HashSet<string>();
        foreach (
            var file in Directory.EnumerateFiles(folder, "*", SearchOption.AllDirectories).Where((_, i) => i % 7 == 0)
        )
        {
            var type = Path.GetExtension(file)[1..];
            var read = await ReadAsync(file, type);
            read.Limit.ShouldBeNull(file);
            read.Text.ShouldNotBeNullOrWhiteSpace(file);
            seen.Add(type);
        }

        seen.ShouldBe(["md", "docx", "pdf", "eml", "csv", "txt", "xlsx", "html"], ignoreOrder: true);
    }

    [Theory]
    [InlineData("<script>alert(1)</script><p onclick='x()'>ok</p>")]
    [InlineData("<img src='http://tracker.example/x.png'><p>ok</p>")]
    [InlineData("<a href='javascript:alert(1)'>ok</a>")]
    [InlineData("<iframe src='https://evil.example'></iframe><p style='background:url(http://evil.example)'>ok</p>")]
    [InlineData("<svg onload=alert(1)></svg><form action='http://evil.example'><input></form>ok")]
    public void A_previewed_page_does_nothing_and_fetches_nothing(string html)
    {
        var safe = SafeHtml.Sanitize(html);
        safe.ShouldContain("ok");
        safe.ShouldNotContain("script");
        safe.ShouldNotContain("http");
        safe.ShouldNotContain("onclick");
        safe.ShouldNotContain("onload");
        safe.ShouldNotContain("<form");
    }

    private static async Task<Extracted> ReadAsync(string file, string type)
    {
        await using var content = File.OpenRead(file);
        return await TextExtraction.ExtractAsync(content, type, Stop);
    }

    private async Task<Extracted> ExtractAsync(string name, string content)
    {
        var file = Path.Combine(folder, name);
        await File.WriteAllTextAsync(file, content, Stop);
        return await ReadAsync(file, Path.GetExtension(name)[1..]);
    }
}
