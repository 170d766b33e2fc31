using System.Globalization;
using NodaTime;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

/// <param name="Key">Whose: an account or a channel; null where it is nobody's alone.</param>
/// <param name="Decisive">When it could be known.</param>
/// <param name="Until">Its last event: an alert to any of them is no false one.</param>
/// <param name="Events">The ids of its events.</param>
internal sealed record Incident(
    string Kind,
    string? Key,
    Instant From,
    Instant Decisive,
    Instant Until,
    IReadOnlySet<string> Events
);

/// <summary>
/// One organisation of 150 people, made by a seed: the first half of its days to learn from, incidents in the other half.
/// </summary>
internal abstract class SeededWorld
{
    private static readonly string[] Units = ["Crew", "Yard", "Sales", "Finance", "Legal", "Office", "IT", "Safety"];

    /// <summary>Of somebody who had left before the world began.</summary>
    public const string Gone = "gone@x.example";

    private readonly Random random;
    private int made;
    private readonly List<ActivityEvent> events = [];
    private readonly Dictionary<string, string?> actors = [];
    private readonly List<(string Mail, string Unit, bool Shifts, int Number)> staff = [];

    protected SeededWorld(int seed, int days)
    {
        (random, Days) = (new(seed), days);
        for (var i = 0; i < 150; i++)
        {
            var unit = Units[random.Next(Units.Length)];
            staff.Add((string.Create(CultureInfo.InvariantCulture, $"p{i}@x.example"), unit, unit == "Crew", i));
        }
    }

    /// <summary>Somebody who does not work on a day.</summary>
    protected virtual bool IsAway(int day, string unit, int number) => false;

    /// <summary>How often somebody does what they do on a day.</summary>
    protected virtual double Busy(int day, string unit) => 1;

    /// <summary>Where somebody's work lies on a day.</summary>
    protected virtual string UnitOf(int day, string unit, int number) => unit;

    /// <summary>An event with what this kind of world knows besides.</summary>
    protected virtual ActivityEvent With(ActivityEvent e) => e;

    /// <summary>What everybody does on every day.</summary>
    protected void Live()
    {
        for (var day = 0; day < Days; day++)
        {
            Usual(day);
        }
    }

    public static Instant Start { get; } = Instant.FromUtc(2026, 3, 2, 0, 0);

    public int Days { get; }

    /// <summary>From here on incidents are planted and alerts are judged.</summary>
    public Instant Judged => Start + Duration.FromDays(Days / 2);

    protected Random Random => random;

    protected IReadOnlyList<(string Mail, string Unit, bool Shifts, int Number)> Staff => staff;

    public IReadOnlyList<ActivityEvent> Events => events;

    public List<Incident> Incidents { get; } = [];

    public Instant End => Start + Duration.FromDays(Days);

    public NamedNetworks Networks { get; } =
        new([
            new("office", [Cidr.Read("192.0.2.0/24")!.Value], false),
            new("vpn", [Cidr.Read("198.51.100.0/26")!.Value], true),
        ]);

    public virtual IReadOnlyList<WatchPerson> People =>
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

    protected ActivityEvent Add(double day, string action, string? actor, string address, string? what = null)
    {
        var e = new ActivityEvent
        {
            Id = string.Create(CultureInfo.InvariantCulture, $"e{made++}"),
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
        e = With(e);
        events.Add(e);
        actors[e.Id] = actor;
        return e;
    }

    /// <summary>The same action on one file of a folder after another.</summary>
    /// <param name="step">Days between two events.</param>
    protected void AddRun(
        int count,
        double day,
        double step,
        string action,
        string actor,
        string address,
        string folder
    )
    {
        for (var i = 0; i < count; i++)
        {
            Add(day + (i * step), action, actor, address, string.Create(CultureInfo.InvariantCulture, $"{folder}/{i}"));
        }
    }

    protected void Fail(double day, string actor, string address)
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

            if (IsAway(day, unit, number))
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
            for (var i = (int)((2 + random.Next(14)) * Busy(day, unit)); i > 0; i--)
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
                    string.Create(CultureInfo.InvariantCulture, $"{UnitOf(day, unit, number)}/{random.Next(500)}")
                );
            }
        }

        AddRun(60, day + 0.05, 0.0006, "file.read", "svc.backup@x.example", "192.0.2.251", "Backup");
    }

    /// <summary>What somebody did on some days did not happen: they were elsewhere.</summary>
    protected void Forget(string actor, double from, int days)
    {
        var (since, before) = (Start + Duration.FromDays(from), Start + Duration.FromDays(from + days));
        events.RemoveAll(e =>
            e.Actor == actor && e.Time >= since && e.Time < before && !Incidents.Any(i => i.Events.Contains(e.Id))
        );
    }

    protected string Somebody() => staff[random.Next(staff.Count)].Mail;

    protected double Day() => (Days / 2) + 2 + (random.NextDouble() * ((Days / 2) - 12));

    protected void Note(string kind, string? actor, int first, int decisive) =>
        Incidents.Add(
            new(
                kind,
                actor,
                events[first].Time,
                events[decisive].Time,
                events[^1].Time,
                events.Skip(first).Select(e => e.Id).ToHashSet()
            )
        );

    protected string Abroad() => string.Create(CultureInfo.InvariantCulture, $"203.0.113.{random.Next(250)}");
}
