using System.Globalization;
using System.Text;
using System.Text.Json.Nodes;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.Activity;

namespace WideKeel.Demo;

/// <summary>The systems whose logs the demo takes in, each in a format of its own.</summary>
public enum DemoSystem
{
    /// <summary>Sign-ins: objects of OCSF, sent with a key.</summary>
    Identity,

    /// <summary>The file server: our JSON Lines in a watched folder.</summary>
    Files,

    /// <summary>Addresses and the log itself: syslog over TCP.</summary>
    Gateway,

    /// <summary>The mail server: a table with commas, handed over.</summary>
    Mail,

    /// <summary>The portal for sharing: a table with semicolons and local times, handed over.</summary>
    Portal,
}

/// <summary>What somebody planted, to hold a detector against; kept apart from the logs.</summary>
public sealed record PlantedIncident(string Name, string Actor, Instant From, Instant To, bool Innocent, int Events);

/// <summary>
/// Ninety days of the logs of Tarnholm Ferries: office hours, shifts and weekends, a season that grows, and what people
/// planted in between. Made from a seed.
/// </summary>
public sealed class Logs
{
    private const int Days = 90;
    private readonly Random random;
    private readonly LocalDate today;
    private readonly int scale;
    private readonly List<Person> people;
    private readonly List<(DemoSystem System, ActivityEvent Event)> events = [];
    private readonly List<PlantedIncident> planted = [];
    private int next;

    private sealed record Person(string Mail, string Unit, bool Shifts, int Number)
    {
        public string Device => string.Create(CultureInfo.InvariantCulture, $"WS-{Number:000}");

        /// <summary>Offices have IPv4 addresses, which change hands; crews have IPv6.</summary>
        public string AddressOn(int day) =>
            Shifts
                ? string.Create(CultureInfo.InvariantCulture, $"2001:db8:c::{Number:x}")
                : string.Create(CultureInfo.InvariantCulture, $"192.0.2.{1 + ((Number + (7 * (Days + day))) % 120)}");
    }

    /// <param name="today">The day of the demo; the logs end in its early morning.</param>
    public Logs(int seed, LocalDate today, int scale)
    {
        (random, this.today, this.scale) = (new(seed + 77), today, scale);
        people =
        [
            .. Story
                .People(seed)
                .Split('\n', StringSplitOptions.RemoveEmptyEntries)
                .Skip(1)
                .Select(l => l.Split(','))
                .Where(p => p[5].Length == 0 || string.CompareOrdinal(p[5], LocalDatePattern.Iso.Format(today)) > 0)
                .Select(
                    (p, i) => new Person(p[1], p[2], p[2] is "Northern Routes" or "Island Routes" or "Crewing", i + 1)
                ),
        ];
        for (var day = -Days; day <= 0; day++)
        {
            Usual(day);
        }

        new LogStories(this, people[0].Mail).Plant();
        events.Sort((a, b) => a.Event.Time.CompareTo(b.Event.Time));
    }

    public IReadOnlyList<PlantedIncident> Planted => planted;

    public int Count => events.Count;

    /// <summary>The networks that the organisation names.</summary>
    public static IReadOnlyList<(string Name, string[] Ranges, bool Egress)> Networks { get; } =
    [
        ("office", ["192.0.2.0/25"], false),
        ("yard", ["192.0.2.128/26"], false),
        ("crew", ["2001:db8:c::/48"], false),
        ("vpn", ["198.51.100.0/26"], true),
    ];

    /// <summary>Where addresses are: invented places behind the documentation ranges.</summary>
    public static IReadOnlyList<(string Range, string Country, string Name, double Lat, double Lon)> Places { get; } =
    [
        ("192.0.2.0/24", "XA", "Tarnholm", 61.9, -6.9),
        ("2001:db8:c::/48", "XA", "At sea", 62.4, -5.2),
        ("198.51.100.0/26", "XA", "Tarnholm exit", 61.9, -6.8),
        ("198.51.100.64/26", "XB", "Skarv", 60.2, -1.3),
        ("203.0.113.0/27", "XC", "Northport", 53.5, 8.1),
        ("203.0.113.32/27", "XD", "Lagunda", 13.8, 100.5),
        ("203.0.113.64/27", "XE", "Vesterbad", 40.7, -74.0),
        ("203.0.113.96/27", "XF", "Oderin", 52.2, 21.0),
        ("203.0.113.128/25", "XG", "Calder", 19.4, -99.1),
    ];

    /// <summary>A moment of a day before the demo's, in UTC.</summary>
    internal Instant At(int day, double hour) =>
        today.PlusDays(day).AtStartOfDayInZone(DateTimeZone.Utc).ToInstant()
        + Duration.FromMilliseconds((long)(hour * 3_600_000));

    internal void Add(
        DemoSystem system,
        Instant time,
        string action,
        string? actor,
        Func<ActivityEvent, ActivityEvent> with
    )
    {
        var id = string.Create(
            CultureInfo.InvariantCulture,
            $"{system.ToString().ToLowerInvariant()[..2]}-{time.ToUnixTimeSeconds():x}-{++next:x}"
        );
        events.Add(
            (
                system,
                with(
                    new()
                    {
                        Id = id,
                        Time = Instant.FromUnixTimeMilliseconds(time.ToUnixTimeMilliseconds()),
                        Action = action,
                        Actor = actor,
                        Outcome = EventOutcome.Success,
                    }
                )
            )
        );
    }

    internal void Note(string name, string actor, Instant from, Instant to, int count, bool innocent = false) =>
        planted.Add(new(name, actor, from, to, innocent, count));

    /// <summary>One usual day: who works, from when to when, and what they do.</summary>
    private void Usual(int day)
    {
        var date = today.PlusDays(day);
        var weekend = date.DayOfWeek is IsoDayOfWeek.Saturday or IsoDayOfWeek.Sunday;
        // The season grows towards summer.
        var season = 0.8 + (0.4 * (Days + day) / Days);
        foreach (var person in people)
        {
            if (
                random.NextDouble()
                > (
                    person.Shifts ? 0.7
                    : weekend ? 0.04
                    : 0.86
                ) * season
            )
            {
                continue;
            }

            var start = person.Shifts ? random.NextDouble() * 20 : 6 + (random.NextDouble() * 2);
            if (day == 0 && start > 7)
            {
                continue;
            }

            Working(person, day, start);
        }

        Backup(day);
    }

    private void Working(Person person, int day, double start)
    {
        var address = person.AddressOn(day);
        Add(
            DemoSystem.Gateway,
            At(day, start - 0.02),
            "device.lease",
            "dhcp",
            e => e with { Device = person.Device, Address = address, Target = person.Device }
        );
        if (random.Next(14) == 0)
        {
            string[] codes =
            [
                "bad-password",
                "bad-password",
                "bad-password",
                "mfa-timeout",
                "password-expired",
                "device-out-of-date",
            ];
            SignIn(
                person.Mail,
                At(day, start),
                address,
                person.Device,
                EventOutcome.Failure,
                codes[random.Next(codes.Length)]
            );
        }
        else if (random.Next(30) == 0)
        {
            SignIn(person.Mail, At(day, start), address, person.Device, EventOutcome.Interrupted, "mfa-required");
        }

        SignIn(person.Mail, At(day, start + 0.01), address, person.Device, EventOutcome.Success, null);
        var acts = (2 + random.Next(6)) * scale;
        var hours = day == 0 ? 0.8 : 8;
        for (var i = 0; i < acts; i++)
        {
            Act(person, At(day, Math.Min(23.9, start + 0.1 + (random.NextDouble() * hours))), address);
        }
    }

    internal void SignIn(string actor, Instant time, string address, string? device, EventOutcome outcome, string? code)
    {
        string[] applications = ["Mail", "Fleet share", "Portal", "Crew roster"];
        var application = applications[random.Next(applications.Length)];
        Add(
            DemoSystem.Identity,
            time,
            "sign-in",
            actor,
            e =>
                e with
                {
                    Address = address,
                    Device = device,
                    Application = application,
                    Outcome = outcome,
                    Code = code,
                }
        );
    }

    // Long because each kind of act is one branch.
    private void Act(Person person, Instant time, string address)
    {
        string[] names =
        [
            "Voyage report",
            "Oil record page",
            "Work order",
            "Invoice",
            "Passenger count",
            "Roster",
            "Minutes",
            "Near miss",
        ];
        var kind = random.Next(100);
        var file = string.Create(
            CultureInfo.InvariantCulture,
            $"{person.Unit}/{names[random.Next(names.Length)]} {1 + random.Next(400)}.docx"
        );
        ActivityEvent In(ActivityEvent e) =>
            e with
            {
                Object = file,
                Container = person.Unit,
                Address = address,
                Device = person.Device,
                Amount = 2_000 + random.Next(400_000),
            };
        if (kind < 52)
        {
            Add(DemoSystem.Files, time, "file.read", person.Mail, In);
        }
        else if (kind < 72)
        {
            Add(DemoSystem.Files, time, "file.write", person.Mail, In);
        }
        else if (kind < 80)
        {
            Add(DemoSystem.Files, time, "file.download", person.Mail, In);
        }
        else if (kind < 81)
        {
            Add(DemoSystem.Files, time, "file.delete", person.Mail, In);
        }
        else if (kind < 82)
        {
            Add(
                DemoSystem.Files,
                time,
                "file.read",
                person.Mail,
                e => In(e) with { Outcome = EventOutcome.Failure, Code = "not-allowed" }
            );
        }
        else if (kind < 98)
        {
            var other = people[random.Next(people.Count)].Mail;
            Add(
                DemoSystem.Mail,
                time,
                "mail.send",
                person.Mail,
                e => e with { Target = other, Address = address, Amount = 1_000 + random.Next(90_000) }
            );
        }
        else
        {
            Add(
                DemoSystem.Portal,
                time,
                "share.add",
                person.Mail,
                e => e with { Object = file, Target = people[random.Next(people.Count)].Mail, Address = address }
            );
        }
    }

    /// <summary>The account that copies everything at night: noisy, and innocent.</summary>
    private void Backup(int day)
    {
        if (day == 0)
        {
            return;
        }

        for (var i = 0; i < 40; i++)
        {
            var number = i;
            Add(
                DemoSystem.Files,
                At(day, 1 + (i / 60.0)),
                "file.read",
                "svc.backup@tarnholm.example",
                e =>
                    e with
                    {
                        ActorKind = ActorKind.Service,
                        Object = string.Create(CultureInfo.InvariantCulture, $"Nightly/part {number}"),
                        Container = "Nightly",
                        Address = "192.0.2.126",
                        Device = "SRV-BACKUP",
                        Amount = 900_000_000,
                    }
            );
        }
    }

    /// <summary>The log of one system in its format.</summary>
    public string Write(DemoSystem system)
    {
        var text = new StringBuilder();
        text.Append(
            system switch
            {
                DemoSystem.Mail => "When,From,To,Bytes,Client,Action,Result,Ref\n",
                DemoSystem.Portal => "Zeit;Konto;Vorgang;Datei;An;Adresse;Nr\n",
                _ => "",
            }
        );
        foreach (var (_, e) in events.Where(e => e.System == system))
        {
            text.Append(Line(system, e)).Append('\n');
        }

        return text.ToString();
    }

    /// <summary>The words of the portal for what it does.</summary>
    public static IReadOnlyDictionary<string, string> PortalWords { get; } =
        new Dictionary<string, string>
        {
            ["Freigabe"] = "share.add",
            ["Link"] = "share.link",
            ["Einladung"] = "invite.add",
            ["Zustimmung"] = "app.consent",
            ["Rolle"] = "role.add",
        };

    private static readonly LocalDateTimePattern PortalTime = LocalDateTimePattern.CreateWithInvariantCulture(
        "dd.MM.uuuu HH:mm:ss"
    );

    private static string Line(DemoSystem system, ActivityEvent e) =>
        system switch
        {
            DemoSystem.Identity => Ocsf(e),
            DemoSystem.Files => EventLine.Write(e).ToJsonString(),
            DemoSystem.Gateway => $"<134>1 {EventLine.Text(e.Time)} {e.Device ?? "gw-1"} gateway - {e.Action} "
                + $"[tarnholm@32473 id=\"{e.Id}\" user=\"{e.Actor}\" src=\"{e.Address ?? "192.0.2.125"}\" outcome=\"success\"] -",
            DemoSystem.Mail => string.Join(
                ',',
                EventLine.Text(e.Time),
                e.Actor,
                e.Target,
                e.Amount?.ToString(CultureInfo.InvariantCulture),
                e.Address,
                e.Action,
                e.Outcome,
                e.Id
            ),
            DemoSystem.Portal => string.Join(
                ';',
                PortalTime.Format(e.Time.InZone(DateTimeZoneProviders.Tzdb[Scenario.Zone]).LocalDateTime),
                e.Actor,
                PortalWords.First(w => w.Value == e.Action).Key,
                e.Object,
                e.Target,
                e.Address,
                e.Id
            ),
            _ => throw new ArgumentOutOfRangeException(nameof(system)),
        };

    private static string Ocsf(ActivityEvent e)
    {
        var line = OcsfLine.Write(e);
        line.Remove("unmapped");
        line["class_uid"] = 3002;
        line["activity_id"] = 1;
        line["status_id"] = e.Outcome switch
        {
            EventOutcome.Success => 1,
            EventOutcome.Failure => 2,
            _ => 99,
        };
        line["actor"] = new JsonObject { ["user"] = new JsonObject { ["email_addr"] = e.Actor } };
        return line.ToJsonString();
    }
}
