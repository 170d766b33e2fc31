using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Sensitive;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>
/// Learns from what people filed by hand, measures what it learnt, and suggests a series for each item that is filed
/// nowhere. Run again, it comes to the same.
/// </summary>
public sealed class LearnJob(IDbContextFactory<WideKeelDb> databases, Writer writer) : IJob
{
    public static readonly JobKind JobKind = new("learn", Changes: "filing");

    /// <summary>So many items teach at most; of each series the newest.</summary>
    private const int MostExamples = 20_000;
    private const int MostOfOneSeries = 300;
    private const int MostCharacters = 10_000;

    private static readonly int Portion = Portions.Or(500);

    public JobKind Kind => JobKind;

    private static List<FilingSuggestion> SuggestionsFor(
        List<Read> portion,
        FilingLearner? learner,
        SensitiveScan scan,
        Dictionary<long, UnitPath> units,
        Dictionary<long, UnitPath> reach
    ) =>
        [
            .. from item in portion
            let unit = units[item.UnitId]
            let found = learner?.Suggest(TextOf(item, scan), s => reach.TryGetValue(s, out var own) && own.Covers(unit))
            where found is not null
            select new FilingSuggestion
            {
                ItemId = item.Id,
                SeriesId = found.Series,
                Confidence = found.Confidence,
                Words = string.Join(' ', found.Words),
            },
        ];

    /// <summary>Puts suggestions in the place of all that there were for items of these ids.</summary>
    private Task WriteAsync(JobRun run, List<FilingSuggestion> rows, long after, long to, CancellationToken cancel) =>
        writer.RunAsync(
            run.Actor,
            async session =>
            {
                await session
                    .Db.FilingSuggestions.Where(s => s.ItemId > after && s.ItemId <= to)
                    .ExecuteDeleteAsync(cancel);
                session.Db.FilingSuggestions.AddRange(rows);
            },
            cancel
        );

    private static async Task NoteAsync(
        WriteSession session,
        int examples,
        IReadOnlyList<SeriesMeasure> measures,
        long suggested,
        CancellationToken cancel
    )
    {
        var lesson = await session.Db.FilingLessons.SingleOrDefaultAsync(cancel);
        if (lesson is null)
        {
            session.Db.FilingLessons.Add(lesson = new() { Measures = [] });
        }

        (lesson.At, lesson.Examples, lesson.Measures) = (session.Now, examples, measures);
        session.Record(
            "learnt",
            new("filing", "suggestions"),
            after: new JsonObject
            {
                ["examples"] = examples,
                ["series"] = measures.Count,
                ["suggested"] = suggested,
            }
        );
    }

    /// <summary>By id: the path of the unit of each series that may be suggested.</summary>
    /// <remarks>
    /// Only series that cover an item's unit may be suggested for it, and none that something cannot be taken off again.
    /// </remarks>
    private static async Task<Dictionary<long, UnitPath>> ReachAsync(
        WideKeelDb db,
        Dictionary<long, UnitPath> units,
        CancellationToken cancel
    ) =>
        (await db.Series.AsNoTracking().Where(s => s.State != SeriesState.Retired).ToListAsync(cancel))
            .Where(s => s.InForce?.Grade != Core.Content.Grade.Worm)
            .ToDictionary(s => s.Id, s => units[s.UnitId]);

    public async Task<string> RunAsync(JobRun run, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var scan = await KindSet.ScanAsync(db);
        await run.ReportAsync(0, 0, "Reading what was filed by hand", cancel);
        var examples = FilingLearner.Usable(await ExamplesAsync(db, scan, cancel));
        await run.ReportAsync(
            0,
            0,
            $"Learning from {examples.Count.ToString("N0", CultureInfo.InvariantCulture)} items",
            cancel
        );
        using var learner = FilingLearner.Learn(examples);
        var measures = FilingLearner.Measure(examples);

        var units = await db.Units.AsNoTracking().ToDictionaryAsync(u => u.Id, u => new UnitPath(u.Path), cancel);
        var reach = await ReachAsync(db, units, cancel);
        long last = 0,
            done = 0,
            suggested = 0;
        var total = await db.Items.LongCountAsync(i => i.SeriesId == null && i.DestroyedAt == null, cancel);
        while (await UnfiledAsync(db, last, cancel) is { Count: > 0 } portion)
        {
            var (from, to) = (last, portion[^1].Id);
            var rows = SuggestionsFor(portion, learner, scan, units, reach);
            await WriteAsync(run, rows, from, to, cancel);
            last = to;
            done += portion.Count;
            suggested += rows.Count;
            await run.ReportAsync(done, total, null, cancel);
        }

        await writer.RunAsync(
            run.Actor,
            async session =>
            {
                await session.Db.FilingSuggestions.Where(s => s.ItemId > last).ExecuteDeleteAsync(cancel);
                await NoteAsync(session, examples.Count, measures, suggested, cancel);
            },
            cancel
        );
        return learner is null
            ? string.Create(
                CultureInfo.InvariantCulture,
                $"Nothing to learn from yet: at least two series with {FilingLearner.LeastExamples} items each that were filed by hand."
            )
            : string.Create(
                CultureInfo.InvariantCulture,
                $"Learnt {measures.Count:N0} series from {examples.Count:N0} items; a series is suggested for "
                    + $"{suggested:N0} of {total:N0} items that are filed nowhere."
            );
    }

    private static async Task<List<FiledExample>> ExamplesAsync(
        WideKeelDb db,
        SensitiveScan scan,
        CancellationToken cancel
    )
    {
        var byHand = db
            .Items.AsNoTracking()
            .Where(i => i.FiledHow == FiledHow.Hand && i.SeriesId != null && i.DestroyedAt == null);
        var series = await byHand.Select(i => i.SeriesId!.Value).Distinct().Order().ToListAsync(cancel);
        var most = Math.Clamp(MostExamples / Math.Max(1, series.Count), FilingLearner.LeastExamples, MostOfOneSeries);
        List<FiledExample> examples = [];
        foreach (var id in series.Take(MostExamples / most))
        {
            var newest = await Texts(db, byHand.Where(i => i.SeriesId == id).OrderByDescending(i => i.Id).Take(most))
                .ToListAsync(cancel);
            examples.AddRange(newest.OrderBy(i => i.Id).Select(i => new FiledExample(TextOf(i, scan), id)));
        }

        return examples;
    }

    private static async Task<List<Read>> UnfiledAsync(WideKeelDb db, long last, CancellationToken cancel) =>
        await Texts(
                db,
                db.Items.AsNoTracking()
                    .Where(i => i.SeriesId == null && i.DestroyedAt == null && i.Id > last)
                    .OrderBy(i => i.Id)
                    .Take(Portion)
            )
            .OrderBy(i => i.Id)
            .ToListAsync(cancel);

    private static IQueryable<Read> Texts(WideKeelDb db, IQueryable<Store.Content.Item> items) =>
        from i in items
        join t in db.ItemTexts on i.Id equals t.ItemId into texts
        from t in texts.DefaultIfEmpty()
        select new Read
        {
            Id = i.Id,
            UnitId = i.Container!.UnitId,
            Title = i.Title,
            Text = t == null ? "" : t.Text.Substring(0, MostCharacters),
            Holds = db.ItemSensitives.Any(s => s.ItemId == i.Id),
        };

    /// <summary>
    /// What hides in the text does not speak for a series either: its words would be shown to whoever sees the
    /// suggestion.
    /// </summary>
    private static string TextOf(Read item, SensitiveScan scan) =>
        $"{item.Title}\n{(item.Holds ? FoundText.Mask(item.Text, scan.FindIn(item.Text)) : item.Text)}";

    private sealed class Read
    {
        public long Id { get; init; }

        public long UnitId { get; init; }

        public required string Title { get; init; }

        public required string Text { get; init; }

        /// <summary>Whether sensitive data was found in it.</summary>
        public bool Holds { get; init; }
    }
}
