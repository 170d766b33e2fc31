using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Puts several drafts into effect together.</summary>
/// <param name="Series">Ids.</param>
/// <param name="Blankets">Ids.</param>
internal sealed record AdoptDrafts(IReadOnlyList<long> Series, IReadOnlyList<long> Blankets, string Why);

internal sealed class AdoptDraftsHandler : ItemActHandler<AdoptDrafts, Done>
{
    public static AdoptDraftsHandler Instance { get; } = new();

    public override string Name => "adopt-drafts";

    public override bool MayAgree(Caller caller, string unit) => caller.Covers(Right.WriteSchedule, new UnitPath(unit));

    public override Task<ActSubject> SubjectAsync(ActContext context, AdoptDrafts act) =>
        Task.FromResult(
            new ActSubject(
                $"Put {Wording.Plural(act.Series.Count + act.Blankets.Count, "draft")} into effect",
                context.Caller.Root.Value
            )
        );

    public override async Task<Refusal?> CheckAsync(ActContext context, AdoptDrafts act)
    {
        var (series, blankets) = await LoadAsync(context, act);
        if (
            series.Count < act.Series.Count
            || blankets.Count < act.Blankets.Count
            || series.Any(s => !context.Caller.May(Right.WriteSchedule, s.UnitId))
            || blankets.Any(b => !context.Caller.May(Right.WriteSchedule, b.UnitId))
        )
        {
            return Refusal.Conflict(
                "draft-gone",
                "drafts",
                "A selected draft is not there any more. Look at the list again."
            );
        }

        return await ScheduleEndpoints.GuardAsync(context, series, blankets);
    }

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, AdoptDrafts act)
    {
        Dictionary<string, string> on = [];
        foreach (var id in act.Series)
        {
            Add(await Resting.OnSeriesAsync(ground, id));
        }

        foreach (var id in act.Blankets)
        {
            Add(await Resting.OnBlanketAsync(ground, id));
        }

        return on;

        void Add(IReadOnlyDictionary<string, string> one)
        {
            foreach (var (name, revision) in one)
            {
                on[name] = revision;
            }
        }
    }

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, AdoptDrafts act)
    {
        var (series, blankets) = await LoadAsync(ground, act);
        return
        [
            .. series.Select(s => new ActPart(
                $"{s.Code}, {s.Draft!.Title}",
                s.InForce is null ? null : RuleWords.Short(s.InForce),
                RuleWords.Short(s.Draft)
            )),
            .. blankets.Select(b => new ActPart(
                $"Blanket “{b.Name}”",
                b.InForce is null ? null : RuleWords.Short(b.InForce),
                RuleWords.Short(b.Draft!)
            )),
        ];
    }

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, AdoptDrafts act, IFigures? figures)
    {
        var change = await ChangeAsync(context, act);
        var (session, asker) = (context.Session, context.Asker?.PersonId);
        foreach (var one in await session.Db.Series.Where(s => act.Series.Contains(s.Id)).ToListAsync(context.Cancel))
        {
            SeriesEndpoints.Adopt(session, one, one.Draft!, context.Caller, context.Why(act.Why), null, asker);
        }

        foreach (
            var one in await session.Db.Blankets.Where(b => act.Blankets.Contains(b.Id)).ToListAsync(context.Cancel)
        )
        {
            BlanketEndpoints.Adopt(session, one, one.Draft!, context.Caller, context.Why(act.Why), asker);
        }

        await session.Db.SaveChangesAsync(context.Cancel);
        ItemScan.WriteStandings(session, change.After, change.Where, change.Bind);
        await JobBoard.AddAsync(session, CaptureJob.JobKind, 0, "Copies into safekeeping", null, context.Caller.Name);
        return new Done();
    }

    public override async Task<RuleChange> ChangeAsync(ActGround ground, AdoptDrafts act)
    {
        var (series, blankets) = await LoadAsync(ground, act);
        return await ScheduleEndpoints.OfDraftsAsync(series, blankets, ground.Db, ground.Calendar);
    }

    private static async Task<(List<Series> Series, List<Blanket> Blankets)> LoadAsync(
        ActGround ground,
        AdoptDrafts act
    ) =>
        (
            await ground
                .Db.Series.AsNoTracking()
                .Include(s => s.Unit)
                .Where(s => act.Series.Contains(s.Id) && s.Draft != null && s.State != SeriesState.Retired)
                .OrderBy(s => s.Code)
                .ToListAsync(ground.Cancel),
            await ground
                .Db.Blankets.AsNoTracking()
                .Include(b => b.Unit)
                .Where(b => act.Blankets.Contains(b.Id) && b.Draft != null && b.State != BlanketState.Retired)
                .OrderBy(b => b.Name)
                .ToListAsync(ground.Cancel)
        );
}
