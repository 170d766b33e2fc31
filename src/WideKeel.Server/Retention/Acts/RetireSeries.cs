using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Retires a series; what is filed under it stays, or is filed under a successor.</summary>
internal sealed record RetireSeries(long SeriesId, long Revision, long? SuccessorId, string Why);

internal sealed class RetireSeriesHandler : ItemActHandler<RetireSeries, Done>
{
    public static RetireSeriesHandler Instance { get; } = new();

    public override string Name => "retire-series";

    public override bool MayAgree(Caller caller, string unit) => caller.Covers(Right.WriteSchedule, new UnitPath(unit));

    public override async Task<ActSubject> SubjectAsync(ActContext context, RetireSeries act)
    {
        var series = await context.Db.Series.AsNoTracking().SingleAsync(s => s.Id == act.SeriesId, context.Cancel);
        return new($"Retire {series.Code}, {series.Title}", context.Caller.PathOf(series.UnitId).Value);
    }

    public override async Task<Refusal?> CheckAsync(ActContext context, RetireSeries act)
    {
        var found = await SeriesEndpoints.WritableAsync(context, act.SeriesId, act.Revision);
        return found.Refusal
            ?? (
                found.Value.State == SeriesState.Retired
                    ? Refusal.Conflict("series-retired", null, $"{found.Value.Code} is retired already.")
                    : (await PlanAsync(context, act, context.Caller)).Refusal
            );
    }

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, RetireSeries act)
    {
        Dictionary<string, string> on = new(await Resting.OnSeriesAsync(ground, act.SeriesId));
        if (act.SuccessorId is { } successor)
        {
            foreach (var (name, revision) in await Resting.OnSeriesAsync(ground, successor))
            {
                on[name] = revision;
            }
        }

        return on;
    }

    public override async Task<RuleChange> ChangeAsync(ActGround ground, RetireSeries act)
    {
        var change = await FilingEndpoints.ChangeOfAsync(new() { Series = [act.SeriesId] }, act.SuccessorId, ground);
        return act.SuccessorId is null ? change with { SeriesAfter = null } : change;
    }

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, RetireSeries act)
    {
        var codes = await ground.Db.Series.AsNoTracking().ToDictionaryAsync(s => s.Id, s => s.Code, ground.Cancel);
        return
        [
            new(codes[act.SeriesId], "active", "retired"),
            new("What is filed under it", codes[act.SeriesId], codes[act.SuccessorId ?? act.SeriesId]),
        ];
    }

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, RetireSeries act, IFigures? figures)
    {
        var series = await context.Db.Series.SingleAsync(s => s.Id == act.SeriesId, context.Cancel);
        if (act.SuccessorId is not null)
        {
            var planned = await PlanAsync(context, act, context.Caller);
            if (planned.Refusal is { } refusal)
            {
                return refusal;
            }

            await planned.Value.FileAsync(context);
        }

        (series.State, series.Draft, series.DraftBy, series.DraftAt) = (SeriesState.Retired, null, null, null);
        series.Revision++;
        context.Session.Record(
            "retired",
            SeriesEndpoints.Subject(series, context.Caller),
            SeriesEndpoints.AsJson(series.InForce),
            act.SuccessorId is { } successor ? new JsonObject { ["successor"] = successor } : null,
            context.Why(act.Why)
        );
        return new Done();
    }

    private static async Task<Outcome<FilingEndpoints.Plan>> PlanAsync(
        ActContext context,
        RetireSeries act,
        Caller caller
    ) =>
        await FilingEndpoints.PlanRetirementAsync(
            await context.Db.Series.AsNoTracking().SingleAsync(s => s.Id == act.SeriesId, context.Cancel),
            act.SuccessorId,
            caller,
            context.Db,
            context.Calendar
        );
}
