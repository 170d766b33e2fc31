using NodaTime;
using OpenQA.Selenium;
using OtpNet;
using WideKeel.Core.People;

namespace WideKeel.Browser.Tests;

/// <summary>The way into the product, with more than a password.</summary>
public sealed class SignInTests(Demo demo) : IClassFixture<Demo>
{
    private static readonly By Code = By.Id("code");

    [Fact]
    public void Somebody_sets_one_time_codes_up_and_signs_in_with_one_and_with_a_recovery_code()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Tobias Renner");
        page.Go("/set-up/profile");
        page.PressButton("Set them up");
        page.Type(By.Id("otc-password"), WideKeel.Demo.Scenario.Password);
        page.PressButton("Go on");
        page.See(By.CssSelector(".qr path"));
        page.Violations().ShouldBeEmpty();
        var key = Base32Encoding.ToBytes(
            page.See(By.CssSelector(".el-dialog .key")).Text.Replace(" ", "", StringComparison.Ordinal)
        );
        var confirmed = SystemClock.Instance.GetCurrentInstant();
        page.Type(By.Id("otc-code"), OneTimeCode.At(key, confirmed));
        page.PressButton("Turn one-time codes on");
        var recovery = page.See(By.CssSelector(".codes li")).Text;
        page.Violations().ShouldBeEmpty();
        page.PressButton("I have kept them");
        page.SeeText("10 recovery codes are left");

        // At another desk the password is not enough; a code that is one step ahead is taken, so that no test waits.
        using var desk = new Page(demo.Address);
        desk.Press(By.XPath("//button[.//strong[text()='Tobias Renner']]"));
        desk.Type(Code, OneTimeCode.At(key, confirmed));
        desk.Send(Keys.Enter);
        desk.SeeText("This code is wrong, over or used already");
        desk.Violations().ShouldBeEmpty();
        desk.Type(Code, OneTimeCode.At(key, confirmed + Duration.FromSeconds(OneTimeCode.StepSeconds)));
        desk.Send(Keys.Enter);
        desk.See(By.CssSelector(".masthead"));

        // Without the phone, a recovery code; and the profile counts down.
        using var home = new Page(demo.Address);
        home.Press(By.XPath("//button[.//strong[text()='Tobias Renner']]"));
        home.Type(Code, recovery);
        home.Send(Keys.Enter);
        home.See(By.CssSelector(".masthead"));
        home.Go("/set-up/profile");
        home.SeeText("9 recovery codes are left");
        home.ConsoleErrors().ShouldBeEmpty();
    }
}
