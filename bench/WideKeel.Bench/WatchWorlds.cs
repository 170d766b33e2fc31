using System.Globalization;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

/// <summary>
/// The watches that ship, held against worlds of 150 people that are made by seeds: what part of the planted incidents is
/// found in time, and how many alerts a week concern none of them.
/// </summary>
/// <param name="make">A world of a seed.</param>
/// <param name="firstSeed">Of worlds that were not looked at while the templates were set.</param>
/// <param name="inTime">How long after it could be known an incident may be found.</param>
internal sealed class WatchWorlds(Func<int, SeededWorld> make, int firstSeed, Duration inTime)
{
    private const int Worlds = 30;

    private static IReadOnlyList<Watch> Shipped =>
        WatchFile.Read(WatchTemplates.Json, new LocalDate(2026, 6, 1)).Value.Watches;

    /// <summary>Incidents that are done in an hour.</summary>
    public static void Loud() =>
        new WatchWorlds(seed => new LoudWorld(seed), 1_000, Duration.FromHours(1)).Run(ranks: true);

    /// <summary>Incidents that are done slowly, spread out or quietly.</summary>
    public static void Quiet() =>
        new WatchWorlds(seed => new QuietWorld(seed), 5_000, Duration.FromHours(48)).Run(ranks: false);

    /// <summary>What all watches raised in one world; each watch is judged by itself, so that one can be left out
    /// afterwards.</summary>
    /// <param name="Alerts">With the places of the incidents that each concerns.</param>
    private sealed record Raised(
        IReadOnlyList<Incident> Incidents,
        double Weeks,
        IReadOnlyList<(WatchAlert Alert, int[] Concerns)> Alerts
    );

    private Raised RaisedIn(int seed, IReadOnlyList<Watch> watches)
    {
        var world = make(seed);
        return new(
            world.Incidents,
            (world.End - world.Judged).TotalDays / 7,
            [
                .. new WatchRun(world.Events, world.Networks, world.People, DateTimeZone.Utc, world.End)
                    .Alerts(watches)
                    .Where(a => a.At >= world.Judged)
                    .Select(a =>
                        (
                            a,
                            Enumerable
                                .Range(0, world.Incidents.Count)
                                .Where(i => Concerns(world, world.Incidents[i], a))
                                .ToArray()
                        )
                    ),
            ]
        );
    }

    private void Run(bool ranks)
    {
        var shipped = Shipped;
        var worlds = Enumerable.Range(firstSeed, Worlds).Select(seed => RaisedIn(seed, shipped)).ToList();
        Measure(worlds, "all watches", _ => true, perKind: true);
        Console.WriteLine();
        Console.WriteLine("| without | found | precision | false alerts a week |");
        Console.WriteLine("| --- | ---: | ---: | ---: |");
        foreach (var left in shipped)
        {
            Measure(worlds, left.Name, w => w != left, perKind: false);
        }

        Console.WriteLine();
        if (ranks)
        {
            RankByRisk(shipped);
        }
    }

    /// <summary>
    /// How well the risk puts alerts that concern an incident before those that concern none: the chance that one of the
    /// first has the greater risk (area under the ROC curve; equal risks count half), with all factors and with each left
    /// out.
    /// </summary>
    private void RankByRisk(IReadOnlyList<Watch> watches)
    {
        List<(IReadOnlyList<RiskFactor> Factors, bool Right)> ranked = [];
        for (var seed = firstSeed; seed < firstSeed + Worlds; seed++)
        {
            var world = make(seed);
            var facts = new FactsOfWorld(world);
            ranked.AddRange(
                new WatchRun(world.Events, world.Networks, world.People, DateTimeZone.Utc, world.End)
                    .Alerts(watches)
                    .Where(a => a.At >= world.Judged && a.Event is not null)
                    .Select(a =>
                        (
                            AlertRisk.Factors(facts.Of(a), AlertRisk.Weights),
                            world.Incidents.Any(i => Concerns(world, i, a))
                        )
                    )
            );
        }

        Console.WriteLine("| without the factor | alerts that have it | area under the curve |");
        Console.WriteLine("| --- | ---: | ---: |");
        foreach (var without in AlertRisk.Weights.Keys.Prepend("(none left out)"))
        {
            var risks = ranked.ConvertAll(r => (Risk: AlertRisk.Of(r.Factors.Where(f => f.Name != without)), r.Right));
            var (right, wrong) = (risks.Where(r => r.Right).ToList(), risks.Where(r => !r.Right).ToList());
            var won = right.Sum(r =>
                wrong.Sum(w =>
                    r.Risk > w.Risk ? 1.0
                    : r.Risk == w.Risk ? 0.5
                    : 0
                )
            );
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {without} | {ranked.Count(r => r.Factors.Any(f => f.Name == without))} | "
                        + $"{won / ((double)right.Count * wrong.Count):F3} |"
                )
            );
        }
    }

    /// <summary>The circumstances of an alert, read from a world as the product reads them from its rows.</summary>
    private sealed class FactsOfWorld(SeededWorld world)
    {
        private readonly Dictionary<string, ActivityEvent> byId = world.Events.ToDictionary(e => e.Id);
        private readonly ILookup<string?, ActivityEvent> byActor = world
            .Events.OrderBy(e => e.Time)
            .ToLookup(e => e.Actor);
        private readonly List<ActivityEvent> signIns =
        [
            .. world.Events.Where(e => e is { Action: "sign-in", Outcome: EventOutcome.Success }).OrderBy(e => e.Time),
        ];

        public AlertFacts Of(WatchAlert alert)
        {
            var e = byId[alert.Event!];
            var before = byActor[e.Actor].TakeWhile(x => x.Time < e.Time).ToList();
            var signed = signIns
                .TakeWhile(x => x.Time < e.Time)
                .Where(x => x.Time >= e.Time - Duration.FromDays(90))
                .ToList();
            return new(
                EventActions.SeverityOf(e.Action),
                e.Place?.Country is { } country && signed.Count > 0
                    ? (double)signed.Count(x => x.Place?.Country == country) / signed.Count
                    : null,
                e.Address is null ? null : world.Networks.Of(e.Address) is not null,
                e.Time.InUtc().LocalDateTime,
                alert.Watch.MeasuresSurprise ? (double?)alert.Measure : null,
                e.Category is "admin" or "permission" or "configuration" or "logging",
                before.Count > 0 ? e.Time - before[0].Time : Duration.Zero,
                before.Count(x =>
                    x is { Action: "sign-in", Outcome: EventOutcome.Failure }
                    && x.Time >= e.Time - Duration.FromHours(1)
                ),
                before.Count > 0 ? e.Time - before[^1].Time : null,
                e.Device is not null && before.All(x => x.Device != e.Device),
                e.Actor == SeededWorld.Gone
            );
        }
    }

    private void Measure(IReadOnlyList<Raised> worlds, string name, Func<Watch, bool> takes, bool perKind)
    {
        Dictionary<string, List<double?>> found = [];
        Dictionary<string, int> noise = [];
        var (raised, right, weeks) = (0, 0, worlds.Sum(w => w.Weeks));
        foreach (var world in worlds)
        {
            var alerts = world.Alerts.Where(a => takes(a.Alert.Watch)).ToList();
            foreach (var (incident, place) in world.Incidents.Select((i, place) => (i, place)))
            {
                var first = alerts
                    .Where(a => a.Concerns.Contains(place) && a.Alert.At <= incident.Decisive + inTime)
                    .Select(a => (double?)Math.Max(0, (a.Alert.At - incident.Decisive).TotalMinutes))
                    .FirstOrDefault();
                (found.TryGetValue(incident.Kind, out var list) ? list : found[incident.Kind] = []).Add(first);
            }

            foreach (var (alert, concerns) in alerts)
            {
                raised++;
                right += concerns.Length > 0 ? 1 : 0;
                if (concerns.Length == 0)
                {
                    noise[alert.Watch.Name] = noise.GetValueOrDefault(alert.Watch.Name) + 1;
                }
            }
        }

        var all = found.Values.SelectMany(f => f).ToList();
        var line = string.Create(
            CultureInfo.InvariantCulture,
            $"{100.0 * all.Count(f => f is not null) / all.Count:F1} % | "
                + $"{100.0 * right / Math.Max(1, raised):F1} % | {(raised - right) / weeks:F2}"
        );
        if (!perKind)
        {
            Console.WriteLine($"| {name} | {line} |");
            return;
        }

        Console.WriteLine("| incident | planted | found in time | median minutes |");
        Console.WriteLine("| --- | ---: | ---: | ---: |");
        foreach (var (kind, list) in found.OrderBy(f => f.Key, StringComparer.Ordinal))
        {
            var times = list.OfType<double>().Order().ToList();
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"| {kind} | {list.Count} | {100.0 * times.Count / list.Count:F0} % | "
                        + $"{(times.Count > 0 ? times[times.Count / 2] : double.NaN):F1} |"
                )
            );
        }

        Console.WriteLine();
        Console.WriteLine(
            $"All: found {line.Replace(" |", ", precision", StringComparison.Ordinal)} false alerts a week."
        );
        foreach (var (watch, count) in noise.OrderByDescending(n => n.Value))
        {
            Console.WriteLine(
                string.Create(CultureInfo.InvariantCulture, $"- {watch}: {count / weeks:F2} a week concern no incident")
            );
        }
    }

    private static bool Concerns(SeededWorld world, Incident incident, WatchAlert alert) =>
        (alert.First is { } ground && incident.Events.Contains(ground))
        || alert.At >= incident.From
            && alert.At <= incident.Until + Duration.FromHours(1)
            && (
                (alert.Event is { } id && incident.Events.Contains(id))
                || (
                    incident.Key is { } key && (alert.Key == key || (alert.Event is { } by && world.ActorOf(by) == key))
                )
            );
}
