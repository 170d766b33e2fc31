using System.Globalization;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using WideKeel.Core.Content;

namespace WideKeel.Store.Content;

/// <summary>
/// Which items are meant: by a list, a count, a facet or a mass act. One text of SQL for all of them, so that what a person sees counted is
/// what an act reaches.
/// </summary>
/// <param name="Units">Ids of the units that the caller may see; null when all of them. Never left out by accident: it has no default.</param>
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

    /// <summary>An SQL expression over <c>i</c> that gives the name of an <see cref="ItemState"/>; <c>$today</c> is bound by <see cref="Bind"/>.</summary>
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

    /// <summary>An SQL expression for the name of a <see cref="Grade"/>, as <see cref="Core.Retention.Standing.GradeOn"/> decides it.</summary>
    public static string GradeSql { get; } =
        $"""
            CASE WHEN i.DestroyedAt IS NOT NULL THEN 'None'
                 WHEN i.OwnGradeUntil >= $today THEN CASE i.OwnGrade WHEN 1 THEN 'Kept' WHEN 2 THEN 'Declared' ELSE 'Worm' END
                 WHEN i.KeepUntil >= $today THEN 'Kept'
                 WHEN {Holds.HeldSql} THEN 'Kept'
                 ELSE 'None' END
            """;

    /// <summary>An SQL expression for a band of sizes: how many powers of ten from 10 kB on, from 0 (smaller) to 6 (a gigabyte and more).</summary>
    public const string SizeBandSql =
        "((i.Bytes >= 10000) + (i.Bytes >= 100000) + (i.Bytes >= 1000000) + (i.Bytes >= 10000000) + (i.Bytes >= 100000000) + (i.Bytes >= 1000000000))";

    /// <summary>An SQL expression for the calendar year of a day number.</summary>
    public const string YearSql = "CAST(strftime('%Y', i.Created * 86400, 'unixepoch') AS INTEGER)";

    /// <summary>The condition over <c>i</c> (item) alone. The state's parts are put so that the indexes serve.</summary>
    public string Where()
    {
        List<string> conditions = ["1"];
        Add(
            Units is not null,
            "i.ContainerId IN (SELECT k.Id FROM container k WHERE k.UnitId IN (SELECT value FROM json_each($units)))"
        );
        Add(Query is not null, Query?.Where ?? "");
        Add(States.Count > 0, $"({StateSql}) IN (SELECT value FROM json_each($states))");
        Add(States.Count == 1 && States.Contains(ItemState.Due), "i.DisposableFrom <= $today");
        Add(Series.Count > 0, "i.SeriesId IN (SELECT value FROM json_each($series))");
        Add(Unfiled, "i.SeriesId IS NULL");
        Add(Containers.Count > 0, "i.ContainerId IN (SELECT value FROM json_each($containers))");
        Add(
            InUnits.Count > 0,
            "i.ContainerId IN (SELECT k.Id FROM container k WHERE k.UnitId IN (SELECT value FROM json_each($inUnits)))"
        );
        Add(Types.Count > 0, "i.Type IN (SELECT value FROM json_each($types))");
        Add(Years.Count > 0, $"{YearSql} IN (SELECT value FROM json_each($years))");
        Add(
            Sources.Count > 0,
            "i.ContainerId IN (SELECT k.Id FROM container k WHERE k.SourceId IN (SELECT value FROM json_each($sources)))"
        );
        Add(Owners.Count > 0, "i.Owner IN (SELECT value FROM json_each($owners))");
        Add(
            Kinds.Count > 0,
            "EXISTS (SELECT 1 FROM item_sensitive f WHERE f.ItemId = i.Id AND f.Kind IN (SELECT value FROM json_each($kinds)))"
        );
        Add(SizeBands.Count > 0, $"{SizeBandSql} IN (SELECT value FROM json_each($sizeBands))");
        Add(Hash is not null, "i.Hash = $hash AND i.DestroyedAt IS NULL");
        Add(Subjects.Count > 0, "i.Subject IN (SELECT value FROM json_each($subjects))");
        Add(Threads.Count > 0, "i.Thread IN (SELECT value FROM json_each($threads))");
        Add(
            FilingRules.Count > 0,
            "i.FilingRuleId IN (SELECT value FROM json_each($filingRules)) AND i.DestroyedAt IS NULL"
        );
        Add(
            Suggested.Count > 0,
            "i.SeriesId IS NULL AND i.DestroyedAt IS NULL AND i.Id IN (SELECT g.ItemId FROM filing_suggestion g WHERE g.SeriesId IN (SELECT value FROM json_each($suggested)))"
        );
        Add(Ids.Count > 0, "i.Id IN (SELECT value FROM json_each($ids))");
        Add(Missing, "i.MissingSince IS NOT NULL AND i.DestroyedAt IS NULL");
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
        var parameters = command.Parameters;
        parameters.AddWithValue("$today", today);
        BindList("$units", Units);
        BindList("$states", States.Select(s => s.ToString()).ToList());
        BindList("$series", Series);
        BindList("$containers", Containers);
        BindList("$inUnits", InUnits);
        BindList("$types", Types);
        BindList("$years", Years);
        BindList("$subjects", Subjects);
        BindList("$threads", Threads);
        BindList("$filingRules", FilingRules);
        BindList("$suggested", Suggested);
        BindList("$ids", Ids);
        BindList("$sources", Sources);
        BindList("$owners", Owners);
        BindList("$kinds", Kinds);
        BindList("$sizeBands", SizeBands);
        parameters.AddWithValue("$hash", (object?)Hash ?? DBNull.Value);
        Query?.Bind(command);

        void BindList<T>(string name, IReadOnlyCollection<T>? values) =>
            parameters.AddWithValue(name, JsonSerializer.Serialize(values ?? []));
    }
}
