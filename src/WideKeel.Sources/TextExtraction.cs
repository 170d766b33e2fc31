using System.Buffers;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Text.Unicode;
using AngleSharp.Html.Parser;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.CustomProperties;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Presentation;
using DocumentFormat.OpenXml.Spreadsheet;
using DocumentFormat.OpenXml.Wordprocessing;
using MimeKit;
using NodaTime;
using NodaTime.Text;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Exceptions;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;

namespace WideKeel.Sources;

/// <summary>What was drawn from a file.</summary>
/// <param name="Text">Plain text, at most <see cref="TextExtraction.MaxCharacters"/> characters.</param>
/// <param name="Limit">Why this is not all there is; null when it is.</param>
/// <param name="Owner">Who answers for it: its field "owner", or who saved it last.</param>
/// <param name="Subject">What events refer to it by: its field "subject reference".</param>
/// <param name="Created">The date on which the document itself says it was made.</param>
/// <param name="Dates">Date fields by name, lower case with hyphens.</param>
public sealed record Extracted(
    string Text,
    string? Limit,
    string? Title,
    string? Author,
    string? Owner,
    string? Subject,
    LocalDate? Created,
    IReadOnlyDictionary<string, LocalDate> Dates
)
{
    /// <summary>What all messages of one conversation share; null for what is no message.</summary>
    public string? Thread { get; init; }

    /// <summary>Names of a message's attachments.</summary>
    public IReadOnlyList<string> Attachments { get; init; } = [];

    /// <summary>Further fields whose value is no date, by name, lower case with hyphens.</summary>
    public IReadOnlyDictionary<string, string> Fields { get; init; } = new Dictionary<string, string>();

    /// <summary>It, or something within it, is protected with a password.</summary>
    public bool IsProtected { get; init; }

    /// <summary>It has pages and no text on them.</summary>
    public bool IsScan { get; init; }

    /// <summary>How much of it a search of words can find.</summary>
    /// <param name="bytes">Of the file.</param>
    public Searchable Searchable(long bytes) =>
        IsProtected ? Core.Content.Searchable.Password
        : IsScan ? Core.Content.Searchable.Scan
        : bytes == 0 ? Core.Content.Searchable.Whole
        : string.IsNullOrWhiteSpace(Text) ? Core.Content.Searchable.None
        : Limit is not null ? Core.Content.Searchable.Part
        : Core.Content.Searchable.Whole;

    public static Extracted Protected { get; } =
        Nothing("No text was read: it is protected with a password.") with
        {
            IsProtected = true,
        };

    public static Extracted Nothing(string? limit) =>
        new("", limit, null, null, null, null, null, new Dictionary<string, LocalDate>());
}

/// <summary>
/// Text and fields of the formats that the product reads. Never throws for what is inside a file: the limit says what
/// went wrong.
/// </summary>
public static class TextExtraction
{
    public const int MaxCharacters = 1_000_000;

    /// <summary>Bytes of a document that is opened as a whole.</summary>
    public const long MaxDocumentBytes = 100_000_000;

    /// <summary>Bytes that the parts of a zipped document may unpack to, together.</summary>
    public const long MaxUnpackedBytes = 200_000_000;

    /// <summary>
    /// Attachments of a message that are documents of their own; where there are more, the limit tells their number.
    /// </summary>
    internal const int MaxAttachments = 1_000;

    /// <summary>
    /// Attachments of a message whose text is drawn; those after them are documents without text, and the limit says
    /// so.
    /// </summary>
    private const int MaxAttachmentsRead = 50;

    private const long MaxAttachmentBytes = 20_000_000;
    private const int MaxFieldName = 40;
    private const int MaxFields = 50;
    private const int ShortMailBytes = 128 << 10;
    private const int EncodingBytes = 1 << 20;
    private static readonly Encoding Windows1252 = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;

    /// <summary>What stands in a mailbox, which has no name with a type.</summary>
    private const string Message = "message";
    private const string Archive = "zip";

    /// <summary>How deep files are read that lie in files: messages in messages, archives in archives.</summary>
    private const int MaxDepth = 4;
    private static readonly HashSet<string> PlainTypes = ["txt", "md", "csv", "log", "json", "xml"];
    private static readonly HashSet<string> UsualCharsets = new(StringComparer.OrdinalIgnoreCase)
    {
        "utf-8",
        "us-ascii",
    };
    private static readonly Dictionary<string, Func<Stream, Extracted>> Documents = new()
    {
        ["html"] = Html,
        ["htm"] = Html,
        ["docx"] = Docx,
        ["xlsx"] = Xlsx,
        ["pptx"] = Pptx,
        ["pdf"] = Pdf,
        ["eml"] = Mail,
        [Archive] = file => Zip(file, depth: 0),
        [Message] = Mail,
    };

    [ThreadStatic]
    private static MimeParser? mailParser;

    /// <summary>Whether text can be drawn from this type.</summary>
    public static bool Reads(string type) => PlainTypes.Contains(type) || Documents.ContainsKey(type);

    /// <summary>
    /// Text and fields of a file. A plain text is read here; a document, whose parser may never come back, by a process
    /// of its own (see <see cref="DocumentReaders"/>).
    /// </summary>
    /// <param name="content">Can be read from its beginning, and knows its length.</param>
    /// <param name="type">Lower-case extension without the dot.</param>
    public static async Task<Extracted> ExtractAsync(Stream content, string type, CancellationToken cancel)
    {
        if (content.Length == 0 || !Reads(type))
        {
            return Extracted.Nothing(null);
        }

        if (!PlainTypes.Contains(type))
        {
            return content.Length > MaxDocumentBytes
                ? Extracted.Nothing($"No text was read: the file has more than {MaxDocumentBytes / 1_000_000} MB.")
                : await DocumentReaders.Shared.ExtractAsync(content, type, cancel);
        }

        // The stream of a share blocks; nobody waits for a thread of requests.
        return await Task.Run(() => Plain(content, fields: type is "md" or "txt"), cancel);
    }

    /// <summary>
    /// Text and fields of a document, read in this process: for the process that reads documents. May take without end.
    /// </summary>
    internal static Extracted ReadDocument(Stream content, string type)
    {
        try
        {
            return Documents[type](content);
        }
        catch (TooMuchException e)
        {
            return Extracted.Nothing(e.Message);
        }
        catch (PdfDocumentEncryptedException)
        {
            return Extracted.Protected;
        }
        catch (Exception e) when (e is not OutOfMemoryException && IsProtectedPackage(content))
        {
            return Extracted.Protected;
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return Extracted.Nothing(
                $"No text was read: the file is not the {type} that its name says, or it is damaged."
            );
        }
    }

    /// <summary>
    /// Whether an office document is encrypted: it is then no archive, but a compound file with a stream named
    /// EncryptedPackage ([MS-OFFCRYPTO] section 2.3.4).
    /// </summary>
    private static bool IsProtectedPackage(Stream content)
    {
        ReadOnlySpan<byte> compound = [0xD0, 0xCF, 0x11, 0xE0, 0xA1, 0xB1, 0x1A, 0xE1];
        content.Position = 0;
        var head = new byte[(int)Math.Min(content.Length, EncodingBytes)];
        content.ReadExactly(head);
        return head.AsSpan().StartsWith(compound)
            && head.AsSpan().IndexOf(Encoding.Unicode.GetBytes("EncryptedPackage")) >= 0;
    }

    /// <summary>Text and fields of a message as it stands in a mailbox.</summary>
    public static async Task<Extracted> ExtractMailAsync(Stream message, CancellationToken cancel)
    {
        if (message.Length > ShortMailBytes)
        {
            return message.Length > MaxDocumentBytes
                ? Extracted.Nothing($"No text was read: the message has more than {MaxDocumentBytes / 1_000_000} MB.")
                : await DocumentReaders.Shared.ExtractAsync(message, Message, cancel);
        }

        try
        {
            // A short message of plain text is read sooner than a process is asked for it; what others carry may take
            // its time.
            using var parsed = Parse(message);
            if (parsed.Body is TextPart { IsPlain: true, IsAttachment: false })
            {
                return Mail(parsed);
            }
        }
        catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
        {
            return Extracted.Nothing("No text was read: the message is damaged.");
        }

        message.Position = 0;
        return await DocumentReaders.Shared.ExtractAsync(message, Message, cancel);
    }

    private static Extracted Plain(Stream stream, bool fields)
    {
        using var reader = new StreamReader(stream, EncodingOf(stream), detectEncodingFromByteOrderMarks: true);
        var buffer = new char[Math.Min(MaxCharacters, Math.Max(16, stream.Length)) + 1];
        var length = reader.ReadBlock(buffer, 0, buffer.Length);
        var cut = length > MaxCharacters;
        var text = new string(buffer, 0, Math.Min(length, MaxCharacters)).Replace('\0', ' ');
        var (head, body) = fields ? FrontMatter(text) : ([], text);
        return Build(body, cut ? CutWords : null, head);
    }

    /// <summary>
    /// The encoding of a text without a byte order mark: UTF-8 where its beginning is valid UTF-8; UTF-16 where every second
    /// byte is mostly zero, as it is in Latin scripts; otherwise windows-1252, which the Encoding Standard (WHATWG) reads
    /// Latin-1 as.
    /// </summary>
    private static Encoding EncodingOf(Stream stream)
    {
        var head = new byte[(int)Math.Min(EncodingBytes, stream.Length - stream.Position)];
        var start = stream.Position;
        stream.ReadExactly(head);
        stream.Position = start;
        Span<int> zeros = [0, 0];
        for (var i = 0; i < head.Length; i++)
        {
            zeros[i % 2] += head[i] == 0 ? 1 : 0;
        }

        return zeros[1] > head.Length / 5 && zeros[0] <= head.Length / 50 ? Encoding.Unicode
            : zeros[0] > head.Length / 5 && zeros[1] <= head.Length / 50 ? Encoding.BigEndianUnicode
            : IsUtf8(head) ? Encoding.UTF8
            : Windows1252;
    }

    /// <summary>A character may be cut, of at most four bytes, where only the beginning was looked at.</summary>
    private static bool IsUtf8(ReadOnlySpan<byte> head)
    {
        for (var cut = 0; cut <= (head.Length < EncodingBytes ? 0 : 3); cut++)
        {
            if (Utf8.IsValid(head[..^cut]))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>
    /// Fields at the top between two lines of three hyphens, one <c>name: value</c> a line, as many text tools write
    /// them.
    /// </summary>
    private static (List<(string, string)> Fields, string Body) FrontMatter(string text)
    {
        List<(string, string)> fields = [];
        if (!text.StartsWith("---\n", StringComparison.Ordinal))
        {
            return (fields, text);
        }

        var end = text.IndexOf("\n---\n", 3, StringComparison.Ordinal);
        if (end < 0)
        {
            return (fields, text);
        }

        foreach (var line in text[4..(end + 1)].Split('\n'))
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            if (colon > 0)
            {
                fields.Add((line[..colon], line[(colon + 1)..].Trim()));
            }
        }

        return (fields, text[(end + 5)..]);
    }

    private static Extracted Html(Stream file)
    {
        using var document = new HtmlParser().ParseDocument(file);
        foreach (var hidden in document.QuerySelectorAll("script,style,noscript,template"))
        {
            hidden.Remove();
        }

        List<(string, string)> fields =
        [
            .. document
                .QuerySelectorAll("meta[name][content]")
                .Select(m => (m.GetAttribute("name")!, m.GetAttribute("content")!)),
        ];
        if (!string.IsNullOrWhiteSpace(document.Title))
        {
            fields.Add(("title", document.Title));
        }

        return Build(Clip(document.Body?.TextContent ?? "", out var cut), cut, fields);
    }

    private static Extracted Docx(Stream file)
    {
        RefuseBomb(file);
        using var document = WordprocessingDocument.Open(
            file,
            false,
            new OpenSettings { MaxCharactersInPart = MaxUnpackedBytes }
        );
        var text = new StringBuilder();
        var main = document.MainDocumentPart;
        // What stands beside the text is read after it.
        foreach (
            var part in new OpenXmlElement?[]
            {
                main?.Document?.Body,
                main?.FootnotesPart?.Footnotes,
                main?.EndnotesPart?.Endnotes,
                main?.WordprocessingCommentsPart?.Comments,
            }
                .Concat(main?.HeaderParts.Select(h => h.Header) ?? [])
                .Concat(main?.FooterParts.Select(f => f.Footer) ?? [])
        )
        {
            foreach (var paragraph in part?.Descendants<Paragraph>() ?? [])
            {
                if (text.Length > MaxCharacters)
                {
                    break;
                }

                text.Append(paragraph.InnerText).Append('\n');
            }
        }

        return Build(
            Clip(text.ToString(), out var cut),
            cut,
            OfficeFields(document, document.CustomFilePropertiesPart)
        );
    }

    private static Extracted Xlsx(Stream file)
    {
        RefuseBomb(file);
        using var document = SpreadsheetDocument.Open(
            file,
            false,
            new OpenSettings { MaxCharactersInPart = MaxUnpackedBytes }
        );
        var shared =
            document
                .WorkbookPart?.SharedStringTablePart?.SharedStringTable?.Elements<SharedStringItem>()
                .Select(s => s.InnerText)
                .ToArray()
            ?? [];
        var text = new StringBuilder();
        foreach (var sheet in document.WorkbookPart?.WorksheetParts ?? [])
        {
            foreach (var line in LinesOf(sheet, shared).TakeWhile(_ => text.Length <= MaxCharacters))
            {
                text.Append(line).Append('\n');
            }
        }

        return Build(
            Clip(text.ToString(), out var cut),
            cut,
            OfficeFields(document, document.CustomFilePropertiesPart)
        );
    }

    /// <summary>Row by row, its cells parted by tabs; then comments, headers and footers.</summary>
    private static IEnumerable<string> LinesOf(WorksheetPart sheet, string[] shared)
    {
        foreach (var row in sheet.Worksheet?.Descendants<Row>() ?? [])
        {
            yield return string.Join(
                '\t',
                row.Elements<Cell>()
                    .Select(cell =>
                        cell.DataType?.Value == CellValues.SharedString
                        && int.TryParse(cell.InnerText, out var index)
                        && index >= 0
                        && index < shared.Length
                            ? shared[index]
                            : cell.InnerText
                    )
            );
        }

        var comments = sheet
            .WorksheetCommentsPart?.Comments?.Elements<DocumentFormat.OpenXml.Spreadsheet.CommentList>()
            .SelectMany(l => l);
        var heads = sheet.Worksheet?.Elements<DocumentFormat.OpenXml.Spreadsheet.HeaderFooter>().SelectMany(h => h);
        foreach (var beside in (comments ?? []).Concat(heads ?? []))
        {
            yield return beside.InnerText;
        }
    }

    /// <summary>Slide by slide in the order in which they are shown, each with its notes.</summary>
    private static Extracted Pptx(Stream file)
    {
        RefuseBomb(file);
        using var document = PresentationDocument.Open(
            file,
            false,
            new OpenSettings { MaxCharactersInPart = MaxUnpackedBytes }
        );
        var text = new StringBuilder();
        var presentation = document.PresentationPart;
        foreach (var id in presentation?.Presentation?.SlideIdList?.Elements<SlideId>() ?? [])
        {
            if (id.RelationshipId?.Value is { } slideId && presentation!.GetPartById(slideId) is SlidePart slide)
            {
                Append(slide.Slide);
                Append(slide.NotesSlidePart?.NotesSlide);
                foreach (var comment in slide.SlideCommentsPart?.CommentList?.Select(c => c.InnerText) ?? [])
                {
                    text.Append(comment).Append('\n');
                }
            }
        }

        return Build(
            Clip(text.ToString(), out var cut),
            cut,
            OfficeFields(document, document.CustomFilePropertiesPart)
        );

        void Append(OpenXmlElement? shown)
        {
            foreach (var paragraph in shown?.Descendants<DocumentFormat.OpenXml.Drawing.Paragraph>() ?? [])
            {
                if (text.Length <= MaxCharacters && paragraph.InnerText is { Length: > 0 } line)
                {
                    text.Append(line).Append('\n');
                }
            }
        }
    }

    private static List<(string, string)> OfficeFields(OpenXmlPackage package, CustomFilePropertiesPart? custom)
    {
        List<(string, string)> fields = [];
        var core = package.PackageProperties;
        Add("title", core.Title);
        Add("author", core.Creator);
        Add("owner", core.LastModifiedBy);
        Add("created", core.Created?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
        foreach (var property in custom?.Properties?.Elements<CustomDocumentProperty>() ?? [])
        {
            Add(property.Name?.Value, property.InnerText);
        }

        return fields;

        void Add(string? name, string? value)
        {
            if (!string.IsNullOrEmpty(name) && !string.IsNullOrEmpty(value))
            {
                fields.Add((name, value));
            }
        }
    }

    private static Extracted Pdf(Stream file)
    {
        using var document = PdfDocument.Open(file);
        var text = new StringBuilder();
        foreach (var page in document.GetPages())
        {
            if (text.Length > MaxCharacters)
            {
                break;
            }

            text.Append(UglyToad.PdfPig.DocumentLayoutAnalysis.TextExtractor.ContentOrderTextExtractor.GetText(page))
                .Append('\n');
        }

        List<(string, string)> fields = [];
        Add("title", document.Information.Title);
        Add("author", document.Information.Author);
        Add("created", PdfDate(document.Information.CreationDate));
        return string.IsNullOrWhiteSpace(text.ToString())
            ? Build("", "There is no text in it, as in a scan; its words cannot be searched.", fields) with
            {
                IsScan = true,
            }
            : Build(Clip(text.ToString(), out var cut), cut, fields);

        void Add(string name, string? value)
        {
            if (!string.IsNullOrWhiteSpace(value))
            {
                fields.Add((name, value));
            }
        }
    }

    /// <summary>ISO 32000-1 §7.9.4: <c>D:YYYYMMDDHHmmSS</c>; only the date is taken.</summary>
    private static string? PdfDate(string? value) =>
        value is { Length: >= 10 } && value.StartsWith("D:", StringComparison.Ordinal)
            ? $"{value[2..6]}-{value[6..8]}-{value[8..10]}"
            : null;

    private static Extracted Mail(Stream stream) => Mail(Parse(stream));

    /// <summary>
    /// A message whose parts stay in the stream, which therefore stays open as long as the message is used.
    /// </summary>
    private static MimeMessage Parse(Stream stream)
    {
        // A parser's buffers are larger than most messages, so each thread keeps one.
        var parser = mailParser ??= new(Stream.Null, MimeFormat.Entity);
        parser.SetStream(stream, MimeFormat.Entity, persistent: true);
        try
        {
            return parser.ParseMessage();
        }
        finally
        {
            parser.SetStream(Stream.Null, MimeFormat.Entity);
        }
    }

    /// <param name="depth">In how many messages it is enclosed.</param>
    private static Extracted Mail(MimeMessage message, int depth = 0)
    {
        using var parts = message;
        var body =
            PlainBody(message)
            ?? message.TextBody
            ?? (message.HtmlBody is { } html ? new HtmlParser().ParseDocument(html).Body?.TextContent : null)
            ?? "";
        var text =
            $"From: {message.From}\nTo: {message.To}\n{Copied("Cc", message.Cc)}{Copied("Bcc", message.Bcc)}"
            + $"Subject: {message.Subject}\n\n{body}";
        List<(string, string)> fields =
        [
            ("title", message.Subject ?? ""),
            ("author", message.From.Mailboxes.FirstOrDefault()?.Address ?? ""),
        ];
        if (message.Date != default)
        {
            var sent = message.Date.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);
            fields.AddRange([("created", sent), ("sent", sent)]);
        }

        var all = MailParts.Attached(message).ToList();
        var attachments = all.Take(MaxAttachments).ToList();
        text = Clip(text + AttachedTexts(attachments, depth, out var unread, out var guarded), out var limit);
        limit ??=
            all.Count > MaxAttachmentsRead
                ? string.Create(
                    CultureInfo.InvariantCulture,
                    $"Of {all.Count:N0} attachments only the first {MaxAttachmentsRead} were read."
                )
            : unread > 0 ? NotWhole(unread, "attachments", guarded)
            : null;
        return Build(text, limit, fields) with
        {
            // RFC 5322 section 3.6.4: the first reference is where the conversation began.
            Thread = Short(
                (message.References.FirstOrDefault() ?? message.InReplyTo ?? message.MessageId ?? "").Trim('<', '>')
            )
                is { Length: > 0 } thread
                ? thread
                : null,
            Attachments = [.. attachments.Select(MailParts.NameOf)],
            IsProtected = guarded > 0,
        };
    }

    private static string Copied(string name, InternetAddressList addresses) =>
        addresses.Count == 0 ? "" : $"{name}: {addresses}\n";

    /// <summary>
    /// What <see cref="MimeMessage.TextBody"/> says of the most usual message, that is one text in UTF-8 whose encoding
    /// and line breaks nothing changed, with no filter between; null for every other. What calls itself ASCII and is
    /// UTF-8 is read as what it is.
    /// </summary>
    private static string? PlainBody(MimeMessage message)
    {
        if (
            message.Body
                is not TextPart
                {
                    IsPlain: true,
                    IsFlowed: false,
                    IsAttachment: false,
                    Content:
                    {
                        Stream: { } stream,
                        Encoding: ContentEncoding.Default or ContentEncoding.SevenBit or ContentEncoding.EightBit
                    }
                } text
            || !(text.ContentType.Charset is null || UsualCharsets.Contains(text.ContentType.Charset))
        )
        {
            return null;
        }

        var length = (int)stream.Length;
        var bytes = ArrayPool<byte>.Shared.Rent(length);
        try
        {
            var read = bytes.AsSpan(0, length);
            stream.Position = 0;
            stream.ReadExactly(read);
            return Utf8.IsValid(read) && !read.StartsWith(Encoding.UTF8.Preamble)
                ? Encoding.UTF8.GetString(read).Replace("\r\n", "\n", StringComparison.Ordinal)
                : null;
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(bytes);
        }
    }

    /// <summary>The attachments with their names and texts.</summary>
    /// <param name="unread">How many of those that were looked at were not read whole.</param>
    /// <param name="guarded">How many of those are protected with a password.</param>
    private static string AttachedTexts(List<MimeEntity> attachments, int depth, out int unread, out int guarded)
    {
        (unread, guarded) = (0, 0);
        var texts = new StringBuilder();
        foreach (var (i, attachment) in attachments.Index())
        {
            texts.Append(Family.Heading(MailParts.NameOf(attachment)));
            if (i < MaxAttachmentsRead)
            {
                var (text, isWhole, isProtected) = TextOf(attachment, depth);
                texts.Append(text);
                unread += isWhole ? 0 : 1;
                guarded += isProtected ? 1 : 0;
            }
        }

        return texts.ToString();
    }

    private static string NotWhole(int unread, string of, int guarded)
    {
        var locked =
            guarded == 0
                ? ""
                : string.Create(CultureInfo.InvariantCulture, $"; {guarded:N0} of them protected with a password");
        return string.Create(
            CultureInfo.InvariantCulture,
            $"No text, or not all, was read of {unread:N0} of the {of}{locked}."
        );
    }

    /// <summary>
    /// The text of an attachment, and whether that is all of it: it is not of what is damaged, too large, too deep or
    /// without words although its type is read. Of pictures and the like nothing is expected.
    /// </summary>
    private static (string Text, bool IsWhole, bool IsProtected) TextOf(MimeEntity attachment, int depth)
    {
        try
        {
            switch (attachment)
            {
                case MessagePart { Message: { } enclosed }:
                    var message = depth < MaxDepth ? Mail(enclosed, depth + 1) : null;
                    return (message?.Text ?? "", message is { Limit: null }, message is { IsProtected: true });
                case MimePart { Content: { } content }:
                    using (var decoded = new MemoryStream())
                    {
                        content.DecodeTo(decoded);
                        var (type, bytes) = (TypeOf(MailParts.NameOf(attachment)), decoded.Length);
                        var inner = Within(decoded, type, depth + 1);
                        return (
                            inner?.Text ?? "",
                            !Reads(type) || IsWhole(inner, bytes),
                            inner is { IsProtected: true }
                        );
                    }
                default:
                    return ("", true, false);
            }
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return ("", false, false);
        }
    }

    private static bool IsWhole(Extracted? inner, long bytes) =>
        bytes == 0 || (inner is { Limit: null } && !string.IsNullOrWhiteSpace(inner.Text));

    /// <summary>What is read of a file within another; null where nothing is.</summary>
    private static Extracted? Within(MemoryStream file, string type, int depth)
    {
        file.Position = 0;
        return file.Length > MaxAttachmentBytes || depth > MaxDepth || !Reads(type) ? null
            : PlainTypes.Contains(type) ? Plain(file, fields: false)
            : type == Archive ? Zip(file, depth)
            : type is "eml" ? Mail(Parse(file), depth)
            : ReadDocument(file, type);
    }

    private static string TypeOf(string name) => Path.GetExtension(name).TrimStart('.').ToLowerInvariant();

    /// <summary>The names of the files in an archive, each with its text.</summary>
    private static Extracted Zip(Stream file, int depth)
    {
        RefuseBomb(file);
        using var zip = new ZipArchive(file, ZipArchiveMode.Read, leaveOpen: true);
        var (unread, guarded) = (0, 0);
        var text = new StringBuilder();
        foreach (var entry in zip.Entries.Where(e => e.Name.Length > 0))
        {
            if (text.Length > MaxCharacters)
            {
                break;
            }

            Extracted? inner = entry.IsEncrypted ? Extracted.Protected : null;
            try
            {
                using var unpacked = new MemoryStream();
                if (inner is null)
                {
                    using var content = entry.Open();
                    content.CopyTo(unpacked);
                }

                inner ??= Within(unpacked, TypeOf(entry.Name), depth + 1);
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // Damaged: it is counted.
            }

            unread += IsWhole(inner, entry.Length) ? 0 : 1;
            guarded += inner is { IsProtected: true } ? 1 : 0;
            text.Append("File: ").Append(entry.FullName).Append('\n').Append(inner?.Text).Append('\n');
        }

        var read = Clip(text.ToString(), out var limit);
        return Build(read, limit ?? (unread > 0 ? NotWhole(unread, "files in the archive", guarded) : null), []) with
        {
            IsProtected = guarded > 0,
        };
    }

    /// <summary>
    /// Counts what a zipped document really unpacks to, before a parser sees it; the sizes that it declares may lie.
    /// </summary>
    private static void RefuseBomb(Stream file)
    {
        using var zip = new ZipArchive(file, ZipArchiveMode.Read, leaveOpen: true);
        long unpacked = 0;
        var buffer = new byte[81_920];
        // What is encrypted is not unpacked by anything here.
        foreach (var entry in zip.Entries.Where(e => !e.IsEncrypted))
        {
            using var part = entry.Open();
            int read;
            while ((read = part.Read(buffer)) > 0)
            {
                unpacked += read;
                if (unpacked > MaxUnpackedBytes)
                {
                    throw new TooMuchException(
                        $"No text was read: the document unpacks to more than {MaxUnpackedBytes / 1_000_000} MB."
                    );
                }
            }
        }

        file.Position = 0;
    }

    private static Extracted Build(string text, string? limit, List<(string Name, string Value)> fields)
    {
        string? title = null,
            author = null,
            owner = null,
            subject = null;
        LocalDate? created = null;
        Dictionary<string, LocalDate> dates = [];
        Dictionary<string, string> texts = [];
        foreach (var (rawName, value) in fields.Take(MaxFields))
        {
            var name = rawName.Trim().ToLowerInvariant().Replace(' ', '-').Replace('_', '-');
            switch (name)
            {
                case "title":
                    title = Short(value);
                    break;
                case "author" or "creator":
                    author = Short(value);
                    break;
                case "owner":
                    owner = Short(value);
                    break;
                case "subject-reference":
                    subject = Short(value);
                    break;
                default:
                    if (name.Length is > 0 and <= MaxFieldName && DateIn(value) is { } date)
                    {
                        if (name is "created" or "date")
                        {
                            created = date;
                        }
                        else
                        {
                            dates[name] = date;
                        }
                    }
                    else if (
                        name.Length is > 0 and <= MaxFieldName
                        && name is not ("created" or "date")
                        && Short(value) is { } said
                    )
                    {
                        texts[name] = said;
                    }

                    break;
            }
        }

        return new(text, limit, title, author, owner, subject, created, dates) { Fields = texts };
    }

    private static LocalDate? DateIn(string value) =>
        value.Length >= 10
        && LocalDatePattern.Iso.Parse(value.Trim()[..Math.Min(10, value.Trim().Length)]) is { Success: true } parsed
            ? parsed.Value
            : null;

    private static string? Short(string value) =>
        string.IsNullOrWhiteSpace(value) ? null
        : value.Length <= 300 ? value.Trim()
        : value[..300].Trim() + "…";

    private static string Clip(string text, out string? limit)
    {
        limit = text.Length > MaxCharacters ? CutWords : null;
        return limit is null ? text : text[..MaxCharacters];
    }

    private static string CutWords =>
        string.Create(CultureInfo.InvariantCulture, $"Only the first {MaxCharacters:N0} characters were read.");

    private sealed class TooMuchException(string message) : Exception(message);
}
