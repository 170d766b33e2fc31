using System.Globalization;
using System.Text;
using DocumentFormat.OpenXml;
using DocumentFormat.OpenXml.CustomProperties;
using DocumentFormat.OpenXml.Packaging;
using DocumentFormat.OpenXml.Spreadsheet;
using DocumentFormat.OpenXml.VariantTypes;
using MimeKit;
using NodaTime;
using NodaTime.Text;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Core;
using UglyToad.PdfPig.Fonts.Standard14Fonts;
using UglyToad.PdfPig.Writer;
using Word = DocumentFormat.OpenXml.Wordprocessing;

namespace WideKeel.Demo;

public enum DocumentKind
{
    VoyageReport,
    OilRecord,
    Permit,
    Letter,
    Counts,
    Complaint,
    Incident,
    Minutes,
    WorkOrder,
    Certificate,
    Scratch,
    Invoice,
    Tender,
    Payroll,
    Charter,
    BoardPaper,
    CrewFile,

    /// <summary>What has come in and nobody has filed: invoices and tenders.</summary>
    FinancePost,

    /// <summary>Work orders and certificates in one heap.</summary>
    YardPost,
}

/// <summary>
/// Makes believable files over twelve years. The same seed, scale and day make the same files, byte for byte where the
/// format allows.
/// </summary>
/// <param name="today">The last day on which something was written.</param>
public sealed class Documents(int seed, LocalDate today)
{
    private const int Years = 12;

    private static readonly string[] Vessels =
    [
        "Skarvøy",
        "Tarnlight",
        "Isle of Brenna",
        "Northern Wren",
        "Havlund",
        "Merrow",
        "Gullholm",
    ];
    private static readonly string[] Ports =
    [
        "Tarnholm",
        "Brenna Quay",
        "Skarv",
        "North Haven",
        "Holmsund Pier",
        "Eastlight",
        "Vik",
    ];
    private static readonly string[] Names =
    [
        "A. Brand",
        "T. Solberg",
        "K. Nyman",
        "R. Ferro",
        "L. Haugen",
        "S. Dorn",
        "E. Marsh",
        "O. Lund",
        "M. Tarn",
        "P. Wick",
    ];
    private static readonly string[] Weather =
    [
        "calm, good visibility",
        "south-westerly 6, moderate sea",
        "fog until noon",
        "northerly 4, slight swell",
        "squalls after midnight",
    ];
    private static readonly string[] Works =
    [
        "main-engine overhaul",
        "bow-thruster seal",
        "hull blasting and paint",
        "rudder bearing",
        "galley ventilation",
        "ramp hinge",
        "fire damper test",
    ];
    private static readonly string[] Mishaps =
    [
        "slip on the wet car deck",
        "contact with a fender",
        "smoke from a hot bearing",
        "mooring line parted",
        "lifebuoy light failed",
        "near miss with a dinghy",
    ];
    private static readonly string[] Suppliers =
    [
        "Brenna Paints",
        "Norlund Bearings",
        "Quayside Catering",
        "Eastlight Fuels",
        "Skarv Electric",
    ];

    private readonly Random random = new(seed);
    private string keeper = "";
    private string? subject;

    /// <summary>Writes every container of the scenario beneath a root. Returns the number of files.</summary>
    public int Write(string root, int scale)
    {
        var written = 0;
        foreach (var container in Scenario.Containers)
        {
            var count = container.Files * scale;
            keeper = Scenario.Keepers[container.Unit];
            for (var i = 0; i < count; i++)
            {
                var day = today.PlusDays(-(int)((long)(count - 1 - i) * Years * 365 / count) - random.Next(0, 12));
                WriteOne(Path.Combine(root, container.Name), container, i + 1, day);
                written++;
            }
        }

        return written;
    }

    /// <summary>
    /// Writes the mail store: mailboxes and a folder of messages, with conversations and attachments; of each what was
    /// sent after one day through another. Returns the number of messages.
    /// </summary>
    public int WriteMail(string root, int scale, LocalDate after, LocalDate through)
    {
        var written = 0;
        Directory.CreateDirectory(root);
        foreach (var box in Scenario.Mailboxes)
        {
            var inFile = box.Name.EndsWith(".mbox", StringComparison.Ordinal);
            using var file = inFile ? new FileStream(Path.Combine(root, box.Name), FileMode.Append) : null;
            for (var i = 0; i < box.Conversations * scale; i++)
            {
                var day = today.PlusDays(
                    -(int)((long)((box.Conversations * scale) - 1 - i) * Years * 365 / (box.Conversations * scale))
                        - random.Next(20, 40)
                );
                var other = $"{Pick(["guest", "shipper", "surveyor"])}{random.Next(100, 999)}@post.example";
                var topic = Pick(box.Topics);
                List<string> before = [];
                for (var n = 0; n < random.Next(2, 6); n++)
                {
                    using var message = Letter(
                        box,
                        topic,
                        other,
                        day.PlusDays(n * random.Next(0, 4)),
                        $"{box.Address.Split('@')[0]}.{i + 1}.{n + 1}",
                        before,
                        n,
                        i
                    );
                    before.Add(message.MessageId!);
                    if (LocalDate.FromDateTime(message.Date.UtcDateTime) is var sent && sent > after && sent <= through)
                    {
                        Put(
                            message,
                            file,
                            Path.Combine(root, box.Name, $"{message.Date:yyyy-MM-dd} {i + 1:000}-{n + 1}.eml")
                        );
                        written++;
                    }
                }
            }
        }

        return written;
    }

    /// <summary>RFC 4155: a "From " line, the message with its own such lines quoted, a blank line.</summary>
    private static void Put(MimeMessage message, FileStream? box, string file)
    {
        if (box is null)
        {
            Directory.CreateDirectory(Path.GetDirectoryName(file)!);
            message.WriteTo(file);
            File.SetLastWriteTimeUtc(file, message.Date.UtcDateTime);
            return;
        }

        var options = FormatOptions.Default.Clone();
        options.NewLineFormat = NewLineFormat.Unix;
        using var memory = new MemoryStream();
        message.WriteTo(options, memory);
        var text = Encoding
            .Latin1.GetString(memory.ToArray())
            .Replace("\nFrom ", "\n>From ", StringComparison.Ordinal)
            .TrimEnd('\n');
        box.Write(
            Encoding.Latin1.GetBytes(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"From {message.From.Mailboxes.First().Address} {message.Date.UtcDateTime:ddd MMM d HH:mm:ss yyyy}\n{text}\n\n"
                )
            )
        );
    }

    private MimeMessage Letter(
        ScenarioMailbox box,
        string topic,
        string other,
        LocalDate day,
        string id,
        List<string> before,
        int number,
        int conversation
    )
    {
        var (from, to) = number % 2 == 0 ? (other, box.Address) : (box.Address, other);
        var message = new MimeMessage
        {
            Subject = number == 0 ? topic : $"Re: {topic}",
            Date = day.At(new LocalTime(8 + random.Next(9), random.Next(60))).InUtc().ToDateTimeOffset(),
            MessageId = $"{id}@tarnholm.example",
        };
        message.From.Add(MailboxAddress.Parse(from));
        message.To.Add(MailboxAddress.Parse(to));
        message.References.AddRange(before);
        message.InReplyTo = before.LastOrDefault();
        var body = new BodyBuilder { TextBody = $"{Prose(3)}\n\n{Pick(Names)}\n" };
        if (number == 0 && conversation % 3 == 0)
        {
            body.Attachments.Add(
                $"statement {conversation + 1}.txt",
                Encoding.UTF8.GetBytes($"Statement of {Pick(Names)}, {Iso(day)}.\n{Prose(3)}")
            );
        }

        message.Body = body.ToMessageBody();
        return message;
    }

    private void WriteOne(string folder, ScenarioContainer container, int number, LocalDate day)
    {
        var (name, write) = Make(container, number, day);
        var file = Path.Combine(folder, day.Year.ToString(CultureInfo.InvariantCulture), name);
        Directory.CreateDirectory(Path.GetDirectoryName(file)!);
        write(file);
        File.SetLastWriteTimeUtc(
            file,
            day.At(new LocalTime(8 + random.Next(9), random.Next(60))).InUtc().ToDateTimeUtc()
        );
    }

    // Long because it has one arm for each kind of document.
    private (string Name, Action<string> Write) Make(ScenarioContainer container, int number, LocalDate day)
    {
        container = container.Kind switch
        {
            DocumentKind.FinancePost => container with
            {
                Kind = number % 3 == 0 ? DocumentKind.Tender : DocumentKind.Invoice,
            },
            DocumentKind.YardPost => container with
            {
                Kind = number % 4 == 0 ? DocumentKind.Certificate : DocumentKind.WorkOrder,
            },
            _ => container,
        };
        var vessel = Pick(Vessels);
        var (from, to) = (Pick(Ports), Pick(Ports));
        var who = Pick(Names);
        var iso = Iso(day);
        subject = container.Kind switch
        {
            DocumentKind.OilRecord or DocumentKind.WorkOrder or DocumentKind.Certificate or DocumentKind.Charter =>
                Scenario.Vessel(Array.IndexOf(Vessels, vessel)),
            DocumentKind.CrewFile => Scenario.Crew(1 + (number % 24)),
            _ => null,
        };
        return container.Kind switch
        {
            DocumentKind.VoyageReport => VoyageReport(number, day, vessel, from, to, who, iso),
            DocumentKind.OilRecord => OilRecord(number, day, vessel, to, who, iso),
            DocumentKind.Permit => Permit(number, day, vessel, to, who, iso),
            DocumentKind.Letter => Letter(number, day, to, iso),
            DocumentKind.Counts => Counts(day, iso),
            DocumentKind.Complaint => Complaint(number, day, vessel, iso),
            DocumentKind.Incident => Incident(number, day, vessel, from, who, iso),
            DocumentKind.Minutes => Minutes(day, who, iso),
            DocumentKind.WorkOrder => WorkOrder(number, day, vessel, who),
            DocumentKind.Certificate => Certificate(number, day, vessel, from, iso),
            DocumentKind.Scratch => Scratch(number),
            DocumentKind.Invoice => Invoice(number, day, who, iso),
            DocumentKind.Tender => Tender(number, day, who, iso),
            DocumentKind.Payroll => Payroll(iso),
            DocumentKind.Charter => Charter(number, day, vessel, who, iso),
            DocumentKind.BoardPaper => BoardPaper(number, day, who, iso),
            DocumentKind.CrewFile => CrewFile(number, day, iso),
            _ => throw new InvalidOperationException($"No such kind: {container.Kind}."),
        };
    }

    private (string Name, Action<string> Write) VoyageReport(
        int number,
        LocalDate day,
        string vessel,
        string from,
        string to,
        string who,
        string iso
    )
    {
        return (
            $"{iso} {Plain(vessel)} voyage {number:0000}.md",
            f =>
                Markdown(
                    f,
                    $"Voyage {number}, {vessel}, {from} to {to}",
                    who,
                    day,
                    [],
                    $"Sailed {from} {random.Next(5, 22)}:{random.Next(60):00}, arrived {to}. Weather: "
                        + $"{Pick(Weather)}.\nPassengers {random.Next(20, 380)}, vehicles "
                        + $"{random.Next(4, 90)}. Fuel {random.Next(300, 2400)} l.\n\n{Prose(4)}"
                )
        );
    }

    private (string Name, Action<string> Write) OilRecord(
        int number,
        LocalDate day,
        string vessel,
        string to,
        string who,
        string iso
    )
    {
        var last = day.PlusDays(random.Next(20, 60));
        return (
            $"{iso} {Plain(vessel)} oil record page {number:000}.docx",
            f =>
                Docx(
                    f,
                    $"Oil record book, {vessel}, page {number}",
                    who,
                    day,
                    number % 29 == 0 ? [] : [("Last entry", last)],
                    [
                        $"Code C. Collection of oil residues. Quantity retained {random.Next(1, 9)}.{random.Next(10)} m3.",
                        $"Code D. Transfer of bilge water from engine room, {random.Next(1, 14)} m3 to shore at {to}.",
                        Prose(2),
                    ]
                )
        );
    }

    private (string Name, Action<string> Write) Permit(
        int number,
        LocalDate day,
        string vessel,
        string to,
        string who,
        string iso
    )
    {
        return (
            $"{iso} permit {number:000} {Plain(to)}.pdf",
            f =>
                Pdf(
                    f,
                    $"Berth permit {number}, {to}",
                    who,
                    day,
                    [$"Vessel {vessel} may use berth {random.Next(1, 6)} at {to}.", Prose(3)]
                )
        );
    }

    private (string Name, Action<string> Write) Letter(int number, LocalDate day, string to, string iso)
    {
        return (
            $"{iso} letter {number:000}.eml",
            f =>
                Mail(
                    f,
                    $"Harbour office {to}: dredging and berth {random.Next(1, 6)}",
                    "harbour.office@islands.example",
                    "island.routes@tarnholm.example",
                    day,
                    Prose(5)
                )
        );
    }

    private (string Name, Action<string> Write) Counts(LocalDate day, string iso)
    {
        return (
            $"{iso} counts.csv",
            f =>
                Csv(
                    f,
                    ["date", "vessel", "from", "to", "adults", "children", "vehicles"],
                    Enumerable
                        .Range(0, 24)
                        .Select(i =>
                            new[]
                            {
                                Iso(day.PlusDays(-i)),
                                Pick(Vessels),
                                Pick(Ports),
                                Pick(Ports),
                                N(10, 300),
                                N(0, 60),
                                N(0, 80),
                            }
                        )
                )
        );
    }

    private (string Name, Action<string> Write) Complaint(int number, LocalDate day, string vessel, string iso)
    {
        return (
            $"{iso} complaint {number:0000}.eml",
            f =>
                Mail(
                    f,
                    $"{Pick(["Late sailing", "Refund", "Lost luggage", "Damaged car", "Cold coffee"])} on {vessel}",
                    $"passenger{random.Next(100, 999)}@post.example",
                    "service@tarnholm.example",
                    day,
                    Prose(4)
                        + (
                            number % 6 == 0
                                ? $"\n\nPlease refund the fare to my card {Identifiers.Card(number)}, expires 09/27."
                            : number % 5 == 0
                                ? $"\n\nMy account is {Identifiers.Iban(number)}. You reach me at +298 {200000 + (number * 37)}."
                            : ""
                        )
                )
        );
    }

    private (string Name, Action<string> Write) Incident(
        int number,
        LocalDate day,
        string vessel,
        string from,
        string who,
        string iso
    )
    {
        var open = random.Next(5) == 0 && day > today.PlusYears(-2);
        return (
            $"{iso} incident {number:000}.docx",
            f =>
                Docx(
                    f,
                    $"Incident {number}: {Pick(Mishaps)}, {vessel}",
                    who,
                    day,
                    open ? [] : [("Closed", day.PlusDays(random.Next(10, 90)))],
                    [
                        $"Reported by {who} at {from}.",
                        Prose(4),
                        "Immediate action: area cordoned, master informed.",
                        Prose(2),
                    ]
                )
        );
    }

    private (string Name, Action<string> Write) Minutes(LocalDate day, string who, string iso)
    {
        return (
            $"{iso} safety committee.md",
            f =>
                Markdown(
                    f,
                    $"Safety committee, {day.ToString("MMMM uuuu", CultureInfo.InvariantCulture)}",
                    who,
                    day,
                    [],
                    $"Present: {who}, {Pick(Names)}, {Pick(Names)}.\n\n1. {Pick(Mishaps)}: {Prose(2)}\n2. Drills: {Prose(2)}"
                )
        );
    }

    private (string Name, Action<string> Write) WorkOrder(int number, LocalDate day, string vessel, string who)
    {
        var work = Pick(Works);
        return (
            $"WO-{day.Year}-{number:0000} {work}.{(number % 3 == 0 ? "txt" : "docx")}",
            f =>
            {
                (string, LocalDate)[] closed =
                    day > today.PlusDays(-60) ? [] : [("Closed", day.PlusDays(random.Next(3, 60)))];
                if (number % 3 == 0)
                {
                    Markdown(
                        f,
                        $"WO-{day.Year}-{number:0000} {work}",
                        who,
                        day,
                        closed,
                        $"Vessel {vessel}. {Prose(4)}"
                    );
                }
                else
                {
                    Docx(
                        f,
                        $"WO-{day.Year}-{number:0000} {work}",
                        who,
                        day,
                        closed,
                        [$"Vessel {vessel}. Hours {random.Next(4, 120)}.", Prose(4)]
                    );
                }
            }
        );
    }

    private (string Name, Action<string> Write) Certificate(
        int number,
        LocalDate day,
        string vessel,
        string from,
        string iso
    )
    {
        return (
            $"{iso} {Plain(vessel)} certificate {number:00}.docx",
            f =>
                Docx(
                    f,
                    $"{Pick(["Passenger ship safety", "Load line", "Class", "Tonnage"])} certificate, {vessel}",
                    "Class surveyor",
                    day,
                    day < today.PlusYears(-5) ? [("Superseded", day.PlusYears(5))] : [],
                    [
                        $"Issued at {from}. Valid five years. Vessel IMO {Identifiers.Ship(Array.IndexOf(Vessels, vessel))}.",
                        Prose(2),
                    ]
                )
        );
    }

    private (string Name, Action<string> Write) Scratch(int number)
    {
        return (
            $"notes {number:000} {Pick(["draft", "copy", "old", "new", "final final"])}.txt",
            f => File.WriteAllText(f, Prose(3))
        );
    }

    private (string Name, Action<string> Write) Invoice(int number, LocalDate day, string who, string iso)
    {
        var supplier = Pick(Suppliers);
        return number % 2 == 0
            ? (
                $"{iso} {supplier} invoice {number:0000}.xlsx",
                f =>
                    Xlsx(
                        f,
                        $"Invoice {number}, {supplier}",
                        who,
                        day,
                        Enumerable.Range(1, 8).Select(i => new[] { $"Item {i}", N(1, 40), N(20, 900) })
                    )
            )
            : (
                $"{iso} {supplier} invoice {number:0000}.html",
                f => Html(f, $"Invoice {number}, {supplier}", who, day, Prose(2))
            );
    }

    private (string Name, Action<string> Write) Tender(int number, LocalDate day, string who, string iso)
    {
        return (
            $"{iso} tender {number:00} evaluation.docx",
            f =>
                Docx(
                    f,
                    $"Tender {number}: {Pick(Works)}, evaluation",
                    who,
                    day,
                    [],
                    [$"Bidders: {Pick(Suppliers)}, {Pick(Suppliers)}.", Prose(5)]
                )
        );
    }

    private (string Name, Action<string> Write) Payroll(string iso)
    {
        return (
            $"{iso} payroll.csv",
            f =>
                Csv(
                    f,
                    ["number", "name", "unit", "gross", "net"],
                    Enumerable
                        .Range(1, 60)
                        .Select(i =>
                            new[]
                            {
                                $"T{1000 + i}",
                                Pick(Names),
                                Pick(["Crewing", "Yard", "Office"]),
                                N(2500, 6000),
                                N(1800, 4200),
                            }
                        )
                )
        );
    }

    private (string Name, Action<string> Write) Charter(
        int number,
        LocalDate day,
        string vessel,
        string who,
        string iso
    )
    {
        var ended = day.PlusDays(random.Next(60, 700));
        return (
            $"{iso} charter {number:00} {Plain(vessel)}.docx",
            f =>
                Docx(
                    f,
                    $"Charter party, {vessel}",
                    who,
                    day,
                    ended > today ? [] : [("Ended", ended)],
                    [$"Between Tarnholm Ferries and {Pick(Suppliers)}.", Prose(6)]
                )
        );
    }

    private (string Name, Action<string> Write) BoardPaper(int number, LocalDate day, string who, string iso)
    {
        return (
            $"{iso} board paper {number:00}.pdf",
            f =>
                Pdf(
                    f,
                    $"Board paper {number}: {Pick(["fleet renewal", "winter timetable", "quay lease", "fuel hedging"])}",
                    who,
                    day,
                    [Prose(4), Prose(4), Prose(3)]
                )
        );
    }

    /// <summary>
    /// What a crewing office keeps of each person: a copy of the passport, the bank account, the tax form, the joining
    /// form.
    /// </summary>
    private (string Name, Action<string> Write) CrewFile(int number, LocalDate day, string iso)
    {
        var (given, family) = (
            Pick(["Anna", "Brit", "Carl", "Dana", "Emil", "Frida", "Goran"]),
            Pick(["Brand", "Solberg", "Nyman", "Ferro", "Haugen", "Dorn", "Lund"])
        );
        var crew = $"{given} {family}";
        return (number % 4) switch
        {
            0 => (
                $"{iso} {family} passport {number:000}.txt",
                f =>
                    File.WriteAllText(
                        f,
                        $"---\nsubject reference: {subject}\n---\n"
                            + $"Copy of passport, {crew}, for the muster list\n\n"
                            + $"{Identifiers.PassportZone(family, given, number)}\n\nSeen by the crewing office.\n"
                    )
            ),
            1 => (
                $"{iso} {family} bank details {number:000}.docx",
                f =>
                    Docx(
                        f,
                        $"Bank details, {crew}",
                        crew,
                        day,
                        [],
                        [$"Account holder {crew}. IBAN {Identifiers.Iban(number)}.", "Wages are paid on the 25th."]
                    )
            ),
            2 => (
                $"{iso} {family} joining form {number:000}.docx",
                f =>
                    Docx(
                        f,
                        $"Joining form, {crew}",
                        crew,
                        day,
                        [],
                        [
                            $"Crew number T{1000 + number}. National insurance number {Identifiers.NationalInsurance(number)}.",
                            $"Mail {given.ToLowerInvariant()}.{family.ToLowerInvariant()}@post.example, mobile "
                                + $"+298 {210000 + (number * 53)}.",
                            Prose(1),
                        ]
                    )
            ),
            _ => (
                $"{iso} {family} tax form {number:000}.txt",
                f =>
                    File.WriteAllText(
                        f,
                        $"---\nsubject reference: {subject}\n---\nP60 End of Year Certificate\n\n"
                            + $"Employee {crew}\nNational insurance number {Identifiers.NationalInsurance(number)}\n"
                            + $"Pay in the year {random.Next(24_000, 52_000)}\n"
                    )
            ),
        };
    }

    private string Pick(string[] from) => from[random.Next(from.Length)];

    private string N(int least, int most) => random.Next(least, most).ToString(CultureInfo.InvariantCulture);

    private static string Iso(LocalDate date) => LocalDatePattern.Iso.Format(date);

    private static string Plain(string name) => name.Replace('ø', 'o').Replace(' ', '-');

    private string Prose(int sentences)
    {
        string[] subjects =
        [
            "The chief officer",
            "The yard",
            "The purser",
            "The harbour office",
            "The surveyor",
            "The duty engineer",
            "The committee",
        ];
        string[] verbs = ["reported", "checked", "asked for", "agreed on", "noted", "repaired", "postponed"];
        string[] objects =
        [
            "the stern ramp",
            "a new berth",
            "the spare pump",
            "the passenger list",
            "the drill on Thursday",
            "the paint on the car deck",
            "the radio log",
        ];
        string[] ends =
        [
            "before the evening sailing",
            "without delay",
            "after the inspection",
            "with two hands from the deck",
            "as agreed in spring",
            "and wrote it in the book",
        ];
        var text = new StringBuilder();
        for (var i = 0; i < sentences; i++)
        {
            text.Append(CultureInfo.InvariantCulture, $"{Pick(subjects)} {Pick(verbs)} {Pick(objects)} {Pick(ends)}. ");
        }

        return text.ToString().TrimEnd();
    }

    private void Markdown(
        string file,
        string title,
        string author,
        LocalDate day,
        (string Name, LocalDate Date)[] dates,
        string body
    )
    {
        var fields =
            string.Concat(dates.Select(d => $"{d.Name}: {Iso(d.Date)}\n"))
            + (subject is null ? "" : $"subject reference: {subject}\n");
        File.WriteAllText(
            file,
            $"---\ntitle: {title}\nauthor: {author}\nowner: {keeper}\ncreated: {Iso(day)}\n{fields}---\n\n# {title}\n\n{body}\n"
        );
    }

    private static void Csv(string file, string[] head, IEnumerable<string[]> rows) =>
        File.WriteAllText(file, string.Join("\r\n", rows.Prepend(head).Select(r => string.Join(',', r))) + "\r\n");

    private static void Html(string file, string title, string author, LocalDate day, string body) =>
        File.WriteAllText(
            file,
            $"""
            <!doctype html><html lang="en"><head><meta charset="utf-8"><title>{title}</title>
            <meta name="author" content="{author}"><meta name="created" content="{Iso(day)}"></head>
            <body><h1>{title}</h1><p>{body}</p>
            <table><tr><th>Item</th><th>Amount</th></tr><tr><td>Paint, marine grey</td><td>1,240.00</td></tr></table>
            </body></html>
            """
        );

    private void Docx(
        string file,
        string title,
        string author,
        LocalDate day,
        (string Name, LocalDate Date)[] dates,
        string[] paragraphs
    )
    {
        using var document = WordprocessingDocument.Create(file, WordprocessingDocumentType.Document);
        document.AddMainDocumentPart().Document = new Word.Document(
            new Word.Body(paragraphs.Prepend(title).Select(p => new Word.Paragraph(new Word.Run(new Word.Text(p)))))
        );
        Describe(document, title, author, day);
        List<(string Name, string Value)> fields = [.. dates.Select(d => (d.Name, Iso(d.Date)))];
        if (subject is not null)
        {
            fields.Add(("Subject reference", subject));
        }

        if (fields.Count > 0)
        {
            document.AddCustomFilePropertiesPart().Properties = new Properties(
                fields.Select(
                    (d, i) =>
                        new CustomDocumentProperty(new VTLPWSTR(d.Value))
                        {
                            FormatId = "{D5CDD505-2E9C-101B-9397-08002B2CF9AE}",
                            PropertyId = i + 2,
                            Name = d.Name,
                        }
                )
            );
        }
    }

    private void Xlsx(string file, string title, string author, LocalDate day, IEnumerable<string[]> rows)
    {
        using var document = SpreadsheetDocument.Create(file, SpreadsheetDocumentType.Workbook);
        var workbook = document.AddWorkbookPart();
        var sheet = workbook.AddNewPart<WorksheetPart>();
        sheet.Worksheet = new Worksheet(
            new SheetData(
                rows.Prepend([title])
                    .Select(r => new Row(
                        r.Select(v => new Cell
                        {
                            DataType = CellValues.InlineString,
                            InlineString = new InlineString(new Text(v)),
                        })
                    ))
            )
        );
        workbook.Workbook = new Workbook(
            new Sheets(
                new Sheet
                {
                    Id = workbook.GetIdOfPart(sheet),
                    SheetId = 1,
                    Name = "Invoice",
                }
            )
        );
        Describe(document, title, author, day);
    }

    private void Describe(OpenXmlPackage package, string title, string author, LocalDate day)
    {
        package.PackageProperties.Title = title;
        package.PackageProperties.Creator = author;
        package.PackageProperties.LastModifiedBy = keeper;
        package.PackageProperties.Created = day.AtMidnight().InUtc().ToDateTimeUtc();
        package.PackageProperties.Modified = day.AtMidnight().InUtc().ToDateTimeUtc();
    }

    private static void Pdf(string file, string title, string author, LocalDate day, string[] paragraphs)
    {
        using var builder = new PdfDocumentBuilder();
        builder.DocumentInformation.Title = Ascii(title);
        builder.DocumentInformation.Author = author;
        builder.DocumentInformation.CreationDate = $"D:{day:uuuuMMdd}080000Z";
        var font = builder.AddStandard14Font(Standard14Font.Helvetica);
        var page = builder.AddPage(PageSize.A4);
        page.AddText(Ascii(title), 16, new PdfPoint(56, 770), font);
        var y = 735.0;
        foreach (var line in paragraphs.SelectMany(p => p.Split(". ")))
        {
            page.AddText(Ascii(line.TrimEnd('.') + "."), 10, new PdfPoint(56, y), font);
            y -= 16;
        }

        File.WriteAllBytes(file, builder.Build());
    }

    private static void Mail(string file, string subject, string from, string to, LocalDate day, string body)
    {
        using var message = new MimeMessage();
        message.From.Add(MailboxAddress.Parse(from));
        message.To.Add(MailboxAddress.Parse(to));
        message.Subject = subject;
        message.Date = day.At(new LocalTime(9, 30)).InUtc().ToDateTimeOffset();
        message.MessageId = $"{Path.GetFileNameWithoutExtension(file).Replace(' ', '.')}@tarnholm.example";
        message.Body = new TextPart("plain") { Text = body };
        message.WriteTo(file);
    }

    /// <summary>The standard fonts of PDF carry Latin-1 only in part.</summary>
    private static string Ascii(string text) => text.Replace("ø", "oe", StringComparison.Ordinal);
}
