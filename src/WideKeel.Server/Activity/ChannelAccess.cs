using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.People;
using WideKeel.Core.Query;
using WideKeel.Store;
using WideKeel.Store.Activity;

namespace WideKeel.Server.Activity;

/// <summary>
/// What the caller may read of activity: the channels, and of their events those of the units of the remit. The one
/// place that decides it, for search, boards, SQL, proofs and exports alike.
/// </summary>
public sealed record ChannelAccess(IReadOnlyList<Channel> Channels, IReadOnlyCollection<long>? Units)
{
    public static async Task<ChannelAccess> OfAsync(Caller caller, WideKeelDb db, CancellationToken cancel)
    {
        if (!caller.May(Right.ReadActivity))
        {
            return new([], []);
        }

        var channels = await db
            .Channels.AsNoTracking()
            .Where(c =>
                c.OpenToAnalysts || db.ChannelReaders.Any(r => r.ChannelId == c.Id && r.PersonId == caller.PersonId)
            )
            .OrderBy(c => c.Name)
            .ToListAsync(cancel);
        return new(channels, caller.Units(Right.ReadActivity));
    }

    /// <summary>
    /// As a condition of SQL over <c>e</c>; what it names is bound by <see cref="Bind"/>. The sign keeps SQLite from
    /// leading with the channel, which most events share, and so from sorting all of them.
    /// </summary>
    public string Where => WhereOf("+e");

    /// <summary>The same over the counts of events.</summary>
    /// <param name="table">Its name in the statement.</param>
    public string WhereOf(string table) =>
        $"{table}.ChannelId IN (SELECT value FROM json_each($channels))"
        + (Units is null ? "" : $" AND {table}.UnitId IN (SELECT value FROM json_each($units))");

    public void Bind(SqliteCommand command)
    {
        command.Parameters.AddWithValue(
            "$channels",
            System.Text.Json.JsonSerializer.Serialize(Channels.Select(c => c.Id))
        );
        if (Units is not null)
        {
            command.Parameters.AddWithValue("$units", System.Text.Json.JsonSerializer.Serialize(Units));
        }
    }

    /// <summary>
    /// The alerts that rest on what the caller may read. What no event stands behind, such as a channel that never spoke,
    /// is for readers of the whole organisation.
    /// </summary>
    public IQueryable<AlertRow> Of(IQueryable<AlertRow> alerts)
    {
        var channels = Channels.Select(c => (long?)c.Id).ToList();
        if (Units is null)
        {
            return alerts.Where(a => a.ChannelId == null || channels.Contains(a.ChannelId));
        }

        var units = Units.Select(u => (long?)u).ToList();
        return alerts.Where(a => channels.Contains(a.ChannelId) && units.Contains(a.UnitId));
    }

    /// <summary>Whether the caller may read one event.</summary>
    public bool Covers(StoredEvent e) =>
        Channels.Any(c => c.Id == e.ChannelId) && (Units is null || Units.Contains(e.UnitId));
}

/// <summary>What events a question is about: who asks, what is asked, and in which span.</summary>
public sealed class EventQuestion
{
    private readonly ChannelAccess access;
    private readonly EventSql sql;

    private EventQuestion(SqliteConnection connection, ChannelAccess access, EventSql sql, EventSpan? span) =>
        (Connection, this.access, this.sql, Span) = (connection, access, sql, span);

    public SqliteConnection Connection { get; }

    public ChannelAccess Access => access;

    /// <summary>The span, where nothing else is asked: kept counts answer it. Null for every other question.</summary>
    public EventSpan? Span { get; }

    /// <summary>The whole condition over <c>e</c>.</summary>
    public string Where => $"{access.Where} AND {sql.Where}";

    /// <param name="query">CQL; everything where it is empty.</param>
    /// <param name="from">The first moment that counts; open where it is null.</param>
    /// <param name="before">The first moment that counts no more.</param>
    public static Task<Outcome<EventQuestion>> ReadAsync(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        ApiContext context
    ) => ReadAsync(query, from, before, StatementGround.Of(context));

    /// <summary>The same for somebody who does not ask at this moment: what they may read is theirs.</summary>
    public static async Task<Outcome<EventQuestion>> ReadAsync(
        string? query,
        DateTimeOffset? from,
        DateTimeOffset? before,
        StatementGround ground
    )
    {
        Condition condition = new Condition.Everything();
        if (!string.IsNullOrWhiteSpace(query))
        {
            var compiled = QueryCompiler.Compile(
                PlainWords.ToQuery(query),
                ground.Calendar.Today,
                EventColumn.Vocabulary
            );
            if (compiled.Refusal is { } refusal)
            {
                return refusal;
            }

            condition = compiled.Value.Condition;
        }

        if (from is not null || before is not null)
        {
            condition = new Condition.All([
                new Condition.InstantIn(
                    EventColumn.Time.Index,
                    from is { } first ? Instant.FromDateTimeOffset(first) : null,
                    before is { } end ? Instant.FromDateTimeOffset(end) : null
                ),
                condition,
            ]);
        }

        var access = await ChannelAccess.OfAsync(ground.Caller, ground.Db, ground.Cancel);
        await ground.Db.Database.OpenConnectionAsync(ground.Cancel);
        return Of((SqliteConnection)ground.Db.Database.GetDbConnection(), access, condition);
    }

    /// <param name="connection">Open.</param>
    public static Outcome<EventQuestion> Of(SqliteConnection connection, ChannelAccess access, Condition condition)
    {
        var sql = EventSql.Translate(connection, condition);
        return sql.Refusal is { } untranslated
            ? untranslated
            : new EventQuestion(connection, access, sql.Value, EventSpan.Of(condition));
    }

    public void Bind(SqliteCommand command)
    {
        access.Bind(command);
        sql.Bind(command);
    }

    /// <summary>Rows of a statement over the events that are asked for.</summary>
    /// <param name="select">What is selected, up to FROM.</param>
    /// <param name="rest">What follows the condition.</param>
    /// <param name="joined">What is joined to the events.</param>
    public List<T> Rows<T>(string select, string rest, Func<SqliteDataReader, T> read, string joined = "")
    {
        using var command = Connection.CreateCommand();
        command.CommandText = $"{select} FROM activity_event e {joined} WHERE {Where} {rest}";
        Bind(command);
        return Rows(command, read);
    }

    /// <summary>Rows of a statement whose parameters are bound.</summary>
    internal static List<T> Rows<T>(SqliteCommand command, Func<SqliteDataReader, T> read)
    {
        using var reader = command.ExecuteReader();
        List<T> rows = [];
        while (reader.Read())
        {
            rows.Add(read(reader));
        }

        return rows;
    }
}
