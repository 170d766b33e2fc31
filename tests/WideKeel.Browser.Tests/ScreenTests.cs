using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>
/// Each screen in each look: accessible by axe (WCAG 2.2 AA), without a console error; and what only some may see.
/// </summary>
public sealed class ScreenTests(Demo demo) : IClassFixture<Demo>
{
    private static readonly (string Path, By Ready)[] Screens =
    [
        ("/", By.CssSelector(".work article")),
        ("/content", By.CssSelector("[role=row].body")),
        ("/content?builder=open&cql=berth%20and%20created%20%3E%202024", By.CssSelector("[role=row].body mark")),
        ("/content?kind=passport-mrz&cql=passport&item=408", By.CssSelector(".find")),
        ("/content/sensitive", By.CssSelector(".matrix tbody td a")),
        ("/content?state=due&item=85", By.CssSelector(".item .preview")),
        ("/schedule", By.CssSelector("[role=row].body")),
        ("/schedule/22", By.CssSelector(".consequences .figure")),
        ("/schedule/drafts", By.CssSelector(".consequences .figure")),
        ("/schedule/blankets?blanket=2", By.CssSelector(".sentence .part")),
        ("/schedule/authorities?authority=MARPOL%20V%2F10", By.CssSelector("tr.detail .kv")),
        ("/schedule/events?subject=T1003", By.CssSelector("[aria-label='Items of the subject'] tbody tr")),
        ("/schedule/filing?rule=1", By.CssSelector("[aria-label='Passport copies'] tbody tr")),
        ("/schedule/spreadsheet", By.CssSelector("input[type=file]")),
        ("/schedule/health?line=short", By.CssSelector(".rows tbody tr")),
        ("/set-up/organisation", By.Id("o-year")),
        ("/schedule/docket?due=13", By.CssSelector(".group h1")),
        ("/schedule/docket?batch=4", By.CssSelector(".lines [role=row].body")),
        ("/schedule/certificates?certificate=1", By.CssSelector(".certificate tbody tr")),
        ("/activity", By.CssSelector(".chart tbody tr")),
        ("/activity?board=destruction", By.CssSelector(".chart tbody tr")),
        ("/activity/search?cql=pier&days=7", By.CssSelector("[role=row].body")),
        ("/activity/sign-ins", By.CssSelector(".campaigns tbody tr")),
        ("/activity/sql?statement=Most%20used%20actions", By.CssSelector(".answer tbody tr")),
        ("/activity/thread", By.Id("i-name")),
        ("/activity/alerts?alert=1", By.CssSelector(".factors tr")),
        ("/activity/watches?watch=7", By.CssSelector(".backtest h2")),
        ("/access?person=karl.nyman@tarnholm.example", By.CssSelector(".sheet tbody tr")),
        ("/access/mend", By.CssSelector(".sheet tbody tr")),
        ("/access/mend?list=ownerless", By.CssSelector(".owners button")),
        ("/access/reviews", By.CssSelector("figure .bar")),
        ("/access/reviews?review=2", By.CssSelector(".review .sheet tbody tr")),
        ("/access/groups", By.CssSelector("[role=row].body")),
        ("/readiness", By.CssSelector(".frameworks .figure")),
        ("/readiness/controls?control=1", By.CssSelector(".control .part")),
        ("/readiness/evidence", By.CssSelector("[role=row].body")),
        ("/readiness/gauges?gauge=1", By.CssSelector(".tile .value")),
        ("/readiness/areas?kind=risk", By.CssSelector(".map td")),
        ("/readiness/areas", By.CssSelector(".tree li")),
        ("/readiness/areas?kind=training", By.CssSelector(".course")),
        ("/readiness/areas?kind=supplier", By.CssSelector(".documents li")),
        ("/readiness/areas?kind=incident", By.CssSelector(".rows tr")),
        ("/readiness/policies?policy=1", By.CssSelector(".versions .text")),
        ("/readiness/connections?connection=1", By.CssSelector(".pane td")),
        ("/readiness/audits", By.CssSelector(".lane .period")),
        ("/readiness/audits?audit=2", By.CssSelector(".room section")),
        ("/my-evidence", By.CssSelector("[aria-label='Evidence and routines'] article")),
        ("/readiness/assurance", By.CssSelector(".assurance h1")),
        ("/activity/ledger?entry=3", By.CssSelector("[role=row].body")),
        ("/set-up/sources", By.CssSelector(".source table")),
        ("/set-up/messages", By.CssSelector("[aria-label=Messages] tbody tr")),
    ];

    private static readonly (string Path, By Ready)[] OfAdministrators =
    [
        ("/set-up/people", By.CssSelector("tbody tr")),
        ("/set-up/directory", By.CssSelector("[aria-label=Sources] tbody tr")),
    ];

    private static readonly (string Path, By Ready)[] OfLegal =
    [
        ("/", By.CssSelector(".work article")),
        ("/matters", By.CssSelector("[aria-label=Matters] tbody tr")),
        ("/matters/{Collision with pier 4}", By.CssSelector(".tideline .bar")),
        ("/matters/{Collision with pier 4}?tab=custodians", By.CssSelector("[aria-label=Custodians] tbody tr")),
        ("/matters/{Collision with pier 4}?tab=notices", By.CssSelector(".notice tbody tr")),
        ("/matters/{Collision with pier 4}?tab=sweeps", By.CssSelector("[aria-label='By term'] tbody tr")),
        ("/matters/{Collision with pier 4}?tab=orders&order=4", By.CssSelector(".consequences .figures")),
        ("/matters/{Collision with pier 4}?tab=bundles", By.CssSelector(".bundle .kv")),
        ("/matters/{Collision with pier 4}?tab=members", By.Id("a-name")),
        ("/matters/{Fuel supply prices}?tab=orders&release=1", By.CssSelector(".el-dialog .figures")),
    ];

    private static readonly (string Path, By Ready)[] OfStaff =
    [
        ("/my-files", By.CssSelector("nav .entry")),
        ("/my-files?library={Yard plans}", By.CssSelector(".folder tbody tr")),
        ("/my-files?library={#harbour office}", By.CssSelector(".channel article")),
        ("/notices", By.CssSelector("article form")),
    ];

    [Fact]
    public void Every_screen_of_legal_and_of_staff_is_accessible_in_every_look()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Vera Quist");
        Look(page, Named(page, "/api/matters", OfLegal));
        using var other = new Page(demo.Address);
        other.EnterAs("Pia Lind");
        Look(other, Named(other, "/api/workspace/libraries", OfStaff));
    }

    /// <summary>The screens with the id in place of each {name} of the list at an address.</summary>
    private static (string Path, By Ready)[] Named(Page page, string list, (string Path, By Ready)[] screens)
    {
        using var named = System.Text.Json.JsonDocument.Parse(page.Fetch(list));
        return
        [
            .. screens.Select(s =>
                (
                    named
                        .RootElement.EnumerateArray()
                        .Aggregate(
                            s.Path,
                            (p, n) =>
                                p.Replace(
                                    $"{{{n.GetProperty("name").GetString()}}}",
                                    n.GetProperty("id").ToString(),
                                    StringComparison.Ordinal
                                )
                        ),
                    s.Ready
                )
            ),
        ];
    }

    private static void Look(Page page, (string Path, By Ready)[] screens)
    {
        foreach (var (path, ready) in screens)
        {
            page.Turn(path);
            page.See(ready);
            page.Violations().ShouldBeEmpty(path);
            foreach (var look in (string[])["night", "contrast"])
            {
                page.ViolationsIn(look).ShouldBeEmpty($"{look} {path}");
            }
        }

        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Every_screen_of_administrators_alone_is_accessible_in_every_look()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Jonas Aske");
        Look(page, OfAdministrators);
    }

    [Fact]
    public void The_sign_in_is_accessible()
    {
        using var page = new Page(demo.Address);
        page.SeeText("Accounts of the demo");
        page.Violations().ShouldBeEmpty();
    }

    [Fact]
    public void Every_screen_of_a_records_manager_is_accessible_in_every_look()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        Look(page, Screens);
    }

    [Fact]
    public void Dialogs_are_accessible_too()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/schedule?new=series");
        page.See(By.Id("code"));
        page.Violations().ShouldBeEmpty();
        page.Go("/schedule/22");
        page.Press(By.CssSelector("[data-part=term]"));
        page.See(By.Id("period-count"));
        page.Violations().ShouldBeEmpty();
    }

    [Fact]
    public void An_administrator_finds_people_and_sources_and_no_content()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Jonas Aske");
        page.Count(By.LinkText("Content")).ShouldBe(0);
        page.GoToSetUp("People and keys");
        page.SeeText("Maren Holt");
        page.Violations().ShouldBeEmpty();
        page.PressButton("Add a person");
        page.Type(By.Id("p-name"), "Nora Vik");
        page.Type(By.Id("p-mail"), "nora.vik@tarnholm.example");
        page.PressButton("Save");
        page.SeeText("An invitation is on its way to nora.vik@tarnholm.example.");
        page.SeeText("Nora Vik");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_steward_sees_one_part_and_not_its_sister()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Maren Holt");
        page.Go("/content");
        page.Press(By.CssSelector("[title='Filter by Container']"));
        page.SeeText("Island Routes - voyage reports");
        page.Count(By.XPath("//*[text()[contains(.,'Northern Routes')]]")).ShouldBe(0);
        page.Go("/schedule");
        page.SeeText("Island berth permits");
        page.Count(By.XPath("//*[text()[contains(.,'NOR-010')]]")).ShouldBe(0);
        page.Go("/content?item=1");
        page.Wait(d => d.FindElements(By.CssSelector(".subject .problem, .item h1")).FirstOrDefault(), "an answer");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_copied_address_shows_another_person_the_same()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/content");
        page.Press(By.CssSelector("[title='Filter by State']"));
        page.Press(By.XPath("//div[contains(@class,'facet')]//label[contains(.,'Awaiting event')]"));
        page.SeeText("State: Awaiting event");
        page.Press(By.XPath("//button[contains(@class,'sort')][contains(.,'Title')]"));
        page.Press(By.CssSelector("[role=row].body"));
        var title = page.See(By.CssSelector(".item h1")).Text;
        var address = new Uri(page.Url).PathAndQuery;

        using var other = new Page(demo.Address);
        other.EnterAs("Tobias Renner");
        other.Go(address);
        other.SeeText("State: Awaiting event");
        other.See(By.CssSelector(".item h1")).Text.ShouldBe(title);
    }

    [Fact]
    public void A_file_deleted_from_the_share_is_missed_by_the_scan_and_put_back_from_safekeeping()
    {
        var file = Directory
            .GetFiles(Path.Combine(demo.Share, "Supplier invoices"), "*", SearchOption.AllDirectories)
            .Order()
            .First();
        var content = File.ReadAllBytes(file);
        File.Delete(file);
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.GoToSetUp("Sources");
        page.Press(
            By.XPath(
                "//section[contains(@class,'source')][.//*[contains(.,'Supplier invoices')]]//button[contains(.,'Scan now')]"
            )
        );
        page.SeeText("is being scanned");
        page.Go("/content?missing=true");
        page.See(
            By.XPath(
                "//*[contains(@class,'facet') or contains(@class,'chip')][@aria-pressed='true'][contains(.,'Gone from source')]"
            )
        );
        page.Press(By.XPath("//*[@role='row'][contains(@class,'body')][.//*[contains(.,'gone from source')]]"));
        page.PressButton("Put back …");
        page.Type(By.CssSelector(".el-dialog textarea"), "Deleted by mistake while the folder was tidied.");
        page.PressButton("Put it back");
        page.SeeText($"Put back as {Path.GetRelativePath(demo.Share, file)}. The source is being scanned.");
        File.ReadAllBytes(file).ShouldBe(content);
        page.Wait(
            d =>
                d.FindElements(
                    By.XPath("//*[@role='row'][contains(@class,'body')][.//*[contains(.,'gone from source')]]")
                ).Count == 0
                    ? d
                    : null,
            "nothing to be missing"
        );
        page.SeeText("came back");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_wrong_password_says_so_and_keeps_what_was_typed()
    {
        using var page = new Page(demo.Address);
        page.Type(By.Id("mail"), "ines.calloway@tarnholm.example");
        page.Type(By.Id("password"), "not the password");
        page.PressButton("Sign in");
        page.SeeText("do not belong together");
        page.See(By.Id("mail")).GetAttribute("value").ShouldBe("ines.calloway@tarnholm.example");
    }

    [Fact]
    public void A_wrong_period_is_refused_in_place_and_unsaved_work_survives_a_reload()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/schedule/22");
        page.Press(By.CssSelector("[data-part=term]"));
        page.Type(By.Id("period-iso"), "P-1Y" + Keys.Enter);
        page.SeeText("is negative");
        page.Type(By.Id("period-iso"), "P1Y6M" + Keys.Enter);
        page.Wait(
            d => d.FindElement(By.CssSelector("[data-part=term]")).Text == "1 year and 6 months" ? d : null,
            "the term in words"
        );
        page.Go("/schedule/22");
        page.Wait(
            d => d.FindElement(By.CssSelector("[data-part=term]")).Text == "1 year and 6 months" ? d : null,
            "the unsaved term after a reload"
        );

        // The what-if stands in the address: somebody else opens it and sees the same, with its consequences, and
        // nothing was saved.
        page.Wait(
            d => d.Url.Contains("whatif=", StringComparison.Ordinal) ? d : null,
            "the address to tell the what-if"
        );
        using var other = new Page(demo.Address);
        other.EnterAs("Tobias Renner");
        other.Go(new Uri(page.Url).PathAndQuery);
        other.Wait(
            d => d.FindElement(By.CssSelector("[data-part=term]")).Text == "1 year and 6 months" ? d : null,
            "the term of the what-if"
        );
        other.See(By.CssSelector(".consequences .figure"));
        other.Go("/schedule/drafts");
        other.SeeText("all together, against what is in force");
        other.See(By.XPath("//tr[contains(.,'FIN-040')]/td[contains(.,'6 years')]"));
    }
}
