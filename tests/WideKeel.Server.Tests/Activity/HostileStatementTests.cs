using System.Net;
using WideKeel.Core.People;

namespace WideKeel.Server.Tests.Activity;

/// <summary>
/// Statements of somebody who wants more than they may read: an analyst of one unit asks for the sealed events of the whole
/// organisation, for a channel that is closed to them, for files, settings and other people's tables. Each is refused or
/// answered without a single row of those.
/// </summary>
public sealed class HostileStatementTests(HostileStatementTests.Shared shared)
    : IClassFixture<HostileStatementTests.Shared>
{
    /// <summary>Stands in every row that the analyst may not read.</summary>
    private const string Hidden = "hidden-object";

    private static readonly string[] Files =
    [
        "{archive}/gateway/**/*.parquet",
        "{archive}/gateway/day=2026-06-13/0.parquet",
        "{archive}/closed/day=2026-06-13/0.parquet",
        "{data}/widekeel.db",
        "{data}/ledger-key.pem",
        "/etc/passwd",
        "/proc/self/environ",
    ];

    private static readonly string[] Readers =
    [
        "read_parquet",
        "parquet_scan",
        "read_text",
        "read_blob",
        "read_csv",
        "read_csv_auto",
        "read_json",
        "read_ndjson",
        "glob",
        "parquet_metadata",
        "parquet_schema",
        "parquet_kv_metadata",
        "sniff_csv",
    ];

    /// <summary>A name in quotes as a table, in every place where a table may stand and a name may be taken for one of WITH.</summary>
    private static readonly string[] Places =
    [
        "SELECT * FROM \"{0}\"",
        "FROM \"{0}\"",
        "SELECT (SELECT count(*) FROM \"{0}\")",
        "SELECT 1 WHERE EXISTS (SELECT 1 FROM \"{0}\")",
        "SELECT * FROM events, \"{0}\"",
        "SELECT * FROM events e JOIN LATERAL (SELECT * FROM \"{0}\") l ON true",
        "SELECT 1 UNION ALL SELECT object FROM \"{0}\"",
        "SELECT id FROM events ORDER BY (SELECT count(*) FROM \"{0}\")",
        "SELECT id FROM events LIMIT (SELECT count(*) FROM \"{0}\")",
        "SELECT sum(1) FILTER (WHERE 1 IN (SELECT amount FROM \"{0}\")) FROM events",
        "SELECT id FROM events QUALIFY row_number() OVER (ORDER BY (SELECT max(object) FROM \"{0}\")) = 1",
        "WITH x AS (SELECT * FROM \"{0}\") SELECT * FROM x",
        "WITH x AS MATERIALIZED (SELECT * FROM \"{0}\") SELECT * FROM x",
        "WITH RECURSIVE x AS (SELECT object FROM \"{0}\" UNION SELECT object FROM x) SELECT * FROM x",
        // The name is defined, but not where it is used.
        "SELECT * FROM \"{0}\" WHERE 1 = (WITH \"{0}\" AS (SELECT 1 AS n) SELECT n FROM \"{0}\")",
        "SELECT (WITH \"{0}\" AS (SELECT 1 AS n) SELECT n FROM \"{0}\"), object FROM \"{0}\"",
        "SELECT * FROM (WITH \"{0}\" AS (SELECT 1 AS n) SELECT n FROM \"{0}\") t, \"{0}\"",
        "WITH \"{0}\" AS (SELECT * FROM \"{0}\") SELECT * FROM \"{0}\"",
        "WITH a AS (SELECT * FROM \"{0}\"), \"{0}\" AS (SELECT 1) SELECT * FROM a",
        "WITH a AS (WITH \"{0}\" AS (SELECT 1) SELECT 1) SELECT * FROM \"{0}\"",
        "(WITH \"{0}\" AS (SELECT 1 AS object) SELECT object FROM \"{0}\") UNION ALL SELECT object FROM \"{0}\"",
    ];

    private static readonly string[] Others =
    [
        "SELECT * FROM main.events",
        "SELECT * FROM rows.main.events",
        "SELECT * FROM memory.main.events",
        "SELECT * FROM open_events",
        "SELECT * FROM main.open_events",
        "SELECT * FROM information_schema.tables",
        "SELECT * FROM information_schema.columns",
        "SELECT * FROM pg_catalog.pg_class",
        "SELECT * FROM sqlite_master",
        "SELECT * FROM duckdb_tables",
        "SELECT * FROM duckdb_tables()",
        "SELECT * FROM duckdb_views()",
        "SELECT * FROM duckdb_settings()",
        "SELECT * FROM duckdb_secrets()",
        "SELECT * FROM duckdb_functions()",
        "SELECT * FROM duckdb_databases()",
        "SELECT * FROM pragma_database_list",
        "SELECT * FROM pragma_database_list()",
        "SELECT * FROM pragma_table_info('events')",
        "SELECT * FROM pragma_storage_info('events')",
        "SELECT * FROM sqlite_scan('{data}/widekeel.db', 'ledger')",
        "SELECT * FROM query('SELECT * FROM open_events')",
        "SELECT * FROM query_table('open_events')",
        "SELECT * FROM query_table(['events', 'open_events'])",
        "SELECT getenv('HOME')",
        "SELECT getvariable('x')",
        "SELECT current_setting('allowed_paths')",
        "SELECT current_setting('memory_limit')",
        "SELECT current_database()",
        "SELECT current_schemas(true)",
        "SELECT system.main.current_setting('allowed_paths')",
        "SELECT main.getenv('HOME')",
        "SELECT list_transform(['{data}/widekeel.db'], x -> read_text(x))",
        "SELECT list_aggregate([1], 'getenv')",
        "SELECT nextval('x')",
        "SELECT write_log('x')",
        "SELECT * FROM json_execute_serialized_sql('x')",
        "SELECT json_serialize_sql('SELECT 1')",
        "PRAGMA database_list",
        "PRAGMA enable_external_access",
        "SET enable_external_access = true",
        "SET allowed_directories = ['/']",
        "RESET lock_configuration",
        "ATTACH '{data}/widekeel.db' AS w (TYPE sqlite)",
        "ATTACH ':memory:' AS w",
        "DETACH memory",
        "USE memory",
        "INSTALL httpfs",
        "LOAD sqlite",
        "COPY events TO '{data}/stolen.csv'",
        "COPY (SELECT * FROM events) TO '/dev/stdout'",
        "EXPORT DATABASE '{data}/stolen'",
        "IMPORT DATABASE '{data}/stolen'",
        "CREATE TABLE x AS SELECT 1",
        "CREATE VIEW x AS SELECT * FROM '{data}/widekeel.db'",
        "CREATE MACRO x() AS TABLE SELECT * FROM read_text('/etc/passwd')",
        "CREATE SECRET (TYPE s3)",
        "DROP VIEW events",
        "ALTER VIEW events RENAME TO x",
        "INSERT INTO events SELECT * FROM events",
        "UPDATE events SET object = ''",
        "DELETE FROM events",
        "TRUNCATE events",
        "CALL pragma_version()",
        "CHECKPOINT",
        "VACUUM",
        "EXPLAIN SELECT 1",
        "EXPLAIN ANALYZE SELECT * FROM '{data}/widekeel.db'",
        "DESCRIBE events",
        "DESCRIBE '{data}/widekeel.db'",
        "SUMMARIZE events",
        "SHOW TABLES",
        "SHOW ALL TABLES",
        "SELECT * FROM (SHOW TABLES)",
        "SELECT * FROM (DESCRIBE '{archive}/closed/day=2026-06-13/0.parquet')",
        "SELECT * FROM (SUMMARIZE events)",
        "PIVOT events ON action USING count(*)",
        "SELECT * FROM (PIVOT events ON action USING count(*))",
        "UNPIVOT events ON object INTO NAME n VALUE v",
        "PREPARE x AS SELECT 1",
        "EXECUTE x",
        "BEGIN",
        "SELECT 1; SELECT 2",
        "SELECT 1; DROP VIEW events",
        "SELECT 1; COPY events TO '/tmp/x'",
        "VALUES ((SELECT count(*) FROM '{data}/widekeel.db'))",
        "SELECT * FROM events AT (VERSION => (SELECT count(*) FROM '/etc/passwd'))",
        "SELECT * FROM events POSITIONAL JOIN '/etc/passwd'",
        "SELECT * FROM events ASOF JOIN '{archive}/closed/day=2026-06-13/0.parquet' c ON events.time >= c.time",
        "SELECT * FROM events WHERE object IN (FROM '{archive}/closed/day=2026-06-13/0.parquet' SELECT object)",
        "SELECT * FROM 's3://bucket/x.parquet'",
        "SELECT * FROM 'https://192.0.2.1/x.parquet'",
        "SELECT * FROM events WHERE unit_id = 1",
        "SELECT object FROM events WHERE object LIKE 'hidden%' OR true",
        "SELECT events FROM events",
        "SELECT * FROM other_peoples_table",
        "SELECT * FROM events TABLESAMPLE 100%",
        "",
        " ",
        ";",
        "\0",
        "SELECT",
        "SELECT '",
        "SELECT /* ",
        "SELECT $$",
        "{\"sql\":1}",
    ];

    public static IEnumerable<string> Corpus() =>
        Files
            .SelectMany(f => Readers.Select(r => $"SELECT * FROM {r}('{f}')"))
            .Concat(Files.Take(3).Append("ledger").Append("open_events").SelectMany(f => Places.Select(p => Put(p, f))))
            .Concat(Others);

    private static string Put(string place, string file) => place.Replace("{0}", file, StringComparison.Ordinal);

    [Fact]
    public void The_corpus_has_at_least_200_statements() =>
        Corpus().Distinct().Count().ShouldBeGreaterThanOrEqualTo(200);

    [Fact]
    public async Task No_hostile_statement_reads_a_row_past_the_rights_of_its_asker()
    {
        List<string> faults = [];
        foreach (var one in Corpus().Distinct())
        {
            var sql = one.Replace("{archive}", shared.Archive, StringComparison.Ordinal)
                .Replace("{data}", shared.Product.Data, StringComparison.Ordinal);
            var answer = await shared.Analyst.Post("statements/answers", new { sql });
            if (
                answer.Status is not (HttpStatusCode.OK or HttpStatusCode.BadRequest)
                || answer.Status == HttpStatusCode.OK && answer.Text!.Contains(Hidden, StringComparison.Ordinal)
                || answer.Text!.Contains("PRIVATE KEY", StringComparison.Ordinal)
                || answer.Text!.Contains("root:", StringComparison.Ordinal)
            )
            {
                faults.Add($"{(int)answer.Status} {sql}\n   {answer.Text![..Math.Min(300, answer.Text!.Length)]}");
            }
        }

        faults.ShouldBeEmpty(string.Join('\n', faults));
    }

    [Theory]
    [InlineData("SELECT repeat('x', 4000000000)")]
    [InlineData("SELECT length(repeat(repeat('x', 1000000), 100000))")]
    [InlineData("SELECT len(range(2000000000))")]
    [InlineData("SELECT list(a.range) FROM range(100000000) a, range(100) b")]
    [InlineData("SELECT string_agg(repeat('x', 1000000), ',') FROM range(100000)")]
    public async Task A_statement_that_wants_all_memory_ends_alone(string sql)
    {
        var answer = await shared.Analyst.Post("statements/answers", new { sql });
        (answer.Status, (await shared.Analyst.Get("session")).Status).ShouldBe(
            (HttpStatusCode.BadRequest, HttpStatusCode.OK),
            answer.Text
        );
    }

    [Fact]
    public async Task The_name_of_a_definition_is_known_where_it_is_in_scope()
    {
        var answer = await shared.Analyst.PostOk(
            "statements/answers",
            new
            {
                sql = "WITH a AS (SELECT count(*) AS n FROM events), b AS (SELECT n FROM a) SELECT n FROM b "
                    + "WHERE EXISTS (SELECT 1 FROM a)",
            }
        );
        answer.GetProperty("rows")[0][0].GetInt64().ShouldBe(1);
    }

    [Fact]
    public async Task A_definition_that_calls_itself_is_answered()
    {
        var answer = await shared.Analyst.PostOk(
            "statements/answers",
            new
            {
                sql = "WITH RECURSIVE r AS (SELECT 1 AS n UNION ALL SELECT n + 1 FROM r WHERE n < 5) SELECT sum(n) FROM r",
            }
        );
        answer.GetProperty("rows")[0][0].ToString().ShouldBe("15");
    }

    [Fact]
    public async Task What_a_statement_copied_for_itself_is_gone_when_it_ends()
    {
        await shared.Analyst.PostOk("statements/answers", new { sql = "SELECT count(*) FROM events" });
        Directory.EnumerateFileSystemEntries(Path.Combine(shared.Product.Data, "statements")).ShouldBeEmpty();
    }

    /// <summary>
    /// Two channels, one of them closed, with sealed and open events; the analyst may read one of the six: that of pia in
    /// the open channel.
    /// </summary>
    public sealed class Shared : IAsyncLifetime
    {
        public Product Product { get; } = new();

        public Api Analyst { get; private set; } = null!;

        public string Archive => Path.Combine(Product.Data, "archive");

        public async ValueTask InitializeAsync()
        {
            await Product.InitializeAsync();
            using var admin = await Product.SignInAsync("jonas");
            await Product.WriteDirectoryAsync(
                DirectoryState.Empty with
                {
                    People = [new("pia@tarn.example", "Pia", Unit: "Island")],
                }
            );
            await Product.AddPersonAsync(admin, "arvid", "securityAnalyst", "Island");
            foreach (var (name, open) in new[] { ("gateway", true), ("closed", false) })
            {
                var channel = await Channels.MakeAsync(admin, name, settings: Channels.Settings(open: open));
                var key = await Channels.KeyAsync(admin, channel);
                await Channels.SendAsync(
                    Product,
                    name,
                    key,
                    string.Join(
                        '\n',
                        Channels.Line(
                            $"{name}-1",
                            "2026-06-13T10:00:00Z",
                            "file.read",
                            "x@out.example",
                            Object(Hidden)
                        ),
                        Channels.Line(
                            $"{name}-2",
                            "2026-06-15T07:00:00Z",
                            "file.read",
                            "x@out.example",
                            Object(Hidden)
                        ),
                        Channels.Line(
                            $"{name}-3",
                            "2026-06-13T07:00:00Z",
                            "file.read",
                            rest: Object(open ? "own" : Hidden)
                        )
                    )
                );
            }

            await admin.PostOk("channels/seal", new { });
            await admin.WaitForJobsAsync();
            Analyst = await Product.SignInAsync("arvid");
        }

        private static string Object(string name) => $",\"object\":\"{name}\"";

        public async ValueTask DisposeAsync()
        {
            Analyst.Dispose();
            await Product.DisposeAsync();
        }
    }
}
