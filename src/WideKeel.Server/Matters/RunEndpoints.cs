using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.Matters;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <param name="Versions">What the items held before, of those that are kept.</param>
/// <param name="Codes">The matter's tags on them.</param>
/// <param name="Families">Of the messages among them that have attachments.</param>
public sealed record RunPage(
    IReadOnlyList<ItemRow> Items,
    string? Next,
    long Total,
    long Bytes,
    IReadOnlyList<KeptVersion> Versions,
    IReadOnlyList<CodeView> Codes,
    IReadOnlyList<FamilyView> Families
);

/// <summary>What a run of a sweep found: all of it, or what one of its figures counts.</summary>
internal static class RunEndpoints
{
    private const int MostRows = 200;

    public static void MapRuns(this IEndpointRouteBuilder api)
    {
        api.MapGet("/matters/{id:long}/runs/{run:long}/items", Items).RequiresSignIn();
        api.MapGet("/matters/{id:long}/runs/{run:long}/items.csv", Csv).RequiresSignIn();
        api.MapGet("/matters/{id:long}/runs/{run:long}/unreadable", UnsearchedFiles.List).RequiresSignIn();
    }

    /// <summary>What a run found: all of it, or what one of its figures counts.</summary>
    private static async Task<Reply<RunPage>> Items(
        long id,
        long run,
        [AsParameters] HitChoice choice,
        string? cursor,
        int? limit,
        [AsParameters] ApiContext context
    )
    {
        var chosen = await RunHits.ChoiceAsync(id, run, choice, context);
        if (chosen.Refusal is { } refusal)
        {
            return refusal;
        }

        var (where, bind, query) = chosen.Value;
        var connection = (SqliteConnection)context.Db.Database.GetDbConnection();
        var most = Math.Clamp(limit ?? MostRows, 1, MostRows);
        var after = cursor is null ? 0 : Cursor.Read(cursor)?.Id ?? 0;
        using var command = connection.CreateCommand();
        command.CommandText =
            $"SELECT COUNT(*), COALESCE(SUM(i.Bytes), 0) FROM item i WHERE {where}; SELECT i.Id FROM item i "
            + $"WHERE i.Id > $after AND {where} ORDER BY i.Id LIMIT $limit";
        bind(command);
        command.Parameters.AddWithValue("$after", after);
        command.Parameters.AddWithValue("$limit", most + 1);
        using var reader = await command.ExecuteReaderAsync(context.Cancel);
        reader.Read();
        var (total, bytes) = (reader.GetInt64(0), reader.GetInt64(1));
        reader.NextResult();
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        var rows = await ItemEndpoints.RowsAsync([.. ids.Take(most)], context.Db, context.Calendar, query);
        return new RunPage(
            [.. ids.Take(most).Select(i => rows[i])],
            ids.Count > most ? Cursor.Write(0L, ids[most - 1]) : null,
            total,
            bytes,
            await VersionEndpoints.OfRunAsync(
                [.. ids.Take(most)],
                run,
                choice.Term ?? SweepVersionHit.Whole,
                query?.Query.Condition,
                context
            ),
            await CodingEndpoints.OfItemsAsync(id, [.. ids.Take(most)], context.Db, context.Cancel),
            await CodingEndpoints.FamiliesAsync([.. ids.Take(most)], context.Db, context.Cancel)
        );
    }

    /// <summary>The list of ids, with what tells the items apart.</summary>
    private static async Task<IResult> Csv(
        long id,
        long run,
        [AsParameters] HitChoice choice,
        [AsParameters] ApiContext context
    )
    {
        var chosen = await RunHits.ChoiceAsync(id, run, choice, context);
        return chosen.Refusal is { } refusal
            ? (Reply<Done>)refusal
            : await CsvAnswer.WriteAsync(
                context.Http,
                $"run-{MatterDoor.Text(run)}.csv",
                ["id", "source", "container", "path", "title", "bytes", "created", "modified", "author", "sha256"],
                RowsAsync(),
                context.Cancel
            );

        async IAsyncEnumerable<object?[]> RowsAsync()
        {
            using var command = ((SqliteConnection)context.Db.Database.GetDbConnection()).CreateCommand();
            command.CommandText =
                $"SELECT i.Id, s.Name, c.Name, i.Path, i.Title, i.Bytes, i.Created, i.Modified, i.Author, "
                + $"i.Hash FROM item i JOIN container c ON c.Id = i.ContainerId JOIN source s ON s.Id = "
                + $"c.SourceId WHERE {chosen.Value.Where} ORDER BY i.Id";
            chosen.Value.Bind(command);
            using var reader = await command.ExecuteReaderAsync(context.Cancel);
            while (await reader.ReadAsync(context.Cancel))
            {
                yield return
                [
                    reader.GetInt64(0),
                    reader.GetString(1),
                    reader.GetString(2),
                    reader.GetString(3),
                    reader.GetString(4),
                    reader.GetInt64(5),
                    Core.Time.DayNumber.ToDate(reader.GetInt32(6)),
                    Core.Time.DayNumber.ToDate(reader.GetInt32(7)),
                    reader.IsDBNull(8) ? null : reader.GetString(8),
                    reader.GetString(9),
                ];
            }
        }
    }
}
