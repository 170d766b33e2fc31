using CsCheck;
using NodaTime;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Query;

/// <summary>Whether one query finds whatever another finds, told by their form.</summary>
public class CoverTests
{
    private static readonly LocalDate Today = new(2026, 6, 15);

    private static Condition Of(string query) => QueryCompiler.Compile(query, Today).Value.Condition;

    private static bool Covers(string wide, string narrow) => Of(wide).Covers(Of(narrow));

    [Theory]
    [InlineData("pier", "pier")]
    [InlineData("pier or dolphin", "dolphin")]
    [InlineData("dolphin or pier or fog", "pier or dolphin")]
    [InlineData("pier", "pier and dolphin")]
    [InlineData("pier or fog", "(pier and dolphin) or fog")]
    [InlineData("text any \"pier dolphin fog\"", "text any \"fog pier\"")]
    [InlineData("text all \"pier\"", "text all \"pier dolphin\"")]
    [InlineData("text any \"pier dolphin\"", "\"old pier\"")]
    [InlineData("pi*", "pier")]
    [InlineData("created >= 2015-01-01", "created within \"2015-06-01 2015-07-01\"")]
    [InlineData("fog not (pier and dolphin)", "fog not pier")]
    [InlineData("author = \"ines\" or pier", "author = \"ines\"")]
    public void A_query_that_is_wider_by_its_form_covers(string wide, string narrow) =>
        Covers(wide, narrow).ShouldBeTrue();

    [Theory]
    [InlineData("pier", "dolphin")]
    [InlineData("dolphin", "pier or dolphin")]
    [InlineData("pier and dolphin", "pier")]
    [InlineData("text any \"pier\"", "text any \"pier dolphin\"")]
    [InlineData("pier", "pi*")]
    [InlineData("created >= 2015-02-01", "created >= 2015-01-01")]
    [InlineData("fog not pier", "fog not (pier and dolphin)")]
    [InlineData("title = pier", "text = pier")]
    [InlineData("author == \"ines\"", "owner == \"ines\"")]
    [InlineData("field.ship == \"a\"", "field.yard == \"a\"")]
    [InlineData("\"old pier\"", "pier")]
    public void A_query_that_is_not_wider_does_not_cover(string wide, string narrow) =>
        Covers(wide, narrow).ShouldBeFalse();

    private static readonly Gen<string> Parts = OneOf(
        "pier",
        "dolphin",
        "fog",
        "pi*",
        "\"old pier\"",
        "text any \"pier fog\"",
        "text all \"pier fog\"",
        "title = pier",
        "created >= 2015-03-01",
        "created within \"2015-02-01 2015-05-01\"",
        "author == \"ines\""
    );

    private static readonly Gen<string> Queries = QueriesOf(levels: 3);

    private static Gen<string> QueriesOf(int levels)
    {
        if (levels == 0)
        {
            return Parts;
        }

        var smaller = QueriesOf(levels - 1);
        return Gen.Select(
            OneOf("or", "and", "not", ""),
            smaller,
            smaller,
            (how, one, other) => how.Length == 0 ? one : $"({one} {how} {other})"
        );
    }

    private static Gen<string> OneOf(params string[] of) => Gen.Int[0, of.Length - 1].Select(i => of[i]);

    private static readonly Gen<QueryItem> Items = Gen.Select(
        OneOf("old pier", "pier of old", "fog", "piling", "dolphin and fog", "old pier dolphin fog", ""),
        OneOf("pier", "fog", ""),
        OneOf("ines", "vera"),
        Gen.Int[1, 12],
        (body, title, author, month) =>
            new QueryItem
            {
                Title = title,
                Body = body,
                Author = author,
                Path = "a/b.md",
                Type = "md",
                Source = "share",
                Container = "a",
                Unit = "Fleet",
                Series = "",
                Grade = "none",
                State = "unfiled",
                Created = new LocalDate(2015, month, 1),
                Modified = new LocalDate(2015, month, 1),
                Size = 1,
                Sensitive = [],
                Fields = new Dictionary<string, string>(),
            }
    );

    [Fact]
    public void What_covers_another_finds_whatever_the_other_finds() =>
        Gen.Select(Queries, Queries, Items.Array[12])
            .Sample(
                (wide, narrow, items) =>
                    !Covers(wide, narrow)
                    || items.All(i => !QueryMatcher.Matches(Of(narrow), i) || QueryMatcher.Matches(Of(wide), i)),
                iter: 20_000
            );

    [Fact]
    public void Adding_a_word_with_or_always_covers() =>
        Gen.Select(Queries, Parts).Sample((query, part) => Covers($"{query} or {part}", query), iter: 2_000);
}
