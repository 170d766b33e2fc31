using WideKeel.Core;
using WideKeel.Core.Content;

namespace WideKeel.Sources;

/// <summary>
/// A system that holds content, as the product sees all of them. Paths are beneath its root, with forward slashes.
/// </summary>
public interface IContentSource
{
    /// <summary>Lists everything in a steady order.</summary>
    IEnumerable<Found> Walk();

    /// <summary>
    /// The content of one thing; null when it is not there. Throws <see cref="IOException"/> or
    /// <see cref="UnauthorizedAccessException"/> when it cannot be read.
    /// </summary>
    Stream? Open(string relative);

    /// <summary>
    /// SHA-256 of the content in lower-case hex; null when it is not there. Throws like <see cref="Open"/>.
    /// </summary>
    Task<string?> HashAsync(string relative, CancellationToken cancel);

    /// <param name="type">Lower-case extension without the dot.</param>
    Task<Extracted> ExtractAsync(string relative, string type, CancellationToken cancel);

    /// <summary>
    /// Deletes, and makes sure that each is gone. What could not be deleted, with the reason; what was gone already is
    /// gone.
    /// </summary>
    IReadOnlyDictionary<string, string> Delete(IReadOnlyCollection<Removal> removals);

    /// <summary>
    /// Puts content at its place, or beside it where something else lies there: nothing is overwritten. Returns the
    /// path that it lies under. Throws like <see cref="Open"/> when the source does not take it.
    /// </summary>
    Task<string> PlaceAsync(string relative, Func<Stream> content, CancellationToken cancel);
}

/// <param name="Path">Beneath the root.</param>
/// <param name="Hash">SHA-256 in lower-case hex of what is meant: anything else that lies there stays. Null: whatever
/// lies there.</param>
public sealed record Removal(string Path, string? Hash = null);

public static class ContentSources
{
    public static IContentSource Of(SourceKind kind, string root) =>
        kind switch
        {
            SourceKind.Share => new DirectoryShare(root),
            SourceKind.Mail => new MailStore(root),
            SourceKind.Workspace => new WorkspaceFolder(root),
            _ => throw new ArgumentOutOfRangeException(nameof(kind)),
        };
}
