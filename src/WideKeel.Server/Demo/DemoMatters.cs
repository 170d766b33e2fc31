using NodaTime;
using WideKeel.Core.Matters;
using WideKeel.Demo;
using WideKeel.Server.Content;
using WideKeel.Server.Matters;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Demo;

/// <summary>The demo's three matters, made by its legal people through the product's own API.</summary>
internal static class DemoMatters
{
    private const string Notice =
        "Dear {name},\n\n{organisation} must keep information about {matter} ({number}). Until you are told otherwise, "
        + "please keep everything that speaks of it, wherever it lies: files, mails, messages, notes on paper. "
        + "Do not delete, change or tidy up any of it.\n\n"
        + """
            What you delete from systems of the company is kept without your doing; still, please leave it where it is.

            {from}
            """;

    public static async Task MakeAsync(
        Uri address,
        IReadOnlyDictionary<string, long> containers,
        IReadOnlyDictionary<string, long> units,
        Func<int, Task> daysAgo
    )
    {
        using var vera = await DemoSeed.DemoClient.ConnectAsync(address);
        await vera.SignInAsync("vera.quist@tarnholm.example");
        using var nils = await DemoSeed.DemoClient.ConnectAsync(address);
        await nils.SignInAsync("nils.amdal@tarnholm.example");
        var fuel = await FuelAsync(vera, nils, containers, units[Scenario.Organisation]);
        await PierAsync(address, vera, nils, containers, units[Scenario.Organisation], daysAgo);
        await daysAgo(24);
        await EngineerAsync(vera, containers, units[Scenario.Organisation]);
        await daysAgo(6);
        await CloseFuelAsync(nils, fuel);
    }

    private static async Task PierAsync(
        Uri address,
        DemoSeed.DemoClient vera,
        DemoSeed.DemoClient nils,
        IReadOnlyDictionary<string, long> containers,
        long unit,
        Func<int, Task> daysAgo
    )
    {
        var matter = await vera.PostAsync<MatterView>(
            "matters",
            new NewMatter(
                "Collision with pier 4",
                "On 14 February 2026 the Merrow touched pier 4 at Skarv. The harbour office claims the dolphin and nine days of closure.",
                MatterKind.Litigation,
                unit
            )
        );
        var path = $"matters/{matter.Id}";
        await AddMembersAsync(vera, path, MemberPart.Reviewer, "Nils Amdal", "Sunniva Krag");
        await AddMembersAsync(vera, path, MemberPart.Reader, "Claims board");
        matter = await vera.GetAsync<MatterView>(path);
        matter = await vera.PutAsync<MatterView>(
            path,
            new MatterChange(matter.Name, matter.Description, matter.Kind, 30, "PIER-", 365),
            matter.Revision
        );
        foreach (var name in new[] { "Edvin Strand", "Karl Nyman", "Oskar Tarn", "Pia Lind" })
        {
            await AddCustodianAsync(vera, path, name);
        }

        await daysAgo(66);
        await HoldAsync(vera, path, containers, daysAgo);
        await NotifyAsync(vera, path, address, daysAgo);
        await daysAgo(40);
        await CodeAsync(vera, nils, path);
        await daysAgo(31);
        matter = await nils.GetAsync<MatterView>(path);
        await nils.PostAsync<MatterView>(
            $"{path}/bundles",
            new NewMatterBundle(
                "First disclosure",
                new BundleOptions(matter.Sweeps[0].Last!.Id, null, Mbox: true, OnePerContent: true, Attachments: true)
            )
        );
        await nils.WaitForJobsAsync();
    }

    /// <summary>Sweeps, puts two orders in force, and leaves a third as a draft.</summary>
    private static async Task HoldAsync(
        DemoSeed.DemoClient vera,
        string path,
        IReadOnlyDictionary<string, long> containers,
        Func<int, Task> daysAgo
    )
    {
        var matter = await vera.GetAsync<MatterView>(path);
        var custodians = matter.Custodians.Select(c => c.Id).ToList();
        var collision = new HoldDefinition(
            [containers[Scenario.HarbourShare]],
            custodians,
            "\"pier 4\" or dolphin",
            new LocalDate(2026, 2, 1),
            new LocalDate(2026, 6, 30)
        );
        matter = await vera.PostAsync<MatterView>(
            $"{path}/sweeps",
            new SweepText("Everything about the collision", collision)
        );
        await vera.PostAsync<RunView>($"{path}/sweeps/{matter.Sweeps[0].Id}/runs", new { });
        await vera.WaitForJobsAsync();
        await PutInForceAsync(
            vera,
            path,
            "The collision",
            collision,
            "The harbour office has claimed; everything about the collision is kept."
        );
        await daysAgo(58);
        await PutInForceAsync(
            vera,
            path,
            "Incidents of the Merrow",
            new HoldDefinition(
                [containers["Incident reports"], containers["Northern Routes - voyage reports"]],
                [],
                "Merrow",
                new LocalDate(2020, 1, 1),
                null
            ),
            "Earlier incidents of the vessel will be asked for."
        );
        await vera.PostAsync<MatterView>(
            $"{path}/orders",
            new NewOrder(
                "Work on the bow thruster",
                new HoldDefinition(
                    [containers["Dry-dock work orders"]],
                    [],
                    "thruster",
                    new LocalDate(2025, 1, 1),
                    null
                )
            )
        );
    }

    /// <summary>Custodians are sent a notice, which one of them acknowledges.</summary>
    private static async Task NotifyAsync(DemoSeed.DemoClient vera, string path, Uri address, Func<int, Task> daysAgo)
    {
        await vera.PostAsync<MatterView>(
            $"{path}/notices",
            new NewNotice(
                NoticeKind.Hold,
                "Please keep everything about {matter}",
                Notice,
                ["Where do you keep information about it?", "Does anybody else know something?"],
                7,
                21,
                []
            )
        );
        await daysAgo(55);
        using var edvin = await DemoSeed.DemoClient.ConnectAsync(address);
        await edvin.SignInAsync("edvin.strand@tarnholm.example");
        var page = await edvin.GetAsync<NoticePage>("notices");
        await edvin.PostAsync<Done>($"notices/{page.Token}/{page.Notices[0].Id}/opening", new { });
        await edvin.PostAsync<Done>(
            $"notices/{page.Token}/{page.Notices[0].Id}/acknowledgement",
            new Acknowledging([
                "My mailbox, and the folder of the northern voyage reports.",
                "The mate on watch, and the harbour pilot.",
            ])
        );
    }

    /// <summary>Some of what the sweep found is coded; the rest waits for it.</summary>
    private static async Task CodeAsync(DemoSeed.DemoClient vera, DemoSeed.DemoClient nils, string path)
    {
        MatterView matter = null!;
        foreach (
            var (name, withholds) in new[] { ("Responsive", false), ("Not responsive", false), ("Privileged", true) }
        )
        {
            matter = await vera.PostAsync<MatterView>($"{path}/tags", new TagText(name, withholds));
        }

        var coding = $"{path}/runs/{matter.Sweeps[0].Last!.Id}/coding?query=";
        foreach (
            var (tag, query, note) in new[] { (0, "claim or contact", ""), (2, "title = reply", "a draft of counsel") }
        )
        {
            await nils.PostAsync<CodedView>(
                coding + Uri.EscapeDataString(query),
                new CodingAct(matter.Tags[tag].Id, On: true, note)
            );
        }
    }

    private static async Task EngineerAsync(
        DemoSeed.DemoClient vera,
        IReadOnlyDictionary<string, long> containers,
        long unit
    )
    {
        var matter = await vera.PostAsync<MatterView>(
            "matters",
            new NewMatter(
                "Dismissal of an engineer",
                "A former engineer of the yard claims unfair dismissal.",
                MatterKind.Investigation,
                unit
            )
        );
        var path = $"matters/{matter.Id}";
        foreach (var name in new[] { "Goran Haugen", "Pia Lind" })
        {
            await AddCustodianAsync(vera, path, name);
        }

        matter = await vera.GetAsync<MatterView>(path);
        await PutInForceAsync(
            vera,
            path,
            "Personnel and yard",
            new HoldDefinition(
                [containers["Crew files"], containers["Yard plans"]],
                [.. matter.Custodians.Select(c => c.Id)],
                null,
                new LocalDate(2024, 1, 1),
                null
            ),
            "The claim was served on 2 March."
        );
    }

    private static async Task<string> FuelAsync(
        DemoSeed.DemoClient vera,
        DemoSeed.DemoClient nils,
        IReadOnlyDictionary<string, long> containers,
        long unit
    )
    {
        var matter = await nils.PostAsync<MatterView>(
            "matters",
            new NewMatter(
                "Fuel supply prices",
                "The competition regulator asked how fuel was bought from 2014 to 2019. The inquiry was closed in May.",
                MatterKind.Regulator,
                unit
            )
        );
        var path = $"matters/{matter.Id}";
        await AddMembersAsync(nils, path, MemberPart.Lead, "Vera Quist");
        await AddCustodianAsync(nils, path, "Ruth Ferro");
        await PutInForceAsync(
            nils,
            path,
            "Fuel invoices",
            new HoldDefinition(
                [containers["Supplier invoices"], containers["Finance post"]],
                [],
                "Eastlight",
                new LocalDate(2014, 1, 1),
                new LocalDate(2019, 12, 31)
            ),
            "The regulator's letter of 2 February."
        );
        return path;
    }

    private static async Task CloseFuelAsync(DemoSeed.DemoClient nils, string path)
    {
        var matter = await nils.PostAsync<MatterView>(
            $"{path}/state",
            new Stepping(MatterState.Closing, "The regulator closed the inquiry on 20 May.")
        );
        var order = matter.Orders[0];
        var preview = await nils.PostAsync<ReleasePreview>(
            $"{path}/orders/{order.Id}/releases/consequences",
            new Releasing(null)
        );
        await nils.PostAsync<MatterView>(
            $"{path}/orders/{order.Id}/releases",
            new NewRelease(
                null,
                "The inquiry is closed; nothing is asked for any more.",
                matter.DelayDays,
                preview.Fingerprint
            ),
            order.Revision
        );
    }

    private static async Task AddMembersAsync(
        DemoSeed.DemoClient who,
        string path,
        MemberPart part,
        params string[] names
    )
    {
        foreach (
            var c in (await who.GetAsync<List<MemberCandidate>>($"{path}/candidates")).Where(c =>
                names.Contains(c.Name)
            )
        )
        {
            await who.PostAsync<MatterView>($"{path}/members", new NewMember(c.PersonId, c.GroupId, part));
        }
    }

    private static async Task AddCustodianAsync(DemoSeed.DemoClient who, string path, string name)
    {
        var offer = (
            await who.GetAsync<List<CustodianOffer>>($"{path}/custodians/offers?words={Uri.EscapeDataString(name)}")
        ).Single(o => o.Name == name);
        await who.PostAsync<MatterView>(
            $"{path}/custodians",
            new NewCustodian(offer.PersonId, [.. offer.Places.Where(p => p.Sure).Select(p => p.Id)], true)
        );
    }

    private static async Task PutInForceAsync(
        DemoSeed.DemoClient who,
        string path,
        string name,
        HoldDefinition definition,
        string why
    )
    {
        var matter = await who.PostAsync<MatterView>($"{path}/orders", new NewOrder(name, definition));
        var order = matter.Orders[^1];
        var consequences = await who.PostAsync<OrderConsequences>($"{path}/orders/{order.Id}/consequences", definition);
        await who.PostAsync<MatterView>(
            $"{path}/orders/{order.Id}/activation",
            new PuttingInForce(consequences.Fingerprint, why),
            order.Revision
        );
        await who.WaitForJobsAsync();
    }
}
