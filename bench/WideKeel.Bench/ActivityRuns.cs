using System.Diagnostics;
using System.Globalization;
using System.Security.Cryptography;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.Query;
using WideKeel.Server;
using WideKeel.Server.Activity;
using WideKeel.Store;
using WideKeel.Store.Activity;
using ActivityEvent = WideKeel.Core.Activity.ActivityEvent;

/// <summary>
/// Activity at scale: intake beside bare prepared inserts, search and facets, sealing and checking a day, SQL beside the
/// bare engine over the same files.
/// </summary>
internal static class ActivityRun
{
    private const int PerDay = 110_000;

    public static async Task RunAsync(string folder, int events)
    {
        var data = Directory.CreateDirectory(Path.Combine(folder, "activity")).FullName;
        await using var app = WideKeelHost.Create(
            new()
            {
                DataFolder = data,
                SecretsFolder = data,
                Urls = "http://127.0.0.1:0",
                Quiet = true,
            }
        );
        var services = app.Services;
        if (!await IsThereAsync(services, events))
        {
            await IntakeAsync(services, folder, events);
        }

        Sizes(data, folder, events);
        await SearchAsync(services, data);
        Backtest(data);
        Seal(folder, Events(events));
        Sql(folder, Events(events));
    }

    /// <summary>Whether a folder that was kept has the events already.</summary>
    private static async Task<bool> IsThereAsync(IServiceProvider services, int events)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        return await db.EventHourCounts.SumAsync(c => c.Events) == events;
    }

    private static async Task IntakeAsync(IServiceProvider services, string folder, int events)
    {
        var channel = await ChannelAsync(services);
        var intake = services.GetRequiredService<EventIntake>();
        var watch = Stopwatch.StartNew();
        await intake.TakeAsync(
            channel,
            "bench",
            Events(events)
                .Select((e, i) => new ReadLine(i + 1, e.Original!, EventLine.Read(e.Original!)))
                .ToAsyncEnumerable(),
            null,
            CancellationToken.None
        );
        var taken = watch.Elapsed;
        var bare = BareInsert(folder, Events(events));
        // Both make the events while they take them; that is no part of an intake.
        watch.Restart();
        foreach (var _ in Events(events)) { }

        Say($"intake of {events:N0}", taken - watch.Elapsed, bare - watch.Elapsed);
    }

    private static async Task<long> ChannelAsync(IServiceProvider services)
    {
        await services
            .GetRequiredService<Writer>()
            .RunAsync(
                new LedgerActor("bench"),
                session =>
                {
                    session.Db.Units.Add(new() { Name = "Bench", Path = "/1/" });
                    session.Db.Channels.Add(
                        new()
                        {
                            Name = "bench",
                            Title = "Bench",
                            Feed = ChannelFeed.Http,
                            Format = EventFormat.Json,
                            Retention = "P50Y",
                        }
                    );
                    return Task.CompletedTask;
                }
            );
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        return (await db.Channels.SingleAsync()).Id;
    }

    /// <summary>The same events, in the order of time, each time they are asked for.</summary>
    private static IEnumerable<ActivityEvent> Events(int count)
    {
        var random = new Random(5);
        var start = Begin - Duration.FromDays(1 + (count / PerDay));
        string[] actions = ["file.read", "file.write", "file.download", "sign-in", "mail.send", "file.delete"];
        for (var i = 0; i < count; i++)
        {
            var e = new ActivityEvent
            {
                Id = string.Create(CultureInfo.InvariantCulture, $"e{i}"),
                Time = Instant.FromUnixTimeMilliseconds(
                    (start + Duration.FromMilliseconds(i * 86_400_000L / PerDay)).ToUnixTimeMilliseconds()
                ),
                Action = random.Next(1_000) == 0 ? "share.link" : actions[random.Next(actions.Length)],
                Actor = string.Create(CultureInfo.InvariantCulture, $"p{random.Next(2000)}@bench.example"),
                Object = string.Create(CultureInfo.InvariantCulture, $"share/{random.Next(50_000)}.docx"),
                Container = string.Create(CultureInfo.InvariantCulture, $"share-{random.Next(180)}"),
                Address = string.Create(CultureInfo.InvariantCulture, $"192.0.2.{random.Next(250)}"),
                Outcome = random.Next(20) == 0 ? EventOutcome.Failure : EventOutcome.Success,
                Amount = random.Next(1_000_000),
            };
            yield return e with
            {
                Original = EventLine.Write(e).ToJsonString(),
            };
        }
    }

    private static readonly Instant Begin = SystemClock.Instance.GetCurrentInstant();

    /// <summary>The same columns by one prepared statement, values coded by a dictionary in memory.</summary>
    private static TimeSpan BareInsert(string folder, IEnumerable<ActivityEvent> events)
    {
        using var connection = new SqliteConnection($"Data Source={Path.Combine(folder, "bare.db")};Pooling=False");
        connection.Open();
        Run("PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL");
        Run("CREATE TABLE e (Id INTEGER PRIMARY KEY, C, S, T, A, B, O, D, U, M, R, UNIQUE (C, S))");
        Run(
            "CREATE INDEX i1 ON e (T); CREATE INDEX i2 ON e (A, T); CREATE INDEX i3 ON e (D, T); CREATE INDEX i4 ON e (O, T)"
        );
        Dictionary<string, long> codes = [];
        long Code(string? v) =>
            v is null ? 0
            : codes.TryGetValue(v, out var c) ? c
            : codes[v] = codes.Count + 1;
        var watch = Stopwatch.StartNew();
        foreach (var portion in events.Chunk(2_000))
        {
            using var transaction = connection.BeginTransaction();
            using var insert = connection.CreateCommand();
            insert.CommandText = "INSERT INTO e (C, S, T, A, B, O, D, U, M, R) VALUES ($0,$1,$2,$3,$4,$5,$6,$7,$8,$9)";
            for (var i = 0; i < 10; i++)
            {
                insert.Parameters.Add(new() { ParameterName = $"${i}" });
            }

            insert.Prepare();
            foreach (var e in portion)
            {
                object[] values =
                [
                    1L,
                    e.Id,
                    e.Time.ToUnixTimeMilliseconds(),
                    Code(e.Actor),
                    Code(e.Action),
                    Code(e.Object),
                    Code(e.Address),
                    Code(e.Outcome?.ToString()),
                    (double)e.Amount!,
                    e.Original!,
                ];
                for (var i = 0; i < values.Length; i++)
                {
                    insert.Parameters[i].Value = values[i];
                }

                insert.ExecuteNonQuery();
            }

            transaction.Commit();
        }

        return watch.Elapsed;

        void Run(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            command.ExecuteNonQuery();
        }
    }

    private static void Sizes(string data, string folder, int events) =>
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  on disk with indexes and counts: {BytesOf(data, "widekeel.db") / events:F0} bytes an event, "
                    + $"bare {BytesOf(folder, "bare.db") / events:F0}"
            )
        );

    private static double BytesOf(string folder, string file)
    {
        using var connection = Open(folder, file);
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT page_count * page_size FROM pragma_page_count, pragma_page_size";
        return Convert.ToDouble(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }

    private static SqliteConnection Open(string folder, string file = "widekeel.db")
    {
        var connection = new SqliteConnection($"Data Source={Path.Combine(folder, file)};Mode=ReadOnly");
        connection.Open();
        return connection;
    }

    private static async Task SearchAsync(IServiceProvider services, string data)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        var access = new ChannelAccess(await db.Channels.AsNoTracking().ToListAsync(), null);
        using var connection = Open(data);
        var week = EventLine.Text(Begin - Duration.FromDays(7));
        foreach (
            var query in new[]
            {
                "",
                $"time >= {week}",
                "action = file.delete",
                $"action = file.delete and time >= {week}",
                "action = share.link",
                "actor = p17@bench.example",
                "49999",
                "outcome = failure",
            }
        )
        {
            var condition =
                query.Length == 0
                    ? new Condition.Everything()
                    : QueryCompiler.Compile(query, new(2026, 6, 15), EventColumn.Vocabulary).Value.Condition;
            EventQuestion Question() => EventQuestion.Of(connection, access, condition).Value;
            var total = new EventTally(Question()).Total();
            List<(string, TimeSpan)> took =
            [
                ("total", Median(() => new EventTally(Question()).Total())),
                ("first page", Median(() => EventEndpoints.Page(Question(), null, 101, total))),
                ("facets", Median(() => new EventTally(Question()).Values(EventCounts.Columns, 12))),
                ("by day", Median(() => new EventTally(Question()).ByTime(EventCounts.DayMilliseconds))),
            ];
            Console.WriteLine(
                string.Create(CultureInfo.InvariantCulture, $"  search “{query}”, {total:N0} events: ")
                    + string.Join(
                        ", ",
                        took.Select(t =>
                            string.Create(CultureInfo.InvariantCulture, $"{t.Item1} {t.Item2.TotalMilliseconds:F0} ms")
                        )
                    )
            );
        }
    }

    private static TimeSpan Median(Func<object> run) =>
        Enumerable
            .Range(0, 5)
            .Select(_ =>
            {
                var watch = Stopwatch.StartNew();
                run();
                return watch.Elapsed;
            })
            .Order()
            .ElementAt(2);

    /// <summary>A count watch over all that is at hand, beside reading the same columns bare.</summary>
    private static void Backtest(string data)
    {
        using var connection = Open(data);
        var watch = WatchFile
            .ReadOne(
                """
                {"name":"Deletions","kind":"count","where":"action = file.delete","per":"actor","of":"events",
                 "threshold":20,"within":"PT1H"}
                """,
                new(2026, 6, 15)
            )
            .Value;
        var ground = new WatchGround(new([]), [], DateTimeZone.Utc, new Dictionary<string, LocalDate>());
        List<(TimeSpan Ours, TimeSpan Bare)> runs = [];
        for (var i = 0; i < 3; i++)
        {
            var clock = Stopwatch.StartNew();
            _ = Judged
                .Whole(new WatchEvents(connection, watch), ground, watch, SystemClock.Instance.GetCurrentInstant())
                .Alerts.Count;
            var ours = clock.Elapsed;
            clock.Restart();
            using var command = connection.CreateCommand();
            command.CommandText =
                "SELECT e.Id, e.SourceId, e.Time, a.Value FROM activity_event e JOIN activity_value a ON a.Id = e.Actor "
                + "WHERE e.Action IN (SELECT Id FROM activity_value WHERE Value = 'file.delete')";
            using var reader = command.ExecuteReader();
            var read = 0L;
            while (reader.Read())
            {
                read +=
                    reader.GetInt64(0) + reader.GetString(1).Length + reader.GetInt64(2) + reader.GetString(3).Length;
            }

            runs.Add((ours, clock.Elapsed));
        }

        var (median, beside) = (
            runs.ConvertAll(r => r.Ours).Order().ElementAt(1),
            runs.ConvertAll(r => r.Bare).Order().ElementAt(1)
        );
        Say("backtest of a count watch", median, beside);
    }

    private static void Seal(string folder, IEnumerable<ActivityEvent> all)
    {
        var day = all.Take(PerDay)
            .Select((e, i) => new StoredEvent(i, 1, 1, null, e with { Channel = "bench" }))
            .ToList();
        var file = Path.Combine(folder, "archive", "0.parquet");
        var watch = Stopwatch.StartNew();
        var (leaves, hash, bytes) = SegmentFile.Write(file, day);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  sealing {day.Count:N0}: {watch.Elapsed.TotalSeconds:F1} s, {(double)bytes / day.Count:F0} bytes an event"
            )
        );
        var segment = new SealedSegment(
            "bench",
            new(2026, 6, 15),
            0,
            day.Count,
            default,
            default,
            Convert.ToHexStringLower(new MerkleProver(leaves).Root()),
            hash
        );
        watch.Restart();
        var finding = SegmentVerifier.FindingOf(file, segment);
        var verified = watch.Elapsed;
        watch.Restart();
        foreach (var e in day)
        {
            SHA256.HashData(CanonicalJson.Serialize(EventLine.Write(e.Event)));
        }

        Say(
            $"checking a sealed day ({finding ?? "sound"}), beside canonical form and SHA-256 alone",
            verified,
            watch.Elapsed
        );
    }

    private static void Sql(string folder, IEnumerable<ActivityEvent> all)
    {
        var archive = Path.Combine(folder, "archive", "days");
        List<string> files = [];
        foreach (var (portion, i) in all.Chunk(PerDay).Select((p, i) => (p, i)))
        {
            var file = Path.Combine(archive, $"{i}.parquet");
            SegmentFile.Write(file, [.. portion.Select((e, k) => new StoredEvent(k, 1, 1, null, e))]);
            files.Add($"'{file}'");
        }

        var list = string.Join(", ", files);
        const string asked = "SELECT actor, count(*), sum(amount) FROM events GROUP BY actor ORDER BY 2 DESC LIMIT 20";
        using var ours = SegmentFile.Engine();
        SegmentFile.Run(ours, $"{SegmentFile.CreateTable("open_events")}; SET threads = 2");
        var columns = string.Join(", ", SegmentFile.Schema.Select(c => c.Name));
        SegmentFile.Run(
            ours,
            $"CREATE VIEW events AS SELECT {columns} FROM read_parquet([{list}]) UNION ALL SELECT {columns} FROM open_events"
        );
        using var bare = SegmentFile.Engine();
        SegmentFile.Run(bare, $"SET threads = 2; CREATE VIEW events AS SELECT * FROM read_parquet([{list}])");
        Say("SQL group-by over all, beside the bare engine", Best(ours), Best(bare));

        TimeSpan Best(DuckDB.NET.Data.DuckDBConnection engine) =>
            Enumerable
                .Range(0, 3)
                .Select(_ =>
                {
                    var watch = Stopwatch.StartNew();
                    using var command = engine.CreateCommand();
                    command.CommandText = asked;
                    using var reader = command.ExecuteReader();
                    while (reader.Read()) { }
                    return watch.Elapsed;
                })
                .Min();
    }

    private static void Say(string what, TimeSpan ours, TimeSpan bare) =>
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {what}: {ours.TotalSeconds:F2} s, bare {bare.TotalSeconds:F2} s, {ours / bare:F2}×"
            )
        );
}
