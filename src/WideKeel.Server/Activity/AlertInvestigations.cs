using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>An investigation that something else rests on.</summary>
/// <param name="Hash">SHA-256 over its events and notes; null until it is frozen.</param>
public sealed record AttachedInvestigation(
    long Id,
    string Name,
    string Summary,
    string By,
    int Events,
    Instant? FrozenAt,
    string? Hash
);

public sealed record InvestigationChoice(long InvestigationId);

/// <summary>Investigations that are attached to alerts, and how one is attached to anything.</summary>
public static class AlertInvestigations
{
    public static void MapAlertInvestigations(this IEndpointRouteBuilder api)
    {
        api.MapGet("/alerts/{id:long}/investigations", List).Requires(Right.ReadActivity);
        api.MapPost("/alerts/{id:long}/investigations", Attach).Requires(Right.ReadActivity);
    }

    private static async Task<bool> MayReadAsync(long alert, ApiContext context) =>
        await (await ChannelAccess.OfAsync(context.Caller, context.Db, context.Cancel))
            .Of(context.Db.Alerts)
            .AnyAsync(a => a.Id == alert, context.Cancel);

    private static async Task<Reply<IReadOnlyList<AttachedInvestigation>>> List(
        long id,
        [AsParameters] ApiContext context
    ) =>
        await MayReadAsync(id, context)
            ? (Outcome<IReadOnlyList<AttachedInvestigation>>)
                await ViewsAsync(
                    await InvestigationEndpoints.VisibleAsync(
                        context.Db.Investigations.Where(i =>
                            context.Db.InvestigationLinks.Any(l => l.InvestigationId == i.Id && l.AlertId == id)
                        ),
                        context
                    ),
                    context
                )
            : Problems.NotFound("alert");

    /// <summary>How attached investigations are shown, with the names of those who opened them.</summary>
    internal static async Task<List<AttachedInvestigation>> ViewsAsync(
        IReadOnlyList<Investigation> attached,
        ApiContext context
    )
    {
        var people = attached.Select(i => i.PersonId).ToList();
        var names = await context
            .Db.Users.Where(p => people.Contains(p.Id))
            .ToDictionaryAsync(p => p.Id, p => p.DisplayName, context.Cancel);
        return
        [
            .. attached.Select(i => new AttachedInvestigation(
                i.Id,
                i.Name,
                i.Summary,
                names.GetValueOrDefault(i.PersonId, ""),
                i.Events.Count,
                i.FrozenAt,
                i.FrozenAt is null ? null : InvestigationEndpoints.HashOf(i)
            )),
        ];
    }

    private static async Task<Reply<Done>> Attach(
        long id,
        InvestigationChoice request,
        [AsParameters] ApiContext context
    ) =>
        await MayReadAsync(id, context)
            ? await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                    await AttachAsync(
                        session,
                        new() { InvestigationId = request.InvestigationId, AlertId = id },
                        LedgerSubject.Of("alert", id),
                        context
                    )
                        is { } refusal
                        ? refusal
                        : new Done(),
                context.Cancel
            )
            : Problems.NotFound("alert");

    /// <summary>Attaches an investigation of the caller's own; what is attached already stays so.</summary>
    /// <param name="to">What the ledger says that it was attached to.</param>
    /// <returns>Null where it is attached.</returns>
    internal static async Task<Refusal?> AttachAsync(
        WriteSession session,
        InvestigationLink link,
        LedgerSubject to,
        ApiContext context
    )
    {
        var own = await session.Db.Investigations.SingleOrDefaultAsync(
            i => i.Id == link.InvestigationId && i.PersonId == context.Caller.PersonId,
            context.Cancel
        );
        if (own is null)
        {
            return Problems.NotFound("investigation of yours");
        }

        if (link.FindingId is not null && own.FrozenAt is null)
        {
            return Refusal.Conflict(
                "not-frozen",
                "investigationId",
                "A finding rests on evidence that changes no more: freeze the investigation first."
            );
        }

        if (
            !await session.Db.InvestigationLinks.AnyAsync(
                l => l.InvestigationId == own.Id && l.AlertId == link.AlertId && l.FindingId == link.FindingId,
                context.Cancel
            )
        )
        {
            session.Db.InvestigationLinks.Add(link);
            session.Record(
                "investigation-attached",
                to,
                after: new JsonObject { ["investigation"] = own.Id, ["name"] = own.Name }
            );
        }

        return null;
    }
}
