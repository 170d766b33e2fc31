using DuckDB.NET.Data;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Type">As SQL names it.</param>
public sealed record ViewColumn(string Name, string Type);

public sealed record SqlView(string Name, string Says, IReadOnlyList<ViewColumn> Columns);

/// <summary>
/// The views that statements ask, filled for one caller: what they may not read is not in them. Only views that a
/// statement names are filled.
/// </summary>
internal static class StatementViews
{
    private const string Events = "events";
    private const string SignIns = "sign_ins";

    private static readonly ViewColumn[] EventColumns =
    [
        .. SegmentFile.Schema.Where(c => c.Name != "unit_id").Select(c => new ViewColumn(c.Name, c.Type)),
    ];

    private static readonly (SqlView View, Func<Caller, bool> May)[] Known =
    [
        (new(Events, "One row an event, sealed and at hand.", EventColumns), c => c.May(Right.ReadActivity)),
        (new(SignIns, "The events whose action is sign-in.", EventColumns), c => c.May(Right.ReadActivity)),
        (
            new(
                "people",
                "The directory's people.",
                Columns(
                    "id BIGINT, name VARCHAR, mail VARCHAR, unit VARCHAR, title VARCHAR, manager VARCHAR, leaves_on DATE"
                )
            ),
            c => c.May(Right.ReadDirectory)
        ),
        (new("groups", "The directory's groups.", Columns("id BIGINT, name VARCHAR")), c => c.May(Right.ReadDirectory)),
        (
            new(
                "memberships",
                "Who and what is in each group.",
                Columns("group_id BIGINT, person_id BIGINT, subgroup_id BIGINT")
            ),
            c => c.May(Right.ReadDirectory)
        ),
        (
            new(
                "items",
                "Items of content within your remit.",
                Columns(
                    "id BIGINT, title VARCHAR, path VARCHAR, container VARCHAR, author VARCHAR, "
                        + "created DATE, modified DATE, bytes BIGINT, series VARCHAR"
                )
            ),
            c => c.May(Right.ReadContent)
        ),
        (
            new("series", "Record series.", Columns("id BIGINT, code VARCHAR, title VARCHAR")),
            c => c.May(Right.ReadSchedule)
        ),
    ];

    /// <summary>The views of the product that a caller may ask.</summary>
    public static IReadOnlyList<SqlView> Of(Caller caller) => [.. Known.Where(k => k.May(caller)).Select(k => k.View)];

    /// <summary>Fills the views that are asked.</summary>
    /// <param name="uploads">The caller's own tables, with their files.</param>
    public static async Task FillAsync(
        DuckDBConnection engine,
        IReadOnlySet<string> asked,
        IReadOnlyDictionary<string, string> uploads,
        string archive,
        StatementGround ground
    )
    {
        if (asked.Contains(Events) || asked.Contains(SignIns))
        {
            await FillEventsAsync(engine, archive, ground);
        }

        foreach (var (view, _) in Known.Where(k => asked.Contains(k.View.Name) && k.View.Columns != EventColumns))
        {
            Create(engine, view);
            await FillAsync(engine, view.Name, ground);
        }

        foreach (var (name, file) in uploads.Where(u => asked.Contains(u.Key)))
        {
            SegmentFile.Run(
                engine,
                $"CREATE VIEW \"{name}\" AS SELECT * FROM read_parquet('{SegmentFile.Quoted(file)}')"
            );
        }
    }

    /// <summary>
    /// Sealed days answer from their files, what is not sealed yet from rows; an event is in one of the two.
    /// </summary>
    private static async Task FillEventsAsync(DuckDBConnection engine, string archive, StatementGround ground)
    {
        var access = await ChannelAccess.OfAsync(ground.Caller, ground.Db, ground.Cancel);
        var names = access.Channels.ToDictionary(c => c.Id, c => c.Name);
        var files = (
            await ground
                .Db.Segments.AsNoTracking()
                .Where(s => names.Keys.Contains(s.ChannelId) && s.RemovedAt == null)
                .OrderBy(s => s.Day)
                .ToListAsync(ground.Cancel)
        )
            .Select(s => SegmentFile.PathOf(archive, names[s.ChannelId], s.Day, s.Number))
            .Where(File.Exists)
            .ToList();
        await ground.Db.Database.OpenConnectionAsync(ground.Cancel);
        SegmentFile.Run(engine, SegmentFile.CreateTable("open_events"));
        SegmentFile.Append(
            engine,
            "open_events",
            EventStore.Read(
                (SqliteConnection)ground.Db.Database.GetDbConnection(),
                $"e.SegmentId IS NULL AND {access.Where}",
                access.Bind
            ),
            null
        );
        var columns = string.Join(", ", EventColumns.Select(c => c.Name));
        var units = access.Units is null ? "" : $"WHERE unit_id IN ({string.Join(", ", access.Units.Append(-1))})";
        var list = string.Join(", ", files.Select(f => $"'{SegmentFile.Quoted(f)}'"));
        var archived = files.Count == 0 ? "" : $"SELECT {columns} FROM read_parquet([{list}]) {units} UNION ALL ";
        SegmentFile.Run(engine, $"CREATE VIEW {Events} AS {archived}SELECT {columns} FROM open_events");
        SegmentFile.Run(engine, $"CREATE VIEW {SignIns} AS SELECT * FROM {Events} WHERE action = 'sign-in'");
    }

    private static async Task FillAsync(DuckDBConnection engine, string view, StatementGround ground)
    {
        var (db, cancel) = (ground.Db, ground.Cancel);
        using var appender = engine.CreateAppender(view);
        switch (view)
        {
            case "people":
                foreach (var p in await db.DirectoryPeople.AsNoTracking().ToListAsync(cancel))
                {
                    Row(appender, p.Id, p.Name, p.Mail, p.Unit, p.Title, p.Manager, p.LeavesOn?.ToDateOnly());
                }

                break;
            case "groups":
                foreach (var g in await db.DirectoryGroups.AsNoTracking().ToListAsync(cancel))
                {
                    Row(appender, g.Id, g.Name);
                }

                break;
            case "memberships":
                foreach (var m in await db.DirectoryMemberships.AsNoTracking().ToListAsync(cancel))
                {
                    Row(appender, m.GroupId, m.PersonId, m.SubgroupId);
                }

                break;
            case "series":
                foreach (
                    var s in (await db.Series.AsNoTracking().ToListAsync(cancel)).Where(s =>
                        ground.Caller.MaySee(Right.ReadSchedule, s.UnitId)
                    )
                )
                {
                    Row(appender, s.Id, s.Code, s.Title);
                }

                break;
            case "items":
                await FillItemsAsync(appender, ground);
                break;
        }
    }

    private static async Task FillItemsAsync(DuckDBAppender appender, StatementGround ground)
    {
        await ground.Db.Database.OpenConnectionAsync(ground.Cancel);
        var filter = ground.Caller.Items();
        using var command = ((SqliteConnection)ground.Db.Database.GetDbConnection()).CreateCommand();
        command.CommandText = $"""
            SELECT i.Id, i.Title, i.Path, c.Name, i.Author, i.Created, i.Modified, i.Bytes, s.Code
            FROM item i JOIN container c ON c.Id = i.ContainerId LEFT JOIN series s ON s.Id = i.SeriesId
            WHERE {filter.Where()}
            """;
        filter.Bind(command, ground.Calendar.Today.ToDayNumber());
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            Row(
                appender,
                reader.GetInt64(0),
                Text(1),
                Text(2),
                Text(3),
                Text(4),
                Day(5),
                Day(6),
                reader.GetInt64(7),
                Text(8)
            );
        }

        string? Text(int at) => reader.IsDBNull(at) ? null : reader.GetString(at);

        DateOnly? Day(int at) => reader.IsDBNull(at) ? null : DayNumber.ToDate(reader.GetInt32(at)).ToDateOnly();
    }

    /// <summary>An empty table of a view's columns.</summary>
    public static void Create(DuckDBConnection engine, SqlView view) =>
        SegmentFile.Run(
            engine,
            $"CREATE TABLE {view.Name} ({string.Join(", ", view.Columns.Select(c => $"{c.Name} {c.Type}"))})"
        );

    public static void Row(DuckDBAppender appender, params object?[] values)
    {
        var row = appender.CreateRow();
        foreach (var value in values)
        {
            _ = value switch
            {
                string text => row.AppendValue(text),
                long number => row.AppendValue(number),
                double number => row.AppendValue(number),
                bool truth => row.AppendValue(truth),
                DateOnly day => row.AppendValue(day),
                _ => row.AppendNullValue(),
            };
        }

        row.EndRow();
    }

    /// <summary>Columns as SQL names them, with a comma and a blank between.</summary>
    public static ViewColumn[] Columns(string list) =>
        [.. list.Split(", ").Select(c => c.Split(' ')).Select(c => new ViewColumn(c[0], c[1]))];
}
