using System.Diagnostics;
using System.Globalization;
using System.Net;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Server.Activity;
using WideKeel.Server.People;
using WideKeel.Server.Tests.Access;
using WideKeel.Server.Tests.Matters;
using WideKeel.Store.Activity;
using WideKeel.Store.Ledger;

namespace WideKeel.Server.Tests.Jobs;

/// <summary>The real program in a process of its own, ended with SIGKILL at random moments of its work.</summary>
public class KillTests
{
    /// <summary>A few in the suite; <c>WIDEKEEL_KILLS=50</c> asks for more.</summary>
    private static readonly int Kills = int.TryParse(
        Environment.GetEnvironmentVariable("WIDEKEEL_KILLS"),
        out var asked
    )
        ? asked
        : 5;

    [Fact]
    public async Task A_scan_killed_again_and_again_ends_as_one_that_was_not()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var i = 0; i < 900; i++)
        {
            product.Write($"Fleet/{i / 100}/{i}.md", "2015-01-01", $"body {i}");
        }

        using (var jonas = await product.SignInAsync("jonas"))
        {
            await product.StopAsync();
            await using var run = new Program_(product);
            await run.StartAsync();
            using var api = await run.SignInAsync("jonas");
            await api.PostOk("sources", new { name = "Share", root = product.Share });
        }

        await KillAsync(product, seed: 1);
        await product.StartAsync();
        using var ines = await product.SignInAsync("ines");
        await ines.WaitForJobsAsync();
        (await ines.GetOk("items")).GetProperty("total").GetInt64().ShouldBe(900);
        (await ines.GetOk("ledger?verb=found&kind=item")).GetProperty("total").GetInt64().ShouldBe(900);
        (await ines.GetOk("items?cql=body")).GetProperty("total").GetInt64().ShouldBe(900);
        Single(product, "SELECT COUNT(*) FROM item_text").ShouldBe(900);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    [Fact]
    public async Task An_execution_killed_again_and_again_destroys_each_item_once_and_nothing_else()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var due = Enumerable
            .Range(0, 900)
            .Select(i => product.Write($"Fleet/old {i}.md", "2010-01-01", $"body {i}"))
            .ToList();
        var safe = Enumerable
            .Range(0, 50)
            .Select(i => product.Write($"Fleet/new {i}.md", "2026-01-01", $"body {i}"))
            .ToList();
        var containers = await product.ScanAsync();
        long batch;
        using (var ines = await product.SignInAsync("ines"))
        using (var tobias = await product.SignInAsync("tobias"))
        {
            var series = await product.SeriesInForceAsync(
                ines,
                "VES-040",
                "Fleet",
                [containers["Fleet"]],
                Product.Definition()
            );
            batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
            await Product.SignAsync(ines, batch);
            (await Product.SignAsync(tobias, batch)).Status.ShouldBe(HttpStatusCode.OK);
            await product.StopAsync();
        }

        await KillAsync(product, seed: 2);
        await product.StartAsync();
        using var after = await product.SignInAsync("ines");
        await after.WaitForJobsAsync();
        var view = await after.GetOk($"batches/{batch}");
        view.GetProperty("state").GetString().ShouldBe("done");
        view.GetProperty("destroyed").GetInt32().ShouldBe(900, view.ToString());
        due.ShouldAllBe(f => !File.Exists(f));
        safe.ShouldAllBe(f => File.Exists(f));
        (await after.GetOk("ledger?verb=destroyed")).GetProperty("total").GetInt64().ShouldBe(900);
        (await after.GetOk("ledger?verb=certificate-issued")).GetProperty("total").GetInt64().ShouldBe(1);
        Directory
            .EnumerateFiles(Path.Combine(product.Data, "safekeeping"), "*", SearchOption.AllDirectories)
            .Count()
            .ShouldBe(50);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private const int Changed = 20;

    [Fact]
    public async Task A_hold_and_a_bundle_with_former_versions_killed_again_and_again_end_as_ones_that_were_not()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var i = 0; i < 600; i++)
        {
            product.Write($"Fleet/{i / 100}/{i}.md", "2015-01-01", i % 3 == 0 ? $"pier {i}" : $"fog {i}");
        }

        await product.ScanAsync();
        long matter,
            order;
        using (var vera = await product.SignInAsync("vera"))
        {
            await product.StopAsync();
            await using var run = new Program_(product);
            await run.StartAsync();
            using var api = await run.SignInAsync("vera");
            var definition = new
            {
                containers = Array.Empty<long>(),
                custodians = Array.Empty<long>(),
                query = "pier",
                from = (string?)null,
                to = (string?)null,
            };
            matter = (
                await api.PostOk(
                    "matters",
                    new
                    {
                        name = "m",
                        description = "",
                        kind = "litigation",
                        unitId = product.Units["Tarn Lines"],
                    }
                )
            ).GetProperty("id").GetInt64();
            order = (await api.PostOk($"matters/{matter}/orders", new { name = "o", definition }))
                .GetProperty("orders")[0]
                .GetProperty("id")
                .GetInt64();
            var fingerprint = (await api.PostOk($"matters/{matter}/orders/{order}/consequences", definition))
                .GetProperty("fingerprint")
                .GetString();
            (
                await api.Post($"matters/{matter}/orders/{order}/activation", new { fingerprint, why = "w" }, 1)
            ).Status.ShouldBe(HttpStatusCode.OK);
            await api.WaitForJobsAsync();
            // What some of them held before is searched and handed over too.
            for (var i = 0; i < Changed; i++)
            {
                product.Write($"Fleet/0/{i * 3}.md", "2015-01-01", $"pier again {i}");
            }

            using (var jonas = await run.SignInAsync("jonas"))
            {
                await jonas.PostOk("sources/1/scans", new { });
                await jonas.WaitForJobsAsync();
            }

            await api.WaitForJobsAsync();
            var sweep = (await api.PostOk($"matters/{matter}/sweeps", new { name = "s", definition }))
                .GetProperty("sweeps")[0]
                .GetProperty("id")
                .GetInt64();
            await api.PostOk($"matters/{matter}/sweeps/{sweep}/runs", new { });
            await api.WaitForJobsAsync();
            Forget(
                product,
                $"DELETE FROM hold_item; UPDATE hold_order SET AppliedAt = NULL; UPDATE job SET State = "
                    + $"'Queued', Cursor = NULL WHERE Kind = 'hold'"
            );
            var runId = (await api.GetOk($"matters/{matter}"))
                .GetProperty("sweeps")[0]
                .GetProperty("last")
                .GetProperty("id")
                .GetInt64();
            await api.PostOk(
                $"matters/{matter}/bundles",
                new
                {
                    name = "b",
                    options = new
                    {
                        runId,
                        orderId = (long?)null,
                        mbox = false,
                        onePerContent = false,
                        attachments = true,
                    },
                }
            );
        }

        await KillAsync(product, seed: 3);
        await product.StartAsync();
        using var after = await product.SignInAsync("vera");
        await after.WaitForJobsAsync();
        var view = await after.GetOk($"matters/{matter}");
        view.GetProperty("held").GetInt64().ShouldBe(200);
        Single(
                product,
                "SELECT COUNT(*) FROM hold_item h JOIN item_text t ON t.ItemId = h.ItemId WHERE t.Text LIKE '%pier%'"
            )
            .ShouldBe(200);
        var bundle = view.GetProperty("bundles")[0];
        (
            bundle.GetProperty("state").GetString(),
            bundle.GetProperty("documents").GetInt64(),
            bundle.GetProperty("left").GetInt64()
        ).ShouldBe(("done", 200 + Changed, 0), bundle.ToString());
        Directory
            .EnumerateFiles(Path.Combine(product.Data, "bundles", "matter-1", "data", "originals"))
            .Count()
            .ShouldBe(200 + Changed);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private const int Mailboxes = 60;

    [Fact]
    public async Task A_retry_killed_again_and_again_destroys_each_message_once_and_issues_one_supplement()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var mail = Directory.CreateDirectory(Path.Combine(product.Folder, "mail")).FullName;
        for (var i = 0; i < Mailboxes; i++)
        {
            // All but the first are locked by a mail program while the batch is carried out.
            await File.WriteAllTextAsync(
                Path.Combine(mail, $"box {i}.mbox"),
                Letter($"old{i}@x", "04 Mar 2020") + Letter($"new{i}@x", "01 Jun 2026"),
                TestContext.Current.CancellationToken
            );
        }

        using var jonas = await product.SignInAsync("jonas");
        await jonas.PostOk(
            "sources",
            new
            {
                name = "Mail",
                root = mail,
                kind = "mail",
            }
        );
        await jonas.WaitForJobsAsync();
        var batch = await FailedBatchAsync(product, mail);
        await using (var run = new Program_(product))
        {
            await run.StartAsync(slow: true);
            using var ines = await run.SignInAsync("ines");
            (await ines.Post($"batches/{batch}/retry", new { })).Status.ShouldBe(HttpStatusCode.OK);
            run.Kill();
        }

        await KillAsync(product, seed: 6);
        await product.StartAsync();
        using var after = await product.SignInAsync("ines");
        await after.WaitForJobsAsync();
        var view = await after.GetOk($"batches/{batch}");
        (view.GetProperty("state").GetString(), view.GetProperty("destroyed").GetInt32()).ShouldBe(("done", Mailboxes));
        (await after.GetOk("ledger?verb=destroyed")).GetProperty("total").GetInt64().ShouldBe(Mailboxes);
        (await after.GetOk("certificates"))
            .EnumerateArray()
            .Select(c => c.GetProperty("items").GetInt32())
            .ShouldBe([Mailboxes - 1, 1]);
        for (var i = 0; i < Mailboxes; i++)
        {
            File.ReadAllText(Path.Combine(mail, $"box {i}.mbox")).ShouldBe(Letter($"new{i}@x", "01 Jun 2026"));
        }

        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private static string Letter(string id, string day) =>
        $"From x@y Mon Jun  1 10:00:00 2026\nFrom: Anna <anna@post.example>\nTo: records@tarn.example\nSubject: {id}\n"
        + $"Date: {day} 09:30:00 +0000\nMessage-ID: <{id}>\n\nwords\n\n";

    /// <summary>A batch that was carried out while all mailboxes but one were locked; they are no longer. The product is
    /// stopped.</summary>
    private static async Task<long> FailedBatchAsync(Product product, string mail)
    {
        using var ines = await product.SignInAsync("ines");
        using var tobias = await product.SignInAsync("tobias");
        var series = await product.SeriesInForceAsync(
            ines,
            "GEN-010",
            "Tarn Lines",
            [.. (await ines.GetOk("containers")).EnumerateArray().Select(c => c.GetProperty("id").GetInt64())],
            Product.Definition(period: "P1Y")
        );
        var batch = (await ines.PostOk("batches", new { seriesId = series })).GetProperty("id").GetInt64();
        await Product.SignAsync(ines, batch);
        var locks = Enumerable.Range(1, Mailboxes - 1).Select(i => Path.Combine(mail, $"box {i}.mbox.lock")).ToList();
        locks.ForEach(l => File.WriteAllText(l, ""));
        await Product.SignAsync(tobias, batch);
        await ines.WaitForJobsAsync();
        (await ines.GetOk($"batches/{batch}")).GetProperty("failed").GetInt32().ShouldBe(Mailboxes - 1);
        locks.ForEach(File.Delete);
        await product.StopAsync();
        return batch;
    }

    private const int Held = 300;

    [Fact]
    public async Task A_release_killed_again_and_again_lets_all_go_or_nothing()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var i = 0; i < Held; i++)
        {
            product.Write($"Fleet/{i}.md", "2015-01-01", $"pier {i}");
        }

        await product.ScanAsync();
        long matter,
            order,
            release;
        string fingerprint;
        using (var vera = await product.SignInAsync("vera"))
        {
            matter = await product.OpenMatterAsync(vera);
            await MatterTests.LetInAsync(vera, matter, "nils", "lead");
            order = await MatterTests.InForceAsync(vera, matter, "All", MatterTests.Everything("pier"));
            await vera.WaitForJobsAsync();
            (await MatterTests.AskReleaseAsync(vera, matter, order, null)).Status.ShouldBe(HttpStatusCode.OK);
            var asked = (await vera.GetOk($"matters/{matter}")).GetProperty("releases")[0];
            release = asked.GetProperty("id").GetInt64();
            fingerprint = (
                await vera.PostOk(
                    $"matters/{matter}/orders/{order}/releases/consequences?delay=30",
                    new { narrowed = (object?)null }
                )
            )
                .GetProperty("fingerprint")
                .GetString()!;
            await product.StopAsync();
        }

        var random = new Random(7);
        for (var i = 0; i < Kills; i++)
        {
            await using var run = new Program_(product);
            await run.StartAsync();
            using var nils = await run.SignInAsync("nils");
            Task agreeing = nils.Post(
                $"matters/{matter}/releases/{release}/decision",
                new
                {
                    agree = true,
                    why = "agreed",
                    fingerprint,
                }
            );
            // The moment is random on purpose: there is no condition to wait for.
            await Task.Delay(random.Next(0, 120), TestContext.Current.CancellationToken);
            run.Kill();
            await agreeing.ConfigureAwait(
                ConfigureAwaitOptions.SuppressThrowing | ConfigureAwaitOptions.ContinueOnCapturedContext
            );
            var agreed = Single(product, "SELECT DecidedAt IS NOT NULL FROM hold_release") == 1;
            Single(product, "SELECT COUNT(*) FROM hold_item WHERE Until IS NOT NULL").ShouldBe(agreed ? Held : 0);
            Single(product, "SELECT COUNT(*) FROM hold_item").ShouldBe(Held);
        }

        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private const int Events = 2_000;

    [Fact]
    public async Task Taking_in_and_sealing_killed_again_and_again_lose_no_event_take_none_twice_and_raise_the_same_alerts()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "drop")).FullName;
        using (var sunniva = await product.SignInAsync("sunniva"))
        {
            await sunniva.PostOk(
                "watches",
                new
                {
                    name = "Reading",
                    rule = new
                    {
                        kind = "count",
                        where = "action = file.read",
                        per = "actor",
                        of = "events",
                        threshold = 3,
                        within = "PT25M",
                    },
                    severity = "low",
                    recipients = Array.Empty<string>(),
                    words = "",
                    dailyCap = 5,
                    act = (string?)null,
                }
            );
            await sunniva.PostOk("watches/1/on", new { since = "2026-06-01T00:00:00Z" });
        }

        using (var jonas = await product.SignInAsync("jonas"))
        {
            await jonas.PostOk("channels", Drop(folder));
            await product.StopAsync();
        }

        await File.WriteAllLinesAsync(
            Path.Combine(folder, "log.jsonl"),
            Enumerable.Range(0, Events).Select(Line),
            TestContext.Current.CancellationToken
        );
        await KillAsync(product, seed: 4);
        await product.StartAsync();
        await product.Services.GetRequiredService<ChannelFeeds>().LookAsync(CancellationToken.None);
        await product.Services.GetRequiredService<WatchEvaluator>().JudgeAsync(CancellationToken.None);
        Single(product, "SELECT COUNT(*) FROM activity_event").ShouldBe(Events);
        Single(product, "SELECT COUNT(*) FROM alert WHERE NOT Withdrawn").ShouldBe(AlertsOfOnePass());
        using (var jonas = await product.SignInAsync("jonas"))
        {
            await jonas.PostOk("channels/seal", new { });
            await product.StopAsync();
        }

        await KillAsync(product, seed: 5);
        await product.StartAsync();
        using var after = await product.SignInAsync("jonas");
        await after.WaitForJobsAsync();
        Single(product, "SELECT SUM(Events) FROM segment").ShouldBe(Events);
        Single(product, "SELECT COUNT(*) FROM activity_event WHERE SegmentId IS NULL").ShouldBe(0);
        using var ines = await product.SignInAsync("ines");
        SegmentVerifier
            .Verify(product.Archive(), (await ines.Get("ledger/export")).Text!)
            .Value.Findings.ShouldBeEmpty();
    }

    [Fact]
    public async Task An_order_put_in_force_while_its_files_are_overwritten_holds_all_of_them_whatever_is_killed()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        for (var i = 0; i < Held; i++)
        {
            product.Write($"Fleet/{i}.md", "2015-01-01", $"pier {i}");
        }

        await product.ScanAsync();
        long matter;
        using (var vera = await product.SignInAsync("vera"))
        {
            matter = await product.OpenMatterAsync(vera);
            await product.StopAsync();
        }

        await using (var run = new Program_(product))
        {
            await run.StartAsync(slow: true);
            using var vera = await run.SignInAsync("vera");
            using var jonas = await run.SignInAsync("jonas");
            await MatterTests.InForceAsync(vera, matter, "Pier", MatterTests.Everything("pier"));
            for (var i = 0; i < Held; i++)
            {
                product.Write($"Fleet/{i}.md", "2015-01-01", $"nothing of the kind {i}");
            }

            await jonas.PostOk("sources/1/scans", new { });
            run.Kill();
        }

        await KillAsync(product, seed: 8);
        await product.StartAsync();
        using var after = await product.SignInAsync("vera");
        await after.WaitForJobsAsync();
        using var admin = await product.SignInAsync("jonas");
        await admin.WaitForJobsAsync();
        Single(product, "SELECT COUNT(*) FROM item_text WHERE Text LIKE '%pier%'").ShouldBe(0);
        Single(product, "SELECT COUNT(*) FROM hold_item WHERE Until IS NULL").ShouldBe(Held);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    [Fact]
    public async Task The_removal_of_sealed_days_killed_again_and_again_leaves_no_file_and_one_entry_a_file()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var folder = Directory.CreateDirectory(Path.Combine(product.Folder, "drop")).FullName;
        long segments;
        using (var jonas = await product.SignInAsync("jonas"))
        {
            await jonas.PostOk("channels", Drop(folder));
            await File.WriteAllLinesAsync(
                Path.Combine(folder, "log.jsonl"),
                Enumerable.Range(0, Events).Select(Line),
                TestContext.Current.CancellationToken
            );
            await product.Services.GetRequiredService<ChannelFeeds>().LookAsync(CancellationToken.None);
            await jonas.PostOk("channels/seal", new { });
            await jonas.WaitForJobsAsync();
            segments = Single(product, "SELECT COUNT(*) FROM segment");
            await product.StopAsync();
        }

        await KillAsync(product, seed: 9, "2029-06-15");
        product.Clock.AdvanceDays(3 * 366);
        await product.StartAsync();
        await product.RunDayAsync();
        using var after = await product.SignInAsync("jonas");
        await after.PostOk("channels/seal", new { });
        await after.WaitForJobsAsync();
        segments.ShouldBeGreaterThan(1);
        Single(product, "SELECT COUNT(*) FROM segment WHERE RemovedAt IS NOT NULL").ShouldBe(segments);
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("ledger?verb=segment-removed")).GetProperty("total").GetInt64().ShouldBe(segments);
        Directory.EnumerateFiles(product.Archive().Folder, "*.parquet", SearchOption.AllDirectories).ShouldBeEmpty();
        Single(product, "SELECT COUNT(*) FROM activity_event").ShouldBe(0);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private const int Guests = 120;

    [Fact]
    public async Task A_review_whose_carrying_out_is_killed_removes_each_guest_once_and_nobody_else()
    {
        await using var product = new Product();
        await product.InitializeAsync();
        var guests = Enumerable.Range(0, Guests).Select(i => $"g{i}@yard.example").ToList();
        await product.WriteDirectoryAsync(
            DirectoryState.Empty with
            {
                People =
                [
                    new("ines@tarn.example", "Ines"),
                    new("ann@tarn.example", "Ann"),
                    .. guests.Select(g => new OutsidePerson(g, g, "guest")),
                ],
                Groups = [new("Dock", "Dock", "ines@tarn.example", ["ann@tarn.example", .. guests])],
            }
        );
        long review;
        using (var mikkel = await product.SignInAsync("mikkel"))
        {
            await mikkel.PostOk("reviews", AccessTests.Review(silence: "remove"));
            review = (await mikkel.GetOk("reviews"))[0].GetProperty("id").GetInt64();
            await mikkel.PostOk($"reviews/{review}/rounds", new { });
            await product.StopAsync();
        }

        var end = $"reviews/{review}/rounds/1/end";
        await using (var run = new Program_(product))
        {
            await run.StartAsync();
            using var mikkel = await run.SignInAsync("mikkel");
            Task ending = mikkel.Post(end, new { });
            await Product.UntilAsync(() =>
                Task.FromResult(Single(product, "SELECT COUNT(*) FROM directory_intent") > 0)
            );
            run.Kill();
            await ending.ConfigureAwait(
                ConfigureAwaitOptions.SuppressThrowing | ConfigureAwaitOptions.ContinueOnCapturedContext
            );
        }

        await KillAsync(product, seed: 10);
        await product.StartAsync();
        await Product.UntilAsync(() =>
            Task.FromResult(Single(product, "SELECT COUNT(*) FROM directory_intent WHERE CameOutAt IS NULL") == 0)
        );
        product
            .Services.GetRequiredService<OrganisationDirectory>()
            .Outside.Read()
            .Groups.Single()
            .Members.ShouldBe(["ann@tarn.example"]);
        using var after = await product.SignInAsync("mikkel");
        (await after.GetOk($"reviews/{review}/rounds/1"))
            .GetProperty("lines")
            .EnumerateArray()
            .Count(l => l.GetProperty("applied").GetBoolean())
            .ShouldBe(Guests);
        using var ines = await product.SignInAsync("ines");
        (await ines.GetOk("ledger?verb=directory-changed")).GetProperty("total").GetInt64().ShouldBe(Guests);
        LedgerReader.Verify(product.DatabaseFile).Finding.ShouldBeNull();
    }

    private static object Drop(string folder) =>
        new
        {
            name = "drop",
            feed = "folder",
            settings = new
            {
                title = "Drop",
                format = "json",
                retention = "P2Y",
                folder,
            },
        };

    /// <summary>Ten people read three files each within twenty minutes, again and again with an hour between.</summary>
    private static string Line(int i) =>
        $$"""{"id":"e{{i}}","time":"{{InstantPattern.ExtendedIso.Format(TimeOf(i))}}","action":"file.read","actor":"p{{i % 10}}"}""";

    private static Instant TimeOf(int i) =>
        Instant.FromUtc(2026, 6, 1, 8, 0)
        + Duration.FromMinutes((80 * (i / 30)) + (10 * (i / 10 % 3)))
        + Duration.FromSeconds(i % 10);

    /// <summary>What one pass over the same lines, by the core alone, raises.</summary>
    private static int AlertsOfOnePass()
    {
        var watch = WatchFile
            .ReadOne(
                """
                {"name":"Reading","kind":"count","where":"action = file.read","per":"actor","of":"events",
                 "threshold":3,"within":"PT25M"}
                """,
                new LocalDate(2026, 6, 15)
            )
            .Value;
        using var lines = new StringReader(string.Join('\n', Enumerable.Range(0, Events).Select(Line)));
        return new WatchRun(WatchFile.ReadEvents(lines).Value, new([]), [], DateTimeZone.Utc).Alerts([watch]).Count;
    }

    /// <summary>Puts a job back to where it had not begun.</summary>
    private static void Forget(Product product, string sql)
    {
        using var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    /// <summary>
    /// Starts the program and kills it, over and over, each time a random while after it answers; most kills fall into
    /// the work.
    /// </summary>
    private static async Task KillAsync(Product product, int seed, string asOf = "2026-06-15")
    {
        var random = new Random(seed);
        for (var i = 0; i < Kills; i++)
        {
            await using var run = new Program_(product);
            await run.StartAsync(slow: true, asOf);
            // The moment is random on purpose: there is no condition to wait for.
            await Task.Delay(random.Next(0, 120), TestContext.Current.CancellationToken);
            run.Kill();
        }
    }

    private static long Single(Product product, string sql)
    {
        using var connection = new SqliteConnection($"Data Source={product.DatabaseFile};Mode=ReadOnly;Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }

    /// <summary>The program as a process.</summary>
    private sealed class Program_(Product product) : IAsyncDisposable
    {
        private Process? process;
        private Uri? address;

        /// <param name="slow">Makes each portion of work small, so that there are many moments to be killed at.</param>
        /// <param name="asOf">The day that its clock begins on.</param>
        public async Task StartAsync(bool slow = false, string asOf = "2026-06-15")
        {
            var start = new ProcessStartInfo(
                Path.Combine(AppContext.BaseDirectory, "widekeel"),
                [
                    "serve",
                    "--data",
                    product.Data,
                    "--secrets",
                    product.Secrets,
                    "--urls",
                    "http://127.0.0.1:0",
                    "--as-of",
                    asOf,
                ]
            )
            {
                RedirectStandardOutput = true,
                RedirectStandardError = true,
            };
            if (slow)
            {
                start.Environment["WIDEKEEL_PORTION"] = "7";
            }

            process = Process.Start(start)!;
            process.ErrorDataReceived += (_, _) => { };
            process.BeginErrorReadLine();
            while (await process.StandardOutput.ReadLineAsync() is { } line)
            {
                if (line.StartsWith("Wide Keel is at ", StringComparison.Ordinal))
                {
                    address = new Uri(line["Wide Keel is at ".Length..]);
                    return;
                }
            }

            throw new InvalidOperationException("The program ended before it answered.");
        }

        public async Task<Api> SignInAsync(string name)
        {
            var api = await Api.ConnectAsync(address!);
            (
                await api.Post("session", new { mail = $"{name}@tarn.example", password = Product.Password })
            ).Status.ShouldBe(HttpStatusCode.OK);
            await api.RenewTokenAsync();
            return api;
        }

        public void Kill() => process!.Kill();

        public async ValueTask DisposeAsync()
        {
            if (process is { HasExited: false })
            {
                process.Kill();
            }

            await process!.WaitForExitAsync();
            process.Dispose();
        }
    }
}
