namespace WideKeel.Core.Content;

/// <summary>
/// What kind of system holds the content. The first two can be observed only: they do not ask before something changes.
/// </summary>
public enum SourceKind
{
    /// <summary>A directory tree; each file is an item.</summary>
    Share,

    /// <summary>
    /// Mailboxes (mbox, RFC 4155) and folders of messages (.eml, RFC 5322); each message is an item, with its
    /// attachments.
    /// </summary>
    Mail,

    /// <summary>
    /// Libraries of files where people work within the product: every change is asked for first, and allowed, kept or
    /// refused by grade.
    /// </summary>
    Workspace,
}
