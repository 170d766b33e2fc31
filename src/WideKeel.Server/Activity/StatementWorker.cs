using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using DuckDB.NET.Data;
using WideKeel.Core.Activity;
using WideKeel.Sources;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>What a process is asked to answer.</summary>
/// <param name="Database">A file that holds the rows of the views; whatever lies in it may be read by the asker.</param>
/// <param name="Prepare">Statements of the product's own that make the views; they run before the wall is up.</param>
/// <param name="Files">Files that the statement may read, because every row in them is the asker's to read.</param>
internal sealed record StatementTask(
    string Database,
    string Prepare,
    IReadOnlyList<string> Files,
    string Sql,
    IReadOnlyList<StatementParameter> Parameters
);

/// <summary>What the process answers first, and at the end.</summary>
internal sealed record StatementFrame(IReadOnlyList<ViewColumn>? Columns, string? Failure);

/// <summary>
/// The process that runs statements, and nothing else: it holds no connection, no key and no database of the product. Each
/// statement runs in an engine of its own that can open no file but those of its task, with limits of memory that the
/// kernel keeps. It is killed when its time is over.
/// </summary>
public static class StatementWorker
{
    /// <summary>The verb with which the product's own program is such a process.</summary>
    public const string Verb = "answer-statements";

    /// <summary>Bytes of written memory that the process may have; the engine's own limit lies below.</summary>
    private const ulong MostMemory = 2UL << 30;

    private const int BatchRows = 500;
    private const int MostDepth = 512;

    public static async Task ServeAsync(Stream input, Stream output)
    {
        // What the engine takes beside the memory that it counts, such as one text of gigabytes.
        ProcessLimits.LimitMemory(MostMemory);
        while (await FramedProcess.ReadFrameAsync(input, CancellationToken.None) is { } asked)
        {
            if (asked[0] == (byte)'{')
            {
                await AnswerAsync(JsonSerializer.Deserialize<StatementTask>(asked, Json.Options)!, output);
            }
            else
            {
                await SendAsync(output, Parse(Encoding.UTF8.GetString(asked.AsSpan(1))));
            }

            await output.FlushAsync();
        }
    }

    /// <summary>The statement's tree as JSON; the engine parses SELECT only.</summary>
    private static byte[] Parse(string sql)
    {
        using var engine = SegmentFile.Engine();
        using var command = engine.CreateCommand();
        command.CommandText = $"SELECT json_serialize_sql('{SegmentFile.Quoted(sql)}')::VARCHAR";
        try
        {
            var text = (string)command.ExecuteScalar()!;
            // What is nested deeper than the check reads is refused here, by the same limit.
            _ = JsonNode.Parse(text, null, new() { MaxDepth = MostDepth });
            return Encoding.UTF8.GetBytes(text);
        }
        catch (Exception e) when (e is DuckDBException or JsonException)
        {
            return JsonSerializer.SerializeToUtf8Bytes(
                new JsonObject { ["error"] = true, ["error_message"] = FirstLine(e) }
            );
        }
    }

    private static async Task AnswerAsync(StatementTask task, Stream output)
    {
        try
        {
            using var engine = new DuckDBConnection($"DataSource={task.Database}");
            engine.Open();
            SegmentFile.Run(
                engine,
                "SET memory_limit = '512MB'; SET threads = 2; SET TimeZone = 'UTC';" + task.Prepare
            );
            SegmentFile.Run(engine, Wall(task.Files));
            using var command = engine.CreateCommand();
            command.CommandText = task.Sql;
            command.UseStreamingMode = true;
            foreach (var parameter in task.Parameters)
            {
                command.Parameters.Add(new DuckDBParameter(parameter.Name, parameter.Read().Value ?? DBNull.Value));
            }

            using var reader = command.ExecuteReader();
            var columns = Enumerable
                .Range(0, reader.FieldCount)
                .Select(i => new ViewColumn(reader.GetName(i), reader.GetDataTypeName(i)));
            await SendAsync(output, Serialized(new([.. columns], null)));
            await SendRowsAsync(reader, output);
            await SendAsync(output, Serialized(new(null, null)));
        }
        catch (Exception e) when (e is DuckDBException or InvalidOperationException or OutOfMemoryException)
        {
            await SendAsync(output, Serialized(new(null, FirstLine(e))));
        }
    }

    /// <summary>From here on the engine reads these files and no other, and no setting can be changed.</summary>
    private static string Wall(IReadOnlyList<string> files) =>
        $"""
            SET allowed_paths = [{string.Join(", ", files.Select(f => $"'{SegmentFile.Quoted(f)}'"))}];
            SET enable_external_access = false;
            SET lock_configuration = true;
            """;

    private static async Task SendRowsAsync(DuckDBDataReader reader, Stream output)
    {
        List<JsonElement?[]> batch = [];
        while (reader.Read())
        {
            var row = new JsonElement?[reader.FieldCount];
            for (var i = 0; i < row.Length; i++)
            {
                row[i] = Cell(reader, i);
            }

            batch.Add(row);
            if (batch.Count == BatchRows)
            {
                await SendAsync(output, JsonSerializer.SerializeToUtf8Bytes(batch));
                batch.Clear();
            }
        }

        if (batch.Count > 0)
        {
            await SendAsync(output, JsonSerializer.SerializeToUtf8Bytes(batch));
        }
    }

    private static JsonElement? Cell(DuckDBDataReader reader, int at)
    {
        if (reader.IsDBNull(at))
        {
            return null;
        }

        return JsonSerializer.SerializeToElement(
            reader.GetValue(at) switch
            {
                DateTime time => (object)time.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture),
                DateOnly day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                double number when !double.IsFinite(number) => number.ToString(CultureInfo.InvariantCulture),
                float number when !float.IsFinite(number) => number.ToString(CultureInfo.InvariantCulture),
                sbyte
                or short
                or int
                or long
                or byte
                or ushort
                or uint
                or float
                or double
                or decimal
                or bool
                or string => reader.GetValue(at),
                var other => Convert.ToString(other, CultureInfo.InvariantCulture)!,
            }
        );
    }

    private static byte[] Serialized(StatementFrame frame) => JsonSerializer.SerializeToUtf8Bytes(frame, Json.Options);

    private static async Task SendAsync(Stream output, byte[] body)
    {
        await FramedProcess.WriteFrameAsync(output, body, CancellationToken.None);
        await output.FlushAsync();
    }

    private static string FirstLine(Exception e) => e.Message.Split('\n')[0];
}
