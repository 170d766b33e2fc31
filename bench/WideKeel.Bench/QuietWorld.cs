using System.Globalization;
using NodaTime;
using WideKeel.Core.Activity;

/// <summary>
/// Twelve weeks with incidents that are done slowly, spread out or quietly, and what looks like them and is none: a
/// quarter's end, a new job, a public holiday, weeks of leave, a migration.
/// </summary>
internal sealed class QuietWorld : SeededWorld
{
    private const int Half = 42;
    private const int NewJob = 7;
    private const string Backup = "svc.backup@x.example";
    private const string Gateway = "svc.gateway@x.example";
    private const string Scanner = "svc.scanner@x.example";
    private static readonly int[] Holidays = [17, Half + 17];
    private readonly int quarterEnd;
    private readonly int newJobFrom;
    private readonly Dictionary<int, int> leaves = [];
    private double quietFrom;
    private double quietUntil;
    private bool dressesService = true;

    public QuietWorld(int seed)
        : base(seed, 2 * Half)
    {
        quarterEnd = Half + 7 + (7 * Random.Next(3));
        newJobFrom = Half + 3 + Random.Next(20);
        for (var i = 0; i < 12; i++)
        {
            leaves[20 + Random.Next(130)] = Half - 10 + Random.Next(30);
        }

        // One of the machines falls silent for two days and a half.
        quietFrom = Day() + 0.3;
        quietUntil = quietFrom + 2.5;
        Live();
        Machines();
        foreach (var plant in Plants())
        {
            plant();
        }
    }

    /// <summary>As the directory knows them at the end, after a new job.</summary>
    public override IReadOnlyList<WatchPerson> People =>
        [.. base.People.Select((p, i) => i == NewJob ? p with { Unit = "Office", Title = "Staff" } : p)];

    protected override bool IsAway(int day, string unit, int number) =>
        (Holidays.Contains(day) && unit != "Crew")
        || (leaves.TryGetValue(number, out var from) && day >= from && day < from + 14);

    protected override double Busy(int day, string unit) =>
        unit == "Finance" && day >= quarterEnd && day < quarterEnd + 5 ? 2.2 : 1;

    protected override string UnitOf(int day, string unit, int number) =>
        number == NewJob && day >= newJobFrom ? "Office"
        // Now and then everybody looks at something of the whole house.
        : Random.Next(12) == 0 ? "House"
        : unit;

    protected override ActivityEvent With(ActivityEvent e)
    {
        var service = e.Actor?.StartsWith("svc.", StringComparison.Ordinal) == true;
        return e with
        {
            ActorKind = service ? ActorKind.Service : ActorKind.Person,
            Channel = e.Actor switch
            {
                Gateway => "gateway",
                Scanner => "scanner",
                _ => e.Channel,
            },
            Container = e.Object?.Split('/')[0],
            Device = service && dressesService ? "server" : $"d-{e.Actor}",
            Application = service && dressesService ? "agent" : "desk",
        };
    }

    private void Machines()
    {
        for (var hour = 0; hour < Days * 24; hour++)
        {
            for (var i = 0; i < 3; i++)
            {
                var at = (hour + Random.NextDouble()) / 24;
                if (at < quietFrom || at > quietUntil)
                {
                    Add(at, "config.change", Gateway, "192.0.2.250", "Routes/table");
                }
            }

            if (hour % 24 == 2)
            {
                Add((hour + (Random.NextDouble() * 0.3)) / 24, "file.read", Scanner, "192.0.2.249", "Scans/all");
            }
        }
    }

    private IEnumerable<Action> Plants()
    {
        yield return SilentChannel;
        yield return () => Slowly("Slow export", "file.download", 14, 9);
        yield return () => Slowly("Slow deletion", "file.delete", 10, 4);
        yield return OtherUnits;
        yield return SpreadGuessing;
        yield return ServiceAccount;
        yield return Sleeper;
        yield return LentRole;
        yield return TwoPlaces;
        yield return Migration;
    }

    private int Planted => (int)Day();

    private string Colleague()
    {
        while (true)
        {
            var (mail, _, shifts, number) = Staff[Random.Next(Staff.Count)];
            if (!shifts && number != NewJob && !leaves.ContainsKey(number))
            {
                return mail;
            }
        }
    }

    private void SilentChannel() =>
        Incidents.Add(
            new("Silent channel", "gateway", At(quietFrom), At(quietFrom + 0.25), At(quietUntil), new HashSet<string>())
        );

    private static Instant At(double day) => Start + Duration.FromDays(day);

    /// <summary>On working days, in the hours in which people work.</summary>
    private void OnDays(int days, int from, Action<double> act)
    {
        for (var day = from; days > 0; day++)
        {
            if (day % 7 < 5)
            {
                act(day + 0.35 + (Random.NextDouble() * 0.1));
                days--;
            }
        }
    }

    /// <summary>More each day than before, never much at once; it could be known after the fifth day.</summary>
    private void Slowly(string kind, string action, int days, int aDay)
    {
        var (actor, first, decisive, done) = (Colleague(), Events.Count, 0, 0);
        OnDays(
            days,
            Planted - 6,
            at =>
            {
                for (var i = aDay + Random.Next(aDay); i > 0; i--)
                {
                    Add(
                        at + (i * 0.01),
                        action,
                        actor,
                        "192.0.2.44",
                        string.Create(CultureInfo.InvariantCulture, $"House/{Random.Next(5000)}")
                    );
                }

                decisive = ++done == 5 ? Events.Count - 1 : decisive;
            }
        );
        Note(kind, actor, first, decisive);
    }

    private void OtherUnits()
    {
        string[] units = ["Crew", "Yard", "Sales", "Finance", "Legal", "Office", "IT", "Safety"];
        var (actor, first, decisive, done) = (Colleague(), Events.Count, 0, 0);
        OnDays(
            10,
            Planted - 6,
            at =>
            {
                foreach (var unit in units.OrderBy(_ => Random.Next()).Take(4))
                {
                    at += 0.004;
                    Add(at, "file.read", actor, "192.0.2.47", $"{unit}/{Random.Next(500)}");
                }

                decisive = ++done == 5 ? Events.Count - 1 : decisive;
            }
        );
        Note("Other units’ content", actor, first, decisive);
    }

    private void SpreadGuessing()
    {
        var (day, first) = (Day(), Events.Count);
        for (var i = 0; i < 240; i++)
        {
            Fail(day + (i * 0.0083), Somebody(), Abroad());
        }

        Note("Guessing spread out", null, first, first + 60);
    }

    private void ServiceAccount()
    {
        var (day, first) = (Planted + 0.6, Events.Count);
        dressesService = false;
        AddRun(6, day, 0.01, "file.read", Backup, "192.0.2.77", "Legal");

        dressesService = true;
        Note("Service account out of character", Backup, first, first);
    }

    private void Sleeper()
    {
        const string actor = "sleeper@x.example";
        Add(1.4, "sign-in", actor, "192.0.2.91");
        var first = Events.Count;
        var day = Planted + 0.5;
        Add(day, "sign-in", actor, "192.0.2.91");
        Add(day + 0.01, "file.read", actor, "192.0.2.91", "House/1");
        Note("Dormant account becomes active", actor, first, first);
    }

    private void LentRole()
    {
        var (actor, day, first) = (Colleague(), Planted + 0.7, Events.Count);
        Add(day, "role.add", "admin@x.example", "192.0.2.9", actor);
        for (var i = 0; i < 12; i++)
        {
            Add(day + 0.02 + (i * 0.002), "file.download", actor, "192.0.2.60", "Finance/ledger");
        }

        Add(day + 0.1, "role.remove", "admin@x.example", "192.0.2.9", actor);
        Note("Role lent and taken back", actor, first, first);
    }

    private void TwoPlaces()
    {
        var (actor, day, first) = (Colleague(), Planted + 0.42, Events.Count);
        Add(day, "file.read", actor, "192.0.2.60", "House/2");
        Add(day + 0.003, "mail.send", actor, "203.0.113.140");
        Note("Two places at once", actor, first, first + 1);
    }

    /// <summary>Innocent: somebody of IT moves a share, four hundred files a day.</summary>
    private void Migration()
    {
        var (actor, day) = (Staff.First(p => p.Unit == "IT").Mail, Planted);
        OnDays(
            3,
            day,
            at =>
            {
                AddRun(400, at, 0.0004, "file.move", actor, "192.0.2.52", "Reports");
            }
        );
    }
}
