using System.Globalization;
using System.Text.Json.Nodes;
using Microsoft.EntityFrameworkCore;
using WideKeel.Core;
using WideKeel.Core.Ledger;
using WideKeel.Core.People;
using WideKeel.Store;
using WideKeel.Store.People;

namespace WideKeel.Server.People;

/// <summary>Something of the product that hangs on a person or group that an import changes.</summary>
/// <param name="Id">The person or group.</param>
/// <param name="What">A sentence: what hangs on it.</param>
/// <param name="Link">Path of the screen that shows it.</param>
public sealed record DirectoryTouch(string Id, string What, string Link);

/// <summary>A part that keeps something about the people and groups of the directory, and says so before they change.</summary>
public interface IDirectoryTouches : IContribution
{
    /// <param name="ids">Mail addresses of people, keys of groups and places.</param>
    /// <param name="caller">Nobody learns of a matter that they are not in.</param>
    Task<IReadOnlyList<DirectoryTouch>> OfAsync(
        IReadOnlySet<string> ids,
        Caller caller,
        WideKeelDb db,
        CancellationToken cancel
    );
}

/// <summary>Takes what a source says into the directory.</summary>
internal static class DirectoryImports
{
    /// <summary>Why a state cannot be taken in from a source, or null.</summary>
    public static async Task<Refusal?> CheckAsync(
        WideKeelDb db,
        DirectorySource? source,
        DirectoryState before,
        DirectoryState after,
        CancellationToken cancel
    )
    {
        if (await TakenAsync(db, source, after, cancel) is { } taken)
        {
            return taken;
        }

        var whole = await DirectoryRows.StateAsync(db, cancel: cancel);
        return DirectorySoundness.Fault(whole.With(before, after), after) is { } fault
            ? new("directory-unsound", null, $"{fault} Nothing was taken in.")
            : null;
    }

    /// <summary>What another source says already.</summary>
    private static async Task<Refusal?> TakenAsync(
        WideKeelDb db,
        DirectorySource? source,
        DirectoryState after,
        CancellationToken cancel
    )
    {
        var others = await db
            .DirectorySources.AsNoTracking()
            .Where(s => s.EndedAt == null && (source == null || s.Id != source.Id))
            .ToDictionaryAsync(s => s.Id, s => s.Name, cancel);
        var ids = others.Keys.ToList();
        var people = await db
            .DirectoryPeople.Where(p => ids.Contains(p.SourceId))
            .ToDictionaryAsync(p => p.Mail, p => p.SourceId, StringComparer.OrdinalIgnoreCase, cancel);
        var groups = await db
            .DirectoryGroups.Where(g => ids.Contains(g.SourceId) && g.RemovedAt == null)
            .ToDictionaryAsync(g => g.Key, g => g.SourceId, cancel);
        var places = await db
            .DirectoryPlaces.Where(p => ids.Contains(p.SourceId))
            .ToDictionaryAsync(p => p.Key, p => p.SourceId, cancel);
        var applications = await db
            .DirectoryApplications.Where(a => ids.Contains(a.SourceId))
            .ToDictionaryAsync(a => a.Key, a => a.SourceId, cancel);
        var grants = (
            await db.DirectoryGrants.AsNoTracking().Where(g => ids.Contains(g.SourceId)).ToListAsync(cancel)
        ).ToDictionary(g => DirectoryDifferences.IdOf(new(g.To, g.Place, g.Role)), g => g.SourceId);
        return First(people, after.People.Select(p => p.Id))
            ?? First(groups, after.Groups.Select(g => g.Id))
            ?? First(places, after.Resources.Select(r => r.Id))
            ?? First(grants, after.Grants.Select(DirectoryDifferences.IdOf))
            ?? First(applications, after.Applications.Select(a => a.Id));

        Refusal? First(Dictionary<string, long> held, IEnumerable<string> named) =>
            named.FirstOrDefault(held.ContainsKey) is { } taken
                ? Refusal.Conflict(
                    "other-source",
                    null,
                    $"“{taken}” comes from “{others[held[taken]]}”. One source says what there is to say of each; "
                        + "disconnect that one first, or leave the line out. Nothing was taken in."
                )
                : null;
    }

    /// <summary>Keeps what a source holds now, and writes the difference to the ledger.</summary>
    public static async Task<IReadOnlyList<DirectoryDifference>> KeepAsync(
        WriteSession session,
        DirectorySource source,
        DirectoryState after,
        CancellationToken cancel
    )
    {
        var before = await DirectoryRows.StateAsync(session.Db, source.Id, cancel);
        var today = session.Services.GetRequiredService<OrganisationCalendar>().Today;
        var differences = DirectoryDifferences.Between(before, after, today);
        if (differences.Count == 0)
        {
            return differences;
        }

        await DirectoryRows.KeepAsync(session.Db, source.Id, before, after, differences, session.Now, cancel);
        session.Record(
            "directory-imported",
            new LedgerSubject("directory", source.Id.ToString(CultureInfo.InvariantCulture)),
            after: InWords(source.Name, differences)
        );
        return differences;
    }

    /// <summary>How many appear, change and disappear, and the first of them by name.</summary>
    private static JsonObject InWords(string source, IReadOnlyList<DirectoryDifference> differences)
    {
        const int most = 100;
        var counts = new JsonObject
        {
            ["source"] = source,
            ["appear"] = differences.Count(d => d.How == DifferenceKind.Appears),
            ["change"] = differences.Count(d => d.How == DifferenceKind.Changes),
            ["disappear"] = differences.Count(d => d.How == DifferenceKind.Disappears),
        };
        counts["named"] = new JsonArray([.. differences.Take(most).Select(d => (JsonNode?)d.Id)]);
        return counts;
    }
}
