using System.Diagnostics;
using System.Globalization;
using System.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using WideKeel.Core.Query;
using WideKeel.Core.Sensitive;
using WideKeel.Core.Time;
using WideKeel.Server;
using WideKeel.Server.Content;
using WideKeel.Store;
using WideKeel.Store.Content;

/// <summary>
/// Texts of about 2 kB from an invented vocabulary whose words are as unevenly frequent as words are (Zipf).
/// </summary>
internal sealed class Texts(int seed)
{
    private readonly Random random = new(seed);
    private readonly string[] words = [.. Enumerable.Range(0, 30_000).Select(i => string.Concat(Syllables(i)))];

    /// <summary>The word of a rank; 0 is the most frequent.</summary>
    public string Word(int rank) => words[rank];

    public string Next(int bytes)
    {
        var text = new StringBuilder(bytes + 20);
        while (text.Length < bytes)
        {
            text.Append(words[(int)Math.Min(words.Length - 1, Math.Exp(random.NextDouble() * Math.Log(words.Length)))])
                .Append(random.Next(12) == 0 ? ". " : " ");
        }

        return text.ToString();
    }

    private static IEnumerable<string> Syllables(int number)
    {
        string[] all =
        [
            "ha",
            "ne",
            "pi",
            "dol",
            "ber",
            "mas",
            "tu",
            "ker",
            "lo",
            "san",
            "vi",
            "rod",
            "qua",
            "fen",
            "gul",
            "ost",
        ];
        for (var rest = number + 17; rest > 0; rest /= 16)
        {
            yield return all[rest % 16];
        }
    }
}

/// <summary>
/// Items with texts of 2 kB in the product's own tables and in a bare index beside them. Indexing is measured while
/// they are made, against a bare bulk insert into the same kind of index.
/// </summary>
internal static class ManyItems
{
    internal const int Seed = 1;

    public static ServiceProvider Services(string folder)
    {
        var services = WideKeelHost
            .AddServices(
                new ServiceCollection().AddLogging(),
                new WideKeelOptions { DataFolder = Path.Combine(folder, "content"), SecretsFolder = folder }
            )
            .BuildServiceProvider();
        WideKeelHost.Prepare(services);
        return services;
    }

    /// <summary>
    /// The connection, with as many items behind it; made now if they are not there from a run before.
    /// </summary>
    public static async Task<SqliteConnection> OpenAsync(WideKeelDb db, int items)
    {
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var there = await db.Items.LongCountAsync();
        if (there == 0)
        {
            var (ours, bare) = Fill(connection, items);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"Indexing {items:N0} texts of 2 kB: {ours:0.0} s, bare {bare:0.0} s, ratio {ours / bare:0.00} (goal ≤ 2)"
                )
            );
        }
        else if (there != items)
        {
            throw new InvalidOperationException($"The folder holds {there} items, not {items}; name another.");
        }

        // An organisation as every product has one: without, its calendar is looked for at each question.
        Execute(
            connection,
            "INSERT OR IGNORE INTO organisation (Id, Name, Zone, FiscalYearEnd, Demo) VALUES (1, 'All', 'Etc/UTC', '12-31', 0)"
        );
        return connection;
    }

    /// <summary>The seconds that either index took.</summary>
    private static (double Ours, double Bare) Fill(SqliteConnection connection, int items)
    {
        Execute(
            connection,
            """
            INSERT INTO unit (Id, Name, Path) VALUES (1, 'All', '/1/');
            INSERT INTO source (Id, Name, Kind, Root, Connected, Version) VALUES (1, 'Share', 'Share', '/none', 1, 1);
            INSERT INTO series (Id, Code, UnitId, State, Title, VersionInForce, Revision)
                VALUES (1, 'VES-010', 1, 'Active', 'Bench', 1, 1);
            WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 200)
            INSERT INTO container (Id, SourceId, Name, UnitId, Version) SELECT i, 1, 'c' || i, 1, 1 FROM n;
            CREATE VIRTUAL TABLE bare_fts USING fts5(title, text, author, owner, content='', contentless_delete=1);
            """
        );

        // Both ways take the same texts in turn, portion by portion, in one transaction each.
        var texts = new Texts(Seed);
        double ours = 0,
            bare = 0;
        var portion = Math.Min(20_000, items);
        for (var at = 0; at < items; at += portion)
        {
            var rows = Enumerable
                .Range(at + 1, Math.Min(portion, items - at))
                .Select(id => (Id: id, Title: texts.Next(30), Text: texts.Next(2000)))
                .ToList();
            ours += Fill(connection, "item_fts", rows, Words.Folded);
            bare += Fill(connection, "bare_fts", rows, t => t);
            using var transaction = connection.BeginTransaction();
            using var item = connection.CreateCommand();
            item.CommandText = """
                INSERT INTO item (Id, ContainerId, Path, Title, Type, Bytes, Hash,
                    Created, Modified, ModifiedTicks, SeriesId, AtEnd, OwnGrade, HandedOver, Searchable, HasFormer)
                VALUES ($id, 1 + $id % 200, 'folder/' || $id || '.md', $title,
                    CASE $id % 3 WHEN 0 THEN 'md' WHEN 1 THEN 'docx' ELSE 'pdf' END, 2000, printf('%064x', $id),
                    15000 + ($id * 7919) % 5500, 15000 + ($id * 104729) % 5500, 0,
                    CASE WHEN $id % 2 THEN 1 END, 0, 0, 0, 'whole', 0);
                INSERT INTO item_text (ItemId, Text) VALUES ($id, $text);
                """;
            foreach (var row in rows)
            {
                item.Parameters.Clear();
                item.Parameters.AddWithValue("$id", row.Id);
                item.Parameters.AddWithValue("$title", row.Title);
                item.Parameters.AddWithValue("$text", row.Text);
                item.ExecuteNonQuery();
            }

            transaction.Commit();
        }
        Execute(connection, "ANALYZE");
        return (ours, bare);
    }

    private static double Fill(
        SqliteConnection connection,
        string table,
        List<(int Id, string Title, string Text)> rows,
        Func<string, string> prepared
    )
    {
        var watch = Stopwatch.StartNew();
        using var transaction = connection.BeginTransaction();
        using var insert = connection.CreateCommand();
        insert.CommandText =
            $"INSERT INTO {table}(rowid, title, text, author, owner) VALUES ($id, $title, $text, '', '')";
        var (id, title, text) = (
            insert.Parameters.Add("$id", SqliteType.Integer),
            insert.Parameters.Add("$title", SqliteType.Text),
            insert.Parameters.Add("$text", SqliteType.Text)
        );
        foreach (var row in rows)
        {
            (id.Value, title.Value, text.Value) = (row.Id, prepared(row.Title), prepared(row.Text));
            insert.ExecuteNonQuery();
        }

        transaction.Commit();
        return watch.Elapsed.TotalSeconds;
    }

    private static void Execute(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}

/// <summary>A query with two more conditions against the same question in plain SQL, and all facets of one.</summary>
internal static class FindRun
{
    public static async Task RunAsync(string folder, int items)
    {
        await using var services = ManyItems.Services(folder);
        await using var db = await services.GetRequiredService<IDbContextFactory<WideKeelDb>>().CreateDbContextAsync();
        var connection = await ManyItems.OpenAsync(db, items);
        var calendar = services.GetRequiredService<OrganisationCalendar>();
        var texts = new Texts(ManyItems.Seed);
        ItemFilter Filter(string cql) =>
            new(Units: null)
            {
                Query = QuerySql.Translate(connection, QueryCompiler.Compile(cql, calendar.Today).Value).Value,
            };
        foreach (
            var (words, name, warmUp) in new[]
            {
                (texts.Word(20_000), "a rare word", 150),
                (texts.Word(300), "a word of middling frequency", 10),
                (texts.Word(3), "a frequent word", 3),
            }
        )
        {
            ItemPage? page = null;
            await Pair.CompareAsync(
                $"Query of {name} and two fields, first page with its count",
                "goal ≤ 2",
                async () =>
                {
                    var filter = Filter($"{words} and created > 2013 and type = md");
                    page = (await ItemEndpoints.PageAsync(filter, null, null, 100, db, calendar)).Value;
                },
                () =>
                {
                    using var command = connection.CreateCommand();
                    // The same question in plain SQL: how many there are, and the rows of the first page with their
                    // text.
                    command.CommandText = """
                        SELECT COUNT(*), SUM(i.Bytes) FROM item i
                        WHERE i.Id IN (SELECT rowid FROM bare_fts WHERE bare_fts MATCH $word)
                            AND i.Created >= 16071 AND i.Type = 'md';
                        SELECT i.*, t.Text FROM item i JOIN item_text t ON t.ItemId = i.Id
                        WHERE i.Id IN (SELECT rowid FROM bare_fts WHERE bare_fts MATCH $word)
                            AND i.Created >= 16071 AND i.Type = 'md'
                        ORDER BY i.Modified DESC, i.Id DESC LIMIT 100;
                        """;
                    command.Parameters.AddWithValue("$word", words);
                    using var reader = command.ExecuteReader();
                    do
                    {
                        while (reader.Read())
                        {
                            _ = reader.GetValue(reader.FieldCount - 1);
                        }
                    } while (reader.NextResult());

                    return Task.CompletedTask;
                },
                warmUp
            );
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  {page!.Total:N0} found"));
        }

        var watch = Stopwatch.StartNew();
        await Facets.CountAsync(new(), Filter($"{texts.Word(300)} and created > 2013"), new(Units: null), db, calendar);
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"All facets of a query: {watch.Elapsed.TotalSeconds:0.000} s (goal < 1 s)"
            )
        );
    }
}

/// <summary>
/// All kinds of sensitive data over ordinary texts, against grep -E with the same kinds' patterns as one alternation
/// over the same file.
/// </summary>
internal static class SensitiveRun
{
    public static async Task RunAsync(string folder, int items)
    {
        var texts = new Texts(2);
        var random = new Random(3);
        var lines = Enumerable
            .Range(0, items)
            .Select(i =>
                texts
                    .Next(2000)
                    .Replace(
                        ". ",
                        random.Next(10) == 0 ? $" {random.Next(100, 99999)} of {random.Next(1, 28)}.03.2025. " : ". ",
                        StringComparison.Ordinal
                    ) + (i % 50 == 0 ? "Card 4111 1111 1111 1111, mail a.b@example.org." : "")
            )
            .ToList();
        var file = Path.Combine(folder, "sensitive.txt");
        await File.WriteAllLinesAsync(file, lines);
        const string alternation =
            "[0-9]{13,19}|[0-9]{4}[ -][0-9]{4}[ -][0-9]{4}[ -][0-9]{4}|[A-Z]{2}[0-9]{2} ?[A-Z0-9]{4} ?[A-Z0-9 ]{7,30}"
            + "|[A-Z]{6}[A-Z0-9]{2}([A-Z0-9]{3})?|[0-9]{3}-?[0-9]{2}-?[0-9]{4}|[0-9]{2}-?[0-9]{7}"
            + "|[A-Z]{2} ?[0-9]{2} ?[0-9]{2} ?[0-9]{2} ?[A-D]|[0-9]{3}[ -]?[0-9]{3}[ -]?[0-9]{3,4}|[0-9]{11}"
            + "|[0-9]{8}[A-Z]|[XYZ][0-9]{7}[A-Z]|P[A-Z<][A-Z<]{42}|[A-Za-z0-9._%+-]+@[A-Za-z0-9.-]+\\.[A-Za-z]{2,}"
            + "|\\+[0-9]{1,3}[0-9 -]{7,14}|IMO ?[0-9]{7}";
        var scan = new SensitiveScan(SensitiveKinds.BuiltIn);
        long finds = 0;
        await Pair.CompareAsync(
            string.Create(CultureInfo.InvariantCulture, $"Sensitive kinds in {items:N0} texts of 2 kB"),
            "goal ≤ 2",
            () =>
            {
                finds = 0;
                foreach (var line in lines)
                {
                    finds += scan.FindIn(line).Count;
                }

                return Task.CompletedTask;
            },
            async () =>
            {
                using var grep = Process.Start(
                    new ProcessStartInfo("sh", ["-c", $"LC_ALL=C grep -oE '{alternation}' {file} | wc -l > /dev/null"])
                )!;
                await grep.WaitForExitAsync();
            }
        );
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  {finds:N0} finds"));
    }
}
