using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Sources;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>What came of a change that the directory was asked for.</summary>
/// <param name="Verified">It was read again and shows the change.</param>
/// <param name="Failure">Why it was not carried out; null where it was.</param>
public sealed record DirectoryAnswer(bool Verified, string? Failure);

/// <summary>What a source said to a change.</summary>
/// <param name="TakesNone">The name of a source that takes no changes; null where it was asked.</param>
/// <param name="Shows">It was read again and shows the change.</param>
/// <param name="Failure">Why it was not carried out; null where it was, or was not asked.</param>
internal sealed record Asked(string? TakesNone, bool Shows, string? Failure);

/// <summary>
/// The organisation's directory: what its sources say is kept here, and what is decided here is carried out by the source
/// that holds it. The source is asked, read again, and what it says is believed and not what it was asked for.
/// </summary>
public sealed class OrganisationDirectory(WideKeelOptions options, IDbContextFactory<WideKeelDb> databases)
    : IDisposable
{
    /// <summary>So many of the last changes are handed to whoever computed something from a state before them.</summary>
    private const int MostSteps = 64;

    private readonly Lock turn = new();
    private readonly List<(DirectoryState Before, DirectoryState Part)> steps = [];
    private (long Revision, DirectoryState State)? known;
    private SqliteConnection? asking;
    private SqliteCommand? revision;

    /// <summary>The directory that stands in for one outside.</summary>
    public StandInDirectory Outside { get; } = new(options.DirectoryFile);

    /// <summary>All that is kept now.</summary>
    public DirectoryState State
    {
        get
        {
            lock (turn)
            {
                var now = Revision();
                if (known is not { } read || read.Revision != now)
                {
                    known = read = (now, Read(now));
                }

                return read.State;
            }
        }
    }

    private DirectoryState Read(long now)
    {
        using var db = databases.CreateDbContext();
        if (
            known is { } old
            && DirectoryTouches.SinceAsync(db, old.Revision, now).GetAwaiter().GetResult() is { } touched
            && DirectorySoundness.Cleared(touched, old.State) is var part
            && old.State.With(part) is { } state
        )
        {
            steps.Add((old.State, part));
            if (steps.Count > MostSteps)
            {
                steps.RemoveAt(0);
            }

            return state;
        }

        steps.Clear();
        return DirectoryRows.StateAsync(db).GetAwaiter().GetResult();
    }

    /// <summary>
    /// What is different now from a state that was had before, in the order in which it came; null where it is not known.
    /// </summary>
    public IReadOnlyList<DirectoryState>? Since(DirectoryState before)
    {
        lock (turn)
        {
            var from = steps.FindIndex(s => ReferenceEquals(s.Before, before));
            return from < 0 ? null : [.. steps.Skip(from).Select(s => s.Part)];
        }
    }

    /// <summary>Counts the changes of the directory. It is asked for at every use, so its question is kept ready.</summary>
    private long Revision()
    {
        if (revision is null)
        {
            asking = new($"Data Source={options.DatabaseFile};Mode=ReadOnly;Pooling=False");
            asking.Open();
            revision = asking.CreateCommand();
            revision.CommandText = "SELECT DirectoryRevision FROM organisation";
        }

        return revision.ExecuteScalar() is long counted ? counted : 0;
    }

    public void Dispose()
    {
        revision?.Dispose();
        asking?.Dispose();
    }

    /// <summary>Asks the source of what is changed for the change, and reads it back.</summary>
    internal async Task<Asked> AskAsync(WideKeelDb db, DirectoryChange change)
    {
        if (await SourceOfAsync(db, change) is { Kind: not DirectorySourceKind.StandIn } source)
        {
            return new(source.Name, false, null);
        }

        try
        {
            Outside.Apply(change);
            return new(null, Outside.Shows(change), null);
        }
        catch (DirectoryFailure e)
        {
            return new(null, false, e.Message);
        }
    }

    /// <summary>Keeps here what the source said to a change.</summary>
    internal static async Task<DirectoryAnswer> KeepAsync(WriteSession session, DirectoryChange change, Asked said)
    {
        if (said.Failure is not null)
        {
            return new(false, said.Failure);
        }

        // Who answers for what is kept here, where the source has no word for it.
        if (said.Shows || (said.TakesNone is not null && change.Verb == DirectoryVerb.SetOwner))
        {
            await DirectoryRows.ApplyAsync(session.Db, change, session.Now);
            await session.Db.SaveChangesAsync();
            return new(true, null);
        }

        if (said.TakesNone is null)
        {
            return new(false, null);
        }

        // The sources that only report are changed where they are kept; what they send next shows whether they were.
        return await ShowsAsync(session.Db, change)
            ? new(true, null)
            : new(
                false,
                $"“{said.TakesNone}” takes no changes from here: make the change there. It shows as soon as it is sent or taken in."
            );
    }

    /// <summary>The source that holds what a change is of: its group, place or application, or else its person.</summary>
    private static async Task<DirectorySource?> SourceOfAsync(WideKeelDb db, DirectoryChange change)
    {
        var sources = change.What is { } what
            ? db
                .DirectoryGroups.Where(g => g.Key == what)
                .Select(g => g.SourceId)
                .Concat(db.DirectoryPlaces.Where(p => p.Key == what).Select(p => p.SourceId))
                .Concat(db.DirectoryApplications.Where(a => a.Key == what).Select(a => a.SourceId))
            : db.DirectoryPeople.Where(p => p.Mail == change.Who).Select(p => p.SourceId);
        var id = await sources.FirstOrDefaultAsync();
        return await db.DirectorySources.FindAsync(id);
    }

    private static async Task<bool> ShowsAsync(WideKeelDb db, DirectoryChange change) =>
        change.Verb != DirectoryVerb.SignOut && change.IsShownBy(await DirectoryRows.StateAsync(db));

    /// <summary>
    /// Reads the directory outside where it changed since it was read last, and keeps what it says.
    /// </summary>
    /// <returns>How many things are different.</returns>
    /// <exception cref="DirectoryFailure">It cannot be read, or names what another source says already.</exception>
    public async Task<int> PullAsync(Writer writer, CancellationToken cancel = default)
    {
        var state = Outside.ChangedAt.Ticks;
        await using (var db = await databases.CreateDbContextAsync(cancel))
        {
            if (
                !Outside.Exists
                || !await db.Organisations.AnyAsync(cancel)
                || await db.DirectorySources.AnyAsync(
                    s => s.Kind == DirectorySourceKind.StandIn && s.ReadState == state,
                    cancel
                )
            )
            {
                return 0;
            }
        }

        var outside = Outside.Read();
        var outcome = await writer.RunAsync<int>(
            LedgerActor.Job("directory", null),
            session => Entrances.WatchedAsync(session, () => TakeAsync(session, outside, state, cancel), cancel),
            cancel
        );
        return outcome.Refused ? throw new DirectoryFailure(outcome.Refusal!.Sentence) : outcome.Value;
    }

    private static async Task<Core.Outcome<int>> TakeAsync(
        WriteSession session,
        DirectoryState outside,
        long state,
        CancellationToken cancel
    )
    {
        var source = await session.Db.DirectorySources.SingleOrDefaultAsync(
            s => s.Kind == DirectorySourceKind.StandIn,
            cancel
        );
        if (source is null)
        {
            source = new()
            {
                Kind = DirectorySourceKind.StandIn,
                Name = "Simulated directory",
                MadeAt = session.Now,
            };
            session.Db.DirectorySources.Add(source);
            await session.Db.SaveChangesAsync(cancel);
        }

        var before = await DirectoryRows.StateAsync(session.Db, source.Id, cancel);
        if (await DirectoryImports.CheckAsync(session.Db, source, before, outside, cancel) is { } refusal)
        {
            return refusal;
        }

        (source.ReadState, source.LastAt) = (state, session.Now);
        var differences = await DirectoryImports.KeepAsync(session, source, outside, cancel);
        return differences.Count;
    }
}
