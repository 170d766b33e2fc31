using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Interactions;
using OpenQA.Selenium.Support.UI;
using WideKeel.Server;
using WideKeel.Server.Demo;
using WideKeel.Server.People;
using WideKeel.Sources;

namespace WideKeel.Browser.Tests;

/// <summary>
/// The demo, running, for all tests of one class. It is made once; each class works on a copy of its own.
/// </summary>
public sealed class Demo : IAsyncLifetime
{
    private readonly string folder = Directory.CreateTempSubdirectory("widekeel-browser-").FullName;
    private WebApplication? app;

    public WideKeelOptions Options { get; private set; } = null!;

    /// <summary>The demo's clock, further on when a test says so.</summary>
    private readonly StoppableClock stopped = new(
        new ShiftedClock(Instant.FromUtc(2026, 6, 15, 8, 0), NodaTime.SystemClock.Instance)
    );
    private readonly StoryClock clock;

    public Demo() => clock = new(stopped);

    private static int loopbacks;
    private static readonly SemaphoreSlim Making = new(1, 1);

    /// <summary>Made before, as <c>./test</c> does beside other tests; else it is made here.</summary>
    private static string? made = Environment.GetEnvironmentVariable("WIDEKEEL_DEMO");

    public Uri Address => new(app!.Urls.First());

    public string Share => DemoSeed.ShareFolder(Options);

    public async ValueTask InitializeAsync()
    {
        Options = new WideKeelOptions
        {
            DataFolder = Path.Combine(folder, "data"),
            SecretsFolder = Path.Combine(folder, "secrets"),
            Urls = "http://127.0.0.1:0",
            // The copies listen for syslog at the same port, each at an address of its own.
            SyslogAddress = System.Net.IPAddress.Parse($"127.0.0.{1 + Interlocked.Increment(ref loopbacks)}"),
            Clock = clock,
            DemoAccounts = DemoSeed.Accounts,
            MailSink = true,
            SignInsAMinute = 10_000,
            PasswordRounds = 1_000,
        };
        await Making.WaitAsync();
        try
        {
            if (made is null)
            {
                made = Directory.CreateTempSubdirectory("widekeel-browser-made-").FullName;
                await DemoSeed.EnsureAsync(
                    Options with
                    {
                        DataFolder = Path.Combine(made, "data"),
                        SecretsFolder = Path.Combine(made, "secrets"),
                        SyslogAddress = System.Net.IPAddress.Loopback,
                    },
                    seed: 1,
                    scale: 1,
                    fresh: false,
                    _ => { }
                );
                SqliteConnection.ClearAllPools();
            }
        }
        finally
        {
            Making.Release();
        }

        Copy(made, folder);
        await using (var database = new SqliteConnection($"Data Source={Options.DatabaseFile};Pooling=False"))
        {
            // The copy's sources lie beside it.
            await database.OpenAsync();
            await using var move = database.CreateCommand();
            move.CommandText = "UPDATE source SET Root = replace(Root, $from, $to)";
            move.Parameters.AddWithValue("$from", made);
            move.Parameters.AddWithValue("$to", folder);
            await move.ExecuteNonQueryAsync();
        }

        app = WideKeelHost.Create(Options);
        await app.StartAsync();
    }

    /// <summary>The directory outside, which carries out what is decided and can be made to fail.</summary>
    public StandInDirectory Outside => app!.Services.GetRequiredService<OrganisationDirectory>().Outside;

    /// <summary>The link of the message that asks somebody for a review.</summary>
    public string ReviewLink(Page page, string mail, string review) =>
        page.Wait(_ => Found(mail, review, "/review/[0-9a-f]+").LastOrDefault(), $"a message to {mail}");

    /// <summary>The link of the message that brings somebody a notice.</summary>
    public string NoticeLink(Page page, string mail) =>
        page.Wait(_ => Found(mail, "", "/notices/[0-9a-f]+").LastOrDefault(), $"a notice to {mail}");

    /// <summary>Types the code that a decision by link asks for, as it lies in somebody's mailbox.</summary>
    public void TypeCode(Page page, string mail)
    {
        page.SeeText("We sent one to");
        var code = page.Wait(_ => Found(mail, "", "(?<=Your code is )[0-9]{6}").LastOrDefault(), $"a code for {mail}");
        page.Type(By.Id("link-code"), code);
        page.PressButton("Continue");
    }

    /// <summary>What a mailbox holds of a pattern, the oldest first.</summary>
    private IEnumerable<string> Found(string mail, string words, string pattern) =>
        // The folder is made with the first message.
        Directory
            .CreateDirectory(Options.MailSinkFolder)
            .EnumerateFiles("*.eml")
            .Select(f => f.FullName)
            .Order()
            .Select(File.ReadAllText)
            .Where(m =>
                m.Contains($"<{mail}>", StringComparison.Ordinal) && m.Contains(words, StringComparison.Ordinal)
            )
            .Select(m => Regex.Match(m.Replace("=\r\n", "", StringComparison.Ordinal), pattern).Value)
            .Where(l => l.Length > 0);

    /// <summary>Lets time pass, all at once.</summary>
    public void Pass(int days) => clock.Behind -= Duration.FromDays(days);

    /// <summary>What is done meanwhile takes no time of the product's, however slow the machine is.</summary>
    public void StandStill(Action during)
    {
        stopped.At = stopped.GetCurrentInstant();
        during();
        stopped.At = null;
    }

    private sealed class StoppableClock(NodaTime.IClock real) : NodaTime.IClock
    {
        public Instant? At { get; set; }

        public Instant GetCurrentInstant() => At ?? real.GetCurrentInstant();
    }

    private static void Copy(string from, string to)
    {
        foreach (var file in Directory.EnumerateFiles(from, "*", SearchOption.AllDirectories))
        {
            var target = Path.Combine(to, Path.GetRelativePath(from, file));
            Directory.CreateDirectory(Path.GetDirectoryName(target)!);
            File.Copy(file, target);
            // A copy as old as its original is known to the scan as it was.
            File.SetLastWriteTimeUtc(target, File.GetLastWriteTimeUtc(file));
        }
    }

    public async ValueTask DisposeAsync()
    {
        if (app is not null)
        {
            await app.StopAsync();
            await app.DisposeAsync();
        }

        Directory.Delete(folder, recursive: true);
    }
}

/// <summary>A person at a browser. Every wait is for something that the person would see.</summary>
public sealed class Page : IDisposable
{
    private readonly (ChromeDriver Driver, string Profile) browser = Browsers.Take();
    private readonly Uri address;
    private bool altered;

    private ChromeDriver Driver => browser.Driver;

    public Page(Uri address, string look = "light")
    {
        this.address = address;
        Go("/");
        Driver.ExecuteScript("localStorage.setItem('widekeel.look', arguments[0])", look);
        Go("/");
    }

    /// <summary>From here on the page is as wide as a phone, in CSS pixels; a window of the browser cannot be so narrow.</summary>
    public void AsPhone(int width)
    {
        altered = true;
        Driver.ExecuteCdpCommand(
            "Emulation.setDeviceMetricsOverride",
            new()
            {
                ["width"] = width,
                ["height"] = 844,
                ["deviceScaleFactor"] = 1,
                ["mobile"] = true,
            }
        );
    }

    /// <summary>How wide the page is, whatever of it is seen; in CSS pixels.</summary>
    public long Width() => (long)Driver.ExecuteScript("return document.documentElement.scrollWidth")!;

    public string Url => Driver.Url;

    public void Go(string path) => Driver.Navigate().GoToUrl(new Uri(address, path));

    /// <summary>To another place as a link of the page leads there, without loading everything anew.</summary>
    public void Turn(string path) =>
        Driver.ExecuteScript(
            "history.pushState({}, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate', { state: history.state }))",
            path
        );

    public void EnterAs(string name)
    {
        Press(By.XPath($"//button[.//strong[text()='{name}']]"));
        See(By.CssSelector(".masthead"));
    }

    /// <summary>Goes to a tab of Set-up, by the person's menu.</summary>
    public void GoToSetUp(string tab)
    {
        Press(By.CssSelector(".person > button"));
        Press(By.LinkText("Set-up"));
        Press(By.LinkText(tab));
    }

    public IWebElement See(By by) => Wait(d => d.FindElements(by).FirstOrDefault(e => e.Displayed), by.ToString());

    public IWebElement SeeText(string text) =>
        See(By.XPath($"//*[not(self::script)][text()[contains(normalize-space(.), \"{text}\")]]"));

    public void Gone(By by) => Wait(d => d.FindElements(by).All(e => !e.Displayed) ? d : null, $"{by} to go");

    public void Press(By by) =>
        Wait(
            d =>
            {
                var element = d.FindElements(by).FirstOrDefault(e => e.Displayed && e.Enabled);
                if (element is null)
                {
                    return null;
                }

                try
                {
                    element.Click();
                    return element;
                }
                catch (Exception e) when (e is ElementClickInterceptedException or StaleElementReferenceException)
                {
                    return null;
                }
            },
            $"{by} to press"
        );

    public void PressButton(string text) => Press(By.XPath($"//button[contains(normalize-space(.), \"{text}\")]"));

    public void Type(By by, string text)
    {
        var field = See(by);
        field.SendKeys(Keys.Control + "a");
        field.SendKeys(text);
    }

    /// <summary>Takes one of the choices of the field that has the focus, by its words.</summary>
    public void Choose(string words)
    {
        SendWithControl("a");
        Send(words);
        Press(By.XPath($"//li[contains(@class,'el-select-dropdown__item')][normalize-space(.)='{words}']"));
    }

    /// <summary>Chooses a file where the page asks for one.</summary>
    public void Upload(By by, string file) => Driver.FindElement(by).SendKeys(file);

    /// <summary>The file behind a link, as the person at this browser would save it.</summary>
    public byte[] Download(By link) =>
        Convert.FromBase64String(
            (string)
                Driver.ExecuteAsyncScript(
                    "const done = arguments[1]; fetch(arguments[0].href).then((r) => r.blob()).then((b) => { "
                        + "const reader = new FileReader(); reader.onload = () => done(reader.result.split(',')[1]); "
                        + "reader.readAsDataURL(b) })",
                    See(link)
                )!
        );

    /// <summary>What an address answers to the person at this browser.</summary>
    public string Fetch(string path) =>
        (string)
            Driver.ExecuteAsyncScript(
                "const done = arguments[1]; fetch(arguments[0]).then((r) => r.text()).then(done)",
                path
            )!;

    /// <summary>
    /// Keys from the keyboard, to whatever has the focus when each one arrives; what fades away meanwhile may have it.
    /// </summary>
    public void Send(string keys) => new Actions(Driver).SendKeys(keys).Perform();

    /// <summary>A key pressed while Control is held.</summary>
    public void SendWithControl(string key) =>
        new Actions(Driver).KeyDown(Keys.Control).SendKeys(key).KeyUp(Keys.Control).Perform();

    public bool HasFocus(By by) =>
        Wait(
            d =>
                d.FindElements(by)
                    .Any(e => (bool)Driver.ExecuteScript("return document.activeElement === arguments[0]", e)!)
                    ? "yes"
                    : "no",
            $"{by} to keep still"
        ) == "yes";

    public T Wait<T>(Func<IWebDriver, T?> what, string until)
        where T : class
    {
        try
        {
            return new WebDriverWait(Driver, TimeSpan.FromSeconds(20))
            {
                PollingInterval = TimeSpan.FromMilliseconds(50),
            }.Until(d =>
            {
                try
                {
                    return what(d);
                }
                catch (StaleElementReferenceException)
                {
                    return null;
                }
            })!;
        }
        catch (WebDriverTimeoutException)
        {
            throw new TimeoutException(
                $"Waited in vain for {until} at {Driver.Url}. The page says: {Driver.FindElement(By.TagName("body")).Text}"
            );
        }
    }

    /// <summary>Waits until the page has asked for nothing for more than a second.</summary>
    public void Settle() =>
        Wait(
            _ =>
                (bool)
                    Driver.ExecuteScript(
                        "const all = performance.getEntriesByType('resource');"
                            + "return all.length > 0 && performance.now() - Math.max(...all.map((r) => r.responseEnd)) > 1200"
                    )!
                    ? "still"
                    : null,
            "the page to be still"
        );

    /// <summary>What the page has asked of the server since it was opened, with what stands behind each address.</summary>
    public IReadOnlyList<string> Requests() =>
        [
            .. (
                (IReadOnlyCollection<object>)
                    Driver.ExecuteScript(
                        "return performance.getEntriesByType('resource').map((r) => r.name).filter((n) => n.includes('/api/'))"
                    )!
            ).Select(n => new Uri((string)n).PathAndQuery),
        ];

    public long Count(By by) => Driver.FindElements(by).Count;

    /// <summary>Lets axe look at the page by WCAG 2.2 AA; what it finds, one line each.</summary>
    public IReadOnlyList<string> Violations() => Violations("['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']");

    /// <summary>The same page in another look, by the rules that colours can break; the structure is the same in each.</summary>
    public IReadOnlyList<string> ViolationsIn(string look)
    {
        const string root = "document.documentElement";
        var before = Driver.ExecuteScript($"return {root}.dataset.look");
        Driver.ExecuteScript($"{root}.dataset.look = arguments[0]", look);
        var found = Violations("{ type: 'rule', values: ['color-contrast', 'link-in-text-block'] }");
        Driver.ExecuteScript($"{root}.dataset.look = arguments[0]", before);
        return found;
    }

    private string[] Violations(string runOnly)
    {
        if (Driver.ExecuteScript("return typeof axe") is "undefined")
        {
            Driver.ExecuteScript(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "axe.min.js")));
        }

        var found =
            (IReadOnlyCollection<object>)
                Driver.ExecuteAsyncScript(
                    $$"""
                    const done = arguments[0]
                    // What is still fading is not what the person will read: without transitions everything is at its
                    // end at once.
                    const still = '*, *::before, *::after { transition: none !important; animation: none !important }'
                    if (!document.getElementById('still'))
                      document.head.insertAdjacentHTML('beforeend', `<style id="still">${still}</style>`)
                    const node = (n) => n.html.slice(0, 160) + ' ' + n.failureSummary.slice(0, 260)
                    const told = (v) => `${v.id}: ${v.nodes.slice(0, 3).map(node).join(' | ')}`
                    const runOnly = {{runOnly}}
                    const look = () => axe.run(document, { runOnly }).then((r) => done(r.violations.map(told)))
                    requestAnimationFrame(() => requestAnimationFrame(look))
                    """
                )!;
        return [.. found.Select(f => f.ToString()!)];
    }

    /// <summary>
    /// Errors in the browser's console. A refused request is logged there by the browser itself and is none.
    /// </summary>
    public IReadOnlyList<string> ConsoleErrors() =>
        [
            .. Driver
                .Manage()
                .Logs.GetLog(LogType.Browser)
                .Where(l =>
                    l.Level == LogLevel.Severe
                    && !l.Message.Contains("Failed to load resource", StringComparison.Ordinal)
                )
                .Select(l => l.Message),
        ];

    public void Picture(string file) => Driver.GetScreenshot().SaveAsFile(file);

    public void Dispose() => Browsers.GiveBack(browser, address, altered);
}
