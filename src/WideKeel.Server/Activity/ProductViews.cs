using System.Runtime.CompilerServices;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Core.Time;

namespace WideKeel.Server.Activity;

/// <summary>The directory of people, items and series, for statements beside events.</summary>
internal sealed class ProductViews : ISqlViewSource
{
    public IReadOnlyList<(SqlView View, Func<Caller, bool> May)> Views { get; } =
    [
        (
            new(
                "people",
                "The directory's people.",
                StatementViews.Columns(
                    "id BIGINT, name VARCHAR, mail VARCHAR, unit VARCHAR, title VARCHAR, manager VARCHAR, leaves_on DATE"
                )
            ),
            c => c.May(Right.ReadDirectory)
        ),
        (
            new("groups", "The directory's groups.", StatementViews.Columns("id BIGINT, name VARCHAR")),
            c => c.May(Right.ReadDirectory)
        ),
        (
            new(
                "memberships",
                "Who and what is in each group.",
                StatementViews.Columns("group_id BIGINT, person_id BIGINT, subgroup_id BIGINT")
            ),
            c => c.May(Right.ReadDirectory)
        ),
        (
            new(
                "items",
                "Items of content within your remit.",
                StatementViews.Columns(
                    "id BIGINT, title VARCHAR, path VARCHAR, container VARCHAR, author VARCHAR, "
                        + "created DATE, modified DATE, bytes BIGINT, series VARCHAR"
                )
            ),
            c => c.May(Right.ReadContent)
        ),
        (
            new("series", "Record series.", StatementViews.Columns("id BIGINT, code VARCHAR, title VARCHAR")),
            c => c.May(Right.ReadSchedule)
        ),
    ];

    public IAsyncEnumerable<object?[]> RowsAsync(string view, StatementGround ground) =>
        view switch
        {
            "people" => ground
                .Db.DirectoryPeople.AsNoTracking()
                .AsAsyncEnumerable()
                .Select(p =>
                    new object?[] { p.Id, p.Name, p.Mail, p.Unit, p.Title, p.Manager, p.LeavesOn?.ToDateOnly() }
                ),
            "groups" => ground
                .Db.DirectoryGroups.AsNoTracking()
                .Where(g => g.RemovedAt == null)
                .AsAsyncEnumerable()
                .Select(g => new object?[] { g.Id, g.Name }),
            "memberships" => ground
                .Db.DirectoryMemberships.AsNoTracking()
                .AsAsyncEnumerable()
                .Select(m => new object?[] { m.GroupId, m.PersonId, m.SubgroupId }),
            "series" => ground
                .Db.Series.AsNoTracking()
                .AsAsyncEnumerable()
                .Where(s => ground.Caller.MaySee(Right.ReadSchedule, s.UnitId))
                .Select(s => new object?[] { s.Id, s.Code, s.Title }),
            _ => ItemsAsync(ground, ground.Cancel),
        };

    private static async IAsyncEnumerable<object?[]> ItemsAsync(
        StatementGround ground,
        [EnumeratorCancellation] CancellationToken cancel
    )
    {
        await ground.Db.Database.OpenConnectionAsync(cancel);
        var filter = ground.Caller.Items();
        await using var command = ((SqliteConnection)ground.Db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT i.Id, i.Title, i.Path, c.Name, i.Author, i.Created, i.Modified, i.Bytes, s.Code
            FROM item i JOIN container c ON c.Id = i.ContainerId LEFT JOIN series s ON s.Id = i.SeriesId
            WHERE {filter.Where()}
            """;
        filter.Bind(command, ground.Calendar.Today.ToDayNumber());
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            yield return
            [
                reader.GetInt64(0),
                Text(reader, 1),
                Text(reader, 2),
                Text(reader, 3),
                Text(reader, 4),
                Day(reader, 5),
                Day(reader, 6),
                reader.GetInt64(7),
                Text(reader, 8),
            ];
        }
    }

    private static string? Text(SqliteDataReader reader, int at) => reader.IsDBNull(at) ? null : reader.GetString(at);

    private static DateOnly? Day(SqliteDataReader reader, int at) =>
        reader.IsDBNull(at) ? null : DayNumber.ToDate(reader.GetInt32(at)).ToDateOnly();
}
