using System.Globalization;
using System.Security.Cryptography;
using MimeKit;
using WideKeel.Core.Matters;

namespace WideKeel.Sources;

/// <summary>What a load file tells of a message, and its attachments as documents of their own.</summary>
/// <param name="From">The first sender's address.</param>
/// <param name="To">Addresses, as are those of the copies.</param>
/// <param name="MessageId">Without its brackets; null where it has none.</param>
/// <param name="Sent">When the message says that it was sent, in the zone that it says; null where it does not.</param>
public sealed record MailParts(
    string? From,
    string? To,
    string? Cc,
    string? Bcc,
    string? Subject,
    string? MessageId,
    DateTimeOffset? Sent,
    IReadOnlyList<MailAttachment> Attachments
)
{
    /// <summary>Null where it cannot be read as a message.</summary>
    public static MailParts? Read(Stream content)
    {
        try
        {
            using var message = MimeMessage.Load(content);
            return new(
                message.From.Mailboxes.FirstOrDefault()?.Address,
                Addresses(message.To),
                Addresses(message.Cc),
                Addresses(message.Bcc),
                message.Subject,
                message.MessageId,
                message.Headers.Contains(HeaderId.Date) && message.Date != default ? message.Date : null,
                [.. Attached(message).Take(TextExtraction.MaxAttachments).Select(Attachment)]
            );
        }
        catch (Exception e) when (e is FormatException or ParseException)
        {
            return null;
        }
    }

    /// <summary>
    /// The parts of a message that are documents of their own: what is attached, what another message encloses, and what
    /// stands between its words under a name of its own. An attached message is one part; what it carries is its own.
    /// </summary>
    internal static IEnumerable<MimeEntity> Attached(MimeMessage message) =>
        message.BodyParts.Where(p =>
            p.IsAttachment || p is MessagePart || (NameIn(p) is not null && (p is not TextPart || p != message.Body))
        );

    /// <summary>
    /// The file name of a part. An attached message that has none is called by its subject (RFC 2046 section 5.2.1 gives
    /// it no name).
    /// </summary>
    internal static string NameOf(MimeEntity part)
    {
        var name =
            NameIn(part)
            ?? (part is MessagePart { Message.Subject: { Length: > 0 } subject } ? subject : "without a name");
        // It heads the text of the attachment and stands in a list of lines.
        var line = string.Join(' ', name.Split(['\r', '\n'], StringSplitOptions.RemoveEmptyEntries));
        return part is MessagePart && !line.EndsWith(".eml", StringComparison.OrdinalIgnoreCase) ? $"{line}.eml" : line;
    }

    private static string? NameIn(MimeEntity part) =>
        (part.ContentDisposition?.FileName ?? part.ContentType.Name) is { Length: > 0 } name ? name : null;

    private static string? Addresses(InternetAddressList list)
    {
        var addresses = string.Join("; ", list.Mailboxes.Select(m => m.Address));
        return addresses.Length == 0 ? null : addresses;
    }

    private static MailAttachment Attachment(MimeEntity part)
    {
        using var memory = new MemoryStream();
        switch (part)
        {
            case MimePart { Content: { } content }:
                content.DecodeTo(memory);
                break;
            case MessagePart { Message: { } enclosed }:
                enclosed.WriteTo(memory);
                break;
            default:
                part.WriteTo(memory);
                break;
        }

        return new(NameOf(part), memory.ToArray());
    }

    /// <summary>
    /// SHA-256 of what lies within the message: its attachments, each the document of the family that it is, and what lies
    /// within those that are messages or archives themselves.
    /// </summary>
    public IReadOnlyList<HeldContent> Holds() =>
        [
            .. Attachments
                .Index()
                .SelectMany(a => a.Item.Holds().Prepend(new HeldContent(a.Index + 2, Hash(a.Item.Content)))),
        ];

    internal static string Hash(byte[] content) => Convert.ToHexStringLower(SHA256.HashData(content));

    /// <summary>The moment as ISO 8601 with its zone.</summary>
    public string? SentText => Sent?.ToString("yyyy-MM-dd'T'HH:mm:sszzz", CultureInfo.InvariantCulture);
}

public sealed record MailAttachment(string Name, byte[] Content)
{
    /// <summary>SHA-256 of what lies within it, where it is a message or an archive.</summary>
    public IReadOnlyList<HeldContent> Holds() =>
        [.. Enclosed.HashesIn(Name, Content).Select(h => new HeldContent(null, h))];
}
