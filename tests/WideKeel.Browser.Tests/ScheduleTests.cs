using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>The parts of the schedule, driven by mouse and keyboard with the demo's data.</summary>
public sealed class ScheduleTests(Demo demo) : IClassFixture<Demo>
{
    private static By Dialog(string text) =>
        By.XPath($"//div[contains(@class,'el-dialog')]//button[contains(normalize-space(.),'{text}')]");

    [Fact]
    public void A_rule_of_two_clocks_is_written_in_the_sentence_and_held_against_its_authority()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/schedule?words=PPL-030");
        page.Press(By.XPath("//*[@role='row'][contains(.,'PPL-030')]"));
        page.SeeText("meets it");
        page.Press(By.CssSelector("[data-part=term-2]"));
        page.Type(By.Id("period-2-count"), "6");
        page.Press(By.XPath("//*[@id='period-2-count']/following-sibling::select/option[contains(.,'months')]"));
        page.Press(
            By.XPath("//*[@id='period-2-count']/ancestor::div[contains(@class,'editor')]//button[contains(.,'Done')]")
        );
        page.SeeText("short by 6 months");
        page.Press(By.CssSelector("[data-part=join]"));
        page.Press(By.XPath("//button[@role='option'][contains(.,'earlier')]"));
        page.Wait(
            d => d.FindElement(By.CssSelector("[data-part=join]")).Text == "earlier" ? d : null,
            "the join to read “earlier”"
        );
        page.Violations().ShouldBeEmpty();
        page.PressButton("Drop the draft");
        page.SeeText("meets it");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void An_event_is_told_with_its_consequences_shown_and_the_subject_s_page_knows_it()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Tobias Renner");
        page.Go("/schedule/events?subject=IMO9901019");
        page.PressButton("Report an event");
        page.Press(By.CssSelector(".el-dialog .el-select"));
        page.Press(By.XPath("//li[contains(.,'Vessel sold')]"));
        page.Type(By.Id("e-subject"), "IMO9901019");
        page.Type(By.Id("e-note"), "Sold to an island operator.");
        page.See(By.CssSelector(".el-dialog .consequences"));
        page.Violations().ShouldBeEmpty();
        page.Press(Dialog("Report it —"));
        page.SeeText("Sold to an island operator.");
        page.Press(By.XPath("//button[contains(@aria-label,'Revoke Vessel sold of IMO9901019')]"));
        page.Type(By.Id("why"), "The sale fell through.");
        page.Press(Dialog("Revoke it"));
        page.SeeText("revoked by Tobias Renner: The sale fell through.");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_filing_rule_is_judged_on_its_samples_and_then_files()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/schedule/filing?rule=1");
        page.See(By.XPath("//section[@aria-label='Passport copies']//td[contains(@class,'judge')]"));
        page.Press(By.XPath("(//section[@aria-label='Passport copies']//button[normalize-space()='right'])[1]"));
        page.SeeText("100 % of 1");
        page.Press(By.XPath("(//section[@aria-label='Passport copies']//button[normalize-space()='wrong'])[2]"));
        page.SeeText("50 % of 2, truly 9 % to 91 %");
        page.PressButton("Put into force");
        page.Type(By.Id("why"), "Passports are crew files.");
        page.Press(Dialog("Put into force — file 16 items"));
        page.Wait(
            d =>
                d.FindElements(
                    By.XPath(
                        "//tr[contains(.,'Passport copies')][contains(.,'in force')]/td[6][normalize-space()='16']"
                    )
                ).Count > 0
                    ? d
                    : null,
            "sixteen items to be filed"
        );
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void What_was_learnt_from_filing_by_hand_is_filed_with_one_look_at_the_words_that_speak_for_it()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/schedule/filing");
        page.Press(By.XPath("//section[@aria-label='Suggestions']//tr[contains(.,'VES-020')]//a[text()='7']"));
        page.SeeText("Suggested for VES-020");
        page.Press(By.XPath("(//*[@role='row'][contains(.,'certificate, ')])[1]"));
        page.SeeText("By what people filed so far it belongs under");
        page.Violations().ShouldBeEmpty();
        page.PressButton("File it there …");
        page.Press(Dialog("File 1 item under VES-020"));
        page.SeeText("1 item filed under VES-020.");
        page.SeeText("6 items");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_sheet_comes_back_as_drafts_that_take_effect_together_and_what_a_blanket_among_them_destroys_is_cleared()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Tobias Renner");
        page.Go("/schedule/spreadsheet");
        page.SeeText("take the schedule out");
        var sheet = page.Fetch("/api/schedule.csv");
        var file = Path.Combine(Path.GetTempPath(), $"widekeel-{Guid.NewGuid():N}.csv");
        try
        {
            File.WriteAllText(
                file,
                sheet.Replace("PAX-040,Lost property,", "PAX-040,Lost property,Nowhere / ", StringComparison.Ordinal)
            );
            page.Upload(By.CssSelector("input[type=file]"), file);
            page.SeeText("There is no unit “Nowhere / ");
            File.WriteAllText(
                file,
                sheet.Replace("Lost property", "Property found on board", StringComparison.Ordinal)
            );
            page.Upload(By.CssSelector("input[type=file]"), file);
            page.SeeText("Property found on board");
            page.Violations().ShouldBeEmpty();
            page.PressButton("Write 1 draft");
            page.SeeText("1 draft written. Nothing rules by them yet.");
        }
        finally
        {
            File.Delete(file);
        }

        page.Go("/schedule/blankets?blanket=2");
        page.SeeText("every container that fits");
        page.PressButton("Ask a second person — 39 become due today");
        page.Type(By.Id("why"), "Nobody looks into scratch folders.");
        page.Press(Dialog("Ask a second person"));
        page.SeeText("It takes effect once another person agrees.");
        using var second = new Page(demo.Address);
        second.EnterAs("Ines Calloway");
        second.SeeText("Put the draft of the blanket “Scratch folders” into effect");
        second.PressButton("Review …");
        second.Type(By.Id("why"), "I looked into them.");
        second.Press(Dialog("Approve"));
        second.Gone(By.XPath("//*[contains(text(), 'Put the draft of the blanket')]"));
        page.Go("/schedule/drafts");
        page.See(By.LinkText("PAX-040 Property found on board"));
        page.PressButton("Put 3 drafts into effect");
        page.Type(By.Id("why"), "The schedule of June.");
        page.Press(Dialog("into effect"));
        page.SeeText("No draft waits");
        page.Go("/schedule?words=PAX-040");
        page.SeeText("Property found on board");

        page.Go("/schedule/docket?blanket=2");
        page.SeeText("You put the rule into effect; somebody else clears what it makes due.");
        second.Go("/schedule/docket?blanket=2");
        second.SeeText("You agreed to the rule; somebody else clears what it makes due.");
        second.ConsoleErrors().ShouldBeEmpty();
        using var third = new Page(demo.Address);
        third.EnterAs("Runa Halle");
        third.Go("/schedule/docket?blanket=2");
        third.PressButton("Destroy 39 items");
        third.Type(By.Id("why"), "Nothing of it is needed.");
        third.Violations().ShouldBeEmpty();
        third.Type(By.Id("word"), "destroy");
        third.Press(Dialog("Destroy 39 items now"));
        third.SeeText("39 destroyed");
        third.Go("/schedule/certificates");
        third.SeeText("Blanket Scratch folders");
        third.ConsoleErrors().ShouldBeEmpty();
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void WORM_is_asked_for_by_one_and_enabled_by_another()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/set-up/organisation");
        page.PressButton("Ask to enable WORM");
        page.Type(By.Id("why"), "The regulator asks for it.");
        page.Type(By.Id("word"), "for good");
        page.Violations().ShouldBeEmpty();
        page.Press(Dialog("Ask a second person"));
        page.SeeText("waits for a second person");

        using var other = new Page(demo.Address);
        other.EnterAs("Jonas Aske");
        other.SeeText("Waits for a second person");
        other.PressButton("Review");
        other.Type(By.Id("why"), "Seen and agreed.");
        other.Press(Dialog("Approve"));
        other.Gone(By.CssSelector(".proposal"));
        other.Go("/set-up/organisation");
        other.SeeText("for good. A series with this grade can be lengthened, never shortened.");
        other.ConsoleErrors().ShouldBeEmpty();
    }
}
