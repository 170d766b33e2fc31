using WideKeel.Core.Content;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Query;

public class QueryFormTests
{
    private static string Through(string text) => QueryForms.Write(QueryForms.Read(CqlParser.Parse(text).Value));

    [Theory]
    [InlineData("pier")]
    [InlineData("\"pier 4\"")]
    [InlineData("pier and dolphin not survey")]
    [InlineData("pier or quay or \"slip way\"")]
    [InlineData("(pier or quay) and created > 2024")]
    [InlineData("pier or (quay and created > 2024)")]
    [InlineData("title =/stem surveys and size >= 2MB")]
    [InlineData("cql.allRecords = 1 not pier")]
    [InlineData("pier prox/distance<=5 dolphin")]
    [InlineData("(pier prox/distance<=2/unit=sentence/ordered dolphin) and type = md")]
    [InlineData("title prox/distance>3 (a or b)")]
    [InlineData("text any/relevant \"a b\"")]
    public void A_query_written_from_its_rows_reads_as_it_did(string text) => Through(text).ShouldBe(text);

    [Theory]
    [InlineData("a or b and c", "(a or b) and c")]
    [InlineData("((a)) and (b)", "a and b")]
    [InlineData("a not (b or c)", "a not (b or c)")]
    [InlineData("text = pier", "pier")]
    [InlineData("a prox b", "a prox/distance<=1 b")]
    public void What_binds_from_the_left_is_written_with_parentheses_that_say_so(string text, string written) =>
        Through(text).ShouldBe(written);

    [Fact]
    public void Rows_tell_comparisons_groups_near_words_and_what_they_cannot_say()
    {
        var rows = QueryForms
            .Read(
                CqlParser
                    .Parse(
                        "(a or b) and title any/stem \"c d\" and (e prox/distance<=4 f) and (g prox/distance>4 h) not i"
                    )
                    .Value
            )
            .Rows;
        rows[0].Group!.AnyOf.ShouldBeTrue();
        rows[1].Test.ShouldBe(new("title", "any", "c d", true));
        rows[2].Near.ShouldBe(new("e", "f", 4, ProximityUnit.Word, false));
        rows[3].Text.ShouldBe("g prox/distance>4 h");
        (rows[4].Not, rows[4].Test!.Term).ShouldBe((true, "i"));
    }

    [Fact]
    public void What_is_typed_into_a_row_stays_a_term_whatever_is_in_it()
    {
        foreach (var typed in new[] { "a\" or b", "\\", "a\\", "and", "(x)", "", "a\\\"b", "pier*", "\"\"" })
        {
            var text = QueryForms.Write(new(false, [new(Test: new("title", "=", typed))]));
            var clause = CqlParser.Parse(text).Value.Root.ShouldBeOfType<CqlClause>(text);
            Mask.Literal(clause.Term)
                .ShouldBe(
                    Mask.Literal(
                        typed.EndsWith('\\') && !typed.EndsWith("\\\\", StringComparison.Ordinal) ? typed + "\\" : typed
                    )
                );
        }
    }

    [Theory]
    [InlineData("pier 4", "text all \"pier 4\"")]
    [InlineData("  harbour   dues paid ", "text all \"harbour dues paid\"")]
    [InlineData("pier", "pier")]
    [InlineData("pier and dolphin", "pier and dolphin")]
    [InlineData("title any pier", "title any pier")]
    [InlineData("\"pier 4\"", "\"pier 4\"")]
    [InlineData("", "")]
    public void Plain_words_mean_all_of_them_and_a_query_means_itself(string typed, string query) =>
        PlainWords.ToQuery(typed).ShouldBe(query);

    [Theory]
    [InlineData("|", CompletionKind.Index, "", null)]
    [InlineData("tit|", CompletionKind.Index, "tit", null)]
    [InlineData("title |", CompletionKind.Relation, "", "title")]
    [InlineData("title = |", CompletionKind.Value, "", "title")]
    [InlineData("TYPE =/relevant m|", CompletionKind.Value, "m", "type")]
    [InlineData("series any \"VES-010 v|", CompletionKind.Value, "VES-010 v", "series")]
    [InlineData("type = md |", CompletionKind.Operator, "", null)]
    [InlineData("type = md an|", CompletionKind.Operator, "an", null)]
    [InlineData("type = md and |", CompletionKind.Index, "", null)]
    [InlineData("pier |", CompletionKind.Operator, "", null)]
    [InlineData("(pier) |", CompletionKind.Operator, "", null)]
    [InlineData("pier or (cre|", CompletionKind.Index, "cre", null)]
    [InlineData("a prox/distance<=3/unit=word b|", CompletionKind.Index, "b", null)]
    [InlineData("field.closed >= |", CompletionKind.Value, "", "field.closed")]
    [InlineData("type = md| and pier", CompletionKind.Value, "md", "type")]
    public void What_is_being_typed_is_known_from_what_stands_before_the_caret(
        string text,
        CompletionKind kind,
        string begun,
        string? index
    )
    {
        var caret = text.IndexOf('|', StringComparison.Ordinal);
        var place = QueryCompletion.At(text.Remove(caret, 1), caret);
        (place.Kind, place.Begun, place.Index).ShouldBe((kind, begun, index));
        place.Span.End.ShouldBe(caret);
    }

    [Fact]
    public void Likeness_is_the_share_of_runs_of_three_words_in_common()
    {
        // Worked by hand: {abc bcd cde} and {abc bcd cdf}: two in common of four.
        double Of(string a, string b) => Likeness.Of(Likeness.Shingles(a), Likeness.Shingles(b));
        Of("a b c d e", "a b c d f").ShouldBe(0.5);
        Of("A, b; c d e!", "a b c d e").ShouldBe(1);
        Of("a b", "a b").ShouldBe(1);
        Of("a b c", "x y z").ShouldBe(0);
        Of("", "a b c").ShouldBe(0);
    }
}
