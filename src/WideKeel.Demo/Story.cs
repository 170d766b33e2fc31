using System.Globalization;
using System.Text;
using NodaTime;
using NodaTime.Text;

namespace WideKeel.Demo;

/// <summary>
/// What the demo's story needs beside the ordinary files: on 14 February 2026 the Merrow touched pier 4 at Skarv and
/// bent a mooring dolphin; the harbour office claims; letters, reports, mails and posts speak of it.
/// </summary>
public sealed class Story(LocalDate today)
{
    /// <summary>Days after the collision, from, to, subject, body.</summary>
    private static readonly (int Day, string From, string To, string Subject, string Body)[] Mails =
    [
        (
            0,
            "karl.nyman@tarnholm.example",
            "edvin.strand@tarnholm.example",
            "Contact at Skarv this morning",
            "We touched pier 4 at Skarv at 07:52 while turning. The outer dolphin is bent, our bow plate has a "
                + "dent of about a metre. Nobody is hurt. The wind was more than the forecast said."
        ),
        (
            0,
            "edvin.strand@tarnholm.example",
            "karl.nyman@tarnholm.example",
            "Re: Contact at Skarv this morning",
            "Thank you for telling me at once. Leave the voyage data recorder as it is and write down what "
                + "each of you saw on the bridge. The harbour office will ask about the dolphin."
        ),
        (
            1,
            "edvin.strand@tarnholm.example",
            "oskar.tarn@tarnholm.example",
            "Pier 4, first report",
            "Karl's first report is attached to the incident. Please open an incident for the contact with "
                + "pier 4 and keep the bridge rota of that week."
        ),
        (
            3,
            "harbour.office@islands.example",
            "edvin.strand@tarnholm.example",
            "Claim: damage to dolphin 4b, pier 4, Skarv",
            "Our engineer has measured the dolphin. It leans by eleven degrees and must be replaced. We hold "
                + "the vessel responsible and reserve all rights. An estimate follows."
        ),
        (
            9,
            "pia.lind@tarnholm.example",
            "bo.ekberg@tarnholm.example",
            "Merrow, bow plate",
            "We can straighten the plate in the March docking. The marks show fresh timber of the pier, not "
                + "steel. I kept a sample and photographs for the file on pier 4."
        ),
        (
            10,
            "bo.ekberg@tarnholm.example",
            "pia.lind@tarnholm.example",
            "Re: Merrow, bow plate",
            "Good. Do not grind the marks before the surveyor has seen them."
        ),
        (
            24,
            "harbour.office@islands.example",
            "edvin.strand@tarnholm.example",
            "Estimate for the dolphin",
            "Replacement of dolphin 4b with piling from the sea: 412,000. Closure of pier 4 for nine days is claimed separately."
        ),
        (
            31,
            "karl.nyman@tarnholm.example",
            "pia.lind@tarnholm.example",
            "Thruster on the day of the contact",
            "The bow thruster tripped twice on the approach to pier 4. I had written that in the defect book "
                + "in January already. Was it looked at?"
        ),
        (
            33,
            "pia.lind@tarnholm.example",
            "karl.nyman@tarnholm.example",
            "Re: Thruster on the day of the contact",
            "The work order was closed in January with a new relay. I will look for the test sheet."
        ),
    ];

    private static readonly string[] Surnames =
    [
        "Brand",
        "Solberg",
        "Nyman",
        "Ferro",
        "Haugen",
        "Dorn",
        "Marsh",
        "Lund",
        "Wick",
    ];

    public static LocalDate Collision { get; } = new(2026, 2, 14);

    /// <summary>
    /// The days of spring, two years and one year ago, on which the passenger lists of the time were destroyed.
    /// </summary>
    public IReadOnlyList<LocalDate> FormerSprings { get; } = [new(today.Year - 2, 3, 12), new(today.Year - 1, 3, 11)];

    /// <summary>
    /// Writes the passenger lists that there were on a day: one a month and route, the last in August of the year
    /// before last.
    /// </summary>
    public void WritePassengerLists(string root, LocalDate day)
    {
        var last = LocalDate.Min(day, new LocalDate(today.Year - 2, 8, 31));
        for (
            var month = new LocalDate(today.Year - 3, 1, 1);
            month.PlusMonths(1).PlusDays(-1) <= last;
            month = month.PlusMonths(1)
        )
        {
            var random = new Random((month.Year * 100) + month.Month);
            foreach (var route in new[] { "Skarv", "Brenna Quay", "North Haven" })
            {
                var lines = Enumerable
                    .Range(1, 12)
                    .Select(n =>
                        $"{Iso(month.PlusDays(random.Next(28)))},Tarnholm to "
                        + $"{route},{(char)('A' + random.Next(26))}. {Surnames[random.Next(Surnames.Length)]}"
                    );
                Write(
                    Path.Combine(
                        root,
                        Scenario.PassengerLists,
                        $"{month.Year}",
                        $"{month.Year}-{month.Month:00} {route}.csv"
                    ),
                    $"sailing,route,passenger\n{string.Join('\n', lines)}\n",
                    month.PlusMonths(1).PlusDays(-1)
                );
            }
        }
    }

    private static readonly (
        string Container,
        int Day,
        string Name,
        string Title,
        string Author,
        string Body
    )[] OnShare =
    [
        (
            "Incident reports",
            2,
            "incident Merrow pier 4.md",
            "Incident: contact of the Merrow with pier 4, Skarv",
            "Oskar Tarn",
            "At 07:52 the Merrow touched pier 4 at Skarv while turning for the berth. The outer dolphin 4b "
                + "was bent. Speed over ground two knots, wind south-westerly 7. No injuries. Voyage data "
                + "secured."
        ),
        (
            "Northern Routes - voyage reports",
            0,
            "Merrow voyage 0191.md",
            "Voyage 191, Merrow, Tarnholm to Skarv",
            "Karl Nyman",
            "Sailed 06:10, arrived 08:05 after contact with pier 4. Weather worse than forecast. Bow "
                + "thruster tripped twice on the approach."
        ),
        (
            "Dry-dock work orders",
            -31,
            "WO-2026-0007 bow thruster relay.md",
            "WO-2026-0007 bow thruster relay",
            "Pia Lind",
            "Vessel Merrow. Thruster trips reported by the master on 9 January. Relay replaced. Test under "
                + "load not possible at the berth."
        ),
        (
            "Dry-dock work orders",
            26,
            "WO-2026-0021 bow plate.md",
            "WO-2026-0021 bow plate, Merrow",
            "Pia Lind",
            "Dent of one metre from the contact with pier 4. Marks photographed before blasting; timber sample in the store."
        ),
        (
            Scenario.HarbourShare,
            3,
            "claim dolphin 4b.md",
            "Claim for dolphin 4b",
            "Henrik Wick",
            "The harbour office claims the replacement of dolphin 4b at pier 4 and reserves further damages."
        ),
        (
            Scenario.HarbourShare,
            24,
            "estimate.md",
            "Estimate, piling at pier 4",
            "Henrik Wick",
            "Replacement of the dolphin with piling from the sea. Nine days of closure of pier 4."
        ),
        (
            Scenario.HarbourShare,
            40,
            "reply draft.md",
            "Reply to the harbour office, draft",
            "Nils Amdal",
            "We do not accept that the dolphin was sound before the contact. Please send the inspection of pier 4 of last year."
        ),
        (
            Scenario.HarbourShare,
            58,
            "inspection 2025.md",
            "Inspection of pier 4 in 2025",
            "Henrik Wick",
            "Received from the harbour office. Page 3: corrosion of the dolphin's footing, repair advised within twelve months."
        ),
    ];

    /// <summary>Adds the story's files to the share. Returns their number.</summary>
    public int WriteShare(string root)
    {
        foreach (var (container, day, name, title, author, body) in OnShare)
        {
            var on = Collision.PlusDays(day);
            Write(
                Path.Combine(root, container, "2026", $"{Iso(on)} {name}"),
                $"---\ntitle: {title}\nauthor: {author}\ncreated: {Iso(on)}\n---\n\n# {title}\n\n{body}\n",
                on
            );
        }

        return OnShare.Length;
    }

    /// <summary>
    /// The mails of the story, in the sender's mailbox where it is one of ours, else in the receiver's. Returns their
    /// number.
    /// </summary>
    public int WriteMail(string root)
    {
        var conversations = new Dictionary<string, string>();
        foreach (var (at, mail) in Mails.Index())
        {
            var sent = Collision.PlusDays(mail.Day).At(new LocalTime(9, 12)).PlusMinutes(at * 7).InUtc();
            var id = $"story.{at + 1}@tarnholm.example";
            var topic = mail.Subject.Replace("Re: ", "", StringComparison.Ordinal);
            var first = conversations.TryAdd(topic, id) ? null : conversations[topic];
            var owner =
                new[] { mail.From, mail.To }
                    .Select(a => $"{a.Split('@')[0]}.mbox")
                    .FirstOrDefault(b => Scenario.Mailboxes.Any(m => m.Name == b))
                ?? "claims.mbox";
            var text =
                $"From: {mail.From}\nTo: {mail.To}\nSubject: {mail.Subject}\n"
                + $"Date: {sent.ToString("ddd, dd MMM uuuu HH:mm:ss", CultureInfo.InvariantCulture)} +0000\n"
                + $"Message-ID: <{id}>\n"
                + $"{(first is null ? "" : $"In-Reply-To: <{first}>\nReferences: <{first}>\n")}MIME-Version: 1.0\n";
            text += mail.Subject.StartsWith("Claim:", StringComparison.Ordinal)
                ? $"Content-Type: multipart/mixed; boundary=\"part\"\n\n--part\n"
                    + $"Content-Type: text/plain; charset=utf-8\n\n{mail.Body}\n--part\n"
                    + $"Content-Type: text/plain; charset=utf-8; name=\"survey of the dolphin.txt\"\n"
                    + $"Content-Disposition: attachment; filename=\"survey of the dolphin.txt\"\n\n"
                    + $"Dolphin 4b leans by eleven degrees to the east. Two piles are cracked below the waterline.\n"
                    + $"--part--\n"
                : $"Content-Type: text/plain; charset=utf-8\n\n{mail.Body}\n";
            File.AppendAllText(
                Path.Combine(root, owner),
                $"From {mail.From} {sent.ToString("ddd MMM d HH:mm:ss uuuu", CultureInfo.InvariantCulture)}\n{text}\n"
            );
        }

        return Mails.Length;
    }

    private static readonly (string Library, string Path, int DaysAgo, string Author, string Body)[] InWorkspace =
    [
        (
            "Bridge procedures",
            "Berthing at Skarv.md",
            420,
            "Oskar Tarn",
            "Approach from the north. Pier 4: turn before the outer dolphin, not beside it. Above wind force 7 wait outside."
        ),
        (
            "Bridge procedures",
            "Departure checklist.md",
            700,
            "Oskar Tarn",
            "Ramp up and locked. Muster count with the purser. Radio check on 12 and 16."
        ),
        (
            "Bridge procedures",
            "Fog.md",
            350,
            "Oskar Tarn",
            "Safe speed, lookout forward, sound signals. Log the visibility every quarter of an hour."
        ),
        (
            "Bridge procedures",
            "2025/Old berthing at Skarv.md",
            900,
            "Oskar Tarn",
            "Approach from the north and turn beside the outer dolphin."
        ),
        (
            "Yard plans",
            "Docking 2026.md",
            90,
            "Pia Lind",
            "Merrow in March, Skarvøy in April, Havlund in October. Bow plate of the Merrow after the surveyor's visit."
        ),
        (
            "Yard plans",
            "Docking 2026 hours.csv",
            80,
            "Pia Lind",
            "vessel,trade,hours\nMerrow,plating,140\nMerrow,electric,35\nSkarvøy,paint,310\n"
        ),
        (
            "Yard plans",
            "Spare parts/Bow thruster.md",
            150,
            "Pia Lind",
            "Relay K2: two in store. Seal kit: ordered with Norlund Bearings."
        ),
        ("Yard plans", "Spare parts/Ramp hinge.md", 60, "Bo Ekberg", "Pins of grade 8, four in store."),
        (
            "Signed permits",
            "Hot work 2026-014.md",
            70,
            "Bo Ekberg",
            "Hot work on the car deck of the Merrow, frame 12 to 18. Fire watch two hours. Signed by the yard manager and the master."
        ),
        (
            "Signed permits",
            "Hot work 2026-015.md",
            66,
            "Bo Ekberg",
            "Hot work in the bow thruster room of the Merrow. Gas free certificate attached. Signed."
        ),
        (
            "Crew handbook",
            "Joining the ship.md",
            500,
            "Stina Dorn",
            "Bring passport, medical certificate and seaman's book. The purser shows you your cabin."
        ),
        (
            "Crew handbook",
            "Leave and relief.md",
            320,
            "Stina Dorn",
            "Two weeks on, two weeks off. Swap with a colleague only through crewing."
        ),
        (
            "#harbour office",
            "2026-02-14 083000 Pia Lind.md",
            121,
            "Pia Lind",
            "Merrow touched pier 4 this morning. Who has the drawings of the outer dolphin?"
        ),
        (
            "#harbour office",
            "2026-02-14 091500 Bo Ekberg.md",
            121,
            "Bo Ekberg",
            "In the drawer with the 2019 piling. I will scan them."
        ),
        (
            "#harbour office",
            "2026-03-12 140200 Pia Lind.md",
            95,
            "Pia Lind",
            "Surveyor comes on Tuesday to look at the bow plate. Leave the marks as they are, please."
        ),
        (
            "#fleet",
            "2026-06-01 070000 Edvin Strand.md",
            14,
            "Edvin Strand",
            "Summer timetable from Saturday. Northern crews please read the new departure checklist."
        ),
    ];

    /// <summary>
    /// Writes the workspace: procedures, plans, permits, a handbook and two channels. Returns the number of files.
    /// </summary>
    public int WriteWorkspace(string root)
    {
        foreach (var (library, path, ago, author, body) in InWorkspace)
        {
            var on = today.PlusDays(-ago);
            Write(
                Path.Combine(root, library, path),
                path.EndsWith(".csv", StringComparison.Ordinal)
                    ? body
                    : $"---\nauthor: {author}\ncreated: {Iso(on)}\n---\n{body}\n",
                on
            );
        }

        return InWorkspace.Length;
    }

    private static readonly string[] GivenNames =
    [
        "Anna",
        "Brit",
        "Carl",
        "Dana",
        "Emil",
        "Frida",
        "Goran",
        "Hedda",
        "Isak",
        "Jenny",
        "Knut",
        "Liv",
        "Magnus",
        "Nora",
        "Ola",
        "Petra",
    ];

    private static readonly string[] FamilyNames =
    [
        "Brand",
        "Solberg",
        "Falk",
        "Rask",
        "Hauge",
        "Dahl",
        "Lund",
        "Berg",
        "Vik",
        "Aas",
        "Sund",
        "Moe",
        "Strom",
    ];

    /// <summary>The directory as CSV: the people of the story, and about two hundred around them.</summary>
    public static string People(int seed)
    {
        var random = new Random(seed);
        var text = new StringBuilder("name,mail,unit,title,manager,leaves\n");
        foreach (var (name, unit, title, manager, leaves) in Scenario.Staff)
        {
            text.Append(
                CultureInfo.InvariantCulture,
                $"{name},{Scenario.MailOf(name)},{unit},{title},{manager},{leaves}\n"
            );
        }

        foreach (var name in GivenNames.SelectMany(g => FamilyNames.Select(f => $"{g} {f}")))
        {
            var unit = Scenario.Units[random.Next(Scenario.Units.Count)].Name;
            var title = unit is "Northern Routes" or "Island Routes" or "Crewing" ? "Crew" : "Staff";
            var manager = Scenario.MailOf(Scenario.Keepers.GetValueOrDefault(unit, "Astrid Moen"));
            var left = random.Next(12) == 0 ? Iso(new LocalDate(2025, 9, 30).PlusDays(-random.Next(300))) : "";
            text.Append(
                CultureInfo.InvariantCulture,
                $"{name},{Scenario.MailOf(name)},{unit},{title},{manager},{left}\n"
            );
        }

        return text.ToString();
    }

    private static void Write(string file, string text, LocalDate day)
    {
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        File.WriteAllText(file, text);
        File.SetLastWriteTimeUtc(file, day.At(new LocalTime(9, 20)).InUtc().ToDateTimeUtc());
    }

    private static string Iso(LocalDate date) => LocalDatePattern.Iso.Format(date);
}
