using System.Text;
using System.Text.Json;
using OpenQA.Selenium;

namespace WideKeel.Browser.Tests;

/// <summary>The analyst's morning: who deleted the photographs, from which machine, and how that is kept.</summary>
public sealed class ActivityTests(Demo demo) : IClassFixture<Demo>
{
    private static By Row(string text) =>
        By.XPath($"//*[@role='row' and contains(@class,'body')][contains(normalize-space(.), \"{text}\")]");

    private static By Choice(string label) =>
        By.XPath($"//div[contains(@class,'el-select')][.//input[@aria-label='{label}']]");

    [Fact]
    public void The_deletion_of_the_photographs_is_followed_to_a_machine_and_another_person_and_kept()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity/thread");
        page.Type(By.Id("i-name"), "Photographs of pier 4");
        page.PressButton("Open it");
        page.See(By.CssSelector("[aria-label='Photographs of pier 4']"));

        page.Go("/activity/search");
        page.Type(By.CssSelector("[role=search] input"), "pier photograph" + Keys.Enter);
        page.Press(Row("Photograph 14.jpg"));
        page.SeeText("karl.nyman@tarnholm.example deleted");
        page.PressButton("Pin to an investigation");
        page.Press(By.XPath("//li[contains(@class,'el-dropdown-menu__item')][contains(., 'Photographs of pier 4')]"));
        page.SeeText("Pinned to Photographs of pier 4");

        page.Press(By.LinkText("Follow the thread"));
        page.SeeText("henrik.wick@tarnholm.example");
        page.SeeText("WS-061");
        page.PressButton("Freeze 1 event");
        page.SeeText("1 event, frozen");
        using var file = JsonDocument.Parse(page.Download(By.LinkText("Save the file with proofs")));
        file.RootElement.GetProperty("events")[0]
            .GetProperty("proof")
            .GetProperty("inclusion")
            .GetArrayLength()
            .ShouldBeGreaterThan(0);
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_bar_of_a_board_opens_into_its_events()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity?board=destruction&days=7");
        page.Press(By.XPath("//section[@aria-label='By whom']//a[contains(., 'karl.nyman')]"));
        page.See(Row("Photograph 01.jpg"));
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_question_in_SQL_is_answered_and_a_file_cannot_be_asked()
    {
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity/sql?statement=Which%20machine%20had%20the%20address");
        page.See(By.XPath("//table[contains(@class,'sheet')]//td[.='WS-061']"));
        page.Press(By.CssSelector(".cm-content"));
        page.SendWithControl("a");
        page.Send("SELECT * FROM read_csv('/etc/passwd')");
        page.PressButton("Ask");
        page.SeeText("cannot be used here");
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_table_of_leases_is_uploaded_and_says_from_which_machine_the_deletions_came()
    {
        var folder = Directory.CreateTempSubdirectory("widekeel-leases-").FullName;
        var file = Path.Combine(folder, "yard-leases.csv");
        File.WriteAllText(
            file,
            "begins,address,machine\n2024-01-01T00:00:00Z,192.0.2.117,YARD-3\n2025-01-01T00:00:00Z,192.0.2.117,YARD-7\n",
            Encoding.UTF8
        );
        using var page = new Page(demo.Address);
        page.EnterAs("Sunniva Krag");
        page.Go("/activity/sql");
        page.See(By.Id("upload"));
        page.Upload(By.Id("upload"), file);
        page.SeeText("yard_leases");
        page.Press(By.CssSelector(".cm-content"));
        page.SendWithControl("a");
        page.Send(
            "SELECT DISTINCT e.actor, l.machine FROM events e ASOF JOIN yard_leases l ON e.address = l.address "
                + "AND e.time >= l.begins::TIMESTAMP WHERE e.action = 'file.delete' AND e.address = '192.0.2.117'"
        );
        page.PressButton("Ask");
        page.See(By.XPath("//table[contains(@class,'sheet')]//tr[td[.='YARD-7'] and td[contains(., 'karl.nyman')]]"));
        page.Gone(By.XPath("//table[contains(@class,'sheet')]//td[.='YARD-3']"));
        page.ConsoleErrors().ShouldBeEmpty();
        Directory.Delete(folder, true);
    }

    [Fact]
    public void A_log_is_connected_by_a_file_its_rejected_line_is_seen_and_its_events_are_found()
    {
        var file = Path.Combine(Path.GetTempPath(), $"doors-{Guid.NewGuid():n}.csv");
        File.WriteAllText(
            file,
            "When,User,Gate\n2026-06-14T07:01:00Z,pia.lind@tarnholm.example,yard\nnever,pia.lind@tarnholm.example,yard\n",
            Encoding.UTF8
        );
        using var page = new Page(demo.Address);
        page.EnterAs("Jonas Aske");
        page.Go("/set-up/channels");
        page.PressButton("Connect a log");
        page.Type(By.Id("c-title"), "Doors of the yard");
        page.Type(By.Id("c-name"), "yard-doors");
        page.Press(Choice("How it comes"));
        page.Press(By.XPath("//li[contains(., 'files that are handed over')]"));
        page.Press(Choice("What its lines are"));
        page.Press(By.XPath("//li[contains(., 'a table (CSV)')]"));
        page.Upload(By.CssSelector("[aria-label='File to try']"), file);
        page.SeeText("Gate");
        page.Type(By.CssSelector("[aria-label='Action of every row']"), "door.open");
        page.PressButton("Try again");
        page.SeeText("is no time as the mapping says");
        page.PressButton("Connect it");
        page.See(By.CssSelector("[aria-label='Doors of the yard']"));
        page.Press(By.XPath("//section[@aria-label='Doors of the yard']//button[contains(., 'Key, files')]"));
        page.See(By.CssSelector("[aria-label='File with lines of this log']"));
        page.Upload(By.CssSelector("[aria-label='File with lines of this log']"), file);
        page.SeeText("2 lines read: 1 taken");
        File.Delete(file);
        using var analyst = new Page(demo.Address);
        analyst.EnterAs("Sunniva Krag");
        analyst.Go("/activity/search?cql=action%20%3D%20door.open");
        analyst.See(Row("pia.lind@tarnholm.example"));
        page.ConsoleErrors().ShouldBeEmpty();
    }

    [Fact]
    public void A_mapping_is_mended_and_a_back_fill_says_how_many_are_past_their_time()
    {
        var file = Path.Combine(Path.GetTempPath(), $"gates-{Guid.NewGuid():n}.csv");
        File.WriteAllText(
            file,
            "When,User\n14.06.2026 07:01:00,pia.lind@tarnholm.example\n11.06.2021 07:02:00,pia.lind@tarnholm.example\n"
        );
        using var page = new Page(demo.Address);
        page.EnterAs("Jonas Aske");
        page.Go("/set-up/channels");
        page.PressButton("Connect a log");
        page.Type(By.Id("c-title"), "Gates of the pier");
        page.Type(By.Id("c-name"), "pier-gates");
        page.Press(Choice("How it comes"));
        page.Press(By.XPath("//li[contains(., 'files that are handed over')]"));
        page.Press(Choice("What its lines are"));
        page.Press(By.XPath("//li[contains(., 'a table (CSV)')]"));
        page.Upload(By.CssSelector("[aria-label='File to try']"), file);
        page.Type(By.CssSelector("[aria-label='Action of every row']"), "door.open");
        page.PressButton("Connect it");
        page.Press(By.XPath("//section[@aria-label='Gates of the pier']//button[contains(., 'Key, files')]"));
        page.See(By.CssSelector("[aria-label='File with lines of this log']"));
        page.Upload(By.CssSelector("[aria-label='File with lines of this log']"), file);
        page.SeeText("2 rejected");
        page.SeeText("is no time as the mapping says");

        page.Press(By.XPath("//section[@aria-label='Gates of the pier']//button[.='Change']"));
        page.Type(By.CssSelector("[aria-label='Pattern of times']"), "dd.MM.uuuu HH:mm:ss");
        page.PressButton("Change the channel");
        page.Gone(By.CssSelector("[aria-label='Pattern of times']"));
        page.Upload(By.CssSelector("[aria-label='File with lines of this log']"), file);
        page.SeeText("2 lines read: 1 taken, 0 there already, 0 not admitted, 1 past their time,");
        page.ConsoleErrors().ShouldBeEmpty();
        File.Delete(file);
    }
}
