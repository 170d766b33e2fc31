using System.Globalization;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using WideKeel.Core;
using WideKeel.Core.Activity;
using WideKeel.Core.Query;

namespace WideKeel.Store.Activity;

/// <summary>
/// A query as one condition of SQL over <c>e</c> (activity_event), with the same meaning as <see cref="EventMatcher"/>.
/// Names are compared here, once for each distinct value, and become lists of numbers.
/// </summary>
public sealed class EventSql
{
    /// <summary>The index that holds events in the order of time.</summary>
    public const string ByTime = "IX_activity_event_Time";

    private readonly SqliteConnection connection;
    private readonly List<(string Name, object Value)> parameters = [];
    private readonly List<Condition> decided = [];

    private EventSql(SqliteConnection connection, Condition condition)
    {
        this.connection = connection;
        Where = Sql(condition);
    }

    /// <summary>The condition; its parameters and functions are bound by <see cref="Bind"/>.</summary>
    public string Where { get; }

    /// <summary>Translates; refused where the query asks for nearness, which events do not have.</summary>
    public static Outcome<EventSql> Translate(SqliteConnection connection, Condition condition) =>
        HasNear(condition)
            ? new Refusal("query-prox", "query", "Events are short: “prox” is for content, use “and” here.")
            : new EventSql(connection, condition);

    public void Bind(SqliteCommand command)
    {
        foreach (var (name, value) in parameters)
        {
            command.Parameters.AddWithValue(name, value);
        }

        if (decided.Count > 0)
        {
            command.Connection!.CreateFunction(
                "wk_event",
                (int at, string? id, string? details) =>
                    EventMatcher.Matches(
                        decided[at],
                        new()
                        {
                            Id = id ?? "",
                            Time = default,
                            Details = details,
                        }
                    )
            );
        }
    }

    private static bool HasNear(Condition condition) =>
        condition switch
        {
            Condition.Near => true,
            Condition.All all => all.Of.Any(HasNear),
            Condition.Any any => any.Of.Any(HasNear),
            Condition.Not not => HasNear(not.Of),
            _ => false,
        };

    private string Sql(Condition condition) =>
        condition switch
        {
            Condition.Everything => "1",
            Condition.All all => all.Of.Count == 0 ? "1" : $"({string.Join(" AND ", all.Of.Select(Sql))})",
            Condition.Any any => any.Of.Count == 0 ? "0" : $"({string.Join(" OR ", any.Of.Select(Sql))})",
            Condition.Not not => $"NOT COALESCE({Sql(not.Of)}, 0)",
            Condition.InstantIn range => Instants(range),
            Condition.HasWords words => Words(words),
            Condition.Has { Index: var index } has when index != QueryIndex.Field => Present(has.Index),
            Condition.Is { Index: var index } exact when IsCoded(index) => Coded(
                index,
                v => QueryValues.Fits(exact, v)
            ),
            Condition.NameIn { Index: var index } range when IsCoded(index) => Coded(
                index,
                v => QueryValues.Fits(range, v)
            ),
            Condition.AddressIn range => Coded(range.Index, v => Cidr.Holds(range.Network, v)),
            Condition.NumberIn { Index: var index } range when index == EventColumn.Amount.Index => Numbers(range),
            _ => Decided(condition),
        };

    private static bool IsCoded(QueryIndex index) =>
        index != QueryIndex.Field && index != EventColumn.Text && EventColumn.Of(index).IsCoded;

    private string Instants(Condition.InstantIn range)
    {
        List<string> parts = [];
        if (range.From is { } from)
        {
            parts.Add($"e.Time >= {Parameter(from.ToUnixTimeMilliseconds())}");
        }

        if (range.Before is { } before)
        {
            parts.Add($"e.Time < {Parameter(before.ToUnixTimeMilliseconds())}");
        }

        return parts.Count == 0 ? "1" : $"({string.Join(" AND ", parts)})";
    }

    private string Words(Condition.HasWords condition)
    {
        if (condition.Words.Count == 0)
        {
            return "0";
        }

        return condition.How == WordMatch.AllOf
            ? $"({string.Join(" AND ", condition.Words.Select(w => InAny(condition with { Words = [w] })))})"
            : InAny(condition);

        // Only columns with a value that fits are asked, so that a rare word leads with its column's index.
        string InAny(Condition.HasWords words)
        {
            var found = Values(EventColumn.OfText, v => EventMatcher.HasWords(words, [v]))
                .GroupBy(v => v.Column, v => v.Id)
                .Select(g => $"{ColumnOf(EventColumn.Find(g.Key)!)} IN (SELECT value FROM json_each({Ids(g)}))")
                .ToList();
            return found.Count == 0 ? "0" : $"({string.Join(" OR ", found)})";
        }
    }

    private static string Present(QueryIndex index) =>
        index == EventColumn.Text || index == EventColumn.Time.Index || index == EventColumn.Id.Index
            ? "1"
            : $"{ColumnOf(EventColumn.Of(index))} IS NOT NULL";

    private string Coded(QueryIndex index, Func<string, bool> fits)
    {
        var column = EventColumn.Of(index);
        return $"{ColumnOf(column)} IN (SELECT value FROM json_each({IdsOf(column, fits)}))";
    }

    private string Numbers(Condition.NumberIn range)
    {
        List<string> parts = ["e.Amount IS NOT NULL"];
        if (range.From is { } from)
        {
            parts.Add($"e.Amount {(range.FromIncluded ? ">=" : ">")} {Parameter((double)from)}");
        }

        if (range.To is { } to)
        {
            parts.Add($"e.Amount {(range.ToIncluded ? "<=" : "<")} {Parameter((double)to)}");
        }

        return $"({string.Join(" AND ", parts)})";
    }

    private string Decided(Condition condition)
    {
        decided.Add(condition);
        return string.Create(CultureInfo.InvariantCulture, $"wk_event({decided.Count - 1}, e.SourceId, e.Details)");
    }

    /// <summary>
    /// The column's name in SQL. The names of channels are coded as other values are, beside the number of the row.
    /// </summary>
    public static string ColumnOf(EventColumn column) =>
        column == EventColumn.Channel ? "e.ChannelName"
        : column == EventColumn.Id ? "e.SourceId"
        : $"e.{char.ToUpperInvariant(column.Name[0])}{column.Name[1..]}";

    /// <summary>The numbers of the distinct values that fit, as a parameter.</summary>
    private string IdsOf(EventColumn column, Func<string, bool> fits) => Ids(Values([column], fits).Select(v => v.Id));

    private string Ids(IEnumerable<long> ids) => Parameter(JsonSerializer.Serialize(ids));

    /// <summary>The distinct values of some columns that fit.</summary>
    private List<(string Column, long Id)> Values(IReadOnlyList<EventColumn> columns, Func<string, bool> fits)
    {
        using var command = connection.CreateCommand();
        command.CommandText =
            "SELECT Id, \"Column\", Value FROM activity_value WHERE \"Column\" IN (SELECT value FROM json_each($columns))";
        command.Parameters.AddWithValue("$columns", JsonSerializer.Serialize(columns.Select(c => c.Name)));
        using var reader = command.ExecuteReader();
        List<(string, long)> found = [];
        while (reader.Read())
        {
            if (fits(reader.GetString(2)))
            {
                found.Add((reader.GetString(1), reader.GetInt64(0)));
            }
        }

        return found;
    }

    private string Parameter(object value)
    {
        var name = string.Create(CultureInfo.InvariantCulture, $"$e{parameters.Count}");
        parameters.Add((name, value));
        return name;
    }
}
