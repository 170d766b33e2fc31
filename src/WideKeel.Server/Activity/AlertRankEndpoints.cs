using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;

namespace WideKeel.Server.Activity;

public sealed record WeightView(string Factor, double Weight, double Beginning);

public sealed record SeverityView(string Action, string Words, AlertSeverity Severity, AlertSeverity Beginning);

public sealed record ActionSeverityRequest(string Action, AlertSeverity Severity);

/// <summary>The weights and severities that rank alerts.</summary>
public static class AlertRankEndpoints
{
    public static void MapAlertRanks(this IEndpointRouteBuilder api)
    {
        api.MapGet("/alert-weights", Weights).Requires(Right.ReadActivity);
        api.MapDelete("/alert-weights", ResetWeights).Requires(Right.ManageWatches);
        api.MapGet("/action-severities", Severities).Requires(Right.ReadActivity);
        api.MapPut("/action-severities", SetSeverity).Requires(Right.ManageWatches);
    }

    private static async Task<Reply<IReadOnlyList<WeightView>>> Weights(WideKeelDb db, CancellationToken cancel)
    {
        var own = await db.RiskWeights.AsNoTracking().ToDictionaryAsync(w => w.Factor, w => w.Weight, cancel);
        return (Outcome<IReadOnlyList<WeightView>>)
            AlertRisk
                .Weights.Select(w => new WeightView(w.Key, own.GetValueOrDefault(w.Key, w.Value), w.Value))
                .ToList();
    }

    private static async Task<Reply<Done>> ResetWeights([AsParameters] ApiContext context) =>
        await context.Writer.RunAsync<Done>(
            context.Caller.Actor,
            async session =>
            {
                await session.Db.RiskWeights.ExecuteDeleteAsync(context.Cancel);
                session.Record("weights-reset", new("alert-weights", "1"));
                return new Done();
            },
            context.Cancel
        );

    private static async Task<Reply<IReadOnlyList<SeverityView>>> Severities(WideKeelDb db, CancellationToken cancel)
    {
        var own = await db.ActionSeverities.AsNoTracking().ToDictionaryAsync(s => s.Action, s => s.Severity, cancel);
        return (Outcome<IReadOnlyList<SeverityView>>)
            EventActions
                .All.Union(own.Keys)
                .Order(StringComparer.Ordinal)
                .Select(a => new SeverityView(
                    a,
                    EventActions.WordsOf(a),
                    own.GetValueOrDefault(a, EventActions.SeverityOf(a)),
                    EventActions.SeverityOf(a)
                ))
                .ToList();
    }

    private static async Task<Reply<Done>> SetSeverity(
        ActionSeverityRequest request,
        [AsParameters] ApiContext context
    ) =>
        string.IsNullOrWhiteSpace(request.Action) || request.Action.Length > 200
            ? new Refusal("action-missing", "action", "Name the action, such as file.delete.")
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    var row = await session.Db.ActionSeverities.SingleOrDefaultAsync(
                        s => s.Action == request.Action,
                        context.Cancel
                    );
                    if (row is null)
                    {
                        session.Db.ActionSeverities.Add(row = new() { Action = request.Action });
                    }

                    row.Severity = request.Severity;
                    session.Record(
                        "severity-set",
                        new("action", request.Action),
                        after: new JsonObject { ["severity"] = request.Severity.ToString() }
                    );
                    return new Done();
                },
                context.Cancel
            );
}
