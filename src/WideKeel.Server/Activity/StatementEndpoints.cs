using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using DuckDB.NET.Data;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Parameters">Values of <c>$name</c> in the statement, as texts; the statement casts them.</param>
public sealed record StatementRequest(string Sql, IReadOnlyDictionary<string, string?>? Parameters = null);

/// <param name="Cut">There are more rows than are shown.</param>
public sealed record StatementResult(
    IReadOnlyList<ViewColumn> Columns,
    IReadOnlyList<IReadOnlyList<JsonElement?>> Rows,
    bool Cut,
    double Seconds
);

public sealed record SavedStatementView(long Id, string Name, string Sql);

public sealed record SavedStatementRequest(string Name, string Sql);

/// <summary>What can be asked, and how.</summary>
public sealed record StatementCatalogue(
    IReadOnlyList<SqlView> Views,
    IReadOnlyList<string> Functions,
    IReadOnlyList<ReadyStatement> Ready,
    IReadOnlyList<SavedStatementView> Own
);

/// <summary>Questions in SQL over what the caller may read, answered by an engine that can do nothing else.</summary>
public static partial class StatementEndpoints
{
    private const int MostRows = 10_000;
    private const int MostExported = 1_000_000;
    private const int MostCharacters = 100_000;
    private const int MostOwn = 500;
    private const long MostUploadBytes = 50_000_000;
    private static readonly TimeSpan MostTime = TimeSpan.FromSeconds(60);

    public static void MapStatements(this IEndpointRouteBuilder api)
    {
        api.MapGet("/statements", Catalogue).Requires(Right.ReadActivity);
        api.MapPost("/statements/answers", Ask).Requires(Right.ReadActivity);
        api.MapPost("/statements/answers.csv", AskCsv).Requires(Right.ReadActivity);
        api.MapPost("/statements", Save).Requires(Right.ReadActivity);
        api.MapDelete("/statements/{id:long}", Drop).Requires(Right.ReadActivity);
        api.MapPost("/statements/tables/{name}", Upload).Requires(Right.ReadActivity);
        api.MapDelete("/statements/tables/{name}", DropTable).Requires(Right.ReadActivity);
    }

    private static async Task<Reply<StatementCatalogue>> Catalogue(
        WideKeelOptions options,
        [AsParameters] ApiContext context
    ) =>
        new StatementCatalogue(
            [
                .. StatementViews.Of(context.Caller),
                .. Uploads(options, context.Caller).Select(u => Uploaded(u.Key, u.Value)),
            ],
            [.. StatementGuard.Functions.Where(f => char.IsLetter(f[0])).Order(StringComparer.Ordinal)],
            ReadyStatements.All,
            await context
                .Db.Statements.AsNoTracking()
                .Where(s => s.PersonId == context.Caller.PersonId)
                .OrderBy(s => s.Name)
                .Select(s => new SavedStatementView(s.Id, s.Name, s.Sql))
                .ToListAsync(context.Cancel)
        );

    private static async Task<Reply<StatementResult>> Ask(
        StatementRequest request,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        var began = TimeProvider.System.GetTimestamp();
        List<ViewColumn> columns = [];
        List<IReadOnlyList<JsonElement?>> rows = [];
        var cut = false;
        var refusal = await RunAsync(
            request,
            options,
            context,
            reader =>
            {
                columns.AddRange(ColumnsOf(reader));
                while (!(cut = rows.Count == MostRows) && reader.Read())
                {
                    rows.Add([.. Enumerable.Range(0, reader.FieldCount).Select(i => Cell(reader, i))]);
                }

                return Task.CompletedTask;
            }
        );
        return refusal is not null
            ? refusal
            : new StatementResult(
                columns,
                rows,
                cut,
                Math.Round(TimeProvider.System.GetElapsedTime(began).TotalSeconds, 2)
            );
    }

    private static async Task<IResult> AskCsv(
        StatementRequest request,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        var refusal = await RunAsync(
            request,
            options,
            context,
            reader =>
                CsvAnswer.WriteAsync(
                    context.Http,
                    "answer.csv",
                    [.. ColumnsOf(reader).Select(c => c.Name)],
                    RowsOf(reader).Take(MostExported).ToAsyncEnumerable(),
                    context.Cancel
                )
        );
        return refusal is null ? Results.Empty : (Reply<Done>)refusal;

        static IEnumerable<object?[]> RowsOf(DuckDBDataReader reader)
        {
            while (reader.Read())
            {
                yield return
                [
                    .. Enumerable.Range(0, reader.FieldCount).Select(i => (object?)Cell(reader, i)?.ToString()),
                ];
            }
        }
    }

    /// <summary>
    /// Checks the statement, fills the views that it asks, locks the engine, and only then lets it run, for so long at
    /// most.
    /// </summary>
    private static async Task<Refusal?> RunAsync(
        StatementRequest request,
        WideKeelOptions options,
        ApiContext context,
        Func<DuckDBDataReader, Task> read
    )
    {
        if (request.Sql.Length > MostCharacters)
        {
            return new("statement-too-long", "sql", "A statement has at most 100,000 characters.");
        }

        using var engine = SegmentFile.Engine();
        var uploads = Uploads(options, context.Caller);
        HashSet<string> views = [.. StatementViews.Of(context.Caller).Select(v => v.Name), .. uploads.Keys];
        var asked = StatementGuard.Check(Parsed(engine, request.Sql), views);
        if (asked.Refusal is { } refusal)
        {
            return refusal;
        }

        await StatementViews.FillAsync(engine, asked.Value, uploads, options.ArchiveFolder, context);
        Lock(engine, options, context.Caller);
        using var command = engine.CreateCommand();
        command.CommandText = request.Sql;
        command.UseStreamingMode = true;
        foreach (var (name, value) in request.Parameters ?? new Dictionary<string, string?>())
        {
            if (request.Sql.Contains($"${name}", StringComparison.Ordinal))
            {
                command.Parameters.Add(new DuckDBParameter(name, (object?)value ?? DBNull.Value));
            }
        }

        using var limit = CancellationTokenSource.CreateLinkedTokenSource(context.Cancel);
        limit.CancelAfter(MostTime);
        await using var stop = limit.Token.Register(command.Cancel);
        try
        {
            using var reader = await Task.Run(command.ExecuteReader, context.Cancel);
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
    private static void Lock(DuckDBConnection engine, WideKeelOptions options, Caller caller)
    {
        Directory.CreateDirectory(options.ArchiveFolder);
        var folders = new[] { options.ArchiveFolder, UploadFolder(options, caller) };
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

    private static IEnumerable<ViewColumn> ColumnsOf(DuckDBDataReader reader) =>
        Enumerable
            .Range(0, reader.FieldCount)
            .Select(i => new ViewColumn(reader.GetName(i), reader.GetDataTypeName(i)));

    private static JsonElement? Cell(DuckDBDataReader reader, int at)
    {
        if (reader.IsDBNull(at))
        {
            return null;
        }

        return JsonSerializer.SerializeToElement(
            reader.GetValue(at) switch
            {
                DateTime time => (object)
                    time.ToString(
                        "uuuu-MM-dd'T'HH:mm:ss.fff'Z'".Replace("uuuu", "yyyy", StringComparison.Ordinal),
                        CultureInfo.InvariantCulture
                    ),
                DateOnly day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
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

    private static async Task<Reply<Done>> Save(SavedStatementRequest request, [AsParameters] ApiContext context)
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200)
        {
            return new Refusal("name-missing", "name", "A statement needs a name of at most 200 characters.");
        }

        return await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var own = session.Db.Statements.Where(s => s.PersonId == context.Caller.PersonId);
                var there = await own.SingleOrDefaultAsync(s => s.Name == request.Name, context.Cancel);
                if (there is null && await own.CountAsync(context.Cancel) >= MostOwn)
                {
                    return new Refusal("too-many-statements", null, $"You keep {MostOwn} statements; drop one first.");
                }

                if (there is null)
                {
                    session.Db.Statements.Add(
                        there = new()
                        {
                            PersonId = context.Caller.PersonId,
                            Name = request.Name,
                            Sql = request.Sql,
                        }
                    );
                }

                there.Sql = request.Sql;
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record(
                    "kept",
                    LedgerSubject.Of("statement", there.Id),
                    after: new JsonObject { ["name"] = there.Name, ["sql"] = there.Sql }
                );
                return new Done();
            },
            context.Cancel
        );
    }

    private static async Task<Reply<Done>> Drop(long id, [AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session.Db.Statements.SingleOrDefaultAsync(
                        s => s.Id == id && s.PersonId == context.Caller.PersonId,
                        context.Cancel
                    )
                    is not { } there
                )
                {
                    return Problems.NotFound("statement of yours");
                }

                session.Db.Statements.Remove(there);
                session.Record("dropped", LedgerSubject.Of("statement", id), new JsonObject { ["name"] = there.Name });
                return new Done();
            },
            context.Cancel
        );

    /// <summary>A CSV of the caller's own as a table for their statements.</summary>
    private static async Task<Reply<SqlView>> Upload(
        string name,
        WideKeelOptions options,
        [AsParameters] ApiContext context
    )
    {
        if (!ATable().IsMatch(name) || StatementViews.Of(context.Caller).Any(v => v.Name == name))
        {
            return new Refusal(
                "name-malformed",
                "name",
                "A table’s name has lower-case letters, digits and underscores, begins with a letter, and is no view’s."
            );
        }

        var folder = UploadFolder(options, context.Caller);
        Directory.CreateDirectory(folder);
        var csv = Path.Combine(folder, $"{name}.csv.tmp");
        var file = Path.Combine(folder, $"{name}.parquet");
        try
        {
            await using (var written = File.Create(csv))
            {
                await context.Http.Request.Body.CopyToAsync(written, context.Cancel);
                if (written.Length > MostUploadBytes)
                {
                    return new Refusal("table-too-large", null, "A table has at most 50 MB.");
                }
            }

            using var engine = SegmentFile.Engine();
            SegmentFile.Run(
                engine,
                $"""
                COPY (SELECT * FROM read_csv('{SegmentFile.Quoted(csv)}', header = true))
                TO '{SegmentFile.Quoted(file)}' (FORMAT parquet, COMPRESSION zstd)
                """
            );
        }
        catch (DuckDBException e)
        {
            return new Refusal(
                "table-malformed",
                null,
                $"This is no table that can be read: {e.Message.Split('\n')[0]}"
            );
        }
        finally
        {
            File.Delete(csv);
        }

        return Uploaded(name, file);
    }

    private static Task<Reply<Done>> DropTable(string name, WideKeelOptions options, Caller caller)
    {
        if (!Uploads(options, caller).TryGetValue(name, out var file))
        {
            return Task.FromResult<Reply<Done>>(Problems.NotFound("table of yours"));
        }

        File.Delete(file);
        return Task.FromResult<Reply<Done>>(new Done());
    }

    private static string UploadFolder(WideKeelOptions options, Caller caller) =>
        Path.Combine(options.DataFolder, "tables", caller.PersonId.ToString(CultureInfo.InvariantCulture));

    private static Dictionary<string, string> Uploads(WideKeelOptions options, Caller caller) =>
        UploadFolder(options, caller) is var folder && Directory.Exists(folder)
            ? Directory
                .EnumerateFiles(folder, "*.parquet")
                .ToDictionary(f => Path.GetFileNameWithoutExtension(f), f => f, StringComparer.OrdinalIgnoreCase)
            : [];

    private static SqlView Uploaded(string name, string file)
    {
        using var engine = SegmentFile.Engine();
        using var command = engine.CreateCommand();
        command.CommandText = $"SELECT * FROM read_parquet('{SegmentFile.Quoted(file)}') LIMIT 0";
        using var reader = command.ExecuteReader();
        return new(name, "A table of your own.", [.. ColumnsOf(reader)]);
    }

    [GeneratedRegex("^[a-z][a-z0-9_]{0,39}$")]
    private static partial Regex ATable();
}
