using System.Diagnostics;
using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Retention;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

/// <summary>
/// A whole schedule over all items: 300 series (of one and two clauses, by dates, fields and events), 40 blankets,
/// 200,000 events. Consequences of changing every series at once, against reading the same columns with a bare SELECT;
/// and one event that touches a thousand items.
/// </summary>
internal static class ScheduleRun
{
    private const int Series = 300;
    private const int Events = 200_000;
    private static readonly LocalDate Today = new(2026, 6, 15);

    public static async Task RunAsync(string folder, int items)
    {
        var options = new DbContextOptionsBuilder<WideKeelDb>();
        options.UseWideKeel(Path.Combine(folder, "schedule.db"));
        await using var db = new WideKeelDb(options.Options);
        await db.Database.MigrateAsync();
        await FillAsync(db, items);
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var evaluator = new Evaluator(Today, new FiscalYearEnd(9, 30));

        ConsequencesView? view = null;
        await Pair.CompareAsync(
            string.Create(CultureInfo.InvariantCulture, $"A whole schedule before and after, for {items:N0} items"),
            "goal ≤ 3 and < 5 s",
            async () =>
            {
                var before = await Ruling.LoadAsync(db, evaluator);
                var after = await before.WithSeriesAsync(
                    db,
                    before.Series.ToDictionary(
                        s => s.Key,
                        s =>
                            (SeriesRule?)(
                                s.Value with
                                {
                                    Clauses =
                                    [
                                        .. s.Value.Clauses.Select(c =>
                                            c with
                                            {
                                                Period = c.Period with { Years = c.Period.Years - 1 },
                                            }
                                        ),
                                    ],
                                }
                            )
                    )
                );
                view = await new RuleChange(before, after, "1", null).FiguresAsync(db);
            },
            () =>
            {
                using var command = connection.CreateCommand();
                command.CommandText = """
                    SELECT i.Id, i.ContainerId, i.SeriesId, i.Created, i.Modified, i.FiledOn,
                        i.ExtendedUntil, i.Bytes, i.Subject, d.Name, d.Date
                    FROM item i LEFT JOIN item_date d ON d.ItemId = i.Id AND d.Name IN ('closed', 'ended')
                    WHERE i.DestroyedAt IS NULL AND i.BatchId IS NULL
                    """;
                using var reader = command.ExecuteReader();
                long sum = 0;
                while (reader.Read())
                {
                    for (var column = 0; column < 8; column++)
                    {
                        sum += reader.IsDBNull(column) ? 0 : reader.GetInt64(column);
                    }

                    sum +=
                        (reader.IsDBNull(8) ? "" : reader.GetString(8)).Length
                        + (reader.IsDBNull(9) ? "" : reader.GetString(9)).Length
                        + (reader.IsDBNull(10) ? 0 : reader.GetInt64(10));
                }

                return Task.CompletedTask;
            }
        );
        var figures = view!.Figures;
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {figures.InReach.Items:N0} in reach, {figures.BecomeDue.Items:N0} would become due, "
                    + $"{figures.Sooner.Items:N0} are kept shorter"
            )
        );
        await OneEventAsync(db, connection, evaluator);
    }

    /// <summary>What an event does to the items of its subject, again and again with another date.</summary>
    private static async Task OneEventAsync(WideKeelDb db, SqliteConnection connection, Evaluator evaluator)
    {
        List<double> times = [];
        var touched = 0;
        for (var round = 0; round < 9; round++)
        {
            var watch = Stopwatch.StartNew();
            db.TriggerEvents.Add(
                new()
                {
                    TypeId = 1,
                    Subject = "BUSY",
                    Date = new LocalDate(2020, 1, 1).PlusMonths(round),
                    Note = "",
                    ToldBy = "bench",
                }
            );
            await db.SaveChangesAsync();
            var ruling = await Ruling.LoadAsync(db, evaluator, null, ["BUSY"]);
            var filter = new ItemFilter(Units: null) { Subjects = ["BUSY"] };
            touched = ItemScan
                .Facts(connection, ruling.Clocks, filter.Where(), c => filter.Bind(c, Today.ToDayNumber()))
                .Count(row => ruling.Of(row).KeepUntil.Date is not null);
            times.Add(watch.Elapsed.TotalSeconds);
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"One event told: {touched:N0} items of its subject evaluated in "
                    + $"{times.Order().ElementAt(times.Count / 2) * 1000:0} ms (goal < 100 ms for 1,000)"
            )
        );
    }

    private static async Task FillAsync(WideKeelDb db, int items)
    {
        db.Units.Add(
            new()
            {
                Id = 1,
                Name = "All",
                Path = "/1/",
            }
        );
        db.Sources.Add(
            new()
            {
                Id = 1,
                Name = "Share",
                Root = "/none",
            }
        );
        db.Containers.AddRange(
            Enumerable
                .Range(1, 200)
                .Select(i => new Container
                {
                    Id = i,
                    SourceId = 1,
                    Name = string.Create(CultureInfo.InvariantCulture, $"c{i}"),
                    UnitId = 1,
                })
        );
        db.TriggerEventTypes.AddRange(
            new TriggerEventType
            {
                Id = 1,
                Name = "vessel-sold",
                Title = "Vessel sold",
                Description = "",
            },
            new TriggerEventType
            {
                Id = 2,
                Name = "left",
                Title = "Left",
                Description = "",
            }
        );
        ClauseText[] triggers =
        [
            new("created", Cutoff.Fiscal, "P7Y"),
            new("modified", Cutoff.None, "P5Y"),
            new("field:closed", Cutoff.Year, "P6Y"),
            new("event:vessel-sold", Cutoff.Fiscal, "P10Y"),
            new("field:ended", Cutoff.Month, "P3Y"),
            new("event:left", Cutoff.None, "P2Y"),
        ];
        Stage[] stages = [new(Role.RecordsManager), new(Role.RecordsManager)];
        db.Series.AddRange(
            Enumerable
                .Range(1, Series)
                .Select(i => new Series
                {
                    Id = i,
                    Code = string.Create(CultureInfo.InvariantCulture, $"S-{i:000}"),
                    UnitId = 1,
                    Title = "Bench",
                    State = SeriesState.Active,
                    VersionInForce = 1,
                    InForce = SeriesDefinition.OfClauses(
                        i % 3 == 0 ? ClauseJoin.Earlier : ClauseJoin.Later,
                        i % 4 == 0 ? [triggers[i % 6], triggers[(i + 1) % 6]] : [triggers[i % 6]]
                    ) with
                    {
                        AtEnd = EndAction.SignOff,
                        Stages = stages,
                    },
                })
        );
        db.Blankets.AddRange(
            Enumerable
                .Range(1, 40)
                .Select(i => new Blanket
                {
                    Id = i,
                    Name = string.Create(CultureInfo.InvariantCulture, $"B{i:00}"),
                    UnitId = 1,
                    State = BlanketState.Active,
                    VersionInForce = 1,
                    InForce = new(
                        "",
                        new(null, [.. Enumerable.Range(0, 10).Select(n => (long)(1 + ((i * 7) + (n * 13)) % 200))], []),
                        i % 2 == 0 ? "created" : "modified",
                        i % 5 == 0 ? null : "P4Y",
                        false,
                        i % 5 == 0 ? "P9Y" : null
                    ),
                })
        );
        await db.SaveChangesAsync();
        await db.Database.ExecuteSqlRawAsync(
            string.Create(
                CultureInfo.InvariantCulture,
                $"""
                WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < {Events})
                INSERT INTO trigger_event (TypeId, Subject, Date, Note, ToldBy, ToldAt)
                    SELECT 1 + i % 2, 'S' || (i % 100000), 15000 + i % 5000, '', 'bench', 0 FROM n;
                WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < {items})
                INSERT INTO item (Id, ContainerId, Path, Title, Type, Bytes, Hash, Created, Modified, ModifiedTicks,
                    SeriesId, FiledOn, Subject, AtEnd, OwnGrade, HandedOver, Searchable, HasFormer)
                SELECT i, 1 + i % 200, 'folder/' || i, 't', 'md', i % 5000, printf('%064x', i),
                    15000 + (i * 7919) % 5500, 15000 + (i * 104729) % 5500, 0, CASE WHEN i % 10 THEN 1 + i % {Series} END, 20000,
                    CASE WHEN i % 1000 = 7 THEN 'BUSY' ELSE 'S' || (i % 150000) END, 0, 0, 0, 'whole', 0 FROM n;
                INSERT INTO item_date (ItemId, Name, Date) SELECT Id, 'closed', 15000 + (Id * 31) % 5400 FROM item WHERE Id % 3 > 0;
                INSERT INTO item_date (ItemId, Name, Date) SELECT Id, 'ended', 15000 + (Id * 37) % 5400 FROM item WHERE Id % 4 = 0;
                ANALYZE;
                """
            )
        );
    }
}
