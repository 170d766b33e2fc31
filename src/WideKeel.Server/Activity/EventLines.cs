using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;
using CsvHelper;
using CsvHelper.Configuration;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Cuts a stream into lines and reads each as the channel's format says.</summary>
internal static class EventLines
{
    /// <summary>All lines of a stream; each becomes an event or the reason why it is none.</summary>
    public static IAsyncEnumerable<ReadLine> ReadAsync(Channel channel, Stream stream, CancellationToken cancel) =>
        channel.Format == EventFormat.Csv
            ? CsvAsync(MappingOf(channel), stream, cancel)
            : TextAsync(channel.Format, stream, cancel);

    /// <summary>The channel's mapping; none of its columns becomes anything where it has none.</summary>
    public static EventMapping MappingOf(Channel channel) =>
        channel.Mapping.Length == 0
            ? new(new Dictionary<string, string>())
            : JsonSerializer.Deserialize<EventMapping>(channel.Mapping, Json.Options)!;

    /// <summary>The names of a table's columns.</summary>
    public static IReadOnlyList<string> HeaderOf(string text)
    {
        using var csv = new CsvReader(
            new StringReader(text),
            new CsvConfiguration(CultureInfo.InvariantCulture) { DetectDelimiter = true, BadDataFound = null }
        );
        return csv.Read() && csv.ReadHeader() ? csv.HeaderRecord! : [];
    }

    /// <summary>One line of text.</summary>
    public static Outcome<ActivityEvent> Read(EventFormat format, string line) =>
        format == EventFormat.Syslog ? SyslogLine.Read(line)
        : OcsfLine.Is(line) ? OcsfLine.Read(line)
        : EventLine.Read(line);

    private static async IAsyncEnumerable<ReadLine> TextAsync(
        EventFormat format,
        Stream stream,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        using var reader = new StreamReader(stream, Encoding.UTF8);
        var lines = new BoundedLines(reader, EventLine.MostCharacters);
        for (long number = 1; await lines.NextAsync(cancel) is { } line; number++)
        {
            if (line.TooLong)
            {
                yield return new(
                    number,
                    line.Text,
                    new Refusal("line-too-long", null, "This line has more than 1,000,000 characters.")
                );
            }
            else if (!string.IsNullOrWhiteSpace(line.Text))
            {
                var text = number == 1 ? line.Text.TrimStart('\uFEFF') : line.Text;
                yield return new(number, text, Read(format, text));
            }
        }
    }

    private static async IAsyncEnumerable<ReadLine> CsvAsync(
        EventMapping mapping,
        Stream stream,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        using var reader = new StreamReader(stream, Encoding.UTF8);
        var bad = false;
        using var csv = new CsvReader(
            reader,
            new CsvConfiguration(CultureInfo.InvariantCulture)
            {
                DetectDelimiter = true,
                BadDataFound = _ => bad = true,
                MaxFieldSize = EventLine.MostCharacters,
            }
        );
        if (!await csv.ReadAsync() || !csv.ReadHeader())
        {
            yield break;
        }

        var header = csv.HeaderRecord!;
        if (mapping.Columns.FirstOrDefault(c => c.Value.Length > 0 && !header.Contains(c.Key)) is { Key: { } missing })
        {
            yield return new(
                1,
                string.Join(',', header),
                new Refusal(
                    "column-missing",
                    missing,
                    $"The column “{missing}” is missing; nothing of this file was taken."
                )
            );
            yield break;
        }

        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            bad = false;
            if (await NextAsync(csv, header) is not { } read)
            {
                yield break;
            }

            var number = csv.Parser.RawRow;
            var original = csv.Parser.RawRecord.TrimEnd('\r', '\n');
            yield return new(
                number,
                original,
                read.Refusal is { } refusal ? refusal
                    : bad ? new Refusal("line-malformed", null, "A quote stands where none may be (RFC 4180).")
                    : mapping.Read(read.Value, original)
            );
        }
    }

    /// <summary>The next row by the names of its columns; null at the end.</summary>
    private static async Task<Outcome<Dictionary<string, string>>?> NextAsync(CsvReader from, string[] header)
    {
        try
        {
            if (!await from.ReadAsync())
            {
                return null;
            }

            return header
                .Select((name, i) => (name, Value: from.TryGetField<string>(i, out var v) ? v ?? "" : ""))
                .DistinctBy(c => c.name)
                .ToDictionary(c => c.name, c => c.Value);
        }
        catch (CsvHelperException e)
        {
            return new Refusal("line-malformed", null, e.Message.Split('\n')[0].TrimEnd('.', '\r') + ".");
        }
    }

    /// <summary>Reads lines, but holds no more of one in memory than it may have.</summary>
    internal sealed class BoundedLines(TextReader reader, int most)
    {
        private readonly char[] buffer = new char[32_768];
        private int at;
        private int filled;

        /// <summary>The next line, without its end; null at the end of the stream.</summary>
        public async ValueTask<(string Text, bool TooLong)?> NextAsync(CancellationToken cancel)
        {
            var line = new StringBuilder();
            var tooLong = false;
            while (true)
            {
                if (at == filled)
                {
                    (at, filled) = (0, await reader.ReadAsync(buffer, cancel));
                    if (filled == 0)
                    {
                        return line.Length == 0 && !tooLong ? null : (line.ToString(), tooLong);
                    }
                }

                var end = buffer.AsSpan(at, filled - at).IndexOf('\n');
                var length = end < 0 ? filled - at : end;
                var room = Math.Min(length, most - line.Length);
                line.Append(buffer, at, room);
                tooLong |= room < length;
                at += end < 0 ? length : length + 1;
                if (end >= 0)
                {
                    return (line.ToString().TrimEnd('\r'), tooLong);
                }
            }
        }
    }
}
