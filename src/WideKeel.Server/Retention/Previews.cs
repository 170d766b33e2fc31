using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core.Content;
using WideKeel.Core.Retention;
using WideKeel.Store;
using WideKeel.Store.Content;

namespace WideKeel.Server.Retention;

/// <param name="Fingerprint">Of the figures; sent back with the act, which is refused when they have changed since.</param>
/// <param name="Untouchable">Items in the selection that the change leaves alone: on the docket or destroyed.</param>
public sealed record ConsequencesView(ConsequenceFigures Figures, IReadOnlyList<ContainerName> Containers, string Fingerprint, long Untouchable);

public sealed record ContainerName(long Id, string Name);

/// <summary>What a change would do, exactly: one pass over every item in reach, before and after, with the functions that will do it.</summary>
public static class Previews
{
    private const string Touchable = "i.BatchId IS NULL";

    /// <summary>A draft of a series against what is in force, for the items filed under it.</summary>
    public static IEnumerable<(FactsRow Row, Standing Before, Standing After)> OfDraft(SqliteConnection connection, Evaluator evaluator, long seriesId, Rule? before, Rule after)
    {
        var rows = ItemScan.Facts(connection, $"i.SeriesId = $seriesId AND {Touchable}", c => c.Parameters.AddWithValue("$seriesId", seriesId), before?.DateFieldName, after.DateFieldName);
        foreach (var row in rows)
        {
            yield return (row, evaluator.Evaluate(before, row.Before), evaluator.Evaluate(after, row.After));
        }
    }

    /// <summary>Filing a selection under a series (or under none), whatever the items are filed under now.</summary>
    public static IEnumerable<(FactsRow Row, Standing Before, Standing After)> OfFiling(SqliteConnection connection, Evaluator evaluator, ItemFilter selection, int today, Rule? after, Func<long, Rule?> ruleOf)
    {
        foreach (var current in CurrentSeries(connection, selection, today))
        {
            var before = current is { } id ? ruleOf(id) : null;
            var rows = ItemScan.Facts(connection, $"{Touchable} AND i.SeriesId IS $current AND {selection.Where()}", command =>
            {
                selection.Bind(command, today);
                command.Parameters.AddWithValue("$current", (object?)current ?? DBNull.Value);
            }, before?.DateFieldName, after?.DateFieldName);
            foreach (var row in rows)
            {
                yield return (row, evaluator.Evaluate(before, row.Before), evaluator.Evaluate(after, row.After));
            }
        }
    }

    public static async Task<ConsequencesView> SummariseAsync(WideKeelDb db, Evaluator evaluator, IEnumerable<(FactsRow Row, Standing Before, Standing After)> pass, long untouchable)
    {
        var consequences = new Consequences(evaluator.Today);
        foreach (var (row, before, after) in pass)
        {
            consequences.Add(row.ContainerId, row.Bytes, before, after);
        }

        var figures = consequences.Figures();
        var ids = figures.ByContainer.Select(c => c.ContainerId).ToList();
        var names = await db.Containers.AsNoTracking().Where(c => ids.Contains(c.Id)).Select(c => new ContainerName(c.Id, c.Name)).ToListAsync();
        var fingerprint = Convert.ToHexStringLower(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(figures, Json.Options)))[..16];
        return new(figures, names, fingerprint, untouchable);
    }

    public static long CountUntouchable(SqliteConnection connection, string where, Action<SqliteCommand> bind)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT COUNT(*) FROM item i WHERE (i.BatchId IS NOT NULL OR i.DestroyedAt IS NOT NULL) AND {where}";
        bind(command);
        return Convert.ToInt64(command.ExecuteScalar(), CultureInfo.InvariantCulture);
    }

    /// <summary>The ids of one group, for the list that a figure opens into.</summary>
    public static IReadOnlyList<long> Members(Evaluator evaluator, IEnumerable<(FactsRow Row, Standing Before, Standing After)> pass, Effects group, long afterId, int limit) =>
        [.. pass
            .Where(p => p.Row.Id > afterId)
            .Where(p => Consequences.EffectsOf(p.Before, p.After, evaluator.Today) is var effects && (group == Effects.None ? effects == Effects.None : effects.HasFlag(group)))
            .Select(p => p.Row.Id).Order().Take(limit)];

    private static List<long?> CurrentSeries(SqliteConnection connection, ItemFilter selection, int today)
    {
        using var command = connection.CreateCommand();
        command.CommandText = $"SELECT DISTINCT i.SeriesId FROM item i WHERE {selection.Where()}";
        selection.Bind(command, today);
        using var reader = command.ExecuteReader();
        List<long?> found = [];
        while (reader.Read())
        {
            found.Add(reader.IsDBNull(0) ? null : reader.GetInt64(0));
        }

        return found;
    }
}
