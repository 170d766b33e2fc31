using System.Text.Json;
using NodaTime;
using NodaTime.Text;
using WideKeel.Core.People;

namespace WideKeel.Demo;

/// <summary>
/// What three programs of Tarnholm Ferries know: the machines, who has done which course, and the tickets. Each is a file
/// of JSON as a connection reads it.
/// </summary>
public static class ProgramFiles
{
    private static readonly string[] Machines = ["bridge", "engine", "ticket", "desk", "server", "till"];

    private static readonly string[] Changes =
    [
        "New exit for work from home",
        "Ticket machines on the island",
        "Second mail gateway",
        "Bridge software of the Merrow",
        "Rules of the firewall at Northport",
        "Archive moves to new disks",
        "Payroll year change",
        "Timetable server to the new system",
        "Old file share read-only",
        "Roster application, second factor",
        "Alarm thresholds of the pumps",
        "Wireless network of the terminals",
        "New certificates of the gateway",
        "Cash desks, patch of the spring",
    ];

    private static readonly string[] Incidents =
    [
        "Till 4 lost its sales of an evening",
        "Laptop left on the island ferry",
        "Mail with a list of passengers to a wrong address",
        "Bridge display dark for ten minutes",
        "Door of the server room open",
        "Phishing mail answered by one person",
    ];

    /// <summary>The courses: name, units whose people are to do it (none for all), days that one lasts, share that is late.</summary>
    private static readonly (string Course, string[] Units, int Lasts, int LateInHundred)[] Courses =
    [
        ("Keeping records on board", ["Northern Routes", "Island Routes", "Crewing"], 365, 16),
        ("Second factor and phishing", [], 365, 6),
        ("What to do at an incident", ["Northern Routes", "Island Routes"], 730, 9),
    ];

    /// <summary>Names of the programs, and what each knows.</summary>
    public static IReadOnlyDictionary<string, string> Of(
        int seed,
        LocalDate today,
        IReadOnlyList<OutsidePerson> people
    ) =>
        new Dictionary<string, string>
        {
            ["hosts"] = Text(Hosts(new(seed + 11), today, people)),
            ["training"] = Text(Training(new(seed + 12), today, people)),
            ["tickets"] = Text(Tickets(new(seed + 13), today)),
        };

    private static string Text(IEnumerable<object> records) =>
        JsonSerializer.Serialize(new { records }, JsonSerializerOptions.Web);

    private static string? Iso(LocalDate? day) => day is { } known ? LocalDatePattern.Iso.Format(known) : null;

    private static IEnumerable<object> Hosts(Random random, LocalDate today, IReadOnlyList<OutsidePerson> people)
    {
        var owners = people.Where(p => p is { Kind: "person", Left: null }).ToList();
        for (var n = 1; n <= 84; n++)
        {
            var sort = Machines[n % Machines.Length];
            yield return new
            {
                key = $"{sort}-{n:00}",
                title = $"{sort}-{n:00}",
                person = sort == "desk" ? owners[random.Next(owners.Count)].Id : "jonas.aske@tarnholm.example",
                sort,
                state = "in use",
                patched = Iso(today.PlusDays(-random.Next(random.Next(8) == 0 ? 90 : 28))),
                encrypted = sort != "till" || random.Next(4) > 0,
                supportEnds = Iso(today.PlusDays(sort == "bridge" && n % 4 == 0 ? -60 : 200 + random.Next(900))),
            };
        }
    }

    private static IEnumerable<object> Training(Random random, LocalDate today, IReadOnlyList<OutsidePerson> people)
    {
        foreach (var (course, units, lasts, late) in Courses)
        {
            foreach (
                var person in people.Where(p =>
                    p is { Kind: "person", Left: null } && (units.Length == 0 || units.Contains(p.Unit))
                )
            )
            {
                var chance = random.Next(100);
                var done = chance < 100 - (2 * late) ? today.PlusDays(-random.Next(lasts - 20)) : (LocalDate?)null;
                yield return new
                {
                    key = $"{course}/{person.Id}",
                    title = course,
                    person = person.Id,
                    sort = course,
                    state = done is null ? "open" : "done",
                    due = Iso(
                        done?.PlusDays(lasts)
                            ?? today.PlusDays(chance >= 100 - late ? -1 - random.Next(60) : 5 + random.Next(50))
                    ),
                    done = Iso(done),
                };
            }
        }
    }

    private static IEnumerable<object> Tickets(Random random, LocalDate today)
    {
        for (var n = 0; n < Changes.Length; n++)
        {
            var opened = today.PlusDays(-10 - (n * 9));
            var done = n > 3 ? opened.PlusDays(20) : (LocalDate?)null;
            yield return new
            {
                key = $"CHG-{140 - n}",
                title = Changes[n],
                person = "jonas.aske@tarnholm.example",
                sort = "change",
                state = done is not null ? "done"
                : n > 1 ? "approved"
                : "asked for",
                opened = Iso(opened),
                // One was made in the night and approved the week after.
                approved = n == 8 ? Iso(opened.PlusDays(27))
                : n > 1 ? Iso(opened.PlusDays(4 + random.Next(8)))
                : null,
                due = Iso(opened.PlusDays(40)),
                done = Iso(done),
            };
        }

        for (var n = 0; n < Incidents.Length; n++)
        {
            var opened = today.PlusDays(-4 - (n * 17));
            yield return new
            {
                key = $"INC-{61 - n}",
                title = Incidents[n],
                person = "sunniva.krag@tarnholm.example",
                sort = "incident",
                state = n > 1 ? "closed" : "open",
                opened = Iso(opened),
                due = Iso(opened.PlusDays(14)),
                done = n > 1 ? Iso(opened.PlusDays(3 + random.Next(9))) : null,
            };
        }
    }
}
