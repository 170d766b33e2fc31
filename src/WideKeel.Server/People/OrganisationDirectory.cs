using System.Text.Json.Nodes;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Sources;
using WideKeel.Store;

namespace WideKeel.Server.People;

/// <summary>What came of a change that the directory was asked for.</summary>
/// <param name="Verified">It was read again and shows the change.</param>
/// <param name="Failure">Why it was not carried out; null where it was.</param>
public sealed record DirectoryAnswer(bool Verified, string? Failure);

/// <summary>
/// The organisation's directory, which carries out what is decided here: it is asked, read again, and what it says is
/// believed and not what it was asked for.
/// </summary>
public sealed class OrganisationDirectory(WideKeelOptions options)
{
    private DirectoryState? state;
    private DateTime readAt;

    public StandInDirectory Outside { get; } = new(options.DirectoryFile);

    /// <summary>All that it holds now.</summary>
    public DirectoryState State
    {
        get
        {
            var changed = Outside.ChangedAt;
            if (state is null || changed != readAt)
            {
                (state, readAt) = (Outside.Read(), changed);
            }

            return state;
        }
    }

    /// <summary>Asks for one change, reads it back, and writes both to the ledger.</summary>
    /// <param name="session">The change that this belongs to.</param>
    /// <param name="because">What it was done for.</param>
    public DirectoryAnswer Carry(WriteSession session, DirectoryChange change, string because)
    {
        DirectoryAnswer answer;
        try
        {
            Outside.Apply(change);
            answer = new(Outside.Shows(change), null);
        }
        catch (DirectoryFailure e)
        {
            answer = new(false, e.Message);
        }

        state = null;
        session.Record(
            answer.Failure is null ? "directory-changed" : "directory-failed",
            new LedgerSubject("account", change.Who),
            after: new JsonObject
            {
                ["did"] = change.InWords(),
                ["verified"] = answer.Verified,
                ["failure"] = answer.Failure,
            },
            reason: because
        );
        return answer;
    }
}
