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

/// <param name="Parameters">Values of <c>$name</c> in the statement; those that it does not name are left out.</param>
/// <param name="WithoutMissing">Answers also where sealed files are missing whose events are not at hand; without this such a
/// statement is refused.</param>
public sealed record StatementRequest(
    string Sql,
    IReadOnlyList<StatementParameter>? Parameters = null,
    bool WithoutMissing = false
);

/// <param name="Cut">There are more rows than are shown.</param>
public sealed record StatementResult(
    IReadOnlyList<ViewColumn> Columns,
    IReadOnlyList<IReadOnlyList<JsonElement?>> Rows,
    bool Cut,
    double Seconds
);

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
    private const long MostUploadBytes = 50_000_000;

    public static void MapStatements(this IEndpointRouteBuilder api)
    {
        api.MapGet("/statements", Catalogue).Requires(Right.ReadActivity);
        api.MapPost("/statements/answers", Ask).Requires(Right.ReadActivity);
        api.MapPost("/statements/answers.csv", AskCsv).Requires(Right.ReadActivity);
        api.MapPost("/statements/tables/{name}", Upload).Requires(Right.ReadActivity).TakesUpTo(MostUploadBytes + 1);
        api.MapDelete("/statements/tables/{name}", DropTable).Requires(Right.ReadActivity);
    }

    private static async Task<Reply<StatementCatalogue>> Catalogue(
        StatementEngine engine,
        [AsParameters] ApiContext context
    ) =>
        new StatementCatalogue(
            [
                .. engine.ViewsOf(context.Caller),
                .. engine.Uploads(context.Caller).Select(u => Uploaded(u.Key, u.Value)),
            ],
            [.. StatementGuard.Functions.Where(f => char.IsLetter(f[0])).Order(StringComparer.Ordinal)],
            ReadyStatements.All,
            await context
                .Db.Statements.AsNoTracking()
                .Where(s => s.PersonId == context.Caller.PersonId)
                .OrderBy(s => s.Name)
                .Select(s => SavedStatementView.Of(s))
                .ToListAsync(context.Cancel)
        );

    private static async Task<Reply<StatementResult>> Ask(
        StatementRequest request,
        StatementEngine engine,
        [AsParameters] ApiContext context
    )
    {
        var began = TimeProvider.System.GetTimestamp();
        List<ViewColumn> columns = [];
        List<IReadOnlyList<JsonElement?>> rows = [];
        var cut = false;
        var refusal = await engine.RunAsync(
            request,
            StatementGround.Of(context),
            async answer =>
            {
                columns.AddRange(answer.Columns);
                await foreach (var row in answer.ReadAsync())
                {
                    if (cut = rows.Count == MostRows)
                    {
                        break;
                    }

                    rows.Add(row);
                }
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
        StatementEngine engine,
        [AsParameters] ApiContext context
    )
    {
        var refusal = await engine.RunAsync(
            request,
            StatementGround.Of(context),
            answer =>
                CsvAnswer.WriteAsync(
                    context.Http,
                    "answer.csv",
                    [.. answer.Columns.Select(c => c.Name)],
                    answer
                        .ReadAsync()
                        .Take(MostExported)
                        .Select(row => Array.ConvertAll(row, c => (object?)c?.ToString())),
                    context.Cancel
                )
        );
        return refusal is null ? Results.Empty : (Reply<Done>)refusal;
    }

    private static IEnumerable<ViewColumn> ColumnsOf(DuckDBDataReader reader) =>
        Enumerable
            .Range(0, reader.FieldCount)
            .Select(i => new ViewColumn(reader.GetName(i), reader.GetDataTypeName(i)));

    /// <summary>A CSV of the caller's own as a table for their statements.</summary>
    private static async Task<Reply<SqlView>> Upload(
        string name,
        StatementEngine engine,
        [AsParameters] ApiContext context
    )
    {
        if (!ATable().IsMatch(name) || engine.ViewsOf(context.Caller).Any(v => v.Name == name))
        {
            return new Refusal(
                "name-malformed",
                "name",
                "A table’s name has lower-case letters, digits and underscores, begins with a letter, and is no view’s."
            );
        }

        var folder = engine.UploadFolder(context.Caller);
        Directory.CreateDirectory(folder);
        var csv = Path.Combine(folder, $"{name}.csv.tmp");
        var file = Path.Combine(folder, $"{name}.parquet");
        var unfinished = $"{file}.tmp";
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

            using var duck = SegmentFile.Engine();
            SegmentFile.Run(
                duck,
                $"""
                COPY (SELECT * FROM read_csv('{SegmentFile.Quoted(csv)}', header = true))
                TO '{SegmentFile.Quoted(unfinished)}' (FORMAT parquet, COMPRESSION zstd)
                """
            );
            File.Move(unfinished, file, overwrite: true);
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
            File.Delete(unfinished);
        }

        return Uploaded(name, file);
    }

    private static Task<Reply<Done>> DropTable(string name, StatementEngine engine, Caller caller)
    {
        if (!engine.Uploads(caller).TryGetValue(name, out var file))
        {
            return Task.FromResult<Reply<Done>>(Problems.NotFound("table of yours"));
        }

        File.Delete(file);
        return Task.FromResult<Reply<Done>>(new Done());
    }

    private static SqlView Uploaded(string name, string file)
    {
        using var duck = SegmentFile.Engine();
        using var command = duck.CreateCommand();
        command.CommandText = $"SELECT * FROM read_parquet('{SegmentFile.Quoted(file)}') LIMIT 0";
        using var reader = command.ExecuteReader();
        return new(name, "A table of your own.", [.. ColumnsOf(reader)]);
    }

    [GeneratedRegex("^[a-z][a-z0-9_]{0,39}$")]
    private static partial Regex ATable();
}
