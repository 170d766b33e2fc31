using System.Globalization;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Core.Schedules;

/// <summary>Decides for each item until when it is kept, by which rule, what happens then, and whether that is due.</summary>
/// <param name="events">All that are known; revoked ones among them do not count.</param>
/// <param name="today">In the organisation's zone.</param>
public sealed class ScheduleEvaluator(RetentionSchedule schedule, IEnumerable<TriggerEvent> events, LocalDate today)
{
    private static readonly LocalDatePattern Day = LocalDatePattern.CreateWithInvariantCulture("d MMM uuuu");

    private readonly Dictionary<string, SeriesRule> series = schedule.Series.ToDictionary(s => s.Code);

    /// <summary>Of several events of one type for one subject the latest counts.</summary>
    private readonly Dictionary<(string Type, string Subject), LocalDate> latest = events.Where(e => !e.Revoked)
        .GroupBy(e => (e.Type, e.Subject)).ToDictionary(g => g.Key, g => g.Max(e => e.Date));

    public bool Knows(string code) => series.ContainsKey(code);

    /// <param name="asked">The item as a query sees it; asked for only where a hold has one.</param>
    public ItemOutcome Evaluate(RuledItem item, Func<QueryItem> asked)
    {
        var own = item.Series is { } code ? series[code] : null;
        List<Looked> looked = [];
        if (own is not null)
        {
            looked.Add(Look(own, item));
        }

        looked.AddRange(schedule.Blankets.Where(b => b.Reach.Covers(item.Container)).Select(b => Look(b, item)));
        var winner = looked.Where(l => !l.KeepUntil.IsNothing).MaxBy(l => l.KeepUntil);
        var keepUntil = winner?.KeepUntil ?? KeepUntil.Nothing;
        var atEnd = own?.AtEnd ?? (looked.Any(l => l.Blanket!.Destroys) ? AtEnd.Destroy : AtEnd.Nothing);
        var from = DisposableFrom(own, atEnd, looked, keepUntil);
        var held = schedule.Holds.Any(h => h.Reach.Covers(item.Container) || h.Items.Contains(item.Id) || (h.Query is { } query && QueryMatcher.Matches(query.Condition, asked())));
        return new(held, StateOf(keepUntil, atEnd, from, looked), keepUntil, from, atEnd, ProtectionOf(own, looked, held), [.. looked.Select(l => Reason(l, winner))]);
    }

    private Looked Look(SeriesRule rule, RuledItem item)
    {
        if (rule.Permanent)
        {
            return new(rule, null, KeepUntil.Permanent, [], null);
        }

        var dates = rule.Clauses.Select(c => Dates(BaseOf(c.Start, item), c.Cutoff, c.Period)).ToList();
        var dated = dates.Where(d => d.Until is not null).Select(d => d.Until!.Value).ToList();
        var waits = rule.Join == ClauseJoin.Later ? dated.Count < dates.Count : dated.Count == 0;
        var until = waits ? KeepUntil.AwaitingEvent : KeepUntil.On(rule.Join == ClauseJoin.Later ? dated.Max() : dated.Min());
        return new(rule, null, until, dates, until.Date?.PlusDays(1));
    }

    private Looked Look(BlanketRule rule, RuledItem item)
    {
        var start = Plausible(rule.From == ClockStartKind.Created ? item.Created : item.Modified);
        if (rule.Keep is { } keep)
        {
            var kept = Dates(start, Cutoff.None, keep);
            var until = kept.Until is { } date ? KeepUntil.On(date) : KeepUntil.AwaitingEvent;
            return new(null, rule, until, [kept], rule.Destroys ? until.Date?.PlusDays(1) : null);
        }

        var term = Dates(start, Cutoff.None, rule.DestroyAfter!.Value);
        return new(null, rule, KeepUntil.Nothing, [term], term.Until?.PlusDays(1));
    }

    private RuleDates Dates(LocalDate? start, Cutoff cutoff, Time.Period period)
    {
        if (start is not { } from)
        {
            return default;
        }

        var last = cutoff.LastDay(from, schedule.FiscalYearEnd);
        return new(from, last, period.AddTo(last));
    }

    private LocalDate? BaseOf(ClockStart start, RuledItem item) => Plausible(start.Kind switch
    {
        ClockStartKind.Created => item.Created,
        ClockStartKind.Modified => item.Modified,
        ClockStartKind.Filed => item.Filed,
        ClockStartKind.Field => item.Fields.TryGetValue(start.Name!, out var value) ? QueryValues.Date(value) : null,
        ClockStartKind.Event => item.Subject is { } subject && latest.TryGetValue((start.Name!, subject), out var date) ? date : null,
        _ => throw new ArgumentOutOfRangeException(nameof(start)),
    });

    /// <summary>A date that cannot be counted from is no date: the clause waits, and nothing is guessed.</summary>
    private LocalDate? Plausible(LocalDate? date) => date is { } known && PlausibleDate.Holds(known, today) ? known : null;

    private static LocalDate? DisposableFrom(SeriesRule? own, AtEnd atEnd, List<Looked> looked, KeepUntil keepUntil)
    {
        if (atEnd == AtEnd.Nothing || keepUntil.IsPermanent || keepUntil.IsAwaiting)
        {
            return null;
        }

        // The series' own choice, or of the blankets that destroy the earliest; never before the winning keep-until has passed.
        var first = own is not null ? looked[0].FirstDay : looked.Where(l => l.Blanket!.Destroys).Min(l => l.FirstDay);
        var free = keepUntil.Date?.PlusDays(1);
        return first is { } day && free is { } after ? LocalDate.Max(day, after) : first;
    }

    private ItemState StateOf(KeepUntil keepUntil, AtEnd atEnd, LocalDate? from, List<Looked> looked)
    {
        if (keepUntil.IsPermanent)
        {
            return ItemState.Permanent;
        }

        if (keepUntil.IsAwaiting)
        {
            return ItemState.AwaitingEvent;
        }

        if (from is { } day)
        {
            return today >= day ? ItemState.Due : ItemState.InTerm;
        }

        if (keepUntil.Date is { } last)
        {
            return today <= last ? ItemState.InTerm : ItemState.NoRule;
        }

        // Only a rule that would destroy covers it, and it lacks the date to count from.
        return atEnd != AtEnd.Nothing && looked.Count > 0 ? ItemState.AwaitingEvent : ItemState.NoRule;
    }

    private Protection ProtectionOf(SeriesRule? own, List<Looked> looked, bool held)
    {
        var protection = held ? Protection.Kept : Protection.None;
        foreach (var rule in looked)
        {
            var stands = !rule.KeepUntil.IsNothing && (rule.KeepUntil.Date is not { } last || today <= last);
            var given = rule.Blanket is not null ? stands ? Protection.Kept : Protection.None
                : stands || own!.AtEnd != AtEnd.Nothing ? own!.Protection
                : Protection.None;
            protection = given > protection ? given : protection;
        }

        return protection;
    }

    private RuleReason Reason(Looked rule, Looked? winner)
    {
        var won = ReferenceEquals(rule, winner);
        return new(rule.Series?.Code ?? rule.Blanket!.Name, rule.Series is null ? "blanket" : "series", won, rule.KeepUntil, rule.Clauses, Why(rule, winner, won));
    }

    private string Why(Looked rule, Looked? winner, bool won)
    {
        var says = rule switch
        {
            _ when rule.KeepUntil.IsPermanent => "It keeps permanently",
            _ when rule.KeepUntil.IsAwaiting => rule.Series?.Join == ClauseJoin.Later && rule.Clauses.Count > 1 ? "One of its clocks waits for a date, so the rule waits" : "Its clock waits for a date, so it keeps without end",
            _ when rule.KeepUntil.Date is { } until => $"It {(until < today ? "kept" : "keeps")} through {Day.Format(until)}{(rule.Clauses.Count > 1 ? $", the {(rule.Series!.Join == ClauseJoin.Later ? "later" : "earlier")} of its {rule.Clauses.Count.ToString(CultureInfo.InvariantCulture)} clauses" : "")}",
            _ when rule.FirstDay is { } first => $"It keeps nothing and destroys from {Day.Format(first)}",
            _ => "It keeps nothing and lacks the date from which to destroy",
        };
        var rank = won ? "; nothing keeps longer." : winner is null || rule.KeepUntil.IsNothing ? "." : rule.KeepUntil == winner.KeepUntil ? $"; {winner.Name} keeps as long and stands before it." : $"; {winner.Name} keeps longer.";
        return says + rank;
    }

    /// <summary>A rule and what it says of the item.</summary>
    /// <param name="FirstDay">On which it would dispose of the item, were it alone.</param>
    private sealed record Looked(SeriesRule? Series, BlanketRule? Blanket, KeepUntil KeepUntil, IReadOnlyList<RuleDates> Clauses, LocalDate? FirstDay)
    {
        public string Name => Series?.Code ?? Blanket!.Name;
    }
}
