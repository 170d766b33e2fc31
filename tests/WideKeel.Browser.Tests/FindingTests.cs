using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>Finding things, as people do it: by words, by a query, by rows, by what is sensitive.</summary>
public sealed class FindingTests(Demo demo) : IClassFixture<Demo>
{
    private static readonly By Search = By.CssSelector("input[aria-label=Search]");

    private static By Row(string says) =>
        By.XPath($"//*[@role='row'][contains(@class,'body')][contains(.,\"{says}\")]");

    [Fact]
    public void A_wrong_query_is_mended_from_what_is_said_about_it()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/content");
        page.Type(Search, "title = berth and creatd > 2024");
        page.SeeText("there is no index “creatd”");
        page.See(By.CssSelector(".mistake u")).Text.ShouldBe("creatd");
        page.Violations().ShouldBeEmpty();
        // The message leads to the place: what is typed there takes the place of the mistake.
        page.PressButton("Go there");
        page.Send("created");
        page.See(Row("Berth permit"));
        page.Wait(d => d.Url.Contains("created", StringComparison.Ordinal) ? d : null, "the query in the address");
        page.Count(By.CssSelector(".mistake")).ShouldBe(0);
        page.See(By.CssSelector("[role=row].body mark")).Text.ShouldBe("Berth");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void Completions_are_taken_by_keyboard()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/content");
        page.Type(Search, "ser");
        page.See(By.XPath("//li[@role='option'][contains(.,'series')]"));
        page.Send(Keys.ArrowDown + Keys.Enter);
        page.Send("= ves-04");
        page.See(By.XPath("//li[@role='option'][contains(.,'VES-040')][contains(.,'341')]"));
        page.Send(Keys.ArrowDown + Keys.Enter);
        page.SeeText("341 items,");
        page.See(Search).GetAttribute("value").ShouldBe("series = VES-040 ");
    }

    [Fact]
    public void Rows_and_text_are_the_same_query_whichever_is_changed()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/content");
        page.PressButton("As rows");
        page.PressButton("Add a row");
        page.Type(By.CssSelector("[aria-label='Row 1: value']"), "berth" + Keys.Tab);
        page.PressButton("Add a row");
        page.See(By.CssSelector("[aria-label='Row 2: index'] option[value=created]")).Click();
        page.See(By.CssSelector("[aria-label='Row 2: relation'] option[value='>']")).Click();
        page.Type(By.CssSelector("[aria-label='Row 2: value']"), "2024" + Keys.Tab);
        page.Wait(
            d => d.FindElement(Search).GetAttribute("value") == "berth and created > 2024" ? d : null,
            "the rows as text"
        );
        page.Violations().ShouldBeEmpty();

        page.Type(Search, "berth and created > 2024 not title = tender");
        page.Wait(
            d =>
                d.FindElements(By.CssSelector("[aria-label='Row 3: value']")).SingleOrDefault()?.GetAttribute("value")
                == "tender"
                    ? d
                    : null,
            "the text as rows"
        );
        page.See(By.CssSelector("[aria-label='Row 3: must or must not']")).GetAttribute("value").ShouldBe("true");
        page.Press(By.CssSelector("[aria-label='Remove row 2']"));
        page.Wait(
            d => d.FindElement(Search).GetAttribute("value") == "berth not title = tender" ? d : null,
            "the text without the row"
        );
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_passport_is_found_by_its_kind_and_unmasked_with_a_reason()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/content");
        page.Press(By.LinkText("Where sensitive data lies"));
        page.Press(By.CssSelector("[aria-label='16 items of Crew files with Passport, machine readable zone']"));
        page.SeeText("16 items,");
        page.Press(Row("passport 064"));
        page.See(By.CssSelector(".find[data-kind=passport-mrz]")).Text.ShouldContain("•");
        page.PressButton("Unmask");
        page.Type(By.Id("unmask-why"), "The port authority asked for the number.");
        page.Press(By.XPath("//div[contains(@class,'el-dialog')]//button[contains(.,'Unmask')]"));
        page.Wait(
            d =>
                d.FindElement(By.CssSelector(".find[data-kind=passport-mrz]"))
                    .Text.StartsWith("P<UTO", StringComparison.Ordinal)
                    ? d
                    : null,
            "the zone in clear"
        );
        page.Go("/activity/ledger?verb=unmasked");
        page.SeeText("The port authority asked for the number.");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_shared_view_shows_the_same_to_somebody_else()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/content?cql=dredging%20eastlight&sort=title");
        page.SeeText("asks for");
        var first = page.See(By.CssSelector("[role=row].body")).Text;
        page.PressButton("Views");
        page.PressButton("Keep what is shown as a view");
        page.Type(By.Id("view-name"), "Dredging at Eastlight");
        page.Press(By.CssSelector(".views input[type=checkbox]"));
        page.Press(By.XPath("//form//button[contains(.,'Keep')]"));
        page.SeeText("View: Dredging at Eastlight");
        page.Violations().ShouldBeEmpty();

        using var other = new Page(demo.Address);
        other.EnterAs("Maren Holt");
        other.Go("/content");
        other.PressButton("Views");
        other.Press(By.LinkText("Dredging at Eastlight"));
        other.SeeText("View: Dredging at Eastlight");
        other.See(By.XPath("//*[@role='row'][contains(@class,'body')][contains(.,'Eastlight')]"));
        other.See(By.CssSelector("[role=row].body")).Text.ShouldBe(first);
        other.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_kind_of_ones_own_is_tried_on_a_text_and_then_looked_for()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Tobias Renner");
        page.Go("/content/sensitive");
        page.PressButton("Add a kind");
        page.Type(By.Id("k-title"), "Crew number");
        page.Type(By.Id("k-name"), "crew-number");
        page.Type(By.Id("k-pattern"), @"\bT[0-9{4}\b");
        page.Type(By.Id("k-sample"), "Crew number T1004 joined.");
        page.SeeText("a ] is missing");
        page.Type(By.Id("k-pattern"), @"\bT[0-9]{4}\b");
        page.Type(By.Id("k-nearby"), "crew number");
        page.Wait(
            d => d.FindElements(By.CssSelector("[role=status]")).Any(e => e.Text == "1 find: 1 likely") ? d : null,
            "the finds of the trial"
        );
        page.Violations().ShouldBeEmpty();
        page.PressButton("Add and look for it");
        page.SeeText("crew-number");
        page.Wait(
            d =>
            {
                if (d.FindElements(By.CssSelector("[aria-label='16 items of Crew files with Crew number']")).Count > 0)
                {
                    return d;
                }

                d.Navigate().Refresh();
                return null;
            },
            "the finds of the new kind"
        );
    }
}
