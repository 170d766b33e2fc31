using System.Collections.Concurrent;
using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core.Ledger;
using WideKeel.Core.Readiness;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

/// <summary>All measures of all parts, and what they say now.</summary>
public sealed class MeasureBook(
    IEnumerable<IMeasureSource> sources,
    IDbContextFactory<WideKeelDb> databases,
    IClock clock
)
{
    private static readonly Duration CostlyStays = Duration.FromHours(1);

    private readonly Dictionary<string, Measure> all = sources
        .SelectMany(s => s.Measures)
        .ToDictionary(m => m.Name, StringComparer.Ordinal);

    private readonly ConcurrentDictionary<
        (string Name, long Revision),
        (Instant At, IReadOnlyList<MeasuredSubject> Subjects)
    > costly = [];

    public IReadOnlyCollection<Measure> All
    {
        get
        {
            using var db = databases.CreateDbContext();
            return [.. all.Values, .. db.OwnMeasures.AsNoTracking().AsEnumerable().Select(OwnMeasures.Of)];
        }
    }

    public Measure? Find(string name)
    {
        if (all.TryGetValue(name, out var known))
        {
            return known;
        }

        if (OwnMeasures.IdOf(name) is not { } id)
        {
            return null;
        }

        using var db = databases.CreateDbContext();
        return db.OwnMeasures.AsNoTracking().SingleOrDefault(m => m.Id == id) is { } row ? OwnMeasures.Of(row) : null;
    }

    /// <summary>What a measure says; nothing where there is none of the name.</summary>
    public async Task<IReadOnlyList<MeasuredSubject>> AskAsync(string name, MeasureQuestion question)
    {
        if (Find(name) is not { } measure)
        {
            return [];
        }

        var subjects = await measure.Ask(question);
        if (measure.IsCostly)
        {
            costly[(name, measure.Revision)] = (clock.GetCurrentInstant(), subjects);
        }

        return subjects;
    }

    /// <summary>The same for a screen: what is costly was asked within the hour.</summary>
    public async Task<IReadOnlyList<MeasuredSubject>> ShowAsync(string name, MeasureQuestion question) =>
        Find(name) is { IsCostly: true } measure
        && costly.TryGetValue((name, measure.Revision), out var known)
        && clock.GetCurrentInstant() - known.At < CostlyStays
            ? known.Subjects
            : await AskAsync(name, question);

    /// <summary>
    /// Several measures, each asked once. They read, and may read for long: ask before a change begins, so that nobody
    /// waits for the change meanwhile.
    /// </summary>
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<MeasuredSubject>>> AskAllAsync(
        IEnumerable<string> names,
        MeasureQuestion question
    )
    {
        Dictionary<string, IReadOnlyList<MeasuredSubject>> answers = [];
        foreach (var name in names.Distinct())
        {
            answers[name] = await AskAsync(name, question);
        }

        return answers;
    }
}

/// <summary>Writes runs of tests with what each looked at, and the figures of a day.</summary>
/// <param name="answers">Of the measures, asked before the change began.</param>
internal sealed class TestRuns(
    WriteSession session,
    MeasureBook measures,
    IReadOnlyDictionary<string, IReadOnlyList<MeasuredSubject>> answers,
    OrganisationCalendar calendar
)
{
    /// <summary>Stores one run of a test with what it looked at.</summary>
    /// <param name="by">Who or what asked.</param>
    public PartProof Run(ControlPartRow part, string by)
    {
        var subjects = answers.GetValueOrDefault(part.Measure) ?? [];
        var facts = FactsOf(subjects);
        var proof = new PartProof
        {
            PartId = part.Id,
            At = session.Now,
            Day = calendar.Today,
            Passed = Passes(part, measures.Find(part.Measure), subjects),
            Says = Says(subjects),
            By = by,
            Frozen = new() { Text = facts },
            Hash = ContentHash.Of(facts),
        };
        session.Db.PartProofs.Add(proof);
        return proof;
    }

    /// <summary>Whether a test passes, given what its measure says.</summary>
    public static bool Passes(ControlPartRow part, Measure? measure, IReadOnlyList<MeasuredSubject> subjects) =>
        subjects.Count == 0
            ? measure is { NothingIsRight: true }
            : 100.0 * subjects.Count(s => s.Right) / subjects.Count >= part.Expected - 1e-9;

    private static string Says(IReadOnlyList<MeasuredSubject> subjects)
    {
        var right = subjects.Count(s => s.Right);
        return subjects.Count == 0
            ? "There was nothing to look at."
            : string.Create(
                CultureInfo.InvariantCulture,
                $"{right} of {subjects.Count} are as they should be ({100.0 * right / subjects.Count:0.#} %)."
            );
    }

    /// <summary>What a test looked at, what is wrong first, as it is hashed.</summary>
    private static string FactsOf(IReadOnlyList<MeasuredSubject> subjects)
    {
        var facts = new JsonArray();
        foreach (var s in subjects.OrderBy(s => s.Right).ThenBy(s => s.Id, StringComparer.Ordinal))
        {
            facts.Add(JsonSerializer.SerializeToNode(s, Json.Options));
        }

        return CanonicalJson.Text(facts);
    }

    /// <summary>Runs every test, notes what every gauge shows, and how ready each framework is and why it moved.</summary>
    public async Task MorningAsync(CancellationToken cancel)
    {
        foreach (var part in await session.Db.ControlParts.Where(p => p.Kind == PartKind.Test).ToListAsync(cancel))
        {
            Run(part, "the daily run");
        }

        await session.Db.SaveChangesAsync(cancel);
        await NoteGaugesAsync(cancel);
        await ReadinessNotes.TakeAsync(session, calendar, cancel);
    }

    private async Task NoteGaugesAsync(CancellationToken cancel)
    {
        foreach (
            var gauge in await session
                .Db.Gauges.Include(g => g.Exclusions)
                .Include(g => g.Days)
                .AsSplitQuery()
                .ToListAsync(cancel)
        )
        {
            var counted = GaugeEndpoints.Counted(gauge, answers.GetValueOrDefault(gauge.Measure) ?? [], calendar.Today);
            var day = gauge.Days.Find(d => d.Day == calendar.Today);
            if (day is null)
            {
                gauge.Days.Add(day = new() { Day = calendar.Today });
            }

            (day.Right, day.Of) = (counted.Count(s => s.Right), counted.Count);
        }
    }
}

/// <summary>Runs the tests of all controls, and notes what gauges and frameworks show.</summary>
internal sealed class ControlTestsJob(
    IDbContextFactory<WideKeelDb> databases,
    Writer writer,
    MeasureBook measures,
    OrganisationCalendar calendar,
    IServiceProvider services
) : IJob
{
    /// <summary>A lane of its own: a scan of a million files does not keep the tests waiting.</summary>
    public static readonly JobKind JobKind = new("control-tests", "readiness", Changes: "readiness");

    public JobKind Kind => JobKind;

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        var answers = await AnswersAsync(databases, measures, calendar, services, cancel);
        run.StopIfAsked();
        await writer.RunAsync(
            run.Actor,
            session => new TestRuns(session, measures, answers, calendar).MorningAsync(cancel),
            cancel
        );
        return $"{Wording.Plural(answers.Count, "measure")} asked; tests, gauges and frameworks have the figures of today.";
    }

    /// <summary>What all measures say that tests and gauges ask.</summary>
    public static async Task<IReadOnlyDictionary<string, IReadOnlyList<MeasuredSubject>>> AnswersAsync(
        IDbContextFactory<WideKeelDb> databases,
        MeasureBook measures,
        OrganisationCalendar calendar,
        IServiceProvider services,
        CancellationToken cancel
    )
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var names = await db
            .ControlParts.Where(p => p.Kind == PartKind.Test)
            .Select(p => p.Measure)
            .Union(db.Gauges.Select(g => g.Measure))
            .ToListAsync(cancel);
        return await measures.AskAllAsync(names, new(db, services, calendar, cancel));
    }
}

/// <summary>The morning of readiness.</summary>
internal sealed class ReadinessMorning : IDailyTask
{
    public bool IsLast => true;

    public async Task RunAsync(DailyQuestion asked)
    {
        if (await asked.Session.Db.Connections.AnyAsync(asked.Cancel))
        {
            await AddAsync(asked, ConnectionsJob.JobKind, "Reading the connections");
        }

        await AddAsync(asked, GivenFilesJob.JobKind, "Reading the files that were given");
        await AddAsync(asked, ControlTestsJob.JobKind, "Running the tests of controls");
    }

    private static async Task AddAsync(DailyQuestion asked, JobKind kind, string title) =>
        await JobBoard.AddAsync(asked.Session, kind, 0, title, null, DailyRun.Asker);
}
