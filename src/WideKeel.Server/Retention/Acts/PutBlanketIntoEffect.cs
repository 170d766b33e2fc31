using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Server.Content;
using WideKeel.Server.Jobs;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Puts the draft of a blanket into effect, or retires what is in effect.</summary>
internal sealed record PutBlanketIntoEffect(long BlanketId, long Revision, bool Retires, string Why);

internal sealed class PutBlanketIntoEffectHandler : ItemActHandler<PutBlanketIntoEffect, Done>
{
    public static PutBlanketIntoEffectHandler Instance { get; } = new();

    public override string Name => "put-blanket-into-effect";

    public override bool MayAgree(Caller caller, string unit) => caller.Covers(Right.WriteSchedule, new UnitPath(unit));

    public override async Task<ActSubject> SubjectAsync(ActContext context, PutBlanketIntoEffect act)
    {
        var blanket = await LoadAsync(context, act);
        return new(
            act.Retires
                ? $"Retire the blanket “{blanket.Name}”"
                : $"Put the draft of the blanket “{blanket.Name}” into effect",
            context.Caller.PathOf(blanket.UnitId).Value
        );
    }

    public override async Task<Refusal?> CheckAsync(ActContext context, PutBlanketIntoEffect act)
    {
        var blanket = await context.Db.Blankets.SingleOrDefaultAsync(b => b.Id == act.BlanketId, context.Cancel);
        return blanket is null || context.Caller.Check(Right.WriteSchedule, blanket.UnitId, "blanket") is not null
                ? Problems.NotFound("blanket")
            : blanket.Revision != act.Revision ? Problems.Stale
            : blanket.State == BlanketState.Retired
                ? Refusal.Conflict(
                    "blanket-retired",
                    null,
                    $"“{blanket.Name}” is retired; nothing changes it any more."
                )
            : !act.Retires && blanket.Draft is null
                ? Refusal.Conflict("no-draft", null, "There is no draft to put into effect.")
            : null;
    }

    public override Task<IReadOnlyDictionary<string, string>> RestsOnAsync(
        ActGround ground,
        PutBlanketIntoEffect act
    ) => Resting.OnBlanketAsync(ground, act.BlanketId);

    public override async Task<string?> SecondPersonAsync(ActContext context, PutBlanketIntoEffect act)
    {
        var blanket = await LoadAsync(context, act);
        return act.Retires ? null : SeriesGuard.SecondPerson(blanket, blanket.Draft!);
    }

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, PutBlanketIntoEffect act)
    {
        var blanket = await LoadAsync(ground, act);
        return RuleParts.Of(blanket.InForce, act.Retires ? null : blanket.Draft);
    }

    public override async Task<Outcome<Done>> WriteAsync(
        ActContext context,
        PutBlanketIntoEffect act,
        IFigures? figures
    )
    {
        var change = await ChangeAsync(context, act);
        var blanket = await context
            .Db.Blankets.Include(b => b.Unit)
            .SingleAsync(b => b.Id == act.BlanketId, context.Cancel);
        if (act.Retires)
        {
            (blanket.State, blanket.Revision) = (BlanketState.Retired, blanket.Revision + 1);
            context.Session.Record(
                "retired",
                BlanketEndpoints.Subject(blanket, context.Caller),
                BlanketEndpoints.AsJson(blanket.InForce),
                reason: context.Why(act.Why)
            );
        }
        else
        {
            BlanketEndpoints.Adopt(
                context.Session,
                blanket,
                blanket.Draft!,
                context.Caller,
                context.Why(act.Why),
                context.Asker?.PersonId
            );
        }

        await context.Db.SaveChangesAsync(context.Cancel);
        ItemScan.WriteStandings(context.Session, change.After, change.Where, change.Bind);
        await JobBoard.AddAsync(
            context.Session,
            CaptureJob.JobKind,
            0,
            "Copies into safekeeping",
            context.Caller.PathOf(blanket.UnitId).Value,
            context.Caller.Name
        );
        return new Done();
    }

    private static Task<Blanket> LoadAsync(ActGround ground, PutBlanketIntoEffect act) =>
        ground.Db.Blankets.AsNoTracking().Include(b => b.Unit).SingleAsync(b => b.Id == act.BlanketId, ground.Cancel);

    public override async Task<RuleChange> ChangeAsync(ActGround ground, PutBlanketIntoEffect act)
    {
        var blanket = await LoadAsync(ground, act);
        return (
            await BlanketEndpoints.OfAsync(blanket, act.Retires ? null : blanket.Draft, ground.Db, ground.Calendar)
        ).Change;
    }
}
