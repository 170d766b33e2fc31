using System.Text;
using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;
using UglyToad.PdfPig.Writer;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Core.Readiness;
using WideKeel.Demo;
using WideKeel.Server.People;
using WideKeel.Server.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Demo;

/// <summary>A year of readiness before the demo's day: former proofs, figures and gauges.</summary>
internal static class DemoReadinessHistory
{
    /// <summary>
    /// Former proofs, and from them the readiness of each week of the year, by the same computation as today's. Tests
    /// began half a year ago; some routines were missed.
    /// </summary>
    public static async Task MakeAsync(IServiceProvider services, LocalDate today)
    {
        var writer = services.GetRequiredService<Writer>();
        var calendar = services.GetRequiredService<OrganisationCalendar>();
        var measures = services.GetRequiredService<MeasureBook>();
        var answers = await ControlTestsJob.AnswersAsync(
            services.GetRequiredService<IDbContextFactory<WideKeelDb>>(),
            measures,
            calendar,
            services,
            CancellationToken.None
        );
        await writer.RunAsync(
            LedgerActor.Job("demo", null),
            async session =>
            {
                var controls = await session.Db.Controls.Include(c => c.Parts).ToListAsync();
                var random = new Random(7);
                foreach (var part in controls.SelectMany(c => c.Parts))
                {
                    var passes =
                        part.Kind != PartKind.Test
                        || TestRuns.Passes(part, measures.Find(part.Measure), answers[part.Measure]);
                    var story = ReadinessStory.Controls.First(c =>
                        c.Code == controls.First(x => x.Id == part.ControlId).Code
                    );
                    // What the deletions of last night brought down was well until then.
                    session.Db.PartProofs.AddRange(
                        Former(part, story, today, passes || OwnMeasures.IdOf(part.Measure) is not null, random)
                    );
                }

                await session.Db.SaveChangesAsync();
                await new TestRuns(session, measures, answers, calendar).MorningAsync(CancellationToken.None);
                await session.Db.SaveChangesAsync();
                await FormerDaysAsync(session, calendar, today);
                await FormerGaugesAsync(session, today, random);
            }
        );
    }

    private static IEnumerable<PartProof> Former(
        ControlPartRow part,
        ReadinessStory.StoryControl story,
        LocalDate today,
        bool passes,
        Random random
    )
    {
        if (part.Kind == PartKind.Test)
        {
            // Each test that passes today failed until some day of the last half-year.
            var turned = 30 + random.Next(150);
            for (var ago = 182; ago >= 7; ago -= 7)
            {
                var passed = passes && ago < turned;
                yield return Proof(part, today.PlusDays(-ago), passed, passed ? "As it should be." : "Not yet.");
            }
        }
        else if (part.Kind == PartKind.Routine)
        {
            var days = Core.Time.Recurrence.Days(part.First!.Value, part.Recurrence, today).ToList();
            foreach (
                var day in days.Where((_, i) => i > 1 && (i < days.Count - 1 || story.Code is "REC-05" or "RSK-01"))
            )
            {
                yield return Proof(part, day, true, "Done, and written down in the book of the unit.");
            }
        }
        else if (story.Evidence.First(e => e.Title == part.Title).DaysAgo is { } ago)
        {
            yield return Proof(part, today.PlusDays(-ago), true, "Report, signed.");
        }
    }

    private static PartProof Proof(ControlPartRow part, LocalDate day, bool passed, string says) =>
        new()
        {
            PartId = part.Id,
            At = day.AtStartOfDayInZone(DateTimeZone.Utc).ToInstant() + Duration.FromHours(9),
            Day = day,
            Passed = passed,
            Says = says,
            By = "the former register",
        };

    private static async Task FormerDaysAsync(WriteSession session, OrganisationCalendar calendar, LocalDate today)
    {
        var book = await ReadinessBook.LoadAsync(session.Db, calendar, CancellationToken.None);
        ReadinessGround? before = null;
        for (var ago = 357; ago >= 7; ago -= 7)
        {
            var day = today.PlusDays(-ago);
            var ground = book.GroundOn(day);
            session.Db.ReadinessDays.AddRange(
                book.Frameworks.Select(f => new ReadinessDay
                {
                    FrameworkId = f.Id,
                    Day = day,
                    Readiness = Math.Round(ground.Figure(f.Code), 6),
                    Moved = before is null ? "" : ReadinessNotes.Moved(before, ground, f.Code),
                })
            );
            before = ground;
        }

        // Today's movement is compared with the last of these days.
        session.Db.ReadinessGrounds.RemoveRange(session.Db.ReadinessGrounds);
        session.Db.ReadinessGrounds.Add(new() { Day = today.PlusDays(-7), Text = JsonSerializer.Serialize(before) });
        await ReadinessNotes.TakeAsync(session, calendar, CancellationToken.None);
    }

    private static async Task FormerGaugesAsync(WriteSession session, LocalDate today, Random random)
    {
        foreach (var gauge in await session.Db.Gauges.Include(g => g.Days).ToListAsync())
        {
            var now = gauge.Days.SingleOrDefault(d => d.Day == today);
            if (now is null or { Of: 0 })
            {
                continue;
            }

            // The demo has no former facts of these: the trend leads from a lower share to today's.
            for (var ago = 84; ago >= 7; ago -= 7)
            {
                var right = Math.Clamp(now.Right - (int)(now.Of * 0.002 * ago) - random.Next(2), 0, now.Of);
                gauge.Days.Add(
                    new()
                    {
                        Day = today.PlusDays(-ago),
                        Right = right,
                        Of = now.Of,
                    }
                );
            }
        }
    }
}
