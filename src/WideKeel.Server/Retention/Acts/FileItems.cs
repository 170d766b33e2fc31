using System.Globalization;
using WideKeel.Core;
using WideKeel.Core.Content;
using WideKeel.Core.People;
using WideKeel.Server.Content;
using WideKeel.Server.People;

namespace WideKeel.Server.Retention;

/// <summary>Files items under a series, or takes them off the one that they are under.</summary>
/// <param name="SeriesId">Null takes them off.</param>
/// <param name="Confirmed">That what comes under WORM stays under it was said once more.</param>
internal sealed record FileItems(ItemQuery Selection, long? SeriesId, bool Confirmed);

internal sealed class FileItemsHandler : ItemActHandler<FileItems, Done>
{
    public static FileItemsHandler Instance { get; } = new();

    public override string Name => "file-items";

    public override bool MayAgree(Caller caller, string unit) => caller.Covers(Right.WriteSchedule, new UnitPath(unit));

    public override async Task<ActSubject> SubjectAsync(ActContext context, FileItems act)
    {
        var target = await FilingEndpoints.CodeOfAsync(act.SeriesId, context.Db, context.Cancel);
        var items = Wording.Plural(act.Selection.Ids!.Length, "item");
        return new(target is null ? $"Unfile {items}" : $"File {items} under {target}", context.Caller.Root.Value);
    }

    public override async Task<Refusal?> CheckAsync(ActContext context, FileItems act)
    {
        var planned = await FilingEndpoints.PlanAsync(
            act.Selection,
            act.SeriesId,
            context.Caller,
            context.Db,
            context.Calendar
        );
        if (planned.Refusal is { } refusal)
        {
            if (refusal.Code == "grade")
            {
                context.Session.RecordAttempt(
                    "filing-refused",
                    new("series", act.SeriesId?.ToString(CultureInfo.InvariantCulture) ?? "none"),
                    refusal.Sentence
                );
            }

            return refusal;
        }

        var plan = planned.Value;
        return plan.Target?.InForce?.Grade == Grade.Worm && !act.Confirmed ? SeriesGuard.Unconfirmed(plan.Target.Code)
            : plan.Declared > 0 && !context.Caller.WholeOrganisation(Right.WriteSchedule)
                ? Refusal.Forbidden("not-allowed", null, $"{plan.DeclaredCondition} A records manager asks for it.")
            : null;
    }

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, FileItems act) =>
        act.SeriesId is { } id ? await Resting.OnSeriesAsync(ground, id) : new Dictionary<string, string>();

    public override Task<RuleChange> ChangeAsync(ActGround ground, FileItems act) =>
        FilingEndpoints.ChangeOfAsync(act.Selection, act.SeriesId, ground);

    public override async Task<string?> SecondPersonAsync(ActContext context, FileItems act) =>
        (await PlanAsync(context, act)).DeclaredCondition;

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, FileItems act) =>
        [
            new(
                "Series",
                await FilingEndpoints.SeriesOfAsync(act.Selection.Ids!, ground),
                await FilingEndpoints.CodeOfAsync(act.SeriesId, ground.Db, ground.Cancel)
            ),
        ];

    public override async Task<FileItems> SettleAsync(ActContext context, FileItems act) =>
        act with
        {
            Selection = new() { Ids = [.. (await PlanAsync(context, act)).ItemsOf(context.Session).Select(i => i.Id)] },
        };

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, FileItems act, IFigures? figures)
    {
        await (await PlanAsync(context, act)).FileAsync(context);
        return new Done();
    }

    private static async Task<FilingEndpoints.Plan> PlanAsync(ActContext context, FileItems act) =>
        (
            await FilingEndpoints.PlanAsync(act.Selection, act.SeriesId, context.Caller, context.Db, context.Calendar)
        ).Value;
}
