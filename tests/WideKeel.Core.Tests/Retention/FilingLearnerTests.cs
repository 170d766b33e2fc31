using Shouldly;
using WideKeel.Core.Retention;

namespace WideKeel.Core.Tests.Retention;

public sealed class FilingLearnerTests
{
    private const long Ham = 1;
    private const long Spam = 2;

    /// <summary>
    /// Real, labelled mails as bags of words, with what another learner (scikit-learn's) makes of the same folds:
    /// Fixtures/make-mail-bags.py.
    /// </summary>
    [Fact]
    public void It_tells_apart_a_public_labelled_corpus_as_well_as_an_independent_learner_does()
    {
        var lines = File.ReadAllLines(Path.Combine(AppContext.BaseDirectory, "Fixtures", "mail-bags.txt"));
        var reference = lines
            .Where(l => l.StartsWith('#'))
            .Select(l => l.Split([' ', ','], StringSplitOptions.RemoveEmptyEntries))
            .ToDictionary(w => w[1] == "ham:" ? Ham : Spam, w => (Precision: Number(w[4]), Recall: Number(w[6])));
        var examples = lines
            .Where(l => !l.StartsWith('#'))
            .Select(l => l.Split(' ', 2))
            .Select(l => new FiledExample(l[1], l[0] == "ham" ? Ham : Spam))
            .ToList();
        examples.Count.ShouldBeGreaterThan(900);

        foreach (var measure in FilingLearner.Measure(examples))
        {
            var (precision, recall) = reference[measure.Series];
            measure.Suggested.Share!.Value.ShouldBe(precision, 0.025, $"precision of {measure.Series}");
            measure.Found.Share!.Value.ShouldBe(recall, 0.025, $"recall of {measure.Series}");
        }

        static double Number(string text) => double.Parse(text, System.Globalization.CultureInfo.InvariantCulture);
    }

    [Fact]
    public void What_it_suggests_comes_with_the_words_that_speak_for_it_and_not_with_those_that_are_everywhere()
    {
        using var learner = FilingLearner.Learn([.. Letters(20)])!;
        var suggestion = learner.Suggest(
            "Dear office, the dry-dock closed the work order for the rudder bearing.",
            _ => true
        )!;
        suggestion.Series.ShouldBe(30);
        suggestion.Confidence.ShouldBeInRange(FilingLearner.LeastConfidence, 1);
        suggestion.Words.ShouldContain("rudder");
        suggestion.Words.ShouldNotContain("the");
        suggestion.Words.Count.ShouldBeLessThanOrEqualTo(6);
    }

    [Fact]
    public void The_same_examples_teach_the_same_twice()
    {
        using var one = FilingLearner.Learn([.. Letters(12)])!;
        using var two = FilingLearner.Learn([.. Letters(12)])!;
        const string text = "An invoice for paint, with a berth permit.";
        two.Suggest(text, _ => true).ShouldBeEquivalentTo(one.Suggest(text, _ => true));
        FilingLearner.Measure([.. Letters(12)]).ShouldBe(FilingLearner.Measure([.. Letters(12)]));
    }

    [Fact]
    public void A_series_that_is_not_allowed_here_is_never_suggested_nor_is_another_in_its_place()
    {
        using var learner = FilingLearner.Learn([.. Letters(20)])!;
        const string order = "Work order: rudder bearing, dry-dock, closed.";
        learner.Suggest(order, s => s != 30).ShouldBeNull();
        learner.Suggest(order, _ => false).ShouldBeNull();
    }

    [Theory]
    [InlineData("")]
    [InlineData("12 345 67-89")]
    [InlineData("zymurgy quokka")]
    public void A_text_without_a_word_that_was_learnt_gets_no_suggestion(string text)
    {
        using var learner = FilingLearner.Learn([.. Letters(20)])!;
        learner.Suggest(text, _ => true).ShouldBeNull();
    }

    [Fact]
    public void Too_few_examples_teach_nothing()
    {
        FilingLearner.Learn([]).ShouldBeNull();
        FilingLearner.Learn([.. Enumerable.Repeat(new FiledExample("an invoice", 10), 50)]).ShouldBeNull();
        FilingLearner.Learn([.. Letters(FilingLearner.LeastExamples - 1)]).ShouldBeNull();
        FilingLearner.Measure([.. Letters(FilingLearner.LeastExamples - 1)]).ShouldBeEmpty();
        FilingLearner.Measure([.. Letters(FilingLearner.LeastExamples)]).Select(m => m.Series).ShouldBe([10, 20, 30]);
    }

    /// <summary>Each example is judged exactly once.</summary>
    [Fact]
    public void The_measures_count_every_example_once()
    {
        var measures = FilingLearner.Measure([.. Letters(17)]);
        foreach (var measure in measures)
        {
            (measure.Found.Right + measure.Found.Wrong).ShouldBe(17);
            measure.Found.Right.ShouldBe(measure.Suggested.Right);
        }

        measures.Sum(m => m.Suggested.Right + m.Suggested.Wrong).ShouldBeLessThanOrEqualTo(3 * 17);
    }

    private static IEnumerable<FiledExample> Letters(int each)
    {
        string[] things = ["paint", "bearings", "fuel", "ramps"];
        for (var i = 0; i < each; i++)
        {
            var thing = things[i % things.Length];
            yield return new($"Dear office, the invoice {i} for {thing} is due for payment with its bank details.", 10);
            yield return new(
                $"Dear office, the harbour grants the permit {i} for a berth at the quay; {thing} on deck.",
                20
            );
            yield return new(
                $"Dear office, the work order {i} for the rudder bearing in dry-dock was closed; {thing}.",
                30
            );
        }
    }
}
