using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Shouldly;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Tests.Ledger;

/// <summary>The one way to change the database: its log, and what is written by the thousand.</summary>
public sealed class WriterTests : IAsyncLifetime
{
    private readonly Product product = new();

    private Writer Writer => product.Services.GetRequiredService<Writer>();

    public ValueTask InitializeAsync() => product.InitializeAsync();

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Fact]
    public async Task The_log_does_not_grow_with_what_is_written_without_a_pause()
    {
        const int changes = 30;
        const long mebibyte = 1 << 20;
        long largest = 0;
        // The log would go away with the last connection; other tests close those that nobody uses.
        await using var open = product.Database();
        await open.Database.OpenConnectionAsync(TestContext.Current.CancellationToken);
        for (var i = 0; i < changes; i++)
        {
            await Writer.RunAsync(
                LedgerActor.Job("test", null),
                session =>
                {
                    using var insert = session.Command(
                        $"INSERT INTO item_text (ItemId, Text) VALUES ({1_000_000 + i}, zeroblob({5 * mebibyte}))"
                    );
                    insert.ExecuteNonQuery();
                    return Task.CompletedTask;
                },
                TestContext.Current.CancellationToken
            );
            largest = Math.Max(largest, new FileInfo(product.DatabaseFile + "-wal").Length);
        }

        // 16,000 pages of 4 KiB with their heads, and one change.
        largest.ShouldBeLessThan(70 * mebibyte);
    }

    [Fact]
    public async Task What_is_done_outside_may_itself_make_a_change_because_the_writer_is_free_by_then()
    {
        var other = false;
        await Writer.RunAsync(
            LedgerActor.Job("test", null),
            session =>
            {
                session.AfterRelease(() =>
                    Writer.RunAsync(
                        LedgerActor.Job("test", null),
                        _ =>
                        {
                            other = true;
                            return Task.CompletedTask;
                        }
                    )
                );
                return Task.CompletedTask;
            },
            TestContext.Current.CancellationToken
        );
        other.ShouldBeTrue();
    }

    [Fact]
    public async Task What_was_taken_back_to_a_mark_leaves_no_entry()
    {
        await Writer.RunAsync(
            LedgerActor.Job("test", null),
            async session =>
            {
                var mark = await session.MarkAsync();
                session.Record("tried", new("test", "1"));
                await session.TakeBackAsync(mark);
                session.Record("done", new("test", "1"));
            },
            TestContext.Current.CancellationToken
        );
        await using var db = product.Database();
        db.Ledger.AsEnumerable()
            .Select(e => System.Text.Json.JsonDocument.Parse(e.Body).RootElement.GetProperty("verb").GetString())
            .Where(v => v is "tried" or "done")
            .ShouldBe(["done"]);
    }

    private Task<Outcome<bool>> ChangeAsync(Action then, Refusal? refusal = null) =>
        Writer.RunAsync<bool>(
            LedgerActor.Job("test", null),
            session =>
            {
                session.Record("tried", new("test", "1"));
                session.AfterCommit(then);
                return Task.FromResult<Outcome<bool>>(refusal is null ? true : refusal);
            },
            TestContext.Current.CancellationToken
        );

    [Fact]
    public async Task What_comes_after_a_change_sees_it_committed()
    {
        long seen = 0;
        await ChangeAsync(() =>
        {
            using var db = product.Database();
            seen = db.Ledger.Count(e => e.Verb == "tried");
        });
        seen.ShouldBe(1);
    }

    [Fact]
    public async Task What_comes_after_a_change_does_not_come_after_a_refused_one()
    {
        var done = false;
        await ChangeAsync(() => done = true, new Refusal("no", null, "No."));
        done.ShouldBeFalse();
    }

    [Fact]
    public async Task A_job_is_announced_to_its_lane_by_the_change_that_asks_for_it()
    {
        var board = product.Services.GetRequiredService<JobBoard>();
        board.Open("a lane of the test");
        await Writer.RunAsync(
            LedgerActor.Job("test", null),
            session => JobBoard.AddAsync(session, new JobKind("test", "a lane of the test"), 0, "Test", null, "test"),
            TestContext.Current.CancellationToken
        );
        // Nobody else gives a signal to this lane, and a look without one says so.
        (await board.WaitAsync("a lane of the test", TestContext.Current.CancellationToken)).ShouldBeTrue();
    }

    [Fact]
    public async Task A_row_written_among_thousands_is_the_row_that_the_model_writes()
    {
        product.Write("Island/a.txt", "2020-01-01");
        await product.ScanAsync();
        await using var db = product.Database();
        var plain = await db.Items.AsNoTracking().SingleAsync(TestContext.Current.CancellationToken);
        var (full, empty) = (
            Full(plain.ContainerId, 7_001),
            new Item
            {
                Id = 7_002,
                ContainerId = plain.ContainerId,
                Path = "b",
                Title = "",
                Type = "",
                Hash = "",
            }
        );
        var rows = new[] { full, empty };
        await Writer.RunAsync(
            LedgerActor.Job("test", null),
            session =>
            {
                BulkInsert.Insert(session, rows);
                return Task.CompletedTask;
            },
            TestContext.Current.CancellationToken
        );
        var written = await ColumnsAsync(rows);
        await Writer.RunAsync(
            LedgerActor.Job("test", null),
            async session =>
            {
                await session
                    .Db.Items.Where(i => i.Id > 7_000)
                    .ExecuteDeleteAsync(TestContext.Current.CancellationToken);
                session.Db.Items.AddRange(Full(plain.ContainerId, 7_001), empty);
            },
            TestContext.Current.CancellationToken
        );

        written.ShouldBe(await ColumnsAsync(rows));
        db.Model.FindEntityType(typeof(Item))!
            .GetProperties()
            .Where(p => p.PropertyInfo!.GetValue(full) is null)
            .Select(p => p.Name)
            .ShouldBe([nameof(Item.SeriesId)], "every other column is to carry something");
    }

    /// <summary>An item with something in each of its columns but the series, which would have to be there.</summary>
    private static Item Full(long container, long id)
    {
        var item = new Item
        {
            Id = id,
            ContainerId = container,
            Path = "a",
            Title = "",
            Type = "",
            Hash = "",
        };
        foreach (
            var property in typeof(Item)
                .GetProperties()
                .Where(p =>
                    p.CanWrite && p.Name is not (nameof(Item.Id) or nameof(Item.ContainerId) or nameof(Item.SeriesId))
                )
        )
        {
            var type = Nullable.GetUnderlyingType(property.PropertyType) ?? property.PropertyType;
            object? value =
                type == typeof(string) ? $"“{property.Name}”"
                : type == typeof(bool) ? true
                : type == typeof(LocalDate) ? new LocalDate(1957, 10, 4)
                : type == typeof(Instant) ? Instant.FromUnixTimeTicks(-12_345_678)
                : type.IsEnum ? Enum.GetValues(type).GetValue(1)
                : type == typeof(long) ? 4_000_000_000L
                : type == typeof(int) ? 3
                : null;
            if (value is not null)
            {
                property.SetValue(item, value);
            }
        }

        return item;
    }

    private async Task<List<string>> ColumnsAsync(Item[] rows)
    {
        await using var connection = new SqliteConnection(Connections.StringFor(product.DatabaseFile));
        await connection.OpenAsync();
        await using var command = connection.CreateCommand();
        command.CommandText =
            $"SELECT * FROM item WHERE Id IN ({string.Join(", ", rows.Select(r => r.Id))}) ORDER BY Id";
        await using var reader = await command.ExecuteReaderAsync();
        List<string> columns = [];
        while (await reader.ReadAsync())
        {
            columns.AddRange(
                Enumerable
                    .Range(0, reader.FieldCount)
                    .Select(i => $"{reader.GetName(i)}: {reader.GetFieldType(i).Name} {reader.GetValue(i)}")
            );
        }

        return columns;
    }
}
