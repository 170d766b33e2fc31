using OpenQA.Selenium;
using WideKeel.Demo;

namespace WideKeel.Browser.Tests;

/// <summary>One audit between its two sides, and one review with a way that others share.</summary>
public sealed class AuditRoomTests(Demo demo) : IClassFixture<Demo>
{
    private static By In(string section, string button) =>
        By.XPath($"//section[@aria-label=\"{section}\"]//button[contains(normalize-space(.), \"{button}\")]");

    private static void SignIn(Page page, string mail)
    {
        page.Type(By.CssSelector("input[type=email], input[autocomplete=username]"), mail);
        page.Type(By.CssSelector("input[type=password]"), Scenario.Password);
        page.PressButton("Sign in");
        page.See(By.CssSelector(".masthead"));
    }

    [Fact]
    public void An_auditor_returns_samples_finds_and_closes()
    {
        using var auditor = new Page(demo.Address);
        SignIn(auditor, "halvor.tind@auditors.example");
        auditor.Go("/readiness/audits?audit=2");
        auditor.Type(By.CssSelector("[aria-label='Remark on request 1']"), "The last quarter is missing");
        auditor.Press(In("Request 1", "Return with comment"));
        auditor.SeeText("The last quarter is missing");

        auditor.Go("/readiness/audits?audit=2&tab=samples");
        auditor.Type(By.Id("s-title"), "Accounts without a second factor");
        auditor.Press(By.CssSelector("form .el-select"));
        var accounts = By.XPath("//li[contains(., 'Accounts, with or without a second factor')]");
        auditor.Press(accounts);
        auditor.Gone(accounts);
        auditor.PressButton("Draw the sample");
        auditor.Press(By.XPath("//summary[contains(., 'drawn')]"));
        auditor.Press(By.CssSelector("input[aria-label$=' deviates']"));
        auditor.Type(By.CssSelector("[aria-label^='Note on ']"), "Signs in with a password alone");
        auditor.PressButton("Save the results");
        auditor.SeeText("1 deviated");

        auditor.Go("/readiness/audits?audit=2&tab=findings");
        auditor.Type(By.CssSelector("[aria-label='What was found']"), "An account without a second factor");
        auditor.PressButton("Add the finding");
        auditor.See(By.CssSelector("section[aria-label='An account without a second factor']"));

        using var manager = new Page(demo.Address);
        manager.EnterAs("Ines Calloway");
        manager.Go("/readiness/audits?audit=2&tab=findings");
        manager.PressButton("Respond");
        manager.Type(By.CssSelector("[aria-label='Response']"), "The account is new");
        manager.PressButton("Done: ask for verification");
        manager.SeeText("done, to be verified");

        auditor.Go("/readiness/audits?audit=2&tab=findings");
        auditor.PressButton("Verify and close");
        auditor.SeeText("verified by Halvor Tind");
        auditor.ConsoleErrors().Concat(manager.ConsoleErrors()).ShouldBeEmpty();
    }

    [Fact]
    public void A_reviewer_sees_every_way_before_removing_one()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Ines Calloway");
        page.Press(By.XPath("//article[contains(., 'Members of the projects')]//a[contains(., 'Decide')]"));
        page.See(By.CssSelector(".ways input[type=checkbox]"));
        page.SeeText("removal ends");
        page.ConsoleErrors().ShouldBeEmpty();
    }
}
