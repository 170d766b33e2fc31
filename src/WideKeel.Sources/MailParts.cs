using MimeKit;

namespace WideKeel.Sources;

/// <summary>What a load file tells of a message, and its attachments as documents of their own.</summary>
/// <param name="To">All recipients, the copied ones included.</param>
/// <param name="MessageId">Without its brackets; null where it has none.</param>
public sealed record MailParts(
    string? To,
    string? Subject,
    string? MessageId,
    IReadOnlyList<MailAttachment> Attachments
)
{
    /// <summary>Null where it cannot be read as a message.</summary>
    public static MailParts? Read(Stream content)
    {
        try
        {
            using var message = MimeMessage.Load(content);
            var to = string.Join(
                "; ",
                message.To.Mailboxes.Concat(message.Cc.Mailboxes).Concat(message.Bcc.Mailboxes).Select(m => m.Address)
            );
            return new(
                to.Length == 0 ? null : to,
                message.Subject,
                message.MessageId,
                [.. message.Attachments.Take(TextExtraction.MaxAttachments).Select(Attachment)]
            );
        }
        catch (Exception e) when (e is FormatException or ParseException)
        {
            return null;
        }
    }

    private static MailAttachment Attachment(MimeEntity part)
    {
        using var memory = new MemoryStream();
        if (part is MimePart { Content: { } content })
        {
            content.DecodeTo(memory);
        }
        else
        {
            part.WriteTo(memory);
        }

        return new(TextExtraction.NameOf(part), memory.ToArray());
    }
}

public sealed record MailAttachment(string Name, byte[] Content);
