using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.People;
using WideKeel.Core.Retention;
using WideKeel.Core.Time;
using WideKeel.Server.Content;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Retention;

namespace WideKeel.Server.Retention;

/// <param name="Zone">IANA name of the time zone in which dates are read.</param>
/// <param name="FiscalYearEnd"><c>MM-DD</c>.</param>
/// <param name="WormAsked">A proposal to enable WORM waits for a second person.</param>
public sealed record SettingsView(
    string Name,
    string Zone,
    string FiscalYearEnd,
    Instant? WormEnabledAt,
    bool WormAsked
);

/// <param name="Fingerprint">Of the consequences that were on screen; not needed to ask for them.</param>
/// <param name="Why">Needed where a second person must agree.</param>
public sealed record SettingsChange(
    string Name,
    string Zone,
    string FiscalYearEnd,
    string? Fingerprint = null,
    string? Why = null
);

public sealed record WormAsking(string Why, string Word);

/// <summary>The organisation's calendar, which every cutoff goes by, and whether WORM is enabled.</summary>
public static class SettingsEndpoints
{
    /// <summary>Typed by whoever asks for WORM, so that nobody does by accident.</summary>
    public const string WormWord = "for good";

    public static void MapSettings(this IEndpointRouteBuilder api)
    {
        api.MapGet("/settings", Show).Requires(Right.ManageSettings);
        api.MapPost("/settings/consequences", Consequences).Requires(Right.ManageSettings);
        api.MapPost("/settings/consequences/{group}", ConsequencesGroup).Requires(Right.ManageSettings);
        api.MapPut("/settings", Save).Requires(Right.ManageSettings);
        api.MapPost("/settings/worm", AskForWorm).Requires(Right.ManageSettings);
    }

    private static async Task<Reply<SettingsView>> Show(WideKeelDb db, CancellationToken cancel) =>
        await ViewAsync(db, cancel);

    private static async Task<SettingsView> ViewAsync(WideKeelDb db, CancellationToken cancel)
    {
        var organisation = await db.Organisations.AsNoTracking().SingleAsync(cancel);
        return new(
            organisation.Name,
            organisation.Zone,
            organisation.FiscalYearEnd,
            organisation.WormEnabledAt,
            await db.Proposals.AnyAsync(
                p => p.Kind == EnableWormHandler.Word && p.State == ProposalState.Waiting,
                cancel
            )
        );
    }

    private static async Task<Reply<ConsequencesView>> Consequences(
        SettingsChange request,
        Caller caller,
        WideKeelDb db,
        OrganisationCalendar calendar
    ) =>
        await OfAsync(Act(request), db, calendar) is var change && change.Refusal is { } wrong
            ? wrong
            : (Outcome<ConsequencesView>)await change.Value.FiguresAsync(db, caller);

    private static async Task<Reply<ItemPage>> ConsequencesGroup(
        string group,
        SettingsChange request,
        string? cursor,
        [AsParameters] ApiContext context
    ) =>
        await OfAsync(Act(request), context.Db, context.Calendar) is var change && change.Refusal is { } wrong
            ? wrong
            : await change.Value.GroupAsync(group, cursor, context.Caller, context.Db, context.Calendar);

    private static async Task<Reply<SettingsView>> Save(SettingsChange request, [AsParameters] ApiContext context)
    {
        var done = await ActRunner.RunAsync(
            ChangeSettingsHandler.Instance,
            Act(request),
            context,
            request.Why,
            request.Fingerprint ?? ""
        );
        return done.Refusal is { } refusal ? refusal
            : done.Value.ProposalId is not null ? done.Value.Waits
            : await ViewAsync(context.Db, context.Cancel);
    }

    private static ChangeSettings Act(SettingsChange request) => new(request.Name, request.Zone, request.FiscalYearEnd);

    private static async Task<Reply<SettingsView>> AskForWorm(WormAsking request, [AsParameters] ApiContext context)
    {
        var now = await ViewAsync(context.Db, context.Cancel);
        if (now.WormAsked)
        {
            return Refusal.Conflict("worm-asked", null, "It has been asked for; a second person must agree.");
        }

        if (request.Word != WormWord)
        {
            return new Refusal(
                "confirmation-needed",
                "word",
                $"Type “{WormWord}”: what is put under WORM cannot be changed, deleted or shortened by "
                    + $"anyone until its term is over."
            );
        }

        var asked = await ActRunner.RunAsync(EnableWormHandler.Instance, new(), context, request.Why, null);
        return asked.Refusal is { } refusal ? refusal : await ViewAsync(context.Db, context.Cancel);
    }

    /// <summary>Another fiscal year moves the cutoffs of every item.</summary>
    internal static async Task<Outcome<RuleChange>> OfAsync(
        ChangeSettings request,
        WideKeelDb db,
        OrganisationCalendar calendar
    )
    {
        if (string.IsNullOrWhiteSpace(request.Name) || request.Name.Length > 200)
        {
            return new Refusal("name-missing", "name", "The organisation has a name of at most 200 characters.");
        }

        if (request.Zone is null || DateTimeZoneProviders.Tzdb.GetZoneOrNull(request.Zone) is null)
        {
            return new Refusal(
                "zone-unknown",
                "zone",
                $"There is no time zone “{request.Zone}”; write its IANA name, such as Europe/Copenhagen."
            );
        }

        var end = FiscalYearEnd.Parse(request.FiscalYearEnd);
        if (end.Refusal is { } wrong)
        {
            return wrong;
        }

        if (
            await SeriesUnderGuardAsync(db) is { } guard
            && !(await db.Organisations.AsNoTracking().SingleAsync()).FiscalYearEnd.Equals(
                request.FiscalYearEnd,
                StringComparison.Ordinal
            )
        )
        {
            return Refusal.Forbidden(
                "ratchet",
                "fiscalYearEnd",
                $"{guard} counts by the fiscal year, and its term is not shortened in passing (it is declared, "
                    + $"WORM or under a ratchet); another year's end would end some of its items' terms sooner. "
                    + $"Change its cutoff first."
            );
        }

        var before = await Ruling.LoadAsync(db, calendar.Evaluator);
        return new RuleChange(before, before with { Evaluator = new Evaluator(calendar.Today, end.Value) }, "1", null);
    }

    private static async Task<string?> SeriesUnderGuardAsync(WideKeelDb db) =>
        (await db.Series.AsNoTracking().Where(s => s.InForce != null).OrderBy(s => s.Code).ToListAsync())
            .FirstOrDefault(s =>
                (s.InForce!.Ratchet || s.InForce.Grade is Core.Content.Grade.Worm or Core.Content.Grade.Declared)
                && s.InForce.Clauses.Any(c => c.Cutoff == Cutoff.Fiscal)
            )
            ?.Code;
}
