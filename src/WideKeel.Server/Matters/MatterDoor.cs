using System.Globalization;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.Matters;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// The one door to what a matter holds. For whoever is no member, a matter that exists and one that does not are the
/// same.
/// </summary>
internal static class MatterDoor
{
    /// <summary>The matter, if the caller is a member with at least this part.</summary>
    /// <param name="changes">Something new is begun in it, which only an open matter allows.</param>
    public static async Task<Outcome<Matter>> FindAsync(
        long id,
        Caller caller,
        WideKeelDb db,
        MemberPart part,
        CancellationToken cancel,
        bool changes = false
    )
    {
        if (!caller.Matters.TryGetValue(id, out var own))
        {
            return Problems.NotFound("matter");
        }

        if (own < part)
        {
            return Refusal.Forbidden(
                "not-allowed",
                null,
                $"In this matter you are {Words(own)}; this takes {Words(part)}."
            );
        }

        var matter = await db.Matters.SingleAsync(m => m.Id == id, cancel);
        return matter.State == MatterState.Deleted && part > MemberPart.Reader
                ? Refusal.Conflict("matter-deleted", null, "It was deleted; only its ledger remains.")
            : changes && matter.State != MatterState.Open
                ? Refusal.Conflict(
                    "matter-not-open",
                    null,
                    $"The matter is {matter.State.ToString().ToLowerInvariant()}; nothing new is begun in it. Open it again first."
                )
            : matter;
    }

    /// <summary>What somebody is in a matter, with its article.</summary>
    public static string Words(MemberPart part) =>
        part switch
        {
            MemberPart.Lead => "a lead",
            MemberPart.Reviewer => "a reviewer",
            MemberPart.Reader => "a reader",
            _ => throw new ArgumentOutOfRangeException(nameof(part), part, "There is no such part."),
        };

    /// <summary>A change within a matter: in one transaction, with the matter found for the caller.</summary>
    public static async Task<Outcome<T>> ChangeAsync<T>(
        long id,
        MemberPart part,
        Caller caller,
        Writer writer,
        Func<WriteSession, Matter, Task<Outcome<T>>> act,
        CancellationToken cancel,
        bool changes = false
    ) =>
        await writer.RunAsync<T>(
            caller.Actor,
            async session =>
            {
                var found = await FindAsync(id, caller, session.Db, part, cancel, changes);
                return found.Refused ? found.Refusal! : await act(session, found.Value);
            },
            cancel
        );

    /// <summary>A change within a matter, answered with the matter as it is then.</summary>
    /// <param name="act">What is wrong with it, or null.</param>
    public static async Task<Reply<MatterView>> ShowChangedAsync(
        long id,
        MemberPart part,
        ApiContext context,
        Func<WriteSession, Matter, Task<Refusal?>> act,
        bool changes = false
    )
    {
        var done = await ChangeAsync<bool>(
            id,
            part,
            context.Caller,
            context.Writer,
            async (session, matter) => await act(session, matter) is { } wrong ? wrong : true,
            context.Cancel,
            changes
        );
        return done.Refused
            ? done.Refusal!
            : await MatterEndpoints.Show(id, context.Caller, context.Db, context.Calendar, context.Cancel);
    }

    /// <summary>Entries about a matter have no unit: only members read them, wherever they are over.</summary>
    public static LedgerSubject Subject(long matter) => new("matter", Text(matter));

    public static string Text(long id) => id.ToString(CultureInfo.InvariantCulture);
}
