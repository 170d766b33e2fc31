using System.Globalization;
using System.Xml.Linq;
using CsCheck;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Query;

public class CqlParserTests
{
    /// <summary>
    /// Queries that the reference converter takes and the standard's grammar does not: words side by side without an
    /// operator, and a relation before a parenthesis. The sample page itself lists the last of them among the invalid
    /// ones.
    /// </summary>
    private static readonly string[] BeyondTheStandard =
    [
        "a b",
        "a b c",
        "a.b c",
        "and b c",
        "all a",
        "dc.title a b c and d",
        "title = (\"illegal parentheses\")",
    ];

    [Fact]
    public void The_published_sample_queries_give_the_XCQL_of_the_reference_converter()
    {
        // 81 queries: the Library of Congress' sample page, by libyaz5 5.34.0; Fixtures/make-xcql.c made the answers.
        var compared = 0;
        foreach (var (query, answer) in Samples().Where(s => !BeyondTheStandard.Contains(s.Query)))
        {
            var parsed = CqlParser.Parse(query);
            parsed.Refused.ShouldBe(answer == "ERROR", query);
            if (!parsed.Refused)
            {
                Comparable(parsed.Value.ToXcql()).ShouldBe(Comparable(XElement.Parse(answer)), query);
            }

            compared++;
        }

        compared.ShouldBe(74);
    }

    [Fact]
    public void Words_side_by_side_are_a_mistake_as_the_standard_has_it()
    {
        BeyondTheStandard
            .Except(["a b c", "and b c", "dc.title a b c and d"])
            .ShouldAllBe(q => CqlParser.Parse(q).Refused);
        // In the standard's grammar any word may be a relation, so this is index a, relation b, term c; that there is
        // no relation b is said later.
        CqlParser.Parse("a b c").Value.Root.ShouldBeOfType<CqlClause>().Relation.Value.ShouldBe("b");
    }

    [Theory]
    [InlineData("", 0, "expected a term, an index or (, but the query ends")]
    [InlineData("a and", 5, "expected a term, an index or (")]
    [InlineData("title =", 7, "expected a term after =")]
    [InlineData("title any", 9, "expected a term after any")]
    [InlineData(
        "pier dolphin",
        5,
        "expected and, or, not, prox, a relation such as = or the end of the query, but there is “dolphin”"
    )]
    [InlineData("(a or b", 7, "the ) for the parenthesis opened at character 1")]
    [InlineData("a or b)", 6, "no parenthesis is open here")]
    [InlineData("()", 1, "expected a term, an index or (")]
    [InlineData("title = \"pier", 13, "a closing \" for the quote opened at character 9")]
    [InlineData("a /stem b", 2, "expected and, or, not, prox, sortby")]
    [InlineData("a =/ b/", 7, "the name of a modifier")]
    [InlineData("a prox/distance< b", 18, "expected a term, an index or (")]
    [InlineData("> a", 3, "expected a term, an index or (")]
    [InlineData("a sortby", 8, "an index to sort by")]
    [InlineData("(a sortby b)", 3, "the ) for the parenthesis")]
    public void A_mistake_is_told_with_its_place_and_what_was_expected(string query, int at, string expected)
    {
        var refusal = CqlParser.Parse(query).Refusal.ShouldNotBeNull();
        refusal.Span!.Value.Start.ShouldBe(at);
        refusal.Sentence.ShouldContain(expected);
        refusal.Sentence.ShouldStartWith(string.Create(CultureInfo.InvariantCulture, $"At character {at + 1}:"));
    }

    [Fact]
    public void Hostile_queries_are_refused_by_a_limit_that_is_named()
    {
        CqlParser
            .Parse(new string('a', 10_000_000))
            .Refusal!.Sentence.ShouldContain("the limit for its length is 200,000");
        CqlParser.Parse(new string('(', 100_000)).Refusal!.Sentence.ShouldContain("the limit for nesting");
        CqlParser
            .Parse(string.Join(" or ", Enumerable.Repeat("a", 30_000)))
            .Refusal!.Sentence.ShouldContain("the limit for their number");
        CqlParser.Parse("a = \"" + new string('\\', 100_001)).Refusal!.Sentence.ShouldContain("closing");
    }

    [Fact]
    public void The_longest_chain_that_is_taken_is_written_compiled_and_matched()
    {
        var chain = CqlParser
            .Parse(string.Join(" or ", Enumerable.Range(0, CqlLimits.Clauses).Select(i => $"w{i}")))
            .Value;
        CqlParser.Parse(chain.ToText()).Value.ToText().ShouldBe(chain.ToText());
        chain.ToXcql().Descendants("term").Count().ShouldBe(CqlLimits.Clauses);
        var query = QueryCompiler.Compile(chain, new(2026, 6, 15)).Value;
        QueryMatcher.Matches(query.Condition, new() { Body = "w1999" }).ShouldBeTrue();
        QueryMatcher.Matches(query.Condition, new() { Body = "w2000" }).ShouldBeFalse();
    }

    [Fact]
    public void Operators_bind_alike_and_from_the_left()
    {
        CqlParser
            .Parse("a or b and c not d")
            .Value.ToXcql()
            .ToString(SaveOptions.DisableFormatting)
            .ShouldBe(CqlParser.Parse("((a or b) and c) not d").Value.ToXcql().ToString(SaveOptions.DisableFormatting));
        CqlParser.Parse("a or (b and c)").Value.ToText().ShouldBe("a or (b and c)");
        CqlParser.Parse("((a) or b)").Value.ToText().ShouldBe("a or b");
    }

    [Theory]
    [InlineData("> dc = info:x dc.title = fish")]
    [InlineData("(> \"info:x/y\" a) or b")]
    [InlineData("a or (> p = u b or c)")]
    [InlineData("(> p = u a or b) not c")]
    [InlineData("title any/stem/relevant \"fish \\\"chips\\\"\" prox/distance<=3/unit=word/ordered cat")]
    [InlineData("\"and\" or \"\" or \"a/b\" sortby title/sort.descending \"a b\"")]
    public void What_is_written_reads_back_as_the_same_tree(string text)
    {
        var query = CqlParser.Parse(text).Value;
        query.ToText().ShouldBe(text);
        Comparable(CqlParser.Parse(query.ToText()).Value.ToXcql()).ShouldBe(Comparable(query.ToXcql()));
    }

    [Fact]
    public void Any_tree_written_as_text_reads_back_as_itself() =>
        Trees.Sample(text =>
        {
            var first = CqlParser.Parse(text).Value;
            Comparable(CqlParser.Parse(first.ToText()).Value.ToXcql()).ShouldBe(Comparable(first.ToXcql()));
            CqlParser.Parse(first.ToText()).Value.ToText().ShouldBe(first.ToText());
        });

    [Fact]
    public void No_text_at_all_makes_the_parser_throw() =>
        Gen.OneOf("a", "and", "(", ")", "\"", "\\", "=", "<", ">", "/", " ", "prox", "sortby", "\u0000", "ł", "*", "^")
            .Array[0, 30]
            .Select(string.Concat)
            .Sample(text => CqlParser.Parse(text).Refusal?.Sentence.ShouldNotBeEmpty());

    private static readonly Gen<string> Trees = Gen.Recursive<string>(
        (depth, inner) =>
            depth > 4
                ? Gen.OneOf("pier", "title = \"pier 4\"", "created >= 2026-03-01", "\"a \\\" b\"", "text any/stem run")
                : Gen.OneOf(
                    Gen.OneOf("pier", "size > 2MB", "\"or\""),
                    Gen.Select(inner, Gen.OneOf("and", "or", "not", "prox/distance<3", "AND"), inner)
                        .Select((a, op, b) => $"({a}) {op} ({b})"),
                    Gen.Select(inner, Gen.OneOf("and", "or"), inner).Select((a, op, b) => $"{a} {op} {b}"),
                    inner.Select(a => $"(> x = \"u\" {a})")
                )
    );

    private static IEnumerable<(string Query, string Answer)> Samples()
    {
        var blocks = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Fixtures", "xcql.txt"))
            .Split("=== ", StringSplitOptions.RemoveEmptyEntries);
        blocks.Length.ShouldBe(81);
        return blocks.Select(b => b.Split('\n', 2)).Select(b => (b[0], b[1].Trim()));
    }

    /// <summary>
    /// XCQL with what the converter does its own way evened out: it gives modifiers in reverse, and takes prefixes off
    /// index names.
    /// </summary>
    private static string Comparable(XElement xcql)
    {
        var copy = new XElement(xcql);
        copy.Descendants("prefixes").Remove();
        foreach (var modifiers in copy.Descendants("modifiers").ToList())
        {
            modifiers.ReplaceNodes(
                modifiers
                    .Elements()
                    .OrderBy(m => m.ToString(SaveOptions.DisableFormatting), StringComparer.Ordinal)
                    .ToList()
            );
        }

        var assigned = xcql.Descendants("prefix").Select(p => p.Element("name")?.Value).OfType<string>().ToHashSet();
        foreach (var index in copy.Descendants("index"))
        {
            var parts = index.Value.Split('.', 2);
            index.Value =
                parts is [var prefix, var name] && (assigned.Contains(prefix) || prefix is "foo" or "ccg")
                    ? name
                    : index.Value;
        }

        return copy.ToString(SaveOptions.DisableFormatting);
    }
}
