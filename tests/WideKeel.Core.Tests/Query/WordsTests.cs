using System.Text.RegularExpressions;
using CsCheck;
using WideKeel.Core.Query;

namespace WideKeel.Core.Tests.Query;

public class WordsTests
{
    [Theory]
    [InlineData("Harbour-dues, paid: £40", "harbour dues paid 40")]
    [InlineData("Zażółć gęślą jaźń", "zazolc gesla jazn")]
    [InlineData("Ångström café naïve", "angstrom cafe naive")]
    [InlineData("STRASSE straße", "strasse strasse")]
    [InlineData("Ørsted Łódź Œuvre", "orsted lodz oeuvre")]
    [InlineData("e\u0301te\u0301", "ete")]
    [InlineData("o\uFB03ce \uFF21\uFF22\uFF23", "office abc")]
    [InlineData("don't snake_case a/b.txt", "don t snake case a b txt")]
    [InlineData("ΣΊΣΥΦΟΣ Москва 東京", "σισυφοσ москва 東京")]
    [InlineData("x\uD83Dy \uD800", "x y")]
    [InlineData("", "")]
    public void Words_are_folded_and_cut_at_everything_else(string text, string folded)
    {
        Words.Folded(text).ShouldBe(folded);
        string.Join(' ', Words.Of(text).Select(w => w.Text)).ShouldBe(folded);
    }

    [Fact]
    public void A_word_knows_the_place_it_was_read_from()
    {
        const string text = "The “Zażółć” pier";
        Words.Of(text).Select(w => text.Substring(w.Start, w.Length)).ShouldBe(["The", "Zażółć", "pier"]);
    }

    [Fact]
    public void The_index_gets_the_words_that_a_query_is_compared_with() =>
        Gen.String.Sample(text => Words.Folded(text).ShouldBe(string.Join(' ', Words.Of(text).Select(w => w.Text))));

    [Fact]
    public void Folding_what_is_folded_changes_nothing() =>
        Gen.String.Sample(text => Words.Folded(Words.Folded(text)).ShouldBe(Words.Folded(text)));

    [Fact]
    public void A_folded_word_holds_nothing_that_the_index_would_cut_or_fold_again() =>
        Gen.String.Sample(text =>
            Words
                .Folded(text)
                .Split(' ', StringSplitOptions.RemoveEmptyEntries)
                .ShouldAllBe(w => w.All(c => c > 127 || char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c)))
        );

    [Fact]
    public void A_mask_fits_what_the_same_regular_expression_fits() =>
        Gen.Select(Gen.String[Gen.Char["ab*?"], 0, 8], Gen.String[Gen.Char["abB"], 0, 10])
            .Sample(
                (mask, text) =>
                {
                    var pattern =
                        "^"
                        + string.Concat(
                            mask.Select(c =>
                                c switch
                                {
                                    '*' => ".*",
                                    '?' => ".",
                                    _ => Regex.Escape(c.ToString()),
                                }
                            )
                        )
                        + "$";
                    Mask.Fits(Mask.Read(mask), text, ignoreCase: false).ShouldBe(Regex.IsMatch(text, pattern));
                    Mask.Fits(Mask.Read(mask), text, ignoreCase: true)
                        .ShouldBe(Regex.IsMatch(text, pattern, RegexOptions.IgnoreCase));
                }
            );

    [Fact]
    public void Many_stars_against_a_long_text_take_no_longer_than_their_product()
    {
        var mask = Mask.Read(string.Concat(Enumerable.Repeat("a*", 500)) + "b");
        Mask.Fits(mask, new string('a', 20_000), ignoreCase: false).ShouldBeFalse();
    }

    [Fact]
    public void Stems_are_those_of_an_independent_program()
    {
        // 2,940 words by stemwords of libstemmer-tools 2.2, algorithm "porter"; Fixtures/make-stems.sh made them.
        var pairs = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "stems.txt"))
            .Select(l => l.Split(' '))
            .ToList();
        pairs.Count.ShouldBe(2940);
        pairs
            .Where(p => PorterStemmer.Stem(p[0]) != p[1])
            .Select(p => $"{p[0]}: {PorterStemmer.Stem(p[0])}, not {p[1]}")
            .ShouldBeEmpty();
    }

    [Fact]
    public void Every_word_begins_with_what_its_stem_says_it_begins_with()
    {
        var words = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "stems.txt"))
            .Select(l => l.Split(' ')[0]);
        words.ShouldAllBe(w =>
            w.StartsWith(PorterStemmer.CommonBeginning(PorterStemmer.Stem(w)), StringComparison.Ordinal)
        );
    }

    [Theory]
    // The worked examples of the paper: M. F. Porter, “An algorithm for suffix stripping”, Program 14 (3), 1980.
    [InlineData("caresses", "caress")]
    [InlineData("ponies", "poni")]
    [InlineData("agreed", "agre")]
    [InlineData("hopping", "hop")]
    [InlineData("filing", "file")]
    [InlineData("happy", "happi")]
    [InlineData("relational", "relat")]
    [InlineData("electriciti", "electr")]
    [InlineData("adoption", "adopt")]
    [InlineData("controll", "control")]
    [InlineData("generalizations", "gener")]
    [InlineData("oscillators", "oscil")]
    public void The_examples_of_the_paper_come_out_as_printed(string word, string stem) =>
        PorterStemmer.Stem(word).ShouldBe(stem);
}
