using System.Globalization;
using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.CommandLine;

/// <summary>Reads a schedule and events as files give them; the first mistake is told with its place.</summary>
public static class BatchSchedule
{
    private static readonly JsonDocumentOptions Strict = JsonPlace.Strict;

    /// <param name="today">What <c>today</c> means in the queries of holds.</param>
    public static Outcome<BatchRules> Read(string json, LocalDate today) =>
        JsonPlace.Read(json, root => RulesAt(root, today));

    private static BatchRules RulesAt(JsonPlace root, LocalDate today)
    {
        var fiscal = root.Text("fiscalYearEnd") is { } end
            ? root.Take(FiscalYearEnd.Parse(end), "fiscalYearEnd")
            : FiscalYearEnd.CalendarYear;
        var series = root.Each("series").Select(Series).ToList();
        if (series.GroupBy(s => s.Code).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw root.Wrong("series", $"{twice.Key} stands there more than once");
        }

        return new BatchRules(
            fiscal,
            series,
            [.. root.Each("blankets").Select(Blanket)],
            [.. root.Each("holds").Select(h => Hold(h, today))]
        );
    }

    /// <summary>Reads events, one a line.</summary>
    public static Outcome<IReadOnlyList<TriggerEvent>> ReadEvents(TextReader lines)
    {
        List<TriggerEvent> events = [];
        for (var number = 1; lines.ReadLine() is { } line; number++)
        {
            if (string.IsNullOrWhiteSpace(line))
            {
                continue;
            }

            try
            {
                using var document = JsonDocument.Parse(line.TrimStart('\uFEFF'), Strict);
                events.Add(EventAt(new(document.RootElement, "")));
            }
            catch (JsonException)
            {
                return BatchItem.Refuse(number, "", "this is no JSON");
            }
            catch (JsonPlaceException e)
            {
                return e.Refusal with
                {
                    Sentence = string.Create(CultureInfo.InvariantCulture, $"Line {number}, {e.Refusal.Sentence}"),
                };
            }
        }

        return events;
    }

    internal static TriggerEvent EventAt(JsonPlace at) =>
        new(at.Needed("type"), at.Needed("subject"), at.Date("date"), at.Flag("revoked"));

    private static SeriesRule Series(JsonPlace at)
    {
        var permanent = at.Flag("permanent");
        List<Clause> clauses = permanent ? [] : [.. at.Each("clauses").Select(ClauseAt)];
        if (!permanent && clauses.Count == 0)
        {
            throw at.Wrong("clauses", "a series that is not permanent needs at least one clause");
        }

        var grade = at.Word("grade", Grade.Kept);
        return grade == Grade.None
            ? throw at.Wrong("grade", "a series keeps: kept, declared or worm")
            : new(
                at.Needed("code"),
                grade,
                at.Word("atEnd", EndAction.Nothing),
                permanent,
                at.Word("join", ClauseJoin.Later),
                clauses
            );
    }

    private static Clause ClauseAt(JsonPlace at) =>
        new(
            Start(at, "trigger"),
            at.Word("cutoff", Cutoff.None),
            at.Take(Period.Parse(at.Needed("period"), mayBeZero: true), "period")
        );

    private static Trigger Start(JsonPlace at, string field) =>
        at.Needed(field) is var code && Trigger.Read(code) is { } trigger
            ? trigger
            : throw at.Wrong(
                field,
                $"“{code}” is none of {TriggerKind.Shapes.Replace(" or ", ", ", StringComparison.Ordinal)}"
            );

    private static BatchBlanket Blanket(JsonPlace at)
    {
        var keep = at.Text("keep") is { } kept ? at.Take(Period.Parse(kept), "keep") : (Period?)null;
        var after = at.Text("destroyAfter") is { } destroyed
            ? at.Take(Period.Parse(destroyed), "destroyAfter")
            : (Period?)null;
        var from = Start(at, "from").Kind;
        if (!from.ForBlankets)
        {
            throw at.Wrong("from", "a blanket counts from created or modified");
        }

        if (keep is null == after is null)
        {
            throw at.Wrong("keep", "a blanket has either keep, or destroyAfter with keep null");
        }

        var then = at.Word("then", EndAction.Nothing);
        if (then is not (EndAction.Nothing or EndAction.Destroy) || (keep is null && then != EndAction.Destroy))
        {
            throw at.Wrong(
                "then",
                keep is null ? "a blanket that keeps nothing destroys" : "a blanket ends in nothing or destroy"
            );
        }

        return new(
            new(at.Needed("name"), from, keep, then == EndAction.Destroy, after),
            new(at.Texts("containers"), at.Texts("except"))
        );
    }

    private static BatchHold Hold(JsonPlace at, LocalDate today) =>
        new(
            at.Needed("name"),
            new(at.Texts("containers"), []),
            at.Texts("items").ToHashSet(),
            at.Text("query") is { } query ? at.Take(QueryCompiler.Compile(query, today), "query") : null
        );
}
