using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Core.Readiness;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>All measures of all parts, and what they say now.</summary>
public sealed class MeasureBook(IEnumerable<IMeasureSource> sources)
{
    private readonly Dictionary<string, Measure> all = sources
        .SelectMany(s => s.Measures)
        .ToDictionary(m => m.Name, StringComparer.Ordinal);

    public IReadOnlyCollection<Measure> All => all.Values;

    public Measure? Find(string name) => all.GetValueOrDefault(name);
}

/// <summary>Runs tests of controls and writes what each looked at.</summary>
internal sealed class TestRuns(WriteSession session, MeasureBook measures, OrganisationCalendar calendar)
{
    private readonly Dictionary<string, IReadOnlyList<MeasuredSubject>> asked = [];

    /// <summary>Asks the measure of one test, and stores the run with what it looked at.</summary>
    /// <param name="by">Who or what asked.</param>
    public async Task<PartProof> RunAsync(ControlPartRow part, string by, CancellationToken cancel)
    {
        var (right, of, says, facts) = await AskAsync(part.Measure, cancel);
        var passed = of > 0 && 100.0 * right / of >= part.Expected - 1e-9;
        var proof = new PartProof
        {
            PartId = part.Id,
            At = session.Now,
            Day = calendar.Today,
            Passed = passed,
            Says = says,
            By = by,
            Facts = facts,
            Hash = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(facts))),
        };
        session.Db.PartProofs.Add(proof);
        return proof;
    }

    /// <summary>What a measure says now, once for a whole run.</summary>
    public async Task<IReadOnlyList<MeasuredSubject>> SubjectsAsync(string measure, CancellationToken cancel)
    {
        if (!asked.TryGetValue(measure, out var subjects))
        {
            asked[measure] = subjects = measures.Find(measure) is { } known
                ? await known.Ask(new(session.Db, session.Services, calendar, cancel))
                : [];
        }

        return subjects;
    }

    private async Task<(int Right, int Of, string Says, string Facts)> AskAsync(
        string measure,
        CancellationToken cancel
    )
    {
        var subjects = await SubjectsAsync(measure, cancel);
        var right = subjects.Count(s => s.Right);
        var facts = new JsonArray([
            .. subjects
                .OrderBy(s => s.Right)
                .ThenBy(s => s.Id, StringComparer.Ordinal)
                .Select(s =>
                    (JsonNode?)
                        new JsonObject
                        {
                            ["id"] = s.Id,
                            ["name"] = s.Name,
                            ["unit"] = s.Unit,
                            ["right"] = s.Right,
                            ["why"] = s.Why,
                            ["link"] = s.Link,
                        }
                ),
        ]);
        return (
            right,
            subjects.Count,
            subjects.Count == 0
                ? "There was nothing to look at."
                : string.Create(
                    CultureInfo.InvariantCulture,
                    $"{right} of {subjects.Count} are as they should be ({100.0 * right / subjects.Count:0.#} %)."
                ),
            CanonicalJson.Text(facts)
        );
    }

    /// <summary>Runs every test, notes what every gauge shows, and how ready each framework is and why it moved.</summary>
    public async Task MorningAsync(CancellationToken cancel)
    {
        foreach (var part in await session.Db.ControlParts.Where(p => p.Kind == PartKind.Test).ToListAsync(cancel))
        {
            await RunAsync(part, "the daily run", cancel);
        }

        await session.Db.SaveChangesAsync(cancel);
        await NoteGaugesAsync(cancel);
        await NoteReadinessAsync(cancel);
    }

    public async Task NoteGaugesAsync(CancellationToken cancel)
    {
        foreach (
            var gauge in await session
                .Db.Gauges.Include(g => g.Exclusions)
                .Include(g => g.Days)
                .AsSplitQuery()
                .ToListAsync(cancel)
        )
        {
            var counted = GaugeEndpoints.Counted(gauge, await SubjectsAsync(gauge.Measure, cancel), calendar.Today);
            var day = gauge.Days.Find(d => d.Day == calendar.Today);
            if (day is null)
            {
                gauge.Days.Add(day = new() { Day = calendar.Today });
            }

            (day.Right, day.Of) = (counted.Count(s => s.Right), counted.Count);
        }
    }

    /// <summary>Writes the readiness of each framework for today, with what moved it since the day before.</summary>
    public async Task NoteReadinessAsync(CancellationToken cancel)
    {
        await session.Db.SaveChangesAsync(cancel);
        var book = await ReadinessBook.LoadAsync(session.Db, calendar, cancel);
        var now = ReadinessComputation.On(book.Today, book.Model);
        foreach (var framework in book.Frameworks)
        {
            var figure = now.Frameworks.First(f => f.Id == framework.Code).Readiness ?? 0;
            var day = await session.Db.ReadinessDays.SingleOrDefaultAsync(
                d => d.FrameworkId == framework.Id && d.Day == book.Today,
                cancel
            );
            var before = await session
                .Db.ReadinessDays.Where(d => d.FrameworkId == framework.Id && d.Day < book.Today)
                .OrderByDescending(d => d.Day)
                .FirstOrDefaultAsync(cancel);
            if (day is null)
            {
                session.Db.ReadinessDays.Add(day = new() { FrameworkId = framework.Id, Day = book.Today });
            }

            day.Readiness = Math.Round(figure, 6);
            day.Moved =
                before is null || before.Readiness == day.Readiness
                    ? ""
                    : Moved(book, framework, before.Day, book.Today);
        }
    }

    /// <summary>The parts of a framework's controls that count on a day and did not on a former one, or the other way.</summary>
    public static string Moved(ReadinessBook book, FrameworkRow framework, LocalDate since, LocalDate day)
    {
        var ids = framework.Requirements.Select(r => r.Id).ToHashSet();
        List<string> moved = [];
        foreach (var control in book.Controls.Where(c => c.Maps.Any(m => ids.Contains(m.RequirementId))))
        {
            foreach (var part in control.Parts)
            {
                var now = ReadinessBook.CountedOn(part, day);
                if (now != ReadinessBook.CountedOn(part, since))
                {
                    moved.Add($"{control.Code} {part.Title}: {(now ? "counts again" : "no longer counts")}.");
                }
            }
        }

        return string.Join('\n', moved);
    }
}

/// <summary>The morning of readiness: tests run, gauges and figures are noted.</summary>
internal sealed class ReadinessMorning(MeasureBook measures) : IDailyTask
{
    public bool IsLast => true;

    public Task RunAsync(DailyQuestion asked) =>
        new TestRuns(asked.Session, measures, asked.Calendar).MorningAsync(asked.Cancel);
}
