using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Tests.Content;

/// <summary>A pass over all items that several processors share.</summary>
public sealed class SharedPassTests : IAsyncLifetime
{
    private readonly Product product = new();

    public async ValueTask InitializeAsync()
    {
        await product.InitializeAsync();
        for (var i = 0; i < 23; i++)
        {
            product.Write($"Fleet/{i}.md", "2015-01-01", $"text {i}");
        }

        await product.ScanAsync();
    }

    public ValueTask DisposeAsync() => product.DisposeAsync();

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(4)]
    [InlineData(30)]
    public async Task Its_parts_are_every_item_once_and_in_order(int parts)
    {
        await using var db = product.Database();
        var read = await SharedPass.RunAsync(db, Ids, parts);
        read.Count.ShouldBe(parts);
        read.SelectMany(ids => ids)
            .ShouldBe(
                await db.Items.OrderBy(i => i.Id).Select(i => i.Id).ToListAsync(TestContext.Current.CancellationToken)
            );
        read.SelectMany(ids => ids).Count().ShouldBe(23);
    }

    [Fact]
    public async Task Within_a_change_it_sees_what_the_change_has_done_so_far()
    {
        await product
            .Services.GetRequiredService<Writer>()
            .RunAsync(
                new("test"),
                async session =>
                {
                    await session
                        .Db.Items.Where(i => i.Id <= 20)
                        .ExecuteDeleteAsync(TestContext.Current.CancellationToken);
                    (await SharedPass.RunAsync(session.Db, Ids, 4)).ShouldHaveSingleItem().Count.ShouldBe(3);
                },
                TestContext.Current.CancellationToken
            );
    }

    [Fact]
    public async Task While_others_write_all_parts_see_one_state_and_hold_nobody_up()
    {
        var writer = product.Services.GetRequiredService<Writer>();
        await using var db = product.Database();
        using var begun = new CountdownEvent(2);
        using var written = new ManualResetEventSlim();
        var pass = SharedPass.RunAsync(
            db,
            (connection, part) =>
            {
                begun.Signal();
                written.Wait(TestContext.Current.CancellationToken);
                return Ids(connection, part);
            },
            2
        );
        begun.Wait(TestContext.Current.CancellationToken);
        await writer.RunAsync(
            new("test"),
            async session =>
            {
                await session.Db.Items.ExecuteDeleteAsync(TestContext.Current.CancellationToken);
                session.Record("emptied", new("item", "all"));
            },
            TestContext.Current.CancellationToken
        );
        written.Set();
        (await pass).Sum(ids => ids.Count).ShouldBe(23);
        (await SharedPass.RunAsync(db, Ids, 2)).Sum(ids => ids.Count).ShouldBe(0);
    }

    [Fact]
    public async Task However_fast_others_write_no_part_is_ahead_of_another()
    {
        await using var db = product.Database();
        await using var writing = product.Database();
        var (first, last) = (
            await db.Items.MinAsync(i => i.Id, TestContext.Current.CancellationToken),
            await db.Items.MaxAsync(i => i.Id, TestContext.Current.CancellationToken)
        );
        await writing.Database.ExecuteSqlAsync($"UPDATE item SET Bytes = 0", TestContext.Current.CancellationToken);
        using var enough = new CancellationTokenSource();
        // No entry in the ledger: most of a job's portions write none.
        var writer = Task.Run(
            async () =>
            {
                for (var n = 1; !enough.IsCancellationRequested; n++)
                {
                    await writing.Database.ExecuteSqlAsync(
                        $"UPDATE item SET Bytes = CASE Id WHEN {first} THEN {n} ELSE {-n} END WHERE Id IN ({first}, {last})"
                    );
                }

                return true;
            },
            TestContext.Current.CancellationToken
        );
        for (var pass = 0; pass < 200; pass++)
        {
            (await SharedPass.RunAsync(db, Bytes, 2)).Sum().ShouldBe(0);
        }

        await enough.CancelAsync();
        await writer;

        static long Bytes(SqliteConnection connection, string part)
        {
            using var command = connection.CreateCommand();
            command.CommandText = $"SELECT COALESCE(SUM(i.Bytes), 0) FROM item i WHERE {part}";
            return (long)command.ExecuteScalar()!;
        }
    }

    private static List<long> Ids(SqliteConnection connection, string part)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT i.Id FROM item i WHERE {part} ORDER BY i.Id";
        using var reader = command.ExecuteReader();
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        return ids;
    }
}
