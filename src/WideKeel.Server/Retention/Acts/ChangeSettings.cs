using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Store.People;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <summary>Changes the organisation's name and calendar, on which every cutoff depends.</summary>
internal sealed record ChangeSettings(string Name, string Zone, string FiscalYearEnd);

internal sealed class ChangeSettingsHandler : ItemActHandler<ChangeSettings, Done>
{
    public static ChangeSettingsHandler Instance { get; } = new();

    public override string Name => "change-settings";

    public override bool MayAgree(Caller caller, string unit) => caller.May(Right.ManageSettings);

    public override Task<ActSubject> SubjectAsync(ActContext context, ChangeSettings act) =>
        Task.FromResult(new ActSubject("Change the organisation’s calendar", context.Caller.Root.Value));

    public override async Task<Refusal?> CheckAsync(ActContext context, ChangeSettings act) =>
        context.Caller.May(Right.ManageSettings)
            ? (await SettingsEndpoints.OfAsync(act, context.Db, context.Calendar)).Refusal
            : Refusal.Forbidden("not-allowed", null, "Your role does not include the organisation’s settings.");

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, ChangeSettings act)
    {
        var now = await LoadAsync(ground);
        return new Dictionary<string, string>
        {
            ["The organisation’s settings"] = $"{now.Name}|{now.Zone}|{now.FiscalYearEnd}",
        };
    }

    public override async Task<RuleChange> ChangeAsync(ActGround ground, ChangeSettings act) =>
        (await SettingsEndpoints.OfAsync(act, ground.Db, ground.Calendar)).Value;

    public override async Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, ChangeSettings act)
    {
        var now = await LoadAsync(ground);
        return
        [
            new("Name", now.Name, act.Name),
            new("Time zone", now.Zone, act.Zone),
            new("End of the fiscal year (month and day)", now.FiscalYearEnd, act.FiscalYearEnd),
        ];
    }

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, ChangeSettings act, IFigures? figures)
    {
        var change = (await SettingsEndpoints.OfAsync(act, context.Db, context.Calendar)).Value;
        var organisation = await context.Db.Organisations.SingleAsync(context.Cancel);
        context.Session.Record(
            "changed",
            new("organisation", "1"),
            AsJson(organisation.Name, organisation.Zone, organisation.FiscalYearEnd),
            AsJson(act.Name, act.Zone, act.FiscalYearEnd),
            context.Asker is null ? null : context.Why("")
        );
        (organisation.Name, organisation.Zone, organisation.FiscalYearEnd) = (
            act.Name.Trim(),
            act.Zone,
            act.FiscalYearEnd
        );
        ItemScan.WriteStandings(context.Session, change.After, change.Where, change.Bind);
        context.Session.AfterCommit(context.Calendar.Forget);
        return new Done();
    }

    private static JsonObject AsJson(string name, string zone, string fiscalYearEnd) =>
        new()
        {
            ["name"] = name,
            ["zone"] = zone,
            ["fiscalYearEnd"] = fiscalYearEnd,
        };

    private static Task<Organisation> LoadAsync(ActGround ground) =>
        ground.Db.Organisations.AsNoTracking().SingleAsync(ground.Cancel);
}

/// <summary>Enables the grade WORM for the whole organisation, for good.</summary>
internal sealed record EnableWorm;

internal sealed class EnableWormHandler : ActHandler<EnableWorm, Done>
{
    public static EnableWormHandler Instance { get; } = new();

    public override string Name => Word;

    public const string Word = "enable-worm";

    public override bool MayAgree(Caller caller, string unit) => caller.May(Right.ManageSettings);

    public override Task<ActSubject> SubjectAsync(ActContext context, EnableWorm act) =>
        Task.FromResult(
            new ActSubject("Enable the grade WORM for the whole organisation, for good", context.Caller.Root.Value)
        );

    public override async Task<Refusal?> CheckAsync(ActContext context, EnableWorm act) =>
        !context.Caller.May(Right.ManageSettings)
            ? Refusal.Forbidden("not-allowed", null, "Your role does not include the organisation’s settings.")
        : await context.Db.Organisations.AnyAsync(o => o.WormEnabledAt != null, context.Cancel)
            ? Refusal.Conflict("worm-asked", null, "WORM is enabled already.")
        : null;

    public override async Task<IReadOnlyDictionary<string, string>> RestsOnAsync(ActGround ground, EnableWorm act) =>
        new Dictionary<string, string>
        {
            ["Whether WORM is enabled"] = await ground.Db.Organisations.AnyAsync(
                o => o.WormEnabledAt != null,
                ground.Cancel
            )
                ? "yes"
                : "no",
        };

    public override Task<string?> SecondPersonAsync(ActContext context, EnableWorm act) =>
        Task.FromResult<string?>(
            "what is put under WORM cannot be changed, deleted or shortened before its term is over"
        );

    public override Task<IReadOnlyList<ActPart>> PartsAsync(ActGround ground, EnableWorm act) =>
        Task.FromResult<IReadOnlyList<ActPart>>([new("WORM", "not enabled", "enabled for good")]);

    public override async Task<Outcome<Done>> WriteAsync(ActContext context, EnableWorm act, IFigures? figures)
    {
        (await context.Db.Organisations.SingleAsync(context.Cancel)).WormEnabledAt ??= context.Session.Now;
        context.Session.Record("worm-enabled", new("organisation", "1"), reason: context.Why(""));
        return new Done();
    }
}
