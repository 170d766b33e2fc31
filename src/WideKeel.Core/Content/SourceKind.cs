namespace WideKeel.Core.Content;

/// <summary>What kind of system holds the content. Both can be observed only: neither asks before something changes.</summary>
public enum SourceKind
{
    /// <summary>A directory tree; each file is an item.</summary>
    Share,

    /// <summary>Mailboxes (mbox, RFC 4155) and folders of messages (.eml, RFC 5322); each message is an item, with its attachments.</summary>
    Mail,
}
