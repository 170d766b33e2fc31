using System.Runtime.InteropServices;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Content;
using WideKeel.Core.Query;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Store.Content;

namespace WideKeel.Store.Retention;

/// <summary>The fields and the types of event that some rules look at, and what is known of the events.</summary>
/// <param name="Events">By type, by subject: the latest date.</param>
public sealed record Clocks(
    IReadOnlyList<string> Fields,
    IReadOnlyDictionary<string, Dictionary<string, LocalDate>> Events
)
{
    public static Clocks None { get; } = new([], new Dictionary<string, Dictionary<string, LocalDate>>());

    /// <summary>
    /// What two sets of rules look at together, for one pass over the items; each then goes by its own events.
    /// </summary>
    public Clocks And(Clocks other) =>
        ReferenceEquals(this, other)
            ? this
            : new([.. Fields.Union(other.Fields)], Events.Count > 0 ? Events : other.Events);

    internal RowClocks NewRow() => new(this);

    /// <summary>The clocks of one item in hand.</summary>
    public IClockDates Of(string? subject, IEnumerable<ItemDate> dates)
    {
        var clocks = NewRow();
        clocks.Begin(subject);
        foreach (var date in dates)
        {
            for (var i = 0; i < Fields.Count; i++)
            {
                if (Fields[i] == date.Name)
                {
                    clocks.Set(i, date.Date);
                }
            }
        }

        return clocks;
    }

    internal sealed class RowClocks(Clocks wanted) : IClockDates
    {
        private readonly LocalDate?[] dates = new LocalDate?[wanted.Fields.Count];
        private string? subject;

        /// <summary>
        /// Those that the rules at hand go by: the same row is asked by the rules before a change and by those after
        /// it.
        /// </summary>
        public IReadOnlyDictionary<string, Dictionary<string, LocalDate>> Events { get; set; } = wanted.Events;

        public void Begin(string? of)
        {
            Array.Clear(dates);
            subject = of;
        }

        public void Set(int field, LocalDate date) => dates[field] = date;

        public LocalDate? Field(string name)
        {
            for (var i = 0; i < dates.Length; i++)
            {
                if (wanted.Fields[i] == name)
                {
                    return dates[i];
                }
            }

            return null;
        }

        public LocalDate? Event(string type) =>
            subject is not null
            && Events.TryGetValue(type, out var bySubject)
            && bySubject.TryGetValue(subject, out var date)
                ? date
                : null;
    }
}

/// <summary>A container as rules and queries see it.</summary>
public sealed record CoveredContainer(long Id, string Name, string Source, string Unit, string UnitPath)
{
    internal QueryItem Asked =>
        new()
        {
            Source = Source,
            Container = $"{Source}/{Name}",
            Unit = Unit,
        };
}

/// <summary>
/// Everything that rules items on one day: series, blankets by container, events. Immutable; a draft is another one,
/// made by <c>With</c>.
/// </summary>
public sealed record Ruling(
    Evaluator Evaluator,
    IReadOnlyDictionary<long, SeriesRule> Series,
    IReadOnlyDictionary<long, BlanketRule[]> Blankets,
    Clocks Clocks
)
{
    /// <summary>Loads what is in force.</summary>
    /// <param name="only">Rules of these series; null for all.</param>
    /// <param name="subjects">Events of these; null for all.</param>
    public static async Task<Ruling> LoadAsync(
        WideKeelDb db,
        Evaluator evaluator,
        IReadOnlyCollection<long>? only = null,
        IReadOnlyCollection<string>? subjects = null
    )
    {
        var inForce = db.Series.AsNoTracking().Where(s => s.InForce != null);
        var series = await (only is null ? inForce : inForce.Where(s => only.Contains(s.Id)))
            .Select(s => new
            {
                s.Id,
                s.Code,
                s.InForce,
            })
            .ToListAsync();
        var rules = series.ToDictionary(s => s.Id, s => s.InForce!.Check(s.Code).Value);
        var blankets = await db
            .Blankets.AsNoTracking()
            .Include(b => b.Unit)
            .Where(b => b.InForce != null && b.State == BlanketState.Active)
            .OrderBy(b => b.Name)
            .ToListAsync();
        var covered = blankets.Count == 0 ? [] : await ContainersAsync(db);
        Dictionary<long, BlanketRule[]> byContainer = [];
        foreach (var blanket in blankets)
        {
            Lay(
                byContainer,
                blanket.InForce!.Check(blanket.Name).Value,
                Reached(blanket.InForce!.Reach, blanket.Unit!.Path, covered, evaluator.Today)
            );
        }

        return await new Ruling(evaluator, rules, byContainer, Clocks.None).WithClocksAsync(db, subjects);
    }

    /// <summary>
    /// Loads what is in force as far as it concerns some items: their series, and the events of their subjects.
    /// </summary>
    /// <param name="also">A series under which they are about to be filed.</param>
    public static Task<Ruling> LoadForAsync(
        WideKeelDb db,
        Evaluator evaluator,
        IEnumerable<Item> items,
        params IEnumerable<long> also
    )
    {
        var all = items.ToList();
        return LoadAsync(
            db,
            evaluator,
            [.. all.Select(i => i.SeriesId).OfType<long>().Concat(also).Distinct()],
            [.. all.Select(i => i.Subject).OfType<string>().Distinct()]
        );
    }

    /// <summary>Ids of the containers of a unit that a reach covers today.</summary>
    public static IReadOnlyList<long> Reached(
        ReachDefinition reach,
        string unitPath,
        IReadOnlyList<CoveredContainer> containers,
        LocalDate today
    )
    {
        var query = reach.Check(today);
        return query.Refused
            ? []
            :
            [
                .. containers
                    .Where(c =>
                        c.UnitPath.StartsWith(unitPath, StringComparison.Ordinal)
                        && reach.Covers(query.Value, c.Id, c.Asked)
                    )
                    .Select(c => c.Id),
            ];
    }

    public static async Task<List<CoveredContainer>> ContainersAsync(WideKeelDb db) =>
        await (
            from container in db.Containers.AsNoTracking()
            join source in db.Sources on container.SourceId equals source.Id
            join unit in db.Units on container.UnitId equals unit.Id
            orderby container.Id
            select new CoveredContainer(container.Id, container.Name, source.Name, unit.Name, unit.Path)
        ).ToListAsync();

    /// <summary>What is said of a row, by the series that it is filed under.</summary>
    public Standing Of(in FactsRow row) => Of(row, row.SeriesId);

    /// <summary>
    /// What would be said of a row under another series, or none: filed there today, where it is not filed so already.
    /// </summary>
    public Standing Of(in FactsRow row, long? seriesId)
    {
        var filed =
            seriesId == row.SeriesId ? row.Facts.Filed
            : seriesId is null ? null
            : Evaluator.Today;
        return Evaluate(row, seriesId, row.Facts with { Filed = filed });
    }

    /// <summary>What a row comes to today: its standing, and what only grows from it.</summary>
    public Grown Grow(in FactsRow row)
    {
        var rule = RuleOf(row.SeriesId);
        var facts = row.Facts;
        Bring(row);
        var declared = rule is { FixesDates: true }
            ? (facts.Declared ?? DeclaredDates.None).With(rule, facts, Evaluator.Today)
            : null;
        facts = facts with { Declared = declared };
        facts = facts with { Floor = Evaluator.FloorOf(rule, facts) };
        var standing = Evaluate(row, row.SeriesId, facts);
        var rulesSay = facts.Floor.IsNothing
            ? standing.KeepUntil
            : Evaluate(row, row.SeriesId, facts with { Floor = default }).KeepUntil;
        return new(standing, facts.Floor, declared, rulesSay);
    }

    private Standing Evaluate(in FactsRow row, long? seriesId, in ItemFacts facts)
    {
        Bring(row);
        return Evaluator.Evaluate(RuleOf(seriesId), BlanketsOf(row.ContainerId), facts);
    }

    /// <summary>The row's clocks go by the events of this ruling.</summary>
    private void Bring(in FactsRow row) => ((Clocks.RowClocks)row.Facts.Clocks!).Events = Clocks.Events;

    public SeriesRule? RuleOf(long? seriesId) => seriesId is { } id ? Series.GetValueOrDefault(id) : null;

    public ReadOnlySpan<BlanketRule> BlanketsOf(long containerId) =>
        Blankets.TryGetValue(containerId, out var blankets) ? blankets : [];

    /// <summary>
    /// The same with other rules for some series; null takes the rule away. Of this one the events of all subjects are
    /// known.
    /// </summary>
    public async Task<Ruling> WithSeriesAsync(WideKeelDb db, IReadOnlyDictionary<long, SeriesRule?> changed)
    {
        var rules = new Dictionary<long, SeriesRule>(Series);
        foreach (var (id, rule) in changed)
        {
            if (rule is null)
            {
                rules.Remove(id);
            }
            else
            {
                rules[id] = rule;
            }
        }

        return await (this with { Series = rules }).WithClocksAsync(db, null);
    }

    /// <summary>The same with one blanket laid anew over these containers, or taken away.</summary>
    public Ruling WithBlanket(string name, BlanketRule? rule, IReadOnlyList<long> containers)
    {
        var without = Blankets.ToDictionary(b => b.Key, b => b.Value.Where(r => r.Name != name).ToArray());
        if (rule is not null)
        {
            Lay(without, rule, containers);
        }

        return this with
        {
            Blankets = without,
        };
    }

    /// <summary>
    /// The same with another date for one event, or none. A type that no rule looks at is passed over.
    /// </summary>
    public Ruling WithEvent(string type, string subject, LocalDate? date)
    {
        if (!Clocks.Events.TryGetValue(type, out var known))
        {
            return this;
        }

        Dictionary<string, LocalDate> bySubject = new(known);
        if (date is { } day)
        {
            bySubject[subject] = day;
        }
        else
        {
            bySubject.Remove(subject);
        }

        return this with
        {
            Clocks = Clocks with
            {
                Events = new Dictionary<string, Dictionary<string, LocalDate>>(Clocks.Events) { [type] = bySubject },
            },
        };
    }

    /// <summary>The same with more events known. Types that no rule looks at are passed over.</summary>
    public Ruling WithEvents(IEnumerable<(string Type, string Subject, LocalDate Date)> told)
    {
        var events = Clocks.Events.ToDictionary(e => e.Key, e => new Dictionary<string, LocalDate>(e.Value));
        foreach (var (type, subject, date) in told)
        {
            if (
                events.TryGetValue(type, out var bySubject)
                && (!bySubject.TryGetValue(subject, out var known) || date > known)
            )
            {
                bySubject[subject] = date;
            }
        }

        return this with
        {
            Clocks = Clocks with { Events = events },
        };
    }

    private static void Lay(
        Dictionary<long, BlanketRule[]> byContainer,
        BlanketRule rule,
        IReadOnlyList<long> containers
    )
    {
        foreach (var id in containers)
        {
            ref var over = ref CollectionsMarshal.GetValueRefOrAddDefault(byContainer, id, out _);
            over = [.. over ?? [], rule];
        }
    }

    private async Task<Ruling> WithClocksAsync(WideKeelDb db, IReadOnlyCollection<string>? subjects)
    {
        var triggers = Series.Values.SelectMany(r => r.Clauses).Select(c => c.Trigger).Distinct().ToList();
        var types = triggers.Where(t => t.Kind == TriggerKind.Event).Select(t => t.Name!).Distinct().ToList();
        var events = types.ToDictionary(t => t, t => Clocks.Events.GetValueOrDefault(t) ?? []);
        var unread = types.Where(t => !Clocks.Events.ContainsKey(t)).ToList();
        if (unread.Count > 0 && subjects is not { Count: 0 })
        {
            var known = db
                .TriggerEvents.AsNoTracking()
                .Where(e => e.RevokedAt == null && unread.Contains(e.Type!.Name));
            var latest = await (subjects is null ? known : known.Where(e => subjects.Contains(e.Subject)))
                .GroupBy(e => new { e.Type!.Name, e.Subject })
                .Select(g => new
                {
                    g.Key.Name,
                    g.Key.Subject,
                    Date = g.Max(e => e.Date),
                })
                .ToListAsync();
            latest.ForEach(e => events[e.Name][e.Subject] = e.Date);
        }

        return this with
        {
            Clocks = new([.. triggers.Where(t => t.Kind == TriggerKind.Field).Select(t => t.Name!).Distinct()], events),
        };
    }
}

/// <summary>A standing with what only grows.</summary>
/// <param name="Declared">Null where its rule fixes no dates.</param>
/// <param name="RulesSay">What keeps it but for the floor.</param>
public readonly record struct Grown(Standing Standing, KeepUntil Floor, DeclaredDates? Declared, KeepUntil RulesSay)
{
    /// <summary>The floor keeps it longer than its rules would.</summary>
    public bool Floored => RulesSay < Standing.KeepUntil;
}
