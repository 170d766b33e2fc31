using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>From a watch to an alert, to the directory, to a review, to a gauge.</summary>
public sealed class DetectionTests(Demo demo) : IClassFixture<Demo>
{
    private static By Row(string text) =>
        By.XPath($"//*[@role='row' and contains(@class,'body')][contains(normalize-space(.), \"{text}\")]");

    private static By Button(string text) => By.XPath($"//button[contains(normalize-space(.), \"{text}\")]");

    [Fact]
    public void A_search_becomes_a_watch_that_is_tried_and_switched_on()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity/search?cql=action%20%3D%20file.delete&days=90");
        page.Press(By.LinkText("Watch this"));
        page.SeeText("What it would have raised");
        page.Type(By.Id("watch-name"), "Deletions, all of them");
        page.PressButton("Make the watch");
        page.PressButton("Switch it on from now");
        page.SeeText("On for what happened since");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void An_account_is_suspended_from_its_alert_and_restored()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity/alerts");
        page.Press(Row("Shared outside again and again"));
        page.PressButton("Suspend the account");
        page.SeeText("the directory shows it");
        page.PressButton("Undo");
        page.SeeText("Undone");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void An_alert_is_dismissed_with_a_reason_and_leaves_the_open_ones()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity/alerts");
        page.Press(Row("Consent to an application"));
        page.Type(By.Id("alert-reason"), "Tried by personnel, taken back on the same day.");
        page.PressButton("It was expected");
        page.Gone(Row("Consent to an application"));
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void What_is_open_to_anyone_is_mended_after_its_consequences()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/access/mend?list=open-to-anyone");
        page.See(Button("Mend it"));
        var before = page.Count(Button("Mend it"));
        page.Press(Button("Mend it"));
        page.SeeText("would be touched");
        page.Press(By.CssSelector(".consequences .el-button--primary"));
        page.Wait(d => d.FindElements(Button("Mend it")).Count == before - 1 ? d : null, "one line fewer");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void An_administrator_sees_what_a_table_would_change_before_it_is_taken_in()
    {
        var table = Path.Combine(Path.GetTempPath(), $"people-{Guid.NewGuid():N}.csv");
        File.WriteAllText(table, "name,mail,unit,kind\nRelief Hand,relief@crew.example,Crewing,guest\n");
        using var page = new Page(demo.Address);
        page.EnterAs("Jonas Aske");
        page.Go("/set-up/directory");
        page.PressButton("Take in files");
        page.See(By.Id("d-people"));
        page.Upload(By.Id("d-people"), table);
        page.PressButton("Show what would change");
        page.SeeText("Relief Hand");
        page.PressButton("Take in 1 difference");
        page.SeeText("1 person added");
        page.PressButton("Close");
        page.Type(By.Id("d-words"), "relief@crew");
        page.SeeText("relief@crew.example");
        page.ConsoleErrors().ShouldBeEmpty();
        File.Delete(table);
    }

    [Fact]
    public void The_most_active_are_asked_to_answer_for_what_nobody_answers_for()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/access/mend?list=ownerless");
        page.PressButton("Ask now");
        page.SeeText("given to stewards");
        page.Press(By.CssSelector(".owners summary"));
        page.SeeText("no answer yet");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    private static void Think(Page page, string what)
    {
        page.Press(By.XPath($"//label[contains(., '{what}')]"));
        page.Press(By.XPath("//div[contains(@class,'el-select')][.//input[@aria-label='Whom or which']]"));
        page.Send("Dorte");
        page.Press(By.XPath("//li[contains(@class,'el-select-dropdown__item')][contains(., 'Dorte Quill')]"));
        page.SeeText("would be touched");
    }

    [Fact]
    public void What_a_group_gives_a_guest_is_seen_before_they_are_added_and_taken_back_after()
    {
        var members = By.XPath("//section[contains(@class,'answer')]//a[.='Dorte Quill']");
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/access?group=Fleet%20Operations%20readers");
        Think(page, "Before you add somebody");
        page.Type(By.CssSelector(".consequences [aria-label='Reason']"), "Surveys the hull in the dry dock.");
        page.PressButton("Give ");
        page.Gone(By.CssSelector(".consequences"));
        page.See(members);
        Think(page, "Before you remove somebody");
        page.PressButton("Take ");
        page.Gone(By.CssSelector(".consequences"));
        page.Gone(members);
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_reviewer_decides_by_keys_and_takes_an_answer_back()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Press(By.XPath("//article[contains(., 'Members of the projects')]//a[contains(., 'Decide')]"));
        page.SeeText("8 lines of 8 left");
        page.Send("k");
        page.SeeText("7 lines of 8 left");
        page.Send("u");
        page.SeeText("8 lines of 8 left");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_gauge_rises_when_an_account_is_passed_over_with_a_reason()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Go("/readiness/gauges?gauge=1");
        var before = page.See(By.CssSelector(".tile[aria-expanded='true'] .value")).Text;
        page.Press(Button("Pass over"));
        page.Type(By.CssSelector(".exclude .el-input__inner"), "An emergency account, sealed in the safe.");
        page.Press(By.CssSelector(".exclude .el-button--primary"));
        page.Wait(
            d => d.FindElement(By.CssSelector(".tile[aria-expanded='true'] .value")).Text != before ? d : null,
            "another figure"
        );
        page.SeeText("Passed over");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_signed_out_visitor_sees_the_assurance_page_and_no_percentage()
    {
        using var page = new Page(demo.Address);
        page.Go("/assurance");
        page.SeeText("Safety-records standard");
        page.See(By.TagName("main")).Text.ShouldNotContain("%");
    }
}
