using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <param name="Count">How often it was repeated, the first time included.</param>
/// <param name="InCase">How many alerts its case has.</param>
public sealed record AlertView(
    long Id,
    long WatchId,
    string Watch,
    Instant At,
    string? Who,
    string? Address,
    string? Object,
    string Why,
    AlertSeverity Severity,
    int Risk,
    AlertState State,
    string Reason,
    bool? Useful,
    string? Owner,
    int Count,
    long CaseId,
    int InCase,
    bool Capped,
    bool Withdrawn,
    bool Repeats,
    long Revision
) : IRevised;

/// <param name="Act">What is asked for.</param>
/// <param name="Says">The exact change that it would be.</param>
public sealed record PossibleAct(string Act, string Words, string Says);

/// <summary>The hour of an alert beside the hours that it is held against.</summary>
/// <param name="Hours">The measures of the cell's hours, zeros included, oldest first.</param>
/// <param name="Band">1.4826 × the median absolute deviation.</param>
/// <param name="Tail">−log10 of P(X ≥ measure).</param>
public sealed record AlertBaseline(
    double Measure,
    string? Cell,
    IReadOnlyList<double> Hours,
    double Median,
    double Band,
    double Mean,
    double Variance,
    double Tail
);

/// <param name="Events">The events that it rests on, the latest 100.</param>
/// <param name="Baseline">Null where the watch has no key, or the key did nothing countable in that hour.</param>
public sealed record AlertDetail(
    AlertView Alert,
    WatchView Watch,
    IReadOnlyList<RiskFactor> Factors,
    IReadOnlyList<EventView> Events,
    AlertBaseline? Baseline,
    IReadOnlyList<AlertView> Case,
    IReadOnlyList<AlertActView> Acts,
    IReadOnlyList<PossibleAct> Possible
);

/// <param name="Id">Of the investigation.</param>
public sealed record OpenedInvestigation(long Id);

public sealed record AlertAnswer(AlertState State, string Reason);

public sealed record AlertFeedback(bool Useful);

/// <summary>The alerts: viewed, answered and acted on.</summary>
public static class AlertEndpoints
{
    private const int Most = 500;

    public static void MapAlerts(this IEndpointRouteBuilder api)
    {
        api.MapGet("/alerts", List).Requires(Right.ReadActivity);
        api.MapGet("/alerts/{id:long}", One).Requires(Right.ReadActivity);
        api.MapPost("/alerts/{id:long}/state", Answer).Requires(Right.ManageWatches);
        api.MapPost("/alerts/{id:long}/owner", Take).Requires(Right.ManageWatches);
        api.MapPost("/alerts/{id:long}/feedback", Learn).Requires(Right.ManageWatches);
        api.MapGet("/alerts/{id:long}/file", Export).Requires(Right.ReadActivity);
        api.MapPost("/alerts/{id:long}/investigation", Investigate).Requires(Right.ManageWatches);
    }

    /// <summary>Alerts, the newest first; without those that repeat another or lost their ground, unless all are asked for.</summary>
    /// <param name="state">new, lookedAt, expected, confirmed, or open for the first two.</param>
    private static async Task<Reply<IReadOnlyList<AlertView>>> List(
        string? state,
        long? watch,
        bool? all,
        [AsParameters] ApiContext context
    )
    {
        var access = await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel);
        var alerts = access.Of(context.Db.Alerts.AsNoTracking());
        if (all != true)
        {
            alerts = alerts.Where(a => a.FoldedInto == null && !a.Withdrawn);
        }

        if (watch is not null)
        {
            alerts = alerts.Where(a => a.WatchId == watch);
        }

        if (state == "open")
        {
            alerts = alerts.Where(a => a.State == AlertState.New || a.State == AlertState.LookedAt);
        }
        else if (QueryWord.Read<AlertState>(state, "state", out var wanted) is { } refusal)
        {
            return refusal;
        }
        else if (wanted is not null)
        {
            alerts = alerts.Where(a => a.State == wanted);
        }

        return (Outcome<IReadOnlyList<AlertView>>)
            await ViewsAsync(
                await alerts
                    .OrderByDescending(a => a.At)
                    .ThenByDescending(a => a.Id)
                    .Take(Most)
                    .ToListAsync(context.Cancel),
                access,
                context
            );
    }

    internal static async Task<List<AlertView>> ViewsAsync(
        List<AlertRow> rows,
        ChannelAccess access,
        ApiContext context
    )
    {
        var ids = rows.Select(a => a.Id).ToList();
        var cases = rows.Select(a => a.CaseId).ToList();
        var visible = access.Of(context.Db.Alerts);
        var repeats = await visible
            .Where(a => a.FoldedInto != null && ids.Contains(a.FoldedInto.Value) && !a.Withdrawn)
            .GroupBy(a => a.FoldedInto!.Value)
            .ToDictionaryAsync(g => g.Key, g => g.Count(), context.Cancel);
        var inCase = await visible
            .Where(a => cases.Contains(a.CaseId) && a.FoldedInto == null && !a.Withdrawn)
            .GroupBy(a => a.CaseId)
            .ToDictionaryAsync(g => g.Key, g => g.Count(), context.Cancel);
        var watches = await context.Db.Watches.AsNoTracking().ToDictionaryAsync(w => w.Id, w => w.Name, context.Cancel);
        var people = await context
            .Db.Users.AsNoTracking()
            .ToDictionaryAsync(p => p.Id, p => p.DisplayName, context.Cancel);
        return
        [
            .. rows.Select(a => new AlertView(
                a.Id,
                a.WatchId,
                watches[a.WatchId],
                a.At,
                a.Actor ?? a.Key,
                a.Address,
                a.Object,
                a.Why,
                a.Severity,
                a.Risk,
                a.State,
                a.Reason,
                a.Useful,
                a.OwnerId is { } owner ? people.GetValueOrDefault(owner) : null,
                1 + repeats.GetValueOrDefault(a.Id),
                a.CaseId,
                inCase.GetValueOrDefault(a.CaseId, 1),
                a.Capped,
                a.Withdrawn,
                a.FoldedInto is not null,
                a.Version
            )),
        ];
    }

    private static async Task<Reply<AlertDetail>> One(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) => await AlertDetails.FindAsync(id, directory, context);

    private static Task<Reply<Done>> Answer(long id, AlertAnswer request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                if (Problems.CheckMatch(context.Http, row.Version) is { } stale)
                {
                    return Task.FromResult<Refusal?>(stale);
                }

                if (
                    request.State is AlertState.Expected or AlertState.Confirmed
                    && string.IsNullOrWhiteSpace(request.Reason)
                )
                {
                    return Task.FromResult<Refusal?>(
                        new("reason-missing", "reason", "Say why, so that the next one who looks need not ask.")
                    );
                }

                session.Record(
                    "answered",
                    Subject(row),
                    new JsonObject { ["state"] = row.State.ToString() },
                    new JsonObject { ["state"] = request.State.ToString() },
                    request.Reason
                );
                (row.State, row.Reason) = (request.State, request.Reason.Trim());
                row.OwnerId ??= context.Caller.PersonId;
                row.AnsweredAt = request.State is AlertState.Expected or AlertState.Confirmed ? session.Now : null;
                return Task.FromResult<Refusal?>(null);
            }
        );

    private static Task<Reply<Done>> Take(long id, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            (session, row) =>
            {
                row.OwnerId = context.Caller.PersonId;
                row.State = row.State == AlertState.New ? AlertState.LookedAt : row.State;
                session.Record("taken-over", Subject(row));
                return Task.FromResult<Refusal?>(null);
            }
        );

    /// <summary>One step of learning from the alert's factors; taken back first where somebody said so before.</summary>
    private static Task<Reply<Done>> Learn(long id, AlertFeedback request, [AsParameters] ApiContext context) =>
        WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (row.Useful is not null)
                {
                    return Refusal.Conflict(
                        "feedback-given",
                        null,
                        "Somebody said so already; it is learnt from once."
                    );
                }

                row.Useful = request.Useful;
                var weights = await session.Db.RiskWeights.ToDictionaryAsync(w => w.Factor, context.Cancel);
                var factors = JsonSerializer
                    .Deserialize<List<RiskFactor>>(row.Factors, Json.Options)!
                    .ConvertAll(f =>
                        f with
                        {
                            Weight = weights.TryGetValue(f.Name, out var own) ? own.Weight : AlertRisk.Weights[f.Name],
                        }
                    );
                var moved = new JsonObject();
                foreach (var (factor, weight) in AlertRisk.Learn(factors, request.Useful))
                {
                    if (!weights.TryGetValue(factor, out var stored))
                    {
                        session.Db.RiskWeights.Add(stored = new() { Factor = factor });
                    }

                    stored.Weight = Math.Round(weight, 4);
                    moved[factor] = stored.Weight;
                }

                session.Record(
                    request.Useful ? "found-useful" : "found-noise",
                    Subject(row),
                    after: new JsonObject { ["weights"] = moved }
                );
                return null;
            }
        );

    internal static async Task<Reply<Done>> WorkAsync(
        long id,
        ApiContext context,
        Func<WriteSession, AlertRow, Task<Refusal?>> work
    ) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                var access = await ChannelAccess.OfAsync(context.Caller, session.Db, context.Cancel);
                var visible = access.Of(session.Db.Alerts);
                if (await visible.SingleOrDefaultAsync(a => a.Id == id, context.Cancel) is not { } row)
                {
                    return Problems.NotFound("alert");
                }

                if (await work(session, row) is { } refusal)
                {
                    return refusal;
                }

                row.Version++;
                return new Done();
            },
            context.Cancel
        );

    /// <summary>The alert as a file that stands for itself: what tripped it, its factors, its answer, what was done.</summary>
    private static async Task<IResult> Export(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        var found = await AlertDetails.FindAsync(id, directory, context);
        if (found.Refused)
        {
            return (Reply<Done>)found.Refusal!;
        }

        context.Http.Response.Headers.ContentDisposition = $"attachment; filename=\"alert-{Wording.Id(id)}.json\"";
        return Results.Text(
            CanonicalJson.Text(JsonSerializer.SerializeToNode(found.Value with { Possible = [] }, Json.Options)),
            "application/json"
        );
    }

    /// <summary>An investigation of the caller's own with the events that the alert rests on; a matter takes it over.</summary>
    private static async Task<Reply<OpenedInvestigation>> Investigate(
        long id,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    )
    {
        var found = await AlertDetails.FindAsync(id, directory, context);
        return found.Refused
            ? found.Refusal!
            : await context.Writer.RunAsync<OpenedInvestigation>(
                context.Caller.Actor,
                async session =>
                {
                    var alert = found.Value.Alert;
                    var name = $"Alert {Wording.Id(id)}: {alert.Watch}{(alert.Who is null ? "" : $", {alert.Who}")}";
                    var there = await InvestigationEndpoints.OpenAsync(
                        session,
                        new(name.Length > 200 ? name[..200] : name, alert.Why),
                        await EventEndpoints.FindAsync([.. found.Value.Events.Select(e => e.Id)], context),
                        context
                    );
                    session.Db.InvestigationLinks.Add(new() { InvestigationId = there, AlertId = id });
                    session.Record(
                        "investigated",
                        LedgerSubject.Of("alert", id),
                        after: new JsonObject { ["investigation"] = there }
                    );
                    return new OpenedInvestigation(there);
                },
                context.Cancel
            );
    }

    internal static LedgerSubject Subject(AlertRow row) => LedgerSubject.Of("alert", row.Id);
}
