using System.Text.Json;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Hears what came of a change that the directory was asked for, in the transaction that records it.</summary>
internal interface IDirectoryFollower : IContribution
{
    /// <summary>The word by which an intent names it.</summary>
    string Name { get; }

    Task CameOutAsync(WriteSession session, DirectoryIntent intent, CancellationToken cancel);
}

/// <summary>
/// Carries the waiting changes of the directory out, in the order in which they were asked for: never while the writer is
/// held, so that a directory that answers slowly delays nobody's change. Each is asked for, read again, and its outcome
/// recorded with an entry of the ledger. One that a stop left without an outcome is asked for again; asking twice changes
/// nothing.
/// </summary>
internal sealed class DirectoryCarrier(
    OrganisationDirectory directory,
    Writer writer,
    IDbContextFactory<WideKeelDb> databases,
    IEnumerable<IDirectoryFollower> followers,
    ILogger<DirectoryCarrier> log
) : IDisposable
{
    /// <summary>So many outcomes are recorded in one transaction.</summary>
    private const int Portion = 32;

    private readonly SemaphoreSlim turn = new(1, 1);
    private readonly AsyncLocal<bool> carrying = new();
    private readonly Dictionary<string, IDirectoryFollower> byName = followers.ToDictionary(f => f.Name);

    public void Dispose() => turn.Dispose();

    /// <summary>Notes a change that is to be asked for once the change of <paramref name="session"/> is committed.</summary>
    /// <param name="because">What it is done for.</param>
    /// <param name="follower">Who hears of the outcome; empty for nobody.</param>
    public DirectoryIntent Ask(
        WriteSession session,
        DirectoryChange change,
        string because,
        string follower = "",
        long subject = 0
    )
    {
        var intent = new DirectoryIntent
        {
            Actor = JsonSerializer.Serialize(session.Actor, Json.Options),
            Change = JsonSerializer.Serialize(change, Json.Options),
            Because = because,
            Follower = follower,
            SubjectId = subject,
            AskedAt = session.Now,
        };
        session.Db.DirectoryIntents.Add(intent);
        session.AfterRelease(CarryAsync);
        return intent;
    }

    /// <summary>What came of a change, once <see cref="CarryAsync"/> was done.</summary>
    public async Task<DirectoryAnswer> OutcomeAsync(DirectoryIntent asked, CancellationToken cancel)
    {
        await using var db = await databases.CreateDbContextAsync(cancel);
        var intent = await db.DirectoryIntents.AsNoTracking().SingleAsync(i => i.Id == asked.Id, cancel);
        return intent.CameOutAt is null
            ? new(false, "The directory has not answered yet; it is asked again.")
            : new(intent.Verified, intent.Failure);
    }

    /// <summary>
    /// Carries out all that waits. What goes wrong with one is logged, and the others go on: the changes that asked for
    /// them are committed, and their callers see no error.
    /// </summary>
    public async Task CarryAsync()
    {
        if (carrying.Value)
        {
            // A follower asked for more; the loop below finds it.
            return;
        }

        await turn.WaitAsync();
        carrying.Value = true;
        try
        {
            HashSet<long> stuck = [];
            while (await NextAsync(stuck) is { Count: > 0 } next)
            {
                try
                {
                    await CarryAsync(next);
                }
                catch (Exception e)
                {
                    log.LogError(
                        e,
                        "The outcome of {Count} changes of the directory could not be recorded",
                        next.Count
                    );
                    foreach (var intent in next)
                    {
                        stuck.UnionWith(await CarryAloneAsync(intent) ? [] : [intent.Id]);
                    }
                }
            }
        }
        finally
        {
            turn.Release();
        }
    }

    private async Task<bool> CarryAloneAsync(DirectoryIntent intent)
    {
        try
        {
            await CarryAsync([intent]);
            return true;
        }
        catch (Exception e)
        {
            log.LogError(e, "The outcome of change {Id} of the directory could not be recorded", intent.Id);
            return false;
        }
    }

    /// <summary>The first that wait, all by one actor.</summary>
    private async Task<IReadOnlyList<DirectoryIntent>> NextAsync(HashSet<long> without)
    {
        await using var db = await databases.CreateDbContextAsync();
        var waiting = await db
            .DirectoryIntents.AsNoTracking()
            .Where(i => i.CameOutAt == null && !without.Contains(i.Id))
            .OrderBy(i => i.Id)
            .Take(Portion)
            .ToListAsync();
        return [.. waiting.TakeWhile(i => i.Actor == waiting[0].Actor)];
    }

    private async Task CarryAsync(IReadOnlyList<DirectoryIntent> intents)
    {
        List<(DirectoryIntent Intent, DirectoryChange Change, Asked Asked)> asked = [];
        await using (var db = await databases.CreateDbContextAsync())
        {
            foreach (var intent in intents)
            {
                var change = JsonSerializer.Deserialize<DirectoryChange>(intent.Change, Json.Options)!;
                asked.Add((intent, change, await directory.AskAsync(db, change)));
            }
        }

        await writer.RunAsync(
            JsonSerializer.Deserialize<LedgerActor>(intents[0].Actor, Json.Options)!,
            async session =>
            {
                foreach (var (intent, change, said) in asked)
                {
                    await RecordAsync(session, intent.Id, change, said);
                }
            }
        );
    }

    private async Task RecordAsync(WriteSession session, long id, DirectoryChange change, Asked said)
    {
        var answer = await OrganisationDirectory.KeepAsync(session, change, said);
        var intent = await session.Db.DirectoryIntents.SingleAsync(i => i.Id == id);
        (intent.CameOutAt, intent.Verified, intent.Failure) = (session.Now, answer.Verified, answer.Failure);
        session.Record(
            answer.Failure is null ? "directory-changed" : "directory-failed",
            new LedgerSubject("account", change.Who),
            after: new JsonObject
            {
                ["did"] = change.InWords(),
                ["verified"] = answer.Verified,
                ["failure"] = answer.Failure,
            },
            reason: intent.Because
        );
        if (byName.GetValueOrDefault(intent.Follower) is { } follower)
        {
            await follower.CameOutAsync(session, intent, CancellationToken.None);
        }
    }
}
