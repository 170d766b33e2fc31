using System.Globalization;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Retention;

namespace WideKeel.Server.CommandLine;

/// <content>A schedule over items: what holds, whether its examples do, and what lies ahead.</content>
internal sealed partial class PipelineVerbs
{
    /// <summary>A schedule with the items and events that it is asked about, on a day.</summary>
    private sealed record Stock(BatchEvaluator Evaluator, IReadOnlyList<BatchItem> Items, LocalDate Today)
    {
        public IEnumerable<(BatchItem Item, BatchOutcome Outcome)> Evaluated =>
            Items.Select(i => (i, Evaluator.Evaluate(i, () => Asked(i))));
    }

    private Outcome<string> Evaluate(string[] args)
    {
        var options = Options(args, "--schedule", "--items", "--events", "--as-of");
        var stock = options.Refusal is { } wrong
            ? wrong
            : StockOf(
                options.Value,
                "Usage: widekeel evaluate --schedule S.json --items I.jsonl [--events E.jsonl] [--as-of DATE]"
            );
        return stock.Refusal is { } unread
            ? unread
            : Lines(stock.Value.Evaluated.Select(e => OutcomeLine.Of(e.Item.Id, e.Outcome)));
    }

    private Outcome<string> AheadOf(string[] args)
    {
        const string usage =
            "Usage: widekeel ahead --schedule S.json --items I.jsonl [--events E.jsonl] [--as-of DATE] --months N "
            + "[--price P]";
        var options = Options(args, "--schedule", "--items", "--events", "--as-of", "--months", "--price");
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        var months = WholeOf(options.Value, "--months", 1, Ahead.MostMonths);
        var price = NumberOf(options.Value, "--price", 0, 1_000_000_000);
        if (months is null)
        {
            return new Refusal("usage", null, usage);
        }

        var stock = StockOf(options.Value, usage);
        return (months.Value.Refusal ?? price?.Refusal ?? stock.Refusal) is { } unread
            ? unread
            : Lines(
                Ahead
                    .Months(
                        stock.Value.Evaluated.Select(e => AheadOf(e.Item, e.Outcome)),
                        stock.Value.Today,
                        (int)months.Value.Value,
                        price?.Value ?? 0
                    )
                    .Select(Line)
            );
    }

    private static ItemAhead AheadOf(BatchItem item, BatchOutcome outcome) =>
        new(
            item.Bytes,
            outcome.Standing.KeepUntil,
            outcome.Held ? null : outcome.Standing.DisposableFrom,
            outcome.EndedBy
        );

    private static JsonObject Line(MonthAhead month) =>
        new()
        {
            ["month"] = YearMonthPattern.Iso.Format(month.Month),
            ["fallsDue"] = month.FallsDue,
            ["bytesDue"] = month.BytesDue,
            ["kept"] = month.Kept,
            ["keptBytes"] = month.KeptBytes,
            ["beyondTerm"] = month.BeyondTerm,
            ["cost"] = month.Cost,
            ["byRule"] = new JsonObject(
                month.ByRule.Select(r => KeyValuePair.Create<string, JsonNode?>(r.Key, r.Value))
            ),
        };

    private Outcome<IReadOnlyList<ExampleResult>> Examples(string[] args)
    {
        var options = Options(args, "--schedule", "--as-of");
        if (options.Refusal is { } wrong)
        {
            return wrong;
        }

        if (!options.Value.TryGetValue("--schedule", out var file))
        {
            return new Refusal("usage", null, "Usage: widekeel evaluate --examples --schedule S.json [--as-of DATE]");
        }

        var today = Today(options.Value);
        return today.Refusal is { } noDay
            ? noDay
            : Read(
                file,
                reader =>
                {
                    var json = reader.ReadToEnd();
                    var rules = BatchSchedule.Read(json, today.Value);
                    var examples = WorkedExample.ReadAll(json, today.Value);
                    return (rules.Refusal ?? examples.Refusal) is { } unread
                        ? unread
                        : WorkedExample.RunAll(json, examples.Value, Asked);
                }
            );
    }

    private Outcome<Stock> StockOf(Dictionary<string, string> options, string usage)
    {
        if (
            !options.TryGetValue("--schedule", out var scheduleFile)
            || !options.TryGetValue("--items", out var itemsFile)
        )
        {
            return new Refusal("usage", null, usage);
        }

        var today = Today(options);
        if (today.Refusal is { } noDay)
        {
            return noDay;
        }

        var schedule = Read(scheduleFile, file => BatchSchedule.Read(file.ReadToEnd(), today.Value));
        var items = Read(itemsFile, BatchItem.ReadAll);
        var events = options.TryGetValue("--events", out var eventsFile)
            ? Read(eventsFile, BatchSchedule.ReadEvents)
            : (Outcome<IReadOnlyList<TriggerEvent>>)new List<TriggerEvent>();
        if ((schedule.Refusal ?? items.Refusal ?? events.Refusal) is { } unread)
        {
            return unread;
        }

        var evaluator = new BatchEvaluator(schedule.Value, events.Value, today.Value);
        return items.Value.FirstOrDefault(i => i.Series is not null && !evaluator.Knows(i.Series)) is { } unknown
            ? new Refusal(
                "series-unknown",
                "series",
                $"{itemsFile}: Line {unknown.Line.ToString(CultureInfo.InvariantCulture)}, series: there is no "
                    + $"series {unknown.Series} in {scheduleFile}."
            )
            : new Stock(evaluator, items.Value, today.Value);
    }
}
