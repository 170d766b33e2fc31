using Microsoft.ML;
using Microsoft.ML.Data;
using Microsoft.ML.Trainers;
using Microsoft.ML.Transforms.Text;
using WideKeel.Core.Query;

namespace WideKeel.Core.Retention;

/// <summary>An item that a person filed.</summary>
/// <param name="Text">Title and body; only its first words are looked at.</param>
/// <param name="Series">Under which it was filed.</param>
public sealed record FiledExample(string Text, long Series);

/// <summary>What was learnt suggests for one text.</summary>
/// <param name="Confidence">The model's probability, 0 to 1, among all series that it learnt.</param>
/// <param name="Words">Up to six words of the text that speak most for it, the strongest first.</param>
public sealed record SeriesSuggestion(long Series, double Confidence, IReadOnlyList<string> Words);

/// <summary>How well a series was told from the others on items that the model had not seen.</summary>
/// <param name="Suggested">How often it was suggested rightly and wrongly: the precision.</param>
/// <param name="Found">How many of its own items were found, and how many went elsewhere: the recall.</param>
public sealed record SeriesMeasure(long Series, Precision Suggested, Precision Found);

/// <summary>
/// Learns from filing by hand which words speak for which series: words weighted by how rare they are (TF-IDF), and
/// multinomial logistic regression with an L2 penalty. Nothing is filed by it; it suggests. The same examples in the
/// same order always teach the same.
/// </summary>
public sealed class FilingLearner : IDisposable
{
    /// <summary>A series with fewer examples is left out: nothing could be held back to measure it.</summary>
    public const int LeastExamples = 5;

    public const int Folds = 5;

    /// <summary>Suggestions that are less sure are none.</summary>
    public const double LeastConfidence = 0.5;

    private const int MostCharacters = 10_000;
    private const int MostWords = 400;
    private const int WordsShown = 6;

    private readonly PredictionEngine<Bag, Scores> engine;
    private readonly Dictionary<string, int> slots;
    private readonly VBuffer<float>[] weights;
    private readonly long[] series;

    private FilingLearner(
        PredictionEngine<Bag, Scores> engine,
        Dictionary<string, int> slots,
        VBuffer<float>[] weights,
        long[] series
    ) => (this.engine, this.slots, this.weights, this.series) = (engine, slots, weights, series);

    /// <summary>Those examples whose series has enough of them to learn from.</summary>
    public static IReadOnlyList<FiledExample> Usable(IReadOnlyList<FiledExample> examples) =>
        [.. examples.GroupBy(e => e.Series).Where(g => g.Count() >= LeastExamples).SelectMany(g => g)];

    /// <summary>Learns from all examples; null while fewer than two series have enough of them.</summary>
    public static FilingLearner? Learn(IReadOnlyList<FiledExample> examples)
    {
        var usable = Usable(examples);
        return usable.Select(e => e.Series).Distinct().Skip(1).Any() ? Train([.. usable.Select(Bag.Of)]) : null;
    }

    /// <summary>
    /// Five-fold cross-validation: each example is judged once, by a model that has seen the other folds only. The
    /// folds take their items of each series in turn, so that each has its share (stratified).
    /// </summary>
    public static IReadOnlyList<SeriesMeasure> Measure(IReadOnlyList<FiledExample> examples)
    {
        var bags = Usable(examples)
            .GroupBy(e => e.Series)
            .SelectMany(g => g.Select((e, i) => (Bag: Bag.Of(e), Fold: i % Folds)))
            .ToList();
        if (bags.Select(b => b.Bag.Series).Distinct().Count() < 2)
        {
            return [];
        }

        List<(long Actual, long? Suggested)> judged = [];
        for (var fold = 0; fold < Folds; fold++)
        {
            using var model = Train([.. bags.Where(b => b.Fold != fold).Select(b => b.Bag)]);
            judged.AddRange(
                bags.Where(b => b.Fold == fold).Select(b => (b.Bag.Series, model.Suggest(b.Bag, _ => true)?.Series))
            );
        }

        return
        [
            .. judged
                .Select(j => j.Actual)
                .Distinct()
                .Order()
                .Select(s => new SeriesMeasure(
                    s,
                    Precision.Of(
                        judged.Count(j => j.Suggested == s && j.Actual == s),
                        judged.Count(j => j.Suggested == s && j.Actual != s)
                    ),
                    Precision.Of(
                        judged.Count(j => j.Actual == s && j.Suggested == s),
                        judged.Count(j => j.Actual == s && j.Suggested != s)
                    )
                )),
        ];
    }

    /// <summary>
    /// The likeliest of the series that are allowed; null where none is likely enough, or no word is known.
    /// </summary>
    public SeriesSuggestion? Suggest(string text, Func<long, bool> allowed) => Suggest(Bag.Of(new(text, 0)), allowed);

    public void Dispose() => engine.Dispose();

    private SeriesSuggestion? Suggest(Bag bag, Func<long, bool> allowed)
    {
        if (!bag.Words.Any(slots.ContainsKey))
        {
            return null;
        }

        var scores = engine.Predict(bag);
        var open = Enumerable.Range(0, series.Length).Where(i => allowed(series[i])).ToList();
        var sum = open.Sum(i => scores.Score[i]);
        if (open.Count == 0 || sum <= 0)
        {
            return null;
        }

        // What is not allowed here stays in the sum where it is the likelier: a text of another unit's is not suggested
        // for the rest.
        var best = open.MaxBy(i => scores.Score[i]);
        double confidence = scores.Score[best];
        return confidence < LeastConfidence ? null : new(series[best], confidence, Speaking(bag, best));
    }

    /// <summary>The words of the text by weight for this series, above what they weigh for the average one.</summary>
    private IReadOnlyList<string> Speaking(Bag bag, int of) =>
        [
            .. bag
                .Words.Distinct()
                .Where(slots.ContainsKey)
                .Select(w =>
                    (
                        Word: w,
                        Weight: weights[of].GetItemOrDefault(slots[w])
                            - weights.Average(v => v.GetItemOrDefault(slots[w]))
                    )
                )
                .Where(w => w.Weight > 0)
                .OrderByDescending(w => w.Weight)
                .ThenBy(w => w.Word, StringComparer.Ordinal)
                .Take(WordsShown)
                .Select(w => w.Word),
        ];

    private static FilingLearner Train(IReadOnlyList<Bag> bags)
    {
        var ml = new MLContext(seed: 1);
        var data = ml.Data.LoadFromEnumerable(bags);
        var pipeline = ml
            .Transforms.Conversion.MapValueToKey("Label", nameof(Bag.Series))
            .Append(ml.Transforms.Conversion.MapValueToKey("Keys", nameof(Bag.Words)))
            .Append(
                ml.Transforms.Text.ProduceNgrams(
                    "Counts",
                    "Keys",
                    ngramLength: 1,
                    useAllLengths: false,
                    weighting: NgramExtractingEstimator.WeightingCriteria.TfIdf
                )
            )
            .Append(ml.Transforms.NormalizeLpNorm("Features", "Counts"))
            // The trainer goes over the examples forty times; they need not be weighted anew each time.
            .AppendCacheCheckpoint(ml)
            .Append(
                ml.MulticlassClassification.Trainers.SdcaMaximumEntropy(
                    new SdcaMaximumEntropyMulticlassTrainer.Options
                    {
                        // One thread: the same examples teach the same.
                        NumberOfThreads = 1,
                        L2Regularization = 1e-4f,
                        L1Regularization = 0,
                        MaximumNumberOfIterations = 40,
                    }
                )
            );
        var model = pipeline.Fit(data);
        var linear = ((MulticlassPredictionTransformer<MaximumEntropyModelParameters>)model.LastTransformer).Model;
        VBuffer<float>[]? weights = null;
        linear.GetWeights(ref weights!, out var _);
        VBuffer<ReadOnlyMemory<char>> names = default;
        var schema = model.GetOutputSchema(data.Schema);
        schema["Counts"].Annotations.GetValue("SlotNames", ref names);
        VBuffer<long> labels = default;
        schema["Label"].Annotations.GetValue("KeyValues", ref labels);
        var slots = names.DenseValues().Select((n, i) => (Name: n.ToString(), i)).ToDictionary(n => n.Name, n => n.i);
        return new(ml.Model.CreatePredictionEngine<Bag, Scores>(model), slots, weights, [.. labels.DenseValues()]);
    }

    /// <summary>A text as its words.</summary>
    private sealed class Bag
    {
        public string[] Words { get; init; } = [];

        public long Series { get; init; }

        /// <summary>Numbers tell one document from another, not one kind from another.</summary>
        public static Bag Of(FiledExample example) =>
            new()
            {
                Words =
                [
                    .. Query
                        .Words.Of(example.Text[..Math.Min(example.Text.Length, MostCharacters)])
                        .Select(w => w.Text)
                        .Where(w => w.Length is > 1 and <= 30 && !w.Any(char.IsDigit))
                        .Take(MostWords),
                ],
                Series = example.Series,
            };
    }

    private sealed class Scores
    {
        public float[] Score { get; init; } = [];
    }
}
