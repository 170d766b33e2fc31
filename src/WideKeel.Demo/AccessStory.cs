using NodaTime;
using NodaTime.Text;
using WideKeel.Core.People;

namespace WideKeel.Demo;

/// <summary>
/// Who belongs to which group of Tarnholm Ferries, and who was given what: nested groups with one cycle, inherited and
/// broken inheritance, links, consents, guests, and the things that should not be so.
/// </summary>
public sealed class AccessStory
{
    private static readonly string[] Projects =
    [
        "Dry dock 2026",
        "Pier 4 repair",
        "Fuel tender",
        "Summer timetable",
        "Ticket machines",
        "Crew roster renewal",
        "Island freight",
        "Safety week",
        "Winter moorings",
        "Fare review",
        "Hybrid ferry",
        "Archive move",
    ];

    private static readonly string[] Folders =
    [
        "Reports",
        "Contracts",
        "Minutes",
        "Plans",
        "Correspondence",
        "Restricted",
    ];

    private static readonly string[] Services = ["backup", "gateway", "scanner", "timetable", "payments", "monitor"];

    private static readonly string[] ProjectFolders = ["Drawings", "Costs", "Diary", "Photographs"];

    private readonly Random random;
    private readonly LocalDate today;
    private readonly List<OutsidePerson> people = [];
    private readonly List<OutsideGroup> groups = [];
    private readonly List<OutsideResource> resources = [];
    private readonly HashSet<OutsideGrant> grants = [];

    public AccessStory(int seed, LocalDate today)
    {
        (random, this.today) = (new(seed + 5), today);
        AddPeople(seed);
        AddGroups();
        AddResources();
        AddGrants();
    }

    /// <summary>The whole directory.</summary>
    public DirectoryState State => new(people, groups, resources, [.. grants], Applications());

    /// <summary>Two roles that nobody should have together, each as a resource and a role.</summary>
    public static IReadOnlyList<(
        string Name,
        string First,
        string FirstRole,
        string Second,
        string SecondRole
    )> Toxic { get; } =
    [
        ("Orders and pays", "app/purchasing", "orders", "app/payments", "approves"),
        ("Rosters and pays wages", "app/crew-roster", "plans", "app/payroll", "approves"),
    ];

    private static string Slug(string name) =>
        name.ToLowerInvariant().Replace(" & ", "-", StringComparison.Ordinal).Replace(' ', '-');

    private static IEnumerable<string> Units => Scenario.Units.Select(u => u.Name);

    /// <summary>The first days of those who joined this spring; each is that of one person in so many.</summary>
    private static readonly string[] Joined = ["2026-04-01", "2026-05-04", "2026-06-01"];

    private const int OneJoinedIn = 25;

    private static string? JoinedOn(int person) =>
        person % OneJoinedIn == OneJoinedIn - 1 ? Joined[person / OneJoinedIn % Joined.Length] : null;

    private void AddPeople(int seed)
    {
        foreach (var line in Story.People(seed).Split('\n', StringSplitOptions.RemoveEmptyEntries).Skip(1))
        {
            var cells = line.Split(',');
            people.Add(
                new(
                    cells[1],
                    cells[0],
                    Unit: cells[2],
                    Title: cells[3],
                    Manager: cells[4],
                    Left: cells[5].Length > 0
                        ? LocalDatePattern.Iso.Format(LocalDatePattern.Iso.Parse(cells[5]).Value.PlusDays(1))
                        : null,
                    SecondFactor: random.Next(14) > 0,
                    Joined: JoinedOn(people.Count)
                )
            );
        }

        (string Name, string Firm, string Sponsor)[] guests =
        [
            ("Arvid Skov", "surveyors", "bo.ekberg"),
            ("Berit Noll", "surveyors", "bo.ekberg"),
            ("Casper Ley", "surveyors", "goran.haugen"),
            ("Dorte Quill", "yardhands", "pia.lind"),
            ("Egon Farr", "yardhands", "pia.lind"),
            ("Fie Holm", "yardhands", "goran.haugen"),
            ("Gerd Astrup", "yardhands", "bo.ekberg"),
            ("Halvor Tind", "auditors", "ines.calloway"),
            ("Iver Brun", "printers", "lena.marsh"),
            ("Jytte Rand", "counsel", "vera.quist"),
            ("Kaj Moss", "counsel", "vera.quist"),
            ("Lone Frey", "insurers", "henrik.wick"),
            ("Mads Orre", "insurers", "henrik.wick"),
            ("Nete Vang", "fuelbroker", "ruth.ferro"),
        ];
        people.AddRange(
            guests.Select(g => new OutsidePerson(
                $"{g.Name.ToLowerInvariant().Replace(' ', '.')}@{g.Firm}.example",
                g.Name,
                "guest",
                Title: "Guest",
                Sponsor: $"{g.Sponsor}@tarnholm.example",
                SecondFactor: random.Next(3) > 0
            ))
        );
        people.AddRange(
            Services.Select(s => new OutsidePerson(
                $"svc.{s}@tarnholm.example",
                $"Service {s}",
                "service",
                Unit: "Information Systems",
                Title: "Service account",
                SecondFactor: false
            ))
        );
    }

    // Long because each group of the story has its own words.
    private void AddGroups()
    {
        foreach (var unit in Units)
        {
            var keeper = Scenario.MailOf(Scenario.Keepers.GetValueOrDefault(unit, "Astrid Moen"));
            groups.Add(new($"{unit} staff", $"{unit} staff", keeper, Of(unit)));
            groups.Add(new($"{unit} leads", $"{unit} leads", keeper, [keeper]));
            groups.Add(new($"{unit} readers", $"{unit} readers", keeper, [$"{unit} staff", $"{unit} leads"]));
        }

        groups.AddRange(
            Scenario.Groups.Select(g => new OutsideGroup(
                g.Group,
                g.Group,
                g.Group == "Masters" ? null : "astrid.moen@tarnholm.example",
                g.Members
            ))
        );
        groups.Add(
            new(
                "All staff",
                "All staff",
                "stina.dorn@tarnholm.example",
                [.. Units.Select(u => $"{u} readers"), "Everyone"]
            )
        );
        // Contractors of the yard were put into the project, and the project among the contractors.
        groups.Add(
            new(
                "Yard contractors",
                "Yard contractors",
                null,
                [
                    .. people
                        .Where(p => p.Id.EndsWith("@yardhands.example", StringComparison.Ordinal))
                        .Select(p => p.Id),
                    "Dry dock 2026",
                ]
            )
        );
        groups.Add(
            new(
                "Surveyors",
                "Surveyors",
                "bo.ekberg@tarnholm.example",
                [.. people.Where(p => p.Id.EndsWith("@surveyors.example", StringComparison.Ordinal)).Select(p => p.Id)]
            )
        );
        foreach (var project in Projects)
        {
            List<string> members =
            [
                .. Pick(people.Where(p => p.Kind == "person").ToList(), 6 + random.Next(6)).Select(p => p.Id),
            ];
            if (project == "Dry dock 2026")
            {
                members.AddRange(["Yard contractors", "Surveyors"]);
            }

            groups.Add(new(project, project, members[0], members));
        }
    }

    // Long because each kind of place is made in its own way.
    private void AddResources()
    {
        foreach (var unit in Units)
        {
            var (library, keeper) = (
                $"lib/{Slug(unit)}",
                Scenario.MailOf(Scenario.Keepers.GetValueOrDefault(unit, "Astrid Moen"))
            );
            resources.Add(
                new(
                    library,
                    unit,
                    "library",
                    null,
                    true,
                    unit is "Crewing" or "Freight & Ticketing" ? null : keeper,
                    unit is "Yard & Engineering" or "Passenger Services",
                    false,
                    unit == "Island Routes" ? "Island authorities" : null,
                    []
                )
            );
            foreach (var folder in Folders)
            {
                var restricted = folder == "Restricted";
                resources.Add(
                    new(
                        $"{library}/{Slug(folder)}",
                        $"{unit}: {folder}",
                        "library",
                        library,
                        !restricted,
                        restricted ? keeper : null,
                        false,
                        restricted || (unit is "People" or "Crewing" && folder == "Contracts"),
                        null,
                        []
                    )
                );
            }

            resources.Add(
                new(
                    $"mailbox/{Slug(unit)}",
                    $"Mailbox of {unit}",
                    "mailbox",
                    null,
                    true,
                    keeper,
                    false,
                    false,
                    null,
                    []
                )
            );
        }

        for (var i = 0; i < Projects.Length; i++)
        {
            var root = $"share/{Slug(Projects[i])}";
            resources.Add(
                new(
                    root,
                    Projects[i],
                    "share",
                    null,
                    true,
                    groups.Single(g => g.Id == Projects[i]).Owner,
                    true,
                    false,
                    null,
                    []
                )
            );
            resources.AddRange(
                ProjectFolders.Select(f => new OutsideResource(
                    $"{root}/{Slug(f)}",
                    $"{Projects[i]}: {f}",
                    "share",
                    root,
                    true,
                    null,
                    true,
                    f == "Costs",
                    null,
                    []
                ))
            );
        }

        foreach (var (id, name, _) in Systems)
        {
            resources.Add(
                new(
                    id,
                    name,
                    "application",
                    null,
                    true,
                    "jonas.aske@tarnholm.example",
                    false,
                    id is "app/payroll" or "app/medical",
                    null,
                    []
                )
            );
        }

        AddLinks();
    }

    private static readonly (string Id, string Name, string[] Roles)[] Systems =
    [
        ("app/purchasing", "Purchasing", ["orders", "reads"]),
        ("app/payments", "Payments", ["approves", "reads"]),
        ("app/payroll", "Payroll", ["approves", "reads"]),
        ("app/crew-roster", "Crew roster", ["plans", "reads"]),
        ("app/tickets", "Ticketing", ["sells", "reads"]),
        ("app/medical", "Fitness certificates", ["reads"]),
        ("app/yard-plan", "Yard plan", ["plans", "reads"]),
        ("app/timetable", "Timetable", ["plans", "reads"]),
    ];

    private void AddLinks()
    {
        var open = Pick([.. Enumerable.Range(0, resources.Count).Where(i => resources[i].Parent is not null)], 25);
        for (var i = 0; i < open.Count; i++)
        {
            var resource = resources[open[i]];
            var by = Pick(people.Where(p => p.Kind == "person").ToList(), 1)[0].Id;
            resources[open[i]] = resource with
            {
                Links =
                [
                    new(
                        i < 9 ? "anyone" : "organisation",
                        i % 4 == 0 ? "editor" : "reader",
                        by,
                        i % 3 == 0 ? LocalDatePattern.Iso.Format(today.PlusDays(20 + (7 * i))) : null
                    ),
                ],
            };
        }
    }

    private void AddGrants()
    {
        foreach (var unit in Units)
        {
            var library = $"lib/{Slug(unit)}";
            Give($"{unit} staff", library, "editor");
            Give($"{unit} leads", library, "owner");
            Give($"{unit} leads", $"{library}/restricted", "owner");
            Give($"{unit} readers", $"mailbox/{Slug(unit)}", "reader");
            foreach (var other in Pick([.. Units.Where(u => u != unit)], 5))
            {
                foreach (var folder in Pick(Folders[..^1], 4))
                {
                    Give($"{other} readers", $"{library}/{Slug(folder)}", "reader");
                }
            }
        }

        foreach (var project in Projects)
        {
            Give(project, $"share/{Slug(project)}", "editor");
            foreach (var other in Pick(groups, 14))
            {
                Give(other.Id, $"share/{Slug(project)}", random.Next(3) == 0 ? "editor" : "reader");
            }
        }

        foreach (var (id, _, roles) in Systems)
        {
            foreach (var role in roles)
            {
                foreach (
                    var group in Pick(groups.Where(g => g.Id.EndsWith("leads", StringComparison.Ordinal)).ToList(), 3)
                )
                {
                    Give(group.Id, id, role);
                }
            }
        }

        Give("All staff", "app/timetable", "reads");
        Give("All staff", "lib/people", "reader");
        Give("Dry dock 2026", "lib/yard-engineering", "editor");
        GiveBySelf();
    }

    /// <summary>What was given to people and not to groups, and what nobody should have.</summary>
    private void GiveBySelf()
    {
        var staff = people.Where(p => p.Kind == "person").ToList();
        foreach (var resource in resources.Where(r => r.Kind is "library" or "share").ToList())
        {
            foreach (var person in Pick(staff, 6 + random.Next(3)))
            {
                Give(person.Id, resource.Id, random.Next(4) == 0 ? "editor" : "reader");
            }
        }

        Give("ruth.ferro@tarnholm.example", "app/purchasing", "orders");
        Give("ruth.ferro@tarnholm.example", "app/payments", "approves");
        Give("stina.dorn@tarnholm.example", "app/payroll", "approves");
        Give("stina.dorn@tarnholm.example", "app/crew-roster", "plans");
        Give("casper.ley@surveyors.example", "lib/safety-environment/restricted", "reader");
        Give("nete.vang@fuelbroker.example", "share/fuel-tender/costs", "editor");
        Give("svc.scanner@tarnholm.example", "lib/finance", "owner");
        Give("svc.timetable@tarnholm.example", "lib/crewing", "editor");
    }

    // Long because each application of the story has its own words.
    private List<OutsideApplication> Applications()
    {
        var used = LocalDatePattern.Iso.Format(today.PlusDays(-3));
        List<OutsideApplication> all =
        [
            new(
                "QuickSheet Sync",
                "QuickSheet Sync",
                "unknown publisher",
                [
                    new(
                        "stina.dorn@tarnholm.example",
                        ["all-files.read", "all-mail.read"],
                        LocalDatePattern.Iso.Format(today.PlusDays(-17))
                    ),
                ]
            ),
            new(
                "Tide tables",
                "Tide tables",
                "Skarv Charts",
                [
                    new(
                        "edvin.strand@tarnholm.example",
                        ["calendar.read"],
                        LocalDatePattern.Iso.Format(today.PlusDays(-210))
                    ),
                ]
            ),
            new(
                "Crew roster",
                "Crew roster",
                "Tarnholm Ferries",
                [new("organisation", ["profile.read", "calendar.write"], used)]
            ),
            new(
                "Meeting notes",
                "Meeting notes",
                "Papirus",
                [new("organisation", ["calendar.read", "all-files.write"], used)]
            ),
        ];
        foreach (
            var name in new[]
            {
                "Weather board",
                "Form builder",
                "Parcel labels",
                "Signature desk",
                "Map viewer",
                "Expense photos",
                "Shift swap",
                "Survey tool",
            }
        )
        {
            all.Add(
                new(
                    name,
                    name,
                    "Papirus",
                    [
                        .. Pick(people.Where(p => p.Kind == "person" && p.Left is null).ToList(), 3)
                            .Select(p => new OutsideConsent(
                                p.Id,
                                ["profile.read"],
                                LocalDatePattern.Iso.Format(today.PlusDays(-random.Next(60)))
                            )),
                    ]
                )
            );
        }

        return all;
    }

    private void Give(string to, string resource, string role) => grants.Add(new(to, resource, role));

    private List<string> Of(string unit) =>
        [.. people.Where(p => p.Unit == unit && p.Kind == "person").Select(p => p.Id)];

    private List<T> Pick<T>(IReadOnlyList<T> from, int count) => [.. from.OrderBy(_ => random.Next()).Take(count)];
}
