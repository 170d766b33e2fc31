using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Activity;
using WideKeel.Store.People;

namespace WideKeel.Server.Activity;

/// <summary>What was done in the directory, or waits for a second person.</summary>
/// <param name="Undoable">It can be taken back, and was not.</param>
/// <param name="MayNotDecide">Why the caller is no second person for it; null where they are, or it does not wait.</param>
public sealed record AlertActView(
    long Id,
    string Words,
    Instant At,
    string By,
    bool Verified,
    string? Failure,
    Instant? UndoneAt,
    bool Undoable,
    bool Waits,
    string? DecidedBy,
    string? MayNotDecide
);

public sealed record AlertActRequest(string Act);

public sealed record AlertActDecision(bool Agree, string Why);

/// <param name="ActsNeedSecond">What is done in the directory about an alert waits for a second person.</param>
public sealed record AlertSettings(bool ActsNeedSecond);

/// <summary>Acts in the directory about alerts: asked for, agreed to, undone.</summary>
public static class AlertActEndpoints
{
    private const string AskedForAct =
        "You asked for this act, or wrote the watch that asks for it; somebody else must approve it.";

    public static void MapAlertActs(this IEndpointRouteBuilder api)
    {
        api.MapPost("/alerts/{id:long}/acts", Act).Requires(Right.ManageWatches);
        api.MapPost("/alerts/{id:long}/acts/{act:long}/decision", Decide).Requires(Right.ManageWatches);
        api.MapPost("/alerts/{id:long}/acts/{act:long}/undo", Undo).Requires(Right.ManageWatches);
        api.MapGet("/alert-settings", Settings).RequiresSignIn();
        api.MapPut("/alert-settings", Set).Requires(Right.ManageSettings);
    }

    internal static AlertActView View(AlertAct act, Caller caller) =>
        new(
            act.Id,
            act.Words,
            act.At,
            act.By,
            act.Verified,
            act.Failure,
            act.UndoneAt,
            !act.Waits && act.UndoneAt is null && act.Failure is null && AlertActs.ChangeIn(act).Undo() is not null,
            act.Waits,
            act.DecidedBy,
            act.Waits ? caller.NotSecondTo(act.AskedById, AskedForAct) : null
        );

    private static Task<Reply<Done>> Act(
        long id,
        AlertActRequest request,
        OrganisationDirectory directory,
        [AsParameters] ApiContext context
    ) =>
        AlertEndpoints.WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (AlertActs.ChangeOf(request.Act, row, directory.State) is not { } change)
                {
                    return Refusal.Conflict(
                        "act-unfit",
                        "act",
                        "The directory knows nothing that this act would change."
                    );
                }

                var words = change.InWords();
                if (
                    await session.Db.AlertActs.AnyAsync(
                        a => a.AlertId == id && a.Waits && a.Words == words,
                        context.Cancel
                    )
                )
                {
                    return Refusal.Conflict("act-waits", "act", "This act waits for somebody to agree already.");
                }

                await AlertActs.AskAsync(
                    session,
                    row,
                    change,
                    context.Caller.Name,
                    context.Caller.PersonId,
                    context.Cancel
                );
                row.State = row.State == AlertState.New ? AlertState.LookedAt : row.State;
                row.OwnerId ??= context.Caller.PersonId;
                return null;
            }
        );

    private static Task<Reply<Done>> Decide(
        long id,
        long act,
        AlertActDecision request,
        [AsParameters] ApiContext context
    ) =>
        AlertEndpoints.WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                if (
                    await session.Db.AlertActs.SingleOrDefaultAsync(
                        a => a.Id == act && a.AlertId == id && a.Waits,
                        context.Cancel
                    )
                    is not { } waiting
                )
                {
                    return Problems.NotFound("act that waits");
                }

                if (context.Caller.NotSecondTo(waiting.AskedById, AskedForAct) is { } not)
                {
                    session.RecordAttempt("refused-act", AlertEndpoints.Subject(row), not);
                    return Refusal.Forbidden("second-person-needed", null, not);
                }

                if (!request.Agree && Problems.CheckWhy(request.Why) is { } unsaid)
                {
                    return unsaid;
                }

                waiting.DecidedBy = context.Caller.Name;
                session.Record(
                    request.Agree ? "act-agreed" : "act-not-agreed",
                    AlertEndpoints.Subject(row),
                    after: new JsonObject { ["act"] = waiting.Words, ["askedBy"] = waiting.By },
                    reason: request.Why
                );
                if (request.Agree)
                {
                    AlertActs.Carry(session, waiting);
                    return null;
                }

                (waiting.Waits, waiting.Failure) = (
                    false,
                    $"{context.Caller.Name} did not agree: {request.Why.Trim()}"
                );
                return null;
            }
        );

    private static async Task<Reply<Done>> Undo(
        long id,
        long act,
        DirectoryCarrier carrier,
        [AsParameters] ApiContext context
    )
    {
        DirectoryIntent? asked = null;
        var reply = await AlertEndpoints.WorkAsync(
            id,
            context,
            async (session, row) =>
            {
                var done = await session.Db.AlertActs.SingleOrDefaultAsync(
                    a => a.Id == act && a.AlertId == id && !a.Waits && a.Failure == null,
                    context.Cancel
                );
                if (done is null || done.UndoneAt is not null || AlertActs.ChangeIn(done).Undo() is not { } undo)
                {
                    return Problems.NotFound("act that can be undone");
                }

                if (await session.Db.Organisations.AnyAsync(o => o.ActsNeedSecond, context.Cancel))
                {
                    if (
                        await session.Db.AlertActs.AnyAsync(
                            a => a.AlertId == id && a.Waits && a.UndoesId == act,
                            context.Cancel
                        )
                    )
                    {
                        return Refusal.Conflict("act-waits", "act", "The undo waits for a second person already.");
                    }

                    await AlertActs.AskAsync(
                        session,
                        row,
                        undo,
                        context.Caller.Name,
                        context.Caller.PersonId,
                        context.Cancel,
                        act
                    );
                    return null;
                }

                asked = carrier.Ask(
                    session,
                    undo,
                    $"undo of act {done.Id} of alert {id}",
                    AlertUndoFollower.Word,
                    done.Id
                );
                return null;
            }
        );
        return asked is not null && (await carrier.OutcomeAsync(asked, context.Cancel)).Failure is { } failure
            ? Refusal.Conflict("directory-failed", null, $"{failure} Nothing was undone; try again.")
            : reply;
    }

    private static async Task<Reply<AlertSettings>> Settings(WideKeelDb db, CancellationToken cancel) =>
        new AlertSettings(await db.Organisations.AnyAsync(o => o.ActsNeedSecond, cancel));

    private static async Task<Reply<Done>> Set(AlertSettings request, [AsParameters] ApiContext context) =>
        !request.ActsNeedSecond && context.Caller.May(Right.ManageWatches)
            ? Refusal.Forbidden(
                "second-person-needed",
                null,
                "You act on alerts yourself; somebody who does not lifts the need for a second person."
            )
            : await context.Writer.RunAsync<Done>(
                context.Caller.Actor,
                async session =>
                {
                    var organisation = await session.Db.Organisations.SingleAsync(context.Cancel);
                    session.Record(
                        "changed",
                        new LedgerSubject("organisation", "1"),
                        new JsonObject { ["actsNeedSecond"] = organisation.ActsNeedSecond },
                        new JsonObject { ["actsNeedSecond"] = request.ActsNeedSecond }
                    );
                    organisation.ActsNeedSecond = request.ActsNeedSecond;
                    return new Done();
                },
                context.Cancel
            );
}
