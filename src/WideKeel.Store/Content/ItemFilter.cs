using System.Globalization;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using WideKeel.Core.Content;

namespace WideKeel.Store.Content;

/// <summary>
/// Which items are meant: by a list, a count, a facet or a mass act. One text of SQL for all of them, so that what a
/// person sees counted is what an act reaches.
/// </summary>
/// <param name="Units">Ids of the units that the caller may see; null when all of them. Never left out by accident: it
/// has no default.</param>
public sealed record ItemFilter(IReadOnlyCollection<long>? Units)
{
    /// <summary>What is asked in the query language; null asks nothing.</summary>
    public QuerySql? Query { get; init; }

    public IReadOnlyCollection<ItemState> States { get; init; } = [];

    public IReadOnlyCollection<long> Series { get; init; } = [];

    public bool Unfiled { get; init; }

    public IReadOnlyCollection<long> Containers { get; init; } = [];

    public IReadOnlyCollection<long> InUnits { get; init; } = [];

    public IReadOnlyCollection<string> Types { get; init; } = [];

    public IReadOnlyCollection<int> Years { get; init; } = [];

    public IReadOnlyCollection<long> Sources { get; init; } = [];

    public IReadOnlyCollection<string> Owners { get; init; } = [];

    /// <summary>Names of sensitive kinds.</summary>
    public IReadOnlyCollection<string> Kinds { get; init; } = [];

    /// <summary>Numbers of <see cref="SizeBandSql"/>.</summary>
    public IReadOnlyCollection<int> SizeBands { get; init; } = [];

    /// <summary>How much of their words can be found, as <see cref="SearchableWords"/> says it.</summary>
    public IReadOnlyCollection<string> Searchables { get; init; } = [];

    /// <summary>Only copies of one content, by its SHA-256.</summary>
    public string? Hash { get; init; }

    /// <summary>What events refer to them by.</summary>
    public IReadOnlyCollection<string> Subjects { get; init; } = [];

    /// <summary>Messages of these conversations.</summary>
    public IReadOnlyCollection<string> Threads { get; init; } = [];

    public IReadOnlyCollection<long> FilingRules { get; init; } = [];

    /// <summary>Under no series, and learnt to suit one of these.</summary>
    public IReadOnlyCollection<long> Suggested { get; init; } = [];

    public IReadOnlyCollection<long> Ids { get; init; } = [];

    /// <summary>Only what was gone from its source at the last scan.</summary>
    public bool Missing { get; init; }

    /// <summary>Ids of the units of which what is gone from its source is among them too; null for all.</summary>
    public IReadOnlyCollection<long>? GoneUnits { get; init; }

    /// <summary>
    /// An SQL expression over <c>i</c> that gives the name of an <see cref="ItemState"/>; <c>$today</c> is bound by
    /// <see cref="Bind"/>.
    /// </summary>
    public static string StateSql { get; } =
        string.Create(
            CultureInfo.InvariantCulture,
            $"""
            CASE WHEN i.DestroyedAt IS NOT NULL THEN CASE i.HandedOver WHEN 1 THEN 'HandedOver' ELSE 'Destroyed' END
                 WHEN {Holds.HeldSql} THEN 'Held'
                 WHEN i.BatchId IS NOT NULL THEN 'OnDocket'
                 WHEN i.KeepUntil IS NULL AND i.DisposableFrom IS NULL THEN CASE i.AtEnd WHEN 0 THEN 'NoRule' ELSE 'AwaitingEvent' END
                 WHEN i.KeepUntil = {KeepUntil.Permanent.Code} THEN 'Permanent'
                 WHEN i.KeepUntil = {KeepUntil.AwaitingEvent.Code} THEN 'AwaitingEvent'
                 WHEN i.DisposableFrom <= $today THEN 'Due'
                 WHEN i.DisposableFrom IS NULL AND i.KeepUntil < $today THEN 'NoRule'
                 ELSE 'InTerm' END
            """
        );

    /// <summary>
    /// The condition that <see cref="StateSql"/> says due, by itself: what is due is asked for most, and an index answers
    /// this one without the items. A test holds the two together.
    /// </summary>
    public static string DueSql { get; } =
        string.Create(
            CultureInfo.InvariantCulture,
            $"i.DisposableFrom <= $today AND i.BatchId IS NULL AND i.DestroyedAt IS NULL AND (i.KeepUntil IS NULL OR i.KeepUntil "
                + $"NOT IN ({KeepUntil.Permanent.Code}, {KeepUntil.AwaitingEvent.Code})) AND NOT {Holds.HeldSql}"
        );

    /// <summary>
    /// An SQL expression for the name of a <see cref="Grade"/>, as <see cref="Core.Retention.Standing.GradeOn"/>
    /// decides it.
    /// </summary>
    public static string GradeSql { get; } =
        $"""
            CASE WHEN i.DestroyedAt IS NOT NULL THEN 'None'
                 WHEN i.OwnGradeUntil >= $today THEN CASE i.OwnGrade WHEN 1 THEN 'Kept' WHEN 2 THEN 'Declared' ELSE 'Worm' END
                 WHEN i.KeepUntil >= $today THEN 'Kept'
                 WHEN {Holds.HeldSql} THEN 'Kept'
                 ELSE 'None' END
            """;

    /// <summary>
    /// An SQL expression for a band of sizes: how many powers of ten from 10 kB on, from 0 (smaller) to 6 (a gigabyte
    /// and more).
    /// </summary>
    public const string SizeBandSql =
        "((i.Bytes >= 10000) + (i.Bytes >= 100000) + (i.Bytes >= 1000000) + (i.Bytes >= 10000000) + (i.Bytes "
        + ">= 100000000) + (i.Bytes >= 1000000000))";

    /// <summary>An SQL expression for the calendar year of a day number.</summary>
    public const string YearSql = "CAST(strftime('%Y', i.Created * 86400, 'unixepoch') AS INTEGER)";

    /// <summary>
    /// The condition over <c>i</c> (item) alone. The state's parts are put so that the indexes serve.
    /// </summary>
    public string Where()
    {
        List<string> conditions = ["1", .. Choices.Where(c => c.IsMade).Select(c => c.Condition)];
        Add(Units is not null, InContainers("UnitId", InList("$units")));
        Add(Query is not null, Query?.Where ?? "");
        Add(Is(ItemState.Due), DueSql);
        // What the row or the holds decide stands beside the whole decision, so that few are left to it.
        Add(Is(ItemState.Held), $"i.Id IN ({Holds.HeldIdsSql})");
        Add(
            Is(ItemState.NoRule),
            "i.DestroyedAt IS NULL AND i.BatchId IS NULL AND i.DisposableFrom IS NULL AND (i.KeepUntil IS NULL OR "
                + "i.KeepUntil < $today)"
        );
        Add(Unfiled, "i.SeriesId IS NULL");
        Add(Hash is not null, "i.Hash = $hash AND i.DestroyedAt IS NULL");
        Add(Missing, "i.MissingSince IS NOT NULL AND i.DestroyedAt IS NULL");
        Add(
            GoneUnits is not null,
            $"(i.MissingSince IS NULL OR i.DestroyedAt IS NOT NULL OR {InContainers("UnitId", InList("$goneUnits"))})"
        );
        return string.Join(" AND ", conditions);

        void Add(bool applies, string condition)
        {
            if (applies)
            {
                conditions.Add(condition);
            }
        }
    }

    public void Bind(SqliteCommand command, int today)
    {
        command.Parameters.AddWithValue("$today", today);
        command.Parameters.AddWithValue("$units", JsonSerializer.Serialize(Units ?? []));
        command.Parameters.AddWithValue("$goneUnits", JsonSerializer.Serialize(GoneUnits ?? []));
        command.Parameters.AddWithValue("$hash", (object?)Hash ?? DBNull.Value);
        foreach (var choice in Choices.Where(c => c.IsMade))
        {
            command.Parameters.AddWithValue(choice.Parameter, choice.Values);
        }

        Query?.Bind(command);
    }

    /// <summary>Only one state is asked for.</summary>
    private bool Is(ItemState state) => States.Count == 1 && States.Contains(state);

    /// <summary>What can be chosen by values, each described once: any of the values fits.</summary>
    private IEnumerable<Choice> Choices =>
        [
            Choice.Of(
                "$states",
                Is(ItemState.Due) ? [] : States.Select(s => s.ToString()),
                list => $"({StateSql}) IN {list}"
            ),
            Choice.Of("$series", Series, list => $"i.SeriesId IN {list}"),
            Choice.Of("$containers", Containers, list => $"i.ContainerId IN {list}"),
            Choice.Of("$inUnits", InUnits, list => InContainers("UnitId", list)),
            Choice.Of("$sources", Sources, list => InContainers("SourceId", list)),
            Choice.Of("$types", Types, list => $"i.Type IN {list}"),
            Choice.Of("$years", Years, list => $"{YearSql} IN {list}"),
            Choice.Of("$owners", Owners, list => $"i.Owner IN {list}"),
            Choice.Of("$sizeBands", SizeBands, list => $"{SizeBandSql} IN {list}"),
            Choice.Of("$searchables", Searchables, list => $"i.Searchable IN {list}"),
            Choice.Of("$subjects", Subjects, list => $"i.Subject IN {list}"),
            Choice.Of("$threads", Threads, list => $"i.Thread IN {list}"),
            Choice.Of("$filingRules", FilingRules, list => $"i.FilingRuleId IN {list} AND i.DestroyedAt IS NULL"),
            Choice.Of(
                "$kinds",
                Kinds,
                list => $"EXISTS (SELECT 1 FROM item_sensitive f WHERE f.ItemId = i.Id AND f.Kind IN {list})"
            ),
            Choice.Of(
                "$suggested",
                Suggested,
                list =>
                    $"i.SeriesId IS NULL AND i.DestroyedAt IS NULL AND i.Id IN (SELECT g.ItemId FROM "
                    + $"filing_suggestion g WHERE g.SeriesId IN {list})"
            ),
            Choice.Of("$ids", Ids, list => $"i.Id IN {list}"),
        ];

    private static string InList(string parameter) => $"(SELECT value FROM json_each({parameter}))";

    private static string InContainers(string column, string list) =>
        $"i.ContainerId IN (SELECT k.Id FROM container k WHERE k.{column} IN {list})";

    /// <param name="IsMade">At least one value is chosen.</param>
    /// <param name="Values">As a JSON list.</param>
    private readonly record struct Choice(string Parameter, bool IsMade, string Values, string Condition)
    {
        public static Choice Of<T>(string parameter, IEnumerable<T> values, Func<string, string> condition)
        {
            var all = values.ToList();
            return all.Count == 0
                ? new(parameter, false, "[]", "")
                : new(parameter, true, JsonSerializer.Serialize(all), condition(InList(parameter)));
        }
    }
}
