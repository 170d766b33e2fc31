using CsCheck;
using NodaTime;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Query;

public class QueryMatcherTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static readonly QueryItem Item = new()
    {
        Title = "Pier 4 survey",
        Body =
            "The dolphin at pier four was damaged. Repairs were running late.\n\nPaid by the harbour office, dolphin included!",
        Author = "Ines Calloway",
        Path = "Harbour/surveys/pier-4.docx",
        Type = "docx",
        Source = "Office share",
        Container = "fs/yard",
        Unit = "Harbours",
        Series = "VES-010",
        Grade = "kept",
        State = "in-term",
        Created = new(2026, 3, 14),
        Modified = new(2026, 6, 14),
        Size = 2_500_000,
        Sensitive = ["iban", "email"],
        Fields = new Dictionary<string, string>
        {
            ["docdate"] = "2026-02-28",
            ["amount"] = "12.50",
            ["code"] = "007",
            ["signed"] = "2026-01-31T10:00:00Z",
            ["note"] = "Urgent",
        },
    };

    private static bool Matches(string query) =>
        QueryMatcher.Matches(QueryCompiler.Compile(query, Today).Value.Condition, Item);

    [Theory]
    [InlineData("dolphin")]
    [InlineData("DOLPHIN and survey")]
    [InlineData("\"pier four\"")]
    [InlineData("\"pier-four\"")]
    [InlineData("text adj \"harbour office\"")]
    [InlineData("text all \"office survey late\"")]
    [InlineData("text any \"nothing late\"")]
    [InlineData("text <> shark")]
    [InlineData("title = \"survey\"")]
    [InlineData("title == \"Pier 4 survey\"")]
    [InlineData("title == \"Pier*\"")]
    [InlineData("text = dol*")]
    [InlineData("text = d?lphin")]
    [InlineData("text = *phin")]
    [InlineData("\"pier fo*\"")]
    [InlineData("title = ^pier")]
    [InlineData("title = survey^")]
    [InlineData("title = \"^pier 4 survey^\"")]
    [InlineData("text =/stem repair")]
    [InlineData("text all/stem \"run paying damage\" or text =/stem \"repairs were run\"")]
    [InlineData("author = \"calloway ines\"")]
    [InlineData("author == \"Ines Calloway\"")]
    [InlineData("series = ves-010")]
    [InlineData("series any \"FIN-020 VES-010\"")]
    [InlineData("series > ves-001 and series < ves-02*")]
    [InlineData("container == \"fs/yard\"")]
    [InlineData("path = \"harbour/*\"")]
    [InlineData("path == \"Harbour/surveys/pier-4.docx\"")]
    [InlineData("sensitive = IBAN")]
    [InlineData("sensitive all \"iban email\"")]
    [InlineData("sensitive <> phone")]
    [InlineData("created = 2026-03-14")]
    [InlineData("created = 20260314")]
    [InlineData("created = 2026-03")]
    [InlineData("created == 2026")]
    [InlineData("created <= 2026-03 and created >= 2026-03")]
    [InlineData("created < 2026-03-15 and created > 2026-03-13")]
    [InlineData("created <> 2026-03-15")]
    [InlineData("created within \"2026-03-14 2026-03-14\"")]
    [InlineData("created within \"2026-02 2026-03\"")]
    [InlineData("created any \"2020 2026-03\"")]
    [InlineData("modified > \"today-P30D\"")]
    [InlineData("modified < today")]
    [InlineData("modified >= today-P1D and created < today-P3M")]
    [InlineData("size > 2MB and size < 2.4MiB")]
    [InlineData("size = 2500kB")]
    [InlineData("size within \"1MB 3MB\"")]
    [InlineData("docdate = 2026-02-28")]
    [InlineData("field.docdate < 2026-03-01")]
    [InlineData("field.AMOUNT > 9")]
    [InlineData("field.amount within \"12.5 13\"")]
    [InlineData("field.amount = 12.50")]
    [InlineData("field.code = 007 and field.code <= 7")]
    [InlineData("field.signed >= 2026-01 and field.signed < 2026-02-01")]
    [InlineData("field.note = *")]
    [InlineData("field.note > apple")]
    [InlineData("dolphin not shark")]
    [InlineData("cql.allRecords = 1")]
    [InlineData("cql.serverChoice = dolphin or cql.anywhere = shark")]
    [InlineData("dc.creator = calloway and dc.date = 2026")]
    [InlineData("> d = \"info:srw/cql-context-set/1/dc-v1.1\" d.title = pier")]
    [InlineData("dolphin prox pier", false)]
    [InlineData("dolphin prox/distance<=2 pier")]
    [InlineData("pier prox/distance=2 dolphin")]
    [InlineData("dolphin prox/distance=2/ordered pier")]
    [InlineData("pier prox/distance=2/ordered dolphin", false)]
    [InlineData("four prox dolphin", false)]
    [InlineData("\"pier four\" prox/distance<3 damaged")]
    [InlineData("\"pier four\" prox/distance=0 \"four was\"")]
    [InlineData("\"four was\" prox/distance=0 \"pier four\"")]
    [InlineData("\"pier four\" prox/distance=0 \"was damaged\"", false)]
    [InlineData("\"pier four\" prox/distance>=1 \"four was\"", false)]
    [InlineData("dolphin prox/unit=sentence damaged")]
    [InlineData("damaged prox/unit=sentence repairs", false)]
    [InlineData("damaged prox/unit=sentence/distance=1 repairs")]
    [InlineData("damaged prox/unit=paragraph repairs")]
    [InlineData("damaged prox/unit=paragraph paid", false)]
    [InlineData("damaged prox/unit=element paid")]
    [InlineData("survey prox/unit=element paid", false)]
    [InlineData("dolphin prox/distance>5 pier")]
    [InlineData("(shark or dolphin) prox/distance<4 (pier or quay) prox/distance<4 was")]
    public void The_query_means_what_its_reader_expects(string query, bool expected = true) =>
        Matches(query).ShouldBe(expected, query);

    [Theory]
    [InlineData("owner <> anybody")]
    [InlineData("field.missing <> 1")]
    [InlineData("field.missing < 2026-01-01")]
    [InlineData("field.note < 5")]
    [InlineData("text = \"office included\"")]
    [InlineData("text = \"survey the\"")]
    [InlineData("title == \"pier 4 survey\"")]
    [InlineData("text = \"---\"")]
    [InlineData("text = dol\\*")]
    [InlineData("created < 2026")]
    [InlineData("created > 2026")]
    [InlineData("field.code = 7")]
    [InlineData("title = ^survey")]
    public void What_does_not_fit_is_not_found(string query) => Matches(query).ShouldBeFalse(query);

    [Theory]
    [InlineData("foo = bar", 0, "there is no index “foo”")]
    [InlineData("title near pier", 6, "there is “near”")]
    [InlineData("created > pier", 10, "expected a date")]
    [InlineData("created = 2026-02-30", 10, "expected a date")]
    [InlineData("created within 2026", 15, "two dates")]
    [InlineData("size > big", 7, "expected a size")]
    [InlineData("size within \"1MB 3 MB\"", 12, "two sizes")]
    [InlineData("size > -5", 7, "expected a size")]
    [InlineData("text < pier", 5, "words, which have no order")]
    [InlineData("title =/fuzzy pier", 7, "/stem")]
    [InlineData("series =/stem pier", 8, "/relevant")]
    [InlineData("pier and/x dolphin", 8, "takes none here")]
    [InlineData("pier prox created > 2026", 10, "no place in a text")]
    [InlineData("pier prox/unit=page quay", 9, "unit=sentence")]
    [InlineData("pier prox/distance=near quay", 9, "whole number")]
    [InlineData("a prox b prox c prox d prox e prox f prox g", 42, "at most 5 prox within one another")]
    [InlineData("pier sortby text", 12, "one value")]
    [InlineData("pier sortby title/up", 17, "/sort.ascending")]
    [InlineData("created adj 2026", 8, "adj, which is for words")]
    [InlineData("created > \"today-30D\"", 10, "today-P30D")]
    public void A_mistake_of_meaning_is_told_at_its_place(string query, int at, string says)
    {
        var refusal = QueryCompiler.Compile(query, Today).Refusal.ShouldNotBeNull();
        refusal.Sentence.ShouldContain(says);
        refusal.Span!.Value.Start.ShouldBe(at);
    }

    [Fact]
    public void What_was_looked_for_is_marked_and_nothing_between()
    {
        string[] Marked(string query)
        {
            var condition = QueryCompiler.Compile(query, Today).Value.Condition;
            return
            [
                .. QueryMatcher
                    .Marks(condition, Item, QueryIndex.Text)
                    .Select(s => Item.Body!.Substring(s.Start, s.Length)),
            ];
        }

        Marked("dolphin and title = pier").ShouldBe(["dolphin", "dolphin"]);
        Marked("\"pier four\" or dolphin not late").ShouldBe(["dolphin", "pier", "four", "dolphin"]);
        Marked("text =/stem repairing").ShouldBe(["Repairs"]);
        Marked("dolphin prox/distance<=5 damaged").ShouldBe(["dolphin", "damaged", "dolphin"]);
    }

    [Fact]
    public void Distances_are_those_that_every_pair_tried_one_by_one_gives() =>
        Gen.Select(
                Gen.String[Gen.Char["abc ."], 1, 60],
                Gen.OneOf("<", "<=", "=", ">", ">=", "<>"),
                Gen.Int[0, 6],
                Gen.OneOf("word", "sentence"),
                Gen.Bool
            )
            .Sample(
                (text, comparison, distance, unit, ordered) =>
                {
                    var item = new QueryItem { Body = text };
                    var query = $"a* prox/distance{comparison}{distance}/unit={unit}{(ordered ? "/ordered" : "")} b*";
                    QueryMatcher
                        .Matches(QueryCompiler.Compile(query, Today).Value.Condition, item)
                        .ShouldBe(OneByOne(text, comparison, distance, unit, ordered), $"{query} in “{text}”");
                },
                iter: 3000
            );

    private static bool OneByOne(string text, string comparison, int distance, string unit, bool ordered)
    {
        var words = Words.Of(text);
        var sentence = 0;
        var sentences = words
            .Select(
                (w, i) =>
                    i > 0
                    && text[(words[i - 1].Start + words[i - 1].Length)..w.Start]
                        .Contains(". ", StringComparison.Ordinal)
                        ? ++sentence
                        : sentence
            )
            .ToList();
        for (var i = 0; i < words.Count; i++)
        {
            for (var j = 0; j < words.Count; j++)
            {
                if (words[i].Text[0] != 'a' || words[j].Text[0] != 'b' || (ordered && j < i))
                {
                    continue;
                }

                var apart = unit == "word" ? Math.Abs(i - j) : Math.Abs(sentences[i] - sentences[j]);
                if (
                    comparison switch
                    {
                        "<" => apart < distance,
                        "<=" => apart <= distance,
                        "=" => apart == distance,
                        ">" => apart > distance,
                        ">=" => apart >= distance,
                        _ => apart != distance,
                    }
                )
                {
                    return true;
                }
            }
        }

        return false;
    }

    [Fact]
    public void Sort_keys_order_by_value_and_put_what_has_none_last()
    {
        QueryItem[] items =
        [
            new() { Title = "b", Size = 9 },
            new() { Title = "a" },
            new() { Title = "c", Size = 10 },
            new() { Title = "A", Size = 10 },
        ];
        string Sorted(string keys) =>
            string.Concat(
                QuerySort
                    .Sorted(items, i => i, QueryCompiler.Compile($"cql.allRecords=1 sortby {keys}", Today).Value.SortBy)
                    .Select(i => i.Title)
            );
        Sorted("size").ShouldBe("bcAa");
        Sorted("size/sort.descending title").ShouldBe("Acba");
        Sorted("title").ShouldBe("aAbc");
    }
}
