using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Sources;

/// <summary>
/// Reads documents in processes of their own, with limits of time and memory: a document can be made so that its parser
/// never comes back, takes all memory or ends its process, and then only that process ends. A process gets the bytes of
/// one document after the other through a pipe and opens nothing itself.
/// </summary>
public sealed class DocumentReaders : IDisposable
{
    /// <summary>The verb with which the product's own program is such a process.</summary>
    public const string Verb = "read-documents";

    /// <summary>Bytes of managed memory that one process may take.</summary>
    private const long MaxMemory = 768L << 20;

    /// <summary>A process makes room after so many documents: what a parser leaked goes with it.</summary>
    private const int MaxDocuments = 2_000;

    /// <summary>As a type: a page that is to be shown, not read.</summary>
    private const string Page = "page";

    private static readonly TimeSpan UsualTime = TimeSpan.FromSeconds(30);
    private readonly string program;
    private readonly TimeSpan maxTime;
    private readonly SemaphoreSlim free;
    private readonly ConcurrentBag<Reader> idle = [];

    /// <param name="program">The product's program.</param>
    /// <param name="most">Processes at one time.</param>
    /// <param name="maxTime">For one document.</param>
    public DocumentReaders(string program, int most, TimeSpan maxTime)
    {
        (this.program, this.maxTime) = (program, maxTime);
        free = new(most);
    }

    /// <summary>Those of this process. Its program lies beside this library.</summary>
    public static DocumentReaders Shared { get; } =
        new(FramedProcess.OwnProgram, Math.Clamp(Environment.ProcessorCount, 1, 4), UsualTime);

    /// <summary>Text and fields of a document; the limit says where the reader came to an end over it.</summary>
    public async Task<Extracted> ExtractAsync(Stream content, string type, CancellationToken cancel)
    {
        var answer = await AskAsync(content, type, cancel);
        return answer.Failure is { } failure
            ? Extracted.Nothing($"No text was read: {failure}")
            : JsonSerializer.Deserialize<Wire>(answer.Body!)!.Extracted;
    }

    /// <summary>A page that does nothing and fetches nothing; null where it cannot be made in time.</summary>
    public async Task<string?> SanitizeAsync(Stream html, CancellationToken cancel) =>
        html.Length <= TextExtraction.MaxDocumentBytes && await AskAsync(html, Page, cancel) is { Body: { } body }
            ? Encoding.UTF8.GetString(body)
            : null;

    private async Task<(byte[]? Body, string? Failure)> AskAsync(Stream content, string type, CancellationToken cancel)
    {
        await free.WaitAsync(cancel);
        try
        {
            if (!idle.TryTake(out var reader) || reader.HasEnded)
            {
                reader?.Dispose();
                reader = new Reader(program, maxTime);
            }

            using var time = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            time.CancelAfter(maxTime);
            try
            {
                var body = await reader.AskAsync(content, type, time.Token);
                if (reader.Asked < MaxDocuments)
                {
                    idle.Add(reader);
                }
                else
                {
                    reader.Dispose();
                }

                return (body, null);
            }
            catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
            {
                reader.Dispose();
                return (null, $"the file took longer than {maxTime.TotalSeconds:0} seconds.");
            }
            catch (Exception e) when (e is IOException or OperationCanceledException)
            {
                reader.Dispose();
                cancel.ThrowIfCancellationRequested();
                return (null, "its reader came to an end over it; it is nested too deep or needs too much memory.");
            }
        }
        finally
        {
            free.Release();
        }
    }

    public void Dispose()
    {
        while (idle.TryTake(out var reader))
        {
            reader.Dispose();
        }

        free.Dispose();
    }

    /// <summary>
    /// What such a process does until its input ends: reads a document, answers, and ends itself over one that takes too
    /// long, for whoever asked may be gone.
    /// </summary>
    public static async Task ServeAsync(Stream input, Stream output, TimeSpan maxTime)
    {
        while (await FramedProcess.ReadFrameAsync(input, CancellationToken.None) is { } header)
        {
            var type = Encoding.UTF8.GetString(header);
            using var content = new MemoryStream(
                await FramedProcess.ReadFrameAsync(input, CancellationToken.None) ?? throw new EndOfStreamException()
            );
            using var watch = new Timer(
                _ => Process.GetCurrentProcess().Kill(),
                null,
                maxTime + TimeSpan.FromSeconds(5),
                Timeout.InfiniteTimeSpan
            );
            var answer =
                type == Page
                    ? Encoding.UTF8.GetBytes(SafeHtml.Sanitize(new StreamReader(content).ReadToEnd()))
                    : JsonSerializer.SerializeToUtf8Bytes(Wire.Of(TextExtraction.ReadDocument(content, type)));
            await FramedProcess.WriteFrameAsync(output, answer, CancellationToken.None);
            await output.FlushAsync();
        }
    }

    private sealed class Reader : IDisposable
    {
        private readonly FramedProcess process;

        public Reader(string program, TimeSpan maxTime) =>
            process = new(program, [Verb, maxTime.TotalSeconds.ToString(CultureInfo.InvariantCulture)], MaxMemory);

        public int Asked { get; private set; }

        public bool HasEnded => process.HasEnded;

        public async Task<byte[]> AskAsync(Stream content, string type, CancellationToken cancel)
        {
            Asked++;
            await FramedProcess.WriteFrameAsync(process.Input, Encoding.UTF8.GetBytes(type), cancel);
            await SendAsync(content, process.Input, cancel);
            await process.Input.FlushAsync(cancel);
            return await FramedProcess.ReadFrameAsync(process.Output, cancel) ?? throw new EndOfStreamException();
        }

        /// <summary>
        /// As many bytes as were announced, although the file may grow or shrink while it is read: what is too many would
        /// be taken for the next document.
        /// </summary>
        private static async Task SendAsync(Stream content, Stream input, CancellationToken cancel)
        {
            var left = checked((int)content.Length);
            await input.WriteAsync(BitConverter.GetBytes(left), cancel);
            var buffer = new byte[Math.Min(left, 81_920)];
            while (left > 0)
            {
                var read = await content.ReadAsync(buffer.AsMemory(0, Math.Min(left, buffer.Length)), cancel);
                if (read == 0)
                {
                    throw new EndOfStreamException("The file became shorter while it was read.");
                }

                await input.WriteAsync(buffer.AsMemory(0, read), cancel);
                left -= read;
            }
        }

        public void Dispose() => process.Dispose();
    }

    /// <summary>What was drawn, as it goes through the pipe.</summary>
    private sealed record Wire(
        string Text,
        string? Limit,
        string? Title,
        string? Author,
        string? Owner,
        string? Subject,
        string? Created,
        IReadOnlyDictionary<string, string> Dates,
        string? Thread,
        IReadOnlyList<string> Attachments,
        IReadOnlyDictionary<string, string> Fields,
        bool IsProtected,
        bool IsScan
    )
    {
        public static Wire Of(Extracted e) =>
            new(
                e.Text,
                e.Limit,
                e.Title,
                e.Author,
                e.Owner,
                e.Subject,
                e.Created is { } created ? LocalDatePattern.Iso.Format(created) : null,
                e.Dates.ToDictionary(d => d.Key, d => LocalDatePattern.Iso.Format(d.Value)),
                e.Thread,
                e.Attachments,
                e.Fields,
                e.IsProtected,
                e.IsScan
            );

        [System.Text.Json.Serialization.JsonIgnore]
        public Extracted Extracted =>
            new(
                Text,
                Limit,
                Title,
                Author,
                Owner,
                Subject,
                Created is null ? null : Day(Created),
                Dates.ToDictionary(d => d.Key, d => Day(d.Value))
            )
            {
                Thread = Thread,
                Attachments = Attachments,
                Fields = Fields,
                IsProtected = IsProtected,
                IsScan = IsScan,
            };

        private static LocalDate Day(string text) => LocalDatePattern.Iso.Parse(text).Value;
    }
}
