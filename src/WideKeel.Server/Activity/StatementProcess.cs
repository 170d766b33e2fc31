using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Sources;

namespace WideKeel.Server.Activity;

/// <summary>The rows of an answer as they arrive from the process that computes them.</summary>
public sealed class StatementRows
{
    private readonly Func<Task<List<JsonElement?[]>?>> next;

    internal StatementRows(IReadOnlyList<ViewColumn> columns, Func<Task<List<JsonElement?[]>?>> next) =>
        (Columns, this.next) = (columns, next);

    public IReadOnlyList<ViewColumn> Columns { get; }

    public async IAsyncEnumerable<JsonElement?[]> ReadAsync()
    {
        while (await next() is { } batch)
        {
            foreach (var row in batch)
            {
                yield return row;
            }
        }
    }
}

/// <summary>
/// A process that answers statements for as long as one is answered at a time. It is used again only where it answered in
/// full; whatever was stopped in the middle is killed.
/// </summary>
internal sealed class StatementProcess : IDisposable
{
    private const long MostManaged = 512L << 20;
    private const int MostIdle = 2;
    private const int MostStatements = 500;

    private static readonly ConcurrentBag<StatementProcess> Idle = [];

    private readonly FramedProcess process = new(FramedProcess.OwnProgram, [StatementWorker.Verb], MostManaged);
    private CancellationToken stop;
    private int answered;

    private StatementProcess() { }

    /// <summary>One that waits, or a new one.</summary>
    /// <param name="stop">Ends the wait for an answer; the process is killed then.</param>
    public static StatementProcess Take(CancellationToken stop)
    {
        while (Idle.TryTake(out var idle))
        {
            if (!idle.process.HasEnded)
            {
                idle.stop = stop;
                return idle;
            }

            idle.Dispose();
        }

        return new() { stop = stop };
    }

    /// <summary>It has answered in full and may be asked again.</summary>
    public void GiveBack()
    {
        if (++answered < MostStatements && Idle.Count < MostIdle)
        {
            Idle.Add(this);
        }
        else
        {
            Dispose();
        }
    }

    /// <summary>The tree of a statement.</summary>
    /// <exception cref="IOException">The process came to an end over it.</exception>
    public async Task<JsonNode> ParseAsync(string sql)
    {
        // A blank before the statement tells it from a task, which begins with a brace.
        await AskAsync(Encoding.UTF8.GetBytes($" {sql}"));
        return JsonNode.Parse(await AnswerAsync(), null, new() { MaxDepth = 1024 })!;
    }

    /// <returns>The refusal that ended the answer; null where all of it was read.</returns>
    public async Task<Refusal?> RunAsync(StatementTask task, Func<StatementRows, Task> read)
    {
        await AskAsync(JsonSerializer.SerializeToUtf8Bytes(task, Json.Options));
        IsDone = false;
        var first = Frame(await AnswerAsync());
        var failure = first.Failure;
        IsDone = failure is not null;
        if (!IsDone)
        {
            await read(new(first.Columns!, NextAsync));
        }

        return failure is null ? null : new("statement-failed", "sql", failure);

        async Task<List<JsonElement?[]>?> NextAsync()
        {
            if (IsDone)
            {
                return null;
            }

            var body = await AnswerAsync();
            if (body[0] == (byte)'[')
            {
                return JsonSerializer.Deserialize<List<JsonElement?[]>>(body)!;
            }

            (IsDone, failure) = (true, Frame(body).Failure);
            return null;
        }
    }

    /// <summary>Every frame of the last answer was read.</summary>
    public bool IsDone { get; private set; }

    private static StatementFrame Frame(byte[] body) => JsonSerializer.Deserialize<StatementFrame>(body, Json.Options)!;

    private async Task AskAsync(byte[] body)
    {
        await FramedProcess.WriteFrameAsync(process.Input, body, stop);
        await process.Input.FlushAsync(stop);
    }

    private async Task<byte[]> AnswerAsync() =>
        await FramedProcess.ReadFrameAsync(process.Output, stop) ?? throw new EndOfStreamException();

    public void Dispose() => process.Dispose();
}
