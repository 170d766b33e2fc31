using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using WideKeel.Core.Query;

namespace WideKeel.Core.CommandLine;

/// <summary>An item with its events, and what a schedule has to say of it on a day.</summary>
/// <param name="Rule">The series or blanket that it explains.</param>
/// <param name="Expect">Properties of the item's line with their values; what is not in it may be anything.</param>
public sealed record WorkedExample(
    string Name,
    string Rule,
    BatchItem Item,
    IReadOnlyList<TriggerEvent> Events,
    LocalDate AsOf,
    IReadOnlyDictionary<string, string?> Expect
)
{
    /// <summary>What an example may expect: the properties of an item's line that are one text or nothing.</summary>
    private static readonly string[] Known = ["state", "beneath", "keepUntil", "disposableFrom", "atEnd", "grade"];

    /// <summary>Reads the examples that a schedule's file carries.</summary>
    /// <param name="otherwise">The day of those that name none.</param>
    public static Outcome<IReadOnlyList<WorkedExample>> ReadAll(string json, LocalDate otherwise) =>
        JsonPlace.Read<IReadOnlyList<WorkedExample>>(
            json,
            root =>
                [
                    .. root.Each("examples")
                        .Select(
                            (at, i) => At(at, string.Create(CultureInfo.InvariantCulture, $"examples[{i}]"), otherwise)
                        ),
                ]
        );

    /// <summary>Computes each example alone, under the whole schedule.</summary>
    /// <param name="json">The file of the schedule; it is read once for each day that examples ask about.</param>
    /// <param name="asked">An item as a query sees it.</param>
    /// <returns>What each gives in place of what it expects, in their order; or the first mistake.</returns>
    public static Outcome<IReadOnlyList<ExampleResult>> RunAll(
        string json,
        IReadOnlyList<WorkedExample> examples,
        Func<BatchItem, QueryItem> asked
    )
    {
        Dictionary<LocalDate, BatchRules> rules = [];
        List<ExampleResult> results = [];
        foreach (var (example, place) in examples.Select((e, i) => (e, i)))
        {
            if (!rules.TryGetValue(example.AsOf, out var there))
            {
                var read = BatchSchedule.Read(json, example.AsOf);
                if (read.Refusal is { } refusal)
                {
                    return refusal;
                }

                rules[example.AsOf] = there = read.Value;
            }

            var evaluator = new BatchEvaluator(there, example.Events, example.AsOf);
            if (example.Item.Series is { } code && !evaluator.Knows(code))
            {
                return new Refusal(
                    "series-unknown",
                    "series",
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"examples[{place}].item.series: the schedule has no series {code}."
                    )
                );
            }

            var line = OutcomeLine.Of(example.Item.Id, evaluator.Evaluate(example.Item, () => asked(example.Item)));
            results.Add(new(example, example.Expect.Keys.ToDictionary(k => k, k => (string?)line[k])));
        }

        return results;
    }

    private static WorkedExample At(JsonPlace at, string place, LocalDate otherwise)
    {
        var expect = at.Within("expect") ?? throw at.Wrong("expect", "it is missing");
        return new(
            at.Needed("name"),
            at.Needed("rule"),
            at.Within("item") is { } item
                ? JsonPlace.Take(BatchItem.Read(item.Whole, $"{place}.item"))
                : throw at.Wrong("item", "it is missing"),
            [.. at.Each("events").Select(BatchSchedule.EventAt)],
            at.DateOrNone("asOf") ?? otherwise,
            expect.Names.ToDictionary(
                n => n,
                n =>
                    Known.Contains(n)
                        ? expect.Text(n)
                        : throw expect.Wrong(n, $"an example may expect {string.Join(", ", Known)}")
            )
        );
    }
}

/// <summary>What became of an example.</summary>
/// <param name="Got">The same properties as it expects.</param>
public sealed record ExampleResult(WorkedExample Example, IReadOnlyDictionary<string, string?> Got)
{
    public bool Ok => Example.Expect.All(e => e.Value == Got[e.Key]);

    public JsonObject Write() =>
        new()
        {
            ["name"] = Example.Name,
            ["rule"] = Example.Rule,
            ["ok"] = Ok,
            ["expected"] = Values(Example.Expect),
            ["got"] = Values(Got),
        };

    private static JsonObject Values(IReadOnlyDictionary<string, string?> values) =>
        new(values.Select(v => KeyValuePair.Create<string, JsonNode?>(v.Key, v.Value)));
}
