using NodaTime;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.CommandLine;

/// <summary>
/// Containers by pattern: a name, or a name with <c>/*</c>, which is that container and everything beneath it, at any
/// depth.
/// </summary>
public sealed record Reach(IReadOnlyList<string> Containers, IReadOnlyList<string> Except)
{
    public bool Covers(string? container) =>
        container is not null && Containers.Any(p => Fits(p, container)) && !Except.Any(p => Fits(p, container));

    private static bool Fits(string pattern, string container) =>
        pattern.EndsWith("/*", StringComparison.Ordinal)
            ? container.StartsWith(pattern.AsSpan(0, pattern.Length - 1), StringComparison.Ordinal)
                || container.AsSpan().SequenceEqual(pattern.AsSpan(0, pattern.Length - 2))
            : pattern == container;
}

public sealed record BatchBlanket(BlanketRule Rule, Reach Reach);

/// <summary>A hold order: what it covers may not be disposed of.</summary>
/// <param name="Query">Null: no query.</param>
public sealed record BatchHold(string Name, Reach Reach, IReadOnlySet<string> Items, CompiledQuery? Query);

/// <summary>An outside fact that starts clocks.</summary>
public readonly record struct TriggerEvent(string Type, string Subject, LocalDate Date, bool Revoked);

/// <summary>Everything that rules, as a file gives it.</summary>
public sealed record BatchRules(
    FiscalYearEnd FiscalYearEnd,
    IReadOnlyList<SeriesRule> Series,
    IReadOnlyList<BatchBlanket> Blankets,
    IReadOnlyList<BatchHold> Holds
);

/// <param name="Grade">That applies on the day of asking; a hold raises none to kept.</param>
/// <param name="EndedBy">The rule whose end action is carried out; null where none has one.</param>
public sealed record BatchOutcome(
    bool Held,
    Standing Standing,
    Grade Grade,
    IReadOnlyList<Reason> Reasons,
    string? EndedBy
);

/// <summary>
/// Decides for items of a file until when each is kept, by which rule, what happens then, and whether that is due.
/// </summary>
/// <param name="events">All that are known; revoked ones among them do not count.</param>
/// <param name="today">In the organisation's zone.</param>
public sealed class BatchEvaluator(BatchRules rules, IEnumerable<TriggerEvent> events, LocalDate today)
{
    private readonly Evaluator evaluator = new(today, rules.FiscalYearEnd);
    private readonly Dictionary<string, SeriesRule> series = rules.Series.ToDictionary(s => s.Code);

    /// <summary>Of several events of one type for one subject the latest counts.</summary>
    private readonly Dictionary<(string Type, string Subject), LocalDate> latest = events
        .Where(e => !e.Revoked)
        .GroupBy(e => (e.Type, e.Subject))
        .ToDictionary(g => g.Key, g => g.Max(e => e.Date));

    public bool Knows(string code) => series.ContainsKey(code);

    /// <param name="asked">The item as a query sees it; asked for only where a hold has one.</param>
    public BatchOutcome Evaluate(BatchItem item, Func<QueryItem> asked)
    {
        var own = item.Series is { } code ? series[code] : null;
        var facts = new ItemFacts(item.Created, item.Modified, item.Filed, null, new Clocks(item, latest));
        BlanketRule[] blankets = [.. rules.Blankets.Where(b => b.Reach.Covers(item.Container)).Select(b => b.Rule)];
        var standing = evaluator.Evaluate(own, blankets, facts);
        var held = rules.Holds.Any(h =>
            h.Reach.Covers(item.Container)
            || h.Items.Contains(item.Id)
            || (h.Query is { } query && QueryMatcher.Matches(query.Condition, asked()))
        );
        var grade = standing.GradeOn(today);
        return new(
            held,
            standing,
            held && grade == Grade.None ? Grade.Kept : grade,
            own is null && blankets.Length == 0
                ? []
                : Reasons.Explain(evaluator, own is null ? null : new(own.Code, "", own), blankets, facts, null),
            own is not null ? (own.AtEnd == EndAction.Nothing ? null : own.Code) : EarliestOf(blankets, facts)
        );
    }

    /// <summary>Of the blankets that destroy the first whose day comes; of one day, the one that stands first.</summary>
    private string? EarliestOf(BlanketRule[] blankets, ItemFacts facts) =>
        blankets
            .Select(b => (b.Name, evaluator.TermOf(b, facts).FirstDay))
            .Where(b => b.FirstDay is not null)
            .OrderBy(b => b.FirstDay)
            .Select(b => b.Name)
            .FirstOrDefault();

    private sealed class Clocks(BatchItem item, Dictionary<(string Type, string Subject), LocalDate> latest)
        : IClockDates
    {
        public LocalDate? Field(string name) =>
            item.Fields.TryGetValue(name, out var value) ? QueryValues.Date(value) : null;

        public LocalDate? Event(string type) =>
            item.Subject is { } subject && latest.TryGetValue((type, subject), out var date) ? date : null;
    }
}
