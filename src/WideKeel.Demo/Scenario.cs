using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Demo;

/// <summary>An account of the demo.</summary>
public sealed record ScenarioPerson(string Name, string Mail, Role Role, string Unit);

/// <summary>A mailbox, or a folder of messages, of the mail store.</summary>
/// <param name="Series">Under which its messages are filed; null where they are not.</param>
/// <param name="Conversations">Each of two to five messages.</param>
public sealed record ScenarioMailbox(
    string Name,
    string Unit,
    string? Series,
    string Address,
    int Conversations,
    string[] Topics
);

/// <summary>
/// A container of the share: its unit, the series that its files are filed under (null: none yet), and how its files
/// are made.
/// </summary>
/// <param name="Files">Number at scale 1.</param>
public sealed record ScenarioContainer(string Name, string Unit, string? Series, int Files, DocumentKind Kind);

/// <param name="InForce">False: stays a draft, so that there is something to decide.</param>
public sealed record ScenarioSeries(string Code, string Unit, SeriesDefinition Definition, bool InForce = true);

public sealed record ScenarioEventType(string Name, string Title, string Description);

/// <param name="Date">ISO 8601.</param>
public sealed record ScenarioEvent(string Type, string Subject, string Date, string Note);

/// <param name="Query">A standing reach; null where the containers are listed.</param>
public sealed record ScenarioBlanket(
    string Name,
    string Unit,
    string[] Containers,
    string? Query,
    string From,
    string? Keep,
    bool Destroys,
    string? DestroyAfter,
    bool InForce
);

/// <param name="Kind">A sensitive kind that must be found; null for none.</param>
public sealed record ScenarioFilingRule(
    string Name,
    string Series,
    string? Query,
    string? Kind,
    int Priority,
    bool Active
);

/// <summary>
/// Tarnholm Ferries: an invented regional ferry operator with a small repair yard. Nothing here names anyone who
/// exists.
/// </summary>
public static class Scenario
{
    public const string Organisation = "Tarnholm Ferries";
    public const string Zone = "Atlantic/Faroe";
    public const string FiscalYearEnd = "09-30";
    public const string Password = "harbour-light-26";
    public const string ShareName = "Fleet share";

    private static readonly Stage[] TwoManagers = [new(Role.RecordsManager), new(Role.RecordsManager)];
    private static readonly Stage[] StewardThenManager = [new(Role.Steward), new(Role.RecordsManager)];

    /// <summary>Unit and its parent, parents first.</summary>
    public static IReadOnlyList<(string Name, string Parent)> Units { get; } =
    [
        ("Fleet Operations", Organisation),
        ("Northern Routes", "Fleet Operations"),
        ("Island Routes", "Fleet Operations"),
        ("Crewing", Organisation),
        ("Yard & Engineering", Organisation),
        ("Passenger Services", Organisation),
        ("Freight & Ticketing", Organisation),
        ("Finance", Organisation),
        ("Claims & Legal", Organisation),
        ("Safety & Environment", Organisation),
        ("People", Organisation),
        ("Information Systems", Organisation),
    ];

    public static IReadOnlyList<ScenarioPerson> People { get; } =
    [
        new("Ines Calloway", "ines.calloway@tarnholm.example", Role.RecordsManager, Organisation),
        new("Tobias Renner", "tobias.renner@tarnholm.example", Role.RecordsManager, Organisation),
        new("Maren Holt", "maren.holt@tarnholm.example", Role.Steward, "Island Routes"),
        new("Edvin Strand", "edvin.strand@tarnholm.example", Role.Steward, "Northern Routes"),
        new("Pia Lind", "pia.lind@tarnholm.example", Role.Staff, "Yard & Engineering"),
        new("Jonas Aske", "jonas.aske@tarnholm.example", Role.Administrator, Organisation),
        new("Vera Quist", "vera.quist@tarnholm.example", Role.LegalLead, Organisation),
        new("Nils Amdal", "nils.amdal@tarnholm.example", Role.Legal, Organisation),
        new("Sunniva Krag", "sunniva.krag@tarnholm.example", Role.SecurityAnalyst, Organisation),
        new("Astrid Moen", "astrid.moen@tarnholm.example", Role.AuditManager, Organisation),
        // A third: of two who agreed on a rule that destroys without sign-off, neither clears what it makes due.
        new("Runa Halle", "runa.halle@tarnholm.example", Role.RecordsManager, Organisation),
    ];

    /// <summary>
    /// People of the directory whom the story needs; the rest are made up around them. Managers by mail address.
    /// </summary>
    public static IReadOnlyList<(
        string Name,
        string Unit,
        string Title,
        string Manager,
        string Leaves
    )> Staff { get; } =
    [
        ("Astrid Moen", Organisation, "Managing director", "", ""),
        ("Ines Calloway", Organisation, "Records manager", "astrid.moen@tarnholm.example", ""),
        ("Tobias Renner", Organisation, "Records manager", "ines.calloway@tarnholm.example", ""),
        ("Maren Holt", "Island Routes", "Route manager", "astrid.moen@tarnholm.example", ""),
        ("Edvin Strand", "Northern Routes", "Route manager", "astrid.moen@tarnholm.example", ""),
        ("Pia Lind", "Yard & Engineering", "Yard planner", "bo.ekberg@tarnholm.example", ""),
        ("Bo Ekberg", "Yard & Engineering", "Yard manager", "astrid.moen@tarnholm.example", ""),
        ("Jonas Aske", "Information Systems", "Administrator", "astrid.moen@tarnholm.example", ""),
        ("Sunniva Krag", "Information Systems", "Security analyst", "jonas.aske@tarnholm.example", ""),
        ("Vera Quist", "Claims & Legal", "Head of legal", "astrid.moen@tarnholm.example", ""),
        ("Nils Amdal", "Claims & Legal", "Counsel", "vera.quist@tarnholm.example", ""),
        ("Henrik Wick", "Claims & Legal", "Claims handler", "vera.quist@tarnholm.example", ""),
        ("Karl Nyman", "Crewing", "Master of the Merrow", "edvin.strand@tarnholm.example", "2026-06-30"),
        ("Oskar Tarn", "Safety & Environment", "Safety officer", "astrid.moen@tarnholm.example", ""),
        ("Ruth Ferro", "Finance", "Purchasing", "stina.dorn@tarnholm.example", ""),
        ("Stina Dorn", "People", "Personnel", "astrid.moen@tarnholm.example", ""),
        ("Lena Marsh", "Passenger Services", "Service manager", "astrid.moen@tarnholm.example", ""),
        ("Goran Haugen", "Yard & Engineering", "Engineer", "bo.ekberg@tarnholm.example", "2026-01-31"),
    ];

    /// <summary>Groups and what is in them: mail addresses, or names of other groups.</summary>
    public static IReadOnlyList<(string Group, string[] Members)> Groups { get; } =
    [
        ("Legal team", ["vera.quist@tarnholm.example", "nils.amdal@tarnholm.example"]),
        ("Claims board", ["Legal team", "henrik.wick@tarnholm.example", "oskar.tarn@tarnholm.example"]),
        ("Masters", ["karl.nyman@tarnholm.example"]),
        ("Northern crew", ["Masters", "edvin.strand@tarnholm.example"]),
        ("Fleet", ["Northern crew", "maren.holt@tarnholm.example"]),
        ("Everyone", ["Fleet", "Claims board", "pia.lind@tarnholm.example"]),
    ];

    public static string MailOf(string name) => $"{name.ToLowerInvariant().Replace(' ', '.')}@tarnholm.example";

    /// <summary>Who answers for the documents of a unit.</summary>
    public static IReadOnlyDictionary<string, string> Keepers { get; } =
        new Dictionary<string, string>
        {
            ["Northern Routes"] = "Edvin Strand",
            ["Island Routes"] = "Maren Holt",
            ["Passenger Services"] = "Lena Marsh",
            ["Safety & Environment"] = "Oskar Tarn",
            ["Yard & Engineering"] = "Pia Lind",
            ["Finance"] = "Ruth Ferro",
            ["People"] = "Stina Dorn",
            ["Claims & Legal"] = "Henrik Wick",
            ["Crewing"] = "Karl Nyman",
            [Organisation] = "Ines Calloway",
            ["Fleet Operations"] = "Edvin Strand",
            ["Freight & Ticketing"] = "Lena Marsh",
            ["Information Systems"] = "Jonas Aske",
        };

    /// <summary>Authorities of our own making; the published ones come from the starter library.</summary>
    public static IReadOnlyList<(string Code, AuthorityDefinition Definition)> Authorities { get; } =
    [
        (
            "Yard contract 14",
            new(
                "Yard contract framework, section 14",
                "Tarnholm Ferries and its yard",
                "Home coast",
                "Work orders, after the fiscal year in which they were closed",
                ClauseJoin.Later,
                [new("field:closed", Cutoff.Fiscal, "P5Y")],
                null,
                "Invented for the demo.",
                "The contract itself"
            )
        ),
        (
            "Island by-law 7",
            new(
                "Island harbour by-law 7",
                "Island harbour authority",
                "Island Routes",
                "Berth permits, after the calendar year",
                ClauseJoin.Later,
                [new("created", Cutoff.Year, "P5Y")],
                null,
                "Invented for the demo.",
                "The by-law itself"
            )
        ),
        (
            "Northern by-law 3",
            new(
                "Northern harbour by-law 3",
                "Northern harbour authority",
                "Northern Routes",
                "Berth permits, after the calendar year",
                ClauseJoin.Later,
                [new("created", Cutoff.Year, "P4Y")],
                null,
                "Invented for the demo.",
                "The by-law itself"
            )
        ),
        (
            "Passenger privacy 12",
            new(
                "Passenger privacy code, article 12",
                "Home coast privacy office",
                "Home coast",
                "Passenger lists and complaints: not longer than needed",
                ClauseJoin.Later,
                [],
                new("field:sent", Cutoff.Quarter, "P3Y"),
                "Invented for the demo.",
                "The code itself"
            )
        ),
    ];

    public static IReadOnlyList<ScenarioEventType> EventTypes { get; } =
    [
        new("vessel-sold", "Vessel sold", "The vessel left the fleet; its IMO number is the subject."),
        new("dry-dock-completed", "Dry-dock completed", "The yard handed the vessel back."),
        new("charter-ended", "Charter ended", "The last day of a charter."),
        new("crew-member-left", "Crew member left", "The last day of employment; the crew number is the subject."),
        new("claim-settled", "Claim settled", "Paid, withdrawn or decided."),
        new("certificate-superseded", "Certificate superseded", "A new certificate took its place."),
        new("audit-concluded", "Audit concluded", "The auditor's report is signed."),
    ];

    /// <summary>Events that outside systems told: the fleet register and the crewing system.</summary>
    public static IReadOnlyList<ScenarioEvent> Events { get; } =
    [
        new("vessel-sold", Vessel(3), "2019-05-14", "Sold to a yard for breaking."),
        new("vessel-sold", Vessel(6), "2024-03-29", "Sold; handed over at Skarv."),
        new("dry-dock-completed", Vessel(0), "2023-04-02", ""),
        new("dry-dock-completed", Vessel(0), "2025-11-20", ""),
        new("dry-dock-completed", Vessel(1), "2024-10-11", ""),
        new("dry-dock-completed", Vessel(2), "2022-02-28", ""),
        .. Enumerable
            .Range(1, 24)
            .Where(n => n % 3 == 0)
            .Select(n => new ScenarioEvent(
                "crew-member-left",
                Crew(n),
                $"{2014 + (n / 3)}-0{1 + (n % 9)}-1{n % 10}",
                "Reported by the crewing system."
            )),
    ];

    /// <summary>IMO number of a vessel as the fleet register writes it.</summary>
    public static string Vessel(int index) => $"IMO{Identifiers.Ship(index)}";

    /// <summary>Crew number as the crewing system writes it.</summary>
    public static string Crew(int number) => $"T{1000 + number}";

    public static IReadOnlyList<ScenarioSeries> Series { get; } =
    [
        Timed(
            "VES-010",
            "Fleet Operations",
            "Oil record books",
            "Vessels",
            "Pages of the oil record book, part I",
            [new("field:last-entry", Cutoff.None, "P3Y")],
            TwoManagers,
            ["MARPOL I/17"],
            "File each page under the vessel's folder; the last entry's date starts the clock."
        ),
        Timed(
            "VES-020",
            "Yard & Engineering",
            "Class and safety certificates",
            "Vessels",
            "Certificates issued by class and flag",
            [new("field:superseded", Cutoff.None, "P5Y")],
            TwoManagers
        ),
        Timed(
            "VES-030",
            "Yard & Engineering",
            "Dry-dock work orders",
            "Vessels",
            "Work orders of the repair yard, with their attachments",
            [new("field:closed", Cutoff.Fiscal, "P7Y")],
            TwoManagers,
            ["Yard contract 14"],
            "Only closed orders; open ones wait in the yard's own folder."
        ),
        Timed(
            "VES-040",
            "Fleet Operations",
            "Voyage reports",
            "Vessels",
            "Master's report of each voyage",
            [new("created", Cutoff.Year, "P6Y")],
            TwoManagers
        ),
        Timed(
            "VES-050",
            "Fleet Operations",
            "Vessel purchase and sale files",
            "Vessels",
            "Contracts, surveys and deeds of each vessel",
            [new("event:vessel-sold", Cutoff.Fiscal, "P10Y")],
            TwoManagers
        ),
        Timed(
            "VES-060",
            "Yard & Engineering",
            "Dry-dock specifications",
            "Vessels",
            "Specifications and drawings of a docking",
            [new("event:dry-dock-completed", Cutoff.None, "P6Y"), new("created", Cutoff.None, "P8Y")],
            TwoManagers
        ),
        Timed(
            "VES-070",
            "Fleet Operations",
            "Deck logs",
            "Vessels",
            "Official log books",
            [new("created", Cutoff.Year, "P5Y")],
            TwoManagers
        ),
        Timed(
            "VES-080",
            "Yard & Engineering",
            "Superseded certificates abroad",
            "Vessels",
            "Certificates of the island flag",
            [new("event:certificate-superseded", Cutoff.None, "P3Y")],
            TwoManagers
        ),
        Timed(
            "NOR-010",
            "Northern Routes",
            "Northern berth permits",
            "Vessels",
            "Permits of the northern harbours",
            [new("created", Cutoff.Year, "P4Y")],
            StewardThenManager,
            ["Northern by-law 3"]
        ),
        Timed(
            "ISL-010",
            "Island Routes",
            "Island berth permits",
            "Vessels",
            "Permits of the island harbours",
            [new("created", Cutoff.Year, "P5Y")],
            StewardThenManager,
            ["Island by-law 7"]
        ),
        Timed(
            "ISL-020",
            "Island Routes",
            "Island harbour correspondence",
            "Vessels",
            "Letters with harbour offices",
            [new("created", Cutoff.Year, "P6Y")],
            StewardThenManager,
            inForce: false
        ),
        Timed(
            "PAX-010",
            "Passenger Services",
            "Passenger counts",
            "Passengers",
            "Head counts by sailing",
            [new("created", Cutoff.Month, "P2Y")],
            TwoManagers
        ),
        Timed(
            "PAX-020",
            "Passenger Services",
            "Complaints and refunds",
            "Passengers",
            "Correspondence with passengers",
            [new("field:sent", Cutoff.Quarter, "P3Y")],
            TwoManagers,
            ["Passenger privacy 12"],
            "Keep the whole thread together."
        ),
        Timed(
            "PAX-030",
            "Passenger Services",
            "Passenger lists",
            "Passengers",
            "Names by sailing",
            [new("created", Cutoff.Month, "P6M")],
            TwoManagers
        ),
        Timed(
            "PAX-040",
            "Passenger Services",
            "Lost property",
            "Passengers",
            "What was found on board",
            [new("created", Cutoff.None, "P1Y")],
            TwoManagers
        ),
        Timed(
            "FRT-010",
            "Freight & Ticketing",
            "Freight bookings",
            "Freight",
            "Bookings and waybills",
            [new("created", Cutoff.Fiscal, "P7Y")],
            TwoManagers
        ),
        Timed(
            "FRT-020",
            "Freight & Ticketing",
            "Dangerous goods declarations",
            "Freight",
            "Declarations by the shipper",
            [new("created", Cutoff.Year, "P3Y")],
            TwoManagers
        ),
        Timed(
            "FRT-030",
            "Freight & Ticketing",
            "Ticket sales",
            "Freight",
            "Daily totals of the ticket offices",
            [new("created", Cutoff.Fiscal, "P7Y")],
            TwoManagers
        ),
        Timed(
            "FIN-010",
            "Finance",
            "Supplier invoices",
            "Finance",
            "Invoices received and their checks",
            [new("created", Cutoff.Fiscal, "P7Y")],
            TwoManagers
        ),
        Timed(
            "FIN-020",
            "Finance",
            "Fuel supply contracts",
            "Finance",
            "Tenders, contracts and deliveries of fuel",
            [new("created", Cutoff.Fiscal, "P10Y")],
            TwoManagers
        ),
        Timed(
            "FIN-030",
            "Finance",
            "Bank statements",
            "Finance",
            "Statements and reconciliations",
            [new("created", Cutoff.Fiscal, "P7Y")],
            TwoManagers,
            owner: ""
        ),
        Timed(
            "FIN-040",
            "Finance",
            "Tender evaluations",
            "Finance",
            "Evaluations of bids with their score sheets",
            [new("created", Cutoff.Year, "P6Y")],
            TwoManagers,
            guidance: "The winning and the losing bids.",
            inForce: false
        ),
        Timed(
            "FIN-050",
            "Finance",
            "Audit workpapers",
            "Finance",
            "Internal and external audit",
            [new("event:audit-concluded", Cutoff.None, "P7Y")],
            TwoManagers,
            ["17 CFR 210.2-06"]
        ),
        Timed(
            "FIN-060",
            "Finance",
            "Asset register",
            "Finance",
            "Purchase to disposal of equipment",
            [new("modified", Cutoff.Fiscal, "P7Y")],
            TwoManagers
        ),
        Timed(
            "PPL-010",
            "Crewing",
            "Crew personnel files",
            "People",
            "Contract, passport copy, bank details, joining form",
            [new("event:crew-member-left", Cutoff.Fiscal, "P6Y")],
            TwoManagers,
            guidance: "One folder for each crew member; the crew number is the subject reference."
        ),
        Timed(
            "PPL-020",
            "People",
            "Payroll extracts",
            "People",
            "Monthly extracts of the payroll",
            [new("created", Cutoff.Fiscal, "P3Y")],
            TwoManagers,
            ["29 CFR 516.5"]
        ),
        Timed(
            "PPL-030",
            "People",
            "Work-eligibility forms",
            "People",
            "Forms and copies of the documents shown",
            [new("field:hired", Cutoff.None, "P3Y"), new("event:crew-member-left", Cutoff.None, "P1Y")],
            TwoManagers,
            ["8 CFR 274a.2"]
        ),
        Timed(
            "PPL-040",
            "Crewing",
            "Medical fitness certificates",
            "People",
            "Certificates of fitness at sea",
            [new("event:crew-member-left", Cutoff.None, "P30Y")],
            TwoManagers,
            ["29 CFR 1910.1020"]
        ),
        Timed(
            "PPL-050",
            "People",
            "Recruitment",
            "People",
            "Applications that were not taken up",
            [new("created", Cutoff.None, "P1Y")],
            TwoManagers
        ),
        Timed(
            "CLM-010",
            "Claims & Legal",
            "Claims by passengers",
            "Claims",
            "From the first letter to the settlement",
            [new("event:claim-settled", Cutoff.Fiscal, "P7Y")],
            TwoManagers
        ),
        Timed(
            "CLM-020",
            "Claims & Legal",
            "Insurance policies",
            "Claims",
            "Hull, liability and cargo",
            [new("created", Cutoff.Fiscal, "P15Y")],
            TwoManagers
        ),
        Timed(
            "CLM-030",
            "Claims & Legal",
            "Charter parties",
            "Claims",
            "Charters with their addenda",
            [new("field:ended", Cutoff.None, "P7Y")],
            TwoManagers
        ),
        Timed(
            "SAF-010",
            "Safety & Environment",
            "Incident and near-miss reports",
            "Safety",
            "Reports from vessels and yard",
            [new("field:closed", Cutoff.Year, "P5Y")],
            TwoManagers,
            ["29 CFR 1904.33"]
        ),
        Permanent("SAF-020", "Safety & Environment", "Safety committee minutes", "Safety", "Minutes and decisions"),
        Timed(
            "SAF-030",
            "Safety & Environment",
            "Garbage record books",
            "Safety",
            "Pages of the garbage record book",
            [new("field:last-entry", Cutoff.None, "P1Y")],
            TwoManagers,
            ["MARPOL V/10"]
        ),
        Timed(
            "SAF-040",
            "Safety & Environment",
            "Drills and musters",
            "Safety",
            "Reports of drills on board",
            [new("created", Cutoff.Year, "P3Y")],
            TwoManagers
        ),
        Permanent("GOV-010", Organisation, "Articles and deeds", "Governance", "Foundation, shares, deeds"),
        Permanent("GOV-020", Organisation, "Board papers", "Governance", "Papers and minutes of the board"),
        Timed(
            "GOV-030",
            Organisation,
            "Policies",
            "Governance",
            "Each version of a policy",
            [new("modified", Cutoff.None, "P6Y")],
            TwoManagers,
            ["45 CFR 164.316"]
        ),
        Timed(
            "PER-010",
            "Yard & Engineering",
            "Signed hot-work permits",
            "Vessels",
            "Permits as they were signed, with what was found afterwards",
            [new("created", Cutoff.Year, "P5Y")],
            TwoManagers,
            guidance: "Once signed, a permit stays as it is; a change is a new version beside it.",
            grade: Grade.Declared
        ),
        Timed(
            "INF-010",
            "Information Systems",
            "Card-data logs",
            "Information",
            "Logs of the ticket shop",
            [new("created", Cutoff.None, "P1Y")],
            TwoManagers,
            ["PCI DSS 10.5.1"]
        ),
        Timed(
            "INF-020",
            "Information Systems",
            "Access requests",
            "Information",
            "Requests and approvals of access",
            [new("created", Cutoff.Fiscal, "P3Y")],
            TwoManagers
        ),
    ];

    /// <summary>Two blankets: one in force, one a draft whose consequences want to be seen first.</summary>
    public static IReadOnlyList<ScenarioBlanket> Blankets { get; } =
    [
        new("Crew files", "Crewing", ["Crew files"], null, "modified", "P10Y", false, null, true),
        new(
            "Scratch folders",
            "Yard & Engineering",
            [],
            "container = \"*scratch*\"",
            "modified",
            null,
            true,
            "P90D",
            false
        ),
    ];

    public static IReadOnlyList<ScenarioFilingRule> FilingRules { get; } =
    [
        new("Passport copies", "PPL-010", null, "passport-mrz", 10, false),
        new("Letters about berths", "ISL-010", "title = berth and container = \"*Island Routes*\"", null, 3, false),
        new("Harbour letters", "ISL-020", "container = \"*harbour letters*\" and title = harbour", null, 5, false),
    ];

    public static IReadOnlyList<ScenarioContainer> Containers { get; } =
    [
        new("Northern Routes - voyage reports", "Northern Routes", "VES-040", 190, DocumentKind.VoyageReport),
        new("Island Routes - voyage reports", "Island Routes", "VES-040", 150, DocumentKind.VoyageReport),
        new("Northern Routes - oil record books", "Northern Routes", "VES-010", 80, DocumentKind.OilRecord),
        new("Island Routes - oil record books", "Island Routes", "VES-010", 60, DocumentKind.OilRecord),
        new("Northern Routes - berth permits", "Northern Routes", "NOR-010", 36, DocumentKind.Permit),
        new("Island Routes - berth permits", "Island Routes", "ISL-010", 42, DocumentKind.Permit),
        new("Island Routes - harbour letters", "Island Routes", null, 48, DocumentKind.Letter),
        new("Passenger counts", "Passenger Services", "PAX-010", 144, DocumentKind.Counts),
        new("Complaints", "Passenger Services", "PAX-020", 130, DocumentKind.Complaint),
        new("Incident reports", "Safety & Environment", "SAF-010", 90, DocumentKind.Incident),
        new("Safety committee", "Safety & Environment", "SAF-020", 48, DocumentKind.Minutes),
        new("Dry-dock work orders", "Yard & Engineering", "VES-030", 120, DocumentKind.WorkOrder),
        new("Class certificates", "Yard & Engineering", "VES-020", 54, DocumentKind.Certificate),
        new("Yard scratch", "Yard & Engineering", null, 40, DocumentKind.Scratch),
        new("Supplier invoices", "Finance", "FIN-010", 150, DocumentKind.Invoice),
        new("Tenders", "Finance", "FIN-040", 44, DocumentKind.Tender),
        new("Payroll", "People", "PPL-020", 72, DocumentKind.Payroll),
        new("Charters", "Claims & Legal", "CLM-030", 36, DocumentKind.Charter),
        new("Board papers", Organisation, "GOV-020", 40, DocumentKind.BoardPaper),
        new("Crew files", "Crewing", null, 64, DocumentKind.CrewFile),
        new("Finance post", "Finance", null, 36, DocumentKind.FinancePost),
        new("Yard post", "Yard & Engineering", null, 28, DocumentKind.YardPost),
        new(HarbourShare, "Claims & Legal", null, 0, DocumentKind.Letter),
        new(PassengerLists, "Passenger Services", FormerSeries, 0, DocumentKind.Counts),
    ];

    /// <summary>
    /// Names by sailing, kept by the ticket offices until a new system came; all of them are destroyed by now.
    /// </summary>
    public const string PassengerLists = "Passenger lists";

    /// <summary>The first series that was in force: that of the passenger lists.</summary>
    public const string FormerSeries = "PAX-030";

    /// <summary>What was exchanged with the harbour office; the collision's letters lie here.</summary>
    public const string HarbourShare = "Harbour office share";

    public const string WorkspaceName = "Tarnholm workspace";

    /// <summary>Libraries of the workspace; a name that begins with # is a channel.</summary>
    public static IReadOnlyList<(string Name, string Unit, string? Series)> Libraries { get; } =
    [
        ("Bridge procedures", "Safety & Environment", "GOV-030"),
        ("Yard plans", "Yard & Engineering", null),
        ("Signed permits", "Yard & Engineering", "PER-010"),
        ("Crew handbook", "Crewing", null),
        ("#harbour office", "Yard & Engineering", null),
        ("#fleet", "Fleet Operations", null),
    ];

    public const string MailName = "Tarnholm mail";

    public static IReadOnlyList<ScenarioMailbox> Mailboxes { get; } =
    [
        new(
            "claims.mbox",
            "Claims & Legal",
            "CLM-010",
            "claims@tarnholm.example",
            24,
            [
                "Scratched car on the lower deck",
                "Fall on the gangway",
                "Missed connection after fog",
                "Suitcase gone overboard",
            ]
        ),
        new(
            "freight.mbox",
            "Freight & Ticketing",
            "FRT-010",
            "freight@tarnholm.example",
            20,
            ["Booking of four trailers", "Reefer without power", "Waybill corrected", "Timber for Vik"]
        ),
        new(
            "safety",
            "Safety & Environment",
            null,
            "safety@tarnholm.example",
            8,
            ["Life raft service", "Drill on Havlund", "New fire plan"]
        ),
        new(
            "edvin.strand.mbox",
            "Northern Routes",
            null,
            "edvin.strand@tarnholm.example",
            10,
            ["Winter timetable", "Berth at Skarv", "Relief crew"]
        ),
        new(
            "karl.nyman.mbox",
            "Crewing",
            null,
            "karl.nyman@tarnholm.example",
            8,
            ["Bridge rota", "Radio check", "Pilot exemption"]
        ),
        new(
            "pia.lind.mbox",
            "Yard & Engineering",
            null,
            "pia.lind@tarnholm.example",
            9,
            ["Docking window", "Spare propeller", "Paint order"]
        ),
    ];

    private static ScenarioSeries Timed(
        string code,
        string unit,
        string title,
        string function,
        string description,
        ClauseText[] clauses,
        Stage[] stages,
        string[]? authorities = null,
        string guidance = "",
        string? owner = null,
        bool inForce = true,
        Grade grade = Grade.Kept
    ) =>
        new(
            code,
            unit,
            new(
                title,
                description,
                guidance,
                Descriptors.OfFunction(function) with
                {
                    Department = unit,
                },
                owner ?? Keepers.GetValueOrDefault(unit, ""),
                authorities ?? [],
                false,
                ClauseJoin.Later,
                clauses,
                EndAction.SignOff,
                grade,
                false,
                90,
                stages
            ),
            inForce
        );

    private static ScenarioSeries Permanent(
        string code,
        string unit,
        string title,
        string function,
        string description
    ) =>
        new(
            code,
            unit,
            new(
                title,
                description,
                "",
                Descriptors.OfFunction(function) with
                {
                    Department = unit,
                },
                Keepers.GetValueOrDefault(unit, ""),
                [],
                true,
                ClauseJoin.Later,
                [],
                EndAction.Nothing,
                Grade.Kept,
                false,
                90,
                TwoManagers
            )
        );
}
