using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using OpenQA.Selenium;
using WideKeel.Core.People;

namespace WideKeel.Browser.Tests;

/// <summary>A review of access, from the sentence that drafts it to the report that is left of it.</summary>
public sealed class ReviewTests(Demo demo) : IClassFixture<Demo>
{
    private const string Name = "Who is in passenger services";

    [Fact]
    public void A_review_goes_from_its_sentence_to_its_report_past_a_stamp_silence_a_leaver_and_a_directory_that_fails()
    {
        using (var ines = new Page(demo.Address))
        {
            ines.EnterAs("Ines Calloway");
            ines.Go("/access/reviews");
            ines.PressButton("Draft a review");
            ines.Type(By.Id("review-name"), Name);
            ines.Press(By.CssSelector("[data-part='about']"));
            ines.Press(By.XPath("//div[contains(@class,'el-select')][.//input[@aria-label='Groups']]"));
            ines.Choose("Passenger Services staff");
            ines.Choose("Legal team");
            ines.Choose("Surveyors");
            ines.Press(By.Id("review-name"));
            ines.SeeText("At ten seconds a line");
            ines.PressButton("Save draft");
            ines.PressButton("Ask about");
            ines.SeeText("Round 1");
            ines.ConsoleErrors().ShouldBeEmpty();
        }

        demo.StandStill(Stamp);
        Remove();
        var leaver = demo.Outside.Read().Groups.Single(g => g.Id == "Passenger Services staff").Members[^1];
        demo.Outside.Write(Without(demo.Outside.Read(), leaver));
        demo.Outside.FailNext(1000);
        demo.Pass(11);

        using var after = new Page(demo.Address);
        after.EnterAs("Ines Calloway");
        after.Go("/access/reviews");
        after.PressButton(Name);
        after.SeeText(", ended");
        after.SeeText("This person has left.");
        after.SeeText("Lena Marsh kept everything in less than two seconds a line");
        after.SeeText("not carried out");
        // It fails once more, and then works.
        var failure = By.XPath("//td/span[contains(.,'The directory does not answer.')]");
        var before = after.See(failure).Text;
        after.PressButton("Carry out");
        after.Wait(_ => after.See(failure).Text == before ? null : "more", "another attempt");
        demo.Outside.FailNext(0);
        after.PressButton("Carry out");
        after.SeeText("✓ gone");
        demo.Outside.Read().Groups.Single(g => g.Id == "Surveyors").Members.Count.ShouldBe(2);
        Encoding.UTF8.GetString(after.Download(By.LinkText("CSV"))).ShouldContain("Legal team");
        after.ConsoleErrors().ShouldBeEmpty();
    }

    /// <summary>Lena keeps every line on a phone, with hardly more presses than lines.</summary>
    private void Stamp()
    {
        using var lena = new Page(demo.Address);
        lena.AsPhone(390);
        lena.Go(demo.ReviewLink(lena, "lena.marsh@tarnholm.example", Name));
        var lines = int.Parse(
            Regex.Match(lena.SeeText(" left").Text, @"^(\d+) lines? of").Groups[1].Value,
            CultureInfo.InvariantCulture
        );
        lines.ShouldBeGreaterThan(15);
        for (var left = lines; left > 0; left--)
        {
            lena.SeeText($"{left} {(left == 1 ? "line" : "lines")} of {lines} left");
            lena.PressButton("Keep");
            if (left == lines)
            {
                demo.TypeCode(lena, "lena.marsh@tarnholm.example");
            }
        }

        lena.SeeText($"All {lines} lines are decided");
        lena.Width().ShouldBeLessThanOrEqualTo(390);
        lena.ConsoleErrors().ShouldBeEmpty();
    }

    /// <summary>Bo has one of three surveyors removed.</summary>
    private void Remove()
    {
        using var bo = new Page(demo.Address);
        bo.Go(demo.ReviewLink(bo, "bo.ekberg@tarnholm.example", Name));
        bo.SeeText("3 lines of 3 left");
        bo.PressButton("Remove");
        demo.TypeCode(bo, "bo.ekberg@tarnholm.example");
        bo.SeeText("2 lines of 3 left");
        bo.PressButton("Keep");
        bo.SeeText("1 line of 3 left");
        bo.PressButton("Keep");
        bo.SeeText("All 3 lines are decided");
        bo.ConsoleErrors().ShouldBeEmpty();
    }

    private static DirectoryState Without(DirectoryState state, string leaver) =>
        state with
        {
            People = [.. state.People.Select(p => p.Id == leaver ? p with { Left = "2026-06-15" } : p)],
        };
}
