using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using UglyToad.PdfPig.Writer;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Demo;
using WideKeel.Server.People;
using WideKeel.Server.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Demo;

/// <summary>
/// The demo's readiness: three frameworks, controls with their tests, routines and evidence, registers, gauges, an audit
/// in five weeks, and a year of history that the parts themselves give.
/// </summary>
internal static class DemoReadiness
{
    internal const string Auditor = "halvor.tind@auditors.example";

    private static readonly (string Name, string Measure, double Target, double Warning, double Alarm)[] Gauges =
    [
        ("People with a second factor", "second-factor", 100, 95, 85),
        ("Containers under a rule", "containers-under-a-rule", 100, 90, 70),
        ("Outside links with an end", "links-with-an-end", 100, 80, 50),
        ("Places that are not open to anyone", "not-open-to-anyone", 100, 98, 90),
        ("Review lines decided by somebody", "reviews-in-time", 95, 80, 60),
        ("Sealed days are whole", "segments-verified", 100, 100, 99),
        ("Leavers without access", "leavers-without-access", 100, 90, 70),
        ("Places and groups with an owner", "owners-named", 100, 95, 85),
        ("Alerts answered in time", "alerts-in-time", 95, 80, 50),
        ("Channels that are heard", "channels-heard", 100, 90, 60),
        ("Hold notices acknowledged", "holds-acknowledged", 100, 90, 70),
        ("Training done", "training-done", 100, 90, 50),
    ];

    public static async Task MakeAsync(
        Uri address,
        IServiceProvider services,
        Dictionary<string, long> units,
        int seed,
        LocalDate today
    )
    {
        using var jonas = await DemoSeed.DemoClient.ConnectAsync(address);
        await jonas.SignInAsync("jonas.aske@tarnholm.example");
        await jonas.AddPersonAsync(
            services,
            new People.NewPerson("Halvor Tind", Auditor, [new(Role.ExternalAuditor, units[Scenario.Organisation])])
        );
        using var ines = await DemoSeed.DemoClient.ConnectAsync(address);
        await ines.SignInAsync("ines.calloway@tarnholm.example");
        foreach (var catalog in FrameworkCatalog.Shipped)
        {
            await ines.PostAsync<Done>("frameworks", new AdoptRequest(catalog.Code));
        }

        await ines.PostTextAsync("frameworks/oscal", ReadinessStory.Standard);
        await ControlsAsync(ines, units, today);
        foreach (var entry in ReadinessStory.Entries)
        {
            await ines.PostAsync<Done>("registers", Entry(entry, today));
        }

        await ConnectionsAsync(ines, services, seed, today);
        await PoliciesAsync(address, ines, services, today);
        foreach (var (name, measure, target, warning, alarm) in Gauges)
        {
            await ines.PostAsync<Done>("gauges", new GaugeSettings(name, measure, target, warning, alarm));
        }

        await DemoReadinessHistory.MakeAsync(services, today);
        await DemoAudits.MakeAsync(ines, today);
        await SupplierDocumentsAsync(ines, today);
        var settings = await ines.GetAsync<AssuranceView>("assurance/settings");
        await ines.PutAsync<Done>(
            "assurance/settings",
            new AssuranceSettings(
                true,
                "We carry people and their cars between islands. What we keep, whom we let see it and how we end it "
                    + "is tested every day; this page shows where we stand.",
                ["safety-records-standard", "nist-csf-2.0"],
                true,
                true
            ),
            settings.Revision
        );
        await DocumentsAsync(ines, address);
    }

    /// <summary>A report that outsiders may ask for, one who asks, and one client who need not.</summary>
    private static async Task DocumentsAsync(DemoSeed.DemoClient ines, Uri address)
    {
        using var builder = new PdfDocumentBuilder { DocumentInformation = { Title = "Report on safety records" } };
        var sheet = new PdfSheet(builder, "Report on safety records");
        sheet.Line("Report on safety records", 18, bold: true);
        sheet.Gap(8);
        sheet.Line(
            "What we keep, for how long, who may see it, and how its end is decided; with the results of last year’s audit.",
            10,
            bold: false
        );
        sheet.Heading("Results");
        sheet.Line("Twelve requirements were looked at. Eleven were met, one was met in part.", 10, bold: false);
        sheet.NumberPages();
        await ines.PostBytesAsync(
            "assurance/documents?file=safety-records.pdf&title=Report+on+safety+records&says=Results+of+last+year’s+audit",
            builder.Build()
        );
        var room = await ines.GetAsync<AssuranceRoom>("assurance/room");
        using var outside = await DemoSeed.DemoClient.ConnectAsync(address);
        await outside.PostAsync<Done>(
            $"assurance/documents/{room.Documents[0].Id}/asks",
            new NewDocumentAsk(
                "Kim Solberg",
                "Harbour of Northport",
                "kim.solberg@northport.example",
                "We look at the lines that berth here every year."
            )
        );
        await ines.PostAsync<Done>(
            "assurance/clients",
            new NewClient("Skarv Insurance", "assurance@skarv.example", new DateOnly(2027, 12, 31))
        );
    }

    private static async Task SupplierDocumentsAsync(DemoSeed.DemoClient ines, LocalDate today)
    {
        var suppliers = await ines.GetAsync<List<RegisterView>>("registers?kind=supplier");
        foreach (var (supplier, i) in suppliers.Select((s, i) => (s, i)))
        {
            var through = LocalDatePattern.Iso.Format(today.PlusDays(i == 1 ? -18 : 90 + (i * 60)));
            await ines.PostBytesAsync(
                $"registers/{supplier.Id}/documents?file=contract.txt&title=Contract&validThrough={through}",
                Encoding.UTF8.GetBytes($"Contract with {supplier.Settings.Title}.")
            );
        }
    }

    private static async Task ControlsAsync(DemoSeed.DemoClient ines, Dictionary<string, long> units, LocalDate today)
    {
        foreach (var c in ReadinessStory.Controls)
        {
            await ines.PostAsync<Done>(
                "controls",
                new ControlSettings(
                    c.Code,
                    c.Title,
                    "",
                    c.Area,
                    Mail(c.Owner),
                    c.AtSea ? [units["Northern Routes"], units["Island Routes"], units["Crewing"]] : [],
                    c.Answers,
                    1,
                    c.Effort
                )
            );
        }

        var made = (await ines.GetAsync<List<ControlView>>("controls")).ToDictionary(c => c.Settings.Code, c => c.Id);
        var own = await OwnMeasureAsync(ines);
        foreach (var c in ReadinessStory.Controls)
        {
            foreach (var (measure, expected) in c.Measures)
            {
                await ines.PostAsync<Done>(
                    $"controls/{made[c.Code]}/parts",
                    measure == ReadinessStory.AnsweredDeletions
                        ? new PartRequest(PartKind.Test, "Deletions looked at", 1, own, expected, "P60D")
                        : new PartRequest(PartKind.Test, TitleOf(measure), 1, measure, expected, "P60D")
                );
            }

            foreach (var (title, rule) in c.Routines)
            {
                await ines.PostAsync<Done>(
                    $"controls/{made[c.Code]}/parts",
                    new PartRequest(
                        PartKind.Routine,
                        title,
                        1,
                        Recurrence: rule,
                        First: today.PlusDays(-363).ToDateOnly(),
                        Doer: Mail(c.Owner)
                    )
                );
            }

            foreach (var (title, fresh, _) in c.Evidence)
            {
                await ines.PostAsync<Done>(
                    $"controls/{made[c.Code]}/parts",
                    new PartRequest(PartKind.Evidence, title, 1, Period: fresh, Doer: Mail(c.Owner))
                );
            }
        }
    }

    /// <summary>Keeps the demo's measure in SQL.</summary>
    /// <returns>Its name.</returns>
    private static async Task<string> OwnMeasureAsync(DemoSeed.DemoClient ines)
    {
        await ines.PostAsync<Done>(
            "own-measures",
            new OwnMeasureRequest(
                "Deletions looked at",
                "Alerts about deletions that somebody looked at.",
                "content",
                new(MeasureOver.Statement, ReadinessStory.AnsweredDeletionsSql)
            )
        );
        return (await ines.GetAsync<List<OwnMeasureView>>("own-measures")).Single().Name;
    }

    private static readonly (string Name, ConnectionKind Kind)[] Programs =
    [
        ("hosts", ConnectionKind.Hosts),
        ("training", ConnectionKind.Training),
        ("tickets", ConnectionKind.Tickets),
    ];

    private static async Task ConnectionsAsync(
        DemoSeed.DemoClient ines,
        IServiceProvider services,
        int seed,
        LocalDate today
    )
    {
        var options = services.GetRequiredService<WideKeelOptions>();
        var people = services.GetRequiredService<OrganisationDirectory>().State.People;
        foreach (var (name, text) in ProgramFiles.Of(seed, today, people))
        {
            var file = DemoPrograms.FileOf(options, name);
            Directory.CreateDirectory(Path.GetDirectoryName(file)!);
            await File.WriteAllTextAsync(file, text);
        }

        foreach (var (name, kind) in Programs)
        {
            await ines.PostAsync<ConnectionMade>(
                "connections",
                new ConnectionSettings(kind, name, "http://127.0.0.1:1", $"the key of the demo’s {name}")
            );
        }

        // They are asked where they listen, which they learn as the demo begins.
        await services.GetServices<IHostedService>().OfType<DemoPrograms>().Single().StartAsync(CancellationToken.None);
        foreach (var connection in await ines.GetAsync<List<ConnectionView>>("connections"))
        {
            await ines.PostAsync<Done>($"connections/{connection.Id}/reading", new { });
        }
    }

    /// <summary>Policies with their versions; who acknowledged them did so in the weeks after they were asked.</summary>
    private static async Task PoliciesAsync(
        Uri address,
        DemoSeed.DemoClient ines,
        IServiceProvider services,
        LocalDate today
    )
    {
        using var astrid = await DemoSeed.DemoClient.ConnectAsync(address);
        await astrid.SignInAsync("astrid.moen@tarnholm.example");
        foreach (var p in ReadinessStory.Policies)
        {
            var made = await ines.PostAsync<PolicyMade>(
                "policies",
                new PolicySettings(
                    p.Code,
                    p.Title,
                    p.Says,
                    Mail(p.Owner),
                    p.Units,
                    [],
                    14,
                    false,
                    today.PlusDays(p.ReviewIn).ToDateOnly()
                )
            );
            foreach (var ((text, change, daysAgo, anew), i) in p.Versions.Select((v, i) => (v, i)))
            {
                await ines.PostAsync<Done>(
                    $"policies/{made.Id}/versions",
                    new NewPolicyVersion(text, change, today.PlusDays(-daysAgo).ToDateOnly(), anew)
                );
                await astrid.PostAsync<Done>($"policies/{made.Id}/versions/{i + 1}/approval", new { });
            }

            await AcknowledgedAsync(services, made.Id, p, today);
        }
    }

    private static Task AcknowledgedAsync(
        IServiceProvider services,
        long policy,
        ReadinessStory.StoryPolicy story,
        LocalDate today
    ) =>
        services
            .GetRequiredService<Writer>()
            .RunAsync(
                LedgerActor.Job("demo", null),
                async session =>
                {
                    var standing = PolicyBook.Of(
                        await PolicyBook.Whole(session.Db).SingleAsync(p => p.Id == policy),
                        services.GetRequiredService<OrganisationDirectory>().State,
                        today
                    );
                    var random = new Random(story.KnownBy);
                    foreach (var reader in standing.Readers)
                    {
                        var asked = today.PlusDays(-story.Versions.Last(v => v.Anew).DaysAgo);
                        var knows = random.Next(100) < story.KnownBy;
                        session.Db.PolicyCopies.Add(
                            new()
                            {
                                PolicyId = policy,
                                Number = standing.MustKnow!.Value,
                                Mail = reader.Person.Id,
                                Name = reader.Person.Name,
                                AskedOn = asked,
                                AcknowledgedAt = knows
                                    ? asked.PlusDays(random.Next(14)).AtMidnight().InUtc().ToInstant()
                                        + Duration.FromHours(7 + random.Next(9))
                                    : null,
                            }
                        );
                    }
                }
            );

    private static string TitleOf(string measure) => char.ToUpperInvariant(measure[0]) + measure[1..].Replace('-', ' ');

    internal static string Mail(string name) => $"{name}@tarnholm.example";

    private static RegisterSettings Entry(ReadinessStory.StoryEntry e, LocalDate today) =>
        new(
            e.Kind,
            e.Title,
            e.Says,
            Mail(e.Owner),
            e.DueIn is { } due ? today.PlusDays(due).ToDateOnly() : null,
            e.DoneAgo is { } done ? today.PlusDays(-done).ToDateOnly() : null,
            e.Risk is [var l, ..] ? l : 0,
            e.Risk is [_, var i, ..] ? i : 0,
            e.Risk is [_, _, var la, _] ? la : 0,
            e.Risk is [_, _, _, var ia] ? ia : 0,
            e.Mark,
            e.Risk is not [var l0, var i0, var l1, var i1] ? ""
                : (l0, i0) == (l1, i1) ? "accept"
                : "reduce",
            e.Controls
        );
}
