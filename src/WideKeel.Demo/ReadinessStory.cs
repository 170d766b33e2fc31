namespace WideKeel.Demo;

/// <summary>
/// What Tarnholm Ferries does to be ready: a standard of its own, controls with their tests, routines and evidence, and
/// the registers.
/// </summary>
public static class ReadinessStory
{
    /// <summary>The organisation's own standard for safety records, as an OSCAL catalog.</summary>
    public const string Standard = """
        {"catalog":{"uuid":"6f0c3c1e-70c5-4d0f-9d0e-3f2b1a5c7d10",
        "metadata":{"title":"Safety-records standard","last-modified":"2025-11-03T09:00:00Z",
        "version":"3","oscal-version":"1.1.2"},
        "groups":[
        {"id":"keep","title":"Keeping","controls":[
        {"id":"srs-1","title":"Every safety record has a rule for how long it is kept"},
        {"id":"srs-2","title":"Records of incidents are protected from deletion"},
        {"id":"srs-3","title":"What a matter needs is held, and those concerned know it"}]},
        {"id":"end","title":"Ending","controls":[
        {"id":"srs-4","title":"Nothing is destroyed by one person alone"},
        {"id":"srs-5","title":"Destruction leaves a certificate"}]},
        {"id":"see","title":"Seeing","controls":[
        {"id":"srs-6","title":"Acts on safety records are logged and cannot be altered"},
        {"id":"srs-7","title":"What is unusual is seen and answered"}]},
        {"id":"reach","title":"Reaching","controls":[
        {"id":"srs-8","title":"Only those who need safety records reach them"},
        {"id":"srs-9","title":"Access ends when people leave"}]},
        {"id":"learn","title":"Learning","controls":[
        {"id":"srs-10","title":"Crews are trained in keeping records"},
        {"id":"srs-11","title":"Near misses are reviewed every month"},
        {"id":"srs-12","title":"Suppliers keep records to the same standard"}]}
        ]}}
        """;

    /// <summary>Stands for the measure in SQL that the demo keeps; its name is known once it is kept.</summary>
    public const string AnsweredDeletions = "own:deletions";

    /// <summary>Alerts about deletions that somebody looked at.</summary>
    public const string AnsweredDeletionsSql = """
        SELECT id, lower(state) <> 'new' AS ok, watch AS name, 'Of ' || left(happened_at, 10) AS why,
               '/activity/alerts?alert=' || id AS link
        FROM alerts
        WHERE watch LIKE 'Delet%' AND NOT withdrawn
        """;

    /// <summary>One control: what it says, what it answers, and what shows it.</summary>
    /// <param name="Measures">Names of measures that its tests look at, each with the percent that is expected.</param>
    /// <param name="Routines">Title and rule.</param>
    /// <param name="Evidence">Title, for how long it speaks, and how many days ago it was taken; null: not at all.</param>
    public sealed record StoryControl(
        string Code,
        string Title,
        string Area,
        string Owner,
        decimal Effort,
        string[] Answers,
        (string Measure, double Expected)[] Measures,
        (string Title, string Rule)[] Routines,
        (string Title, string Fresh, int? DaysAgo)[] Evidence
    )
    {
        /// <summary>It applies to crews alone.</summary>
        public bool AtSea => Code is "TRA-01" or "SAF-01";
    }

    private const string Csf = "nist-csf-2.0/";
    private const string Nist = "sp-800-53-slice/";
    private const string Own = "safety-records-standard/";

    public static IReadOnlyList<StoryControl> Controls { get; } =
    [
        new(
            "REC-01",
            "Records have rules for how long they are kept",
            "content",
            "ines.calloway",
            12,
            [$"{Own}srs-1", $"{Nist}si-12", $"{Csf}PR.DS"],
            [("containers-under-a-rule", 60)],
            [("Look through schedule health", "FREQ=MONTHLY")],
            []
        ),
        new(
            "REC-02",
            "Series rest on a law, regulation or contract",
            "content",
            "ines.calloway",
            6,
            [$"{Own}srs-1", $"{Nist}si-12", $"{Csf}GV.OC"],
            [("series-with-authority", 90)],
            [],
            []
        ),
        new(
            "REC-03",
            "Records of incidents are protected",
            "content",
            "oskar.tarn",
            3,
            [$"{Own}srs-2", $"{Nist}au-9", $"{Csf}RS.AN"],
            [("copies-whole", 100), (AnsweredDeletions, 100)],
            [],
            [("Walk through the incident store", "P180D", 40)]
        ),
        new(
            "REC-04",
            "Custodians acknowledge what they must keep",
            "content",
            "vera.quist",
            2,
            [$"{Own}srs-3", $"{Csf}RS.AN"],
            [("holds-acknowledged", 80)],
            [],
            []
        ),
        new(
            "REC-05",
            "The docket moves",
            "content",
            "ines.calloway",
            4,
            [$"{Own}srs-4", $"{Nist}mp-6"],
            [("docket-moves", 80)],
            [("Sign what is due", "FREQ=WEEKLY")],
            []
        ),
        new(
            "REC-06",
            "Destruction is certified",
            "content",
            "tobias.renner",
            2,
            [$"{Own}srs-5", $"{Nist}mp-6", $"{Csf}PR.DS"],
            [],
            [],
            [("Certificates of the quarter, checked", "P100D", 70)]
        ),
        new(
            "LOG-01",
            "Logs of every system arrive",
            "operations",
            "jonas.aske",
            3,
            [$"{Own}srs-6", $"{Nist}au-2", $"{Nist}au-12", $"{Csf}DE.CM"],
            [("channels-heard", 60)],
            [],
            []
        ),
        new(
            "LOG-02",
            "Logs cannot be altered",
            "operations",
            "jonas.aske",
            2,
            [$"{Own}srs-6", $"{Nist}au-9", $"{Csf}PR.PS"],
            [("segments-verified", 100), ("ledger-verified", 100)],
            [],
            []
        ),
        new(
            "LOG-03",
            "Logs are kept as long as they are needed",
            "operations",
            "jonas.aske",
            2,
            [$"{Nist}au-11"],
            [],
            [],
            [("Retention of channels, approved", "P365D", 200)]
        ),
        new(
            "LOG-04",
            "Logs are watched",
            "operations",
            "sunniva.krag",
            2,
            [$"{Own}srs-7", $"{Nist}si-4", $"{Nist}au-6", $"{Csf}DE.CM", $"{Csf}DE.AE"],
            [("watches-on", 80)],
            [],
            []
        ),
        new(
            "LOG-05",
            "Alerts are answered",
            "operations",
            "sunniva.krag",
            4,
            [$"{Own}srs-7", $"{Nist}ir-4", $"{Csf}RS.MA", $"{Csf}RS.MI"],
            [("alerts-in-time", 90)],
            [],
            []
        ),
        new(
            "ACC-01",
            "People sign in with a second factor",
            "access",
            "jonas.aske",
            8,
            [$"{Nist}ia-2", $"{Csf}PR.AA"],
            [("second-factor", 95)],
            [],
            []
        ),
        new(
            "ACC-02",
            "Access ends when people leave",
            "people",
            "stina.dorn",
            5,
            [$"{Own}srs-9", $"{Nist}ps-4", $"{Nist}ac-2", $"{Csf}PR.AA"],
            [("leavers-without-access", 95)],
            [],
            []
        ),
        new(
            "ACC-03",
            "Access is reviewed by those who know",
            "access",
            "ines.calloway",
            3,
            [$"{Own}srs-8", $"{Nist}ac-2", $"{Nist}ac-6"],
            [("reviews-in-time", 80), ("removals-carried-out", 100)],
            [],
            []
        ),
        new(
            "ACC-04",
            "Nothing is open to anyone",
            "access",
            "jonas.aske",
            2,
            [$"{Own}srs-8", $"{Nist}ac-3", $"{Csf}PR.DS"],
            [("not-open-to-anyone", 100)],
            [],
            []
        ),
        new(
            "ACC-05",
            "Duties that do not go together are apart",
            "access",
            "ruth.ferro",
            3,
            [$"{Nist}ac-5", $"{Csf}GV.RR"],
            [("no-toxic-pairs", 100)],
            [],
            []
        ),
        new(
            "ACC-06",
            "Places and groups have owners",
            "access",
            "ines.calloway",
            2,
            [$"{Nist}ac-2", $"{Csf}ID.AM", $"{Csf}GV.RR"],
            [("owners-named", 95)],
            [],
            []
        ),
        new(
            "ACC-07",
            "Guests have a sponsor",
            "people",
            "stina.dorn",
            1,
            [$"{Nist}ac-2"],
            [("guests-with-sponsor", 90)],
            [],
            []
        ),
        new(
            "ACC-08",
            "Access from afar is protected",
            "access",
            "jonas.aske",
            6,
            [$"{Nist}ac-17"],
            [],
            [],
            [("Penetration test of the exit", "P365D", 390)]
        ),
        new(
            "ACC-09",
            "Access changes when people move",
            "people",
            "stina.dorn",
            3,
            [$"{Nist}ps-5"],
            [],
            [("Compare movers with their groups", "FREQ=MONTHLY")],
            []
        ),
        new(
            "SUP-01",
            "Suppliers are looked at",
            "suppliers",
            "ruth.ferro",
            6,
            [$"{Own}srs-12", $"{Nist}sa-9", $"{Csf}GV.SC"],
            [("suppliers-reviewed", 90)],
            [],
            []
        ),
        new(
            "SUP-02",
            "Applications get no more than they need",
            "suppliers",
            "jonas.aske",
            2,
            [$"{Nist}ac-6", $"{Csf}GV.SC"],
            [("consents-narrow", 90)],
            [],
            []
        ),
        new(
            "TRA-01",
            "Crews are trained in keeping records",
            "training",
            "stina.dorn",
            10,
            [$"{Own}srs-10", $"{Nist}at-2", $"{Csf}PR.AT"],
            [("training-done", 90)],
            [],
            []
        ),
        new(
            "TRA-02",
            "Those with special roles are trained",
            "training",
            "stina.dorn",
            8,
            [$"{Nist}at-3", $"{Csf}PR.AT"],
            [],
            [],
            [("Certificates of the stewards’ course", "P365D", 345)]
        ),
        new(
            "POL-01",
            "Policies are in force and acknowledged",
            "people",
            "astrid.moen",
            5,
            [$"{Nist}pl-1", $"{Csf}GV.PO"],
            [("policies-acknowledged", 90)],
            [],
            []
        ),
        new(
            "RSK-01",
            "Risks are recorded and looked at",
            "risk",
            "astrid.moen",
            4,
            [$"{Nist}ra-3", $"{Csf}ID.RA", $"{Csf}GV.RM"],
            [("risks-reviewed", 90)],
            [("Risk round of the management", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "CHG-01",
            "Changes are decided and recorded",
            "change",
            "jonas.aske",
            3,
            [$"{Nist}cm-3", $"{Csf}PR.PS"],
            [("changes-decided", 90)],
            [],
            []
        ),
        new(
            "OPS-01",
            "Copies are made, and brought back to see that they work",
            "operations",
            "jonas.aske",
            6,
            [$"{Nist}cp-9", $"{Nist}cp-10", $"{Csf}RC.RP"],
            [],
            [("Bring back a backup and compare it", "FREQ=MONTHLY")],
            [("Report of the last restore", "P90D", 75)]
        ),
        new(
            "OPS-02",
            "Sources are read every week",
            "operations",
            "jonas.aske",
            2,
            [$"{Csf}ID.AM"],
            [("sources-scanned", 100)],
            [],
            []
        ),
        new(
            "OPS-03",
            "Long work comes to its end",
            "operations",
            "jonas.aske",
            2,
            [$"{Csf}PR.IR"],
            [("jobs-end-well", 95)],
            [],
            []
        ),
        new(
            "INC-01",
            "Incidents are reported in time",
            "operations",
            "oskar.tarn",
            4,
            [$"{Nist}ir-6", $"{Csf}RS.CO"],
            [],
            [],
            [("Exercise: report within an hour", "P365D", 120)]
        ),
        new("INC-02", "Recovery is made known", "operations", "oskar.tarn", 4, [$"{Csf}RC.CO"], [], [], []),
        new(
            "SAF-01",
            "Near misses are reviewed every month",
            "operations",
            "oskar.tarn",
            3,
            [$"{Own}srs-11", $"{Csf}ID.IM"],
            [],
            [("Review of near misses", "FREQ=MONTHLY")],
            []
        ),
        new(
            "ASM-01",
            "Controls are assessed, and findings have actions",
            "risk",
            "ines.calloway",
            5,
            [$"{Nist}ca-2", $"{Nist}ca-5", $"{Csf}GV.OV"],
            [],
            [],
            [("Internal audit of last year", "P365D", 300)]
        ),
        new(
            "ASM-02",
            "Controls are monitored all the time",
            "risk",
            "ines.calloway",
            2,
            [$"{Nist}ca-7", $"{Csf}ID.IM"],
            [("jobs-end-well", 90)],
            [],
            []
        ),
        new(
            "POL-02",
            "Policies are looked at every year",
            "people",
            "astrid.moen",
            3,
            [$"{Nist}pl-1", $"{Csf}GV.PO"],
            [("policies-in-force", 90)],
            [],
            []
        ),
        new(
            "SUP-03",
            "Contracts and certificates of suppliers are in force",
            "suppliers",
            "ruth.ferro",
            4,
            [$"{Own}srs-12", $"{Nist}sa-9", $"{Csf}GV.SC"],
            [("supplier-documents", 100)],
            [],
            []
        ),
        new(
            "SUP-04",
            "Suppliers of tickets can be left",
            "suppliers",
            "ruth.ferro",
            10,
            [$"{Nist}sa-9", $"{Csf}GV.SC"],
            [],
            [],
            [("Plan for the exit, rehearsed", "P365D", 320)]
        ),
        new(
            "OPS-04",
            "Machines are patched",
            "operations",
            "jonas.aske",
            8,
            [$"{Csf}PR.PS"],
            [("hosts-patched", 95)],
            [],
            []
        ),
        new(
            "OPS-05",
            "Machines are encrypted",
            "operations",
            "jonas.aske",
            4,
            [$"{Csf}PR.DS"],
            [("hosts-encrypted", 100)],
            [],
            []
        ),
        new(
            "OPS-06",
            "Systems are replaced before their support ends",
            "operations",
            "jonas.aske",
            20,
            [$"{Csf}PR.PS", $"{Csf}ID.AM"],
            [("hosts-supported", 95)],
            [],
            []
        ),
        new(
            "OPS-07",
            "Programs that feed the controls answer",
            "operations",
            "jonas.aske",
            1,
            [$"{Nist}ca-7"],
            [("connections-heard", 100)],
            [],
            []
        ),
        new(
            "OPS-08",
            "The ferry line keeps running without its systems",
            "operations",
            "lena.marsh",
            16,
            [$"{Nist}cp-10", $"{Csf}PR.IR"],
            [],
            [("Sell tickets by hand for an hour", "FREQ=MONTHLY;INTERVAL=6")],
            [("Handbook without systems", "P365D", 210)]
        ),
        new(
            "OPS-09",
            "Power and cooling of the server room are tested",
            "operations",
            "jonas.aske",
            3,
            [$"{Csf}PR.IR"],
            [],
            [("Test of the generator", "FREQ=MONTHLY")],
            []
        ),
        new(
            "OPS-10",
            "Copies lie in another place",
            "operations",
            "jonas.aske",
            3,
            [$"{Nist}cp-9", $"{Csf}PR.DS"],
            [],
            [],
            [("Report of the second place", "P100D", 30)]
        ),
        new(
            "INC-03",
            "Incidents are ended in time",
            "operations",
            "sunniva.krag",
            4,
            [$"{Nist}ir-4", $"{Csf}RS.MI"],
            [("incidents-in-time", 90)],
            [],
            []
        ),
        new(
            "INC-04",
            "What an incident taught is written down",
            "operations",
            "oskar.tarn",
            3,
            [$"{Own}srs-11", $"{Csf}ID.IM"],
            [],
            [("Round of lessons", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "INC-05",
            "Authorities are informed in time",
            "operations",
            "oskar.tarn",
            2,
            [$"{Nist}ir-6", $"{Csf}RS.CO"],
            [],
            [],
            [("List of addresses of the authorities", "P180D", 100)]
        ),
        new(
            "CHG-02",
            "Changes are tried before they are made",
            "change",
            "jonas.aske",
            5,
            [$"{Nist}cm-3"],
            [],
            [],
            [("Protocol of trials of the quarter", "P100D", 20)]
        ),
        new(
            "CHG-03",
            "Who may change the timetable is listed",
            "change",
            "lena.marsh",
            2,
            [$"{Nist}cm-3", $"{Nist}ac-5"],
            [],
            [("Look through the list", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "TRA-03",
            "Everybody knows how a mail is forged",
            "training",
            "jonas.aske",
            4,
            [$"{Nist}at-2", $"{Csf}PR.AT"],
            [],
            [("Test mail to everybody", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "TRA-04",
            "New crew are instructed about records before their first watch",
            "training",
            "stina.dorn",
            3,
            [$"{Own}srs-10", $"{Nist}at-2"],
            [],
            [],
            [("Sheet of the first day", "P365D", 150)]
        ),
        new(
            "ACC-10",
            "Links to outside end",
            "access",
            "jonas.aske",
            2,
            [$"{Nist}ac-3", $"{Csf}PR.DS"],
            [("links-with-an-end", 80)],
            [],
            []
        ),
        new(
            "ACC-11",
            "Service accounts are few and listed",
            "access",
            "jonas.aske",
            3,
            [$"{Nist}ac-6", $"{Csf}PR.AA"],
            [],
            [("Look through service accounts", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "ACC-12",
            "Keys of the bridge are handed over against a signature",
            "access",
            "bo.ekberg",
            1,
            [$"{Nist}ac-3"],
            [],
            [],
            [("Book of keys, checked", "P90D", 80)]
        ),
        new(
            "LOG-06",
            "Clocks of all systems agree",
            "operations",
            "jonas.aske",
            2,
            [$"{Nist}au-12"],
            [],
            [],
            [("Comparison of clocks", "P180D", 45)]
        ),
        new(
            "LOG-07",
            "Logs of persons are read by few",
            "operations",
            "jonas.aske",
            2,
            [$"{Nist}au-9"],
            [],
            [("Look through the readers of channels", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "REC-07",
            "What is kept for ever is looked after",
            "content",
            "ines.calloway",
            8,
            [$"{Nist}si-12", $"{Csf}PR.DS"],
            [],
            [],
            [("Sample of permanent records, read", "P365D", 260)]
        ),
        new(
            "REC-08",
            "Paper comes into the schedule",
            "content",
            "maren.holt",
            12,
            [$"{Own}srs-1", $"{Csf}GV.OC"],
            [],
            [("Boxes of the quarter", "FREQ=MONTHLY;INTERVAL=3")],
            []
        ),
        new(
            "RSK-02",
            "Risks of the ships are known ashore",
            "risk",
            "oskar.tarn",
            4,
            [$"{Csf}ID.RA", $"{Csf}DE.AE"],
            [],
            [],
            [("Report of the masters", "P100D", 60)]
        ),
    ];

    /// <summary>A register's entry.</summary>
    /// <param name="DueIn">Days from the demo's day.</param>
    public sealed record StoryEntry(
        string Kind,
        string Title,
        string Says,
        string Owner,
        int? DueIn,
        int? DoneAgo,
        int[] Risk,
        string Mark,
        string[] Controls
    );

    public static IReadOnlyList<StoryEntry> Entries { get; } =
    [
        new(
            "risk",
            "Evidence of an incident is deleted",
            "Somebody removes photographs or logs before a claim is settled.",
            "oskar.tarn",
            40,
            20,
            [4, 5, 2, 4],
            "Hold orders, watches, copies",
            ["REC-03", "LOG-05"]
        ),
        new(
            "risk",
            "A leaver’s account is used",
            "Seasonal crew keep their access after the season.",
            "stina.dorn",
            10,
            50,
            [4, 4, 3, 3],
            "Review every quarter",
            ["ACC-02"]
        ),
        new(
            "risk",
            "Passenger data goes outside",
            "Lists of passengers are shared by link or taken away.",
            "lena.marsh",
            -12,
            200,
            [3, 5, 2, 5],
            "Watches on exports",
            ["ACC-04", "LOG-04"]
        ),
        new(
            "risk",
            "A ferry is out for longer than planned",
            "A dry-dock takes longer because plans are not at hand.",
            "bo.ekberg",
            60,
            30,
            [3, 4, 2, 3],
            "Yard plan kept twice",
            ["OPS-01"]
        ),
        new(
            "risk",
            "A regulator asks, and records are missing",
            "Oil record books of sold vessels are lost.",
            "ines.calloway",
            80,
            15,
            [3, 4, 1, 4],
            "Schedule with authorities",
            ["REC-01", "REC-02"]
        ),
        new(
            "risk",
            "One supplier holds all tickets",
            "Ticketing stands still when the supplier does.",
            "ruth.ferro",
            25,
            90,
            [2, 5, 2, 4],
            "Contract with an exit",
            ["SUP-01"]
        ),
        new(
            "risk",
            "Fuel prices are agreed with a competitor",
            "An inquiry is open; mail must be kept.",
            "vera.quist",
            30,
            12,
            [2, 5, 1, 5],
            "Hold order and training",
            ["REC-04"]
        ),
        new("supplier", "Skarv Charts", "Charts and tide tables.", "edvin.strand", 90, 270, [], "2", ["SUP-01"]),
        new(
            "supplier",
            "Papirus",
            "Office applications and archive boxes.",
            "jonas.aske",
            15,
            350,
            [],
            "1",
            ["SUP-01"]
        ),
        new("supplier", "Northport Tickets", "Ticketing.", "lena.marsh", -30, 400, [], "1", ["SUP-01"]),
        new("supplier", "Yardhands", "Subcontractors in the dock.", "pia.lind", 45, 300, [], "2", ["SUP-01"]),
        new(
            "incident",
            "Collision with pier 4",
            "The Merrow touched the pier on arrival; a claim is open.",
            "oskar.tarn",
            14,
            null,
            [],
            "claim open",
            ["REC-03"]
        ),
        new(
            "incident",
            "Photographs of the pier deleted",
            "Found by a watch the evening after; copies exist.",
            "sunniva.krag",
            7,
            null,
            [],
            "investigated",
            ["REC-03", "LOG-05"]
        ),
    ];

    /// <summary>A policy, the units that it binds (none for everybody), and its versions.</summary>
    /// <param name="ReviewIn">Days from the demo's day.</param>
    /// <param name="KnownBy">Of a hundred people how many acknowledged it.</param>
    /// <param name="Versions">Text, what changed, and how many days ago it began.</param>
    public sealed record StoryPolicy(
        string Code,
        string Title,
        string Says,
        string Owner,
        string[] Units,
        int ReviewIn,
        int KnownBy,
        (string Text, string Change, int DaysAgo, bool Anew)[] Versions
    );

    public static IReadOnlyList<StoryPolicy> Policies { get; } =
    [
        new(
            "POL-RECORDS",
            "Keeping and ending of records",
            "Who decides, who signs, what is kept.",
            "ines.calloway",
            [],
            200,
            95,
            [
                (
                    "1. Every record has a series, and every series a rule.\n2. Nobody destroys a record alone: the unit’s "
                        + "steward and a records manager sign.\n3. What a matter needs is held, whatever its rule says.",
                    "",
                    900,
                    true
                ),
                (
                    "1. Every record has a series, and every series a rule that rests on a law, regulation or contract.\n"
                        + "2. Nobody destroys a record alone: the unit’s steward and a records manager sign.\n3. What a "
                        + "matter needs is held, whatever its rule says.\n4. Pictures and logs of an incident are records "
                        + "from the minute they are taken.",
                    "Pictures and logs of incidents are records.",
                    160,
                    true
                ),
            ]
        ),
        new(
            "POL-DEVICES",
            "Use of accounts and devices",
            "Accounts are personal, devices are locked.",
            "jonas.aske",
            [],
            120,
            100,
            [
                (
                    "1. An account belongs to one person.\n2. Everybody signs in with a second factor.\n3. A device that is "
                        + "lost is reported within the hour.",
                    "",
                    640,
                    true
                ),
                (
                    "1. An account belongs to one person.\n2. Everybody signs in with a second factor.\n3. A device that is "
                        + "lost is reported within the hour, by telephone: 4400.",
                    "The number to call.",
                    240,
                    false
                ),
            ]
        ),
        new(
            "POL-INCIDENTS",
            "Reporting of incidents",
            "What is reported to whom, and how fast.",
            "oskar.tarn",
            ["Northern Routes", "Island Routes"],
            -20,
            86,
            [
                (
                    "1. Whoever sees an incident reports it before the watch ends.\n2. The duty officer informs the authority "
                        + "within an hour where people, the ship or the water are harmed.\n3. Nothing is deleted, moved or "
                        + "tidied up until the safety manager says so.",
                    "",
                    385,
                    true
                ),
            ]
        ),
    ];

    /// <summary>What the auditor asks for: the requirement, and days from the demo's day.</summary>
    public static IReadOnlyList<(string What, string Requirement, string Owner, int DueIn)> Requests { get; } =
    [
        ("The schedule, with the authority of each series", "srs-1", "ines.calloway", 12),
        ("How records of incidents are kept from deletion", "srs-2", "oskar.tarn", 12),
        ("Acknowledgements of hold notices", "srs-3", "vera.quist", 15),
        ("Sign-offs of the last quarter", "srs-4", "tobias.renner", 20),
        ("Certificates of destruction, and a sample of them", "srs-5", "tobias.renner", 20),
        ("Proof that logs were not altered", "srs-6", "jonas.aske", 25),
        ("Alerts of the last quarter, and what was done", "srs-7", "sunniva.krag", 25),
        ("The last review of access to safety records", "srs-8", "ines.calloway", 28),
        ("Leavers of the year, and when their access ended", "srs-9", "stina.dorn", 28),
        ("Training of masters and officers", "srs-10", "stina.dorn", 30),
    ];
}
