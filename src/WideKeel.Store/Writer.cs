using System.Text;
using System.Text.Json.Nodes;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Store.Ledger;

namespace WideKeel.Store;

/// <summary>
/// The one way to change the database. Writes queue up one behind the other; each is a transaction that holds the
/// change and its ledger entries, so that there is no change without an entry. After the commit the new tree head is
/// signed beside the database.
/// </summary>
public sealed class Writer : IDisposable
{
    private readonly SemaphoreSlim gate = new(1, 1);
    private readonly IServiceScopeFactory scopes;
    private readonly Heads heads;
    private readonly IClock clock;
    private readonly LogCheckpoints checkpoints = new();
    private CompactRange? range;
    private byte[]? tail;
    private Instant? latest;

    /// <summary>When a change was made at an earlier time than the one before it, and that earlier one; null if never.</summary>
    public (Instant From, Instant To)? ClockWentBack { get; private set; }

    /// <summary>Since when no change is taken because the seal of the last one is missing; null while changes are taken.</summary>
    public Instant? UnsealedSince { get; private set; }

    public Writer(IServiceScopeFactory scopes, Heads heads, IClock clock) =>
        (this.scopes, this.heads, this.clock) = (scopes, heads, clock);

    /// <summary>
    /// Runs one change. A refusal rolls it back; entries marked to be kept in spite of a refusal are written all the
    /// same.
    /// </summary>
    public async Task<Outcome<T>> RunAsync<T>(
        LedgerActor actor,
        Func<WriteSession, Task<Outcome<T>>> work,
        CancellationToken cancel = default
    )
    {
        SearchDeadline.End();
        var (outcome, outside) = await ChangeAsync(actor, work, cancel);
        foreach (var carry in outside)
        {
            await carry();
        }

        return outcome;
    }

    private async Task<(Outcome<T> Outcome, IReadOnlyList<Func<Task>> Outside)> ChangeAsync<T>(
        LedgerActor actor,
        Func<WriteSession, Task<Outcome<T>>> work,
        CancellationToken cancel
    )
    {
        await gate.WaitAsync(cancel);
        try
        {
            SignMissingHead();
            List<PendingEntry> kept;
            await using (var scope = scopes.CreateAsyncScope())
            {
                var db = scope.ServiceProvider.GetRequiredService<WideKeelDb>();
                await db.Database.OpenConnectionAsync(cancel);
                await using var transaction = await db.Database.BeginTransactionAsync(cancel);
                var session = new WriteSession(db, scope.ServiceProvider, clock, actor);
                var outcome = await work(session);
                if (!outcome.Refused)
                {
                    await db.SaveChangesAsync(cancel);
                    Commit(db, transaction, session.Actor, session.Entries, session.Committed);
                    return (outcome, session.Outside);
                }

                kept = [.. session.Entries.Where(e => e.KeepWhenRefused)];
                if (kept.Count == 0)
                {
                    return (outcome, []);
                }

                await transaction.RollbackAsync(CancellationToken.None);
                await using var again = await db.Database.BeginTransactionAsync(CancellationToken.None);
                Commit(db, again, actor, kept, []);
                return (outcome, []);
            }
        }
        finally
        {
            gate.Release();
        }
    }

    /// <summary>Runs one change that cannot be refused.</summary>
    public async Task RunAsync(LedgerActor actor, Func<WriteSession, Task> work, CancellationToken cancel = default) =>
        await RunAsync<bool>(
            actor,
            async session =>
            {
                await work(session);
                return true;
            },
            cancel
        );

    public void Dispose()
    {
        checkpoints.Dispose();
        gate.Dispose();
    }

    private void Commit(
        WideKeelDb db,
        IDbContextTransaction transaction,
        LedgerActor actor,
        List<PendingEntry> pending,
        List<Action> committed
    )
    {
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        range ??= LoadRange(connection);
        var now = clock.GetCurrentInstant();
        var leaves = pending.Count > 0 ? AppendEntries(connection, range, now, actor, pending) : [];
        transaction.Commit();
        committed.ForEach(then => then());
        leaves.ForEach(range.Append);
        if (leaves.Count > 0)
        {
            tail = leaves[^1];
            AppendHead(range, now, stored: true);
        }

        checkpoints.AfterCommit(connection);
    }

    /// <summary>Appends the entries to the ledger, within the transaction.</summary>
    /// <returns>The hashes of their leaves, in their order.</returns>
    private List<byte[]> AppendEntries(
        SqliteConnection connection,
        CompactRange before,
        Instant now,
        LedgerActor actor,
        List<PendingEntry> pending
    )
    {
        CheckTail(connection);
        if (before.Size == 0)
        {
            pending = [new(LedgerBeginning.Verb, new("ledger", "1"), null, heads.Beginning, null, false), .. pending];
        }

        if (latest is { } earlier && ClockWalk.WentBack(earlier, now))
        {
            ClockWentBack = (earlier, now);
            pending =
            [
                .. pending.Take(before.Size == 0 ? 1 : 0),
                new("clock-went-back", new("ledger", "1"), Time(earlier), Time(now), null, false),
                .. pending.Skip(before.Size == 0 ? 1 : 0),
            ];
        }

        latest = now;
        List<byte[]> leaves = new(pending.Count);
        using var insert = new Statement(connection, "INSERT INTO ledger (Sequence, Body, LeafHash) VALUES (?, ?, ?)");
        foreach (var entry in pending)
        {
            var number = before.Size + leaves.Count + 1;
            var body = Encoding.UTF8.GetBytes(
                new LedgerEntry(
                    number,
                    now,
                    actor,
                    entry.Verb,
                    entry.Subject,
                    entry.Before,
                    entry.After,
                    entry.Reason
                ).ToCanonicalText()
            );
            var leaf = MerkleTree.LeafHash(body);
            insert.Bind(1, number);
            insert.BindUtf8(2, body);
            insert.Bind(3, leaf);
            insert.Run();
            leaves.Add(leaf);
        }

        return leaves;
    }

    private static System.Text.Json.Nodes.JsonObject Time(Instant at) =>
        new() { ["time"] = NodaTime.Text.InstantPattern.ExtendedIso.Format(at) };

    /// <summary>
    /// Nothing is changed while the last change lacks its head: first the head is signed, or the change is refused before
    /// it begins.
    /// </summary>
    private void SignMissingHead()
    {
        if (UnsealedSince is not null)
        {
            AppendHead(range!, clock.GetCurrentInstant(), stored: false);
        }
    }

    /// <param name="stored">The change that the head is of was committed in this call.</param>
    private void AppendHead(CompactRange of, Instant at, bool stored)
    {
        try
        {
            heads.Append(of.Size, of.Root(), at);
            UnsealedSince = null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            UnsealedSince ??= at;
            throw new OutOfServiceException(
                stored
                    ? $"Your change is stored, but its seal could not be written ({e.Message}). No further change is taken "
                        + "until it can; reading goes on."
                    : $"No change is taken: the seal of the last one cannot be written ({e.Message}). Nothing of yours was changed.",
                e
            );
        }
    }

    /// <summary>An entry that another program appended is not signed over.</summary>
    private void CheckTail(SqliteConnection connection)
    {
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT Sequence, LeafHash FROM ledger ORDER BY Sequence DESC LIMIT 1";
        using var reader = command.ExecuteReader();
        var (sequence, leaf) = reader.Read() ? (reader.GetInt64(0), reader.GetFieldValue<byte[]>(1)) : (0, null);
        if (sequence != range!.Size || !(leaf ?? []).AsSpan().SequenceEqual(tail ?? []))
        {
            throw new OutOfServiceException(
                $"The ledger ends with entry {sequence}, which this process did not write: another program works in the "
                    + "database. No change is taken, so that nothing is signed over it. Stop, and run “widekeel verify”."
            );
        }
    }

    private CompactRange LoadRange(SqliteConnection connection)
    {
        var loaded = new CompactRange();
        foreach (var leaf in LedgerReader.LeafHashes(connection))
        {
            loaded.Append(leaf);
            tail = leaf;
        }

        latest = LedgerReader.LatestTime(connection);
        return loaded;
    }

    internal sealed record PendingEntry(
        string Verb,
        LedgerSubject Subject,
        JsonNode? Before,
        JsonNode? After,
        string? Reason,
        bool KeepWhenRefused
    );
}

/// <summary>What one change works with.</summary>
public sealed class WriteSession
{
    private readonly IClock clock;

    internal WriteSession(WideKeelDb db, IServiceProvider services, IClock clock, LedgerActor actor) =>
        (Db, Services, this.clock, Actor, Custody) = (db, services, clock, actor, new());

    public WideKeelDb Db { get; }

    /// <summary>What the standings that are written here take from the custody of items, and by whom.</summary>
    public CustodyNotes Custody { get; }

    public IServiceProvider Services { get; }

    /// <summary>Who acts; set anew where that is only known inside the change: a sign-in.</summary>
    public LedgerActor Actor { get; set; }

    public Instant Now => clock.GetCurrentInstant();

    /// <summary>The connection inside the transaction, for the raw paths.</summary>
    public SqliteConnection Connection => (SqliteConnection)Db.Database.GetDbConnection();

    internal List<Writer.PendingEntry> Entries { get; } = [];

    internal List<Action> Committed { get; } = [];

    /// <summary>
    /// To be done once the change is committed, and not where it is refused or fails. It must not throw, and is brief: the
    /// next change waits for it.
    /// </summary>
    public void AfterCommit(Action then) => Committed.Add(then);

    internal List<Func<Task>> Outside { get; } = [];

    /// <summary>
    /// To be done outside (a directory, a file elsewhere) once the change is committed and the next one may begin; the
    /// caller waits for it. What is to be done must stand in the database by then, so that a stop in between loses
    /// nothing; asked twice in one change, it is done once.
    /// </summary>
    public void AfterRelease(Func<Task> carry)
    {
        if (!Outside.Contains(carry))
        {
            Outside.Add(carry);
        }
    }

    /// <summary>A command on the connection, inside the transaction.</summary>
    public SqliteCommand Command(string sql)
    {
        var command = Connection.CreateCommand();
        command.Transaction = (SqliteTransaction)Db.Database.CurrentTransaction!.GetDbTransaction();
        command.CommandText = sql;
        return command;
    }

    /// <summary>A place in the change to which it can be taken back.</summary>
    public async Task<ChangeMark> MarkAsync(CancellationToken cancel = default)
    {
        await Db.SaveChangesAsync(cancel);
        await Db.Database.CurrentTransaction!.CreateSavepointAsync(Savepoint, cancel);
        return new(Entries.Count, Committed.Count, Outside.Count);
    }

    /// <summary>
    /// Takes back all that was changed, recorded and put off since the mark. What was loaded before it is to be loaded anew.
    /// </summary>
    public async Task TakeBackAsync(ChangeMark mark, CancellationToken cancel = default)
    {
        Db.ChangeTracker.Clear();
        await Db.Database.CurrentTransaction!.RollbackToSavepointAsync(Savepoint, cancel);
        Entries.RemoveRange(mark.Entries, Entries.Count - mark.Entries);
        Committed.RemoveRange(mark.Committed, Committed.Count - mark.Committed);
        Outside.RemoveRange(mark.Outside, Outside.Count - mark.Outside);
        Custody.Forget();
    }

    private const string Savepoint = "act";

    /// <summary>Adds an entry to the ledger, in the same transaction as the change.</summary>
    public void Record(
        string verb,
        LedgerSubject subject,
        JsonNode? before = null,
        JsonNode? after = null,
        string? reason = null
    ) => Entries.Add(new(verb, subject, before, after, reason, false));

    /// <summary>Adds an entry that stands even though the act itself is refused.</summary>
    public void RecordAttempt(string verb, LedgerSubject subject, string reason) =>
        Entries.Add(new(verb, subject, null, null, reason, true));
}

/// <summary>How much a change had put off when it was marked.</summary>
public readonly record struct ChangeMark(int Entries, int Committed, int Outside);

/// <summary>Changes cannot be taken now, whoever asks; the message says what stands and what does not.</summary>
public sealed class OutOfServiceException(string message, Exception? inner = null) : Exception(message, inner);
