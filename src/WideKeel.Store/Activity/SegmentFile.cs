using System.Globalization;
using System.Security.Cryptography;
using DuckDB.NET.Data;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Activity;

namespace WideKeel.Store.Activity;

/// <summary>
/// Sealed files: the events of one channel and UTC day as Parquet, ordered by (time, id), each with the leaf hash of
/// its place in the segment's tree. Any engine that reads Parquet reads them; the columns stand in docs/archive.md.
/// </summary>
public static class SegmentFile
{
    /// <summary>
    /// Rows of a group. Small, because a damaged byte makes its group unreadable, and the groups before it still prove
    /// their events.
    /// </summary>
    private const int RowGroup = 2048;

    private static readonly (string Name, string Type, Func<StoredEvent, object?> Value)[] Columns =
    [
        ("id", "VARCHAR", e => e.Event.Id),
        ("time", "TIMESTAMP", e => e.Event.Time.ToDateTimeUtc()),
        ("received", "TIMESTAMP", e => e.Event.Received?.ToDateTimeUtc()),
        .. EventColumn
            .All.Where(c => c.IsCoded)
            .Select(c => (NameOf(c), "VARCHAR", (Func<StoredEvent, object?>)(e => c.ValueOf(e.Event)))),
        ("latitude", "DOUBLE", e => e.Event.Place?.Latitude),
        ("longitude", "DOUBLE", e => e.Event.Place?.Longitude),
        ("amount", "DOUBLE", e => (double?)e.Event.Amount),
        ("details", "VARCHAR", e => e.Event.Details),
        ("original", "VARCHAR", e => e.Event.Original),
        ("unit_id", "BIGINT", e => e.UnitId),
        ("event_id", "BIGINT", e => e.Id),
    ];

    /// <summary>The columns with their types in SQL, without the number and the leaf.</summary>
    public static IReadOnlyList<(string Name, string Type)> Schema { get; } =
    [.. Columns.Select(c => (c.Name, c.Type))];

    /// <summary>Where the file of a segment lies beneath the archive's folder.</summary>
    public static string PathOf(string archive, string channel, LocalDate day, int number) =>
        Path.Combine(
            archive,
            channel,
            $"day={LocalDatePattern.Iso.Format(day)}",
            string.Create(CultureInfo.InvariantCulture, $"{number}.parquet")
        );

    /// <summary>The column's name in files and in SQL: lower case with underscores.</summary>
    public static string NameOf(EventColumn column) =>
        string.Concat(column.Name.Select(c => char.IsUpper(c) ? $"_{char.ToLowerInvariant(c)}" : $"{c}"));

    /// <summary>
    /// Writes a file in one piece: under another name first, flushed to disk, then renamed over whatever a stop in the
    /// middle left.
    /// </summary>
    /// <param name="events">In the order of (time, id).</param>
    /// <returns>The leaves, and the file's SHA-256.</returns>
    public static (byte[][] Leaves, string Hash, long Bytes) Write(string file, IReadOnlyList<StoredEvent> events)
    {
        var leaves = events.Select(e => EventLine.LeafOf(e.Event)).ToArray();
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        var unfinished = file + ".tmp";
        using (var engine = Engine())
        {
            Run(engine, CreateTable("s"));
            Append(engine, "s", events, leaves);
            Run(
                engine,
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"""
                    COPY (SELECT * FROM s ORDER BY number) TO '{Quoted(unfinished)}'
                    (FORMAT parquet, COMPRESSION zstd, ROW_GROUP_SIZE {RowGroup})
                    """
                )
            );
        }

        using (var written = new FileStream(unfinished, FileMode.Open, FileAccess.ReadWrite))
        {
            written.Flush(flushToDisk: true);
        }

        File.Move(unfinished, file, overwrite: true);
        return (leaves, HashOf(file), new FileInfo(file).Length);
    }

    /// <summary>The statement that makes a table with the columns of the files.</summary>
    public static string CreateTable(string name) =>
        $"CREATE TABLE {name} (number BIGINT, {string.Join(", ", Schema.Select(c => $"{c.Name} {c.Type}"))}, leaf BLOB)";

    /// <summary>Puts events into a table of the engine that has the columns of the files.</summary>
    public static void Append(DuckDBConnection engine, string table, IEnumerable<StoredEvent> events, byte[][]? leaves)
    {
        using var appender = engine.CreateAppender(table);
        long number = 0;
        foreach (var e in events)
        {
            var row = appender.CreateRow().AppendValue(number + 1);
            foreach (var column in Columns)
            {
                _ = column.Value(e) switch
                {
                    string text => row.AppendValue(text),
                    DateTime time => row.AppendValue(time),
                    double real => row.AppendValue(real),
                    long whole => row.AppendValue(whole),
                    _ => row.AppendNullValue(),
                };
            }

            row.AppendValue(leaves?[number] ?? []).EndRow();
            number++;
        }
    }

    /// <summary>The leaves of a file in their order.</summary>
    public static byte[][] Leaves(string file)
    {
        using var engine = Reader();
        using var command = engine.CreateCommand();
        command.CommandText = $"SELECT leaf FROM read_parquet('{Quoted(file)}') ORDER BY number";
        using var reader = command.ExecuteReader();
        List<byte[]> leaves = [];
        while (reader.Read())
        {
            leaves.Add(Blob(reader, 0)!);
        }

        return [.. leaves];
    }

    /// <summary>The events of a file one by one, each with its number and leaf as the file holds them.</summary>
    /// <exception cref="DuckDBException">The file cannot be read, or not from here on.</exception>
    public static IEnumerable<(long Number, byte[]? Leaf, ActivityEvent Event)> Read(string file)
    {
        using var engine = Reader();
        using var command = engine.CreateCommand();
        command.UseStreamingMode = true;
        command.CommandText =
            $"SELECT number, leaf, {string.Join(", ", Columns.Select(c => c.Name))} FROM read_parquet('{Quoted(file)}')";
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            yield return (reader.GetInt64(0), Blob(reader, 1), EventOf(reader));
        }
    }

    public static string HashOf(string file)
    {
        using var stream = File.OpenRead(file);
        return Convert.ToHexStringLower(SHA256.HashData(stream));
    }

    /// <summary>An engine in memory, alone for whoever asked for it. One thread: order is kept, and others get on.</summary>
    public static DuckDBConnection Engine()
    {
        return EngineIn(":memory:");
    }

    /// <summary>
    /// An engine that only reads sealed files: one for the process, because making one takes longer than reading a small
    /// file. Each use has a connection of its own.
    /// </summary>
    private static DuckDBConnection Reader()
    {
        const string shared = "Data Source=:memory:?cache=shared";
        lock (ReaderGate)
        {
            if (keptReader is null)
            {
                keptReader = new DuckDBConnection(shared);
                keptReader.Open();
                Run(keptReader, "SET threads = 2; SET TimeZone = 'UTC'; SET preserve_insertion_order = true");
            }
        }

        var reader = new DuckDBConnection(shared);
        reader.Open();
        return reader;
    }

    private static readonly Lock ReaderGate = new();
    private static DuckDBConnection? keptReader;

    /// <summary>The same over a database in a file, which is made where it is not there.</summary>
    public static DuckDBConnection EngineIn(string file)
    {
        var engine = new DuckDBConnection($"Data Source={file}");
        engine.Open();
        Run(engine, "SET threads = 1; SET preserve_insertion_order = true; SET TimeZone = 'UTC'");
        return engine;
    }

    public static void Run(DuckDBConnection engine, string sql)
    {
        using var command = engine.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    /// <summary>Within single quotes.</summary>
    public static string Quoted(string text) => text.Replace("'", "''", StringComparison.Ordinal);

    private static byte[]? Blob(DuckDBDataReader reader, int at)
    {
        if (reader.IsDBNull(at))
        {
            return null;
        }

        using var stream = reader.GetStream(at);
        using var copy = new MemoryStream();
        stream.CopyTo(copy);
        return copy.ToArray();
    }

    private static ActivityEvent EventOf(DuckDBDataReader reader)
    {
        Dictionary<string, int> at = Columns.Select((c, i) => (c.Name, i)).ToDictionary(c => c.Name, c => c.i + 2);
        var (country, place) = (Text("country"), Text("place"));
        return new()
        {
            Id = Text("id")!,
            Time = Instant.FromDateTimeUtc(DateTime.SpecifyKind(reader.GetDateTime(at["time"]), DateTimeKind.Utc)),
            Channel = Text("channel"),
            Actor = Text("actor"),
            ActorKind = Enum.TryParse<ActorKind>(Text("actor_kind"), ignoreCase: true, out var kind)
                ? kind
                : ActorKind.Unknown,
            Category = Text("category"),
            Action = Text("action"),
            Object = Text("object"),
            Container = Text("container"),
            Target = Text("target"),
            Address = Text("address"),
            Network = Text("network"),
            Place =
                country is null && place is null && Real("latitude") is null
                    ? null
                    : new(country, place, Real("latitude"), Real("longitude")),
            Device = Text("device"),
            Application = Text("application"),
            Outcome = Enum.TryParse<EventOutcome>(Text("outcome"), ignoreCase: true, out var outcome) ? outcome : null,
            Code = Text("code"),
            Amount = Real("amount") is { } amount ? (decimal)amount : null,
            Details = Text("details"),
            Original = Text("original"),
            Unit = Text("unit"),
            Title = Text("title"),
        };

        string? Text(string name) => reader.IsDBNull(at[name]) ? null : reader.GetString(at[name]);

        double? Real(string name) => reader.IsDBNull(at[name]) ? null : reader.GetDouble(at[name]);
    }
}
