using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Sensitive;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>
/// How sure suggestions of a series are. Counts are over all items that were learnt from, whosever they are.
/// </summary>
/// <param name="Items">Items of one's remit that are filed nowhere and for which it is suggested.</param>
/// <param name="Suggested">How often it was suggested rightly, by cross-validation.</param>
/// <param name="Found">How many of its own items were found, by cross-validation.</param>
public sealed record LearntSeries(SeriesRef Series, long Items, Precision Suggested, Precision Found);

/// <summary>Content of a sensitive kind that is filed nowhere and that no filing rule looks for.</summary>
/// <param name="Items">Items of one's remit, with at least one find that is likely.</param>
/// <param name="Starter">A series of the starter library that it speaks for; null where it speaks for none.</param>
/// <param name="Existing">The series of the schedule that this starter would come to: of the same title, or citing the
/// same authority.</param>
public sealed record RecognisedContent(
    string Kind,
    string Title,
    long Items,
    SeriesDefinition? Starter,
    SeriesRef? Existing
);

/// <param name="LearntAt">Null while nothing was learnt.</param>
/// <param name="Examples">Items filed by hand that it learnt from.</param>
/// <param name="Recognised">Null for those who may not know where sensitive data lies.</param>
public sealed record SuggestionsView(
    Instant? LearntAt,
    int Examples,
    IReadOnlyList<LearntSeries> Learnt,
    IReadOnlyList<RecognisedContent>? Recognised
);

/// <summary>
/// What might be filed where: learnt from filing by hand, and by the kinds of data that were recognised. Nothing here
/// files by itself.
/// </summary>
public static class SuggestionEndpoints
{
    public static void MapSuggestions(this IEndpointRouteBuilder api)
    {
        api.MapGet("/filing-suggestions", Show).Requires(Right.FileContent);
        api.MapPost("/filing-suggestions/learning", Learn).Requires(Right.WriteSchedule);
    }

    private static async Task<Reply<SuggestionsView>> Show(
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var lesson = await db.FilingLessons.AsNoTracking().SingleOrDefaultAsync(cancel);
        var series = (
            await db
                .Series.AsNoTracking()
                .Where(s => s.State != SeriesState.Retired)
                .OrderBy(s => s.Code)
                .ToListAsync(cancel)
        )
            .Where(s => caller.MaySee(Right.ReadSchedule, s.UnitId))
            .ToList();
        var visible = caller.Units(Right.FileContent);
        var suggested = await (
            from g in db.FilingSuggestions
            join i in db.Items on g.ItemId equals i.Id
            where
                i.SeriesId == null
                && i.DestroyedAt == null
                && (visible == null || visible.Contains(i.Container!.UnitId))
            group g by g.SeriesId into own
            select new { own.Key, Count = own.LongCount() }
        ).ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var measures = (lesson?.Measures ?? []).ToDictionary(m => m.Series);
        return new SuggestionsView(
            lesson?.At,
            lesson?.Examples ?? 0,
            [
                .. series
                    .Where(s => measures.ContainsKey(s.Id))
                    .Select(s => new LearntSeries(
                        RefOf(s),
                        suggested.GetValueOrDefault(s.Id),
                        measures[s.Id].Suggested,
                        measures[s.Id].Found
                    ))
                    .OrderByDescending(s => s.Items),
            ],
            caller.May(Right.ReadSensitive) ? await RecognisedAsync(series, caller, db, calendar, cancel) : null
        );
    }

    private static async Task<List<RecognisedContent>> RecognisedAsync(
        List<Series> series,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    )
    {
        var looked = (
            await db.FilingRules.AsNoTracking().Where(r => r.State != FilingRuleState.Stopped).ToListAsync(cancel)
        )
            .SelectMany(r => r.Definition.Kinds)
            .Select(k => k.Kind)
            .ToHashSet();
        var visible = caller.Items(Right.ReadContent, Right.ReadSensitive).Units;
        var counts = await (
            from f in db.ItemSensitives
            join i in db.Items on f.ItemId equals i.Id
            where
                i.SeriesId == null
                && i.DestroyedAt == null
                && f.Likely + f.Certain > 0
                && (visible == null || visible.Contains(i.Container!.UnitId))
            group f by f.Kind into kind
            select new { kind.Key, Count = kind.LongCount() }
        ).ToListAsync(cancel);
        var titles = SensitiveKinds.BuiltIn.ToDictionary(k => k.Name, k => k.Title);
        foreach (var own in await db.OwnKinds.AsNoTracking().ToListAsync(cancel))
        {
            titles[own.Name] = own.Title;
        }

        return
        [
            .. from c in counts
            let starter = StarterSeries.For(c.Key)?.Definition
            where
                !looked.Contains(c.Key)
                && titles.ContainsKey(c.Key)
                && (starter is not null || SensitiveKinds.BuiltIn.All(k => k.Name != c.Key))
            orderby c.Count descending, c.Key
            select new RecognisedContent(
                c.Key,
                titles[c.Key],
                c.Count,
                starter,
                starter is null ? null : Existing(series, starter)
            ),
        ];
    }

    private static SeriesRef? Existing(List<Series> series, SeriesDefinition starter) =>
        series.FirstOrDefault(s =>
            string.Equals(s.Title, starter.Title, StringComparison.OrdinalIgnoreCase)
            || starter.Authorities.Intersect((s.InForce ?? s.Draft)?.Authorities ?? []).Any()
        )
            is { } found
            ? RefOf(found)
            : null;

    private static SeriesRef RefOf(Series series) => new(series.Id, series.Code, series.Title);

    private static async Task<Reply<Done>> Learn(Caller caller, Writer writer, CancellationToken cancel)
    {
        await writer.RunAsync(
            caller.Actor,
            async session =>
                await JobBoard.AddAsync(
                    session,
                    LearnJob.JobKind,
                    0,
                    "Learning from what was filed by hand",
                    null,
                    caller.Name
                ),
            cancel
        );
        return new Done();
    }
}
