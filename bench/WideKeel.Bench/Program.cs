using System.Diagnostics;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Ledger;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Demo;
using WideKeel.Server;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Jobs;
using WideKeel.Store.Ledger;
using WideKeel.Store.Retention;

// Scale runs: each figure beside a bare baseline of the same run, as a ratio. Nothing here is a test.
//   dotnet run -c Release --project bench/WideKeel.Bench [-- items [run [folder [address]]]]
//   run: schedule, ledger, scan, find, holds, batch, bundle, mail, sensitive, activity, access, readiness,
//   watches, quiet or walk
// A folder that is named is kept, with the million texts of find and holds in it, which take the longest; the next run
// goes on with them.
var items = args.Length > 0 ? int.Parse(args[0], CultureInfo.InvariantCulture) : 1_000_000;
bool Wanted(string run) => args.Length < 2 || args[1] == run;
var kept = args.Length > 2;
var folder = kept
    ? Directory.CreateDirectory(args[2]).FullName
    : Directory.CreateTempSubdirectory("widekeel-bench-").FullName;
try
{
    if (Wanted("schedule"))
    {
        await ScheduleRun.RunAsync(folder, items);
    }

    if (Wanted("ledger"))
    {
        LedgerRun.Run(folder);
    }

    if (Wanted("activity"))
    {
        await ActivityRun.RunAsync(folder, items);
    }

    if (Wanted("access"))
    {
        await AccessRun.RunAsync(folder, items);
    }

    if (Wanted("readiness"))
    {
        ReadinessRun.Run();
    }

    if (Wanted("watches"))
    {
        WatchWorlds.Loud();
    }

    if (Wanted("quiet"))
    {
        WatchWorlds.Quiet();
    }

    if (Wanted("walk"))
    {
        await WalkRun.RunAsync(folder, items, args.Length > 3 ? args[3] : "");
    }

    if (Wanted("scan"))
    {
        await ScanRun.RunAsync(folder);
    }

    if (Wanted("find"))
    {
        await FindRun.RunAsync(folder, items);
    }

    if (Wanted("holds"))
    {
        await HoldRun.RunAsync(folder, items);
    }

    if (Wanted("batch"))
    {
        await BatchRun.RunAsync(folder);
    }

    if (Wanted("bundle"))
    {
        await BundleRun.RunAsync(folder);
    }

    if (Wanted("mail"))
    {
        await MailRun.RunAsync(folder, Math.Min(items, 100_000));
    }

    if (Wanted("sensitive"))
    {
        await SensitiveRun.RunAsync(folder, Math.Min(items, 50_000));
    }
}
finally
{
    if (!kept)
    {
        Directory.Delete(folder, recursive: true);
    }
}

/// <summary>
/// Times two ways in turn, A B A B …, after rounds that are not counted, and prints the median of the pairwise ratios.
/// </summary>
internal static class Pair
{
    /// <param name="warmUp">Rounds that are not counted; more for what is so short that the compiler is still at work
    /// on it.</param>
    /// <param name="rounds">An odd number.</param>
    /// <param name="prepare">Done before each round, and not timed.</param>
    public static async Task CompareAsync(
        string name,
        string goal,
        Func<Task> ours,
        Func<Task> bare,
        int warmUp = 1,
        int rounds = 7,
        Func<Task>? prepare = null
    )
    {
        List<(double Ours, double Bare)> times = [];
        for (var i = 0; i < warmUp + rounds; i++)
        {
            await (prepare?.Invoke() ?? Task.CompletedTask);
            var pair = (await TimeAsync(ours), await TimeAsync(bare));
            if (i >= warmUp)
            {
                times.Add(pair);
            }
        }

        var ratio = times.Select(t => t.Ours / t.Bare).Order().ElementAt(rounds / 2);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{name}: {times.Select(t => t.Ours).Order().ElementAt(rounds / 2):0.000} s, bare "
                    + $"{times.Select(t => t.Bare).Order().ElementAt(rounds / 2):0.000} s, ratio {ratio:0.00} ({goal})"
            )
        );
    }

    private static async Task<double> TimeAsync(Func<Task> work)
    {
        // What earlier rounds left behind, compiled code included, is cleared at nobody's cost; code goes in several
        // steps.
        for (var i = 0; i < 4; i++)
        {
            GC.Collect();
            GC.WaitForPendingFinalizers();
        }

        var watch = Stopwatch.StartNew();
        await work();
        return watch.Elapsed.TotalSeconds;
    }
}

/// <summary>Verification of a ledger, against SHA-256 over the same bytes.</summary>
internal static class LedgerRun
{
    /// <summary>
    /// So many more entries of about the usual length in a product's own ledger table, in one transaction and with
    /// nothing else around it.
    /// </summary>
    public static void WriteBarely(string file, int count)
    {
        using var connection = new SqliteConnection($"Data Source={file};Pooling=False");
        connection.Open();
        using var transaction = connection.BeginTransaction();
        using var insert = connection.CreateCommand();
        insert.CommandText =
            "INSERT INTO ledger (Sequence, Body, LeafHash) VALUES ((SELECT MAX(Sequence) + 1 FROM ledger), $b, $h)";
        var (b, h) = (insert.Parameters.Add("$b", SqliteType.Text), insert.Parameters.Add("$h", SqliteType.Blob));
        for (var i = 1; i <= count; i++)
        {
            b.Value = string.Create(
                CultureInfo.InvariantCulture,
                $$"""{"after":{"batch":1,"copiesRemoved":0},"at":"2026-06-15T08:00:00Z","before":{"bytes":2000,"""
                    + $$"""
                    "hash":"{{new string('a', 64)}}","path":"Fleet/{{i}}.txt"},"seq":{{i}},
                    """
                    + $$"""
                    "subject":{"id":"{{i}}","kind":"item","unit":"/1/"},"verb":"destroyed","who":"job:execute"}
                    """
            );
            h.Value = MerkleTree.LeafHash(Encoding.UTF8.GetBytes((string)b.Value));
            insert.ExecuteNonQuery();
        }

        transaction.Commit();
    }

    public static void Run(string folder)
    {
        const int count = 500_000;
        using var connection = new SqliteConnection($"Data Source={Path.Combine(folder, "ledger.db")}");
        connection.Open();
        using (var create = connection.CreateCommand())
        {
            create.CommandText =
                "CREATE TABLE ledger (Sequence INTEGER PRIMARY KEY, Body TEXT NOT NULL, LeafHash BLOB NOT NULL)";
            create.ExecuteNonQuery();
        }

        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var range = new CompactRange();
        List<byte[]> bodies = new(count);
        using (var transaction = connection.BeginTransaction())
        {
            using var insert = connection.CreateCommand();
            insert.Transaction = transaction;
            insert.CommandText = "INSERT INTO ledger VALUES ($s, $b, $h)";
            var (s, b, h) = (
                insert.Parameters.Add("$s", SqliteType.Integer),
                insert.Parameters.Add("$b", SqliteType.Text),
                insert.Parameters.Add("$h", SqliteType.Blob)
            );
            for (var i = 1; i <= count; i++)
            {
                var body = new LedgerEntry(
                    i,
                    Instant.FromUnixTimeSeconds(i),
                    LedgerActor.Job("scan", "Ines Calloway"),
                    "found",
                    new LedgerSubject("item", i.ToString(CultureInfo.InvariantCulture), "/1/2/"),
                    null,
                    new System.Text.Json.Nodes.JsonObject
                    {
                        ["path"] = $"Northern Routes - voyage reports/2019/{i}.md",
                        ["hash"] = new string('a', 64),
                        ["bytes"] = i,
                    }
                ).ToCanonicalText();
                var bytes = Encoding.UTF8.GetBytes(body);
                var leaf = MerkleTree.LeafHash(bytes);
                (s.Value, b.Value, h.Value) = (i, body, leaf);
                insert.ExecuteNonQuery();
                range.Append(leaf);
                bodies.Add(bytes);
            }

            transaction.Commit();
        }

        string[] heads = [TreeHead.Sign(range.Size, range.Root(), Instant.FromUnixTimeSeconds(count), key).ToLine()];
        Pair.CompareAsync(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Verification of {count:N0} ledger entries, {bodies.Sum(x => (long)x.Length):N0} bytes"
                ),
                "goal ≤ 4",
                () =>
                {
                    var report = LedgerVerifier.Verify(LedgerReader.Entries(connection), heads, key);
                    return report.Sound ? Task.CompletedTask : throw new InvalidOperationException(report.Finding);
                },
                () =>
                {
                    foreach (var body in bodies)
                    {
                        SHA256.HashData(body);
                    }

                    return Task.CompletedTask;
                }
            )
            .GetAwaiter()
            .GetResult();
    }
}

/// <summary>The first scan of the demo's files, against sha256sum over the same files.</summary>
internal static class ScanRun
{
    public static async Task RunAsync(string folder)
    {
        var share = Path.Combine(folder, "share");
        var today = new LocalDate(2026, 6, 15);
        var files = new Documents(1, today).Write(share, 3);
        var run = 0;
        await Pair.CompareAsync(
            string.Create(CultureInfo.InvariantCulture, $"First scan of {files:N0} files, with text, index and ledger"),
            "no goal set",
            async () =>
            {
                var options = new WideKeelOptions
                {
                    DataFolder = Path.Combine(folder, $"data-{run++}"),
                    SecretsFolder = folder,
                };
                await using var services = WideKeelHost
                    .AddServices(new ServiceCollection().AddLogging(), options)
                    .BuildServiceProvider();
                WideKeelHost.Prepare(services);
                var writer = services.GetRequiredService<Writer>();
                Job? job = null;
                await writer.RunAsync(
                    new LedgerActor("bench"),
                    async session =>
                    {
                        session.Db.Units.Add(new() { Name = "All", Path = "/1/" });
                        var source = new Source { Name = "Share", Root = share };
                        session.Db.Sources.Add(source);
                        await session.Db.SaveChangesAsync();
                        job = await JobBoard.AddAsync(session, ScanJob.JobKind, source.Id, "Scan", null, "bench");
                        await session.Db.SaveChangesAsync();
                    }
                );
                var scan = services.GetServices<IJob>().Single(k => k.Kind == ScanJob.JobKind);
                await scan.RunAsync(
                    new JobRun(job!, writer, services.GetRequiredService<JobFeed>(), options.Clock),
                    CancellationToken.None
                );
            },
            async () =>
            {
                using var sum = Process.Start(
                    new ProcessStartInfo("sh", ["-c", "find . -type f -print0 | xargs -0 sha256sum > /dev/null"])
                    {
                        WorkingDirectory = share,
                    }
                )!;
                await sum.WaitForExitAsync();
            }
        );
    }
}
