using System.Globalization;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

/// <summary>
/// The watches that ship, held against worlds of 150 people that are made by seeds: what part of the planted incidents is
/// found within an hour of the event that decides it, and how many alerts a week concern none of them.
/// </summary>
internal static class WatchWorlds
{
    private const int Worlds = 30;
    private const int FirstSeed = 1_000;
    private const int Days = 56;
    private static readonly Instant Start = Instant.FromUtc(2026, 3, 2, 0, 0);

    /// <param name="Decisive">The event by which it could be known.</param>
    /// <param name="Until">Its last event: an alert to any of them is no false one.</param>
    private sealed record Incident(string Kind, string? Actor, Instant From, Instant Decisive, Instant Until);

    public static void Run()
    {
        var set = WatchFile.Read(WatchTemplates.Json, new LocalDate(2026, 6, 1)).Value;
        Measure("all watches", set.Watches, perKind: true);
        Console.WriteLine();
        Console.WriteLine("| without | found | precision | false alerts a week |");
        Console.WriteLine("| --- | ---: | ---: | ---: |");
        foreach (var left in set.Watches)
        {
            Measure(left.Name, [.. set.Watches.Where(w => w != left)], perKind: false);
        }

        Console.WriteLine();
        RankByRisk(set.Watches);
    }

    /// <summary>
    /// How well the risk puts alerts that concern an incident before those that concern none: the chance that one of the
    /// first has the greater risk (area under the ROC curve; equal risks count half), with all factors and with each left
    /// out.
    /// </summary>
    private static void RankByRisk(IReadOnlyList<Watch> watches)
    {
        List<(IReadOnlyList<RiskFactor> Factors, bool Right)> ranked = [];
        for (var seed = FirstSeed; seed < FirstSeed + Worlds; seed++)
        {
            var world = new World(seed);
            var facts = new FactsOfWorld(world);
            ranked.AddRange(
                new WatchRun(world.Events, world.Networks, world.People, DateTimeZone.Utc, world.End)
                    .Alerts(watches)
                    .Where(a => a.At >= Start + Duration.FromDays(Days / 2) && a.Event is not null)
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
    private sealed class FactsOfWorld(World world)
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
                alert.Watch is Watch.Unusual ? (double?)alert.Measure : null,
                e.Category is "admin" or "permission" or "configuration" or "logging",
                before.Count > 0 ? e.Time - before[0].Time : Duration.Zero,
                before.Count(x =>
                    x is { Action: "sign-in", Outcome: EventOutcome.Failure }
                    && x.Time >= e.Time - Duration.FromHours(1)
                ),
                before.Count > 0 ? e.Time - before[^1].Time : null,
                e.Device is not null && before.All(x => x.Device != e.Device),
                e.Actor == World.Gone
            );
        }
    }

    private static void Measure(string name, IReadOnlyList<Watch> watches, bool perKind)
    {
        Dictionary<string, List<double?>> found = [];
        Dictionary<string, int> noise = [];
        var (raised, right) = (0, 0);
        for (var seed = FirstSeed; seed < FirstSeed + Worlds; seed++)
        {
            var world = new World(seed);
            var alerts = new WatchRun(world.Events, world.Networks, world.People, DateTimeZone.Utc, world.End)
                .Alerts(watches)
                .Where(a => a.At >= Start + Duration.FromDays(Days / 2))
                .ToList();
            foreach (var incident in world.Incidents)
            {
                var first = alerts
                    .Where(a => Concerns(world, incident, a) && a.At <= incident.Decisive + Duration.FromHours(1))
                    .Select(a => (double?)Math.Max(0, (a.At - incident.Decisive).TotalMinutes))
                    .FirstOrDefault();
                (found.TryGetValue(incident.Kind, out var list) ? list : found[incident.Kind] = []).Add(first);
            }

            foreach (var alert in alerts)
            {
                raised++;
                if (world.Incidents.Any(i => Concerns(world, i, alert)))
                {
                    right++;
                }
                else
                {
                    noise[alert.Watch.Name] = noise.GetValueOrDefault(alert.Watch.Name) + 1;
                }
            }
        }

        var all = found.Values.SelectMany(f => f).ToList();
        var weeks = Worlds * Days / 2 / 7.0;
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

        Console.WriteLine("| incident | planted | found in an hour | median minutes |");
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

    private static bool Concerns(World world, Incident incident, WatchAlert alert) =>
        alert.At >= incident.From
        && alert.At <= incident.Until + Duration.FromHours(1)
        && (
            incident.Actor is null
            || alert.Key == incident.Actor
            || (alert.Event is not null && world.ActorOf(alert.Event) == incident.Actor)
        );

    /// <summary>One organisation for eight weeks: half of it to learn from, incidents in the other half.</summary>
    private sealed class World
    {
        private static readonly string[] Units =
        [
            "Crew",
            "Yard",
            "Sales",
            "Finance",
            "Legal",
            "Office",
            "IT",
            "Safety",
        ];

        /// <summary>Of somebody who had left before the world began.</summary>
        public const string Gone = "gone@x.example";

        private readonly Random random;
        private readonly List<ActivityEvent> events = [];
        private readonly Dictionary<string, string?> actors = [];
        private readonly List<(string Mail, string Unit, bool Shifts, int Number)> staff = [];

        public World(int seed)
        {
            random = new(seed);
            for (var i = 0; i < 150; i++)
            {
                var unit = Units[random.Next(Units.Length)];
                staff.Add((string.Create(CultureInfo.InvariantCulture, $"p{i}@x.example"), unit, unit == "Crew", i));
            }

            for (var day = 0; day < Days; day++)
            {
                Usual(day);
            }

            foreach (var plant in Plants())
            {
                plant();
            }
        }

        public IReadOnlyList<ActivityEvent> Events => events;

        public List<Incident> Incidents { get; } = [];

        public Instant End => Start + Duration.FromDays(Days);

        public NamedNetworks Networks { get; } =
            new([
                new("office", [Cidr.Read("192.0.2.0/24")!.Value], false),
                new("vpn", [Cidr.Read("198.51.100.0/26")!.Value], true),
            ]);

        public IReadOnlyList<WatchPerson> People =>
            [.. staff.Select(p => new WatchPerson(p.Mail, p.Unit, p.Shifts ? "Crew" : "Staff"))];

        public string? ActorOf(string id) => actors.GetValueOrDefault(id);

        private static EventPlace PlaceOf(string address) =>
            address.StartsWith("203.0.113.", StringComparison.Ordinal)
                ? (int.Parse(address[10..], CultureInfo.InvariantCulture) / 32) switch
                {
                    0 => new("XC", "Northport", 53.5, 8.1),
                    1 => new("XD", "Lagunda", 13.8, 100.5),
                    2 => new("XE", "Vesterbad", 40.7, -74),
                    3 => new("XF", "Oderin", 52.2, 21),
                    _ => new("XG", "Calder", 19.4, -99.1),
                }
                : new("XA", "Home", 61.9, -6.9);

        private ActivityEvent Add(double day, string action, string? actor, string address, string? what = null)
        {
            var e = new ActivityEvent
            {
                Id = string.Create(CultureInfo.InvariantCulture, $"e{events.Count}"),
                Time = Start + Duration.FromMilliseconds((long)(day * 86_400_000)),
                Channel = action.StartsWith("file", StringComparison.Ordinal) ? "files" : "identity",
                Actor = actor,
                Action = action,
                Object = what,
                Address = address,
                Place = PlaceOf(address),
                Outcome = EventOutcome.Success,
                Category = EventActions.CategoryOf(action),
                Amount = action == "file.download" ? 200_000 + random.Next(2_000_000) : null,
            };
            events.Add(e);
            actors[e.Id] = actor;
            return e;
        }

        private void Fail(double day, string actor, string address)
        {
            var e = Add(day, "sign-in", actor, address);
            events[^1] = e with { Outcome = EventOutcome.Failure, Code = "bad-password" };
        }

        private string Office(int number, int day) =>
            // Half of the staff leave through the shared exit on a day at home.
            (number + day) % 5
            == 0
                ? string.Create(CultureInfo.InvariantCulture, $"198.51.100.{1 + (day % 3)}")
                : string.Create(CultureInfo.InvariantCulture, $"192.0.2.{1 + ((number + (3 * day)) % 250)}");

        private void Usual(int day)
        {
            var weekend = day % 7 > 4;
            foreach (var (mail, unit, shifts, number) in staff)
            {
                if (
                    random.NextDouble()
                    > (
                        shifts ? 0.65
                        : weekend ? 0.03
                        : 0.88
                    )
                )
                {
                    continue;
                }

                // Some cover for colleagues on holiday, at odd hours.
                var cover = random.Next(60) == 0;
                var start = shifts || cover ? random.NextDouble() * 0.8 : (6.5 + (random.NextDouble() * 2)) / 24;
                var address = Office(number, day);
                if (random.Next(14) == 0)
                {
                    Fail(day + start, mail, address);
                }

                Add(day + start + 0.001, "sign-in", mail, address);
                for (var i = 2 + random.Next(14); i > 0; i--)
                {
                    var kind = random.Next(100);
                    Add(
                        Math.Min(day + 0.999, day + start + (random.NextDouble() * 0.33)),
                        kind < 50 ? "file.read"
                            : kind < 74 ? "file.write"
                            : kind < 92 ? "file.download"
                            : kind < 96 ? "file.delete"
                            : kind < 98 ? "share.add"
                            : "mail.send",
                        mail,
                        address,
                        string.Create(CultureInfo.InvariantCulture, $"{unit}/{random.Next(500)}")
                    );
                }
            }

            for (var i = 0; i < 60; i++)
            {
                Add(
                    day + 0.05 + (i * 0.0006),
                    "file.read",
                    "svc.backup@x.example",
                    "192.0.2.251",
                    string.Create(CultureInfo.InvariantCulture, $"Backup/{i}")
                );
            }
        }

        private IEnumerable<Action> Plants()
        {
            yield return Guessing;
            yield return () => Export("Export at night");
            yield return Leaver;
            yield return () => One("Forwarding", "mail.forward-set");
            yield return Deletions;
            yield return Logging;
            yield return Journey;
            yield return () => One("Consent", "app.consent");
            yield return Shares;
            yield return Move;
            yield return Traveller;
        }

        private string Somebody() => staff[random.Next(staff.Count)].Mail;

        private double Day() => (Days / 2) + 2 + (random.NextDouble() * ((Days / 2) - 12));

        private void Note(string kind, string? actor, int first, int decisive) =>
            Incidents.Add(new(kind, actor, events[first].Time, events[decisive].Time, events[^1].Time));

        private string Abroad() => string.Create(CultureInfo.InvariantCulture, $"203.0.113.{random.Next(250)}");

        private void Guessing()
        {
            var (actor, day, first) = (Somebody(), Day(), events.Count);
            var tries = 12 + random.Next(20);
            for (var i = 0; i < tries; i++)
            {
                Fail(day + (i * (0.15 + (random.NextDouble() * 0.2))), actor, Abroad());
            }

            Add((events[^1].Time - Start).TotalDays + 0.05, "sign-in", actor, Abroad());
            Note("Slow guessing", actor, first, events.Count - 1);
        }

        private void Export(string kind)
        {
            var (actor, day, first) = (Somebody(), Math.Floor(Day()) + 0.06, events.Count);
            var files = 25 + random.Next(60);
            for (var i = 0; i < files; i++)
            {
                Add(
                    day + (i * 0.0004),
                    "file.download",
                    actor,
                    "198.51.100.9",
                    string.Create(CultureInfo.InvariantCulture, $"Lists/{i}")
                );
            }

            Note(kind, actor, first, first + 15);
        }

        private void Leaver()
        {
            var (day, first) = (Day(), events.Count);
            const string actor = Gone;
            Add(
                day,
                "sign-in",
                actor,
                string.Create(CultureInfo.InvariantCulture, $"203.0.113.{32 + random.Next(30)}")
            );
            Note("Leaver’s account from abroad", actor, first, first);
        }

        private void One(string kind, string action)
        {
            var (actor, first) = (Somebody(), events.Count);
            Add(Day(), action, actor, "192.0.2.40", "outside");
            Note(kind, actor, first, first);
        }

        private void Deletions()
        {
            var (actor, day, first) = (Somebody(), Day(), events.Count);
            var files = 8 + random.Next(25);
            for (var i = 0; i < files; i++)
            {
                Add(
                    day + (i * 0.0003),
                    "file.delete",
                    actor,
                    "192.0.2.44",
                    string.Create(CultureInfo.InvariantCulture, $"Incident/{i}")
                );
            }

            Note("Deletions after an incident", actor, first, Math.Min(events.Count - 1, first + 7));
        }

        private void Logging()
        {
            var (day, first) = (Day(), events.Count);
            Add(day, "log.stop", "svc.gateway@x.example", "192.0.2.250");
            Add(day + 0.08, "log.start", "svc.gateway@x.example", "192.0.2.250");
            Note("Logging stopped", "svc.gateway@x.example", first, first);
        }

        private void Journey()
        {
            var (actor, day, first) = (Somebody(), Day(), events.Count);
            Add(day, "sign-in", actor, "192.0.2.60");
            Add(
                day + 0.03,
                "sign-in",
                actor,
                string.Create(CultureInfo.InvariantCulture, $"203.0.113.{64 + random.Next(30)}")
            );
            Note("Impossible journey", actor, first, first + 1);
        }

        private void Shares()
        {
            var (actor, day, first) = (Somebody(), Math.Floor(Day()) + 0.9, events.Count);
            var shares = 12 + random.Next(20);
            for (var i = 0; i < shares; i++)
            {
                Add(
                    day + (i * 0.001),
                    "share.link",
                    actor,
                    "198.51.100.90",
                    string.Create(CultureInfo.InvariantCulture, $"Tariff/{i}")
                );
            }

            Note("Shares before leaving", actor, first, Math.Min(events.Count - 1, first + 11));
        }

        /// <summary>Innocent: a folder is moved as announced.</summary>
        private void Move()
        {
            var (actor, day) = (Somebody(), Math.Floor(Day()) + 0.4);
            for (var i = 0; i < 300; i++)
            {
                Add(
                    day + (i * 0.0002),
                    "file.move",
                    actor,
                    "192.0.2.52",
                    string.Create(CultureInfo.InvariantCulture, $"Reports/{i}")
                );
            }
        }

        /// <summary>Innocent: somebody works from a neighbouring country for a week, as others did before.</summary>
        private void Traveller()
        {
            var (actor, day) = (Somebody(), Math.Floor(Day()));
            for (var i = 0; i < 4; i++)
            {
                Add(day + i + 0.35, "sign-in", actor, "203.0.113.7");
            }

            Add(3.4, "sign-in", Somebody(), "203.0.113.9");
        }
    }
}
