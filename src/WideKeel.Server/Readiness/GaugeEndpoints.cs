using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Readiness;

namespace WideKeel.Server.Readiness;

public sealed record MeasureView(string Name, string Title, string Says, string Area);

/// <param name="Target">Percent.</param>
/// <param name="Warning">Below it, percent, it needs a look.</param>
/// <param name="Alarm">Below it, percent, it needs an act.</param>
public sealed record GaugeSettings(string Name, string Measure, double Target, double Warning, double Alarm);

public sealed record GaugePoint(LocalDate Day, int Right, int Of);

public sealed record UnitShare(string Unit, int Right, int Of);

/// <param name="Percent">Null where there is nothing to look at.</param>
/// <param name="State">reached, below, warning, alarm or empty.</param>
public sealed record GaugeView(
    long Id,
    GaugeSettings Settings,
    string Says,
    int Right,
    int Of,
    int Excluded,
    double? Percent,
    string State,
    IReadOnlyList<GaugePoint> Trend,
    long Revision
) : IRevised;

public sealed record ExclusionView(
    long Id,
    string Subject,
    string Name,
    string Reason,
    LocalDate? EndsOn,
    string By,
    bool Over
);

public sealed record GaugeDetail(
    GaugeView Gauge,
    IReadOnlyList<MeasuredSubject> Subjects,
    IReadOnlyList<ExclusionView> Exclusions,
    IReadOnlyList<UnitShare> Units
);

/// <param name="EndsOn">The last day; null for no end.</param>
public sealed record ExclusionRequest(string Subject, string Reason, DateOnly? EndsOn = null);

/// <summary>Gauges: measured shares with targets, whose figures open into the rows behind them.</summary>
public static class GaugeEndpoints
{
    private const int TrendDays = 90;
    private const int MostSubjects = 1_000;

    public static void MapGauges(this IEndpointRouteBuilder api)
    {
        api.MapGet("/measures", Measures).Requires(Right.ReadReadiness);
        api.MapGet("/gauges", List).Requires(Right.ReadReadiness);
        api.MapPost("/gauges", Make).Requires(Right.ManageReadiness);
        api.MapGet("/gauges/{id:long}", One).Requires(Right.ReadReadiness);
        api.MapPut("/gauges/{id:long}", Change).Requires(Right.ManageReadiness);
        api.MapDelete("/gauges/{id:long}", Remove).Requires(Right.ManageReadiness);
        api.MapPost("/gauges/{id:long}/exclusions", Exclude).Requires(Right.ManageReadiness);
        api.MapDelete("/gauges/{id:long}/exclusions/{exclusion:long}", Include).Requires(Right.ManageReadiness);
    }

    private static Reply<IReadOnlyList<MeasureView>> Measures(MeasureBook measures) =>
        (Outcome<IReadOnlyList<MeasureView>>)
            measures
                .All.OrderBy(m => m.Title, StringComparer.Ordinal)
                .Select(m => new MeasureView(m.Name, m.Title, m.Says, m.Area))
                .ToList();

    /// <summary>The subjects that count: those that no exclusion in force names.</summary>
    internal static List<MeasuredSubject> Counted(
        GaugeRow gauge,
        IReadOnlyList<MeasuredSubject> subjects,
        LocalDate today
    )
    {
        var passed = gauge
            .Exclusions.Where(e => e.EndsOn is null || e.EndsOn >= today)
            .Select(e => e.Subject)
            .ToHashSet(StringComparer.Ordinal);
        return [.. subjects.Where(s => !passed.Contains(s.Id))];
    }

    private static GaugeView View(
        GaugeRow gauge,
        string says,
        IReadOnlyList<MeasuredSubject> subjects,
        List<MeasuredSubject> counted,
        LocalDate today
    )
    {
        var right = counted.Count(s => s.Right);
        var percent = counted.Count == 0 ? (double?)null : 100.0 * right / counted.Count;
        return new(
            gauge.Id,
            new(gauge.Name, gauge.Measure, gauge.Target, gauge.Warning, gauge.Alarm),
            says,
            right,
            counted.Count,
            subjects.Count - counted.Count,
            percent is null ? null : Math.Round(percent.Value, 1),
            percent is null ? "empty"
                : percent < gauge.Alarm ? "alarm"
                : percent < gauge.Warning ? "warning"
                : percent < gauge.Target ? "below"
                : "reached",
            [
                .. gauge
                    .Days.Where(d => d.Day > today.PlusDays(-TrendDays))
                    .OrderBy(d => d.Day)
                    .Select(d => new GaugePoint(d.Day, d.Right, d.Of)),
            ],
            gauge.Version
        );
    }

    private static async Task<Reply<IReadOnlyList<GaugeView>>> List(
        MeasureBook measures,
        IServiceProvider services,
        [AsParameters] ApiContext context
    )
    {
        List<GaugeView> views = [];
        foreach (var gauge in await Whole(context.Db).AsNoTracking().OrderBy(g => g.Name).ToListAsync(context.Cancel))
        {
            var (measure, subjects) = await AskAsync(gauge, measures, services, context);
            views.Add(
                View(
                    gauge,
                    measure?.Says ?? "",
                    subjects,
                    Counted(gauge, subjects, context.Calendar.Today),
                    context.Calendar.Today
                )
            );
        }

        return (Outcome<IReadOnlyList<GaugeView>>)views;
    }

    private static IQueryable<GaugeRow> Whole(WideKeelDb db) =>
        db.Gauges.Include(g => g.Exclusions).Include(g => g.Days).AsSplitQuery();

    private static async Task<(Measure?, IReadOnlyList<MeasuredSubject>)> AskAsync(
        GaugeRow gauge,
        MeasureBook measures,
        IServiceProvider services,
        ApiContext context
    )
    {
        var measure = measures.Find(gauge.Measure);
        return measure is null
            ? (null, [])
            : (
                measure,
                await measures.ShowAsync(measure.Name, new(context.Db, services, context.Calendar, context.Cancel))
            );
    }

    private static async Task<Reply<GaugeDetail>> One(
        long id,
        MeasureBook measures,
        IServiceProvider services,
        [AsParameters] ApiContext context
    )
    {
        if (
            await Whole(context.Db).AsNoTracking().SingleOrDefaultAsync(g => g.Id == id, context.Cancel)
            is not { } gauge
        )
        {
            return Problems.NotFound("gauge");
        }

        var today = context.Calendar.Today;
        var (measure, subjects) = await AskAsync(gauge, measures, services, context);
        var counted = Counted(gauge, subjects, today);
        var names = subjects.DistinctBy(s => s.Id).ToDictionary(s => s.Id, s => s.Name);
        return new GaugeDetail(
            View(gauge, measure?.Says ?? "", subjects, counted, today),
            [.. counted.OrderBy(s => s.Right).ThenBy(s => s.Name, StringComparer.Ordinal).Take(MostSubjects)],
            [
                .. gauge.Exclusions.Select(e => new ExclusionView(
                    e.Id,
                    e.Subject,
                    names.GetValueOrDefault(e.Subject, e.Subject),
                    e.Reason,
                    e.EndsOn,
                    e.By,
                    e.EndsOn < today
                )),
            ],
            [
                .. counted
                    .Where(s => s.Unit.Length > 0)
                    .GroupBy(s => s.Unit)
                    .OrderBy(g => g.Key, StringComparer.Ordinal)
                    .Select(g => new UnitShare(g.Key, g.Count(s => s.Right), g.Count())),
            ]
        );
    }

    private static async Task<Refusal?> CheckAsync(
        GaugeSettings request,
        long? id,
        WideKeelDb db,
        MeasureBook measures,
        CancellationToken cancel
    )
    {
        var name = request.Name.Trim();
        if (name.Length is 0 or > 200)
        {
            return new("name-missing", "name", "A gauge needs a name of at most 200 characters.");
        }

        if (measures.Find(request.Measure) is null)
        {
            return new("measure-unknown", "measure", $"There is no measure “{request.Measure}”.");
        }

        if (
            request.Target is < 0 or > 100
            || request.Alarm is < 0 or > 100
            || request.Alarm > request.Warning
            || request.Warning > request.Target
        )
        {
            return new(
                "threshold-malformed",
                "target",
                "Thresholds are percent: alarm at most warning, warning at most target."
            );
        }

        return await db.Gauges.AnyAsync(g => g.Name == name && g.Id != id, cancel)
            ? Refusal.Conflict("name-taken", "name", $"There is a gauge “{name}” already.")
            : null;
    }

    private static async Task<Reply<Done>> Make(
        GaugeSettings request,
        MeasureBook measures,
        [AsParameters] ApiContext context
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (await CheckAsync(request, null, session.Db, measures, context.Cancel) is { } refusal)
                {
                    return refusal;
                }

                var gauge = new GaugeRow { Name = request.Name.Trim(), Measure = request.Measure };
                (gauge.Target, gauge.Warning, gauge.Alarm) = (request.Target, request.Warning, request.Alarm);
                session.Db.Gauges.Add(gauge);
                await session.Db.SaveChangesAsync(context.Cancel);
                session.Record("made", Subject(gauge.Id), after: Described(request));
                return new Done();
            },
            context.Cancel
        );

    private static Task<Reply<Done>> Change(
        long id,
        GaugeSettings request,
        MeasureBook measures,
        [AsParameters] ApiContext context
    ) =>
        WorkAsync(
            id,
            context,
            async (session, gauge) =>
            {
                var wanted = request with { Measure = gauge.Measure };
                if (
                    (
                        Problems.CheckMatch(context.Http, gauge.Version)
                        ?? await CheckAsync(wanted, id, session.Db, measures, context.Cancel)
                    ) is
                    { } refusal
                )
                {
                    return refusal;
                }

                session.Record(
                    "changed",
                    Subject(id),
                    Described(new(gauge.Name, gauge.Measure, gauge.Target, gauge.Warning, gauge.Alarm)),
                    Described(wanted)
                );
                (gauge.Name, gauge.Target, gauge.Warning, gauge.Alarm) = (
                    wanted.Name.Trim(),
                    wanted.Target,
                    wanted.Warning,
                    wanted.Alarm
                );
                return null;
            }
        );

    private static Task<Reply<Done>> Remove(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, gauge) =>
            {
                session.Db.Gauges.Remove(gauge);
                session.Record("removed", Subject(id), new JsonObject { ["name"] = gauge.Name });
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Exclude(long id, ExclusionRequest request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, gauge) =>
            {
                if (string.IsNullOrWhiteSpace(request.Reason) || string.IsNullOrWhiteSpace(request.Subject))
                {
                    return Task.FromResult<Refusal?>(
                        new(
                            "reason-missing",
                            "reason",
                            "Say why this is passed over; it stands in the gauge’s history."
                        )
                    );
                }

                if (gauge.Exclusions.Exists(e => e.Subject == request.Subject))
                {
                    return Task.FromResult<Refusal?>(
                        Refusal.Conflict("excluded", "subject", "This is passed over already.")
                    );
                }

                gauge.Exclusions.Add(
                    new()
                    {
                        Subject = request.Subject,
                        Reason = request.Reason.Trim(),
                        EndsOn = request.EndsOn is { } end ? LocalDate.FromDateOnly(end) : null,
                        By = context.Caller.Name,
                    }
                );
                session.Record(
                    "excluded",
                    Subject(id),
                    after: new JsonObject { ["subject"] = request.Subject },
                    reason: request.Reason
                );
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Include(long id, long exclusion, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, gauge) =>
            {
                if (gauge.Exclusions.Find(e => e.Id == exclusion) is not { } found)
                {
                    return Task.FromResult<Refusal?>(Problems.NotFound("exclusion"));
                }

                gauge.Exclusions.Remove(found);
                session.Record("included", Subject(id), new JsonObject { ["subject"] = found.Subject });
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, GaugeRow, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                if (
                    await session
                        .Db.Gauges.Include(g => g.Exclusions)
                        .SingleOrDefaultAsync(g => g.Id == id, context.Cancel)
                    is not { } gauge
                )
                {
                    return Problems.NotFound("gauge");
                }

                if (await work(session, gauge) is { } refusal)
                {
                    return refusal;
                }

                gauge.Version++;
                return new Done();
            },
            context.Cancel
        );

    private static JsonObject Described(GaugeSettings s) =>
        new()
        {
            ["name"] = s.Name,
            ["measure"] = s.Measure,
            ["target"] = s.Target,
            ["warning"] = s.Warning,
            ["alarm"] = s.Alarm,
        };

    private static LedgerSubject Subject(long id) => LedgerSubject.Of("gauge", id);
}
