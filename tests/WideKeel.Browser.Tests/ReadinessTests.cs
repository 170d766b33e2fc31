using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>From a deletion in the night to the control that it brought down; policies, programs and outsiders.</summary>
public sealed class ReadinessTests(Demo demo) : IClassFixture<Demo>
{
    private static By Row(string text) =>
        By.XPath($"//*[@role='row' and contains(@class,'body')][contains(normalize-space(.), \"{text}\")]");

    private static By Containing(string text) => By.XPath($"//button[contains(., \"{text}\")]");

    /// <summary>The story of the demo, end to end; the guide tells it in the same steps.</summary>
    [Fact]
    public void A_deletion_after_a_collision_brings_a_control_down_and_its_answer_brings_it_back()
    {
        // The matter holds what is left.
        using var vera = SignedIn("Vera Quist");
        vera.Go("/matters");
        vera.Press(By.XPath("//*[contains(text(),'Collision with pier 4')]"));
        vera.SeeText("Hold orders");

        // The deletions bring the control down.
        using var ines = SignedIn("Ines Calloway");
        ines.Go("/readiness/controls?code=REC-03");
        ines.SeeText("0 of 2 are as they should be");
        var before = Figure(ines);

        // They are found in the activity, and lead to a person.
        using var sunniva = SignedIn("Sunniva Krag");
        foreach (var watch in new[] { "Deleted while logging was off", "Deletions beyond the person" })
        {
            sunniva.Go("/activity/alerts");
            sunniva.Press(Row(watch));
            sunniva.Type(By.Id("alert-reason"), "Pictures and work orders of the collision were deleted.");
            sunniva.PressButton("It is confirmed");
            sunniva.Gone(Row(watch));
        }

        sunniva.PressButton("Open an investigation with its events");
        sunniva.See(By.XPath("//h1[contains(., 'Thread')]"));

        // What that person reaches is looked at.
        ines.Go("/activity/alerts?state=confirmed");
        ines.Press(Row("Deletions beyond the person"));
        ines.Press(By.XPath("//a[contains(@href, '/access?person=')]"));
        ines.See(By.XPath("//h1[contains(., 'Reach')]"));
        Review(ines);

        // The control recovers.
        ines.Go("/readiness/controls?code=REC-03");
        ines.Press(
            By.XPath(
                "//section[contains(@class,'part')][contains(., 'Deletions looked at')]//button[contains(., 'Run now')]"
            )
        );
        ines.SeeText("2 of 2 are as they should be");
        Figure(ines).ShouldBeGreaterThan(before);
        foreach (var page in new[] { vera, ines, sunniva })
        {
            page.ConsoleErrors().ShouldBeEmpty();
        }
    }

    /// <summary>One of their groups is reviewed, and they leave it.</summary>
    private void Review(Page ines)
    {
        const string name = "Who sits on the claims board";
        ines.Go("/access/reviews");
        ines.PressButton("Draft a review");
        ines.Type(By.Id("review-name"), name);
        ines.Press(By.CssSelector("[data-part='about']"));
        ines.Press(By.XPath("//div[contains(@class,'el-select')][.//input[@aria-label='Groups']]"));
        ines.Choose("Claims board");
        ines.Press(By.Id("review-name"));
        ines.SeeText("At ten seconds a line");
        ines.PressButton("Save draft");
        ines.PressButton("Ask about");
        ines.SeeText("Round 1");
        using (var astrid = new Page(demo.Address))
        {
            astrid.Go(demo.ReviewLink(astrid, "astrid.moen@tarnholm.example", name));
            astrid.Press(By.XPath("//ol//button[contains(., 'Henrik Wick')]"));
            astrid.SeeText("Henrik Wick");
            astrid.PressButton("Remove");
            demo.TypeCode(astrid, "astrid.moen@tarnholm.example");
            astrid.See(By.XPath("//ol/li[contains(., 'Henrik Wick')][contains(., 'remove')]"));
        }

        ines.PressButton("End the round");
        ines.SeeText("✓ gone");
        demo.Outside.Read()
            .Groups.Single(g => g.Id == "Claims board")
            .Members.ShouldNotContain("henrik.wick@tarnholm.example");
    }

    private Page SignedIn(string name)
    {
        var page = new Page(demo.Address);
        page.EnterAs(name);
        return page;
    }

    /// <summary>The control's figure in percent.</summary>
    private static double Figure(Page page) =>
        double.Parse(
            page.See(By.CssSelector(".figure strong")).Text.Replace("%", "", StringComparison.Ordinal),
            System.Globalization.CultureInfo.InvariantCulture
        );

    [Fact]
    public void A_policy_is_written_by_one_approved_by_another_and_acknowledged()
    {
        using var page = SignedIn("Ines Calloway");
        page.Go("/readiness/policies");
        page.Press(Containing("Use of accounts and devices"));
        page.PressButton("Next version");
        page.Type(By.Id("pv-change"), "Devices lock after five minutes.");
        page.PressButton("Ask for approval");
        page.SeeText("Another person than Ines Calloway approves it.");

        using var astrid = SignedIn("Astrid Moen");
        astrid.Go("/readiness/policies");
        astrid.Press(Containing("Use of accounts and devices"));
        astrid.PressButton("Approve version 3");
        astrid.SeeText("in force since 15 Jun 2026");
        astrid.PressButton("Ask 2");
        astrid.SeeText("asked by message");
        page.ConsoleErrors().ShouldBeEmpty();
        astrid.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_program_is_read_and_its_courses_show_who_is_late()
    {
        using var page = SignedIn("Ines Calloway");
        page.Go("/readiness/connections");
        page.Press(Containing("training register"));
        page.PressButton("Read it now");
        page.SeeText("read 15 Jun 2026");
        page.Go("/readiness/areas?kind=training");
        page.Press(Containing("Keeping records on board"));
        page.SeeText("▲ late");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void An_outsider_asks_for_a_document_and_gets_it_after_a_decision()
    {
        using var page = new Page(demo.Address);
        page.Go("/assurance");
        page.PressButton("Ask for it");
        page.Type(By.CssSelector("[id^='n-']"), "Robin Vale");
        page.Type(By.CssSelector("[id^='o-']"), "Vale Insurance");
        page.Type(By.CssSelector("[id^='m-']"), "robin@vale.example");
        page.Type(By.CssSelector("[id^='r-']"), "Renewal of the policy");
        page.Press(By.CssSelector(".ask button[type='submit']"));
        page.SeeText("You asked for it");

        using var ines = SignedIn("Ines Calloway");
        ines.Go("/readiness/assurance");
        ines.Press(By.XPath("//article[contains(., 'Robin Vale')]//button[contains(., 'Give it')]"));
        ines.See(By.XPath("//article[contains(., 'Robin Vale')][contains(., 'given until')]"));
        page.ConsoleErrors().ShouldBeEmpty();
        ines.ConsoleErrors().ShouldBeEmpty();
    }
}
