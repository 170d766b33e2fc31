using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>
/// A dispute from the first member to the release taken back, and staff at work under it; each person at a browser of
/// their own.
/// </summary>
public sealed class MatterTests(Demo demo) : IClassFixture<Demo>
{
    private static By Dialog(string text) =>
        By.XPath($"//div[contains(@class,'el-dialog')]//button[contains(normalize-space(.),'{text}')]");

    private static By Tab(string text) =>
        By.XPath($"//nav[@aria-label='Parts of the matter']/button[contains(.,'{text}')]");

    private static By Option(string text) =>
        By.XPath(
            $"//div[contains(@class,'el-select-dropdown')][not(contains(@style,'display: none'))]//li[contains(.,'{text}')]"
        );

    [Fact]
    public void What_a_reviewer_codes_as_privileged_is_withheld_from_the_next_bundle()
    {
        using var nils = new Page(demo.Address);
        nils.EnterAs("Nils Amdal");
        nils.Press(By.LinkText("Matters"));
        nils.Press(By.XPath("//*[contains(text(),'Collision with pier 4')]"));
        nils.Press(Tab("Sweeps"));
        nils.Press(By.CssSelector(".found button"));
        nils.Press(By.XPath("//*[starts-with(@aria-label,'Tags of Estimate')]/button[contains(.,'Privileged')]"));
        nils.See(
            By.XPath(
                "//*[starts-with(@aria-label,'Tags of Estimate')]/button[@aria-pressed='true'][contains(.,'Privileged')]"
            )
        );
        nils.Violations().ShouldBeEmpty();
        nils.Send(Keys.Escape);
        nils.Gone(By.CssSelector(".el-overlay"));
        nils.Press(Tab("Bundles"));
        nils.PressButton("Make a bundle");
        nils.Type(By.Id("b-name"), "Second disclosure");
        nils.Press(Dialog("Make it"));
        nils.See(
            By.XPath(
                "//article[h3='Second disclosure']//dt[.='Withheld']/following-sibling::dd[starts-with(.,'2 documents')]"
            )
        );
        nils.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_dispute_from_the_first_member_to_a_release_that_is_taken_back()
    {
        using var vera = new Page(demo.Address);
        vera.EnterAs("Vera Quist");
        vera.Press(By.LinkText("Matters"));
        vera.PressButton("Open a matter");
        vera.Type(By.Id("m-name"), "Bow thruster of the Merrow");
        vera.Press(Dialog("Open it"));
        vera.See(By.XPath("//h1[.='Bow thruster of the Merrow']"));

        // A second person, who will have to agree to whatever is released.
        vera.Press(Tab("Members"));
        vera.Press(By.CssSelector(".members .wide"));
        vera.Press(Option("Nils Amdal"));
        vera.Press(By.CssSelector(".members .narrow"));
        vera.Press(Option("reviewer"));
        vera.PressButton("Let in");
        vera.See(By.XPath("//section[@aria-label='Members']//td[contains(.,'Nils Amdal')]"));

        // The directory finds whose information it is, and where it lies.
        vera.Press(Tab("Custodians"));
        vera.PressButton("Add a custodian");
        vera.Type(By.Id("c-words"), "Lind");
        vera.Press(By.XPath("//ul[contains(@class,'offers')]//button[contains(.,'Pia Lind')]"));
        vera.SeeText("carries their name");
        vera.Violations().ShouldBeEmpty();
        vera.Press(Dialog("Add Pia Lind"));
        vera.SeeText("whatever they wrote");

        // A sweep is written as a sentence, run, and its figures open.
        vera.Press(Tab("Sweeps"));
        vera.PressButton("New sweep");
        vera.Type(By.Id("s-name"), "Thruster");
        vera.Press(Dialog("Make it"));
        vera.Press(By.CssSelector("[data-part=query]"));
        vera.Type(By.CssSelector(".editor input[aria-label=Search]"), "thruster or docking" + Keys.Enter);
        vera.Press(
            By.XPath("//div[contains(@class,'editor')][.//input[@aria-label='Search']]//button[contains(.,'Done')]")
        );
        vera.PressButton("Save and run");
        vera.See(By.XPath("//table[@aria-label='By term']//td[contains(.,'docking')]"));
        vera.Press(By.XPath("//table[@aria-label='By custodian']//tr[contains(.,'Pia Lind')]//button"));
        vera.See(By.CssSelector(".el-dialog mark"));
        vera.Send(Keys.Escape);

        // An order is put in force with its number on the button.
        vera.Press(Tab("Hold orders"));
        vera.PressButton("New order");
        vera.Type(By.Id("o-name"), "Pia's information");
        vera.Press(Dialog("Make the draft"));
        vera.See(By.CssSelector(".consequences .figures"));
        vera.Violations().ShouldBeEmpty();
        vera.PressButton("Put in force —");
        vera.Type(By.Id("why"), "The harbour office has asked.");
        vera.Press(Dialog("Hold "));
        vera.See(By.XPath("//span[contains(.,'in force since')]"));
        vera.Wait(
            d => d.FindElements(By.XPath("//dt[.='Held']/following-sibling::dd/button")).FirstOrDefault(),
            "items that are held"
        );

        // Pia works on: what she deletes seems gone, and is found by the sweep.
        using var pia = new Page(demo.Address);
        pia.EnterAs("Pia Lind");
        pia.Press(By.LinkText("My files"));
        pia.Press(By.XPath("//nav//button[contains(.,'Yard plans')]"));
        pia.Press(By.XPath("//td/button[.='Docking 2026.md']"));
        pia.SeeText("Kept for another reason.");
        pia.Press(By.XPath("//article//button[contains(.,'Delete')]"));
        pia.Press(Dialog("Delete it"));
        pia.Gone(By.XPath("//td/button[.='Docking 2026.md']"));
        vera.Press(Tab("Sweeps"));
        vera.PressButton("Run again");
        vera.SeeText("Against the run before");
        vera.Press(By.XPath("//p[contains(@class,'found')]/button"));
        // The words that found it are marked, so its title stands in several pieces.
        vera.See(By.XPath("//div[contains(@class,'el-dialog')]//li[contains(.,'Held')]//a[.='Docking 2026.md']"));
        vera.Send(Keys.Escape);

        // She is told, and acknowledges on a page of her own.
        vera.Press(Tab("Notices"));
        vera.PressButton("Write a notice");
        vera.See(By.XPath("//section[@aria-label='As it will be read']//h3[contains(.,'Bow thruster')]"));
        vera.Press(Dialog("Send to 1 custodian"));
        vera.SeeText("Notice, version 1");
        pia.Go("/notices");
        pia.Type(By.XPath("//article[contains(.,'Bow thruster of the Merrow')]//textarea"), "In the drawer.");
        pia.Press(By.XPath("//article[contains(.,'Bow thruster of the Merrow')]//button"));
        pia.SeeText("You acknowledged it on");
        vera.Press(Tab("Custodians"));
        vera.Go(new Uri(vera.Url).PathAndQuery);
        vera.See(By.XPath("//tr[contains(.,'Pia Lind')]//span[contains(@class,'settled')]"));

        // The release says what it exposes; a second person agrees; while the delay runs it is taken back.
        vera.Press(Tab("Hold orders"));
        vera.PressButton("Release …");
        vera.SeeText("become");
        vera.Violations().ShouldBeEmpty();
        vera.Type(By.Id("r-why"), "Settled out of court.");
        vera.Press(Dialog("Ask for the release"));
        vera.SeeText("waits for a second person");
        using var nils = new Page(demo.Address);
        nils.EnterAs("Nils Amdal");
        nils.Press(By.XPath("//article[contains(.,'Bow thruster')]//a[contains(.,'See what it does')]"));
        nils.SeeText("Settled out of court.");
        nils.Type(By.Id("r-why"), "Agreed.");
        nils.Press(Dialog("Release "));
        nils.SeeText("by Nils Amdal");
        vera.Go(new Uri(vera.Url).PathAndQuery);
        vera.Press(By.XPath("//button[contains(.,'Undo …')]"));
        vera.Type(By.Id("why"), "Not settled after all.");
        vera.Press(Dialog("Hold "));
        vera.SeeText("undone");
        vera.See(By.XPath("//span[contains(.,'in force since')]"));
        foreach (var page in new[] { vera, pia, nils })
        {
            page.ConsoleErrors().ShouldBeEmpty();
        }
    }

    [Fact]
    public async Task An_order_catches_what_arrives_is_narrowed_and_handed_over_and_a_matter_ends_with_its_items_due()
    {
        await using var own = new Demo();
        await own.InitializeAsync();
        using var vera = new Page(own.Address);
        vera.EnterAs("Vera Quist");
        vera.Press(By.LinkText("Matters"));
        vera.Press(By.XPath("//*[contains(text(),'Collision with pier 4')]"));
        vera.Press(Tab("Hold orders"));
        vera.Press(By.XPath("//article[contains(.,'Incidents of the Merrow')]/button"));
        var before = Held(vera, "Incidents of the Merrow");

        // A file comes in on the share; its scan finds it, and it is held before anybody looks at it.
        var file = Path.Combine(own.Share, "Incident reports", "second contact.md");
        await File.WriteAllTextAsync(
            file,
            "---\ncreated: 2026-06-14\ntitle: Second contact\n---\nThe Merrow touched the fender of pier 2. No damage.\n",
            TestContext.Current.CancellationToken
        );
        using var jonas = new Page(own.Address);
        jonas.EnterAs("Jonas Aske");
        jonas.Go("/set-up/sources");
        jonas.Press(By.XPath("//section[@aria-label='Fleet share']//button[contains(.,'Scan now')]"));
        vera.Wait(
            d =>
            {
                vera.Go(new Uri(vera.Url).PathAndQuery);
                return Held(vera, "Incidents of the Merrow") == before + 1 ? d : null;
            },
            $"{before + 1} items to be held"
        );
        vera.Press(By.XPath("//dt[.='Held']/following-sibling::dd/button"));
        vera.See(By.XPath("//div[contains(@class,'el-dialog')]//a[contains(.,'Second contact')]"));
        vera.Send(Keys.Escape);
        vera.Gone(By.CssSelector(".el-overlay"));

        // What it keeps is handed over; the bag stands up to a program that knows nothing of this one.
        vera.Press(Tab("Bundles"));
        vera.PressButton("Make a bundle");
        vera.Type(By.Id("b-name"), "Incidents");
        vera.Press(By.XPath("//div[contains(@class,'el-dialog')]//div[contains(@class,'el-select')]"));
        vera.Press(Option("Incidents of the Merrow"));
        vera.Press(Dialog("Make it"));
        var link = By.XPath("//article[h3='Incidents']//a[contains(.,'ZIP')]");
        vera.See(link);
        var taken = Directory.CreateTempSubdirectory("widekeel-taken-").FullName;
        await using (var zip = new ZipArchive(new MemoryStream(vera.Download(link))))
        {
            await zip.ExtractToDirectoryAsync(taken, TestContext.Current.CancellationToken);
        }

        var bag = Path.GetDirectoryName(Directory.GetFiles(taken, "bagit.txt", SearchOption.AllDirectories).Single())!;
        foreach (var manifest in new[] { "manifest-sha256.txt", "tagmanifest-sha256.txt" })
        {
            using var sums = Process.Start(
                new ProcessStartInfo("sha256sum", ["--quiet", "--strict", "-c", manifest]) { WorkingDirectory = bag }
            )!;
            await sums.WaitForExitAsync(TestContext.Current.CancellationToken);
            sums.ExitCode.ShouldBe(0, manifest);
        }

        (
            await File.ReadAllLinesAsync(Path.Combine(bag, "data", "load.csv"), TestContext.Current.CancellationToken)
        ).ShouldContain(l => l.Contains("Second contact", StringComparison.Ordinal));
        Directory.Delete(taken, recursive: true);

        // A narrower sentence is a release of the difference, with its second person and its delay.
        vera.Press(Tab("Hold orders"));
        vera.Press(By.CssSelector("article.order .body [data-part=query]"));
        vera.Type(By.CssSelector(".editor input[aria-label=Search]"), "Merrow and fender" + Keys.Enter);
        vera.Press(
            By.XPath("//div[contains(@class,'editor')][.//input[@aria-label='Search']]//button[contains(.,'Done')]")
        );
        vera.SeeText("What would leave, leaves by a release");
        vera.Press(By.CssSelector(".consequences [data-group=leaving]"));
        vera.See(By.XPath("//div[contains(@class,'el-dialog')]//tbody//a"));
        vera.Send(Keys.Escape);
        vera.Gone(By.CssSelector(".el-overlay"));
        vera.Violations().ShouldBeEmpty();
        vera.Press(By.XPath("//p[contains(@class,'acts-row')]//button[starts-with(normalize-space(.),'Release ')]"));
        vera.Press(
            By.XPath(
                "//div[contains(@class,'el-dialog')]//button[@data-group='staysKept' or @data-group='becomesDue' or @data-group='free']"
            )
        );
        var left = vera.See(By.XPath("//div[contains(@class,'el-dialog')]//tbody//a")).GetAttribute("href")!;
        vera.Send(Keys.Escape);
        vera.Type(By.Id("r-why"), "Only the fender is in dispute.");
        vera.Press(Dialog("Ask for the release"));
        vera.SeeText("waits for a second person");
        using var nils = new Page(own.Address);
        nils.EnterAs("Nils Amdal");
        nils.Press(By.XPath("//article[contains(.,'Collision with pier 4')]//a[contains(.,'See what it does')]"));
        nils.Type(By.Id("r-why"), "Agreed.");
        nils.Press(Dialog("Release "));
        nils.SeeText("by Nils Amdal");

        // The other matter waits for Vera's word, then for its delay.
        vera.Go("/");
        vera.Press(By.XPath("//article[contains(.,'Fuel supply prices')]//a[contains(.,'See what it does')]"));
        vera.Press(By.CssSelector(".el-dialog [data-group=becomesDue]"));
        var due = vera.See(By.XPath("//div[contains(@class,'el-dialog')]//tbody//a")).GetAttribute("href")!;
        vera.Send(Keys.Escape);
        vera.Type(By.Id("r-why"), "The inquiry is over.");
        vera.Press(Dialog("Release "));
        vera.SeeText("by Vera Quist");
        var fuel = new Uri(vera.Url).AbsolutePath;
        vera.See(By.XPath("//button[contains(.,'Close …')]")).Enabled.ShouldBeFalse();
        using var ines = new Page(own.Address);
        ines.EnterAs("Ines Calloway");
        foreach (var protectedStill in new[] { left, due })
        {
            ines.Go(new Uri(protectedStill).PathAndQuery);
            ines.See(By.XPath("//p[contains(@class,'standing')][contains(.,'Held')]"));
        }

        own.Pass(days: 31);
        ines.Go(new Uri(due).PathAndQuery);
        ines.See(By.XPath("//p[contains(@class,'standing')][contains(.,'Due')][not(contains(.,'Held'))]"));
        vera.Go(fuel);
        vera.PressButton("Close …");
        vera.Type(By.Id("why"), "Nothing is held any more.");
        vera.Press(Dialog("Close it"));
        vera.See(By.XPath("//header//span[contains(@class,'closing')][contains(.,'losed')]"));
        foreach (var page in new[] { vera, jonas, nils, ines })
        {
            page.ConsoleErrors().ShouldBeEmpty();
        }
    }

    /// <summary>How many items the line of an order says it holds.</summary>
    private static int Held(Page page, string order) =>
        int.Parse(
            page.See(By.XPath($"//article[contains(.,'{order}')]/button/span[contains(@class,'num')]")).Text.Split(' ')[
                0
            ],
            NumberStyles.AllowThousands,
            CultureInfo.InvariantCulture
        );

    [Fact]
    public void Staff_meet_each_refusal_in_a_sentence_and_a_way_on()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Pia Lind");
        page.Press(By.LinkText("My files"));
        page.Press(By.XPath("//nav//button[contains(.,'Signed permits')]"));
        page.SeeText("New files here are filed under PER-010");
        page.Press(By.XPath("//td/button[.='Hot work 2026-014.md']"));
        page.SeeText("its content stays as it is");
        page.See(By.XPath("//button[contains(.,'Delete')]")).Enabled.ShouldBeFalse();
        page.See(By.Id("text")).SendKeys(" And the watch was kept.");
        page.PressButton("Save as a new version beside it");
        page.SeeText("Hot work 2026-014 v2.md");
        page.SeeText("A newer version of");
        page.Violations().ShouldBeEmpty();

        // In a library without a rule everything goes, and every version can be taken back.
        page.Press(By.XPath("//nav//button[contains(.,'Yard plans')]"));
        page.PressButton("New text");
        page.Type(By.Id("f-name"), "Notes of mine");
        page.Press(Dialog("Make it"));
        page.Type(By.Id("text"), "first");
        page.PressButton("Save");
        page.SeeText("2. ");
        page.Type(By.Id("text"), "second");
        page.Press(By.XPath("//button[normalize-space(.)='Save']"));
        page.SeeText("3. ");
        page.Press(By.XPath("//section[@aria-label='Versions']//li[contains(.,'2. ')]//button"));
        page.Wait(
            d => d.FindElement(By.Id("text")).GetAttribute("value") == "first" ? d : null,
            "the second version's text"
        );
        page.PressButton("Rename");
        page.Type(By.Id("r-name"), "Notes.exe");
        page.Press(Dialog("Rename"));
        page.SeeText("A file keeps its type");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_custodian_opens_the_link_of_the_mail_without_signing_in_and_sees_nothing_else()
    {
        using var vera = new Page(demo.Address);
        vera.EnterAs("Vera Quist");
        using var sunk = System.Text.Json.JsonDocument.Parse(vera.Fetch("/api/notices"));
        // Vera is no custodian: her own page is empty.
        sunk.RootElement.GetProperty("notices").GetArrayLength().ShouldBe(0);
        using var nobody = new Page(demo.Address);
        nobody.Go(demo.NoticeLink(nobody, "pia.lind@tarnholm.example"));
        nobody.SeeText("Notices to Pia Lind");
        nobody.Count(By.CssSelector(".masthead")).ShouldBe(0);
        nobody.Violations().ShouldBeEmpty();
        nobody.Go("/notices/0000000000000000000000000000000000000000000000ff");
        nobody.SeeText("There is no such notice");
    }
}
