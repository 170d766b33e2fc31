using WideKeel.Store.Ledger;

namespace WideKeel.Server.Ledger;

/// <summary>
/// Once a day, an entry with the digest of what decides who may do what and what is kept; before it, whether the last one
/// still holds.
/// </summary>
internal sealed class LedgerDigest : IDailyTask
{
    public bool IsLast => true;

    public async Task RunAsync(DailyQuestion asked)
    {
        var session = asked.Session;
        await session.Db.SaveChangesAsync(asked.Cancel);
        if (StateDigest.Check(session.Connection) is { } finding)
        {
            session.Record("state-differs", new("ledger", "1"), reason: finding);
        }

        session.Record(StateDigest.Verb, new("ledger", "1"), after: StateDigest.Of(session.Connection));
    }
}
