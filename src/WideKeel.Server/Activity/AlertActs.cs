using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.People;
using WideKeel.Server.People;
using WideKeel.Store;
using WideKeel.Store.Activity;
using WideKeel.Store.People;

namespace WideKeel.Server.Activity;

/// <summary>What can be done in the directory about an alert.</summary>
internal static class AlertActs
{
    /// <summary>The acts by their words, with what each does.</summary>
    public static IReadOnlyDictionary<string, string> Known { get; } =
        new Dictionary<string, string>
        {
            ["suspend"] = "suspend the account",
            ["sign-out"] = "sign the account out everywhere",
            ["remove-link"] = "remove the links to the object",
            ["remove-member"] = "remove the account from the group",
            ["revoke-consent"] = "revoke the person’s consent to the application",
        };

    /// <summary>What an act changes, given the alert; null where the directory knows nothing that it fits.</summary>
    public static DirectoryChange? ChangeOf(string act, AlertRow alert, DirectoryState state)
    {
        var account = state.People.FirstOrDefault(p => Is(p.Id, alert.Actor) || Is(p.Id, alert.Key));
        return act switch
        {
            "suspend" when account is { Suspended: false } => new(DirectoryVerb.Suspend, account.Id),
            "sign-out" when account is not null => new(DirectoryVerb.SignOut, account.Id),
            "remove-link" => state
                .Resources.Where(r => Is(r.Id, alert.Object) || Is(r.Name, alert.Object))
                .SelectMany(r => r.Links.Select(l => new DirectoryChange(DirectoryVerb.RemoveLink, l.To, r.Id, l.Role)))
                .FirstOrDefault(),
            "remove-member" when account is not null => state
                .Groups.Where(g => Is(g.Id, alert.Object) && g.Members.Contains(account.Id))
                .Select(g => new DirectoryChange(DirectoryVerb.RemoveMember, account.Id, g.Id))
                .FirstOrDefault(),
            "revoke-consent" => state
                .Applications.Where(a => Is(a.Id, alert.Object) || Is(a.Name, alert.Object))
                .SelectMany(a =>
                    // Of this person alone: what the organisation agreed to, others work with.
                    a.Consents.Where(c => Is(c.By, alert.Actor) || Is(c.By, account?.Id))
                        .Select(c => new DirectoryChange(
                            DirectoryVerb.RemoveConsent,
                            c.By,
                            a.Id,
                            string.Join(' ', c.Scopes)
                        ))
                )
                .FirstOrDefault(),
            _ => null,
        };
    }

    /// <summary>Does it, or where the organisation wants a second person, lets it wait for one.</summary>
    /// <param name="by">Who or what asks for it.</param>
    /// <param name="askedBy">The person who asks, or who wrote the watch that does.</param>
    /// <param name="undoes">The act that it takes back.</param>
    public static async Task AskAsync(
        WriteSession session,
        AlertRow alert,
        DirectoryChange change,
        string by,
        long? askedBy,
        CancellationToken cancel,
        long? undoes = null
    )
    {
        var act = new AlertAct
        {
            AlertId = alert.Id,
            Change = JsonSerializer.Serialize(change, Json.Options),
            Words = change.InWords(),
            At = session.Now,
            By = by,
            AskedById = askedBy,
            UndoesId = undoes,
            Waits = await session.Db.Organisations.AnyAsync(o => o.ActsNeedSecond, cancel),
        };
        session.Db.AlertActs.Add(act);
        if (act.Waits)
        {
            session.Record(
                "act-asked-for",
                AlertEndpoints.Subject(alert),
                after: new JsonObject { ["act"] = act.Words, ["by"] = by }
            );
            return;
        }

        await session.Db.SaveChangesAsync(cancel);
        Carry(session, act);
    }

    /// <summary>Asks the directory; what comes of it is written down with the act.</summary>
    public static void Carry(WriteSession session, AlertAct act)
    {
        (act.At, act.Waits, act.Failure) = (session.Now, false, "The directory has not answered yet.");
        session
            .Services.GetRequiredService<DirectoryCarrier>()
            .Ask(session, ChangeIn(act), $"alert {Wording.Id(act.AlertId)}", AlertActFollower.Word, act.Id);
    }

    public static DirectoryChange ChangeIn(AlertAct act) =>
        JsonSerializer.Deserialize<DirectoryChange>(act.Change, Json.Options)!;

    private static bool Is(string id, string? named) => string.Equals(id, named, StringComparison.OrdinalIgnoreCase);
}

/// <summary>Writes down with an act about an alert what the directory said to it.</summary>
internal sealed class AlertActFollower : IDirectoryFollower
{
    public const string Word = "alert-act";

    public string Name => Word;

    public async Task CameOutAsync(WriteSession session, DirectoryIntent intent, CancellationToken cancel)
    {
        var act = await session.Db.AlertActs.SingleAsync(a => a.Id == intent.SubjectId, cancel);
        (act.At, act.Verified, act.Failure) = (session.Now, intent.Verified, intent.Failure);
        if (act.UndoesId is { } undone && intent.Failure is null)
        {
            (await session.Db.AlertActs.SingleAsync(a => a.Id == undone, cancel)).UndoneAt = session.Now;
        }
    }
}

/// <summary>Writes down that an act about an alert was taken back.</summary>
internal sealed class AlertUndoFollower : IDirectoryFollower
{
    public const string Word = "alert-undo";

    public string Name => Word;

    public async Task CameOutAsync(WriteSession session, DirectoryIntent intent, CancellationToken cancel)
    {
        var act = await session.Db.AlertActs.SingleAsync(a => a.Id == intent.SubjectId, cancel);
        act.UndoneAt = intent.Failure is null ? session.Now : act.UndoneAt;
    }
}
