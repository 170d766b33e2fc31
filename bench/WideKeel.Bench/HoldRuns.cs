using System.Diagnostics;
using System.Globalization;
using Microsoft.AspNetCore.Http;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Server;
using WideKeel.Server.Jobs;
using WideKeel.Server.Matters;
using WideKeel.Store;
using WideKeel.Store.Jobs;
using WideKeel.Store.Matters;

/// <summary>
/// An order put over all items, by the product's own job with its ledger entries, against the bare full-text query that
/// inserts its ids; one arriving item against 300 standing orders, against asking each in turn; the preview of a
/// release, against the two sums in plain SQL.
/// </summary>
internal static class HoldRun
{
    private const int Orders = 300;
    private const int Held = 200_000;

    public static async Task RunAsync(string folder, int items)
    {
        await using var services = ManyItems.Services(folder);
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        var connection = await ManyItems.OpenAsync(db, items);
        await db.HoldItems.ExecuteDeleteAsync();
        await db.HoldOrders.ExecuteDeleteAsync();
        await db.Matters.ExecuteDeleteAsync();
        await db.Organisations.ExecuteDeleteAsync();
        db.Organisations.Add(
            new()
            {
                Name = "All",
                Zone = "Etc/UTC",
                FiscalYearEnd = "12-31",
            }
        );
        db.Matters.Add(
            new()
            {
                Id = 1,
                Number = "M-2026-1",
                Name = "Bench",
                UnitId = 1,
                OpenedBy = "bench",
            }
        );
        await db.SaveChangesAsync();
        using (var create = connection.CreateCommand())
        {
            create.CommandText =
                "DROP TABLE IF EXISTS bare_held; CREATE TABLE bare_held (Item INTEGER, OrderId INTEGER, PRIMARY KEY (Item, OrderId))";
            create.ExecuteNonQuery();
        }

        var texts = new Texts(ManyItems.Seed);
        await ApplyAsync(services, db, connection, items, texts);
        Arrivals(texts);
        await PreviewAsync(services, db, connection, items);
    }

    private static async Task ApplyAsync(
        ServiceProvider services,
        WideKeelDb db,
        SqliteConnection connection,
        int items,
        Texts texts
    )
    {
        var writer = services.GetRequiredService<Writer>();
        var kind = services.GetServices<IJob>().Single(k => k.Kind == HoldJob.JobKind);
        foreach (
            var (query, name) in new[]
            {
                ($"{texts.Word(20_000)} or {texts.Word(15_000)}", "two rare words"),
                ($"{texts.Word(300)} or {texts.Word(900)}", "two words of middling frequency"),
            }
        )
        {
            var number = (int)await db.HoldOrders.LongCountAsync();
            var held = 0L;
            await Pair.CompareAsync(
                string.Create(CultureInfo.InvariantCulture, $"Order of {name} put over {items:N0} items"),
                "goal ≤ 2",
                async () =>
                {
                    Job? job = null;
                    await writer.RunAsync(
                        new LedgerActor("bench"),
                        async session =>
                        {
                            var order = new HoldOrder
                            {
                                MatterId = 1,
                                Number = ++number,
                                Name = query,
                                State = OrderState.InForce,
                                InForce = HoldDefinition.Everything with { Query = query },
                            };
                            session.Db.HoldOrders.Add(order);
                            await session.Db.SaveChangesAsync();
                            job = await JobBoard.AddAsync(session, HoldJob.JobKind, order.Id, "Hold", null, "bench");
                            await session.Db.SaveChangesAsync();
                        }
                    );
                    await kind.RunAsync(
                        new JobRun(job!, writer, services.GetRequiredService<JobFeed>(), SystemClock.Instance),
                        CancellationToken.None
                    );
                    held = job!.SubjectId;
                },
                () =>
                {
                    using var insert = connection.CreateCommand();
                    insert.CommandText =
                        "INSERT INTO bare_held SELECT rowid, $order FROM bare_fts WHERE bare_fts MATCH $query";
                    insert.Parameters.AddWithValue("$order", -number);
                    insert.Parameters.AddWithValue("$query", query.Replace(" or ", " OR ", StringComparison.Ordinal));
                    insert.ExecuteNonQuery();
                    return Task.CompletedTask;
                }
            );
            var count = await db.HoldItems.LongCountAsync(h => h.OrderId == held);
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  {count:N0} held"));
        }
    }

    /// <summary>Orders as people write them: two or three words, some of one container, some with a date.</summary>
    private static void Arrivals(Texts texts)
    {
        var random = new Random(5);
        var today = new LocalDate(2026, 6, 15);
        List<StandingOrder> orders =
        [
            .. Enumerable
                .Range(1, Orders)
                .Select(i =>
                {
                    var words = Enumerable.Range(0, 2 + (i % 2)).Select(_ => texts.Word(random.Next(100, 30_000)));
                    var definition = HoldDefinition.Everything with
                    {
                        Query = string.Join(i % 3 == 0 ? " and " : " or ", words),
                        From = i % 4 == 0 ? new LocalDate(2020, 1, 1) : null,
                    };
                    return new StandingOrder(
                        i,
                        i % 2 == 0 ? new HashSet<long> { i % 200 } : null,
                        new HashSet<string>(),
                        definition.Check(today).Value!.Condition,
                        definition
                    );
                }),
        ];
        List<Arrival> arrivals =
        [
            .. Enumerable
                .Range(1, 1_000)
                .Select(i => new Arrival(
                    i % 200,
                    new LocalDate(2019, 1, 1).PlusDays(i),
                    today,
                    new QueryItem { Title = texts.Next(30), Body = texts.Next(2000) }
                )),
        ];
        var index = new StandingOrders(orders);
        var watch = Stopwatch.StartNew();
        var found = 0;
        Pair.CompareAsync(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{arrivals.Count:N0} arriving items of 2 kB against {Orders} standing orders"
                ),
                "one item < 5 ms",
                () =>
                {
                    watch.Restart();
                    found = arrivals.Sum(a => index.Matching(a).Count);
                    watch.Stop();
                    return Task.CompletedTask;
                },
                () =>
                    arrivals.Sum(a => orders.Count(o => StandingOrders.Keeps(o, a))) == found
                        ? Task.CompletedTask
                        : throw new InvalidOperationException("The index and the orders one by one disagree.")
            )
            .GetAwaiter()
            .GetResult();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  one item in {watch.Elapsed.TotalMilliseconds / arrivals.Count:0.000} ms; {found:N0} holds"
            )
        );
    }

    private static async Task PreviewAsync(
        ServiceProvider services,
        WideKeelDb db,
        SqliteConnection connection,
        int items
    )
    {
        var order = new HoldOrder
        {
            MatterId = 1,
            Number = 1_000,
            Name = "Wide",
            State = OrderState.InForce,
            InForce = HoldDefinition.Everything,
        };
        db.HoldOrders.Add(order);
        await db.SaveChangesAsync();
        await db.Database.ExecuteSqlAsync(
            $"INSERT INTO hold_item (ItemId, OrderId, Pinned) SELECT Id, {order.Id}, 0 FROM item ORDER BY Id LIMIT {Held}"
        );
        var calendar = services.GetRequiredService<OrganisationCalendar>();
        var context = new ApiContext(
            new DefaultHttpContext { RequestServices = services },
            services.GetRequiredService<Caller>(),
            db,
            services.GetRequiredService<Writer>(),
            calendar,
            CancellationToken.None
        );
        ReleasePreview? preview = null;
        await Pair.CompareAsync(
            string.Create(
                CultureInfo.InvariantCulture,
                $"Preview of the release of {Math.Min(items, Held):N0} held items"
            ),
            "goal < 2 s",
            async () => preview = (await ReleaseEndpoints.PreviewAsync(1, order.Id, null, 30, db, context)).Value,
            () =>
            {
                using var command = connection.CreateCommand();
                command.CommandText =
                    "SELECT COUNT(*), SUM(i.Bytes) FROM hold_item h JOIN item i ON i.Id = h.ItemId WHERE h.OrderId = $order";
                command.Parameters.AddWithValue("$order", order.Id);
                command.ExecuteScalar();
                return Task.CompletedTask;
            }
        );
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {preview!.Figures.StayHeld.Items:N0} stay held, {preview.Figures.Free.Items:N0} under no rule"
            )
        );
    }
}
