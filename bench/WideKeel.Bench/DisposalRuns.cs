using System.Diagnostics;
using System.Globalization;
using System.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Disposition;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server;
using WideKeel.Server.Content;
using WideKeel.Server.Disposition;
using WideKeel.Server.Jobs;
using WideKeel.Server.Matters;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Disposition;
using WideKeel.Store.Jobs;
using WideKeel.Store.Matters;
using WideKeel.Store.Retention;

/// <summary>
/// A product in a folder of its own with one source, and its jobs run one at a time where the bench wants them.
/// </summary>
internal sealed class Bench : IAsyncDisposable
{
    private readonly WideKeelOptions options;
    private readonly ServiceProvider services;

    public Bench(string folder, IClock? clock = null)
    {
        options = new()
        {
            DataFolder = folder,
            SecretsFolder = folder,
            Clock = clock ?? SystemClock.Instance,
        };
        services = WideKeelHost.AddServices(new ServiceCollection().AddLogging(), options).BuildServiceProvider();
        WideKeelHost.Prepare(services);
    }

    public Writer Writer => services.GetRequiredService<Writer>();

    public async Task SetUpAsync(SourceKind kind, params string[] roots) =>
        await Writer.RunAsync(
            new LedgerActor("bench"),
            async session =>
            {
                session.Db.Organisations.Add(
                    new()
                    {
                        Name = "All",
                        Zone = "Etc/UTC",
                        FiscalYearEnd = "12-31",
                    }
                );
                session.Db.Units.Add(new() { Name = "All", Path = "/1/" });
                session.Db.Sources.AddRange(
                    roots.Select(
                        (root, i) =>
                            new Source
                            {
                                Id = i + 1,
                                Name = root,
                                Kind = kind,
                                Root = root,
                            }
                    )
                );
                await session.Db.SaveChangesAsync();
            }
        );

    public async Task RunAsync(JobKind kind, long subject)
    {
        Job? job = null;
        await Writer.RunAsync(
            new LedgerActor("bench"),
            async session =>
            {
                job = await JobBoard.AddAsync(session, kind, subject, kind.Name, null, "bench");
                await session.Db.SaveChangesAsync();
            }
        );
        await services
            .GetServices<IJob>()
            .Single(k => k.Kind == kind)
            .RunAsync(
                new JobRun(job!, Writer, services.GetRequiredService<JobFeed>(), options.Clock),
                CancellationToken.None
            );
    }

    public async Task<T> AskAsync<T>(Func<WideKeelDb, Task<T>> question)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        return await question(db);
    }

    public async ValueTask DisposeAsync()
    {
        await services.DisposeAsync();
        SqliteConnection.ClearAllPools();
    }

    public static async Task ShellAsync(string command, string folder)
    {
        using var shell = Process.Start(new ProcessStartInfo("sh", ["-c", command]) { WorkingDirectory = folder })!;
        await shell.WaitForExitAsync();
        if (shell.ExitCode != 0)
        {
            throw new InvalidOperationException($"“{command}” ended with {shell.ExitCode}.");
        }
    }
}

/// <summary>
/// A batch of 10,000 files carried out: re-checked, removed, stubs, entries and certificate. Against <c>rm</c> of the
/// same files and the same number of entries written barely.
/// </summary>
internal static class BatchRun
{
    private const int Files = 10_000;
    private const int Former = 20;
    private static readonly string[] Containers = ["Fleet", "Former"];

    public static async Task RunAsync(string folder)
    {
        var (made, work, bare) = (
            Path.Combine(folder, "batch-made"),
            Path.Combine(folder, "batch-work"),
            Path.Combine(folder, "batch-bare")
        );
        var (share, files) = (Path.Combine(folder, "batch-share"), Path.Combine(folder, "batch-files"));
        var texts = new Texts(4);
        for (var i = 0; i < Files + Former; i++)
        {
            var file = Path.Combine(
                share,
                i < Files ? "Fleet" : "Former",
                (i / 500).ToString(CultureInfo.InvariantCulture),
                $"{i.ToString(CultureInfo.InvariantCulture)}.txt"
            );
            Directory.CreateDirectory(Path.GetDirectoryName(file)!);
            await File.WriteAllTextAsync(file, texts.Next(2_000));
            File.SetLastWriteTimeUtc(file, new DateTime(2012, 1, 1, 0, 0, 0, DateTimeKind.Utc));
        }

        await Bench.ShellAsync($"cp -a {share} {files}", folder);

        await using (var bench = new Bench(made))
        {
            await bench.SetUpAsync(SourceKind.Share, share);
            await bench.RunAsync(ScanJob.JobKind, 1);
            await bench.Writer.RunAsync(
                new LedgerActor("bench"),
                async session =>
                {
                    Stage[] stages = [new(Role.RecordsManager), new(Role.RecordsManager)];
                    session.Db.Series.Add(
                        new()
                        {
                            Code = "VES-040",
                            UnitId = 1,
                            Title = "Bench",
                            State = SeriesState.Active,
                            VersionInForce = 1,
                            InForce = SeriesDefinition.OfClauses(
                                ClauseJoin.Later,
                                [new("modified", Cutoff.None, "P5Y")]
                            ) with
                            {
                                AtEnd = EndAction.SignOff,
                                Stages = stages,
                            },
                        }
                    );
                    await session.Db.SaveChangesAsync();
                    foreach (var container in Containers)
                    {
                        var batch = new Batch
                        {
                            SeriesId = 1,
                            SeriesVersion = 1,
                            State = BatchState.Executing,
                            OpenedBy = "bench",
                            OpenedAt = session.Now,
                            StageSince = session.Now,
                        };
                        session.Db.Batches.Add(batch);
                        await session.Db.SaveChangesAsync();
                        var own = session.Db.Items.Where(i => i.Container!.Name == container);
                        await own.ExecuteUpdateAsync(set =>
                            set.SetProperty(i => i.SeriesId, 1L).SetProperty(i => i.BatchId, batch.Id)
                        );
                        session.Db.BatchLines.AddRange(
                            (await own.Select(i => new { i.Id, i.Hash }).ToListAsync()).Select(i => new BatchLine
                            {
                                BatchId = batch.Id,
                                ItemId = i.Id,
                                Hash = i.Hash,
                            })
                        );
                    }
                }
            );
        }

        // Each way destroys, so each round begins with copies of what was made.
        Bench? product = null;
        await Pair.CompareAsync(
            string.Create(CultureInfo.InvariantCulture, $"A batch of {Files:N0} files carried out"),
            "goal ≤ 2",
            () => product!.RunAsync(ExecuteJob.JobKind, 1),
            async () =>
            {
                await Bench.ShellAsync("rm -r Fleet", bare);
                LedgerRun.WriteBarely(Path.Combine(bare, "widekeel.db"), Files);
            },
            prepare: async () =>
            {
                if (product is not null)
                {
                    await product.DisposeAsync();
                }

                await Bench.ShellAsync(
                    $"rm -rf {work} {bare} {share} && cp -a {made} {work} && cp -a {files} {share} && cp -a "
                        + $"{files} {bare} && cp {made}/widekeel.db {bare} && sync",
                    folder
                );
                product = new(work);
                // The product runs all day: its queries are compiled before the batch comes.
                await product.RunAsync(ExecuteJob.JobKind, 2);
            }
        );
        var destroyed = await product!.AskAsync(db =>
            db.BatchLines.CountAsync(l => l.BatchId == 1 && l.State == LineState.Destroyed)
        );
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"  {destroyed:N0} destroyed, {Directory.EnumerateFiles(share, "*", SearchOption.AllDirectories).Count():N0} files left"
            )
        );
        await product.DisposeAsync();
    }
}

/// <summary>
/// A bundle of a gigabyte made and verified, against <c>cp</c> and <c>sha256sum</c> of the same files.
/// </summary>
internal static class BundleRun
{
    private const int Files = 1_000;
    private const int FileBytes = 1_000_000;

    public static async Task RunAsync(string folder)
    {
        var (made, work, share) = (
            Path.Combine(folder, "bundle-made"),
            Path.Combine(folder, "bundle-work"),
            Path.Combine(folder, "bundle-share")
        );
        Directory.CreateDirectory(Path.Combine(share, "Fleet"));
        var random = new Random(6);
        var bytes = new byte[FileBytes];
        for (var i = 0; i < Files; i++)
        {
            random.NextBytes(bytes);
            await File.WriteAllBytesAsync(
                Path.Combine(share, "Fleet", $"{i.ToString(CultureInfo.InvariantCulture)}.bin"),
                bytes
            );
        }

        await using (var bench = new Bench(made))
        {
            await bench.SetUpAsync(SourceKind.Share, share);
            await bench.RunAsync(ScanJob.JobKind, 1);
            await bench.Writer.RunAsync(
                new LedgerActor("bench"),
                async session =>
                {
                    session.Db.Matters.Add(
                        new()
                        {
                            Number = "M-2026-1",
                            Name = "Bench",
                            UnitId = 1,
                            OpenedBy = "bench",
                        }
                    );
                    await session.Db.SaveChangesAsync();
                    session.Db.MatterBundles.Add(
                        new()
                        {
                            MatterId = 1,
                            Name = "Bench",
                            Options = new(null, null, false, false, true),
                            ControlPrefix = "B",
                            FirstControl = 1,
                            AskedBy = "bench",
                            At = session.Now,
                            Items = Files,
                        }
                    );
                    await session.Db.SaveChangesAsync();
                    session.Db.BundleItems.AddRange(
                        (await session.Db.Items.AsNoTracking().Select(i => i.Id).ToListAsync()).Select(
                            i => new BundleItem
                            {
                                BundleId = 1,
                                ItemId = i,
                                FirstControl = i,
                            }
                        )
                    );
                }
            );
        }

        Bench? product = null;
        await Pair.CompareAsync(
            "A bundle of 1 GB in 1,000 files",
            "goal ≤ 1.5",
            () => product!.RunAsync(MatterBundleJob.JobKind, 1),
            () =>
                Bench.ShellAsync(
                    "cp -r Fleet ../bundle-bare && find ../bundle-bare -type f -print0 | xargs -0 sha256sum > ../bundle-bare.txt",
                    share
                ),
            prepare: async () =>
            {
                if (product is not null)
                {
                    await product.DisposeAsync();
                }

                await Bench.ShellAsync($"rm -rf {work} bundle-bare && cp -a {made} {work} && sync", folder);
                product = new(work);
            }
        );
        await product!.DisposeAsync();
        await Bench.ShellAsync("sha256sum --quiet -c manifest-sha256.txt", Path.Combine(work, "bundles", "matter-1"));
    }
}

/// <summary>
/// A mailbox of 100,000 messages scanned, with text, index, families and ledger, against Python's mailbox reading the
/// same file.
/// </summary>
internal static class MailRun
{
    public static async Task RunAsync(string folder, int messages)
    {
        var (store, small) = (Path.Combine(folder, "mail"), Path.Combine(folder, "mail-small"));
        await WriteAsync(store, messages);
        await WriteAsync(small, 20);
        var round = 0;
        Bench? product = null;
        await Pair.CompareAsync(
            string.Create(CultureInfo.InvariantCulture, $"A mailbox of {messages:N0} messages scanned"),
            "goal ≤ 2",
            () => product!.RunAsync(ScanJob.JobKind, 1),
            () =>
                Bench.ShellAsync(
                    "python3 -c \"import mailbox; print(sum(len(p.get_payload(decode=True) or b'') for m in "
                        + "mailbox.mbox('Fleet.mbox') for p in m.walk()), file=open('/dev/null', 'w'))\"",
                    store
                ),
            rounds: 3,
            prepare: async () =>
            {
                if (product is not null)
                {
                    await product.DisposeAsync();
                }

                product = new(Path.Combine(folder, $"mail-data-{(round++).ToString(CultureInfo.InvariantCulture)}"));
                await product.SetUpAsync(SourceKind.Mail, store, small);
                // The product runs all day: its queries are compiled before the mailbox comes.
                await product.RunAsync(ScanJob.JobKind, 2);
            }
        );
        if (
            await product!.AskAsync(db => db.Items.CountAsync(i => i.Container!.SourceId == 1)) is var count
            && count != messages
        )
        {
            throw new InvalidOperationException($"{count} messages were found.");
        }

        await product.DisposeAsync();
    }

    private static string Encoded(string text) =>
        Convert.ToBase64String(Encoding.UTF8.GetBytes(text), Base64FormattingOptions.InsertLineBreaks);

    private static async Task WriteAsync(string store, int messages)
    {
        Directory.CreateDirectory(store);
        var texts = new Texts(7);
        await using (var mbox = new StreamWriter(Path.Combine(store, "Fleet.mbox"), false, new UTF8Encoding(false)))
        {
            for (var i = 0; i < messages; i++)
            {
                var at = new LocalDateTime(2015, 1, 1, 8, 0).PlusMinutes(i * 40);
                await mbox.WriteAsync(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"From a@all.example {at:ddd MMM dd HH:mm:ss uuuu}\nFrom: A <a@all.example>\n"
                            + $"To: B <b@all.example>\nSubject: {texts.Next(30)}\n"
                            + $"Date: {at:ddd, dd MMM uuuu HH:mm:ss} +0000\nMessage-ID: <{i}@all.example>\n"
                    )
                );
                await mbox.WriteAsync(
                    i % 10 == 0
                        ? $"MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=\"b\"\n\n--b\n"
                            + $"Content-Type: text/plain; charset=utf-8\n\n{texts.Next(1_500)}\n--b\n"
                            + $"Content-Type: text/plain; name=\"list.txt\"\n"
                            + $"Content-Disposition: attachment; filename=\"list.txt\"\n"
                            + $"Content-Transfer-Encoding: base64\n\n"
                            + $"{Encoded(texts.Next(500))}\n--b--\n\n"
                        : $"Content-Type: text/plain; charset=utf-8\n\n{texts.Next(2_000)}\n\n"
                );
            }
        }
    }
}
