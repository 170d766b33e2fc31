using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using MimeKit.Utils;
using NodaTime;

namespace WideKeel.Sources;

/// <summary>
/// A directory of mailboxes in the mbox format (RFC 4155) and of single messages (.eml). A message in a mailbox has the
/// path <c>box.mbox/HASH.eml</c> with the first 16 digits of its SHA-256, so that it keeps its name wherever in the
/// file it stands; of messages that are alike to the last byte, the later ones end in <c>-2</c>, <c>-3</c> …. Its
/// content is what stands between two "From " lines, without the blank line at its end, byte for byte.
/// </summary>
public sealed class MailStore(string root) : IContentSource
{
    private const int BufferSize = 1 << 20;
    private const int MostIndexes = 32;
    private const string LockedBy = "wide-keel";
    private const int LongestMark = 500;

    /// <summary>Tells a run of the product from one before it that had the same process id, as in a container.</summary>
    private static readonly string Run = Guid.NewGuid().ToString("N");

    /// <summary>
    /// The messages of a mailbox by their names, in the order in which they stand, as long as the file is the same.
    /// </summary>
    private static readonly ConcurrentDictionary<
        (string File, long Bytes, long Ticks),
        OrderedDictionary<string, Letter>
    > Indexes = new();

    private readonly DirectoryShare share = new(root);

    public IEnumerable<Found> Walk()
    {
        foreach (var found in share.Walk())
        {
            switch (found)
            {
                case Found.File file when IsBox(file.Path):
                    IReadOnlyCollection<Letter> letters;
                    string? failure = null;
                    try
                    {
                        using var box = share.OpenFile(file.Path);
                        letters = box is null ? [] : IndexOf(box, file.Path).Values;
                    }
                    catch (Exception e) when (e is IOException or UnauthorizedAccessException)
                    {
                        letters = [];
                        failure = DirectoryShare.Words(e);
                    }

                    if (failure is not null || (letters.Count == 0 && file.Bytes > 0))
                    {
                        yield return new Found.Unreadable(
                            file.Path,
                            failure ?? "It is no mailbox: it does not begin with a “From ” line."
                        );
                    }

                    foreach (var letter in letters)
                    {
                        yield return new Found.File(
                            $"{file.Path}/{letter.Name}",
                            letter.Length,
                            letter.Sent,
                            letter.Sent
                        )
                        {
                            Hash = letter.Hash,
                        };
                    }

                    break;
                case Found.File file when !file.Path.EndsWith(".eml", StringComparison.OrdinalIgnoreCase):
                    // Indexes and locks of mail programs are no content.
                    break;
                default:
                    yield return found;
                    break;
            }
        }
    }

    public Stream? Open(string relative)
    {
        if (BoxOf(relative) is not { } box)
        {
            return share.Open(relative);
        }

        using var stream = share.OpenFile(box);
        if (stream is null || !IndexOf(stream, box).TryGetValue(relative[(box.Length + 1)..], out var letter))
        {
            return null;
        }

        // The whole message at once.
        stream.Seek(letter.Start, SeekOrigin.Begin);
        var bytes = GC.AllocateUninitializedArray<byte>(letter.Length);
        stream.ReadExactly(bytes);
        return new MemoryStream(bytes, writable: false);
    }

    public async Task<string?> HashAsync(string relative, CancellationToken cancel)
    {
        if (BoxOf(relative) is null)
        {
            return await share.HashAsync(relative, cancel);
        }

        await using var stream = Open(relative);
        return stream is null ? null : Convert.ToHexStringLower(await SHA256.HashDataAsync(stream, cancel));
    }

    public async Task<Extracted> ExtractAsync(string relative, string type, CancellationToken cancel)
    {
        await using var stream = Open(relative);
        return stream is null
            ? Extracted.Nothing("It was gone before it could be read.")
            : await TextExtraction.ExtractMailAsync(stream, cancel);
    }

    public IReadOnlyDictionary<string, string> Delete(IReadOnlyCollection<Removal> removals)
    {
        var failures = new Dictionary<string, string>(share.Delete([.. removals.Where(r => BoxOf(r.Path) is null)]));
        var boxes = removals.Select(r => r.Path).Where(r => BoxOf(r) is not null).GroupBy(r => BoxOf(r)!);
        foreach (var box in boxes)
        {
            string? failure;
            try
            {
                failure = Rewrite(box.Key, [.. box.Select(r => r[(box.Key.Length + 1)..])]);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                failure = DirectoryShare.Words(e);
            }

            foreach (var relative in box.Where(_ => failure is not null))
            {
                failures[relative] = failure!;
            }
        }

        return failures;
    }

    public async Task<string> PlaceAsync(string relative, Func<Stream> content, CancellationToken cancel)
    {
        if (BoxOf(relative) is not { } box)
        {
            return await share.PlaceAsync(relative, content, cancel);
        }

        // Beside its mailbox, as a message of its own: a mailbox that a mail program has open is not written to but to
        // delete.
        return await share.PlaceAsync(
            $"{box[..^".mbox".Length]} (restored)/{relative[(box.Length + 1)..]}",
            content,
            cancel
        );
    }

    /// <summary>
    /// Writes a message as it stands in a mailbox (RFC 4155, appendix A): after a line with its sender and the moment at
    /// which it was sent, in UTC. Lines that could be read as the beginning of the next message are quoted; no other line
    /// changes; a blank line follows.
    /// </summary>
    /// <param name="from">Null where the message names none.</param>
    public static void Write(Stream message, string? from, Instant? sent, Stream box)
    {
        var sender = from is { Length: > 0 } && !from.Any(char.IsWhiteSpace) ? from : "MAILER-DAEMON";
        var at = (sent ?? Instant.FromUnixTimeSeconds(0)).ToDateTimeUtc();
        box.Write(
            Encoding.UTF8.GetBytes(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"From {sender} {at:ddd MMM} {at.Day, 2} {at:HH:mm:ss yyyy}\n"
                )
            )
        );
        WriteQuoted(message, box);
    }

    private static void WriteQuoted(Stream message, Stream box)
    {
        using var memory = new MemoryStream();
        message.CopyTo(memory);
        var rest = memory.GetBuffer().AsSpan(0, (int)memory.Length);
        while (rest.Length > 0)
        {
            var end = rest.IndexOf((byte)'\n');
            var line = end < 0 ? rest : rest[..(end + 1)];
            if (line.StartsWith("From "u8))
            {
                box.WriteByte((byte)'>');
            }

            box.Write(line);
            rest = rest[line.Length..];
            if (end < 0)
            {
                box.WriteByte((byte)'\n');
            }
        }

        box.WriteByte((byte)'\n');
    }

    private static bool IsBox(string path) => path.EndsWith(".mbox", StringComparison.OrdinalIgnoreCase);

    /// <summary>The mailbox that a path leads into; null for a message of its own.</summary>
    private static string? BoxOf(string relative) =>
        relative.LastIndexOf('/') is var slash and > 0 && IsBox(relative[..slash]) ? relative[..slash] : null;

    private OrderedDictionary<string, Letter> IndexOf(FileStream box, string relative)
    {
        var key = ($"{share.Root}/{relative}", box.Length, File.GetLastWriteTimeUtc(box.SafeFileHandle).Ticks);
        if (Indexes.TryGetValue(key, out var known))
        {
            return known;
        }

        var letters = Read(box);
        if (Indexes.Count >= MostIndexes)
        {
            Indexes.Clear();
        }

        return Indexes[key] = letters;
    }

    /// <summary>
    /// One pass over the file: a message begins after a line "From …" that stands first or after a blank line (RFC
    /// 4155, appendix A).
    /// </summary>
    private static OrderedDictionary<string, Letter> Read(FileStream stream)
    {
        OrderedDictionary<string, Letter> letters = [];
        Dictionary<string, int> seen = [];
        stream.Seek(0, SeekOrigin.Begin);
        // What is read stands in the buffer from the "From " line of the message at hand on; before the first, the last
        // few bytes do.
        var buffer = new byte[BufferSize];
        long position = 0;
        int filled = 0,
            searched = 0,
            from = -1,
            read;
        while ((read = stream.Read(buffer, filled, buffer.Length - filled)) > 0)
        {
            filled += read;
            int next;
            while ((next = NextFrom(buffer.AsSpan(0, filled), searched, begins: position == 0)) >= 0)
            {
                Close(next);
                (from, searched) = (next, next + 1);
            }

            searched = Math.Max(searched, filled - "\nFrom ".Length);
            var kept = from >= 0 ? from : Math.Max(0, searched - "\n\r".Length);
            Buffer.BlockCopy(buffer, kept, buffer, 0, filled - kept);
            (position, filled, searched, from) = (position + kept, filled - kept, searched - kept, from >= 0 ? 0 : -1);
            if (filled == buffer.Length)
            {
                Array.Resize(ref buffer, buffer.Length * 2);
            }
        }

        Close(filled);
        return letters;

        void Close(int end)
        {
            if (from < 0)
            {
                return;
            }

            var letter = LetterOf(buffer.AsSpan(from, end - from), position + from, seen);
            letters.Add(letter.Name, letter);
        }
    }

    /// <param name="whole">From its line "From …" to the next.</param>
    /// <param name="at">Where that line begins in the mailbox, in bytes.</param>
    /// <param name="seen">How many messages of each content there were before; this one is counted in.</param>
    private static Letter LetterOf(ReadOnlySpan<byte> whole, long at, Dictionary<string, int> seen)
    {
        var start = whole.IndexOf((byte)'\n') is var line and >= 0 ? line + 1 : whole.Length;
        var content = whole[start..];
        // The blank line before the next "From " belongs to the mailbox, not to the message.
        content =
            content.EndsWith("\r\n\r\n"u8) ? content[..^2]
            : content.EndsWith("\n\n"u8) ? content[..^1]
            : content;
        var digest = Convert.ToHexStringLower(SHA256.HashData(content));
        var number = seen[digest] = seen.GetValueOrDefault(digest) + 1;
        var again = number == 1 ? "" : string.Create(CultureInfo.InvariantCulture, $"-{number}");
        return new(
            $"{digest[..16]}{again}.eml",
            digest,
            at,
            at + start,
            content.Length,
            at + whole.Length,
            SentOf(content)
        );
    }

    /// <summary>
    /// Where the next line "From …" begins that stands first in the file or after a blank line; -1 where none does.
    /// </summary>
    /// <param name="at">What stands before has been searched.</param>
    /// <param name="begins">The bytes are those with which the file begins.</param>
    private static int NextFrom(ReadOnlySpan<byte> bytes, int at, bool begins)
    {
        if (at == 0 && begins && bytes.StartsWith("From "u8))
        {
            return 0;
        }

        while (bytes[at..].IndexOf("\nFrom "u8) is var found and >= 0)
        {
            var before = bytes[..(at + found)];
            if (
                before.EndsWith("\n"u8)
                || before.EndsWith("\n\r"u8)
                || (begins && (before.Length == 0 || before.SequenceEqual("\r"u8)))
            )
            {
                return before.Length + 1;
            }

            at = before.Length + 1;
        }

        return -1;
    }

    /// <summary>The date that the message carries; the beginning of 1970 where it has none that can be read.</summary>
    private static Instant SentOf(ReadOnlySpan<byte> message)
    {
        while (message.Length > 0)
        {
            var end = message.IndexOf((byte)'\n');
            var line = end < 0 ? message : message[..end];
            if (line.Trim("\r"u8).Length == 0)
            {
                break;
            }

            if (
                line.Length > 5
                && Ascii.EqualsIgnoreCase(line[..5], "date:"u8)
                && DateUtils.TryParse(Encoding.Latin1.GetString(line[5..]).Trim(), out var date)
            )
            {
                return Instant.FromDateTimeOffset(date);
            }

            message = end < 0 ? [] : message[(end + 1)..];
        }

        return Instant.FromUnixTimeTicks(0);
    }

    /// <summary>
    /// Whether the lock beside a mailbox was left behind by a run of the product that was ended in the middle. It is read
    /// as content is, following no link and waiting for no pipe: anybody may have put it there.
    /// </summary>
    private bool IsLockLeft(string box)
    {
        using var file = share.OpenFile(LockOf(box));
        if (file is not { Length: < LongestMark })
        {
            return false;
        }

        using var text = new StreamReader(file, Encoding.UTF8);
        return text.ReadToEnd().Split(' ') is [LockedBy, var machine, var id, var run]
            && machine == Environment.MachineName
            && int.TryParse(id, CultureInfo.InvariantCulture, out var process)
            && (process == Environment.ProcessId ? run != Run : !IsRunning(process));
    }

    private static string LockOf(string box) => box + ".lock";

    private static bool IsRunning(int process)
    {
        try
        {
            using var found = Process.GetProcessById(process);
            return true;
        }
        catch (ArgumentException)
        {
            return false;
        }
    }

    /// <summary>Writes the mailbox anew without some messages, whole or not at all. Null when they are gone.</summary>
    private string? Rewrite(string box, HashSet<string> without)
    {
        var resolved = share.Resolve(box);
        if (resolved.Refused)
        {
            return resolved.Refusal!.Sentence;
        }

        using var place = Beneath.Find(share.Root, box);
        using var source = place is null ? null : share.OpenFile(box);
        if (place is null || source is null)
        {
            return null;
        }

        // The customary lock beside the mailbox keeps mail programs from adding to it meanwhile.
        var file = place.Within(Path.GetFileName(box));
        var lockFile = LockOf(file);
        var partial = Partial.Of(file);
        try
        {
            if (IsLockLeft(box))
            {
                File.Delete(lockFile);
            }

            using var mark = new FileStream(lockFile, FileMode.CreateNew);
            mark.Write(
                Encoding.UTF8.GetBytes(
                    $"{LockedBy} {Environment.MachineName} {Environment.ProcessId.ToString(CultureInfo.InvariantCulture)} {Run}"
                )
            );
        }
        catch (IOException) when (Path.Exists(lockFile) || new FileInfo(lockFile).LinkTarget is not null)
        {
            return "The mailbox is locked by a mail program.";
        }

        try
        {
            var letters = IndexOf(source, box);
            if (!without.Any(letters.ContainsKey))
            {
                return null;
            }

            Copy(source, letters.Values.Where(l => !without.Contains(l.Name)), partial);
            File.Move(partial, file, overwrite: true);
            using var written = share.OpenFile(box);
            return written is not null && without.Any(Read(written).ContainsKey)
                ? "The mailbox was written anew, yet the message is still there."
                : null;
        }
        finally
        {
            File.Delete(partial);
            File.Delete(lockFile);
        }
    }

    private static void Copy(FileStream source, IEnumerable<Letter> letters, string to)
    {
        using var target = new FileStream(to, FileMode.Create, FileAccess.Write);
        foreach (var letter in letters)
        {
            source.Seek(letter.From, SeekOrigin.Begin);
            var bytes = new byte[letter.End - letter.From];
            source.ReadExactly(bytes);
            target.Write(bytes);
        }

        target.Flush(flushToDisk: true);
    }

    /// <param name="From">Offset of its "From " line.</param>
    /// <param name="Start">Offset of its first header.</param>
    /// <param name="Length">Bytes of the message itself.</param>
    /// <param name="End">Offset of what follows, the blank line included.</param>
    private sealed record Letter(string Name, string Hash, long From, long Start, int Length, long End, Instant Sent);
}
