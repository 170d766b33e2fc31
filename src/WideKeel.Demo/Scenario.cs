using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;

namespace WideKeel.Demo;

/// <summary>An account of the demo.</summary>
public sealed record ScenarioPerson(string Name, string Mail, Role Role, string Unit);

/// <summary>A container of the share: its unit, the series that its files are filed under (null: none yet), and how its files are made.</summary>
/// <param name="Files">Number at scale 1.</param>
public sealed record ScenarioContainer(string Name, string Unit, string? Series, int Files, DocumentKind Kind);

/// <param name="InForce">False: stays a draft, so that there is something to decide.</param>
public sealed record ScenarioSeries(string Code, string Unit, SeriesDefinition Definition, bool InForce = true);

/// <summary>Tarnholm Ferries: an invented regional ferry operator with a small repair yard. Nothing here names anyone who exists.</summary>
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
        ("Fleet Operations", Organisation), ("Northern Routes", "Fleet Operations"), ("Island Routes", "Fleet Operations"), ("Crewing", Organisation),
        ("Yard & Engineering", Organisation), ("Passenger Services", Organisation), ("Freight & Ticketing", Organisation), ("Finance", Organisation),
        ("Claims & Legal", Organisation), ("Safety & Environment", Organisation), ("People", Organisation), ("Information Systems", Organisation),
    ];

    public static IReadOnlyList<ScenarioPerson> People { get; } =
    [
        new("Ines Calloway", "ines.calloway@tarnholm.example", Role.RecordsManager, Organisation),
        new("Tobias Renner", "tobias.renner@tarnholm.example", Role.RecordsManager, Organisation),
        new("Maren Holt", "maren.holt@tarnholm.example", Role.Steward, "Island Routes"),
        new("Edvin Strand", "edvin.strand@tarnholm.example", Role.Steward, "Northern Routes"),
        new("Pia Lind", "pia.lind@tarnholm.example", Role.Staff, "Yard & Engineering"),
        new("Jonas Aske", "jonas.aske@tarnholm.example", Role.Administrator, Organisation),
    ];

    /// <summary>Who answers for the documents of a unit.</summary>
    public static IReadOnlyDictionary<string, string> Keepers { get; } = new Dictionary<string, string>
    {
        ["Northern Routes"] = "Edvin Strand", ["Island Routes"] = "Maren Holt", ["Passenger Services"] = "Lena Marsh", ["Safety & Environment"] = "Oskar Tarn", ["Yard & Engineering"] = "Pia Lind",
        ["Finance"] = "Ruth Ferro", ["People"] = "Stina Dorn", ["Claims & Legal"] = "Henrik Wick", ["Crewing"] = "Karl Nyman", [Organisation] = "Ines Calloway",
    };

    public static IReadOnlyList<ScenarioSeries> Series { get; } =
    [
        new("VES-010", "Fleet Operations", Timed("Oil record books", "Vessels", "Pages of the oil record book, part I", "field:last-entry", Cutoff.None, "P3Y", TwoManagers,
            "MARPOL Annex I, regulation 17: three years after the last entry", "File each page under the vessel's folder; the last entry's date starts the clock.")),
        new("VES-020", "Yard & Engineering", Timed("Class and safety certificates", "Vessels", "Certificates issued by class and flag", "field:superseded", Cutoff.None, "P5Y", TwoManagers, "", "")),
        new("VES-030", "Yard & Engineering", Timed("Dry-dock work orders", "Vessels", "Work orders of the repair yard, with their attachments", "field:closed", Cutoff.Fiscal, "P7Y", TwoManagers,
            "Yard contract framework §14: five years", "Only closed orders; open ones wait in the yard's own folder.")),
        new("VES-040", "Fleet Operations", Timed("Voyage reports", "Vessels", "Master's report of each voyage", "created", Cutoff.Year, "P6Y", TwoManagers, "", "")),
        new("NOR-010", "Northern Routes", Timed("Northern berth permits", "Vessels", "Permits of the northern harbours", "created", Cutoff.Year, "P4Y", StewardThenManager, "", "")),
        new("ISL-010", "Island Routes", Timed("Island berth permits", "Vessels", "Permits of the island harbours", "created", Cutoff.Year, "P5Y", StewardThenManager, "Island harbour by-law 7: five years", "")),
        new("PAX-010", "Passenger Services", Timed("Passenger counts", "Passengers", "Head counts by sailing", "created", Cutoff.Month, "P2Y", TwoManagers, "", "")),
        new("PAX-020", "Passenger Services", Timed("Complaints and refunds", "Passengers", "Correspondence with passengers", "field:sent", Cutoff.Quarter, "P3Y", TwoManagers, "", "Keep the whole thread together.")),
        new("FIN-010", "Finance", Timed("Supplier invoices", "Finance", "Invoices received and their checks", "created", Cutoff.Fiscal, "P7Y", TwoManagers, "", "")),
        new("PPL-020", "People", Timed("Payroll extracts", "People", "Monthly extracts of the payroll", "created", Cutoff.Fiscal, "P3Y", TwoManagers, "29 CFR 516.5: three years", "")),
        new("CLM-030", "Claims & Legal", Timed("Charter parties", "Claims", "Charters with their addenda", "field:ended", Cutoff.None, "P7Y", TwoManagers, "", "")),
        new("SAF-010", "Safety & Environment", Timed("Incident and near-miss reports", "Safety", "Reports from vessels and yard", "field:closed", Cutoff.Year, "P5Y", TwoManagers, "29 CFR 1904.33: five years after the calendar year", "")),
        new("SAF-020", "Safety & Environment", Permanent("Safety committee minutes", "Safety", "Minutes and decisions")),
        new("GOV-020", Organisation, Permanent("Board papers", "Governance", "Papers and minutes of the board")),
        new("FIN-040", "Finance", Timed("Tender evaluations", "Finance", "Evaluations of bids with their score sheets", "created", Cutoff.Year, "P6Y", TwoManagers, "", "The winning and the losing bids."), InForce: false),
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
    ];

    private static SeriesDefinition Timed(string title, string function, string description, string trigger, Cutoff cutoff, string period, Stage[] stages, string authority, string guidance) =>
        new(title, description, guidance, function, authority, false, trigger, cutoff, period, EndAction.SignOff, 90, stages);

    private static SeriesDefinition Permanent(string title, string function, string description) =>
        new(title, description, "", function, "", true, "created", Cutoff.None, null, EndAction.Nothing, 90, TwoManagers);
}
