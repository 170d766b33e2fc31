using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core.Time;
using WideKeel.Demo;
using WideKeel.Server;
using WideKeel.Server.Demo;
using WideKeel.Store;

/// <summary>
/// Asks every GET address of the API over the demo whose items are multiplied, and prints median and worst. A file is
/// timed to its first byte: it is written while it is read.
/// </summary>
internal static partial class WalkRun
{
    private const int Times = 5;
    private const int MostSeconds = 60;
    private static readonly Instant AsOf = Instant.FromUtc(2026, 6, 15, 7, 0);

    // The first whose role lets them in is asked; members of matters last, because they would see too little elsewhere.
    private static readonly string[] People =
    [
        "ines.calloway",
        "astrid.moen",
        "sunniva.krag",
        "jonas.aske",
        "vera.quist",
        "pia.lind",
        "maren.holt",
    ];

    /// <summary>What stands in an address, by the word before it and its name; later ones see earlier ones as
    /// $name.</summary>
    private static readonly Dictionary<string, string> Values = new()
    {
        ["jobs.id"] = "SELECT MAX(Id) FROM job WHERE MatterId IS NULL",
        ["items.id"] =
            "SELECT MIN(i.Id) FROM item i JOIN item_text t ON t.ItemId = i.Id WHERE i.Type = 'md' AND i.MissingSince IS NULL",
        ["items.item"] =
            "SELECT h.ItemId FROM hold_item h JOIN hold_order o ON o.Id = h.OrderId WHERE o.MatterId = $id ORDER BY 1 LIMIT 1",
        ["versions.hash"] = "SELECT Hash FROM item_copy WHERE ItemId = $item LIMIT 1",
        ["sources.id"] = "SELECT MIN(Id) FROM source",
        ["series.id"] =
            "SELECT SeriesId FROM item WHERE SeriesId IS NOT NULL GROUP BY 1 ORDER BY COUNT(*) DESC LIMIT 1",
        ["drafts.group"] = "'unchanged'",
        ["blankets.id"] = "SELECT MAX(Id) FROM blanket",
        ["subjects.subject"] = "SELECT Subject FROM trigger_event LIMIT 1",
        ["filing-rules.id"] = "SELECT MIN(Id) FROM filing_rule",
        ["batches.id"] = "SELECT BatchId FROM batch_line GROUP BY 1 ORDER BY COUNT(*) DESC LIMIT 1",
        ["certificates.id"] = "SELECT Id FROM certificate ORDER BY Items DESC LIMIT 1",
        ["bundles.id"] = "SELECT MAX(Id) FROM bundle",
        ["matters.id"] = "SELECT MatterId FROM sweep LIMIT 1",
        ["sweeps.sweep"] = "SELECT MAX(Id) FROM sweep WHERE MatterId = $id",
        ["runs.run"] =
            "SELECT MAX(r.Id) FROM sweep_run r JOIN sweep s ON s.Id = r.SweepId WHERE s.MatterId = $id AND r.State = 'Done'",
        ["tags.tag"] = "SELECT MIN(Id) FROM matter_tag WHERE MatterId = $id",
        ["orders.order"] = "SELECT MAX(Id) FROM hold_order WHERE MatterId = $id AND State = 'InForce'",
        ["bundles.bundle"] = "SELECT MAX(Id) FROM matter_bundle WHERE MatterId = $id",
        ["notices.token"] = "SELECT Token FROM notice_copy LIMIT 1",
        ["libraries.id"] =
            "SELECT c.Id FROM container c JOIN source s ON s.Id = c.SourceId WHERE s.Kind = 'Workspace' LIMIT 1",
        ["files.id"] =
            "SELECT MIN(Id) FROM item WHERE MissingSince IS NULL AND ContainerId = (SELECT MIN(Id) FROM container WHERE SourceId = 3)",
        ["channels.id"] = "SELECT MIN(Id) FROM channel",
        ["events.id"] = "SELECT MAX(Id) FROM activity_event WHERE SegmentId IS NOT NULL AND Actor IS NOT NULL",
        ["boards.name"] = "'destruction'",
        ["alerts.id"] = "SELECT MIN(Id) FROM alert",
        ["lists.name"] = "'ownerless'",
        ["reviews.id"] = "SELECT ReviewId FROM review_round WHERE EndedAt IS NOT NULL LIMIT 1",
        ["rounds.number"] = "SELECT MAX(Number) FROM review_round WHERE ReviewId = $id AND EndedAt IS NOT NULL",
        ["review.token"] = "SELECT Token FROM reviewer_link LIMIT 1",
        ["gauges.id"] = "SELECT MIN(Id) FROM gauge",
        ["frameworks.code"] = "SELECT Code FROM framework LIMIT 1",
        ["proofs.id"] = "SELECT MAX(Id) FROM part_proof WHERE Hash IS NOT NULL",
        ["proofs.proof"] = "SELECT MAX(Id) FROM part_proof",
        ["register-documents.id"] = "SELECT MAX(Id) FROM register_document",
        ["policies.id"] = "SELECT PolicyId FROM policy_copy LIMIT 1",
        ["versions.number"] = "SELECT MAX(Number) FROM policy_version WHERE PolicyId = $id",
        ["policy.token"] = "SELECT Token FROM policy_copy LIMIT 1",
        ["connections.id"] = "SELECT MIN(Id) FROM connection",
        ["audits.id"] = "SELECT MAX(Id) FROM audit",
        ["given.token"] = "SELECT Token FROM assurance_client LIMIT 1",
        ["given.document"] = "SELECT MAX(Id) FROM assurance_document",
        ["calendar.key"] = "SELECT CalendarKey FROM person WHERE CalendarKey IS NOT NULL LIMIT 1",
    };

    /// <summary>What is asked for where an address wants it, or where it is asked so in practice.</summary>
    private static readonly Dictionary<string, string[]> Questions = new()
    {
        ["/api/items"] =
        [
            "",
            "?state=due",
            "?state=held",
            "?cql=pier",
            "?cql=berth%20and%20created%20%3E%202024",
            "?sort=-bytes",
        ],
        ["/api/items/facets"] = ["", "?cql=pier"],
        ["/api/find"] = ["?q=pier"],
        ["/api/events"] = ["", "?cql=pier&days=7"],
        ["/api/events/{id}/thread"] = ["?along=actor&hours=24"],
        ["/api/access/reach"] = ["?person=karl.nyman@tarnholm.example"],
        ["/api/access/ways"] = ["?person=karl.nyman@tarnholm.example&resource=Vessels"],
        ["/api/access/comparison"] = ["?first=karl.nyman@tarnholm.example&second=pia.lind@tarnholm.example"],
        ["/api/access/least"] = ["?resource=Vessels&role=read"],
        ["/api/owned/people"] = ["?thing=Vessels"],
        ["/api/readiness/forecast"] = ["?days=90"],
        ["/api/readiness/fixes"] = ["?hours=40"],
        ["/api/frameworks/preview"] = ["?code=iso-27001"],
    };

    public static async Task RunAsync(string folder, int items, string only)
    {
        var options = new WideKeelOptions
        {
            DataFolder = Path.Combine(folder, "walk", "data"),
            SecretsFolder = Path.Combine(folder, "walk", "secrets"),
            Urls = "http://127.0.0.1:0",
            Clock = new ShiftedClock(AsOf, SystemClock.Instance),
            DemoAccounts = DemoSeed.Accounts,
            MailSink = true,
        };
        await DemoSeed.EnsureAsync(options, seed: 1, scale: 1, fresh: false, _ => { });
        await using var app = WideKeelHost.Create(options);
        await MultiplyAsync(app.Services, items);
        await app.StartAsync();
        var address = new Uri(app.Urls.First());
        List<HttpClient> people = [];
        foreach (var name in People)
        {
            people.Add(await SignInAsync(address, $"{name}@tarnholm.example"));
        }

        await IdleAsync(people[0]);
        var paths = await people[0].GetFromJsonAsync<JsonElement>("/openapi/v1.json");
        List<Row> rows = [];
        await using var db = await app
            .Services.GetRequiredService<IDbContextFactory<WideKeelDb>>()
            .CreateDbContextAsync();
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        foreach (var path in paths.GetProperty("paths").EnumerateObject())
        {
            if (!path.Value.TryGetProperty("get", out _) || !path.Name.Contains(only, StringComparison.Ordinal))
            {
                continue;
            }

            foreach (var question in Questions.GetValueOrDefault(path.Name, [""]))
            {
                try
                {
                    rows.Add(
                        Filled(connection, path.Name) is { } filled
                            ? await AskAsync(people, $"{path.Name}{question}", $"{filled}{question}")
                            : new(path.Name + question, 0, "nothing in the demo to ask for", [], 0)
                    );
                }
                catch (TaskCanceledException)
                {
                    rows.Add(new(path.Name + question, 200, "", [MostSeconds], 0));
                }
            }
        }

        Print(rows, items);
        people.ForEach(p => p.Dispose());
        await app.StopAsync();
    }

    private sealed record Row(string Path, int Status, string As, IReadOnlyList<double> Seconds, long Bytes)
    {
        public double Median => Seconds.Order().ElementAt(Seconds.Count / 2);

        public double Worst => Seconds.Max();
    }

    private static void Print(List<Row> rows, int items)
    {
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"Every GET address over {items:N0} items, asked {Times} times: median and worst to the first byte, in milliseconds."
            )
        );
        Console.WriteLine();
        Console.WriteLine("| Address | Median | Worst | kB |");
        Console.WriteLine("| --- | ---: | ---: | ---: |");
        foreach (var row in rows.Where(r => r.Status == 200).OrderByDescending(r => r.Worst))
        {
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| `{row.Path}` | {row.Median * 1000:0} | {row.Worst * 1000:0} | {row.Bytes / 1024.0:N0} |"
                )
            );
        }

        Console.WriteLine();
        foreach (var row in rows.Where(r => r.Status != 200))
        {
            Console.WriteLine($"Not reached: {row.Path} ({row.Status}: {row.As})");
        }
    }

    private static async Task<Row> AskAsync(List<HttpClient> people, string path, string filled)
    {
        HttpClient? who = null;
        var (status, said) = (0, "");
        foreach (var person in people)
        {
            using var answer = await person.GetAsync(
                new Uri(filled, UriKind.Relative),
                HttpCompletionOption.ResponseHeadersRead
            );
            status = (int)answer.StatusCode;
            if (answer.IsSuccessStatusCode)
            {
                who = person;
                break;
            }

            said = await answer.Content.ReadAsStringAsync();
        }

        if (who is null)
        {
            return new(path, status, said.Length > 160 ? said[..160] : said, [], 0);
        }

        List<double> seconds = [];
        long bytes = 0;
        for (var i = 0; i < Times; i++)
        {
            var watch = Stopwatch.StartNew();
            using var answer = await who.GetAsync(
                new Uri(filled, UriKind.Relative),
                HttpCompletionOption.ResponseHeadersRead
            );
            await using var content = await answer.Content.ReadAsStreamAsync();
            var buffer = new byte[64 * 1024];
            bytes = await content.ReadAsync(buffer);
            var first = watch.Elapsed.TotalSeconds;
            var isFile = answer.Content.Headers.ContentDisposition is not null;
            while (await content.ReadAsync(buffer) is > 0 and var read && (!isFile || bytes < 1_000_000))
            {
                bytes += read;
            }

            seconds.Add(isFile ? first : watch.Elapsed.TotalSeconds);
        }

        var row = new Row(path, 200, "", seconds, bytes);
        Console.Error.WriteLine($"{row.Worst * 1000:0} {path}");
        return row;
    }

    private static string? Filled(SqliteConnection connection, string path)
    {
        Dictionary<string, object> known = [];
        var before = "";
        List<string> filled = [];
        foreach (var segment in path.Split('/'))
        {
            var taken = segment;
            if (Placeholder().Match(segment) is { Success: true } match)
            {
                var name = match.Groups[1].Value;
                if (Value(connection, $"{before}.{name}", known) is not { } value)
                {
                    return null;
                }

                known[name] = value;
                taken = segment.Replace(
                    match.Value,
                    Uri.EscapeDataString(Convert.ToString(value, CultureInfo.InvariantCulture)!),
                    StringComparison.Ordinal
                );
            }
            else
            {
                before = segment;
            }

            filled.Add(taken);
        }

        return string.Join('/', filled);
    }

    private static object? Value(SqliteConnection connection, string key, Dictionary<string, object> known)
    {
        if (!Values.TryGetValue(key, out var sql))
        {
            return null;
        }

        using var command = connection.CreateCommand();
        command.CommandText = sql.StartsWith("SELECT", StringComparison.Ordinal) ? sql : $"SELECT {sql}";
        foreach (var (name, value) in known)
        {
            command.Parameters.AddWithValue($"${name}", value);
        }

        return command.ExecuteScalar() is { } found and not DBNull ? found : null;
    }

    private static async Task<HttpClient> SignInAsync(Uri address, string mail)
    {
        var client = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() })
        {
            BaseAddress = address,
            Timeout = TimeSpan.FromSeconds(MostSeconds),
        };
        var token = (await client.GetFromJsonAsync<JsonElement>("/api/session")).GetProperty("token").GetString();
        client.DefaultRequestHeaders.Add("X-XSRF-TOKEN", token);
        using var answer = await client.PostAsJsonAsync("/api/session", new { mail, password = Scenario.Password });
        answer.EnsureSuccessStatusCode();
        return client;
    }

    private static async Task IdleAsync(HttpClient who)
    {
        while (
            (await who.GetFromJsonAsync<JsonElement>("/api/jobs"))
                .EnumerateArray()
                .Any(j => j.GetProperty("state").GetString() is "queued" or "running")
        )
        {
            await Task.Delay(500);
        }
    }

    /// <summary>
    /// Copies the demo's items with what hangs on them, each copy at a path of its own and with a content of its own,
    /// until there are as many as wanted. A folder that has them already stays as it is.
    /// </summary>
    private static async Task MultiplyAsync(IServiceProvider services, int items)
    {
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var (there, step) = (await db.Items.LongCountAsync(), await db.Items.MaxAsync(i => i.Id));
        if (there >= items)
        {
            return;
        }

        Execute("PRAGMA wal_autocheckpoint = 10000");
        connection.CreateFunction("folded", (string? text) => WideKeel.Core.Query.Words.Folded(text ?? ""));
        var whole = ListOf(connection, "item", "Id", "Path", "Hash", "Thread", "BatchId");
        const int portion = 20;
        var copies = (items - there + there - 1) / there;
        for (var at = 1L; at <= copies; at += portion)
        {
            var to = Math.Min(copies, at + portion - 1);
            using var transaction = connection.BeginTransaction();
            var n = $"WITH RECURSIVE n(k) AS (SELECT {at} UNION ALL SELECT k + 1 FROM n WHERE k < {to})";
            var each = $"FROM n CROSS JOIN item i ON i.Id <= {step}";
            Execute(
                $"""
                {n} INSERT INTO item (Id, Path, Hash, Thread, {whole})
                SELECT i.Id + k * {step}, Path || '.' || k, lower(hex(randomblob(32))), Thread || '.' || k, {whole} {each};
                """
            );
            foreach (var table in (string[])["item_text", "item_date", "item_sensitive", "hold_item"])
            {
                var own = ListOf(connection, table, "ItemId");
                Execute(
                    $"""
                    {n} INSERT INTO {table} (ItemId, {own})
                    SELECT ItemId + k * {step}, {own} FROM n CROSS JOIN {table} WHERE ItemId <= {step};
                    """
                );
            }

            Execute(
                $"""
                {n} INSERT INTO item_copy (ItemId, Hash, Bytes, At)
                SELECT c.Id, c.Hash, c.Bytes, t.At {each}
                JOIN item_copy t ON t.ItemId = i.Id AND t.Hash = i.Hash JOIN item c ON c.Id = i.Id + k * {step};
                """
            );
            Execute(
                $"""
                INSERT INTO item_fts (rowid, title, text, author, owner)
                SELECT i.Id, folded(i.Title), folded(t.Text), folded(i.Author), folded(i.Owner)
                FROM item i LEFT JOIN item_text t ON t.ItemId = i.Id
                WHERE i.Id > {at * step} AND i.Id <= {(to + 1) * step};
                """
            );
            transaction.Commit();
        }

        Execute("ANALYZE; PRAGMA wal_checkpoint(TRUNCATE);");

        void Execute(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            command.CommandTimeout = 0;
            command.ExecuteNonQuery();
        }
    }

    /// <summary>The columns of a table but those, as a list of SQL.</summary>
    private static string ListOf(SqliteConnection connection, string table, params string[] without)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT name FROM pragma_table_info('{table}')";
        using var reader = command.ExecuteReader();
        List<string> columns = [];
        while (reader.Read())
        {
            columns.Add(reader.GetString(0));
        }

        return string.Join(", ", columns.Except(without).Select(c => $"\"{c}\""));
    }

    [GeneratedRegex(@"\{(\w+)(?::[^}]*)?\}")]
    private static partial Regex Placeholder();
}
