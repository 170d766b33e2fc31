using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using DuckDB.NET.Data;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.AtRest;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>Whose statement it is, and where what they may read is read.</summary>
public sealed record StatementGround(
    Caller Caller,
    WideKeelDb Db,
    OrganisationCalendar Calendar,
    CancellationToken Cancel
)
{
    public static StatementGround Of(ApiContext context) =>
        new(context.Caller, context.Db, context.Calendar, context.Cancel);
}

/// <summary>
/// Answers statements in SQL: over what their person may read, by an engine that can do nothing else. Screens, gauges and
/// tests of controls ask here alike.
/// </summary>
public sealed class StatementEngine(IEnumerable<ISqlViewSource> sources, ArchiveFiles archive, WideKeelOptions options)
{
    private const int MostCharacters = 100_000;
    private static readonly TimeSpan MostTime = TimeSpan.FromSeconds(60);

    /// <summary>The views of the product that a caller may ask.</summary>
    public IReadOnlyList<SqlView> ViewsOf(Caller caller) =>
        [
            .. StatementViews.Of(caller),
            .. sources.SelectMany(s => s.Views).Where(v => v.May(caller)).Select(v => v.View),
        ];

    /// <summary>
    /// Checks the statement, fills the views that it asks, locks the engine, and only then lets it run, for so long at
    /// most.
    /// </summary>
    public async Task<Refusal?> RunAsync(
        StatementRequest request,
        StatementGround ground,
        Func<DuckDBDataReader, Task> read
    )
    {
        if (request.Sql.Length > MostCharacters)
        {
            return new("statement-too-long", "sql", "A statement has at most 100,000 characters.");
        }

        using var engine = SegmentFile.Engine();
        var uploads = Uploads(ground.Caller);
        HashSet<string> views = [.. ViewsOf(ground.Caller).Select(v => v.Name), .. uploads.Keys];
        var asked = StatementGuard.Check(Parsed(engine, request.Sql), views);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        using var segments = new OpenSegments(archive);
        try
        {
            var missing = await StatementViews.FillAsync(engine, asked.Value, uploads, segments, ground);
            if (missing.Count > 0 && !request.WithoutMissing)
            {
                return Incomplete(missing);
            }
        }
        catch (IOException e)
        {
            return new("archive-not-readable", null, $"A file of the archive cannot be read: {e.Message}");
        }

        await FillRowsAsync(engine, asked.Value, ground);
        Lock(engine, ground.Caller);
        using var command = engine.CreateCommand();
        command.CommandText = request.Sql;
        command.UseStreamingMode = true;
        if (Bind(command, request) is { } malformed)
        {
            return malformed;
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(ground.Cancel);
        limit.CancelAfter(MostTime);
        await using var stop = limit.Token.Register(command.Cancel);
        try
        {
            using var reader = await Task.Run(command.ExecuteReader, ground.Cancel);
            await read(reader);
            return null;
        }
        catch (Exception e) when (e is DuckDBException or InvalidOperationException or OperationCanceledException)
        {
            return limit.IsCancellationRequested
                ? new("statement-too-slow", "sql", "The statement took more than 60 seconds and was stopped.")
                : new("statement-failed", "sql", e.Message.Split('\n')[0]);
        }
    }

    private static Refusal Incomplete(IReadOnlyList<MissingSegment> missing)
    {
        var (first, more) = (missing[0], missing.Count - 1);
        return Refusal.Conflict(
            "archive-incomplete",
            null,
            $"{(more == 0 ? "A sealed file is" : "Sealed files are")} missing from the archive: "
                + $"{first.Channel}/day={LocalDatePattern.Iso.Format(first.Day)}/{first.Number}.parquet"
                + (more == 0 ? "" : $" and {Wording.Number(more)} more")
                + (first.Events is null ? ", with " : $", with {Wording.Number(missing.Sum(m => m.Events)!.Value)} ")
                + "events that are no longer at hand. An answer would leave them out."
        );
    }

    /// <summary>Gives the engine the values that the statement names.</summary>
    private static Refusal? Bind(DuckDBCommand command, StatementRequest request)
    {
        var named = StatementGuard.ParametersOf(request.Sql);
        foreach (var parameter in (request.Parameters ?? []).DistinctBy(p => p.Name).Where(p => named.Contains(p.Name)))
        {
            var value = parameter.Read();
            if (value.Refusal is { } refusal)
            {
                return refusal;
            }

            command.Parameters.Add(new DuckDBParameter(parameter.Name, value.Value ?? DBNull.Value));
        }

        return null;
    }

    private async Task FillRowsAsync(DuckDBConnection engine, IReadOnlySet<string> asked, StatementGround ground)
    {
        foreach (var source in sources)
        {
            foreach (var (view, _) in source.Views.Where(v => asked.Contains(v.View.Name)))
            {
                StatementViews.Create(engine, view);
                using var appender = engine.CreateAppender(view.Name);
                await foreach (var row in source.RowsAsync(view.Name, ground).WithCancellation(ground.Cancel))
                {
                    StatementViews.Row(appender, row);
                }
            }
        }
    }

    /// <summary>The statement's tree; the engine parses SELECT only.</summary>
    private static JsonNode Parsed(DuckDBConnection engine, string sql)
    {
        using var command = engine.CreateCommand();
        command.CommandText = $"SELECT json_serialize_sql('{SegmentFile.Quoted(sql)}')::VARCHAR";
        try
        {
            return JsonNode.Parse((string)command.ExecuteScalar()!, null, new() { MaxDepth = 512 })!;
        }
        catch (Exception e) when (e is DuckDBException or JsonException)
        {
            return new JsonObject { ["error"] = true, ["error_message"] = e.Message.Split('\n')[0] };
        }
    }

    /// <summary>From here on the engine reads the caller's files and nothing else, and no setting can be changed.</summary>
    private void Lock(DuckDBConnection engine, Caller caller)
    {
        Directory.CreateDirectory(archive.Folder);
        var folders = new[] { archive.Folder, archive.OpenFolder, UploadFolder(caller) };
        SegmentFile.Run(
            engine,
            $"""
            SET allowed_directories = [{string.Join(", ", folders.Select(f => $"'{SegmentFile.Quoted(f)}/'"))}];
            SET enable_external_access = false;
            SET memory_limit = '512MB';
            SET threads = 2;
            SET lock_configuration = true;
            """
        );
    }

    /// <summary>Where the tables that somebody uploaded lie.</summary>
    public string UploadFolder(Caller caller) =>
        Path.Combine(options.DataFolder, "tables", caller.PersonId.ToString(CultureInfo.InvariantCulture));

    /// <summary>Their tables by name, with the file of each.</summary>
    public IReadOnlyDictionary<string, string> Uploads(Caller caller) =>
        UploadFolder(caller) is var folder && Directory.Exists(folder)
            ? Directory
                .EnumerateFiles(folder, "*.parquet")
                .ToDictionary(f => Path.GetFileNameWithoutExtension(f), f => f, StringComparer.OrdinalIgnoreCase)
            : new Dictionary<string, string>();
}

/// <summary>Views of SQL that a part brings.</summary>
public interface ISqlViewSource : IContribution
{
    /// <summary>Each view with who may ask it.</summary>
    IReadOnlyList<(SqlView View, Func<Caller, bool> May)> Views { get; }

    /// <summary>The rows of a view within what its person may read: text, long, double, bool, DateOnly, or null.</summary>
    IAsyncEnumerable<object?[]> RowsAsync(string view, StatementGround ground);
}
