using CsCheck;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.People;

namespace WideKeel.Server.Tests.Content;

/// <summary>
/// The two evaluations of a query: in SQL over a real database file, and in memory for each item. They must agree on
/// everything.
/// </summary>
public sealed class QueryTests : IAsyncLifetime
{
    private const int Items = 400;
    private static readonly LocalDate Today = new(2026, 6, 15);
    private static readonly string[] Vocabulary =
    [
        "pier",
        "Pier",
        "dolphin",
        "dolphins",
        "harbour",
        "Zażółć",
        "running",
        "runs",
        "ran",
        "survey",
        "dues",
        "4",
        "2026",
        "café",
        "o'clock",
        "ship-to-shore",
        "and",
        "ŁÓDŹ",
        "straße",
        "the",
    ];

    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-query-").FullName;
    private readonly List<(long Id, QueryItem Item)> items = [];
    private WideKeelDb db = null!;
    private SqliteConnection connection = null!;

    public async ValueTask InitializeAsync()
    {
        var options = new DbContextOptionsBuilder<WideKeelDb>();
        options.UseWideKeel(Path.Combine(folder, "query.db"));
        db = new(options.Options);
        await db.Database.MigrateAsync();
        await db.Database.OpenConnectionAsync();
        connection = (SqliteConnection)db.Database.GetDbConnection();
        FullText.Prepare(connection);
        await FillAsync(new Random(20260615));
    }

    public async ValueTask DisposeAsync()
    {
        await db.DisposeAsync();
        SqliteConnection.ClearAllPools();
        Directory.Delete(folder, recursive: true);
    }

    [Fact]
    public void SQL_and_memory_find_the_same_items_for_random_queries()
    {
        var (hits, asked) = (0, 0);
        Queries.Sample(
            text =>
            {
                var compiled = QueryCompiler.Compile(text, Today);
                compiled.Refusal?.Sentence.ShouldBeNull(text);
                var found = InSql(compiled.Value);
                found.ShouldBe(
                    items.Where(i => QueryMatcher.Matches(compiled.Value.Condition, i.Item)).Select(i => i.Id).ToList(),
                    text
                );
                Interlocked.Add(ref hits, found.Count is > 0 and < Items ? 1 : 0);
                Interlocked.Increment(ref asked);
            },
            iter: 2500,
            threads: 1
        );

        // A comparison of nothing with nothing would prove nothing.
        hits.ShouldBeGreaterThan(asked / 3);
    }

    [Theory]
    [InlineData("pier", true)]
    [InlineData("pier and dolphin not survey", true)]
    [InlineData("text any \"pier dues\" or title = survey", true)]
    [InlineData("\"pier 4\" and created > 2020", true)]
    [InlineData("harb*", true)]
    [InlineData("text =/stem running", true)]
    [InlineData("p?er", true)]
    [InlineData("pier prox/distance<=3 dolphin", false)]
    [InlineData("title = ^pier", false)]
    [InlineData("title == \"pier*\"", false)]
    public void Words_go_to_the_index_and_only_what_it_cannot_say_is_decided_one_by_one(string text, bool byIndexAlone)
    {
        var sql = QuerySql.Translate(connection, QueryCompiler.Compile(text, Today).Value).Value.Where;
        sql.Contains("wk_", StringComparison.Ordinal).ShouldBe(!byIndexAlone);
        if (byIndexAlone)
        {
            (sql.Split("MATCH").Length - 1).ShouldBe(1, "the index is asked once");
        }
    }

    [Theory]
    [InlineData("w{0}", " or ", 2000)]
    [InlineData("pier{0}", " not ", 2000)]
    [InlineData("text = *{0}*", " or ", 300)]
    [InlineData("path = \"*{0}*\"", " or ", 2000)]
    [InlineData("size <> {0}", " and ", 2000)]
    [InlineData("title = ^w{0}", " or ", 1000)]
    [InlineData("pier prox/distance<={0} dolphin", ") or (", 300)]
    public void The_longest_queries_that_are_taken_are_asked_in_SQL_with_the_same_answer(
        string clause,
        string joint,
        int clauses
    )
    {
        var text =
            "("
            + string.Join(
                joint,
                Enumerable
                    .Range(0, clauses)
                    .Select(i => string.Format(System.Globalization.CultureInfo.InvariantCulture, clause, i))
            )
            + ")";
        var query = QueryCompiler.Compile(text, Today).Value;
        InSql(query).ShouldBe(Ids(query));
    }

    [Fact]
    public void The_deepest_queries_that_are_taken_are_asked_in_SQL_with_the_same_answer()
    {
        foreach (var clause in new[] { "pier", "size > 1000" })
        {
            var text =
                string.Concat(Enumerable.Range(0, 240).Select(i => i % 2 == 0 ? $"{clause} and " : $"survey or "))
                + "dolphin";
            foreach (
                var deep in new[]
                {
                    text,
                    string.Concat(Enumerable.Repeat("dues or (pier and (", 60)) + "dolphin" + new string(')', 120),
                }
            )
            {
                var query = QueryCompiler.Compile(deep, Today).Value;
                InSql(query).ShouldBe(Ids(query));
            }
        }
    }

    [Fact]
    public void A_mask_that_stands_for_too_many_words_is_refused_by_name_and_any_word_at_all_is_not()
    {
        Execute(
            "INSERT INTO item_fts(rowid, title, text, author, owner) VALUES (100000, '"
                + string.Join(' ', Enumerable.Range(0, 6000).Select(i => $"x{i}y"))
                + "', '', '', '')"
        );
        QuerySql
            .Translate(connection, QueryCompiler.Compile("x*y or pier", Today).Value)
            .Refusal!.Sentence.ShouldContain("“x*y” stands for more than 5,000 words");
        var any = QueryCompiler.Compile("author = *", Today).Value;
        InSql(any).ShouldBe(Ids(any));
    }

    [Theory]
    [InlineData(ItemState.Due)]
    [InlineData(ItemState.Held)]
    [InlineData(ItemState.InTerm)]
    [InlineData(ItemState.NoRule)]
    public void The_list_of_one_state_shows_the_items_that_are_in_it(ItemState state)
    {
        var expected = items.Where(i => i.Item.State == state.Word()).Select(i => i.Id).ToList();
        expected.ShouldNotBeEmpty();
        InSql(new ItemFilter(Units: null) { States = [state] }).ShouldBe(expected);
    }

    [Fact]
    public void A_renewed_index_finds_what_the_old_one_found()
    {
        var query = QueryCompiler.Compile("pier or author = calloway", Today).Value;
        var before = InSql(query);
        Execute("PRAGMA user_version = 0");
        FullText.Prepare(connection);
        InSql(query).ShouldBe(before);
        before.ShouldNotBeEmpty();
    }

    [Fact]
    public void Cleared_in_small_steps_the_index_keeps_every_word_of_what_is_left_and_none_of_what_was_taken_out()
    {
        // A word of its own for each, in segments of their own; every other is taken out. What a word shares with the
        // one before it is not written again, so its end is looked for.
        for (var id = 1; id <= 40; id++)
        {
            Execute(
                $"INSERT OR REPLACE INTO item_fts(rowid, title, text, author, owner) VALUES ({100_000 + id}, "
                    + $"'', "
                    + $"'{string.Concat(Enumerable.Range(0, 200).Select(n => $"w{id}x{n} "))}v{id}zquor{id}blexyz', "
                    + $"'', '')"
            );
        }

        Execute("DELETE FROM item_fts WHERE rowid > 100000 AND rowid % 2 = 0");
        InBlocks(2).ShouldBeTrue();
        var steps = 0;
        for (var more = true; more; steps++)
        {
            more = FullText.Clear(connection, 1, begin: steps == 0);
        }

        steps.ShouldBeGreaterThan(3);
        for (var id = 1; id <= 40; id++)
        {
            InBlocks(id).ShouldBe(id % 2 == 1, $"quor{id}blexyz");
            Number($"SELECT COUNT(*) FROM item_fts WHERE item_fts MATCH 'v{id}zquor{id}blexyz'").ShouldBe(id % 2);
        }

        bool InBlocks(int id) =>
            Number($"SELECT COUNT(*) FROM item_fts_data WHERE instr(block, CAST('quor{id}blexyz' AS BLOB)) > 0") > 0;

        long Number(string sql)
        {
            using var command = connection.CreateCommand();
            command.CommandText = sql;
            return (long)command.ExecuteScalar()!;
        }
    }

    [Fact]
    public void A_form_says_the_same_as_the_query_it_was_read_from() =>
        Queries.Sample(
            text =>
            {
                var query = CqlParser.Parse(text).Value;
                var written = QueryForms.Write(QueryForms.Read(query));
                var again = QueryCompiler.Compile(written, Today);
                again.Refusal?.Sentence.ShouldBeNull($"{text} became {written}");
                Ids(again.Value).ShouldBe(Ids(QueryCompiler.Compile(query, Today).Value), $"{text} became {written}");
                QueryForms.Write(QueryForms.Read(CqlParser.Parse(written).Value)).ShouldBe(written);
            },
            iter: 800
        );

    private List<long> Ids(CompiledQuery query) =>
        [.. items.Where(i => QueryMatcher.Matches(query.Condition, i.Item)).Select(i => i.Id)];

    private List<long> InSql(CompiledQuery query) =>
        InSql(new ItemFilter(Units: null) { Query = QuerySql.Translate(connection, query).Value });

    private List<long> InSql(ItemFilter filter)
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            $"SELECT i.Id FROM item i JOIN container c ON c.Id = i.ContainerId WHERE {filter.Where()} ORDER BY i.Id";
        filter.Bind(command, Today.ToDayNumber());
        using var reader = command.ExecuteReader();
        List<long> ids = [];
        while (reader.Read())
        {
            ids.Add(reader.GetInt64(0));
        }

        return ids;
    }

    private static Gen<string> Term { get; } =
        Gen.OneOf(
            Gen.OneOf(Vocabulary),
            Gen.OneOf("pie*", "*ing", "d?lphin*", "h*b*", "zaz*", "lodz", "strasse", "cafe", "nowhere", "*"),
            Gen.Select(Gen.OneOf(Vocabulary), Gen.OneOf(Vocabulary)).Select((a, b) => $"{a} {b}"),
            Gen.Select(Gen.OneOf("^", ""), Gen.OneOf(Vocabulary), Gen.OneOf("^", "", "*"))
                .Select((a, b, c) => $"{a}{b}{c}"),
            Gen.Select(Gen.OneOf(Vocabulary), Gen.OneOf("pi* fo*", "dol* sur*")).Select((a, b) => $"{a} {b}")
        );

    private static Gen<string> WordClause { get; } =
        Gen.Select(
                Gen.OneOf("text", "title", "author", "owner"),
                Gen.OneOf("=", "any", "all", "adj", "<>", "=/stem", "any/stem", "=="),
                Term
            )
            .Select((index, relation, term) => $"{index} {relation} \"{term}\"");

    private static Gen<string> Places { get; } =
        Gen.Select(Gen.OneOf("text", "title"), Gen.OneOf("=", "any", "all"), Term)
            .Select((index, relation, term) => $"{index} {relation} \"{term}\"");

    private static Gen<string> Clause { get; } =
        Gen.OneOf(
            WordClause,
            Gen.Select(
                    Places,
                    Gen.OneOf(
                        "distance<=2",
                        "distance>3/ordered",
                        "unit=sentence",
                        "distance<>1",
                        "unit=paragraph/distance=1",
                        "unit=element"
                    ),
                    Places
                )
                .Select((a, how, b) => $"{a} prox/{how} {b}"),
            Gen.Select(
                    Gen.OneOf("created", "modified", "docdate", "field.closed"),
                    Gen.OneOf("=", "<", "<=", ">", ">=", "<>"),
                    Gen.OneOf("2026-03-14", "2025", "2025-07", "today", "today-P1Y6M", "2030-01-01")
                )
                .Select((i, r, t) => $"{i} {r} \"{t}\""),
            Gen.Select(Gen.OneOf("created", "docdate"), Gen.OneOf("2024 2025", "2025-03-01 today"))
                .Select((i, t) => $"{i} within \"{t}\""),
            Gen.Select(Gen.OneOf("=", "<", ">=", "<>"), Gen.OneOf("0", "20kB", "1.5MB", "2 MiB", "1000"))
                .Select((r, t) => $"size {r} \"{t}\""),
            Gen.Select(
                    Gen.OneOf("path", "type", "source", "container", "unit", "series", "grade", "state", "sensitive"),
                    Gen.OneOf("=", "==", "<>", "any", "<", ">="),
                    Gen.OneOf(
                        "DOCX",
                        "md",
                        "*",
                        "share*",
                        "Share/Harbour",
                        "ves-010",
                        "VES-0?0",
                        "due",
                        "in-term",
                        "no-rule",
                        "kept",
                        "none",
                        "iban",
                        "e*",
                        "Island",
                        "*4*",
                        "harbour/pier 4.md",
                        "M"
                    )
                )
                .Select((i, r, t) => $"{i} {r} \"{t}\""),
            Gen.Select(
                    Gen.OneOf("=", "<", "<=", ">", ">=", "<>", "==", "any"),
                    Gen.OneOf("7", "12.5", "pier 4", "2026-01-31", "2026", "0*", "z")
                )
                .Select((r, t) => $"field.code {r} \"{t}\""),
            Gen.Select(
                    Gen.OneOf("field.closed", "field.other"),
                    Gen.OneOf("=", "<>", "==", "any"),
                    Gen.OneOf("2025-*", "2024-05-05", "x", "*")
                )
                .Select((i, r, t) => $"{i} {r} \"{t}\""),
            Gen.Const("cql.allRecords = 1")
        );

    private static Gen<string> Queries { get; } =
        Gen.Recursive<string>(
            (depth, inner) =>
                depth > 3
                    ? Clause
                    : Gen.OneOf(
                        Clause,
                        Clause,
                        Gen.Select(inner, Gen.OneOf("and", "or", "not"), inner)
                            .Select((a, op, b) => $"({a}) {op} ({b})"),
                        Gen.Select(Clause, Gen.OneOf("and", "or", "not"), inner).Select((a, op, b) => $"{a} {op} ({b})")
                    )
        );

    private async Task FillAsync(Random random)
    {
        Execute(
            """
            INSERT INTO unit (Id, Name, Path) VALUES (1, 'All', '/1/'), (2, 'Island', '/1/2/');
            INSERT INTO source (Id, Name, Kind, Root, Connected, Version)
                VALUES (1, 'Share', 'Share', '/none', 1, 1), (2, 'Old share', 'Share', '/old', 1, 1);
            INSERT INTO container (Id, SourceId, Name, UnitId, Version)
                VALUES (1, 1, 'Harbour', 1, 1), (2, 1, 'Yard', 2, 1), (3, 2, 'Harbour', 2, 1);
            INSERT INTO series (Id, Code, UnitId, State, Title, VersionInForce, Revision)
                VALUES (1, 'VES-010', 1, 'Active', 'T', 1, 1), (2, 'FIN-020', 1, 'Active', 'T', 1, 1);
            """
        );
        string Words(int count) =>
            string.Concat(
                    Enumerable
                        .Range(0, count)
                        .Select(_ =>
                            Vocabulary[random.Next(Vocabulary.Length)]
                            + (
                                random.Next(8) switch
                                {
                                    0 => ". ",
                                    1 => ",\n",
                                    2 => "!\n\n",
                                    _ => " ",
                                }
                            )
                        )
                )
                .Trim();
        T? Maybe<T>(T value)
            where T : class => random.Next(3) == 0 ? null : value;
        (string Source, string Container, string Unit)[] containers =
        [
            ("Share", "Share/Harbour", "All"),
            ("Share", "Share/Yard", "Island"),
            ("Old share", "Old share/Harbour", "Island"),
        ];
        for (var id = 1; id <= Items; id++)
        {
            var container = random.Next(3);
            var (title, body) = (Words(random.Next(1, 4)), random.Next(12) == 0 ? null : Words(random.Next(0, 14)));
            var (author, owner) = (Maybe(random.Next(2) == 0 ? "Ines Calloway" : Words(1)), Maybe(Words(2)));
            var series = random.Next(3);
            int? keep = random.Next(4) switch
            {
                0 => null,
                1 => Today.PlusDays(random.Next(-900, 900)).ToDayNumber(),
                2 => KeepUntil.Permanent.Code,
                _ => KeepUntil.AwaitingEvent.Code,
            };
            int? from = keep is { } k && k < KeepUntil.AwaitingEvent.Code && random.Next(2) == 0 ? k + 1 : null;
            var (own, ownUntil) = (
                series == 0 ? Grade.None : (Grade)random.Next(1, 4),
                series == 0 ? (int?)null
                : random.Next(2) == 0 ? KeepUntil.Permanent.Code
                : Today.PlusDays(random.Next(-900, 900)).ToDayNumber()
            );
            var (created, modified) = (Today.PlusDays(-random.Next(1200)), Today.PlusDays(-random.Next(1200)));
            var bytes = random.Next(5) == 0 ? 1000 : random.Next(3_000_000);
            Dictionary<string, LocalDate> dates = [];
            if (random.Next(2) == 0)
            {
                dates["closed"] = Today.PlusDays(-random.Next(1200));
            }

            if (random.Next(3) == 0)
            {
                dates["docdate"] = Today.PlusDays(-random.Next(1200));
            }

            string[] sensitive = random.Next(4) switch
            {
                0 => ["iban"],
                1 => ["iban", "email"],
                _ => [],
            };
            var item = new Item
            {
                Id = id,
                ContainerId = container + 1,
                Path = $"harbour/{title} {id}.md",
                Title = title,
                Type = random.Next(2) == 0 ? "md" : "docx",
                Author = author,
                Owner = owner,
                Bytes = bytes,
                Hash = "h",
                Created = created,
                Modified = modified,
                SeriesId = series == 0 ? null : series,
                KeepUntil = keep,
                DisposableFrom = from is { } f ? DayNumber.ToDate(f) : null,
                AtEnd = from is null && random.Next(3) > 0 ? EndAction.Nothing : EndAction.Destroy,
                OwnGrade = own,
                OwnGradeUntil = ownUntil,
            };
            db.Items.Add(item);
            Dictionary<string, string> texts = [];
            if (random.Next(2) == 0)
            {
                texts["code"] = new[] { "007", "Pier 4", "12.5", "2026-01-31T10:00:00Z" }[random.Next(4)];
            }

            db.ItemFields.AddRange(
                texts.Select(t => new ItemField
                {
                    ItemId = id,
                    Name = t.Key,
                    Value = t.Value,
                })
            );
            db.ItemDates.AddRange(
                dates.Select(d => new ItemDate
                {
                    ItemId = id,
                    Name = d.Key,
                    Date = d.Value,
                })
            );
            db.ItemSensitives.AddRange(
                sensitive.Select(s => new ItemSensitive
                {
                    ItemId = id,
                    Kind = s,
                    Likely = 1,
                })
            );
            if (body is not null)
            {
                db.ItemTexts.Add(new() { ItemId = id, Text = body });
            }

            var held = random.Next(5) == 0;
            if (held)
            {
                db.HoldItems.Add(new() { ItemId = id, OrderId = 1 });
            }

            var state = ItemEndpoints.StateOf(item, Today, held);
            var grade = new Standing(
                state,
                KeepUntil.FromCode(keep),
                item.DisposableFrom,
                item.AtEnd,
                own,
                KeepUntil.FromCode(ownUntil)
            ).GradeOn(Today);
            grade = held && grade == Grade.None ? Grade.Kept : grade;
            items.Add(
                (
                    id,
                    new()
                    {
                        Title = title,
                        Body = body,
                        Author = author,
                        Owner = owner,
                        Path = item.Path,
                        Type = item.Type,
                        Source = containers[container].Source,
                        Container = containers[container].Container,
                        Unit = containers[container].Unit,
                        Series = series switch
                        {
                            1 => "VES-010",
                            2 => "FIN-020",
                            _ => null,
                        },
                        Grade = grade.ToString().ToLowerInvariant(),
                        State = state.Word(),
                        Created = created,
                        Modified = modified,
                        Size = bytes,
                        Sensitive = sensitive,
                        Fields = dates
                            .ToDictionary(d => d.Key, d => LocalDatePattern.Iso.Format(d.Value))
                            .Concat(texts)
                            .ToDictionary(),
                    }
                )
            );
        }

        await db.SaveChangesAsync();
        Execute("PRAGMA user_version = 0");
        FullText.Prepare(connection);
    }

    private void Execute(string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}
