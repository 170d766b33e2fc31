using System.Collections.Concurrent;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using WideKeel.Browser.Tests;

[assembly: AssemblyFixture(typeof(Browsers))]

namespace WideKeel.Browser.Tests;

/// <summary>
/// Browsers that wait for their next person. To start one costs more than most of what a person does with it; it is
/// given on as if it were new: without cookies, without what pages kept, without what it logged.
/// </summary>
public sealed class Browsers : IDisposable
{
    private static readonly ConcurrentBag<(ChromeDriver Driver, string Profile)> Waiting = [];

    public static (ChromeDriver Driver, string Profile) Take() => Waiting.TryTake(out var waiting) ? waiting : Start();

    /// <param name="address">Where the person was, whose pages may have kept something.</param>
    /// <param name="altered">The browser itself was changed, so that it is given to nobody else.</param>
    public static void GiveBack((ChromeDriver Driver, string Profile) browser, Uri address, bool altered)
    {
        if (altered || !Clean(browser.Driver, address))
        {
            End(browser);
            return;
        }

        Waiting.Add(browser);
    }

    private static bool Clean(ChromeDriver driver, Uri address)
    {
        try
        {
            if (driver.WindowHandles.Count > 1)
            {
                return false;
            }

            // What a page keeps can be emptied only at its address; this one has no script that keeps anything anew.
            driver.Navigate().GoToUrl(new Uri(address, "/api/health"));
            driver.ExecuteScript("localStorage.clear(); sessionStorage.clear()");
            driver.ExecuteCdpCommand("Network.clearBrowserCookies", []);
            driver.Navigate().GoToUrl("about:blank");
            driver.Manage().Logs.GetLog(LogType.Browser);
            return true;
        }
        catch (WebDriverException)
        {
            // A question that the page asks before it is left, or a browser that is no more.
            return false;
        }
    }

    private static (ChromeDriver, string) Start()
    {
        var profile = Directory.CreateTempSubdirectory("widekeel-chromium-").FullName;
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--window-size=1280,943",
            $"--user-data-dir={profile}"
        );
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        return (new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin/chromedriver"), options), profile);
    }

    private static void End((ChromeDriver Driver, string Profile) browser)
    {
        browser.Driver.Quit();
        browser.Driver.Dispose();
        Directory.Delete(browser.Profile, recursive: true);
    }

    public void Dispose()
    {
        while (Waiting.TryTake(out var browser))
        {
            End(browser);
        }
    }
}
