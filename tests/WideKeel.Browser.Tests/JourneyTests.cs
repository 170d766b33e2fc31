using System.Globalization;
using OpenQA.Selenium;
using WideKeel.Store.Ledger;

namespace WideKeel.Browser.Tests;

/// <summary>
/// The story, driven as people drive it. Each test has a demo of its own, because it destroys things.
/// </summary>
public class JourneyTests
{
    [Fact]
    public async Task A_rule_is_written_put_into_effect_and_what_falls_due_is_destroyed_by_two_people_with_the_mouse()
    {
        await using var demo = new Demo();
        await demo.InitializeAsync();
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.SeeText("things wait for you");

        // A new series, its sentence edited in place.
        page.Press(By.LinkText("Schedule"));
        page.Press(By.LinkText("Series"));
        page.PressButton("New series");
        page.Type(By.Id("code"), "YRD-010");
        page.Type(By.Id("title"), "Yard notes");
        page.Type(By.Id("function"), "Yard");
        page.PressButton("Make the draft");
        page.SeeText("Draft not yet in force");
        page.Press(By.CssSelector("[data-part=term]"));
        page.Type(By.Id("period-count"), "1");
        page.Press(By.XPath("//div[contains(@class,'editor')]//button[contains(.,'Done')]"));
        page.Wait(
            d => d.FindElement(By.CssSelector("[data-part=term]")).Text == "1 year" ? d : null,
            "the term to read “1 year”"
        );
        page.Press(By.CssSelector("[data-part=cutoff]"));
        page.Press(By.XPath("//button[@role='option' and text()='day']"));
        page.Press(By.CssSelector("[data-part=trigger]"));
        page.Press(By.XPath("//button[@role='option' and text()='it was last modified']"));
        page.PressButton("Keep as draft");
        page.SeeText("Draft kept");

        // Forty files of the yard are filed under it, from the list.
        page.Go("/content?cql=notes&unfiled=true");
        page.SeeText("40 items,");
        page.Press(By.CssSelector("[aria-label='Mark all that are loaded']"));
        page.PressButton("File under");
        page.Press(By.CssSelector(".el-dialog .el-select"));
        page.Press(By.XPath("//li[contains(.,'YRD-010')]"));
        page.PressButton("File 40 items under YRD-010");
        page.SeeText("40 items filed under YRD-010");

        // Consequences with numbers, on the button too; each opens into its rows.
        page.Press(By.LinkText("Schedule"));
        page.Press(By.LinkText("Series"));
        page.Type(By.CssSelector("input[aria-label='Filter the series']"), "YRD");
        page.Press(By.XPath("//*[@role='row'][contains(.,'YRD-010')]"));
        var due = page.See(By.CssSelector("[data-group=becomesDue]")).FindElement(By.XPath("..//strong")).Text;
        page.SeeText($"Put into effect — {due} become due today");
        page.Press(By.CssSelector("[data-group=becomesDue]"));
        page.SeeText($"{due} items that become due today");
        page.Wait(
            d =>
                d.FindElements(By.CssSelector(".el-dialog tbody tr")).Count.ToString(CultureInfo.InvariantCulture)
                == due
                    ? d
                    : null,
            "the rows behind the number"
        );
        page.Send(Keys.Escape);
        page.Gone(By.CssSelector(".el-overlay"));
        page.PressButton("Put into effect");
        page.Type(By.Id("why"), "The yard asked for it.");
        page.Press(By.XPath("//div[contains(@class,'el-dialog')]//button[contains(.,'Put into effect')]"));
        page.SeeText("Version 1 is in force");

        // The docket: look at one, extend one, sign; the second person signs.
        page.Press(By.LinkText("Schedule"));
        page.Press(By.XPath("//button[contains(@class,'entry')][contains(.,'YRD-010')]"));
        page.PressButton($"Open a batch of {due}");
        page.Press(By.CssSelector(".lines [role=row].body"));
        page.SeeText("The term is over; it may be destroyed after sign-off.");
        page.SeeText($"1 of {due} opened");
        page.PressButton("Extend");
        page.Type(By.Id("until"), "12312027");
        page.Type(By.Id("mark-why"), "Still used by the slip crew.");
        page.PressButton("Extend 1 item");
        page.SeeText("extend to 31 Dec 2027");
        page.PressButton("Sign stage 1 of 2");
        page.Type(By.Id("comment"), "Looked through with the yard.");
        page.Press(By.XPath("//div[contains(@class,'el-dialog')]//button[contains(.,'Sign stage 1 of 2')]"));
        page.SeeText("You have signed this batch already; the next stage needs another person.");
        var batch = page.Url;

        using var second = new Page(demo.Address);
        second.EnterAs("Tobias Renner");
        second.Go(new Uri(batch).PathAndQuery);
        var files = Directory
            .GetFiles(Path.Combine(demo.Share, "Yard scratch"), "*", SearchOption.AllDirectories)
            .Length;
        var count = int.Parse(due, CultureInfo.InvariantCulture) - 1;
        second.PressButton($"Sign and destroy {count}");
        second.Type(By.Id("comment"), "Agreed.");
        second.Type(By.Id("typed"), "destroy");
        second.Press(By.XPath($"//div[contains(@class,'el-dialog')]//button[contains(.,'Sign and destroy {count}')]"));
        second.SeeText($"{count} destroyed, 1 extended");
        Directory
            .GetFiles(Path.Combine(demo.Share, "Yard scratch"), "*", SearchOption.AllDirectories)
            .Length.ShouldBe(files - count);

        // Stub and certificate remain, and the ledger verifies on its own screen.
        second.Press(By.PartialLinkText("Certificate 2026-0002"));
        second.SeeText("Certificate of destruction 2026-0002");
        second.Press(By.CssSelector(".certificate tbody a"));
        second.SeeText("certificate 2026-0002");
        second.Go("/activity/ledger");
        second.PressButton("Verify the ledger");
        second.SeeText("All is well.");
        LedgerReader.Verify(demo.Options.DatabaseFile).Finding.ShouldBeNull();
        page.ConsoleErrors().ShouldBeEmpty();
        second.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public async Task The_same_by_keyboard_alone()
    {
        await using var demo = new Demo();
        await demo.InitializeAsync();
        using var page = new Page(demo.Address);
        // Sign in by typing.
        page.See(By.Id("mail"))
            .SendKeys("ines.calloway@tarnholm.example" + Keys.Tab + "harbour-light-26" + Keys.Enter);
        page.See(By.CssSelector(".masthead"));

        // "/" finds anything: the draft series.
        page.Send("/");
        page.Send("FIN-040");
        page.SeeText("FIN-040 Tender evaluations");
        page.Send(Keys.Enter);
        page.SeeText("become due today");

        // The sentence: open the cutoff's menu with the keyboard, choose the fiscal year.
        Focus(page, By.CssSelector("[data-part=cutoff]"));
        page.Send(Keys.Enter);
        Focus(page, By.XPath("//button[@role='option' and text()='fiscal year']"));
        page.Send(Keys.Enter);
        page.Wait(
            d => d.FindElement(By.CssSelector("[data-part=cutoff]")).Text == "fiscal year" ? d : null,
            "the cutoff to read “fiscal year”"
        );
        Focus(page, By.XPath("//button[contains(.,'Put into effect')]"));
        page.Send(Keys.Enter);
        page.See(By.Id("why"));
        Focus(page, By.Id("why"));
        page.Send("Decided by the finance unit." + Keys.Tab + Keys.Tab);
        Focus(page, By.XPath("//div[contains(@class,'el-dialog')]//button[contains(.,'Put into effect')]"));
        page.Send(Keys.Enter);
        page.SeeText("Version 1 is in force");

        // The docket: the batch that waits for the second signature; j and Enter go through the lines.
        page.Send("/");
        page.Send("Go to Docket" + Keys.Enter);
        page.SeeText("Waits for your signature");
        Focus(page, By.XPath("//button[contains(@class,'entry')][contains(.,'VES-010')]"));
        page.Send(Keys.Enter);
        page.SeeText("of 99 opened");
        Focus(page, By.CssSelector(".lines .scroller"));
        for (var i = 0; i < 30; i++)
        {
            page.Send("j");
        }

        page.Send(Keys.Enter);
        page.SeeText("Oil record book");
        page.See(By.CssSelector(".reasons"));
        page.SeeText("25 of 99 opened");
        page.Send(Keys.Escape);
        page.Gone(By.CssSelector(".reasons"));
        Focus(page, By.XPath("//button[contains(.,'Sign and destroy 99')]"));
        page.Send(Keys.Enter);
        page.See(By.Id("comment"));
        Focus(page, By.Id("comment"));
        page.Send("Sampled; nothing open.");
        Focus(page, By.Id("typed"));
        page.Send("destroy");
        Focus(page, By.XPath("//div[contains(@class,'el-dialog')]//button[contains(.,'Sign and destroy 99')]"));
        page.Send(Keys.Enter);
        page.SeeText("99 destroyed, 0 extended");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public async Task A_reviewer_looks_through_a_batch_of_forty_and_signs_it_with_hardly_more_keys_than_items()
    {
        await using var demo = new Demo();
        await demo.InitializeAsync();
        using var asking = new Page(demo.Address);
        asking.EnterAs("Tobias Renner");
        asking.Go("/schedule/docket");
        asking.Press(By.XPath("//button[contains(@class,'entry')][contains(.,'FIN-010')]"));
        var lines = int.Parse(
            asking.See(By.XPath("//button[contains(.,'Open a batch of')]")).Text.Split(' ')[^1],
            CultureInfo.InvariantCulture
        );
        lines.ShouldBeInRange(35, 50);
        asking.PressButton("Open a batch of");
        asking.SeeText($"0 of {lines} opened");

        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go(new Uri(asking.Url).PathAndQuery);
        page.SeeText($"0 of {lines} opened");
        Focus(page, By.CssSelector(".lines .scroller"));
        var keys = 0;
        Press(Keys.Enter);
        for (var opened = 1; opened < lines; opened++)
        {
            page.SeeText($"{opened} of {lines} opened");
            page.See(By.CssSelector(".reasons"));
            Press("j");
        }

        // The last one is kept a year longer, and then it is signed: the marks and the signature have keys of their
        // own.
        page.SeeText($"{lines} of {lines} opened");
        Press("e");
        page.See(By.Id("until"));
        Focus(page, By.CssSelector("input[type=radio]"));
        Press(Keys.ArrowRight);
        page.See(By.Id("span"));
        Focus(page, By.Id("mark-why"));
        page.Send("A complaint is open.");
        Focus(page, By.XPath("//div[contains(@class,'el-dialog')]//button[contains(.,'Extend 1 item')]"));
        Press(Keys.Enter);
        page.SeeText("extend to 15 Jun 2027");
        page.Gone(By.CssSelector(".el-overlay"));
        Press("s");
        page.Wait(_ => page.HasFocus(By.Id("comment")) ? page : null, "the comment to have the focus");
        page.Send("Every invoice looked at.");
        page.SendWithControl(Keys.Enter);
        page.SeeText($"after {lines} of {lines} had been opened: “Every invoice looked at.”");
        keys.ShouldBe(lines + 4);
        page.ConsoleErrors().ShouldBeEmpty();

        void Press(string key)
        {
            page.Send(key);
            keys++;
        }
    }

    /// <summary>
    /// Tabs until the element has the focus, as a person without a mouse would; it must be reachable.
    /// </summary>
    private static void Focus(Page page, By by)
    {
        page.See(by);
        for (var i = 0; i < 400; i++)
        {
            if (page.HasFocus(by))
            {
                return;
            }

            page.Send(Keys.Tab);
        }

        throw new TimeoutException($"{by} cannot be reached by Tab.");
    }
}
