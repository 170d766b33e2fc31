using System.Globalization;
using DuckDB.NET.Data;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.People;
using WideKeel.Core.Time;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Type">As SQL names it.</param>
public sealed record ViewColumn(string Name, string Type);

public sealed record SqlView(string Name, string Says, IReadOnlyList<ViewColumn> Columns);

/// <summary>A sealed file that is not where it was written.</summary>
/// <param name="Events">How many it held; null for whoever may read those of some units only.</param>
internal sealed record MissingSegment(string Channel, LocalDate Day, int Number, long? Events);

/// <summary>The files that one statement reads, in the open until it has ended.</summary>
internal sealed class OpenSegments(ArchiveFiles archive) : IDisposable
{
    private readonly List<OpenSegment> open = [];

    /// <summary>Null where the file is not there.</summary>
    public string? PathOf(string channel, LocalDate day, int number)
    {
        var segment = archive.Open(channel, day, number);
        if (segment is not null)
        {
            open.Add(segment);
        }

        return segment?.Path;
    }

    public void Dispose() => open.ForEach(s => s.Dispose());
}

/// <summary>What a statement needs besides the rows that were copied for it.</summary>
/// <param name="Missing">The sealed files that are missing and whose events are not at hand either.</param>
/// <param name="Prepare">Makes the views over files.</param>
/// <param name="Files">The files that the statement reads; every row in them is the asker's to read.</param>
internal sealed record StatementFill(
    IReadOnlyList<MissingSegment> Missing,
    string Prepare,
    IReadOnlyList<string> Files
);

/// <summary>
/// The events and the tables of one caller as views that statements ask: what they may not read is not in them. What fits in
/// rows comes from an <see cref="ISqlViewSource"/>.
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
    ];

    /// <summary>The views of events, where the caller may ask them.</summary>
    public static IReadOnlyList<SqlView> Of(Caller caller) => [.. Known.Where(k => k.May(caller)).Select(k => k.View)];

    /// <summary>Makes the views that are asked.</summary>
    /// <param name="uploads">The caller's own tables, with their files.</param>
    public static async Task<StatementFill> FillAsync(
        DuckDBConnection engine,
        IReadOnlySet<string> asked,
        IReadOnlyDictionary<string, string> uploads,
        OpenSegments archive,
        StatementGround ground
    )
    {
        var events =
            asked.Contains(Events) || asked.Contains(SignIns)
                ? await FillEventsAsync(engine, archive, ground)
                : new([], "", []);
        var own = uploads.Where(u => asked.Contains(u.Key)).ToList();
        return new(
            events.Missing,
            string.Join(
                '\n',
                own.Select(u =>
                        $"CREATE VIEW \"{u.Key}\" AS SELECT * FROM read_parquet('{SegmentFile.Quoted(u.Value)}');"
                    )
                    .Prepend(events.Prepare)
            ),
            [.. events.Files, .. own.Select(u => u.Value)]
        );
    }

    /// <summary>
    /// Sealed days answer from their files, what is not sealed yet from rows; an event is in one of the two. Where a file is
    /// missing its events answer from their rows, as long as these are at hand. Who reads some units only gets a copy of
    /// those units' rows, and no file.
    /// </summary>
    private static async Task<StatementFill> FillEventsAsync(
        DuckDBConnection engine,
        OpenSegments archive,
        StatementGround ground
    )
    {
        var access = await ChannelAccess.OfAsync(ground.Caller, ground.Db, ground.Cancel);
        var names = access.Channels.ToDictionary(c => c.Id, c => c.Name);
        var segments = await ground
            .Db.Segments.AsNoTracking()
            .Where(s => names.Keys.Contains(s.ChannelId) && s.RemovedAt == null)
            .OrderBy(s => s.Day)
            .ToListAsync(ground.Cancel);
        var files = segments.ConvertAll(s => archive.PathOf(names[s.ChannelId], s.Day, s.Number));
        var without = segments.Where((_, i) => files[i] is null).ToList();
        var atHand = await AtHandAsync(without, ground);
        await ground.Db.Database.OpenConnectionAsync(ground.Cancel);
        SegmentFile.Run(engine, SegmentFile.CreateTable("open_events"));
        var connection = (SqliteConnection)ground.Db.Database.GetDbConnection();
        // One by one: each has an index of its own to go by, and both in one condition would have none.
        Append("e.SegmentId IS NULL");
        foreach (var segment in atHand)
        {
            Append(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"""
                    e.SegmentId = {segment.Id} AND e.Time >= {segment.First.ToUnixTimeMilliseconds()}
                    AND e.Time <= {segment.Last.ToUnixTimeMilliseconds()}
                    """
                )
            );
        }

        List<string> readable = [.. files.OfType<string>()];
        return new(
            [
                .. without
                    .Except(atHand)
                    .Select(s => new MissingSegment(
                        names[s.ChannelId],
                        s.Day,
                        s.Number,
                        access.Units is null ? s.Events : null
                    )),
            ],
            PrepareEvents(readable, access.Units),
            access.Units is null ? readable : []
        );

        void Append(string where) =>
            SegmentFile.Append(
                engine,
                "open_events",
                EventStore.Read(connection, $"{where} AND {access.Where}", access.Bind),
                null
            );
    }

    private static string PrepareEvents(List<string> files, IReadOnlyCollection<long>? units)
    {
        var columns = string.Join(", ", EventColumns.Select(c => c.Name));
        var list = string.Join(", ", files.Select(f => $"'{SegmentFile.Quoted(f)}'"));
        var archived = files.Count == 0 ? "" : $"SELECT {columns} FROM read_parquet([{list}])";
        var open = $"SELECT {columns} FROM open_events";
        var all =
            files.Count == 0 ? $"CREATE VIEW {Events} AS {open};"
            : units is null ? $"CREATE VIEW {Events} AS {archived} UNION ALL {open};"
            : $"""
                CREATE TABLE {Events} AS {archived} WHERE unit_id IN ({string.Join(", ", units.Append(-1))});
                INSERT INTO {Events} {open};
                """;
        return $"{all}\nCREATE VIEW {SignIns} AS SELECT * FROM {Events} WHERE action = 'sign-in';";
    }

    /// <summary>Those of some sealed days whose events all have their rows still.</summary>
    private static async Task<IReadOnlyList<Segment>> AtHandAsync(List<Segment> segments, StatementGround ground)
    {
        List<Segment> atHand = [];
        foreach (var segment in segments)
        {
            var rows = await ground.Db.Events.LongCountAsync(
                e => e.SegmentId == segment.Id && e.Time >= segment.First && e.Time <= segment.Last,
                ground.Cancel
            );
            if (rows == segment.Events)
            {
                atHand.Add(segment);
            }
        }

        return atHand;
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
