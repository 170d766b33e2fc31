using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Puts the draft of a series into effect, as it stands at a revision.</summary>
/// <param name="Confirmed">That what comes under WORM stays under it was said once more.</param>
internal sealed record PutSeriesIntoEffect(long SeriesId, long Revision, bool Confirmed, string Why);

internal sealed class PutSeriesIntoEffectHandler : ItemActHandler<PutSeriesIntoEffect, Done>
{
    public static PutSeriesIntoEffectHandler Instance { get; } = new();

    public override string Name => "put-series-into-effect";

    public override bool MayAgree(Caller caller, string unit) => caller.Covers(Right.WriteSchedule, new UnitPath(unit));

    public override async Task<ActSubject> SubjectAsync(ActContext context, PutSeriesIntoEffect act)
    {
        var series = await context.Db.Series.AsNoTracking().SingleAsync(s => s.Id == act.SeriesId, context.Cancel);
        return new(
            $"Put the draft of {series.Code}, {series.Draft!.Title}, into effect",
            context.Caller.PathOf(series.UnitId).Value
        );
    }

    public override async Task<Refusal?> CheckAsync(ActContext context, PutSeriesIntoEffect act)
    {
        var found = await SeriesEndpoints.WritableAsync(context, act.SeriesId, act.Revision);
        if (found.Refusal is { } refusal)
        {
            return refusal;
        }

        var series = found.Value;
        if (series.Draft is not { } draft)
        {
            return Refusal.Conflict("no-draft", null, "There is no draft to put into effect.");
        }

        return await SeriesGuard.CheckAsync(context.Session, series, draft, context.Caller)
            ?? (SeriesGuard.BecomesWorm(series, draft) && !act.Confirmed ? SeriesGuard.Unconfirmed(series.Code) : null);
    }

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(
        ActGround ground,
        PutSeriesIntoEffect act
    ) => await Resting.OnSeriesAsync(ground, act.SeriesId);

    public override async Task<RuleChange> ChangeAsync(ActGround ground, PutSeriesIntoEffect act)
    {
        var series = await ground.Db.Series.AsNoTracking().SingleAsync(s => s.Id == act.SeriesId, ground.Cancel);
        return await RuleChange.OfSeriesAsync(
            ground.Db,
            ground.Calendar,
            series.Id,
            series.Draft!.Check(series.Code).Value
        );
    }

    public override async Task<string?> SecondPersonAsync(ActContext context, PutSeriesIntoEffect act)
    {
        var series = await context.Db.Series.AsNoTracking().SingleAsync(s => s.Id == act.SeriesId, context.Cancel);
        return SeriesGuard.SecondPerson(series, series.Draft!);
    }

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, PutSeriesIntoEffect act)
    {
        var series = await ground.Db.Series.AsNoTracking().SingleAsync(s => s.Id == act.SeriesId, ground.Cancel);
        return RuleParts.Of(series.InForce, series.Draft!);
    }

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, PutSeriesIntoEffect act, IFigures? figures)
    {
        var series = await context.Db.Series.SingleAsync(s => s.Id == act.SeriesId, context.Cancel);
        SeriesEndpoints.Adopt(
            context.Session,
            series,
            series.Draft!,
            context.Caller,
            context.Why(act.Why),
            ((ConsequencesView)figures!).Figures.BecomeDue.Items,
            context.Asker?.PersonId
        );
        await context.Db.SaveChangesAsync(context.Cancel);
        ItemScan.WriteStandings(
            context.Session,
            await Ruling.LoadAsync(context.Db, context.Calendar.Evaluator, [series.Id]),
            "i.SeriesId = $seriesId",
            c => c.Parameters.AddWithValue("$seriesId", series.Id)
        );
        await JobBoard.AddAsync(
            context.Session,
            CaptureJob.JobKind,
            series.Id,
            $"Copies for {series.Code}",
            context.Caller.PathOf(series.UnitId).Value,
            context.Caller.Name
        );
        return new Done();
    }
}
