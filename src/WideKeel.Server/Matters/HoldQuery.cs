using System.Globalization;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.CommandLine;
using WideKeel.Core.Matters;
using WideKeel.Core.Query;
using WideKeel.Core.Time;
using WideKeel.Store;
using WideKeel.Store.Content;
using WideKeel.Store.Matters;

namespace WideKeel.Server.Matters;

/// <summary>
/// What a sweep or an order asks, as one condition of SQL over <c>i</c> (item) that is not destroyed.
/// </summary>
internal sealed class HoldQuery
{
    private readonly List<(string Name, object Value)> parameters = [];
    private readonly QuerySql? query;
    private readonly int today;

    private HoldQuery(
        HoldDefinition definition,
        IReadOnlyList<long> containers,
        bool everywhere,
        IReadOnlyList<string> names,
        QuerySql? query,
        int today
    )
    {
        (this.query, this.today) = (query, today);
        (Containers, Names) = (containers, names);
        Standing = new(
            0,
            everywhere ? null : containers.ToHashSet(),
            names.ToHashSet(),
            query?.Query.Condition,
            definition
        );
        Reach = HoldIndex.ReachSql(everywhere ? null : containers, names, definition, parameters);
        Where = $"i.DestroyedAt IS NULL AND {Reach}{(query is null ? "" : $" AND {query.Where}")}";
    }

    public string Where { get; }

    /// <summary>The same, as an item is asked that is at hand; but for a list of items.</summary>
    public StandingOrder Standing { get; }

    /// <summary>Whether an item is among those asked for by their ids; true where none are.</summary>
    public bool Lists(long item) => Standing.Definition.Items?.Contains(item) ?? true;

    /// <summary>
    /// The ids of what fits, in a range of ids from after <c>$after</c> through <c>$through</c>. A query of words alone
    /// leads with the full-text index; one that also reaches everywhere need not look at the items at all, but for the
    /// few that were destroyed.
    /// </summary>
    public string Ids =>
        query?.Match is not { } match
            ? $"SELECT i.Id AS Id FROM item i WHERE i.Id > $after AND i.Id <= $through AND "
                + $"{Where.Replace(QuerySql.Rowids, "AND rowid > $after AND rowid <= $through", StringComparison.Ordinal)}"
        : Reach == HoldIndex.Everywhere
            ? $"SELECT f.rowid AS Id FROM item_fts f WHERE f.item_fts MATCH {match} AND f.rowid > $after AND "
                + $"f.rowid <= $through AND f.rowid NOT IN (SELECT Id FROM item WHERE DestroyedAt IS NOT NULL)"
        : $"SELECT i.Id AS Id FROM item_fts f CROSS JOIN item i ON i.Id = f.rowid WHERE f.item_fts MATCH {match} "
            + $"AND f.rowid > $after AND f.rowid <= $through AND i.DestroyedAt IS NULL AND {Reach}";

    /// <summary>Without the query.</summary>
    public string Reach { get; }

    public IReadOnlyList<long> Containers { get; }

    public IReadOnlyList<string> Names { get; }

    public Condition? Condition => query?.Query.Condition;

    public QuerySql? Query => query;

    /// <param name="settled">Containers and names as an order settled them when it came into force; null looks them up
    /// now.</param>
    public static async Task<Outcome<HoldQuery>> OfAsync(
        HoldDefinition definition,
        long matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel,
        (IReadOnlyList<long>? Containers, IReadOnlyList<string> Names)? settled = null
    )
    {
        var compiled = definition.Check(calendar.Today);
        if (compiled.Refusal is { } mistake)
        {
            return mistake;
        }

        var (chosen, names) = settled ?? await HoldReach.OfAsync(definition, db, cancel);
        var reach = await HoldReach.LoadAsync(db, cancel);
        var containers = chosen ?? reach.OfUnit(matter);
        await db.Database.OpenConnectionAsync(cancel);
        QuerySql? query = null;
        if (compiled.Value is { } asked)
        {
            var translated = QuerySql.Translate((SqliteConnection)db.Database.GetDbConnection(), asked);
            if (translated.Refusal is { } wide)
            {
                return wide with { Field = "query" };
            }

            query = translated.Value;
        }

        return new HoldQuery(
            definition,
            containers,
            reach.IsEverywhere(containers),
            names,
            query,
            calendar.Today.ToDayNumber()
        );
    }

    /// <summary>All that is a custodian's.</summary>
    public static async Task<HoldQuery> OfCustodianAsync(
        long custodian,
        long matter,
        WideKeelDb db,
        OrganisationCalendar calendar,
        CancellationToken cancel
    ) =>
        (
            await OfAsync(HoldDefinition.Everything with { Custodians = [custodian] }, matter, db, calendar, cancel)
        ).Value;

    public void Bind(SqliteCommand command)
    {
        foreach (var (name, value) in parameters)
        {
            command.Parameters.AddWithValue(name, value);
        }

        if (Names.Count > 0)
        {
            HoldIndex.BindFunctions(command);
        }

        command.Parameters.AddWithValue("$today", today);
        query?.Bind(command);
    }

    /// <summary>Rows of a query over what is asked; <c>{where}</c> stands for the condition.</summary>
    public IEnumerable<SqliteDataReader> Rows(
        SqliteConnection connection,
        string sql,
        Action<SqliteCommand>? bind = null
    )
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql.Replace("{where}", Where, StringComparison.Ordinal)
            .Replace("{reach}", $"i.DestroyedAt IS NULL AND {Reach}", StringComparison.Ordinal);
        Bind(command);
        bind?.Invoke(command);
        using var reader = command.ExecuteReader();
        while (reader.Read())
        {
            yield return reader;
        }
    }

    public long Count(SqliteConnection connection, string sql, Action<SqliteCommand>? bind = null) =>
        Rows(connection, sql, bind).Select(r => r.IsDBNull(0) ? 0 : r.GetInt64(0)).Single();

    public static string Number(long number) => number.ToString("N0", CultureInfo.InvariantCulture);
}
